# SPDX-License-Identifier: GPL-3.0-or-later
"""What was worked out of a frozen thing is kept for as long as that thing is asked about: an edit
is checked, compiled and shown, and each asks the same."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import TypeVar

Of = TypeVar("Of")
Made = TypeVar("Made")


def kept_by(read: Callable[[Of], object]) -> Callable[[Callable[[Of], Made]], Callable[[Of], Made]]:
    """A function of one frozen thing that remembers what it made of the last two, told apart by
    what it reads of them: an edit elsewhere changes nothing that was worked out."""

    def around(make: Callable[[Of], Made]) -> Callable[[Of], Made]:
        held: list[tuple[object, Made]] = []

        @wraps(make)
        def made(of: Of) -> Made:
            now = read(of)
            for known, found in held:
                if known == now:
                    return found
            fresh = make(of)
            held[:] = [(now, fresh), *held[:1]]
            return fresh

        return made

    return around


def kept(make: Callable[[Of], Made]) -> Callable[[Of], Made]:
    """A function of one frozen thing that remembers what it made of the last two, told apart by
    being the very same."""
    held: list[tuple[Of, Made]] = []

    @wraps(make)
    def made(of: Of) -> Made:
        for known, found in held:
            if known is of:
                return found
        fresh = make(of)
        held[:] = [(of, fresh), *held[:1]]
        return fresh

    return made
