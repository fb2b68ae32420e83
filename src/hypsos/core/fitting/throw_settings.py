# SPDX-License-Identifier: GPL-3.0-or-later
"""Throws: what an output makes of its surface in millimetres, what settings give the movement that
is wanted, and how to get the most out of a linkage."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from hypsos.core.base.backends import FRAME
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.four_bar import Linkage, deflection
from hypsos.core.parts.lead_motion import RANGE, Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import bent, demand_of, servo_percent
from hypsos.core.wording.words import part_named, sense_words

STEPS = 1024
"""Steps of a stick's full travel on a usual transmitter."""
HOLES = tuple(float(x) for x in range(4, 26))
"""Servo arm radii in millimetres to choose from."""
FLUSH = -50.0
"""Where a servo with its arm set off stands at flush: so far one way, and three times that the
other."""


@dataclass(frozen=True)
class ThrowLimits:
    """What full command does to both sides (up or left first): degrees, millimetres, and how fine a
    step is.

    ``lost`` is what the end stops or a binding linkage take away of the demand, in percent of it;
    ``differential`` is the mechanical one: how much less the down side does than the up side for
    the same servo turn, in percent."""

    deg: tuple[float, float]
    mm: tuple[float, float]
    lost: tuple[float, float]
    step_mm: float
    differential: float
    limits: tuple[float, float]


@dataclass(frozen=True)
class Wanted:
    """The travel for wanted throws (short and long side of the output), and what can't be had, in
    words."""

    travel_neg: float
    travel_pos: float
    lost: tuple[str, ...]


def lead_of(model: Model, name: str) -> Lead | None:
    """The first lead that moves a part."""
    return next((x for x in model.leads if x.target == name), None)


def motion_of(model: Model, name: str) -> Motion:
    """How a part moves, by its lead; without one straight to its throws. Raises HypsosError when
    there is no such part."""
    part = part_named(model, name)
    return Motion(lead_of(model, name) or Lead(name="none", label="none", target=name), part)


def demand_for(model: Model, name: str, value: float, unit: str) -> float:
    """The demand in percent that moves a surface by so many ``mm`` or degrees (+ is down or right),
    through the curve, the travel and the centre of its output. Raises HypsosError when it is out of
    reach."""
    motion = motion_of(model, name)
    lead = motion.lead
    demand = demand_of(lead.direction * motion.percent_at(value, unit), lead)
    if demand is None:
        raise HypsosError(
            f"{lead.label} has no travel to that side", "", "Give its output some travel first."
        )
    return round(demand, 9)


def place_of(model: Model, name: str, demand: float) -> tuple[float, float | None]:
    """Where a surface stands for a demand in percent, in degrees and millimetres: the way back of
    :func:`demand_for`."""
    motion = motion_of(model, name)
    stand = motion.lead.direction * float(servo_percent(demand, motion.lead, FRAME)[1])
    low, high = motion.limits()
    deg, mm = motion.at(min(max(stand, low), high))
    return deg or 0.0, mm


def reach(motion: Motion) -> ThrowLimits:
    """What an output does at full command to both sides, as it is set."""
    lead = motion.lead
    low, high = motion.limits()
    # where it stands with nothing asked of it
    middle = lead.direction * float(servo_percent(0.0, lead, FRAME)[1])
    deg, mm, lost = [], [], []
    for demand in (-100.0, 100.0):
        _, centred, stopped = servo_percent(demand, lead, FRAME)
        stand = min(max(float(lead.direction * stopped), low), high)
        asked = lead.direction * centred
        angle, ruler = motion.at(stand)
        deg.append(angle or 0.0)
        mm.append(ruler or 0.0)
        # of what was asked, so much is not there behind the stop
        span = abs(float(asked) - middle)
        lost.append(100.0 * abs(float(asked) - stand) / span if span > 1e-9 else 0.0)
    rest_mm = motion.at(middle)[1] or 0.0
    # how far one step of the stick moves the edge at its coarser side
    step = max(abs(mm[0] - rest_mm), abs(mm[1] - rest_mm)) * 2 / STEPS
    ends = [
        abs(float(motion.degrees(middle + d)) - float(motion.degrees(middle)))
        for d in (-50.0, 50.0)
    ]
    # half a turn of the servo to each side: what the linkage alone makes of it
    differential = (
        100.0 * (1 - ends[1] / ends[0]) if ends[0] > 0 and math.isfinite(ends[1]) else 0.0
    )
    return ThrowLimits(
        (deg[0], deg[1]), (mm[0], mm[1]), (lost[0], lost[1]), step, differential, (low, high)
    )


