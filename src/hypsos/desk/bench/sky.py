"""What must be known about the picture, said in the sky above the aeroplane, one below the other; it moves nothing."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hypsos.desk.theme.look import look


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
        self._fit()

    def _fit(self) -> None:
        self.move(look.px(10), look.px(10))
        self.adjustSize()

    def say(self, kind: str, words: str) -> bool:
        """Say this, or nothing, in the place of its kind. True when it is something else than before."""
        made = self.labels[kind]
        if made.text() == words:
            return False
        made.setText(words)
        made.setAccessibleName(words)
        made.setVisible(bool(words))
        self.adjustSize()
        return True
