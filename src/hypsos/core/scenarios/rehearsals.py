# SPDX-License-Identifier: GPL-3.0-or-later
"""Small rehearsals of this guard: what people do without thinking, played through the engine, and
what came of it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Result, Situation, compile_plan
from hypsos.core.engine.situation import fed
from hypsos.core.explain.explain_condition import Moment
from hypsos.core.explain.guard_ways import change
from hypsos.core.explain.motor_words import motor_powers, motor_said, turning_powers
from hypsos.core.explain.throttle_hands import throttle
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.wording.words import LEAST_POWER, control_label, run_positions

JUST_S = 0.1
"""So much is just under a time, and just over it."""


class Act(NamedTuple):
    """Something done: in words, the controls it moves, for how long it is left so, the link and the
    flight battery meanwhile."""

    words: str
    controls: Mapping[str, float]
    seconds: float
    link: bool = True
    flight_battery: bool = True


class Rehearsal(NamedTuple):
    """A sequence with a title; ``wished`` where a motor may turn at its end."""

    title: str
    acts: tuple[Act, ...]
    wished: bool = False


class RehearsalOutcome(NamedTuple):
    """What came of a rehearsal: a sentence for each act, one for the end, and whether it defeated
    the guard."""

    said: tuple[str, ...]
    end: str
    defeated: bool


def rehearsals(model: Model) -> tuple[Rehearsal, ...]:
    """The rehearsals with this model's switch and stick; none without a guard and motors."""
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return ()
    control = model.transmitter.control(guard.switch)
    places = control.positions if control is not None else ()
    run_at = run_positions(model)[0]
    switch, run, cut = control_label(model, guard.switch), places[run_at], places[guard.cut[0]]
    power = throttle(model)
    up, stick = dict(power.up), f"the {power.name}"
    low, goes_up = f"{stick} {power.is_low}", f"{stick} {power.goes_up}"
    safe = {guard.switch: float(guard.cut[0]), **power.low} | _checked(model)
    on = {guard.switch: float(run_at)}
    armed = (Act(f"{low}, {switch} at {cut}", safe, 2.0), Act(f"{switch} to {run}", on, 1.0))
    flying = (*armed, Act(f"{goes_up}: flying", up, 2.0))
    again = f"{switch} and {stick} left as they are"
    return (
        Rehearsal(
            "Arm with the stick up",
            (
                Act(f"{switch} at {cut}, {goes_up}", safe | up, 2.0),
                Act(f"{switch} to {run}", on, 2.0),
            ),
        ),
        Rehearsal(
            "Bump the switch, then the stick",
            (
                *armed[:1],
                Act(f"a sleeve puts {switch} to {run}", on, 1.0),
                Act(f"{stick} is nudged", up, 1.5),
            ),
        ),
        Rehearsal(
            "Change the battery with everything left on",
            (
                *flying,
                Act("the battery comes out", {}, 4.0, flight_battery=False),
                Act(f"the next one goes in; {again}", {}, 2.0),
            ),
        ),
        *(
            Rehearsal(
                f"A drop-out of {plain(seconds)} s in flight",
                (
                    *flying,
                    Act(f"the link is gone for {plain(seconds)} s", {}, seconds, link=False),
                    Act("it is back", {}, 2.0),
                ),
                wished=wished,
            )
            for seconds, wished in drop_outs(model)
        ),
        Rehearsal(
            "Switch left on at power-up",
            (
                Act(f"power comes on with {switch} at {run}, {low}", safe | on, 2.0),
                Act(goes_up, up, 1.5),
            ),
        ),
    )


def drop_outs(model: Model) -> tuple[tuple[float, bool], ...]:
    """Losses of the link to be rehearsed, in seconds, and whether the motor should be back after
    each: just under and over the time after which the failsafe acts, and, where a long loss locks,
    that after which it does."""
    guard, after_s = model.program.guard, model.receiver.failsafe_after_s
    assert guard is not None
    locks_s = guard.relock_s if guard.level >= 4 else None
    times = [after_s] if locks_s is None else [after_s, locks_s]
    losses: set[float] = set()
    for time_s in times:
        losses |= {round(time_s - JUST_S, 2), round(time_s + JUST_S, 2)}
    rehearsed = sorted(loss for loss in losses if loss > 0)
    return tuple((loss, locks_s is None or loss < locks_s) for loss in rehearsed)


def _checked(model: Model) -> dict[str, float]:
    """What the start check and the second condition ask for, as far as a hand can put it so."""
    from hypsos.core.engine.sweep import ready_to_arm

    return {n: float(v) for n, v in ready_to_arm(model).items()}


