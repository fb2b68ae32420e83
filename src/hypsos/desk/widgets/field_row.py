# SPDX-License-Identifier: GPL-3.0-or-later
"""A field with its label before it and a word of explanation behind it; below it where there is
little room."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QSize
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget

from hypsos.desk.theme.look import look

LABEL, FIELD, NARROW, GAP = 128, 128, 356, 6
"""At 100 % text: widths of the label, of the field at the least, and of a row in which the
explanation goes below; what is free between them."""


class FieldLine(QLayout):
    """Label, field, explanation, in columns that are the same in every row."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return max(place.bottom() for place in self._places(width)) + 1

    def sizeHint(self) -> QSize:
        wide = look.px(NARROW)
        return QSize(wide, self.heightForWidth(wide))

    def minimumSize(self) -> QSize:
        field = self._items[1].sizeHint()
        return QSize(max(look.px(LABEL), field.width()), field.height())

    def setGeometry(self, area: QRect) -> None:
        super().setGeometry(area)
        for item, place in zip(self._items, self._places(area.width()), strict=True):
            item.setGeometry(place.translated(area.topLeft()))

    def _places(self, width: int) -> tuple[QRect, QRect, QRect]:
        """Where label, field and explanation go in a row so wide."""
        words, field = self._head(width)
        under = max(words.bottom(), field.bottom()) + 1
        if width < look.px(NARROW):
            tall = _height_of(self._items[2], width)
            return words, field, QRect(0, under + GAP // 2, width, tall)
        left = look.px(LABEL) + GAP + max(look.px(FIELD), field.width()) + GAP
        wide = max(1, width - left)
        tall = _height_of(self._items[2], wide)
        return words, field, QRect(left, max(0, (under - tall) // 2), wide, tall)

    def _head(self, width: int) -> tuple[QRect, QRect]:
        """Where label and field go in a row so wide: side by side, or one below the other."""
        size = QSize() if self._items[1].isEmpty() else self._items[1].sizeHint()
        label = look.px(LABEL)
        high = _height_of(self._items[0], label)
        if label + GAP + size.width() > width:
            below = QRect(0, high + GAP // 2, size.width(), size.height())
            return QRect(0, 0, label, high), below
        tall = max(high, size.height())
        words = QRect(0, (tall - high) // 2, label, high)
        return words, QRect(label + GAP, (tall - size.height()) // 2, size.width(), size.height())


def _height_of(item: QLayoutItem, width: int) -> int:
    return item.heightForWidth(width) if item.hasHeightForWidth() else item.sizeHint().height()


class FieldRow(QWidget):
    """A row of a card."""

    def __init__(self, words: QWidget, field: QWidget, tip: QWidget) -> None:
        super().__init__()
        line = FieldLine(self)
        line.setContentsMargins(0, 0, 0, 0)
        for part in (words, field, tip):
            line.addWidget(part)
        look.follow(self, line.invalidate)
