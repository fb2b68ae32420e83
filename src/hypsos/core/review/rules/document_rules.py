# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be read off the document, computed where it has to be: plugs, failsafes, linkages, what a transmitter has."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.figure_words import number
from hypsos.core.dependencies.failsafe_defaults import half_way
from hypsos.core.dependencies.y_leads import lines_by_target, y_lead_problem
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines, reads
from hypsos.core.edits.capacity import needs
from hypsos.core.parts.airframe import PITCH_ROLES, Device, Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.review.statements import Ask, Finding
from hypsos.core.wording.words import control_label, degrees, sense_words, side_percent

REACHED = 0.9
"""Of a wanted deflection: so much at the least must be reached."""
STEP_DEG = 0.2
"""Degrees a surface may move for a microsecond of pulse."""
ROLLS = 2.0
"""Percent by which presets of a pair may differ before the model rolls on them."""

PITCHES = (*PITCH_ROLES, "canard")
STEERS = 20.0
"""Percent of a preset on what pitches or yaws, beyond which the model does not go on as it flew."""


def failsafes(model: Model) -> Iterator[Finding]:
    """S6: surfaces that are held where they were, or put over to one side, without the link."""
    surfaces = {s.name: s for s in model.airframe.surfaces}
    held = {x.target: (i, x) for i, x in enumerate(model.leads) if x.target in surfaces and x.port is not None}
    for target, (i, lead) in held.items():
        safe = lead.failsafe
        if safe is not None and safe.action in ("hold", "no pulses"):
            text = f"Without the link {surfaces[target].label.lower()} stays where it was: a turn or a dive goes on."
            yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=(target,))
    for target, (_, lead) in held.items():
        other = model.airframe.other_side(target)
        safe = lead.failsafe
        if other not in held or surfaces[target].side != "left" or surfaces[target].role == "ruddervator":
            continue
        mate = held[other][1].failsafe
        values = [x.value if x is not None and x.action == "preset" else 0.0 for x in (safe, mate)]
        if abs(values[0] - values[1]) > ROLLS and "preset" in {x.action if x else "preset" for x in (safe, mate)}:
            one, two = surfaces[target], surfaces[other]
            text = (
                f"Without the link {one.label.lower()} goes to {side_percent(one, values[0])} and {two.label.lower()} to "
                f"{side_percent(two, values[1])}: the model rolls."
            )
            yield Finding("S6", "fault", f"leads[{held[other][0]}].failsafe", text, seen=(target, other))
    yield from dives(model)
    yield from half_ways(model)


def half_ways(model: Model) -> Iterator[Finding]:
    """S6: a tow release, gear or doors that a preset leaves between their two ends."""
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        part = parts[lead.target]
        if lead.port is not None and half_way(part, lead.failsafe):
            low, high = sense_words(part)
            text = f"Without the link {part.label.lower()} stops half way: neither {low} nor {high}."
            yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=(part.name,))


def steering_preset(surface: Surface, failsafe: Failsafe | None) -> float:
    """How far a preset puts over a surface that pitches or yaws the model, in percent of its own sense; 0 where it is
    little, where it is another surface, or where somebody said that it is meant so."""
    if failsafe is None or failsafe.action != "preset" or failsafe.meant or surface.role not in (*PITCHES, "rudder"):
        return 0.0
    return failsafe.value if abs(failsafe.value) > STEERS else 0.0


def dives(model: Model) -> Iterator[Finding]:
    """S6: presets that put over what pitches or yaws the model: it dives, stalls or spins without a link.

    Halves of a pair that are put over alike, elevons or ruddervators, are one finding.
    """
    surfaces = {s.name: s for s in model.airframe.surfaces}
    held = {x.target: i for i, x in enumerate(model.leads) if x.target in surfaces and x.port is not None}
    said: set[str] = set()
    for target, i in held.items():
        one = surfaces[target]
        value = steering_preset(one, model.leads[i].failsafe)
        if not value or target in said:
            continue
        other = model.airframe.other_side(target)
        mate = steering_preset(surfaces[other], model.leads[held[other]].failsafe) if other in held else 0.0
        both = bool(mate) and (mate > 0) == (value > 0)
        seen = (target, other) if both and other is not None else (target,)
        said |= set(seen)
        labels = " and ".join(surfaces[n].label if n == target else surfaces[n].label.lower() for n in seen)
        does = what_it_does(one, value, single=len(seen) == 1)
        goes = f"{labels[:1].lower()}{labels[1:]} {'go' if both else 'goes'} to {side_percent(one, value)}"
        text = f"Without the link {goes}: {does}."
        yield Finding("S6", "fault", f"leads[{i}].failsafe", text, seen=seen)


def what_it_does(surface: Surface, value: float, single: bool = True) -> str:
    """What the model does with a surface put over so far."""
    if surface.vertical:
        return "the model turns, and may spin"
    nose_down = (value > 0) != (surface.role == "canard")
    pitches = "the model dives" if nose_down else "the model pulls up and may stall"
    one_half = single and surface.side != "centre" and surface.role in ("elevon", "ruddervator")
    return f"{pitches}, and turns" if one_half else pitches


def sticks(model: Model) -> Iterator[Finding]:
    """S1: sticks that move nothing at all: a pilot reaches for them all the same."""
    program = model.program
    read = {n for p in all_lines(model) for n in reads(p.line)}
    read |= {n for x in program.logic for n in x.signals()}
    read |= {x.adjuster.control for x in program.shared_values() if x.adjuster is not None and x.adjuster.control}
    for i, axis in enumerate(program.axes):
        if axis.command == "thrust" or {axis.command, axis.control} & read or not model.leads:
            continue
        others = [a for a in program.axes if a.control == axis.control and a.command in read]
        if not others:
            stick = control_label(model, axis.control)
            text = f"The {stick} moves nothing: no line reads {axis.command}. Is another stick meant to do its work?"
            yield Finding("S1", "advice", f"program.axes[{i}]", text)


