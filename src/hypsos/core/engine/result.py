# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes out of a run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Generic, Literal, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Flag, Flags, Place, Signal
from hypsos.core.base.memory import Memory
from hypsos.core.engine.announcements import Spoken

Kind = Literal[
    "stick", "trim", "mix", "idle", "guard", "cut-off", "slow", "preset", "travel", "centre", "stop", "link"
]  # fmt: skip


class Contribution(NamedTuple):
    """A part of where a surface stands: what made it, how much in percent of full deflection, where
    its number is set.

    ``amount`` has the run's shape, time last. ``path`` is empty where no number of the document is
    behind it."""

    label: str
    kind: Kind
    amount: Signal
    path: str = ""


S = TypeVar("S")
F = TypeVar("F")


class OutputTrace(NamedTuple, Generic[S, F]):
    """One channel over the run.

    ``pct`` is the output in percent with direction, centre, travel and stops, as the pulse says it;
    ``us`` the pulse in microseconds, 0 where there is none. ``stand`` is where the part stands in
    percent of its own sense (for surfaces + is down or right; for a motor by its pulse, -100 where
    its controller is off); ``deg`` and ``mm`` follow from it, None for motors. ``cut`` is how much
    of the demand was cut off, in percent; ``moving`` is True where a slow is still under way at the
    end of the run. ``ready``, for a motor: its speed controller has a battery and lets the motor
    follow the pulse; None for what is no motor."""

    pct: S
    us: S
    stand: S
    cut: S
    at_stop: F
    failsafe: F
    moving: bool = False
    deg: S | None = None
    mm: S | None = None
    ready: F | None = None


Channel = OutputTrace[Signal, Flag]
"""In the numbers of the backend."""
Trace = OutputTrace[Array, Flags]
"""As it is handed out."""


@dataclass(frozen=True)
class Result:
    """Everything a run computed. Arrays have the run's shape, time last."""

    t_s: Array
    commands: dict[str, Array]
    sums: dict[str, Array]
    guard: NDArray[np.int8]
    outputs: dict[str, Trace]
    why: dict[str, list[Contribution]]
    memory: Memory = field(repr=False)
    modes: NDArray[np.intp] = field(default_factory=lambda: np.zeros(1, np.intp))
    logic: dict[str, Flags] = field(default_factory=dict)
    steps: dict[str, NDArray[np.intp]] = field(default_factory=dict)
    """Counter -> the step at which it stands, from 0."""
    told: dict[str, Array] = field(default_factory=dict)
    """Motor -> what it would be told if it were armed, in percent of its demand."""
    timers: dict[str, Array] = field(default_factory=dict)
    """Timer -> what it shows, in seconds; one that counts down goes on below nothing."""
    said: tuple[Spoken, ...] = ()
    """What began to be said, in its order; nothing where there are several situations."""
    shared: dict[str, Signal] = field(default_factory=dict)
    """Shared value -> what it is, adjusted in flight."""

    @property
    def ticking(self) -> bool:
        """True when something waits for its time and moves nothing: a timer counts, a caption is
        due."""
        return self.memory.ticking

    @property
    def pending(self) -> bool:
        """True when time alone will still change something: a slow movement, a delay under way."""
        return self.memory.pending

    def before(self, end: int, case: int | None = None) -> Result:
        """The frames before one of them, to be read as its last, and of several situations one
        ``case``; the memory stays that of the whole run's end."""

        def cut(x: Any) -> Any:
            found = np.asarray(x)
            if case is not None and found.ndim > 1:
                found = found[case]
            return (
                found[..., :end] if found.ndim and found.shape[-1] == len(self.t_s) > 1 else found
            )

        def each(table: Mapping[str, Any]) -> dict[str, Any]:
            return {n: cut(x) for n, x in table.items()}

        def one_lead(track: Trace) -> Trace:
            over_time = {k: v for k, v in track._asdict().items() if k != "moving"}
            return track._replace(**{k: cut(v) for k, v in over_time.items() if v is not None})

        def one_part(found: Sequence[Contribution]) -> list[Contribution]:
            return [c._replace(amount=cut(c.amount)) for c in found]

        return replace(
            self,
            t_s=self.t_s[:end],
            commands=each(self.commands),
            sums=each(self.sums),
            guard=cut(self.guard),
            outputs={n: one_lead(x) for n, x in self.outputs.items()},
            why={n: one_part(x) for n, x in self.why.items()},
            modes=cut(self.modes),
            logic=each(self.logic),
            steps=each(self.steps),
            told=each(self.told),
            timers=each(self.timers),
            shared=each(self.shared),
            said=tuple(x for x in self.said if x.frame < end),
        )


