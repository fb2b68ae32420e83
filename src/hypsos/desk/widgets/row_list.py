# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows that come and go in place: what did not change is not made anew, and keeps what is open in
it and its focus."""

from __future__ import annotations

import re
from collections.abc import Callable, Hashable, Sequence

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from hypsos.desk.widgets.page_layout import let_go


class RowList(QVBoxLayout):
    """A column of rows, each known by a key. A row whose key is still wanted stays as it is."""

    def __init__(self, spacing: int = 8) -> None:
        super().__init__()
        self.setSpacing(spacing)
        self.rows: dict[Hashable, QWidget] = {}
        self._called: dict[Hashable, str] = {}

    def show_rows(
        self, wanted: Sequence[tuple[Hashable, Callable[[], QWidget]]], called: Sequence[str] = ()
    ) -> list[QWidget]:
        """Show rows in this order: ``wanted`` has for each its key and what makes it. ``called``
        are the names that the pilot has given them, where he has: a screen reader hears a row's
        parts by it. The rows, in order."""
        keys = [key for key, _ in wanted]
        for gone in [key for key in self.rows if key not in keys]:
            row = self.rows.pop(gone)
            self._called.pop(gone, None)
            self.removeWidget(row)
            let_go(row)
        for place, (key, make) in enumerate(wanted):
            if key not in self.rows:
                made = self.rows[key] = make()
                self.insertWidget(place, made)
                if made.parentWidget() is not None:  # alone it would be a window
                    made.show()  # at once, so that the page can be laid out before it is painted
            elif self.indexOf(self.rows[key]) != place:
                self.removeWidget(self.rows[key])
                self.insertWidget(place, self.rows[key])
        for key, name in zip(keys, called, strict=False):
            before = self._called.get(key, name)
            if before != name:
                _call_anew(self.rows[key], before, name)
            self._called[key] = name
        return [self.rows[key] for key in keys]


def _call_anew(row: QWidget, before: str, name: str) -> None:
    """The parts of a row are heard by its new name."""
    whole_name = re.compile(rf"(?<!\w){re.escape(before)}(?!\w)")
    for part in row.findChildren(QWidget):
        heard = part.accessibleName()
        renamed = whole_name.sub(lambda _: name, heard) if before else heard
        if renamed != heard:
            part.setAccessibleName(renamed)


class Serials:
    """Numbers for the items of a list that have no names of their own. An item keeps its number
    while others come and go beside it.

    Where the list has grown or shrunk, the items that are the same at its beginning and at its end
    are known; those between them are new ones. Where it is as long as before, each item is taken
    for the one that stood in its place: a figure of it was changed."""

    def __init__(self) -> None:
        self._items: list[Hashable] = []
        self._numbers: list[int] = []
        self._next = 0

    def of(self, items: Sequence[Hashable]) -> list[int]:
        """The number of each item as the list is now."""
        old, new = self._items, list(items)
        if len(old) != len(new):
            shorter = min(len(old), len(new))
            head = 0
            while head < shorter and old[head] == new[head]:
                head += 1
            tail = 0
            while tail < shorter - head and old[-1 - tail] == new[-1 - tail]:
                tail += 1
            fresh = [self._take() for _ in range(len(new) - head - tail)]
            behind = self._numbers[len(old) - tail :]
            self._numbers = [*self._numbers[:head], *fresh, *behind]
        self._items = new
        return list(self._numbers)

    def _take(self) -> int:
        self._next += 1
        return self._next
