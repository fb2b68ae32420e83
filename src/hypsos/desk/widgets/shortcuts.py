# SPDX-License-Identifier: GPL-3.0-or-later
"""The list of shortcuts, one key away, on the page and not in a dialog."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import label, row

KEYS = (
    ("F1", "show or hide this list"),
    ("Alt+1 … Alt+9, Alt+0, Alt+−", "the first field of a step"),
    ("F2", "the run-down"),
    ("F3", "the sticks"),
    ("F4", "the aeroplane"),
    ("F6", "voice and tones off or on"),
    ("F11", "widen the bench"),
    ("A D W S", "left stick; Shift clicks its trims"),
    ("arrows", "right stick; Shift clicks its trims"),
    ("Up, Down on a switch", "move it a position"),
    ("1  2  3 on the aeroplane", "behind, above, side"),
    ("E on the aeroplane", "larger movements"),
    (".  , on the aeroplane", "choose the next or last part"),
    ("Enter on a bar of Why", "go where its number is set"),
    ("Ctrl+1 … Ctrl+4", "outputs, why, hands where they are folded away, timeline"),
    (
        "Left, Right on the timeline",
        "back and forth in time; Shift a second; Space pauses; [ ] mark a stretch",
    ),
    ("Tab, Enter, Escape", "go on, press, bring a text back or put a notice away"),
    ("Ctrl+L", "cut the link, bring it back"),
    ("Up, Down in a number", "step it; Shift coarse, Ctrl fine"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+M", "choose another model"),
    ("Ctrl+T", "light or dark"),
    ("Ctrl+ +, Ctrl+ −", "larger or smaller text"),
)


class Shortcuts(QFrame):
    """A card over the window; any of F1, Escape or its button puts it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Keys")
        inner = QWidget()
        inner.setObjectName("page")
        grid = QGridLayout(inner)
        grid.setContentsMargins(4, 0, 4, 0)
        grid.setHorizontalSpacing(26)
        grid.setVerticalSpacing(6)
        close = QPushButton("Put away")
        close.clicked.connect(self.hide)
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
        self.hide()

    def toggle(self) -> None:
        """Show it in the middle, or put it away."""
        if self.isVisible():
            self.hide()
            return
        inner, parent = self._scroll.widget(), self.parentWidget()
        if parent is not None and inner is not None:
            inner.adjustSize()
            wide, tall = inner.sizeHint().width() + 64, inner.sizeHint().height() + look.px(70)
            self.resize(min(wide, parent.width() - 16), min(tall, parent.height() - 16))
            self.move(
                (parent.width() - self.width()) // 2, max(8, (parent.height() - self.height()) // 2)
            )
        self.show()
        self.raise_()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
