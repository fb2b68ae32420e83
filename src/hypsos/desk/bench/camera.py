# SPDX-License-Identifier: GPL-3.0-or-later
"""The eye: turns millimetres into pixels, plain orthographic."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

VIEWS = {"behind": (14.0, 32.0), "above": (0.0, 89.0), "side": (90.0, 8.0)}
"""Name -> (turned by, raised by) in degrees; behind is where the pilot stands."""


@dataclass(frozen=True)
class Camera:
    """``turn`` about the vertical and ``rise`` above the horizon in degrees; ``scale`` in pixels
    per millimetre."""

    turn: float
    rise: float
    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0

    def basis(self) -> Array:
        """Rows: right on the screen, up on the screen, towards the viewer."""
        return self._basis

    @cached_property
    def _basis(self) -> Array:
        t, r = np.radians(self.turn), np.radians(self.rise)
        # the model turned by t about z; the viewer stands aft (+x) and above
        right = np.array([np.sin(t), np.cos(t), 0.0])
        back = np.array([np.cos(t), -np.sin(t), 0.0])
        up = np.array([0.0, 0.0, 1.0]) * np.cos(r) - back * np.sin(r)
        towards = back * np.cos(r) + np.array([0.0, 0.0, 1.0]) * np.sin(r)
        return np.array([right, up, towards])

    def pixels(self, points: Array) -> Array:
        """Points (..., 3) in millimetres to (..., 2) pixels, y down."""
        return np.asarray(points @ self._to_pixels + self._origin)

    @cached_property
    def _to_pixels(self) -> Array:
        return np.stack([self.scale * self._basis[0], -self.scale * self._basis[1]], axis=1)

    @cached_property
    def _origin(self) -> Array:
        return np.array([self.x, self.y])

    def fitted(self, points: Array, width: float, height: float, cx: float, cy: float) -> Camera:
        """The same eye, near enough that the points fill a box of this size about a centre."""
        b = self.basis()
        across, upward = points @ b[0], points @ b[1]
        wide, tall = np.ptp(across), np.ptp(upward)
        scale = float(min(width / max(wide, 1e-6), height / max(tall, 1e-6)))
        mid_x, mid_y = (across.max() + across.min()) / 2, (upward.max() + upward.min()) / 2
        return Camera(
            self.turn, self.rise, scale, cx - scale * float(mid_x), cy + scale * float(mid_y)
        )
