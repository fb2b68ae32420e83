"""Faces in millimetres, and parts on their hinges."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Faces(NamedTuple):
    """``corners`` (N, 4, 3) in millimetres, ``normals`` (N, 3) outward, ``material`` one name for all."""

    corners: Array
    normals: Array
    material: str
    part: str = ""


class Hinged(NamedTuple):
    """A moved part at neutral with its hinge: a point, and a unit axis about which + turns down (or right).

    ``trailing_edge`` and ``hinge`` are the two ends of each, shape (2, 3); ``panel`` the panel's direction outward.
    """

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

    def edge_at(self, degrees: float) -> Array:
        """The trailing edge's two ends at a deflection, shape (2, 3)."""
        return rotated(self.trailing_edge - self.pivot, self.axis, np.radians(degrees)) + self.pivot


def rotated(v: Array, axis: Array, angle: float) -> Array:
    """Vectors (..., 3) turned about a unit axis by an angle in radians (Rodrigues' formula)."""
    cos, sin = np.cos(angle), np.sin(angle)
    x, y, z = axis
    skew = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    matrix = cos * np.eye(3) + sin * skew + (1 - cos) * np.outer(axis, axis)
    return np.asarray(v @ matrix.T)


def of_quads(quads: list[Array], outward: list[Array], material: str, part: str = "") -> Faces:
    corners = np.array(quads)
    a, b = corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1]
    normals = np.cross(a, b)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = normals / np.where(length > 0, length, 1)
    flip = np.einsum("ij,ij->i", normals, np.array(outward)) < 0
    normals[flip] *= -1
    return Faces(corners, normals, material, part)
