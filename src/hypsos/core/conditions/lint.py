# SPDX-License-Identifier: GPL-3.0-or-later
"""What asks for a second look in a condition: one that can never change, and a level that has nothing to go back by."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.dependencies.evaluation_order import measured_signals
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_values import Combine, Compare, LogicSwitch, asked, conditions_of
from hypsos.core.wording.describe_condition import UNNAMED, node_named, node_phrase, signal_label

FULL = 100.0
MOST = 150.0
"""Percent, as far as a stick goes, and as far as a sum does."""
ONE_AT_A_TIME = {"mode": "one flight mode is flown at a time", "guard": "the motors are in one state at a time"}


def condition_doubts(model: Model, name: str, seen: frozenset[str] = frozenset()) -> Iterator[str]:
    """Sentences about a condition and what is said inside it; what has a name of its own speaks for itself."""
    node = node_named(model, name)
    if node is None or name in seen:
        return
    said = _never(model, node)
    if said:
        yield said
    elif isinstance(node, Compare) and node.hysteresis == 0:
        yield f"{signal_label(model, node.a)} right at its level would switch it to and fro: let it go off some way further back."
    for text in conditions_of(node):
        inner = node_named(model, asked(text).key)
        if inner is not None and inner.label == UNNAMED:
            yield from condition_doubts(model, inner.name, seen | {name})


def never(doubt: str) -> bool:
    """Whether a sentence says that a condition never changes."""
    return doubt.startswith(("It never holds", "It always holds"))


def _never(model: Model, node: LogicSwitch) -> str:
    """Why it never changes, or nothing."""
    if isinstance(node, Compare):
        top = MOST if node.a in measured_signals(model) else FULL
        low = 0.0 if node.a == "link_quality" or node.kind == "beyond" else -top
        high, least = (2 * top, -2 * top) if node.kind == "difference" else (top, low)
        upper = node.x if node.y is None else node.y
        never = {
            "below": node.x <= least, "within": upper < least or node.x > high,
        }.get(node.kind, node.x >= high)  # fmt: skip
        always = {
            "below": node.x > high, "within": node.x <= least and upper >= high,
        }.get(node.kind, node.x < least)  # fmt: skip
        said = node_phrase(model, node)
        return f"It never holds: {said}." if never else f"It always holds: {said}." if always else ""
    if isinstance(node, Combine) and node.kind == "all":
        places: dict[str, int | str] = {}
        for text in node.of:
            negated, realm, name, position = asked(text)
            if not negated and position is not None and places.setdefault(name, position) != position:
                control = model.transmitter.control(name)
                return f"It never holds: {control.label if control is not None else name} stands at one position at a time."
            if not negated and realm in ONE_AT_A_TIME and places.setdefault(f"{realm}:", name) != name:
                return f"It never holds: {ONE_AT_A_TIME[realm]}."
        if any(f"!{text}" in node.of for text in node.of):
            return "It never holds: it asks for something and for its contrary."
    return ""
