# SPDX-License-Identifier: GPL-3.0-or-later
"""S2: no surface loses command to a cut-off or a stop."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import partial
from typing import NamedTuple

import numpy as np

from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.review.findings import Finding, Level
from hypsos.core.review.rules.statement import (
    Repairs,
    Statement,
    SurfaceQuestion,
    lead_place,
    line_named,
)
from hypsos.core.review.search.influence import lags
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.reachable_cases import CaseSampler
from hypsos.core.review.search.replay import Played
from hypsos.core.review.search.surface_search import ALMOST, LIMIT, LOST, SurfaceSearch
from hypsos.core.wording.words import side_percent

SLOW = "what is slow, or lasts for a moment, is looked at where it comes to rest, not on its way"

MUCH = 0.2
"""Share of a command: where more than that is lost it is a fault even if it takes every trim at its
end."""

WIDEST = 150.0


class Furthest(NamedTuple):
    """How far a sum goes to one side: 1 or -1, percent, the case and the number of the hands."""

    side: float
    total: float
    case: int
    hands: int


class LostTravel:
    """How far the sums of surfaces go in every case, and what of it never reaches them."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model = search, search.model

    def reached(
        self, sampler: CaseSampler, name: str, fixed: Mapping[str, float] | None = None
    ) -> Iterator[Furthest]:
        """How far a sum goes to each side, with some controls fixed."""
        apart = self.search.apart(sampler, (name,), fixed)
        self.search.count("S2", len(apart), apart.whole)
        if len(apart):
            for found in apart.furthest(
                self.search.looked(sampler, apart.owners, apart.numbers).sum(name)
            ):
                yield Furthest(*found)

    def found(self, name: str) -> Iterator[Finding]:
        """Command that a cut-off or a stop takes away from a surface."""
        lead, sampler = self.search.leads[name], self.search.reachable.sampler((name,))
        in_time = self.search.reachable.sampler((name,), in_time=True).model_slice.model
        late = lags(in_time, name, {k.name for k in self.search.reachable.grid.knobs})
        fades = any(m.fade_s for m in in_time.program.modes)
        if late or self.search.reachable.passes(sampler) or (fades and self._fades_apart(sampler)):
            self.search.partly["S2"] = SLOW
        self.search.straight("S2", sampler, (name,))
        standing = {found.side: found for found in self.reached(sampler, name, self.trims())}
        for found in self.reached(sampler, name):
            with_trims = abs(float(self.search.cut(lead, found.total)))
            there = standing.get(found.side)
            if there is not None and abs(float(self.search.cut(lead, there.total))) > LOST:
                lost = self._lost(sampler, name, there, "fault")
                more = with_trims > abs(float(self.search.cut(lead, there.total))) + LOST
                said = f"{lost.text} With every trim at its end it is {number(with_trims)} %."
                yield replace(lost, text=said) if more else lost
            elif with_trims > LOST:
                much = with_trims > MUCH * abs(found.total)
                yield self._lost(sampler, name, found, "fault" if much else "advice")

    def trims(self) -> dict[str, float]:
        """The trims where they stand."""
        return {n: v for n, v in self.search.stage.plan.rest.items() if n.endswith("_trim")}

    def _lost(self, sampler: CaseSampler, name: str, furthest: Furthest, level: Level) -> Finding:
        """How much a surface loses, where, and who has used up its travel."""
        lead, i = self.search.leads[name], self.search.lead_index(name)
        side, total, case, number_ = furthest
        amount = abs(float(self.search.cut(lead, total)))
        look = self.search.looked(sampler, np.array([case], np.intp), np.array([number_], np.intp))
        hands = self.search.hands_of(look, 0, sampler)
        _, centred, _ = servo_percent(np.clip(total, -LIMIT, LIMIT), lead)
        stop = "stop_neg" if centred < 0 else "stop_pos"
        over = abs(total) > LIMIT + LOST
        users = self._users(sampler, case, hands, name, side)
        path = users[0][1] if over and users else f"leads[{i}].{stop}"
        part = self.search.parts[name]
        by = " and ".join(f"{label} ({side_percent(part, x)})" for label, _, x in users[:3])
        where_to = ", for more than its full travel is asked" if over else " at its stop"
        text = (
            f"{part.label} can't do all that is asked of it: {number(amount)} % is lost{where_to}, "
            f"{self.search.where(sampler, case, hands)}; the travel goes to {by}."
        )

        def check(played: Played) -> bool:
            every = np.broadcast_to(played.result.sums.get(name, np.zeros(1)), played.t_s.shape)
            total = every[played.last :]  # a pulse may have run out again by the end of the look
            here = side * np.sign(total) > 0
            return bool(
                (here & (np.abs(self.search.cut(lead, total)) > max(LOST, ALMOST * amount))).any()
            )

        found = self.search.finding(
            "S2", level, path, text, self.search.reachable.way(case, sampler, hands), check, (name,)
        )
        mate = self.model.airframe.other_side(name)
        pair = "/".join(sorted((name, mate))) if mate in self.search.leads else name
        cause = f"S2 {pair} {number(amount)}" if level == "fault" else f"S2 {pair}"
        brief = f"{part.label} loses {number(amount)} % {self.search.where(sampler, case, hands)}."
        return replace(found, cause=cause, brief=brief)

    def _fades_apart(self, sampler: CaseSampler) -> bool:
        """Whether a fade may begin in a flight mode that is never flown with the hands as they are
        then: because the modes go by what moves these surfaces, or by the link."""
        whens = [m.when for m in self.model.program.modes if m.when is not None]
        if not whens:
            return False
        choosing = grid_of(slice_of(self.model, conditions=whens), bends=False, ends=False)
        moving = {knob.name for knob in sampler.grid.knobs} | {"link", "power"}
        return any(knob.name in moving for knob in choosing.knobs)

    def _users(
        self, sampler: CaseSampler, case: int, hands: Mapping[str, float], target: str, side: float
    ) -> list[tuple[str, str, float]]:
        """Who uses the travel of a surface to one side: label, place, percent, the most first."""
        found = [
            (c.label, self.search.placed(sampler, c.path), float(np.ravel(c.amount)[-1]))
            for c in self.search.why(sampler, case, hands, target)
            if c.kind in ("stick", "trim", "mix", "preset")
        ]
        return sorted((x for x in found if side * x[2] > 0.5), key=lambda x: -side * x[2])


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """The travel of each surface."""
    lost = LostTravel(search)
    for name in search.leads:
        yield SurfaceQuestion(
            f"the travel of {name}", partial(lost.found, name), (name,), in_time=None
        )


