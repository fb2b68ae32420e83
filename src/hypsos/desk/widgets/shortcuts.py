# SPDX-License-Identifier: GPL-3.0-or-later
"""The list of shortcuts, one key away, on the page and not in a dialog."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.floating_card import FloatingCard
from hypsos.desk.widgets.page_layout import label, row

KEYS = (
    ("F1", "show or hide this list"),
    ("Ctrl+F", "find a step, a part, a behaviour, a condition, a field"),
    ("Ctrl+Page Up, Ctrl+Page Down", "the step before, the step after"),
    ("Alt+1 … Alt+9, Alt+0", "the first field of a step; with Shift where digits need it"),
    ("F2", "the run-down: the steps of the work, at the left"),
    ("F3", "the sticks"),
    ("F4", "the aeroplane"),
    ("F6", "voice and tones off or on"),
    ("F8", "a wide page"),
    ("F9", "a wide bench"),
    ("F11", "the whole screen"),
    ("Keys where A D W S are on a US keyboard", "left stick; Shift clicks its trims"),
    ("arrows", "right stick; Shift clicks its trims"),
    ("Up, Down on a switch", "move it a position"),
    ("1  2  3, or B  O  P, on the aeroplane", "from behind, from over it, in profile"),
    ("E on the aeroplane", "larger movements"),
    (".  , on the aeroplane", "choose the next or last part"),
    ("Enter on a bar of Why", "go where its number is set"),
    ("Ctrl+1 … Ctrl+4", "outputs, why, hands where they are folded away, timeline"),
    ("Left, Right on the timeline", "back and forth in time; Shift a second; Space pauses"),
    ("I, O on the timeline, or [ ]", "a stretch begins here, ends here"),
    ("Tab, Enter, Escape", "go on, press, bring a text back or put a notice away"),
    ("Enter, an arrow or a letter on a choice", "open it; arrows go through it, Enter takes"),
    ("Ctrl+L", "cut the link, bring it back"),
    ("Ctrl+B", "take the battery out, put it in"),
    ("Up, Down in a number", "step it; Shift coarse, Ctrl fine"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+M", "choose another model"),
    ("Ctrl+T", "light or dark"),
    ("Ctrl+ +, Ctrl+ −", "larger or smaller text"),
    ("Ctrl+Q", "close the window; all is saved"),
)


class Shortcuts(FloatingCard):
    """The list of keys; any of F1, Escape or its button puts it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__("Keys", parent)
        inner = QWidget()
        inner.setObjectName("page")
        grid = QGridLayout(inner)
        grid.setContentsMargins(4, 0, 4, 0)
        grid.setHorizontalSpacing(26)
        grid.setVerticalSpacing(6)
        close = QPushButton("Put away")
        close.clicked.connect(self.put_away)
        self._scroll = QScrollArea()
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setWidgetResizable(True)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setWidget(inner)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 14, 14)
        column.addLayout(row(label("Keys", "title"), None, close))
        column.addWidget(self._scroll)
        for i, (keys, what) in enumerate(KEYS):
            grid.addWidget(label(keys, "section", wrap=False), i + 1, 0)
            grid.addWidget(label(what, wrap=False), i + 1, 1)

    def toggle(self) -> None:
        """Show it in the middle, or put it away."""
        if self.isVisible():
            self.put_away()
            return
        inner = self._scroll.widget()
        if inner is not None:
            inner.adjustSize()
            wanted = inner.sizeHint() + QSize(64, look.px(70))
            self.begin(wanted, self)
