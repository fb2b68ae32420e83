# SPDX-License-Identifier: GPL-3.0-or-later
"""What the two sides of a wing do at full roll, as a ruler reads it, and how much less that is on
the side going down."""

from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.fitting.throw_settings import place_of
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.recipes import Recipe
from hypsos.core.wording.words import part_named

APART = 12.0
"""So many percent may lie between the differential that is asked for and the one a ruler finds."""


class RollMovement(NamedTuple):
    """At full roll, both as positive figures; ``asked`` is the differential that is set, in
    percent."""

    up_deg: float
    down_deg: float
    up_mm: float
    down_mm: float
    asked: float

    @property
    def less(self) -> float:
        """How much less the side going down moves, in percent of the one going up."""
        return 100.0 * (1.0 - self.down_mm / self.up_mm) if self.up_mm else 0.0

    @property
    def as_asked(self) -> bool:
        """Whether a ruler finds about the differential that is asked for."""
        return abs(self.less - self.asked) <= APART


def roll_movement(model: Model, recipe: Recipe) -> RollMovement | None:
    """What a behaviour does with its sides at full roll; None for one that doesn't roll, or one
    whose differential goes by a shared value."""
    shares = recipe.roll_shares()
    if shares is None:
        return None
    part = part_named(model, shares.surface)
    if not isinstance(part, Surface):
        return None
    edge = getattr(recipe, "edge_deg", None)
    ends = []
    for percent in (-shares.up, shares.down):
        if edge is None:
            deg, mm = place_of(model, shares.surface, percent)
        else:
            deg = percent * edge / 100.0
            mm = float(ruler_mm(deg, part.chord_mm))
        ends.append((abs(deg), abs(mm or 0.0)))
    (up_deg, up_mm), (down_deg, down_mm) = ends
    asked = 100.0 * (1.0 - shares.down / shares.up)
    return RollMovement(up_deg, down_deg, up_mm, down_mm, asked)
