# SPDX-License-Identifier: GPL-3.0-or-later
"""Sums of lines at work."""

from __future__ import annotations

import numpy as np

from hypsos.core.schools.figures import BentLine, Numbers, Truths
from hypsos.core.schools.stand_in.clockwork import Slow
from hypsos.core.schools.stand_in.parts import FULL, Share, Sum
from hypsos.core.schools.stand_in.radio_stretch import Node, Setup, Stretch, asked_names

NOTHING = np.zeros(0)
"""What a line gives that holds nowhere."""


class ShareWork:
    """A line of a sum at work."""

    def __init__(self, share: Share, setup: Setup) -> None:
        self.share = share
        self._bend = BentLine(share.bend) if share.bend is not None else None
        self._modes = setup.among(share.modes)
        self._slow: Slow | None = None
        if share.slow_in or share.slow_out:
            self._slow = Slow(share.slow_in, share.slow_out, setup.radio.frame_s)

    def gives(self, stretch: Stretch, held: str) -> tuple[Numbers, Truths | None]:
        """What the line gives at last in every row, and where it holds."""
        share = self.share
        holds = stretch.held_by(share.when, self._modes)
        # nowhere on: what it would give need not be worked out
        if holds is not None and self._slow is None and not holds.any():
            return NOTHING, holds
        value = stretch.signal(share.source, share.trim)
        if self._bend is not None:
            live = self._bend.bend.live_by
            value = self._bend.moved(value, stretch.shared[live]) if live else self._bend(value)
        if share.from_low:
            value = value + 100.0
        if holds is not None:
            value = np.where(holds, value, 0.0)
        if self._slow is not None:
            # it goes after what the modes make of it together
            together = stretch.over_time(stretch.crossed(value)[: stretch.count])
            still = stretch.over_time(stretch.holds(held)) if held else None
            value = stretch.spread(self._slow(together, still).ravel())
        if share.above == share.below:
            value = share.above / 100.0 * value
        else:
            value = np.where(value > 0, share.above, share.below) / 100.0 * value
        if share.by:
            value = value * stretch.shared[share.by] / 100.0
        return value, holds


def _goes_by_hands(share: Share, hands: set[str]) -> bool:
    """Whether a line reads a hand and asks neither modes nor shared values."""
    asks_mode = share.modes or any("mode:" in text for text in share.when)
    shared = share.by or (share.bend is not None and share.bend.live_by)
    slow = share.slow_in or share.slow_out
    return share.source in hands and not (asks_mode or shared or slow)


class SumWork:
    """A sum at work."""

    def __init__(self, made: Sum, setup: Setup) -> None:
        self._sum = made
        self._lines = [ShareWork(x, setup) for x in made.shares]
        hands = {hand.name for hand in setup.radio.hands} | {FULL, "link_quality"}
        self._of_hands = all(_goes_by_hands(x, hands) for x in made.shares)
        """Whether it is the same in all flight modes, and known before them: a mode may hang on
        it."""

    def node(self) -> Node:
        """It as something that is worked out once a stretch."""
        now, before = asked_names([self._sum.held] if self._sum.held else [])
        asks, was = [*now], [*before]
        if not self._of_hands:
            asks.append("modes")
        for share in self._sum.shares:
            now, before = asked_names(share.when)
            asks += [share.source, *now]
            was += before
            if share.by:
                asks.append(f"shared:{share.by}")
            if share.bend is not None and share.bend.live_by:
                asks.append(f"shared:{share.bend.live_by}")
        table = "hands" if self._of_hands else "signals"
        slow = any(x.slow_in or x.slow_out for x in self._sum.shares)
        return Node(self._sum.name, asks, self.work, [(table, self._sum.name)], was, slow)

    def work(self, stretch: Stretch) -> None:
        """The sum in every row, and crossed."""
        seen = stretch.bare() if self._of_hands else stretch
        total = np.zeros(len(seen.mode))
        for line in self._lines:
            value, holds = line.gives(seen, self._sum.held)
            if value is NOTHING:
                continue
            if line.share.join == "add":
                total = total + value
                continue
            made = value if line.share.join == "replace" else total * value / 100.0
            total = made if holds is None else np.where(holds, made, total)
        if self._of_hands:
            stretch.hands[self._sum.name] = total
        else:
            stretch.signals[self._sum.name] = stretch.crossed(total)
