# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches and flight modes, evaluated in dependency order."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from hypsos.core.base.backends import EPS, Backend, Flag, Place, Signal
from hypsos.core.base.memory import KEPT, Memory, counted
from hypsos.core.conditions import LogicSwitch
from hypsos.core.conditions.world import ConditionWorld, Work, reader
from hypsos.core.dependencies.evaluation_order import logic_order
from hypsos.core.document.document import Model
from hypsos.core.parts.announcement_values import Timer
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.guard_states import GuardState

TABLES = ("signals", "flags", "counts")
"""What evaluating a member may write."""


class LogicPlan:
    """The logical switches and modes of a model, ready to be evaluated in their order.

    Raises
    ------
    HypsosError : a circle that does not pass through a latch; it names the members.
    """

    def __init__(self, model: Model) -> None:
        order = logic_order(model)
        self.nodes, self.deps = order.nodes, order.deps
        self.inputs, self.before = order.inputs, order.before
        self.late = order.late
        self.conditions: dict[str, LogicSwitch] = {x.name: x for x in model.program.logic}
        self.breaks_circles = order.breaks_circles
        self._frame_s = model.program.frame_s
        self._giving = {x.name: x for x in model.program.gates()}
        self.shown = [n for n in self.nodes if ":" not in n and n not in self._giving]
        """The members that have a flag of their own."""
        self._work: dict[str, Work] = {name: self._compiled(name) for name in self.nodes}
        # members in three parts, by what they wait for: nothing, the guard, the sums
        at_the_end = [g for g in order.groups if g[0] in order.last]
        before_it = [g for g in order.groups if g[0] not in order.last]
        self.early_groups = [g for g in before_it if g[0] not in order.late]
        """The members known before the guard speaks, in their order; those of a circle together."""
        after = [g for g in before_it if g[0] in order.late]
        self._early, self._after = self._steps(self.early_groups), self._steps(after)
        self._end = self._steps(at_the_end)
        self._gates = [self._gates_in(self.early_groups), self._gates_in(after)]

    def _gates_in(self, groups: Sequence[Sequence[str]]) -> list[str]:
        return [name for name in itertools.chain.from_iterable(groups) if name in self._giving]

    def _steps(self, groups: Iterable[list[str]]) -> list[Work]:
        """The evaluation of each group, in their order."""
        out: list[Work] = []
        for members in groups:
            # a member that reads itself is a circle of one
            alone = len(members) == 1 and members[0] not in self.deps[members[0]]
            out.append(self._work[members[0]] if alone else partial(self._frame_by_frame, members))
        return out

    def run(self, world: ConditionWorld, memory: Memory) -> None:
        """Fill in the flags, counts and gate signals of ``world``, as far as they hang on neither
        guard nor timers."""
        for work in self._early:
            work(world, memory)

    def run_late(self, world: ConditionWorld, guard: Place, memory: Memory) -> None:
        """What hangs on the guard or on a timer, once the guard has spoken."""
        for state in GuardState:
            world.flags[f"guard:{state.name.lower()}"] = guard == state
        for work in self._after:
            work(world, memory)

    def run_last(self, world: ConditionWorld, memory: Memory) -> None:
        """The rest of them, once everything has been summed."""
        for work in self._end:
            work(world, memory)

    def gates(
        self,
        signals: dict[str, Signal],
        flag: Callable[[str], Flag],
        backend: Backend,
        late: bool = False,
    ) -> None:
        """The gates anew in ``signals``, as one mode of a fade sees their conditions: the early
        ones, or the late ones."""
        for name in self._gates[late]:
            signals[name] = self._giving[name].passed(signals, flag, backend)

    def evaluate(self, name: str, world: ConditionWorld, memory: Memory) -> None:
        """Evaluate one member: its flag, count or signal goes into ``world``."""
        self._work[name](world, memory)

    def _compiled(self, name: str) -> Work:
        """The evaluation of one member, with what it reads and its figures at hand."""
        node = self.nodes[name]
        if isinstance(node, FlightMode):
            return _mode(name, node, self.before[name])
        if isinstance(node, Timer):
            return _timer(name, node, self._frame_s)
        return node.work()

    def _frame_by_frame(self, members: list[str], world: ConditionWorld, memory: Memory) -> None:
        """Latches that read each other: one frame after the other, every latch as it was shown one
        frame ago."""
        latches = [m for m in members if m in self.breaks_circles]
        state = dict(memory.before)
        shown = {m: state.get(f"?{m}.shown", False) for m in latches}
        outside = world.only(self._read_by(members))
        pending = ticking = False
        frames: list[ConditionWorld] = []
        # the circle is closed over time: each frame has to know what the latches showed in the
        # one before
        for i in range(world.shape[-1]):
            frame = (outside if world.backend.single else outside.frame(i)).copied()
            piece = Memory(before=state, backend=frame.backend, instant=memory.instant)
            self._one_frame(members, shown, frame, piece)
            frames.append(frame)
            # what this frame remembers is what the next one finds
            state = state | piece.after
            shown = {m: frame.backend.end(frame.flags[m]) for m in latches}
            pending, ticking = piece.pending, piece.ticking  # what holds in the last frame counts
        memory.pending |= pending
        memory.ticking |= ticking
        # only what these members remember goes back: the rest of the state is written by others
        mine = {f"?{m}" for m in members} | {m for m in members if m.startswith("timer:")}
        memory.after |= {k: v for k, v in state.items() if k.split(".")[0] in mine}
        memory.after |= {f"?{m}.shown": v for m, v in shown.items()}
        _take_over(members, frames, world)

    def _one_frame(
        self, members: list[str], shown: Mapping[str, Flag], frame: ConditionWorld, memory: Memory
    ) -> None:
        before = dict(shown)
        if not frame.backend.single:  # time is the last axis there, and this is one frame of it
            before = {member: np.asarray(flag)[..., None] for member, flag in shown.items()}
        frame.flags.update(before)
        now = {}
        for member in members:
            if member in before:
                # a latch, too, sees the other latches of its circle as they were a frame ago
                latched = replace(frame, flags=frame.flags | before)
                self._work[member](latched, memory)
                now[member] = latched.flags[member]
            else:
                self._work[member](frame, memory)
        frame.flags.update(now)

    def _read_by(self, members: list[str]) -> set[str]:
        names: set[str] = set()
        for member in members:
            names.update(self.inputs[member])
        # "name?" says of a mode that none up to it holds; a mode reads it of the one before it
        free = {f"{name}?" for name in names}
        return names | free | {self.before.get(member, "") for member in members}


