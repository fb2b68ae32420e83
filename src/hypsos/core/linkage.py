"""The linkage from servo arm to surface: a planar four-bar, solved in closed form.

Servo pivot at the origin, the surface's hinge at (D, -e). Angles are measured from the y axis towards +x, in degrees.
"""

from __future__ import annotations

from dataclasses import dataclass
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


def _driven(driver: _Bar, driven: _Bar, turn: Array) -> Array:
    """The driven bar's turn (radians) for the driver's; NaN where the rod does not reach.

    With v from the driven pivot to the driver's tip and L the rod, ``|v| cos(b - phi) = (|v|^2 + r^2 - L^2) / (2 r)``;
    of the two solutions the one continuous with neutral is taken.
    """
    rod = float(np.sum((_tip(driver, np.array(driver.angle)) - _tip(driven, np.array(driven.angle))) ** 2))

    def solve(angle: Array) -> tuple[Array, Array]:
        v = _tip(driver, angle) - driven.pivot
        square = np.sum(v * v, axis=-1)
        share = (square + driven.radius**2 - rod) / (2 * driven.radius * np.sqrt(square))
        with np.errstate(invalid="ignore"):
            return np.arctan2(v[..., 0], v[..., 1]), np.arccos(np.where(np.abs(share) <= 1, share, np.nan))

    phi0, half0 = solve(np.array(driver.angle))
    branch = min((1.0, -1.0), key=lambda s: abs(_wrapped(phi0 + s * half0 - driven.angle)))
    phi, half = solve(driver.angle + turn)
    return _wrapped(phi + branch * half - driven.angle)


def _wrapped(angle: Array) -> Array:
    return np.asarray((angle + np.pi) % (2 * np.pi) - np.pi)


def _reaches(driver: _Bar, driven: _Bar, turn: Array) -> Array:
    """Flags: every angle on the way from neutral to the turn is solvable."""
    steps = np.linspace(0.0, 1.0, 33)
    return np.asarray(np.isfinite(_driven(driver, driven, turn[..., None] * steps)).all(axis=-1))


def deflection(linkage: Linkage, theta_deg: ArrayLike) -> Array:
    """The surface's deflection in degrees for a servo turn in degrees, any shape; NaN beyond where the linkage binds."""
    servo, horn = _bars(linkage)
    return np.degrees(_driven(servo, horn, np.radians(np.asarray(theta_deg, float))))


def binds_at(linkage: Linkage, low_deg: float, high_deg: float) -> float | None:
    """The first servo turn from neutral within low...high at which the rod does not reach, in degrees, or None."""
    servo, horn = _bars(linkage)
    for end in (low_deg, high_deg):
        turns = np.linspace(0.0, end, 181)
        stuck = np.flatnonzero(~np.isfinite(_driven(servo, horn, np.radians(turns))))
        if stuck.size:
            return float(turns[stuck[0]])
    return None


def servo_turn(linkage: Linkage, deflection_deg: ArrayLike) -> Array:
    """The servo turn in degrees that gives a deflection in degrees. Raises HypsosError when it is out of reach."""
    servo, horn = _bars(linkage)
    wanted = np.radians(np.asarray(deflection_deg, float))
    turn = np.degrees(_driven(horn, servo, wanted))
    if not np.all(np.isfinite(turn)) or not np.all(_reaches(servo, horn, np.radians(turn))):
        text = f"the linkage cannot reach {np.max(np.abs(np.degrees(wanted))):.1f}°"
        raise HypsosError(text, "", "Use a longer servo arm or a shorter horn, or ask for less.")
    return turn
