# SPDX-License-Identifier: GPL-3.0-or-later
"""The directions check: what each command should move which way, and from what was seen what
explains it.

A lead's pulse moves the surface that its servo is really on, in the sense in which the servo really
sits. Two kinds of fault are looked for: a servo that sits the other way round (*reversed*), and two
leads in each other's ports (*swapped*). Every combination of them that explains all that was seen
is found, simplest first; while more than one simple one remains, the question that tells them apart
best is asked: which surface stands still with a plug pulled?

From the explanation follows the smallest repair that makes every part go the way it should (by the
signs that everybody agrees on, else as the model says): ports exchanged, outputs reversed, and,
only where a part is right on one command and wrong on another, the sign of a mix."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from hypsos.core.base.backends import Array, of_each
from hypsos.core.document.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.situation import control_bounds
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.airframe import STEERED, Device, Motor
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.words import Part, run_positions

Seen = Literal[-1, 0, 1]
"""How a part was seen to move: 1 in its + sense (down, right, faster), -1 the other way, 0 not at
all."""
LEAST = 4.0
"""Percent: less than that is not seen on a bench."""
SIMPLE = 2
"""So many faults at once are always told apart; more only where fewer explain nothing."""
MOST = 5
STEPS: tuple[tuple[str, str, float, str], ...] = (
    ("roll", "aileron_stick", 100.0, "Stick right (roll)"),
    ("pitch", "elevator_stick", -100.0, "Stick back (pull)"),
    ("yaw", "rudder_stick", 100.0, "Rudder right"),
    ("thrust", "throttle_stick", 0.0, "Motor switch to run, then throttle to half; propellers off"),
)


@dataclass(frozen=True)
class Movement:
    """One movement to make: the controls before and after, by how many percent the model moves each
    part, and which way each should go where that is settled for everybody."""

    key: str
    words: str
    before: Mapping[str, float]
    after: Mapping[str, float]
    moves: Mapping[str, float]
    should: Mapping[str, Seen] = field(default_factory=dict)

    def expected(self, part: str) -> Seen:
        """Which way a part should go."""
        return self.should.get(part, _sign(self.moves.get(part, 0.0)))


@dataclass(frozen=True)
class WiringExplanation:
    """What would explain everything seen. ``on``: lead -> the part its plug really moves, where
    that is another one; ``reversed_``: parts whose servo sits the other way round than its lead's
    output assumes."""

    on: Mapping[str, str] = field(default_factory=dict)
    reversed_: frozenset[str] = frozenset()

    @property
    def swaps(self) -> list[tuple[str, ...]]:
        """Leads that sit in each other's ports, ring by ring."""
        rest, rings = dict(self.on), []
        while rest:
            # along the leads, from part to part, until the ring closes
            start, part = rest.popitem()
            ring = [start]
            while part != start:
                ring.append(part)
                part = rest.pop(part)
            rings.append(tuple(sorted(ring)))
        return sorted(rings)

    @property
    def faults(self) -> int:
        """How many single faults it is made of."""
        return sum(len(r) - 1 for r in self.swaps) + len(self.reversed_)


@dataclass(frozen=True)
class WiringRepair:
    """The smallest change that makes everything go the way it should: leads whose ports hold
    another part's plug, outputs to reverse, and mixes (step, part) whose sign is wrong."""

    on: Mapping[str, str]
    reverse: frozenset[str]
    signs: tuple[tuple[str, str], ...]

    def __bool__(self) -> bool:
        return bool(self.on or self.reverse or self.signs)


@dataclass(frozen=True)
class Question:
    """Asks: with this lead's plug pulled, which of these parts no longer moves on this step."""

    lead: str
    step: str
    answers: tuple[str, ...]


@dataclass(frozen=True)
class WiringFinding:
    """What the answers so far say: the explanations that remain, simplest first, and what to ask
    next, if anything."""

    explanations: tuple[WiringExplanation, ...]
    question: Question | None

    @property
    def settled(self) -> WiringExplanation | None:
        """The one explanation, once there is only one."""
        return self.explanations[0] if len(self.explanations) == 1 else None


