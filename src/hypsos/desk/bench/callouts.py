# SPDX-License-Identifier: GPL-3.0-or-later
"""Call-outs beside the aeroplane: a small section of each surface at its true angle, and where it
stands in words."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.parts.airframe import Device, Motor, Surface
from hypsos.core.wording.words import degrees, standing
from hypsos.desk.bench.painted_faces import boxes_of, touching
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.pixmap_cache import still

Array = NDArray[np.float64]
NOTE_HEIGHT = 60
COMPACT_HEIGHT = 33


class CallOut(NamedTuple):
    """A part's state in words and figures, now."""

    name: str
    label: str
    words: str
    angle: str
    deg: float
    cut: bool
    slow: bool
    failsafe: bool
    side: str
    vertical: bool
    small: bool


def place_callouts(model: Model, result: Result) -> dict[str, CallOut]:
    """A call-out for every surface and device that a lead moves, in the order of the airframe."""
    parts: dict[str, Surface | Motor | Device] = {p.name: p for p in model.airframe.moved()}
    out: dict[str, CallOut] = {}
    for lead in model.leads:
        part, trace = parts[lead.target], result.outputs[lead.name]
        if isinstance(part, Motor) or lead.target in out:
            continue
        deg = 0.0 if trace.deg is None else float(trace.deg[-1])
        mm = None if trace.mm is None else float(trace.mm[-1])
        cut = bool(trace.at_stop[-1]) or abs(float(trace.cut[-1])) > 0.05
        side = part.side if isinstance(part, Surface) else "centre"
        surface = isinstance(part, Surface)
        out[lead.target] = CallOut(
            name=lead.target,
            label=part.label,
            words=standing(part, float(trace.stand[-1]), deg, mm),
            angle=degrees(part, deg) if surface else "",
            deg=deg,
            cut=cut,
            slow=trace.moving,
            failsafe=bool(trace.failsafe[-1]),
            side=side,
            vertical=isinstance(part, Surface) and part.vertical,
            small=not surface,
        )
    for (
        follower
    ) in model.airframe.surfaces:  # one that hangs on another's servo moves the opposite way
        if follower.follows in out:
            master = out[follower.follows]
            out[follower.name] = master._replace(
                name=follower.name, label=follower.label, deg=-master.deg, small=True
            )
    return out


def note_boxes(area: QRect, anchors: dict[str, Array]) -> dict[str, QRectF]:
    """A box for each part in a row at the foot, in the order in which the parts lie."""
    shown = sorted(anchors, key=lambda name: float(anchors[name][0]))
    gap, edge = look.px(5), look.px(8)
    rows = 1 if (area.width() - 2 * edge) / max(1, len(shown)) >= look.px(96) else 2
    columns = -(-len(shown) // rows) or 1
    width = min(look.px(122), (area.width() - 2 * edge - gap * (columns - 1)) / columns)
    tall = look.px(NOTE_HEIGHT) if rows == 1 else look.px(COMPACT_HEIGHT)
    left = (area.width() - columns * (width + gap) + gap) / 2
    top = area.height() - rows * (tall + gap) - look.px(1)
    boxes = {}
    for i, name in enumerate(shown):
        column, row = divmod(i, rows)
        boxes[name] = QRectF(left + column * (width + gap), top + row * (tall + gap), width, tall)
    return boxes


class Notes:
    """The boxes of the parts that have one, each with its leader to the part: where they lie, and
    painted."""

    def __init__(self, area: QRect, anchors: dict[str, Array]) -> None:
        self.boxes = note_boxes(area, anchors)
        self._names = list(self.boxes)
        self._begins = [QPointF(box.center().x(), box.top()) for box in self.boxes.values()]
        self._ends = [QPointF(float(anchors[n][0]), float(anchors[n][1])) for n in self.boxes]
        leaders = [QRectF(a, b).normalized() for a, b in zip(self._begins, self._ends, strict=True)]
        self._leaders, self._around = boxes_of(leaders), boxes_of(list(self.boxes.values()))

    def paint(
        self,
        painter: QPainter,
        region: list[QRectF],
        stands: dict[str, CallOut],
        chosen: str | None,
    ) -> None:
        """Paint the boxes that touch the region, and the leaders to their anchors."""
        for i in np.flatnonzero(touching(self._leaders, region, 3.0)).tolist():
            strong = self._names[i] == chosen
            painter.setPen(QPen(look.colour("ink", 255 if strong else 95), 1.4 if strong else 1.0))
            painter.drawLine(self._begins[i], self._ends[i])
            painter.setBrush(look.colour("ink"))
            painter.drawEllipse(self._ends[i], 2.2, 2.2)
        for i in np.flatnonzero(touching(self._around, region)).tolist():
            name = self._names[i]
            if name in stands:
                _paint_one(painter, self.boxes[name], stands[name], name == chosen)


@lru_cache(maxsize=64)
def _frame(
    _theme: str,
    edge: str,
    thick: float,
    width: float,
    height: float,
    ratio: float,
    _scale: float,
    title: str,
) -> QPixmap:
    """A box with its title, kept by all that it looks like, theme and scale among it: drawn anew
    its round corners cost more than all that is in it."""
    pixmap = still(QSize(int(width + 5), int(height + 5)), ratio, Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(look.colour("card", 240))
    painter.setPen(QPen(look.colour(edge), thick))
    painter.drawRoundedRect(QRectF(2, 2, width, height), 5, 5)
    painter.setPen(look.colour("faint"))
    painter.setFont(look.font(0.76))
    place = QRectF(2 + look.px(6), 2 + look.px(1), width - look.px(6), look.px(15))
    said = painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, int(place.width()))
    painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, said)
    painter.end()
    return pixmap


