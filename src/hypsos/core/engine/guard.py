# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard: whether the motors are cut, locked or armed.

Sought: no motor starts where nobody meant it, and one that is meant to run does.

It asks three times what a motor would be told. First, now: as the lines stand, with the stick where
it is. Second, at the end of every slow and fade on its way (`mixing`): what would come out although
nobody moves a hand. Third, once delays, off-delays and pulses have run out (`run_out`): what would
start later, when nobody is near. Only where all three are at or below the threshold is the motor
*low*.

What must stay true: arming takes the switch moved to run by a hand; a switch that stood there at
power-up, or came there by an edit, has not been moved. What the level asks for (low, rested low,
link kept) is asked in the frame of that movement. A hold cuts, until the stick has rested low after
its end; a link lost for long and an edit that reaches a motor lock, and rest is counted anew from
there.

Why in this order: the guard speaks after everything that a motor could be told has been summed, and
before what hangs on its state; so nothing that asks whether it is armed can arm it.

An example, level 3: the stick rests low for half a second, the switch goes to run: armed. With the
stick at a third, the same movement locks; low alone then does not arm it (unless this guard wakes
when low): the switch has to go back to cut first."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

from hypsos.core.base.backends import EPS, Flag, Place, Signal
from hypsos.core.base.memory import Machine, Memory, latch, machine, on_delay, rising
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.parts.guard_states import GuardState

CUT, LOCKED, ARMED = (int(s) for s in GuardState)
BACK_S = 0.2
"""A lost link is back only once it has held for so long without a break; a bouncing contact doesn't
end the loss."""
AFTER_HOLD_S = 0.2
"""At the levels without a rest the stick has to rest low for at least so long after a hold."""


class Told(NamedTuple):
    """What a motor would be told if it were armed, in percent of its demand, and the pulse its lead
    would send at idle.

    ``idle_fits``: that pulse is the one at which its controller is off.
    """

    demand: Signal
    idle_fits: bool


def guard_state(
    model: Model, world: ConditionWorld, told: dict[str, Told], memory: Memory
) -> Place:
    """The state of every frame, as :class:`GuardState` codes.

    Every level needs the switch to be *moved* to run: a switch left at run when the power comes on
    stays locked. No motor is armed whose lead does not give its idle pulse at idle, and none while
    something is left to agree to. A model without a guard has no motors, and nothing is held
    back."""
    guard, backend = model.program.guard, memory.backend
    if guard is None:
        return backend.where(world.link, ARMED, ARMED)
    place = world.positions[guard.switch]
    cut = place == guard.cut[0]
    for position in guard.cut[1:]:
        cut = cut | (place == position)
    run = backend.not_(cut)
    low = _low(model, guard, world, told)
    rested = on_delay(low, world.t_s, guard.rest_s, memory, "guard.rest")
    ready = backend.full(
        world.shape, all(t.idle_fits for t in told.values()) and not guard.unconfirmed
    )
    asked = ready if guard.also is None else ready & world.flag(guard.also)
    if guard.level >= 2:
        asked = asked & (low if guard.level == 2 else rested)
    hold = backend.full(world.shape, False)
    for condition in guard.holds:
        hold = hold | world.flag(condition)
    # a hold has borrowed the stick: the rest is counted from its end
    free = low & backend.not_(hold)
    again_s = guard.rest_s if guard.level >= 3 else max(guard.rest_s, AFTER_HOLD_S)
    again = on_delay(free, world.t_s, again_s, memory, "guard.again") if guard.holds else rested
    woken = guard.wakes_when_low and guard.also is None
    wakes = rested
    if woken and guard.holds:
        wakes = on_delay(free, world.t_s, guard.rest_s, memory, "guard.wakes")
    heard = (
        run,
        rising(run, memory, "guard.run"),
        asked,
        ready & again,
        ready & wakes,
        hold,
        _lost(guard, world, memory),
        _start_check(guard, world),
    )
    armed = machine(_step(woken, backend.not_), heard, 4, memory, "guard.state")[0]
    return backend.where(run & backend.not_(hold), backend.where(armed, ARMED, LOCKED), CUT)


def _step(wakes: bool, not_: Callable[[Flag], Flag]) -> Machine:
    """The flags are: armed; locked by a lost link; stopped by a hold, to go on once the stick has
    rested low; ever armed since power-up."""

    def step(was: tuple[Flag, ...], heard: tuple[Flag, ...]) -> tuple[Flag, ...]:
        armed, relocked, on_hold, ever = was
        run, edge, asked, again, rested, hold, lost, checked = heard
        # a lost link locks, until the switch has been at cut
        relocked = (relocked & run) | lost
        free = run & not_(relocked)
        # the movement to run arms if everything it asks for holds in that frame; the start check
        # counts until the motors have been armed once
        arms = edge & asked & (checked | ever)
        # a hold that stops armed motors is remembered, until they are armed again or the switch
        # goes to cut
        on_hold = (on_hold | (hold & (armed | arms))) & free
        back = on_hold & again
        if wakes:
            back = back | (rested & (checked | ever))
        # whatever arms: the switch at cut, a lock and a hold have the last word
        armed = (armed | arms | back) & free & not_(hold)
        return armed, relocked, on_hold & not_(armed), ever | armed

    return step


def _low(model: Model, guard: Guard, world: ConditionWorld, told: dict[str, Told]) -> Flag:
    """Where the control of the thrust command and what every motor would be told are at or below
    the threshold."""
    axis = model.program.axis("thrust")
    low: Flag = world.backend.full(world.shape, True)
    if axis is not None:
        low = world.signals[axis.control] <= guard.threshold
    # a mix, a trim or a preset may give power without the stick: each motor is asked itself
    for motor in told.values():
        low = low & (motor.demand <= guard.threshold + EPS)
    return low


def _lost(guard: Guard, world: ConditionWorld, memory: Memory) -> Flag:
    """Where a loss of the link has lasted for at least the re-lock time, contacts shorter than
    :data:`BACK_S` counted in.

    It is asked while the link is away, and once more in the frame in which it is back: a loss of
    exactly that time locks."""
    backend = world.backend
    if guard.level < 4:
        return backend.full(world.shape, False)
    away = backend.not_(world.link)
    back = on_delay(world.link, world.t_s, BACK_S, memory, "guard.back")
    loss = latch(away, back, memory, "guard.loss")
    returned = rising(world.link, memory, "guard.returned")
    return (away | returned) & on_delay(loss, world.t_s, guard.relock_s, memory, "guard.lost")


def _start_check(guard: Guard, world: ConditionWorld) -> Flag:
    """Where every control stands as the start check wants it."""
    good = world.backend.full(world.shape, True)
    for check in guard.start_check:
        if check.position is not None:
            good = good & (world.positions[check.control] == check.position)
        else:
            value = world.signals[check.control]
            good = good & (value >= check.low) & (value <= check.high)
    return good


def locked(memory: Memory | None) -> Memory | None:
    """The memory after an edit that reaches a motor: not armed, the stick has to rest low anew, and
    a switch that comes to run by the edit has not been moved there."""
    if memory is None or "guard.state" not in memory.after:
        return memory
    forgotten = ("guard.rest", "guard.again", "guard.wakes", "guard.run")
    after = {k: v for k, v in memory.after.items() if k not in forgotten}
    armed, relocked, _, ever = after["guard.state"]
    after["guard.state"] = (armed & False, relocked, armed & False, ever)
    return replace(memory, after=after)
