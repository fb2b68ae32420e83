# SPDX-License-Identifier: GPL-3.0-or-later
"""What hands bring about, at work: trims, shared values, commands."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import BentLine, Numbers, Truths, clipped, with_expo
from hypsos.core.schools.stand_in.clockwork import EdgeWork, kept
from hypsos.core.schools.stand_in.parts import Command, HandFeel, Lever, Mover, Shared
from hypsos.core.schools.stand_in.radio_stretch import Node, Setup, Stretch, asked_names


class TrimWork:
    """A trim lever at work: what it trims in each mode."""

    def __init__(self, lever: Lever, setup: Setup) -> None:
        self._lever, self._names = lever, setup.mode_names
        self._last: Numbers | None = None
        self._ways: list[Numbers] = []
        self._stretch: Stretch | None = None
        self._made = np.zeros((0, 0))

    def of(self, stretch: Stretch) -> Numbers:
        """What it trims, in the mode of every row."""
        lever, hand = self._lever, stretch.hands[self._lever.name]
        if lever.scope == "common":
            found: Numbers = stretch.spread(np.clip(hand, -lever.reach, lever.reach))
            return found
        if self._stretch is not stretch:
            self._stretch, self._made = stretch, np.stack(self._own(stretch, hand))
        cells = np.arange(stretch.count) if stretch.rows is None else stretch.rows
        return np.asarray(self._made[stretch.mode, cells])

    def _own(self, stretch: Stretch, hand: Numbers) -> list[Numbers]:
        """What it trims in each mode, in every cell."""
        lever, count = self._lever, stretch.situations
        moved = stretch.over_time(hand)
        last = np.full(count, lever.start) if self._last is None else self._last
        if not self._ways:
            self._ways = [np.zeros(count) for _ in self._names]
        change = np.diff(moved, axis=0, prepend=last[None])
        self._last = moved[-1]
        made, flown = [], stretch.over_time(stretch.mode[: stretch.count])
        for place, name in enumerate(self._names):
            # what is moved while a mode is flown is that mode's
            mine = np.where(flown == place, change, 0.0)
            way = np.cumsum(np.concatenate([self._ways[place][None], mine]), axis=0)[1:]
            self._ways[place], own = way[-1], lever.own.get(name)
            if lever.scope == "offset":
                value = lever.start + np.clip((own or 0.0) + way, -lever.reach, lever.reach)
            else:
                value = (lever.start if own is None else own) + way
            made.append(np.clip(value, -lever.reach, lever.reach).ravel())
        return made


class _Kept:
    """What is kept from when it is taken until it is taken anew; nothing at first."""

    def __init__(self) -> None:
        self._last: Any = None

    def go_on(self, values: Any, where: Truths) -> Any:
        """One stretch further, (T, N)."""
        start = np.zeros(values.shape[1], values.dtype) if self._last is None else self._last
        out = kept(values, where, start)
        self._last = out[-1]
        return out


class SharedWork:
    """A shared value at work."""

    def __init__(self, shared: Shared, setup: Setup) -> None:
        self._shared, self._setup = shared, setup
        self._table = np.array([shared.by_mode[name] for name in setup.mode_names])
        mover = shared.mover
        self._acts_in = setup.among(mover.modes) if mover is not None else None
        self._up, self._down = EdgeWork(), EdgeWork()
        self._steps: Numbers | None = None
        self._kept, self._known = _Kept(), _Kept()
        self._left, self._known_left = _Kept(), _Kept()

    def node(self) -> Node:
        """It as something that is worked out frame by frame."""
        mover = self._shared.mover
        asks, was = ["modes"], list[str]()
        if mover is not None:
            now, before = asked_names([x for x in (mover.up, mover.down, mover.when) if x])
            asks += [*now, *([mover.control] if mover.control else [])]
            was += before
        name = self._shared.name
        remembers = mover is not None
        return Node(f"shared:{name}", asks, self.work, [("shared", name)], was, remembers)

    def work(self, stretch: Stretch) -> None:
        """Its value in every row."""
        mover, shared = self._shared.mover, self._shared
        value = self._table[stretch.mode]
        if mover is not None:
            value = self._adjusted(stretch, mover, value)
        stretch.shared[shared.name] = clipped(value, shared.low, shared.high)

    def _adjusted(self, stretch: Stretch, mover: Mover, stored: Numbers) -> Numbers:
        acting, left, known = (x.ravel() for x in self._moved(stretch, mover))
        moved: Numbers = stretch.spread(acting)
        here = np.ones(len(stored), bool)
        if mover.when:
            acts = stretch.holds_in_rows(mover.when)
            moved = np.where(acts, moved, stretch.spread(left))
            here = acts | stretch.spread(known)
        if self._acts_in is not None:
            here = here & self._acts_in[stretch.mode]
        wanted = moved if mover.kind == "set" else stored + moved
        return np.where(here, wanted, stored)

    def _moved(self, stretch: Stretch, mover: Mover) -> tuple[Numbers, Numbers, Truths]:
        """What it does where it acts, what it has left where it doesn't, and where there is such a
        thing; each (T, N)."""
        shared, shape = self._shared, (len(stretch.t_s), stretch.situations)
        active = np.ones(shape, bool)
        if mover.when:
            active = stretch.over_time(stretch.holds(mover.when))
        nothing, never = np.zeros(shape), np.zeros(shape, bool)
        if mover.kind == "step":
            made = self._stepped(stretch, mover, active)
            if mover.keep or not mover.when:
                return made, made, ~never
            done = self._kept.go_on(made, active)
            return done, nothing, ~never
        hand = stretch.over_time(stretch.hands[mover.control]) * self._scale(mover.control)
        if mover.kind == "set":
            moved = shared.low + (hand + 100.0) / 200.0 * (shared.high - shared.low)
        else:
            moved = mover.amount * hand / 100.0
        if not mover.keep or not mover.when:
            return moved, moved, never
        done, known = self._kept.go_on(moved, active), self._known.go_on(~never, active)
        # what it leaves is what it did last; looked at only while it does not act, so that a mode
        # that no longer sees it act finds what was there before
        left = self._left.go_on(done, ~active)
        return moved, left, self._known_left.go_on(known, ~active)

    def _scale(self, control: str) -> float:
        """A trim lever goes over its own reach; here it counts as a whole slider."""
        for lever in self._setup.radio.levers:
            if lever.name == control:
                return 100.0 / lever.reach
        return 1.0

    def _stepped(self, stretch: Stretch, mover: Mover, active: Truths) -> Numbers:
        """How far it was stepped away from what is stored, (T, N)."""
        step = np.zeros(active.shape)
        for edge, text, sign in ((self._up, mover.up, 1.0), (self._down, mover.down, -1.0)):
            if text:
                pressed = edge(stretch.over_time(stretch.holds(text))) & active
                step = step + np.where(pressed, sign * mover.amount, 0.0)
        stored = self._table[stretch.over_time(stretch.mode[: stretch.count])]
        low, high = self._shared.low - stored, self._shared.high - stored
        now = np.zeros(stretch.situations) if self._steps is None else self._steps
        out = np.empty(active.shape)
        for i, by in enumerate(step):
            if not mover.keep:
                now = np.where(active[i], now, 0.0)
            now = np.where(by != 0, np.clip(now + by, low[i], high[i]), now)
            out[i] = now
        self._steps = now
        return out


class CommandWork:
    """A command at work."""

    def __init__(self, command: Command, setup: Setup, trims: Mapping[str, TrimWork]) -> None:
        self._trims = trims
        self._command, self._setup = command, setup
        self._bends = [BentLine(f.bend) if f.bend is not None else None for f in command.feels]
        self._modes = [setup.among(f.modes) for f in command.feels]
        if command.trim and command.trim not in {x.name for x in setup.radio.levers}:
            text = f"{command.name} has a trim lever {command.trim}, which isn't there"
            raise HypsosError(text, command.name, "Name a lever of this transmitter.")

    def node(self) -> Node:
        """It as something that is worked out frame by frame."""
        asks, was = ["modes"], list[str]()
        if self._command.trim:
            asks.append(self._command.trim)
        for feel in self._command.feels:
            now, before = asked_names(feel.when)
            asks += [feel.control, *now]
            was += before
            asks += [f"shared:{x}" for x in (feel.weight_by, feel.expo_by) if x]
            if feel.bend is not None and feel.bend.live_by:
                asks.append(f"shared:{feel.bend.live_by}")
        name = self._command.name
        writes = [("signals", name), ("plain", name)]
        # a trim lever that moves a trim by mode remembers it
        return Node(name, asks, self.work, writes, was, remembers=bool(self._command.trim))

    def work(self, stretch: Stretch) -> None:
        """The command in every row, with its trim and without."""
        name, trim = self._command.name, self._command.trim
        plain = self._value(stretch)
        stretch.plain[name] = stretch.crossed(plain)
        stretch.signals[name] = stretch.plain[name]
        if trim:
            stretch.signals[name] = stretch.crossed(plain + self._trims[trim].of(stretch))

    def _value(self, stretch: Stretch) -> Numbers:
        found = np.zeros(len(stretch.mode))
        # from the last to the first, so that the first that holds has the last word
        for feel, bend, modes in reversed(
            list(zip(self._command.feels, self._bends, self._modes, strict=True))
        ):
            holds = stretch.held_by(feel.when, modes)
            # nowhere on: what it would give need not be worked out
            if holds is not None and not holds.any():
                continue
            value, side = self._felt(stretch, feel, bend)
            if side is not None:
                holds = side if holds is None else holds & side
            found = value if holds is None else np.where(holds, value, found)
        return found

    @staticmethod
    def _felt(
        stretch: Stretch, feel: HandFeel, bend: BentLine | None
    ) -> tuple[Numbers, Truths | None]:
        """What a way of feeling gives, and where it is on the side for which it is meant."""
        value = stretch.signal(feel.control)
        if feel.turned:
            value = -value
        if bend is not None:
            live = bend.bend.live_by
            value = bend.moved(value, stretch.shared[live]) if live else bend(value)
        value = clipped(value, -100.0, 100.0)
        expo: Numbers | float = feel.expo
        if feel.expo_by:
            expo = clipped(stretch.shared[feel.expo_by], -100.0, 100.0)
        if feel.expo_by or feel.expo:
            value = with_expo(value, expo)
        side: Truths | None = None
        if feel.side != "both":
            side = value >= 0 if feel.side == "above" else value < 0
        weight: Numbers | float = feel.weight
        if feel.weight_by:
            weight = clipped(stretch.shared[feel.weight_by], 0.0, 150.0)
        return feel.pivot + weight / 100.0 * (value - feel.pivot), side
