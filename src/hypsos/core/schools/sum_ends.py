# SPDX-License-Identifier: GPL-3.0-or-later
"""Hands that bring each output to its ends.

Sought: where hands and switches stand when a sum is lowest, and when it is highest. Only there two
transmitters differ that cut a sum off at another place, or stop an output a little earlier; hands
that are drawn nearly never come there together.

How it is found: from a few starts, every hand is put by itself to each of its ends, and every switch
to each of its positions. What leads farther is taken, all of it at once where that leads farther
still, until nothing does.

Why that is enough: a sum adds up what each hand does, but for a few lines that multiply, replace or
ask for a condition. For these there is more than one start. It is no proof: a farther place can be
missed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.plan import Plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.schools.figures import Numbers

Hands = dict[str, float]
ROUNDS = 8
NO_FARTHER = 1e-6
STARTS = 5
"""So many starts there are besides the one where all hands rest."""


class Climb(NamedTuple):
    """A sum on its way to its higher or lower end (``sense`` 1 or −1), and where the hands are."""

    target: str
    sense: int
    hands: Hands


def ends_of_sums(
    model: Model,
    targets: Sequence[str],
    places: Mapping[str, Sequence[float]],
    rest: Mapping[str, float],
    rng: np.random.Generator,
) -> list[tuple[Hands, Hands]]:
    """For each of these sums the hands that bring it lowest, and those that bring it highest.
    ``places``: where each hand can go; of a hand the first and the last one are its ends."""
    if not targets:
        return []
    plan = compile_plan(model)
    starts = [dict(rest), *(_drawn(places, rest, rng) for _ in range(STARTS))]
    climbs = [Climb(t, sense, s) for t in targets for sense in (-1, 1) for s in starts]
    reached = _scores(plan, climbs)
    for _ in range(ROUNDS):
        climbs, now = _farther(plan, climbs, reached, places)
        if (now <= reached + NO_FARTHER).all():
            break
        reached = now
    best: dict[tuple[str, int], tuple[float, Hands]] = {}
    for climb, score in zip(climbs, reached.tolist(), strict=True):
        key = (climb.target, climb.sense)
        if key not in best or score > best[key][0]:
            best[key] = (score, climb.hands)
    return [(best[t, -1][1], best[t, 1][1]) for t in targets]


def _drawn(
    places: Mapping[str, Sequence[float]], rest: Mapping[str, float], rng: np.random.Generator
) -> Hands:
    """Every hand at one of its ends, and every switch at one of its positions."""
    return {
        name: float(rng.choice(places[name])) if name in places else x for name, x in rest.items()
    }


def _farther(
    plan: Plan, climbs: list[Climb], reached: Numbers, places: Mapping[str, Sequence[float]]
) -> tuple[list[Climb], Numbers]:
    """Each climb a step farther, or where it is; and how far that is."""
    steps = [(i, name, x) for i in range(len(climbs)) for name in places for x in places[name]]
    tried = [climbs[i]._replace(hands={**climbs[i].hands, name: x}) for i, name, x in steps]
    scores = _scores(plan, tried)
    # the best place of each hand, where it leads farther than where it is
    gains: list[dict[str, tuple[float, float]]] = [{} for _ in climbs]
    for (i, name, x), score in zip(steps, scores.tolist(), strict=True):
        if score > max(reached[i], gains[i].get(name, (-np.inf, 0.0))[0]) + NO_FARTHER:
            gains[i][name] = (score, x)
    together, alone = [], []
    for climb, gain in zip(climbs, gains, strict=True):
        at_once = {name: x for name, (_, x) in gain.items()}
        first = max(gain, key=lambda name: gain[name][0], default="")
        only = {first: gain[first][1]} if first else {}
        together.append(climb._replace(hands=climb.hands | at_once))
        alone.append(climb._replace(hands=climb.hands | only))
    both = _scores(plan, [*together, *alone])
    of_all, of_one = both[: len(climbs)], both[len(climbs) :]
    chosen = []
    for place, climb in enumerate(together):
        chosen.append(alone[place] if of_one[place] > of_all[place] else climb)
    return chosen, np.maximum(of_all, of_one)


def _scores(plan: Plan, climbs: Sequence[Climb]) -> Numbers:
    """How far each sum is on its way. Hands that are the same are worked out once."""
    rows: dict[tuple[float, ...], int] = {}
    names = list(climbs[0].hands)
    row_of = []
    for climb in climbs:
        key = tuple(climb.hands[name] for name in names)
        row_of.append(rows.setdefault(key, len(rows)))
    sums = settled_together(plan, [dict(zip(names, key, strict=True)) for key in rows]).sums
    # what nothing feeds stays at nothing
    at_rest = {target: x[..., -1] for target, x in sums.items()}
    scores = []
    for climb, row in zip(climbs, row_of, strict=True):
        figures = np.broadcast_to(at_rest.get(climb.target, np.zeros(1)), len(rows))
        scores.append(climb.sense * float(figures[row]))
    return np.array(scores)
