# SPDX-License-Identifier: GPL-3.0-or-later
"""Surfaces as time passes: one control is moved from many cases, and where every part stands before
and after it."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Places
from hypsos.core.base.memory import Memory
from hypsos.core.engine import Result, Situation
from hypsos.core.parts.transmitter import AROUND, STICKS
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases, coded
from hypsos.core.review.search.surface_search import SurfaceSearch

MOST_ACTS = 20_000


Stands = dict[str, Array]
"""Lead -> where its part stands, in percent: (cases, frames)."""


class MovedControl(NamedTuple):
    """One control moved, from many cases: its places before and after."""

    control: str
    start: float
    to: float
    cases: Places


class MotionLooks:
    """The surfaces of a model while something changes."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model = search, search.model

    @property
    def reachable(self) -> ReachableCases:
        """What decides for the surfaces at hand."""
        return self.search.reachable

    def switched(self, sampler: CaseSampler) -> Iterator[MovedControl]:
        """Every switch one position on, with the sticks at rest."""
        cases = self._at_rest(sampler)
        for c in self.model.transmitter.controls:
            reachable = {k.name for k in self.reachable.grid.knobs}
            if not c.is_switch or (
                c.name not in reachable and c.name not in {k.name for k in sampler.grid.knobs}
            ):
                continue
            for p in range(len(c.positions)):
                for to in (p - 1, p + 1):
                    if 0 <= to < len(c.positions):
                        here = cases
                        if c.name in reachable:
                            here = cases[self.reachable.columns[f"place:{c.name}"][cases] == p]
                        if len(here):
                            yield MovedControl(c.name, float(p), float(to), here)

    def _at_rest(self, sampler: CaseSampler) -> Places:
        """Cases with every stick, slider and knob where it rests."""
        cases = np.arange(len(self.reachable.nodes))
        for knob in self.reachable.grid.knobs:
            control = self.model.transmitter.control(knob.name)
            if knob.name in STICKS or (control is not None and not control.is_switch):
                cases = cases[self.reachable.columns[f"place:{knob.name}"][cases] == knob.rest]
        columns = [*self.reachable.deciders(sampler)]
        columns += [x for k, x in self.reachable.columns.items() if k.startswith("place:")]
        if not columns or not len(cases):
            return cases[:1]
        first = np.unique(coded([x[cases] for x in columns]), return_index=True)[1]
        return cases[np.sort(first)][:MOST_ACTS]

    def before_and_after(
        self,
        sampler: CaseSampler,
        acts: Sequence[MovedControl],
        frames: int,
        hands: Sequence[Mapping[str, float]] = ({},),
        frame_s: float | None = None,
    ) -> list[list[tuple[Stands, Stands]]]:
        """Where every lead's part stands before an act, and in so many frames after it: for each
        act, and for each of the ``hands`` that are held besides. All in one run."""
        pairs = list(itertools.product(acts, hands))
        cases = np.concatenate([act.cases for act, _ in pairs]) if pairs else np.zeros(0, np.intp)
        if not len(cases):
            return [[({}, {}) for _ in hands] for _ in acts]
        at, then = self._hands_at(sampler, pairs, cases)
        memory = self.reachable.encoding.memory(self.reachable.memory[cases])
        step = sampler.model_slice.model.program.frame_s if frame_s is None else frame_s
        t = np.asarray(step * np.arange(1, frames + 1), float)
        still = come_to_rest(sampler, hands_situation(np.zeros(1), at), memory)
        moved = sampler.plan.run(hands_situation(t, then), still.memory)
        before = _stands(still, len(cases), 1)
        after = _stands(moved, len(cases), frames)
        found = [(_only(before, rows), _only(after, rows)) for rows in _rows_of(pairs)]
        return [found[i : i + len(hands)] for i in range(0, len(found), len(hands))]

    def _hands_at(
        self,
        sampler: CaseSampler,
        pairs: Sequence[tuple[MovedControl, Mapping[str, float]]],
        cases: Places,
    ) -> tuple[dict[str, Array], dict[str, Array]]:
        """Where every control stands before and after each act, case by case."""
        at = {n: v.copy() for n, v in self.reachable.hands_at(cases).items()}
        names: set[str] = set()
        for act, held in pairs:
            names |= {act.control, *held}
        for name in names - at.keys():
            at[name] = np.full(len(cases), sampler.plan.rest.get(name, 0.0))
        then = {n: v.copy() for n, v in at.items()}
        for (act, held), rows in zip(pairs, _rows_of(pairs), strict=True):
            for name, value in held.items():
                at[name][rows] = then[name][rows] = value
            at[act.control][rows], then[act.control][rows] = act.start, act.to
        return at, then


def _only(stands: Stands, rows: slice) -> Stands:
    return {n: x[rows] for n, x in stands.items()}


def _rows_of(pairs: Sequence[tuple[MovedControl, Mapping[str, float]]]) -> list[slice]:
    """Which rows belong to each pair: as many as its act has cases, one pair after the other."""
    rows, at = [], 0
    for act, _ in pairs:
        rows.append(slice(at, at + len(act.cases)))
        at += len(act.cases)
    return rows


def _stands(result: Result, count: int, frames: int) -> Stands:
    """Where every lead's part stands, for so many cases and frames."""
    return {
        name: np.broadcast_to(trace.stand, (count, frames))
        for name, trace in result.outputs.items()
    }


def hands_situation(t: Array, hands: Mapping[str, Array]) -> Situation:
    """Situations side by side over the same times, each with its hands, one value per control."""
    named = {n: v[:, None] for n, v in hands.items()}
    rows = len(next(iter(named.values())))
    named |= {n: np.broadcast_to(named.get(n, np.float64(r)), (rows, 1)) for n, r in AROUND.items()}
    named.setdefault("rudder_stick", np.zeros((rows, 1)))
    return Situation.of(t, named)


def come_to_rest(sampler: CaseSampler, situation: Situation, memory: Memory) -> Result:
    """A frame in which everything that moves slowly has come to rest, and what waits for a time
    still waits as it did.

    An off-delay or a pulse that runs in a case holds its condition there: taken for run out before
    the act and for running after it, the act would seem to bring what was there all the while."""
    ended = sampler.plan.run(situation, memory, instant=True)
    kept = Memory(after={**ended.memory.after, **memory.after}, many=True)
    return sampler.plan.run(situation, kept)
