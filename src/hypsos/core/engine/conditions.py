# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches and flight modes, evaluated in dependency order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cache, partial
from typing import Any

import numpy as np

from hypsos.core.base.backends import EPS, FRAME, Backend, Flag, Kind, Place, Signal
from hypsos.core.dependencies.evaluation_order import logic_order
from hypsos.core.document.document import Model
from hypsos.core.engine.memory import (
    KEPT,
    Memory,
    counted,
    counter,
    edge_latch,
    latch,
    off_delay,
    on_delay,
    pulse,
)
from hypsos.core.parts.announcement_values import Timer
from hypsos.core.parts.condition_values import (
    Combine,
    Compare,
    Counter,
    Delay,
    FlightMode,
    Gate,
    Latch,
    asked,
)
from hypsos.core.parts.guard_states import GuardState

TABLES = ("signals", "flags", "counts")
"""What evaluating a member may write."""


@dataclass
class Conditions:
    """Everything a condition can ask about, in one piece of time of the given shape, time last."""

    lane: Backend
    shape: tuple[int, ...]
    t_s: Signal
    signals: dict[str, Signal]
    positions: dict[str, Place]
    link: Flag
    power: Flag
    flags: dict[str, Flag] = field(default_factory=dict)
    counts: dict[str, Place] = field(default_factory=dict)

    def flag(self, text: str) -> Flag:
        """A condition's truth over time."""
        return reader(text)(self)

    def only(self, names: set[str]) -> Conditions:
        """As much of it as these names stand for."""

        def named(table: Mapping[str, Kind]) -> dict[str, Kind]:
            return {k: v for k, v in table.items() if k in names}

        return replace(
            self, signals=named(self.signals), positions=named(self.positions), flags=named(self.flags),
            counts=named(self.counts),
        )  # fmt: skip

    def copied(self) -> Conditions:
        """The same with tables of its own for what is written."""
        return replace(self, signals=dict(self.signals), flags=dict(self.flags), counts=dict(self.counts))

    def frame(self, i: int) -> Conditions:
        """One frame of it: of a single situation in the frame lane."""
        single = len(self.shape) == 1

        def cut(x: Any) -> Any:
            return x[i].item() if single else x[..., i : i + 1]

        def all_(table: Mapping[str, Kind]) -> dict[str, Kind]:
            return {k: cut(v) for k, v in table.items()}

        return Conditions(
            FRAME if single else self.lane, (*self.shape[:-1], 1), cut(self.t_s), all_(self.signals),
            all_(self.positions), cut(self.link), cut(self.power), all_(self.flags), all_(self.counts),
        )  # fmt: skip


@cache
def reader(text: str) -> Callable[[Conditions], Flag]:
    """What reads a condition, taken apart once for all."""
    negated, realm, name, position = asked(text)
    key = asked(text).key
    read: Callable[[Conditions], Flag]
    if realm:
        read = lambda world: world.flags[key]  # noqa: E731
    elif position is not None:

        def read(world: Conditions) -> Flag:
            return (world.positions[name] if name in world.positions else world.counts[name]) == position

    elif name == "link":
        read = lambda world: world.link  # noqa: E731
    elif name == "power":
        read = lambda world: world.power  # noqa: E731
    else:
        read = lambda world: world.flags[name]  # noqa: E731
    return (lambda world: world.lane.not_(read(world))) if negated else read


Work = Callable[[Conditions, Memory], None]
"""The evaluation of one member: it writes its flag, count or signal."""


