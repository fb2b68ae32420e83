# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces in millimetres, and parts on their hinges."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Faces(NamedTuple):
    """``corners`` (N, 4, 3) in millimetres, ``normals`` (N, 3) outward, ``material`` one name for
    all."""

    corners: Array
    normals: Array
    material: str
    part: str = ""


class Hinged(NamedTuple):
    """A moved part at neutral with its hinge: a point, and a unit axis about which + turns down (or
    right).

    ``trailing_edge`` and ``hinge`` are the two ends of each, shape (2, 3); ``panel`` the panel's
    direction outward."""

    name: str
    faces: Faces
    pivot: Array
    axis: Array
    trailing_edge: Array
    hinge: Array

    def turned(self, degrees: float) -> Faces:
        """The faces at a deflection in degrees."""
        angle = np.radians(degrees)
        return Faces(
            rotated(self.faces.corners - self.pivot, self.axis, angle) + self.pivot,
            rotated(self.faces.normals, self.axis, angle),
            self.faces.material,
            self.faces.part,
        )


def rotated(v: Array, axis: Array, angle: float) -> Array:
    """Vectors (..., 3) turned about a unit axis by an angle in radians."""
    return np.asarray(v @ rotations(axis[None], np.array([angle]))[0])


def rotations(axes: Array, angles: Array) -> Array:
    """For unit axes (N, 3) and angles (N,) in radians the matrices (N, 3, 3) that turn row vectors
    from the right (Rodrigues' formula, transposed)."""
    cos, sin = np.cos(angles)[:, None], np.sin(angles)[:, None]
    out = (1 - cos)[..., None] * axes[:, :, None] * axes[:, None, :]
    out[:, (0, 1, 2), (0, 1, 2)] += cos
    out[:, (1, 2, 0), (2, 0, 1)] += sin * axes
    out[:, (2, 0, 1), (1, 2, 0)] -= sin * axes
    return np.asarray(out)


class Turning:
    """Hinged parts made ready to be turned together: all their corners, normals and trailing edges
    at once."""

    def __init__(self, parts: Sequence[Hinged]) -> None:
        counts = [len(p.faces.corners) for p in parts]
        ends = np.cumsum([0, *counts])
        self.rows = [np.arange(a, b) for a, b in pairwise(ends.tolist())]
        """The faces of each part, as places among all."""
        self.count = int(ends[-1])
        self._owner = np.repeat(np.arange(len(parts)), counts)
        self._axes = np.array([p.axis for p in parts]).reshape(-1, 3)
        self._pivots = np.array([p.pivot for p in parts]).reshape(-1, 3)
        self._corners = np.concatenate(
            [np.zeros((0, 4, 3)), *(p.faces.corners - p.pivot for p in parts)]
        )
        self._normals = np.concatenate([np.zeros((0, 3)), *(p.faces.normals for p in parts)])
        self._edges = np.array([p.trailing_edge - p.pivot for p in parts]).reshape(-1, 2, 3)

    def at(
        self, which: list[int], degrees: list[float]
    ) -> tuple[NDArray[np.intp], Array, Array, Array]:
        """Some of the parts at their deflections: places of their faces, corners, normals, trailing
        edges (parts, 2, 3)."""
        places = np.array(which, np.intp)
        turns = rotations(self._axes[places], np.radians(degrees))
        rows = np.concatenate([self.rows[i] for i in which])
        mine = np.repeat(np.arange(len(which)), [len(self.rows[i]) for i in which])
        corners = self._corners[rows] @ turns[mine] + self._pivots[self._owner[rows]][:, None]
        normals = (self._normals[rows][:, None] @ turns[mine])[:, 0]
        return rows, corners, normals, self._edges[places] @ turns + self._pivots[places][:, None]


def of_quads(
    quads: Sequence[Array] | Array, outward: Sequence[Array] | Array, material: str, part: str = ""
) -> Faces:
    """Faces of quads (N, 4, 3) in any turn; each normal looks to the side of its ``outward`` (N,
    3)."""
    corners = np.asarray(quads)
    a, b = corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1]
    normals = a[:, [1, 2, 0]] * b[:, [2, 0, 1]] - a[:, [2, 0, 1]] * b[:, [1, 2, 0]]
    length = np.sqrt((normals**2).sum(axis=1, keepdims=True))
    normals = normals / np.where(length > 0, length, 1)
    normals[(normals * np.asarray(outward)).sum(axis=1) < 0] *= -1
    return Faces(corners, normals, material, part)
