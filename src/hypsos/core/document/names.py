# SPDX-License-Identifier: GPL-3.0-or-later
"""The names that mean something in a model: what may not be called so a second time."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.program import AXIS_COMMANDS, FREE_COMMANDS
from hypsos.core.parts.transmitter import AROUND, STICKS

REALMS = ("guard", "mode", "say")
"""Words before the colon of a condition, and columns of the trace."""


def reserved_names(model: Model) -> set[str]:
    """The names that have a meaning of their own in every model, and those of its trims."""
    trims = {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    return {*STICKS, *AXIS_COMMANDS, *FREE_COMMANDS, "full", "t_s", *AROUND, *REALMS} | trims


def named_things(model: Model) -> set[str]:
    """The names of parts, controls, conditions, shared values, timers and flight modes."""
    program = model.program
    things = (
        *model.airframe.moved(),
        *model.transmitter.controls,
        *program.logic,
        *program.shared_values(),
        *program.timers,
        *program.modes,
    )
    return {x.name for x in things}


def taken_names(model: Model) -> set[str]:
    """Every name that a new one of these may not have."""
    return reserved_names(model) | named_things(model) | set(model.program.signal_labels())
