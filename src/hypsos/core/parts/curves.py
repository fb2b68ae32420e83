# SPDX-License-Identifier: GPL-3.0-or-later
"""Curves through points, and what a ruler at the trailing edge reads of an angle."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import ARRAYS, Backend, Signal


def _slopes(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Slopes at the points of a monotone cubic that never overshoots (Fritsch and Butland's
    weighted harmonic mean inside, a one-sided three-point estimate held to the shape at the
    ends)."""
    h, d = np.diff(x), np.diff(y) / np.diff(x)
    w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
    turns = d[:-1] * d[1:] <= 0
    with np.errstate(divide="ignore", invalid="ignore"):
        inner = np.where(turns, 0.0, (w1 + w2) / (w1 / d[:-1] + w2 / d[1:]))

    def end(h0: float, h1: float, d0: float, d1: float) -> float:
        s = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
        if np.sign(s) != np.sign(d0):
            return 0.0
        return 3 * d0 if np.sign(d0) != np.sign(d1) and abs(s) > 3 * abs(d0) else s

    return np.array([end(h[0], h[1], d[0], d[1]), *inner, end(h[-1], h[-2], d[-1], d[-2])])


class Curve:
    """A response made ready: straight pieces, or monotone cubic ones, which never overshoot."""

    def __init__(self, points: Sequence[tuple[float, float]], shape: str = "straight") -> None:
        self.xs = [float(p[0]) for p in points]
        self.ys = [float(p[1]) for p in points]
        self._x, self._y = np.array(self.xs), np.array(self.ys)
        self._pieces: list[list[float]] | None = None
        if shape == "smooth" and len(self.xs) > 2:
            m, h, d = (
                _slopes(self._x, self._y),
                np.diff(self._x),
                np.diff(self._y) / np.diff(self._x),
            )
            cubic = (m[:-1] + m[1:] - 2 * d) / h**2
            square = (3 * d - 2 * m[:-1] - m[1:]) / h
            self._table = np.array([cubic, square, m[:-1], self._y[:-1]])
            self._pieces = self._table.T.tolist()

    def __call__(self, x: Signal) -> Signal:
        """The response to a float or to an array of any shape; the end values hold beyond the
        ends."""
        if isinstance(x, float):
            return self._at(x)
        if self._pieces is None:
            return np.asarray(np.interp(x, self._x, self._y))
        x = np.clip(x, self.xs[0], self.xs[-1])
        i = np.clip(np.searchsorted(self._x, x, side="right") - 1, 0, len(self.xs) - 2)
        a, b, c, d = self._table[:, i]
        u = x - self._x[i]
        return np.asarray(((a * u + b) * u + c) * u + d)

    def of(self, x: Signal, shared: Mapping[str, Signal]) -> Signal:
        """The same; no shared value moves it."""
        return self(x)

    def _at(self, x: float) -> float:
        i = bisect_right(self.xs, x) - 1
        if i < 0:
            return self.ys[0]
        if i >= len(self.xs) - 1:
            return self.ys[-1]
        u = x - self.xs[i]
        if self._pieces is None:
            return self.ys[i] + (self.ys[i + 1] - self.ys[i]) / (self.xs[i + 1] - self.xs[i]) * u
        a, b, c, d = self._pieces[i]
        return ((a * u + b) * u + c) * u + d


def ruler_mm(degrees: Signal, chord_mm: Signal, backend: Backend = ARRAYS) -> Signal:
    """What a ruler at the trailing edge reads: ``2 c sin(|d|/2)``, with the sign of the deflection.

    >>> round(float(ruler_mm(29.440507799, 18.852051299)), 6)
    9.580607
    """
    return 2.0 * chord_mm * backend.sin(degrees * _HALF_DEGREE)


_HALF_DEGREE = float(np.pi) / 360.0
