# SPDX-License-Identifier: GPL-3.0-or-later
"""Find: a step, a part, a behaviour, a condition or a field of the page, by its words."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.floating_card import FloatingCard
from hypsos.desk.widgets.page_layout import label

MOST = 60
"""So many are shown; more letters leave fewer."""


class Found(NamedTuple):
    """Something that can be gone to: its words, what it is, and how to get there."""

    words: str
    kind: str
    go: Callable[[], object]


def matching(asked: str, all_: Sequence[Found]) -> list[Found]:
    """Those in which each word that was asked for begins a word, the best first: where the asked
    words begin what it is called, then where they stand in it, then in what it is."""
    wanted = asked.casefold().split()
    ranked: list[tuple[int, int, Found]] = []
    for place, one in enumerate(all_):
        name, kind = one.words.casefold(), one.kind.casefold()
        in_name = _words(name)
        in_all = in_name + _words(kind)
        if all(any(word.startswith(w) for word in in_all) for w in wanted):
            begins = name.startswith(asked.casefold().strip())
            named = all(any(word.startswith(w) for word in in_name) for w in wanted)
            ranked.append((0 if begins else 1 if named else 2, place, one))
    return [one for _, _, one in sorted(ranked, key=lambda found: found[:2])]


def _words(text: str) -> list[str]:
    return "".join(c if c.isalnum() else " " for c in text).split()


class Finder(FloatingCard):
    """A line to write in, and below it what has these words."""

    def __init__(self, parent: QWidget, places: Callable[[], list[Found]]) -> None:
        super().__init__("Find", parent)
        self._places = places
        self._all: list[Found] = []
        self.found: list[Found] = []
        self.line = TextField("Find a step, a part, a behaviour, a condition, a field", 80)
        self.line.setPlaceholderText("a step, a part, a behaviour, a condition, a field")
        self.line.textChanged.connect(self._search)
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda _: self.take())
        self.none = label("Nothing has these words.", "faint")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.addWidget(label("Find", "title"))
        column.addWidget(self.line)
        column.addWidget(self.none)
        column.addWidget(self.list, 1)

    def open(self) -> None:
        """Show it with nothing asked yet; shown already, it begins anew."""
        self._all = self._places()
        self.line.clear()
        self._search()
        self.begin(QSize(look.px(560), look.px(470)), self.line)

    def _search(self) -> None:
        self.line.setModified(False)  # Escape puts the card away, whatever is asked
        self.found = matching(self.line.text(), self._all)[:MOST]
        self.list.clear()
        for one in self.found:
            self.list.addItem(QListWidgetItem(f"{one.words}   ·   {one.kind}"))
        self.list.setCurrentRow(0 if self.found else -1)
        self.none.setVisible(not self.found)
        first = self.found[0] if self.found else None
        said = f"{first.words}, {first.kind}" if first is not None else "nothing has these words"
        self.line.setAccessibleDescription(f"{len(self.found)} found; {said}")

    def take(self) -> None:
        """Go to the one that is marked."""
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            self._before = None  # the focus goes on to what was found
            self.hide()
            self.found[row].go()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """The line hands on what it doesn't take itself: Up and Down mark another, Enter goes
        there."""
        assert event is not None
        row, last = self.list.currentRow(), self.list.count() - 1
        if event.key() == Qt.Key.Key_Down:
            self.list.setCurrentRow(min(last, row + 1))
        elif event.key() == Qt.Key.Key_Up:
            self.list.setCurrentRow(max(0, row - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        else:
            super().keyPressEvent(event)
