# SPDX-License-Identifier: GPL-3.0-or-later
"""Controls that act on sums apart from each other: a sum goes as far as each set of them takes it
by itself.

Sought: how far a sum can go in a case, without trying every place of every control together. Six
controls with five places each would be 15,625 situations; apart they are thirty.

What must stay true: two controls are in one set as soon as they act on each other on the way to the
sum: through a line that scales, a differential, a shared value, a response behind a sum of both, or
degrees that become percent. Then what one adds hangs on where the other stands.

Why it is right: what is left are lines that add. What a set adds to a sum is the same wherever the
others stand, so the most of the sum is what it is at rest, and for each set the most that it can
add.

What it costs: the places of the largest set, instead of the product of all. Of a set with very many
only some are looked at, and ``whole`` is False.

An example: left flap = flap position (a switch) + camber (a slider) + 20 % of roll. Three sets. At
rest it stands at 0; the switch can add 60, the slider 6, the stick 20: so it goes to 86 at the
most, found in about nine situations."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Places
from hypsos.core.dependencies.graph import asked_by, graph
from hypsos.core.document.document import Model
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.search.influence import blocks_of, joined, knobs_of
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases, alike

MOST_OF_PART = 200_000
"""Situations of one part, in cases of one kind, at the most."""
MOST_TOGETHER = 400_000
"""Situations of all parts at the most: what is kept of them needs some hundred megabytes."""


class SeparableInputs:
    """The situations in which the controls that feed some sums go everywhere, each set of them by
    itself.

    ``owners``, ``numbers`` and ``parts`` say for every situation its case, the number of the hands
    and the part. In part 0, which every case has, all controls stand at their first place; in each
    other part those of one set go everywhere that the case lets them, once for all cases in which
    that set acts alike: ``like[part]`` gives for every case the place in ``cases`` of the one that
    stands for it. What a sum can be at the most in a case is what it is in part 0, and for each
    part what that can add to it.

    ``fixed`` controls stay where this says as far as a case lets them; ``more`` are sets besides
    those of the targets; with ``each`` every case stands for itself. ``put`` are controls that are
    put elsewhere than a case has them: one place of theirs is enough, and every case stands for
    itself. ``beside`` is what decides in another model that is looked at with it."""

    def __init__(
        self,
        reachable: ReachableCases,
        sampler: CaseSampler,
        targets: Sequence[str],
        cases: Places | None = None,
        fixed: Mapping[str, float] | None = None,
        more: Sequence[frozenset[str]] = (),
        each: bool = False,
        put: Sequence[str] = (),
        beside: tuple[ReachableCases, CaseSampler] | None = None,
    ) -> None:
        self.sampler, self.cases = sampler, reachable.cases(sampler) if cases is None else cases
        names = {k.name for k in sampler.grid.knobs}
        self.sets = [frozenset[str](), *_sets(sampler.model_slice.model, targets, more, names)]
        self.whole = True
        """Whether every place is among the situations; of very many only some are."""
        alone = each or bool(put)
        both = [(reachable, sampler), *([beside] if beside is not None else [])]
        # part 0 has no controls: everything at rest; what the others add is counted from there
        self.like = [self._alike(both, targets, block, alone) for block in self.sets]
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs} | dict(fixed or {})
        rows: list[tuple[Places, Places, Places]] = []
        room = MOST_TOGETHER
        for part, block in enumerate(self.sets):
            # the other sets stay where they rest, for what a set adds is the same wherever they
            # stand
            still = {n: v for n, v in rests.items() if n not in block or n in (fixed or {})}
            for own, mine in reachable.kinds(sampler, self.cases[np.unique(self.like[part])]):
                here = self._thinned(
                    reachable.numbers(sampler, own, still, (names - block) | set(put)),
                    len(mine),
                    room,
                )
                owners = np.repeat(mine, len(here))
                room -= len(owners)
                rows.append((owners, np.tile(here, len(mine)), np.full(len(owners), part, np.intp)))
        none = np.zeros(0, np.intp)
        whole = [np.concatenate(x) for x in zip(*rows, strict=True)] or [none, none, none]
        self.owners, self.numbers, self.parts = whole
        self.places = np.searchsorted(self.cases, self.owners)
        """The place in ``cases`` of the case of every situation."""

    def _alike(
        self,
        both: list[tuple[ReachableCases, CaseSampler]],
        targets: Sequence[str],
        block: frozenset[str],
        alone: bool,
    ) -> Places:
        """For every case the place of the one that stands for it: the first in which this set of
        controls acts alike. ``alone``: every case stands for itself, as it does without a set."""
        if not block or alone:
            return np.arange(len(self.cases))
        columns: list[Places] = []
        for reachable, sampler in both:
            columns += [x[self.cases] for x in _deciders(reachable, sampler, targets, block)]
        return alike(columns) if columns else np.zeros(len(self.cases), np.intp)

    def _thinned(self, numbers: Places, cases: int, room: int) -> Places:
        """The numbers of the hands, or only some of them where all would be too many for so many
        cases."""
        most = max(cases, min(MOST_OF_PART, room))
        step = -(-len(numbers) * cases // most)  # rounded up
        if step <= 1:
            return numbers
        self.whole = False
        return numbers[::step]

    def __len__(self) -> int:
        return len(self.owners)

    def first(self, values: Array) -> Array:
        """What something is in part 0, for every case; ``values``: what it is in every
        situation."""
        out = np.zeros((len(self.cases), *values.shape[1:]), values.dtype)
        base = self.parts == 0
        out[self.places[base]] = values[base]
        return out

    def furthest(self, values: Array) -> Iterator[tuple[float, float, int, int]]:
        """How far something goes to each side that is a sum of what the parts add to it: (side, how
        far, case, number of the hands)."""
        start, at = self.first(values), self.first(self.numbers)
        for side in (1.0, -1.0):
            total, hands = start.copy(), at.copy()
            for part in range(1, len(self.sets)):
                best = self.best(part, side * values)
                # what this set adds at the most, in every case as in the one that stands for it
                total += (values[best] - start[self.places[best]])[self.like[part]]
                hands += (self.numbers[best] - at[self.places[best]])[self.like[part]]
            i = int(np.argmax(side * total))
            yield side, float(total[i]), int(self.cases[i]), int(hands[i])

    def best(self, part: int, values: Array) -> Places:
        """The situation of a part in which something is most: for every case that stands for
        others; for one that does not, any."""
        here = np.flatnonzero(self.parts == part)
        # case by case, in each the most first: so the first of each case is what is wanted
        order = here[np.lexsort((-values[here], self.places[here]))]
        stands, first = np.unique(self.places[order], return_index=True)
        out = np.zeros(len(self.cases), np.intp)
        out[stands] = order[first]
        return out


def _sets(
    model: Model, targets: Sequence[str], more: Sequence[frozenset[str]], names: set[str]
) -> list[frozenset[str]]:
    """The controls in sets, those that act on each other together; without sets of which no control
    is told apart."""
    blocks = list(more)
    for target in targets:
        blocks += blocks_of(model, target)
    return [block for block in joined(blocks) if block & names]


def _deciders(
    reachable: ReachableCases, sampler: CaseSampler, targets: Sequence[str], block: frozenset[str]
) -> Iterator[NDArray[Any]]:
    """What a set of controls goes by in every row."""
    shared = [n for n in reachable.shared(sampler) if n in block]
    return reachable.columns_of(sampler, _asked(sampler.model_slice.model, targets, block), shared)


def _asked(model: Model, targets: Sequence[str], block: frozenset[str]) -> set[str]:
    """The conditions on which it hangs what a set of controls gives to these sums: those of its
    lines and of all that feeds them, and whatever is asked elsewhere than by lines."""
    mine = _lines_of(model, targets, block)
    read: set[str] = set()
    for line in mine:
        read.update(line.signals())
    above = graph(model).sums_behind(read)
    found: set[str] = set()
    for line in model.program.mixes:
        if line in mine or line.target in above:
            found.update(text for _, text in line.asks())
    # lines are looked at above, one by one; flight modes by what they put into the sums
    for path, text in asked_by(model):
        if not path.startswith(("program.mixes", "program.modes")):
            found.add(text)
    for gate in model.program.gates():
        found.update(gate.conditions())
    if "link_quality" in block:
        # a receiver without power hears nothing: its link has no quality then
        found |= {"power", "link"}
    return found


def _lines_of(model: Model, targets: Sequence[str], block: frozenset[str]) -> list[MixLine]:
    """The lines by which a set of controls acts on these sums. A line that replaces or limits acts
    on what all others add, so there all lines of its sum count."""
    mixes = model.program.mixes
    replaced = {x.target for x in mixes if x.combine != "add"}
    feeding = [x for x in mixes if x.target in targets]
    return [x for x in feeding if x.target in replaced or knobs_of(model, x) & block]
