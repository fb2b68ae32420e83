# SPDX-License-Identifier: GPL-3.0-or-later
"""Proposals for the guard: an electric motor, an engine, several motors, a limit for each run."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.document.program import USUAL_LEVEL, Engine
from hypsos.core.edits.engine_kind import with_engine
from hypsos.core.edits.relock_time import proposed_relock_s
from hypsos.core.edits.run_limit import may_limit, with_run_limit


class GuardProposal(NamedTuple):
    """A set of figures for the guard: its title, the reason, what it sets besides the re-lock time,
    whether it says anything to a model."""

    title: str
    reason: str
    fields: Mapping[str, Any]
    suits: Callable[[Model], bool]
    engines: bool = False
    """Whether the motors are engines, which idle."""
    makes: Callable[[Model], Model] | None = None
    """What it makes of a model, where that is something other than figures."""


def _motors(model: Model) -> int:
    return len(model.airframe.motors)


GUARD_PROPOSALS = (
    GuardProposal(
        "An electric motor",
        "It starts the moment it is told to: low and rested to arm, and a changed battery locks it again.",
        {"level": USUAL_LEVEL, "threshold": -95.0, "rest_s": 0.5, "wakes_when_low": False},
        lambda m: _motors(m) == 1,
    ),
    GuardProposal(
        "An engine",
        "Armed, it idles at the low end of the stick, its trim about that: never say so of an electric motor. Cut stops it, and "
        "nothing but a starter brings it back. It runs on through a lost link until the failsafe acts, so that a short drop-out "
        "in the air costs nothing; after a long one it stays locked.",
        {"level": USUAL_LEVEL, "threshold": -95.0, "rest_s": 0.5, "wakes_when_low": False},
        lambda m: _motors(m) == 1,
        engines=True,
    ),
    GuardProposal(
        "Two motors and more",
        "As an electric motor, with a longer rest; nothing may be commanded to any motor, so a rudder held over does not arm.",
        {"level": USUAL_LEVEL, "threshold": -95.0, "rest_s": 1.0, "wakes_when_low": False},
        lambda m: _motors(m) > 1,
    ),
    GuardProposal(
        "A limit for each run",
        "After 30 s with power the motor is cut, which is said, until its switch has been off. Times are set with the conditions.",
        {},
        may_limit,
        makes=with_run_limit,
    ),
)


def with_proposal(model: Model, proposal: GuardProposal) -> Model:
    """The model with a proposal in its guard; the differential thrust of several motors does
    nothing at idle."""
    if proposal.makes is not None:
        return proposal.makes(model)
    program = model.program
    assert program.guard is not None
    recipes = []
    for recipe in program.recipes:
        if _motors(model) > 1 and hasattr(recipe, "at_idle"):
            recipe = recipe.changed({"at_idle": "none"})
        recipes.append(recipe)
    engines = program.guard.engines if proposal.engines else ()
    fields = {**proposal.fields, "relock_s": proposed_relock_s(model), "engines": engines}
    guard = program.guard.changed(fields)
    made = model.changed({"program": program.changed({"guard": guard, "recipes": tuple(recipes)})})
    for motor in model.airframe.motors if proposal.engines else ():
        if guard.engine(motor.name) is None:
            made = with_engine(made, Engine(motor=motor.name))
    return made
