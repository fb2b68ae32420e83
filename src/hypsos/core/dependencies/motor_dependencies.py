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
    """Everything in the document on which a motor's pulse and its release hang, to be compared;
    ``()`` without a motor.

    Where a trim stands belongs to it like everything else: an undo, a snapshot or another window's
    edit that moves a trim moves the motor. A click of the lever by hand is the one exception; see
    :func:`same_but_for_lever`."""
    if not model.airframe.motors:
        return ()
    transmitter, receiver = model.transmitter, model.receiver
    found = _behind_motors(model)
    return (
        tuple(found.lines),
        tuple(found.shared),
        tuple(found.conditions[n] for n in sorted(found.conditions)),
        model.program.guard,
        _presets_read(model, found),
        _axes_read(model, found),
        _motor_leads(model),
        tuple((c.name, c.kind, len(c.positions)) for c in transmitter.controls),
        (transmitter.centre_us, transmitter.us_per_percent, model.program.frame_s),
        (receiver.failsafe_after_s, receiver.stored, receiver.power, receiver.power_port),
        _turned(model, found),
    )


def _presets_read(model: Model, found: Behind) -> tuple[Any, ...]:
    """The flight modes, each with the presets of what is read."""
    out = []
    for mode in model.program.modes:
        presets = tuple(
            (target, value) for target, value in mode.presets.items() if target in found.signals
        )
        out.append((mode.name, mode.when, mode.fade_s, presets))
    return tuple(out)


def _axes_read(model: Model, found: Behind) -> tuple[Any, ...]:
    """The axes that are read, without their trims; and the trims that they or their levers
    bring."""
    axes = tuple(axis.changed({"trim": None}) for axis in found.axes)
    read = {axis.command for axis in found.axes}
    trims = tuple(
        (axis.command, axis.trim)
        for axis in model.program.axes
        if axis.command in read or f"{axis.command}_trim" in found.signals
    )
    return axes, trims


def _motor_leads(model: Model) -> tuple[Any, ...]:
    """The motors by name, and all that is set of their leads but for names and what was seen of
    them."""
    motors = {m.name for m in model.airframe.motors}
    leads = [x for x in model.leads if x.target in motors]
    return tuple(sorted(motors)), tuple(
        x.changed({"label": "Lead", "seen_right": None}) for x in leads
    )


def _turned(model: Model, found: Behind) -> tuple[Any, ...]:
    """The throws and outputs of surfaces that a motor reads and that are moved by angle: what their
    sum is in percent hangs on them."""
    names = {x.target for x in found.lines if x.by_angle}
    throws = tuple(
        (s.name, s.throw_up_deg, s.throw_down_deg, s.chord_mm)
        for s in model.airframe.surfaces
        if s.name in names
    )
    outputs = tuple(
        (
            x.target,
            x.direction,
            x.centre,
            x.travel_neg,
            x.travel_pos,
            x.curve,
            x.linkage,
            x.measured,
        )
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
    axes = []
    for a in before.program.axes:
        axes.append(a.changed({"trim": axis.trim}) if a.command == command else a)
    moved = before.changed({"program": before.program.changed({"axes": tuple(axes)})})
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
