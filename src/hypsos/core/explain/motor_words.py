# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said of the motors. The pulse on a motor's lead comes first, the guard's state second.

A guard that says *stopped* says what the transmitter asks for. Without a link the receiver may hold
another pulse, a failsafe may send one, and on an aeroplane that is plugged together wrongly the
controller hears another channel. Who stands beside the propeller must be told what the lead sends.
So *stopped* and *locked* are said only where every motor's lead sends its idle, and nothing that
needs the link is promised without saying so."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Signal
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.base.lookup import the_named
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.engine import GuardState, Result, Situation, compile_plan
from hypsos.core.explain.explain_condition import Moment
from hypsos.core.explain.idle_pulse import idle_dangers
from hypsos.core.explain.throttle_hands import switched, throttle
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import GUARD_WORDS, LEAST_POWER, control_label


class MotorSaid(NamedTuple):
    """What is said of the motors: in two or three words, and in a sentence.

    ``word``: how the motor is, as it stands behind *Motor*; or where ``named`` is False words that
    need no *Motor* before them. The sentence is its ``head``, what is so, and ``why``, where there
    is more to be said of it. ``beyond_control``: a motor runs, and no switch or stick of the
    transmitter reaches it now."""

    word: str
    head: str
    why: str = ""
    beyond_control: bool = False
    named: bool = True

    @property
    def sentence(self) -> str:
        """All of it."""
        return f"{self.head}: {self.why}" if self.why else self.head

    @property
    def short(self) -> str:
        """It in two or three words."""
        return f"Motor {self.word}" if self.named else self.word

    @property
    def shortest(self) -> str:
        """The same in one word or two, where it is plain that a motor is meant."""
        return self.word.capitalize()


NOTHING_SAID = MotorSaid("", "", named=False)
"""Of an aeroplane without a motor."""


def motor_powers(model: Model, result: Result) -> dict[str, float]:
    """Motor -> power in percent by the pulse on its lead, at the end of a run."""
    motors = {m.name for m in model.airframe.motors}
    powers = {}
    for lead in model.leads:
        # a lead that has come with an edit is not in a run from before it
        if lead.target in motors and lead.name in result.outputs:
            stand = np.ravel(result.outputs[lead.name].stand)[-1]
            powers[lead.target] = power_percent(float(stand))
    return powers


def turning_powers(model: Model, result: Result) -> dict[str, float]:
    """Motor -> power in percent with which it turns, at the end of a run: none where its controller
    has no battery, or waits."""
    ready = {}
    for lead in model.leads:
        if lead.name in result.outputs:
            lets = np.ravel(np.asarray(result.outputs[lead.name].ready))
            ready[lead.target] = bool(lets[-1])
    powers = motor_powers(model, result)
    return {motor: power if ready[motor] else 0.0 for motor, power in powers.items()}


def motor_said(now: Moment, sent: Result | None = None) -> MotorSaid:
    """What is said of the motors at a moment; nothing without one. ``sent`` is what really goes to
    the leads, where that is not what the model says: on an aeroplane to practise on."""
    model = now.model
    if not model.airframe.motors or any(x.name not in now.result.outputs for x in model.leads):
        # no motor, or one that has just come and of which nothing was computed yet
        return NOTHING_SAID
    shown = now.result if sent is None else sent
    powers, turning = motor_powers(model, shown), turning_powers(model, shown)
    strongest = max(powers, key=lambda n: (turning[n], powers[n]), default="")
    power = powers.get(strongest, 0.0)
    if power > LEAST_POWER:
        beyond = _beyond_control(now, sent, strongest)
        if turning[strongest] <= LEAST_POWER:
            return _standing_still(now, strongest, power, beyond)
        return _running(now, shown, strongest, power, beyond)
    return _at_idle(now)


def _running(now: Moment, shown: Result, motor: str, power: float, beyond: str | None) -> MotorSaid:
    """A motor that turns: beyond control, at an engine's idle, or as it is told. ``beyond``: why
    nobody stops it, where that is so."""
    label = _label(now.model, motor)
    if beyond is not None:
        return MotorSaid("RUNS", f"{label} RUNS at {number(power)} %", beyond, True)
    guard = now.model.program.guard
    is_engine = guard is not None and guard.engine(motor) is not None
    commanded = power_percent(float(np.ravel(shown.told[motor])[-1]))
    if is_engine and commanded <= LEAST_POWER:
        idles = f"{label} idles at {number(power)} %"
        return MotorSaid("Engine idles", "Motor armed", idles, named=False)
    return MotorSaid("armed", "Motor armed")


