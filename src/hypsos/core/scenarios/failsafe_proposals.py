# SPDX-License-Identifier: GPL-3.0-or-later
"""Proposals for a lost link: where every part goes when nobody steers.

A surface is proposed where the model itself puts it: the hands are tried out on the bench, and what
brings the flaps part down or the brakes out there is taken whole, with the elevator that belongs to
it and the trims as they stand. So no sign is written down a second time. What no control brings
about is put where it belongs by its role, and that is said."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, islice
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import of_each
from hypsos.core.base.figure_words import number
from hypsos.core.dependencies.failsafe_defaults import usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.parts.airframe import PLATES, STEERED, Airframe, Device, Motor
from hypsos.core.parts.leads import Failsafe, Lead
from hypsos.core.recipes.corrections import mirrored
from hypsos.core.wording.words import control_label

Hands = Mapping[str, float]
Stands = dict[str, float]

FLAPS = ("flap", "flaperon")
RUDDERS = ("rudder", "ruddervator")
PART_FLAP = 35.0
"""Percent of the flaps' way down that is proposed: about a third."""
NEAR_FLAP = 15.0
"""So near to it a position of a control is taken as it is; else what lies between neutral and the
most flap there is."""
TURN = 12.0
"""Percent of rudder for a gentle turn."""
WING_UP = 8.0
"""Percent by which the elevons of a flying wing go up."""
OUT: Mapping[str, float] = {"airbrake": -100.0, "spoiler": -100.0, "flap": 60.0, "aileron": -30.0}
"""Brakes out where no control brings them out, in percent: plates open, for which their edge goes
up; flaps down, ailerons up."""
LITTLE = 2.0
"""Percent that is no movement."""
MOST_PAIRS = 3000
"""So many pairs of controls are tried; on the interface thread more would be felt."""
PLACES = tuple(float(x) for x in range(-100, 101, 25))
"""Where sliders are tried."""


class Found(NamedTuple):
    """Where surfaces and steered wheels stand, in percent, and a sentence on where that comes
    from."""

    stands: Stands
    because: str = ""


@dataclass(frozen=True)
class Proposal:
    """A set of failsafes: its title, the reason for it, where the surfaces go, and whether it says
    anything to an aeroplane."""

    title: str
    reason: str
    stands: Callable[[TriedProposal], Found]
    suits: Callable[[Airframe], bool] = lambda _body: True


