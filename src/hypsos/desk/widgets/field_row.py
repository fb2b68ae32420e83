# SPDX-License-Identifier: GPL-3.0-or-later
"""A field with its label before it and a word of explanation behind it; below it where there is
little room."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRect, QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.desk.theme.look import look

LABEL, FIELD, NARROW, GAP = 128, 128, 356, 6
"""At 100 % text: widths of the label, of the field at the least, and of a row in which the
explanation goes below; what is free between them."""


class FieldRow(QWidget):
    """Label, field, explanation, in columns that are the same in every row.

    It places them itself: a layout is asked for its height before it knows which way it goes."""

    def __init__(self, words: QWidget, field: QWidget, tip: QWidget) -> None:
        super().__init__()
        self._words, self._field, self._tip = words, field, tip
        for part in (words, field, tip):
            part.setParent(self)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        look.follow(self, self.updateGeometry)

    def _parts(self, width: int) -> tuple[QRect, QRect]:
        """Where label and field go in a row so wide: side by side, or one below the other."""
        size = self._field.sizeHint() if not self._field.isHidden() else QSize()
        label = look.px(LABEL)
        high = self._height_of(self._words, label)
        if label + GAP + size.width() > width:
            below = QRect(0, high + GAP // 2, size.width(), size.height())
            return QRect(0, 0, label, high), below
        tall = max(high, size.height())
        words = QRect(0, (tall - high) // 2, label, high)
        return words, QRect(label + GAP, (tall - size.height()) // 2, size.width(), size.height())

    @staticmethod
    def _height_of(part: QWidget, width: int) -> int:
        tall = part.heightForWidth(width) if part.hasHeightForWidth() else -1
        return tall if tall >= 0 else part.sizeHint().height()

    def _places(self, width: int) -> tuple[QRect, QRect, QRect]:
        """Where label, field and explanation go in a row so wide."""
        words, field = self._parts(width)
        under = max(words.bottom(), field.bottom()) + 1
        if width < look.px(NARROW):
            tall = self._height_of(self._tip, width)
            return words, field, QRect(0, under + GAP // 2, width, tall)
        left = look.px(LABEL) + GAP + max(look.px(FIELD), field.width()) + GAP
        wide = max(1, width - left)
        tall = self._height_of(self._tip, wide)
        return words, field, QRect(left, max(0, (under - tall) // 2), wide, tall)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return max(place.bottom() for place in self._places(width)) + 1

    def sizeHint(self) -> QSize:
        wide = look.px(NARROW)
        return QSize(wide, self.heightForWidth(wide))

    def minimumSizeHint(self) -> QSize:
        return QSize(max(look.px(LABEL), self._field.sizeHint().width()), look.px(20))

    def _place(self) -> None:
        parts = (self._words, self._field, self._tip)
        for part, place in zip(parts, self._places(self.width()), strict=True):
            part.setGeometry(place)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def event(self, event: QEvent | None) -> bool:
        """A part of it wants another size: a complaint came below the field, words are others."""
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
            self._place()
        return super().event(event)
