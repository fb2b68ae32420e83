# SPDX-License-Identifier: GPL-3.0-or-later
"""The field card on paper: front and back side by side, to be folded, twice on a page of A4 with
marks where to cut; and as a picture for a telephone. Black and white."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QImage, QPagedPaintDevice, QPainter, QPen

from hypsos.core.sheet.field_card import CardControl, CardStick, FieldCard
from hypsos.desk.services.sheet_paper import (
    INK,
    LINE,
    PER_POINT,
    POINTS_PER_INCH,
    SOFT,
    SheetPages,
    tall_of,
    type_of,
)

A6 = QSizeF(297.64, 419.53)
"""In points."""
SCALES = (0.8, 0.74, 0.68, 0.62, 0.56)
"""How small the back may be set; the largest with which all of it stands on one side is taken."""
MARGIN = 200.0
MARK = 120.0
DOTS_PER_INCH = 220
WRAP = int(Qt.TextFlag.TextWordWrap)
HANDS = ("left", "right")


class CardPages:
    """A card, ready to be painted."""

    def __init__(self, card: FieldCard) -> None:
        self._card = card
        self._wide, self._tall = A6.width() * PER_POINT, A6.height() * PER_POINT
        for scale in SCALES:
            self._scale = scale
            self._back = SheetPages(card.back, A6 / scale, numbered=False)
            if len(self._back.pages) == 1:
                break

    @property
    def fits(self) -> bool:
        """Whether the back stands on one side."""
        return len(self._back.pages) == 1

    def paint_front(self, painter: QPainter) -> None:
        """The hands; the painter is at the upper left corner, in tenths of points."""
        card = self._card
        painter.setPen(INK)
        painter.setFont(type_of(150, True))
        painter.drawText(QRectF(MARGIN, 160, self._wide - 2 * MARGIN, 200), 0, card.title)
        painter.setFont(type_of(70))
        painter.setPen(SOFT)
        box = QRectF(MARGIN, 340, self._wide - 2 * MARGIN, 100)
        painter.drawText(box, 0, f"{card.name}, digest {card.back.mark}")
        top = 520.0
        if card.cut:
            top = self._cut(painter, top)
        self._sticks(painter)
        half = (self._wide - 2 * MARGIN - 120.0) / 2.0
        for place, hand in enumerate(HANDS):
            left = MARGIN + place * (half + 120.0)
            self._hand(painter, [x for x in card.controls if x.hand == hand], left, top, half)

    def _cut(self, painter: QPainter, top: float) -> float:
        font, text = type_of(95, True), self._card.cut
        wide = self._wide - 2 * MARGIN
        tall = tall_of(text, font, wide - 100.0) + 70.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(INK)
        painter.drawRect(QRectF(MARGIN, top, wide, tall))
        painter.setPen(QColor("#ffffff"))
        painter.setFont(font)
        painter.drawText(QRectF(MARGIN + 50.0, top + 35.0, wide - 100.0, tall), WRAP, text)
        return top + tall + 110.0

    def _hand(
        self,
        painter: QPainter,
        controls: Sequence[CardControl],
        left: float,
        top: float,
        wide: float,
    ) -> None:
        """The controls under a hand, one below the other."""
        room = self._tall - 1250.0 - top
        size = 78
        while size > 48 and sum(_control_tall(x, size, wide) for x in controls) > room:
            size -= 4
        for control in controls:
            _draw_control(painter, control, QPointF(left, top), wide, size)
            top += _control_tall(control, size, wide)

    def _sticks(self, painter: QPainter) -> None:
        """Both sticks at the foot, each with what it does across and to and fro."""
        side, top = 620.0, self._tall - MARGIN - 800.0
        for place, stick in enumerate(self._card.sticks):
            middle = self._wide * (0.27 if place == 0 else 0.73)
            _draw_stick(painter, stick, QRectF(middle - side / 2, top, side, side))

    def paint_back(self, painter: QPainter) -> None:
        """Modes, throws, failsafe, timer, the checks before each flight."""
        painter.save()
        painter.scale(self._scale, self._scale)
        self._back.paint(painter, 0, POINTS_PER_INCH * PER_POINT)
        painter.restore()

    def paint_sheet(self, device: QPagedPaintDevice) -> None:
        """Two cards on a page of A4, to be cut and folded."""
        painter = QPainter(device)
        scale = device.logicalDpiX() / (POINTS_PER_INCH * PER_POINT)
        painter.scale(scale, scale)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row in range(2):
            for column, paint in enumerate((self.paint_front, self.paint_back)):
                painter.save()
                painter.translate(column * self._wide, row * self._tall)
                paint(painter)
                painter.restore()
            self._marks(painter, row * self._tall)
        painter.end()

    def _marks(self, painter: QPainter, top: float) -> None:
        """Where to cut at the corners, and where to fold in the middle."""
        painter.setPen(QPen(LINE, 5.0))
        right = 2 * self._wide
        for y in (top, top + self._tall):
            for x, way in ((0.0, 1.0), (right, -1.0)):
                painter.drawLine(QPointF(x, y), QPointF(x + way * MARK, y))
            painter.drawLine(QPointF(self._wide, y - MARK / 2), QPointF(self._wide, y + MARK / 2))
        painter.setPen(QPen(LINE, 4.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(self._wide, top), QPointF(self._wide, top + self._tall))

    def picture(self) -> QImage:
        """Front and back below each other, for a telephone."""
        scale = DOTS_PER_INCH / (POINTS_PER_INCH * PER_POINT)
        image = QImage(round(self._wide * scale), round(2 * self._tall * scale), QImage.Format.Format_RGB32)  # fmt: skip
        image.fill(QColor("#ffffff"))
        painter = QPainter(image)
        painter.scale(scale, scale)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_front(painter)
        painter.translate(0.0, self._tall)
        self.paint_back(painter)
        painter.end()
        return image


GLYPH = 230.0
"""The width in which a control is drawn."""


def _control_tall(control: CardControl, size: int, wide: float) -> float:
    inner = wide - GLYPH
    tall = tall_of(control.label, type_of(size, True), inner)
    tall += tall_of(control.place, type_of(size - 8), inner) if control.place else 0.0
    tall += 0.0 if control.positions else tall_of(control.does, type_of(size), inner)
    return max(tall + len(control.positions) * size * 1.22, 220.0) + 70.0


def _draw_control(
    painter: QPainter, control: CardControl, at: QPointF, wide: float, size: int
) -> None:
    """A control with its name, its place and its positions from the far end on."""
    inner, left = wide - GLYPH, at.x() + GLYPH
    painter.setPen(INK)
    painter.setFont(type_of(size, True))
    head = tall_of(control.label, type_of(size, True), inner)
    painter.drawText(QRectF(left, at.y(), inner, head), WRAP, control.label)
    if control.place:
        small = type_of(size - 8)
        more = tall_of(control.place, small, inner)
        painter.setFont(small)
        painter.drawText(QRectF(left, at.y() + head, inner, more), WRAP, control.place)
        head += more
    row = size * 1.22
    if not control.positions:
        painter.setFont(type_of(size))
        box = QRectF(left, at.y() + head, inner, tall_of(control.does, type_of(size), inner))
        painter.drawText(box, WRAP, control.does)
        _draw_turning(painter, control.kind, QRectF(at.x() + 20.0, at.y() + 10.0, 170.0, 200.0))
        return
    for place, text in enumerate(control.positions):
        top = at.y() + head + place * row
        painter.setFont(type_of(size, text in control.cut))
        stands = f"{text}: motor cut" if text in control.cut else text
        painter.setPen(INK)
        painter.drawText(QRectF(left, top, inner, row), 0, stands)
        middle = QPointF(at.x() + 110.0, top + row / 2.0)
        painter.setPen(QPen(INK, 8.0))
        painter.setBrush(INK if text in control.cut else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, size * 0.3, size * 0.3)
    painter.setPen(QPen(INK, 8.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    slot = QRectF(at.x() + 55.0, at.y() + head, 110.0, len(control.positions) * row)
    painter.drawRoundedRect(slot, 55.0, 55.0)


def _draw_turning(painter: QPainter, kind: str, box: QRectF) -> None:
    """A slider or a knob."""
    painter.setPen(QPen(INK, 8.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if kind == "knob":
        middle = box.center()
        painter.drawEllipse(middle, 75.0, 75.0)
        painter.drawLine(middle, middle - QPointF(0.0, 75.0))
        return
    x = box.center().x()
    painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
    painter.setBrush(INK)
    painter.drawRect(QRectF(x - 45.0, box.center().y() - 22.0, 90.0, 44.0))


def _draw_stick(painter: QPainter, stick: CardStick, box: QRectF) -> None:
    painter.setPen(QPen(INK, 10.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 60.0, 60.0)
    middle = box.center()
    painter.setPen(QPen(LINE, 5.0))
    painter.drawLine(QPointF(box.left(), middle.y()), QPointF(box.right(), middle.y()))
    painter.drawLine(QPointF(middle.x(), box.top()), QPointF(middle.x(), box.bottom()))
    painter.setBrush(INK)
    painter.setPen(INK)
    painter.drawEllipse(middle, 50.0, 50.0)
    painter.setFont(type_of(80, True))
    below = QRectF(box.left() - 200.0, box.bottom() + 20.0, box.width() + 400.0, 120.0)
    painter.drawText(below, int(Qt.AlignmentFlag.AlignHCenter), f"↔ {stick.across or 'nothing'}")
    above = QRectF(box.left() - 200.0, box.top() - 130.0, box.width() + 400.0, 120.0)
    painter.drawText(above, int(Qt.AlignmentFlag.AlignHCenter), f"↕ {stick.along or 'nothing'}")
