# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be expected of a scenario, in words to choose from."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.document.document import Model
from hypsos.core.parts.scenario import Expectation
from hypsos.core.wording.describe_condition import named, phrase
from hypsos.core.wording.words import GUARD_WORDS

CONDITION_KINDS = ("holds",)
KIND_WORDS = {
    "stopped": "this motor is stopped", "runs": "this motor runs", "holds": "this is so", "stands": "this stands between",
    "said": "this is said",
}  # fmt: skip


def can_expect(model: Model) -> tuple[tuple[str, str], ...]:
    """Kind and words of what can be expected of this model."""
    return tuple((k, w) for k, w in KIND_WORDS.items() if conditions_to_expect(model, k))


def conditions_to_expect(model: Model, kind: str) -> tuple[tuple[str, str], ...]:
    """Key and words of what an expectation of a kind can be about."""
    motors = [(m.name, m.label) for m in model.airframe.motors]
    if kind in ("stopped", "runs"):
        return tuple(motors)
    if kind == "stands":
        parts = [(part.name, part.label) for part in model.airframe.moved()]
        return tuple(part for part in parts if part not in motors)
    if kind == "said":
        return tuple(dict.fromkeys((x.caption, x.caption) for x in model.program.announcements))
    return tuple((text, phrase(model, text)) for text in _texts_to_expect(model))


def _texts_to_expect(model: Model) -> Iterator[str]:
    """Every condition that can be expected to hold."""
    program = model.program
    yield from (f"mode:{m.name}" for m in program.modes)
    if program.guard is not None:
        yield from (f"guard:{word}" for word in GUARD_WORDS.values())
    yield from (x.name for x in named(model) if not x.gives_signal and not x.positions)
    yield from (f"timer:{x.name}" for x in program.timers if x.span_s)
    for control in model.transmitter.controls:
        if control.is_switch:
            yield from (f"{control.name}@{i}" for i in range(len(control.positions)))
    yield from ("link", "power")


def first_expectation(model: Model, kind: str, like: Expectation) -> Expectation:
    """An expectation of another kind, for the same time."""
    what = conditions_to_expect(model, kind)[0][0]
    return like.changed({"kind": kind, "what": what, "low": -10.0, "high": 10.0})