def wanted(
    motion: Motion,
    up: float,
    down: float,
    unit: str,
    ruler_at_mm: float | None = None,
    shares: tuple[float, float] = (1.0, 1.0),
) -> Wanted:
    """The travel, in whole percent, that gives these throws (up or left, down or right; both as
    positive figures).

    Parameters
    ----------
    unit : ``mm`` as a ruler reads them, or degrees.
    ruler_at_mm : how far behind the hinge the ruler stands; None is at the trailing edge.
    shares : the parts of a full demand that full stick gives to both sides, where that is to be allowed for.

    What lies beyond the linkage, the end stops or the greatest travel is lost, and said.
    """
    lead, words, lost = motion.lead, sense_words(motion.part), []
    travels: dict[bool, float] = {}
    low, high = motion.limits()
    for sign, amount, side, share in (
        (-1.0, up, words[0], shares[0]),
        (1.0, down, words[1], shares[1]),
    ):
        angle = amount if unit != "mm" else angle_of(amount, ruler_at_mm or motion.chord or 1.0)
        try:
            stand = motion.percent(sign * angle)
        except HypsosError:
            # out of reach: as far as it goes, and what is missing is said below
            stand = low if sign < 0 else high
        sent = lead.direction * stand
        best = min(max(sent, lead.stop_neg, -RANGE), lead.stop_pos, RANGE)
        # what full stick asks of the output, behind its curve
        full = abs(float(bent(sign * 100.0 * min(share, 1.5), lead, FRAME))) / 100.0
        travel = min(abs(best - lead.centre) / max(full, 1e-6), RANGE)
        reached = math.copysign(travel * full, sent - lead.centre)
        got = abs(float(motion.degrees(lead.direction * (lead.centre + reached))))
        if got < angle - 0.05:
            lost.append(f"{angle - got:.1f}° of the {angle:.1f}° {side} cannot be had")
        # which side of the output it is hangs on which way the servo is reversed
        travels[sent - lead.centre >= 0] = float(round(travel))
    return Wanted(
        travels.get(False, lead.travel_neg), travels.get(True, lead.travel_pos), tuple(lost)
    )


def angle_of(mm: float, at_mm: float) -> float:
    """The angle in degrees at which a ruler ``at_mm`` behind the hinge reads ``mm``. Raises
    HypsosError beyond its reach."""
    if mm > 2 * at_mm:
        raise HypsosError(f"{mm:g} mm is more than a ruler {at_mm:g} mm behind the hinge can read")
    return 2 * math.degrees(math.asin(mm / (2 * at_mm)))


def arm_for(link: Linkage, up_deg: float, down_deg: float) -> Linkage | None:
    """The shortest arm that reaches both throws within the servo's travel: the finest step. None
    when none does."""
    for hole in HOLES:
        tried = link.changed({"arm_mm": hole})
        ends = deflection(tried, np.array([-link.servo_deg, link.servo_deg]))
        if np.all(np.isfinite(ends)) and -ends[0] >= up_deg and ends[1] >= down_deg:
            return tried
    return None


