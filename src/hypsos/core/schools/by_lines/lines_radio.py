# SPDX-License-Identifier: GPL-3.0-or-later
"""A small transmitter that thinks by lines: its settings are the parts of the stand-in."""

from __future__ import annotations

from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.stand_in.parts import Radio


def radio(settings: LinesSettings) -> Radio:
    """The transmitter that these settings make."""
    return Radio(
        frame_s=settings.frame_s,
        centre_us=settings.centre_us,
        us_per_percent=settings.us_per_percent,
        hands=settings.hands,
        levers=settings.levers,
        rules=settings.logic,
        modes=settings.modes,
        shared=settings.shared,
        commands=settings.inputs,
        sums=settings.channels,
        channels=settings.outputs,
        receiver=settings.failsafe,
    )
