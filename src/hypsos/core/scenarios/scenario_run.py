# SPDX-License-Identifier: GPL-3.0-or-later
"""Scenarios played through the engine, their expectations checked; moves to and from CSV."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.engine import Plan, Result, Situation, compile_plan
from hypsos.core.engine.situation import allowed
from hypsos.core.explain.explain_condition import truth_over
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.scenario import Expectation, Move, Scenario
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.scenarios.moves_csv import csv_lines
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import Part, part_named, side_percent

TURNING = 0.05
"""Percent of power from which a motor turns."""
BITS = 0.05
"""Percent by which a surface may stand beside what is expected of it."""


class Broken(NamedTuple):
    """An expectation that was not met: its place among the expectations (-1: the scenario cannot be
    played), when, and what was found, in words."""

    place: int
    t_s: float
    text: str


class ScenarioOutcome(NamedTuple):
    """What came of a scenario: what was not met, or why it could not be played."""

    label: str
    broken: tuple[Broken, ...]
    expectations: int

    @property
    def good(self) -> bool:
        """Whether everything was as expected."""
        return not self.broken


def situation_of(model: Model, scenario: Scenario, plan: Plan | None = None) -> Situation:
    """A scenario as inputs, from power-up. Raises HypsosError for a control that is not there, or
    cannot go there."""
    plan = compile_plan(model) if plan is None else plan
    frames = max(1, round(scenario.length_s / plan.frame_s))
    t = plan.frame_s * np.arange(frames, dtype=np.float64)
    tracks: dict[str, Array] = {}
    for i, move in enumerate(scenario.moves):
        try:
            low, high, whole = allowed(model, move.control)
        except HypsosError:
            raise HypsosError(
                f"there is no control {move.control} any more",
                f"move {i + 1}",
                "Take the move out.",
            ) from None
        if not low <= move.to <= high or (whole and move.to != int(move.to)):
            raise HypsosError(
                f"{move.control} cannot go to {move.to:g}", f"move {i + 1}", "Change the move."
            )
        rest = (plan.rest | AROUND)[move.control]
        track = tracks.setdefault(move.control, np.full(frames, rest))
        track[int(np.ceil(move.t_s / plan.frame_s - 1e-6)) :] = move.to
    return Situation.of(t, tracks)


def run_scenario(model: Model, scenario: Scenario, plan: Plan | None = None) -> ScenarioOutcome:
    """Play a scenario from power-up and see what of its expectations holds."""
    plan = compile_plan(model) if plan is None else plan
    count = len(scenario.expectations)
    try:
        situation = situation_of(model, scenario, plan)
    except HypsosError as error:
        return ScenarioOutcome(
            scenario.label, (Broken(-1, 0.0, f"It cannot be played: {error.plain}"),), count
        )
    result = plan.run(situation)
    found = (_check(model, x, i, result, situation) for i, x in enumerate(scenario.expectations))
    return ScenarioOutcome(scenario.label, tuple(x for x in found if x is not None), count)


def run_scenarios(model: Model) -> tuple[ScenarioOutcome, ...]:
    """All of a model's scenarios, in their order."""
    return tuple(scenarios_run(model))


def scenarios_run(model: Model) -> Iterator[ScenarioOutcome]:
    """The same one by one, as they are played."""
    plan = compile_plan(model)
    return (run_scenario(model, x, plan) for x in model.scenarios)


# -- expectations -------------------------------------------------------------------------------


def expectation_words(model: Model, x: Expectation) -> str:
    """What is expected, in one breath: ``'from 3 s to 9 s Left motor is stopped'``."""
    when = f"from {plain(x.from_s)} s to {plain(x.to_s)} s"
    if x.from_s == x.to_s:
        when = f"at {plain(x.from_s)} s"
    if x.kind == "said":
        return f"{when} “{x.what}” is said"
    if x.kind == "holds":
        return f"{when} {_condition_words(model, x.what)}"
    try:
        part = part_named(model, x.what)
    except HypsosError:
        return f"{when} {x.what}, which is not there any more"
    if isinstance(part, Motor) and x.kind != "stands":
        does = "is stopped" if x.kind == "stopped" else "runs"
        return f"{when} {part.label} {does}"
    return f"{when} {part.label} stands from {_stand(part, x.low)} to {_stand(part, x.high)}"