def _at_idle(now: Moment) -> MotorSaid:
    """No motor's lead sends more than idle: what the guard says of it."""
    guard = now.model.program.guard
    connected = now.link and now.power
    if now.state == GuardState.ARMED and not connected:
        return _armed_without_a_link(now)
    if now.state == GuardState.LOCKED and guard is not None:
        return MotorSaid("locked", "Motor locked", _reason(now, guard))
    held = _held(now, guard) if now.state == GuardState.CUT and guard is not None else None
    if held is not None:
        return held
    word = GUARD_WORDS[now.state]
    return MotorSaid(word, f"Motor {word}")


def _armed_without_a_link(now: Moment) -> MotorSaid:
    """Armed, with the link or the receiver's power away: what the motor does when they come
    back."""
    told = max((float(np.ravel(x)[-1]) for x in now.result.told.values()), default=-100.0)
    asked_to_run = power_percent(told) > LEAST_POWER
    then = "it starts again" if asked_to_run else "it follows the stick again"
    if now.power:
        again = f"{then} when the link returns"
        return MotorSaid("Armed, link lost", "Motor armed, link lost", again, named=False)
    if asked_to_run and all(x.waits_for_idle for x in _motor_leads(now.model)):
        then = "its controller waits for idle"
    again = f"{then} when the battery goes in"
    return MotorSaid("Armed, no power", "Motor armed, no power", again, named=False)


def _label(model: Model, name: str) -> str:
    labels = {m.name: m.label for m in model.airframe.motors}
    return labels[name] if len(labels) > 1 else "Motor"


def _motor_leads(model: Model) -> list[Lead]:
    motors = {m.name for m in model.airframe.motors}
    return [x for x in model.leads if x.target in motors]


def _standing_still(now: Moment, motor: str, power: float, beyond: str | None) -> MotorSaid:
    """A motor that is told to run and stands still: it has no battery, or its controller waits for
    idle."""
    model = now.model
    label = _label(model, motor)
    waits = next(x for x in _motor_leads(model) if x.target == motor).waits_for_idle
    if now.flight_battery:
        why = "its controller waits until it has heard idle for a second"
        remedy = "" if beyond is not None else f"; {throttle(model).remedy}"
    else:
        why = "no flight battery"
        remedy = "; it STARTS when the battery goes in"
        if waits:
            remedy = "; its controller waits for idle then"
    head = f"{label} stands still, commanded to run at {number(power)} %"
    if beyond is not None:
        why = f"{why}{remedy}. {beyond[:1].upper()}{beyond[1:]}"
        return MotorSaid("Commanded to run", head, why, True, named=False)
    return MotorSaid("Commanded to run", head, f"{why}{remedy}", named=False)


# -- a motor that nothing reaches ---------------------------------------------------------------


def _beyond_control(now: Moment, sent: Result | None, motor: str) -> str | None:
    """Why no switch reaches a motor that runs; None where the guard has armed it and the link
    carries the stick."""
    lead = next(x for x in _motor_leads(now.model) if x.target == motor)
    if sent is not None and _stand(sent, lead) != _stand(now.result, lead):
        return "on this aeroplane its controller hears another channel, and no switch here stops it; plug it out first"
    if now.link and now.power:
        if now.state == GuardState.ARMED:
            return None
        return "its lead does not send its idle; take the flight battery out"
    action = lead.failsafe.action if lead.failsafe is not None else "preset"
    if bool(np.ravel(now.result.outputs[lead.name].failsafe)[-1]):
        how = "the failsafe holds it" if action == "hold" else "its failsafe is set so"
        return f"the link is lost, and {how}; cut cannot reach it until the link returns"
    left = _until_failsafe(now)
    wait = "" if left is None else f" ({number(left, 1)} s)"
    if action == "hold":
        return f"the link is lost, the receiver holds it, and so does the failsafe{wait}; cut cannot reach it"
    return f"the link is lost, the receiver holds it, cut cannot reach it until the failsafe acts{wait}"


def _stand(result: Result, lead: Lead) -> float:
    return float(np.ravel(result.outputs[lead.name].stand)[-1])


def _until_failsafe(now: Moment) -> float | None:
    """Seconds until the failsafe acts; None where that is not known."""
    since = np.ravel(now.result.memory.after.get("failsafe", math.nan))[-1]
    if math.isnan(since):
        return None
    passed = float(now.result.t_s[-1]) - float(since)
    return max(0.0, now.model.receiver.failsafe_after_s - passed)


# -- a motor that is not armed ------------------------------------------------------------------


