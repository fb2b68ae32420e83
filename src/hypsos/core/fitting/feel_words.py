# SPDX-License-Identifier: GPL-3.0-or-later
"""The feel of a model in words: rates and expo of every axis at every position of its switch."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis
from hypsos.core.engine.shaping import setting_at, stored_setting

TOGETHER = "\u00a0"
"""A space at which no line ends: a figure stays with its unit and its position."""


class Feel(NamedTuple):
    """An axis in a line: its command, and what is set at every position."""

    command: str
    words: str


def felt_commands(model: Model) -> list[str]:
    """The commands that there are; thrust only with a motor."""
    return [a.command for a in model.program.axes if a.command != "thrust" or model.airframe.motors]


def positions_of(model: Model, axis: Axis) -> tuple[str, ...]:
    """The positions of the switch of an axis; ``always`` without one."""
    control = model.transmitter.control(axis.switch) if axis.switch else None
    return control.positions if control is not None else ("always",)


def undefined(model: Model, axis: Axis) -> tuple[int, ...]:
    """The positions that nobody has set."""
    count = len(positions_of(model, axis))
    return tuple(p for p in range(count) if p >= len(axis.settings) or axis.settings[p] is None)


def feel_at_a_glance(model: Model, mode: str) -> list[Feel]:
    """All axes with every position, with the shared values as they are in a flight mode."""
    rows = []
    commands = felt_commands(model)
    for axis in model.program.axes:
        if axis.command not in commands:
            continue
        said = []
        felt, missing = model.program.felt(axis), undefined(model, axis)
        for p, name in enumerate(positions_of(model, axis)):
            s = stored_setting(model, setting_at(felt, p), mode)
            rate = plain(s.rate_pos)
            if s.rate_neg != s.rate_pos:
                rate = f"{plain(s.rate_neg)}/{plain(s.rate_pos)}"
            where = "" if name == "always" else f"{name} "
            nobody = " (nobody set it)" if p in missing and not felt.settings[p : p + 1] else ""
            figures = f"{where}{rate} %, expo {plain(s.expo)} %"
            said.append(f"{figures.replace(' ', TOGETHER)}{nobody}")
        rows.append(Feel(axis.command.capitalize(), "; ".join(said)))
    return rows
