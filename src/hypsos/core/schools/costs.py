# SPDX-License-Identifier: GPL-3.0-or-later
"""What a lack costs: the design before and after it is played side by side, and where a part stands
elsewhere is told in millimetres, with the hands that show it.

What is told is the greatest that was met in the moves of :mod:`hypsos.core.schools.proof_moves`;
there may be more elsewhere."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.result import Result, Trace
from hypsos.core.engine.situation import Situation
from hypsos.core.parts.leads import Lead
from hypsos.core.review.findings import Ask, Progress
from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.shakedown import ShakedownSearch
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.lacks import Lack, Reduced
from hypsos.core.schools.proof_moves import Battery, MoveMaker
from hypsos.core.wording.words import control_label

LEAST_MM, LEAST_DEG, LEAST_POWER = 0.5, 1.0, 2.0
"""What a ruler, an eye or an ear would notice."""
NOWHERE = "In what was played, no part stands elsewhere."
MOST_TOLD = 3
KEPT = 0.7
"""So much of an effect has to stay, when a hand that it does not need is put back to rest."""


class CostEffect(NamedTuple):
    """The greatest effect on one part: how much in its unit, and where it was met."""

    lead: Lead
    size: float
    unit: str
    row: int
    frame: int
    settled: bool


def priced(
    made: Reduced,
    told: Progress = lambda _share, _what: None,
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[Lack, ...]:
    """The lacks of a reduction, each with what it costs; lacks of one step are priced together, and
    the first of them has the sentences. Those that touch a motor stand first."""
    found: list[Lack] = []
    for place, stage in enumerate(made.stages):
        if stopped():
            return made.lacks
        told(place / len(made.stages), stage.lacks[0].need)
        sentences = cost(stage.before, stage.after)
        if any(lack.motor for lack in stage.lacks):
            motors = motor_cost(stage.before, stage.after)
            nothing = sentences == (NOWHERE,) and bool(motors)
            sentences = motors if nothing else (*motors, *sentences)
        lead = "" if len(stage.lacks) == 1 else "Together with what follows: "
        first = sorted(stage.lacks, key=lambda x: not x.motor)
        found.append(first[0]._replace(cost=(f"{lead}{sentences[0]}", *sentences[1:])))
        found += first[1:]
    return tuple(sorted(found, key=lambda x: not x.motor))


def cost(before: Model, after: Model, share: float = 0.15) -> tuple[str, ...]:
    """What a reduction costs, a sentence for each part that stands elsewhere, the greatest first;
    one sentence where nothing was met."""
    battery = MoveMaker(before, (), share).looks(to_ends=False)
    effects = _effects(before, after, battery)
    gone = [
        x.label for x in _plugged(before) if x.target not in {y.target for y in _plugged(after)}
    ]
    found = [f"{', '.join(gone)}: not plugged in."] if gone else []
    told: dict[tuple[float, str, int, int], list[CostEffect]] = {}
    for effect in sorted(effects, key=lambda e: (e.unit != "% power", -e.size)):
        key = (round(effect.size, 1), effect.unit, effect.row, effect.frame)
        told.setdefault(key, []).append(effect)
    for same in list(told.values())[:MOST_TOLD]:
        found.append(_sentence(before, after, battery, same))
    return tuple(found) or (NOWHERE,)


def _plugged(model: Model) -> list[Lead]:
    return [x for x in model.leads if x.port is not None]


def _run(model: Model, battery: Battery) -> Result:
    known = resting(model)
    tracks = {n: x for n, x in battery.tracks.items() if n in known}
    return compile_plan(model).run(Situation.of(battery.t_s, tracks))


def _effects(before: Model, after: Model, battery: Battery) -> list[CostEffect]:
    one, two = _run(before, battery), _run(after, battery)
    motors = {m.name for m in before.airframe.motors}
    others = {x.target: x.name for x in _plugged(after)}
    found = []
    for lead in _plugged(before):
        if lead.target not in others:
            continue
        mine, theirs = one.outputs[lead.name], two.outputs[others[lead.target]]
        off, unit, least = _apart(mine, theirs, lead.target in motors)
        effect = _greatest(lead, off, unit, least, battery)
        if effect is not None:
            found.append(effect)
    return found


def _apart(one: Trace, two: Trace, motor: bool) -> tuple[Numbers, str, float]:
    """How far apart a part stands, in which unit, and from how much on that counts."""
    if motor:
        return np.abs(one.stand - two.stand) / 2.0, "% power", LEAST_POWER
    if one.mm is not None and two.mm is not None:
        return np.abs(one.mm - two.mm), "mm", LEAST_MM
    if one.deg is not None and two.deg is not None:
        return np.abs(one.deg - two.deg), "°", LEAST_DEG
    return np.abs(one.stand - two.stand), "%", 2.0


def _greatest(
    lead: Lead, off: Numbers, unit: str, least: float, battery: Battery
) -> CostEffect | None:
    """The greatest effect once all has come to rest; else the greatest on the way."""
    off = np.broadcast_to(np.nan_to_num(off), (battery.rows, len(battery.t_s)))
    rests = _rests(battery)
    row, place = np.unravel_index(int(np.argmax(off[:, rests])), (battery.rows, len(rests)))
    frame = int(rests[place])
    if off[row, frame] >= least:
        return CostEffect(lead, float(off[row, frame]), unit, int(row), frame, True)
    row, frame_ = np.unravel_index(int(np.argmax(off)), off.shape)
    if off[row, frame_] >= least:
        return CostEffect(lead, float(off[row, frame_]), unit, int(row), int(frame_), False)
    return None


def _rests(battery: Battery) -> Numbers:
    """The frames before a hand moves again, and the last one: there all has come to rest."""
    moved = np.zeros(len(battery.t_s), bool)
    for track in battery.tracks.values():
        moved[1:] |= (np.diff(np.atleast_2d(track), axis=1) != 0).any(axis=0)
    ends = np.flatnonzero(moved) - 1
    return np.unique([*ends[ends >= 0].tolist(), len(battery.t_s) - 1])


def _sentence(before: Model, after: Model, battery: Battery, same: list[CostEffect]) -> str:
    first = same[0]
    who = ", ".join(x.lead.label for x in same[:3])
    who += f" and {len(same) - 3} more" if len(same) > 3 else ""
    how = f"up to {number(first.size, 1)} {first.unit}".replace(" °", "°")
    when = "elsewhere" if first.settled else "elsewhere on the way, and the same in the end"
    hands = _hand_words(before, _needed(before, after, battery, first))
    return f"{who}: {how} {when}, for instance with {hands}."


def _needed(before: Model, after: Model, battery: Battery, effect: CostEffect) -> dict[str, float]:
    """The hands that matter for an effect, with where they stand: each of the others was put back
    to rest, and most of the effect stayed."""
    rest = resting(before)
    moved = {}
    for name, still in rest.items():
        value = float(battery.tracks[name][effect.row, effect.frame])
        if value != still:
            moved[name] = value
    own = {n: np.atleast_2d(x[effect.row]).copy() for n, x in battery.tracks.items()}
    for name in sorted(moved, key=lambda n: (n in _switches(before), n)):
        tried = own | {name: np.full_like(own[name], rest[name])}
        if _size(before, after, battery._replace(tracks=tried), effect) >= KEPT * effect.size:
            own = tried
            del moved[name]
    return moved


def _switches(model: Model) -> set[str]:
    return {c.name for c in model.transmitter.controls if c.is_switch}


def _size(before: Model, after: Model, battery: Battery, effect: CostEffect) -> float:
    """How large an effect is with other hands."""
    one, two = _run(before, battery), _run(after, battery)
    other = next(x.name for x in _plugged(after) if x.target == effect.lead.target)
    motor = effect.lead.target in {m.name for m in before.airframe.motors}
    off, _, _ = _apart(one.outputs[effect.lead.name], two.outputs[other], motor)
    off = np.broadcast_to(np.nan_to_num(off), (1, len(battery.t_s)))
    return float(off[0, effect.frame] if effect.settled else off.max())


def _hand_words(model: Model, moved: dict[str, float]) -> str:
    """Hands and where they stand, in words; switches first."""
    said = []
    for name, value in moved.items():
        control = model.transmitter.control(name)
        label = control_label(model, name)
        if control is not None and control.is_switch:
            said.append((0, f"{label} at {control.positions[int(value)]}"))
        else:
            said.append((1, f"{label} at {number(value)} %"))
    return ", ".join(text for _, text in sorted(said)) or "all hands at rest"


# -- motors ------------------------------------------------------------------------------------------


def motor_cost(before: Model, after: Model) -> tuple[str, ...]:
    """What a search of the reduced design finds of its motors that it does not find of the design:
    a sentence each, with the shortest way there.

    A transmitter that only cuts is searched with a guard that only cuts."""
    wanted = [name for name in STATEMENTS if name.startswith("M")]
    known = {f.text for f in ShakedownSearch().run(Ask(before), wanted).findings}
    found = ShakedownSearch().run(Ask(_with_some_guard(before, after)), wanted).findings
    told = []
    for finding in found:
        if finding.text not in known:
            way = ", ".join(finding.captions)
            told.append(f"{finding.text} The way there: {way}." if way else finding.text)
    return tuple(told)


def _with_some_guard(before: Model, after: Model) -> Model:
    guard = before.program.guard
    if after.program.guard is not None or guard is None:
        return after
    bare = Guard(level=1, switch=guard.switch, cut=guard.cut)
    mixes = []
    motors = {m.name for m in after.airframe.motors}
    for line in after.program.mixes:
        # the guard cuts, and no longer each line
        mixes.append(line.changed({"when": None}) if line.target in motors else line)
    return after.changed({"program": after.program.changed({"guard": bare, "mixes": tuple(mixes)})})
