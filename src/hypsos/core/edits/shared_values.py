# SPDX-License-Identifier: GPL-3.0-or-later
"""Shared values: adding, removing, who uses them, what a slider says now kept, and what a zero
would do."""

from __future__ import annotations

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.base.figure_words import said_name
from hypsos.core.base.lookup import first_free, replaced, the_named
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import EXPO_BOUNDS, RATE_BOUNDS, Axis, Setting
from hypsos.core.edits.condition_choices import free_name
from hypsos.core.parts.mix_lines import MixLine, Response, held_differential
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes.recipe_base import RecipeBase
from hypsos.core.wording.describe_condition import mode_label

MAIN = ("roll", "pitch", "yaw")


def with_tunable(model: Model, label: str) -> Model:
    """The model with one more shared value."""
    made = Tunable(name=free_name(model, label), label=label, value=50.0)
    return _with(model, (*model.program.tunables, made))


def with_value_for(model: Model, index: int, key: str) -> Model:
    """The model with a shared value made for a figure of a behaviour, by which that goes from now
    on: ``key`` is the field that names it. It stands at 100 %, so nothing moves otherwise."""
    recipe = model.program.recipes[index]
    figure = next(p.of for p in recipe.of("shared") if p.key == key)
    about = next(p.label for p in recipe.parameters if p.key == figure)
    wanted = f"{recipe.label}: {about.lower()}"[:50]
    label = first_free(wanted, {x.label for x in model.program.shared_values()})
    made = Tunable(name=free_name(model, label), label=label, value=100.0)
    recipes = list(model.program.recipes)
    recipes[index] = recipe.changed({key: made.name})
    fields = {"tunables": (*model.program.tunables, made), "recipes": tuple(recipes)}
    return model.changed({"program": model.program.changed(fields)})


AXIS_FIELDS = {"rate_from": "rate", "expo_from": "expo", "live_from": "curve"}
"""What of an axis goes by a shared value, in words."""


def tunable_users(model: Model, name: str) -> tuple[str, ...]:
    """Who goes by a shared value, in words."""
    found: dict[str, None] = {}
    for axis in model.program.axes:
        fields = [field for field, shared in model.program.felt(axis).shares() if shared == name]
        found |= {
            f"{AXIS_FIELDS[field.rsplit('.', 1)[-1]]} of {axis.command}": None for field in fields
        }
    for placed in all_lines(model):
        if name in placed.line.reads_shared():
            found[placed.origin or placed.line.name] = None
    for recipe in model.program.recipes:  # one that is switched off goes by it too
        if any(shared == name for _, shared in recipe.shares()):
            found[recipe.label] = None
    return tuple(found)


def without_tunable(model: Model, name: str) -> Model:
    """The model without a shared value. Raises HypsosError with those who go by it."""
    users = tunable_users(model, name)
    if users:
        x = the_named(model.program.tunables, name)
        go_by = "goes by" if len(users) == 1 else "go by"
        raise HypsosError(
            f"{', '.join(users)} {go_by} {said_name(x.label, 'Shared value', x.name)}",
            "",
            "Keep its figure there (Remove, keep its figure), or let that go by another.",
        )
    return _with(model, tuple(x for x in model.program.tunables if x.name != name))


def freed(model: Model, name: str, value: float) -> Model:
    """The model without a shared value, those who went by it on figures of their own: what they do
    where it is ``value``. Raises HypsosError where such a figure lies beyond its bounds."""
    program = model.program
    try:
        fields = {
            "mixes": tuple(_freed_line(line, name, value) for line in program.mixes),
            "axes": tuple(_freed_axis(axis, name, value) for axis in program.axes),
            "recipes": tuple(_freed_recipe(recipe, name, value) for recipe in program.recipes),
        }
    except DocumentError as error:
        raise HypsosError(
            f"with {value:g} put in, {', '.join(tunable_users(model, name))} would lie beyond the bounds",
            "",
            "Give the shared value a lower figure first.",
        ) from error
    return without_tunable(model.changed({"program": program.changed(fields)}), name)


