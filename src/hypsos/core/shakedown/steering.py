"""S1: in every case roll, pitch and yaw still move the model the right way, and far enough."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np

from hypsos.core.ground.lanes import Array, Places
from hypsos.core.model.words import number
from hypsos.core.shakedown.apart import Apart
from hypsos.core.shakedown.deciding import Look
from hypsos.core.shakedown.play import Played
from hypsos.core.shakedown.reach import Step
from hypsos.core.shakedown.statements import Finding, Level
from hypsos.core.shakedown.surfaces import LOST, SurfaceSearch

SHARE = 0.2
"""Of what a command gives with everything at rest: so much must be left in every case."""
MOST_EACH = 3
MOST_LOOKED = 8
"""Situations in which the cause is looked for, at each end of a stick."""
MOST_ROWS = 60_000
MOST_SUMS = 6_000_000
"""Sums made of what the parts of the hands give, at the most."""
ENDS = (-100.0, 100.0)


class _Left(NamedTuple):
    """What a command gives in situations, in percent: the case and the number of the hands of each, and for each end of the
    stick how far its surfaces go the right way."""

    owners: Places
    numbers: Places
    given: dict[float, Array]


class Steering:
    """A command in every case that decides; the other sticks and the trims are left alone."""

    def __init__(self, search: SurfaceSearch, command: str) -> None:
        self.search, self.command, self.stick = search, command, search.steered[command]
        self.ways = search.ways(command)
        self.eye = search.deciding.eye(self.ways)
        self.cases = self._flown()

    def _flown(self) -> Places:
        """The cases in which the receiver has power and hears the transmitter: only then there is anything to steer with."""
        cases, deciding = self.search.deciding.cases(self.eye), self.search.deciding
        for knob in deciding.space.knobs:
            if knob.name in ("link", "power"):
                on = np.array(knob.values)[deciding.columns[f"place:{knob.name}"][cases]] > 0
                cases = cases[on]
        return cases

    def sense(self, end: float) -> float:
        """Which way the command goes as the stick goes to an end."""
        return (-1.0 if self.command == "pitch" else 1.0) * (1.0 if end > 0 else -1.0)

    def found(self) -> Iterator[Finding]:
        """A command that is lost, or goes the wrong way, in some case."""
        cases = self.cases
        if not self.ways or not len(cases):
            return
        clean = self._clean(cases[:1])
        for end in ENDS:
            if np.max(clean[end]) <= LOST:  # nothing even with all at rest, or the wrong way
                wrong = float(np.min(clean[end])) < -LOST
                part = self._taker(int(cases[0]), {}, end)
                if wrong or not part.startswith("program.axes"):
                    part = next((x for n in self.ways if (x := self._first_line(n))), part)
                yield self._lost(int(cases[0]), {}, end, float(np.max(clean[end])), -1.0 if wrong else 0.0, part)
                return
        self.search.straight("S1", self.eye, self.ways)
        left = self._everywhere() if self.stick in self.search.deciding.shared(self.eye) else self._apart()
        worst: dict[tuple[str, bool], tuple[float, float, int, Mapping[str, float]]] = {}
        for end in ENDS:
            share = left.given[end] / float(np.max(clean[end]))
            little = np.flatnonzero(share < SHARE - 1e-9)
            hands: Mapping[str, float]
            for i in little[np.argsort(share[little], kind="stable")][:MOST_LOOKED].tolist():
                hands = self._hands(int(left.owners[i]), int(left.numbers[i]))
                part = self._taker(int(left.owners[i]), hands, end)
                key = (part, bool(share[i] <= 1e-6))
                if key not in worst or share[i] < worst[key][0] - 1e-9:
                    worst[key] = (float(share[i]), end, int(left.owners[i]), hands)
        for (part, _), (share_, end, case, hands) in sorted(worst.items(), key=lambda x: (x[1][0], x[0]))[:MOST_EACH]:
            yield self._lost(case, hands, end, float(np.max(clean[end])), share_, part)

    def _hands(self, case: int, number_: int) -> Mapping[str, float]:
        one = np.array([case], np.intp)
        look = self.search.looked(self.eye, one, np.array([number_], np.intp), {self.stick: 0.0})
        return self.search.hands_of(look, 0, self.eye)

    # -- how much is given ------------------------------------------------------------------------------------------------

    def _authority(self, look: Look, rest: Look) -> Array:
        """By how much a command moves its surfaces the right way, in percent of full deflection, all of them together."""
        total = np.zeros(len(look.cases))
        for name, way in self.ways.items():
            lead = self.search.leads[name].name
            total = total + way * (look.stand(lead) - rest.stand(lead))
        return total / len(self.ways)

    def _clean(self, case: Places) -> dict[float, Array]:
        """What the command gives with everything at rest, at every position of the switch of its rates."""
        switch = next(a.switch for a in self.search.model.program.axes if a.command == self.command)
        rests = {k.name: k.values[k.rest] for k in self.eye.space.knobs if k.name != switch}
        owners, numbers, _ = self.search.deciding.rows(self.eye, case, rests, 6)
        return self._given(owners, numbers)

    def _given(self, owners: Places, numbers: Places) -> dict[float, Array]:
        mid = self.search.looked(self.eye, owners, numbers, {self.stick: 0.0})
        ends = {end: self.search.looked(self.eye, owners, numbers, {self.stick: end}) for end in ENDS}
        return {end: self.sense(end) * self._authority(look, mid) for end, look in ends.items()}

    def _everywhere(self) -> _Left:
        """What is given wherever the hands are: where conditions hang on the stick itself, they change as it moves."""
        fixed = {self.stick: 0.0, **self.search.still((self.stick,))}
        owners, numbers, whole = self.search.deciding.rows(self.eye, self.cases, fixed, MOST_ROWS)
        self.search.count("S1", 3 * len(owners), whole)
        return _Left(owners, numbers, self._given(owners, numbers))

    def _apart(self) -> _Left:
        """What is given wherever the hands are, from what each set of them adds to the sums: those that act together with the
        stick everywhere, and the others where they push the sums furthest. A surface that is pushed has never more left on
        the way there than at both ends."""
        search, names = self.search, tuple(self.ways)
        fixed = {self.stick: 0.0, **search.still((self.stick,))}
        apart = search.apart(self.eye, names, fixed, self.cases)
        mine = next((k for k, x in enumerate(apart.sets) if self.stick in x), 0)
        mid = search.looked(self.eye, apart.owners, apart.numbers, {self.stick: 0.0})
        own = np.flatnonzero(apart.parts == mine)
        ends = {e: search.looked(self.eye, apart.owners[own], apart.numbers[own], {self.stick: e}) for e in ENDS}
        sums = np.stack([mid.sum(n) for n in names], axis=-1)
        start, at = apart.first(sums), apart.first(apart.numbers)
        added, moved = sums - start[apart.places], apart.numbers - at[apart.places]
        total, hands, whole = start[:, None, :], at[:, None], True
        table = _table(apart, own, mine)
        for part in range(1, len(apart.sets)):
            if part != mine:
                chosen = _extremes(apart, part, added, np.array(list(self.ways.values()), float))
                if total.size * len(chosen) * table.shape[1] > MOST_SUMS:
                    whole, chosen = False, chosen[:1]
                rows = np.stack(chosen, axis=-1)[apart.like[part]]
                total = (total[:, :, None, :] + added[rows][:, None, :, :]).reshape(len(start), -1, len(names))
                hands = (hands[:, :, None] + moved[rows][:, None, :]).reshape(len(start), -1)
        search.count("S1", len(apart) + 2 * len(own), whole)
        place = np.full(len(apart), -1, np.intp)
        place[own] = np.arange(len(own))
        shape = (*hands.shape, table.shape[1])
        given = {}
        middle = total[:, :, None, :] + added[table][:, None, :, :]
        for end, look in ends.items():
            far = np.stack([look.sum(n) for n in names], axis=-1) - start[apart.places[own]]
            got = total[:, :, None, :] + far[place[table]][:, None, :, :]
            left = sum(
                way * (search.standing(n, got[..., i]) - search.standing(n, middle[..., i]))
                for i, (n, way) in enumerate(self.ways.items())
            )
            given[end] = self.sense(end) * np.ravel(left) / len(names)
        numbers: Places = np.ravel(hands[:, :, None] + moved[table][:, None, :]).astype(np.intp)
        owners = np.repeat(apart.cases, shape[1] * shape[2])
        return _Left(owners, numbers, given)

    # -- telling ----------------------------------------------------------------------------------------------------------

    def _lost(
        self, case: int, hands: Mapping[str, float], end: float, clean: float, share: float, part: str
    ) -> Finding:
        command, stick, ways = self.command, self.stick, self.ways
        where = self.search.where(self.eye, case, {n: v for n, v in hands.items() if n != stick})
        level: Level = "danger" if share <= 1e-6 else "fault"
        if share < -1e-6:
            text = f"{command.capitalize()} goes the wrong way {where}."
        elif share <= 1e-6:
            text = f"There is no {command} {where}."
        else:
            text = f"Only {number(100 * share)} % of {command} is left {where}."
        way = [
            *self.search.deciding.way(case, self.eye, {n: v for n, v in hands.items() if n != stick}),
            Step(stick, end),
        ]
        sign = self.sense(end)

        def check(played: Played) -> bool:
            before = max(0, played.last - 1)
            got = sum(
                w * float(self.search.stand(played, n)[-1] - self.search.stand(played, n)[before])
                for n, w in ways.items()
            )
            return sign * got / len(ways) < min(SHARE, share + 0.02) * max(clean, LOST) + 1e-6

        return self.search.finding("S1", level, part, text, way, check, tuple(ways))

    def _taker(self, case: int, hands: Mapping[str, float], end: float) -> str:
        """The place of what takes a command away: the axis itself, a line, or a stop."""
        one, command, stick = np.array([case], np.intp), self.command, self.stick

        def commanded(value: float) -> float:
            at = {n: np.array([v]) for n, v in {**hands, stick: value}.items()}
            given = self.search.deciding.look(self.eye, one, at).result.commands.get(command, np.zeros(1))
            return float(np.ravel(given)[-1])  # nothing where no line reads it

        axis = f"program.axes[{self.search.axis_index(command)}]"
        given = next(a for a in self.search.model.program.axes if a.command == command)
        if abs(commanded(end) - commanded(0.0)) < 100.0 * SHARE:
            place = int(hands.get(given.switch or "", 0.0))
            if given.switch and given.switch not in hands:
                place = int(self.search.deciding.hands_at(one).get(given.switch, np.zeros(1))[0])
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
            if not any(sign * (then.get(p, 0.0) - first.get(p, 0.0)) > LOST for p in then) and best > -LOST:
                found = self._first_line(name) or found
        return found

    def _first_line(self, target: str) -> str:
        """The first line that brings a command to a surface."""
        for line, path in zip(self.eye.cone.model.program.mixes, self.eye.cone.paths, strict=True):
            if line.target == target and line.source == self.command:
                return path
        return ""

    def _amounts(self, case: int, hands: Mapping[str, float], target: str) -> dict[str, float]:
        out: dict[str, float] = {}
        for c in self.search.why(self.eye, case, hands, target):
            path = self.search.placed(self.eye, c.path) if c.path else f"leads[{self.search.lead_index(target)}]"
            out[path] = out.get(path, 0.0) + float(np.ravel(c.amount)[-1])
        return out


def _table(apart: Apart, rows: Places, part: int) -> Places:
    """For every case the situations of a part in which what stands for it is looked at, in as many columns as the most have."""
    places = apart.places[rows]
    order = np.argsort(places, kind="stable")
    stands, first, counts = np.unique(places[order], return_index=True, return_counts=True)
    out = np.empty((len(apart.cases), int(counts.max(initial=1))), np.intp)
    column = np.arange(out.shape[1])
    out[stands] = rows[order[first[:, None] + np.minimum(column, counts[:, None] - 1)]]
    return out[apart.like[part]]


def _extremes(apart: Apart, part: int, added: Array, ways: Array) -> list[Places]:
    """The situations of a part that push the sums furthest: each of them, all of them, and all of them the way they steer, to
    both sides; first where it adds least. Each once."""
    count = len(ways)
    along = [np.eye(count)[i] for i in range(count)] + [np.ones(count), ways]
    chosen = [apart.best(part, -np.abs(added).sum(axis=1))]
    chosen += [apart.best(part, side * (added @ v)) for v in along for side in (1.0, -1.0)]
    stands = np.unique(apart.like[part])
    seen, out = set[bytes](), []
    for rows in chosen:
        told = np.round(added[rows[stands]], 9).tobytes()
        if told not in seen:
            seen.add(told)
            out.append(rows)
    return out
