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

STATE_WORDS = ("is {}", "is not {}")
DEEPEST = 12


def phrase(model: Model, text: str | None, inside: tuple[str, ...] = ()) -> str:
    """A condition in one breath, for lists and the sheet: ``'throttle stick is below 25 % and Brakes at out'``.

    What has no label of its own is told by what it is made of, but for what is just being told (``inside``): a latch may go
    by itself.
    """
    if text is None:
        return "always"
    negated, realm, name, position = asked(text)
    no = "not " if negated else ""
    control = model.transmitter.control(name)
    if realm:
        return {
            "mode": f"{no}mode {mode_label(model, name)}", "guard": f"the motor {STATE_WORDS[negated].format(name)}",
            "timer": f"{timer_named(model, name)} has {'not ' if negated else ''}run out",
        }[realm]  # fmt: skip
    if control is not None and position is not None:
        place = control.positions[position] if position < len(control.positions) else str(position)
        return f"{no}{control.label} at {place}"
    if name in ("link", "power"):
        return {"link": "link lost" if negated else "link up", "power": f"{no}receiver powered"}[name]
    node = node_named(model, name)
    if node is None or node.label != UNNAMED or name in inside or len(inside) > DEEPEST:
        label = name if node is None else said_name(node.label, UNNAMED, name)
        return f"{no}{label} at {position}" if position is not None else f"{no}{label}"
    said = node_phrase(model, node, position, (*inside, name))
    return f"not ({said})" if negated else said


class _Words:
    """A model's words for what a condition hangs on; ``inside``: the conditions that are just being told."""

    def __init__(self, model: Model, inside: tuple[str, ...]) -> None:
        self._model, self._inside = model, inside
        self.outermost = len(inside) <= 1

    def phrase(self, text: str) -> str:
        return phrase(self._model, text, self._inside)

    def signal(self, name: str) -> str:
        return signal_label(self._model, name)


def node_phrase(model: Model, node: LogicSwitch, position: int | None = None, inside: tuple[str, ...] = ()) -> str:
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
    names = {p.name: p.label for p in model.airframe.moved()} | {c.name: c.label for c in model.transmitter.controls}
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
