# SPDX-License-Identifier: GPL-3.0-or-later
"""What moves as one edge moves by one angle: what the behaviours of a wing's trailing edge have in
common.

Percent are percent of each surface's own throws. On flaps that go 12° up and 70° down beside
ailerons that go 25° both ways, the same percent are very different angles, and the edge breaks. So
a behaviour may go by one angle: its 100 % are so many degrees for all that it moves, and its lines
give degrees (see ``by_angle`` of a mix line)."""

from collections.abc import Iterable
from math import asin, degrees
from typing import Annotated, Any

from pydantic import Field

from hypsos.core.base.values import Travel
from hypsos.core.parts.airframe import Airframe, Surface
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.recipe_base import Parameter, RecipeBase

EdgeDegrees = Annotated[float, Field(gt=0, le=90)]
EDGE = Parameter(
    "edge_deg",
    "100 % is",
    "At 100 % all sections turn by this angle. Without it each goes by its own travel.",
    kind="edge",
)


class OneEdge(RecipeBase):
    """A behaviour whose parts go by one angle, ``edge_deg`` at 100 %; by each surface's own travel
    where that is None."""

    edge_deg: EdgeDegrees | None = None

    def times(self, key: str) -> str | None:
        """The shared value that multiplies a share of the edge, if any."""
        found: str | None = getattr(self, f"{key}_from", None)
        return found

    def edge_percent(self, surface: Surface, value: float, unit: str) -> float:
        """So many ``mm`` at a surface's trailing edge, or degrees, in percent of the edge's angle;
        percent as they are."""
        assert self.edge_deg is not None
        if unit == "%":
            return value
        return 100.0 * (angle_at(surface, value) if unit == "mm" else value) / self.edge_deg

    def edge_line(self, gain: float = 100.0, **fields: Any) -> MixLine:
        """A line to one of the parts that move as one edge; ``gain`` in percent of the
        behaviour."""
        if self.edge_deg is None:
            return MixLine(gain=gain, **fields)
        return MixLine(gain=gain * self.edge_deg / 100.0, by_angle=True, **fields)


def named(body: Airframe, names: Iterable[str]) -> list[Surface]:
    """The surfaces of these names, in the order of the airframe."""
    wanted = set(names)
    return [s for s in body.surfaces if s.name in wanted]


def edge_of(body: Airframe, names: Iterable[str]) -> float | None:
    """The angle that is 100 % of what these surfaces do as one edge: the full throw of the first of
    them, ailerons first.

    None where all of them have one throw both ways: percent and angle are the same then.
    """
    moved = sorted(named(body, names), key=lambda s: s.role == "flap")
    throws = {s.throw_up_deg for s in moved} | {s.throw_down_deg for s in moved}
    if len(throws) < 2:
        return None
    return max(moved[0].throw_up_deg, moved[0].throw_down_deg)


def edge_angle(body: Airframe, names: Iterable[str]) -> float:
    """The same where a person asks for it, also of surfaces that all have one throw."""
    moved = list(names)
    return edge_of(body, moved) or named(body, moved)[0].throw_down_deg


def share_of(body: Airframe, names: Iterable[str], angle_deg: float) -> float:
    """How many percent of what these surfaces do as one edge so many degrees are; a whole number,
    100 at the most."""
    moved = named(body, names)
    full = edge_angle(body, [s.name for s in moved])
    return float(min(100, round(100.0 * angle_deg / full)))


def travel_of(surfaces: Iterable[Surface], angle_deg: float) -> Travel:
    """How many percent of a surface's own travel give an angle, + is down; a whole number, within
    what it can do. Of several the first is taken."""
    first = next(iter(surfaces))
    throw = first.throw_up_deg if angle_deg < 0 else first.throw_down_deg
    return float(max(-100, min(100, round(100.0 * angle_deg / throw))))


def angle_at(surface: Surface, mm: float) -> float:
    """The angle at which a ruler at the trailing edge reads so many millimetres: ``mm = 2 c
    sin(d/2)``."""
    return 2 * degrees(asin(min(1.0, abs(mm) / (2 * surface.chord_mm)))) * (1 if mm >= 0 else -1)


def high_wing(body: Airframe) -> bool:
    """Whether the wing sits on top of the body: there flaps pull the nose up, on a low wing nobody
    knows beforehand."""
    wing = body.panel("wing")
    return wing is not None and wing.z_mm > 0.25 * body.fuselage.height_mm
