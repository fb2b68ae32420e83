# SPDX-License-Identifier: GPL-3.0-or-later
"""Differentials that lines can't say."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.parts.tunables import Tunable
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import reaches_motor, with_program


def fixed_sides(model: Model, _profile: Profile) -> Step:
    """A differential is said as two weights, one for each side of the source. Where the sign of the
    line itself changes with a shared value, or a shared value takes it past all or nothing, the side
    is no longer known: there both sides move alike."""
    shared = {x.name: x for x in model.program.tunables}
    lacks, mixes = [], []
    for line in model.program.mixes:
        if line.differential and not _sides_known(line, shared):
            lacks.append(
                Lack(
                    "differential",
                    f"{line.name}: a differential that goes with a shared value",
                    "one weight for each side",
                    "Both sides move alike.",
                    motor=reaches_motor(model, line.target),
                )
            )
            fields = {"differential": 0.0, "differential_off": None, "differential_from": None}
            line = line.changed(fields)
        mixes.append(line)
    return Step(with_program(model, mixes=tuple(mixes)), tuple(lacks))


def _sides_known(line: MixLine, shared: dict[str, Tunable]) -> bool:
    if line.gain_from is not None and shared[line.gain_from].low < 0:
        return False
    if line.combine != "add" and (line.differential_off or line.differential_from):
        return False
    if line.differential_from is not None:
        x = shared[line.differential_from]
        return x.low >= 0 and abs(line.differential) * x.high <= 10_000
    return True