def _held(now: Moment, guard: Guard) -> MotorSaid | None:
    """That a hold stops the motor though its switch stands at run; None where the switch is at
    cut."""
    at = int(now.controls.get(guard.switch, guard.cut[0]))
    if at in guard.cut:
        return None
    holding = next((c for c in guard.holds if now.holds(c)), None)
    if holding is None:
        return None
    words = phrase(now.model, holding)
    switch = the_named(now.model.transmitter.controls, guard.switch)
    return MotorSaid(
        "held", f"Motor held while {words}", f"the {switch.label} stands at {switch.positions[at]}"
    )


def _reason(now: Moment, guard: Guard) -> str:
    """What stands in the way of arming. The one that is named is the one that holds it."""
    model, result = now.model, now.result
    if guard.unconfirmed:
        return "an older document meant less power; look at Make the motor safe"
    for i, _ in idle_dangers(model):
        return f"{model.leads[i].label} is not sent its idle pulse at idle"
    relocked, waiting = _lock(result)
    if relocked:
        return f"the link was lost; put the {_lower(control_label(model, guard.switch))} to cut and back"
    # a guard of level 1 does not look at the power, but after a hold it does
    told = _told_most(now, guard) if guard.level > 1 or waiting else None
    if told is not None:
        motor, power = told
        tells = _what_tells(now, guard, motor)
        label = the_named(model.airframe.motors, motor).label
        return f"{label} would be commanded {number(power)} %{tells}"
    axis = model.program.axis("thrust")
    wakes_by_itself = (waiting or guard.wakes_when_low) and guard.also is None
    if wakes_by_itself and axis is not None:
        stick = control_label(model, axis.control)
        return f"the {stick} has to rest low for {plain(guard.rest_s)} s"
    switch = _lower(control_label(model, guard.switch))
    besides = []
    if guard.also is not None:
        besides.append(f"while {phrase(model, guard.also)}")
    if guard.start_check:
        besides.append("with all switches and sliders as the start check wants them")
    return " ".join([f"put the {switch} to cut and back", *besides])


def _told_most(now: Moment, guard: Guard) -> tuple[str, float] | None:
    """The motor that would be told most, where that is more than the guard calls low, and how much
    power that is in percent."""
    powers = {}
    for motor, demand in now.result.told.items():
        powers[motor] = power_percent(float(np.ravel(demand)[-1]))
    most = max(powers, key=lambda motor: powers[motor], default=None)
    if most is None or powers[most] <= power_percent(guard.threshold) + 1e-6:
        return None
    return most, powers[most]


def _lower(label: str) -> str:
    return label[:1].lower() + label[1:]


def _lock(result: Result) -> tuple[bool, bool]:
    """Whether a lost link has locked it, and whether it waits after a hold."""
    state = result.memory.after.get("guard.state")
    if state is None:
        return False, False
    _, relocked, waiting, _ = (bool(np.ravel(x)[-1]) for x in state)
    return relocked, waiting


def _what_tells(now: Moment, guard: Guard, motor: str) -> str:
    """What would tell a motor to run: the stick, or where that is low, what else does."""
    model = now.model
    axis, power = model.program.axis("thrust"), switched(model)
    if power is not None:
        name, off = next(iter(power.low.items()))
        if now.controls.get(name, off) != off:
            return f"; {power.remedy}"
    elif axis is not None and now.controls.get(axis.control, -100.0) > guard.threshold:
        return f"; bring the {control_label(model, axis.control)} low"
    most = max(_told_by(now, motor), default=None)
    if most is None and axis is None:
        return ""
    if most is None:
        return ": something is still on its way to it; wait until it has run out"
    _, label, kind = most
    if kind == "trim":
        return f" by the {label[:1].lower()}{label[1:]}; take that back"
    if kind == "preset":
        return f" by the preset of {now.mode_words}"
    return f" by {label}"


def _told_by(now: Moment, motor: str) -> Iterator[tuple[float, str, str]]:
    """What adds power to a motor with the hands as they are, everything at its end: (how much, its
    name, its kind)."""
    given: dict[str, Signal] = {n: float(v) for n, v in now.controls.items()}
    situation = Situation(np.zeros(1), given, float(now.link), float(now.power))
    settled = compile_plan(now.model).run(situation, None, [motor], instant=True)
    for part in settled.why[motor]:
        amount = float(np.ravel(part.amount)[-1])
        if part.kind in ("stick", "trim", "mix", "preset") and amount > LEAST_POWER:
            yield amount, part.label, part.kind
