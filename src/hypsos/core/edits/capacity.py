# SPDX-License-Identifier: GPL-3.0-or-later
"""What a model needs of its transmitter, beside what the transmitter it has taken offers."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.parts.transmitter_profile import Profile


class Need(NamedTuple):
    """One thing that is needed: its words (of one, of several), how many, and how many there are
    (None where nobody has said)."""

    what: str
    one: str
    words: str
    needed: int
    has: int | None

    @property
    def fits(self) -> bool:
        return self.has is None or self.needed <= self.has


NEEDED = {
    "outputs": ("channel", "channels", "outputs"),
    "mixes": ("mix", "mixes", "mixes"),
    "modes": ("flight mode", "flight modes", "modes"),
    "points": ("point in a curve", "points in a curve", "curve_points"),
    "logic": ("logical switch", "logical switches", "logic"),
    "timers": ("timer", "timers", "timers"),
}
"""What is needed: the words for one and for several, and the field of a transmitter's profile that
says how many there are."""


def needs(model: Model, profile: Profile | None) -> list[Need]:
    """Channels, mixes, modes, points of a curve, logical switches, timers: needed, and there."""
    lines = all_lines(model)
    curves = [len(p.line.response.points) for p in lines if p.line.response is not None]
    curves += [len(a.curve.points) for a in model.program.axes if a.curve is not None]
    curves += [len(x.curve.points) for x in model.leads if x.curve is not None]
    second = {y.second for y in model.y_leads}
    counts = {
        "outputs": sum(x.name not in second for x in model.leads),
        "mixes": len(lines),
        "modes": max(1, len(model.program.modes)),
        "points": max(curves, default=0),
        "logic": len(model.program.logic),
        "timers": len(model.program.timers),
    }
    found = []
    for what, (one, words, field) in NEEDED.items():
        has = None if profile is None else getattr(profile, field)
        found.append(Need(what, one, words, counts[what], has))
    return found


def needs_words(found: Iterable[Need]) -> str:
    """The needs in a line: ``12 of 40 mixes, 6 of 4 flight modes``."""
    said = []
    for n in found:
        if n.has is not None:
            said.append(f"{n.needed} of {n.has} {n.words}")
        else:
            said.append(f"{n.needed} {n.one if n.needed == 1 else n.words}")
    return ", ".join(said)
