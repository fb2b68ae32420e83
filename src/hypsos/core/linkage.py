"""The linkage from servo arm to surface: a planar four-bar, solved in closed form.

Servo pivot at the origin, the surface's hinge at (D, -e). Angles are measured from the y axis towards +x, in degrees.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Annotated

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field

from hypsos.core.errors import HypsosError
from hypsos.core.values import Value

Array = NDArray[np.float64]
Short = Annotated[float, Field(gt=0, le=500)]


class Linkage(Value):
    """Arm and horn radius, hinge place, neutral angles; ``servo_deg`` is the servo's turn at 100 % output.

    The pushrod's length follows from the neutral angles. ``arm_deg`` and ``horn_deg`` are the neutral angles of arm and horn.
    """

    arm_mm: Short
    horn_mm: Short
    distance_mm: Annotated[float, Field(gt=0, le=2000)]
    offset_mm: Annotated[float, Field(ge=-500, le=500)] = 0.0
    arm_deg: Annotated[float, Field(ge=-80, le=80)] = 0.0
    horn_deg: Annotated[float, Field(ge=-80, le=80)] = 0.0
    servo_deg: Annotated[float, Field(gt=0, le=90)] = 45.0


@dataclass(frozen=True)
class _Bar:
    """One side of the four-bar: pivot, radius and neutral angle (radians)."""

    pivot: Array
    radius: float
    angle: float


def _tip(bar: _Bar, angle: Array) -> Array:
    return np.asarray(bar.pivot + bar.radius * np.stack([np.sin(angle), np.cos(angle)], axis=-1))


def _bars(linkage: Linkage) -> tuple[_Bar, _Bar]:
    servo = _Bar(np.zeros(2), linkage.arm_mm, np.radians(linkage.arm_deg))
    hinge = np.array([linkage.distance_mm, -linkage.offset_mm])
    return servo, _Bar(hinge, linkage.horn_mm, np.radians(linkage.horn_deg))


class _Solver:
    """The driven bar's turn (radians) for the driver's; NaN where the rod does not reach.

    With v from the driven pivot to the driver's tip and L the rod, ``|v| cos(b - phi) = (|v|^2 + r^2 - L^2) / (2 r)``;
    of the two solutions the one continuous with neutral is taken.
    """

    def __init__(self, driver: _Bar, driven: _Bar) -> None:
        self.driver, self.driven = driver, driven
        self.rod = float(np.sum((_tip(driver, np.array(driver.angle)) - _tip(driven, np.array(driven.angle))) ** 2))
        phi, half = self._solve(np.array(driver.angle))
        self.branch = min((1.0, -1.0), key=lambda s: abs(float(_wrapped(phi + s * half - driven.angle))))

    def _solve(self, angle: Array) -> tuple[Array, Array]:
        driver, driven = self.driver, self.driven
        x = driver.pivot[0] - driven.pivot[0] + driver.radius * np.sin(angle)
        y = driver.pivot[1] - driven.pivot[1] + driver.radius * np.cos(angle)
        square = x * x + y * y
        share = (square + driven.radius**2 - self.rod) / (2 * driven.radius * np.sqrt(square))
        with np.errstate(invalid="ignore"):
            return np.arctan2(x, y), np.arccos(share)

    def turn(self, turn: Array) -> Array:
        phi, half = self._solve(self.driver.angle + turn)
        return _wrapped(phi + self.branch * half - self.driven.angle)


@cache
def _solvers(linkage: Linkage) -> tuple[_Solver, _Solver]:
    servo, horn = _bars(linkage)
    return _Solver(servo, horn), _Solver(horn, servo)


def _wrapped(angle: Array) -> Array:
    return np.asarray((angle + np.pi) % (2 * np.pi) - np.pi)


def deflection(linkage: Linkage, theta_deg: ArrayLike) -> Array:
    """The surface's deflection in degrees for a servo turn in degrees, any shape; NaN beyond where the linkage binds."""
    return np.degrees(_solvers(linkage)[0].turn(np.radians(np.asarray(theta_deg, float))))


def binds_at(linkage: Linkage, low_deg: float, high_deg: float) -> float | None:
    """The first servo turn from neutral within low...high at which the rod does not reach, in degrees, or None."""
    solver = _solvers(linkage)[0]
    for end in (low_deg, high_deg):
        turns = np.linspace(0.0, end, 181)
        stuck = np.flatnonzero(~np.isfinite(solver.turn(np.radians(turns))))
        if stuck.size:
            return float(turns[stuck[0]])
    return None


def servo_turn(linkage: Linkage, deflection_deg: ArrayLike) -> Array:
    """The servo turn in degrees that gives a deflection in degrees. Raises HypsosError when it is out of reach."""
    wanted = np.radians(np.asarray(deflection_deg, float))
    forward, backward = _solvers(linkage)
    turn = np.degrees(backward.turn(wanted))
    way = forward.turn(np.radians(turn)[..., None] * np.linspace(0.0, 1.0, 33))
    if not np.all(np.isfinite(turn)) or not np.all(np.isfinite(way)):
        text = f"the linkage cannot reach {np.max(np.abs(np.degrees(wanted))):.1f}°"
        raise HypsosError(text, "", "Use a longer servo arm or a shorter horn, or ask for less.")
    return turn
