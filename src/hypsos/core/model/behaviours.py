"""Behaviours to add to a model: which there are, and why some can't be had."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.model.detach import free_signal
from hypsos.core.model.document import Model
from hypsos.core.recipes import RECIPES, Ground, Recipe


class Offer(NamedTuple):
    """A kind of recipe: made with sensible first values, or ``why`` it can't be had here."""

    title: str
    about: str
    made: Recipe | None
    why: str


def offers(model: Model) -> list[Offer]:
    """Every kind of recipe, in their order."""
    names = frozenset(p.name for p in model.airframe.moved())
    switch = _free_switch(model)
    ground = Ground(
        model.airframe, names, lambda: switch or "", lambda wanted: free_signal(model.program, names, wanted)
    )
    out = []
    for kind in RECIPES:
        needs = bool(kind.of("switch")) and switch is None
        made = None if needs else kind.begin(ground)
        if made is not None:
            for parameter in kind.of("switch"):
                control = model.transmitter.control(getattr(made, parameter.key))
                if control is not None:
                    made = made.on_switch(parameter.key, control)
        why = "there is no switch for it on this transmitter" if needs else "" if made is not None else kind.missing
        out.append(Offer(kind.title, kind.about, made, why))
    return out


def _free_switch(model: Model) -> str | None:
    """A switch for flaps: one of that name, else the first that stops no motor."""
    guard = model.program.guard
    free = [c for c in model.transmitter.controls if c.kind == "switch" and (guard is None or c.name != guard.switch)]
    found = next((c for c in free if "flap" in c.name), next(iter(free), None))
    return found.name if found is not None else None
