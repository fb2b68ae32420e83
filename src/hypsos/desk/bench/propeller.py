"""A propeller: two blades that stand still, or turn inside a faint disc."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPen

from hypsos.core.parts.airframe import Motor
from hypsos.desk.bench.camera import Camera
from hypsos.desk.bench.faces import point, polygon
from hypsos.desk.theme.look import look

Array = NDArray[np.float64]


def rim(motor: Motor) -> Array:
    """The disc's edge, shape (49, 3)."""
    angle = np.linspace(0, 2 * np.pi, 49)
    hub = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
    return np.asarray(hub + motor.propeller_mm / 2 * np.stack([np.zeros(49), np.cos(angle), np.sin(angle)], axis=1))


def disc_box(camera: Camera, motor: Motor) -> QRectF:
    """The rectangle around a propeller on the screen, spinner included."""
    return polygon(camera.pixels(rim(motor))).boundingRect().adjusted(-12, -12, 12, 12)


def paint_propeller(painter: QPainter, camera: Camera, motor: Motor, angle: float, turning: bool) -> None:
    """Paint it with its first blade at an angle in radians."""
    hub = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
    radius = motor.propeller_mm / 2
    if turning:
        painter.setPen(QPen(look.colour("ink", 70), 1.0))
        painter.setBrush(look.colour("ink", 26))
        painter.drawPolygon(polygon(camera.pixels(rim(motor))))
    root, tip = 0.10 * radius, 0.055 * radius
    outline = (
        (0.05, root * 0.6), (0.35, root), (0.8, tip * 1.5), (1.0, tip * 0.4), (1.0, -tip * 0.4), (0.8, -tip),
        (0.35, -root * 0.7), (0.05, -root * 0.6),
    )  # fmt: skip
    for a in (angle, angle + np.pi):
        along, across = np.array([0, np.cos(a), np.sin(a)]), np.array([0.35, -np.sin(a), np.cos(a)])
        shape = np.array([hub + along * radius * r + across * w for r, w in outline])
        painter.setPen(QPen(look.colour("dark"), 0.7))
        painter.setBrush(look.colour("dark", 110 if turning else 255))
        painter.drawPolygon(polygon(camera.pixels(shape)))
    size = max(4.0, 0.115 * radius * camera.scale)
    painter.setPen(QPen(look.colour("dark"), 0.7))
    painter.setBrush(look.colour("rust"))
    for place in camera.pixels(np.array([hub, hub - [0.13 * radius, 0, 0]])):
        painter.drawEllipse(point(place), size, size)
