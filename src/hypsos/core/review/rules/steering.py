# SPDX-License-Identifier: GPL-3.0-or-later
"""S1: in every case roll, pitch and yaw still move the model the right way, and far enough."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.plain_mixes import without_mix
from hypsos.core.review.findings import Ask, Finding, Level
from hypsos.core.review.rules.statement import (
    DocumentQuestion,
    Repairs,
    Statement,
    SurfaceQuestion,
    line_named,
    place_in,
)
from hypsos.core.review.search.motor_replay import MORE
from hypsos.core.review.search.motor_rule import MotorAct, MotorRule, MotorWords
from hypsos.core.review.search.reachable_cases import SampledCases
from hypsos.core.review.search.replay import Check, Played
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.search.surface_search import LOST, SurfaceSearch
from hypsos.core.wording.words import control_label

SHARE = 0.2
"""Of what a command gives with everything at rest: so much must be left in every case."""
MOST_EACH = 3
MOST_LOOKED = 8
"""Situations in which the cause is looked for, at each end of a stick."""
MOST_SUMS = 6_000_000
"""Sums made of what the parts of the hands give, at the most."""
ENDS = (-100.0, 100.0)
LEAST_RATE = 40.0
"""Percent, the rate that mends a position at which too little is left."""
WRONG_WAY = "the wrong way"


class Given(NamedTuple):
    """What a command gives in situations, in percent: the case and the number of the hands of each,
    and how far its surfaces go the right way."""

    owners: Places
    numbers: Places
    left: Array


class Least(NamedTuple):
    """Where least is left of a command: the share, the end of the stick, the case and the other
    hands."""

    share: float
    end: float
    case: int
    hands: Mapping[str, float]


class Steering:
    """A command in every case that decides; the other sticks and the trims are left alone."""

    def __init__(self, search: SurfaceSearch, command: str) -> None:
        self.search, self.command, self.stick = search, command, search.steered[command]
        self.ways = search.ways(command)
        self.sampler = search.reachable.sampler(self.ways)
        # without the link there is nothing to steer with
        self.cases = search.heard(self.sampler)

    def sense(self, end: float) -> float:
        """Which way the command goes as the stick goes to an end."""
        return (-1.0 if self.command == "pitch" else 1.0) * (1.0 if end > 0 else -1.0)

    def found(self) -> Iterator[Finding]:
        """A command that is lost, or goes the wrong way, in some case."""
        if not self.ways or not len(self.cases):
            return
        clean = self._clean(self.cases[:1])
        for end in ENDS:
            # what is lost with everything at rest is lost everywhere: it is told once
            if np.max(clean[end]) <= LOST:
                yield self._lost_at_rest(end, clean[end])
                return
        self.search.straight("S1", self.sampler, self.ways)
        if self._moves_shared_values():
            self.search.count("S1", 0, False)  # the stick itself moves what is taken to be free
        # the most that the command gives with everything at rest: the measure of what is left
        # elsewhere
        full = {end: float(np.max(clean[end])) for end in ENDS}
        worst = self._worst(full)
        for key in sorted(worst, key=lambda key: (worst[key].share, key))[:MOST_EACH]:
            least, part = worst[key], key[0]
            yield self._lost(least.case, least.hands, least.end, full[least.end], least.share, part)

    def _lost_at_rest(self, end: float, given: Array) -> Finding:
        """Nothing even with all at rest, or the wrong way."""
        case = int(self.cases[0])
        wrong = float(np.min(given)) < -LOST
        part = self._taker(case, {}, end)
        if wrong or not part.startswith("program.axes"):
            part = next((x for n in self.ways if (x := self._first_line(n))), part)
        return self._lost(case, {}, end, float(np.max(given)), -1.0 if wrong else 0.0, part)

    def _moves_shared_values(self) -> bool:
        """Whether the stick moves a shared value that is taken to stand anywhere."""
        free = self.sampler.model_slice.free.values()
        read: list[str] = []
        for value in self.search.model.program.shared_values():
            if value.name in free:
                read += [control for _, control in value.reads()]
        return self.stick in read

    def _worst(self, full: Mapping[float, float]) -> dict[tuple[str, bool], Least]:
        """What takes the command away, and whether all of it -> where least is left by that."""
        worst: dict[tuple[str, bool], Least] = {}
        for end, (owners, numbers, left) in self.given().items():
            share = left / full[end]
            # of the situations with too little left only the worst are explained: explaining is
            # dear
            little = np.flatnonzero(share < SHARE - 1e-9)
            for i in little[np.argsort(share[little], kind="stable")][:MOST_LOOKED].tolist():
                hands = self._hands(int(owners[i]), int(numbers[i]))
                part = self._taker(int(owners[i]), hands, end)
                key = (part, bool(share[i] <= 1e-6))
                if key not in worst or share[i] < worst[key].share - 1e-9:
                    worst[key] = Least(float(share[i]), end, int(owners[i]), hands)
        return worst

    def _hands(self, case: int, number_: int) -> Mapping[str, float]:
        one = np.array([case], np.intp)
        look = self.search.looked(
            self.sampler, one, np.array([number_], np.intp), {self.stick: 0.0}
        )
        return self.search.hands_of(look, 0, self.sampler)

    # -- how much is given -----------------------------------------------------------------------

    def _authority(self, look: SampledCases, rest: SampledCases) -> Array:
        """By how much a command moves its surfaces the right way, in percent of full deflection,
        all of them together."""
        total = np.zeros(len(look.cases))
        for name, way in self.ways.items():
            lead = self.search.leads[name].name
            # what counts is where the surface goes from where it stood, in the sense that steers
            total = total + way * (look.stand(lead) - rest.stand(lead))
        return total / len(self.ways)

    def _clean(self, case: Places) -> dict[float, Array]:
        """What the command gives with everything at rest, at every position of the switch of its
        rates."""
        switch = next(a.switch for a in self.search.model.program.axes if a.command == self.command)
        rests = {k.name: k.values[k.rest] for k in self.sampler.grid.knobs if k.name != switch}
        owners, numbers, _ = self.search.reachable.rows(self.sampler, case, rests, 6)
        return self.looked(owners, numbers)

    def looked(self, owners: Places, numbers: Places) -> dict[float, Array]:
        """What is given in situations, for each end of the stick, as the engine has it."""
        mid = self.search.looked(self.sampler, owners, numbers, {self.stick: 0.0})
        ends = {
            end: self.search.looked(self.sampler, owners, numbers, {self.stick: end})
            for end in ENDS
        }
        return {end: self.sense(end) * self._authority(look, mid) for end, look in ends.items()}

    def given(self) -> dict[float, Given]:
        """What is given wherever the hands are, from what each set of them adds to the sums: those
        that act together with the stick everywhere, and the others where they push the sums
        furthest. A surface that is pushed has never more left on the way there than at both ends.
        Where conditions hang on the stick itself, they change as it moves, and every case is looked
        at by itself with all of its sets."""
        search, names = self.search, tuple(self.ways)
        reachable = self.stick in search.reachable.shared(self.sampler)
        fixed = {self.stick: 0.0, **search.still((self.stick,))}
        apart = search.apart(
            self.sampler, names, fixed, self.cases, (self.stick,) if reachable else ()
        )
        # the set in which the stick is: those controls act together with it
        mine = next((k for k, x in enumerate(apart.sets) if self.stick in x), 0)
        own = np.arange(len(apart)) if reachable else np.flatnonzero(apart.parts == mine)
        # the sums of every situation with the stick in the middle, and of its own set with it at
        # the end
        mid = self._sums(apart, np.arange(len(apart)), 0.0)
        at = apart.first(apart.numbers)
        moved, table = apart.numbers - at[apart.places], _table(apart, mine)
        search.count("S1", len(apart) + 2 * len(own), apart.whole)
        found = []
        for end in ENDS:
            far = mid.copy()
            far[own] = self._sums(apart, own, end)
            # where everything rests; "added" is what each situation of a set adds to that, at
            # both places of the stick
            start = np.stack([apart.first(mid), apart.first(far)], axis=1)
            added = np.stack([mid, far], axis=1) - start[apart.places]
            total, hands = start[:, None], at[:, None]
            for part in range(1, len(apart.sets)):
                if part != mine:
                    chosen = _extremes(
                        apart, part, added, np.array(list(self.ways.values()), float)
                    )
                    # too many combinations: only the one that adds least is taken, and the
                    # search is not complete
                    if total.size * len(chosen) * table.shape[1] > MOST_SUMS:
                        search.count("S1", 0, False)
                        chosen = chosen[:1]
                    rows = np.stack(chosen, axis=-1)[apart.like[part]]
                    total = (total[:, :, None] + added[rows][:, None]).reshape(
                        len(start), -1, *start.shape[1:]
                    )
                    hands = (hands[:, :, None] + moved[rows][:, None, :]).reshape(len(start), -1)
            # on top of what the other sets push: every situation of the stick's own set
            total = total[:, :, None] + added[table][:, None]
            left = sum(
                way * (search.standing(n, total[..., 1, i]) - search.standing(n, total[..., 0, i]))
                for i, (n, way) in enumerate(self.ways.items())
            )
            numbers = (hands[:, :, None] + moved[table][:, None, :]).reshape(len(start), -1)
            owners = np.repeat(apart.cases, numbers.shape[1])
            found.append(
                (
                    owners,
                    numbers.ravel().astype(np.intp),
                    self.sense(end) * np.ravel(left) / len(names),
                )
            )
        return {end: Given(*x) for end, x in zip(ENDS, found, strict=True)}

    def _sums(self, apart: SeparableInputs, rows: Places, value: float) -> Array:
        """What comes to the surfaces in some situations with the stick at a place: (situations,
        surfaces)."""
        look = self.search.looked(
            self.sampler, apart.owners[rows], apart.numbers[rows], {self.stick: value}
        )
        return np.stack([look.sum(n) for n in self.ways], axis=-1)

    # -- telling ---------------------------------------------------------------------------------

    def _lost(
        self,
        case: int,
        hands: Mapping[str, float],
        end: float,
        clean: float,
        share: float,
        part: str,
    ) -> Finding:
        command, stick, ways = self.command, self.stick, self.ways
        where = self.search.where(
            self.sampler, case, {n: v for n, v in hands.items() if n != stick}
        )
        level: Level = "danger" if share <= 1e-6 else "fault"
        variant = ""
        if share < -1e-6:
            variant = WRONG_WAY
            text = f"{command.capitalize()} goes the wrong way {where}."
        elif share <= 1e-6:
            text = f"There is no {command} {where}."
        else:
            text = f"Only {number(100 * share)} % of {command} is left {where}."
        way = [
            *self.search.reachable.way(
                case, self.sampler, {n: v for n, v in hands.items() if n != stick}
            ),
            SearchStep(stick, end),
        ]
        sign = self.sense(end)

        def check(played: Played) -> bool:
            before = max(0, played.last - 1)
            got = sum(
                w * float(self.search.stand(played, n)[-1] - self.search.stand(played, n)[before])
                for n, w in ways.items()
            )
            return sign * got / len(ways) < min(SHARE, share + 0.02) * max(clean, LOST) + 1e-6

        return replace(
            self.search.finding("S1", level, part, text, way, check, tuple(ways)), variant=variant
        )

    def _taker(self, case: int, hands: Mapping[str, float], end: float) -> str:
        """The place of what takes a command away: the axis itself, a line, or a stop."""
        one, command, stick = np.array([case], np.intp), self.command, self.stick

        def commanded(value: float) -> float:
            at = {n: np.array([v]) for n, v in {**hands, stick: value}.items()}
            given = self.search.reachable.look(self.sampler, one, at).commands.get(
                command, np.zeros(1)
            )
            return float(given[-1])  # nothing where no line reads it

        axis = f"program.axes[{self.search.axis_index(command)}]"
        given = next(a for a in self.search.model.program.axes if a.command == command)
        if abs(commanded(end) - commanded(0.0)) < 100.0 * SHARE:
            # the rate of the position at which the switch of the rates stands
            place = int(hands.get(given.switch or "", 0.0))
            if given.switch and given.switch not in hands:
                place = int(self.search.reachable.hands_at(one).get(given.switch, np.zeros(1))[0])
            return f"{axis}.settings[{place}]"
        best, found = -1e-6, f"{axis}.settings"
        for name, way in self.ways.items():
            sign = way * self.sense(end)
            first = self._amounts(case, {**hands, stick: 0.0}, name)
            then = self._amounts(case, {**hands, stick: end}, name)
            for path in {**first, **then}:
                more = sign * (then.get(path, 0.0) - first.get(path, 0.0))
                if more < best:
                    best, found = more, path
            # nothing takes it away and nothing gives it: its own line is where to look
            gives = any(sign * (then[p] - first.get(p, 0.0)) > LOST for p in then)
            if not gives and best > -LOST:
                found = self._first_line(name) or found
        return found

    def _first_line(self, target: str) -> str:
        """The first line that brings a command to a surface."""
        for line, path in zip(
            self.sampler.model_slice.model.program.mixes,
            self.sampler.model_slice.paths,
            strict=True,
        ):
            if line.target == target and line.source == self.command:
                return path
        return ""

    def _amounts(self, case: int, hands: Mapping[str, float], target: str) -> dict[str, float]:
        out: dict[str, float] = {}
        for c in self.search.why(self.sampler, case, hands, target):
            # what has no place in the document is the lead's own: where its servo ends, say
            path = f"leads[{self.search.lead_index(target)}]"
            if c.path:
                path = self.search.placed(self.sampler, c.path)
            out[path] = out.get(path, 0.0) + float(np.ravel(c.amount)[-1])
        return out


def _table(apart: SeparableInputs, part: int) -> Places:
    """For every case the situations of a part in which what stands for it is looked at, in as many
    columns as the most have."""
    rows = np.flatnonzero(apart.parts == part)
    places = apart.places[rows]
    order = np.argsort(places, kind="stable")
    stands, first, counts = np.unique(places[order], return_index=True, return_counts=True)
    out = np.empty((len(apart.cases), int(counts.max(initial=1))), np.intp)
    column = np.arange(out.shape[1])
    out[stands] = rows[order[first[:, None] + np.minimum(column, counts[:, None] - 1)]]
    return out[apart.like[part]]


def _extremes(apart: SeparableInputs, part: int, added: Array, ways: Array) -> list[Places]:
    """The situations of a part that push the sums furthest: each of them, all of them, and all of
    them the way they steer, to both sides; first where it adds least. Each once."""
    count = len(ways)
    # the directions in which sums are pushed: each alone, all together, all as they steer
    along = [*np.eye(count), np.ones(count), ways]
    chosen = [apart.best(part, -np.abs(added).sum(axis=(1, 2)))]
    # with the stick at one end and at the other; where both add the same, once
    states = [added[:, 0]]
    if np.abs(added[:, 0] - added[:, 1]).max(initial=0.0) > 1e-9:
        states.append(added[:, 1])
    for sums, direction in itertools.product(states, along):
        pushed = sums @ direction
        chosen += [apart.best(part, pushed), apart.best(part, -pushed)]
    stands = np.unique(apart.like[part])
    # what adds the same sums in every situation is one choice
    each: dict[bytes, Places] = {}
    for rows in chosen:
        added_there = np.round(added[rows[stands]], 9)
        each.setdefault(added_there.tobytes(), rows)
    return list(each.values())


class TurningMotors(MotorRule):
    """The rudder stick moves, and the motors turn the model the other way."""

    code = "S1"
    searches = False
    names_worst = False

    @classmethod
    def asked_of(cls, model: Model) -> bool:
        """Whether there are motors on both sides that could turn the model."""
        sides = {np.sign(m.y_mm) for m in model.airframe.motors}
        return model.program.axis("yaw") is not None and {-1.0, 1.0} <= sides

    def tried(self) -> int:
        return 0

    def by_act(self, act: MotorAct, n: int) -> tuple[Flags, Array] | None:
        if n != 0 or not act.knob or act.knob != self.motors.yaw:
            return None
        turned = sum(side * act.turned(k) for k, side in enumerate(self.motors.sides))
        wrong = -np.sign(act.moved(self.motors.yaw)) * np.asarray(turned)
        return np.asarray(act.was_armed & act.armed & act.linked & (wrong > MORE)), wrong

    def check(self, n: int, later: bool) -> Check:
        def check(played: Played) -> bool:
            return self._turn(played) < -MORE / 2

        return check

    def _turn(self, played: Played) -> float:
        """By how much the motors turn the model the way the last move of the rudder stick asks for,
        in percent of the pulse."""
        at = max(1, played.last)
        moved = played.at(self.motors.yaw, at) - played.at(self.motors.yaw, at - 1)
        turn = sum(side * self._gained(played, n) for n, side in enumerate(self.motors.sides))
        return float(np.sign(moved) * turn)

    def _gained(self, played: Played, n: int) -> float:
        """By how much a motor's pulse has gone up since before the last move."""
        stands = self.motors.standing(played, n)
        return float(stands[-1]) - float(stands[max(1, played.last) - 1])

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        motors, at = self.motors, max(1, played.last)
        moved = played.at(motors.yaw, at) - played.at(motors.yaw, at - 1)
        gained = [self._gained(played, k) for k in range(len(self.search.leads))]
        most = int(np.argmax(gained))
        by = f"{motors.label(most)} gets {number(gained[most] / 2)} % more power"
        part = motors.cause_of(played, most, at - 1, len(played.t_s) - 1) or "program.mixes"
        side = "right" if moved > 0 else "left"
        text = f"Rudder {side} makes the motors turn the model the wrong way: {by}."
        return MotorWords(part, text, "danger")


