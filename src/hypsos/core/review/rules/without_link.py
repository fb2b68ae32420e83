# SPDX-License-Identifier: GPL-3.0-or-later
"""S6: without the link no surface is held, or put over to one side, and nothing with two ends stops
half way."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.dependencies.failsafe_defaults import half_way, usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.airframe import PITCH_ROLES, Surface
from hypsos.core.parts.leads import Failsafe, Lead
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.failsafe_repairs import failsafe_repairs
from hypsos.core.review.rules.statement import DocumentQuestion, Repairs, Statement, lead_place
from hypsos.core.wording.words import sense_words, side_percent

ROLLS = 2.0
"""Percent by which presets of a pair may differ before the model rolls on them."""

PITCHES = (*PITCH_ROLES, "canard")

STEERS = 20.0
"""Percent of a preset on what pitches or yaws, beyond which the model does not go on as it flew."""


def failsafes(model: Model) -> Iterator[Finding]:
    """Surfaces that are held where they were, or put over to one side, without the link."""
    surfaces = {s.name: s for s in model.airframe.surfaces}
    held = {
        x.target: (i, x)
        for i, x in enumerate(model.leads)
        if x.target in surfaces and x.port is not None
    }
    for target, (i, lead) in held.items():
        if lead.failsafe is not None and lead.failsafe.action in ("hold", "no pulses"):
            text = f"Without the link {surfaces[target].label.lower()} stays where it was: a turn or a dive goes on."
            yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=(target,))
    for target, (_, lead) in held.items():
        one, other = surfaces[target], model.airframe.other_side(target)
        if other in held and one.side == "left" and one.role != "ruddervator":
            i, mate = held[other]
            yield from _rolls(one, lead, surfaces[other], mate, f"leads[{i}].failsafe")
    yield from dives(model)
    yield from half_ways(model)


def _rolls(one: Surface, lead: Lead, two: Surface, mate: Lead, path: str) -> Iterator[Finding]:
    """A pair whose presets put it over to one side; what nobody has set goes to neutral."""
    safes = (lead.failsafe or Failsafe(), mate.failsafe or Failsafe())
    first, second = (safe.value if safe.action == "preset" else 0.0 for safe in safes)
    if abs(first - second) <= ROLLS or all(safe.action != "preset" for safe in safes):
        return
    text = (
        f"Without the link {one.label.lower()} goes to {side_percent(one, first)} and {two.label.lower()} to "
        f"{side_percent(two, second)}: the model rolls."
    )
    yield Finding("S6", "fault", path, text, seen=(one.name, two.name))


def half_ways(model: Model) -> Iterator[Finding]:
    """A tow release, gear or doors that a preset leaves between their two ends."""
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        part = parts[lead.target]
        if lead.port is not None and half_way(part, lead.failsafe):
            low, high = sense_words(part)
            text = (
                f"Without the link {part.label.lower()} stops half way: neither {low} nor {high}."
            )
            yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=(part.name,))


def steering_preset(surface: Surface, failsafe: Failsafe | None) -> float:
    """How far a preset puts over a surface that pitches or yaws the model, in percent of its own
    sense; 0 where it is little, where it is another surface, or where somebody said that it is
    meant so."""
    steers = surface.role in (*PITCHES, "rudder")
    if failsafe is None or failsafe.action != "preset" or failsafe.meant or not steers:
        return 0.0
    return failsafe.value if abs(failsafe.value) > STEERS else 0.0


def dives(model: Model) -> Iterator[Finding]:
    """Presets that put over what pitches or yaws the model: it dives, stalls or spins without a
    link.

    Halves of a pair that are put over alike, elevons or ruddervators, are one finding.
    """
    surfaces = {s.name: s for s in model.airframe.surfaces}
    held = {
        x.target: i
        for i, x in enumerate(model.leads)
        if x.target in surfaces and x.port is not None
    }
    said: set[str] = set()
    for target, i in held.items():
        one = surfaces[target]
        value = steering_preset(one, model.leads[i].failsafe)
        if not value or target in said:
            continue
        other = model.airframe.other_side(target)
        mate = 0.0
        if other in held:
            mate = steering_preset(surfaces[other], model.leads[held[other]].failsafe)
        both = bool(mate) and (mate > 0) == (value > 0)
        seen = (target, other) if both and other is not None else (target,)
        said |= set(seen)
        goes = f"{one.label[:1].lower()}{one.label[1:]} goes"
        if both and other is not None:
            goes = f"{one.label[:1].lower()}{one.label[1:]} and {surfaces[other].label.lower()} go"
        does = what_it_does(one, value, single=len(seen) == 1)
        text = f"Without the link {goes} to {side_percent(one, value)}: {does}."
        yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=seen)


def what_it_does(surface: Surface, value: float, single: bool = True) -> str:
    """What the model does with a surface put over so far."""
    if surface.vertical:
        return "the model turns, and may spin"
    nose_down = (value > 0) != (surface.role == "canard")
    pitches = "the model dives" if nose_down else "the model pulls up and may stall"
    one_half = single and surface.side != "centre" and surface.role in ("elevon", "ruddervator")
    return f"{pitches}, and turns" if one_half else pitches


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """What each lead does without the link."""
    yield DocumentQuestion("failsafes", lambda: failsafes(ask.model), len(ask.model.leads))


def repairs(model: Model, finding: Finding) -> Repairs:
    """Another failsafe; for a pair the same on both sides."""
    yield from failsafe_repairs(model, finding)
    i = lead_place(finding)
    if i is None or len(finding.seen) != 2:
        return
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


STATEMENT = Statement(
    "S6", "Without the link no surface is held, or put over to one side, and nothing with two ends stops half way.",
    "fault", "lost link",
    on_paper=True, document=on_paper, repairs=repairs,
)  # fmt: skip
