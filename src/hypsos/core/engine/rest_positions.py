# SPDX-License-Identifier: GPL-3.0-or-later
"""Where controls stand when nobody touches anything."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.mix_lines import MixLine, combined
from hypsos.core.parts.transmitter import STICKS, Control, switch_value


def resting(model: Model) -> dict[str, float]:
    """Where every control stands when nobody touches anything: what gives thrust, at its low end;
    the motor's switch, at cut; that of a gear, at down."""
    out: dict[str, float] = {s: 0.0 for s in STICKS}
    out["throttle_stick"] = -100.0
    for c in model.transmitter.controls:
        out[c.name] = 0.0
    out |= _gear_down(model)
    guard = model.program.guard
    if guard is not None and guard.switch in out and guard.cut:
        out[guard.switch] = float(guard.cut[0])
    for a in model.program.axes:
        control = model.transmitter.control(a.control)
        if a.command == "thrust" and control is not None and not control.is_switch:
            out[a.control] = -100.0
        if a.trim is not None:
            out[f"{a.command}_trim"] = float(
                np.clip(a.trim.clicks * a.trim.step, -a.trim.range, a.trim.range)
            )
    return out


def _gear_down(model: Model) -> dict[str, float]:
    """The switches on which a gear hangs, each at the position that puts it furthest down: one that
    folds it under the aeroplane is no rest. Of positions that do the same the first is taken."""
    gear = [d.name for d in model.airframe.devices if d.kind == "retracts"]
    if not gear:
        return {}
    try:
        feeds = _Feeds(model)
    except ValueError:  # a behaviour that can't expand: it is told of elsewhere
        return {}
    out: dict[str, float] = {}
    for name in gear:
        for switch in feeds.switches(name):
            heights = [feeds.total(name, {switch.name: i}) for i in range(len(switch.positions))]
            if min(heights) < max(heights):
                out[switch.name] = float(heights.index(min(heights)))
    return out


class _Feeds:
    """What feeds a device, through signals, from switches alone: everything else is taken to give
    nothing."""

    def __init__(self, model: Model) -> None:
        self._switches = {c.name: c for c in model.transmitter.controls if c.kind == "switch"}
        self._lines: dict[str, list[MixLine]] = {}
        for placed in all_lines(model):
            self._lines.setdefault(placed.line.target, []).append(placed.line)

    def switches(self, target: str) -> list[Control]:
        """The switches that a target's lines read or ask, its own and those before them."""
        found: dict[str, Control] = {}
        open_, seen = [target], set[str]()
        while open_:
            name = open_.pop()
            if name in seen:
                continue
            seen.add(name)
            for line in self._lines.get(name, ()):
                named = {line.source} | (
                    {asked(line.when).name} if line.when is not None else set()
                )
                found |= {n: self._switches[n] for n in named if n in self._switches}
                open_.append(line.source)
        return list(found.values())

    def total(
        self, target: str, at: Mapping[str, int], before: frozenset[str] = frozenset()
    ) -> float:
        """The sum of a target with switches at these positions, the others at their first, and
        every slow at its end."""
        out = 0.0
        for line in () if target in before else self._lines.get(target, ()):
            if line.when is not None and not self._holds(line.when, at):
                continue
            value = line.gain / 100.0 * self._source(line, at, before | {target})
            out = combined(out, value, line.combine)
        return out

    def _source(self, line: MixLine, at: Mapping[str, int], before: frozenset[str]) -> float:
        switch = self._switches.get(line.source)
        if line.source == "full":
            value = 100.0
        elif switch is not None:
            value = switch_value(at.get(switch.name, 0), len(switch.positions))
        else:
            value = self.total(line.source, at, before)
        if line.response is None:
            return value
        return float(Curve(line.response.points, line.response.shape)(value))

    def _holds(self, text: str, at: Mapping[str, int]) -> bool:
        """Whether a condition holds; one that asks for something else than a switch's position is
        taken not to."""
        asks = asked(text)
        if asks.name not in self._switches or asks.position is None:
            return False
        return (at.get(asks.name, 0) == asks.position) != asks.negated
