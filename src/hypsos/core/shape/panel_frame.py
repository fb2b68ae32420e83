# SPDX-License-Identifier: GPL-3.0-or-later
"""A panel of the wing or the tail in space."""

from __future__ import annotations

import numpy as np

from hypsos.core.parts.airframe import Panel
from hypsos.core.shape.solid_faces import Array

AFT = np.array([1.0, 0.0, 0.0])


class PanelFrame:
    """A half of a panel as a coordinate frame: eta along the span, xi along the chord, w along the
    thickness."""

    def __init__(self, panel: Panel, side: float) -> None:
        self.panel = panel
        self.side = side
        self.half = panel.half_span_mm
        tilt = np.radians(panel.dihedral_deg)
        self.root = np.array([panel.x_mm, side * panel.y_mm, panel.z_mm])
        if panel.arrangement != "pair":
            self.span, self.normal = np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0])
            self.vertical = True
        else:
            self.span = np.array([0.0, side * np.cos(tilt), np.sin(tilt)])
            self.normal = np.array([0.0, -side * np.sin(tilt), np.cos(tilt)])
            self.vertical = False

    def chord(self, eta: float | Array) -> Array:
        """The chord in mm at one place of the span, or at many."""
        p = self.panel
        return np.asarray(
            p.root_chord_mm
            + (p.tip_chord_mm - p.root_chord_mm) * np.asarray(eta, float) / self.half
        )

    def point(self, eta: float | Array, xi: float | Array, w: float | Array = 0.0) -> Array:
        """Points (..., 3) for places that go together as NumPy has it: ``eta`` in mm, ``xi`` and
        ``w`` as shares of the chord."""
        chord = self.chord(eta)
        out = (self.panel.sweep_mm / self.half * AFT + self.span) * np.asarray(eta, float)[
            ..., None
        ]
        along, across = (
            (np.asarray(xi, float) * chord)[..., None],
            (np.asarray(w, float) * chord)[..., None],
        )
        return np.asarray(self.root + out + along * AFT + across * self.normal)

    def thickness(self, xi: Array | float) -> tuple[Array, Array]:
        """Upper and lower outline at shares of the chord (a symmetric thickness law, flattened
        below on a wing)."""
        x = np.asarray(xi, float)
        t = self.panel.thickness
        half = (
            5
            * t
            * (0.2969 * np.sqrt(x) - 0.126 * x - 0.3516 * x**2 + 0.2843 * x**3 - 0.1036 * x**4)
        )
        camber = 0.0 if self.vertical else 0.35 * t * x * (1 - x)
        return half + camber, -half + camber

    def outline(self) -> Array:
        return self.point(
            np.array([0.0, self.half, self.half, 0.0]), np.array([0.0, 0.0, 1.0, 1.0])
        )
