"""The guard: whether the motors are stopped, locked or released."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine.memory import Flags, Memory, latch, on_delay, rising
from hypsos.core.engine.result import GuardState

Array = NDArray[np.float64]


def guard_state(
    model: Model,
    signals: dict[str, Array],
    positions: dict[str, NDArray[np.intp]],
    connected: Flags,
    t_s: Array,
    memory: Memory,
) -> NDArray[np.int8]:
    """The state of every frame, as :class:`GuardState` codes.

    Every level needs the switch to be *moved* to run: a switch left at run when the power comes on stays locked.
    A model without a guard has no motors, and nothing is held back.
    """
    guard = model.program.guard
    if guard is None:
        return np.full(connected.shape, GuardState.RELEASED, np.int8)
    run = positions[guard.switch] == guard.run_position
    low = signals[guard.stick] < guard.threshold
    armed = rising(run, memory, "guard.run")
    if guard.level >= 2:
        armed = armed & low
    needs_rest = guard.level >= 3 or guard.wakes_when_low
    rested = on_delay(low, t_s, guard.rest_s, memory, "guard.rest") if needs_rest else low
    if guard.level >= 3:
        armed = armed & rested
    lost: Flags = np.zeros(connected.shape, bool)
    relocked: Flags = lost
    if guard.level >= 4:
        lost = on_delay(~connected, t_s, guard.relock_s, memory, "guard.lost")
        relocked = latch(lost, ~run & ~lost, memory, "guard.relocked")
    if guard.wakes_when_low:
        armed = armed | (run & rested & ~relocked)
    released = latch(armed, ~run | lost, memory, "guard.released")
    state = np.where(run, np.where(released, GuardState.RELEASED, GuardState.LOCKED), GuardState.STOPPED)
    return state.astype(np.int8)
