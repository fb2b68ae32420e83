# SPDX-License-Identifier: GPL-3.0-or-later
"""Behaviours of a model: which can be had and why others can't, adding, copying, switching off,
removing."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import NamedTuple

from hypsos.core.base.lookup import first_free
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.names import named_things
from hypsos.core.edits.detach import free_signal
from hypsos.core.recipes import RECIPES, Ground, Recipe


class Offer(NamedTuple):
    """A kind of recipe: made with sensible first values, or ``why`` it can't be had here and the
    ``step`` that helps."""

    kind: type[Recipe]
    made: Recipe | None
    why: str = ""
    step: str = ""

    @property
    def title(self) -> str:
        return self.kind.title

    @property
    def about(self) -> str:
        return self.kind.about


def ground_of(model: Model) -> Ground:
    """What a model offers to a new behaviour: all its parts, and the controls that do nothing
    yet."""
    switch, used, program = _free_switch(model), uses(model), model.program
    idle = [c for c in model.transmitter.controls if not used.get(c.name)]
    sliders = [c.name for c in idle if c.kind in ("slider", "knob")]
    spare = [c.name for c in idle if c.kind == "switch" and len(c.positions) <= 3]
    return Ground(
        model.airframe,
        frozenset(p.name for p in model.airframe.moved()),
        lambda: switch or "",
        lambda wanted: free_signal(program, named_things(model), wanted),
        slider=next(iter(sliders), ""),
        spare=next(iter(spare), ""),
        modes=tuple(m.name for m in program.modes),
        steers=tuple(a.command for a in program.axes),
        quiet=_throttle_stick_free(model),
        guarded=program.guard is not None,
        lines=program.mixes,
        switches={c.name: len(c.positions) for c in model.transmitter.controls if c.is_switch},
        yaws=_yaws(model),
    )


def _throttle_stick_free(model: Model) -> bool:
    """Whether the throttle stick gives no motor its power, and no behaviour reads it."""
    for recipe in model.program.recipes:
        if any(name == "throttle_stick" for _, name in recipe.reads()):
            return False
    thrust = model.program.axis("thrust")
    if thrust is None or thrust.control != "throttle_stick":
        return True
    motors = {m.name for m in model.airframe.motors}
    sources = {placed.line.source for placed in all_lines(model) if placed.line.target in motors}
    return not sources & {"thrust", "throttle_stick"}


def _yaws(model: Model) -> dict[str, float]:
    """By how much of its travel the full rudder command moves each part, in percent."""
    found: dict[str, float] = {}
    for placed in all_lines(model):
        line = placed.line
        if line.source == "yaw" and line.gain:
            found[line.target] = max(abs(line.gain), found.get(line.target, 0.0))
    return found


def offers(model: Model) -> list[Offer]:
    """Every kind of recipe, in their order."""
    ground = ground_of(model)
    return [_offer(model, kind, ground) for kind in RECIPES]


def _offer(model: Model, kind: type[Recipe], ground: Ground) -> Offer:
    needs = bool(kind.of("positions")) and not ground.switch()
    made = None if needs else kind.begin(ground)
    if made is not None:
        for field, name in list(made.reads()):
            control = model.transmitter.control(name)
            if control is not None and control.is_switch:
                made = made.on_switch(field, control)
        return Offer(kind, made)
    if needs:
        return Offer(kind, None, "it takes a switch that does nothing yet", "hands")
    full = replace(ground, slider=ground.slider or "slider", spare=ground.spare or "switch")
    if kind.begin(full) is not None:
        free = "a slider, a knob or a switch" if kind.of("control") else "a switch"
        return Offer(kind, None, f"it takes {free} that does nothing yet", "hands")
    if kind.of("by mode") and kind.begin(replace(full, modes=("one", "base"))) is not None:
        return Offer(kind, None, "there are no flight modes yet", "modes")
    return Offer(kind, None, kind.missing, "airframe")


def added(model: Model, recipe: Recipe) -> Model:
    """The model with a behaviour besides its own; what the new one asks of the others is done, and
    plain lines that do its work go."""
    program = model.program
    recipes = (*(recipe.beside(r) for r in program.recipes), recipe)
    mixes = tuple(x for x in program.mixes if not recipe.replaces(x))
    return model.changed({"program": program.changed({"recipes": recipes, "mixes": mixes})})


def copied(model: Model, index: int) -> Model:
    """The model with a copy of a behaviour behind it, which feeds a signal of its own and is
    switched off: two of the same would do everything twice."""
    recipes = model.program.recipes
    old = recipes[index]
    made = old.renamed(free_signal(model.program, named_things(model), old.signal or ""))
    made = made.changed({"label": free_label(old.label, (r.label for r in recipes)), "on": False})
    return _with(model, (*recipes[: index + 1], made, *recipes[index + 1 :]))


def without(model: Model, index: int) -> Model:
    """The model without a behaviour. Where something reads its signal, that stays a signal of the
    model, fed by nothing."""
    from hypsos.core.document.program import Signal

    gone = model.program.recipes[index]
    made = _with(model, tuple(r for i, r in enumerate(model.program.recipes) if i != index))
    if not any(readers(model, name, index) for name, _ in gone.signals()):
        return made
    known = made.program.signal_labels()
    left = [Signal(name=name, label=label) for name, label in gone.signals() if name not in known]
    signals = (*made.program.signals, *left)
    return made.changed({"program": made.program.changed({"signals": signals})})


def readers(model: Model, signal: str, but: int = -1) -> tuple[str, ...]:
    """What reads a signal, in words, other than one of the behaviours."""
    own = f"program.recipes[{but}]."
    found = [
        p.origin or p.line.name
        for p in all_lines(model)
        if signal in (p.line.source, p.line.differential_off) and not p.path.startswith(own)
    ]
    return tuple(dict.fromkeys((*found, *uses(model).get(signal, ()))))


def free_label(label: str, taken: Iterable[str]) -> str:
    """A label like this that is not taken."""
    return first_free(label, set(taken), longest=54)


def _with(model: Model, recipes: tuple[Recipe, ...]) -> Model:
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def _free_switch(model: Model) -> str | None:
    """A switch for flaps: one of that name, else one that does nothing yet. A switch that has its
    work is left to it."""
    guard = model.program.guard
    free = [
        c
        for c in model.transmitter.controls
        if c.kind == "switch" and (guard is None or c.name != guard.switch)
    ]
    used = uses(model)
    idle = next((c for c in free if not used.get(c.name)), None)
    found = next((c for c in free if "flap" in c.name and "turn" not in c.name), idle)
    return found.name if found is not None else None
