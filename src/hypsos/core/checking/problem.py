# SPDX-License-Identifier: GPL-3.0-or-later
"""What makes a document unusable, and the names that lead somewhere in it."""

from __future__ import annotations

from typing import NamedTuple

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


def condition_problem(model: Model, text: str) -> str | None:
    """What is wrong with a condition, or None."""
    _, realm, name, position = asked(text)
    if realm:
        return _realm_problem(model, realm, name)
    node = next((x for x in model.program.logic if x.name == name), None)
    if position is not None:
        control = model.transmitter.control(name)
        count = 0 if node is None else node.positions
        if control is not None:
            count = len(control.positions)
        return None if position < count else f"{name} has no position {position}"
    known = name in ("link", "power") or (node is not None and not node.gives_signal)
    return None if known else f"there is no logical switch {name}"


def _realm_problem(model: Model, realm: str, name: str) -> str | None:
    """A state of the guard, a timer or a flight mode that is not there."""
    program = model.program
    names, what = {
        "guard": (set(GUARD_WORDS.values()), f"the guard has no state {name}"),
        "timer": ({x.name for x in program.timers}, f"there is no timer {name}"),
        "mode": ({m.name for m in program.modes}, f"there is no flight mode {name}"),
    }[realm]
    return None if name in names else what
