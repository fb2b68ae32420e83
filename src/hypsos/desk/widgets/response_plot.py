# SPDX-License-Identifier: GPL-3.0-or-later
"""Responses drawn beside their numbers: all switch positions together, the present stick riding on
the line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture
from hypsos.desk.widgets.pixmap_cache import still

STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine,
          Qt.PenStyle.DashDotDotLine)  # fmt: skip
"""Lines are told apart by more than their colour."""
ACROSS = (-100, -50, 0, 50, 100)


def ticks(top: float) -> tuple[int, list[int]]:
    """A round step of which at most four reach from nothing to ``top``, and its multiples to both
    sides within that."""
    step = next((s for s in (1, 2, 5, 10, 20, 25, 50) if top / s <= 4.01), 100)
    count = int(top / step + 1e-9)
    return step, [k * step for k in range(-count, count + 1)]


@dataclass(frozen=True)
class PlotLine:
    """A response: x in percent and y, its name, and whether it holds now."""

    name: str
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    present: bool


class ResponsePlot(Picture):
    """Lines with names at their ends, a point on the present one. ``x_words`` and ``y_words`` are
    (low end, high end)."""

    def __init__(
        self, x_words: tuple[str, str], y_words: tuple[str, str], parent: QWidget | None = None
    ) -> None:
        super().__init__("", parent)
        self._words = (x_words, y_words)
        self.least = 100.0
        """The y axis reaches at least so far to both sides."""
        self.signed = True
        """Whether figures have signs; those of a surface have its words at the ends instead."""
        self.lines: list[PlotLine] = []
        self.dot = (0.0, 0.0)
        self._top = self.least
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._still: QPixmap | None = None
        """All but the present point, which rides on it."""
        look.follow(self, self._again)

    def sizeHint(self) -> QSize:
        return QSize(look.px(420), look.px(250))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(180), look.px(190))

    def set_words(self, x_words: tuple[str, str], y_words: tuple[str, str]) -> None:
        """What the ends of the two axes mean."""
        if self._words != (x_words, y_words):
            self._words = (x_words, y_words)
            self._again()

    @property
    def present(self) -> int:
        """The number of the line that holds now."""
        return next((i for i, line in enumerate(self.lines) if line.present), 0)

    def show_lines(self, lines: list[PlotLine], dot: tuple[float, float]) -> None:
        """Draw these responses, with the present point."""
        self.lines, self.dot = lines, dot
        self._top = 1.04 * max([self.least] + [float(np.abs(x.y).max()) for x in lines])
        self.tell("; ".join(map(self._sentence, lines)))
        self._again()

    def _sentence(self, line: PlotLine) -> str:
        """A line as what it gives at its ends and in the middle."""
        places = (0, len(line.x) // 2, len(line.x) - 1)
        sides = self._words[1]
        given = []
        for place in places:
            x, y = float(line.x[place]), float(line.y[place])
            side = sides[y > 0] if not self.signed and round(y) else ""
            amount = (
                f"{number(abs(y))} {side}" if side else f"{number(y)}{' %' if self.signed else ''}"
            )
            given.append(f"at {number(x)} % it gives {amount}")
        return f"{line.name}: {', '.join(given)}"

    def _again(self) -> None:
        self._still = None
        self.update()

    def move_dot(self, dot: tuple[float, float]) -> None:
        """Move the present point: only what it leaves and where it comes is painted."""
        before = self._dot_area()
        self.dot = dot
        self.update(before.united(self._dot_area()))

    def _box(self) -> QRectF:
        names = look.px(66) if len(self.lines) > 1 else look.px(16)
        return QRectF(self.rect()).adjusted(look.px(40), look.px(8), -names, -look.px(22))

    def _place(self, x: float, y: float) -> QPointF:
        box = self._box()
        return QPointF(
            box.center().x() + x / 200 * box.width(),
            box.center().y() - y / self._top * box.height() / 2,
        )

    def _dot_area(self) -> QRect:
        """The column in which the point and its guide stand."""
        return QRect(int(self._place(*self.dot).x()) - 10, 0, 20, self.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._still = None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The still, and the point on it."""
        if self._still is None:
            self._still = still(self.size(), self.devicePixelRatioF(), look.colour("field"))
            self._paint_still(self._still)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        at, box = self._place(*self.dot), self._box()
        painter.setPen(QPen(look.colour("edge"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()))
        painter.setPen(QPen(look.colour("ink"), 1.5))
        painter.setBrush(look.colour("surface"))
        painter.drawEllipse(at, 6.5, 6.5)

    def _paint_still(self, onto: QPixmap) -> None:
        painter = QPainter(onto)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_axes(painter)
        self._paint_words(painter)
        for i, line in sorted(
            enumerate(self.lines), key=lambda x: x[1].present
        ):  # the present one above the others
            pen = QPen(
                look.colour("sea" if line.present else "faint"), 2.6 if line.present else 1.4
            )
            pen.setStyle(STYLES[i % len(STYLES)])
            painter.setPen(pen)
            origin, corner = self._place(0, 0), self._place(1, 1)
            xs = origin.x() + line.x * (corner.x() - origin.x())
            ys = origin.y() + line.y * (corner.y() - origin.y())
            painter.drawPolyline(QPolygonF(map(QPointF, xs.tolist(), ys.tolist())))
        high, free = look.px(15), -np.inf
        for line in (
            sorted(self.lines, key=lambda x: -float(x.y[-1])) if len(self.lines) > 1 else ()
        ):
            painter.setFont(look.font(0.82, bold=line.present))
            painter.setPen(look.colour("ink" if line.present else "faint"))
            at = self._place(100, float(line.y[-1])) + QPointF(5, 0)
            down = max(at.y(), free)
            free = down + high
            spot = QRectF(at.x(), down - high / 2, self.width() - at.x(), high)
            painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, line.name)
        painter.end()

    def _figure(self, value: int) -> str:
        return number(value if self.signed else abs(value))

    def _paint_axes(self, painter: QPainter) -> None:
        box = self._box()
        painter.setFont(look.font(0.78))
        for x in ACROSS:
            painter.setPen(QPen(look.colour("edge" if x == 0 else "line"), 1))
            at = self._place(x, 0).x()
            painter.drawLine(QPointF(at, box.top()), QPointF(at, box.bottom()))
            painter.setPen(look.colour("faint"))
            spot = QRectF(at - 30, box.bottom() + 2, 60, look.px(18))
            painter.drawText(spot, Qt.AlignmentFlag.AlignHCenter, self._figure(x))
        for y in ticks(self._top)[1]:
            painter.setPen(QPen(look.colour("edge" if y == 0 else "line"), 1))
            painter.drawLine(self._place(-100, y), self._place(100, y))
            painter.setPen(look.colour("faint"))
            spot = QRectF(0, self._place(0, y).y() - 9, box.left() - 6, 18)
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._figure(y)
            )

    def _paint_words(self, painter: QPainter) -> None:
        box, high = self._box(), look.px(17)
        (left, right), (low, up) = self._words
        middle = box.center()
        half, flags = box.width() / 2 - 6, Qt.AlignmentFlag
        painter.setFont(look.font(0.82))
        painter.setPen(look.colour("faint"))
        for text, corner, to in (
            (f"← {left}", QPointF(box.left() + 4, middle.y() - high), flags.AlignLeft),
            (f"{right} →", QPointF(middle.x() + 2, middle.y() + 2), flags.AlignRight),
            (f"↑ {up}", QPointF(box.left(), box.top()), flags.AlignRight),
            (f"↓ {low}", QPointF(middle.x() + 6, box.bottom() - high), flags.AlignLeft),
        ):
            painter.drawText(
                QRectF(corner.x(), corner.y(), half, high), to | flags.AlignVCenter, text
            )
