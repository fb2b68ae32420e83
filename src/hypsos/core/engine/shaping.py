"""Expo, responses and rates: everything that bends a signal without remembering anything."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from functools import cache
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from hypsos.core.ground.lanes import ARRAYS, Lane, Signal
from hypsos.core.model.document import Model
from hypsos.core.model.program import EXPO_BOUNDS, FULL, RATE_BOUNDS, Axis, Setting
from hypsos.core.parts.shapes import Response

NONE_SHARED: Mapping[str, Signal] = MappingProxyType({})


def expo(x: Signal, k: Signal, lane: Lane = ARRAYS) -> Signal:
    """Soften (k > 0) or sharpen (k < 0) a signal about its centre, ends and centre fixed.

    Parameters
    ----------
    x : signal in -1...1.
    k : expo in percent, -100...100, broadcast against ``x``.

    Returns
    -------
    Signal of the broadcast shape. With c = abs(k)/100: ``(1-c)x + c x**3`` for k >= 0, and the same curve seen from the
    stick's end for k < 0. Monotone for every k.

    >>> round(float(expo(0.8, 35)), 6)
    0.6992
    """
    c = lane.abs(k) / 100.0
    soft = x * (1.0 - c + c * x * x)
    if lane.never(k < 0):
        return soft
    rest = 1.0 - lane.abs(x)
    sharp = lane.copysign(1.0 - rest * (1.0 - c + c * rest * rest), x)
    return lane.where(k >= 0, soft, sharp)


def _slopes(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Slopes at the points of a monotone cubic that never overshoots (Fritsch and Butland's weighted harmonic mean inside,
    a one-sided three-point estimate held to the shape at the ends)."""
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
            m, h, d = _slopes(self._x, self._y), np.diff(self._x), np.diff(self._y) / np.diff(self._x)
            cubic = (m[:-1] + m[1:] - 2 * d) / h**2
            square = (3 * d - 2 * m[:-1] - m[1:]) / h
            self._table = np.array([cubic, square, m[:-1], self._y[:-1]])
            self._pieces = self._table.T.tolist()

    def __call__(self, x: Signal) -> Signal:
        """The response to a float or to an array of any shape; the end values hold beyond the ends."""
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


class LiveCurve:
    """A response some of whose points are moved in flight by a shared value, made ready for each value it has had."""

    def __init__(self, response: Response, by: str) -> None:
        self._response, self._by = response, by
        self._last: tuple[float, Curve] | None = None

    def _for(self, by: float) -> Curve:
        last = self._last  # held on to: another thread may run the same plan
        if last is None or last[0] != by:
            last = self._last = (by, Curve(self._response.lifted(by), self._response.shape))
        return last[1]

    def of(self, x: Signal, shared: Mapping[str, Signal]) -> Signal:
        """The response to ``x`` with the shared values as they are; both broadcast."""
        by = shared[self._by]
        if not isinstance(by, np.ndarray):
            return self._for(float(by))(x)
        x, by = np.broadcast_arrays(np.asarray(x, float), by)
        out = np.empty(x.shape)
        for value in np.unique(by):
            here = by == value
            out[here] = self._for(float(value))(x[here])
        return out


Shape = Curve | LiveCurve


@cache
def response_curve(response: Response | None) -> Shape | None:
    """A response made ready; None stands for *unchanged*."""
    if response is None:
        return None
    return (
        Curve(response.points, response.shape)
        if response.live_from is None
        else LiveCurve(response, response.live_from)
    )


def shaped(
    x: Signal, curve: Shape | None, setting: Setting | tuple[Signal, ...], lane: Lane = ARRAYS, from_idle: bool = False,
    shared: Mapping[str, Signal] = NONE_SHARED,
) -> Signal:  # fmt: skip
    """An axis command without its trim: curve, expo, then the rate of the side that came out of the expo. All in percent.

    ``setting`` is one setting, or (rate_neg, rate_pos, expo) as signals. ``from_idle`` for the thrust axis: its rate
    scales what is above idle, ``rate_pos/100 * (x + 100) - 100``, and so never lifts idle.
    """
    if isinstance(setting, Setting):
        setting = (setting.rate_neg, setting.rate_pos, setting.expo)
    rate_neg, rate_pos, k = setting
    bent = x if curve is None else curve.of(x, shared)
    bent = expo(lane.clip(bent, -100.0, 100.0) / 100.0, k, lane)
    if from_idle:
        return rate_pos * (bent + 1.0) - 100.0
    return lane.where(bent < 0.0, rate_neg, rate_pos) * bent


def setting_at(axis: Axis, position: int) -> Setting:
    """The feel of an axis at a switch position; an undefined one is full rate and no expo."""
    found = axis.settings[position] if 0 <= position < len(axis.settings) else None
    return FULL if found is None else found


def stored_values(model: Model, mode: str) -> dict[str, float]:
    """Every shared value as it is stored for a flight mode (what adjusts it in flight left out)."""
    return {x.name: float(x.by_mode.get(mode, x.value)) for x in model.program.shared_values()}


def stored_setting(model: Model, setting: Setting, mode: str) -> Setting:
    """A setting with its shared values put in as they are stored for a flight mode (in-flight adjusters left out), held to the
    bounds of what they stand in for."""
    shared = stored_values(model, mode)
    fields = setting.model_dump()
    if setting.rate_from in shared:
        fields["rate_neg"] = fields["rate_pos"] = min(RATE_BOUNDS[1], max(RATE_BOUNDS[0], shared[setting.rate_from]))
    if setting.expo_from in shared:
        fields["expo"] = min(EXPO_BOUNDS[1], max(EXPO_BOUNDS[0], shared[setting.expo_from]))
    return Setting(**fields)


def ruler_mm(degrees: Signal, chord_mm: Signal, lane: Lane = ARRAYS) -> Signal:
    """What a ruler at the trailing edge reads: ``2 c sin(|d|/2)``, with the sign of the deflection.

    >>> round(float(ruler_mm(29.440507799, 18.852051299)), 6)
    9.580607
    """
    return 2.0 * chord_mm * lane.sin(degrees * _HALF_DEGREE)


_HALF_DEGREE = float(np.pi) / 360.0
