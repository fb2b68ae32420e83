# SPDX-License-Identifier: GPL-3.0-or-later
"""Everything a pilot can bring about, act by act from power-up, and the shortest way to each of it.

Sought: every situation that can come about, and to each the fewest acts. A situation is where the
hands are and what the engine remembers.

How: layer by layer. All that one more act leads to is computed from all situations that took
equally many, for many of them at once, in one frame at second 0. What is new is the next layer. So
the first way to a situation is one of the shortest.

What must stay true: two situations with the same hands and the same memory are the same from then
on. So a memory is kept as a row of figures (`state_encoding`), and what would tell two memories
apart must be in it.

Why it is right: the next frame hangs on memory, hands and time alone. Time matters only to what
waits; that has either waited its time or not, and to let it pass is an act like any other (*wait*),
for each of them apart and together. Every order in which delays can end is tried, and perhaps one
that cannot be: what is found is played in real time before it is said.

What it costs: a cell for each pair of a memory and a place of the hands. Where there are more than
fit, or more situations than may be computed, ``complete`` is False and everybody who asks says so.

An example: a button sets a latch, and a switch has two positions. There are two memories and four
places of the hands, so at most eight situations. From power-up *press* leads to the latch set; *let
go* then to the latch set with the button up, two acts away."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation, compile_plan
from hypsos.core.parts.pulses import idle_percent
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.review.findings import MORE_THAN_SEARCHED
from hypsos.core.review.search.input_grid import InputGrid
from hypsos.core.review.search.model_slice import ModelSlice, timed
from hypsos.core.review.search.state_encoding import StateEncoding
from hypsos.core.review.search.timeouts import first_of, orders

LOOSE = "the difference of two controls is searched at some of their places only"
ACTS = 200_000
"""Acts from situations looked at in one go."""
PIECE = 32_768
"""Situations computed in one go."""
MOST_CELLS = 16_000_000
"""Situations that are kept apart at the most: memories times combinations of the hands."""
WAIT, TICK = -1, -2
"""Kinds of act that are none of the hands': time passed until delays ended; a frame passed."""
_WAITS = -3
"""From here downwards an act is the wait for the set of delays at that place of ``_sets``."""
OFF = 0
"""The memory of a receiver without power: nothing is remembered, hands move and nothing is
computed."""


class SearchStep(NamedTuple):
    """One act on the way: a control and its value, or (no control) the wait until these delays have
    ended."""

    control: str
    to: float
    waits: tuple[str, ...] = ()


class Edges(NamedTuple):
    """Acts of one kind from situations: what came of the frame before, what of the frame after.
    ``before`` and ``after`` are places in :attr:`Reach.seen`; ``knob`` the control moved,
    :data:`WAIT` or :data:`TICK`; ``source`` the situation set out from, of a wait or a tick the one
    that it led to; ``to`` the number of the hands afterwards."""

    knob: int
    source: Places
    before: Places
    after: Places
    to: Places


@dataclass
class _Nodes:
    """Situations in the order in which they were found: memory, hands, whence, by which act."""

    memory: Places
    hands: Places
    parent: Places
    act: NDArray[np.int32]


