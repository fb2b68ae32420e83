# SPDX-License-Identifier: GPL-3.0-or-later
"""What is played when a translation is proved: hands in every position, and moves in time.

Sought: moves in which two transmitters that differ anywhere send different pulses.

*Looks* put the hands into many positions, one after the other, and wait until everything slow has
come to rest: every combination of switches, with sticks, sliders and levers at the places where
anything bends or is compared, beside those places and between them, corners first; then each sum is
brought to both of its ends. *Crossings* bring each hand to where it is compared, from both of its
ends. *Beginnings* switch the receiver on while it hears nothing. *Armings* put the motor's switch
to run with the stick low and nearly low, and what else reaches a motor anywhere. *Interruptions*
stop a running motor for a while and let it go on. *Timings* play the motor's switch, the stick, the
link and what else reaches a motor, with waits a little shorter and a little longer than every time
that either side knows. *Minutes* are random moves of all hands with drop-outs of link and power.
*Scenarios* are the model's own.

The draws begin from a fixed number: the same design is played in the same way each time."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.review.search.input_grid import EVERY_BEND, grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.scenarios.scenario_run import situation_of
from hypsos.core.schools.figures import Bend, Numbers
from hypsos.core.schools.from_model.hardware import keyed_leads
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.reach import reaching
from hypsos.core.schools.sum_ends import Hands, ends_of_sums

SEED = 20260
MOST_COMBINATIONS = 220
MOST_EACH = 96
"""So many looks there are at the most with the switches in one combination."""
MOST_LOOKS, LEAST_LOOKS = 1300, 150
"""So many situations are looked at, about."""
TIMINGS_S = 24.0
EACH_CROSSING = 9
"""So often each place is crossed from each side: every position of any two switches of three meets."""
EACH_BEGINNING = 3
BESIDE = 0.5
"""Percent beside a place at which something is compared: half of the coarsest usual step."""


NEARLY_LOW = 10.0
"""Percent above the rest of the thrust's stick."""
NEAR_CORNER = 2.0
"""Percent from the corner of a bend."""


class Battery(NamedTuple):
    """Moves that are played side by side: (N, T) by hand, lever or surrounding."""

    name: str
    t_s: Numbers
    tracks: dict[str, Numbers]

    @property
    def rows(self) -> int:
        """How many situations."""
        return max(int(x.shape[0]) for x in self.tracks.values())

    def part(self, row: int, frames: int) -> Battery:
        """One situation, so many frames of it."""
        shape = (self.rows, len(self.t_s))
        tracks = {
            name: np.broadcast_to(x, shape)[row : row + 1, :frames]
            for name, x in self.tracks.items()
        }
        return Battery(self.name, self.t_s[:frames], tracks)

    def held(self, name: str, frame: int) -> Battery | None:
        """The same without the act of a hand in a frame: it stays as it was before, until its next
        act; in the first frame without any act of it. None where there is none."""
        track = self.tracks[name]
        changes = np.flatnonzero((track[:, 1:] != track[:, :-1]).any(axis=0)) + 1
        later = changes[changes > frame]
        if frame == 0:
            if not len(later):
                return None
            until = track.shape[1]
        elif frame in changes:
            until = int(later[0]) if len(later) else track.shape[1]
        else:
            return None
        made = track.copy()
        made[:, frame:until] = track[:, [max(0, frame - 1)]]
        return self._replace(tracks={**self.tracks, name: made})


class HandPlaces(NamedTuple):
    """What can be moved: by name the places worth a look; the switches; where all rest."""

    places: dict[str, tuple[float, ...]]
    switches: tuple[str, ...]
    rest: dict[str, float]


