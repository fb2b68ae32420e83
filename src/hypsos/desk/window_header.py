# SPDX-License-Identifier: GPL-3.0-or-later
"""The band at the top: which model, undo and redo with their names, the look, the keys."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.page_layout import label, set_tip, worded


class Header(QFrame):
    """Its things share the room there is: the names of undo and redo get what the others leave."""

    def __init__(self, passing: bool) -> None:
        super().__init__()
        self.setObjectName("band")
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 6, 12, 6)
        line.setSpacing(8)
        self.models = ChoiceBox()
        self.models.setAccessibleName("Model on the bench")
        self.models.setMinimumWidth(190)
        self.models.setToolTip("The models in the hangar. (Ctrl+M)")
        self.home = QPushButton("My hangar")
        self.home.setToolTip("Back from the demo hangar, which vanishes, to your own.")
        self.kind = label("", "faint", wrap=False)
        self.undo = QPushButton("Undo")
        self.redo = QPushButton("Redo")
        self.wide = QPushButton("Widen the bench")
        self.wide.setCheckable(True)
        self.wide.setToolTip("Let the bench fill the window. (F9)")
        self.wide_page = QPushButton("Wide page")
        self.wide_page.setCheckable(True)
        self.wide_page.setToolTip("Let the page take the room of hands and outputs. (F8)")
        self.seek = QPushButton("Find")
        self.seek.setToolTip("Find a step, a part, a behaviour, a condition, a field. (Ctrl+F)")
        self.look = QPushButton("Look")
        self.look.setToolTip("Light or dark (Ctrl+T), size of text and targets, motion, voice.")
        self.keys = QPushButton("Keys")
        self.keys.setToolTip("All shortcuts. (F1)")
        for left in (self.models, self.home, self.kind):
            line.addWidget(left)
        self.home.setVisible(passing)  # only now: without a parent it would be a window
        line.addStretch(1)
        for right in (
            self.undo,
            self.redo,
            self.seek,
            self.wide_page,
            self.wide,
            self.look,
            self.keys,
        ):
            line.addWidget(right)
        self._history: tuple[str | None, str | None] = (None, None)

    def show_history(self, undo: str | None, redo: str | None) -> None:
        """What undo would take back and redo bring back."""
        self._history = (undo, redo)
        self.fit()

    def leave_out(self, on: bool) -> None:
        """What belongs to a model on the bench is away while there is none to be seen."""
        for widget in (
            self.models,
            self.kind,
            self.undo,
            self.redo,
            self.seek,
            self.wide_page,
            self.wide,
        ):
            widget.setVisible(not on)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit()

    def fit(self) -> None:
        """Share the room there is."""
        undo, redo = self._history
        fixed = [
            w
            for w in (
                self.models,
                self.home,
                self.seek,
                self.wide_page,
                self.wide,
                self.look,
                self.keys,
            )
            if not w.isHidden()
        ]
        free = self.width() - sum(w.sizeHint().width() + 8 for w in fixed) - look.px(100)
        wide = free > look.px(420)
        self.kind.setVisible(wide and not self.models.isHidden())
        used = self.kind.sizeHint().width() + 8 if wide else 0
        room = max(look.px(46), (free - used) // (2 if redo else 1) - look.px(30))
        for button, what, keys, words in (
            (self.undo, undo, "Ctrl+Z", "Undo"), (self.redo, redo, "Ctrl+Shift+Z", "Redo"),
        ):  # fmt: skip
            button.setEnabled(what is not None)
            said = f"{words}: {what}" if what else words
            button.setText(
                worded(button.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, room))
            )
            set_tip(button, f"{said} ({keys})")
