# SPDX-License-Identifier: GPL-3.0-or-later
"""What would mend a finding: small changes of the document, each tried by the search before it is offered as one."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any, NamedTuple, cast

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.base.values import Value
from hypsos.core.checking.checks import first_problem
from hypsos.core.dependencies.failsafe_defaults import two_ended, usual_failsafe
from hypsos.core.dependencies.y_leads import parted
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.condition_choices import without_named
from hypsos.core.explain.idle_pulse import idle_mended
from hypsos.core.parts.condition_text import opposite
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.compare_models import Comparison, Difference, compared
from hypsos.core.review.search.model_slice import conditions_asked
from hypsos.core.review.shakedown import ShakedownSearch
from hypsos.core.review.statements import Ask, Finding, Shakedown
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import sense_words

WIDEST = 150.0
SLOW_S = 1.0
"""Seconds for a change of 100 %, as a first slow."""
BACK = 5.0
"""Percent by which a condition is to go back before it ends."""
LEAST_RATE = 40.0
COMPARED_S = 3.0
"""Seconds for what a repair changes."""
NAMED = 2
"""Parts and other changes of a repair that are named."""


class Repair(NamedTuple):
    """A change that mends a finding: in words, and the document with it."""

    words: str
    model: Model


class TriedRepair(NamedTuple):
    """A repair, whether the finding is gone with it, what is found only with it, and what it changes in flight (None where
    that was not asked: it does not mend the finding)."""

    repair: Repair
    gone: bool
    new: tuple[Finding, ...]
    changes: Comparison | None = None


def repairs(model: Model, finding: Finding) -> list[Repair]:
    """The changes that may mend a finding; none where a person has to decide."""
    out = []
    for words, make in _REPAIRS.get(finding.statement, _none)(model, finding):
        try:
            made = make()
            if made != model and first_problem(made) is None:
                out.append(Repair(words, made))
        except (HypsosError, ValueError, IndexError, StopIteration):
            continue
    return out


def tried(
    ask: Ask,
    finding: Finding,
    repair: Repair,
    before: Shakedown | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> TriedRepair:
    """Search a model with a repair, whole: whether what it is to mend is gone, what is found only with it, and by how much
    which part moves otherwise then.

    ``before`` is what a whole search of the model found; ``stopped``: whether nobody waits any more.
    A finding is the same one after the repair by its statement and the
    names of its parts: taking something out moves everything behind it one place on. Travel that a surface loses is named by
    the line that gives most; lowered, another line may give most, and the surface still loses travel: then it is not gone.
    """
    held = ShakedownSearch().run(ask) if before is None else before
    after = ShakedownSearch().run(Ask(repair.model, ask.profile, ask.others))
    had = {(f.statement, named_place(ask.model, f.part)) for f in held.findings}
    causes = {f.cause for f in held.findings if f.cause}
    same = (finding.statement, named_place(ask.model, finding.part))
    found = [(f, (f.statement, named_place(repair.model, f.part))) for f in after.findings]
    new = tuple(f for f, key in found if key not in had and f.cause not in causes)
    still_lost = finding.statement == "S2" and any(f.statement == "S2" and f.seen == finding.seen for f in new)
    gone = not still_lost and all(key != same for _, key in found)
    return TriedRepair(repair, gone, new, _changes(ask.model, repair.model, stopped) if gone else None)


def _changes(model: Model, made: Model, stopped: Callable[[], bool]) -> Comparison:
    """What the two models do differently, as far as it is found in a few seconds."""
    ends = time.thread_time() + COMPARED_S
    return compared(model, made, lambda: stopped() or time.thread_time() > ends)


def changes_words(changes: Comparison) -> str:
    """What a repair changes in flight, in sentences: the parts that move otherwise, those most that do most, then the rest."""
    most = sorted(changes.differences, key=lambda d: -d.most)
    said = [f"{d.label} {d.second} instead of {d.first} ({d.where})" for d in most[:NAMED]]
    if len(most) > NAMED:
        said.append(f"{len(most) - NAMED} more otherwise, by less")
    words = [f"In flight, where it changes most: {'; '.join(said)}."] if said else []
    words += [x for x in changes.others if not _of_these(x, most)][:NAMED]
    if not words and changes.proved:
        return "No lead sends anything else than before."
    if not changes.proved:
        words.append("Not all of what it changes was compared.")
    return " ".join(words)


def _of_these(sentence: str, differences: Sequence[Difference]) -> bool:
    """Whether a sentence speaks of a part of which more is said already."""
    return any(d.label.lower() in sentence.lower() for d in differences)


def named_place(model: Model, path: str) -> str:
    """A place in the document by the names of what lies on the way, which stay when something else goes or comes.

    ``program.logic[3].of`` is ``program.logic{deep}.of``; where a thing has no name, what it is and what it moves.
    """
    out, at = "", cast("Any", model)
    for token in re.findall(r"\[\d+\]|[^.\[\]]+", path):
        try:
            if token.startswith("["):
                at = at[int(token[1:-1])]
                out += f"{{{_called(at)}}}" if isinstance(at, Value) else token
            else:
                at = at[token] if isinstance(at, dict) else getattr(at, token)
                out += f".{token}" if out else token
        except (AttributeError, IndexError, KeyError, TypeError):
            return path  # it leads nowhere in this model
    return out


def _called(thing: Value) -> str:
    fields = ("kind", "name", "target", "caption", "label", "command", "control", "first")
    own = {n: getattr(thing, n) for n in fields if n in type(thing).model_fields}
    if "name" in own and "target" not in own:
        return str(own["name"])
    return "/".join(str(x) for x in own.values())


Makes = Iterator[tuple[str, Callable[[], Model]]]


def _none(model: Model, finding: Finding) -> Makes:
    yield from ()


def _index(path: str, list_: str) -> int | None:
    found = re.match(rf"{re.escape(list_)}\[(\d+)\]", path)
    return int(found[1]) if found else None


def _lead_at(model: Model, finding: Finding) -> int | None:
    return _index(finding.part, "leads")


def _level(model: Model, finding: Finding) -> Makes:
    guard = model.program.guard
    if guard is None:
        return
    if finding.statement == "M6" and guard.level < 2:
        yield "Ask for the stick low to arm", lambda: with_at(model, "program.guard.level", 2)
    if finding.statement in ("M2", "M4") and finding.part == "program.guard.level" and guard.level < 4:
        yield "Lock the motor after a lost link", lambda: with_at(model, "program.guard.level", 4)
    if finding.statement == "M4":
        motors = {m.name for m in model.airframe.motors}
        leads = tuple(x.changed({"waits_for_idle": True}) if x.target in motors else x for x in model.leads)
        yield "Say that the controllers wait for idle, if they do", lambda: model.changed({"leads": leads})


def _line(model: Model, finding: Finding) -> MixLine | None:
    i = _index(finding.part, "program.mixes")
    return model.program.mixes[i] if i is not None else None


def _raised(model: Model, finding: Finding) -> Makes:
    yield from _level(model, finding)
    guard, line = model.program.guard, _line(model, finding)
    i = _index(finding.part, "program.mixes")
    if line is not None and guard is not None:
        by_hand = line.source == "thrust"
        when = line.when
        if when is not None and by_hand:  # the throttle comes back as that ends
            when = opposite(when)
        if line.when is not None and by_hand:
            yield f"Let “{line.name}” act always", lambda: with_at(model, f"program.mixes[{i}].when", None)
        if when is not None and when not in guard.holds:
            yield (
                f"Hold the motor while {phrase(model, when)}",
                lambda: with_at(model, "program.guard.holds", (*guard.holds, when)),
            )
        if abs(line.gain) > 2.0 and not by_hand:
            yield (
                f"Lower “{line.name}” to {plain(2.0 if line.gain > 0 else -2.0)} %",
                lambda: with_at(model, f"program.mixes[{i}].gain", 2.0 if line.gain > 0 else -2.0),
            )
    k = _index(finding.part, "program.recipes")
    if k is not None and getattr(model.program.recipes[k], "at_idle", "none") == "full":
        yield "Let it fade in from idle", lambda: with_at(model, f"program.recipes[{k}].at_idle", "none")
    if finding.part == "program.modes" and guard is not None:
        for n, mode in enumerate(model.program.modes):
            motors = {m.name for m in model.airframe.motors} & mode.presets.keys()
            if motors:
                rest = {t: v for t, v in mode.presets.items() if t not in motors}
                yield (
                    f"Take the motor out of {mode.label}",
                    lambda n=n, rest=rest: with_at(model, f"program.modes[{n}].presets", rest),  # type: ignore[misc]
                )
    if ".trim" in finding.part:
        axis = _index(finding.part, "program.axes")
        yield "Take the trim off the thrust", lambda: with_at(model, f"program.axes[{axis}].trim", None)


def _idle(model: Model, finding: Finding) -> Makes:
    i = _lead_at(model, finding)
    if i is not None:
        yield "Set its idle pulse", lambda: idle_mended(model, i)


def _failsafe(model: Model, finding: Finding) -> Makes:
    i = _lead_at(model, finding)
    if i is None:
        return
    part = next(p for p in model.airframe.moved() if p.name == model.leads[i].target)
    if two_ended(part):
        for words, value in zip(sense_words(part), (-100.0, 100.0), strict=True):
            made = Failsafe(value=value, meant=True)
            yield f"{words.capitalize()} without the link", partial(with_at, model, f"leads[{i}].failsafe", made)
        return
    safe = usual_failsafe(part)
    words = "Stop it without the link" if safe.value <= -100 else "Neutral without the link"
    yield words, lambda: with_at(model, f"leads[{i}].failsafe", safe)
    if finding.statement == "S6" and len(finding.seen) == 2:
        yield "Both to neutral without the link", lambda: _both_neutral(model, finding)
        one = next(x for x in model.leads if x.target == finding.seen[0])
        alike = one.failsafe or Failsafe()
        yield f"As {one.label.lower()}", lambda: with_at(model, f"leads[{i}].failsafe", alike)


def _both_neutral(model: Model, finding: Finding) -> Model:
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        if lead.target in finding.seen:
            model = with_at(model, f"leads[{i}].failsafe", usual_failsafe(parts[lead.target]))
    return model


def _lost(model: Model, finding: Finding) -> Makes:
    """Less of what asks for the travel first: a stop moved out lets the surface go further than it was built to."""
    line = _line(model, finding)
    if line is not None:
        for name, lines in _with_mate(model, line):
            yield f"Lower {name} by a quarter", lambda lines=lines: _lowered(model, lines)  # type: ignore[misc]
    i = _lead_at(model, finding)
    if i is not None and "stop" in finding.part:
        lead, side = model.leads[i], finding.part.rsplit(".", 1)[-1]
        mate = next((k for k, x in enumerate(model.leads) if x.target == _mate_of(model, lead.target)), None)
        places = {i: side}
        if mate is not None:  # its mirror image ends at the same stop, or at the other where it is turned round
            same = model.leads[mate].direction == lead.direction
            places[mate] = side if same else {"stop_pos": "stop_neg", "stop_neg": "stop_pos"}[side]
        nearer = [k for k, end in places.items() if abs(getattr(model.leads[k], end)) < WIDEST]
        words = "Move both stops out" if len(nearer) > 1 else "Move the stop out"
        yield words, lambda: _stops_out(model, places)


def _mate_of(model: Model, target: str) -> str:
    return model.airframe.other_side(target) or ""


def _with_mate(model: Model, line: MixLine) -> Iterator[tuple[str, tuple[MixLine, ...]]]:
    """A line, with the one that does the same on the other half of a pair."""
    mates = (x for x in model.program.mixes if x.target == _mate_of(model, line.target) and x.source == line.source)
    other = next(mates, None)
    if other is None:
        yield f"“{line.name}”", (line,)
    else:
        yield f"“{line.name}” on both sides", (line, other)


def _lowered(model: Model, lines: tuple[MixLine, ...]) -> Model:
    mixes = tuple(x.changed({"gain": round(0.75 * x.gain, 1)}) if x in lines else x for x in model.program.mixes)
    return model.changed({"program": model.program.changed({"mixes": mixes})})


def _stops_out(model: Model, places: dict[int, str]) -> Model:
    for k, side in places.items():
        model = with_at(model, f"leads[{k}].{side}", WIDEST if side == "stop_pos" else -WIDEST)
    return model


def _steering(model: Model, finding: Finding) -> Makes:
    axis = _index(finding.part, "program.axes")
    old = get_at(model, finding.part) if axis is not None and re.search(r"settings\[\d+\]$", finding.part) else None
    if old is not None:  # a position at which nothing is set has the full rate already
        made = old.changed({"rate_neg": max(LEAST_RATE, old.rate_neg), "rate_pos": max(LEAST_RATE, old.rate_pos)})
        yield f"A rate of {plain(LEAST_RATE)} % at the least", lambda: with_at(model, finding.part, made)
    line, i = _line(model, finding), _index(finding.part, "program.mixes")
    if line is not None and "wrong way" in finding.text:
        yield f"Turn “{line.name}” round", lambda: with_at(model, finding.part, -line.gain)
    elif line is not None:
        yield f"Take out “{line.name}”", lambda: _without_mix(model, i or 0)


def _pair(model: Model, finding: Finding) -> Makes:
    i = _lead_at(model, finding)
    if i is not None and len(finding.seen) == 2:
        mine = model.leads[i]
        other = next(x for x in model.leads if x.target in finding.seen and x.target != mine.target)
        turned = mine.direction != other.direction
        ends = ("travel_neg", "travel_pos"), ("stop_neg", "stop_pos")
        fields: dict[str, object] = {"centre": -other.centre if turned else other.centre, "curve": other.curve}
        for low, high in ends:
            a, b = getattr(other, low), getattr(other, high)
            fields |= {low: -b if turned and "stop" in low else b if turned else a}
            fields |= {high: -a if turned and "stop" in low else a if turned else b}
        yield f"Set its output as {other.label.lower()}'s", lambda: with_at(model, f"leads[{i}]", mine.changed(fields))
        same = mine.changed({"linkage": other.linkage, "measured": other.measured})
        yield f"Give it the linkage of {other.label.lower()}", lambda: with_at(model, f"leads[{i}]", same)
    line, k = _line(model, finding), _index(finding.part, "program.mixes")
    if line is not None and len(finding.seen) == 2:
        mate = next(
            (
                x
                for x in model.program.mixes
                if x.target in finding.seen and x.target != line.target and x.source == line.source
            ),
            None,
        )
        if mate is not None:
            size = abs(mate.gain) if line.gain > 0 else -abs(mate.gain)
            yield f"As much as “{mate.name}”", lambda: with_at(model, f"program.mixes[{k}].gain", size)
        yield f"Take out “{line.name}”", lambda: _without_mix(model, k or 0)


def _jump(model: Model, finding: Finding) -> Makes:
    pair = {n for t in finding.seen for n in (t, model.airframe.other_side(t)) if n}

    def slowed() -> Model:
        leads = tuple(
            x.changed({"slow_up_s": SLOW_S, "slow_down_s": SLOW_S}) if x.target in pair else x for x in model.leads
        )
        return model.changed({"leads": leads})

    for i, recipe in enumerate(model.program.recipes):
        if getattr(recipe, "in_s", None) == 0.0 and pair & {n for _, n in recipe.parts()}:
            made = recipe.changed({"in_s": SLOW_S, "out_s": SLOW_S})
            yield (
                f"Slow {recipe.label} down",
                lambda i=i, made=made: with_at(model, f"program.recipes[{i}]", made),  # type: ignore[misc]
            )
    yield "Slow both surfaces down", slowed


def _flicker(model: Model, finding: Finding) -> Makes:
    i = _index(finding.part, "program.logic")
    node = model.program.logic[i] if i is not None else None
    steadied = None if node is None else node.steadied(BACK)
    if steadied is not None:
        yield f"Let it go off {plain(BACK)} % further back", lambda: with_at(model, f"program.logic[{i}]", steadied)


def _position(model: Model, finding: Finding) -> Makes:
    found = re.match(r"program\.axes\[(\d+)\]\.settings\[(\d+)\]", finding.part)
    if found:
        axis, k = model.program.axes[int(found[1])], int(found[2])
        near = next((s for s in (*reversed(axis.settings[:k]), *axis.settings) if s is not None), None)
        if near is None:
            return
        settings = [*axis.settings, *(None,) * (k + 1 - len(axis.settings))]
        settings[k] = near
        yield (
            "As the position before it",
            lambda: with_at(model, f"program.axes[{int(found[1])}].settings", tuple(settings)),
        )


def _unused(model: Model, finding: Finding) -> Makes:
    i = _index(finding.part, "program.logic")
    if i is not None and finding.text.startswith("Nothing goes by"):
        yield "Take it out", lambda: without_named(model, model.program.logic[i].name)
        if finding.also:
            yield "Take all of them out", lambda: _without_unused(model)


def _without_unused(model: Model) -> Model:
    """The model without the conditions that nothing goes by, and without those that only they asked."""
    used = conditions_asked(model)
    for node in model.program.logic:
        if node.name not in used and not node.gives_signal:
            model = without_named(model, node.name)
    return model


def _cancelled(model: Model, finding: Finding) -> Makes:
    i = _index(finding.part, "program.mixes")
    if i is not None:
        yield f"Take out “{model.program.mixes[i].name}”", lambda: _without_mix(model, i)


def _plug(model: Model, finding: Finding) -> Makes:
    i = _lead_at(model, finding)
    used = {x.port for x in model.leads} | {model.receiver.power_port}
    free = next((n for n in range(1, model.receiver.ports + 1) if n not in used), None)
    if i is not None and free is not None:
        yield f"Plug it into port {free}", lambda: with_at(model, f"leads[{i}].port", free)
    y = _index(finding.part, "y_leads")
    if y is not None:
        second = next(k for k, x in enumerate(model.leads) if x.name == model.y_leads[y].second)

        def split() -> Model:
            return with_at(parted(model, y), f"leads[{second}].port", free)

        yield "Give each a port of its own", split


def _without_mix(model: Model, i: int) -> Model:
    mixes = tuple(m for k, m in enumerate(model.program.mixes) if k != i)
    return model.changed({"program": model.program.changed({"mixes": mixes})})


_REPAIRS: dict[str, Callable[[Model, Finding], Makes]] = {
    "M1": _failsafe, "M2": _raised, "M3": _failsafe, "M4": _level, "M5": _idle, "M6": _level, "F1": _failsafe,
    "S1": _steering, "S2": _lost, "S3": _pair, "S4": _jump, "S6": _failsafe, "S7": _cancelled, "L1": _position,
    "L2": _unused, "L4": _flicker, "W1": _plug, "W2": _failsafe,
}  # fmt: skip
