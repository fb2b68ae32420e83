# SPDX-License-Identifier: GPL-3.0-or-later
"""What each control of the transmitter does in a model, in words; a control that does nothing has
none."""

from __future__ import annotations

from hypsos.core.base.cache import kept
from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import ConditionBase
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.graph import Reader, readers
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Guard
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes.recipe_base import RecipeBase
from hypsos.core.wording.time_words import timer_label


@kept
def uses(model: Model) -> dict[str, tuple[str, ...]]:
    """Control -> what hangs on it, each said once, in the order of the work."""
    found: dict[str, dict[str, None]] = {}
    for name, words in _uses(model):
        found.setdefault(name, {})[words] = None
    return {name: tuple(words) for name, words in found.items()}


def without_place(model: Model) -> tuple[str, ...]:
    """The controls that are on no transmitter, where the model has taken one and something hangs on
    them."""
    if not model.transmitter.taken:
        return ()
    used = uses(model)
    return tuple(c.label for c in model.transmitter.controls if not c.place and used.get(c.name))


def condition_users(model: Model, name: str, seen: frozenset[str] = frozenset()) -> tuple[str, ...]:
    """Who asks a condition, in words; what asks it on the way and has no name stands for those who
    ask that."""
    found = {words: None for key, words in _uses(model) if key == name}
    for node in model.program.logic:
        if node.label != UNNAMED or node.name in seen | {name} or name not in node.hangs_on():
            continue
        found.pop(said_name(node.label, UNNAMED, node.name), None)
        found |= dict.fromkeys(condition_users(model, node.name, seen | {name}))
    return tuple(found)


ORDER_OF_WORK = (
    "guard",
    "axes",
    "mixes",
    "recipes",
    "modes",
    "tunables",
    "announcements",
    "timers",
    "logic",
)


@kept
def _uses(model: Model) -> tuple[tuple[str, str], ...]:
    """Pairs of (condition or signal, who goes by it), in the order of the work."""
    placed = sorted(readers(model), key=lambda x: ORDER_OF_WORK.index(x.kind))
    out: list[tuple[str, str]] = []
    for kind, _, reader in placed:
        if kind == "guard" and not model.airframe.motors:
            continue
        fields = [*reader.reads(), *((field, asked(text).key) for field, text in reader.asks())]
        out += [(key, _words(reader, field)) for field, key in fields]
    return tuple(out)


def _words(reader: Reader, field: str) -> str:
    """What people call a part of the document that goes by something, in one of its fields."""
    match reader:
        case Guard():
            return "start check" if field.startswith("start_check") else "motor"
        case Axis():
            return reader.command if field == "control" else f"rates of {reader.command}"
        case MixLine():
            return reader.name
        case FlightMode():
            return f"mode {reader.label}"
        case Announcement():
            return f"“{reader.caption}”"
        case Timer():
            return timer_label(reader)
        case Tunable():
            return said_name(reader.label, "Shared value", reader.name)
        case RecipeBase():
            return reader.label
        case ConditionBase():
            return said_name(reader.label, UNNAMED, reader.name)
    raise TypeError(f"a {type(reader).__name__} has no words")
