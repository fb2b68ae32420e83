"""Recipes turned into the plain mixes that they make, and signals for new ones."""

from __future__ import annotations

from collections.abc import Iterable

from hypsos.core.model.document import Model
from hypsos.core.model.program import FREE_COMMANDS, Program, Signal


def detached(model: Model, index: int) -> Model:
    """The model with one recipe replaced by its mixes, which stand where recipes stand: before the mixes made by hand."""
    return detached_all(model, (index,))


def detached_all(model: Model, indices: Iterable[int]) -> Model:
    """The same for several recipes. What they fed as a signal of their own stays a signal of the model."""
    program, gone = model.program, set(indices)
    taken = [r for i, r in enumerate(program.recipes) if i in gone]
    lines = [made.line for r in taken for made in r.expand(model.transmitter.control)]
    known = {*FREE_COMMANDS, *(s.name for s in program.signals)}
    signals = [Signal(name=r.signal, label=r.label) for r in taken if r.signal is not None and r.signal not in known]
    fields = dict(program) | {
        "recipes": tuple(r for i, r in enumerate(program.recipes) if i not in gone),
        "mixes": (*lines, *program.mixes),
        "signals": (*program.signals, *signals),
    }
    return model.changed({"program": Program(**fields)})


def free_signal(program: Program, taken: Iterable[str], wanted: str) -> str:
    """A name for a signal that no recipe feeds, no other signal has, and none of the names ``taken``."""
    used = {r.signal for r in program.recipes} | {s.name for s in program.signals} | set(taken)
    name, number = wanted, 1
    while name in used:
        number += 1
        name = f"{wanted}_{number}"
    return name
