# SPDX-License-Identifier: GPL-3.0-or-later
"""What remembers from one frame to the next: edges, latches, delays, pulses, slow movements.

Each is an object that is given stretch after stretch, frame by frame, for many situations side by
side: all arrays are (T, N), times (T, 1). It goes on where the stretch before has ended."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hypsos.core.schools.figures import NEAR, Numbers, Truths, clipped

A = TypeVar("A", bound=np.generic)


def kept(values: NDArray[A], where: Truths, start: NDArray[A]) -> NDArray[A]:
    """The values (T, N), each kept from where it is taken until the next is; ``start`` (N,) before
    the first.

    >>> x = np.array([[1.0], [2.0], [3.0]])
    >>> kept(x, np.array([[False], [True], [False]]), np.array([9.0])).T
    array([[9., 2., 2.]])
    """
    if len(values) == 1:
        return np.where(where, values, start)
    frames = np.arange(len(values))[:, None]
    taken = np.maximum.accumulate(np.where(where, frames, -1), axis=0)
    found = np.take_along_axis(np.broadcast_to(values, taken.shape), np.maximum(taken, 0), axis=0)
    return np.where(taken < 0, start, found)


class EdgeWork:
    """True in the frame in which its input begins to be true; never in the first frame."""

    def __init__(self) -> None:
        self._last: Truths | None = None

    def __call__(self, x: Truths) -> Truths:
        last = x[0] if self._last is None else self._last
        self._last = x[-1]
        return np.asarray(x & ~np.concatenate([last[None], x[:-1]]))


class LatchWork:
    """True from when ``on`` holds until ``off`` does; ``off`` wins. False at first."""

    def __init__(self) -> None:
        self._now: Truths | None = None

    def __call__(self, on: Truths, off: Truths) -> Truths:
        start = np.zeros(on.shape[1], bool) if self._now is None else self._now
        now = kept(on & ~off, on | off, start)
        self._now = now[-1]
        return now


class OnDelay:
    """True once its input has been true without a break for so many seconds."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._was: Truths | None = None
        self._since: Numbers | None = None

    def __call__(self, x: Truths, t_s: Numbers) -> Truths:
        last = np.zeros(x.shape[1], bool) if self._was is None else self._was
        start = np.full(x.shape[1], -np.inf) if self._since is None else self._since
        # the first true frame of a stretch is its beginning
        begins = x & ~np.concatenate([last[None], x[:-1]])
        since = kept(np.broadcast_to(t_s, x.shape), begins, start)
        self._was, self._since = x[-1], since[-1]
        return np.asarray(x & (t_s - since >= self._seconds - NEAR))


class OffDelay:
    """True while its input is, and for so many seconds afterwards."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._was: Truths | None = None
        self._fallen: Numbers | None = None

    def __call__(self, x: Truths, t_s: Numbers) -> Truths:
        last = np.zeros(x.shape[1], bool) if self._was is None else self._was
        start = np.full(x.shape[1], -np.inf) if self._fallen is None else self._fallen
        # counted from the first frame in which it is false
        was = np.concatenate([last[None], x[:-1]])
        fallen = kept(np.broadcast_to(t_s, x.shape), x | was, start)
        self._was, self._fallen = x[-1], fallen[-1]
        return np.asarray(x | (t_s - fallen < self._seconds - NEAR))


class Pulse:
    """True for so many seconds from each moment in which its input begins to be true."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._edge = EdgeWork()
        self._since: Numbers | None = None

    def __call__(self, x: Truths, t_s: Numbers) -> Truths:
        start = np.full(x.shape[1], -np.inf) if self._since is None else self._since
        since = kept(np.broadcast_to(t_s, x.shape), self._edge(x), start)
        self._since = since[-1]
        return np.asarray(t_s - since < self._seconds - NEAR)


class Slow:
    """A signal that changes by 100 % in no less than so many seconds, up and down apart; 0 is at
    once. The first frame is taken as it comes."""

    def __init__(self, up_s: float, down_s: float, frame_s: float) -> None:
        self._up = 100.0 * frame_s / up_s if up_s > 0 else np.inf
        self._down = 100.0 * frame_s / down_s if down_s > 0 else np.inf
        self._now: Numbers | None = None

    def __call__(self, x: Numbers, held: Truths | None = None, at: float = 0.0) -> Numbers:
        """The signal, slowed; where ``held`` it stands ``at`` a place, and sets out from there."""
        out = np.empty_like(x)
        now = self._now
        for i, wanted in enumerate(x):
            now = wanted if now is None else clipped(wanted, now - self._down, now + self._up)
            if held is not None:
                now = np.where(held[i], at, now)
            out[i] = now
        self._now = now
        return out