Answers = Mapping[str, Mapping[str, Seen]]
"""Step -> part -> how it was seen to move. What was not looked at is absent."""


@dataclass(frozen=True)
class Check:
    """What a model should do: its steps, and the sense of the output of each part that takes part
    (1 or -1)."""

    steps: tuple[Movement, ...]
    sense: Mapping[str, int]

    @property
    def parts(self) -> tuple[str, ...]:
        """The parts that take part; each also stands for its own lead."""
        return tuple(self.sense)

    def seen(self, truth: WiringExplanation) -> dict[str, dict[str, Seen]]:
        """What each part does on each step where the faults of ``truth`` are in the aeroplane."""
        out: dict[str, dict[str, Seen]] = {}
        for step in self.steps:
            row: dict[str, Seen] = {}
            for lead in self.parts:
                part = truth.on.get(lead, lead)
                row[part] = _sign(
                    step.moves.get(lead, 0.0) * self._way(lead, part, part in truth.reversed_)
                )
            out[step.key] = row
        return out

    def _way(self, lead: str, part: str, turned: bool) -> int:
        """1 where a part goes the way its lead's demand says, -1 the other way."""
        return self.sense[lead] * self.sense[part] * (-1 if turned else 1)

    def explains(self, answers: Answers, lead: str, part: str, turned: bool) -> bool:
        """Whether all that was seen of a part fits a lead's demand."""
        way = self._way(lead, part, turned)
        for step in self.steps:
            seen = answers.get(step.key, {}).get(part)
            if seen is not None and seen != _sign(step.moves.get(lead, 0.0) * way):
                return False
        return True

    def repair(self, truth: WiringExplanation) -> WiringRepair:
        """What to change where this is what is wrong."""
        reverse, signs = set(), []
        for part in self.parts:
            turned = part in truth.reversed_
            commands = [s for s in self.steps if part in s.moves]
            wrong = [
                s.key for s in commands if (_sign(s.moves[part]) == s.expected(part)) == turned
            ]
            # a part that goes wrong on most commands is turned round at its output; what is then
            # still wrong is the sign of a mix
            most_are_wrong = 2 * len(wrong) > len(commands)
            half_are_wrong = bool(wrong) and 2 * len(wrong) == len(commands)
            if most_are_wrong or (half_are_wrong and turned):
                reverse.add(part)
                wrong = [s.key for s in commands if s.key not in wrong]
            signs += [(key, part) for key in wrong]
        return WiringRepair(dict(truth.on), frozenset(reverse), tuple(signs))

    def alike(self, lead: str, part: str) -> bool:
        """Whether it makes no difference at all which of two leads sits in which port: neither as
        the model moves them now nor as it will once a wrong sign of a mix is turned round."""
        way = self._way(lead, part, False)
        return all(
            abs(s.moves.get(lead, 0.0) * way - s.moves.get(part, 0.0)) < 0.5
            and s.expected(lead) * way == s.expected(part)
            for s in self.steps
        )


def check_of(model: Model) -> Check:
    """The movements that show every part of a model that moves, in the order of the sticks and then
    the switches."""
    leads = _speaking_leads(model)
    movements = list(_movements(model))
    # one run for all of them: in row 2 i what stands before movement i, in row 2 i + 1 after it
    situations = []
    for _, _, before, after in movements:
        situations += [before, after]
    gone = {part: s[1::2] - s[::2] for part, s in _stands(model, leads, situations).items()}
    steps = []
    for i, (key, words, before, after) in enumerate(movements):
        moves = {part: float(by[i]) for part, by in gone.items()}
        moves = _looked_at(model, key, moves)
        if moves:
            steps.append(Movement(key, words, before, after, moves, _right_ways(model, key, moves)))
    return Check(tuple(steps), {part: x.direction for part, x in leads.items()})


def _stands(
    model: Model, leads: Mapping[str, Lead], situations: Sequence[Mapping[str, float]]
) -> dict[str, Array]:
    """Where each part stands in each situation, in percent."""
    outputs = settled_together(compile_plan(model), situations).outputs
    count = len(situations)
    return {part: of_each(outputs[lead.name].stand, count) for part, lead in leads.items()}


