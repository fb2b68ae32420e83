# SPDX-License-Identifier: GPL-3.0-or-later
"""Rules and flight modes at work."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hypsos.core.schools.figures import NEAR, Numbers, Truths
from hypsos.core.schools.stand_in.clockwork import EdgeWork, LatchWork, OffDelay, OnDelay, Pulse
from hypsos.core.schools.stand_in.parts import Mode, Rule
from hypsos.core.schools.stand_in.radio_stretch import (
    Node,
    Places,
    Setup,
    Stretch,
    Work,
    asked_names,
)

AT_ONCE = frozenset({"above", "below", "and", "or", "either"})
"""Kinds of rules that go by nothing but what they ask."""


def rule_node(rule: Rule) -> Node:
    """A rule as something that is worked out frame by frame."""
    both = [x for x in (rule.a, rule.b) if x]
    signals = rule.kind in ("above", "below")
    asks, was = (tuple(both), ()) if signals else asked_names(both)
    writes = [("flags", rule.name)]
    if rule.kind == "counts":
        writes.append(("counts", rule.name))
    remembers = rule.kind not in AT_ONCE
    return Node(rule.name, asks, rule_work(rule), writes, was, remembers)


def rule_work(rule: Rule) -> Work:
    """What works out a rule."""
    if rule.kind == "counts":
        return _counting(rule)
    truth = _truth(rule)

    def work(stretch: Stretch) -> None:
        stretch.flags[rule.name] = truth(stretch).ravel()

    return work


def _truth(rule: Rule) -> Callable[[Stretch], Truths]:
    a, b = rule.a, rule.b
    if rule.kind in ("above", "below"):
        return lambda stretch: _compared(rule, stretch)
    if rule.kind == "and":
        return lambda stretch: stretch.holds(a) & stretch.holds(b)
    if rule.kind == "or":
        return lambda stretch: stretch.holds(a) | stretch.holds(b)
    if rule.kind == "either":
        return lambda stretch: stretch.holds(a) ^ stretch.holds(b)
    if rule.kind == "latch":
        latch = LatchWork()
        return lambda stretch: latch(_over_time(stretch, a), _over_time(stretch, b))
    if rule.kind == "begins":
        edge = EdgeWork()
        return lambda stretch: edge(_over_time(stretch, a))
    timed = TIMED[rule.kind](rule.seconds)
    return lambda stretch: timed(_over_time(stretch, a), stretch.times())


def _over_time(stretch: Stretch, text: str) -> Truths:
    """Whether a reference holds, frame by frame (T, N)."""
    return np.asarray(stretch.over_time(stretch.holds(text)))


TIMED: dict[str, Callable[[float], Callable[[Truths, Numbers], Truths]]] = {
    "lasts": OnDelay, "lingers": OffDelay, "pulse": Pulse,
}  # fmt: skip


def _compared(rule: Rule, stretch: Stretch) -> Truths:
    value = stretch.now(rule.a)
    if rule.b:
        value = value - stretch.now(rule.b)
    if rule.size:
        value = np.abs(value)
    if rule.kind == "above":
        return np.asarray(value > rule.level + NEAR)
    return np.asarray(value < rule.level - NEAR)


def _counting(rule: Rule) -> Work:
    edge, count = EdgeWork(), max(1, int(rule.level))
    last: list[Places] = []

    def work(stretch: Stretch) -> None:
        begins = edge(_over_time(stretch, rule.a)).astype(np.intp)
        start = last[0] if last else np.zeros(stretch.situations, np.intp)
        now = (start + np.cumsum(begins, axis=0)) % count
        last[:] = [now[-1]]
        stretch.counts[rule.name] = now.ravel()
        stretch.flags[rule.name] = now.ravel() > 0

    return work


def mode_work(mode: Mode, earlier: tuple[str, ...]) -> Work:
    """What works out whether a mode is flown: none before it is, and its own reference holds."""
    name = f"mode:{mode.name}"

    def work(stretch: Stretch) -> None:
        here = stretch.holds(mode.when) if mode.when else np.ones(stretch.count, bool)
        for other in earlier:
            here = here & ~stretch.flags[other]
        stretch.flags[name] = here

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

    def work(self, stretch: Stretch) -> None:
        """Say the mode of every cell, and add rows for the modes that have a share in a fade."""
        mode = stretch.mode
        for place, name in enumerate(self._names):
            mode[stretch.flags[name]] = place
        if self._fade_s.any():
            self._fade(stretch, stretch.over_time(mode))

    def _fade(self, stretch: Stretch, modes: Places) -> None:
        """The modes (T, N) that are flown, with the shares of those that are still left."""
        if self._mode is None:
            self._mode = modes[0]
            self._since = np.full(stretch.situations, -np.inf)
            self._start = self._now = self._eye[modes[0]]
        before = np.concatenate([self._mode[None], modes[:-1]])
        entered = modes != before
        self._mode = modes[-1]
        found: list[tuple[Places, Places, Numbers]] = []
        for i, t_s in enumerate(stretch.t_s.tolist()):
            shares = self._shares(modes[i], entered[i], t_s)
            if shares is not None:
                rows, places, share = shares
                found.append((places, rows + i * stretch.situations, share))
        if found:
            stretch.fade(*(np.concatenate(x) for x in zip(*found, strict=True)))

    def _shares(
        self, mode: Places, entered: Truths, t_s: float
    ) -> tuple[Places, Places, Numbers] | None:
        """The situations that are on the way into another mode in a frame, the modes that have a
        share, and the shares; None where there is none."""
        if entered.any():
            # the way into another mode begins from the shares of this moment
            self._start = np.where(entered[:, None], self._now, self._start)
            self._since = np.where(entered, t_s, self._since)
        elif self._now[np.arange(len(mode)), mode].min() >= 1.0:
            return None
        length = self._fade_s[mode]
        with np.errstate(divide="ignore", invalid="ignore"):
            way = np.where(length > 0, np.clip((t_s - self._since) / length, 0.0, 1.0), 1.0)
        on_the_way = way < 1.0
        there = self._eye[mode]
        self._now = np.where(
            on_the_way[:, None], self._start + (there - self._start) * way[:, None], there
        )
        if not on_the_way.any():
            return None
        rows, places = np.nonzero((self._now != 0) & on_the_way[:, None])
        return rows, places, self._now[rows, places]
