# SPDX-License-Identifier: GPL-3.0-or-later
"""What a motor was told by a document of version 1, and what it is told now: where that is more, a
person has to agree.

Version 1 counted a motor from the middle of its range and multiplied there; since version 2 it is
counted from idle. The migration keeps the meaning or makes it safer where that can be said in the
document. What is left over is found here by asking both for the power at every place of the
stick."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.parts.mix_lines import combined

Json = dict[str, Any]
Array = NDArray[np.float64]
STICK: Array = np.linspace(-100.0, 100.0, 201)
TOLERANCE = 1.0
"""Percent of power: so much more is put down to rounding."""


def more_power(old: Json, new: Json) -> Iterator[str]:
    """A sentence for every motor that would get more power somewhere than version 1 gave it."""
    for motor in _dicts(new.get("airframe"), "motors"):
        name = motor.get("name")
        worst, where, before = 0.0, 0.0, 0.0
        for held in (True, False):
            for was, now in zip(
                _thrusts(old, _thrust_before), _thrusts(new, _thrust_now), strict=False
            ):
                then = _before(_lines(old, name, held), was)
                power = _now(_lines(new, name, held), now)
                more = _clipped(power) - _clipped(then)
                i = int(np.argmax(more))
                if more[i] > worst:
                    worst, where, before = float(more[i]), float(STICK[i]), float(_clipped(then)[i])
        if worst > TOLERANCE:
            label = motor.get("label") if isinstance(motor.get("label"), str) else name
            yield (
                f"{label} would get {before + worst:.0f} % power with the stick at {(where + 100) / 2:.0f} %, "
                f"where the older version gave {before:.0f} %."
            )


def _dicts(x: Any, field: str) -> Iterator[Json]:
    found = x.get(field) if isinstance(x, dict) else None
    if isinstance(found, list):
        yield from (each for each in found if isinstance(each, dict))


def _number(x: Any, default: float) -> float:
    return float(x) if isinstance(x, int | float) and not isinstance(x, bool) else default


def _clipped(demand: Array) -> Array:
    """A motor's demand as power in percent."""
    return (np.clip(demand, -100.0, 100.0) + 100.0) / 2.0


# -- the thrust command -------------------------------------------------------------------------


def _thrusts(data: Json, shape: Any) -> list[Array]:
    """The thrust command over the stick, for every setting of its axis."""
    settings: list[Json] = []
    for axis in _dicts(data.get("program"), "axes"):
        if axis.get("command") == "thrust":
            settings = [s for s in axis.get("settings") or () if isinstance(s, dict)]
            break
    return [shape(setting) for setting in settings or [{}]]


def _softened(setting: Json) -> Array:
    x, k = STICK / 100.0, _number(setting.get("expo"), 0.0)
    c = min(1.0, abs(k) / 100.0)
    if k >= 0:
        return np.asarray(100.0 * ((1 - c) * x + c * x**3))
    rest = 1 - np.abs(x)
    return np.asarray(100.0 * np.sign(x) * (1 - ((1 - c) * rest + c * rest**3)))


def _thrust_before(setting: Json) -> Array:
    y = _softened(setting)
    low, high = _number(setting.get("rate_neg"), 100.0), _number(setting.get("rate_pos"), 100.0)
    return np.asarray(np.where(y < 0, low, high) / 100.0 * y)


def _thrust_now(setting: Json) -> Array:
    return np.asarray(
        _number(setting.get("rate_pos"), 100.0) / 100.0 * (_softened(setting) + 100.0) - 100.0
    )


# -- the sum of a motor -------------------------------------------------------------------------


def _lines(data: Json, motor: Any, held: bool) -> list[Json]:
    """The lines of a motor by the throttle or a constant; those with a condition only where it is
    ``held``."""
    lines = []
    for line in _dicts(data.get("program"), "mixes"):
        gives_power = line.get("target") == motor and line.get("source") in ("thrust", "full")
        if gives_power and (held or line.get("when") is None):
            lines.append(line)
    return lines


def _value(line: Json, thrust: Array) -> Array:
    source = thrust if line.get("source") == "thrust" else np.full_like(thrust, 100.0)
    response = line.get("response")
    points = response.get("points") if isinstance(response, dict) else None
    if not isinstance(points, list) or len(points) < 2:
        return source
    try:
        x, y = np.array(points, float).T
    except (TypeError, ValueError):
        return source
    return np.asarray(np.interp(source, x, y))


def _before(lines: list[Json], thrust: Array) -> Array:
    total = np.zeros_like(thrust)
    for line in lines:
        value = _number(line.get("gain"), 100.0) / 100.0 * _value(line, thrust)
        kind = line.get("combine", "add")
        total = combined(total, value, kind)
    return total


def _now(lines: list[Json], thrust: Array) -> Array:
    total = np.zeros_like(thrust)
    for line in lines:
        idle = 100.0 if line.get("source") == "thrust" else 0.0
        value = _number(line.get("gain"), 100.0) / 100.0 * (_value(line, thrust) + idle)
        kind = line.get("combine", "add")
        total = combined(total, value, kind)
    return total - 100.0
