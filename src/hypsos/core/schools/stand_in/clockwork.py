# SPDX-License-Identifier: GPL-3.0-or-later
"""What remembers from one frame to the next: edges, latches, delays, pulses, slow movements.

Each is an object that is asked once a frame, for many situations side by side: all arrays are
(N,)."""

from __future__ import annotations

import numpy as np

from hypsos.core.schools.figures import NEAR, Numbers, Truths, clipped


class EdgeWork:
    """True in the frame in which its input begins to be true; never in the first frame."""

    def __init__(self) -> None:
        self._last: Truths | None = None

    def __call__(self, x: Truths) -> Truths:
        last, self._last = self._last, x
        return np.zeros_like(x) if last is None else x & ~last


class LatchWork:
    """True from when ``on`` holds until ``off`` does; ``off`` wins. False at first."""

    def __init__(self) -> None:
        self._now: Truths | bool = False

    def __call__(self, on: Truths, off: Truths) -> Truths:
        now: Truths = (self._now | on) & ~off
        self._now = now
        return now


class OnDelay:
    """True once its input has been true without a break for so many seconds."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._since: Numbers | None = None

    def __call__(self, x: Truths, t_s: float) -> Truths:
        since = np.full(x.shape, np.nan) if self._since is None else self._since
        # the first true frame of a stretch is its beginning
        since = np.where(x, np.where(np.isnan(since), t_s, since), np.nan)
        self._since = since
        lasted = np.where(x, t_s - since, -np.inf)
        return np.asarray(lasted >= self._seconds - NEAR)


class OffDelay:
    """True while its input is, and for so many seconds afterwards."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._was: Truths | None = None
        self._fallen: Numbers | None = None

    def __call__(self, x: Truths, t_s: float) -> Truths:
        was = np.zeros_like(x) if self._was is None else self._was
        fallen = np.full(x.shape, -np.inf) if self._fallen is None else self._fallen
        # counted from the first frame in which it is false
        fallen = np.where(x | was, t_s, fallen)
        self._was, self._fallen = x, fallen
        return np.asarray(x | (t_s - fallen < self._seconds - NEAR))


class Pulse:
    """True for so many seconds from each moment in which its input begins to be true."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._edge = EdgeWork()
        self._since: Numbers | None = None

    def __call__(self, x: Truths, t_s: float) -> Truths:
        since = np.full(x.shape, -np.inf) if self._since is None else self._since
        self._since = since = np.where(self._edge(x), t_s, since)
        return np.asarray(t_s - since < self._seconds - NEAR)


class Slow:
    """A signal that changes by 100 % in no less than so many seconds, up and down apart; 0 is at
    once. The first frame is taken as it comes."""

    def __init__(self, up_s: float, down_s: float, frame_s: float) -> None:
        self._up = 100.0 * frame_s / up_s if up_s > 0 else np.inf
        self._down = 100.0 * frame_s / down_s if down_s > 0 else np.inf
        self._now: Numbers | None = None

    def __call__(self, x: Numbers, held: Truths | None = None, at: float = 0.0) -> Numbers:
        """The signal one frame later; where ``held`` it stands ``at`` a place, and sets out from
        there."""
        now = x if self._now is None else clipped(x, self._now - self._down, self._now + self._up)
        if held is not None:
            now = np.where(held, at, now)
        self._now = now
        return now
