# SPDX-License-Identifier: GPL-3.0-or-later
"""A part against a hand, all lines together; painted onto the window, a picture or a drawing
alike."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number
from hypsos.core.explain.response_sweeps import SweepLine
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.response_plot import STYLES, ticks


class SweepPlot(QWidget):
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
        self.setAccessibleName(f"Sweep of {x_words}. {said}")
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
        low, high = float(x[0]), float(x[-1])

        def at(px: float, py: float) -> QPointF:
            across = (px - low) / ((high - low) or 1.0)
            # down is down
            return QPointF(
                box.left() + across * box.width(), box.center().y() + py / top * box.height() / 2
            )

        painter.setFont(look.font(0.76))
        for value in ticks(top)[1]:
            painter.setPen(QPen(look.colour("edge" if value == 0 else "line"), 1))
            painter.drawLine(at(low, value), at(high, value))
            painter.setPen(look.colour("faint"))
            words = f"{number(abs(value))} {self.unit}"
            spot = QRectF(area.left(), at(low, value).y() - 8, box.left() - area.left() - 5, 16)
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )
        for value in np.linspace(low, high, 5 if high - low > 10 else len(x)):
            a, b = at(float(value), -top), at(float(value), top)
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(a, b)
            painter.setPen(look.colour("faint"))
            painter.drawText(
                QRectF(b.x() - 30, box.bottom() + 2, 60, 14),
                Qt.AlignmentFlag.AlignHCenter,
                number(float(value)),
            )
        painter.drawText(
            QRectF(box.left(), box.bottom() + 14, box.width(), 15),
            Qt.AlignmentFlag.AlignHCenter,
            self.x_words,
        )
        painter.drawText(box.topLeft() + QPointF(4, 11), f"↑ {self.ends[0]}")
        painter.drawText(box.bottomLeft() + QPointF(4, -4), f"↓ {self.ends[1]}")
        taken: list[float] = []
        for i, (line, y) in sorted(enumerate(found), key=lambda x: float(x[1][1][-1])):
            path = QPainterPath(at(float(line.x[0]), float(y[0])))
            for px, py in zip(line.x[1:], y[1:], strict=True):
                path.lineTo(at(float(px), float(py)))
            painter.setPen(
                QPen(look.colour("sea" if i % 2 == 0 else "ochre"), 2.2, STYLES[i % len(STYLES)])
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
            spot_y = at(high, float(y[-1])).y()
            while any(abs(spot_y - other) < 14 for other in taken):
                spot_y += 14
            taken.append(spot_y)
            painter.setPen(look.colour("ink"))
            painter.drawText(
                QRectF(box.right() + 6, spot_y - 8, area.right() - box.right() - 8, 16),
                Qt.AlignmentFlag.AlignVCenter,
                line.name,
            )
        if self.present is not None and low <= self.present <= high:
            painter.setPen(QPen(look.colour("edge"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(at(self.present, -top), at(self.present, top))
