# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions in one breath, for lists and the sheet, and what their members are called.

A condition that somebody has named is said by its name, one without a name by what it is made of.
"""

from __future__ import annotations

from collections.abc import Mapping

from hypsos.core.base.cache import kept
from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import UNNAMED, LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.document.program import AXIS_COMMANDS
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.time_words import timer_label

DEEPEST = 12


def phrase(model: Model, text: str | None, inside: tuple[str, ...] = ()) -> str:
    """A condition in one breath, for lists and the sheet: ``'throttle stick is below 25 % and
    Brakes at out'``.

    What has no label of its own is told by what it is made of, but for what is just being told
    (``inside``): a latch may go by itself."""
    if text is None:
        return "always"
    negated, realm, name, position = asked(text)
    no = "not " if negated else ""
    if realm:
        return _realm_phrase(model, text)
    control = model.transmitter.control(name)
    if control is not None and position is not None:
        place = control.positions[position] if position < len(control.positions) else str(position)
        return f"{no}{control.label} at {place}"
    if name == "link":
        return "link lost" if negated else "link up"
    if name == "power":
        return f"{no}receiver powered"
    node = node_named(model, name)
    if node is None:
        return _named(no, name, position)
    if node.label == UNNAMED and name not in inside and len(inside) <= DEEPEST:
        said = node_phrase(model, node, position, (*inside, name))
        return f"not ({said})" if negated else said
    return _named(no, said_name(node.label, UNNAMED, name), position)


def _named(no: str, label: str, position: int | None) -> str:
    return f"{no}{label}" if position is None else f"{no}{label} at {position}"


def _realm_phrase(model: Model, text: str) -> str:
    """A flight mode, the motor's state, or a timer that has run out."""
    asks = asked(text)
    if asks.realm == "guard":
        return f"the motor is not {asks.name}" if asks.negated else f"the motor is {asks.name}"
    if asks.realm == "timer":
        has = "has not" if asks.negated else "has"
        return f"{timer_named(model, asks.name)} {has} run out"
    mode = f"mode {mode_label(model, asks.name)}"
    return f"not {mode}" if asks.negated else mode


class _Words:
    """A model's words for what a condition hangs on; ``inside``: the conditions that are just being
    told."""

    def __init__(self, model: Model, inside: tuple[str, ...]) -> None:
        self._model, self._inside = model, inside
        self.outermost = len(inside) <= 1

    def phrase(self, text: str) -> str:
        return phrase(self._model, text, self._inside)

    def signal(self, name: str) -> str:
        return signal_label(self._model, name)


def node_phrase(
    model: Model, node: LogicSwitch, position: int | None = None, inside: tuple[str, ...] = ()
) -> str:
    """What a condition is made of."""
    inside = inside or (node.name,)
    if node.passes_on is not None:
        return phrase(model, node.passes_on, inside[:-1])
    return node.said(_Words(model, inside), position)


def node_named(model: Model, name: str) -> LogicSwitch | None:
    """A logical switch by its name."""
    return next((x for x in model.program.logic if x.name == name), None)


def mode_label(model: Model, name: str) -> str:
    """What people call a flight mode."""
    return next((m.label for m in model.program.modes if m.name == name), name)


def timer_named(model: Model, name: str) -> str:
    """What people call a timer."""
    found = next((x for x in model.program.timers if x.name == name), None)
    return name if found is None else timer_label(found)


def signal_label(model: Model, name: str) -> str:
    """What people call a signal that can be compared."""
    return signal_labels(model).get(name, name.replace("_", " "))


@kept
def signal_labels(model: Model) -> Mapping[str, str]:
    """What people call everything that can be read, fed or compared."""
    names = {p.name: p.label for p in model.airframe.moved()} | {
        c.name: c.label for c in model.transmitter.controls
    }
    names |= {c: f"{c} command" for c in AXIS_COMMANDS} | {s: s.replace("_", " ") for s in STICKS}
    names |= model.program.signal_labels()
    names |= {x.name: said_name(x.label, UNNAMED, x.name) for x in model.program.logic}
    return names | {"full": "a constant 100 %", "link_quality": "link quality"}


def named(model: Model) -> list[LogicSwitch]:
    """The conditions that somebody has named, in their order; gates, which are signals, too."""
    return [x for x in model.program.logic if x.label != UNNAMED]


def condition_path(model: Model, name: str) -> str:
    """Where a condition stands in the document."""
    return f"program.logic[{next(i for i, x in enumerate(model.program.logic) if x.name == name)}]"


def compared_signals(model: Model) -> list[str]:
    """What can be compared: sticks, sliders and knobs, the link's quality, gates."""
    controls = [c.name for c in model.transmitter.controls if not c.is_switch]
    return [*STICKS, *controls, "link_quality", *(x.name for x in model.program.gates())]
