# SPDX-License-Identifier: GPL-3.0-or-later
"""S8: a fade or a slow passes through nothing worse than both its ends."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from functools import partial

import numpy as np

from hypsos.core.base.backends import Array, of_each
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Statement, SurfaceQuestion
from hypsos.core.review.rules.steering import SHARE
from hypsos.core.review.search.influence import knobs_of
from hypsos.core.review.search.model_slice import ModelSlice
from hypsos.core.review.search.motion_looks import (
    MotionLooks,
    MovedControl,
    Stands,
    come_to_rest,
    hands_situation,
)
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases
from hypsos.core.review.search.replay import Played, Replay
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.search.surface_search import SurfaceSearch
from hypsos.core.wording.words import control_label

COARSE_S, LOOKS, MOST_LOOKS = 0.1, 5, 400
"""At the most from one look to the next while something fades; how often at the least the quickest
that takes time is looked at on its way; and how many looks there are at the most."""
MOST_TOLD = 6


def _over_time(
    moved: tuple[Stands, Stands], still: tuple[Stands, Stands], shares: Mapping[str, float]
) -> Array:
    """What a stick makes of some leads together, for each case before an act and in each frame
    after it: the sum of the shares of what they stand elsewhere for. ``moved`` and ``still``: where
    they stand before and after, with the stick moved and without."""
    before = sum(share * (moved[0][n] - still[0][n]) for n, share in shares.items())
    after = sum(share * (moved[1][n] - still[1][n]) for n, share in shares.items())
    return np.concatenate([before, after], axis=1)


class Passages:
    """What is left of a command half way through a fade or a slow."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model, self.looks = search, search.model, MotionLooks(search)

    @property
    def reachable(self) -> ReachableCases:
        """What decides for the surfaces at hand."""
        return self.search.reachable

    def passages(self, command: str) -> Iterator[Finding]:
        """A command that is less half way through a fade or a slow than at both its ends."""
        ways = self.search.ways(command)
        sampler = self.reachable.sampler(ways, in_time=True) if ways else None
        if sampler is not None and _times(sampler):
            wanted = max(
                sampler.model_slice.model.program.frame_s,
                min(COARSE_S, min(_times(sampler)) / LOOKS),
            )
            step = max(wanted, Replay(sampler.model_slice.model).settle_s / MOST_LOOKS)
            # what passes from one look to the next is not seen
            self.search.count("S8", 0, step == wanted)
            yield from self._passages(
                command, self.search.steered[command], ways, _coarse(sampler, step), step
            )

    def _passages(
        self, command: str, stick: str, ways: Mapping[str, int], sampler: CaseSampler, step: float
    ) -> Iterator[Finding]:
        search, sense = self.search, -1.0 if command == "pitch" else 1.0
        frames = int(np.ceil(Replay(sampler.model_slice.model).settle_s / step) + 3)
        names = {n: search.leads[n].name for n in ways}
        found: dict[str, tuple[float, MovedControl, int, float, float]] = {}
        acts, values = list(self.looks.switched(sampler)), (-100.0, 0.0, 100.0)
        if not held_back(sampler.model_slice.model, stick):
            acts = self._cut_off(sampler, acts, [{stick: v} for v in values])
        every = self.looks.before_and_after(
            sampler, acts, frames, [{stick: v} for v in values], step
        )
        for act, seen in zip(acts, every, strict=True):
            looks = dict(zip(values, seen, strict=True))
            search.count("S8", 3 * len(act.cases) * frames)
            for end in (-100.0, 100.0):
                sign = float(sense * np.sign(end))
                shares = {names[name]: sign * way / len(ways) for name, way in ways.items()}
                got = _over_time(looks[end], looks[0.0], shares)
                # what the stick does before the act and once it has ended, and the least between
                ends = np.minimum(got[:, 0], got[:, -1])
                worst = got.min(axis=1)
                less = ends - worst
                i = int(np.argmax(less))
                more = act.control not in found or less[i] > found[act.control][0] + 1e-9
                if less[i] > 100.0 * SHARE * 0.5 and worst[i] < 0.6 * ends[i] and more:
                    share = float(worst[i] / max(ends[i], 1e-9))
                    found[act.control] = (float(less[i]), act, i, end, share)
        for control, (_, act, i, end, share) in sorted(found.items())[:MOST_TOLD]:
            yield self._passed(sampler, command, stick, ways, control, act, i, end, share)

    def _cut_off(
        self,
        sampler: CaseSampler,
        acts: Sequence[MovedControl],
        hands: Sequence[Mapping[str, float]],
    ) -> list[MovedControl]:
        """The acts with a surface at its limit at either end. Where nothing holds a command back, a
        fade leads straight from one end to the other: only what is cut off there can make less of
        it on the way."""
        if not acts:
            return []
        # each act with each way shared values may stand, at both of its ends
        looks = [
            (act, held, place)
            for act, held in itertools.product(acts, hands)
            for place in (act.start, act.to)
        ]
        cases = np.concatenate([act.cases for act, _, _ in looks])
        at = {n: v.copy() for n, v in self.reachable.hands_at(cases).items()}
        names = {act.control for act in acts}
        names.update(itertools.chain.from_iterable(hands))
        for name in names - at.keys():
            at[name] = np.full(len(cases), sampler.plan.rest.get(name, 0.0))
        row = 0
        for act, held, place in looks:
            here = slice(row, row + len(act.cases))
            row = here.stop
            for name, value in (*held.items(), (act.control, place)):
                at[name][here] = value
        memory = self.reachable.encoding.memory(self.reachable.memory[cases])
        outputs = come_to_rest(sampler, hands_situation(np.zeros(1), at), memory).outputs.values()
        cut = np.zeros(len(cases), bool)
        for x in outputs:
            cut |= of_each(x.at_stop | (x.cut != 0), len(cases))
        self.search.count("S8", len(cases))
        rows = [2 * len(hands) * len(act.cases) for act in acts]
        of_acts = np.split(cut, np.cumsum(rows)[:-1])
        return [act for act, mine in zip(acts, of_acts, strict=True) if mine.any()]

    def _passed(
        self,
        sampler: CaseSampler,
        command: str,
        stick: str,
        ways: Mapping[str, int],
        control: str,
        act: MovedControl,
        i: int,
        end: float,
        share: float,
    ) -> Finding:
        search, sense = self.search, -1.0 if command == "pitch" else 1.0
        names = self.model.transmitter.control(control)
        to = names.positions[int(act.to)] if names is not None else number(act.to)
        left = "none of it" if share <= 1e-6 else f"{number(100 * share)} % of it"
        text = (
            f"On the way to {to} ({control_label(self.model, control)}) {command} passes through less than at both ends: "
            f"{left} is left."
        )
        way = [
            *self.reachable.way(int(act.cases[i]), sampler, {control: act.start}),
            SearchStep(stick, end),
            SearchStep(control, act.to),
        ]
        sign = sense * (1.0 if end > 0 else -1.0)

        def check(played: Played) -> bool:
            other = search.stage.again(played, (stick,))
            got = sum(
                w * (search.stand(played, n) - search.stand(other, n)) for n, w in ways.items()
            )
            got = sign * np.asarray(got) / len(ways)
            at = max(0, played.last - 1)
            ends = min(got[at], got[-1])
            return bool(ends - got[at:].min() > 100.0 * SHARE * 0.5)

        part = self._slowest(sampler, ways)
        return search.finding("S8", "fault", part, text, way, check, tuple(ways))

    def _slowest(self, sampler: CaseSampler, ways: Mapping[str, int]) -> str:
        """The place of the slow or the fade that takes longest."""
        best, found = 0.0, "program.modes"
        for line, path in zip(
            sampler.model_slice.model.program.mixes, sampler.model_slice.paths, strict=True
        ):
            if line.target in ways and max(line.in_s, line.out_s) > best:
                best, found = max(line.in_s, line.out_s), path
        for i, mode in enumerate(self.model.program.modes):
            if mode.fade_s > best:
                best, found = mode.fade_s, f"program.modes[{i}].fade_s"
        return found


