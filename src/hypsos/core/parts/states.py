"""The states of the motor guard."""

from __future__ import annotations

from enum import IntEnum


class GuardState(IntEnum):
    """The motors' release."""

    STOPPED = 0
    LOCKED = 1
    RELEASED = 2
