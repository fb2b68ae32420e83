# SPDX-License-Identifier: GPL-3.0-or-later
"""Rules and flight modes at work."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hypsos.core.schools.figures import NEAR, Truths
from hypsos.core.schools.stand_in.clockwork import EdgeWork, LatchWork, OffDelay, OnDelay, Pulse
from hypsos.core.schools.stand_in.parts import Mode, Rule
from hypsos.core.schools.stand_in.radio_frame import (
    FrameNode,
    Places,
    RadioFrame,
    Setup,
    Work,
    asked_names,
)


def rule_node(rule: Rule) -> FrameNode:
    """A rule as something that is worked out once a frame."""
    both = [x for x in (rule.a, rule.b) if x]
    signals = rule.kind in ("above", "below")
    asks, was = (tuple(both), ()) if signals else asked_names(both)
    writes = [("flags", rule.name)]
    if rule.kind == "counts":
        writes.append(("counts", rule.name))
    return FrameNode(rule.name, asks, rule_work(rule), writes, was)


def rule_work(rule: Rule) -> Work:
    """What works out a rule frame by frame."""
    if rule.kind == "counts":
        return _counting(rule)
    truth = _truth(rule)
    # edges and delays change by themselves; whatever else goes by the same stays the same
    rests = rule.kind not in ("begins", "lasts", "lingers", "pulse")

    def work(frame: RadioFrame) -> bool:
        frame.flags[rule.name] = truth(frame)
        return rests

    return work


def _truth(rule: Rule) -> Callable[[RadioFrame], Truths]:
    a, b = rule.a, rule.b
    if rule.kind in ("above", "below"):
        return lambda frame: _compared(rule, frame)
    if rule.kind == "and":
        return lambda frame: frame.holds(a) & frame.holds(b)
    if rule.kind == "or":
        return lambda frame: frame.holds(a) | frame.holds(b)
    if rule.kind == "either":
        return lambda frame: frame.holds(a) ^ frame.holds(b)
    if rule.kind == "latch":
        latch = LatchWork()
        return lambda frame: latch(frame.holds(a), frame.holds(b))
    if rule.kind == "begins":
        edge = EdgeWork()
        return lambda frame: edge(frame.holds(a))
    timed = TIMED[rule.kind](rule.seconds)
    return lambda frame: timed(frame.holds(a), frame.t_s)


TIMED: dict[str, Callable[[float], Callable[[Truths, float], Truths]]] = {
    "lasts": OnDelay, "lingers": OffDelay, "pulse": Pulse,
}  # fmt: skip


def _compared(rule: Rule, frame: RadioFrame) -> Truths:
    value = frame.now(rule.a)
    if rule.b:
        value = value - frame.now(rule.b)
    if rule.size:
        value = np.abs(value)
    if rule.kind == "above":
        return np.asarray(value > rule.level + NEAR)
    return np.asarray(value < rule.level - NEAR)


def _counting(rule: Rule) -> Work:
    edge, count = EdgeWork(), max(1, int(rule.level))
    place: list[Places] = []

    def work(frame: RadioFrame) -> bool:
        begins = edge(frame.holds(rule.a)).astype(np.intp)
        now = begins if not place else (place[0] + begins) % count
        place[:] = [now]
        frame.counts[rule.name] = now
        frame.flags[rule.name] = now > 0
        return False

    return work


def mode_work(mode: Mode, earlier: tuple[str, ...]) -> Work:
    """What works out whether a mode is flown: none before it is, and its own reference holds."""
    name = f"mode:{mode.name}"

    def work(frame: RadioFrame) -> bool:
        here = frame.holds(mode.when) if mode.when else np.ones(frame.count, bool)
        for other in earlier:
            here = here & ~frame.flags[other]
        frame.flags[name] = here
        return True

    return work


class ModeWork:
    """Which mode every situation flies, and how far it has faded into it."""

    def __init__(self, setup: Setup) -> None:
        modes = setup.radio.modes
        self._fade_s = np.array([mode.fade_s for mode in modes] or [0.0])
        self._names = [f"mode:{mode.name}" for mode in modes]
        self._eye = np.eye(len(self._fade_s))
        self._mode: Places | None = None
        self._since = self._start = self._now = np.zeros(0)

    def work(self, frame: RadioFrame) -> bool:
        """Say the mode of every situation, and add rows for the modes that have a share in a
        fade."""
        mode = frame.mode
        for place, name in enumerate(self._names):
            mode[frame.flags[name]] = place
        before = frame.before
        if (
            before is None
            or before.rows is not None
            or self._mode is None
            or bool((self._mode != mode).any())
        ):
            frame.changed.add("modes")
        entered = None if self._mode is None else mode != self._mode
        self._mode = mode
        if self._fade_s.any():
            self._fade(frame, mode, entered)
        if frame.rows is not None:
            frame.changed.add("modes")
        return False

    def _fade(self, frame: RadioFrame, mode: Places, entered: Truths | None) -> None:
        if entered is None:
            self._since = np.full(frame.count, -np.inf)
            self._start = self._now = self._eye[mode]
            return
        if entered.any():
            # the way into another mode begins from the shares of this moment
            self._start = np.where(entered[:, None], self._now, self._start)
            self._since = np.where(entered, frame.t_s, self._since)
        length = self._fade_s[mode]
        with np.errstate(divide="ignore", invalid="ignore"):
            way = np.where(length > 0, np.clip((frame.t_s - self._since) / length, 0.0, 1.0), 1.0)
        self._now = self._start + (self._eye[mode] - self._start) * way[:, None]
        on_the_way = self._now[np.arange(frame.count), mode] < 1.0
        if on_the_way.any():
            rows, places = np.nonzero((self._now != 0) & on_the_way[:, None])
            frame.fade(places, rows, self._now[rows, places])