def situation(model: Model, rehearsal: Rehearsal) -> Situation:
    """A rehearsal as moves, from power-up."""
    frame = model.program.frame_s
    counts = [max(1, round(a.seconds / frame)) for a in rehearsal.acts]
    rest = compile_plan(model).rest
    # a control stays where an act has put it, and stands at rest until one does
    moved = dict.fromkeys(itertools.chain.from_iterable(act.controls for act in rehearsal.acts))
    held = {name: rest.get(name, 0.0) for name in moved}
    stands: dict[str, list[float]] = {name: [] for name in moved}
    for act in rehearsal.acts:
        held |= act.controls
        for name, value in held.items():
            stands[name].append(value)
    tracks = {name: np.repeat(values, counts) for name, values in stands.items()}
    tracks["link"] = np.repeat([float(a.link) for a in rehearsal.acts], counts)
    tracks["flight_battery"] = np.repeat([float(a.flight_battery) for a in rehearsal.acts], counts)
    return Situation.of(np.asarray(frame * np.arange(sum(counts)), np.float64), tracks)


def outcomes(model: Model) -> dict[str, RehearsalOutcome]:
    """Title -> what comes of each rehearsal, computed by the engine frame by frame as the bench
    would play it: all of them side by side in one run."""
    every = rehearsals(model)
    if not every:
        return {}
    plan = compile_plan(model)
    alone = [situation(model, x) for x in every]
    longest = max((x.t_s for x in alone), key=len)

    def beside(rows: list[ArrayLike]) -> NDArray[np.float64]:
        """One control through all rehearsals; what is over stays as it was left."""
        out = np.empty((len(alone), len(longest)))
        for row, track, own in zip(out, rows, alone, strict=True):
            lasts = len(own.t_s)
            row[:lasts] = track
            row[lasts:] = row[lasts - 1]
        return out

    names = dict.fromkeys(itertools.chain.from_iterable(x.controls for x in alone))
    tracks = {n: beside([x.controls.get(n, plan.rest.get(n, 0.0)) for x in alone]) for n in names}
    tracks |= {n: beside([x.around[n] for x in alone]) for n in AROUND}
    result = plan.run(Situation.of(longest, tracks))
    return {x.title: _told(model, x, result, case) for case, x in enumerate(every)}


def _told(model: Model, rehearsal: Rehearsal, result: Result, case: int) -> RehearsalOutcome:
    frame, end, held = model.program.frame_s, 0, dict(compile_plan(model).rest)
    before: Moment | None = None
    said, power = [], 0.0
    for act in rehearsal.acts:
        start, end = end, end + max(1, round(act.seconds / frame))
        held |= act.controls
        receiver, motors = fed(model, True, act.flight_battery)
        now = Moment(
            model, result.before(end, case), dict(held), act.link, bool(receiver), bool(motors)
        )
        power = max(turning_powers(model, now.result).values(), default=0.0)
        cause = change(before, now, start * frame) if before is not None else None
        said.append(_sentence(now, power, cause.cause if cause is not None else ""))
        before = now
    return RehearsalOutcome(
        tuple(said), _end(rehearsal, power), power > LEAST_POWER and not rehearsal.wished
    )


def _sentence(now: Moment, power: float, cause: str) -> str:
    """What an act has come to: what turns first, then what is sent, then what the guard says."""
    state = GuardState(int(np.ravel(now.result.guard)[-1]))
    if not now.power:
        return "nothing has power"
    if not now.flight_battery:
        return "the motor has no power; the receiver has a battery of its own and goes on hearing"
    if power > LEAST_POWER:
        return f"the motor runs with {plain(round(power))} % power"
    sent = max(motor_powers(now.model, now.result).values(), default=0.0)
    if sent > LEAST_POWER:
        waits = "the controller waits until it has heard idle: the motor stands still"
        return f"the lead sends {number(sent)} % power, and {waits}"
    if state == GuardState.ARMED:
        return "armed: the motor stands still, and the stick commands it" + (
            f" ({cause})" if cause else ""
        )
    words = motor_said(now).sentence
    return f"the motor stands still: {words[:1].lower()}{words[1:]}"


def _end(rehearsal: Rehearsal, power: float) -> str:
    if rehearsal.wished and power > 0:
        return "The motor comes back, as a pilot in the air needs it."
    if rehearsal.wished:
        return "The motor stays off: it has to be armed anew in the air."
    if power > 0:
        return "This defeats the guard at this level: the motor starts. Nothing but a propeller that is off helps here."
    if not all(act.link for act in rehearsal.acts):
        return "After so long a loss the guard locks: the motor stays off until it is armed anew."
    return "The guard holds: the motor does not start."
