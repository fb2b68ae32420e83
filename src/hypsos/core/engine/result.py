"""What comes out of a run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.engine.memory import Memory
from hypsos.core.ground.lanes import Array, Flags, Lane, Signal

Kind = Literal[
    "stick", "trim", "mix", "idle", "guard", "cut-off", "slow", "preset", "travel", "centre", "stop", "link"
]  # fmt: skip


class Contribution(NamedTuple):
    """A part of where a surface stands: what made it, how much in percent of full deflection, where its number is set.

    ``amount`` has the run's shape, time last. ``path`` is empty where no number of the document is behind it.
    """

    label: str
    kind: Kind
    amount: Signal
    path: str = ""


class OutputTrace(NamedTuple):
    """One channel over the run.

    ``pct`` is the output in percent with direction, centre, travel and stops, as the pulse says it; ``us`` the pulse in
    microseconds, 0 where there is none. ``stand`` is where the part stands in percent of its own sense (for surfaces + is
    down or right; for a motor by its pulse, -100 where its controller is off);
    ``deg`` and ``mm`` follow from it, None for motors. ``cut`` is how much of the
    demand was cut off, in percent; ``moving`` is True where a slow is still under way at the end of the run.
    """

    pct: Array
    us: Array
    stand: Array
    cut: Array
    at_stop: Flags
    failsafe: Flags
    moving: bool = False
    deg: Array | None = None
    mm: Array | None = None


@dataclass(frozen=True)
class Result:
    """Everything a run computed. Arrays have the run's shape, time last."""

    t_s: Array
    commands: dict[str, Array]
    sums: dict[str, Array]
    guard: NDArray[np.int8]
    outputs: dict[str, OutputTrace]
    why: dict[str, list[Contribution]]
    memory: Memory = field(repr=False)
    modes: NDArray[np.intp] = field(default_factory=lambda: np.zeros(1, np.intp))
    logic: dict[str, Flags] = field(default_factory=dict)
    told: dict[str, Array] = field(default_factory=dict)
    """Motor -> what it would be told if it were released, in percent of its demand."""

    @property
    def pending(self) -> bool:
        """True when time alone will still change something: a slow movement, a delay under way."""
        return self.memory.pending


def result_of(
    lane: Lane,
    t_s: Array,
    commands: dict[str, Signal],
    sums: dict[str, Signal],
    guard: Signal,
    outputs: Mapping[str, tuple[OutputTrace, bool]],
    why: dict[str, list[Contribution]],
    memory: Memory,
    modes: Signal,
    logic: dict[str, Signal],
    told: dict[str, Signal],
) -> Result:
    """Both lanes' figures as arrays. ``outputs``: channel by lead, and whether anything in it is still on its way.

    Plain numbers of a single frame are put into one array of figures and one of flags, and handed out as views.
    """
    if not lane.single:
        traces = {n: c._replace(moving=moving) for n, (c, moving) in outputs.items()}
        return Result(t_s, commands, sums, guard.astype(np.int8), traces, why, memory, modes, logic, told)
    figures = [*commands.values(), *sums.values()]
    flags = [*logic.values()]
    for c, _ in outputs.values():
        figures += (c.pct, c.us, c.stand, c.cut, c.deg or 0.0, c.mm or 0.0)
        flags += (c.at_stop, c.failsafe)
    x, b = np.array(figures, float), np.array(flags, bool)
    i, k = len(commands) + len(sums), len(logic)
    traces = {}
    for name, (c, moving) in outputs.items():
        traces[name] = OutputTrace(
            x[i : i + 1], x[i + 1 : i + 2], x[i + 2 : i + 3], x[i + 3 : i + 4], b[k : k + 1], b[k + 1 : k + 2], moving,
            None if c.deg is None else x[i + 4 : i + 5], None if c.mm is None else x[i + 5 : i + 6],
        )  # fmt: skip
        i, k = i + 6, k + 2
    shown = {n: x[j : j + 1] for j, n in enumerate(commands)}
    summed = {n: x[j : j + 1] for j, n in enumerate(sums, len(commands))}
    return Result(
        t_s, shown, summed, np.array([guard], np.int8), traces, why, memory, np.array([modes], np.intp),
        {n: b[j : j + 1] for j, n in enumerate(logic)}, {n: np.array([x], float) for n, x in told.items()},
    )  # fmt: skip
