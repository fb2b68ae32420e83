# SPDX-License-Identifier: GPL-3.0-or-later
"""S9: the wing answers as a pilot means it. What goes down in a roll moves no further than what
goes up, flaps do not go up with a pull, and sections that are said to move as one trailing edge
stay together."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from functools import partial

import numpy as np

from hypsos.core.base.backends import ARRAYS, Array, Places
from hypsos.core.base.figure_words import number
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.recipes.crow import BRAKING
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Statement, SurfaceQuestion
from hypsos.core.review.search.reachable_cases import CaseSampler
from hypsos.core.review.search.replay import Played
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.search.surface_search import ALMOST, SurfaceSearch
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import Part

ROLLS = ("aileron", "flaperon", "flap")
"""Surfaces that roll the model and do nothing else with the stick: elevons are left out, their up
and down are the elevator's."""
MORE_MM, MORE_SHARE = 0.5, 1.05
"""The side going down moves more where it goes beyond the other by both: so many millimetres, and
this many times as far."""
UP = 2.0
"""Percent by which a flap has to go up with a pull before it is told."""
LEAST_DEG = 0.5
PARTS = 1.0 / 3.0
"""Share of the larger angle by which sections of one trailing edge may part."""


class WingEdge:
    """The trailing edge of a model's wing."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model = search, search.model

    def rolling(self) -> Iterator[tuple[str, str]]:
        """The pairs that roll the model."""
        for a, b in self.search.pairs():
            # an elevon's up and down are the elevator's, too
            if {self._role(a), self._role(b)} <= set(ROLLS) and "roll" in self.search.steered:
                yield a, b

    def flaps(self) -> Iterator[str]:
        """The flaps that may answer to a pull."""
        if "pitch" in self.search.steered:
            yield from (n for n in self.search.leads if self._role(n) in ("flap", "flaperon"))

    def _role(self, name: str) -> str:
        part = self.search.parts[name]
        return part.role if isinstance(part, Surface) else ""

    # -- rolling ---------------------------------------------------------------------------------

    def rolled(self, a: str, b: str) -> Iterator[Finding]:
        """A pair of which the half going down moves further, in millimetres, with everything else
        at rest and brakes in."""
        search, stick = self.search, self.search.steered["roll"]
        sampler = search.reachable.sampler((a, b), angles=True)
        cases = self._flown(sampler, (a, b))
        found = []
        for end in (-100.0, 100.0):
            # how far each goes from the middle, as a ruler reads it
            mid, far = (self._ruler(sampler, (a, b), cases, {stick: x}) for x in (0.0, end))
            moved = {n: far[n] - mid[n] for n in (a, b)}
            down = np.maximum(moved[a], moved[b])
            up = -np.minimum(moved[a], moved[b])
            beyond = down - up
            # both halves going one way is no roll; that is told elsewhere
            wrong = (down > 0) & (up > 0) & (beyond > MORE_MM) & (down > MORE_SHARE * up)
            if wrong.any():
                i = _first_of_worst(np.where(wrong, beyond, 0.0))
                found.append((float(beyond[i]), end, i, float(down[i]), float(up[i])))
        search.count("S9", 4 * len(cases))
        if found:
            yield self._unlike_roll(a, b, sampler, int(cases[max(found)[2]]), max(found))

    def _unlike_roll(
        self,
        a: str,
        b: str,
        sampler: CaseSampler,
        case: int,
        worst: tuple[float, float, int, float, float],
    ) -> Finding:
        search, stick = self.search, self.search.steered["roll"]
        beyond, end, _, down, up = worst
        where = search.where(sampler, case, {})
        names = f"{search.parts[a].label} and {search.parts[b].label.lower()}"
        text = (
            f"In a roll the side going down moves more than the side going up {where}: {number(down, 1)} mm down, "
            f"{number(up, 1)} mm up ({names}). It drags the wing the wrong way; usual is less down than up."
        )
        way = [*search.reachable.way(case, sampler, {}), SearchStep(stick, end)]

        def check(played: Played) -> bool:
            at = max(0, played.last - 1)
            moved = [self._mm(played, n, -1) - self._mm(played, n, at) for n in (a, b)]
            return max(moved) + min(moved) > ALMOST * beyond

        i = search.lead_index(a)
        return search.finding(
            "S9", "advice", self._roll_line(a) or f"leads[{i}].travel_pos", text, way, check, (a, b)
        )

    def _roll_line(self, name: str) -> str:
        sampler = self.search.reachable.sampler((name,))
        lines = zip(sampler.model_slice.model.program.mixes, sampler.model_slice.paths, strict=True)
        return next(
            (path for line, path in lines if line.target == name and line.source == "roll"), ""
        )

    # -- pulling ---------------------------------------------------------------------------------

    def pulled(self, name: str) -> Iterator[Finding]:
        """A flap that goes up as the stick is pulled."""
        search, stick = self.search, self.search.steered["pitch"]
        sampler = search.reachable.sampler((name,))
        cases = self._flown(sampler, (name,))
        lead = search.leads[name].name
        mid, far = (
            search.reachable.look(sampler, cases, self._still(sampler, cases, {stick: x}))
            for x in (0.0, -100.0)
        )
        moved = far.stand(lead) - mid.stand(lead)
        search.count("S9", 2 * len(cases))
        if not len(moved) or moved.min() > -UP:
            return
        i = _first_of_worst(-moved)
        case, far_up = int(cases[i]), float(moved[i])
        text = (
            f"{search.parts[name].label} goes up by {number(-far_up)} % with a pull {search.where(sampler, case, {})}: "
            "that takes lift where more is asked for."
        )
        way = [*search.reachable.way(case, sampler, {}), SearchStep(stick, -100.0)]

        def check(played: Played, name: str = name) -> bool:
            stands = search.stand(played, name)
            return bool(stands[-1] - stands[max(0, played.last - 1)] < ALMOST * far_up)

        part = self._taker(sampler, case, name)
        yield search.finding("S9", "advice", part, text, way, check, (name,))

    def _taker(self, sampler: CaseSampler, case: int, name: str) -> str:
        """The place of what puts a flap up most as the stick is pulled."""
        stick, amounts = self.search.steered["pitch"], dict[str, float]()
        # what the pull adds to each part of the document: with it less without it
        for end, sign in ((-100.0, 1.0), (0.0, -1.0)):
            for c in self.search.why(sampler, case, {stick: end}, name):
                if c.path:
                    amounts[c.path] = amounts.get(c.path, 0.0) + sign * float(
                        np.ravel(c.amount)[-1]
                    )
        path = min(amounts, key=lambda p: amounts[p], default="")
        return (
            self.search.placed(sampler, path) if path else f"leads[{self.search.lead_index(name)}]"
        )

    # -- one edge --------------------------------------------------------------------------------

    def parted(self) -> Iterator[Finding]:
        """Sections of one half of the wing that a behaviour moves as one edge, and that part by
        more than a third."""
        shared = {x.name: x.value for x in self.model.program.shared_values()}
        for i, recipe in enumerate(self.model.program.recipes):
            if not recipe.on:
                continue
            for mode, edge in recipe.edges(shared):
                worst = self._worst_gap(edge, getattr(recipe, "edge_deg", None))
                if worst is None:
                    continue
                (first, one), (second, two) = worst
                where = f" in {mode_label(self.model, mode)}" if mode else ""
                text = (
                    f"{recipe.label} moves flaps and ailerons as one edge, and they part{where}: {self._label(first)} by "
                    f"{number(abs(one), 1)}°, {self._label(second).lower()} by {number(abs(two), 1)}°."
                )
                yield Finding("S9", "advice", f"program.recipes[{i}]", text, seen=(first, second))
                break

    def _label(self, name: str) -> str:
        return self.search.parts[name].label

    def _worst_gap(
        self, edge: Mapping[str, float], full_deg: float | None
    ) -> tuple[tuple[str, float], tuple[str, float]] | None:
        """Of the sections of one half the two that part furthest, each with its angle; None where
        all stay together. ``full_deg``: the angle that is 100 % of a behaviour that goes by one
        angle."""
        angles = {
            n: self._turned(n, x, full_deg) for n, x in edge.items() if n in self.search.leads
        }
        best, found = 0.0, None
        for (a, one), (b, two) in itertools.combinations(angles.items(), 2):
            gap, larger = abs(one - two), max(abs(one), abs(two))
            parted = larger > LEAST_DEG and gap > PARTS * larger + 1e-9
            if parted and gap > best and self._half(a) == self._half(b):
                best, found = gap, ((a, one), (b, two))
        self.search.count("S9", len(angles))
        return found

    def _half(self, name: str) -> tuple[str, str]:
        """The half of the wing on which a surface sits."""
        part = self.search.parts[name]
        return (part.side, part.panel) if isinstance(part, Surface) else ("", name)

    def _turned(self, name: str, percent: float, full_deg: float | None) -> float:
        """The angle by which so many percent turn a surface from where it stands with nothing; as
        far as it can go."""
        motion = Motion(self.search.leads[name], self.search.parts[name])
        if full_deg is not None:
            # 100 % of such a behaviour is an angle; the lead makes percent of it
            percent = float(motion.by_angle()(percent / 100.0 * full_deg))
        stands = self.search.standing(name, np.array([0.0, percent]))
        angles = np.nan_to_num(np.asarray(motion.degrees(stands, ARRAYS), float))
        return float(angles[1] - angles[0])

    # -- looking ---------------------------------------------------------------------------------

    def _flown(self, sampler: CaseSampler, names: tuple[str, ...]) -> Places:
        """The cases with the link up and brakes in: those in which no behaviour that brakes moves
        these surfaces."""
        search = self.search
        cases = search.heard(sampler)
        braking = {"brake"}
        for recipe in self.model.program.recipes:
            if recipe.kind in BRAKING and recipe.signal:
                braking.add(recipe.signal)
        summed = {line.target for line in sampler.model_slice.model.program.mixes}
        for signal in sorted(braking & summed):
            if len(cases):
                look = search.reachable.look(sampler, cases, self._still(sampler, cases, {}))
                cases = cases[np.abs(look.sum(signal)) < 1.0]
        return cases

    def _still(
        self, sampler: CaseSampler, cases: Places, hands: Mapping[str, float]
    ) -> dict[str, Array]:
        """Everything that a case does not decide at rest, and these hands."""
        decided = {k.name for k in self.search.reachable.grid.knobs}
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs if k.name not in decided}
        return {n: np.full(len(cases), v) for n, v in {**rests, **hands}.items()}

    def _ruler(
        self,
        sampler: CaseSampler,
        names: tuple[str, ...],
        cases: Places,
        hands: Mapping[str, float],
    ) -> dict[str, Array]:
        """Where surfaces stand at the ruler, in mm."""
        look = self.search.reachable.look(sampler, cases, self._still(sampler, cases, hands))
        out = {}
        for name in names:
            motion = Motion(self.search.leads[name], self.search.parts[name])
            mm = motion.angles(look.stand(self.search.leads[name].name), ARRAYS)[1]
            out[name] = np.nan_to_num(np.asarray(mm, float))
        return out

    def _mm(self, played: Played, name: str, frame: int) -> float:
        part: Part = self.search.parts[name]
        stand = float(self.search.stand(played, name)[frame])
        return float(Motion(self.search.leads[name], part).at(stand)[1] or 0.0)


def _first_of_worst(amounts: Array) -> int:
    """The first case, the one with the shortest way, in which it is about as bad as anywhere."""
    return int(np.argmax(amounts >= ALMOST * amounts.max()))


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Pairs that roll, flaps that may answer to a pull, and the trailing edge as a whole."""
    model, wing = search.model, WingEdge(search)
    for a, b in wing.rolling():
        yield SurfaceQuestion(f"{a} and {b} in a roll", partial(wing.rolled, a, b), (a, b))
    for name in wing.flaps():
        yield SurfaceQuestion(f"{name} with a pull", partial(wing.pulled, name), (name,))
    more = (model.program.recipes, model.program.shared_values(), model.leads, model.airframe)
    if search.leads:
        yield SurfaceQuestion(
            "one trailing edge", wing.parted, tuple(search.leads), more, looks=False
        )


STATEMENT = Statement(
    "S9", "In a roll no side goes further down than up, no flap goes up with a pull, one trailing edge stays together.",
    "advice", "surfaces", surfaces=of_surfaces,
)  # fmt: skip
