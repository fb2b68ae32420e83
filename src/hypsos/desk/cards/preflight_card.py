# SPDX-License-Identifier: GPL-3.0-or-later
"""The lists to go through before the first flight and before each flight, ticked on the field."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFrame, QVBoxLayout, QWidget

from hypsos.core.document.document import Model
from hypsos.core.sheet.preflight_lists import (
    EACH_TITLE,
    FIRST_TITLE,
    RULES,
    Item,
    before_each,
    before_first,
)
from hypsos.desk.widgets.page_layout import card, clear, label, worded


class BeforeCard(QWidget):
    """Ticks for what is looked at before a flight. They are kept for nobody: the next flight begins
    without one."""

    def __init__(self) -> None:
        super().__init__()
        self.ticks: dict[str, QCheckBox] = {}
        self._items: tuple[Item, ...] = ()
        self._name = ""
        self._title = label("", "section")
        self._rows = QVBoxLayout()
        self._rows.setSpacing(3)
        self._left = label("", "faint")
        frame: QFrame = card(self._title, self._rows, self._left, label(RULES, "faint"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(frame)

    def show_model(self, model: Model, flown: bool) -> None:
        """The list for a model: the longer one until it has flown."""
        items = (*(() if flown else before_first(model)), *before_each(model))
        if (items, model.name) == (self._items, self._name):
            return
        self._items, self._name = items, model.name
        self._title.setText(EACH_TITLE if flown else FIRST_TITLE)
        clear(self._rows)
        self.ticks.clear()
        for item in items:
            tick = self.ticks[item.what] = QCheckBox(worded(item.what))
            tick.setAccessibleName(f"{item.what}: {item.how}")
            tick.clicked.connect(self._count)
            self._rows.addWidget(tick)
            self._rows.addWidget(label(item.how, "faint"))
        self._count()

    def clear_ticks(self) -> None:
        """Nothing has been looked at for the next flight."""
        for tick in self.ticks.values():
            tick.setChecked(False)
        self._count()

    def _count(self) -> None:
        left = sum(not tick.isChecked() for tick in self.ticks.values())
        self._left.setText(f"{left} left" if left else "All of it has been looked at.")