class LogicPlan:
    """The logical switches and modes of a model, ready to be evaluated in their order.

    Raises
    ------
    HypsosError : a circle that does not pass through a latch; it names the members.
    """

    def __init__(self, model: Model) -> None:
        order = logic_order(model)
        self.nodes, self.deps, self.inputs, self.before = order.nodes, order.deps, order.inputs, order.before
        self.late = order.late
        self._frame_s = model.program.frame_s
        self.shown = [n for n, x in self.nodes.items() if ":" not in n and not isinstance(x, Gate)]
        """The members that have a flag of their own."""
        self._work: dict[str, Work] = {name: self._compiled(name) for name in self.nodes}
        early = [g for g in order.groups if g[0] not in order.late | order.last]
        after = [g for g in order.groups if g[0] in order.late and g[0] not in order.last]
        self._end = self._steps(g for g in order.groups if g[0] in order.last)
        self.early_groups = early
        """The members known before the guard speaks, in their order; those of a circle together."""
        self._early, self._after = self._steps(early), self._steps(after)
        self._gates = [[n for g in groups for n in g if isinstance(self.nodes[n], Gate)] for groups in (early, after)]

    def _steps(self, groups: Iterable[list[str]]) -> list[Work]:
        """The evaluation of each group, in their order."""
        out: list[Work] = []
        for members in groups:
            alone = len(members) == 1 and members[0] not in self.deps[members[0]]
            out.append(self._work[members[0]] if alone else partial(self._frame_by_frame, members))
        return out

    def run(self, world: Conditions, memory: Memory) -> None:
        """Fill in the flags, counts and gate signals of ``world``, as far as they hang on neither guard nor timers."""
        for work in self._early:
            work(world, memory)

    def run_late(self, world: Conditions, guard: Place, memory: Memory) -> None:
        """What hangs on the guard or on a timer, once the guard has spoken."""
        for state in GuardState:
            world.flags[f"guard:{state.name.lower()}"] = guard == state
        for work in self._after:
            work(world, memory)

    def run_last(self, world: Conditions, memory: Memory) -> None:
        """The rest of them, once everything has been summed."""
        for work in self._end:
            work(world, memory)

    def gates(self, signals: dict[str, Signal], flag: Callable[[str], Flag], lane: Backend, late: bool = False) -> None:
        """The gates anew in ``signals``, as one mode of a fade sees their conditions: the early ones, or the late ones."""
        for name in self._gates[late]:
            node = self.nodes[name]
            assert isinstance(node, Gate)
            signals[name] = lane.where(flag(node.when), signals[node.source], node.parked)

    def evaluate(self, name: str, world: Conditions, memory: Memory) -> None:
        """Evaluate one member: its flag, count or signal goes into ``world``."""
        self._work[name](world, memory)

    def _compiled(self, name: str) -> Work:
        """The evaluation of one member, with what it reads and its figures at hand."""
        node = self.nodes[name]
        if isinstance(node, FlightMode):
            return _mode(name, node, self.before[name])
        if isinstance(node, Timer):
            return _timer(name, node, self._frame_s)
        key = f"?{name}.{node.kind}"
        if isinstance(node, Gate):
            return _gate(name, node)
        if isinstance(node, Counter):
            return _counter(name, node, key)
        return _flag(name, _truth(node, key))

    def _frame_by_frame(self, members: list[str], world: Conditions, memory: Memory) -> None:
        """Latches that read each other: one frame after the other, every latch as it was shown one frame ago."""
        latches = [m for m in members if isinstance(self.nodes[m], Latch)]
        state = dict(memory.before)
        shown = {m: state.get(f"?{m}.shown", False) for m in latches}
        outside = world.only(self._read_by(members))
        pending = ticking = False
        out: dict[tuple[str, str], list[Signal]] = {}
        for i in range(world.shape[-1]):
            frame = (outside if world.lane.single else outside.frame(i)).copied()
            piece = Memory(before=state, lane=frame.lane, instant=memory.instant)
            self._one_frame(members, shown, frame, piece)
            for table in TABLES:
                found = getattr(frame, table)
                for key in (k for m in members for k in (m, f"{m}?") if k in found):
                    out.setdefault((table, key), []).append(found[key])
            state = state | piece.after
            shown = {m: frame.lane.end(frame.flags[m]) for m in latches}
            pending, ticking = piece.pending, piece.ticking  # what holds in the last frame counts
        memory.pending |= pending
        memory.ticking |= ticking
        mine = {f"?{m}" for m in members} | {m for m in members if m.startswith("timer:")}
        memory.after |= {k: v for k, v in state.items() if k.split(".")[0] in mine}
        memory.after |= {f"?{m}.shown": v for m, v in shown.items()}
        for (table, key), values in out.items():
            getattr(world, table)[key] = _joined(values, world)

    def _one_frame(self, members: list[str], shown: Mapping[str, Flag], frame: Conditions, memory: Memory) -> None:
        before = {m: v if frame.lane.single else np.asarray(v)[..., None] for m, v in shown.items()}
        frame.flags.update(before)
        now = {}
        for m in members:
            if m in before:
                latched = replace(frame, flags=frame.flags | before)
                self._work[m](latched, memory)
                now[m] = latched.flags[m]
            else:
                self._work[m](frame, memory)
        frame.flags.update(now)

    def _read_by(self, members: list[str]) -> set[str]:
        names = {d for m in members for d in self.inputs[m]}
        return names | {f"{n}?" for n in names} | {self.before.get(m, "") for m in members}


def _joined(values: list[Signal], world: Conditions) -> Signal:
    if world.lane.single:
        return values[0]
    if len(world.shape) == 1:
        return np.array(values)
    return np.concatenate([np.broadcast_to(v, (*world.shape[:-1], 1)) for v in values], axis=-1)


