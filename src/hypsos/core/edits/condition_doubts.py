# SPDX-License-Identifier: GPL-3.0-or-later
"""What asks for a second look in a condition: one that can never change, and a level that has
nothing to go back by."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, NamedTuple

from hypsos.core.conditions import LogicSwitch
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.evaluation_order import measured_signals
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.wording.describe_condition import node_named, node_phrase, signal_label

FULL = 100.0
MOST = 150.0
"""Percent, as far as a stick goes, and as far as a sum does."""


class ConditionDoubt(NamedTuple):
    """What asks for a second look: whether it is that the condition never changes, and the sentence
    that says so."""

    never: bool
    text: str


def condition_doubts(
    model: Model, name: str, seen: frozenset[str] = frozenset()
) -> Iterator[ConditionDoubt]:
    """What asks for a second look in a condition and what is said inside it; what has a name of its
    own speaks for itself."""
    node = node_named(model, name)
    if node is None or name in seen:
        return
    said = never_changes(model, node) or node.contradiction(
        lambda control: _control_label(model, control)
    )
    if said:
        yield ConditionDoubt(True, said)
    elif not node.has_way_back:
        label = signal_label(model, node.signals()[0])
        text = f"{label} right at its level would switch it to and fro: let it go off some way further back."
        yield ConditionDoubt(False, text)
    for text in node.conditions():
        inner = node_named(model, asked(text).key)
        if inner is not None and inner.label == UNNAMED:
            yield from condition_doubts(model, inner.name, seen | {name})


def never_changes(model: Model, node: LogicSwitch) -> str:
    """A sentence that says that a condition never changes, where its own figures say so; else
    nothing."""
    always = always_or_never(model, node)
    return f"It {always} holds: {node_phrase(model, node)}." if always else ""


def always_or_never(model: Model, node: LogicSwitch) -> Literal["", "never", "always"]:
    """Whether a condition never holds or always does, where its own figures say so."""
    measured = measured_signals(model)

    def bounds(signal: str) -> tuple[float, float]:
        top = MOST if signal in measured else FULL
        return (0.0 if signal == "link_quality" else -top), top

    return node.never_changes(bounds)


def _control_label(model: Model, name: str) -> str:
    control = model.transmitter.control(name)
    return name if control is None else control.label
