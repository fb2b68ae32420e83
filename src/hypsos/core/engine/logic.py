"""Logical switches and flight modes, evaluated in dependency order."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from hypsos.core.engine.memory import (
    KEPT,
    Memory,
    above,
    counted,
    counter,
    edge_latch,
    latch,
    off_delay,
    on_delay,
    pulse,
)
from hypsos.core.ground.lanes import EPS, FRAME, Flag, Kind, Lane, Place, Signal
from hypsos.core.model.document import Model
from hypsos.core.model.logic_order import LogicOrder
from hypsos.core.parts.logic import (
    Combine,
    Compare,
    Counter,
    Delay,
    FlightMode,
    Gate,
    Latch,
    asked,
)
from hypsos.core.parts.states import GuardState
from hypsos.core.parts.voice import Timer

TABLES = ("signals", "flags", "counts")
"""What evaluating a member may write."""


@dataclass
class Conditions:
    """Everything a condition can ask about, in one piece of time of the given shape, time last."""

    lane: Lane
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
        negated, realm, name, position = asked(text)
        if realm:
            found = self.flags[f"{realm}:{name}"]
        elif position is not None:
            found = (self.positions[name] if name in self.positions else self.counts[name]) == position
        elif name == "link":
            found = self.link
        elif name == "power":
            found = self.power
        else:
            found = self.flags[name]
        return self.lane.not_(found) if negated else found

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


class LogicPlan(LogicOrder):
    """The logical switches and modes of a model, ready to be evaluated in their order.

    Raises
    ------
    HypsosError : a circle that does not pass through a latch; it names the members.
    """

    def __init__(self, model: Model) -> None:
        super().__init__(model)
        self._early = [g for g in self.groups if g[0] not in self.late]
        self._early = [g for g in self._early if g[0] not in self.last]
        self._after = [g for g in self.groups if g[0] in self.late and g[0] not in self.last]
        self._end = [g for g in self.groups if g[0] in self.last]
        self._frame_s = model.program.frame_s

    def run(self, world: Conditions, memory: Memory) -> None:
        """Fill in the flags, counts and gate signals of ``world``, as far as they hang on neither guard nor timers."""
        self._run(self._early, world, memory)

    def run_late(self, world: Conditions, guard: Place, memory: Memory) -> None:
        """What hangs on the guard or on a timer, once the guard has spoken."""
        for state in GuardState:
            world.flags[f"guard:{state.name.lower()}"] = guard == state
        self._run(self._after, world, memory)

    def run_last(self, world: Conditions, memory: Memory) -> None:
        """The rest of them, once everything has been summed."""
        self._run(self._end, world, memory)

    def _run(self, groups: list[list[str]], world: Conditions, memory: Memory) -> None:
        for members in groups:
            if len(members) == 1 and members[0] not in self.deps[members[0]]:
                self._evaluate(members[0], world, memory)
            else:
                self._frame_by_frame(members, world, memory)

    def gates(self, signals: dict[str, Signal], flag: Callable[[str], Flag], lane: Lane, late: bool = False) -> None:
        """The gates anew in ``signals``, as one mode of a fade sees their conditions: the early ones, or the late ones."""
        for members in self._after if late else self._early:
            for name in members:
                node = self.nodes[name]
                if isinstance(node, Gate):
                    signals[name] = lane.where(flag(node.when), signals[node.source], node.parked)

    def _evaluate(self, name: str, world: Conditions, memory: Memory) -> None:
        node = self.nodes[name]
        key = f"?{name}.{getattr(node, 'kind', 'mode')}"
        if isinstance(node, FlightMode):
            before = self.before[name]
            if before:
                free = world.lane.not_(world.flags[before]) & world.flags[f"{before}?"]
            else:
                free = world.lane.full(world.shape, True)
            world.flags[f"{name}?"] = free
            world.flags[name] = free if node.when is None else free & world.flag(node.when)
        elif isinstance(node, Timer):
            reset = None if node.reset is None else world.flag(node.reset)
            kept = memory.before.get(KEPT, {}).get(node.name, 0)
            n = world.counts[name] = counted(world.flag(node.when), reset, memory, name, kept, node.reset or "")
            world.flags[name] = (n * self._frame_s >= node.span_s - EPS) & (node.span_s > 0)
        elif isinstance(node, Gate):
            world.signals[name] = world.lane.where(world.flag(node.when), world.signals[node.source], node.parked)
        elif isinstance(node, Counter):
            world.counts[name] = counter(world.flag(node.of), node.count, memory, key)
            world.flags[name] = world.counts[name] > 0
        elif isinstance(node, Latch):
            kind = edge_latch if node.edges else latch
            world.flags[name] = kind(world.flag(node.set), world.flag(node.reset), memory, key)
        elif isinstance(node, Delay):
            world.flags[name] = DELAYS[node.kind](world.flag(node.of), world.t_s, node.seconds, memory, key)
        elif isinstance(node, Combine):
            world.flags[name] = _combined(node, [world.flag(c) for c in node.of], world.lane)
        else:
            world.flags[name] = _compared(node, world.signals, memory, key)

    def _frame_by_frame(self, members: list[str], world: Conditions, memory: Memory) -> None:
        """Latches that read each other: one frame after the other, every latch as it was shown one frame ago."""
        latches = [m for m in members if isinstance(self.nodes[m], Latch)]
        state = dict(memory.before)
        shown = {m: state.get(f"?{m}.shown", False) for m in latches}
        outside = world.only(self._read_by(members))
        pending = False
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
            pending, memory.ticking = piece.pending, memory.ticking | piece.ticking
        memory.pending |= pending
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
                self._evaluate(m, latched, memory)
                now[m] = latched.flags[m]
            else:
                self._evaluate(m, frame, memory)
        frame.flags.update(now)

    def _read_by(self, members: list[str]) -> set[str]:
        names = {d for m in members for d in self._inputs(m)}
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


def _combined(node: Combine, inputs: list[Flag], lane: Lane) -> Flag:
    if node.kind == "not":
        return lane.not_(inputs[0])
    if node.kind == "one":
        return sum(lane.where(x, 1, 0) for x in inputs) == 1
    out = inputs[0]
    for x in inputs[1:]:
        out = out & x if node.kind == "all" else out | x
    return out


def _compared(node: Compare, signals: dict[str, Signal], memory: Memory, key: str) -> Flag:
    a, h = signals[node.a], node.hysteresis
    if node.kind == "within":
        high = node.x if node.y is None else node.y
        inside = (a >= node.x) & (a <= high)
        return inside if h == 0 else latch(inside, (a < node.x - h) | (a > high + h), memory, key)
    if node.kind == "below":
        return above(-a, -node.x, h, memory, key)
    if node.kind == "beyond":
        a = memory.lane.abs(a)
    elif node.kind == "difference":
        a = a - signals[node.b or node.a]
    return above(a, node.x, h, memory, key)