def _looked_at(model: Model, key: str, moves: Mapping[str, float]) -> dict[str, float]:
    """What is looked at in a movement: parts that move by more than a trace; where the rudder
    stick is moved with power, the motors alone."""
    seen = {part: by for part, by in moves.items() if abs(by) >= LEAST}
    if key != "yaw_thrust":
        return seen
    motors = {m.name for m in model.airframe.motors}
    return {part: by for part, by in seen.items() if part in motors}


def _right_ways(model: Model, key: str, moves: Iterable[str]) -> dict[str, Seen]:
    """Which way each part should go, where that is known."""
    parts = {p.name: p for p in model.airframe.moved()}
    ways = {part: right_way(key, parts[part]) for part in moves}
    return {part: way for part, way in ways.items() if way is not None}


def _speaking_leads(model: Model) -> dict[str, Lead]:
    """Part -> the plugged lead that is looked at; of two servos on one port the first speaks for
    both."""
    second = {y.second for y in model.y_leads}
    found: dict[str, Lead] = {}
    for lead in model.leads:
        if lead.port is not None and lead.name not in second:
            found.setdefault(lead.target, lead)
    return found


def right_way(key: str, part: Part) -> Seen | None:
    """Which way a part goes on a command wherever the aeroplane flies; None where that is a matter
    of choice."""
    if isinstance(part, Motor):
        if key == "thrust":
            return 1
        if key != "yaw_thrust" or not part.y_mm:
            return None
        return 1 if part.y_mm < 0 else -1
    if isinstance(part, Device):
        return 1 if key == "yaw" and part.kind in STEERED else None
    across: Seen = 1 if part.side == "left" else -1
    table: dict[tuple[str, str], Seen] = {
        ("roll", "aileron"): across,
        ("roll", "flaperon"): across,
        ("roll", "elevon"): across,
        ("pitch", "elevator"): -1,
        ("pitch", "elevon"): -1,
        ("pitch", "ruddervator"): -1,
        ("pitch", "canard"): 1,
        ("yaw", "rudder"): 1,
        ("yaw", "ruddervator"): -1 if across > 0 else 1,
        ("yaw", "drag rudder"): across,
    }
    if part.side != "centre":  # the halves of a tailplane roll as ailerons do
        table["roll", "elevator"] = across
    return table.get((key, part.role))


def _movements(model: Model) -> Iterator[tuple[str, str, dict[str, float], dict[str, float]]]:
    guard = model.program.guard
    run: dict[str, float] = {} if guard is None else {guard.switch: float(run_positions(model)[0])}
    axes: dict[str, str] = {a.command: a.control for a in model.program.axes}
    for key, usual, value, words in STEPS:
        control = axes.get(key, usual)
        if key != "thrust":
            yield key, words, {}, {control: value}
        elif model.airframe.motors:
            yield key, words, {**run, control: -100.0}, {**run, control: value}
    if len(model.airframe.motors) > 1:
        # at a quarter throttle both motors can get more and less
        low = {**run, axes.get("thrust", "throttle_stick"): -50.0}
        words = "Rudder right at a quarter throttle, propellers off"
        yield "yaw_thrust", words, low, {**low, axes.get("yaw", "rudder_stick"): 100.0}
    for c in model.transmitter.controls:
        if guard is None or c.name != guard.switch:
            low_end, high_end = control_bounds(model, c.name)
            to = f"to {c.positions[-1]}" if c.is_switch else "from one end to the other"
            yield c.name, f"{c.label} {to}", {c.name: low_end}, {c.name: high_end}


def find(check: Check, answers: Answers, pulled: Mapping[str, str]) -> WiringFinding:
    """What explains the answers.

    Parameters
    ----------
    check : what should move which way.
    answers : what was seen.
    pulled : lead -> the part that stood still with its plug pulled.
    """
    # the simplest explanations first; more faults at once only where these explain nothing
    limit = SIMPLE
    found = _explanations(check, answers, pulled, limit)
    while not found and limit < MOST:
        limit += 1
        found = _explanations(check, answers, pulled, limit)
    found.sort(key=lambda e: (e.faults, len(e.on), sorted(e.on.items()), sorted(e.reversed_)))
    return WiringFinding(tuple(found), _question(check, found))


