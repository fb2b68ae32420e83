# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways through situations played in real time by the whole model: the proof of a finding, and what
is shown of it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation, compile_plan
from hypsos.core.engine.plan import Plan
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import AROUND, STICKS
from hypsos.core.review.findings import FindingMove
from hypsos.core.review.search.model_slice import bare, timed
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.wording.words import control_label, stick_words

GAP_S = 0.1
"""From one act of the hands to the next."""
RESTED_S = 1.0
"""The same where a stick has to rest before the next act."""
LOOK_S = 0.4
"""How long the end is looked at, at the least."""
LONGEST_S = 40.0


@dataclass(frozen=True)
class Played:
    """Moves through the engine, from power-up: every frame, and the frame of the last act (0 where
    there is none)."""

    model: Model
    t_s: Array
    tracks: dict[str, Array]
    result: Result
    last: int

    def at(self, name: str, frame: int) -> float:
        """Where a control stands in a frame."""
        return float(self.tracks[name][frame]) if name in self.tracks else AROUND.get(name, 0.0)


class Replay:
    """A model ready to be played, with what waits in it for a time."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.frame = model.program.frame_s
        self.waits = {key: waiting.seconds for key, waiting in timed(model)}

    @cached_property
    def plan(self) -> Plan:
        """The whole model, compiled, but for what is only said and what nothing hangs on."""
        return compile_plan(bare(self.model))

    @cached_property
    def settle_s(self) -> float:
        """After so long everything that moves slowly has come to its end."""
        program = self.model.program
        from hypsos.core.document.lines import all_lines

        # a slow is given for 100 %; from end to end it takes twice as long
        slows = [2.0 * max(x.slow_up_s, x.slow_down_s, x.servo_s) for x in self.model.leads]
        lines = [2.0 * max(p.line.in_s, p.line.out_s) for p in all_lines(self.model)]
        fades = [m.fade_s for m in program.modes]
        total = max(slows, default=0.0) + max(lines, default=0.0) + max(fades, default=0.0)
        return min(12.0, total + 2 * self.frame)

    def moves(
        self, steps: Sequence[SearchStep], gap_s: float, last_s: float = 0.0
    ) -> tuple[tuple[FindingMove, ...], float]:
        """Steps as moves in time, so far apart, the last one ``last_s`` after the others, and how
        long to look at the end."""
        # the act in question; what follows it only waits
        last = max((i for i, s in enumerate(steps) if s.control), default=-1)
        out: list[FindingMove] = []
        t, on = 0.0, False
        for i, step in enumerate(steps):
            if step.control:
                if on:
                    # hands need a while from one act to the next, and two frames at the least
                    t += max(gap_s, 2 * self.frame, last_s if i == last else 0.0)
                out.append(FindingMove(round(t, 6), step.control, step.to))
            elif step.waits:
                # what waits has run out two frames after its time
                t += max(self.waits.get(k, 0.0) for k in step.waits) + 2 * self.frame
            else:
                on = True
        after_the_last = t - (out[-1].t_s if out else 0.0)  # nothing, where nothing waits
        return tuple(self._rounded(out)), round(max(after_the_last, LOOK_S, self.settle_s), 3)

    def waiting(self, steps: Sequence[SearchStep]) -> float:
        """The seconds that have to pass after the last act; 0 where what is shown comes with that
        act."""
        passed = 0.0
        # backwards from the end, over the waits, to the last act
        for step in reversed(steps):
            if step.control:
                break
            passed += max((self.waits.get(k, 0.0) for k in step.waits), default=0.0)
        return round(passed, 3)

    def _rounded(self, moves: Iterable[FindingMove]) -> Iterable[FindingMove]:
        for m in moves:
            # an act falls on a frame, never between two
            yield m._replace(t_s=round(float(np.ceil(m.t_s / self.frame - 1e-6)) * self.frame, 6))

    def play(self, moves: Sequence[FindingMove], look_s: float, why: Sequence[str] = ()) -> Played:
        """Play moves, and so long after the last of them."""
        end = (moves[-1].t_s if moves else 0.0) + look_s
        # from power-up to the end of the look; a way that takes longer than the longest is cut
        # off there
        frames = max(2, min(round(LONGEST_S / self.frame), int(np.ceil(end / self.frame))) + 1)
        t = np.asarray(self.frame * np.arange(frames), np.float64)
        tracks: dict[str, Array] = {}
        last = 0
        for m in moves:
            at = min(frames - 1, int(np.ceil(m.t_s / self.frame - 1e-6)))
            rest = (self.plan.rest | AROUND)[m.control]
            # from here on, until another act moves it
            tracks.setdefault(m.control, np.full(frames, rest))[at:] = m.to
            last = max(last, at)
        around = {n: np.full(frames, v) for n, v in AROUND.items()}
        result = self.plan.run(Situation.of(t, around | tracks), None, why)
        return Played(self.model, t, tracks, result, last)

    def again(
        self, played: Played, without: Sequence[str] = (), turned: Collection[str] = ()
    ) -> Played:
        """The same hands once more on this model, without some controls, or with some the other way
        round."""
        hands = {n: -x if n in turned else x for n, x in played.tracks.items() if n not in without}
        hands = {n: x for n, x in hands.items() if n in self.plan.rest or n in AROUND}
        frames = len(played.t_s)
        hands |= {
            n: np.full(frames, -v)
            for n, v in self.plan.rest.items()
            if n in turned and n not in hands
        }
        # what surrounds the hands is as it was, unless it was moved
        tracks = {n: np.full(frames, v) for n, v in AROUND.items()} | hands
        return Played(
            self.model,
            played.t_s,
            tracks,
            self.plan.run(Situation.of(played.t_s, tracks)),
            played.last,
        )


Check = Callable[[Played], bool]


@dataclass(frozen=True)
class Proof:
    """A way that was played: the moves, how long to look, and whether it came to what was
    sought."""

    moves: tuple[FindingMove, ...]
    look_s: float
    confirmed: bool
    steps: tuple[SearchStep, ...] = field(default=())


def proved(stage: Replay, steps: Sequence[SearchStep], check: Check, rested: bool = False) -> Proof:
    """Play a way in real time, and leave out of it every act without which its last one comes to
    the same; with ``rested`` what is slow is let come to rest before the last act."""
    settle = max(GAP_S, stage.settle_s)
    # (seconds between acts, seconds before the last one)
    gaps = [
        (GAP_S, GAP_S),
        (GAP_S, settle),
        (RESTED_S, RESTED_S),
        (settle, settle),
        (2 * stage.frame, 0.0),
    ]
    # a way may hold at one pace and not at another: quick hands first, then slower ones, at last
    # two frames apart
    for gap in dict.fromkeys([(GAP_S, settle), (RESTED_S, settle), *gaps] if rested else gaps):
        # the first pace at which it shows is the one that is kept
        if _holds(stage, steps, gap, check):
            kept = _shortened(stage, list(steps), gap, check)
            moves, look = stage.moves(kept, *gap)
            return Proof(moves, look, True, tuple(kept))
    moves, look = stage.moves(steps, GAP_S)
    return Proof(moves, look, False, tuple(steps))


Gap = tuple[float, float]
"""Seconds from one act to the next, and before the last."""


def _holds(stage: Replay, steps: Sequence[SearchStep], gap: Gap, check: Check) -> bool:
    moves, look = stage.moves(steps, *gap)
    return check(stage.play(moves, look))


def _shortened(stage: Replay, steps: list[SearchStep], gap: Gap, check: Check) -> list[SearchStep]:
    """The steps without those that change nothing: each by itself, and the comings and goings of
    one control together."""

    def done_without(*left_out: int) -> list[SearchStep]:
        """The steps without these, where the way is still one and shows the same; else all of
        them."""
        fewer = [s for k, s in enumerate(steps) if k not in left_out]
        good = _neighbours(stage.model, fewer) and _holds(stage, fewer, gap, check)
        return fewer if good else steps

    # from the back: what comes late is most often beside the point, and leaving it out keeps the
    # places before it
    for i in reversed(range(_last_left_out(steps) + 1)):
        if steps[i].control or steps[i].waits:
            steps = done_without(i)
    last = steps[-1].control
    for name in dict.fromkeys(s.control for s in steps[:-1]):
        # there and back again changes nothing only as a whole
        mine = [k for k, s in enumerate(steps[:-1]) if s.control == name]
        if name and name != last and len(mine) > 1:
            steps = done_without(*mine)
    return steps


def _last_left_out(steps: list[SearchStep]) -> int:
    """The last step that may be left out: the one before the act in question; where a trim lever
    stood before its last click belongs to that act."""
    i = len(steps) - 2
    last = steps[-1].control
    return i - 1 if i >= 0 and last.endswith("_trim") and steps[i].control == last else i


def lived(model: Model, steps: Sequence[SearchStep]) -> list[SearchStep]:
    """The same acts in the order in which a pilot comes to them: power on, everything else, the
    motor switch, the throttle, the loss of the link or of the battery, what the last act moves as
    well; then what waits for its time, and the last act."""
    guard, axis = model.program.guard, model.program.axis("thrust")
    acts = [s for s in steps if s.control]
    if not acts or guard is None:
        return list(steps)
    # everything a pilot sets before the motor is ranked 0
    ranks = {
        guard.switch: 1,
        axis.control if axis is not None else "": 2,
        "power": 3,
        "flight_battery": 3,
        "link": 3,
    }
    ranks.setdefault(acts[-1].control, 3)
    before = sorted(acts[:-1], key=lambda s: ranks.get(s.control, 0))
    waits = [s for s in steps if s.waits]
    # a trim lever is brought to its place right before the click in question
    clicked = [s for s in before if s.control == acts[-1].control and s.control.endswith("_trim")]
    return [
        SearchStep("", 0.0),
        *(s for s in before if s not in clicked),
        *waits,
        *clicked,
        acts[-1],
    ]


def _neighbours(model: Model, steps: Sequence[SearchStep]) -> bool:
    """Whether every switch goes from one position to the next only."""
    at: dict[str, float] = {}
    for step in steps:
        control = model.transmitter.control(step.control)
        if control is not None and control.is_switch:
            # a switch does not jump over a position
            if abs(step.to - at.get(step.control, 0.0)) > 1:
                return False
            at[step.control] = step.to
    return True


MOST_PRESSES = 60
"""So often at the most a button is pressed on a way."""


def brought(model: Model, name: str, place: float) -> Iterable[SearchStep]:
    """How the hands bring a shared value that is free in the search to where its stand-in
    stands."""
    x = next(t for t in model.program.shared_values() if t.name == name)
    adjuster = x.adjuster
    assert adjuster is not None
    # the stand-in goes from -100 to 100 over the bounds of the value
    wanted = x.low + (place + 100.0) / 200.0 * (x.high - x.low)
    if adjuster.kind == "set" and adjuster.control is not None:
        yield SearchStep(adjuster.control, place)
    elif adjuster.kind == "add" and adjuster.control is not None:
        yield SearchStep(adjuster.control, 100.0 if wanted > x.value else -100.0)
    elif adjuster.kind == "step":
        presses = min(MOST_PRESSES, int(np.ceil(abs(wanted - x.value) / adjuster.amount - 1e-6)))
        yield from _pressed(model, adjuster.up if wanted > x.value else adjuster.down, presses)


def _pressed(model: Model, text: str | None, times: int) -> Iterator[SearchStep]:
    """A switch or a button brought to a position so many times, where a condition asks for one."""
    if text is None:
        return
    asks = asked(text)
    there = model.transmitter.control(asks.name) is not None
    if asks.position is None or asks.negated or not there:
        return
    # a press is there and away again, by a neighbouring position
    away = asks.position - 1 if asks.position else 1
    for _ in range(times):
        yield SearchStep(asks.name, float(asks.position))
        yield SearchStep(asks.name, float(away))


def caption(model: Model, move: FindingMove) -> str:
    """What is done, in words: ``'rudder stick 100 right'``, ``'Flap switch to half'``, ``'the link
    is lost'``."""
    name, to = move.control, move.to
    if name == "link":
        return "the link comes back" if to > 0.5 else "the link is lost"
    if name in ("power", "flight_battery"):
        own = name == "power" and model.receiver.power == "own battery"
        battery = "the receiver's battery" if own else "the flight battery"
        return f"{battery} is plugged in" if to > 0.5 else f"{battery} is unplugged"
    if name == "link_quality":
        return f"link quality at {number(to)} %"
    control = model.transmitter.control(name)
    if control is not None and control.is_switch:
        return f"{control.label} to {control.positions[int(to)]}"
    if name in STICKS:
        return f"{control_label(model, name)} {stick_words(name, to)}"
    if name.endswith("_trim"):
        low, high = control_bounds(model, name)
        trim = f"{name[:-5]} trim"
        if to <= low:
            return f"{trim} to its low end"
        return f"{trim} to its high end" if to >= high else f"{trim} at {number(to, 1)} %"
    return f"{control_label(model, name)} at {number(to)} %"


def captions(model: Model, moves: Sequence[FindingMove]) -> tuple[str, ...]:
    """What is done, move by move."""
    return tuple(caption(model, m) for m in moves)


def way_words(moves: Sequence[FindingMove], said: Sequence[str], waits_s: float = 0.0) -> str:
    """A whole way in one breath, with what is done at each move, and the seconds that pass at its
    end."""
    before = [s for s, m in zip(said, moves, strict=True) if m.t_s <= 0]
    out, at = [f"power on with {', '.join(before)}" if before else "power on"], 0.0
    for text, move in zip(said, moves, strict=True):
        if move.t_s > 0:
            late = move.t_s - at
            out.append(f"{plain(round(late, 1))} s later {text}" if late >= 0.3 else text)
            at = move.t_s
    if waits_s > 0:
        out.append(f"{plain(round(waits_s, 1))} s pass")
    return ", then ".join(out)
