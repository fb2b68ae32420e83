# SPDX-License-Identifier: GPL-3.0-or-later
"""The strip below a page: what asks for a second look, or what is only proposed. It is always
there, so nothing jumps."""

from __future__ import annotations

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hypsos.core.rundown import Attention
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import label, plain_tip

HEIGHT = 44
QUIET = "Nothing to look at in this step."


class AttentionBar(QFrame):
    """One thing to look at after the other; *Next* goes on, *Show it* leads to its place."""

    place_wanted = pyqtSignal(str)
    keep_wanted = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.found: list[Attention] = []
        self.at = 0
        self._proposed, self._quiet, self._urgent, self._said = False, QUIET, "", ""
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 3, 10, 3)
        line.setSpacing(6)
        self.words = label("")
        self.words.setAccessibleName("To look at")
        self.keep = QPushButton("Keep it so")
        self.keep.setToolTip(
            "You have looked at what the template proposes here, and it shall stay."
        )
        self.keep.clicked.connect(self.keep_wanted)
        self.show_ = QPushButton("Show it")
        self.show_.clicked.connect(self._show)
        self.next = QPushButton("Next")
        self.next.clicked.connect(self._next)
        line.addWidget(self.words, 1)
        for button in (self.keep, self.show_, self.next):
            line.addWidget(button)
        look.hold(self, height=HEIGHT)
        look.follow(self, self._fit)
        self._fit()

    def say(self, found: list[Attention], proposed: bool, quiet: str = QUIET) -> None:
        """What there is to look at now, whether the step is only proposed, and what is said
        otherwise."""
        now = self.found[self.at] if self.at < len(self.found) else None
        self.found, self._proposed, self._quiet = found, proposed, quiet
        self.at = found.index(now) if now in found else min(self.at, max(0, len(found) - 1))
        self._say()

    def warn(self, urgent: str) -> None:
        """A motor runs that nothing here stops: that is said before everything else, for as long as
        it is so."""
        if urgent != self._urgent:
            self._urgent = urgent
            self._say()

    def _say(self) -> None:
        many = len(self.found)
        if self._urgent:
            said, kind = self._urgent, "caution"
        elif self.found:
            count = f"{self.at + 1} of {many}: " if many > 1 else ""
            said, kind = count + self.found[self.at].text, "caution"
        elif self._proposed:
            said, kind = "Only proposed so far. Change what you want, or keep it.", "hint"
        else:
            said, kind = self._quiet, "band"
        # a motor that runs needs the whole width, and nothing else is to be pressed
        calm = not self._urgent
        self.show_.setVisible(calm and bool(self.found))
        self.next.setVisible(calm and many > 1)
        self.keep.setVisible(calm and self._proposed and not self.found)
        if self._said != said:
            self._said = said
            self.words.setToolTip(plain_tip("\n".join(a.text for a in self.found) or said))
            self.words.setAccessibleDescription(said)
            self._write()
        if self.objectName() != kind:
            self.setObjectName(kind)
            style = self.style()
            if style is not None:
                style.unpolish(self)
                style.polish(self)

    def _next(self) -> None:
        self.at = (self.at + 1) % max(1, len(self.found))
        self._say()

    def _show(self) -> None:
        if self.found:
            self.place_wanted.emit(self.found[self.at].path)

    def _fit(self) -> None:
        self.words.setFont(look.font(0.92))
        self._write()

    def _write(self) -> None:
        """The words as far as they fit beside the buttons; what is left out stands in the tip."""
        layout = self.layout()
        if layout is not None:
            layout.activate()
        words = self._said.split(" ")
        count = len(words)
        while count > 1 and not self._fits(
            " ".join(words[:count]) + (" …" if count < len(words) else "")
        ):
            count -= 1
        self.words.setText(" ".join(words[:count]) + (" …" if count < len(words) else ""))

    def _fits(self, text: str) -> bool:
        """Whether a text has room, wrapped."""
        room = QRect(0, 0, max(1, self.words.width()), 10_000)
        need = self.words.fontMetrics().boundingRect(room, int(Qt.TextFlag.TextWordWrap), text)
        return need.height() <= self.height() - 4 or self.words.width() < 60

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.words.setMaximumHeight(self.height() - 4)
        self._write()
