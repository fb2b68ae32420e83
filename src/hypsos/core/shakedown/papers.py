"""What can be read off the document, computed where it has to be: plugs, failsafes, linkages, what a transmitter has."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.engine.motion import Motion
from hypsos.core.ground.lanes import ARRAYS
from hypsos.core.model.document import Model
from hypsos.core.model.joined import lines_by_target, y_lead_problem
from hypsos.core.model.lines import all_lines
from hypsos.core.model.room import needs
from hypsos.core.model.words import degrees, number, side_percent
from hypsos.core.parts.airframe import Device, Surface
from hypsos.core.parts.profile import Profile
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.shakedown.statements import Ask, Finding

REACHED = 0.9
"""Of a wanted deflection: so much at the least must be reached."""
STEP_DEG = 0.2
"""Degrees a surface may move for a microsecond of pulse."""
ROLLS = 2.0
"""Percent by which presets of a pair may differ before the model rolls on them."""


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
