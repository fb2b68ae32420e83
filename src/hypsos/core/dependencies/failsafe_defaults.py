# SPDX-License-Identifier: GPL-3.0-or-later
"""What channels do for a lost link where nobody has said anything, and what is half said."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import STEERED, Device, Motor
from hypsos.core.parts.leads import Failsafe
from hypsos.core.wording.words import Part

IDLE = Failsafe(value=-100.0)
NEUTRAL = Failsafe()
AS_IT_WAS = Failsafe(action="hold")
AT_AN_END = 90.0
"""Percent from which a thing with two ends is at one of them."""


def two_ended(part: Part) -> bool:
    """Whether a part is a thing with two ends and nothing useful between them: a tow release, gear,
    doors."""
    return isinstance(part, Device) and part.kind not in STEERED


def usual_failsafe(part: Part) -> Failsafe:
    """What a channel does without the link where nobody has said anything: motors stop, what has
    two ends stays as it was, and the rest goes to neutral."""
    if isinstance(part, Motor):
        return IDLE
    return AS_IT_WAS if two_ended(part) else NEUTRAL


def half_way(part: Part, failsafe: Failsafe | None) -> bool:
    """Whether a preset leaves a thing with two ends between them."""
    return (
        two_ended(part)
        and failsafe is not None
        and failsafe.action == "preset"
        and abs(failsafe.value) < AT_AN_END
    )


def not_asked(part: Part, failsafe: Failsafe | None) -> bool:
    """Whether nobody has said yet where a thing with two ends goes: no end of it is right for every
    flight."""
    return two_ended(part) and (failsafe is None or not failsafe.meant)


def spare_ports(model: Model) -> tuple[int, ...]:
    """The ports in which nothing is plugged."""
    used = {x.port for x in model.leads} | {model.receiver.power_port}
    return tuple(n for n in range(1, model.receiver.ports + 1) if n not in used)
