# SPDX-License-Identifier: GPL-3.0-or-later
"""What is seen of a solid from one place: what stands still as a picture, what moves as polygons
above it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QLinearGradient, QPainter, QPen, QPixmap, QPolygonF

from hypsos.core.parts.airframe import Motor
from hypsos.core.shape.solid_faces import Turning
from hypsos.core.shape.solid_model import Solid
from hypsos.desk.bench.callouts import CallOut
from hypsos.desk.bench.camera import Camera
from hypsos.desk.bench.painted_faces import LIGHT, Batch, boxes_of, hatch, polygon, ramp, touching
from hypsos.desk.bench.propeller import Propeller
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.pixmap_cache import still

Array = NDArray[np.float64]
NEARER = 3.0
"""Millimetres by which what moves lies before what it moves over."""
SHADOW = 5
"""Pixels of the bench for one of the shadow, which is painted small."""


@dataclass(frozen=True)
class Frame:
    """The window onto the scene: its size, how many pixels of the screen there are to one of it,
    and how much room is kept at the foot."""

    size: QSize
    ratio: float
    foot: float


class Scene:
    """One view of a body; another view is another scene."""

    def __init__(
        self, body: Solid, motors: tuple[Motor, ...], eye: Camera, frame: Frame, exaggeration: float
    ) -> None:
        self.body, self.motors, self.exaggeration = body, motors, exaggeration
        self.size = frame.size
        w, h = frame.size.width(), frame.size.height()
        points = np.concatenate(
            [f.corners.reshape(-1, 3) for f in body.fixed] + [_disc_ends(motors)]
        )
        room = max(80.0, h - frame.foot - look.px(20))
        self.camera = eye.fitted(points, w * 0.92, room * 0.94, w / 2, look.px(12) + room / 2)
        corners = np.concatenate([f.corners for f in body.fixed])
        normals = np.concatenate([f.normals for f in body.fixed])
        faces = [(f.material, "") for f in body.fixed for _ in f.corners]
        self._turning, self._first = Turning(body.hinged), len(faces)
        faces += [(h.faces.material, h.faces.part) for h in body.hinged for _ in h.faces.corners]
        self._batch = Batch([m for m, _ in faces], [p for _, p in faces])
        fixed = np.arange(self._first)
        self._batch.put(fixed, self.camera, corners, normals)
        self.backdrop = self._backdrop(frame)
        self._batch.seen[fixed] &= self._over_moving()
        self._propellers = sorted(
            (Propeller(m, self.camera) for m in motors), key=lambda p: p.depth
        )
        self.bounds = [QRectF()] * len(body.hinged)
        """The rectangle around each hinged part as it stands now."""
        self._keys: list[CallOut | str | None] = ["nowhere yet"] * len(body.hinged)
        self._edges = [
            tuple(self.camera.pixels(np.stack([h.hinge, h.trailing_edge, h.trailing_edge])))
            for h in body.hinged
        ]
        """Of each hinged part the pixels of its hinge, and of its trailing edge at neutral and
        now."""

    def stand(self, stands: Mapping[str, CallOut]) -> list[int]:
        """Bring the hinged parts to where they stand now; returns which of them changed."""
        changed, degrees = [], []
        for i, hinged in enumerate(self.body.hinged):
            stand = stands.get(hinged.name)
            if self._keys[i] != stand:
                self._keys[i] = stand
                changed.append(i)
                degrees.append(stand.deg * self.exaggeration if stand else 0.0)
        if changed:
            rows, corners, normals, edges = self._turning.at(changed, degrees)
            self._batch.put(rows + self._first, self.camera, corners, normals, NEARER)
            for i, edge in zip(changed, self.camera.pixels(edges), strict=True):
                self.bounds[i] = self._batch.bounds(self._turning.rows[i] + self._first)
                self._edges[i] = (*self._edges[i][:2], edge)
        return changed

    def discs(self) -> list[QRectF]:
        """The rectangles in which propellers turn."""
        return [p.box for p in self._propellers]

    def anchor(self, i: int) -> Array:
        """The pixel in the middle of a hinged part at neutral."""
        hinged = self.body.hinged[i]
        return self.camera.pixels(np.concatenate([hinged.hinge, hinged.trailing_edge]).mean(axis=0))

    def part_at(self, place: QPointF) -> str | None:
        """The moved part under a point, nearest first."""
        batch = self._batch
        for i in reversed(batch.within([QRectF(place.x(), place.y(), 0, 0)])):
            if batch.parts[i] and batch.polygons[i].containsPoint(place, Qt.FillRule.OddEvenFill):
                return batch.parts[i]
        return None

    def paint(
        self,
        painter: QPainter,
        region: list[QRectF],
        stands: Mapping[str, CallOut],
        chosen: str | None,
        spinning: Mapping[str, bool],
        angle: float,
    ) -> None:
        """The body where the region touches it; ``angle`` is that of the propellers' first
        blades."""
        every, met = (
            self._batch,
            touching(boxes_of([p.box for p in self._propellers]), region).tolist(),
        )
        propellers = [p for p, touched in zip(self._propellers, met, strict=True) if touched]
        ink: tuple[str, int] | None = None
        for i in every.within(region):
            while propellers and propellers[0].depth <= every.depth[i]:
                nearer = propellers.pop(0)
                nearer.paint(painter, angle, spinning.get(nearer.motor.name, False))
                ink = None
            if every.inks[i] != ink:
                ink = every.inks[i]
                pen, brush = ramp(ink[0])[ink[1]]
                painter.setPen(pen)
                painter.setBrush(brush)
            painter.drawPolygon(every.polygons[i])
            stand = stands.get(every.parts[i]) if every.parts[i] else None
            if stand is not None and (stand.cut or stand.failsafe):
                hatch(painter, every.polygons[i], stand.failsafe)
                ink = None
        for nearer in propellers:
            nearer.paint(painter, angle, spinning.get(nearer.motor.name, False))
        self._paint_edges(painter, region, stands, chosen)

    def paint_ghost(self, painter: QPainter, degrees: Mapping[str, float]) -> None:
        """The trailing edges as they stand elsewhere, in a broken line."""
        places = [i for i, h in enumerate(self.body.hinged) if h.name in degrees]
        if not places:
            return
        turned = [degrees[self.body.hinged[i].name] * self.exaggeration for i in places]
        edges = self.camera.pixels(self._turning.at(places, turned)[3])
        painter.setPen(QPen(look.colour("ink"), 2.0, Qt.PenStyle.DashLine))
        for edge in edges:
            painter.drawPolyline(QPolygonF([QPointF(float(x), float(y)) for x, y in edge]))

    def _paint_edges(
        self,
        painter: QPainter,
        region: list[QRectF],
        stands: Mapping[str, CallOut],
        chosen: str | None,
    ) -> None:
        """Where neutral was, and for the chosen surface its outline."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for i in np.flatnonzero(touching(boxes_of(self.bounds), region, 6.0)).tolist():
            hinged, (hinge, neutral, edge) = self.body.hinged[i], self._edges[i]
            stand = stands.get(hinged.name)
            if stand is not None and abs(stand.deg) > 0.4 and hinged.faces.material == "surface":
                painter.setPen(QPen(look.colour("ink", 150), 1.0, Qt.PenStyle.DotLine))
                painter.drawPolyline(polygon(np.array([edge[0], neutral[0], neutral[1], edge[1]])))
            if hinged.name == chosen:
                painter.setPen(QPen(look.colour("ink"), 2.0))
                painter.drawPolygon(polygon(np.array([hinge[0], hinge[1], edge[1], edge[0]])))

    # -- what stands still -----------------------------------------------------------------------

    def _backdrop(self, frame: Frame) -> QPixmap:
        """Ground, horizon, shadow and what never moves."""
        pixmap = still(frame.size, frame.ratio, look.colour("ground"))
        w, h = frame.size.width(), frame.size.height()
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        horizon = h * (0.34 - 0.9 * self.camera.rise / 90.0)
        top = min(horizon, 0.0)
        air = QLinearGradient(0.0, top, 0.0, top + h * 0.62 + max(horizon, 0.0))
        air.setColorAt(0.0, look.colour("sky"))
        air.setColorAt(1.0, look.colour("ground"))
        painter.fillRect(0, 0, w, h, air)
        self._paint_shadow(painter, frame)
        for i in self._batch.within([QRectF(-9e9, -9e9, 2e10, 2e10)]):
            material, level = self._batch.inks[i]
            pen, brush = ramp(material)[level]
            painter.setPen(pen)
            painter.setBrush(brush)
            painter.drawPolygon(self._batch.polygons[i])
        painter.end()
        return pixmap

    def _paint_shadow(self, painter: QPainter, frame: Frame) -> None:
        """Painted small and drawn large, which makes its edge soft."""
        low = (
            float(min(f.corners[..., 2].min() for f in self.body.fixed)) - 0.02 * self.body.reach_mm
        )
        small = QPixmap(frame.size.width() // SHADOW + 1, frame.size.height() // SHADOW + 1)
        small.fill(Qt.GlobalColor.transparent)
        brush = QPainter(small)
        brush.setRenderHint(QPainter.RenderHint.Antialiasing)
        brush.scale(1 / SHADOW, 1 / SHADOW)
        brush.setPen(QPen(look.colour("shadow"), SHADOW, join=Qt.PenJoinStyle.RoundJoin))
        brush.setBrush(look.colour("shadow"))
        for outline in self.body.outlines:
            drop = (outline[:, 2] - low)[:, None] / LIGHT[2]
            brush.drawPolygon(polygon(self.camera.pixels(outline - drop * LIGHT)))
        brush.end()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setOpacity(0.2)
        painter.drawPixmap(
            QRectF(0, 0, small.width() * SHADOW, small.height() * SHADOW),
            small,
            QRectF(small.rect()),
        )
        painter.setOpacity(1.0)

    def _over_moving(self) -> NDArray[np.bool_]:
        """Which fixed faces lie, or may come to lie, in front of something that moves; the others
        stay in the backdrop."""
        towards = self.camera.basis()[2]
        out = np.zeros(self._first, bool)
        furthest = min(75.0, 60.0 * self.exaggeration)
        every = list(range(len(self.body.hinged)))
        angles = (-furthest, -furthest / 2, 0.0, furthest / 2, furthest)
        swept = [self._turning.at(every, [d] * len(every))[1] for d in angles] if every else []
        # of each face its corners at all angles
        clouds = list(np.concatenate(swept, axis=1)) if swept else []
        discs = _disc_ends(self.motors)
        for k in range(0, len(discs), 4):
            hub = discs[k : k + 4].mean(axis=0)
            clouds.append(hub + 1.2 * (discs[k : k + 4] - hub))
        if not clouds:
            return out
        pixels = [self.camera.pixels(q) for q in clouds]
        low = np.array([p.min(axis=0) for p in pixels]) - 2
        high = np.array([p.max(axis=0) for p in pixels]) + 2
        far = np.array([float((q @ towards).min()) for q in clouds])
        seen = np.flatnonzero(self._batch.seen[: self._first])
        boxes, depth = self._batch.boxes[seen], self._batch.depth[seen]
        begin, end = boxes[:, None, :2], boxes[:, None, 2:]
        meets = np.all((begin < high) & (end > low), axis=2) & (depth[:, None] > far - 5)
        out[seen] = meets.any(axis=1)
        return out


def _disc_ends(motors: tuple[Motor, ...]) -> Array:
    """The corners of every propeller's disc, shape (N, 3)."""
    ends = [
        (m.x_mm, m.y_mm + a * m.propeller_mm / 2, m.z_mm + b * m.propeller_mm / 2)
        for m in motors
        for a, b in ((1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    return np.array(ends, float).reshape(-1, 3)
