# SPDX-License-Identifier: GPL-3.0-or-later
"""The notice: what went wrong, where, and what to do. It floats over the page and pushes nothing,
until it is put away."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPoint, QRect, QTimer
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication, QFrame, QHBoxLayout, QPushButton, QWidget

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.announcer import announce
from hypsos.desk.widgets.page_layout import clear, label

BRIEF_MS = 6000
"""So long stands what only says what a key has done."""
WIDEST = 900


class Notice(QFrame):
    """Hidden while there is nothing to say. It may offer something to do about it.

    It lies over the top of its parent, below what ``under`` leaves free; where the pointer or the
    focus is there, it lies at the bottom."""

    def __init__(self, parent: QWidget, under: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self._under = under
        self.acts: list[QPushButton] = []
        self._brief = QTimer(self)
        self._brief.setSingleShot(True)
        self._brief.setInterval(BRIEF_MS)
        self._brief.timeout.connect(self.put_away)
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 6, 14, 6)
        self.text = label("")
        self.text.setAccessibleName("Notice")
        self.close_ = QPushButton("Put away")
        self.close_.setToolTip("Escape puts it away, too.")
        self.close_.clicked.connect(self.put_away)
        line.addWidget(self.text, 1)
        self._acts = QHBoxLayout()
        line.addLayout(self._acts)
        line.addWidget(self.close_)
        self.hide()

    def say(
        self, sentence: str, offer: str = "", action: Callable[[], object] | None = None
    ) -> None:
        """Show one sentence; with ``offer`` a button for what can be done about it."""
        self.ask(sentence, [(offer, action)] if offer and action is not None else [])

    def ask(self, sentence: str, acts: Sequence[tuple[str, Callable[[], object]]]) -> None:
        """Show one sentence, and a button for each thing that can be done about it."""
        self._brief.stop()
        clear(self._acts)
        self.acts = [self._button(words, action) for words, action in acts]
        for button in self.acts:
            self._acts.addWidget(button)
            button.show()
        self.text.setText(sentence)
        self.setAccessibleName(sentence)
        announce(sentence)
        self.show()
        self.place()
        self.raise_()

    def _button(self, words: str, action: Callable[[], object]) -> QPushButton:
        made = QPushButton(words)
        made.clicked.connect(lambda: self._do(action))
        return made

    def _do(self, action: Callable[[], object]) -> None:
        self.put_away()
        action()

    def say_briefly(self, sentence: str) -> None:
        """Say what a key has done; it goes by itself."""
        self.say(sentence)
        self._brief.start()

    def place(self) -> None:
        """Lie where it hides nothing that is at hand."""
        parent = self.parentWidget()
        if parent is None or self.isHidden():
            return
        wide = min(parent.width() - 24, look.px(WIDEST))
        tall = max(self.heightForWidth(wide), self.minimumSizeHint().height())
        across = (parent.width() - wide) // 2
        top = QRect(across, self._under.geometry().bottom() + 8, wide, tall)
        bottom = QRect(across, parent.height() - tall - look.px(54), wide, tall)
        self.setGeometry(bottom if self._is_at_hand(top) else top)

    def _is_at_hand(self, place: QRect) -> bool:
        """Whether the pointer or the field with the focus is in a place of the window."""
        parent, focused = self.parentWidget(), QApplication.focusWidget()
        if parent is None:
            return False
        if place.contains(parent.mapFromGlobal(QCursor.pos())):
            return True
        if focused is None or not parent.isAncestorOf(focused) or self.isAncestorOf(focused):
            return False
        field = QRect(focused.mapTo(parent, QPoint(0, 0)), focused.size())
        return field.height() < parent.height() // 3 and field.intersects(place)

    def put_away(self) -> None:
        """Hide it, and forget what it offered."""
        self._brief.stop()
        clear(self._acts)
        self.acts = []
        self.hide()
