# SPDX-License-Identifier: GPL-3.0-or-later
"""A limit for each run of a motor that is driven by a switch."""

from __future__ import annotations

from hypsos.core.conditions import Combine, Delay, LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.document.names import named_things
from hypsos.core.edits.detach import free_signal
from hypsos.core.parts.announcement_values import Announcement
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes.motor_switch import MotorSwitch

RUN_S = 30.0
"""So long a motor may run at a time: a usual first value for climbing with a folding propeller."""
LABEL = "Motor time is up"


def may_limit(model: Model) -> bool:
    """Whether a switch drives a motor of this model, and no limit of this kind is there yet."""
    return _driving(model) is not None and all(x.label != LABEL for x in model.program.logic)


def with_run_limit(model: Model) -> Model:
    """The model with a limit: after ``RUN_S`` seconds with power the guard holds the motors, until
    the switch is off again.

    The time goes by the switch alone and not by what the motor does. So the hold lasts until a hand
    puts the switch to nothing, and no level of the guard lets the motor start again while the
    switch still asks for power."""
    found = _driving(model)
    program = model.program
    if found is None or program.guard is None:
        return model
    recipe, control = found
    off = [
        f"!{control.name}@{i}"
        for i, power in enumerate(recipe.powers(len(control.positions)))
        if power <= 0
    ]
    name = free_signal(program, named_things(model), "motor_time")
    logic: list[LogicSwitch] = []
    asks = off[0] if len(off) == 1 else f"{name}_on"
    if len(off) > 1:
        logic.append(Combine(kind="all", name=asks, label="Motor switched on", of=tuple(off)))
    logic.append(Delay(kind="on_delay", name=name, label=LABEL, of=asks, seconds=RUN_S))
    guard = program.guard.changed({"holds": (*program.guard.holds, name)})
    said = Announcement(caption=LABEL, when=name, rank="danger")
    fields = {
        "guard": guard,
        "logic": (*program.logic, *logic),
        "announcements": (*program.announcements, said),
    }
    return model.changed({"program": program.changed(fields)})


def motor_switch(model: Model) -> tuple[MotorSwitch, Control] | None:
    """The first behaviour that drives a motor by a switch, and that switch; None where none
    does."""
    for recipe in model.program.recipes:
        if isinstance(recipe, MotorSwitch) and recipe.on:
            control = model.transmitter.control(recipe.control)
            if control is not None and control.is_switch:
                return recipe, control
    return None


def _driving(model: Model) -> tuple[MotorSwitch, Control] | None:
    """The same, where the switch has a position for nothing."""
    found = motor_switch(model)
    return (
        found if found is not None and min(found[0].powers(len(found[1].positions))) <= 0 else None
    )
