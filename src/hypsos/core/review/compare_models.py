# SPDX-License-Identifier: GPL-3.0-or-later
"""Two models over the same grid of inputs: whether they answer alike everywhere, and where not.

Both are brought, by the same acts of the same hands, into every situation that either of them tells
apart. There their parts are looked at with the hands wherever they can be. *No difference* is
therefore shown, not sampled."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.base.memory import Memory
from hypsos.core.conditions.condition_base import NEAR
from hypsos.core.document.document import Model
from hypsos.core.engine import Situation
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.review.compare_states import others
from hypsos.core.review.findings import FindingMove, Progress
from hypsos.core.review.search.influence import bent, blocks_of, crooked
from hypsos.core.review.search.input_grid import InputGrid, Knob, grid_of
from hypsos.core.review.search.reachable_cases import (
    CaseSampler,
    ReachableCases,
    SampledCases,
    coded,
    decided,
)
from hypsos.core.review.search.replay import Played, Replay, captions, proved
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.state_encoding import StateEncoding
from hypsos.core.review.search.state_search import PIECE, SearchStep, StateSearch
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import Part, side_percent, standing

BETWEEN = 3
"""Places between one bend of a response and the next, where an expo or a smooth curve is told from
another."""
FINELY = 33
LEAST = 0.05
"""Percent of full deflection by which two models may answer differently and still answer alike."""


class Difference(NamedTuple):
    """A part that answers differently: by how much at the most, where it stands in each then, in
    which flight modes, and the moves that show it."""

    part: str
    label: str
    most: float
    first: str
    second: str
    modes: tuple[str, ...]
    where: str
    moves: tuple[FindingMove, ...]
    captions: tuple[str, ...]
    confirmed: bool


@dataclass(frozen=True)
class Comparison:
    """What two models do differently. ``others``: what differs beside where parts stand, in
    sentences. ``proved``: everything was searched."""

    first: str
    second: str
    differences: tuple[Difference, ...]
    others: tuple[str, ...]
    situations: int
    proved: bool

    @property
    def same(self) -> bool:
        """No difference anywhere."""
        return not self.differences and not self.others


class _Both:
    """Two encodings of memories as one: a number stands for a pair."""

    def __init__(self, one: StateEncoding, two: StateEncoding) -> None:
        self.sides = (one, two)
        self.pairs: Places = np.zeros((1, 2), np.intp)
        self._known: dict[tuple[int, int], int] = {(0, 0): 0}

    def __len__(self) -> int:
        return len(self.pairs)

    def numbers(self, one: Places, two: Places) -> Places:
        """The numbers of pairs of memories."""
        code = one.astype(np.int64) * (int(two.max(initial=0)) + 1) + two
        _, first, inverse = np.unique(code, return_index=True, return_inverse=True)
        found = np.empty(len(first), np.intp)
        fresh: list[tuple[int, int]] = []
        for j, i in enumerate(first.tolist()):
            key = (int(one[i]), int(two[i]))
            at = self._known.get(key)
            if at is None:
                at = self._known[key] = len(self.pairs) + len(fresh)
                fresh.append(key)
            found[j] = at
        if fresh:
            self.pairs = np.concatenate([self.pairs, np.array(fresh, np.intp)])
        return np.asarray(found[inverse.ravel()], np.intp)

    def young(self) -> dict[str, Flags]:
        """What waits in either; what waits equally long in both is one thing."""
        out: dict[str, Flags] = {}
        for side, encoding in enumerate(self.sides):
            for key, flags in encoding.young().items():
                mine = flags[self.pairs[:, side]]
                name = self._named(side, key)
                out[name] = out.get(name, np.zeros(len(self.pairs), bool)) | mine
        return out

    def _named(self, side: int, key: str) -> str:
        other = self.sides[1 - side].timed
        return key if other.get(key) == self.sides[side].timed[key] else f"{side}/{key}"

    def aged(self, numbers: Places, keys: tuple[str, ...]) -> Places:
        """The pairs in which the time of these has passed."""
        out = []
        for side, encoding in enumerate(self.sides):
            rows = self.pairs[numbers, side]
            young = encoding.young()
            for key, flags in young.items():
                if self._named(side, key) in keys:
                    here = flags[rows]
                    rows = rows.copy()
                    if here.any():
                        rows[here] = encoding.aged(rows[here], (key,))
            out.append(rows)
        return self.numbers(out[0], out[1])


class _JointReach(StateSearch):
    """The situations of two models at once."""

    def __init__(
        self,
        one: ReachableCases,
        two: ReachableCases,
        grid: InputGrid,
        most: int,
        stopped: Callable[[], bool],
        told: Progress,
    ) -> None:
        self.both = (one, two)
        self._told = told
        super().__init__(one.model_slice, grid, one.watched, None, most, stopped)
        from hypsos.core.engine import compile_plan

        self.plans = (self.plan, compile_plan(two.model_slice.model))
        from hypsos.core.review.search.model_slice import timed

        waiting = dict(timed(two.model_slice.model))
        self.encoding = _Both(self.encoding, StateEncoding(waiting))
        self.waits = {key: x.seconds for key, x in waiting.items()} | self.waits

    def _layer(self, layer: Places) -> Places:
        self._told(0.0, f"what the hands can bring about, {self.situations:,} situations so far")
        return super()._layer(layer)

    def _piece(self, memory: Places, hands: Places, first: bool) -> None:
        count = len(hands)
        values = {n: v[:, None] for n, v in self.grid.values(hands).items()}
        world = {
            n: np.broadcast_to(values.pop(n, np.float64(r)), (count, 1)) for n, r in AROUND.items()
        }
        tables, after = [], []
        pairs = self.encoding.pairs[memory]
        for side, plan in enumerate(self.plans):
            encoding = self.encoding.sides[side]
            own = {n: v for n, v in values.items() if n in plan.rest}
            held: Memory | None = None if first else encoding.memory(pairs[:, side])
            result = plan.run(Situation.of(np.zeros(1), own | world), held)
            after.append(encoding.taken(result.memory, count))
            tables.append(
                np.broadcast_to(self.both[side].watched(result), (count, self.both[side].width))
            )
        self.keep(memory, hands, self.encoding.numbers(*after), np.concatenate(tables, axis=1))


def _straight(sampler: CaseSampler, name: str) -> bool:
    """Whether what comes to a part bends only where it is looked at."""
    model = sampler.model_slice.model
    return sampler.grid.whole and not bent(model, name) and not crooked(model, name)


class Comparing:
    """The comparison of two models."""

    def __init__(
        self,
        first: Model,
        second: Model,
        most: int = 4_000_000,
        stopped: Callable[[], bool] = lambda: False,
        told: Progress = lambda _share, _what: None,
    ) -> None:
        self.models = (first, second)
        mine = {lead.target: lead for lead in first.leads}
        theirs = {lead.target: lead for lead in second.leads}
        self.leads = (mine, theirs)
        both = mine.keys() & theirs.keys()
        self.parts: dict[str, Part] = {p.name: p for p in first.airframe.moved() if p.name in both}
        parts = tuple(self.parts)
        self.sides = (
            ReachableCases.unsearched(first, parts),
            ReachableCases.unsearched(second, parts),
        )
        self.grid = _joined(*(grid_of(s.model_slice, bends=False, ends=False) for s in self.sides))
        self.reach = _JointReach(*self.sides, self.grid, most, stopped, told).run()
        self._stopped, self._progress = stopped, told
        if len(self.reach.seen):  # else it was stopped before the first situation
            self._take()
        self._straight = True
        """Whether everything bends where it was looked at."""

    def _take(self) -> None:
        """Both sides' cases from what was reached together."""
        reach = self.reach
        nodes = reach.nodes_at(np.arange(len(reach.seen)))
        still = (nodes >= 0) & (reach.result_of(reach.of_memory, reach.of_hands) == reach.of_memory)
        rows = np.flatnonzero(still)
        rows = rows[np.argsort(nodes[rows], kind="stable")]
        pairs = reach.encoding.pairs[reach.of_memory[rows]]
        start = 0
        for side, reachable in enumerate(self.sides):
            seen = reach.seen[rows, start : start + reachable.width].astype(np.intp)
            start += reachable.width
            reachable.takes(
                reach,
                reach.encoding.sides[side],
                self.grid,
                nodes[rows],
                pairs[:, side],
                reach.of_hands[rows],
                seen,
            )

    def run(self) -> Comparison:
        """Compare every part, and what else differs."""
        found: list[Difference] = []
        situations, asked_all = self.reach.situations, True
        for k, (name, part) in enumerate(self.parts.items()):
            if not len(self.reach.seen) or self._stopped():
                asked_all = False
                break
            self._progress(k / len(self.parts), f"part {k + 1} of {len(self.parts)}, {part.label}")
            tried, difference = self._part(name)
            situations += tried
            if difference is not None:
                found.append(difference)
        found.sort(key=lambda d: -d.most)
        first, second = self.models
        return Comparison(
            first.name,
            second.name,
            tuple(found),
            tuple(others(first, second)),
            situations,
            self.reach.complete and self._straight and asked_all,
        )

    def _part(self, name: str) -> tuple[int, Difference | None]:
        """How many situations of a part were looked at, and where it differs most, if it does."""
        one = self.sides[0]
        samplers = tuple(s.sampler((name,), between=BETWEEN) for s in self.sides)
        self._straight &= all(_straight(sampler, name) for sampler in samplers)
        grid = _joined(samplers[0].grid, samplers[1].grid)
        joint = tuple(CaseSampler(e.model_slice, grid, e.plan) for e in samplers)
        if not len(one.nodes):
            return 0, None
        # controls that act on each other in one of the two models stay together in both
        sets: list[frozenset[str]] = []
        for sampler in samplers:
            sets += blocks_of(sampler.model_slice.model, name)
        cases, beside = self._cases(joint), (self.sides[1], joint[1])
        apart = SeparableInputs(one, joint[0], (name,), cases, more=sets, beside=beside)
        owners = apart.owners
        looks = self._looks(joint, owners, grid.values(apart.numbers))
        stands = [look.stand(self.leads[i][name].name) for i, look in enumerate(looks)]
        sums = [look.sum(name) for look in looks]
        most = self._most(stands, sums, apart)
        if most is None:
            return len(owners), None
        case, number_ = most
        at = np.array([case], np.intp)
        own = {n: float(v[0]) for n, v in grid.values(np.array([number_], np.intp)).items()}
        # between the places of the grid it may be more still: one control after the other
        for knob in grid.knobs:
            own = self._further(name, joint, at, own, knob)
        hands = {n: np.array([v]) for n, v in own.items()}
        ends = [float(x[0]) for x in self._stands(name, joint, at, hands)]
        if abs(ends[0] - ends[1]) <= LEAST:
            return len(owners), None
        differ = np.unique(owners[self._apart(stands) | self._apart(sums)])
        return len(owners), self._told(name, joint[0], case, own, ends, differ)

    def _cases(self, joint: tuple[CaseSampler, ...]) -> Places:
        """One case of each sort that decides in either model."""
        columns: list[Places] = []
        for side, sampler in zip(self.sides, joint, strict=True):
            columns += side.deciders(sampler)
        if not columns:
            return np.zeros(1, np.intp)
        return np.sort(np.unique(coded(columns), return_index=True)[1])

    def _apart(self, values: Sequence[Array]) -> Flags:
        return np.asarray(np.abs(values[0] - values[1]) > LEAST)

    def _looks(
        self, joint: Sequence[CaseSampler], cases: Places, hands: Mapping[str, Array]
    ) -> list[SampledCases]:
        """Both models in the same cases with the same hands."""
        looks = []
        for side, sampler in zip(self.sides, joint, strict=True):
            # a control that only the other model has is nothing to this one
            own = {name: places for name, places in hands.items() if name in sampler.plan.rest}
            looks.append(side.look(sampler, cases, own))
        return looks

    def _stands(
        self, name: str, joint: Sequence[CaseSampler], case: Places, hands: Mapping[str, Array]
    ) -> list[Array]:
        looks = self._looks(joint, case.repeat(len(next(iter(hands.values()), case))), hands)
        return [k.stand(self.leads[i][name].name) for i, k in enumerate(looks)]

    def _further(
        self,
        name: str,
        joint: Sequence[CaseSampler],
        case: Places,
        own: dict[str, float],
        knob: Knob,
    ) -> dict[str, float]:
        """The hands with a control where both parts stand furthest apart between its places next to
        this one, as far as no condition hangs on it."""
        control = self.models[0].transmitter.control(knob.name)
        reachable = any(knob.name in s.shared(e) for s, e in zip(self.sides, joint, strict=True))
        if reachable or len(knob.values) < 3 or (control is not None and control.is_switch):
            return own
        at = int(np.argmin(np.abs(np.array(knob.values) - own[knob.name])))
        near = np.linspace(
            knob.values[max(0, at - 1)], knob.values[min(at + 1, len(knob.values) - 1)], FINELY
        )
        near = np.append(near, own[knob.name])
        hands = {n: np.full(len(near), v) for n, v in own.items()} | {knob.name: near}
        one, two = self._stands(name, joint, case, hands)
        gap = np.abs(one - two)
        best = int(np.argmax(gap))
        return own | {knob.name: float(near[best])} if gap[best] > gap[-1] + 1e-6 else own

    def _most(
        self, stands: Sequence[Array], sums: Sequence[Array], apart: SeparableInputs
    ) -> tuple[int, int] | None:
        """The case and the hands at which two parts stand furthest apart: by what each part of the
        hands adds to that."""
        gap = stands[0] - stands[1]
        at = int(np.argmax(np.abs(gap)))
        best = (abs(float(gap[at])), int(apart.owners[at]), int(apart.numbers[at]))
        for side, far, case, combination in apart.furthest(sums[0] - sums[1]):
            if side * far > best[0] + 1e-9:
                best = (side * far, case, combination)
        return (best[1], best[2]) if best[0] > LEAST else None

    def _stand_words(self, name: str, ends: Sequence[float]) -> list[str]:
        """Where a part stands in each model: as a ruler shows it, or in percent where a ruler shows
        no difference."""
        part = self.parts[name]
        if isinstance(part, Motor):
            return [_power(power_percent(stand)) for stand in ends]
        shares = [side_percent(part, stand, 1) for stand in ends]
        if not isinstance(part, Surface):
            return shares
        ruled = []
        for model, leads, stand in zip(self.models, self.leads, ends, strict=True):
            deg, mm = Replay(model).plan.angles(model.leads.index(leads[name]), stand)
            ruled.append(standing(part, stand, deg, mm))
        return ruled if ruled[0] != ruled[1] else shares

    def _told(
        self,
        name: str,
        sampler: CaseSampler,
        case: int,
        hands: Mapping[str, float],
        ends: Sequence[float],
        differ: Places,
    ) -> Difference:
        part, first = self.parts[name], self.models[0]
        modes = self.sides[0].model_slice.model.program.modes
        flown: list[int] = []
        if modes and len(differ):
            flown = sorted({int(i) for i in self.sides[0].columns["modes"][differ]})
        way, most = self.sides[0].way(case, sampler, hands), abs(ends[0] - ends[1])
        other = Replay(self.models[1])

        def stood(played: Played) -> tuple[float, float]:
            results = played.result, other.again(played).result
            x, y = (
                np.ravel(r.outputs[self.leads[k][name].name].stand)[-1]
                for k, r in enumerate(results)
            )
            return float(x), float(y)

        def check(played: Played) -> bool:
            x, y = stood(played)
            return bool(abs(x - y) > 0.9 * abs(ends[0] - ends[1]))

        # the way was found on both models together: what the first one does not have is left out
        known = {*Replay(first).plan.rest, "link", "power"}
        steps = [s for s in way if not s.control or s.control in known]
        proof = proved(Replay(first), steps, check) if not isinstance(part, Motor) else None
        moves = proof.moves if proof is not None else Replay(first).moves(steps, 0.1)[0]
        said = captions(first, moves)
        if proof is not None and proof.confirmed:
            # as the bench shows it, with the trims of the flight mode
            ends = stood(Replay(first).play(moves, proof.look_s))
        here, there = self._stand_words(name, ends)
        return Difference(
            name,
            part.label,
            most,
            here,
            there,
            tuple(mode_label(first, modes[i].name) for i in flown),
            ", ".join(said) or "everything at rest",
            moves,
            said,
            proof.confirmed if proof is not None else True,
        )


