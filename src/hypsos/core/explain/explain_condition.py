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
from hypsos.core.parts.condition_text import asked
from hypsos.core.wording.describe_condition import (
    mode_label,
    node_named,
    phrase,
    signal_label,
    timer_named,
)
from hypsos.core.wording.time_words import clock
from hypsos.core.wording.words import GUARD_WORDS

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
        if not modes:
            return ""
        flown = int(np.ravel(self.result.modes)[-1])
        return mode_label(self.model, modes[flown].name)

    def _run_out(self, name: str) -> bool:
        timer = next(x for x in self.model.program.timers if x.name == name)
        left = timer.span_s - timer.elapsed(float(np.ravel(self.result.timers[name])[-1]))
        return timer.span_s > 0 and left < 1e-6

    def because(self, text: str, depth: int = 0) -> str:
        """Why it holds or does not, as a clause: ``'throttle stick stands at −100 %'``, ``'Motor
        switch stands at cut'``."""
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
        if name == "link":
            return "the link is up" if self.holds(name) else "the link is lost"
        if name == "power":
            return "the receiver has power" if self.holds(name) else "the receiver has no power"
        node = node_named(self.model, name)
        if node is None or depth > DEEPEST:
            return ""
        return node.reason(_Explaining(self, depth + 1), self.holds(node.name))

    def signal(self, name: str) -> float:
        """What a comparison reads, in percent."""
        gate = node_named(self.model, name)
        if gate is not None and gate.gives_signal:
            return gate.value(_Explaining(self, 0))
        if name in self.result.sums and name not in self.controls:
            return float(np.ravel(self.result.sums[name])[-1])
        if name == "link_quality" and not (self.link and self.power):
            return 0.0
        return float(self.controls.get(name, 100.0 if name in ("full", "link_quality") else 0.0))

    def step(self, name: str) -> int:
        """At which step a counter stands, from 0."""
        return int(np.ravel(self.result.steps[name])[-1])


@dataclass(frozen=True)
class _Explaining:
    """A moment as a condition sees it that explains itself, so many conditions deep."""

    moment: Moment
    depth: int

    def holds(self, text: str) -> bool:
        return self.moment.holds(text)

    def because(self, text: str) -> str:
        return self.moment.because(text, self.depth)

    def phrase(self, text: str) -> str:
        return phrase(self.moment.model, text)

    def signal(self, name: str) -> float:
        return self.moment.signal(name)

    def signal_label(self, name: str) -> str:
        return signal_label(self.moment.model, name)

    def step(self, name: str) -> int:
        return self.moment.step(name)


def truth_over(model: Model, result: Result, situation: Situation, text: str) -> Flags:
    """Where a condition holds, frame by frame. Raises KeyError or ValueError where it asks for what
    is not there."""
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
        power, _ = fed(
            model, np.asarray(situation.power) > 0.5, np.asarray(situation.flight_battery) > 0.5
        )
        found = power & (np.asarray(situation.link) > 0.5) if name == "link" else power
    else:
        found = result.logic[name]
    return np.broadcast_to(np.asarray(found, bool) != negated, shape)