def _condition_words(model: Model, text: str) -> str:
    try:
        return phrase(model, text)
    except ValueError:
        return f"“{text}”, which is no condition"


def _stand(part: Part, value: float) -> str:
    if isinstance(part, Motor):
        return f"{number(power_percent(value))} % power"
    return side_percent(part, value)


def _check(
    model: Model, x: Expectation, i: int, result: Result, situation: Situation
) -> Broken | None:
    """Where an expectation is first not met."""
    t = situation.t_s
    inside = (t >= x.from_s - 1e-6) & (t <= x.to_s + 1e-6)
    if not inside.any():
        inside[-1 if x.from_s > t[-1] else int(np.argmin(np.abs(t - x.from_s)))] = True
    expected = expectation_words(model, x)
    if x.kind == "said":
        if any(s.caption == x.what and inside[s.frame] for s in result.said):
            return None
        return Broken(i, x.to_s, f"Expected: {expected}. It was not said.")
    try:
        good, found = _met(model, x, result, situation)
    except (HypsosError, ValueError, KeyError):
        return Broken(i, x.from_s, f"Expected: {expected}. That is not in the model any more.")
    wrong = np.flatnonzero(inside & ~good)
    if not len(wrong):
        return None
    at = int(wrong[0])
    return Broken(
        i, float(t[at]), f"Expected: {expected}. At {plain(round(float(t[at]), 2))} s {found(at)}."
    )


def _met(
    model: Model, x: Expectation, result: Result, situation: Situation
) -> tuple[Flags, Callable[[int], str]]:
    """Where it is met, and a sentence for a frame in which it is not."""
    if x.kind == "holds":
        good: Flags = truth_over(model, result, situation, x.what)
        return good, lambda _at: "it was not so"
    part = part_named(model, x.what)
    lead = next((y for y in model.leads if y.target == x.what), None)
    if lead is None:
        raise HypsosError(f"{part.label} has no lead", "", "Plug it in.")
    stand = np.broadcast_to(result.outputs[lead.name].stand, situation.t_s.shape)
    if x.kind == "stands":
        good = (stand >= x.low - BITS) & (stand <= x.high + BITS)
        return good, lambda at: f"it stood at {_stand(part, float(stand[at]))}"
    told: Flags = stand > 2 * TURNING - 100
    runs = told & np.broadcast_to(np.asarray(result.outputs[lead.name].ready, bool), told.shape)

    def words(at: int) -> str:
        power = f"{number(power_percent(float(stand[at])))} % power"
        if runs[at]:
            return f"it ran with {power}"
        if told[at]:
            return f"it was commanded to run with {power}, and its controller did not let it"
        return "it was stopped"

    return (runs if x.kind == "runs" else ~told), words


# -- moves in and out ---------------------------------------------------------------------------


def moves_of(situation: Situation, rest: dict[str, float]) -> tuple[Move, ...]:
    """The moves by which the hands come through a situation, from where they rest."""
    out = []
    start = float(situation.t_s[0])
    for name, values in {**situation.controls, **situation.around}.items():
        x = np.broadcast_to(np.asarray(values, float), situation.t_s.shape)
        before = np.concatenate([[(rest | AROUND)[name]], x[:-1]])
        for i in np.flatnonzero(x != before).tolist():
            out.append(
                Move(t_s=round(float(situation.t_s[i]) - start, 6), control=name, to=float(x[i]))
            )
    return tuple(sorted(out, key=lambda m: m.t_s))


def scenario_csv(scenario: Scenario) -> str:
    """A scenario's moves as CSV that a trace plays, with a last row for its length."""
    names = list(dict.fromkeys(m.control for m in scenario.moves))
    times = sorted({m.t_s for m in scenario.moves} | {0.0, scenario.length_s})
    at = {(m.t_s, m.control): m.to for m in scenario.moves}
    columns: dict[str, np.ndarray | list[str]] = {"t_s": np.array(times)}
    columns |= {n: np.array([at.get((t, n), np.nan) for t in times]) for n in names}
    return "".join(csv_lines(columns))
