# SPDX-License-Identifier: GPL-3.0-or-later
"""What hands bring about, at work: trims, shared values, commands."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import BentLine, Numbers, Truths, clipped, with_expo
from hypsos.core.schools.stand_in.clockwork import EdgeWork
from hypsos.core.schools.stand_in.parts import Command, HandFeel, Lever, Mover, Shared
from hypsos.core.schools.stand_in.radio_frame import FrameNode, RadioFrame, Setup, asked_names


class TrimWork:
    """A trim lever at work: what it trims in each mode."""

    def __init__(self, lever: Lever, setup: Setup) -> None:
        self._lever, self._names = lever, setup.mode_names
        self._last: Numbers | None = None
        self._ways: list[Numbers] = []
        self._frame: RadioFrame | None = None
        self._made = np.zeros((0, 0))

    def of(self, frame: RadioFrame) -> Numbers:
        """What it trims, in the mode of every row."""
        lever, hand = self._lever, frame.hands[self._lever.name]
        if lever.scope == "common":
            found: Numbers = frame.spread(np.clip(hand, -lever.reach, lever.reach))
            return found
        if self._frame is not frame:
            self._frame, self._made = frame, np.stack(self._own(frame, hand))
        rows = np.arange(frame.count) if frame.rows is None else frame.rows
        return np.asarray(self._made[frame.mode, rows])

    def _own(self, frame: RadioFrame, hand: Numbers) -> list[Numbers]:
        lever = self._lever
        last = np.full_like(hand, lever.start) if self._last is None else self._last
        if not self._ways:
            self._ways = [np.zeros_like(hand) for _ in self._names]
        self._last, change = hand, hand - last
        made, flown = [], frame.mode[: frame.count]
        for place, name in enumerate(self._names):
            # what is moved while a mode is flown is that mode's
            self._ways[place] = self._ways[place] + np.where(flown == place, change, 0.0)
            way, own = self._ways[place], lever.own.get(name)
            if lever.scope == "offset":
                value = lever.start + np.clip((own or 0.0) + way, -lever.reach, lever.reach)
            else:
                value = (lever.start if own is None else own) + way
            made.append(np.clip(value, -lever.reach, lever.reach))
        return made


class SharedWork:
    """A shared value at work."""

    def __init__(self, shared: Shared, setup: Setup) -> None:
        self._shared, self._setup = shared, setup
        self._table = np.array([shared.by_mode[name] for name in setup.mode_names])
        mover = shared.mover
        self._acts_in = setup.among(mover.modes) if mover is not None else None
        self._up, self._down = EdgeWork(), EdgeWork()
        self._steps: Numbers | None = None
        self._kept: Numbers | None = None
        self._left: Numbers | None = None
        self._known: Truths | None = None
        self._known_left: Truths | None = None

    def node(self) -> FrameNode:
        """It as something that is worked out once a frame."""
        mover = self._shared.mover
        asks, was = ["modes"], list[str]()
        if mover is not None:
            now, before = asked_names([x for x in (mover.up, mover.down, mover.when) if x])
            asks += [*now, *([mover.control] if mover.control else [])]
            was += before
        name = self._shared.name
        return FrameNode(f"shared:{name}", asks, self.work, [("shared", name)], was)

    def work(self, frame: RadioFrame) -> bool:
        """Its value in every row."""
        mover, shared = self._shared.mover, self._shared
        value = self._table[frame.mode]
        if mover is not None:
            value = self._adjusted(frame, mover, value)
        frame.shared[shared.name] = clipped(value, shared.low, shared.high)
        # what moves it may remember something
        return mover is None

    def _adjusted(self, frame: RadioFrame, mover: Mover, stored: Numbers) -> Numbers:
        acting, left, known = self._moved(frame, mover)
        moved: Numbers = frame.spread(acting)
        here = np.ones(len(stored), bool)
        if mover.when:
            acts = frame.holds_in_rows(mover.when)
            moved = np.where(acts, moved, frame.spread(left))
            here = acts | frame.spread(known)
        if self._acts_in is not None:
            here = here & self._acts_in[frame.mode]
        wanted = moved if mover.kind == "set" else stored + moved
        return np.where(here, wanted, stored)

    def _moved(self, frame: RadioFrame, mover: Mover) -> tuple[Numbers, Numbers, Truths]:
        """What it does where it acts, what it has left where it doesn't, and where there is such a
        thing."""
        shared, count = self._shared, frame.count
        active = frame.holds(mover.when) if mover.when else np.ones(count, bool)
        nothing, never = np.zeros(count), np.zeros(count, bool)
        if mover.kind == "step":
            made = self._stepped(frame, mover, active)
            if mover.keep or not mover.when:
                return made, made, ~never
            last = nothing if self._kept is None else self._kept
            self._kept = np.where(active, made, last)
            return self._kept, nothing, ~never
        hand = frame.hands[mover.control] * self._scale(mover.control)
        if mover.kind == "set":
            moved = shared.low + (hand + 100.0) / 200.0 * (shared.high - shared.low)
        else:
            moved = mover.amount * hand / 100.0
        if not mover.keep or not mover.when:
            return moved, moved, never
        kept = nothing if self._kept is None else self._kept
        known = never if self._known is None else self._known
        self._kept, self._known = np.where(active, moved, kept), known | active
        # what it leaves is what it did last; looked at only while it does not act, so that a mode
        # that no longer sees it act finds what was there before
        left = nothing if self._left is None else self._left
        known_left = never if self._known_left is None else self._known_left
        self._left = np.where(active, left, self._kept)
        self._known_left = np.where(active, known_left, self._known)
        return moved, self._left, self._known_left

    def _scale(self, control: str) -> float:
        """A trim lever goes over its own reach; here it counts as a whole slider."""
        for lever in self._setup.radio.levers:
            if lever.name == control:
                return 100.0 / lever.reach
        return 1.0

    def _stepped(self, frame: RadioFrame, mover: Mover, active: Truths) -> Numbers:
        count = len(active)
        step = np.zeros(count)
        for edge, text, sign in ((self._up, mover.up, 1.0), (self._down, mover.down, -1.0)):
            if text:
                pressed = edge(frame.holds(text)) & active
                step = step + np.where(pressed, sign * mover.amount, 0.0)
        now = np.zeros(count) if self._steps is None else self._steps
        if not mover.keep:
            now = np.where(active, now, 0.0)
        stored = self._table[frame.mode[: frame.count]]
        moved = np.clip(now + step, self._shared.low - stored, self._shared.high - stored)
        self._steps = np.where(step != 0, moved, now)
        return self._steps


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

    def node(self) -> FrameNode:
        """It as something that is worked out once a frame."""
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
        return FrameNode(name, asks, self.work, [("signals", name), ("plain", name)], was)

    def work(self, frame: RadioFrame) -> bool:
        """The command in every row, with its trim and without."""
        name, trim = self._command.name, self._command.trim
        plain = self._value(frame)
        frame.plain[name] = frame.crossed(plain)
        frame.signals[name] = frame.plain[name]
        if trim:
            frame.signals[name] = frame.crossed(plain + self._trims[trim].of(frame))
        return True

    def _value(self, frame: RadioFrame) -> Numbers:
        found = np.zeros(len(frame.mode))
        # from the last to the first, so that the first that holds has the last word
        for feel, bend, modes in reversed(
            list(zip(self._command.feels, self._bends, self._modes, strict=True))
        ):
            holds = frame.held_by(feel.when, modes)
            # nowhere on: what it would give need not be worked out
            if holds is not None and not holds.any():
                continue
            value, side = self._felt(frame, feel, bend)
            if side is not None:
                holds = side if holds is None else holds & side
            found = value if holds is None else np.where(holds, value, found)
        return found

    @staticmethod
    def _felt(
        frame: RadioFrame, feel: HandFeel, bend: BentLine | None
    ) -> tuple[Numbers, Truths | None]:
        """What a way of feeling gives, and where it is on the side for which it is meant."""
        value = frame.signal(feel.control)
        if feel.turned:
            value = -value
        if bend is not None:
            live = bend.bend.live_by
            value = bend.moved(value, frame.shared[live]) if live else bend(value)
        value = clipped(value, -100.0, 100.0)
        expo: Numbers | float = feel.expo
        if feel.expo_by:
            expo = clipped(frame.shared[feel.expo_by], -100.0, 100.0)
        if feel.expo_by or feel.expo:
            value = with_expo(value, expo)
        side: Truths | None = None
        if feel.side != "both":
            side = value >= 0 if feel.side == "above" else value < 0
        weight: Numbers | float = feel.weight
        if feel.weight_by:
            weight = clipped(frame.shared[feel.weight_by], 0.0, 150.0)
        return feel.pivot + weight / 100.0 * (value - feel.pivot), side
