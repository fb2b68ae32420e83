# SPDX-License-Identifier: GPL-3.0-or-later
"""S3: both halves of a pair answer alike."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import partial
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import ARRAYS, Array, Flags, Places
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.paths import with_at
from hypsos.core.edits.plain_mixes import without_mix
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import demand_of, servo_percent
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import (
    Repairs,
    Statement,
    SurfaceQuestion,
    lead_place,
    line_named,
    place_in,
)
from hypsos.core.review.search.input_grid import both_sides_alike
from hypsos.core.review.search.reachable_cases import CaseSampler, SampledCases
from hypsos.core.review.search.replay import Check, Played
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.surface_search import ALMOST, UNLIKE, UNLIKE_DEG, SurfaceSearch
from hypsos.core.wording.words import Part, side_percent

BETWEEN = 3
"""Places between one bend of a response and the next, where halves whose responses differ are
looked at."""


class _Seen(NamedTuple):
    """Both halves in situations: the case of each and the hands, how far each half stands from
    where it is flush and their sums, both in percent and the second half's mirrored, by how many
    degrees they differ, and whether that is too much."""

    owners: Places
    hands: dict[str, Array]
    look: SampledCases
    stands: tuple[Array, Array]
    sums: tuple[Array, Array]
    deg: Array
    wrong: Flags
    by_angle: Flags

    @property
    def unlike(self) -> Flags:
        """Where they answer differently, by their stand or by their angle."""
        return np.asarray(self.wrong | self.by_angle)


class Symmetry:
    """The halves of a pair beside each other: one with the hands, the other with their mirror
    image."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search = search

    def mirrored(self, name: str) -> float:
        """The sign of a surface's mirror image: two fins' rudders go to opposite sides, two
        ailerons both go down."""
        part = self.search.parts[name]
        return -1.0 if isinstance(part, Surface) and part.vertical else 1.0

    def flush(self, name: str) -> float:
        """The stand in percent at which a part is flush: by its linkage or what was measured, else
        its centre, which was set for nothing else."""
        lead, part = self.search.leads[name], self.search.parts[name]
        if lead.linkage is None and not lead.measured:
            return lead.direction * lead.centre
        try:
            return Motion(lead, part).percent(0.0)
        except HypsosError:  # it never gets there
            return 0.0

    def alike(self, name: str, other: str) -> Iterator[Finding]:
        """Halves of a pair that answer differently to what moves both."""
        reachable = self.search.reachable
        sampler = reachable.sampler(
            (name, other), between=BETWEEN if self._bent_apart(name, other) else 0
        )
        across = {self.search.steered[c] for c in ("roll", "yaw") if c in self.search.steered}
        across |= {"roll_trim", "yaw_trim"}
        seen = self._looked_at(sampler, name, other, across)
        if seen is None or not seen.unlike.any():
            return
        i = self._clearest(sampler, seen)
        case, at = int(seen.owners[i]), self.search.hands_of(seen.look, i, sampler)
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs}
        turned = any(n in across and abs(v - rests.get(n, 0.0)) > 1e-6 for n, v in at.items())
        mirror_words = " where its mirror image is asked for" if turned else ""
        where, said = self.search.where(sampler, case, at), self._differ_words(name, other, seen, i)
        text = f"A pair answers differently {where}: {said}{mirror_words}."
        # by the angle alone: the linkages differ
        part = f"leads[{self.search.lead_index(other)}].linkage"
        if seen.wrong[i]:
            part = self._unlike(sampler, case, at, name, other, across)
        check, way = self._check(name, other, across, seen, i), reachable.way(case, sampler, at)
        yield self.search.finding("S3", "fault", part, text, way, check, (name, other))

    def _looked_at(
        self, sampler: CaseSampler, name: str, other: str, across: set[str]
    ) -> _Seen | None:
        """Both halves in every case; ``across``: the controls that are mirrored."""
        reachable = self.search.reachable
        shared = across & set(reachable.shared(sampler))
        # what hangs on a stick's side
        # a condition that goes by the side of a mirrored control tells a case from its mirror
        # image, so no case may stand for another
        each = not all(both_sides_alike(reachable.model_slice.model, n) for n in shared)
        self.search.straight("S3", sampler, (name, other))
        seen = self._seen(sampler, name, other, across, each)
        if seen is None or each or seen.unlike.any():
            return seen
        if (np.abs(seen.sums[0] - seen.sums[1]) > UNLIKE).any():
            # a stop hides it where the case stands for others
            return self._seen(sampler, name, other, across, True)
        return seen

    def _clearest(self, sampler: CaseSampler, seen: _Seen) -> int:
        """Of the situations in which they differ one with the fewest hands moved, and of those the
        one with the largest difference: by the stand before by the angle."""
        rest = sampler.grid.values(np.array([sampler.grid.at_rest()], np.intp))
        moved = np.zeros(len(seen.owners), int)
        for name, values in seen.hands.items():
            moved += np.abs(values - rest[name][0]) > 1e-6
        # a pilot sees best what shows with nearly nothing moved
        fewest = seen.unlike & (moved == moved[seen.unlike].min())
        differ = np.abs(seen.stands[0] - seen.stands[1])
        rank = np.where(seen.wrong, differ, np.abs(seen.deg) / 1000.0)
        return int(np.argmax(np.where(fewest, rank, -1.0)))

    def _differ_words(self, name: str, other: str, seen: _Seen, i: int) -> str:
        """Where the halves go, or by which angle they part where that alone tells them apart."""
        one, two, sign = self.search.parts[name], self.search.parts[other], self.mirrored(name)
        goes = side_percent(one, float(seen.stands[0][i]) + self.flush(name))
        other_goes = side_percent(two, sign * float(seen.stands[1][i]) + self.flush(other))
        same_figure = goes == other_goes and sign > 0  # flush elsewhere
        if seen.by_angle[i] or same_figure:
            angle = abs(float(seen.deg[i]))
            return f"{one.label} and {two.label.lower()} stand {number(angle, 1)}° apart for the same command"
        return f"{one.label} goes to {goes}, {two.label.lower()} to {other_goes}"

    def _check(self, name: str, other: str, across: set[str], seen: _Seen, i: int) -> Check:
        """Whether the halves differ on a way that was played, beside the same way with the mirrored
        hands."""
        a, b = self.search.leads[name], self.search.leads[other]
        sign, wrong = self.mirrored(name), bool(seen.wrong[i])
        far = max(UNLIKE, ALMOST * abs(float(seen.stands[0][i] - seen.stands[1][i])))
        wide = max(UNLIKE_DEG, ALMOST * abs(float(seen.deg[i])))

        def check(played: Played) -> bool:
            # the same hands mirrored: what the one half did there the other has to do here
            again = self.search.stage.again(played, (), across)
            if wrong:
                x = self._straight(name, self.search.stand(played, name)[-1:])[0] - self.flush(name)
                y = self._straight(other, self.search.stand(again, other)[-1:])[0] - self.flush(
                    other
                )
                return bool(abs(x - sign * y) > far)
            left, right = played.result.outputs[a.name].deg, again.result.outputs[b.name].deg
            if left is None or right is None:
                return False
            return bool(abs(float(np.ravel(left)[-1] - sign * np.ravel(right)[-1])) > wide)

        return check

    def _straight(self, name: str, stand: Array) -> Array:
        """Where a part would stand without the curve of its output, if nothing is known of how its
        servo and linkage run: then the curve is there to straighten those out, and what it adds is
        no difference to the other half."""
        lead = self.search.leads[name]
        if lead.curve is None or lead.linkage is not None or lead.measured:
            return stand
        # backwards from the stand to the demand, and forwards again without the curve
        plain = lead.changed({"curve": None})
        demands = np.array([demand_of(lead.direction * x, lead) or 0.0 for x in stand.tolist()])
        return np.asarray(lead.direction * servo_percent(demands, plain)[1], float)

    def _by_ruler(self, name: str, other: str) -> bool:
        """Whether two halves are compared by their angles alone: an output curve makes them agree,
        and both ways are known."""
        leads = self.search.leads[name], self.search.leads[other]
        known = all(x.linkage is not None or x.measured for x in leads)
        return known and any(x.curve is not None for x in leads)

    def _bent_apart(self, name: str, other: str) -> bool:
        """Whether responses to one half have another shape than those to the other."""
        shapes: dict[str, list[str]] = {name: [], other: []}
        for placed in all_lines(self.search.model):
            line = placed.line
            if line.target in shapes:
                shapes[line.target].append(repr((line.response, line.differential, line.combine)))
        return sorted(shapes[name]) != sorted(shapes[other])

    def _seen(
        self, sampler: CaseSampler, name: str, other: str, across: set[str], each: bool
    ) -> _Seen | None:
        """Both halves wherever the hands are, and where the sum of the first goes furthest."""
        search, reachable = self.search, self.search.reachable
        apart = SeparableInputs(reachable, sampler, (name, other), each=each)
        if not len(apart):
            return None
        look = search.looked(sampler, apart.owners, apart.numbers)
        # where the sum goes furthest it is most likely to meet a stop
        far = [(case, number_) for _, _, case, number_ in apart.furthest(look.sum(name))]
        owners = np.concatenate([apart.owners, [case for case, _ in far]]).astype(np.intp)
        numbers = np.concatenate([apart.numbers, [n for _, n in far]]).astype(np.intp)
        look = search.looked(sampler, owners, numbers)
        hands = sampler.grid.values(numbers)
        mirrored = {n: -v if n in across else v for n, v in hands.items()}
        # the other half with mirrored hands
        mirror = reachable.look(sampler, owners, mirrored)
        search.count("S3", len(owners), apart.whole)
        sign = self.mirrored(name)
        first, second = look.stand(search.leads[name].name), mirror.stand(search.leads[other].name)
        first, second = self._straight(name, first), self._straight(other, second)
        # counted from where each is flush: a centre set to make it flush is no difference
        stands = first - self.flush(name), sign * (second - self.flush(other))
        deg = self._apart(name, first, other, second)
        # by the stand, unless an output curve is there to make the angles agree: then by the
        # angles alone
        wrong = np.abs(stands[0] - stands[1]) > (np.inf if self._by_ruler(name, other) else UNLIKE)
        by_angle = ~wrong & (np.abs(deg) > UNLIKE_DEG)
        return _Seen(
            owners,
            hands,
            look,
            stands,
            (look.sum(name), sign * mirror.sum(other)),
            deg,
            wrong,
            by_angle,
        )

    def _apart(self, name: str, one: Array, other: str, two: Array) -> Array:
        """By how many degrees two parts differ that stand so, the second mirrored; nothing where
        both turn their way from flush into the same angle."""
        a, b = self.search.leads[name], self.search.leads[other]
        parts = self.search.parts[name], self.search.parts[other]
        sign, by_throws = self.mirrored(name), a.linkage is None and not a.measured
        mine, theirs = (_throws(x) for x in parts)
        if sign < 0:
            # what one fin does to the left the other does to the right
            theirs = (theirs[1], theirs[0], theirs[2])
        alike = (a.linkage, a.measured, mine) == (
            b.linkage,
            b.measured,
            theirs,
        ) and not self._by_ruler(name, other)
        if alike and (sign > 0 or by_throws):
            return np.zeros(len(one))
        first = self._degrees(name, one)
        second = sign * self._degrees(other, two)
        return np.asarray(np.nan_to_num(first - second), float)

    def _degrees(self, name: str, stand: Array) -> Array:
        """The angle of a part; where only its throws are known, from where it is flush."""
        lead = self.search.leads[name]
        bare = lead.linkage is None and not lead.measured
        away = stand - self.flush(name) if bare else stand
        return np.asarray(Motion(lead, self.search.parts[name]).degrees(away, ARRAYS))

    def _unlike(
        self,
        sampler: CaseSampler,
        case: int,
        hands: Mapping[str, float],
        name: str,
        other: str,
        across: set[str],
    ) -> str:
        """The place of what tells both halves apart: the line, preset or output that gives them
        most unlike amounts."""
        mirrored = {n: -v if n in across else v for n, v in hands.items()}
        one, two = (
            self.search.why(sampler, case, hands, name),
            self.search.why(sampler, case, mirrored, other),
        )
        mine = {(c.label, c.kind): (float(np.ravel(c.amount)[-1]), c.path) for c in one}
        theirs = {(c.label, c.kind): (float(np.ravel(c.amount)[-1]), c.path) for c in two}
        # lines of their own on each side are compared the first with the first
        only_mine = [key for key in mine if key not in theirs]
        only_theirs = [key for key in theirs if key not in mine]
        for key, its_mate in zip(only_mine, only_theirs, strict=False):
            theirs[key] = theirs.pop(its_mate)
        sign = self.mirrored(name)
        best, found = 0.2, f"leads[{self.search.lead_index(other)}]"
        for key in {**mine, **theirs}:
            x, y = mine.get(key, (0.0, "")), theirs.get(key, (0.0, ""))
            path = y[1] or x[1]
            apart = abs(x[0] - sign * y[0])
            if apart > best and path:
                best, found = apart, self.search.placed(sampler, path)
        return found