def held_back(model: Model, stick: str) -> bool:
    """Whether anything slow is between a stick and the surfaces."""
    if any(x.slow_up_s or x.slow_down_s for x in model.leads):
        return True
    slow = [x for x in model.program.mixes if x.in_s or x.out_s]
    # what scales or replaces holds the rest back
    return any(x.combine != "add" or stick in knobs_of(model, x) for x in slow)


def _times(sampler: CaseSampler) -> list[float]:
    """How long everything takes that takes time."""
    program = sampler.model_slice.model.program
    found = [mode.fade_s for mode in program.modes]
    for line in program.mixes:
        found += [line.in_s, line.out_s]
    for lead in sampler.model_slice.model.leads:
        found += [lead.slow_up_s, lead.slow_down_s]
    return [seconds for seconds in found if seconds]


def _coarse(sampler: CaseSampler, step: float) -> CaseSampler:
    """The same with longer frames."""
    from hypsos.core.engine import compile_plan

    program = sampler.model_slice.model.program.changed({"frame_s": step})
    model_slice = ModelSlice(
        sampler.model_slice.model.changed({"program": program}),
        sampler.model_slice.paths,
        sampler.model_slice.free,
    )
    return CaseSampler(model_slice, sampler.grid, compile_plan(model_slice.model))


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Each command on its way."""
    passing = Passages(search)
    for command in search.steered:
        ways = tuple(search.ways(command))
        if ways:
            yield SurfaceQuestion(
                f"{command} on the way", partial(passing.passages, command), ways, in_time=True
            )


STATEMENT = Statement(
    "S8", "A fade or a slow passes through nothing worse than both its ends.", "fault", "surfaces", surfaces=of_surfaces,
)  # fmt: skip
