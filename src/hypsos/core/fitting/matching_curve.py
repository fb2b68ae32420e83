# SPDX-License-Identifier: GPL-3.0-or-later
"""An output curve that makes one surface go where another goes: two flaps whose servos or linkages
do not run alike."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.base.lookup import replaced
from hypsos.core.document.document import Model
from hypsos.core.fitting.throw_settings import lead_of, motion_of, place_of
from hypsos.core.parts.lead_motion import RANGE, Motion
from hypsos.core.parts.leads import MOST_POINTS, Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.pulses import demand_of

PLACES = tuple(np.linspace(-100.0, 100.0, MOST_POINTS).tolist())
FINE = tuple(np.linspace(-100.0, 100.0, 201).tolist())


class Agreed(NamedTuple):
    """A lead with the curve that makes its surface follow another, and by how many degrees both
    stand apart at the most over all demands within 100 %, before and with it. ``lost``: the demands
    at which it can't follow."""

    lead: Lead
    before_deg: float
    after_deg: float
    lost: tuple[float, ...]


def agreeing(model: Model, name: str, other: str) -> Agreed:
    """The lead of a surface with an output curve of nine points, at each of which it stands at the
    angle of the other one.

    Sought is, for each demand ``x``, the value ``y`` behind the curve for which this surface stands
    where ``other`` stands for ``x``: the other's way forwards (:func:`place_of`), then this one's
    way back without a curve (``percent``, then :func:`demand_of`). Raises HypsosError where how one
    of them moves is not known, or no curve does it."""
    lead, motion = lead_of(model, name), motion_of(model, name)
    if lead is None or lead_of(model, other) is None:
        raise HypsosError("both surfaces need a lead", "", "Give each a lead of its own first.")
    for each in (motion, motion_of(model, other)):
        if each.source == "throws":
            text = f"how {each.part.label.lower()} moves between its ends is not known"
            raise HypsosError(
                text, "", "Enter its linkage, or measure it with the ruler, for both of them."
            )
    plain = lead.changed({"curve": None})
    points: list[tuple[float, float]] = []
    lost: list[float] = []
    for demand in PLACES:
        value = _value_at(plain, motion, place_of(model, other, demand)[0])
        if value is None or (points and round(value, 1) <= points[-1][1]):
            lost.append(demand)
        else:
            points.append((demand, round(value, 1)))
    if len(points) < 2:
        text = f"{motion.part.label} can't follow: its linkage does not reach those angles"
        raise HypsosError(text, "", "Change its arm or its horn first.")
    tried = []
    for shape in ("straight", "smooth"):
        made = lead.changed({"curve": Response.model_validate({"points": points, "shape": shape})})
        leads = replaced(model.leads, made)
        tried.append((_apart(model.changed({"leads": leads}), name, other), made))
    after, best = min(tried, key=lambda found: found[0])
    return Agreed(best, _apart(model, name, other), after, tuple(lost))


def _value_at(plain: Lead, motion: Motion, angle: float) -> float | None:
    """What must come out of the curve for a surface to stand at an angle; None where it can't."""
    try:
        value = demand_of(plain.direction * motion.percent(angle), plain)
    except HypsosError:
        return None
    return value if value is not None and abs(value) <= RANGE else None


def _apart(model: Model, name: str, other: str) -> float:
    """By how many degrees two surfaces stand apart at the most for the same demand within 100 %."""
    return max(abs(place_of(model, name, x)[0] - place_of(model, other, x)[0]) for x in FINE)


LEAST_DEG = 0.1
"""A curve that brings two surfaces nearer by less than this is not worth its points."""


def worth_it(found: Agreed) -> bool:
    """Whether the curve brings the two surfaces nearer to each other at all."""
    return found.before_deg - found.after_deg >= LEAST_DEG


def agreed_words(found: Agreed, label: str) -> str:
    """What a curve brings, in a sentence or two."""
    if not worth_it(found):
        return f"They stand no further than {number(found.before_deg, 1)}° apart as it is: a curve would bring nothing."
    said = f"They stood up to {number(found.before_deg, 1)}° apart for the same command; now {number(found.after_deg, 1)}°."
    if found.lost:
        said += f" {label} can't follow at {', '.join(f'{number(x)} %' for x in found.lost)}: its linkage ends there."
    return said
