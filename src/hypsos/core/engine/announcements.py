# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said aloud: timers as they count, captions as they come due, one at a time."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from heapq import heappop, heappush
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import EPS, Flag, Signal
from hypsos.core.base.memory import CONTROLLER, KEPT, Memory, rising, spell
from hypsos.core.conditions import LogicSwitch
from hypsos.core.conditions.world import ConditionWorld, reader
from hypsos.core.document.document import Model
from hypsos.core.parts.announcement_values import RANKS, Announcement, Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.guard_states import GuardState
from hypsos.core.wording.time_words import last_words, moment_words
from hypsos.core.wording.words import GUARD_WORDS

BREATH_S, LETTER_S = 0.5, 0.07
"""Seconds that a caption takes, and each of its letters besides: nothing else is said meanwhile."""
WORDS_OF_REST = frozenset(GUARD_WORDS[x] for x in (GuardState.CUT, GuardState.LOCKED))
"""The states of the guard in which it keeps the motors at rest, as a condition names them."""


class Spoken(NamedTuple):
    """A caption, the frame of the run in which it begins to be said, how urgent it is, and where in
    the document it stands."""

    frame: int
    caption: str
    rank: str
    path: str


class Due(NamedTuple):
    """A caption that has come due: in which frame, its place among the ranks, its turn, itself.
    ``once``: not put in a second time while it is still waiting."""

    frame: int
    rank: int
    turn: int
    caption: str
    path: str
    once: bool = False


def says_motors_rest(text: str, nodes: Mapping[str, LogicSwitch]) -> bool:
    """Whether a condition holds only while the guard has cut or locked the motors."""
    asks = asked(text)
    if asks.negated:
        return False
    if asks.realm == "guard":
        return asks.name in WORDS_OF_REST
    node = nodes.get(asks.key)
    return (
        node is not None
        and node.holds_with_all
        and any(says_motors_rest(t, nodes) for t in node.conditions())
    )


def seconds_of(caption: str) -> float:
    """How long a caption takes to be said."""
    return BREATH_S + LETTER_S * len(caption)


