# SPDX-License-Identifier: GPL-3.0-or-later
"""A search in a few words: how many of each level, how far it came.

The window says this after every edit, so nothing here asks for the statements themselves."""

from __future__ import annotations

from hypsos.core.review.findings import LEVELS, STOPPED, Level, Searched, Shakedown

MARKS: dict[Level, str] = {"danger": "▲", "fault": "◆", "advice": "●"}
PLURALS: dict[Level, tuple[str, str]] = {
    "danger": ("danger", "dangers"),
    "fault": ("fault", "faults"),
    "advice": ("word of advice", "words of advice"),
}
NOTHING_PLUGGED = "Nothing is plugged in, so nothing is proved. Plug the leads in and search again."


def short_words(found: Shakedown, marks: bool = False) -> str:
    """What was found, as shortly as can be: ``'1 danger · 2 faults · 3 advice'``, or in ``marks``;
    nothing where nothing was."""
    words = PLURALS | {"advice": ("advice", "advice")}
    counts = [(level, len(found.of_level(level))) for level in LEVELS]
    if marks:
        return "   ".join(f"{MARKS[level]} {n}" for level, n in counts if n)
    return " · ".join(f"{n} {words[level][n > 1]}" for level, n in counts if n)


def counted(found: Shakedown, level: Level) -> str:
    """How many findings of a level: ``'2 dangers'``, ``'no fault'``."""
    n = len(found.of_level(level))
    one, many = PLURALS[level]
    if n == 0:
        return "no advice" if level == "advice" else f"no {one}"
    return f"{n} {one if n == 1 else many}"


def searched_words(s: Searched) -> str:
    """How far a statement was searched, in words."""
    situations = "1 situation" if s.situations == 1 else f"{s.situations:,} situations"
    possible = f", {s.possible} possible" if s.possible else ""
    return f"{situations}, {_how_far(s)}, {s.seconds:.2f} s{possible}"


def _how_far(s: Searched) -> str:
    if s.complete:
        return "complete"
    if s.note == STOPPED:
        return STOPPED
    return f"not complete: {s.note}" if s.note else "not complete"


def not_proved(state: str) -> tuple[str, ...]:
    """What a sheet says of a model that was not searched as it is now, from how far the search
    is."""
    return (f"{state[:1].upper()}{state[1:]}. What is searched for is in the step Shake it down.",)
