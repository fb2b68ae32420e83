"""The guard: whether the motors are stopped, locked or released."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

from hypsos.core.engine.logic import Conditions
from hypsos.core.engine.memory import Machine, Memory, latch, machine, on_delay, rising
from hypsos.core.ground.lanes import EPS, Flag, Place, Signal
from hypsos.core.model.document import Model
from hypsos.core.model.program import Guard
from hypsos.core.parts.states import GuardState

STOPPED, LOCKED, RELEASED = (int(s) for s in GuardState)
BACK_S = 0.2
"""A lost link is back only once it has held for so long without a break; a bouncing contact doesn't end the loss."""


class Told(NamedTuple):
    """What a motor would be told if it were released, in percent of its demand, and the pulse its lead would send at idle.

    ``idle_fits``: that pulse is the one at which its controller is off.
    """

    demand: Signal
    idle_fits: bool


def guard_state(model: Model, world: Conditions, told: dict[str, Told], memory: Memory) -> Place:
    """The state of every frame, as :class:`GuardState` codes (2-semantics, *Guard*).

    Every level needs the switch to be *moved* to run: a switch left at run when the power comes on stays locked. No motor
    is released whose lead does not give its idle pulse at idle. A model without a guard has no motors, and nothing is
    held back.
    """
    guard, lane = model.program.guard, memory.lane
    if guard is None:
        return lane.where(world.link, RELEASED, RELEASED)
    place = world.positions[guard.switch]
    cut = place == guard.cut[0]
    for position in guard.cut[1:]:
        cut = cut | (place == position)
    run = lane.not_(cut)
    low = _low(model, guard, world, told)
    rested = on_delay(low, world.t_s, guard.rest_s, memory, "guard.rest")
    ready = lane.full(world.shape, all(t.idle_fits for t in told.values()))
    asked = ready if guard.also is None else ready & world.flag(guard.also)
    if guard.level >= 2:
        asked = asked & (low if guard.level == 2 else rested)
    hold = lane.full(world.shape, False)
    for condition in guard.holds:
        hold = hold | world.flag(condition)
    heard = (
        run, rising(run, memory, "guard.run"), asked, ready & rested, hold, _lost(guard, world, memory),
        _start_check(guard, world),
    )  # fmt: skip
    woken = guard.wakes_when_low and guard.also is None
    released = machine(_step(woken, lane.not_), heard, 4, memory, "guard.state")[0]
    return lane.where(run & lane.not_(hold), lane.where(released, RELEASED, LOCKED), STOPPED)


def _step(wakes: bool, not_: Callable[[Flag], Flag]) -> Machine:
    """The flags are: released; locked by a lost link; stopped by a hold, to go on once the stick has rested low; ever
    released since power-up."""

    def step(was: tuple[Flag, ...], heard: tuple[Flag, ...]) -> tuple[Flag, ...]:
        released, relocked, on_hold, ever = was
        run, edge, asked, rested, hold, lost, checked = heard
        relocked = (relocked & run) | lost
        free = run & not_(relocked)
        armed = edge & asked & (checked | ever)
        on_hold = (on_hold | (hold & (released | armed))) & free
        back = on_hold & rested
        if wakes:
            back = back | (rested & (checked | ever))
        released = (released | armed | back) & free & not_(hold)
        return released, relocked, on_hold & not_(released), ever | released

    return step


def _low(model: Model, guard: Guard, world: Conditions, told: dict[str, Told]) -> Flag:
    """Where the control of the thrust command and what every motor would be told are at or below the threshold."""
    axis = model.program.axis("thrust")
    low = world.lane.full(world.shape, True) if axis is None else world.signals[axis.control] <= guard.threshold
    for motor in told.values():
        low = low & (motor.demand <= guard.threshold + EPS)
    return low


def _lost(guard: Guard, world: Conditions, memory: Memory) -> Flag:
    """Where the link is away and has been, but for contacts shorter than :data:`BACK_S`, for at least the re-lock time."""
    lane = world.lane
    if guard.level < 4:
        return lane.full(world.shape, False)
    away = lane.not_(world.link)
    back = on_delay(world.link, world.t_s, BACK_S, memory, "guard.back")
    loss = latch(away, back, memory, "guard.loss")
    return away & on_delay(loss, world.t_s, guard.relock_s, memory, "guard.lost")


def _start_check(guard: Guard, world: Conditions) -> Flag:
    """Where every control stands as the start check wants it."""
    good = world.lane.full(world.shape, True)
    for check in guard.start_check:
        if check.position is not None:
            good = good & (world.positions[check.control] == check.position)
        else:
            value = world.signals[check.control]
            good = good & (value >= check.low) & (value <= check.high)
    return good


def locked(memory: Memory | None) -> Memory | None:
    """The memory after an edit that reaches a motor: not released, the stick has to rest low anew, and a switch that comes to
    run by the edit has not been moved there."""
    if memory is None or "guard.state" not in memory.after:
        return memory
    after = {k: v for k, v in memory.after.items() if k not in ("guard.rest", "guard.run")}
    released, relocked, _, ever = after["guard.state"]
    after["guard.state"] = (released & False, relocked, released & False, ever)
    return replace(memory, after=after)
