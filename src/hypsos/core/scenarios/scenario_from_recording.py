# SPDX-License-Identifier: GPL-3.0-or-later
"""A stretch of the timeline as a scenario: with the moves that bring the model there from power-up;
trimming."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

import numpy as np

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Plan, Result, Situation
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.sweep import ready_to_arm
from hypsos.core.parts.scenario import LONGEST_S, Move, Scenario
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.scenarios.scenario_run import moves_of, situation_of

MOST_MOVES = 800
SETTLE_S, ARMED_S = 0.5, 0.5
"""Seconds that the stick rests longer than the guard asks, and from arming to the stretch."""
NEAR_US = 5.0
"""Microseconds by which a replay may differ from the bench before it is said."""


class Kept(NamedTuple):
    """A scenario, when in it the stretch begins, and what is to be known about it."""

    scenario: Scenario
    start_s: float
    said: str


def kept(
    model: Model,
    plan: Plan,
    stretch: Situation,
    before: GuardState,
    label: str,
    shown: Result | None,
) -> Kept:
    """A stretch as a scenario. ``before``: the state of the guard as it begins; where the motors
    were armed, the scenario arms them first. ``shown`` is what the bench made of the stretch, to
    say where a replay from power-up goes another way.

    Raises HypsosError where there is nothing to keep, or too much.
    """
    length = float(stretch.t_s[-1] - stretch.t_s[0]) + plan.frame_s if len(stretch.t_s) else 0.0
    if length < 0.1:
        raise HypsosError(
            "there is nothing to keep in that time",
            "",
            "Mark a stretch in which something happened.",
        )
    lead, start = _lead_in(model, before)
    if start + length > LONGEST_S:
        raise HypsosError("a scenario lasts ten minutes at the most", "", "Mark a shorter stretch.")
    hands = {m.control: m.to for m in lead}
    moves = moves_of(stretch, resting(model) | AROUND | hands)
    moves = _thinned(model, moves, MOST_MOVES - len(lead))
    later = tuple(m.changed({"t_s": round(m.t_s + start, 6)}) for m in moves)
    scenario = Scenario(label=label, moves=lead + later, length_s=round(start + length, 3))
    return Kept(scenario, start, _differs(model, plan, scenario, start, stretch, shown))


def _lead_in(model: Model, before: GuardState) -> tuple[tuple[Move, ...], float]:
    """The moves that arm the motors, and when they have done so."""
    guard = model.program.guard
    if guard is None or before != GuardState.ARMED or not model.airframe.motors:
        return (), 0.0
    ready = {n: float(v) for n, v in ready_to_arm(model).items()}
    rest = guard.rest_s + SETTLE_S
    run = next(i for i in range(6) if i not in guard.cut)
    moves = [Move(t_s=0.0, control=n, to=v) for n, v in ready.items()]
    return (*moves, Move(t_s=rest, control=guard.switch, to=float(run))), round(rest + ARMED_S, 3)


def _thinned(model: Model, moves: tuple[Move, ...], most: int) -> tuple[Move, ...]:
    """At the most so many moves: of the sticks only every so many, and where each ends."""
    whole = {c.name for c in model.transmitter.controls if c.is_switch} | {
        "link",
        "power",
        "flight_battery",
    }
    last = {m.control: i for i, m in enumerate(moves)}
    out, every = moves, 1
    while len(out) > most and every < MOST_MOVES:
        every *= 2
        seen: Counter[str] = Counter()
        chosen = []
        for i, m in enumerate(moves):
            if m.control in whole or last[m.control] == i or seen[m.control] % every == 0:
                chosen.append(m)
            seen[m.control] += 1
        out = tuple(chosen)
    return out[:most]


def _differs(
    model: Model,
    plan: Plan,
    scenario: Scenario,
    start: float,
    stretch: Situation,
    shown: Result | None,
) -> str:
    """Where the replay goes another way than the bench did, or nothing."""
    if shown is None:
        return ""
    result = plan.run(situation_of(model, scenario, plan))
    first = round(start / plan.frame_s)
    for lead in model.leads:
        mine = np.broadcast_to(result.outputs[lead.name].us, result.t_s.shape)[first:]
        theirs = np.broadcast_to(shown.outputs[lead.name].us, stretch.t_s.shape)
        count = min(len(mine), len(theirs))
        away = np.flatnonzero(np.abs(mine[:count] - theirs[:count]) > NEAR_US)
        if len(away):
            at = plain(round(first * plan.frame_s + int(away[0]) * plan.frame_s, 2))
            return (
                f"From power-up it goes another way than on the bench: {lead.label} differs from {at} s on. "
                "What came before the stretch is not in it."
            )
    return ""


def trimmed(model: Model, scenario: Scenario, from_s: float, to_s: float) -> Scenario:
    """Only a part of a scenario, begun with the hands as they stood there. Raises HypsosError where
    nothing is left."""
    if not 0 <= from_s < to_s <= scenario.length_s:
        raise HypsosError(
            "nothing would be left of it",
            "",
            f"Choose times from 0 to {plain(scenario.length_s)} s.",
        )
    held: dict[str, float] = {}
    for move in scenario.moves:
        if move.t_s <= from_s:
            held[move.control] = move.to
    rest = resting(model) | AROUND
    first = tuple(Move(t_s=0.0, control=n, to=v) for n, v in held.items() if v != rest.get(n))
    later = tuple(
        m.changed({"t_s": round(m.t_s - from_s, 6)})
        for m in scenario.moves
        if from_s < m.t_s < to_s
    )
    expected = tuple(
        x.changed(
            {
                "from_s": max(0.0, round(x.from_s - from_s, 6)),
                "to_s": round(min(x.to_s, to_s) - from_s, 6),
            }
        )
        for x in scenario.expectations
        if x.to_s >= from_s and x.from_s <= to_s
    )
    return scenario.changed(
        {"moves": first + later, "length_s": round(to_s - from_s, 6), "expectations": expected}
    )
