# SPDX-License-Identifier: GPL-3.0-or-later
"""A small transmitter that thinks by lines: its settings are the parts of the stand-in."""

from __future__ import annotations

from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.stand_in.parts import Radio


def radio(settings: LinesSettings) -> Radio:
    """The transmitter that these settings make."""
    return Radio(
        **settings.hardware(),
        rules=settings.logic,
        modes=settings.modes,
        commands=settings.inputs,
        sums=settings.channels,
        channels=settings.outputs,
    )