def plugs(model: Model) -> Iterator[Finding]:
    """W1: servos that do not get what they need from a port of their own."""
    any_plugged = any(x.port is not None for x in model.leads)
    for i, lead in enumerate(model.leads):
        if lead.port is None and any_plugged:
            yield Finding("W1", "fault", f"leads[{i}].port", f"{lead.label} is not plugged in.", seen=(lead.target,))
        elif lead.port is not None and lead.port > model.receiver.ports:
            text = f"{lead.label} sits in port {lead.port}, and the receiver has {model.receiver.ports}."
            yield Finding("W1", "fault", f"leads[{i}].port", text, seen=(lead.target,))
    joined = {frozenset((y.first, y.second)) for y in model.y_leads}
    ports: dict[int, str] = {}
    for i, lead in enumerate(model.leads):
        if lead.port is None:
            continue
        first = ports.setdefault(lead.port, lead.name)
        if first != lead.name and frozenset((first, lead.name)) not in joined:
            text = f"{lead.label} and another lead both sit in port {lead.port}."
            yield Finding("W1", "fault", f"leads[{i}].port", text, seen=(lead.target,))
    for i, y in enumerate(model.y_leads):
        problem = y_lead_problem(model, y, lines_by_target(model))
        if problem is not None:
            text = f"{problem[0][:1].upper()}{problem[0][1:]}. {problem[1]}"
            yield Finding("W1", "fault", f"y_leads[{i}]", text)


def defaults(model: Model) -> Iterator[Finding]:
    """W2: servos that nothing moves, and channels for which nobody has said what they do without the link."""
    fed = {p.line.target for p in all_lines(model)} | {
        t for m in model.program.modes for t, v in m.presets.items() if v
    }
    for i, lead in enumerate(model.leads):
        if lead.port is None:
            continue
        if lead.target not in fed:
            text = f"Nothing moves {lead.label.lower()}: its servo goes by the transmitter's own default."
            yield Finding("W2", "fault", f"leads[{i}]", text, seen=(lead.target,))
        elif lead.failsafe is None and any(x.failsafe is not None for x in model.leads):
            text = f"Nobody has said what {lead.label.lower()} does without the link."
            yield Finding("W2", "fault", f"leads[{i}].failsafe", text, seen=(lead.target,))


def numbers(ask: Ask) -> Iterator[Finding]:
    """W3: receivers of the hangar with the same number."""
    own = ask.model.receiver.number
    for name in sorted(n for n, x in ask.others.items() if own and x == own and n != ask.model.name):
        text = f"{name} has receiver number {own} too: the wrong model could be flown."
        yield Finding("W3", "fault", "receiver.number", text)


def room(ask: Ask) -> Iterator[Finding]:
    """W4: what the transmitter that was taken does not have."""
    if not isinstance(ask.profile, Profile):
        return
    for need in needs(ask.model, ask.profile):
        if not need.fits:
            text = f"{ask.profile.name} has {need.has} {need.words}, and this model needs {need.needed}."
            yield Finding("W4", "fault", "transmitter.taken", text)
    for i, axis in enumerate(ask.model.program.axes):
        if axis.trim is not None and axis.command not in ask.profile.trim_levers:
            text = f"{ask.profile.name} has no trim lever for {axis.command}, and this model trims it."
            yield Finding("W4", "fault", f"program.axes[{i}].trim", text)


def linkages(model: Model) -> Iterator[Finding]:
    """G1: linkages that bind, do not reach what is wanted, or move in coarse steps."""
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        part = parts[lead.target]
        if lead.linkage is None or not isinstance(part, Surface | Device):
            continue
        motion = Motion(lead, part)
        ends = np.asarray(servo_percent(np.array([-100.0, 100.0]), lead)[2] * lead.direction)
        low, high = motion.limits()
        where = f"leads[{i}].linkage"
        sides = ((high, ends.max()), (-low, -ends.min()))
        bound = [reach for reach, wanted in sides if wanted > reach + 1e-9]
        if bound:
            at = number(min(bound))
            text = f"The linkage of {part.label.lower()} binds before full command: it stops at {at} %."
            yield Finding("G1", "fault", where, text, seen=(part.name,))
            continue
        if isinstance(part, Surface):
            got = np.asarray(motion.degrees(np.array([ends.min(), ends.max()]), ARRAYS))
            for reached, wanted, sign in (
                (-float(got[0]), part.throw_up_deg, -1),
                (float(got[1]), part.throw_down_deg, 1),
            ):
                if reached < REACHED * wanted:
                    text = (
                        f"{part.label} reaches {degrees(part, sign * max(0.0, reached))} at full command, and "
                        f"{degrees(part, sign * wanted)} is wanted."
                    )
                    yield Finding("G1", "fault", where, text, seen=(part.name,))
        us = model.transmitter.us_per_percent
        slope = np.abs(np.diff(motion.degrees(np.linspace(ends.min(), ends.max(), 201), ARRAYS)))
        step = float(slope.max() / ((ends.max() - ends.min()) / 200.0 * us))
        if step > STEP_DEG:
            text = f"{part.label} moves {number(step, 2)}° for a microsecond: too coarse to trim. A longer horn helps."
            yield Finding("G1", "fault", where, text, seen=(part.name,))
