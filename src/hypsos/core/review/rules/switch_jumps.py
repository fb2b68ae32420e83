# SPDX-License-Identifier: GPL-3.0-or-later
"""S4: with the sticks at rest no surface jumps where a switch moves by one position."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from itertools import product
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.airframe import Device
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, Statement, SurfaceQuestion
from hypsos.core.review.search.motion_looks import MotionLooks, MovedControl
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases
from hypsos.core.review.search.replay import Played
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.search.surface_search import ALMOST, SurfaceSearch
from hypsos.core.wording.words import control_label, side_percent

JUMP = 40.0
"""Percent of full deflection in two frames: more than that is a jump."""
MOST_TOLD, MOST_LEFT = 6, 48
SLOW_S = 1.0
"""Seconds for a change of 100 %, as a first slow."""


class _Jump(NamedTuple):
    """A surface that jumps as a switch goes on: from where to where in percent, in which case, and
    where shared values were left before."""

    surface: str
    act: MovedControl
    case: int
    start: float
    end: float
    held: Mapping[str, float]

    @property
    def size(self) -> float:
        """How far, in percent."""
        return abs(self.end - self.start)


def _furthest(
    surface: str, act: MovedControl, before: Array, after: Array, held: Mapping[str, float]
) -> _Jump | None:
    """The case in which a surface goes furthest, where that is a jump; ``before`` and ``after`` say
    for every case of the act where it stands."""
    if not len(before):
        return None
    row = int(np.argmax(np.abs(after - before)))
    jump = _Jump(surface, act, int(act.cases[row]), float(before[row]), float(after[row]), held)
    return jump if jump.size > JUMP else None


class SwitchJumps:
    """The surfaces of a model as each switch goes one position on."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model, self.looks = search, search.model, MotionLooks(search)

    @property
    def reachable(self) -> ReachableCases:
        """What decides for the surfaces at hand."""
        return self.search.reachable

    def jumps(self, names: Sequence[str]) -> Iterator[Finding]:
        """Surfaces that jump as a switch goes one position on."""
        sampler = self.reachable.sampler(names, in_time=True)
        surfaces = [n for n in names if not isinstance(self.search.parts[n], Device)]
        # of each switch and each pair of surfaces the furthest jump is told
        furthest: dict[tuple[str, str], _Jump] = {}
        acts, hands = list(self.looks.switched(sampler)), self._shared(sampler)
        looked = self.looks.before_and_after(sampler, acts, 2, hands)
        for act, looks in zip(acts, looked, strict=True):
            self.search.count("S4", len(act.cases) * len(hands))
            for held, (before, after) in zip(hands, looks, strict=True):
                for name in surfaces:
                    lead = self.search.leads[name].name
                    jump = _furthest(name, act, before[lead][:, -1], after[lead][:, -1], held)
                    if jump is None:
                        continue
                    mates = (act.control, self._mate(name))
                    if mates not in furthest or jump.size > furthest[mates].size + 1e-9:
                        furthest[mates] = jump
        worst_first = sorted(furthest.values(), key=lambda jump: -jump.size)
        for jump in worst_first[:MOST_TOLD]:
            yield self._jumped(sampler, jump)

    def _shared(self, sampler: CaseSampler) -> list[Mapping[str, float]]:
        """Where shared values that are moved in flight may have been left, all of them together;
        where that is too much to look at, one after the other, and said to be not complete."""
        free = [k for k in sampler.grid.knobs if k.name in sampler.model_slice.free]
        names, values = [k.name for k in free], [k.values for k in free]
        if math.prod(map(len, values)) <= MOST_LEFT:
            return [dict(zip(names, places, strict=True)) for places in product(*values)]
        self.search.count("S4", 0, False)
        left: list[Mapping[str, float]] = [{}]
        for knob in free:
            left += [{knob.name: value} for value in knob.values]
        return left

    def _mate(self, name: str) -> str:
        other = self.model.airframe.other_side(name)
        return min(name, other) if other in self.search.leads else name

    def _jumped(self, sampler: CaseSampler, jump: _Jump) -> Finding:
        search, name = self.search, jump.surface
        part, control, goes_to = search.parts[name], jump.act.control, jump.act.to
        switch = self.model.transmitter.control(control)
        to = number(goes_to) if switch is None else switch.positions[int(goes_to)]
        text = (
            f"{part.label} jumps from {side_percent(part, jump.start)} to {side_percent(part, jump.end)} as "
            f"{control_label(self.model, control)} goes to {to}, without a slow or a fade."
        )
        before = {**jump.held, control: jump.act.start}
        way = [*self.reachable.way(jump.case, sampler, before), SearchStep(control, goes_to)]

        def check(played: Played) -> bool:
            stands, at = search.sent(played, name), played.last
            then = min(at + 1, len(stands) - 1)
            least = max(JUMP, ALMOST * jump.size)
            return bool(at > 0 and abs(stands[then] - stands[at - 1]) > least)

        index = search.lead_index(name)
        return search.finding(
            "S4", "advice", f"leads[{index}].slow_up_s", text, way, check, (name,)
        )


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Each group of surfaces."""
    for names in filter(None, search.groups()):
        yield SurfaceQuestion(
            f"jumps of {names[0]}", partial(SwitchJumps(search).jumps, names), names, in_time=True
        )


def repairs(model: Model, finding: Finding) -> Repairs:
    """The behaviour or the servos slowed down."""
    pair: set[str | None] = set()
    for name in finding.seen:
        pair |= {name, model.airframe.other_side(name)}

    def slowed() -> Model:
        leads = []
        for lead in model.leads:
            if lead.target in pair:
                lead = lead.changed({"slow_up_s": SLOW_S, "slow_down_s": SLOW_S})
            leads.append(lead)
        return model.changed({"leads": tuple(leads)})

    for i, recipe in enumerate(model.program.recipes):
        moves = any(name in pair for _, name in recipe.parts())
        if moves and getattr(recipe, "in_s", None) == 0.0:
            made = recipe.changed({"in_s": SLOW_S, "out_s": SLOW_S})
            yield (
                f"Slow {recipe.label} down",
                partial(with_at, model, f"program.recipes[{i}]", made),
            )
    yield "Slow both surfaces down", slowed


STATEMENT = Statement(
    "S4", "With the sticks at rest no surface jumps where a switch moves by one position, or a button is pressed or let go.",
    "advice", "surfaces", surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
