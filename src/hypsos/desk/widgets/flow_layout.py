# SPDX-License-Identifier: GPL-3.0-or-later
"""Things that flow like words: side by side, and on the next line where there is no more room."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import label


class Flow(QLayout):
    """Things side by side, and on the next line, set in by ``hang``, where there is no more
    room."""

    def __init__(self, gap: int = 6, left: int = 0, hang: int = 0) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._high: dict[int, int] = {}
        """Width -> height, as long as nothing in it changes."""
        self._gap, self._left, self._hang = gap, left, hang

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)
            self._high.clear()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        self._high.clear()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def invalidate(self) -> None:
        self._high.clear()
        super().invalidate()

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._high:
            self._high[width] = self._lay(QRect(0, 0, width, 0), False)
        return self._high[width]

    def setGeometry(self, area: QRect) -> None:
        super().setGeometry(area)
        self._lay(area, True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        out = QSize()
        for item in self._items:
            out = out.expandedTo(item.minimumSize())
        return out

    def _lay(self, area: QRect, place: bool) -> int:
        left = area.left() + self._left
        x, y, tall = left, area.top(), 0
        row: list[tuple[QLayoutItem, int]] = []
        for item in [*self._items, None]:
            size = item.sizeHint() if item is not None else QSize()
            if item is None or (row and x + size.width() > area.right() + 1):
                for mine, at in row:
                    if place:
                        own = mine.sizeHint()
                        mine.setGeometry(QRect(QPoint(at, y + (tall - own.height()) // 2), own))
                if item is None:
                    break
                x, y, tall, row = left + self._hang, y + tall + self._gap // 2, 0, []
            size.setWidth(min(size.width(), max(1, area.right() + 1 - x)))
            row.append((item, x))
            x, tall = x + size.width() + self._gap, max(tall, size.height())
        return y + tall - area.top()


def flowing(*widgets: QWidget | str, gap: int = 6) -> QWidget:
    """A box in which these things flow; a text is a label."""
    box = QWidget()
    flow = Flow(look.px(gap))
    box.setLayout(flow)
    for widget in widgets:
        flow.addWidget(label(widget, wrap=False) if isinstance(widget, str) else widget)
    return box