def _take_over(members: list[str], frames: list[ConditionWorld], world: ConditionWorld) -> None:
    """What single frames know of some members goes into the world of all of them."""
    keys = [*members, *(f"{member}?" for member in members)]
    found: dict[tuple[str, str], list[Signal]] = {}
    for frame in frames:
        for table in TABLES:
            known = getattr(frame, table)
            for key in keys:
                if key in known:
                    found.setdefault((table, key), []).append(known[key])
    for (table, key), values in found.items():
        getattr(world, table)[key] = _joined(values, world)


def _joined(values: list[Signal], world: ConditionWorld) -> Signal:
    if world.backend.single:
        return values[0]
    if len(world.shape) == 1:
        return np.array(values)
    return np.concatenate([np.broadcast_to(v, (*world.shape[:-1], 1)) for v in values], axis=-1)


def _mode(name: str, node: FlightMode, before: str) -> Work:
    """A mode is flown where none before it is and its own condition holds."""
    when, free_before = None if node.when is None else reader(node.when), f"{before}?"
    free_here = f"{name}?"

    def work(world: ConditionWorld, _memory: Memory) -> None:
        free: Flag = world.backend.full(world.shape, True)
        if before:
            # free here: the mode before was free and did not hold
            free = world.backend.not_(world.flags[before]) & world.flags[free_before]
        world.flags[free_here] = free
        world.flags[name] = free if when is None else free & when(world)

    return work


def _timer(name: str, node: Timer, frame_s: float) -> Work:
    when, reset = reader(node.when), None if node.reset is None else reader(node.reset)

    def work(world: ConditionWorld, memory: Memory) -> None:
        anew = None if reset is None else reset(world)
        kept = memory.before.get(KEPT, {}).get(node.name, 0)
        # it counts frames, not seconds: so it is the same whether time comes in one piece or
        # frame by frame
        n = world.counts[name] = counted(when(world), anew, memory, name, kept, node.reset or "")
        world.flags[name] = (n * frame_s >= node.span_s - EPS) & (node.span_s > 0)

    return work
