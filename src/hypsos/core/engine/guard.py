"""The guard: whether the motors are stopped, locked or released."""

from __future__ import annotations

from hypsos.core.document import Model
from hypsos.core.engine.memory import Memory, latch, on_delay, rising
from hypsos.core.engine.result import GuardState
from hypsos.core.lanes import Signal

STOPPED, LOCKED, RELEASED = (int(s) for s in GuardState)


def guard_state(
    model: Model,
    signals: dict[str, Signal],
    positions: dict[str, Signal],
    connected: Signal,
    t_s: Signal,
    memory: Memory,
) -> Signal:
    """The state of every frame, as :class:`GuardState` codes.

    Every level needs the switch to be *moved* to run: a switch left at run when the power comes on stays locked.
    A model without a guard has no motors, and nothing is held back.
    """
    guard, lane = model.program.guard, memory.lane
    if guard is None:
        return lane.where(connected, RELEASED, RELEASED)
    run = positions[guard.switch] == guard.run_position
    low = signals[guard.stick] < guard.threshold
    armed = rising(run, memory, "guard.run")
    if guard.level >= 2:
        armed = armed & low
    needs_rest = guard.level >= 3 or guard.wakes_when_low
    rested = on_delay(low, t_s, guard.rest_s, memory, "guard.rest") if needs_rest else low
    if guard.level >= 3:
        armed = armed & rested
    stop = lane.not_(run)
    relocked = None
    if guard.level >= 4:
        lost = on_delay(lane.not_(connected), t_s, guard.relock_s, memory, "guard.lost")
        relocked = latch(lost, stop & lane.not_(lost), memory, "guard.relocked")
        stop = stop | lost
    if guard.wakes_when_low:
        woken = run & rested
        armed = armed | (woken if relocked is None else woken & lane.not_(relocked))
    released = latch(armed, stop, memory, "guard.released")
    return lane.where(run, lane.where(released, RELEASED, LOCKED), STOPPED)
