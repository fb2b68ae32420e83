# SPDX-License-Identifier: GPL-3.0-or-later
"""What the transmitter says, and its timers, as they are keyed in."""

from __future__ import annotations

from collections.abc import Callable

from hypsos.core.document.document import Model
from hypsos.core.schools.settings_file import Said, TimerAt


def said(model: Model, ref: Callable[[str], str]) -> tuple[Said, ...]:
    """The captions, in their order; ``ref`` makes a reference of a condition."""
    return tuple(
        Said(
            words=x.caption,
            when=ref(x.when),
            moment=x.moment,
            every_s=x.every_s if x.moment == "while" else 0.0,
        )
        for x in model.program.announcements
    )


def timers(model: Model, ref: Callable[[str], str]) -> tuple[TimerAt, ...]:
    """The timers."""
    return tuple(
        TimerAt(
            name=x.name,
            label=x.label,
            counts=x.counts,
            span_s=x.span_s,
            when=ref(x.when),
            reset=ref(x.reset) if x.reset is not None else "",
        )
        for x in model.program.timers
    )