def arm_set_off(link: Linkage, up_deg: float, down_deg: float) -> Linkage:
    """The linkage with its arm set off on the servo, so that a surface that goes little up and far
    down uses the servo's whole throw: flush stands half way to the up side, and all the rest goes
    down.

    The arm's length is found so that the servo's far end gives ``down_deg``. Raises HypsosError
    when no arm does that or ``up_deg`` is then out of reach."""
    from scipy.optimize import brentq  # dear to import, so only where it is needed

    turn = link.servo_deg
    # the arm stands square in the middle of all that it has to do
    middle = turn * (FLUSH + 100.0) / 200.0

    def tried(arm: float) -> Linkage:
        return link.changed(
            {"arm_mm": arm, "arm_deg": -middle, "horn_deg": -down_deg / 6, "flush": FLUSH}
        )

    def over(arm: float) -> float:
        flush, end = deflection(tried(arm), np.array([turn * FLUSH / 100.0, turn]))
        return (
            float(end - flush) - down_deg if np.isfinite(end) and np.isfinite(flush) else math.nan
        )

    # the shortest arm that goes far enough is the finest; between two of the grid it is found
    # exactly
    arms = np.linspace(2.0, 40.0, 153)
    misses = np.array([over(float(a)) for a in arms])
    crossing = np.flatnonzero((misses[:-1] < 0) & (misses[1:] >= 0))
    if not crossing.size:
        raise HypsosError(
            f"no servo arm turns this surface {down_deg:.1f}° down",
            "",
            "Use a shorter horn or ask for less.",
        )
    at = int(crossing[0])
    found = tried(round(float(brentq(over, arms[at], arms[at + 1])), 6))
    # all the way to the short end: it may turn back before it
    way = deflection(found, turn * np.linspace(FLUSH / 100.0, -1.0, 101))
    if way[0] - np.nanmin(way) < up_deg - 1e-6:
        raise HypsosError(
            f"with that arm {up_deg:.1f}° up is out of reach",
            "",
            "Ask for less up or a longer horn.",
        )
    return found


def stops_within(motion: Motion, spare: float = 2.0) -> tuple[float, float]:
    """End stops of the output, low and high in percent, that keep ``spare`` percent from where the
    linkage binds."""
    low, high = motion.limits()
    low = low + spare if low > -RANGE else low
    high = high - spare if high < RANGE else high
    ends = sorted((motion.lead.direction * low, motion.lead.direction * high))
    return round(ends[0], 1), round(ends[1], 1)


def ruler_rows(motion: Motion) -> tuple[tuple[float, float], ...]:
    """A measured table to begin with: what is computed now at five commands, in millimetres."""
    return tuple((p, round(motion.at(p)[1] or 0.0, 1)) for p in (-100.0, -50.0, 0.0, 50.0, 100.0))


def with_arm_set_off(motion: Motion, up_deg: float, down_deg: float) -> Lead:
    """The lead with :func:`arm_set_off` done, and the centre, travel and stops that go with it.

    Raises HypsosError when it has no linkage or no arm does it.
    """
    lead = motion.lead
    if lead.linkage is None:
        raise HypsosError(f"{lead.label} has no linkage yet", "", "Enter its linkage first.")
    made = arm_set_off(lead.linkage, up_deg, down_deg)
    # three quarters of the servo's way go to the long side
    far, near = (150.0, 50.0) if lead.direction > 0 else (50.0, 150.0)
    update = {
        "linkage": made,
        "centre": lead.direction * made.flush,
        "travel_pos": far,
        "travel_neg": near,
    }
    moved = lead.changed(update)
    low, high = stops_within(Motion(moved, motion.part))
    return moved.changed({"stop_neg": max(-100.0, low), "stop_pos": min(100.0, high)})


def copied(lead: Lead, other: Lead) -> Lead:
    """``other`` with the throws of ``lead``: the same movement of its surface, whichever way its
    own servo sits."""
    same = lead.direction == other.direction
    neg, pos = (lead.travel_neg, lead.travel_pos) if same else (lead.travel_pos, lead.travel_neg)
    stops = (lead.stop_neg, lead.stop_pos) if same else (-lead.stop_pos, -lead.stop_neg)
    return other.changed(
        {
            "linkage": lead.linkage,
            "servo_s": lead.servo_s,
            "measured": lead.measured,
            "travel_neg": neg,
            "travel_pos": pos,
            "curve": lead.curve,
            "centre": lead.centre if same else -lead.centre,
            "stop_neg": stops[0],
            "stop_pos": stops[1],
        }
    )


def ruled(model: Model) -> list[Surface]:
    """The surfaces that have a lead and a ruler to be read at."""
    return [s for s in model.airframe.surfaces if lead_of(model, s.name) is not None]