def hands_of(model: Model, radios: Sequence[Radio]) -> HandPlaces:
    """What can be moved in a model and in these transmitters, with the places that tell anything
    apart in one of them."""
    rest = resting(model)
    parts = [p.name for p in model.airframe.moved()]
    guarded = bool(model.airframe.motors) and model.program.guard is not None
    cut = slice_of(model, parts, guard=guarded, outputs=True, in_time=True)
    told = {k.name: set(k.values) for k in grid_of(cut, most=EVERY_BEND).knobs}
    for radio in radios:
        for name, found in _compared(radio):
            told.setdefault(name, set()).update(found)
    places, switches = {}, []
    reach: dict[str, float] = {}
    for radio in radios:
        for x in radio.levers:
            reach[x.name] = max(x.reach, reach.get(x.name, 0.0))
    for name in rest:
        low, high = control_bounds(model, name)
        if name in reach:
            # as far as the lever of either side goes
            low, high = min(low, -reach[name]), max(high, reach[name])
        control = model.transmitter.control(name)
        if control is not None and control.is_switch:
            places[name] = tuple(float(i) for i in range(len(control.positions)))
            switches.append(name)
            continue
        values = {low, high, rest[name], *(v for v in told.get(name, ()) if low <= v <= high)}
        places[name] = tuple(sorted(values))
    return HandPlaces(places, tuple(switches), rest)


def _compared(radio: Radio) -> Iterator[tuple[str, set[float]]]:
    """Hands with the places at which a transmitter compares or bends them, and beside these."""
    for rule in radio.rules:
        if rule.kind in ("above", "below"):
            levels = {rule.level, -rule.level} if rule.size else {rule.level}
            beside = {x + d for x in levels for d in (-BESIDE, 0.0, BESIDE)}
            yield rule.a, beside
            if rule.b:
                yield rule.b, beside
    asked = {command.name: command.feels for command in radio.commands}
    for feels in asked.values():
        for feel in feels:
            if feel.bend is not None:
                yield feel.control, _turned(_corners(feel.bend), feel.turned)
    for made in radio.sums:
        for share in made.shares:
            if share.bend is None:
                continue
            xs = _corners(share.bend)
            yield share.source, xs
            # of a command it is the hand that goes there, about
            for feel in asked.get(share.source, ()):
                yield feel.control, _turned(xs, feel.turned)


def _corners(bend: Bend) -> set[float]:
    """The corners of a bend, and places near each on both sides: there one that is moved shows
    most."""
    xs = [x for x, _ in bend.points]
    found = set(xs)
    for one, two in itertools.pairwise(xs):
        near = min(NEAR_CORNER, (two - one) / 4.0)
        found |= {one + near, two - near}
    return found


def _turned(xs: set[float], turned: bool) -> set[float]:
    return {-x for x in xs} if turned else xs


def times_of(radio: Radio) -> set[float]:
    """Every time that a transmitter or its receiver waits for, in seconds."""
    found = {rule.seconds for rule in radio.rules if rule.seconds}
    found.add(radio.receiver.after_s)
    return found


def settling_s(radio: Radio) -> float:
    """How long it takes until a hand's movement is through: the longest slow movement and the
    longest fade."""
    slow = [0.0]
    for made in radio.sums:
        slow += [max(x.slow_in, x.slow_out) for x in made.shares]
    slow += [max(x.slow_up, x.slow_down) for x in radio.channels]
    return min(6.0, max(slow) * 1.1 + max([0.0, *(m.fade_s for m in radio.modes)]) + 0.1)


def design_settling_s(model: Model) -> float:
    """The same of a design: its slow movements, fades and outputs."""
    program = model.program
    slow = [0.0, *(max(x.in_s, x.out_s) for x in program.mixes)]
    slow += [max(x.slow_up_s, x.slow_down_s) for x in model.leads]
    fade = max([0.0, *(m.fade_s for m in program.modes)])
    return min(6.0, max(slow) * 1.1 + fade + 0.1)


