# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches, flight modes and timers in the order in which they hang on each other."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterator

from hypsos.core.base.cache import kept
from hypsos.core.base.errors import HypsosError
from hypsos.core.conditions import LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.parts.announcement_values import Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.flight_mode import FlightMode

Node = LogicSwitch | FlightMode | Timer


class LogicOrder:
    """The logical switches, modes and timers of a model in an order in which they can be evaluated.

    ``late`` are the timers and all that hangs on one of them (``timed``) or on the state of the
    guard: known once the guard has spoken. ``last`` is what hangs on where signals and surfaces
    stand: known when they have all been summed.

    Members of a circle through a latch are evaluated frame by frame: the others see the latch as it
    was one frame ago.

    Raises
    ------
    HypsosError : a circle that does not pass through a latch; it names the members.
    """

    def __init__(self, model: Model) -> None:
        self.modes = model.program.modes
        self._conditions: dict[str, LogicSwitch] = {x.name: x for x in model.program.logic}
        timers: dict[str, Node] = {f"timer:{x.name}": x for x in model.program.timers}
        modes: dict[str, Node] = {f"mode:{m.name}": m for m in self.modes}
        self.nodes: dict[str, Node] = {**self._conditions, **modes, **timers}
        self.before = dict(zip(modes, ["", *modes], strict=False))
        """Of each mode the one before it in the list; of the first none."""
        self.breaks_circles = frozenset(x.name for x in model.program.logic if x.breaks_circles)
        self.inputs: dict[str, tuple[str, ...]] = {}
        self.deps: dict[str, list[str]] = {}
        for name in self.nodes:
            read = tuple(self._inputs(name))
            self.inputs[name] = read
            self.deps[name] = [key for key in read if key in self.nodes]
        self.groups = list(self._ordered())
        self.timed = self._hanging_on(set(timers))
        self.late = self.timed | self._hanging_on(self._that_ask_the_guard())
        self.last = self._hanging_on(self._that_read(measured_signals(model)))

    def _that_ask_the_guard(self) -> set[str]:
        """The members that ask for the state of the motors themselves."""
        asking = set()
        for member, read in self.inputs.items():
            if any(key.startswith("guard:") for key in read):
                asking.add(member)
        return asking

    def _that_read(self, signals: Collection[str]) -> set[str]:
        """The members that read one of these signals themselves."""
        return {m for m, found in self.inputs.items() if not set(signals).isdisjoint(found)}

    def _hanging_on(self, roots: set[str]) -> frozenset[str]:
        """Members that are these, or hang on them."""
        found = set(roots)
        for members in self.groups if roots else ():
            if any(m in found or not found.isdisjoint(self.inputs[m]) for m in members):
                found |= set(members)
        return frozenset(found)

    def _inputs(self, name: str) -> Iterator[str]:
        if self.before.get(name):
            yield self.before[name]
        if name in self._conditions:
            yield from self._conditions[name].signals()
        for _, text in self.nodes[name].asks():
            yield asked(text).key

    def _ordered(self) -> Iterator[list[str]]:
        for members in components(self.deps):
            if len(members) == 1 and members[0] not in self.deps[members[0]]:
                yield members
                continue
            yield self._circle(members)

    def _circle(self, members: list[str]) -> list[str]:
        """Members that hang on each other: those between the latches in their order, then the
        latches."""
        latches = [m for m in members if m in self.breaks_circles]
        between = [m for m in members if m not in self.breaks_circles]
        # a latch is seen by the others as it was a frame ago, so it makes nobody wait for it
        deps = {member: [key for key in self.deps[member] if key in between] for member in between}
        groups = components(deps)
        closed = any(len(group) > 1 or group[0] in deps[group[0]] for group in groups)
        if closed or not latches:
            named = ", ".join(sorted(members))
            text = f"these logical switches hang on each other in a circle without a latch: {named}"
            raise HypsosError(text, "program.logic", "Break the circle, or put a latch into it.")
        return [*itertools.chain.from_iterable(groups), *latches]


@kept
def logic_order(model: Model) -> LogicOrder:
    """The order of a model's members."""
    return LogicOrder(model)


def measured_signals(model: Model) -> frozenset[str]:
    """The signals, surfaces and devices whose place can be compared, once they have been summed."""
    motors = {m.name for m in model.airframe.motors}
    return frozenset(model.program.signal_labels()) | {
        p.name for p in model.airframe.moved() if p.name not in motors
    }


def components(deps: dict[str, list[str]]) -> list[list[str]]:
    """Strongly connected members, those that others hang on first (Tarjan's algorithm, without
    recursion)."""
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    on: set[str] = set()
    out: list[list[str]] = []
    for root in deps:
        if root in index:
            continue
        work = [(root, iter(deps[root]))]
        index[root] = low[root] = len(index)
        stack.append(root)
        on.add(root)
        while work:
            node, inputs = work[-1]
            for d in inputs:
                if d not in index:
                    index[d] = low[d] = len(index)
                    stack.append(d)
                    on.add(d)
                    work.append((d, iter(deps[d])))
                    break
                if d in on:
                    low[node] = min(low[node], index[d])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[node])
                if low[node] == index[node]:
                    members = []
                    while True:
                        m = stack.pop()
                        on.discard(m)
                        members.append(m)
                        if m == node:
                            break
                    out.append(members)
    return out
