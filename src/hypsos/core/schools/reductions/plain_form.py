# SPDX-License-Identifier: GPL-3.0-or-later
"""A design in its plainest form, which flies just the same: behaviours as the mixes they make,
degrees as sums of their own that a curve makes percent of."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.lookup import first_free
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Signal
from hypsos.core.edits.detach import detached_all
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.schools.lacks import NearCurve

NO_US = 0.05
"""Microseconds: less is not told."""


def plain_form(model: Model, points: int) -> Model:
    """The model with plain mixes only. Where degrees become percent by a curve of more than
    ``points`` points, as many as these stand for it."""
    plain = detached_all(model, range(len(model.program.recipes)))
    program = plain.program.changed({"detached": ()})
    return _percent_only(plain.changed({"program": program}), points)


def near_curves(model: Model, points: int) -> tuple[NearCurve, ...]:
    """What is left out of the curves that make percent of degrees, where at most ``points`` points
    stand for each. A surface that is not plugged in has none."""
    by_angle = dict.fromkeys(p.line.target for p in all_lines(model) if p.line.by_angle)
    surfaces = {s.name: s for s in model.airframe.surfaces}
    found = []
    for name in by_angle:
        lead = next((x for x in model.leads if x.target == name), None)
        if lead is None or lead.port is None or name not in surfaces:
            continue
        near = _near_curve(model, Motion(lead, surfaces[name]), name, points)
        if near.us > NO_US:
            found.append(near._replace(label=surfaces[name].label))
    return tuple(found)


def _near_curve(model: Model, motion: Motion, name: str, points: int) -> NearCurve:
    """How far the points leave the curve of a surface at the most."""
    curve, kept = motion.by_angle(), percent_of_degrees(model, name, points).points
    degrees = np.linspace(kept[0][0], kept[-1][0], 4001)
    wanted = np.asarray(curve(degrees), float)
    found = np.interp(degrees, [x for x, _ in kept], [y for _, y in kept])
    us = float(np.abs(found - wanted).max()) * model.transmitter.us_per_percent
    low, high = motion.limits()
    one, two = (motion.angles(np.clip(x, low, high), ARRAYS)[1] for x in (wanted, found))
    mm = None if one is None or two is None else float(np.abs(np.asarray(one) - two).max())
    return NearCurve(name, len(kept), us, mm or 0.0)


def _percent_only(model: Model, points: int) -> Model:
    """The degrees of every surface summed in a signal, and a curve that makes percent of it."""
    mixes = model.program.mixes
    turned = list(dict.fromkeys(x.target for x in mixes if x.by_angle))
    if not turned:
        return model
    taken = {s.name for s in model.program.signals} | {p.name for p in model.airframe.moved()}
    signals: dict[str, str] = {}
    for name in turned:
        signals[name] = first_free(f"{name[:33]}_turn", taken, "_", longest=38)
        taken.add(signals[name])
    lines: list[MixLine] = []
    for line in mixes:
        lines += _parted(line, signals[line.target]) if line.target in signals else (line,)
    labels = {p.name: p.label for p in model.airframe.moved()}
    for name, signal in signals.items():
        response = percent_of_degrees(model, name, points)
        lines.append(
            MixLine(name="By angle", target=name, source=signal, response=response, origin=None)
        )
    made = tuple(
        Signal(name=signal, label=f"{labels[name]}, degrees"[:60])
        for name, signal in signals.items()
    )
    program = model.program.changed(
        {"mixes": tuple(lines), "signals": (*model.program.signals, *made)}
    )
    return model.changed({"program": program})


def _parted(line: MixLine, signal: str) -> Iterator[MixLine]:
    """A line to a surface whose degrees are summed apart. What scales acts on both sums; what
    replaces gives to its own and leaves nothing of the other."""
    percent = line.changed({"by_angle": False})
    degrees = percent.changed({"target": signal})
    mine, other = (degrees, percent) if line.by_angle else (percent, degrees)
    yield mine
    if line.combine == "scale":
        yield other
    elif line.combine == "replace":
        yield other.changed({"gain": 0.0})


def percent_of_degrees(model: Model, surface: str, points: int) -> Response:
    """What the lead of a surface makes of degrees, by at most ``points`` points."""
    found = next(s for s in model.airframe.surfaces if s.name == surface)
    lead = next(
        (x for x in model.leads if x.target == surface),
        Lead(name=surface, label=surface, target=surface),
    )
    curve = Motion(lead, found).by_angle()
    low, high = max(-100.0, curve.xs[0]), min(100.0, curve.xs[-1])
    places = sorted({low, 0.0, high, *(x for x in curve.xs if low < x < high)})
    if len(places) > points:
        places = fitting_places(curve, places, points)
    heights = evened(curve, places)
    return Response(points=tuple((x, min(150.0, max(-150.0, y))) for x, y in heights))


def evened(curve: Curve, places: Sequence[float]) -> list[tuple[float, float]]:
    """Points at these places from which straight pieces leave a curve as much above as below.

    Where a curve bows between two of its own points, a straight piece is off to one side only. So
    each point is moved half of the way to the middle of what the pieces beside it leave out; the
    ends and the place of nothing stay where they are."""
    ys = [float(curve(x)) for x in places]
    off = []
    for (x0, y0), (x1, y1) in pairwise(zip(places, ys, strict=True)):
        between = np.linspace(x0, x1, 33)
        apart = np.asarray(curve(between), float) - np.interp(between, [x0, x1], [y0, y1])
        off.append(float(apart[np.argmax(np.abs(apart))]))
    out = []
    for i, (x, y) in enumerate(zip(places, ys, strict=True)):
        inner = 0 < i < len(places) - 1 and x != 0.0
        more = (off[i - 1] + off[i]) / 4.0 if inner else 0.0
        out.append((float(x), y + more))
    return out


def fitting_places(curve: Curve, places: Sequence[float], points: int) -> list[float]:
    """So many of the places of a curve, both ends and nothing (0) among them where it lies there,
    that straight pieces between them leave as little of it out as they can: again and again the
    place is added at which they are furthest off."""
    x = np.array(places)
    y = np.asarray(curve(x), float)
    taken = {0, len(x) - 1}
    taken |= set(np.flatnonzero(x == 0.0).tolist())
    while len(taken) < min(points, len(x)):
        at = sorted(taken)
        off = np.abs(np.interp(x, x[at], y[at]) - y)
        off[at] = -1.0
        taken.add(int(np.argmax(off)))
    return [float(x[i]) for i in sorted(taken)]