def _throws(part: Part) -> tuple[float, float, float]:
    """The throws and the chord of a surface; nothing for anything else."""
    if not isinstance(part, Surface):
        return 0.0, 0.0, 0.0
    return part.throw_up_deg, part.throw_down_deg, part.chord_mm


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Each pair."""
    for a, b in search.pairs():
        both = tuple(
            x.changed({"seen_right": None}) for x in search.model.leads if x.target in (a, b)
        )
        yield SurfaceQuestion(
            f"{a} and {b}", partial(Symmetry(search).alike, a, b), (a, b), (both,)
        )


def repairs(model: Model, finding: Finding) -> Repairs:
    """The output, the linkage or the line of one half as the other's."""
    if len(finding.seen) == 2:
        yield from _output_repairs(model, finding)
        yield from _line_repairs(model, finding)


def _output_repairs(model: Model, finding: Finding) -> Repairs:
    i = lead_place(finding)
    if i is None:
        return
    mine = model.leads[i]
    other = next(x for x in model.leads if x.target in finding.seen and x.target != mine.target)
    like_other = mine.changed(_output_like(mine, other))
    yield (
        f"Set its output as {other.label.lower()}'s",
        lambda: with_at(model, f"leads[{i}]", like_other),
    )
    same = mine.changed({"linkage": other.linkage, "measured": other.measured})
    yield (
        f"Give it the linkage of {other.label.lower()}",
        lambda: with_at(model, f"leads[{i}]", same),
    )


