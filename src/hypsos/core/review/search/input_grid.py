# SPDX-License-Identifier: GPL-3.0-or-later
"""The hands as far as a question tells one place of theirs from another: a few values for every
control.

Sought: the fewest places of the hands that show everything that all places would.

How: a switch has its positions. What goes over a range has one value for every interval between the
levels with which it is compared; and where it feeds a sum, the ends of every interval and the
points at which a response bends.

Why it is right: within an interval no comparison changes, and between two such points a sum goes
straight, so it is greatest at one of them. Where bends lie behind other bends the points are not
all known; then only some are taken, and ``whole`` is False.

An example: a slider that is compared with 20 and 60, and feeds nothing, has three places: below,
between, above. If it also feeds a flap by a response with a bend at 0, the ends of the three
intervals and 0 are added."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Places
from hypsos.core.conditions.compare import over, under
from hypsos.core.conditions.condition_base import Cut
from hypsos.core.dependencies.graph import readers
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Setting
from hypsos.core.engine.axes import PITCH_SENSE
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.shaping import response_curve, setting_at, shaped, stored_setting
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.parts.tunables import Adjuster
from hypsos.core.review.search.model_slice import ModelSlice

GRID = np.linspace(-100.0, 100.0, 2001)
DEEPEST_SUMS = 3
"""Through so many sums, each fed by one line, a bend is followed back to the hands."""
MOST_BENDS = 9
"""Places of one control at the most that come from the bends of responses, where every combination
is searched."""
EVERY_BEND = 150
"""The same where controls are looked at by themselves."""


@dataclass(frozen=True)
class Knob:
    """A control with the values that are told apart; ``steps``: it goes from one to the next
    only."""

    name: str
    values: tuple[float, ...]
    rest: int
    steps: bool = False


@dataclass(frozen=True)
class InputGrid:
    """Every combination of the values of some controls, numbered: the first control counts
    fastest."""

    knobs: tuple[Knob, ...]
    whole: bool = True
    """Whether every place is there at which a response bends."""

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
        return [
            (numbers // s) % len(k.values) for k, s in zip(self.knobs, self.strides, strict=True)
        ]

    def values(self, numbers: Places) -> dict[str, Array]:
        """The value of every control in combinations."""
        found = zip(self.knobs, self.places(numbers), strict=True)
        return {k.name: np.array(k.values)[at] for k, at in found}

    def acts(self, numbers: Places) -> Iterator[tuple[int, NDArray[np.intp], Places]]:
        """Every single act from combinations: (control, which of them, the numbers it leads to)."""
        for n, (knob, stride, at) in enumerate(
            zip(self.knobs, self.strides, self.places(numbers), strict=True)
        ):
            count = len(knob.values)
            for to in range(count):
                # a hand takes a switch through its positions one by one; a stick it puts
                # anywhere
                here = np.flatnonzero((np.abs(at - to) == 1) if knob.steps else (at != to))
                if here.size:
                    yield n, here, numbers[here] + (to - at[here]) * stride


def grid_of(
    model_slice: ModelSlice,
    bends: bool = True,
    ends: bool = True,
    most: int = MOST_BENDS,
    between: int = 0,
) -> InputGrid:
    """The grid of a slice. Without ``bends`` a control is told apart only by what compares it;
    without ``ends`` it is then left where it rests. Of the places at which responses bend not more
    than ``most`` are kept for each control. ``between``: so many places more from each to the next,
    where what is round is told from what is straight."""
    places = _Places(model_slice, bends, ends, most, between)
    knobs = [places.knob(name) for name in sorted(_controls(model_slice))]
    return InputGrid(tuple(k for k in knobs if len(k.values) > 1), places.whole)


class _Places:
    """The places of each control that a grid has, for :func:`grid_of`. ``whole``: no bend was left
    out."""

    def __init__(
        self, model_slice: ModelSlice, bends: bool, ends: bool, most: int, between: int
    ) -> None:
        self.model, self.free = model_slice.model, model_slice.free
        self._bends, self._ends, self._most, self._between = bends, ends, most, between
        self._rest = resting(self.model) | AROUND
        self._levels, self._sources = _levels(self.model), _sources(self.model)
        self._feeding = feeding_controls(self.model)
        self.whole = True

    def knob(self, name: str) -> Knob:
        """A control with its places."""
        control = self.model.transmitter.control(name)
        if control is not None and control.is_switch:
            positions = tuple(float(i) for i in range(len(control.positions)))
            return Knob(name, positions, 0, control.kind == "switch")
        if name in ("link", "power"):
            values = {0.0, 1.0}
        else:
            values = self._travelled(name)
        told = tuple(sorted(values | {self._rest[name]}))
        return Knob(name, told, told.index(self._rest[name]))

    def _travelled(self, name: str) -> set[float]:
        """The places of a stick, a slider, a trim lever or the link's quality."""
        if not self._ends and name not in self._levels:
            return set()
        low, high = control_bounds(self.model, name)
        if name == "link_quality":  # a share of the packets: it is never below none
            low = 0.0
        # what only decides has one place in each interval; what is also read has its ends besides,
        # for between them what it feeds is straight
        fed = self._bends and name in self._feeding
        values = set(_intervals(self._levels.get(name, set()), low, high, fed))
        if fed:
            # its place itself is read: both ends, the middle and wherever a response bends
            values |= {low, high, self._rest[name], *self._bent(name, low, high)}
            values |= self._more_between(values)
        elif both_sides_alike(self.model, name):
            values = {v for v in values if v >= 0}
        if name in self.free:
            values |= _stored(self.model, self.free[name])
        return values

    def _bent(self, name: str, low: float, high: float) -> list[float]:
        """Where responses bend, evenly thinned out where that is too often."""
        bent = sorted(_bends(self.model, name, self._sources, low, high))
        if len(bent) <= self._most:
            return bent
        self.whole = False
        kept = np.linspace(0, len(bent) - 1, self._most).round().astype(int)
        return [bent[i] for i in kept]

    def _more_between(self, values: set[float]) -> set[float]:
        """Evenly spread places from each to the next, where these are more than a percent apart."""
        found: set[float] = set()
        steps = self._between + 1
        for a, b in itertools.pairwise(sorted(values)):
            if b - a > 1.0:
                found |= {a + (b - a) * k / steps for k in range(1, steps)}
        return found


