# SPDX-License-Identifier: GPL-3.0-or-later
"""Expo, responses and conditions taken apart, for the reference: a function a rule."""

from __future__ import annotations

import bisect
import math
from functools import cache
from typing import Any

from scipy.interpolate import PchipInterpolator


def taken_apart(text: Any) -> Any:
    """A condition: negated, kind (mode, place or name), name, position."""
    negated, rest = text.startswith("!"), text.lstrip("!")
    if rest.startswith("mode:"):
        return negated, "mode", rest[5:], None
    name, _, place = rest.partition("@")
    return negated, "place" if place else "name", name, int(place) if place else None


def expo(x: Any, k: Any) -> Any:
    c = abs(k) / 100
    if k >= 0:
        return (1 - c) * x + c * x**3
    rest = 1 - abs(x)
    return math.copysign(1 - ((1 - c) * rest + c * rest**3), x) if x else 0.0


@cache
def monotone(points: Any) -> Any:
    return PchipInterpolator([p[0] for p in points], [p[1] for p in points])


def response(points: Any, shape: Any, x: Any) -> Any:
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    if x <= xs[0]:
        return ys[0]
    if x >= xs[-1]:
        return ys[-1]
    i = bisect.bisect_right(xs, x) - 1
    if shape == "smooth" and len(xs) > 2:
        return float(monotone(points)(x))
    return ys[i] + (ys[i + 1] - ys[i]) * (x - xs[i]) / (xs[i + 1] - xs[i])


def clip(x: Any, low: Any, high: Any) -> Any:
    return min(max(x, low), high)
