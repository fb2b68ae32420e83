# SPDX-License-Identifier: GPL-3.0-or-later
"""Flight modes of a model: adding, removing, their order, what they hold, one mirrored or
copied."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import first_numbered, replaced, the_named, the_place
from hypsos.core.conditions import Combine, conditions_of
from hypsos.core.dependencies.references import condition_users, uses
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis
from hypsos.core.edits.condition_choices import free_name
from hypsos.core.parts.condition_text import asked, opposite
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes import Recipe
from hypsos.core.wording.describe_condition import mode_label


def with_modes(model: Model, modes: tuple[FlightMode, ...]) -> Model:
    """The model with these flight modes."""
    return model.changed({"program": model.program.changed({"modes": modes})})


def with_mode(model: Model, label: str, when: str | None = None, like: str | None = None) -> Model:
    """The model with one more mode, before the default mode; the first one brings the default mode
    with it. ``like``: it begins with all that this mode holds."""
    modes = model.program.modes
    if not modes:
        base = FlightMode(name="cruise", label="Cruise")
        model, modes = with_modes(model, (base,)), (base,)
    name = free_name(model, label)
    rule = when if when is not None else _first_free(model, label)
    old = next((m for m in modes if m.name == like), None)
    fields = {} if old is None else {"presets": old.presets, "fade_s": old.fade_s}
    made = FlightMode(name=name, label=label, when=rule, **fields)
    after = with_modes(model, (*modes[:-1], made, modes[-1]))
    return after if like is None else _values_like(after, name, like)


USUAL_MODES = ("Landing", "Launch", "Thermal", "Speed", "Climb", "Aerobatic")
"""Names of modes that are proposed one after the other."""


def proposed_mode(model: Model) -> str:
    """The name that a further mode begins with: one that a free position of a switch is called by,
    or else the next of the usual ones."""
    taken = {m.label.casefold() for m in model.program.modes}
    left = [name for name in USUAL_MODES if name.casefold() not in taken]
    called = {position.casefold() for _, position in _free_positions(model)}
    by_name = [name for name in left if name.casefold() in called]
    if by_name or left:
        return [*by_name, *left][0]
    return first_numbered("Mode", {m.label for m in model.program.modes})


def _first_free(model: Model, label: str) -> str:
    """A switch position that chooses no mode yet: the one that is called as the mode is (*Landing*
    at *landing*), or else the first that is not called as another mode; of switches that choose
    modes or do nothing yet, and only without such of the others, again by name first. With none left the second of the
    first switch."""
    free = _free_positions(model)
    in_use = _free_positions(model, busy=True)
    own, own_in_use = (
        [rule for rule, position in places if position.casefold() == label.casefold()]
        for places in (free, in_use)
    )
    others = {name.casefold() for name in USUAL_MODES}
    unnamed = [rule for rule, position in free if position.casefold() not in others]
    every = own_in_use + [rule for rule, _ in in_use]
    spare = _switches(model, busy=True)
    if not spare:
        raise HypsosError(
            "a flight mode needs a switch", "transmitter.controls", "Lay out one under the hands."
        )
    return [*own, *unnamed, *(rule for rule, _ in free), *every, f"{spare[0].name}@1"][0]


def _free_positions(model: Model, busy: bool = False) -> list[tuple[str, str]]:
    """Positions that choose no mode yet, each with the condition that asks for it and its name. The
    first of a switch is where it rests, so it chooses none."""
    asked_for = {m.when for m in model.program.modes}
    free = []
    for control in _switches(model, busy):
        for place, position in list(enumerate(control.positions))[1:]:
            rule = f"{control.name}@{place}"
            if rule not in asked_for:
                free.append((rule, position))
    return free


def _switches(model: Model, busy: bool) -> list[Control]:
    """The switches that choose modes, then those that do nothing yet; with ``busy`` all others,
    too, but the motor's: first those that only choose rates, for they move no surface."""
    from hypsos.core.edits.mode_grid import mode_switches

    guard, used = model.program.guard, uses(model)
    spare = []
    for control in model.transmitter.controls:
        of_the_guard = guard is not None and control.name == guard.switch
        idle = not used.get(control.name)
        if control.kind == "switch" and not of_the_guard and (idle or busy):
            spare.append(control)
    choosing = mode_switches(model)
    rates = {axis.switch for axis in model.program.axes}
    others = [c for c in spare if c not in choosing]
    others.sort(key=lambda c: (bool(used.get(c.name)), c.name not in rates))
    return [*choosing, *others]


def _values_like(model: Model, name: str, like: str) -> Model:
    """What is kept by mode for ``name`` as it is for ``like``: trims, shared values, figures of
    behaviours."""

    def with_own(table: Mapping[str, object]) -> dict[str, object]:
        return {**table, name: table[like]} if like in table else dict(table)

    program = model.program

    def axis(a: Axis) -> Axis:
        if a.trim is None:
            return a
        return a.changed({"trim": a.trim.changed({"by_mode": with_own(a.trim.by_mode)})})

    def recipe(r: Recipe) -> Recipe:
        tables = [p.key for p in r.of("by mode")]
        return r.changed({key: with_own(getattr(r, key)) for key in tables}) if tables else r

    axes = tuple(axis(a) for a in program.axes)
    tunables = tuple(x.changed({"by_mode": with_own(x.by_mode)}) for x in program.tunables)
    recipes = tuple(recipe(r) for r in program.recipes)
    return model.changed(
        {"program": program.changed({"axes": axes, "tunables": tunables, "recipes": recipes})}
    )