class VoicePlan:
    """The announcements and timers of a model, ready to be said. Only a single situation has a
    voice."""

    def __init__(self, model: Model) -> None:
        self.frame_s = model.program.frame_s
        self.announcements = model.program.announcements
        self.timers = [
            (f"timer:{x.name}", x, f"program.timers[{i}]")
            for i, x in enumerate(model.program.timers)
        ]
        # two captions may be asked by the same condition: the second is told apart by its number
        seen: Counter[str] = Counter()
        self._keys = []
        for said in (
            self.announcements
        ):  # by what is asked and not by place: an edit of another one changes nothing here
            stem = f"voice.{said.moment}.{said.when}"
            seen[stem] += 1
            self._keys.append(f"{stem}.{seen[stem]}")
        self._whens = [reader(x.when) for x in self.announcements]
        nodes = {x.name: x for x in model.program.logic}
        self._of_rest = [says_motors_rest(x.when, nodes) for x in self.announcements]
        self._calls = [self._at_moments(x) for _, x, _ in self.timers]

    def run(self, world: ConditionWorld, idle: Flag, memory: Memory) -> tuple[Spoken, ...]:
        """What is said in the frames of a single situation, in their order.

        ``idle``: where no motor's lead sends more than its idle. That a motor is cut or locked is
        said only there: without a link the receiver may hold another pulse."""
        if not (self.announcements or self.timers) or memory.instant or len(world.shape) > 1:
            return ()
        due = [*self._announced(world, idle, memory), *self._timed(world, memory)]
        return self._one_at_a_time(sorted(due), world, memory)

    def readings(self, world: ConditionWorld) -> dict[str, Signal]:
        """What every timer shows, in seconds."""
        shown: dict[str, Signal] = {}
        for key, x, _ in self.timers:
            n = world.counts[key]
            counted: Signal = float(n) if isinstance(n, int) else np.asarray(n, float)
            counted = counted * self.frame_s
            shown[x.name] = x.span_s - counted if x.counts == "down" else counted
        return shown

    # -- what comes due --------------------------------------------------------------------------

    def _announced(self, world: ConditionWorld, idle: Flag, memory: Memory) -> Iterator[Due]:
        for i, x in enumerate(self.announcements):
            holds, key = self._whens[i](world), self._keys[i]
            if self._of_rest[i] and x.moment != "ends":
                # *cut* and *locked* are said once the motors are really at idle
                holds = holds & idle
            if x.moment == "while":
                starts = spell(holds, world.t_s, x.every_s, memory, key)
                # it will be said again although no hand moves, so time has to go on
                memory.ticking |= bool(world.backend.end(holds))
            else:
                starts = rising(
                    holds if x.moment == "begins" else world.backend.not_(holds), memory, key
                )
            yield from (self._due(frame, i, x) for frame in _frames(starts))

    def _due(self, frame: int, i: int, x: Announcement) -> Due:
        return Due(
            frame,
            RANKS.index(x.rank),
            i,
            x.caption,
            f"program.announcements[{i}]",
            x.moment == "while",
        )

    def _timed(self, world: ConditionWorld, memory: Memory) -> Iterator[Due]:
        first = len(self.announcements)
        for i, (key, x, path) in enumerate(self.timers):
            if world.backend.single:
                # a count that jumps (a reset, a restart) calls nothing; only one frame more does
                now: int = world.counts[key]  # type: ignore[assignment]
                if now == memory.before.get(f"{key}.said", now) + 1:
                    for caption, rank in self._calls_at(x, self._calls[i], now):
                        yield Due(0, RANKS.index(rank), first + i, caption, path)
                memory.after[f"{key}.said"] = now
                continue
            n = np.ravel(np.asarray(world.counts[key]))
            last = memory.before.get(f"{key}.said", n[0])
            memory.after[f"{key}.said"] = int(n[-1])
            before = np.concatenate([[last], n[:-1]])
            for frame in np.flatnonzero(n == before + 1).tolist():
                for caption, rank in self._calls_at(x, self._calls[i], int(n[frame])):
                    yield Due(frame, RANKS.index(rank), first + i, caption, path)

    def _at_moments(self, x: Timer) -> dict[int, tuple[str, str]]:
        """Frames counted -> what is said there: the chosen moments and the last seconds."""
        calls: dict[int, tuple[str, str]] = {}
        for moment in x.moments:
            # a moment is known by how many frames were counted, whichever way the timer shows
            # them
            calls[self._frames(x.elapsed(moment))] = _call(x, moment)
        for left in range(x.last_s, 0, -1) if x.span_s else ():
            if left < x.span_s:
                # the last seconds are said over a moment that falls on one of them
                calls[self._frames(x.span_s - left)] = (last_words(left), "state")
        return {n: call for n, call in calls.items() if n > 0}

    def _calls_at(
        self, x: Timer, calls: dict[int, tuple[str, str]], n: int
    ) -> Iterator[tuple[str, str]]:
        if n in calls:
            yield calls[n]
        elif x.every_s:
            # how many whole spans the reading has passed, now and a frame ago
            passed, before = (x.reading(k * self.frame_s) / x.every_s for k in (n, n - 1))
            if x.counts == "up" and math.floor(passed + 1e-6) > math.floor(before + 1e-6):
                yield _call(x, x.every_s * math.floor(passed + 1e-6))
            elif (
                x.counts == "down"
                and passed > -1e-6
                and math.ceil(passed - 1e-6) < math.ceil(before - 1e-6)
            ):
                yield _call(x, x.every_s * math.ceil(passed - 1e-6))

    def _frames(self, seconds: float) -> int:
        return math.ceil(seconds / self.frame_s - 1e-6)

    # -- one at a time ---------------------------------------------------------------------------

    def _one_at_a_time(
        self, due: list[Due], world: ConditionWorld, memory: Memory
    ) -> tuple[Spoken, ...]:
        """The more urgent first, of one rank in the order in which they came due; nothing is lost,
        and nothing broken off."""
        t = np.ravel(np.asarray(world.t_s, float))
        waiting, free_s, number = memory.before.get("voice", ((), -math.inf, 0))
        heap, out, at, next_ = list(waiting), [], 0, 0
        while heap or next_ < len(due):
            # the next moment at which anything can happen: the voice is free, or something comes
            # due
            at = max(at, int(np.searchsorted(t, free_s - EPS)) if heap else due[next_].frame)
            if at >= len(t):
                break
            # all that is due by now waits together, so that the most urgent goes first
            while next_ < len(due) and due[next_].frame <= at:
                number = _put(heap, due[next_], number)
                next_ += 1
            if heap and t[at] >= free_s - EPS:
                rank, _, caption, path = heappop(heap)
                out.append(Spoken(at, caption, RANKS[rank], path))
                free_s = float(t[at]) + seconds_of(caption)
        # what comes due after the voice was last free waits for the next run
        for late in due[next_:]:
            number = _put(heap, late, number)
        memory.after["voice"] = (tuple(heap), free_s, number)
        # the voice is still busy: time goes on without a hand
        memory.ticking |= bool(heap) or free_s > t[-1]
        return tuple(out)


def _call(timer: Timer, moment: float) -> tuple[str, str]:
    """What is said as a timer shows this, and how urgent it is."""
    return moment_words(timer, moment), "remark" if moment else "state"


def _put(heap: list[tuple[int, int, str, str]], due: Due, number: int) -> int:
    if not (due.once and any(path == due.path for _, _, _, path in heap)):
        heappush(heap, (due.rank, number, due.caption, due.path))
    return number + 1


def _frames(flags: Flag) -> Iterable[int]:
    if not isinstance(flags, np.ndarray):
        return (0,) if flags else ()
    found: list[int] = np.flatnonzero(flags).tolist()
    return found


def after_power_off(model: Model, memory: Memory | None) -> Memory | None:
    """What is still known when the transmitter is switched on again: the readings of the timers
    that are kept, and what the speed controllers have heard, which keep their battery."""
    if memory is None:
        return None
    keeping = [x.name for x in model.program.timers if x.keeps]
    found = {
        n: memory.after.get(f"timer:{n}", (memory.after.get(KEPT, {}).get(n, 0),))[0]
        for n in keeping
    }
    controllers = {key: x for key, x in memory.after.items() if key.startswith(CONTROLLER)}
    kept = controllers | ({KEPT: found} if found else {})
    return Memory(after=kept) if kept else None