def _freed_response(response: Response, value: float) -> Response:
    """A response whose points stay where a shared value had brought them."""
    return response.changed(
        {"points": response.lifted(value), "live": (), "live_from": None, "live_odd": False}
    )


def _freed_line(line: MixLine, name: str, value: float) -> MixLine:
    fields: dict[str, object] = {}
    if line.gain_from == name:
        fields |= {"gain": line.gain * value / 100.0, "gain_from": None}
    if line.differential_from == name:
        fields |= {
            "differential": held_differential(line.differential, value),
            "differential_from": None,
        }
    if line.response is not None and line.response.live_from == name:
        fields |= {"response": _freed_response(line.response, value)}
    return line.changed(fields) if fields else line


def _freed_setting(setting: Setting | None, name: str, value: float) -> Setting | None:
    if setting is None:
        return None
    fields: dict[str, object] = {}
    if setting.rate_from == name:
        rate = min(RATE_BOUNDS[1], max(RATE_BOUNDS[0], value))
        fields |= {"rate_neg": rate, "rate_pos": rate, "rate_from": None}
    if setting.expo_from == name:
        fields |= {"expo": min(EXPO_BOUNDS[1], max(EXPO_BOUNDS[0], value)), "expo_from": None}
    return setting.changed(fields) if fields else setting


def _freed_axis(axis: Axis, name: str, value: float) -> Axis:
    fields: dict[str, object] = {
        "settings": tuple(_freed_setting(s, name, value) for s in axis.settings)
    }
    if axis.curve is not None and axis.curve.live_from == name:
        fields |= {"curve": _freed_response(axis.curve, value)}
    return axis.changed(fields)


def _freed_recipe(recipe: RecipeBase, name: str, value: float) -> RecipeBase:
    by = [p for p in recipe.of("shared") if getattr(recipe, p.key) == name]
    figures = {p.of: recipe.multiplied(p.of, value) for p in by}
    return recipe.changed({**figures, **{p.key: None for p in by}}) if by else recipe


def with_value(model: Model, name: str, mode: str | None, value: float) -> Model:
    """The model with a shared value in one flight mode, or (None) where a mode has none of its own.
    Raises HypsosError outside its bounds."""
    x = the_named(model.program.tunables, name)
    if not x.low <= value <= x.high:
        raise HypsosError(
            f"{value:g} lies outside {x.low:g} to {x.high:g}",
            "",
            "Take a value within its bounds, or widen them.",
        )
    if mode is None:
        made = x.changed({"value": value})
    else:
        made = x.changed({"by_mode": {**x.by_mode, mode: value}})
    return _with(model, replaced(model.program.tunables, made))


def kept_now(model: Model, name: str, mode: str, value: float) -> Model:
    """The model with what an adjuster says now as the stored value: of the mode flown, where that
    has one of its own."""
    x = the_named(model.program.tunables, name)
    own = mode if mode in x.by_mode else None
    return with_value(model, name, own, min(x.high, max(x.low, round(value, 2))))


def dead_axes(model: Model) -> list[tuple[str, str]]:
    """Pairs of (shared value, what it may take away): a main axis whose rate it could make zero, by
    a bound or in a mode."""
    out = []
    rates: dict[str, list[str]] = {}
    for axis in model.program.axes:
        for name in {
            s.rate_from for s in model.program.felt(axis).settings if s is not None and s.rate_from
        }:
            if axis.command in MAIN:
                rates.setdefault(name, []).append(axis.command)
    for x in model.program.shared_values():
        commands = rates.get(x.name)
        if not commands:
            continue
        zeros = [mode_label(model, m) for m, v in x.by_mode.items() if v <= 0]
        what = " and ".join(commands)
        if zeros:
            out.append((x.name, f"in {', '.join(zeros)} it is zero: no {what}"))
        elif x.value <= 0:
            out.append((x.name, f"it is zero: no {what}"))
        elif x.low <= 0 and x.adjuster is not None:
            out.append((x.name, f"it may go down to zero in flight: no {what}"))
    return out


def _with(model: Model, tunables: tuple[Tunable, ...]) -> Model:
    return model.changed({"program": model.program.changed({"tunables": tunables})})
