# SPDX-License-Identifier: GPL-3.0-or-later
"""Shaded faces ready to paint: sorted by depth, tinted by the light."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from hypsos.desk.bench.camera import Camera
from hypsos.desk.theme.look import look

Array = NDArray[np.float64]
Places = NDArray[np.intp]
LIGHT = np.array([-0.35, -0.5, 0.85]) / np.linalg.norm([-0.35, -0.5, 0.85])
MATERIALS = {
    "wing": "wing", "body": "body", "glass": "glass", "dark": "dark", "surface": "surface", "left tip": "rust",
    "right tip": "sea", "belly": "sea", "wheel": "dark", "metal": "edge",
}  # fmt: skip
LEVELS = 24


class Batch:
    """All faces of a picture, ready to paint: depth, (left, top, right, bottom), whether it is
    seen, polygon, (material, light), and the part each belongs to."""

    def __init__(self, materials: list[str], parts: list[str]) -> None:
        count = len(materials)
        self.materials, self.parts = materials, parts
        self.depth, self.boxes, self.seen = (
            np.zeros(count),
            np.zeros((count, 4)),
            np.zeros(count, bool),
        )
        self.polygons = [QPolygonF()] * count
        self.inks = [("", 0)] * count

    def put(
        self, rows: Places, camera: Camera, corners: Array, normals: Array, nearer: float = 0.0
    ) -> None:
        """Faces as they stand now; those turned away from the eye are not seen. ``nearer``: so much
        before the others."""
        towards = camera.basis()[2]
        shown = normals @ towards > 0.0
        self.seen[rows] = shown
        rows, corners = rows[shown], corners[shown]
        light = 0.58 + 0.42 * np.clip(normals[shown] @ LIGHT, -0.35, 1.0)
        levels = np.clip((light * LEVELS).astype(int), 0, LEVELS).tolist()
        flat = camera.pixels(corners)
        self.depth[rows] = corners.mean(axis=1) @ towards + nearer
        self.boxes[rows, :2], self.boxes[rows, 2:] = flat.min(axis=1), flat.max(axis=1)
        for i, level, quad in zip(rows.tolist(), levels, flat.tolist(), strict=True):
            self.polygons[i] = QPolygonF([QPointF(x, y) for x, y in quad])
            self.inks[i] = (self.materials[i], level)

    def bounds(self, rows: Places) -> QRectF:
        """The rectangle around those of these faces that are seen."""
        boxes = self.boxes[rows][self.seen[rows]]
        if not len(boxes):
            return QRectF()
        (left, top), (right, bottom) = (
            boxes[:, :2].min(axis=0).tolist(),
            boxes[:, 2:].max(axis=0).tolist(),
        )
        return QRectF(left, top, right - left, bottom - top)

    def within(self, areas: list[QRectF]) -> list[int]:
        """The seen faces that touch any of these rectangles, the furthest first."""
        shown = np.flatnonzero(self.seen)
        found = shown[touching(self.boxes[shown], areas, 1.0)]
        places: list[int] = found[np.argsort(self.depth[found], kind="stable")].tolist()
        return places


def boxes_of(areas: Sequence[QRectF]) -> Array:
    """Rectangles as (left, top, right, bottom), shape (N, 4)."""
    return np.array([r.getCoords() for r in areas]).reshape(-1, 4)


def touching(boxes: Array, areas: Sequence[QRectF], margin: float = 0.0) -> NDArray[np.bool_]:
    """Which of the boxes (N, 4) touch any of the rectangles, or come as near as ``margin``."""
    around, (left, top, right, bottom) = boxes_of(areas), boxes.T[:, :, None]
    meets = (around[:, 0] - margin <= right) & (around[:, 2] + margin >= left)
    meets &= (around[:, 1] - margin <= bottom) & (around[:, 3] + margin >= top)
    return np.asarray(meets.any(axis=1))


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
            tint = QColor(
                *(min(255, int(c * level)) for c in (base.red(), base.green(), base.blue()))
            )
            found.append((QPen(tint, 0), QBrush(tint)))
        _ramps[key] = found
    return found


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
