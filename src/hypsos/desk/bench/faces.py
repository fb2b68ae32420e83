"""Shaded faces ready to paint: sorted by depth, tinted by the light."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from hypsos.desk.bench.camera import Camera
from hypsos.desk.theme.look import look

Array = NDArray[np.float64]
LIGHT = np.array([-0.35, -0.5, 0.85]) / np.linalg.norm([-0.35, -0.5, 0.85])
MATERIALS = {
    "wing": "wing", "body": "body", "glass": "glass", "dark": "dark", "surface": "surface", "left tip": "rust",
    "right tip": "sea", "belly": "sea", "wheel": "dark", "metal": "edge",
}  # fmt: skip
LEVELS = 24


@dataclass
class Batch:
    """Faces that are seen, ready to paint: depth, (left, top, right, bottom), polygon, (material, light), part."""

    depth: Array
    boxes: Array
    polygons: list[QPolygonF]
    inks: list[tuple[str, int]]
    parts: list[str]

    def only(self, kept: list[int]) -> Batch:
        """These faces of it."""
        pick = [self.polygons[i] for i in kept], [self.inks[i] for i in kept], [self.parts[i] for i in kept]
        return Batch(self.depth[kept], self.boxes[kept], *pick)

    def bounds(self) -> QRectF:
        """The rectangle around all of it."""
        if not self.polygons:
            return QRectF()
        low, high = self.boxes[:, :2].min(axis=0), self.boxes[:, 2:].max(axis=0)
        return QRectF(low[0], low[1], high[0] - low[0], high[1] - low[1])

    @staticmethod
    def joined(batches: list[Batch]) -> Batch:
        """All of them as one."""
        if not batches:
            return Batch.empty()
        return Batch(
            np.concatenate([b.depth for b in batches]),
            np.concatenate([b.boxes for b in batches]),
            [p for b in batches for p in b.polygons],
            [i for b in batches for i in b.inks],
            [p for b in batches for p in b.parts],
        )

    def within(self, areas: list[QRectF]) -> Array:
        """Flags for the faces that touch any of these rectangles."""
        out = np.zeros(len(self.polygons), bool)
        for r in areas:
            apart = (self.boxes[:, 0] > r.right() + 1) | (self.boxes[:, 2] < r.left() - 1)
            apart |= (self.boxes[:, 1] > r.bottom() + 1) | (self.boxes[:, 3] < r.top() - 1)
            out |= ~apart
        return out

    @staticmethod
    def empty() -> Batch:
        return Batch(np.zeros(0), np.zeros((0, 4)), [], [], [])

    @staticmethod
    def of(
        camera: Camera,
        basis: Array,
        corners: Array,
        normals: Array,
        materials: list[str],
        parts: list[str],
        nearer: float,
    ) -> Batch:
        seen = np.flatnonzero(normals @ basis[2] > 0.0)
        corners = corners[seen]
        light = 0.58 + 0.42 * np.clip(normals[seen] @ LIGHT, -0.35, 1.0)
        levels = np.clip((light * LEVELS).astype(int), 0, LEVELS).tolist()
        flat = camera.pixels(corners)
        boxes = np.concatenate([flat.min(axis=1), flat.max(axis=1)], axis=1)
        polygons = [QPolygonF([QPointF(x, y) for x, y in quad]) for quad in flat.tolist()]
        places = seen.tolist()
        inks = [(materials[i], level) for i, level in zip(places, levels, strict=True)]
        return Batch(corners.mean(axis=1) @ basis[2] + nearer, boxes, polygons, inks, [parts[i] for i in places])


_ramps: dict[tuple[str, str], list[tuple[QPen, QBrush]]] = {}


def ramp(material: str) -> list[tuple[QPen, QBrush]]:
    """A material's pens and brushes from shade to light."""
    key = (look.palette.name, material)
    found = _ramps.get(key)
    if found is None:
        base = look.colour(MATERIALS[material])
        found = []
        for i in range(LEVELS + 1):
            level = 1.04 * i / LEVELS
            tint = QColor(*(min(255, int(c * level)) for c in (base.red(), base.green(), base.blue())))
            found.append((QPen(tint, 0), QBrush(tint)))
        _ramps[key] = found
    return found


def blend(a: QColor, b: QColor, share: float) -> QColor:
    """A colour between two, ``share`` of the way from ``a`` to ``b``."""
    pairs = ((a.red(), b.red()), (a.green(), b.green()), (a.blue(), b.blue()))
    return QColor(*(round(x + (y - x) * share) for x, y in pairs))


def hatch(painter: QPainter, polygon: QPolygonF, crossed: bool) -> None:
    """Lines over a face: slanting where it is cut off, crossed where the failsafe holds it."""
    style = Qt.BrushStyle.DiagCrossPattern if crossed else Qt.BrushStyle.BDiagPattern
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(look.colour("dark"), style))
    painter.drawPolygon(polygon)


def point(xy: Array) -> QPointF:
    """A pixel as Qt wants it."""
    return QPointF(float(xy[0]), float(xy[1]))


def polygon(xy: Array) -> QPolygonF:
    """Pixels (N, 2) as Qt wants them."""
    return QPolygonF([QPointF(x, y) for x, y in xy.tolist()])
