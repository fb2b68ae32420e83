# SPDX-License-Identifier: GPL-3.0-or-later
"""What is only proposed: by a template, or for a part that has just come. It is settled once a
person changes or keeps it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from hypsos.core.document.document import Model

SLICES: dict[str, Callable[[Model], Any]] = {
    "airframe": lambda m: m.airframe,
    "hands": lambda m: m.transmitter,
    "guard": lambda m: m.program.guard,
    "feel": lambda m: m.program.axes,
    "flaps": lambda m: (m.program.recipes, m.program.mixes),
    "failsafe": lambda m: (
        tuple((x.name, x.failsafe) for x in m.leads),
        m.receiver.failsafe_after_s,
        m.receiver.spare,
    ),
}
"""Step -> the part of a document that it settles."""


def with_proposed(model: Model, *steps: str) -> Model:
    """The model with these steps marked as proposed, besides those that are."""
    marked = tuple(k for k in SLICES if k in model.proposed or k in steps)
    return model if marked == model.proposed else model.changed({"proposed": marked})


def kept(model: Model, step: str) -> Model:
    """The model with a step's proposals kept as they are, by a person who has looked at them."""
    return model.changed({"proposed": tuple(k for k in model.proposed if k != step)})


def settled_by(before: Model, after: Model) -> Model:
    """After a person's edit: what it changed is no longer only proposed. What comes with another
    set of parts stays so."""
    same_parts = [p.name for p in before.airframe.moved()] == [
        p.name for p in after.airframe.moved()
    ]
    left = tuple(
        k
        for k in after.proposed
        if k not in before.proposed
        or SLICES[k](before) == SLICES[k](after)
        or not (same_parts or k == "airframe")
    )
    return after if left == after.proposed else after.changed({"proposed": left})
