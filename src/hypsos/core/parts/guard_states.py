# SPDX-License-Identifier: GPL-3.0-or-later
"""The states of the motor guard."""

from __future__ import annotations

from enum import IntEnum


class GuardState(IntEnum):
    """Whether the motors may run: cut by the switch, locked because something was not low, or
    armed."""

    CUT = 0
    LOCKED = 1
    ARMED = 2
