# SPDX-License-Identifier: GPL-3.0-or-later
"""S4: with the sticks at rest no surface jumps where a switch moves by one position."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from itertools import product

import numpy as np

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
        told: dict[
            tuple[str, str], tuple[float, MovedControl, int, float, str, Mapping[str, float]]
        ] = {}
        acts, hands = list(self.looks.switched(sampler)), self._shared(sampler)
        for act, looks in zip(
            acts, self.looks.before_and_after(sampler, acts, 2, hands), strict=True
        ):
            self.search.count("S4", len(act.cases) * len(hands))
            for held, (before, after), name in (
                (h, x, n) for h, x in zip(hands, looks, strict=True) for n in names
            ):
                lead = self.search.leads[name]
                if isinstance(self.search.parts[name], Device):
                    continue
                moved = after[lead.name][:, -1] - before[lead.name][:, -1]
                i = int(np.argmax(np.abs(moved))) if len(moved) else 0
                if len(moved) and abs(moved[i]) > JUMP:
                    mates = (act.control, self._mate(name))
                    if mates not in told or abs(moved[i]) > abs(told[mates][3]) + 1e-9:
                        told[mates] = (
                            float(before[lead.name][i, -1]),
                            act,
                            i,
                            float(moved[i]),
                            name,
                            held,
                        )
        for (control, _), (start, act, i, far, name, held) in sorted(
            told.items(), key=lambda x: -abs(x[1][3])
        )[:MOST_TOLD]:
            yield self._jumped(sampler, control, name, start, act, i, far, held)

    def _shared(self, sampler: CaseSampler) -> list[Mapping[str, float]]:
        """Where shared values that are moved in flight may have been left, all of them together;
        where that is too much to look at, one after the other, and said to be not complete."""
        free = [k for k in sampler.grid.knobs if k.name in sampler.model_slice.free]
        if np.prod([len(k.values) for k in free], dtype=float) <= MOST_LEFT:
            return [
                dict(zip([k.name for k in free], x, strict=True))
                for x in product(*(k.values for k in free))
            ]
        self.search.count("S4", 0, False)
        return [{}, *({k.name: v} for k in free for v in k.values)]

    def _mate(self, name: str) -> str:
        other = self.model.airframe.other_side(name)
        return min(name, other) if other in self.search.leads else name

    def _jumped(
        self,
        sampler: CaseSampler,
        control: str,
        name: str,
        start: float,
        act: MovedControl,
        i: int,
        moved: float,
        held: Mapping[str, float],
    ) -> Finding:
        search, part = self.search, self.search.parts[name]
        names = self.model.transmitter.control(control)
        to = names.positions[int(act.to)] if names is not None else number(act.to)
        case = int(act.cases[i])
        text = (
            f"{part.label} jumps from {side_percent(part, start)} to {side_percent(part, start + moved)} as "
            f"{control_label(self.model, control)} goes to {to}, without a slow or a fade."
        )
        way = [
            *self.reachable.way(case, sampler, {**held, control: act.start}),
            SearchStep(control, act.to),
        ]

        def check(played: Played) -> bool:
            x, at = search.sent(played, name), played.last
            then = min(at + 1, len(x) - 1)
            return bool(at > 0 and abs(x[then] - x[at - 1]) > max(JUMP, ALMOST * abs(moved)))

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
    pair = {n for t in finding.seen for n in (t, model.airframe.other_side(t)) if n}

    def slowed() -> Model:
        leads = tuple(
            x.changed({"slow_up_s": SLOW_S, "slow_down_s": SLOW_S}) if x.target in pair else x
            for x in model.leads
        )
        return model.changed({"leads": leads})

    for i, recipe in enumerate(model.program.recipes):
        if getattr(recipe, "in_s", None) == 0.0 and pair & {n for _, n in recipe.parts()}:
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
