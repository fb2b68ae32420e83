"""Percent, degrees and millimetres of a surface as one thing."""

from __future__ import annotations

import math

from hypsos.core.airframe import Surface
from hypsos.core.errors import HypsosError


def percent_from(surface: Surface, value: float, unit: str) -> float:
    """A deflection in ``mm`` at the trailing edge or in degrees, as percent of the surface's throw on that side.

    Raises HypsosError when a ruler could never read that much.

    >>> from hypsos.core.airframe import Surface
    >>> s = Surface(name="flap", label="Flap", role="flap", panel="wing", side="left", start_mm=0, end_mm=9,
    ...             chord_mm=50, throw_up_deg=20, throw_down_deg=40)
    >>> percent_from(s, 20, "deg"), round(percent_from(s, -2 * 50 * math.sin(math.radians(5)), "mm"), 6)
    (50.0, -50.0)
    """
    degrees = value
    if unit == "mm":
        share = abs(value) / (2 * surface.chord_mm)
        if share > 1:
            text = f"{abs(value):g} mm is more than {surface.label.lower()} can move"
            raise HypsosError(text, "", f"Its chord is {surface.chord_mm:g} mm.")
        degrees = math.copysign(2 * math.degrees(math.asin(share)), value)
    throw = surface.throw_up_deg if degrees < 0 else surface.throw_down_deg
    return round(100 * degrees / throw, 9)
