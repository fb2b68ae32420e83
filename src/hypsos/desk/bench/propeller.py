# SPDX-License-Identifier: GPL-3.0-or-later
"""A propeller: two blades that stand still, or turn inside a faint disc."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from hypsos.core.parts.airframe import Motor
from hypsos.desk.bench.camera import Camera
from hypsos.desk.bench.painted_faces import point, polygon
from hypsos.desk.theme.look import look


class Propeller:
    """One motor's propeller as one eye sees it."""

    def __init__(self, motor: Motor, camera: Camera) -> None:
        self.motor, self.camera = motor, camera
        self.hub = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
        self.depth = float(self.hub @ camera.basis()[2])
        self._radius = motor.propeller_mm / 2
        angle = np.linspace(0, 2 * np.pi, 49)
        circle = np.stack([np.zeros(49), np.cos(angle), np.sin(angle)], axis=1)
        self._rim = polygon(camera.pixels(self.hub + self._radius * circle))
        self.box = self._rim.boundingRect().adjusted(-12, -12, 12, 12)
        """The rectangle around it on the screen, spinner included."""
        self._spinner = [
            point(x)
            for x in camera.pixels(np.array([self.hub, self.hub - [0.13 * self._radius, 0, 0]]))
        ]
        self._stood: tuple[float, list[QPolygonF]] = (np.nan, [])

    def _blades(self, angle: float) -> list[QPolygonF]:
        if self._stood[0] != angle:
            radius, root, tip = self._radius, 0.10 * self._radius, 0.055 * self._radius
            along_across = np.array(
                [
                    (0.05, root * 0.6),
                    (0.35, root),
                    (0.8, tip * 1.5),
                    (1.0, tip * 0.4),
                    (1.0, -tip * 0.4),
                    (0.8, -tip),
                    (0.35, -root * 0.7),
                    (0.05, -root * 0.6),
                ]
            )
            shapes = []
            for a in (angle, angle + np.pi):
                ways = np.array(
                    [[0, radius * np.cos(a), radius * np.sin(a)], [0.35, -np.sin(a), np.cos(a)]]
                )
                shapes.append(polygon(self.camera.pixels(self.hub + along_across @ ways)))
            self._stood = (angle, shapes)
        return self._stood[1]

    def paint(self, painter: QPainter, angle: float, turning: bool) -> None:
        """Paint it with its first blade at an angle in radians."""
        if turning:
            painter.setPen(QPen(look.colour("ink", 70), 1.0))
            painter.setBrush(look.colour("ink", 26))
            painter.drawPolygon(self._rim)
        painter.setPen(QPen(look.colour("dark"), 0.7))
        painter.setBrush(look.colour("dark", 110 if turning else 255))
        for shape in self._blades(angle):
            painter.drawPolygon(shape)
        size = max(4.0, 0.115 * self._radius * self.camera.scale)
        painter.setBrush(look.colour("rust"))
        for place in self._spinner:
            painter.drawEllipse(place, size, size)
