# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that all schools share: a rounded step, a bent line through points, expo."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from itertools import pairwise
from typing import Annotated, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, StringConstraints, model_validator

from hypsos.core.base.values import Value

Numbers = NDArray[np.float64]
Truths = NDArray[np.bool_]
Point = tuple[float, float]

NEAR = 1e-9
"""Two figures that differ by no more are the same one."""


def in_steps(value: float, step: float) -> float:
    """A figure as it can be typed: the nearest whole number of steps; 0 stands for any figure.

    Halves go away from zero, so that both sides of a pair are rounded alike.

    >>> in_steps(33.34, 1), in_steps(-2.5, 1), in_steps(0.37, 0.1), in_steps(0.37, 0)
    (33.0, -3.0, 0.4, 0.37)
    """
    if step <= 0:
        return value
    whole = int(abs(value) / step + 0.5 + NEAR)
    # decimal, so that 3 steps of 0.1 are 0.3
    made = float(Decimal(str(step)) * whole)
    return -made if value < 0 and made else made


def with_expo(x: Numbers, percent: Numbers | float) -> Numbers:
    """Expo e of a signal from -100 to 100 %: ``(1-e) x + e x^3`` for e above 0; for e below 0 the
    same curve as it is seen from the end of the way, so that the middle is the quick part."""
    e = np.abs(percent) / 100.0
    part = x / 100.0
    soft = (1.0 - e) * part + e * part * part * part
    if np.all(np.asarray(percent) >= 0):
        return np.asarray(100.0 * soft)
    rest = 1.0 - np.abs(part)
    sharp = np.sign(part) * (1.0 - ((1.0 - e) * rest + e * rest * rest * rest))
    return np.asarray(100.0 * np.where(np.asarray(percent) >= 0, soft, sharp))


def clipped(x: Numbers, low: Numbers | float, high: Numbers | float) -> Numbers:
    """A signal held between two bounds."""
    return np.minimum(np.maximum(x, low), high)


class Bend(Value):
    """A line through points ``(x, y)``, x rising; its end values hold beyond its ends.

    ``smooth``: bent without overshooting from point to point instead of straight. The points
    ``live`` move up and down with the shared value ``live_by``; of ``live_odd`` ones those left of
    the middle move the other way."""

    points: Annotated[tuple[Point, ...], Field(min_length=2, max_length=400)]
    smooth: bool = False
    live: Annotated[tuple[Annotated[int, Field(ge=0, le=400)], ...], Field(max_length=400)] = ()
    live_by: Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39})?$")] = ""
    live_odd: bool = False

    @model_validator(mode="after")
    def _rises(self) -> Self:
        xs = [x for x, _ in self.points]
        if any(b <= a for a, b in pairwise(xs)):
            raise ValueError("each point of a curve lies to the right of the one before")
        if any(place >= len(xs) for place in self.live) or bool(self.live) != bool(self.live_by):
            raise ValueError(
                "points that move need a shared value, and it needs points that are there"
            )
        return self

    def heights(self, by: Numbers) -> Numbers:
        """The y of every point (P, N) for the values ``by`` (N,) of its shared value, within the
        150 % that a point may have."""
        ys = np.array([[y] for _, y in self.points]) + np.zeros_like(by)
        for place in self.live:
            way = -by if self.live_odd and self.points[place][0] < 0 else by
            ys[place] = np.clip(ys[place] + way, -150.0, 150.0)
        return ys


class BentLine:
    """A bend made ready to be read many times."""

    def __init__(self, bend: Bend) -> None:
        self.bend = bend
        self._xs = np.array([x for x, _ in bend.points], float)
        self._ys = np.array([y for _, y in bend.points], float)
        self._round = None
        if bend.smooth and len(self._xs) > 2 and not bend.live:
            self._round = _smooth(self._xs, self._ys)

    def __call__(self, x: Numbers) -> Numbers:
        """The line at ``x`` (N,), without a shared value."""
        if self._round is None:
            return np.asarray(np.interp(x, self._xs, self._ys))
        return np.asarray(self._round(np.clip(x, self._xs[0], self._xs[-1])))

    def moved(self, x: Numbers, by: Numbers) -> Numbers:
        """The line at ``x`` (N,) with its live points moved by ``by`` (N,)."""
        if self.bend.smooth and len(self._xs) > 2:
            out = np.empty_like(x)
            for value in np.unique(by):
                here = by == value
                ys = self.bend.heights(np.array([value]))[:, 0]
                inside = np.clip(x[here], self._xs[0], self._xs[-1])
                out[here] = _smooth(self._xs, ys)(inside)
            return out
        ys = self.bend.heights(by)
        inside = clipped(x, self._xs[0], self._xs[-1])
        # the piece of the line in which each lies, by the point at its left
        left = np.clip(np.searchsorted(self._xs, inside, side="right") - 1, 0, len(self._xs) - 2)
        rows = np.arange(len(x))
        low, high = ys[left, rows], ys[left + 1, rows]
        share = (inside - self._xs[left]) / (self._xs[left + 1] - self._xs[left])
        return np.asarray(low + (high - low) * share)


def _smooth(xs: Numbers, ys: Numbers) -> Callable[[Numbers], Numbers]:
    from scipy.interpolate import PchipInterpolator  # dear to import

    found: Callable[[Numbers], Numbers] = PchipInterpolator(xs, ys)
    return found
