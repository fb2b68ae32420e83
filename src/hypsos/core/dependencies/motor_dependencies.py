# SPDX-License-Identifier: GPL-3.0-or-later
"""What reaches a motor: an edit to any of it locks a running one."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from hypsos.core.base.cache import kept
from hypsos.core.conditions import LogicSwitch, conditions_of, signals_of
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines, reads
from hypsos.core.document.program import Axis
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.parts.tunables import Tunable


@kept
def motor_reach(model: Model) -> tuple[Any, ...]:
    """Everything in the document on which a motor's pulse and its release hang, to be compared; ``()`` without a motor.

    Where a trim stands belongs to it like everything else: an undo, a snapshot or another window's edit that moves a
    trim moves the motor. A click of the lever by hand is the one exception; see :func:`same_but_for_lever`.
    """
    if not model.airframe.motors:
        return ()
    program, guard = model.program, model.program.guard
    found = _Reach(model)
    presets = tuple(
        (m.name, m.when, m.fade_s, tuple((t, v) for t, v in m.presets.items() if t in found.signals))
        for m in program.modes
    )
    felt = tuple(program.felt(a) for a in found.axes)
    return (
        tuple(sorted(found.motors)), tuple(found.lines), guard, presets,
        tuple(tuple(v for k, v in a if k != "trim") for a in felt),
        tuple((a.command, a.trim) for a in program.axes if a in found.axes or f"{a.command}_trim" in found.signals),
        tuple(found.tunables), tuple(found.nodes[n] for n in sorted(found.nodes)),
        tuple(tuple(v for k, v in x if k not in ("label", "seen_right")) for x in model.leads if x.target in found.motors),
        tuple((c.name, c.kind, len(c.positions)) for c in model.transmitter.controls),
        (model.transmitter.centre_us, model.transmitter.us_per_percent, program.frame_s),
        (model.receiver.failsafe_after_s, model.receiver.stored, model.receiver.power, model.receiver.power_port),
        _turned(model, found),
    )  # fmt: skip


def _turned(model: Model, found: _Reach) -> tuple[Any, ...]:
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
    found = _Reach(model).nodes
    return tuple(x.name for x in model.program.logic if x.waits and x.name in found)


@kept
def motor_controls(model: Model) -> frozenset[str]:
    """The controls under the hands on which a motor's pulse or its release hangs."""
    if not model.airframe.motors:
        return frozenset()
    known = {c.name for c in model.transmitter.controls} | set(STICKS)
    return frozenset(known & _Reach(model).signals)


def same_but_for_lever(before: Model, after: Model, command: str) -> bool:
    """Whether nothing that reaches a motor differs but where the trim of this command stands."""
    axis = after.program.axis(command)
    assert axis is not None
    axes = tuple(a.changed({"trim": axis.trim}) if a.command == command else a for a in before.program.axes)
    moved = before.changed({"program": before.program.changed({"axes": axes})})
    return motor_reach(moved) == motor_reach(after)


class _Reach:
    """What a motor hangs on, followed backwards from the motors and from their release.

    A sum hangs on the lines that feed it, a line on its source, its condition and its shared values, a condition on the
    signals that it compares, and so on in a circle: whatever is found is followed until nothing new is found.
    """

    def __init__(self, model: Model) -> None:
        self.program = model.program
        self.motors = {m.name for m in model.airframe.motors}
        self.signals: set[str] = set()
        self.axes: list[Axis] = []
        self.lines: list[MixLine] = []
        self.tunables: list[Tunable] = []
        self.nodes: dict[str, LogicSwitch] = {}
        self._feeds: dict[str, list[MixLine]] = {}
        for placed in all_lines(model):
            self._feeds.setdefault(placed.line.target, []).append(placed.line)
        self._named = {x.name: x for x in self.program.logic}
        self._shared = {x.name: x for x in self.program.shared_values()}
        self._commands: dict[str, Axis] = {a.command: a for a in self.program.axes}
        guard = self.program.guard
        self._ask([m.when for m in self.program.modes])
        if guard is not None:
            self._ask(text for _, text in guard.conditions())
            self._read([check.control for check in guard.start_check])
        self._read(["thrust", *sorted(self.motors)])

    def _read(self, names: Iterable[str]) -> None:
        for name in names:
            if name in self.signals:
                continue
            self.signals.add(name)
            axis, node = self._commands.get(name), self._named.get(name)
            if axis is not None:
                self._axis(axis)
            if node is not None and node.gives_signal:
                self._ask([name])
            for line in self._feeds.get(name, ()):
                self.lines.append(line)
                self._ask([line.when])
                self._share(line.reads_shared())
                self._read(reads(line))

    def _axis(self, axis: Axis) -> None:
        self.axes.append(axis)
        self._read([axis.control])
        self._share([axis.curve.live_from if axis.curve is not None else None])
        for setting in self.program.felt(axis).settings:
            if setting is not None:
                self._share([setting.rate_from, setting.expo_from])
                self._ask([setting.from_when])

    def _share(self, names: Iterable[str | None]) -> None:
        for name in names:
            tunable = self._shared.get(name or "")
            if tunable is None or tunable in self.tunables:
                continue
            self.tunables.append(tunable)
            if tunable.adjuster is not None:
                self._ask([text for _, text in tunable.adjuster.conditions()])
                self._read([tunable.adjuster.control] if tunable.adjuster.control is not None else [])

    def _ask(self, texts: Iterable[str | None]) -> None:
        for text in texts:
            name = asked(text).key if text is not None else ""
            node = self._named.get(name)
            if node is None or name in self.nodes:
                continue
            self.nodes[name] = node
            self._ask(conditions_of(node))
            self._read(signals_of(node))


def motor_cone(lines: Iterable[MixLine], motors: set[str]) -> set[str]:
    """The motors and everything that their lines read, and what that reads."""
    feeds: dict[str, set[str]] = {}
    for line in lines:
        feeds.setdefault(line.target, set()).update(reads(line))
    cone, open_ = set(motors), list(motors)
    while open_:
        for source in feeds.get(open_.pop(), ()):
            if source not in cone:
                cone.add(source)
                open_.append(source)
    return cone
