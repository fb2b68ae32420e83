# SPDX-License-Identifier: GPL-3.0-or-later
"""Announcements and timers that most models want, made from what the model has."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from hypsos.core.base.lookup import first_free
from hypsos.core.base.values import with_tail
from hypsos.core.conditions import Combine, Compare, Delay, Latch, LogicSwitch, conditions_of
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Program
from hypsos.core.edits.condition_choices import free_name, sums_fed
from hypsos.core.edits.run_limit import motor_switch
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.recipes.crow import BRAKING

ALARM_S = 3.0
OUT = 5.0
"""Percent from which brakes are out."""


class ReadySet(NamedTuple):
    """A set: its key, what it is called, what it says, and whether the model says it already."""

    key: str
    title: str
    about: str
    there: bool


def ready_sets(model: Model) -> tuple[ReadySet, ...]:
    """The sets for which this model has something to say."""
    out = []
    for key, (title, about, make) in SETS.items():
        made = make(model)
        if made.announcements or made.timers:
            out.append(ReadySet(key, title, about, not _new(model, made)))
    return tuple(out)


def with_ready_set(model: Model, key: str) -> Model:
    """The model with what is not there yet of a set."""
    made = SETS[key][2](model)
    program, new = model.program, _new(model, made)
    said = tuple(x for x in made.announcements if x in new)
    timers = tuple(x for x in made.timers if x in new)
    asks = (
        [x.when for x in said]
        + [x.when for x in timers]
        + [x.reset for x in timers if x.reset is not None]
    )
    wanted, logic = {asked(x).key for x in asks}, list[LogicSwitch]()
    for node in reversed(made.logic):  # those further on hang on those before
        if node.name in wanted:
            logic.insert(0, node)
            wanted |= {asked(x).key for x in conditions_of(node)}
    return model.changed(
        {
            "program": program.changed(
                {
                    "announcements": program.announcements + said,
                    "timers": program.timers + timers,
                    "logic": program.logic + tuple(logic),
                }
            )
        }
    )


class _ReadySet(NamedTuple):
    announcements: tuple[Announcement, ...] = ()
    timers: tuple[Timer, ...] = ()
    logic: tuple[LogicSwitch, ...] = ()


def _new(model: Model, made: _ReadySet) -> list[Announcement | Timer]:
    captions = {x.caption for x in model.program.announcements}
    counted = {x.when for x in model.program.timers}
    new: list[Announcement | Timer] = [x for x in made.announcements if x.caption not in captions]
    return new + [x for x in made.timers if x.when not in counted]


def _motor(model: Model) -> _ReadySet:
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is None or not model.airframe.motors:
        return _ReadySet()
    said = [
        Announcement(caption="Motor armed", when="guard:armed", rank="danger"),
        Announcement(caption="Motor locked", when="guard:locked", rank="danger"),
        Announcement(caption="Motor cut", when="guard:cut"),
    ]
    logic: tuple[LogicSwitch, ...] = ()
    switched = motor_switch(model)
    if switched is not None and guard.level > 1:
        on = Compare(
            kind="above",
            name=free_name(model),
            label=UNNAMED,
            a=switched[0].signal,
            x=1.0,
            hysteresis=0.5,
        )
        locked = Combine(kind="all", name=f"{on.name}_b", of=("guard:locked", on.name))
        logic = (on, locked)
        said.append(
            Announcement(
                caption="Locked: switch off",
                when=locked.name,
                moment="while",
                every_s=ALARM_S,
                rank="danger",
            )
        )
    elif axis is not None and guard.level > 1:
        up = Compare(
            kind="above", name=free_name(model), a=axis.control, x=guard.threshold, hysteresis=2.0
        )
        locked = Combine(kind="all", name=f"{up.name}_b", of=("guard:locked", up.name))
        logic = (up, locked)
        alarm = Announcement(
            caption="Locked: stick low",
            when=locked.name,
            moment="while",
            every_s=ALARM_S,
            rank="danger",
        )
        said.append(alarm)
    return _ReadySet(tuple(said), logic=logic)


def _modes(model: Model) -> _ReadySet:
    return _ReadySet(
        tuple(Announcement(caption=m.label, when=f"mode:{m.name}") for m in model.program.modes)
    )


def _flaps(model: Model) -> _ReadySet:
    out = []
    for recipe in model.program.recipes:
        for parameter in recipe.of("positions") if recipe.when is None else ():
            found = next((getattr(recipe, p.key) for p in recipe.of("switch", "control")), "")
            control = model.transmitter.control(found)
            count = len(getattr(recipe, parameter.key))
            for i, position in enumerate(control.positions[:count] if control is not None else ()):
                out.append(
                    Announcement(caption=with_tail(recipe.label, position), when=f"{found}@{i}")
                )
    return _ReadySet(tuple(out))


def _brakes(model: Model) -> _ReadySet:
    """Only what really comes out is said to be out: it goes by the signal that moves the
    surfaces."""
    program, fed = model.program, sums_fed(model)
    own = [r for r in program.recipes if r.signal in fed]
    braking = [r for r in own if r.kind in BRAKING]
    found = [("Brakes" if len(braking) == 1 else r.label, r.signal) for r in braking]
    if "brake" in fed and "brake" not in {signal for _, signal in found}:
        found.insert(0, ("Brakes", "brake"))
    found += [(r.label, r.signal) for r in own if r.of("positions") and r.when is not None]
    said: list[Announcement] = []
    logic: list[LogicSwitch] = []
    first = free_name(model)
    for k, (label, signal) in enumerate(found):
        name = first if not k else f"{first}_{k + 1}"
        logic.append(
            Compare(kind="beyond", name=name, label=UNNAMED, a=signal, x=OUT, hysteresis=OUT - 1)
        )
        said.append(Announcement(caption=with_tail(label, "out"), when=name))
        said.append(Announcement(caption=with_tail(label, "in"), when=name, moment="ends"))
    return _ReadySet(tuple(said), logic=tuple(logic))


LANDED_S = 60.0
"""So long without an armed motor is a landing: the next flight begins anew."""
NOTICED_S = 0.1
"""So long a first arming is told from those after it."""


def _flight(model: Model) -> _ReadySet:
    """A flight timer: with a motor while it is armed, without one from the launch on."""
    guarded = model.program.guard is not None and model.airframe.motors
    begun = _arming(model) if guarded else _launch(model)
    if begun is None:
        return _ReadySet()
    when, reset, logic = begun
    timer = Timer(
        name=first_free("flight_timer", set(_taken(model)), "_"),
        label="Flight timer",
        counts="down",
        span_s=360,
        when=when,
        reset=reset,
        moments=(180, 60, 30, 0),
        last_s=10,
        keeps=True,
    )
    return _ReadySet(timers=(timer,), logic=logic)


_Begun = tuple[str, str, tuple[LogicSwitch, ...]]
"""While what a timer counts, what resets it, and the conditions that takes."""


def _arming(model: Model) -> _Begun:
    """It counts while the motor is armed, and begins anew with the first arming after a landing.

    A lock and a new arming in the air go on with the same flight: a landing takes a minute without
    being armed. So does switching the transmitter off, whose first arming is a new flight."""
    name = free_name(model)
    landed = Delay(
        kind="on_delay",
        name=f"{name}_landed",
        label="On the ground",
        of="!guard:armed",
        seconds=LANDED_S,
    )
    up = Delay(
        kind="on_delay", name=f"{name}_up", label=UNNAMED, of="guard:armed", seconds=NOTICED_S
    )
    flown = Latch(name=f"{name}_flown", label="Under way", set=up.name, reset=landed.name)
    anew = Combine(
        kind="all",
        name=name,
        label="First arming of a flight",
        of=("guard:armed", f"!{flown.name}"),
    )
    return "guard:armed", anew.name, (landed, up, flown, anew)


def _launch(model: Model) -> _Begun | None:
    """It counts from where a flight mode for the launch ends; else from the press of the tow
    button; else while the free throttle stick, or a switch that does nothing yet, is up. Each
    launch begins it anew."""
    name, used = free_name(model), uses(model)
    mode = _launch_mode(model)
    if mode is not None:
        flown = Latch(
            name=name, label="Launched", set=f"!mode:{mode.name}", reset=f"mode:{mode.name}"
        )
        return flown.name, f"mode:{mode.name}", (flown,)
    for control in model.transmitter.controls:
        opens_the_hook = control.kind == "momentary" and "tow" in control.name
        if opens_the_hook and used.get(control.name):
            pressed = f"{control.name}@1"
            flown = Latch(name=name, label="Off the line", set=pressed, reset="!power")
            return flown.name, pressed, (flown,)
    axis = model.program.axis("thrust")
    stick = "throttle_stick" if axis is None else axis.control
    if _idle(model, stick):
        up = Compare(
            kind="above", name=name, label="Throttle stick up", a=stick, x=0.0, hysteresis=20.0
        )
        return up.name, up.name, (up,)
    for control in model.transmitter.controls:
        if control.kind == "switch" and not used.get(control.name):
            on = f"{control.name}@1"
            return on, on, ()
    return None


def _launch_mode(model: Model) -> FlightMode | None:
    """The flight mode in which it is launched; None where there is none that ends: the last one in
    the list is flown when no other is."""
    for mode in model.program.modes[:-1]:
        if "launch" in mode.name or "winch" in mode.name:
            return mode
    return None


def _idle(model: Model, stick: str) -> bool:
    """Whether nothing goes by a stick but the thrust command, and nothing by that."""
    read = any({stick, "thrust"} & placed.line.signals() for placed in all_lines(model))
    others = tuple(a for a in model.program.axes if a.command != "thrust")
    without = model.changed({"program": model.program.changed({"axes": others})})
    return not read and not uses(without).get(stick)


def _taken(model: Model) -> Iterator[str]:
    program: Program = model.program
    yield from (x.name for x in program.timers)
    yield from (x.name for x in program.logic)
    yield from (x.name for x in program.shared_values())
    yield from (x.name for x in program.signals)
    yield from (c.name for c in model.transmitter.controls)
    yield from (p.name for p in model.airframe.moved())


SETS: dict[str, tuple[str, str, Callable[[Model], _ReadySet]]] = {
    "motor": ("The motor's states", "Armed, locked, cut; while it is locked with the stick up, an alarm again and again.",
              _motor),
    "modes": ("Flight modes", "The name of each flight mode as it is entered.", _modes),
    "flaps": ("Flap positions", "The name of each position as the switch reaches it.", _flaps),
    "brakes": ("Brakes", "Said only when they really come out, and when they are in again.", _brakes),
    "flight": ("Flight timer", "Six minutes down while the motor is armed, anew with the first arming after a landing of a "
               "minute; without a motor from the launch on. The last ten seconds aloud.", _flight),
}  # fmt: skip
"""Key -> title, what it is for, what it makes of a model."""
