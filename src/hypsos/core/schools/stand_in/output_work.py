# SPDX-License-Identifier: GPL-3.0-or-later
"""Outputs and the receiver at work."""

from __future__ import annotations

import numpy as np

from hypsos.core.schools.figures import BentLine, Numbers, Truths, clipped
from hypsos.core.schools.stand_in.clockwork import OnDelay, Slow, kept
from hypsos.core.schools.stand_in.parts import Channel, Radio, Safe
from hypsos.core.schools.stand_in.radio_stretch import Node, Stretch, asked_names


class Ears:
    """What the receiver hears in a frame."""

    def __init__(self, radio: Radio) -> None:
        self._silence = OnDelay(radio.receiver.after_s)
        self._known: Truths | None = None

    def hear(self, stretch: Stretch) -> None:
        """Where its failsafe acts, and where it has heard the transmitter since it has power."""
        flags = stretch.flags
        link, power = (stretch.over_time(flags[name]) for name in ("link", "power"))
        acting = power & self._silence(power & ~link, stretch.times())
        start = np.zeros(stretch.situations, bool) if self._known is None else self._known
        # a receiver that was without power has heard nothing
        known = kept(link, link | ~power, start)
        self._known = known[-1]
        flags["acting"], flags["known"] = acting.ravel(), known.ravel()


class OutputWork:
    """An output at work, as far as the receiver's port."""

    def __init__(self, channel: Channel, radio: Radio, ears: Ears) -> None:
        self.channel, self._radio, self._ears = channel, radio, ears
        self._bend = BentLine(channel.bend) if channel.bend is not None else None
        self._slow: Slow | None = None
        if channel.slow_up or channel.slow_down:
            self._slow = Slow(channel.slow_up, channel.slow_down, radio.frame_s)
        self._safe = radio.receiver.ports.get(channel.port, Safe(action="none"))
        self._last: Numbers | None = None

    def node(self) -> Node:
        """It as something that is worked out frame by frame."""
        now, was = asked_names([self.channel.cut] if self.channel.cut else [])
        asks = (self.channel.sum, "ears", *now)
        port = str(self.channel.port)
        return Node(f"port:{port}", asks, self.work, [("pulses", port)], was, remembers=True)

    def work(self, stretch: Stretch) -> None:
        """What its port sends in microseconds, 0 where there is no pulse."""
        safe, flags = self._safe, stretch.flags
        start = np.full(stretch.situations, safe.unheard) if self._last is None else self._last
        # without the link the receiver has what it heard last
        heard_last = kept(
            stretch.over_time(self._sent(stretch)), stretch.over_time(flags["link"]), start
        )
        self._last = heard_last[-1]
        us = self._radio.centre_us + self._radio.us_per_percent * heard_last.ravel()
        heard, acting = flags["power"] & flags["known"], flags["acting"]
        if safe.action == "none":
            us = np.where(heard & ~acting, us, 0.0)
        elif safe.action == "hold":
            us = np.where(heard, us, 0.0)
        else:
            acts = acting if self._radio.receiver.stored else acting & flags["known"]
            us = np.where(acts, safe.place_us, np.where(heard, us, 0.0))
        stretch.pulses[str(self.channel.port)] = us

    def _sent(self, stretch: Stretch) -> Numbers:
        """What the transmitter sends, in percent of the output."""
        x = self.channel
        value = clipped(stretch.now(x.sum), x.low, x.high)
        cut = stretch.holds(x.cut) if x.cut else None
        if cut is not None:
            value = np.where(cut, x.low, value)
        if self._slow is not None:
            still = stretch.over_time(cut) if cut is not None else None
            value = self._slow(stretch.over_time(value), still, x.low).ravel()
        if self._bend is not None:
            points = self._bend.bend.points
            inside = np.clip(value, points[0][0], points[-1][0])
            value = self._bend(inside) + (value - inside)
        if x.turned:
            value = -value
        value = x.centre + value * np.where(value < 0, x.end_below, x.end_above) / 100.0
        value = clipped(value, x.stop_below, x.stop_above)
        return value if cut is None else np.where(cut, x.cut_at, value)