def _power(percent: float) -> str:
    """A motor's power in words; a pulse on the far side of idle is told apart from idle."""
    if percent < -LEAST:
        return f"{number(-percent)} % below idle"
    return "stopped" if percent < LEAST else f"{number(percent)} % power"


def _joined(one: InputGrid, two: InputGrid) -> InputGrid:
    """The controls of both with the values of both, and one between any two of them: where each
    tells apart at a level of its own, what lies between the two levels is a place, too. Trim levers
    stay where each model has its trims."""
    found: dict[str, Knob] = {k.name: k for k in one.knobs}
    for k in two.knobs:
        mine = found.get(k.name)
        if mine is None:
            found[k.name] = k
            continue
        values = {*mine.values, *k.values}
        if not k.steps and mine.values != k.values and k.name not in ("link", "power"):
            edges = sorted(values)
            values |= {(a + b) / 2 for a, b in pairwise(edges) if b - a > 2 * NEAR}
        told = tuple(sorted(values))
        found[k.name] = Knob(
            k.name, told, told.index(mine.values[mine.rest]), mine.steps or k.steps
        )
    kept = (n for n in sorted(found) if not n.endswith("_trim"))
    return InputGrid(tuple(found[n] for n in kept), one.whole and two.whole)


def compared(
    first: Model,
    second: Model,
    stopped: Callable[[], bool] = lambda: False,
    told: Progress = lambda _share, _what: None,
) -> Comparison:
    """What two models do differently, over everything the hands can do. Raises HypsosError where
    they share no part.

    ``told`` hears how far it is: a share from 0 to 1 of the parts, and what is looked at.
    """
    if not {x.target for x in first.leads} & {x.target for x in second.leads}:
        raise HypsosError(
            f"{first.name} and {second.name} have no moving part in common",
            "",
            "Compare two that have.",
        )
    return Comparing(first, second, stopped=stopped, told=told).run()


__all__ = ["PIECE", "Comparison", "Difference", "SearchStep", "compared", "decided"]
