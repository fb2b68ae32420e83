# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether a condition holds now, and why, down to the hands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from hypsos.core.base.backends import Flags
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Result, Situation
from hypsos.core.engine.situation import fed
from hypsos.core.parts.condition_values import Combine, Compare, Counter, Delay, Gate, Latch, LogicSwitch, asked
from hypsos.core.wording.describe_condition import (
    COMPARED,
    level_words,
    mode_label,
    node_named,
    phrase,
    signal_label,
    timer_named,
)
from hypsos.core.wording.time_words import clock
from hypsos.core.wording.words import GUARD_WORDS, STICK_SIDES, number

DEEPEST = 12


@dataclass(frozen=True)
class Moment:
    """A model at the last frame of a run, with the hands as they stand.

    ``power``: the receiver is fed; ``flight_battery``: the motors are.
    """

    model: Model
    result: Result
    controls: Mapping[str, float]
    link: bool = True
    power: bool = True
    flight_battery: bool = True

    def holds(self, text: str) -> bool:
        """Whether a condition holds."""
        negated, realm, name, position = asked(text)
        if realm == "guard":
            found = GUARD_WORDS[self.state] == name
        elif realm == "timer":
            found = self._run_out(name)
        elif realm:
            modes = self.model.program.modes
            found = bool(modes) and modes[int(np.ravel(self.result.modes)[-1])].name == name
        elif position is not None:
            steps = self.result.steps.get(name)
            at = self.controls.get(name, 0.0) if steps is None else np.ravel(steps)[-1]
            found = int(at) == position
        elif name in ("link", "power"):
            found = self.power and (self.link or name == "power")
        else:
            flag = self.result.logic.get(name)
            found = flag is not None and bool(np.ravel(flag)[-1])
        return found != negated

    @property
    def state(self) -> GuardState:
        """Whether the motors are armed."""
        return GuardState(int(np.ravel(self.result.guard)[-1]))

    @property
    def mode_words(self) -> str:
        """What people call the flight mode flown."""
        modes = self.model.program.modes
        return mode_label(self.model, modes[int(np.ravel(self.result.modes)[-1])].name) if modes else ""

    def _run_out(self, name: str) -> bool:
        timer = next(x for x in self.model.program.timers if x.name == name)
        left = timer.span_s - timer.elapsed(float(np.ravel(self.result.timers[name])[-1]))
        return timer.span_s > 0 and left < 1e-6

    def because(self, text: str, depth: int = 0) -> str:
        """Why it holds or does not, as a clause: ``'throttle stick stands at −100 %'``, ``'Motor switch stands at cut'``."""
        _, realm, name, position = asked(text)
        control = self.model.transmitter.control(name)
        if realm == "guard":
            return f"the motor is {GUARD_WORDS[self.state]}"
        if realm == "timer":
            return f"{timer_named(self.model, name)} shows {clock(float(np.ravel(self.result.timers[name])[-1]))}"
        if realm:
            modes = self.model.program.modes
            flown = modes[int(np.ravel(self.result.modes)[-1])].name if modes else "base"
            return f"the flight mode is {mode_label(self.model, flown)}"
        if control is not None and position is not None:
            at = int(self.controls.get(name, 0.0))
            return f"{control.label} stands at {control.positions[min(at, len(control.positions) - 1)]}"
        if name in ("link", "power"):
            up = self.holds(name)
            return {
                "link": f"the link is {'up' if up else 'lost'}",
                "power": f"the receiver has {'' if up else 'no '}power",
            }[name]
        node = node_named(self.model, name)
        if node is None or depth > DEEPEST:
            return ""
        return self._node(node, depth + 1)

    def _node(self, node: LogicSwitch, depth: int) -> str:
        now = self.holds(node.name)
        if isinstance(node, Compare):
            return self._compared(node)
        if isinstance(node, Combine):
            return self._combined(node, now, depth)
        if isinstance(node, Latch):
            if now:
                return f"it was set ({phrase(self.model, node.set)}), and has not been cleared since"
            if not node.edges and self.holds(node.reset):
                return self.because(node.reset, depth)
            return f"it has not been set ({phrase(self.model, node.set)}) since it was last cleared"
        if isinstance(node, Counter):
            return f"it stands at step {int(np.ravel(self.result.steps[node.name])[-1]) + 1} of {node.count}"
        if isinstance(node, Delay):
            return self._delayed(node, now, depth)
        assert isinstance(node, Gate)
        return self.because(node.when, depth)

    def _compared(self, node: Compare) -> str:
        """What is compared stands where; names how far it has yet to go back where a hysteresis holds it."""
        a = self.signal(node.a)
        said = f"{signal_label(self.model, node.a)} {_standing(node, a)}"
        if node.kind == "difference" and node.b is not None:
            said += f", {signal_label(self.model, node.b)} at {number(self.signal(node.b))} %"
        past = {"above": a > node.x, "below": a < node.x, "beyond": abs(a) > node.x}.get(node.kind)
        if past is False and self.holds(node.name):
            level = level_words(node.a, node.x, node.kind)
            said += f", which is no longer {COMPARED[node.kind].split(' ', 1)[1]} {level}, but it has not gone back far enough"
        return said

    def signal(self, name: str) -> float:
        """What a comparison reads, in percent."""
        gate = node_named(self.model, name)
        if isinstance(gate, Gate):
            return self.signal(gate.source) if self.holds(gate.when) else gate.parked
        if name in self.result.sums and name not in self.controls:
            return float(np.ravel(self.result.sums[name])[-1])
        if name == "link_quality" and not (self.link and self.power):
            return 0.0
        return float(self.controls.get(name, 100.0 if name in ("full", "link_quality") else 0.0))

    def _combined(self, node: Combine, now: bool, depth: int) -> str:
        parts = [(c, self.holds(c)) for c in node.of]
        if node.kind == "one":
            on = [phrase(self.model, c) for c, held in parts if held]
            return f"{len(on)} of {len(parts)} hold" + (f": {'; '.join(on)}" if on else "")
        if node.kind == "not":
            return self.because(node.of[0], depth)
        decide = now if node.kind == "any" else not now  # one part that decides, else all of them
        which = [c for c, held in parts if held == (node.kind == "any")] if decide else [c for c, _ in parts]
        told = [self.because(c, depth) for c in which]
        return " and ".join(dict.fromkeys(x for x in told if x))

    def _delayed(self, node: Delay, now: bool, depth: int) -> str:
        inner, why = self.holds(node.of), self.because(node.of, depth)
        if node.kind == "on_delay":
            return why if now or not inner else f"{why}, but not yet for {node.seconds:g} s"
        if node.kind == "off_delay":
            return why if inner or not now else f"{why}, but for less than {node.seconds:g} s"
        return f"{why}, {'since less than' if now else 'but it did not begin within the last'} {node.seconds:g} s"


