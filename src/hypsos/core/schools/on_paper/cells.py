# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures and lines of settings as they stand in the cells of a sheet.

Each is written in one way only, so that it can be read back: the half page *How to read this sheet*
says how."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hypsos.core.base.figure_words import number, plain
from hypsos.core.schools.figures import Bend, with_expo
from hypsos.core.schools.on_paper.paper_names import Names
from hypsos.core.schools.stand_in.parts import HandFeel, Rule, Share

NO_TRIM = "no trim"
FROM_LOW = "from its low end"
TURNED = "turned round"


def two_sided(below: float, above: float) -> str:
    """A figure for either side: one where they are alike, else that below zero first.

    >>> two_sided(60, 36), two_sided(-100, -100)
    ('60 / 36', '−100')
    """
    return plain(above) if below == above else f"{plain(below)} / {plain(above)}"


def slow_words(slow_in: float, slow_out: float) -> str:
    """The seconds that 100 % take on the way in and out, or up and down."""
    return f"slow {two_sided(slow_in, slow_out)} s"


def share_line(names: Names, share: Share, source: str) -> str:
    """A line of a sum: how it joins, its source, its weight, and what else it asks."""
    head = {"add": "", "multiply": "times ", "replace": "instead "}[share.join]
    said = [f"{head}{source} {share_weight(share)}"]
    return ", ".join([*said, *share_rest(names, share)])


def share_weight(share: Share) -> str:
    """The weight of a line on either side."""
    return two_sided(share.below, share.above)


def share_rest(names: Names, share: Share) -> list[str]:
    """What a line says beside its source and its weight."""
    by = [f"by {names.shared(share.by)}"] if share.by else []
    slow = (share.slow_in, share.slow_out)
    how = how_words(names, share.bend, share.trim, slow, share.from_low)
    return [*by, *how, *held_words(names, share.when, share.modes)]


def how_words(
    names: Names,
    bend: Bend | None,
    trim: bool,
    slow: tuple[float, float] = (0.0, 0.0),
    from_low: bool = False,
) -> list[str]:
    """How something goes: its curve, whether it is counted from its low end, without trim, slow in
    and out."""
    said = [] if bend is None else [names.curve(bend)]
    if from_low:
        said.append(FROM_LOW)
    if not trim:
        said.append(NO_TRIM)
    if slow[0] or slow[1]:
        said.append(slow_words(*slow))
    return said


def held_words(names: Names, when: Sequence[str], modes: Sequence[str]) -> list[str]:
    """Under what something holds: conditions all of which, modes one of which is needed."""
    said = []
    if when:
        said.append(f"while {names.all_of(when)}")
    if modes:
        said.append(f"in {names.modes(modes)}")
    return said


def is_preset(share: Share) -> bool:
    """Whether a line is a fixed figure in one flight mode, which stands in the table of modes."""
    plain_one = Share(source="full", modes=share.modes, above=share.above, below=share.below)
    return share == plain_one and len(share.modes) == 1 and share.above == share.below


def half_way(feel: HandFeel) -> float:
    """What half a stick gives, in percent of the whole command, without curve."""
    start, end = (-100.0, 100.0) if feel.pivot else (0.0, 100.0)
    hand = (start + end) / 2.0
    bent = float(with_expo(np.array([hand]), feel.expo)[0])
    return feel.pivot + feel.weight / 100.0 * (bent - feel.pivot)


def feel_words(names: Names, feel: HandFeel) -> str:
    """Rate, expo, and what half a stick gives: ``'75 / 30 (28.1)'``."""
    rate = names.shared(feel.weight_by) if feel.weight_by else plain(feel.weight)
    expo = names.shared(feel.expo_by) if feel.expo_by else plain(feel.expo)
    said = f"{rate} / {expo}"
    if feel.weight_by or feel.expo_by or feel.bend is not None:
        return said
    return f"{said} ({number(half_way(feel), 1)})"


def rule_words(names: Names, rule: Rule) -> str:
    """What makes a condition true."""
    if rule.kind in ("above", "below"):
        signal = names.signal(rule.a)
        if rule.b:
            signal = f"{signal} less {names.signal(rule.b)}"
        if rule.size:
            signal = f"the size of {signal}"
        return f"{signal} {rule.kind} {plain(rule.level)}"
    a = names.reference(rule.a)
    b = names.reference(rule.b) if rule.b else ""
    seconds = plain(rule.seconds)
    return {
        "and": f"{a} and {b}",
        "or": a if a == b else f"{a} or {b}",
        "either": f"{a} or {b}, not both",
        "latch": f"on from {a}, off from {b}",
        "begins": f"the moment when {a} begins",
        "lasts": f"{a}, for {seconds} s by now",
        "lingers": f"{a}, and {seconds} s longer",
        "pulse": f"{seconds} s from when {a} begins",
        "counts": f"counts {a}, {plain(rule.level)} places",
    }[rule.kind]


def curve_notes(names: Names, bend: Bend) -> str:
    """What a curve is beside its points."""
    said = ["round" if bend.smooth else "straight"]
    if bend.live:
        which = " and ".join(str(place + 1) for place in sorted(bend.live))
        odd = ", left of the middle the other way" if bend.live_odd else ""
        said.append(f"point {which} moved by {names.shared(bend.live_by)}{odd}")
    return ", ".join(said)
