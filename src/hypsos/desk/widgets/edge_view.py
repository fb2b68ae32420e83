# SPDX-License-Identifier: GPL-3.0-or-later
"""The trailing edge seen from behind, in each position that matters, with the stick full left and
full right laid over it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number
from hypsos.core.explain.behaviour_preview import Edge
from hypsos.core.parts.airframe import OPENING, Airframe, Surface
from hypsos.desk.theme.look import look

BAND = 58


class EdgeStrip(QWidget):
    """One band for each state: the wing's surfaces across the span where they stand, the tail's at
    the right."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name = name
        self.edges: Sequence[Edge] = ()
        self.body: Airframe | None = None
        self.setToolTip("From behind. Dashed: with the stick full left; dotted: full right.")
        look.follow(self, self.updateGeometry)

    def show_edges(self, body: Airframe, edges: Sequence[Edge]) -> None:
        """Show these states of an aeroplane."""
        if (body, list(edges)) == (self.body, list(self.edges)):
            return
        count = len(self.edges)
        self.body, self.edges = body, list(edges)
        said = "; ".join(f"{e.words}: {self._said(e)}" for e in edges)
        self.setAccessibleName(f"{self._name}, trailing edge from behind: {said}")
        if len(edges) != count:
            self.updateGeometry()
            self.setFixedHeight(self.sizeHint().height())
        self.update()

    def _said(self, edge: Edge) -> str:
        assert self.body is not None
        moved = [
            (s.label, edge.middle.get(s.name, 0.0))
            for s in self.body.surfaces
            if abs(edge.middle.get(s.name, 0.0)) > 0.5
        ]
        return (
            ", ".join(f"{n} {number(abs(x))} % {'down' if x > 0 else 'up'}" for n, x in moved[:6])
            or "neutral"
        )

    def sizeHint(self) -> QSize:
        return QSize(look.px(360), look.px(BAND) * max(1, len(self.edges)) + look.px(4))

    def _placed(self) -> list[tuple[Surface, float, float]]:
        """Every surface that goes up or down with the ends of its place across, from -1 (left) to
        +1 of the wing's half; the tail's lie beyond."""
        body = self.body
        if body is None:
            return []
        wing = body.panels[0].name
        half = max([s.end_mm for s in body.surfaces if s.panel == wing] + [1.0])
        out = []
        for s in body.surfaces:
            if s.vertical or s.role in OPENING:
                continue
            sign = -1.0 if s.side == "left" else 1.0
            if s.panel == wing or s.role in ("aileron", "flaperon", "flap", "elevon"):
                a, b = sorted((sign * s.start_mm / half, sign * s.end_mm / half))
            elif s.side == "centre":
                a, b = 1.25, 1.65
            else:
                a, b = (1.22, 1.44) if s.side == "left" else (1.46, 1.68)
            out.append((s, a, b))
        return out

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        placed, band, words = self._placed(), look.px(BAND), look.px(78)
        reach = max([1.7 if any(a > 1 for _, a, _ in placed) else 1.05])
        wide = (self.width() - words - 8) / (reach + 1.05)
        for k, edge in enumerate(self.edges):
            top = k * band
            middle = top + band * 0.5
            painter.setFont(look.font(0.85))
            painter.setPen(look.colour("ink"))
            spot = QRectF(0, top, words - 6, band)
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, edge.words
            )
            if k:
                painter.setPen(QPen(look.colour("line"), 1))
                painter.drawLine(QPointF(0, top), QPointF(self.width(), top))
            for surface, a, b in placed:
                x0, x1 = (words + (v + 1.05) * wide for v in (a, b))
                painter.setPen(QPen(look.colour("edge"), 1))
                painter.drawLine(QPointF(x0 + 1, middle), QPointF(x1 - 1, middle))
                for values, style, colour, wide_ in (
                    (edge.left, Qt.PenStyle.DashLine, "faint", 1.3), (edge.right, Qt.PenStyle.DotLine, "faint", 1.5),
                    (edge.middle, Qt.PenStyle.SolidLine, "ochre", 3.2),
                ):  # fmt: skip
                    value = values.get(surface.name, 0.0)
                    y = middle + value / 150.0 * (band * 0.44)
                    painter.setPen(QPen(look.colour(colour), wide_, style))
                    painter.drawLine(QPointF(x0 + 2, y), QPointF(x1 - 2, y))
                value = edge.middle.get(surface.name, 0.0)
                if abs(value) > 0.5 and x1 - x0 > 26:
                    painter.setPen(look.colour("ink"))
                    painter.setFont(look.font(0.7))
                    ends = [
                        x.get(surface.name, 0.0) / 150.0 * (band * 0.44)
                        for x in (edge.left, edge.middle, edge.right)
                    ]
                    # clear of every line
                    y = middle + (min(ends) - 14 if value < 0 else max(ends) + 1)
                    spot = QRectF(x0 - 8, min(max(y, top), top + band - 13), x1 - x0 + 16, 13)
                    painter.drawText(spot, Qt.AlignmentFlag.AlignHCenter, number(abs(value)))
