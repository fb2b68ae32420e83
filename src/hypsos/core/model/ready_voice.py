"""Announcements and timers that most models want, made from what the model has."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from hypsos.core.ground.values import with_tail
from hypsos.core.model.choosing import free_name, sums_fed
from hypsos.core.model.document import Model
from hypsos.core.model.phrases import UNNAMED
from hypsos.core.model.program import Program
from hypsos.core.parts.logic import Combine, Compare, LogicSwitch, conditions_of
from hypsos.core.parts.voice import Announcement, Timer

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
    wanted, logic = {x.when for x in said}, list[LogicSwitch]()
    for node in reversed(made.logic):  # those further on hang on those before
        if node.name in wanted:
            logic.insert(0, node)
            wanted |= set(conditions_of(node))
    timers = tuple(x for x in made.timers if x in new)
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


class _Made(NamedTuple):
    announcements: tuple[Announcement, ...] = ()
    timers: tuple[Timer, ...] = ()
    logic: tuple[LogicSwitch, ...] = ()


def _new(model: Model, made: _Made) -> list[Announcement | Timer]:
    captions = {x.caption for x in model.program.announcements}
    counted = {x.when for x in model.program.timers}
    new: list[Announcement | Timer] = [x for x in made.announcements if x.caption not in captions]
    return new + [x for x in made.timers if x.when not in counted]


def _motor(model: Model) -> _Made:
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is None or not model.airframe.motors:
        return _Made()
    said = [
        Announcement(caption="Motor released", when="guard:released", rank="danger"),
        Announcement(caption="Motor locked", when="guard:locked", rank="danger"),
        Announcement(caption="Motor stopped", when="guard:stopped"),
    ]
    logic: tuple[LogicSwitch, ...] = ()
    if axis is not None and guard.level > 1:
        up = Compare(kind="above", name=free_name(model), a=axis.control, x=guard.threshold, hysteresis=2.0)
        locked = Combine(kind="all", name=f"{up.name}_b", of=("guard:locked", up.name))
        logic = (up, locked)
        alarm = Announcement(
            caption="Locked: stick low", when=locked.name, moment="while", every_s=ALARM_S, rank="danger"
        )
        said.append(alarm)
    return _Made(tuple(said), logic=logic)


def _modes(model: Model) -> _Made:
    return _Made(tuple(Announcement(caption=m.label, when=f"mode:{m.name}") for m in model.program.modes))


def _flaps(model: Model) -> _Made:
    out = []
    for recipe in model.program.recipes:
        for parameter in recipe.of("positions") if recipe.when is None else ():
            found = next((getattr(recipe, p.key) for p in recipe.of("switch", "control")), "")
            control = model.transmitter.control(found)
            count = len(getattr(recipe, parameter.key))
            for i, position in enumerate(control.positions[:count] if control is not None else ()):
                out.append(Announcement(caption=with_tail(recipe.label, position), when=f"{found}@{i}"))
    return _Made(tuple(out))


def _brakes(model: Model) -> _Made:
    """Only what really comes out is said to be out: it goes by the signal that moves the surfaces."""
    program, fed = model.program, sums_fed(model)
    found = [("Brakes", "brake")] if "brake" in fed else []
    found += [
        (r.label, r.signal) for r in program.recipes if r.of("positions") and r.when is not None and r.signal in fed
    ]
    said: list[Announcement] = []
    logic: list[LogicSwitch] = []
    first = free_name(model)
    for k, (label, signal) in enumerate(found):
        name = first if not k else f"{first}_{k + 1}"
        logic.append(Compare(kind="beyond", name=name, label=UNNAMED, a=signal, x=OUT, hysteresis=OUT - 1))
        said.append(Announcement(caption=with_tail(label, "out"), when=name))
        said.append(Announcement(caption=with_tail(label, "in"), when=name, moment="ends"))
    return _Made(tuple(said), logic=tuple(logic))


def _flight(model: Model) -> _Made:
    released = model.program.guard is not None and bool(model.airframe.motors)
    when = "guard:released" if released else "power"
    names = (n for k in range(1, 100) if (n := "flight_timer" if k == 1 else f"flight_timer_{k}") not in _taken(model))
    timer = Timer(
        name=next(names), label="Flight timer", counts="down", span_s=360, when=when, moments=(180, 60, 30, 0), last_s=10,
        keeps=True,
    )  # fmt: skip
    return _Made(timers=(timer,))


def _taken(model: Model) -> Iterator[str]:
    program: Program = model.program
    yield from (x.name for x in (*program.timers, *program.logic, *program.shared_values(), *program.signals))
    yield from (c.name for c in model.transmitter.controls)
    yield from (p.name for p in model.airframe.moved())


SETS: dict[str, tuple[str, str, Callable[[Model], _Made]]] = {
    "motor": ("The motor's states", "Released, locked, stopped; while it is locked with the stick up, an alarm again and again.",
              _motor),
    "modes": ("Flight modes", "The name of each flight mode as it is entered.", _modes),
    "flaps": ("Flap positions", "The name of each position as the switch reaches it.", _flaps),
    "brakes": ("Brakes", "Said only when they really come out, and when they are in again.", _brakes),
    "flight": ("Flight timer", "Six minutes down while the motor is released (without a motor: while the receiver has power), "
               "the last ten seconds aloud; kept while the power is off.", _flight),
}  # fmt: skip
"""Key -> title, what it is for, what it makes of a model."""