class TriedProposal:
    """A model at rest on the bench, with its sticks in the middle, its motor cut and its trims as
    they are."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.plan = compile_plan(model)
        self.still = quiet_hands(model)
        self.surfaces = tuple(s for s in model.airframe.surfaces if s.follows is None)
        wheels = tuple(d.name for d in model.airframe.devices if d.kind in STEERED)
        self.names = (*(s.name for s in self.surfaces), *wheels)
        self.neutral = self.at([{}])[0]

    def at(self, tries: Sequence[Hands]) -> list[Stands]:
        """Where everything stands with each of these hands."""
        sums = settled_together(self.plan, [self.still | dict(hands) for hands in tries]).sums
        stands: list[Stands] = [{} for _ in tries]
        for name in self.names:
            reached = np.clip(of_each(sums.get(name, 0.0), len(tries)), -100.0, 100.0)
            for stand, value in zip(stands, reached.tolist(), strict=True):
                stand[name] = value
        return stands

    def hands(self) -> list[tuple[str, float]]:
        """Every place of every switch, slider and of the throttle stick, one at a time; the motor
        switch stays at cut."""
        model, out = self.model, list[tuple[str, float]]()
        guard, axis = model.program.guard, model.program.axis("thrust")
        for control in model.transmitter.controls:
            # nobody holds a button for a lost link
            if control.kind == "momentary" or (guard is not None and control.name == guard.switch):
                continue
            places = range(len(control.positions)) if control.is_switch else PLACES
            out += [(control.name, float(x)) for x in places]
        steering = {a.control for a in model.program.axes if a.command != "thrust"}
        free = (
            {"throttle_stick", *([] if axis is None else [axis.control])}
            - steering
            - {n for n, _ in out}
        )
        # a throttle stick that steers nothing may bring out brakes
        out += [(name, x) for name in sorted(free) for x in PLACES]
        return out

    def best(self, score: Callable[[Stands], float]) -> tuple[Hands, Stands, float]:
        """The hands that come nearest to what is wanted: one control; or two, where one alone does
        not do half of it (a slider behind a switch that frees it)."""
        single = self.hands()
        tries: list[Hands] = [{}, *({n: x} for n, x in single)]
        hands, stands, most = self._first(tries, score)
        pairs = list(islice(self._pairs(single), MOST_PAIRS))
        if pairs:
            other = self._first(pairs, score)
            # two hands only where one alone does not do half of it
            if other[2] > 2.0 * most + LITTLE:
                return other
        return hands, stands, most

    def _pairs(self, single: list[tuple[str, float]]) -> Iterator[Hands]:
        """A switch that frees something, and what it frees at one of its ends or positions."""
        switches = {c.name for c in self.model.transmitter.controls if c.is_switch}
        # of sliders only the ends: all places of two would be too many
        ends = [(n, x) for n, x in single if n in switches or abs(x) == PLACES[-1]]
        for (a, x), (b, y) in combinations(ends, 2):
            if a != b and {a, b} & switches:
                yield {a: x, b: y}

    def _first(
        self, tries: list[Hands], score: Callable[[Stands], float]
    ) -> tuple[Hands, Stands, float]:
        stands = self.at(tries)
        scores = [score(x) for x in stands]
        most = max(scores)
        # of equally good ones the first: nothing moved, if that does
        first = next(k for k, x in enumerate(scores) if x >= most - 1e-6)
        return tries[first], stands[first], scores[first]

    def of_role(self, *roles: str) -> list[str]:
        """The surfaces of these roles."""
        return [s.name for s in self.surfaces if s.role in roles]

    def words(self, hands: Hands) -> str:
        """Hands in words: ``'Flap switch at half'``."""
        return " and ".join(
            f"{control_label(self.model, n)} at {self._place(n, x)}" for n, x in hands.items()
        )

    def _place(self, name: str, value: float) -> str:
        control = self.model.transmitter.control(name)
        if control is not None and control.is_switch:
            return control.positions[int(value)]
        return number(value)


def _mean(stands: Stands, names: Iterable[str]) -> float:
    found = [stands.get(n, 0.0) for n in names]
    return sum(found) / len(found) if found else 0.0


def _neutral(tried: TriedProposal) -> Found:
    return Found(dict(tried.neutral))


def _flaps_down(tried: TriedProposal) -> Found:
    """As near to a third of the flap as a control brings it; with the elevator of that position.
    Ailerons that come down with them count against it: a wing is not to stall at its tips."""
    flaps, tips = tried.of_role(*FLAPS), tried.of_role("aileron")

    def down(stands: Stands) -> float:
        return _mean(stands, flaps) - _mean(tried.neutral, flaps)

    def droops(stands: Stands) -> float:
        return max(0.0, _mean(stands, tips) - _mean(tried.neutral, tips))

    hands, stands, _ = tried.best(lambda x: PART_FLAP - abs(down(x) - PART_FLAP) - droops(x))
    if abs(down(stands) - PART_FLAP) <= NEAR_FLAP:
        return Found(stands, f"Flaps and elevator as with {tried.words(hands)}.")
    hands, stands, _ = tried.best(down)
    if down(stands) > PART_FLAP:
        # all that moves with the flap in the same share, so that the elevator stays in step
        share = PART_FLAP / down(stands)
        part = {n: x + share * (stands[n] - x) for n, x in tried.neutral.items()}
        return Found(part, f"Flaps and elevator on their way to {tried.words(hands)}.")
    put = tried.neutral | dict.fromkeys(flaps, PART_FLAP)
    return Found(
        put, "No control brings the flaps down: the elevator stays as it is trimmed. Try it high."
    )


def _turned(tried: TriedProposal, found: Found) -> Found:
    """With a little rudder to the right besides: all rudders one way, as the rudder stick moves
    them."""
    rudders = tried.of_role(*RUDDERS)
    axis = tried.model.program.axis("yaw")
    sticks: list[Hands] = (
        [] if axis is None else [{axis.control: float(x)} for x in range(2, 101, 2)]
    )
    for stands in tried.at(sticks) if sticks else []:
        moved = {n: stands[n] - x for n, x in tried.neutral.items()}
        # the least stick that gives the turn, with whatever else that stick moves
        if max(abs(moved[n]) for n in rudders) >= TURN - 0.5:
            return found._replace(stands={n: x + moved[n] for n, x in found.stands.items()})
    # no stick turns it: the rudders are put over by themselves
    stands = dict(found.stands)
    for surface in tried.surfaces:
        if surface.role in RUDDERS:
            stands[surface.name] += -TURN if mirrored(surface) else TURN
    return found._replace(stands=stands)


def _turn(tried: TriedProposal) -> Found:
    return _turned(tried, _neutral(tried))


def _flaps_and_turn(tried: TriedProposal) -> Found:
    return _turned(tried, _flaps_down(tried))


def _brakes_out(tried: TriedProposal) -> Found:
    """Whatever brings the most of the brakes out: plates open, flaps down with ailerons up."""
    plates = set(tried.of_role(*PLATES))
    crow = bool(tried.of_role("flap")) and bool(tried.of_role("aileron"))
    full_deg = _full_brake_deg(tried)
    counted = plates if plates or not crow else set(full_deg)

    def out(stands: Stands) -> float:
        """Degrees by which brakes are out, of all of them together."""
        shares = {n: (stands.get(n, 0.0) - tried.neutral.get(n, 0.0)) / 100.0 for n in counted}
        return sum(max(0.0, share * full_deg[n]) for n, share in shares.items())

    hands, stands, most = tried.best(out)
    roles = PLATES if plates else tuple(OUT)
    wanted = {s.name: OUT[s.role] for s in tried.surfaces if s.role in roles and s.role in OUT}
    # a control that brings out a good part of them is taken as it is
    if most > 0.3 * out(tried.neutral | wanted):
        return Found(stands, f"Brakes and elevator as with {tried.words(hands)}.")
    return Found(
        tried.neutral | wanted,
        "No control brings them out: the elevator stays as it is trimmed. Try it high.",
    )


def _full_brake_deg(tried: TriedProposal) -> dict[str, float]:
    """Degrees that each brake goes by 100 %, positive where 100 % (down) is out: flaps come out by
    going down, plates and ailerons by going up."""
    down = {s.name: s.throw_down_deg for s in tried.surfaces if s.role in FLAPS}
    up = {s.name: -s.throw_up_deg for s in tried.surfaces if s.role in OUT and s.role not in FLAPS}
    return down | up


def _wing_up(tried: TriedProposal) -> Found:
    elevons = tried.of_role("elevon")
    return Found(tried.neutral | {n: tried.neutral.get(n, 0.0) - WING_UP for n in elevons})


def _roles(*roles: str) -> Callable[[Airframe], bool]:
    return lambda body: bool(body.with_roles(*roles))


def _brakes(body: Airframe) -> bool:
    return bool(body.with_roles(*PLATES)) or bool(
        body.with_roles("flap") and body.with_roles("aileron")
    )


PROPOSALS = (
    Proposal(
        "Stopped and neutral",
        "Motors stopped, surfaces where they are trimmed with the sticks in the middle. The default: it glides on and comes down "
        "near.",
        _neutral,
    ),
    Proposal(
        "Stopped, flaps part down",
        "As before, with a third of the flap and the elevator that belongs to it: slower and steeper. Try it in the air on purpose "
        "first.",
        _flaps_down,
        _roles(*FLAPS),
    ),
    Proposal(
        "Stopped, a gentle turn",
        "Motors stopped, with a little rudder: it circles down instead of flying away.",
        _turn,
        _roles(*RUDDERS),
    ),
    Proposal(
        "Stopped, flaps, a gentle turn",
        "A third of the flap with its elevator, and a little rudder: a sailplane circles down slowly.",
        _flaps_and_turn,
        lambda body: bool(body.with_roles(*FLAPS)) and bool(body.with_roles(*RUDDERS)),
    ),
    Proposal(
        "Stopped, brakes out",
        "A sailplane that nobody steers is to come down: all the brakes out, with the elevator that belongs to them. It sinks "
        "fast; try it high.",
        _brakes_out,
        _brakes,
    ),
    Proposal(
        "Stopped, a little up",
        "A flying wing glides on with its elevons a little up, as it is trimmed; a gust must not put it on its nose.",
        _wing_up,
        _roles("elevon"),
    ),
)


def proposed(model: Model, proposal: Proposal) -> tuple[Model, str]:
    """The model with a proposal on every lead, and a sentence on where the figures come from.

    Motors stop. A tow release, gear and doors stay as the pilot has said, or unsaid: nobody else
    knows which end is meant."""
    found = proposal.stands(TriedProposal(model))
    parts = {p.name: p for p in model.airframe.moved()}

    def safe(lead: Lead) -> Failsafe | None:
        part = parts[lead.target]
        if isinstance(part, Motor):
            return usual_failsafe(part)
        if isinstance(part, Device) and part.kind not in STEERED:
            return lead.failsafe
        return Failsafe(value=round(found.stands.get(part.name, 0.0), 1))

    leads = tuple(x.changed({"failsafe": safe(x)}) for x in model.leads)
    return model.changed({"leads": leads}), found.because
