# SPDX-License-Identifier: GPL-3.0-or-later
"""What full stick really gives a surface, and what takes part of its movement away."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Axis, Setting
from hypsos.core.engine import compile_plan
from hypsos.core.engine.shaping import setting_at
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.neutral_hands import quiet_hands

FLYING = ("roll", "pitch", "yaw")
LEAST = 5.0
"""Percent of demand: a command that moves a surface less does not count as its own."""


class FullStick(NamedTuple):
    """What the command that moves a surface most gives it at full stick and the highest rate,
    everything else at rest.

    ``shares`` are the demands to both sides (up or left first) as parts of a full one, ``mm`` and
    ``deg`` what comes of them; ``takes`` says what takes part of it away."""

    command: str
    shares: tuple[float, float]
    mm: tuple[float, float]
    deg: tuple[float, float]
    takes: tuple[str, ...]


def full_stick(model: Model, name: str) -> FullStick | None:
    """Full stick on a surface; None where no flying command moves it or it has no lead."""
    lead = next((x for x in model.leads if x.target == name), None)
    if lead is None:
        return None
    axes = [a for a in model.program.axes if a.command in FLYING]
    fullest = [_fullest(model, axis) for axis in axes]
    still, situations = quiet_hands(model), []
    for axis, (_, place) in zip(axes, fullest, strict=True):
        at = still | ({axis.switch: float(place)} if axis.switch else {})
        situations += [at | {axis.control: v} for v in (-100.0, 100.0)]
    ends = _ends(model, situations, name, lead.name)
    found: FullStick | None = None
    most = 0.0
    for i, (axis, (setting, _)) in enumerate(zip(axes, fullest, strict=True)):
        low, high = sorted(ends[2 * i : 2 * i + 2])
        moved = high[0] - low[0]
        if moved >= LEAST and (found is None or moved > most):
            takes = _takes(model, name, axis.command, (setting.rate_neg, setting.rate_pos))
            shares = (max(0.0, -low[0] / 100.0), max(0.0, high[0] / 100.0))
            found, most = (
                FullStick(axis.command, shares, (low[1], high[1]), (low[2], high[2]), takes),
                moved,
            )
    return found


def _fullest(model: Model, axis: Axis) -> tuple[Setting, int]:
    """The setting of an axis with the largest rates, and the position of its switch."""
    control = model.transmitter.control(axis.switch or "")
    places = range(len(control.positions)) if control else range(1)
    feel = [setting_at(axis, place) for place in places]
    best = max(places, key=lambda place: feel[place].rate_neg + feel[place].rate_pos)
    return feel[best], best


def _ends(
    model: Model, situations: list[dict[str, float]], name: str, lead: str
) -> list[tuple[float, float, float]]:
    """Demand, millimetres and degrees of a surface in each situation."""
    if not situations:
        return []
    result, wide = settled_together(compile_plan(model), situations), (len(situations), 1)
    out = result.outputs[lead]

    def last(x: np.ndarray | None) -> list[float]:
        column: list[float] = np.broadcast_to(0.0 if x is None else x, wide)[:, -1].tolist()
        return column

    demands = np.clip(last(result.sums.get(name)), -150, 150).tolist()
    return list(zip(demands, last(out.mm), last(out.deg), strict=True))


def _takes(model: Model, name: str, command: str, rates: tuple[float, float]) -> tuple[str, ...]:
    out = []
    if min(rates) < 99.5:
        out.append(f"the rate of {plain(min(rates))} %")
    for placed in all_lines(model):
        line = placed.line
        if line.target != name or line.source != command:
            continue
        who = placed.origin or line.name
        if line.by_angle:
            out.append(f"{who} (by one angle)")
        elif abs(line.gain) < 99.5:
            out.append(f"the share of {plain(abs(line.gain))} % in {who}")
        if line.differential:
            out.append(f"the differential of {plain(abs(line.differential))} % in {who}")
    return tuple(dict.fromkeys(out))
