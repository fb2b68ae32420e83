# SPDX-License-Identifier: GPL-3.0-or-later
"""The way to a difference, in words."""

from __future__ import annotations

from collections.abc import Sequence

from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.schools.proof import HandAct
from hypsos.core.wording.words import control_label

MOST_ACTS = 8
"""So many acts are told; of more the last ones."""


def way_in_words(model: Model, way: Sequence[HandAct]) -> str:
    """The acts one after the other: ``Motor switch to run, throttle stick to 100 %``."""
    if not way:
        return "nothing is moved"
    said = [_act(model, act) for act in way[-MOST_ACTS:]]
    if len(way) > MOST_ACTS:
        said.insert(0, f"{len(way) - MOST_ACTS} acts before")
    return ", ".join(said)


def _act(model: Model, act: HandAct) -> str:
    if act.control == "link":
        return "the link comes back" if act.to > 0.5 else "the link is lost"
    if act.control in ("power", "flight_battery"):
        what = "the receiver's battery" if act.control == "power" else "the flight battery"
        return f"{what} goes in" if act.to > 0.5 else f"{what} comes out"
    control = model.transmitter.control(act.control)
    label = control_label(model, act.control)
    if control is not None and control.is_switch:
        return f"{label} to {control.positions[int(act.to)]}"
    return f"{label} to {number(act.to)} %"
