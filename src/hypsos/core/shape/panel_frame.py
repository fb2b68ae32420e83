"""A panel of the wing or the tail in space."""

from __future__ import annotations

import numpy as np

from hypsos.core.parts.airframe import Panel
from hypsos.core.shape.faces import Array

STATIONS = np.array([0.0, 0.025, 0.09, 0.22, 0.4, 0.6, 0.8, 1.0])
STRIP_MM = 130.0
AFT = np.array([1.0, 0.0, 0.0])


class PanelFrame:
    """A half of a panel as a coordinate frame: eta along the span, xi along the chord, w along the thickness."""

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

    def chord(self, eta: float) -> float:
        p = self.panel
        return p.root_chord_mm + (p.tip_chord_mm - p.root_chord_mm) * eta / self.half

    def point(self, eta: float, xi: float | Array, w: float | Array = 0.0) -> Array:
        """One point, or as many as ``xi`` and ``w`` have; ``w`` as a share of the chord."""
        p, chord = self.panel, self.chord(eta)
        lead = self.root + p.sweep_mm * eta / self.half * AFT
        along, across = np.asarray(xi, float)[..., None] * chord, np.asarray(w, float)[..., None] * chord
        return np.asarray(lead + eta * self.span + along * AFT + across * self.normal)

    def thickness(self, xi: Array | float) -> tuple[Array, Array]:
        """Upper and lower outline at shares of the chord (a symmetric thickness law, flattened below on a wing)."""
        x = np.asarray(xi, float)
        t = self.panel.thickness
        half = 5 * t * (0.2969 * np.sqrt(x) - 0.126 * x - 0.3516 * x**2 + 0.2843 * x**3 - 0.1036 * x**4)
        camber = 0.0 if self.vertical else 0.35 * t * x * (1 - x)
        return half + camber, -half + camber

    def outline(self) -> Array:
        corners = ((0.0, 0.0), (self.half, 0.0), (self.half, 1.0), (0.0, 1.0))
        return np.array([self.point(eta, xi) for eta, xi in corners])
