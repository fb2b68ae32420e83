# SPDX-License-Identifier: GPL-3.0-or-later
"""S7: nothing that moves a surface is cancelled by something else."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.edits.plain_mixes import without_mix
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, Statement, SurfaceQuestion, place_in
from hypsos.core.review.search.surface_search import SurfaceSearch

NOTICED = 2.0
"""Percent: a line that gives less is not told."""
SAME = 0.02
"""Share of what one gives that may be left of both."""


class CancelledLines:
    """What lines give a surface beside each other."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search = search

    def fought(self, name: str) -> Iterator[Finding]:
        """Two lines on a surface that take each other back over the whole travel."""
        part = self.search.parts[name]
        for one, two, most in self._cancelled(name):
            text = (
                f"{one[0]} and {two[0]} cancel on {part.label.lower()} over the whole travel, {number(most)} % each: "
                "neither does anything there."
            )
            yield Finding("S7", "advice", two[1], text, seen=(name,))

    def _cancelled(self, name: str) -> Iterator[tuple[tuple[str, str], tuple[str, str], float]]:
        search, reachable = self.search, self.search.reachable
        sampler = reachable.sampler((name,))
        apart = search.apart(sampler, (name,))
        owners, numbers = apart.owners, apart.numbers
        search.count("S7", len(owners), apart.whole)
        if not len(owners):
            return
        look = reachable.look(sampler, owners, sampler.grid.values(numbers), (name,))
        sums: dict[tuple[str, str], Array] = {}
        for c in look.why[name]:
            if c.kind in ("stick", "mix", "trim"):
                path = search.placed(sampler, c.path)
                path = (
                    path if c.kind != "trim" else next((p for _, p in reversed(list(sums))), path)
                )
                amount = np.asarray(c.amount)
                label = next((x for x, p in sums if p == path), c.label)
                sums[label, path] = sums.get((label, path), 0.0) + amount
        items = [(k, x) for k, x in sums.items() if np.abs(x).max() > NOTICED]
        for i, (one, x) in enumerate(items):
            for two, y in items[i + 1 :]:
                most = float(np.abs(x).max())
                if np.abs(x + y).max() < SAME * most:
                    yield one, two, most


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """What moves each surface."""
    lines = CancelledLines(search)
    for name in search.leads:
        yield SurfaceQuestion(f"what moves {name}", partial(lines.fought, name), (name,))


def repairs(model: Model, finding: Finding) -> Repairs:
    """One of the two taken out."""
    i = place_in(finding.part, "program.mixes")
    if i is not None:
        yield f"Take out “{model.program.mixes[i].name}”", lambda: without_mix(model, i)


STATEMENT = Statement(
    "S7", "Nothing that moves a surface is cancelled by something else.", "advice", "surfaces",
    surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
