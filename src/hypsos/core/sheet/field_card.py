# SPDX-License-Identifier: GPL-3.0-or-later
"""The field card: what a pilot looks up on the field, small enough for the transmitter's case."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from hypsos.core.base.figure_words import number, plain
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model, digest
from hypsos.core.document.program import Axis
from hypsos.core.fitting.rate_throws import at_full_in_each
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.transmitter import STICK_PLACES, Control
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.on_paper.blocks import Block, Row, in_lines
from hypsos.core.schools.ruler import Ruler
from hypsos.core.sheet.guard_test import with_guard
from hypsos.core.sheet.preflight_lists import EACH_TITLE, before_each
from hypsos.core.sheet.sheet_blocks import Sheet
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.time_words import clock
from hypsos.core.wording.words import sense_words

COMMANDS = {"roll": "Roll", "pitch": "Pitch", "yaw": "Yaw"}
MOST_USES = 3


class CardControl(NamedTuple):
    """A control under a hand: what it is called and where it is, what hangs on it, and its positions
    from the end away from the pilot. ``cut``: those where the motors stand still."""

    label: str
    place: str
    kind: str
    hand: str
    does: str
    positions: tuple[str, ...]
    cut: frozenset[str] = frozenset()


class CardStick(NamedTuple):
    """A stick: its hand, what it does across and to and fro."""

    hand: str
    across: str
    along: str


class FieldCard(NamedTuple):
    """Its front: title, what stops the motors, hands; its back: a sheet of few blocks."""

    title: str
    name: str
    cut: str
    controls: tuple[CardControl, ...]
    sticks: tuple[CardStick, ...]
    back: Sheet


def field_card(model: Model, made: Keying) -> FieldCard:
    """The card of a model on a transmitter."""
    reduced = made.reduced.model
    guarded = with_guard(made.reduced)
    controls = tuple(_controls(model, reduced, guarded))
    blocks = [
        _modes(reduced),
        _throws(made),
        _failsafe(reduced, made),
        _timers(reduced),
        _each(model),
    ]
    name = f"{model.name} on {made.profile.name}"
    back = Sheet(model.name, "", tuple(x for x in blocks if x.rows), "", name, digest(model))
    return FieldCard(model.name, name, _cut_words(guarded), controls, tuple(_sticks(reduced)), back)


def _controls(design: Model, model: Model, guarded: Model) -> Iterator[CardControl]:
    used = uses(design)
    guard = guarded.program.guard
    for control in model.transmitter.controls:
        motors = guard is not None and control.name == guard.switch
        hangs = list(used.get(control.name, ()))
        if not hangs and not motors:
            continue
        said = ", ".join(hangs[:MOST_USES])
        positions = _from_far(model, control)
        cut = (
            frozenset(control.positions[i] for i in guard.cut) if motors and guard else frozenset()
        )
        yield CardControl(
            control.label, control.place, control.kind, control.hand, said, positions, cut
        )


def _from_far(model: Model, control: Control) -> tuple[str, ...]:
    count = len(control.positions)
    rows = {model.transmitter.row_from_far(i, count): x for i, x in enumerate(control.positions)}
    return tuple(rows[i] for i in sorted(rows))


def _sticks(model: Model) -> Iterator[CardStick]:
    """What each stick commands; nothing where no command goes by it."""
    by_control = {axis.control: axis.command for axis in model.program.axes}
    for hand, (across, along) in STICK_PLACES[model.transmitter.stick_mode].items():
        yield CardStick(hand, by_control.get(across, ""), by_control.get(along, ""))


def _cut_words(model: Model) -> str:
    """Where the motors stand still whatever the stick does."""
    guard = model.program.guard
    control = None if guard is None else model.transmitter.control(guard.switch)
    if guard is None or control is None or not model.airframe.motors:
        return ""
    at = " or ".join(control.positions[i] for i in guard.cut)
    end = _end_words(model, control, guard.cut)
    return f"Motor cut: {control.label} at {at}{end}"


def _end_words(model: Model, control: Control, places: tuple[int, ...]) -> str:
    """Which end of a switch that is, where it is one."""
    rows = {model.transmitter.row_from_far(i, len(control.positions)) for i in places}
    if rows == {0}:
        return ", away from you"
    return ", towards you" if rows == {len(control.positions) - 1} else ""


def _modes(model: Model) -> Block:
    rows = []
    for mode in model.program.modes:
        when = phrase(model, mode.when) if mode.when is not None else "No other is"
        rows.append(Row(mode.name, (mode.label, when)))
    return Block(
        "modes",
        "Flight modes, the first that holds",
        columns=("Mode", "Flown while"),
        rows=tuple(rows),
        ticked=False,
    )


def _throws(made: Keying) -> Block:
    model, rows = made.reduced.model, []
    for command, word in COMMANDS.items():
        axis = model.program.axis(command)
        found = None if axis is None else _throw_lines(made, axis, command)
        if found:
            rows.append(Row(command, (word, in_lines(found))))
    return Block(
        "throws",
        "Throws at full stick, mm, nothing else moved",
        columns=("Stick", "By rates"),
        rows=tuple(rows),
        ticked=False,
    )


def _throw_lines(made: Keying, axis: Axis, command: str) -> list[str]:
    """The throws of the surface that a command moves most, at every position of its rates."""
    model, rest = made.reduced.model, made.at_rest()
    control = None if axis.switch is None else model.transmitter.control(axis.switch)
    positions = list(range(len(control.positions))) if control is not None else [0]
    best: tuple[float, Surface, list[tuple[float, float]]] | None = None
    for surface in model.airframe.surfaces:
        found = at_full_in_each(model, command, positions, surface.name, rest)
        ends = [(low, high) for low, high in found if low is not None and high is not None]
        if len(ends) < len(found):
            continue
        most = max(abs(high - low) for low, high in ends)
        if most > 0.5 and (best is None or most > best[0]):
            best = (most, surface, ends)
    if best is None:
        return []
    _, surface, ends = best
    said = []
    for place, (low, high) in zip(positions, ends, strict=True):
        at = f"{control.positions[place]}: " if control is not None else ""
        one, two = (_mm_words(surface, x) for x in sorted((low, high)))
        said.append(f"{at}{one}, {two}")
    return [surface.label, *said]


def _mm_words(surface: Surface, mm: float) -> str:
    if round(abs(mm), 1) == 0:
        return "0"
    return f"{number(abs(mm), 1)} {sense_words(surface)[mm > 0]}"


def _failsafe(model: Model, made: Keying) -> Block:
    """What everything does without the link, what does the same in one row."""
    ruler, grouped = Ruler(model), dict[str, list[str]]()
    parts = {part.name: part.label for part in model.airframe.moved()}
    motors = {motor.name for motor in model.airframe.motors}
    for port in sorted(ruler.leads):
        safe = made.settings.failsafe.ports[port]
        part = ruler.part_of(port)
        does = {"hold": "stays", "none": "no pulses"}.get(safe.action, "")
        if not does:
            does = (
                _motor_words(made, port, safe.place_us)
                if part in motors
                else ruler.stands(port, safe.place_us)
            )
        grouped.setdefault(does, []).append(parts[part])
    rows = tuple(Row(does, (does, ", ".join(names))) for does, names in grouped.items())
    after = plain(made.settings.failsafe.after_s)
    return Block(
        "failsafe",
        f"Without the link, after {after} s",
        columns=("Stands", "What"),
        rows=rows,
        ticked=False,
    )


def _motor_words(made: Keying, port: int, us: float) -> str:
    """What a motor is told."""
    output = next(x for x in made.settings.outputs if x.port == port)
    off = made.settings.centre_us + made.settings.us_per_percent * output.cut_at
    return f"stopped, {plain(us)} µs" if abs(us - off) < 0.5 else f"{plain(us)} µs"


def _timers(model: Model) -> Block:
    rows = []
    for timer in model.program.timers:
        span = f"{clock(timer.span_s)} down" if timer.counts == "down" else "counts up"
        rows.append(Row(timer.name, (timer.label, f"{span}, while {phrase(model, timer.when)}")))
    return Block("timers", "Timer", columns=("Timer", "Counts"), rows=tuple(rows), ticked=False)


def _each(model: Model) -> Block:
    rows = tuple(Row(item.what, (item.what, item.how)) for item in before_each(model))
    return Block("each", EACH_TITLE, columns=("Look at", "How"), rows=rows)