def with_fade(model: Model, seconds: float) -> Model:
    """The model with one transition time for all its modes."""
    return with_modes(model, tuple(m.changed({"fade_s": seconds}) for m in model.program.modes))


def mode_users(model: Model, name: str) -> tuple[str, ...]:
    """Who asks for a mode, in words."""
    return condition_users(model, f"mode:{name}")


def _all_users(model: Model, name: str) -> tuple[str, ...]:
    """Who asks for a mode, conditions among them that nothing goes by."""
    key = f"mode:{name}"
    users = dict.fromkeys(mode_users(model, name))
    for node in model.program.logic:
        if any(asked(text).key == key for text in conditions_of(node)):
            users[node.label] = None
    return tuple(users)


def without_mode(model: Model, name: str) -> Model:
    """The model without a mode, and without what was kept for it. Raises HypsosError with those who
    ask for it."""
    label, program = mode_label(model, name), model.program
    if len(program.modes) > 1 and program.modes[-1].name == name:
        text = f"{label} is the default mode, flown where no rule holds"
        raise HypsosError(text, "", "Give it another name instead.")
    users = _all_users(model, name)
    if users:
        text = f"{label} is asked for by {', '.join(users)}"
        raise HypsosError(text, "", "Let that go by something else first.")
    modes = tuple(m for m in program.modes if m.name != name)
    if len(modes) == 1 and not modes[0].presets and not _all_users(model, modes[0].name):
        modes = ()  # a default mode alone is no choice
    gone = {m.name for m in program.modes} - {m.name for m in modes}
    recipes = program.recipes
    for mode in gone:
        recipes = tuple(r.without_mode(mode) for r in recipes)
    fields = {
        "modes": modes,
        "axes": tuple(_trimmed_without(axis, gone) for axis in program.axes),
        "tunables": tuple(_without(x, _left(x.by_mode, gone), gone) for x in program.tunables),
        "recipes": recipes,
    }
    return model.changed({"program": program.changed(fields)})


def _left(table: Mapping[str, object], gone: set[str]) -> dict[str, object]:
    """What a table by flight mode holds for those that stay."""
    return {mode: value for mode, value in table.items() if mode not in gone}


def _trimmed_without(axis: Axis, gone: set[str]) -> Axis:
    """An axis without the trims of flight modes that go."""
    if axis.trim is None:
        return axis
    return axis.changed({"trim": axis.trim.changed({"by_mode": _left(axis.trim.by_mode, gone)})})


def _without(x: Tunable, by_mode: dict[str, object], gone: set[str]) -> Tunable:
    adjuster = x.adjuster
    if adjuster is not None and gone & set(adjuster.modes):
        adjuster = adjuster.changed({"modes": tuple(m for m in adjuster.modes if m not in gone)})
    return x.changed({"by_mode": by_mode, "adjuster": adjuster})


def let_go(model: Model, name: str) -> Model:
    """The model without a mode; what asked for it goes by the same moments: by its rule, or, where
    others go before it, by a condition that its rule holds and none of those is flown. Raises
    HypsosError for the default mode."""
    modes = model.program.modes
    at = the_place((m.name for m in modes), name)
    rule = modes[at].when
    if at == len(modes) - 1 or rule is None:
        raise HypsosError(f"{modes[at].label} is the default mode, flown where no rule holds", "")
    if at:
        of = (rule, *(f"!mode:{m.name}" for m in modes[:at]))
        made = Combine(
            name=free_name(model, f"{name} before"), label=modes[at].label, kind="all", of=of
        )
        program = model.program.changed({"logic": (*model.program.logic, made)})
        model, rule = model.changed({"program": program}), made.name
    told = {f"mode:{name}": rule, f"!mode:{name}": opposite(rule)}

    def through(x: Any, key: str = "") -> Any:
        if isinstance(x, dict):
            return {k: through(v, k) for k, v in x.items()}
        if isinstance(x, list | tuple):
            return [through(v, key) for v in x]
        return told.get(x, x) if isinstance(x, str) and key not in ("label", "name", "notes") else x

    return without_mode(Model.model_validate(through(model.model_dump(mode="json"))), name)


def at_place(model: Model, name: str, place: int) -> Model:
    """The model with a mode at another place of the priority; the default mode stays the last."""
    modes = list(model.program.modes)
    at = the_place((m.name for m in modes), name)
    if at == len(modes) - 1:
        raise HypsosError(f"{modes[at].label} is the default mode and stays the last", "")
    held = modes.pop(at)
    modes.insert(max(0, min(place, len(modes) - 1)), held)
    return with_modes(model, tuple(modes))


def with_presets(model: Model, name: str, presets: Mapping[str, float]) -> Model:
    """The model with these presets in a mode; zeros are left out."""
    kept = {n: x for n, x in presets.items() if x}
    mode = the_named(model.program.modes, name)
    return with_modes(model, replaced(model.program.modes, mode.changed({"presets": kept})))


def mirrored(model: Model, presets: Mapping[str, float], side: str) -> dict[str, float]:
    """Presets with one side's figures on the other side too."""
    out = dict(presets)
    for s in model.airframe.surfaces:
        other = model.airframe.other_side(s.name)
        if s.side == side and other is not None and s.follows is None:
            out[other] = presets.get(s.name, 0.0)
    return {n: x for n, x in out.items() if x}
