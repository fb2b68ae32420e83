# SPDX-License-Identifier: GPL-3.0-or-later
"""What an output makes of its surface, and what a linkage does by itself, in words."""

from __future__ import annotations

from hypsos.core.base.figure_words import number
from hypsos.core.fitting.throw_settings import ThrowLimits
from hypsos.core.parts.four_bar import rod_mm
from hypsos.core.parts.lead_motion import RANGE, Motion
from hypsos.core.wording.words import sense_words

SOURCES = {
    "measured": "as measured",
    "linkage": "by its linkage",
    "throws": "by the throws of its shape",
}


def throw_words(motion: Motion, found: ThrowLimits) -> tuple[str, str]:
    """What full command does to both sides; and the rod, where it binds, what it does by itself,
    what is lost at its stops."""
    low, high = sense_words(motion.part)
    sides = [
        f"{number(abs(m), 1)} mm {w} ({number(abs(d), 1)}°)"
        for m, d, w in zip(found.mm, found.deg, (low, high), strict=True)
    ]
    now = f"Now at full command, {SOURCES[motion.source]}: {', '.join(sides)}. One step is {found.step_mm:.2f} mm."
    said = []
    if motion.link is not None:
        said.append(f"The rod is {rod_mm(motion.link):.1f} mm long from hole to hole.")
        ends = [
            f"{number(abs(x))} % {w}"
            for x, w in zip(found.limits, (low, high), strict=True)
            if abs(x) < RANGE
        ]
        if ends:
            said.append(f"It binds beyond {' and '.join(ends)}.")
        else:
            said.append("It binds nowhere within what an output can send.")
        if abs(found.differential) >= 1:
            side = low if found.differential > 0 else high
            said.append(
                f"By itself it gives {number(abs(found.differential))} % more {side} than the other way."
            )
    for lost, words in zip(found.lost, (low, high), strict=True):
        if lost > 0.5:
            said.append(f"{number(lost)} % of the movement {words} is lost at the end stop.")
    return now, " ".join(said)
