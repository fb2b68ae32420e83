# SPDX-License-Identifier: GPL-3.0-or-later
"""The trailing edge seen from behind, in each position that matters, with the stick full left and
full right laid over it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from hypsos.core.base.figure_words import number, plain
from hypsos.core.explain.behaviour_preview import Edge, Shown
from hypsos.core.parts.airframe import OPENING, Airframe, Surface
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture

BAND = 66
REACH = 0.29
"""What a surface at 150 % goes from the middle of its band, as a share of its height: its figure
stands beyond every line then, and within the band."""


class EdgeStrip(Picture):
    """One band for each state: the wing's surfaces across the span where they stand, the tail's at
    the right."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.edges: Sequence[Edge] = ()
        self.body: Airframe | None = None
        self.powers: Sequence[Shown] = ()
        """In the place of the trailing edge, for what moves motors only."""
        self.nothing = ""
        """Said in the place of a picture, where nothing could move."""
        self.setToolTip("From behind. Dashed: with the stick full left; dotted: full right.")
        look.follow(self, self.updateGeometry)

    def show_edges(self, body: Airframe, edges: Sequence[Edge]) -> None:
        """Show these states of an aeroplane."""
        said = "; ".join(f"{e.words}: {_edge_words(body, e)}" for e in edges)
        tip = "From behind, in mm. Dashed: with the stick full left; dotted: full right."
        self._show(body, tip, f"trailing edge from behind: {said}", edges=edges)

    def show_powers(self, body: Airframe, powers: Sequence[Shown]) -> None:
        """Show by how much motors speed up and slow down."""
        said = "; ".join(f"{p.words}: {_power_words(body, p)}" for p in powers)
        self._show(body, "From behind: what each motor gets more or less.", said, powers=powers)

    def show_nothing(self, why: str) -> None:
        """Say why there is nothing to be seen."""
        self._show(None, "", why, nothing=why)

    def _show(
        self,
        body: Airframe | None,
        tip: str,
        said: str,
        edges: Sequence[Edge] = (),
        powers: Sequence[Shown] = (),
        nothing: str = "",
    ) -> None:
        wanted = (body, list(edges), list(powers), nothing)
        if wanted == (self.body, list(self.edges), list(self.powers), self.nothing):
            return
        count = self._count()
        self.body, self.edges, self.powers, self.nothing = body, list(edges), list(powers), nothing
        self.tell(said)
        self.setToolTip(tip)
        if self._count() != count:
            self.updateGeometry()
            self.setFixedHeight(self.sizeHint().height())
        self.update()

    def _count(self) -> float:
        """How many bands there are; what is only said takes half of one."""
        return 0.5 if self.nothing else len(self.edges) or len(self.powers)

    def sizeHint(self) -> QSize:
        bands = max(0.5, self._count())
        return QSize(look.px(360), round(look.px(BAND) * bands) + look.px(4))

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
        if self.nothing:
            painter.setFont(look.font(0.9))
            painter.setPen(look.colour("faint"))
            wrapped = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(self.rect()), wrapped, self.nothing)
            return
        if self.powers:
            self._paint_powers(painter)
            return
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
                    y = middle + value / 150.0 * band * REACH
                    painter.setPen(QPen(look.colour(colour), wide_, style))
                    painter.drawLine(QPointF(x0 + 2, y), QPointF(x1 - 2, y))
                value, mm = edge.middle.get(surface.name, 0.0), edge.mm.get(surface.name)
                if abs(value) > 0.5 and mm is not None and x1 - x0 > 26:
                    painter.setPen(look.colour("ink"))
                    painter.setFont(look.font(0.7))
                    tall = painter.fontMetrics().height()
                    states = (edge.left, edge.middle, edge.right)
                    ends = [x.get(surface.name, 0.0) / 150.0 * band * REACH for x in states]
                    # clear of every line
                    y = middle + (min(ends) - tall if value < 0 else max(ends) + 1)
                    spot = QRectF(x0 - 12, y, x1 - x0 + 24, tall)
                    painter.drawText(spot, Qt.AlignmentFlag.AlignHCenter, plain(round(abs(mm), 1)))

    def _paint_powers(self, painter: QPainter) -> None:
        """A bar for each motor, in the order of the span: up for more power, down for less."""
        assert self.body is not None
        band, words = look.px(BAND), look.px(92)
        motors = sorted(self.body.motors, key=lambda m: m.y_mm)
        wide = (self.width() - words - 8) / max(1, len(motors))
        for k, power in enumerate(self.powers):
            top, middle = k * band, k * band + band * 0.5
            painter.setFont(look.font(0.85))
            painter.setPen(look.colour("ink"))
            spot = QRectF(0, top, words - 6, band)
            wrapped = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(spot, wrapped, power.words)
            for place, motor in enumerate(motors):
                x = words + (place + 0.5) * wide
                more = power.moves.get(motor.name, 0.0)
                tall = max(-1.0, min(1.0, more / 50.0)) * band * REACH
                painter.setPen(QPen(look.colour("edge"), 1))
                painter.drawLine(QPointF(x - 16, middle), QPointF(x + 16, middle))
                painter.fillRect(QRectF(x - 7, middle, 14, -tall), look.colour("ochre"))
                painter.setPen(look.colour("ink"))
                painter.setFont(look.font(0.7))
                high = painter.fontMetrics().height()
                y = middle + 2 if more > 0 else middle - high - 1
                said = QRectF(x - wide / 2, y, wide, high)
                painter.drawText(said, Qt.AlignmentFlag.AlignHCenter, _more_words(more))


def _edge_words(body: Airframe, edge: Edge) -> str:
    """Where the surfaces stand, as a ruler reads it."""
    moved = [
        (s.label, edge.mm[s.name])
        for s in body.surfaces
        if s.name in edge.mm and abs(edge.middle.get(s.name, 0.0)) > 0.5
    ]
    said = [f"{n} {number(abs(x), 1)} mm {'down' if x > 0 else 'up'}" for n, x in moved[:6]]
    return ", ".join(said) or "neutral"


def _power_words(body: Airframe, power: Shown) -> str:
    moved = [(m.label, power.moves[m.name]) for m in body.motors if m.name in power.moves]
    return ", ".join(f"{name} {_more_words(x)}" for name, x in moved) or "no difference"


def _more_words(more: float) -> str:
    if abs(more) < 0.5:
        return "as it was"
    return f"{number(abs(more))} % {'more' if more > 0 else 'less'}"