class StateSearch:
    """The situations that can be reached in a slice.

    ``watch`` makes of a result a table with one row per situation: what the questions are asked of.
    ``judge`` sees every act between two situations, in the order in which they are found. ``most``
    situations are computed; when that is not enough, or a situation would not be kept apart,
    ``complete`` is False."""

    def __init__(
        self,
        model_slice: ModelSlice,
        grid: InputGrid,
        watch: Callable[[Result], Array],
        judge: Callable[[Edges], None] | None = None,
        most: int = 4_000_000,
        stopped: Callable[[], bool] = lambda: False,
    ) -> None:
        self.model_slice, self.grid, self._watch, self._judge = model_slice, grid, watch, judge
        self.plan = compile_plan(model_slice.model)
        waiting = dict(timed(model_slice.model))
        self.waits = {key: x.seconds for key, x in waiting.items()}
        self.encoding: Any = StateEncoding(waiting, _forgotten(model_slice.model))
        """What remembers: a encoding of memories, or (where two models are searched at once)
        something that is used like one."""
        self.most, self._stopped = most, stopped
        self.situations = 0
        loose = any(x.relates_signals for x in model_slice.model.program.logic)
        self.partly = LOOSE if loose else ""
        """Why not all of it was searched, where that is so."""
        self.complete = True
        self.seen: Array = np.zeros((0, 0))
        """What ``watch`` made of every frame computed."""
        self.depth = 0
        """How many acts have led to where the search is."""
        self._seen: list[Array] = []
        self._count = 0
        self.of_memory: Places = np.zeros(0, np.intp)
        self.of_hands: Places = np.zeros(0, np.intp)
        self._of: list[tuple[Places, Places]] = []
        self._result = np.full((1, grid.size), -1, np.int32)
        """(memory, hands) -> the number of the memory after a frame."""
        self._place = np.full((1, grid.size), -1, np.int32)
        """(memory, hands) -> the place in ``seen``."""
        self._node = np.full((1, grid.size), -1, np.int32)
        """(memory, hands) -> the situation, where it has been found."""
        none = np.zeros(0, np.intp)
        self.nodes = _Nodes(none, none, none, np.zeros(0, np.int32))
        self._sets: list[tuple[str, ...]] = []
        self._before = first_of(model_slice.model, self.waits)

    # -- computing -------------------------------------------------------------------------------

    def _grown(self) -> bool:
        """Room in the tables for every memory known; False where there is none any more."""
        need = len(self.encoding)
        have = len(self._result)
        if need <= have:
            return True
        if need * self.grid.size > MOST_CELLS:
            return False
        # twice as many each time, so that growing costs no more than computing
        rows = min(max(need, 2 * have), max(need, MOST_CELLS // self.grid.size))
        for name in ("_result", "_place", "_node"):
            old = getattr(self, name)
            new = np.full((rows, self.grid.size), -1, np.int32)
            new[:have] = old
            setattr(self, name, new)
        return True

    def _computed(self, memory: Places, hands: Places) -> bool:
        """Have every frame of these (memory, hands) computed; False where that is too much."""
        if not self._grown():
            return False
        missing = np.flatnonzero(self._result[memory, hands] < 0)
        if not missing.size:
            return True
        # each cell once; those without power apart, for they begin without a memory
        keys = np.unique(memory[missing].astype(np.int64) * self.grid.size + hands[missing])
        rows, cells = keys // self.grid.size, keys % self.grid.size
        first = rows == OFF
        for here in (first, ~first):
            for start in range(0, int(here.sum()), PIECE):
                if self.situations >= self.most or self._stopped():
                    return False
                at = np.flatnonzero(here)[start : start + PIECE]
                self._piece(rows[at], cells[at], bool(first[at[0]]))
                if not self._grown():
                    return False
        return True

    def _piece(self, memory: Places, hands: Places, first: bool) -> None:
        count = len(hands)
        values = {n: v[:, None] for n, v in self.grid.values(hands).items()}
        values |= {
            n: np.broadcast_to(values.get(n, np.float64(r)), (count, 1)) for n, r in AROUND.items()
        }
        situation = Situation.of(np.zeros(1), values)
        result = self.plan.run(situation, None if first else self.encoding.memory(memory))
        seen = self._watch(result)
        after = self.encoding.taken(result.memory, count)
        self.keep(memory, hands, after, np.broadcast_to(seen, (count, seen.shape[-1])))

    def keep(self, memory: Places, hands: Places, after: Places, table: Array) -> None:
        """Keep what was computed: the memories after, and what was seen."""
        self.situations += len(hands)
        start = self._count
        self._count += len(hands)
        self._seen.append(table)
        self._of.append((memory, hands))
        self._result[memory, hands] = after
        self._place[memory, hands] = start + np.arange(len(hands))

    # -- finding ---------------------------------------------------------------------------------

    def run(self) -> StateSearch:
        """Find everything; the shortest ways first."""
        start = np.array([self.grid.at_rest()], np.intp)
        layer = self._added(np.zeros(1, np.intp), start, np.full(1, -1, np.intp), TICK)
        while layer.size and self.complete:
            layer = self._layer(layer)
            self.depth += 1
        self.gather()
        self.partly = self.partly if self.complete else MORE_THAN_SEARCHED
        self.complete = not self.partly
        return self

    def gather(self) -> None:
        """Put together what was seen."""
        self.seen = np.concatenate(self._seen) if self._seen else np.zeros((0, 0))
        if self._of:
            self.of_memory = np.concatenate([m for m, _ in self._of])
            self.of_hands = np.concatenate([h for _, h in self._of])

    def _added(self, memory: Places, hands: Places, parent: Places, act: int | Places) -> Places:
        """The new ones among these situations, by their number; of those that are the same the
        first."""
        if not self._grown():
            self.complete = False
            return np.zeros(0, np.intp)
        keys = memory.astype(np.int64) * self.grid.size + hands
        _, first = np.unique(keys, return_index=True)
        first.sort()
        fresh = first[self._node[memory[first], hands[first]] < 0]
        count = len(self.nodes.memory)
        made = count + np.arange(len(fresh))
        self._node[memory[fresh], hands[fresh]] = made
        own = self.nodes
        self.nodes = _Nodes(
            np.concatenate([own.memory, memory[fresh]]),
            np.concatenate([own.hands, hands[fresh]]),
            np.concatenate([own.parent, parent[fresh]]),
            np.concatenate([own.act, np.broadcast_to(act, len(memory))[fresh].astype(np.int32)]),
        )
        return made

    def _layer(self, layer: Places) -> Places:
        """All that one more act leads to, from situations that took equally many."""
        whole = [layer]
        open_ = layer
        while open_.size:  # what comes by itself in the frames after an act
            memory, hands = self.nodes.memory[open_], self.nodes.hands[open_]
            if not self._computed(memory, hands):
                self.complete = False
                return np.zeros(0, np.intp)
            then = self._result[memory, hands].astype(np.intp)
            known = len(self.nodes.memory)
            moved = then != memory
            # a frame in which nothing moves may still change what is remembered: until it comes
            # to rest these are situations of the same layer
            self._added(then[moved], hands[moved], open_[moved], TICK)
            open_ = np.arange(known, len(self.nodes.memory))
            whole.append(open_)
        nodes = np.concatenate(whole)
        self._ticks(nodes)
        found = []
        for acts in _together(self.grid.acts(self.nodes.hands[nodes])):
            found.append(self._acted(nodes, acts))
            if not self.complete:
                return np.concatenate(found)
        found += self._waited(nodes)
        return np.concatenate(found) if found else np.zeros(0, np.intp)

    def _acted(self, nodes: Places, acts: Sequence[tuple[int, Places, Places]]) -> Places:
        """What some acts of the hands lead to, judged."""
        on = self.nodes.memory[nodes] != OFF
        # the frames without power need no engine: told apart, so that they are not computed
        parts = []
        for knob, rows, goes_to in acts:
            powered = on[rows]
            parts.append((knob, rows[~powered], goes_to[~powered]))
            parts.append((knob, rows[powered], goes_to[powered]))
        here = np.concatenate([rows for _, rows, _ in parts])
        to = np.concatenate([goes_to for _, _, goes_to in parts])
        knobs = np.repeat([knob for knob, _, _ in parts], [len(rows) for _, rows, _ in parts])
        source = nodes[here]
        memory, power = self.nodes.memory[source], on[here]
        if not self._computed(memory[power], to[power]):
            self.complete = False
            # what was computed before it became too much
            known = ~power | (self._result[memory, to] >= 0)
            source, memory, to = source[known], memory[known], to[known]
            knobs, power = knobs[known], power[known]
        then = np.where(power, self._result[memory, to], memory).astype(np.intp)
        if self._judge is not None:
            for knob in dict.fromkeys(k for k, _, _ in acts):
                mine = np.flatnonzero(power & (knobs == knob))
                if mine.size:
                    at, whence = to[mine], source[mine]
                    before = self._place[memory[mine], self.nodes.hands[whence]].astype(np.intp)
                    after = self._place[memory[mine], at].astype(np.intp)
                    self._judge(Edges(knob, whence, before, after, at))
        return self._added(then, to, source, knobs)

    def _ticks(self, nodes: Places) -> None:
        """What comes by itself, judged: from what was seen as a situation began to what is seen in
        the frames after."""
        if self._judge is None:
            return
        memory, hands = self.nodes.memory[nodes], self.nodes.hands[nodes]
        parent = self.nodes.parent[nodes]
        had_power = self.nodes.memory[np.maximum(parent, 0)] != OFF
        here = np.flatnonzero((memory != OFF) & (parent >= 0) & had_power)
        here = here[self.nodes.act[nodes[here]] < 0]
        if not here.size:
            return
        for act in (TICK, WAIT):
            mine = here[(self.nodes.act[nodes[here]] == TICK) == (act == TICK)]
            if mine.size:
                before = self._place[
                    self.nodes.memory[parent[mine]], self.nodes.hands[parent[mine]]
                ].astype(np.intp)
                after = self._place[memory[mine], hands[mine]].astype(np.intp)
                # the wait belongs to the way, so the edge sets out from where it led
                self._judge(Edges(act, nodes[mine], before, after, hands[mine]))

    def _waited(self, nodes: Places) -> Iterator[Places]:
        """Situations in which delays have ended since."""
        memory, hands = self.nodes.memory[nodes], self.nodes.hands[nodes]
        young = {k: flags[memory] for k, flags in self.encoding.young().items()}
        young = {k: x for k, x in young.items() if x.any()}
        if not young or not self.complete:
            return
        bits = np.zeros(len(nodes), np.int64)
        names = list(young)
        for b, key in enumerate(names):
            bits |= young[key].astype(np.int64) << b
        # all situations in which the same delays are under way go together
        for pattern in np.unique(bits[bits > 0]).tolist():
            here = np.flatnonzero(bits == pattern)
            mine = [k for b, k in enumerate(names) if pattern >> b & 1]
            for keys in orders(mine, self._before):
                if self._stopped():
                    self.complete = False
                    return
                if keys not in self._sets:
                    self._sets.append(keys)
                act = _WAITS - self._sets.index(keys)
                yield self._added(
                    self.encoding.aged(memory[here], keys), hands[here], nodes[here], act
                )

    # -- telling ---------------------------------------------------------------------------------

    def way(self, node: int) -> tuple[SearchStep, ...]:
        """The acts from power-up that lead to a situation. The first, without a control and without
        a wait, is the power coming on; what stands before it is put so beforehand."""
        out: list[SearchStep] = []
        at = node
        while at >= 0:
            parent, act = int(self.nodes.parent[at]), int(self.nodes.act[at])
            if parent >= 0:
                if act >= 0:
                    out.append(self._step(act, int(self.nodes.hands[at])))
                elif act <= _WAITS:
                    out.append(SearchStep("", 0.0, self._sets[_WAITS - act]))
                elif self.nodes.memory[parent] == OFF and self.nodes.memory[at] != OFF:
                    out.append(SearchStep("", 0.0))
            at = parent
        return tuple(reversed(out))

    def _step(self, knob: int, hands: int) -> SearchStep:
        k = self.grid.knobs[knob]
        return SearchStep(k.name, k.values[(hands // self.grid.strides[knob]) % len(k.values)])

    def step(self, edge: Edges, i: int) -> SearchStep | None:
        """The act of an edge; None where it is none of the hands'."""
        return self._step(edge.knob, int(edge.to[i])) if edge.knob >= 0 else None

    def found(self) -> Flags:
        """Which of the frames seen begin with a situation that can be reached."""
        out: Flags = self._node[self.of_memory, self.of_hands] >= 0
        return out

    def nodes_at(self, seen: Places) -> Places:
        """The situations with whose memory and hands frames seen were computed."""
        return np.asarray(self._node[self.of_memory[seen], self.of_hands[seen]], np.intp)

    def then(self, memory: Places, hands: Places) -> tuple[Places, Places] | None:
        """The memories after one more frame, and the places in ``seen`` of what is seen in it; None
        where that is too much."""
        if not self._computed(memory, hands):
            return None
        return self.result_of(memory, hands), np.asarray(self._place[memory, hands], np.intp)

    def passed(self, memory: Places) -> Places:
        """The memories once everything that waits has waited its time."""
        out = memory.copy()
        for key, flags in self.encoding.young().items():
            here = flags[out]
            if here.any():
                out[here] = self.encoding.aged(out[here], (key,))
        return out

    def result_of(self, memory: Places, hands: Places) -> Places:
        """The memory after a frame from these."""
        return np.asarray(self._result[memory, hands], np.intp)

    def forget(self) -> None:
        """Let the tables go: from here on only ways are told."""
        self._result = self._place = self._node = np.full((1, 1), -1, np.int32)
        self._seen, self._of = [], []
        self.seen, self.of_memory, self.of_hands = (
            np.zeros((0, 0)),
            np.zeros(0, np.intp),
            np.zeros(0, np.intp),
        )

    def hands_seen(self, count: int) -> Places:
        """The number of the hands of everything seen so far."""
        if len(self._of) > 1:
            self._of = [
                (np.concatenate([m for m, _ in self._of]), np.concatenate([h for _, h in self._of]))
            ]
        return self._of[0][1][:count]

    def table(self) -> Array:
        """What was seen so far."""
        if len(self._seen) > 1:
            self._seen = [np.concatenate(self._seen)]
        return self._seen[0]


def _forgotten(model: Model) -> dict[str, float]:
    """What the receiver heard last, where the failsafe does not hold it: taken for idle. A motor
    that comes back with the link is then seen to come back from where the failsafe leaves it."""
    motors = {m.name for m in model.airframe.motors}
    heard = {}
    for lead in model.leads:
        if lead.failsafe is None or lead.failsafe.action != "hold":
            idle = idle_percent(lead, model.transmitter) if lead.target in motors else 0.0
            heard[f"held.{lead.name}"] = idle
    return heard


def _together(
    acts: Iterator[tuple[int, Places, Places]],
) -> Iterator[list[tuple[int, Places, Places]]]:
    """Acts in groups that are computed in one go, as many as there is room for."""
    group: list[tuple[int, Places, Places]] = []
    for act in acts:
        if group and sum(len(to) for _, _, to in group) + len(act[2]) > ACTS:
            yield group
            group = []
        group.append(act)
    if group:
        yield group
