# SPDX-License-Identifier: GPL-3.0-or-later
"""Controls that act on sums apart from each other: a sum goes as far as each set of them takes it by itself.

Sought: how far a sum can go in a case, without trying every place of every control together. Six controls with five
places each would be 15,625 situations; apart they are thirty.

What must stay true: two controls are in one set as soon as they act on each other on the way to the sum: through a
line that scales, a differential, a shared value, a response behind a sum of both, or degrees that become percent.
Then what one adds hangs on where the other stands.

Why it is right: what is left are lines that add. What a set adds to a sum is the same wherever the others stand, so
the most of the sum is what it is at rest, and for each set the most that it can add.

What it costs: the places of the largest set, instead of the product of all. Of a set with very many only some are
looked at, and ``whole`` is False.

An example: left flap = flap position (a switch) + camber (a slider) + 20 % of roll. Three sets. At rest it stands at
0; the switch can add 60, the slider 6, the stick 20: so it goes to 86 at the most, found in about nine situations.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Places
from hypsos.core.conditions.edit import asked_by
from hypsos.core.document.document import Model
from hypsos.core.document.lines import reads
from hypsos.core.parts.condition_values import Gate
from hypsos.core.review.search.influence import blocks_of, knobs_of, upstream
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases, alike

MOST_OF_PART = 200_000
"""Situations of one part, in cases of one kind, at the most."""
MOST_TOGETHER = 400_000
"""Situations of all parts at the most: what is kept of them needs some hundred megabytes."""


class SeparableInputs:
    """The situations in which the controls that feed some sums go everywhere, each set of them by itself.

    ``owners``, ``numbers`` and ``parts`` say for every situation its case, the number of the hands and the part. In part 0,
    which every case has, all controls stand at their first place; in each other part those of one set go everywhere that the
    case lets them, once for all cases in which that set acts alike: ``like[part]`` gives for every case the place in ``cases``
    of the one that stands for it. What a sum can be at the most in a case is what it is in part 0, and for each part what that
    can add to it.

    ``fixed`` controls stay where this says as far as a case lets them; ``more`` are sets besides those of the targets; with
    ``each`` every case stands for itself. ``put`` are controls that are put elsewhere than a case has them: one place of
    theirs is enough, and every case stands for itself. ``beside`` is what decides in another model that is looked at with it.
    """

    def __init__(
        self, reachable: ReachableCases, sampler: CaseSampler, targets: Sequence[str], cases: Places | None = None,
        fixed: Mapping[str, float] | None = None, more: Sequence[frozenset[str]] = (), each: bool = False,
        put: Sequence[str] = (), beside: tuple[ReachableCases, CaseSampler] | None = None,
    ) -> None:  # fmt: skip
        self.sampler, self.cases = sampler, reachable.cases(sampler) if cases is None else cases
        model, names = sampler.model_slice.model, {k.name for k in sampler.grid.knobs}
        sets: list[frozenset[str]] = []
        for found in [*more, *(b for t in targets for b in blocks_of(model, t))]:
            met = [b for b in sets if b & found]
            sets = [b for b in sets if not b & found] + [found.union(*met)]
        self.sets = [frozenset[str](), *(b for b in sorted(sets, key=sorted) if b & names)]
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs} | dict(fixed or {})
        every = np.arange(len(self.cases))
        self.like: list[Places] = []
        self.whole = True
        """Whether every place is among the situations; of very many only some are."""
        rows: list[tuple[Places, Places, Places]] = []
        room = MOST_TOGETHER
        for part, block in enumerate(self.sets):
            like = every
            if part and not each and not put:
                both = [(reachable, sampler), *([beside] if beside is not None else [])]
                columns = [x[self.cases] for d, e in both for x in _deciders(d, e, targets, block)]
                like = alike(columns) if columns else np.zeros(len(self.cases), np.intp)
            self.like.append(like)
            still = {n: v for n, v in rests.items() if n not in block or n in (fixed or {})}
            for own, mine in reachable.kinds(sampler, self.cases[np.unique(like)]):
                here = reachable.numbers(sampler, own, still, (names - block) | set(put))
                step = -(-len(here) * len(mine) // max(len(mine), min(MOST_OF_PART, room)))
                if step > 1:
                    self.whole, here = False, here[::step]
                owners = np.repeat(mine, len(here))
                room -= len(owners)
                rows.append((owners, np.tile(here, len(mine)), np.full(len(owners), part, np.intp)))
        none = np.zeros(0, np.intp)
        joined = [np.concatenate(x) for x in zip(*rows, strict=True)] or [none, none, none]
        self.owners, self.numbers, self.parts = joined
        self.places = np.searchsorted(self.cases, self.owners)
        """The place in ``cases`` of the case of every situation."""

    def __len__(self) -> int:
        return len(self.owners)

    def first(self, values: Array) -> Array:
        """What something is in part 0, for every case; ``values``: what it is in every situation."""
        out = np.zeros((len(self.cases), *values.shape[1:]), values.dtype)
        base = self.parts == 0
        out[self.places[base]] = values[base]
        return out

    def furthest(self, values: Array) -> Iterator[tuple[float, float, int, int]]:
        """How far something goes to each side that is a sum of what the parts add to it: (side, how far, case, number of the
        hands)."""
        start, at = self.first(values), self.first(self.numbers)
        for side in (1.0, -1.0):
            total, hands = start.copy(), at.copy()
            for part in range(1, len(self.sets)):
                best = self.best(part, side * values)
                total += (values[best] - start[self.places[best]])[self.like[part]]
                hands += (self.numbers[best] - at[self.places[best]])[self.like[part]]
            i = int(np.argmax(side * total))
            yield side, float(total[i]), int(self.cases[i]), int(hands[i])

    def best(self, part: int, values: Array) -> Places:
        """The situation of a part in which something is most: for every case that stands for others; for one that does not,
        any."""
        here = np.flatnonzero(self.parts == part)
        order = here[np.lexsort((-values[here], self.places[here]))]
        stands, first = np.unique(self.places[order], return_index=True)
        out = np.zeros(len(self.cases), np.intp)
        out[stands] = order[first]
        return out


def _deciders(
    reachable: ReachableCases, sampler: CaseSampler, targets: Sequence[str], block: frozenset[str]
) -> Iterator[NDArray[Any]]:
    """What a set of controls goes by in every row."""
    shared = [n for n in reachable.shared(sampler) if n in block]
    return reachable.columns_of(sampler, _asked(sampler.model_slice.model, targets, block), shared)


def _asked(model: Model, targets: Sequence[str], block: frozenset[str]) -> set[str]:
    """The conditions on which it hangs what a set of controls gives to these sums: those of its lines and of all that feeds
    them, and whatever is asked elsewhere than by lines."""
    mixes = model.program.mixes
    own = {t for t in targets if any(x.combine != "add" for x in mixes if x.target == t)}
    mine = [x for x in mixes if x.target in targets and (x.target in own or knobs_of(model, x) & block)]
    above = upstream(model, {n for x in mine for n in reads(x)})
    keep = {i for i, x in enumerate(mixes) if x in mine or x.target in above}
    elsewhere = {text for path, text in asked_by(model) if not path.startswith(("program.mixes", "program.modes"))}
    gates = {x.when for x in model.program.logic if isinstance(x, Gate)}
    if "link_quality" in block:  # a receiver without power hears nothing: its link has no quality then
        elsewhere |= {"power", "link"}
    return elsewhere | gates | {x.when for i, x in enumerate(mixes) if i in keep and x.when is not None}