def _explanations(
    check: Check, answers: Answers, pulled: Mapping[str, str], limit: int
) -> list[WiringExplanation]:
    """All with at most so many faults; leads that can be exchanged without any difference count as
    not exchanged."""
    open_ = _open(check, answers, pulled)
    if open_ is None:
        return []
    out: dict[tuple[object, ...], WiringExplanation] = {}

    def go(i: int, taken: dict[str, str], turned: tuple[str, ...]) -> None:
        # two leads in each other's ports are one fault
        moved = sum(lead != part for lead, part in taken.items())
        if (moved + 1) // 2 + len(turned) > limit:
            return
        # every part that was looked at has its lead: what is left is completed
        if i == len(open_):
            for rest in _completed(check, taken):
                made = _plain(
                    check,
                    WiringExplanation(
                        {k: v for k, v in (taken | rest).items() if k != v}, frozenset(turned)
                    ),
                )
                if made.faults <= limit:
                    out[(tuple(sorted(made.on.items())), made.reversed_)] = made
            return
        part, choices = open_[i]
        for lead, other_way in choices:
            if lead not in taken:
                go(i + 1, {**taken, lead: part}, (*turned, part) if other_way else turned)

    go(0, {}, ())
    return list(out.values())


def _open(
    check: Check, answers: Answers, pulled: Mapping[str, str]
) -> list[tuple[str, list[tuple[str, bool]]]] | None:
    """Every part looked at with the leads that may move it, and whether the other way; the fewest
    first.

    None where a part moved as no lead moves it.
    """
    out = []
    known = {part: lead for lead, part in pulled.items()}
    looked_at = set(itertools.chain.from_iterable(answers.values()))
    free = [x for x in check.parts if x not in pulled]
    for part in check.parts:
        if part not in looked_at:
            continue
        choices = []
        for lead in [known[part]] if part in known else free:
            fits = [
                turned for turned in (False, True) if check.explains(answers, lead, part, turned)
            ]
            if len(fits) == 2:  # nothing seen to move: taken as it should be
                fits = fits[:1]
            choices += [(lead, turned) for turned in fits]
        if not choices:
            return None
        out.append((part, choices))
    return sorted(out, key=lambda x: len(x[1]))


def _completed(check: Check, taken: Mapping[str, str]) -> Iterator[dict[str, str]]:
    """What the leads of parts that were not looked at may move: their own part, where another has
    not turned up on them."""
    homeless = [p for p in check.parts if p not in taken.values() and p in taken]
    free = [x for x in check.parts if x not in taken and x in taken.values()]
    for order in itertools.permutations(free):
        yield dict(zip(order, homeless, strict=True))


def _plain(check: Check, made: WiringExplanation) -> WiringExplanation:
    """Without rings of leads that may as well sit in each other's ports."""
    on = dict(made.on)
    for ring in made.swaps:
        if all(check.alike(lead, on[lead]) and lead not in made.reversed_ for lead in ring):
            for lead in ring:
                del on[lead]
    return replace(made, on=on)


def _question(check: Check, found: list[WiringExplanation]) -> Question | None:
    """The lead whose pull tells most of the explanations apart; None where no lead does."""
    moved = set(itertools.chain.from_iterable(step.moves for step in check.steps))
    best: tuple[int, str, tuple[str, ...]] | None = None
    for lead in check.parts:
        answers = [e.on.get(lead, lead) for e in found]
        kinds = tuple(dict.fromkeys(answers))
        # the answer that leaves most explanations counts
        worst = max((answers.count(k) for k in kinds), default=0)
        tells_apart = len(kinds) > 1 and lead in moved
        if tells_apart and (best is None or worst < best[0]):
            best = (worst, lead, kinds)
    if best is None:
        return None
    step = next(s for s in check.steps if best[1] in s.moves)
    return Question(best[1], step.key, best[2])


def _sign(x: float) -> Seen:
    if x > 0:
        return 1
    return -1 if x < 0 else 0
