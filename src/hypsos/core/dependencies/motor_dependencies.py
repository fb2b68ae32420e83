# SPDX-License-Identifier: GPL-3.0-or-later
"""What reaches a motor: an edit to any of it locks a running one."""

from __future__ import annotations

from typing import Any

from hypsos.core.base.cache import kept
from hypsos.core.dependencies.graph import Behind, graph
from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter import STICKS


@kept
def motor_reach(model: Model) -> tuple[Any, ...]:
    """Everything in the document on which a motor's pulse and its release hang, to be compared; ``()`` without a motor.

    Where a trim stands belongs to it like everything else: an undo, a snapshot or another window's edit that moves a
    trim moves the motor. A click of the lever by hand is the one exception; see :func:`same_but_for_lever`.
    """
    if not model.airframe.motors:
        return ()
    program, guard = model.program, model.program.guard
    motors = {m.name for m in model.airframe.motors}
    found = _behind_motors(model)
    presets = tuple(
        (m.name, m.when, m.fade_s, tuple((t, v) for t, v in m.presets.items() if t in found.signals))
        for m in program.modes
    )
    read = {a.command for a in found.axes}
    return (
        tuple(sorted(motors)), tuple(found.lines), guard, presets,
        tuple(tuple(v for k, v in a if k != "trim") for a in found.axes),
        tuple((a.command, a.trim) for a in program.axes if a.command in read or f"{a.command}_trim" in found.signals),
        tuple(found.shared), tuple(found.conditions[n] for n in sorted(found.conditions)),
        tuple(tuple(v for k, v in x if k not in ("label", "seen_right")) for x in model.leads if x.target in motors),
        tuple((c.name, c.kind, len(c.positions)) for c in model.transmitter.controls),
        (model.transmitter.centre_us, model.transmitter.us_per_percent, program.frame_s),
        (model.receiver.failsafe_after_s, model.receiver.stored, model.receiver.power, model.receiver.power_port),
        _turned(model, found),
    )  # fmt: skip


def _turned(model: Model, found: Behind) -> tuple[Any, ...]:
    """The throws and outputs of surfaces that a motor reads and that are moved by angle: what their sum is in percent hangs on
    them."""
    names = {x.target for x in found.lines if x.by_angle}
    throws = tuple(
        (s.name, s.throw_up_deg, s.throw_down_deg, s.chord_mm) for s in model.airframe.surfaces if s.name in names
    )
    outputs = tuple(
        (x.target, x.direction, x.centre, x.travel_neg, x.travel_pos, x.curve, x.linkage, x.measured)
        for x in model.leads
        if x.target in names
    )
    return throws, outputs


@kept
def motor_delays(model: Model) -> tuple[str, ...]:
    """The delays, off-delays and pulses on which what a motor would be told may hang."""
    if not model.airframe.motors:
        return ()
    found = _behind_motors(model).conditions
    return tuple(x.name for x in model.program.logic if x.waits and x.name in found)


@kept
def motor_controls(model: Model) -> frozenset[str]:
    """The controls under the hands on which a motor's pulse or its release hangs."""
    if not model.airframe.motors:
        return frozenset()
    known = {c.name for c in model.transmitter.controls} | set(STICKS)
    return frozenset(known & _behind_motors(model).signals)


def same_but_for_lever(before: Model, after: Model, command: str) -> bool:
    """Whether nothing that reaches a motor differs but where the trim of this command stands."""
    axis = after.program.axis(command)
    assert axis is not None
    axes = tuple(a.changed({"trim": axis.trim}) if a.command == command else a for a in before.program.axes)
    moved = before.changed({"program": before.program.changed({"axes": axes})})
    return motor_reach(moved) == motor_reach(after)


@kept
def _behind_motors(model: Model) -> Behind:
    """What the motors and their release hang on."""
    program, found = model.program, Behind(graph(model))
    found.ask(mode.when for mode in program.modes if mode.when is not None)
    if program.guard is not None:
        found.ask(text for _, text in program.guard.asks())
        found.read(check.control for check in program.guard.start_check)
    found.read(["thrust", *sorted(m.name for m in model.airframe.motors)])
    return found