class MoveMaker:
    """Makes the moves of a proof."""

    def __init__(self, model: Model, radios: Sequence[Radio], share: float = 1.0) -> None:
        self._model, self._radios = model, radios
        self._frame_s = model.program.frame_s
        self._hands = hands_of(model, radios)
        self._rng = np.random.default_rng(SEED)
        self._times = sorted(set().union(*(times_of(r) for r in radios)))
        self._settle = max([design_settling_s(model), *(settling_s(r) for r in radios)])
        self._share = share
        guard = model.program.guard
        self._guard = guard if model.airframe.motors else None
        axis = model.program.axis("thrust")
        self._thrust = axis.control if axis is not None else "throttle_stick"

    def leads_nowhere_else(self, other: MoveMaker) -> bool:
        """Whether another one puts the hands into the same places, and waits for the same times."""
        same_times = self._times == other._times and self._settle == other._settle
        return same_times and self._hands == other._hands

    def all(self, in_minutes: bool = True) -> Iterator[Battery]:
        """The batteries, the quickest first; ``in_minutes``: random moves of minutes, too."""
        yield self.looks()
        yield from (x for x in (self.crossings(), self.beginnings()) if x is not None)
        if self._guard is not None:
            yield self.armings()
            yield self.interruptions()
        found = [self.timings() if self._guard is not None else None, self.scenarios()]
        found.append(self.minutes() if in_minutes else None)
        played = [x for x in found if x is not None]
        if played:
            yield _side_by_side(played)

    # -- looks ---------------------------------------------------------------------------------------

    def looks(self, to_ends: bool = True) -> Battery:
        """Hands put into position after position; ``to_ends``: each sum is brought to its ends,
        too, which takes a while to find."""
        combos = self._combinations()
        wanted = max(LEAST_LOOKS, self._share * MOST_LOOKS)
        each = max(2, min(MOST_EACH, round(wanted / len(combos))))
        rows = [dict(c) for c in combos for _ in range(each)]
        targets = [self._placed(rows, first) for first in (True, False)]
        count = len(rows)
        if to_ends:
            targets, count = self._with_ends(targets), count + len(self._ends)
        lead_in = self._arming()
        hold = self._frames(self._settle)
        t = self._times_of(lead_in + 2 * hold)
        tracks = {}
        for name, rest in self._hands.rest.items():
            x = np.full((count, len(t)), rest)
            x[:, :lead_in] = self._in_arming(name, lead_in)
            x[:, lead_in : lead_in + hold] = targets[0][name][:, None]
            x[:, lead_in + hold :] = targets[1][name][:, None]
            tracks[name] = x
        return Battery("looks", t, tracks)

    def _with_ends(self, targets: list[dict[str, Numbers]]) -> list[dict[str, Numbers]]:
        """Places in each row, and more rows: each sum brought to its low end, then to its high
        one."""
        out = []
        for k, placed in enumerate(targets):
            ends = {n: np.array([pair[k][n] for pair in self._ends]) for n in placed}
            out.append({n: np.concatenate([placed[n], ends[n]]) for n in placed})
        return out

    @cached_property
    def _ends(self) -> list[tuple[Hands, Hands]]:
        """The hands that bring each sum to its low end, and to its high one."""
        hands, guard = self._hands, self._guard
        ends = {n: x if n in hands.switches else (x[0], x[-1]) for n, x in hands.places.items()}
        rest = dict(hands.rest)
        if guard is not None:
            # a motor that is cut is at the end of nothing
            ends[guard.switch] = self._run_places()
            rest[guard.switch] = self._run_place()
        targets = [x.target for x in self._model.leads if x.port is not None]
        # the draws for it are its own: other moves stay as they are
        rng = np.random.default_rng(SEED)
        return ends_of_sums(self._model, targets, ends, rest, rng)

    def _combinations(self) -> list[dict[str, float]]:
        """Every combination of switches, or as many of them as are looked at."""
        places = [[(n, v) for v in self._hands.places[n]] for n in self._hands.switches]
        count = int(np.prod([len(p) for p in places])) if places else 1
        if count <= MOST_COMBINATIONS:
            return [dict(x) for x in itertools.product(*places)]
        found = []
        for _ in range(MOST_COMBINATIONS):
            found.append({p[0][0]: p[int(self._rng.integers(len(p)))][1] for p in places})
        return found

    def _placed(self, rows: Sequence[dict[str, float]], corners: bool) -> dict[str, Numbers]:
        """Where every hand is put in every row: switches as said, the rest at corners or drawn."""
        out = {}
        for name, places in self._hands.places.items():
            if name in self._hands.switches:
                out[name] = np.array([row[name] for row in rows])
                continue
            lever = name.endswith("_trim")
            values = self._drawn(places, len(rows), corners)
            still = self._rng.random(len(rows)) < (0.7 if lever else 0.25)
            out[name] = np.where(still, self._hands.rest[name], values)
        return out

    def _drawn(self, places: tuple[float, ...], count: int, corners: bool) -> Numbers:
        """Places drawn from those that tell anything apart, and from between them."""
        rng, known = self._rng, np.array(places)
        if corners:
            return np.asarray(rng.choice(known[[0, -1]], count))
        at = rng.choice(known, count)
        between = rng.uniform(known[0], known[-1], count)
        return np.where(rng.random(count) < 0.6, at, between)

    def _frames(self, seconds: float) -> int:
        return max(1, round(seconds / self._frame_s))

    def _times_of(self, frames: int) -> Numbers:
        """The times of so many frames from power-up."""
        return np.arange(frames, dtype=np.float64) * self._frame_s

    def _arming(self) -> int:
        """Frames of the way in: the motor's switch goes to run with the stick low."""
        if self._guard is None:
            return self._frames(0.1)
        return self._frames(0.2 + max(self._guard.rest_s, 0.2) + 0.1)

    def _in_arming(self, name: str, frames: int) -> Numbers:
        x = np.full(frames, self._hands.rest[name])
        if self._guard is not None and name == self._guard.switch:
            x[-2:] = self._run_place()
        return x

    def _run_places(self) -> tuple[float, ...]:
        """The positions of the motor's switch that don't cut; where all do, all of them."""
        assert self._guard is not None
        places = self._hands.places[self._guard.switch]
        return tuple(p for p in places if int(p) not in self._guard.cut) or places

    def _run_place(self) -> float:
        return self._run_places()[0]

    # -- crossings and beginnings --------------------------------------------------------------------

    def crossings(self) -> Battery | None:
        """Each hand goes from either of its ends to just before a place at which a transmitter
        compares it, and to just beyond it, with the motors running; None where nothing is compared.

        A condition with hysteresis is on or off between two places by where its hand came from;
        hands that are drawn seldom come from there and stop between them."""
        levels = [(n, x) for n, found in self._levels().items() for x in sorted(found)]
        if not levels:
            return None
        # the draws are of their own: other moves stay as they are
        rng = np.random.default_rng(SEED + 1)
        crossed = []
        for name, level in levels:
            places = self._hands.places[name]
            for far in (places[0], places[-1]):
                crossed += [(name, far, level + beside) for beside in (-BESIDE, BESIDE)]
        rows = [row for row in crossed for _ in range(EACH_CROSSING)]
        lead_in, hold = self._arming(), self._frames(self._settle)
        t = self._times_of(lead_in + 2 * hold)
        tracks = {}
        for name, rest in self._hands.rest.items():
            x = np.full((len(rows), len(t)), rest)
            x[:, :lead_in] = self._in_arming(name, lead_in)
            x[:, lead_in:] = self._beside_a_crossing(name, len(crossed), rng)[:, None]
            tracks[name] = x
        for row, (name, far, to) in enumerate(rows):
            tracks[name][row, lead_in : lead_in + hold] = far
            tracks[name][row, lead_in + hold :] = to
        return Battery("crossings", t, tracks)

    def _levels(self) -> dict[str, set[float]]:
        """The places at which a transmitter compares a hand, by hand."""
        found: dict[str, set[float]] = {}
        for radio in self._radios:
            for rule in radio.rules:
                for name in (rule.a, rule.b):
                    if rule.kind in ("above", "below") and name in self._hands.places:
                        levels = {rule.level, -rule.level} if rule.size else {rule.level}
                        found.setdefault(name, set()).update(levels)
        return found

    def _beside_a_crossing(self, name: str, count: int, rng: np.random.Generator) -> Numbers:
        """Where a hand stands while another one crosses: a switch at each of its positions as often
        as at any other, the motor's at run."""
        if self._guard is not None and name == self._guard.switch:
            places = self._run_places()
        else:
            places = self._hands.places[name]
        if name not in self._hands.switches:
            drawn = rng.choice(
                np.array([places[0], self._hands.rest[name], places[-1]]), count * EACH_CROSSING
            )
            return np.asarray(drawn)
        in_turn = np.resize(np.array(places), EACH_CROSSING)
        return np.concatenate([rng.permutation(in_turn) for _ in range(count)])

    def beginnings(self) -> Battery:
        """The receiver is switched on while it hears nothing: from the beginning, or again while the
        link is lost; with the hands at their ends. Then it hears."""
        rng = np.random.default_rng(SEED + 2)
        silent = self._frames(max(x.receiver.after_s for x in self._radios) + 0.3)
        begin, off = self._arming() + self._frames(0.3), self._frames(0.5)
        frames = begin + off + 2 * silent + self._frames(self._settle)
        # what is away, from when to when
        losses: list[dict[str, tuple[int, int]]] = [{"link": (0, silent)}]
        for source in ("power", "flight_battery"):
            losses.append({"link": (begin, begin + off + 2 * silent), source: (begin, begin + off)})
            losses.append({source: (begin, begin + off)})
        rows = [loss for loss in losses for _ in range(EACH_BEGINNING)]
        tracks = {}
        for name, rest in self._hands.rest.items():
            x = np.full((len(rows), frames), rest)
            x[:, : self._arming()] = self._in_arming(name, self._arming())
            x[:, self._arming() :] = self._beside_a_beginning(name, len(rows), rng)[:, None]
            tracks[name] = x
        for source in ("link", "power", "flight_battery"):
            tracks[source] = np.ones((len(rows), frames))
        for row, loss in enumerate(rows):
            for source, (first, end) in loss.items():
                tracks[source][row, first:end] = 0.0
        return Battery("beginnings", self._times_of(frames), tracks)

    def _beside_a_beginning(self, name: str, count: int, rng: np.random.Generator) -> Numbers:
        places = self._hands.places[name]
        if self._guard is not None and name == self._guard.switch:
            places = self._run_places()
        return np.asarray(rng.choice(np.array(places), count))

    # -- armings -------------------------------------------------------------------------------------

    def armings(self) -> Battery:
        """The motor's switch goes to each of its places with the stick low, and nearly low, and what
        else reaches a motor anywhere; then the stick goes up."""
        assert self._guard is not None
        thrust, switch = self._thrust, self._guard.switch
        places, rest = self._hands.places, self._hands.rest
        lows = [p for p in places[thrust] if abs(p - rest[thrust]) <= NEARLY_LOW]
        runs = [p for p in places[switch] if int(p) not in self._guard.cut]
        each = max(3, round(self._share * 14))
        besides = [n for n in self._reaching_motors() if n not in (thrust, switch)]
        rows = [(low, run) for low in lows for run in runs for _ in range(each)]
        waits = (0.1, self._guard.rest_s + 0.1, 0.4, 0.3)
        at = np.cumsum([0, *(self._frames(x) for x in waits)]).tolist()
        t = self._times_of(at[-1])
        tracks = {name: np.full((len(rows), len(t)), value) for name, value in rest.items()}
        for row, (low, run) in enumerate(rows):
            for name in besides:
                tracks[name][row, at[1] :] = self._drawn_place(name)
            tracks[thrust][row, at[1] :] = low
            tracks[switch][row, at[2] :] = run
            tracks[thrust][row, at[3] :] = self._drawn_place(thrust)
        return Battery("armings", t, tracks)

    def interruptions(self) -> Battery:
        """The motor runs; a switch or a loss of the link comes between for a while; the stick rests low
        for a while; then it goes up. Each while is in turn a little shorter and a little longer than
        every time that either side knows."""
        assert self._guard is not None
        rest, thrust = self._hands.rest, self._thrust
        switches = [n for n in self._reaching_motors() if n in self._hands.switches]
        stops = [(n, p) for n in switches for p in self._hands.places[n] if p != rest[n]]
        usual, lost = self._guard.rest_s + 0.1, 0.6 * self._guard.relock_s
        rows: list[tuple[str, float, tuple[float, ...]]] = []
        for name, place in [*stops, ("link", 0.0)]:
            for wait in self._waits().tolist():
                rows += [(name, place, (wait, usual)), (name, place, (0.3, wait))]
        # two losses that are long enough together, and the link back for a while between them
        rows += [("link", 0.0, (lost, wait, lost, usual)) for wait in self._waits().tolist()]
        begin = self._arming() + self._frames(0.2)
        whiles = [[self._frames(x) for x in row[2]] for row in rows]
        frames = begin + max(sum(x) for x in whiles) + self._frames(0.3)
        tracks = {name: np.full((len(rows), frames), value) for name, value in rest.items()}
        tracks["link"] = np.ones((len(rows), frames))
        tracks[self._guard.switch][:, self._arming() - 2 :] = self._run_place()
        tracks[thrust][:, self._arming() :] = self._hands.places[thrust][-1]
        for row, ((name, place, _), spans) in enumerate(zip(rows, whiles, strict=True)):
            tracks[thrust][row, begin : begin + sum(spans)] = rest[thrust]
            at = begin
            for which, span in enumerate(spans):
                if which % 2 == 0:
                    tracks[name][row, at : at + span] = place
                at += span
        return Battery("interruptions", self._times_of(frames), tracks)

    def _drawn_place(self, name: str) -> float:
        """A place of a hand: one of its ends as often as any."""
        places = self._hands.places[name]
        if self._rng.random() < 0.5:
            return places[0] if self._rng.random() < 0.5 else places[-1]
        return places[int(self._rng.integers(len(places)))]

    # -- timings -------------------------------------------------------------------------------------

    def timings(self) -> Battery:
        """The motor's switch, the stick and the link, with waits about every time there is. In every
        other row the hands that reach a motor besides stand somewhere, and go somewhere else now
        and then, and the stick is often nearly low: a motor that is mixed with a rudder is not low
        just because its stick is."""
        assert self._guard is not None
        waits = self._waits()
        rows = max(8, int(self._share * 48))
        frames = self._frames(TIMINGS_S * max(0.25, min(1.0, 4.0 * self._share)))
        t = self._times_of(frames)
        rest = self._hands.rest
        tracks = {name: np.full((rows, frames), value) for name, value in rest.items()}
        tracks["link"] = np.ones((rows, frames))
        moved = [self._guard.switch, self._thrust, "link"]
        moved += [c for c in self._asked_by_guard() if c not in moved]
        besides = [n for n in self._reaching_motors() if n not in moved]
        for row in range(rows):
            others = besides if row % 2 else []
            for name in others:
                tracks[name][row] = self._other(name, rest[name])
            at = self._frames(0.3)
            while at < frames:
                among = others if others and self._rng.random() < 0.2 else moved
                name = among[int(self._rng.integers(len(among)))]
                now = tracks[name][row, at - 1]
                nearly = others and name == self._thrust and self._rng.random() < 0.5
                to = self._nearly_low(now) if nearly else self._other(name, now)
                tracks[name][row, at:] = to
                at += self._frames(float(self._rng.choice(waits)))
        return Battery("timings", t, tracks)

    def _nearly_low(self, now: float) -> float:
        """A place for the thrust's stick near its rest."""
        rest = self._hands.rest[self._thrust]
        near = [p for p in self._hands.places[self._thrust] if 0 < abs(p - rest) <= NEARLY_LOW]
        return near[int(self._rng.integers(len(near)))] if near else now

    def _reaching_motors(self) -> list[str]:
        """The hands on which a motor's output hangs in any of the transmitters."""
        motors = {m.name for m in self._model.airframe.motors}
        leads = keyed_leads(self._model)
        ports = {x.port for x in leads if x.target in motors and x.port is not None}
        found: set[str] = set()
        for radio in self._radios:
            there = ports & {channel.port for channel in radio.channels}
            found |= {hand.name for hand in reaching(radio, there).hands}
        return sorted(found & set(self._hands.places))

    def _asked_by_guard(self) -> list[str]:
        """Switches on which the guard's conditions may hang."""
        guard = self._guard
        if guard is None or not (guard.holds or guard.also or guard.start_check):
            return []
        return [n for n in self._reaching_motors() if n in self._hands.switches]

    def _waits(self) -> Numbers:
        """A little shorter and a little longer than every time, and short ones between acts."""
        frame = self._frame_s
        found = {2 * frame, 0.1, 0.3}
        for seconds in self._times:
            if seconds <= 10:
                found |= {max(frame, seconds - 2 * frame), seconds + 2 * frame}
        return np.array(sorted(found))

    def _other(self, name: str, now: float) -> float:
        """Another place for a hand than where it is."""
        if name == "link":
            return 1.0 - now
        places = [p for p in self._hands.places[name] if p != now]
        if name == self._thrust and self._rng.random() < 0.5:
            return self._hands.rest[name]
        return places[int(self._rng.integers(len(places)))] if places else now

    # -- minutes and scenarios -----------------------------------------------------------------------

    def minutes(self) -> Battery:
        """Random moves of all hands for a minute, with drop-outs."""
        rows = max(2, int(self._share * 8))
        frames = self._frames(60.0)
        t = self._times_of(frames)
        tracks = {}
        for name, rest in self._hands.rest.items():
            tracks[name] = np.stack([self._wandering(name, rest, frames) for _ in range(rows)])
        tracks |= self._drop_outs(rows, frames)
        return Battery("minutes", t, tracks)

    def _wandering(self, name: str, rest: float, frames: int) -> Numbers:
        """One hand for a minute: jumps, slow sweeps, rests."""
        rng, places = self._rng, self._hands.places[name]
        switch, lever = name in self._hands.switches, name.endswith("_trim")
        x, at, now = np.empty(frames), 0, rest
        while at < frames:
            wait = self._frames(float(rng.exponential(4.0 if switch or lever else 1.2)) + 0.04)
            end = min(frames, at + wait)
            to = float(places[int(rng.integers(len(places)))])
            if not switch and rng.random() < 0.4:
                to = float(rng.uniform(places[0], places[-1]))
            if rng.random() < (0.5 if name == self._thrust else 0.2):
                to = rest
            sweep = not switch and rng.random() < 0.3
            x[at:end] = np.linspace(now, to, end - at) if sweep else to
            if lever:
                x[at:end] = np.clip(now + np.sign(to - now), places[0], places[-1])
            at, now = end, float(x[end - 1])
        return x

    def _drop_outs(self, rows: int, frames: int) -> dict[str, Numbers]:
        link, power = np.ones((rows, frames)), np.ones((rows, frames))
        battery = np.ones((rows, frames))
        quality = np.full((rows, frames), 100.0)
        waits = self._waits()
        for row in range(rows):
            for _ in range(6):
                at = int(self._rng.integers(frames))
                link[row, at : at + self._frames(float(self._rng.choice(waits)))] = 0.0
            at = int(self._rng.integers(frames))
            kind = power if row % 2 else battery
            kind[row, at : at + self._frames(float(self._rng.choice(waits)))] = 0.0
            at = int(self._rng.integers(frames))
            quality[row, at : at + 200] = float(self._rng.uniform(0, 100))
        return {
            "link": link, "power": power, "flight_battery": battery, "link_quality": quality,
        }  # fmt: skip

    def scenarios(self) -> Battery | None:
        """The model's own scenarios, side by side; a shorter one stays where it ends."""
        played = [situation_of(self._model, x) for x in self._model.scenarios]
        if not played:
            return None
        longest = max(played, key=lambda x: len(x.t_s))
        frames = len(longest.t_s)
        names = dict.fromkeys(itertools.chain(*(x.controls for x in played), AROUND))
        rest = self._hands.rest | AROUND
        tracks = {name: np.full((len(played), frames), rest[name]) for name in names}
        for row, found in enumerate(played):
            for name, track in {**found.controls, **found.around}.items():
                values = np.broadcast_to(np.asarray(track, float), found.t_s.shape)
                tracks[name][row, : len(values)] = values
                tracks[name][row, len(values) :] = values[-1]
        return Battery("scenarios", longest.t_s, tracks)


def _side_by_side(batteries: Sequence[Battery]) -> Battery:
    """Several batteries as one, each of its rows longest that long; a shorter one stays where it
    ends."""
    longest = max(batteries, key=lambda x: len(x.t_s))
    frames = len(longest.t_s)
    rest = AROUND
    tracks = {}
    for name in dict.fromkeys(itertools.chain(*(x.tracks for x in batteries))):
        pieces = []
        for x in batteries:
            track = x.tracks.get(name, np.full((1, 1), rest.get(name, 0.0)))
            whole = np.broadcast_to(track, (x.rows, track.shape[1]))
            pieces.append(np.pad(whole, ((0, 0), (0, frames - whole.shape[1])), mode="edge"))
        tracks[name] = np.concatenate(pieces)
    return Battery(" and ".join(x.name for x in batteries), longest.t_s, tracks)


def share_of(batteries: Iterable[Battery]) -> tuple[int, float]:
    """How many situations these are, and how many seconds of moves."""
    rows, seconds = 0, 0.0
    for battery in batteries:
        rows += battery.rows
        seconds += battery.rows * float(battery.t_s[-1] - battery.t_s[0])
    return rows, seconds