def truth_over(model: Model, result: Result, situation: Situation, text: str) -> Flags:
    """Where a condition holds, frame by frame. Raises KeyError or ValueError where it asks for what is not there."""
    negated, realm, name, position = asked(text)
    shape = situation.t_s.shape
    found: Any
    if realm == "mode":
        found = result.modes == [m.name for m in model.program.modes].index(name)
    elif realm == "guard":
        found = result.guard == list(GUARD_WORDS.values()).index(name)
    elif realm == "timer":
        timer = next(x for x in model.program.timers if x.name == name)
        shown = result.timers[name]
        elapsed = timer.span_s - shown if timer.counts == "down" else shown
        found = (elapsed > timer.span_s - 1e-6) & (timer.span_s > 0)
    elif position is not None:
        rest = 0.0 if model.transmitter.control(name) is not None else None
        at = result.steps[name] if name in result.steps else situation.controls.get(name, rest)
        if at is None:
            raise KeyError(name)
        found = np.asarray(at) == position
    elif name in ("link", "power"):
        power, _ = fed(model, np.asarray(situation.power) > 0.5, np.asarray(situation.flight_battery) > 0.5)
        found = power & (np.asarray(situation.link) > 0.5) if name == "link" else power
    else:
        found = result.logic[name]
    return np.broadcast_to(np.asarray(found, bool) != negated, shape)


def _standing(node: Compare, a: float) -> str:
    """Where what is compared stands."""
    if node.a in STICK_SIDES and abs(a) < 0.5:
        return "stands in the middle"
    if node.a == "throttle_stick" and abs(a) > 99.5:
        return f"is {'full' if a > 0 else 'low'}"
    return f"stands at {level_words(node.a, round(a), node.kind)}"
