# SPDX-License-Identifier: GPL-3.0-or-later
"""This guard in words: what leads from one state of the motors to another, and what just did."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.engine import GuardState
from hypsos.core.explain.explain_condition import Moment
from hypsos.core.explain.idle_pulse import idle_dangers
from hypsos.core.explain.motor_words import motor_powers, motor_said
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import LEAST_POWER, control_label, run_positions

CUT, LOCKED, ARMED = GuardState.CUT, GuardState.LOCKED, GuardState.ARMED


class GuardWay(NamedTuple):
    """A way from one state to another (None: from power-up), and what takes it."""

    start: GuardState | None
    end: GuardState
    words: str


class GuardChange(NamedTuple):
    """A change of state on the bench: when in seconds, from what to what, and its cause."""

    t_s: float
    start: GuardState
    end: GuardState
    cause: str


def ways(model: Model) -> tuple[GuardWay, ...]:
    """All ways between the states, as this model's guard has them; none without motors."""
    guard = model.program.guard
    return tuple(_ways(model, guard)) if guard is not None and model.airframe.motors else ()


def _ways(model: Model, guard: Guard) -> Iterator[GuardWay]:
    switch, cut, run, low = _names(model, guard)
    rested = f"has rested low for {plain(guard.rest_s)} s"
    arm = f"{switch} to {run}"
    if guard.level == 2:
        arm += f", {low} and every motor low"
    if guard.level >= 3:
        arm += f", once {low} and every motor {'have' + rested[3:]}"
    if guard.also is not None:
        arm += f", while {phrase(model, guard.also)}"
    if guard.start_check:
        arm += "; the first time all that is checked stands where it should"
    yield GuardWay(None, LOCKED, f"power comes on with {switch} at {run}")
    yield GuardWay(CUT, ARMED, arm)
    for i, _ in idle_dangers(model):
        yield GuardWay(
            CUT, LOCKED, f"{switch} to {run} while {model.leads[i].label} is not off at idle"
        )
    if guard.level >= 2 or guard.also is not None or guard.start_check:
        yield GuardWay(CUT, LOCKED, f"{switch} to {run} in any other way")
    if guard.wakes_when_low and guard.also is None:
        lost = ", but not after a lost link" if guard.level >= 4 else ""
        yield GuardWay(LOCKED, ARMED, f"{low} {rested}{lost}")
    if guard.level >= 4:
        yield GuardWay(ARMED, LOCKED, f"the link is lost for {plain(guard.relock_s)} s")
    for condition in guard.holds:
        said = phrase(model, condition)
        yield GuardWay(ARMED, CUT, f"while {said}")
        yield GuardWay(CUT, LOCKED, f"{said} is over")
    if guard.holds:
        yield GuardWay(LOCKED, ARMED, f"after that, once {low} {rested}")
    yield GuardWay(LOCKED, CUT, f"{switch} to {cut}")
    yield GuardWay(ARMED, CUT, f"{switch} to {cut}")


def _names(model: Model, guard: Guard) -> tuple[str, str, str, str]:
    """What this model calls the switch, its positions, and the control of the thrust."""
    control = model.transmitter.control(guard.switch)
    places = control.positions if control is not None else ()
    cut = " or ".join(places[i] for i in guard.cut if i < len(places)) or "cut"
    run = " or ".join(places[i] for i in run_positions(model)) or "run"
    axis = model.program.axis("thrust")
    low = "every control of the motor"
    if axis is not None:
        low = f"the {control_label(model, axis.control)}"
    return control_label(model, guard.switch), cut, run, low


def change(before: Moment, now: Moment, t_s: float) -> GuardChange | None:
    """The change between two frames that follow each other, with its cause; None where the state is
    the same."""
    start, end = (GuardState(int(x.result.guard.ravel()[-1])) for x in (before, now))
    if start == end or now.model.program.guard is None:
        return None
    cause = _cause(before, now, start, end)
    power = max(motor_powers(now.model, now.result).values(), default=0.0)
    if end != ARMED and power > LEAST_POWER:
        cause += f"; its lead still sends {number(power)} % power"
    return GuardChange(t_s, start, end, cause)


def _cause(before: Moment, now: Moment, start: GuardState, end: GuardState) -> str:
    """What changed the state of the motors between two frames, in words."""
    guard = now.model.program.guard
    assert guard is not None
    was_cut = int(before.controls.get(guard.switch, 0.0)) in guard.cut
    if end == CUT:
        return _cause_of_cut(now, guard)
    if end == ARMED:
        return _cause_of_arming(now.model, guard, was_cut)
    if before.model is not now.model:
        return "an edit that reaches the motor"
    return _cause_of_lock(before, now, guard, was_cut and start == CUT)


def _cause_of_cut(now: Moment, guard: Guard) -> str:
    switch, cut, _, _ = _names(now.model, guard)
    if int(now.controls.get(guard.switch, 0.0)) in guard.cut:
        return f"{switch} to {cut}"
    held = _held(now, guard)
    return held[0] if held else "the guard was changed"


def _cause_of_arming(model: Model, guard: Guard, was_cut: bool) -> str:
    switch, _, run, low = _names(model, guard)
    if was_cut:
        return f"{switch} to {run}, all low"
    return f"{low} has rested low for {plain(guard.rest_s)} s"


def _cause_of_lock(before: Moment, now: Moment, guard: Guard, by_switch: bool) -> str:
    """``by_switch``: the switch has just left cut."""
    switch, _, run, low = _names(now.model, guard)
    if by_switch:
        said = motor_said(now)
        return f"{switch} to {run}: {said.why or said.head}"
    was_held = _held(before, guard)
    if was_held:
        return f"{was_held[0]} is over; {low} has to rest low first"
    if not now.link or not now.power:
        return f"the link is lost for {plain(guard.relock_s)} s"
    return "an edit that reaches the motor"


def _held(moment: Moment, guard: Guard) -> list[str]:
    """The holds of the guard that are true at a moment, in words."""
    return [phrase(moment.model, c) for c in guard.holds if moment.holds(c)]
