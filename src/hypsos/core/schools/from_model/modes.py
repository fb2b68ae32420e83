# SPDX-License-Identifier: GPL-3.0-or-later
"""The flight modes of a design as they are keyed in."""

from __future__ import annotations

from collections.abc import Callable

from hypsos.core.document.document import Model
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.stand_in.parts import Mode


def keyed_modes(model: Model, ref: Callable[[str], str], steps: Steps) -> tuple[Mode, ...]:
    """The modes in the order in which they are asked."""
    return tuple(
        Mode(
            name=mode.name,
            label=mode.label,
            when=ref(mode.when) if mode.when is not None else "",
            fade_s=steps.seconds(mode.fade_s),
        )
        for mode in model.program.modes
    )
