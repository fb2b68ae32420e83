# SPDX-License-Identifier: GPL-3.0-or-later
"""The same aeroplane on different transmitters.

A *school* is a way of thinking of transmitters; a new one is a folder here and a line in
``SCHOOLS``. A design is first *reduced*: what a transmitter can't do is taken out in the open, each
thing as a lack with what was done instead. What is left is *translated* into that school's own
settings. *Proof* plays both."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.by_behaviour.behaviour_school import SCHOOL as BY_BEHAVIOUR
from hypsos.core.schools.by_function.function_school import SCHOOL as BY_FUNCTION
from hypsos.core.schools.by_lines.lines_school import SCHOOL as BY_LINES
from hypsos.core.schools.from_model.hardware import EXACT, Steps
from hypsos.core.schools.lacks import Lack, NearCurve, Reduced, Stage
from hypsos.core.schools.reductions.fixed import Fixed, held_fast, through_names, without_unused
from hypsos.core.schools.reductions.hands_and_outputs import on_its_controls, on_its_outputs
from hypsos.core.schools.reductions.plain_form import near_curves, plain_form
from hypsos.core.schools.school import School

SCHOOLS: dict[str, School] = {x.name: x for x in (BY_LINES, BY_BEHAVIOUR, BY_FUNCTION)}
HALF_PERCENT = 0.5
FINEST_CURVE = 33
"""Points of a curve in a design."""


def reduced(model: Model, profile: Profile) -> Reduced:
    """A design as a transmitter can have it, and what was taken out of it.

    Raises HypsosError where it can't be keyed in at all: nothing there cuts the motor."""
    school = school_named(profile.school)
    points = min(FINEST_CURVE, max(3, profile.curve_points))
    design = model
    model = held_fast(through_names(plain_form(design, points)), Fixed())
    model = without_unused(model)
    there = on_its_outputs(model, profile).model.leads
    near = near_curves(design.changed({"leads": there}), points)
    # as much as whole percents round a weight is told with the rounding; more is a lack
    rough = tuple(x for x in near if x.us > HALF_PERCENT * model.transmitter.us_per_percent)
    stages = [Stage(design, model, (_rough_curves(rough),))] if rough else []
    turns = bool(_motor_leads(design))

    def of_motors(lack: Lack) -> Lack:
        """What a guard lacks decides over no motor before one is plugged in."""
        return lack._replace(motor=lack.motor and turns)

    for reduce in (on_its_controls, on_its_outputs, *school.reductions):
        step = reduce(model, profile)
        if step.lacks:
            stages.append(Stage(model, step.model, tuple(map(of_motors, step.lacks))))
            model = without_unused(step.model)
        else:
            model = step.model
    lacks = [lack for stage in stages for lack in stage.lacks]
    # what touches a motor stands first
    lacks.sort(key=lambda x: not x.motor)
    fine = tuple(x for x in near if x not in rough)
    return Reduced(without_unused(model), tuple(lacks), tuple(stages), fine)


def _motor_leads(model: Model) -> list[Lead]:
    """The leads of motors that are plugged in."""
    motors = {m.name for m in model.airframe.motors}
    return [x for x in model.leads if x.target in motors and x.port is not None]


def _rough_curves(curves: Sequence[NearCurve]) -> Lack:
    """Surfaces whose degrees become percent by fewer points than would follow their linkage."""
    names = ", ".join(x.label for x in curves)
    points = max(x.points for x in curves)
    return Lack(
        "curve",
        f"{names}: the way from degrees to percent, which bends with the linkage",
        f"{points} points",
        f"{points} points stand for it.",
        "A servo arm and a horn of the same length make this way straighter.",
    )


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