def _output_like(mine: Lead, other: Lead) -> dict[str, object]:
    """The output of another lead, as it is for a servo that turns the same way or the other way."""
    if mine.direction == other.direction:
        fields = ("centre", "curve", "travel_neg", "travel_pos", "stop_neg", "stop_pos")
        return {field: getattr(other, field) for field in fields}
    return {
        "centre": -other.centre,
        "curve": other.curve,
        "travel_neg": other.travel_pos,
        "travel_pos": other.travel_neg,
        "stop_neg": -other.stop_pos,
        "stop_pos": -other.stop_neg,
    }


def _line_repairs(model: Model, finding: Finding) -> Repairs:
    line, k = line_named(model, finding), place_in(finding.part, "program.mixes")
    if line is None or k is None:
        return
    for mate in model.program.mixes:
        if (
            mate.target in finding.seen
            and mate.target != line.target
            and mate.source == line.source
        ):
            size = abs(mate.gain) if line.gain > 0 else -abs(mate.gain)
            yield (
                f"As much as “{mate.name}”",
                partial(with_at, model, f"program.mixes[{k}].gain", size),
            )
            break
    yield f"Take out “{line.name}”", lambda: without_mix(model, k)


STATEMENT = Statement(
    "S3", "Both halves of a pair answer alike.", "fault", "surfaces", surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
