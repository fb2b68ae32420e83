# SPDX-License-Identifier: GPL-3.0-or-later
"""What makes a document unusable, and the names that lead somewhere in it."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.base.cache import kept
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.words import GUARD_WORDS


class Problem(NamedTuple):
    """Something that makes a document unusable: its path, what is wrong, what to do."""

    path: str
    text: str
    remedy: str = "Correct it and try again; nothing was changed."


def target_names(model: Model) -> set[str]:
    """Names that a mix line may feed."""
    return {part.name for part in model.airframe.moved()} | set(model.program.signal_labels())


def source_names(model: Model) -> set[str]:
    """Names that a mix line may read."""
    controls = {c.name for c in model.transmitter.controls} | set(STICKS)
    gates = {x.name for x in model.program.gates()}
    commands = {a.command for a in model.program.axes}
    return target_names(model) | controls | commands | gates | {"full", "link_quality"}


class _Askable:
    """What a condition may ask for in a model: found once, for a program asks hundreds of times."""

    def __init__(self, model: Model) -> None:
        program = model.program
        self.controls = {c.name: c for c in model.transmitter.controls}
        self.nodes = {x.name: x for x in program.logic}
        self.realms = {
            "guard": set(GUARD_WORDS.values()),
            "timer": {x.name for x in program.timers},
            "mode": {m.name for m in program.modes},
        }


@kept
def _askable(model: Model) -> _Askable:
    return _Askable(model)


REALMS = {
    "guard": "the guard has no state",
    "timer": "there is no timer",
    "mode": "there is no flight mode",
}
"""What is wrong with a state of the guard, a timer or a flight mode that is not there."""


def condition_problem(model: Model, text: str) -> str | None:
    """What is wrong with a condition, or None."""
    known = _askable(model)
    _, realm, name, position = asked(text)
    if realm:
        return None if name in known.realms[realm] else f"{REALMS[realm]} {name}"
    node = known.nodes.get(name)
    if position is not None:
        control = known.controls.get(name)
        count = 0 if node is None else node.positions
        if control is not None:
            count = len(control.positions)
        return None if position < count else f"{name} has no position {position}"
    there = name in ("link", "power") or (node is not None and not node.gives_signal)
    return None if there else f"there is no logical switch {name}"
