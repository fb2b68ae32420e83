# SPDX-License-Identifier: GPL-3.0-or-later
"""With what hands a pilot gives the motors power, and takes it: the throttle's control, or a switch
that stands in for it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.edits.run_limit import motor_switch
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.words import control_label

UP = -20.0
"""Where a stick is left standing that gives power: at 40 %."""


class Throttle(NamedTuple):
    """``low`` and ``up``: where the controls stand that give no power, and power. ``name``: what
    people call the one that does it. The words say how it comes there: ``'low'``, ``'at off'``;
    ``'up'``, ``'to full'``; ``'low'``, ``'to off'``."""

    low: Mapping[str, float]
    up: Mapping[str, float]
    name: str
    is_low: str = "low"
    goes_up: str = "up"
    goes_low: str = "low"

    @property
    def remedy(self) -> str:
        """What to do where it asks for power: ``'bring the throttle stick low'``."""
        verb = "bring" if self.goes_low == "low" else "put"
        return f"{verb} the {self.name} {self.goes_low}"


def switched(model: Model) -> Throttle | None:
    """The switch that gives the motors their power; None where none does. The stick of the thrust
    command, which the guard wants low as well, stays low throughout."""
    found = motor_switch(model)
    if found is None:
        return None
    recipe, control = found
    powers = recipe.powers(len(control.positions))
    least, most = powers.index(min(powers)), powers.index(max(powers))
    off, full = control.positions[least], control.positions[most]
    axis = model.program.axis("thrust")
    low = {control.name: float(least)} | ({} if axis is None else {axis.control: -100.0})
    return Throttle(
        low, {control.name: float(most)}, control.label, f"at {off}", f"to {full}", f"to {off}"
    )


def throttle(model: Model) -> Throttle:
    """What gives the motors their power."""
    found = switched(model)
    if found is not None:
        return found
    axis = model.program.axis("thrust")
    lever = axis.control if axis is not None else STICKS[2]
    return Throttle({lever: -100.0}, {lever: UP}, control_label(model, lever))
