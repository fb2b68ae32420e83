# SPDX-License-Identifier: GPL-3.0-or-later
"""What must be known about the picture, said in the sky above the aeroplane, one below the other;
it moves nothing."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hypsos.desk.theme.look import look

WIDEST = 0.56
"""Of the picture: a longer sentence takes more lines. The rest is for the captions at the right."""


class Sky(QWidget):
    """Short sentences at the top left of the aeroplane; what is empty takes no room."""

    def __init__(self, kinds: tuple[str, ...], parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.labels: dict[str, QLabel] = {}
        for kind in kinds:
            made = QLabel(self)
            made.setObjectName("clock" if kind == "timers" else "reason")
            made.setTextFormat(Qt.TextFormat.PlainText)
            made.hide()
            column.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
            self.labels[kind] = made
        look.follow(self, self._fit)
        parent.installEventFilter(self)
        self._fit()

    def _fit(self) -> None:
        self.move(look.px(10), look.px(10))
        for made in self.labels.values():
            self._wrap(made)
        self.adjustSize()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The picture has another width."""
        if event is not None and event.type() == QEvent.Type.Resize:
            self._fit()
        return False

    def _wrap(self, made: QLabel) -> None:
        """As many lines as its sentence needs in the width there is."""
        parent = self.parentWidget()
        most = round(parent.width() * WIDEST) if parent is not None else 0
        made.setWordWrap(False)
        made.setMinimumWidth(0)
        made.setMaximumWidth(16_777_215)
        if made.sizeHint().width() > most > look.px(120):
            made.setWordWrap(True)
            made.setFixedWidth(most)
            made.setMinimumHeight(made.heightForWidth(most))
        else:
            made.setMinimumHeight(0)

    def say(self, kind: str, words: str) -> bool:
        """Say this, or nothing, in the place of its kind. True when it is something else than
        before."""
        made = self.labels[kind]
        if made.text() == words:
            return False
        made.setText(words)
        made.setAccessibleName(words)
        made.setVisible(bool(words))
        self._wrap(made)
        self.adjustSize()
        return True