@dataclass(frozen=True)
class Figures:
    """What a run computed, in the numbers of its backend.

    ``outputs``: channel by lead, and whether anything in it is still on its way. ``guard`` is its
    state, ``modes`` the places of the flight modes flown; the rest as in :class:`Result`."""

    t_s: Array
    commands: dict[str, Signal]
    sums: dict[str, Signal]
    guard: Place
    outputs: Mapping[str, tuple[Channel, bool]]
    why: dict[str, list[Contribution]]
    memory: Memory
    modes: Place
    logic: dict[str, Flag]
    steps: dict[str, Place]
    told: dict[str, Signal]
    timers: dict[str, Signal]
    said: tuple[Spoken, ...]
    shared: dict[str, Signal] = field(default_factory=dict)

    def result(self) -> Result:
        """The same as arrays. Plain numbers of a single frame are put into one array of figures and
        one of flags, and handed out as views."""
        return self._single() if self.memory.backend.single else self._many()

    def _many(self) -> Result:
        traces: dict[str, Trace] = {}
        for name, (c, moving) in self.outputs.items():
            deg, mm = (None if x is None else np.asarray(x) for x in (c.deg, c.mm))
            pct, us, stand, cut = (np.asarray(x) for x in (c.pct, c.us, c.stand, c.cut))
            at_stop, failsafe = np.asarray(c.at_stop), np.asarray(c.failsafe)
            ready = None if c.ready is None else np.asarray(c.ready)
            traces[name] = OutputTrace(
                pct, us, stand, cut, at_stop, failsafe, moving, deg, mm, ready
            )
        commands, sums, told, timers = (
            _arrays(x) for x in (self.commands, self.sums, self.told, self.timers)
        )
        logic = {n: np.asarray(x) for n, x in self.logic.items()}
        steps = {n: np.asarray(x) for n, x in self.steps.items()}
        guard, modes = np.asarray(self.guard, np.int8), np.asarray(self.modes)
        rest = (self.why, self.memory, modes, logic, steps, told, timers, self.said, self.shared)
        return Result(self.t_s, commands, sums, guard, traces, *rest)

    def _single(self) -> Result:
        figures = [*self.commands.values(), *self.sums.values()]
        flags = [*self.logic.values()]
        for c, _ in self.outputs.values():
            figures += (c.pct, c.us, c.stand, c.cut, c.deg or 0.0, c.mm or 0.0)
            flags += (c.at_stop, c.failsafe, bool(c.ready))
        x, b = np.array(figures, float), np.array(flags, bool)
        i, k = len(self.commands) + len(self.sums), len(self.logic)
        traces: dict[str, Trace] = {}
        for name, (c, moving) in self.outputs.items():
            traces[name] = OutputTrace(
                x[i : i + 1],
                x[i + 1 : i + 2],
                x[i + 2 : i + 3],
                x[i + 3 : i + 4],
                b[k : k + 1],
                b[k + 1 : k + 2],
                moving,
                None if c.deg is None else x[i + 4 : i + 5],
                None if c.mm is None else x[i + 5 : i + 6],
                None if c.ready is None else b[k + 2 : k + 3],
            )
            i, k = i + 6, k + 3
        shown = {n: x[j : j + 1] for j, n in enumerate(self.commands)}
        summed = {n: x[j : j + 1] for j, n in enumerate(self.sums, len(shown))}
        logic = {n: b[j : j + 1] for j, n in enumerate(self.logic)}
        told = {n: np.array([x], float) for n, x in self.told.items()}
        timers = {n: np.array([x], float) for n, x in self.timers.items()}
        steps = {n: np.array([x], np.intp) for n, x in self.steps.items()}
        guard, modes = np.array([self.guard], np.int8), np.array([self.modes], np.intp)
        rest = (self.why, self.memory, modes, logic, steps, told, timers, self.said, self.shared)
        return Result(self.t_s, shown, summed, guard, traces, *rest)


def _arrays(table: Mapping[str, Signal]) -> dict[str, Array]:
    return {n: np.asarray(x) for n, x in table.items()}
