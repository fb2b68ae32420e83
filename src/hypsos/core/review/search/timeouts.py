# SPDX-License-Identifier: GPL-3.0-or-later
"""In which order what waits for a time can end."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping

from hypsos.core.document.document import Model

SETS = 4
"""Of so many delays that wait at once every set may end together; of more, each alone and all of
them."""


def orders(keys: list[str], before: Mapping[str, tuple[str, ...]]) -> Iterator[tuple[str, ...]]:
    """The sets of delays that may end now: without those in which one that began no earlier and is
    no shorter ends first."""
    for found in _sets(keys):
        ends_first: set[str] = set()
        for ending in found:
            ends_first.update(before.get(ending, ()))
        if ends_first.intersection(keys) <= set(found):
            yield found


def _sets(keys: list[str]) -> Iterator[tuple[str, ...]]:
    """The sets of delays that may end together."""
    if len(keys) <= SETS:
        for n in range(1, len(keys) + 1):
            yield from itertools.combinations(keys, n)
        return
    yield from ((k,) for k in keys)
    yield tuple(keys)


def first_of(model: Model, waits: dict[str, float]) -> dict[str, tuple[str, ...]]:
    """Delay -> those that have ended whenever it has: they began no later, and are no longer."""
    out: dict[str, tuple[str, ...]] = {}
    guard = model.program.guard
    if guard is not None and guard.level >= 4 and waits.get("failsafe", 0.0) >= guard.relock_s:
        out["failsafe"] = ("guard.lost",)
    waiting = [x for x in model.program.logic if x.waits]
    for x in waiting:
        before = tuple(y.memory_key for y in waiting if y.ends_with(x))
        if before:
            out[x.memory_key] = before
    return out