def both_sides_alike(model: Model, name: str) -> bool:
    """Whether everything that compares a control asks only how far it is from the middle."""
    reading = [x for x in model.program.logic if name in x.signals()]
    return bool(reading) and all(x.by_distance for x in reading)


def feeding_controls(model: Model) -> set[str]:
    """The controls whose place itself is read by an axis, a line, a gate or a shared value; the
    others only decide."""
    out: set[str] = {x.control for x in _adjusters(model) if x.control is not None}
    for line in model.program.mixes:
        out.add(line.source)
        if line.differential_off is not None:
            out.add(line.differential_off)
    for gate in model.program.gates():
        out.update(gate.signals())
    for axis in model.program.axes:
        out.add(axis.control)
        if axis.switch is not None:
            out.add(axis.switch)
        if axis.trim is not None:
            out.add(f"{axis.command}_trim")
    # signals are among them, too: only what a hand or the air moves is a control
    return out & (resting(model).keys() | {"link_quality"})


def interval(model: Model, name: str, values: Array) -> Places:
    """In which interval between the levels with which conditions compare a control each value
    lies."""
    uppers = np.array(sorted(c[1] for c in _levels(model).get(name, ())))
    return np.searchsorted(uppers, values, side="right")


def _controls(model_slice: ModelSlice) -> set[str]:
    """Every control that a slice's document reads."""
    model = model_slice.model
    rest = resting(model)
    out = {c.name for c in model.transmitter.controls} | {a.control for a in model.program.axes}
    out |= {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    read = _read(model) | {asked(text).name for text in model_slice.asks}
    out |= {n for n in read if n in rest or n in ("link", "power", "link_quality")}
    if model.leads:
        out |= {"link", "power"}
    return out


def _read(model: Model) -> set[str]:
    """Names of signals and conditions that anything reads."""
    found: set[str] = set()
    for _, _, reader in readers(model):
        found.update(name for _, name in reader.reads())
        found.update(asked(text).name for _, text in reader.asks())
    # a guard of level 4 asks for the link without naming it
    guard = model.program.guard
    if guard is not None and guard.level >= 4:
        found.add("link")
    return found


def _adjusters(model: Model) -> list[Adjuster]:
    return [
        x.adjuster
        for x in model.program.tunables
        if x.adjuster is not None and x.adjuster.control is not None
    ]


def _levels(model: Model) -> dict[str, set[Cut]]:
    """Control -> the cuts between what conditions tell apart, each the last value below it and the
    first above it."""
    gates: dict[str, str] = {}
    for gate in model.program.gates():
        (gates[gate.name],) = gate.signals()  # a gate reads one signal
    out: dict[str, set[Cut]] = {}

    def add(name: str, *cuts: Cut) -> None:
        # a condition that reads a gate reads what the gate lets through, so this is a level of
        # that signal; a gate may read a gate
        for _ in range(len(gates)):
            name = gates.get(name, name)
        out.setdefault(name, set()).update(cuts)

    for x in model.program.logic:
        for name, cuts in x.cuts():
            add(name, *cuts)
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is not None:
        if axis is not None:
            add(axis.control, over(guard.threshold))
        for check in guard.start_check:
            if check.position is None:
                add(check.control, under(check.low), over(check.high))
    return out


def _intervals(cuts: set[Cut], low: float, high: float, ends: bool) -> Iterator[float]:
    """A value in every interval between cuts; with ``ends`` both of its ends."""
    inside = sorted(c for c in cuts if low <= c[0] and c[1] <= high)
    if not inside:
        return
    # both sides of every cut: the last value below it, the first above it
    edges = [low, *itertools.chain.from_iterable(inside), high]
    # so the edges go in pairs, from one cut to the next
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        yield from (a, b) if ends else ((a + b) / 2,)


def _sources(model: Model) -> dict[str, set[float]]:
    """Signal -> where the responses of the lines that read it bend; through a sum that a single
    line feeds also those of the lines that read that."""
    out: dict[str, set[float]] = {}
    feeding: dict[str, list[MixLine]] = {}
    # 1. every line bends where its own response does, and where its sides are weighed apart
    for line in model.program.mixes:
        feeding.setdefault(line.target, []).append(line)
        found = out.setdefault(line.source, set())
        if line.response is not None:
            found |= {x for x, _ in line.response.points}
        if line.differential:
            found.add(0.0)
        if line.differential_off is not None:
            out.setdefault(line.differential_off, set()).update((0.0, 100.0))
    # 2. where one line alone feeds a sum, a bend of what reads the sum is one of the line's source,
    # too
    for _ in range(DEEPEST_SUMS):
        for target, lines in feeding.items():
            if len(lines) == 1 and target in out:
                out.setdefault(lines[0].source, set()).update(_before(lines[0], out[target]))
    # 3. a gate lets its signal through as it is, so what bends behind it bends the signal
    for gate in model.program.gates():
        if gate.name in out:
            for signal in gate.signals():
                out.setdefault(signal, set()).update(out[gate.name])
    return out


def _before(line: MixLine, points: set[float]) -> set[float]:
    """Where the source of a line stands when what it gives goes through these points; nowhere known
    where it bends in flight."""
    if not line.gain or (line.response is not None and line.response.live_from is not None):
        return set()
    response = response_curve(line.response)
    shape = GRID if response is None else np.asarray(response.of(GRID, {}))
    given = shape * line.gain / 100.0
    stands: set[float] = set()
    for point in points:
        stands.update(_crossed(GRID, given, point))
    return stands


def _crossed(x: Array, y: Array, level: float) -> Iterator[float]:
    """Where something goes through a level."""
    for i in np.flatnonzero(np.diff(np.sign(y - level)) != 0).tolist():
        # how far above the level it is before and after; the signs differ, or one of them is 0
        before, after = y[i] - level, y[i + 1] - level
        share = before / (before - after) if before != after else 0.0
        yield float(x[i] + (x[i + 1] - x[i]) * share)


def _bends(
    model: Model, name: str, sources: dict[str, set[float]], low: float, high: float
) -> set[float]:
    """The places of a control at which a sum that it feeds may bend: of its own, and through its
    axes."""
    own = {p for p in sources.get(name, set()) if low < p < high}
    for axis in model.program.axes:
        if axis.control == name:
            # expo and rates bend in the middle
            own |= {0.0} if axis.command != "thrust" else set()
            own |= set(_through(model, axis, sources.get(axis.command, set())))
    # two ways to one bend may differ in the last digit; they are one place
    rounded = {round(v, 3) for v in own}
    return {v for v in rounded if low < v < high}


def _through(model: Model, axis: Axis, points: set[float]) -> Iterator[float]:
    """Where a stick stands when its command reaches the points of the lines that read it, with the
    trim where it is and at its ends."""
    sense = PITCH_SENSE if axis.command == "pitch" else 1.0
    # a curve that bends in flight has no points that stay
    live = axis.curve is not None and axis.curve.live_from is not None
    curve = None if live else response_curve(axis.curve)
    if axis.curve is not None:
        yield from (sense * p[0] for p in axis.curve.points)
    trim = f"{axis.command}_trim"
    # a trim adds to the command, so a point is reached elsewhere with every trim; its ends bound
    # that
    trims = {0.0}
    if axis.trim is not None:
        trims |= {resting(model).get(trim, 0.0), *control_bounds(model, trim)}
    before_trim = {point - trimmed for point in points for trimmed in trims}
    for setting in _stored_settings(model, axis):
        command = np.asarray(
            shaped(sense * GRID, curve, setting, from_idle=axis.command == "thrust")
        )
        # backwards from the command to the stick: where what is shaped crosses the point
        for point in before_trim:
            yield from _crossed(GRID, command, point)


def _stored_settings(model: Model, axis: Axis) -> set[Setting]:
    """The rates and expos that an axis can have: by the positions of its switch, and where they
    come from shared values also by the flight modes."""
    modes = [m.name for m in model.program.modes] or ["base"]
    by_switch = {setting_at(axis, at) for at in range(len(axis.settings))}
    return {stored_setting(model, setting, mode) for setting in by_switch for mode in modes}


def _stored(model: Model, name: str) -> set[float]:
    """Where the control of a free shared value stands for the values that are stored."""
    shared = next(t for t in model.program.tunables if t.name == name)
    span = shared.high - shared.low
    stored = (shared.value, *shared.by_mode.values())
    return {200.0 * (value - shared.low) / span - 100.0 for value in stored}