def repairs(model: Model, finding: Finding) -> Repairs:
    """Less of what asks for the travel first: a stop moved out lets the surface go further than it
    was built to."""
    line = line_named(model, finding)
    if line is not None:
        for name, lines in _with_mate(model, line):
            yield f"Lower {name} by a quarter", partial(_lowered, model, lines)
    i = lead_place(finding)
    if i is not None and "stop" in finding.part:
        lead, side = model.leads[i], finding.part.rsplit(".", 1)[-1]
        mate = next(
            (k for k, x in enumerate(model.leads) if x.target == _mate_of(model, lead.target)), None
        )
        places = {i: side}
        if (
            mate is not None
        ):  # its mirror image ends at the same stop, or at the other where it is turned round
            same = model.leads[mate].direction == lead.direction
            places[mate] = side if same else {"stop_pos": "stop_neg", "stop_neg": "stop_pos"}[side]
        nearer = [k for k, end in places.items() if abs(getattr(model.leads[k], end)) < WIDEST]
        words = "Move both stops out" if len(nearer) > 1 else "Move the stop out"
        yield words, lambda: _stops_out(model, places)


def _mate_of(model: Model, target: str) -> str:
    return model.airframe.other_side(target) or ""


def _with_mate(model: Model, line: MixLine) -> Iterator[tuple[str, tuple[MixLine, ...]]]:
    """A line, with the one that does the same on the other half of a pair."""
    mates = (
        x
        for x in model.program.mixes
        if x.target == _mate_of(model, line.target) and x.source == line.source
    )
    other = next(mates, None)
    if other is None:
        yield f"“{line.name}”", (line,)
    else:
        yield f"“{line.name}” on both sides", (line, other)


def _lowered(model: Model, lines: tuple[MixLine, ...]) -> Model:
    """The model with these lines at three quarters of what they give."""
    mixes = []
    for line in model.program.mixes:
        if line in lines:
            line = line.changed({"gain": round(0.75 * line.gain, 1)})
        mixes.append(line)
    return model.changed({"program": model.program.changed({"mixes": tuple(mixes)})})


def _stops_out(model: Model, places: dict[int, str]) -> Model:
    for k, side in places.items():
        model = with_at(model, f"leads[{k}].{side}", WIDEST if side == "stop_pos" else -WIDEST)
    return model


STATEMENT = Statement(
    "S2", "No surface loses command to a cut-off or a stop.", "fault", "surfaces", surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