def _state(c: CallOut) -> str:
    """What a callout says of its part: what keeps it from its place, or its angle."""
    if c.failsafe:
        return "link lost"
    if c.cut:
        return "at its stop"
    return "on its way" if c.slow else c.angle


def _paint_one(painter: QPainter, box: QRectF, c: CallOut, chosen: bool) -> None:
    alarm = c.cut or c.failsafe
    edge = "rust" if alarm else "ink" if chosen else "edge"
    ratio = device.devicePixelRatioF() if (device := painter.device()) is not None else 1.0
    thick, theme = 2.0 if chosen or alarm else 1.0, look.palette.name
    frame = _frame(theme, edge, thick, box.width(), box.height(), ratio, look.scale, c.label)
    painter.drawPixmap(box.topLeft() - QPointF(2, 2), frame)
    pad = look.px(6)
    glyph_wide = 0 if c.small else look.px(32)
    compact = box.height() < look.px(NOTE_HEIGHT)
    if not compact:
        paint_section(
            painter, QRectF(box.left() + pad, box.top() + look.px(31), look.px(30), look.px(26)), c
        )
    title = QRectF(box.left() + pad, box.top() + look.px(1), box.width() - pad, look.px(15))
    painter.setPen(look.colour("ink"))
    painter.setFont(look.font(0.88, bold=True))
    if painter.fontMetrics().horizontalAdvance(c.words) > title.width():
        painter.setFont(look.font(0.7, bold=True))  # rather small than cut short
    painter.drawText(title.translated(0, look.px(15)), Qt.AlignmentFlag.AlignVCenter, c.words)
    if compact:
        return
    painter.setFont(look.font(0.76, bold=alarm))
    painter.setPen(look.colour("rust" if alarm else "faint"))
    state = _state(c)
    room = QRectF(
        title.left() + glyph_wide,
        box.top() + look.px(36),
        box.width() - glyph_wide - pad,
        look.px(16),
    )
    painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, state)


def paint_section(painter: QPainter, box: QRectF, c: CallOut) -> None:
    """The surface seen along its hinge, at its true angle; a vertical one seen from above."""
    if c.small:
        return
    painter.save()
    painter.translate(box.left(), box.center().y())
    painter.setClipRect(QRectF(0, -box.height() / 2, box.width(), box.height()))
    hinge, length = box.width() * 0.46, box.width() * 0.5
    thick = box.height() * 0.14
    painter.setPen(QPen(look.colour("ink", 90), 1.0, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(hinge, 0), QPointF(box.width(), 0))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.colour("edge"))
    painter.drawPolygon(
        QPolygonF(
            [
                QPointF(0, -thick * 1.25),
                QPointF(hinge, -thick),
                QPointF(hinge, thick),
                QPointF(0, thick * 1.25),
            ]
        )
    )
    painter.translate(hinge, 0)
    painter.rotate(-c.deg if c.vertical else c.deg)
    painter.setBrush(look.colour("rust" if c.cut or c.failsafe else "surface"))
    painter.drawPolygon(QPolygonF([QPointF(0, -thick), QPointF(length, 0), QPointF(0, thick)]))
    if c.cut:
        painter.setPen(QPen(look.colour("rust"), 2.5))
        painter.drawLine(QPointF(length, -thick * 1.6), QPointF(length, thick * 1.6))
    painter.restore()
