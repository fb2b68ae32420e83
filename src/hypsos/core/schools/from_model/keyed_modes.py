# SPDX-License-Identifier: GPL-3.0-or-later
"""The flight modes of a design as they are keyed in."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.from_model.rule_book import ConditionRules
from hypsos.core.schools.stand_in.parts import Mode


def keyed_modes(model: Model, rules: ConditionRules, steps: Steps) -> tuple[Mode, ...]:
    """The modes in the order in which they are asked."""
    return tuple(
        Mode(
            name=mode.name,
            label=mode.label,
            when=rules.as_asked(mode.when, f"mode:{mode.name}") if mode.when is not None else "",
            fade_s=steps.seconds(mode.fade_s),
        )
        for mode in model.program.modes
    )
