"""Responses drawn beside their numbers: all switch positions together, the present stick riding on the line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PyQt6.QtWidgets import QWidget

from hypsos.core.model.words import number
from hypsos.desk.theme.look import look

STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)


@dataclass(frozen=True)
class Line:
    """A response: x and y in percent, its name, and whether it holds now."""

    name: str
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    present: bool


class ResponsePlot(pg.PlotWidget):
    """Lines with names at their ends, a point on the present one. ``x_words`` and ``y_words`` are (low end, high end)."""

    def __init__(self, x_words: tuple[str, str], y_words: tuple[str, str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._words = (x_words, y_words)
        self.least = 100.0
        """The y axis reaches at least so far to both sides."""
        self.lines: list[Line] = []
        self.dot = (0.0, 0.0)
        self.setMenuEnabled(False)
        self.setMouseEnabled(False, False)
        self.hideButtons()
        self.setMinimumHeight(190)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._still: QPixmap | None = None
        """All but the present point, which rides on it."""
        self._curves: list[pg.PlotDataItem] = []
        self._names: list[pg.TextItem] = []
        self._shape: object = None
        look.follow(self, self._dress)
        self._dress()

    def _dress(self) -> None:
        faint = look.colour("faint")
        self.setBackground(look.colour("field"))
        for side in ("bottom", "left"):
            axis = self.getAxis(side)
            axis.setPen(QPen(look.colour("edge"), 1))
            axis.setTextPen(faint)
            axis.setTickFont(look.font(0.78))
            axis.setStyle(tickLength=-4)
        self.set_words(*self._words)
        self.getAxis("left").setWidth(look.px(38))
        self.showGrid(x=True, y=True, alpha=0.18)
        self.show_lines(self.lines, self.dot)

    def set_words(self, x_words: tuple[str, str], y_words: tuple[str, str]) -> None:
        """What the ends of the two axes mean."""
        self._words = (x_words, y_words)
        for side in ("bottom", "left"):
            self.getAxis(side).setTicks([[(at, number(at)) for at in (-100, -50, 0, 50, 100)]])

    def _show_words(self, top: float) -> None:
        (left, right), (low, high) = self._words
        for text, x, y, anchor in (
            (f"← {left}", -103, 0, (0.0, 1.05)), (f"{right} →", 103, 0, (1.0, -0.05)),
            (f"↑ {high}", 0, top, (1.05, 0.0)), (f"↓ {low}", 0, -top, (-0.05, 1.0)),
        ):  # fmt: skip
            item = pg.TextItem(text, color=look.colour("faint"), anchor=anchor)
            item.setFont(look.font(0.82))
            item.setPos(x, y)
            self.addItem(item)

    @property
    def present(self) -> int:
        """The number of the line that holds now."""
        return next((i for i, line in enumerate(self.lines) if line.present), 0)

    def show_lines(self, lines: list[Line], dot: tuple[float, float]) -> None:
        """Draw these responses, with the present point."""
        self.lines, self.dot, self._still = lines, dot, None
        top = max([self.least] + [float(np.abs(x.y).max()) for x in lines])
        shape = (look.palette.name, look.scale, self._words, round(top, 3), tuple((x.name, x.present) for x in lines))
        if shape != self._shape:
            self._shape = shape
            self._lay_out(lines, top)
        placed: list[float] = []
        for i, line in enumerate(lines):
            self._curves[i].setData(line.x, line.y)
            if self._names:
                at = float(line.y[-1])
                while any(abs(at - other) < top * 0.13 for other in placed):
                    at -= top * 0.13
                placed.append(at)
                self._names[i].setPos(100, at)
        self.move_dot(dot)

    def _lay_out(self, lines: list[Line], top: float) -> None:
        """Make the curves, names and words anew: another number of lines, another present one, another look."""
        self.clear()
        self._names.clear()
        self._curves.clear()
        right = 128 if len(lines) > 1 else 104
        self.setRange(xRange=(-104, right), yRange=(-top * 1.09, top * 1.09), padding=0.0)
        self._show_words(top * 1.03)
        for i, line in enumerate(lines):
            pen = QPen(look.colour("sea" if line.present else "faint"), 2.6 if line.present else 1.4)
            pen.setStyle(STYLES[i % len(STYLES)])
            pen.setCosmetic(True)
            self._curves.append(self.plot(pen=pen, antialias=True))
            if len(lines) > 1:
                name = pg.TextItem(line.name, color=look.colour("ink" if line.present else "faint"), anchor=(0.0, 0.5))
                name.setFont(look.font(0.82, bold=line.present))
                self.addItem(name)
                self._names.append(name)

    def move_dot(self, dot: tuple[float, float]) -> None:
        """Move the present point: only what it leaves and where it comes is painted."""
        before = self._dot_area()
        self.dot = dot
        viewport = self.viewport()
        if viewport is not None:
            viewport.update(before.united(self._dot_area()) if self._still is not None else viewport.rect())

    def _place(self) -> QPointF:
        return QPointF(self.mapFromScene(self.getViewBox().mapViewToScene(QPointF(*self.dot))))

    def _dot_area(self) -> QRect:
        """The column in which the point and its guide stand."""
        x = int(self._place().x())
        return QRect(x - 10, 0, 20, self.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._still = None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The still, and the point on it."""
        viewport = self.viewport()
        if viewport is None:
            return
        if self._still is None:
            self.scene().prepareForPaint()
            ratio = viewport.devicePixelRatioF()
            still = QPixmap(viewport.size() * ratio)
            still.setDevicePixelRatio(ratio)
            still.fill(look.colour("field"))
            onto = QPainter(still)
            onto.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.render(onto, QRectF(viewport.rect()), viewport.rect())
            onto.end()
            self._still = still
        painter = QPainter(viewport)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        at, box = self._place(), self.getViewBox().sceneBoundingRect()
        painter.setPen(QPen(look.colour("edge"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()))
        painter.setPen(QPen(look.colour("ink"), 1.5))
        painter.setBrush(look.colour("surface"))
        painter.drawEllipse(at, 6.5, 6.5)
