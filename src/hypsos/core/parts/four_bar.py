# SPDX-License-Identifier: GPL-3.0-or-later
"""The linkage from servo arm to surface: a planar four-bar, solved in closed form.

Servo pivot at the origin, the surface's hinge at (D, -e). Angles are measured from the y axis
towards +x, in degrees."""

import math
from functools import cache, lru_cache
from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from pydantic import Field

from hypsos.core.base.backends import ARRAYS, FRAME, Array, Backend, Signal
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.values import Value

Short = Annotated[float, Field(gt=0, le=500)]


class Linkage(Value):
    """Arm and horn radius, hinge place, neutral angles; ``servo_deg`` is the servo's turn at 100 %
    output. ``flush`` is where the servo stands, in percent of its travel, when the surface is
    flush: 0 unless the arm was set off on purpose.

    The pushrod's length follows from the neutral angles. ``arm_deg`` and ``horn_deg`` are the
    neutral angles of arm and horn."""

    arm_mm: Short
    horn_mm: Short
    distance_mm: Annotated[float, Field(gt=0, le=2000)]
    offset_mm: Annotated[float, Field(ge=-500, le=500)] = 0.0
    arm_deg: Annotated[float, Field(ge=-80, le=80)] = 0.0
    horn_deg: Annotated[float, Field(ge=-80, le=80)] = 0.0
    servo_deg: Annotated[float, Field(gt=0, le=90)] = 45.0
    flush: Annotated[float, Field(ge=-100, le=100)] = 0.0


class _Bar(NamedTuple):
    """One side of the four-bar: its pivot's place, radius and neutral angle (radians)."""

    x: float
    y: float
    radius: float
    angle: float

    def tip(self) -> tuple[float, float]:
        return self.x + self.radius * math.sin(self.angle), self.y + self.radius * math.cos(
            self.angle
        )


def _bars(linkage: Linkage) -> tuple[_Bar, _Bar]:
    servo = _Bar(0.0, 0.0, linkage.arm_mm, math.radians(linkage.arm_deg))
    return servo, _Bar(
        linkage.distance_mm, -linkage.offset_mm, linkage.horn_mm, math.radians(linkage.horn_deg)
    )


class Solver:
    """The driven bar's turn (radians) for the driver's; NaN where the rod does not reach.

    With v from the driven pivot to the driver's tip and L the rod, ``|v| cos(b - phi) = (|v|^2 +
    r^2 - L^2) / (2 r)``; of the two solutions the one continuous with neutral is taken."""

    def __init__(self, driver: _Bar, driven: _Bar) -> None:
        self.driver, self.driven = driver, driven
        # the rod is as long as it has to be for both to stand at their neutral angles; its
        # square is what is used
        self.rod = math.dist(driver.tip(), driven.tip()) ** 2
        phi, half = self._solve(driver.angle, FRAME)
        # a rod can be held on two sides; at neutral one of them is where the horn really stands
        self.branch = min(
            (1.0, -1.0), key=lambda s: abs(float(_wrapped(phi + s * half - driven.angle)))
        )

    def _solve(self, angle: Signal, backend: Backend) -> tuple[Signal, Signal]:
        driver, driven = self.driver, self.driven
        # v: from the driven pivot to the driver's tip
        x = driver.x - driven.x + driver.radius * backend.sin(angle)
        y = driver.y - driven.y + driver.radius * backend.cos(angle)
        square = x * x + y * y
        share = (square + driven.radius**2 - self.rod) / (2 * driven.radius * backend.sqrt(square))
        return backend.arctan2(x, y), backend.arccos(share)

    def degrees(self, turn_deg: Signal, backend: Backend = ARRAYS) -> Signal:
        """The driven bar's turn for the driver's, both in degrees."""
        phi, half = self._solve(self.driver.angle + turn_deg * DEGREE, backend)
        return _wrapped(phi + self.branch * half - self.driven.angle) / DEGREE


DEGREE = math.pi / 180.0


def rod_mm(linkage: Linkage) -> float:
    """The length of the pushrod, hole to hole, as it follows from the neutral angles.

    >>> round(rod_mm(Linkage(arm_mm=10, horn_mm=10, distance_mm=60)), 6)
    60.0
    """
    return math.sqrt(solvers(linkage)[0].rod)


@cache
def solvers(linkage: Linkage) -> tuple[Solver, Solver]:
    """From servo to surface, and back."""
    servo, horn = _bars(linkage)
    return Solver(servo, horn), Solver(horn, servo)


def _wrapped(angle: Signal) -> Signal:
    return (angle + math.pi) % (2 * math.pi) - math.pi


def deflection(linkage: Linkage, theta_deg: ArrayLike) -> Array:
    """The surface's deflection in degrees for a servo turn in degrees, any shape; NaN beyond where
    the linkage binds."""
    with np.errstate(invalid="ignore"):
        return np.asarray(solvers(linkage)[0].degrees(np.asarray(theta_deg, float)))


@lru_cache(maxsize=256)
def binds_at(linkage: Linkage, low_deg: float, high_deg: float) -> float | None:
    """The first servo turn from neutral within low...high at which the rod does not reach, in
    degrees, or None."""
    # from the middle outwards, to the nearest place at which it binds
    for end in (low_deg, high_deg):
        turns = np.linspace(0.0, end, 181)
        stuck = np.flatnonzero(~np.isfinite(deflection(linkage, turns)))
        if stuck.size:
            return float(turns[stuck[0]])
    return None


def servo_turn(linkage: Linkage, deflection_deg: ArrayLike) -> Array:
    """The servo turn in degrees that gives a deflection in degrees. Raises HypsosError when it is
    out of reach."""
    wanted = np.asarray(deflection_deg, float)
    with np.errstate(invalid="ignore"):
        turn = np.asarray(solvers(linkage)[1].degrees(wanted))
    # it has to get there, too: a place behind a dead point is none
    way = deflection(linkage, turn[..., None] * np.linspace(0.0, 1.0, 33))
    if not np.all(np.isfinite(turn)) or not np.all(np.isfinite(way)):
        text = f"the linkage cannot reach {np.max(np.abs(wanted)):.1f}°"
        raise HypsosError(text, "", "Use a longer servo arm or a shorter horn, or ask for less.")
    return turn
