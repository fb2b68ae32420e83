# SPDX-License-Identifier: GPL-3.0-or-later
"""The same aeroplane on different transmitters.

A *school* is a way of thinking of transmitters; a new one is a folder here and a line in
``SCHOOLS``. A design is first *reduced*: what a transmitter can't do is taken out in the open, each
thing as a lack with what was done instead. What is left is *translated* into that school's own
settings. *Proof* plays both."""

from __future__ import annotations

from typing import Any

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.by_behaviour.behaviour_school import SCHOOL as BY_BEHAVIOUR
from hypsos.core.schools.by_function.function_school import SCHOOL as BY_FUNCTION
from hypsos.core.schools.by_lines.lines_school import SCHOOL as BY_LINES
from hypsos.core.schools.from_model.hardware import EXACT, Steps
from hypsos.core.schools.lacks import Lack, Reduced, Stage
from hypsos.core.schools.reductions.fixed import Fixed, held_fast, through_names, without_unused
from hypsos.core.schools.reductions.hands_and_outputs import on_its_controls, on_its_outputs
from hypsos.core.schools.reductions.plain_form import plain_form
from hypsos.core.schools.school import School

SCHOOLS: dict[str, School] = {x.name: x for x in (BY_LINES, BY_BEHAVIOUR, BY_FUNCTION)}
FINEST_CURVE = 33
"""Points of a curve in a design."""


def reduced(model: Model, profile: Profile) -> Reduced:
    """A design as a transmitter can have it, and what was taken out of it.

    Raises HypsosError where it can't be keyed in at all: nothing there cuts the motor."""
    school = school_named(profile.school)
    points = min(FINEST_CURVE, max(3, profile.curve_points))
    model = held_fast(through_names(plain_form(model, points)), Fixed())
    model = without_unused(model)
    stages: list[Stage] = []
    for reduce in (on_its_controls, on_its_outputs, *school.reductions):
        step = reduce(model, profile)
        if step.lacks:
            stages.append(Stage(model, step.model, step.lacks))
            model = without_unused(step.model)
        else:
            model = step.model
    lacks = [lack for stage in stages for lack in stage.lacks]
    # what touches a motor stands first
    lacks.sort(key=lambda x: not x.motor)
    return Reduced(without_unused(model), tuple(lacks), tuple(stages))


def translated(made: Reduced, profile: Profile, exact: bool = False) -> Any:
    """The settings of a reduced design; ``exact``: with figures as fine as one likes."""
    steps = EXACT if exact else Steps.of(profile)
    school = school_named(profile.school)
    settings = school.translate(made.model, steps, profile.name)
    return school.in_signs(settings) if profile.reversal == "signs" else settings


def school_named(name: str) -> School:
    """A school by its name. Raises HypsosError that lists those there are."""
    found = SCHOOLS.get(name)
    if found is None:
        raise HypsosError(f"there is no school {name}", "school", f"There is {', '.join(SCHOOLS)}.")
    return found


__all__ = ["SCHOOLS", "Lack", "Reduced", "School", "reduced", "school_named", "translated"]
