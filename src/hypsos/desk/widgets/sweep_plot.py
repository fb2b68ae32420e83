# SPDX-License-Identifier: GPL-3.0-or-later
"""A part against a hand, all lines together; painted onto the window, a picture or a drawing
alike."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number
from hypsos.core.explain.response_sweeps import SweepLine
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture
from hypsos.desk.widgets.response_plot import STYLES, ticks


class _Scale(NamedTuple):
    """Where figures lie in a picture: ``box`` is the plot within the whole ``area``; x goes from
    ``low`` to ``high`` and y from ``top`` up to ``top`` down."""

    area: QRectF
    box: QRectF
    low: float
    high: float
    top: float

    def at(self, x: float, y: float) -> QPointF:
        """The place of a point; more is further down, as a surface goes."""
        across = (x - self.low) / ((self.high - self.low) or 1.0)
        return QPointF(
            self.box.left() + across * self.box.width(),
            self.box.center().y() + y / self.top * self.box.height() / 2,
        )


class SweepPlot(Picture):
    """``x_words`` and ``y_words`` say what the axes are; ``ends`` what less and more of y mean (up,
    down)."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: Sequence[SweepLine] = ()
        self.unit, self.x_words, self.ends = "%", "", ("up", "down")
        self.present: float | None = None
        look.hold(self, least_height=230)
        look.follow(self, self.update)

    def sizeHint(self) -> QSize:
        return QSize(look.px(420), look.px(260))

    def show_lines(
        self, lines: Sequence[SweepLine], unit: str, x_words: str, ends: tuple[str, str]
    ) -> None:
        """Show these lines in a unit."""
        self.lines, self.unit, self.x_words, self.ends = lines, unit, x_words, ends
        said = "; ".join(f"{line.name}: {self._said(line)}" for line in lines)
        self.tell(f"Sweep of {x_words}. {said}")
        self.update()

    def _said(self, line: SweepLine) -> str:
        y = line.values(self.unit)
        if y is None:
            return "no figures"
        words = [
            f"{number(abs(float(v)), 1)} {self.unit} {self.ends[float(v) > 0]}"
            for v in (y[0], y[-1])
        ]
        return f"from {words[0]} to {words[1]}"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.paint_onto(painter, QRectF(self.rect()))

    def paint_onto(self, painter: QPainter, area: QRectF) -> None:
        """Draw it into an area."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area, look.colour("field"))
        found = [(line, y) for line in self.lines if (y := line.values(self.unit)) is not None]
        if not found:
            painter.setPen(look.colour("faint"))
            painter.drawText(
                area, Qt.AlignmentFlag.AlignCenter, "This part has no figures in this unit."
            )
            return
        top = max(1.0, *(float(np.nanmax(np.abs(y))) for _, y in found))
        step = ticks(top)[0]
        top = step * float(np.ceil(top / step))
        x = found[0][0].x
        box = area.adjusted(look.px(52), look.px(12), -look.px(96), -look.px(30))
        scale = _Scale(area, box, float(x[0]), float(x[-1]), top)
        painter.setFont(look.font(0.76))
        self._paint_heights(painter, scale)
        self._paint_places(painter, scale, len(x))
        painter.drawText(box.topLeft() + QPointF(4, 11), f"↑ {self.ends[0]}")
        painter.drawText(box.bottomLeft() + QPointF(4, -4), f"↓ {self.ends[1]}")
        self._paint_lines(painter, scale, found)
        if self.present is not None and scale.low <= self.present <= scale.high:
            painter.setPen(QPen(look.colour("edge"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(scale.at(self.present, -top), scale.at(self.present, top))

    def _paint_heights(self, painter: QPainter, scale: _Scale) -> None:
        """A line across for every tick of y, with its figure at the left."""
        area, box = scale.area, scale.box
        for value in ticks(scale.top)[1]:
            begin = scale.at(scale.low, value)
            painter.setPen(QPen(look.colour("edge" if value == 0 else "line"), 1))
            painter.drawLine(begin, scale.at(scale.high, value))
            painter.setPen(look.colour("faint"))
            words = f"{number(abs(value))} {self.unit}"
            spot = QRectF(area.left(), begin.y() - 8, box.left() - area.left() - 5, 16)
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )

    def _paint_places(self, painter: QPainter, scale: _Scale, count: int) -> None:
        """A line upwards for some places of x, with its figure below; of a switch for each of its
        ``count`` positions."""
        box = scale.box
        few = scale.high - scale.low <= 10
        for value in np.linspace(scale.low, scale.high, count if few else 5).tolist():
            top, bottom = scale.at(value, -scale.top), scale.at(value, scale.top)
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(top, bottom)
            painter.setPen(look.colour("faint"))
            spot = QRectF(bottom.x() - 30, box.bottom() + 2, 60, 14)
            painter.drawText(spot, Qt.AlignmentFlag.AlignHCenter, number(value))
        below = QRectF(box.left(), box.bottom() + 14, box.width(), 15)
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, self.x_words)

    def _paint_lines(
        self, painter: QPainter, scale: _Scale, found: Sequence[tuple[SweepLine, Array]]
    ) -> None:
        """Each line, with its name where it ends; names keep clear of each other."""
        area, box = scale.area, scale.box
        taken: list[float] = []
        for i, (line, y) in sorted(enumerate(found), key=lambda each: float(each[1][1][-1])):
            path = QPainterPath(scale.at(float(line.x[0]), float(y[0])))
            for px, py in zip(line.x[1:], y[1:], strict=True):
                path.lineTo(scale.at(float(px), float(py)))
            colour = look.colour("sea" if i % 2 == 0 else "ochre")
            painter.setPen(QPen(colour, 2.2, STYLES[i % len(STYLES)]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
            spot_y = scale.at(scale.high, float(y[-1])).y()
            while any(abs(spot_y - other) < 14 for other in taken):
                spot_y += 14
            taken.append(spot_y)
            painter.setPen(look.colour("ink"))
            spot = QRectF(box.right() + 6, spot_y - 8, area.right() - box.right() - 8, 16)
            painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, line.name)
