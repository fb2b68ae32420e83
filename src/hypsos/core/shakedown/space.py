"""The hands as far as a question tells one place of theirs from another: a few values for every control.

A switch has its positions. What goes over a range has one value for every interval between the levels with which it is
compared; and where it feeds a sum, the ends of every interval and the points at which a response bends, between which a sum
goes straight.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hypsos.core.engine.axes import PITCH_SENSE
from hypsos.core.engine.shaping import response_curve, setting_at, shaped
from hypsos.core.engine.situation import control_bounds, resting
from hypsos.core.ground.lanes import Array, Places
from hypsos.core.model.document import Model
from hypsos.core.model.lines import reads
from hypsos.core.model.program import Axis
from hypsos.core.parts.logic import Adjuster, Compare, Gate
from hypsos.core.parts.shapes import MixLine
from hypsos.core.shakedown.cone import Cone

NEAR = 1e-3
"""Percent: so far beyond a level is beyond it."""
GRID = np.linspace(-100.0, 100.0, 2001)
MOST_BENDS = 9
"""Places of one control at the most that come from the bends of responses."""


@dataclass(frozen=True)
class Knob:
    """A control with the values that are told apart; ``steps``: it goes from one to the next only."""

    name: str
    values: tuple[float, ...]
    rest: int
    steps: bool = False


@dataclass(frozen=True)
class Space:
    """Every combination of the values of some controls, numbered: the first control counts fastest."""

    knobs: tuple[Knob, ...]

    @property
    def size(self) -> int:
        """How many combinations there are."""
        out = 1
        for k in self.knobs:
            out *= len(k.values)
        return out

    @property
    def strides(self) -> tuple[int, ...]:
        """By how much the number grows from one value of each control to the next."""
        out, at = [], 1
        for k in self.knobs:
            out.append(at)
            at *= len(k.values)
        return tuple(out)

    def at_rest(self) -> int:
        """The number of the combination in which nobody has touched anything."""
        return sum(k.rest * s for k, s in zip(self.knobs, self.strides, strict=True))

    def places(self, numbers: Places) -> list[Places]:
        """The place of every control in combinations."""
        return [(numbers // s) % len(k.values) for k, s in zip(self.knobs, self.strides, strict=True)]

    def values(self, numbers: Places) -> dict[str, Array]:
        """The value of every control in combinations."""
        found = zip(self.knobs, self.places(numbers), strict=True)
        return {k.name: np.array(k.values)[at] for k, at in found}

    def acts(self, numbers: Places) -> Iterator[tuple[int, NDArray[np.intp], Places]]:
        """Every single act from combinations: (control, which of them, the numbers it leads to)."""
        for n, (knob, stride, at) in enumerate(zip(self.knobs, self.strides, self.places(numbers), strict=True)):
            count = len(knob.values)
            for to in range(count):
                here = np.flatnonzero((np.abs(at - to) == 1) if knob.steps else (at != to))
                if here.size:
                    yield n, here, numbers[here] + (to - at[here]) * stride


def space_of(cone: Cone, bends: bool = True, ends: bool = True) -> Space:
    """The space of a cone. Without ``bends`` a control is told apart only by what compares it; without ``ends`` it is then
    left where it rests."""
    model = cone.model
    rest = resting(model) | {"link": 1.0, "power": 1.0, "link_quality": 100.0}
    levels, sources = _levels(model), _sources(model)
    feeding = feeding_controls(model)
    knobs = []
    for name in sorted(_controls(cone)):
        control = model.transmitter.control(name)
        if control is not None and control.is_switch:
            knobs.append(
                Knob(name, tuple(float(i) for i in range(len(control.positions))), 0, control.kind == "switch")
            )
            continue
        low, high = (0.0, 1.0) if name in ("link", "power") else control_bounds(model, name)
        low = 0.0 if name == "link_quality" else low
        values = {rest[name]}
        if name in ("link", "power"):
            values |= {0.0, 1.0}
        else:
            fed = bends and name in feeding
            found = set(_intervals(levels.get(name, set()), low, high, fed))
            values |= found if fed or not both_sides_alike(model, name) else {v for v in found if v >= 0}
            if fed:
                values |= {low, high, *_bends(model, name, sources.get(name, set()), low, high)}
            if name in cone.free:
                values |= _stored(model, cone.free[name])
            if not ends and name not in levels:
                values = {rest[name]}
        told = tuple(sorted(values))
        knobs.append(Knob(name, told, told.index(rest[name])))
    return Space(tuple(k for k in knobs if len(k.values) > 1))


def both_sides_alike(model: Model, name: str) -> bool:
    """Whether everything that compares a control asks only how far it is from the middle."""
    compared = [x for x in model.program.logic if isinstance(x, Compare) and name in (x.a, x.b)]
    gated = any(isinstance(x, Gate) and x.source == name for x in model.program.logic)
    return bool(compared) and not gated and all(x.kind == "beyond" for x in compared)


def feeding_controls(model: Model) -> set[str]:
    """The controls whose place itself is read by an axis, a line, a gate or a shared value; the others only decide."""
    out: set[str] = {x.control for x in _adjusters(model) if x.control is not None} | _sources(model).keys()
    out |= {x.differential_off for x in model.program.mixes if x.differential_off is not None}
    out |= {x.source for x in model.program.logic if isinstance(x, Gate)}
    for a in model.program.axes:
        out |= {a.control, a.switch or ""} | ({f"{a.command}_trim"} if a.trim is not None else set())
    return out & (resting(model).keys() | {"link_quality"})


def blocks_of(model: Model, target: str) -> list[frozenset[str]]:
    """The controls that feed a sum, put together where they act on each other: what one set of them adds to the sum is the
    same wherever the others stand."""
    lines = [x for x in model.program.mixes if x.target == target]
    sets = [knobs_of(model, x) for x in lines]
    if any(x.combine != "add" for x in lines):
        sets = [frozenset().union(*sets)] if sets else []
    out: list[frozenset[str]] = []
    for found in sets:
        met = [b for b in out if b & found]
        out = [b for b in out if not b & found] + [frozenset(found).union(*met)]
    return sorted((b for b in out if b), key=sorted)


def lags(model: Model, target: str, deciding: Collection[str]) -> bool:
    """Whether something slow on the way to a sum can be out of step with the rest of it: then the sum may go further on the
    way than where it comes to rest. ``deciding``: the controls on which conditions hang."""
    lines = [x for x in model.program.mixes if x.target == target]
    slow = {x.target for x in model.program.mixes if x.in_s or x.out_s}
    for x in lines:
        above = upstream(model, reads(x) - {target})
        if not (x.in_s or x.out_s or slow & above):
            continue
        knobs = knobs_of(model, x)
        others = frozenset[str]().union(*(knobs_of(model, y) for y in lines if y is not x))
        bent = x.gain_from or x.differential_off or (x.response is not None and x.response.live_from)
        if bent or x.when or x.combine != "add" or knobs & (others | set(deciding)):
            return True
        if any(lags(model, n, deciding) for n in slow & above):
            return True
    return False


def bent(model: Model, target: str) -> bool:
    """Whether a shared value that is moved in flight bends what comes to a sum: what it changes goes through a response that is
    not straight, or it acts twice in one line. Then the sum may go further with that value in between than at its ends."""
    moved = {x.name for x in model.program.tunables if x.adjuster is not None}
    return bool(moved) and _bent(model, target, moved)[0]


def _bent(model: Model, target: str, moved: set[str], seen: frozenset[str] = frozenset()) -> tuple[bool, set[str]]:
    """Whether it is bent, and the moved values that act on a sum, an axis or a gate."""
    acting: set[str] = set()
    if target in seen:
        return False, acting
    axis = model.program.axis(target)
    if axis is not None:
        named = {x for s in axis.settings if s is not None for x in (s.rate_from, s.expo_from)}
        curve = {axis.curve.live_from} if axis.curve is not None else set()
        twice = bool(named & curve & moved) or any(
            s is not None and s.rate_from == s.expo_from and s.rate_from in moved for s in axis.settings
        )
        return twice, {n for n in named | curve if n in moved}
    for x in (x for x in model.program.mixes if x.target == target):
        before: set[str] = set()
        for name in reads(x):
            found, more = _bent(model, name, moved, seen | {target})
            if found:
                return True, before
            before |= more
        response = x.response
        asked_for = (x.gain_from, response.live_from if response is not None else None)
        own = {n for n in asked_for if n in moved}
        curved = response is not None and (len(response.points) > 2 or response.live_from is not None)
        smooth = response is not None and response.shape == "smooth" and response.live_from in moved
        twice = response is not None and x.gain_from is not None and x.gain_from == response.live_from
        if (before and (curved or x.differential)) or own & before or smooth or (twice and own):
            return True, before
        acting |= before | own
        if x.combine == "scale" and acting and before | own:
            return True, acting
    return False, acting


def upstream(model: Model, names: set[str]) -> set[str]:
    """These sums and those that feed them."""
    found, open_ = set[str](), set(names)
    while open_:
        name = open_.pop()
        if name not in found:
            found.add(name)
            open_ |= {n for x in model.program.mixes if x.target == name for n in reads(x)}
    return found


def knobs_of(model: Model, line: MixLine, seen: frozenset[str] = frozenset()) -> frozenset[str]:
    """The controls on which what a line gives hangs, but for conditions."""
    out = frozenset[str]()
    for name in reads(line):
        out |= _behind(model, name, seen)
    shared = {line.gain_from, line.response.live_from if line.response is not None else None}
    return out | _shared_controls(model, shared)


def _shared_controls(model: Model, names: set[str | None]) -> frozenset[str]:
    found = (x.adjuster for x in model.program.tunables if x.name in names and x.adjuster is not None)
    return frozenset(a.control for a in found if a.control is not None)


def _behind(model: Model, name: str, seen: frozenset[str]) -> frozenset[str]:
    if name in seen:
        return frozenset()
    seen |= {name}
    axis = model.program.axis(name)
    if axis is not None:
        own = {
            axis.control,
            *([axis.switch] if axis.switch else []),
            *([f"{name}_trim"] if axis.trim is not None else []),
        }
        shared = {x for s in axis.settings if s is not None for x in (s.rate_from, s.expo_from)}
        shared |= {axis.curve.live_from} if axis.curve is not None else set()
        return frozenset(own) | _shared_controls(model, shared) | _behind(model, axis.control, seen)
    gate = next((x for x in model.program.logic if isinstance(x, Gate) and x.name == name), None)
    if gate is not None:
        return _behind(model, gate.source, seen)
    lines = [x for x in model.program.mixes if x.target == name]
    return frozenset({name}).union(*(knobs_of(model, x, seen) for x in lines))


def interval(model: Model, name: str, values: Array) -> Places:
    """In which interval between the levels with which conditions compare a control each value lies."""
    uppers = np.array(sorted(c[1] for c in _levels(model).get(name, ())))
    return np.searchsorted(uppers, values, side="right")


def _controls(cone: Cone) -> set[str]:
    """Every control that a cone's document reads."""
    model = cone.model
    rest = resting(model)
    out = {c.name for c in model.transmitter.controls} | {a.control for a in model.program.axes}
    out |= {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    from hypsos.core.parts.logic import asked

    read = _read(model) | {asked(text).name for text in cone.asks}
    out |= {n for n in read if n in rest or n in ("link", "power", "link_quality")}
    if model.leads:
        out |= {"link", "power"}
    return out


def _read(model: Model) -> set[str]:
    """Names of signals and conditions that anything reads."""
    from hypsos.core.model.choosing import asked_by
    from hypsos.core.parts.logic import asked, conditions_of, signals_of

    out = {n for x in model.program.mixes for n in reads(x)}
    out |= {s for x in model.program.logic for s in signals_of(x)}
    out |= {asked(text).name for _, text in asked_by(model)}
    out |= {asked(text).name for x in model.program.logic for text in conditions_of(x)}
    out |= {c.control for c in _adjusters(model) if c.control is not None}
    guard = model.program.guard
    if guard is not None:
        out |= {guard.switch, *(c.control for c in guard.start_check)}
        out |= {"link"} if guard.level >= 4 else set()
    return out


def _adjusters(model: Model) -> list[Adjuster]:
    return [x.adjuster for x in model.program.tunables if x.adjuster is not None and x.adjuster.control is not None]


Cut = tuple[float, float]


def _levels(model: Model) -> dict[str, set[Cut]]:
    """Control -> the cuts between what conditions tell apart, each the last value below it and the first above it."""
    gates = {x.name: x.source for x in model.program.logic if isinstance(x, Gate)}
    out: dict[str, set[Cut]] = {}

    def add(name: str | None, *cuts: Cut) -> None:
        for _ in range(len(gates)):
            name = gates.get(name or "", name)
        if name is not None:
            out.setdefault(name, set()).update(cuts)

    for x in model.program.logic:
        if isinstance(x, Compare):
            for name, cuts in _compared(x):
                add(name, *cuts)
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is not None:
        if axis is not None:
            add(axis.control, _over(guard.threshold))
        for check in guard.start_check:
            if check.position is None:
                add(check.control, _under(check.low), _over(check.high))
    return out


def _compared(x: Compare) -> Iterator[tuple[str | None, tuple[Cut, ...]]]:
    """Where a comparison tells a control apart: its levels, on and off again."""
    h = x.hysteresis
    if x.kind == "above":
        yield x.a, (_over(x.x), _over(x.x - h))
    elif x.kind == "below":
        yield x.a, (_under(x.x), _under(x.x + h))
    elif x.kind == "beyond":
        yield x.a, (_over(x.x), _over(x.x - h), _under(-x.x), _under(h - x.x))
    elif x.kind == "within":
        y = x.x if x.y is None else x.y
        yield x.a, (_under(x.x), _under(x.x - h), _over(y), _over(y + h))
    else:
        for name, sign in ((x.a, 1.0), (x.b, -1.0)):
            yield name, tuple(_over(sign * v) for v in (x.x, x.x - h, x.x / 2, (x.x - h) / 2, 0.0))


def _over(level: float) -> Cut:
    """A cut just above a level."""
    return level, level + NEAR


def _under(level: float) -> Cut:
    """A cut just below a level."""
    return level - NEAR, level


def _intervals(cuts: set[Cut], low: float, high: float, ends: bool) -> Iterator[float]:
    """A value in every interval between cuts; with ``ends`` both of its ends."""
    inside = sorted(c for c in cuts if low <= c[0] and c[1] <= high)
    if not inside:
        return
    edges = [low, *(v for c in inside for v in c), high]
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        yield from (a, b) if ends else ((a + b) / 2,)


def _sources(model: Model) -> dict[str, set[float]]:
    """Signal -> where the responses of the lines that read it bend."""
    out: dict[str, set[float]] = {}
    for x in model.program.mixes:
        found = out.setdefault(x.source, set())
        found |= {p[0] for p in x.response.points} if x.response is not None else set()
        found |= {0.0} if x.differential else set()
        if x.differential_off is not None:
            out.setdefault(x.differential_off, set()).update((0.0, 100.0))
    for gate in model.program.logic:
        if isinstance(gate, Gate) and gate.name in out:
            out.setdefault(gate.source, set()).update(out[gate.name])
    return out


def _bends(model: Model, name: str, points: set[float], low: float, high: float) -> set[float]:
    """The places of a control at which a sum that it feeds may bend: of its own, and through its axes."""
    own = {p for p in points if low < p < high}
    sources = _sources(model)
    for axis in model.program.axes:
        if axis.control == name:
            own |= {0.0} if axis.command != "thrust" else set()
            own |= set(_through(model, axis, sources.get(axis.command, set())))
    kept = sorted(round(v, 3) for v in own if low < v < high)
    if len(kept) > MOST_BENDS:
        kept = [kept[i] for i in np.linspace(0, len(kept) - 1, MOST_BENDS).round().astype(int)]
    return set(kept)


def _through(model: Model, axis: Axis, points: set[float]) -> Iterator[float]:
    """Where a stick stands when its command reaches the points of the lines that read it."""
    sense = PITCH_SENSE if axis.command == "pitch" else 1.0
    curve = response_curve(axis.curve) if axis.curve is None or axis.curve.live_from is None else None
    if axis.curve is not None:
        yield from (sense * p[0] for p in axis.curve.points)
    for at in range(len(axis.settings)):
        command = np.asarray(shaped(sense * GRID, curve, setting_at(axis, at), from_idle=axis.command == "thrust"))
        for p in points:
            crossed = np.flatnonzero(np.diff(np.sign(command - p)) != 0)
            for i in crossed[:3].tolist():
                a, b = command[i] - p, command[i + 1] - p
                yield float(GRID[i] + (GRID[i + 1] - GRID[i]) * (a / (a - b) if a != b else 0.0))


def _stored(model: Model, name: str) -> set[float]:
    """Where the control of a free shared value stands for the values that are stored."""
    x = next(t for t in model.program.tunables if t.name == name)
    return {200.0 * (v - x.low) / (x.high - x.low) - 100.0 for v in (x.value, *x.by_mode.values())}
