# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes turned into the plain mixes that they make, attached again, and signals for new ones."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import first_free, the_named
from hypsos.core.document.document import Model
from hypsos.core.document.lines import expanded
from hypsos.core.document.program import FREE_COMMANDS, Axis, Detached, Program, Signal
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes import Recipe
from hypsos.core.recipes.recipe_base import RecipeBase


def detached(model: Model, index: int) -> Model:
    """The model with one recipe replaced by its mixes, which stand where recipes stand: before the
    mixes made by hand."""
    return detached_all(model, (index,))


def detached_all(model: Model, indices: Iterable[int]) -> Model:
    """The same for several recipes. What they fed as a signal of their own stays a signal of the
    model, what they made as shared values stays a shared value; each is kept aside, to be attached
    again."""
    program, gone = model.program, set(indices)
    taken = [r for i, r in enumerate(program.recipes) if i in gone]
    left = [r for i, r in enumerate(program.recipes) if i not in gone]
    kept: list[Detached] = []
    lines: list[MixLine] = []
    for recipe in taken:
        name = _free_origin(recipe, (*program.detached, *kept))
        kept.append(Detached(name=name, recipe=recipe))
        made = expanded(recipe, model.transmitter) if recipe.on else ()
        lines += [x.line.changed({"origin": name}) for x in made]
    known = {*FREE_COMMANDS, *(s.name for s in program.signals)}
    signals: list[Signal] = []
    values: list[Tunable] = []
    for recipe in taken:
        values += recipe.own_values()
        signals += [
            Signal(name=name, label=label) for name, label in recipe.signals() if name not in known
        ]
    fields = dict(program) | {
        "recipes": tuple(left),
        "mixes": (*lines, *program.mixes),
        "signals": (*program.signals, *signals),
        "tunables": (*program.tunables, *values),
        "axes": tuple(_felt_by(model, axis, taken) for axis in program.axes),
        "detached": (*program.detached, *kept),
    }
    return model.changed({"program": Program(**fields)})


def _free_origin(recipe: RecipeBase, detached: Sequence[Detached]) -> str:
    """A name for the mixes of a recipe that no detached one has: its kind, with a number where that
    is taken."""
    return first_free(recipe.kind, {x.name for x in detached}, "_")


def attached(model: Model, name: str) -> Model:
    """The model with a detached recipe again in the place of its mixes, with its own figures.

    Raises HypsosError where its parts or its signal are no longer there for it.
    """
    program = model.program
    found = next((x for x in program.detached if x.name == name), None)
    if found is None:
        raise HypsosError(f"there is no detached behaviour {name}", "program.detached")
    recipe = found.recipe
    _can_be_attached(model, recipe)
    fed = {n for n, _ in recipe.signals()}
    made = {x.name for x in recipe.own_values()}
    fields = dict(program) | {
        "recipes": (*program.recipes, recipe),
        "mixes": tuple(x for x in program.mixes if x.origin != name),
        "signals": tuple(s for s in program.signals if s.name not in fed),
        "tunables": tuple(x for x in program.tunables if x.name not in made),
        "axes": tuple(_bare(axis, made) for axis in program.axes),
        "detached": tuple(x for x in program.detached if x.name != name),
    }
    return model.changed({"program": Program(**fields)})


def _can_be_attached(model: Model, recipe: RecipeBase) -> None:
    """Raises HypsosError where a recipe's signal is fed by another one, or a part that it moved is
    gone."""
    fed = {n for n, _ in recipe.signals()}
    for other in model.program.recipes:
        if any(n in fed for n, _ in other.signals()):
            raise HypsosError(
                f"{other.label} feeds the same signal now",
                "program.recipes",
                "Remove that one first.",
            )
    parts = {p.name for p in model.airframe.moved()}
    for _, part in recipe.parts():
        if part not in parts:
            text = f"{recipe.label} moved {part}, which is gone"
            raise HypsosError(text, "program.recipes", "Add the behaviour anew.")


def changed_since(model: Model, name: str) -> int:
    """How many of the mixes of a detached recipe are other ones than it made, or are gone."""
    found = the_named(model.program.detached, name)
    now = [x for x in model.program.mixes if x.origin == name]
    made = expanded(found.recipe, model.transmitter) if found.recipe.on else ()
    then = [x.line.changed({"origin": name}) for x in made]
    return max(len(then), len(now)) - sum(x in then for x in now)


def _felt_by(model: Model, axis: Axis, taken: list[Recipe]) -> Axis:
    """An axis with what these recipes put in the place of its numbers as its own, at the positions
    that its switch has."""
    if all(axis.command not in r.feels() for r in taken if r.on):
        return axis
    made: Axis = model.program.felt(axis)
    switch = model.transmitter.control(made.switch) if made.switch else None
    if switch is None:
        return made
    return made.changed({"settings": made.settings[: len(switch.positions)]})


def _bare(axis: Axis, made: set[str]) -> Axis:
    """An axis without what it has from shared values of these names: its own numbers hold again."""
    settings = []
    for setting in axis.settings:
        if setting is not None and {setting.rate_from, setting.expo_from} & made:
            setting = setting.changed({"rate_from": None, "expo_from": None, "from_when": None})
        settings.append(setting)
    return axis.changed({"settings": tuple(settings)})


def free_signal(program: Program, taken: Iterable[str], wanted: str) -> str:
    """A name for a signal that neither a recipe nor a line of its own feeds, that no other signal
    has, and that is none of the names ``taken``."""
    used = {signal.name for signal in program.signals}
    used.update(taken)
    used |= {line.target for line in program.mixes}
    for recipe in program.recipes:
        if recipe.signal is not None:
            used.add(recipe.signal)
        used.update(name for name, _ in recipe.signals())
    return first_free(wanted, used, "_", longest=36)