def _sticks(model: Model) -> Iterator[Finding]:
    """Sticks that move nothing at all: a pilot reaches for them all the same."""
    program = model.program
    read: set[str] = set()
    for placed in all_lines(model):
        read.update(placed.line.signals())
    for condition in program.logic:
        read.update(condition.signals())
    for value in program.shared_values():
        if value.adjuster is not None and value.adjuster.control:
            read.add(value.adjuster.control)
    for i, axis in enumerate(program.axes):
        if axis.command == "thrust" or {axis.command, axis.control} & read or not model.leads:
            continue
        others = [a for a in program.axes if a.control == axis.control and a.command in read]
        if not others:
            stick = control_label(model, axis.control)
            text = f"The {stick} moves nothing: no line reads {axis.command}. Is another stick meant to do its work?"
            yield Finding("S1", "advice", f"program.axes[{i}]", text)


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """Sticks that move nothing."""
    yield DocumentQuestion("idle sticks", lambda: _sticks(ask.model), len(ask.model.program.axes))


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Each command in every case."""
    for command in search.steered:
        ways = tuple(search.ways(command))
        if ways:
            yield SurfaceQuestion(f"{command} everywhere", partial(_found, search, command), ways)


def _found(search: SurfaceSearch, command: str) -> Iterator[Finding]:
    return Steering(search, command).found()


def repairs(model: Model, finding: Finding) -> Repairs:
    """A rate of its own for the position, or the line turned round or taken out."""
    axis = place_in(finding.part, "program.axes")
    old = None
    if axis is not None and re.search(r"settings\[\d+\]$", finding.part):
        old = get_at(model, finding.part)
    if old is not None:  # a position at which nothing is set has the full rate already
        least = {side: max(LEAST_RATE, getattr(old, side)) for side in ("rate_neg", "rate_pos")}
        yield (
            f"A rate of {plain(LEAST_RATE)} % at the least",
            lambda: with_at(model, finding.part, old.changed(least)),
        )
    line, i = line_named(model, finding), place_in(finding.part, "program.mixes")
    if line is not None and finding.variant == WRONG_WAY:
        yield f"Turn “{line.name}” round", lambda: with_at(model, finding.part, -line.gain)
    elif line is not None:
        yield f"Take out “{line.name}”", lambda: without_mix(model, i or 0)


STATEMENT = Statement(
    "S1", "In each flight mode and position, roll, pitch and yaw still move the model the right way.", "fault", "surfaces",
    motors=TurningMotors, document=on_paper, surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