DELAYS: dict[str, Callable[[Flag, Signal, float, Memory, str], Flag]] = {
    "on_delay": on_delay,
    "off_delay": off_delay,
    "pulse": pulse,
}


def _mode(name: str, node: FlightMode, before: str) -> Work:
    """A mode is flown where none before it is and its own condition holds."""
    when, free_before = None if node.when is None else reader(node.when), f"{before}?"
    free_here = f"{name}?"

    def work(world: Conditions, memory: Memory) -> None:
        free: Flag = world.lane.full(world.shape, True)
        if before:
            free = world.lane.not_(world.flags[before]) & world.flags[free_before]
        world.flags[free_here] = free
        world.flags[name] = free if when is None else free & when(world)

    return work


def _timer(name: str, node: Timer, frame_s: float) -> Work:
    when, reset = reader(node.when), None if node.reset is None else reader(node.reset)

    def work(world: Conditions, memory: Memory) -> None:
        anew = None if reset is None else reset(world)
        kept = memory.before.get(KEPT, {}).get(node.name, 0)
        n = world.counts[name] = counted(when(world), anew, memory, name, kept, node.reset or "")
        world.flags[name] = (n * frame_s >= node.span_s - EPS) & (node.span_s > 0)

    return work


def _gate(name: str, node: Gate) -> Work:
    when, source, parked = reader(node.when), node.source, node.parked

    def work(world: Conditions, memory: Memory) -> None:
        world.signals[name] = world.lane.where(when(world), world.signals[source], parked)

    return work


def _counter(name: str, node: Counter, key: str) -> Work:
    of, count = reader(node.of), node.count

    def work(world: Conditions, memory: Memory) -> None:
        n = world.counts[name] = counter(of(world), count, memory, key)
        world.flags[name] = n > 0

    return work


Truth = Callable[[Conditions, Memory], Flag]
"""What a member of flags is made of, over time."""


def _flag(name: str, truth: Truth) -> Work:
    def work(world: Conditions, memory: Memory) -> None:
        world.flags[name] = truth(world, memory)

    return work


def _truth(node: Compare | Combine | Latch | Delay, key: str) -> Truth:
    if isinstance(node, Compare):
        return _compared(node, key)
    if isinstance(node, Combine):
        return _combined(node)
    if isinstance(node, Latch):
        kind, on, off = edge_latch if node.edges else latch, reader(node.set), reader(node.reset)
        return lambda world, memory: kind(on(world), off(world), memory, key)
    delay, of, seconds = DELAYS[node.kind], reader(node.of), node.seconds
    return lambda world, memory: delay(of(world), world.t_s, seconds, memory, key)


def _combined(node: Combine) -> Truth:
    readers = [reader(text) for text in node.of]
    first, rest = readers[0], readers[1:]
    if node.kind == "not":
        return lambda world, memory: world.lane.not_(first(world))
    if node.kind == "one":
        return lambda world, memory: sum(world.lane.where(read(world), 1, 0) for read in readers) == 1

    def every(world: Conditions, memory: Memory) -> Flag:
        out = first(world)
        for read in rest:
            out = out & read(world)
        return out

    def some(world: Conditions, memory: Memory) -> Flag:
        out = first(world)
        for read in rest:
            out = out | read(world)
        return out

    return every if node.kind == "all" else some


def _compared(node: Compare, key: str) -> Truth:
    edges = compared(node)
    if node.hysteresis == 0:
        return lambda world, memory: edges(world)[0]
    return lambda world, memory: latch(*edges(world), memory, key)


def compared(node: Compare) -> Callable[[Conditions], tuple[Flag, Flag]]:
    """Where a comparison comes on, and where it goes off again with its hysteresis; between the two it stays as it is."""
    a, b, x, h = node.a, node.b or node.a, node.x, node.hysteresis
    if node.kind == "within":
        high = node.x if node.y is None else node.y

        def within(world: Conditions) -> tuple[Flag, Flag]:
            value = world.signals[a]
            return (value >= x) & (value <= high), (value < x - h) | (value > high + h)

        return within
    value: Callable[[Conditions], Signal]
    if node.kind == "below":
        value, x = lambda world: -world.signals[a], -x
    elif node.kind == "beyond":
        value = lambda world: world.lane.abs(world.signals[a])  # noqa: E731
    elif node.kind == "difference":
        value = lambda world: world.signals[a] - world.signals[b]  # noqa: E731
    else:
        value = lambda world: world.signals[a]  # noqa: E731

    def beyond(world: Conditions) -> tuple[Flag, Flag]:
        found = value(world)
        return found > x, found <= x - h

    return beyond
