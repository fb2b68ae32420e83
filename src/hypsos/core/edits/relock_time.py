# SPDX-License-Identifier: GPL-3.0-or-later
"""The time after which a lost link locks the motors, beside the time after which the failsafe
acts."""

from __future__ import annotations

from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.document.program import USUAL_RELOCK_S

BEYOND_S = 0.5
"""So much longer than the failsafe waits is the re-lock time that is proposed."""


def proposed_relock_s(model: Model) -> float:
    """The usual re-lock time, or what lies beyond a failsafe that waits longer."""
    return max(USUAL_RELOCK_S, model.receiver.failsafe_after_s + BEYOND_S)


def too_short(model: Model) -> str:
    """What is wrong with a re-lock time below that of the failsafe; nothing where it is as it
    should be.

    A loss between the two would stop a motor in the air for good, though the failsafe never acted
    on it."""
    guard, after_s = model.program.guard, model.receiver.failsafe_after_s
    if guard is None or guard.level < 4 or not model.airframe.motors or guard.relock_s >= after_s:
        return ""
    locks, acts, between = (
        plain(x) for x in (guard.relock_s, after_s, (guard.relock_s + after_s) / 2)
    )
    return (
        f"The guard locks after {locks} s without a link, and the failsafe acts after {acts} s: a loss of {between} s in the air "
        "would stop the motor for good, though the failsafe never acted. Let the guard wait longer."
    )
