"""What comes out of a run."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import IntEnum
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hypsos.core.engine.memory import Memory

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]


class GuardState(IntEnum):
    """The motors' release."""

    STOPPED = 0
    LOCKED = 1
    RELEASED = 2


Kind = Literal["stick", "trim", "mix", "guard", "cut-off", "slow", "preset", "travel", "centre", "stop", "link"]


@dataclass(frozen=True)
class Contribution:
    """A part of where a surface stands: what made it, how much in percent of full deflection, where its number is set.

    ``amount`` has the run's shape. ``path`` is empty where no number of the document is behind it.
    """

    label: str
    kind: Kind
    amount: Array
    path: str = ""


@dataclass(frozen=True)
class OutputTrace:
    """One channel over the run.

    ``pct`` is the output in percent with direction, centre, travel and stops, as the pulse says it; ``us`` the pulse in
    microseconds, 0 where
    there is none. ``stand`` is where the part stands in percent of its own sense (for surfaces + is down or right);
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

    @property
    def pending(self) -> bool:
        """True when time alone will still change something: a slow movement, a delay under way."""
        return self.memory.pending
