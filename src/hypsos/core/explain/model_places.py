# SPDX-License-Identifier: GPL-3.0-or-later
"""What a model has that can be looked for by its words: parts, controls, leads, behaviours and
their figures, modes, shared values, conditions, announcements, timers."""

from collections.abc import Iterator
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.wording.describe_condition import condition_path, named
from hypsos.core.wording.time_words import timer_label
from hypsos.core.wording.words import control_label


class Place(NamedTuple):
    """A thing of a model: what it is called, what it is, and its path in the document."""

    words: str
    kind: str
    path: str


def model_places(model: Model) -> Iterator[Place]:
    """Everything in a model that has a name of its own or a figure with a name."""
    yield from _parts(model)
    yield from _hands(model)
    yield from _behaviours(model)
    yield from _program(model)


def _parts(model: Model) -> Iterator[Place]:
    plugged = {lead.target: i for i, lead in enumerate(model.leads)}
    for part in model.airframe.moved():
        if part.name in plugged:
            yield Place(part.label, "throws and travel", f"leads[{plugged[part.name]}].travel_pos")
    for i, lead in enumerate(model.leads):
        yield Place(lead.label, "its lead and port", f"leads[{i}].port")
        yield Place(lead.label, "when the link is lost", f"leads[{i}].failsafe")


def _hands(model: Model) -> Iterator[Place]:
    for i, control in enumerate(model.transmitter.controls):
        yield Place(control.label, "a control", f"transmitter.controls[{i}]")
    for i, axis in enumerate(model.program.axes):
        words = control_label(model, axis.control)
        yield Place(f"{axis.command}, {words}", "rates and expo", f"program.axes[{i}].settings")
        yield Place(f"{axis.command} trim", "a trim", f"program.axes[{i}].trim")


def _behaviours(model: Model) -> Iterator[Place]:
    for i, recipe in enumerate(model.program.recipes):
        yield Place(recipe.label, "a behaviour", f"program.recipes[{i}]")
        for parameter in recipe.parameters:
            words = f"{recipe.label}: {parameter.label.strip().lower()}"
            yield Place(words, "of a behaviour", f"program.recipes[{i}].{parameter.key}")
    for i, mix in enumerate(model.program.mixes):
        yield Place(mix.name, "a plain mix", f"program.mixes[{i}].gain")


def _program(model: Model) -> Iterator[Place]:
    program = model.program
    for i, mode in enumerate(program.modes):
        yield Place(mode.label, "a flight mode", f"program.modes[{i}]")
        yield Place(f"{mode.label}: wing", "wing in each mode", f"program.modes[{i}].presets")
    for i, value in enumerate(program.tunables):
        yield Place(value.label, "a shared value", f"program.tunables[{i}]")
    for node in named(model):
        yield Place(node.label, "a condition", condition_path(model, node.name))
    for i, said in enumerate(program.announcements):
        yield Place(said.caption, "said aloud", f"program.announcements[{i}]")
    for i, timer in enumerate(program.timers):
        yield Place(timer_label(timer), "a timer", f"program.timers[{i}]")
    if program.guard is not None:
        yield Place("Motor guard", "cut, lock, arm", "program.guard")
