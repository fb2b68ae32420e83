# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed in, put into steps: one output per lead, rates and expo per axis, then mixes from a source to an output."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.base.figure_words import number, plain, power_percent, said_name
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.failsafe_defaults import spare_ports, two_ended, usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.edits.announcement_words import voice_lines
from hypsos.core.edits.condition_words import mode_lines, shared_lines, told_apart
from hypsos.core.edits.mix_words import curve_words, live_words, mix_words
from hypsos.core.engine import compile_plan
from hypsos.core.engine.shaping import setting_at
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.neutral_hands import quiet_hands, quiet_words
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.sheet.port_card import power_words
from hypsos.core.sheet.preflight_lists import EACH_TITLE, FIRST_TITLE, RULES, before_each, before_first
from hypsos.core.sheet.sheet_parts import Keyed, Sheet, SheetSection, SheetStep
from hypsos.core.wording.describe_condition import node_phrase, phrase
from hypsos.core.wording.words import Part, control_label, run_positions, sense_words, side_percent, standing

COMMAND_MOVES = {
    "roll": ("aileron_stick", 100.0, "stick right"),
    "pitch": ("elevator_stick", -100.0, "stick back"),
    "yaw": ("rudder_stick", 100.0, "rudder stick right"),
}
MODES_CAUTION = "The first mode whose condition holds is flown. Try each on the ground before it is needed in the air."
GUARD_TESTS = {
    1: "Switch to run: the motor may turn at once if the stick is up.",
    2: "Stick up, switch to run: the motor must not turn. Stick low, switch off and on: armed.",
    3: "Stick just lowered, switch to run: the motor must not turn. Rest the stick low first: armed.",
    4: "Arm it, take the receiver's battery off and on: the motor must stay still until the switch is cycled.",
}


GUARD_CAUTION = (
    "Propeller off, nobody in or ahead of its plane; transmitter on first, off last. First of all, before any servo is "
    "set up."
)
FAILSAFE_CAUTION = (
    "Propeller off, throttle at a third, a stick held over: transmitter off, watch, and on again. Local rules and the "
    "makers' manuals come first."
)


class _Counter:
    def __init__(self) -> None:
        self.at = 0

    def step(self, what: str, value: str, expect: str = "") -> SheetStep:
        self.at += 1
        return SheetStep(self.at, what, value, expect)


Moved = tuple[str, str, dict[str, str]]
"""A command, the movement that shows it in words, and where each part then goes."""


def sheet_of(model: Model, given: Keyed, advice: str = "") -> Sheet:
    """The sheet of a model for what is keyed in. The figures to expect are computed with the model's own plan; ``advice``
    is what to know about the school."""
    keyed, turned = given.settings, given.turned
    count = _Counter()
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    moved = list(_moved(model, parts))
    leads = sorted(model.leads, key=lambda x: (x.port is None, x.port or 0))
    ports = tuple(("–" if x.port is None else str(x.port), x.label, parts[x.target].label) for x in leads)
    ports += ((str(model.receiver.power_port or "–"), "Power", power_words(model)),)
    sections = [
        SheetSection("Leads and ports", tuple(_ports(model, count)), "Propeller off. Label each lead at both ends."),
    ]
    if model.program.guard is not None:
        sections.append(SheetSection("Motor guard", tuple(_guard(model, count)), GUARD_CAUTION))
    sections += [
        SheetSection(
            "Outputs",
            tuple(_outputs(keyed, parts, count)),
            "" if turned else "Reverse here and nowhere else.",
        ),
        SheetSection(
            "Logical switches",
            tuple(count.step(said_name(x.label, UNNAMED, x.name), node_phrase(model, x)) for x in told_apart(model)),
        ),
        SheetSection(
            "Flight modes", tuple(count.step(*line) for line in mode_lines(keyed, parts, turned)), MODES_CAUTION
        ),
        SheetSection("Shared values", tuple(count.step(*line) for line in shared_lines(model))),
        SheetSection("Announcements and timers", tuple(count.step(*line) for line in voice_lines(model))),
        SheetSection("Rates and expo", tuple(_axes(model, count))),
        SheetSection("Mixes", tuple(_mixes(keyed, parts, count, turned, _first_seen(parts, moved)))),
        SheetSection("Trims", tuple(_trims(model, count))),
        SheetSection(
            "Failsafe",
            tuple(_failsafe(keyed, parts, count, turned)),
            FAILSAFE_CAUTION,
        ),
        SheetSection(
            "Check by eye",
            tuple(_checks(model, parts, count, moved)),
            "Propeller still off. Stand behind the aeroplane.",
        ),
        SheetSection(FIRST_TITLE, tuple(count.step(x.what, x.how) for x in before_first(model)), RULES),
        SheetSection(EACH_TITLE, tuple(count.step(x.what, x.how) for x in before_each(model))),
    ]
    closing = (
        "These figures are computed from what was entered, not measured on this aeroplane. Local rules, the makers' manuals "
        "and the club's safety officer come first."
    )
    kept = tuple(s for s in sections if s.steps)
    said = f"{f'{model.airframe.kind}. {model.note}'.strip()} {advice}".strip()
    return Sheet(f"{model.name}: sheet to key in", said, ports, kept, closing)


def _first_seen(parts: dict[str, Part], moved: list[Moved]) -> dict[tuple[str, str], str]:
    """(command, part) -> what must be seen of it, for the mixes."""
    out = {}
    for command, words, seen in moved:
        for name, goes in seen.items():
            out[(command, name)] = f"{words}: {parts[name].label} {goes}."
    return out


def _ports(model: Model, count: _Counter) -> Iterator[SheetStep]:
    yield count.step("Receiver number", str(model.receiver.number), "Only this aeroplane answers.")
    seen = "Each plug the right way round: signal, plus, minus."
    for lead in sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)):
        value = "not plugged in" if lead.port is None else f"port {lead.port}"
        yield count.step(f"Lead of {lead.label}", value, seen)
        seen = ""


def _guard(model: Model, count: _Counter) -> Iterator[SheetStep]:
    guard = model.program.guard
    assert guard is not None
    switch = model.transmitter.control(guard.switch)
    assert switch is not None
    run = ", ".join(switch.positions[i] for i in run_positions(model))
    others = ", ".join(p for i, p in enumerate(switch.positions) if i in guard.cut)
    axis = model.program.axis("thrust")
    stick = control_label(model, axis.control) if axis is not None else "every control of the motor"
    yield count.step(f"{switch.label} at {others}", "every motor stopped", f"Move the {stick}: the motor stays still.")
    yield count.step(f"{switch.label} at {run}", f"motor follows the {stick} once armed", "")
    motors = {m.name for m in model.airframe.motors}
    for lead in model.leads:
        if lead.target in motors:
            yield count.step(f"{lead.label}, stopped", f"{plain(lead.idle_us)} µs, its controller off", "")
    if guard.level >= 2:
        low = f"{stick} and every motor at or below {plain(power_percent(guard.threshold))} % power"
        if guard.level >= 3:
            low += f" for {plain(guard.rest_s)} s"
        yield count.step("Arm only with", low, GUARD_TESTS[min(guard.level, 3)])
    if guard.also is not None:
        yield count.step("Arm only while", phrase(model, guard.also), "Without it the motor must not turn.")
    for check in guard.start_check:
        control = model.transmitter.control(check.control)
        place = control.positions[check.position] if control is not None and check.position is not None else ""
        where = f"at {place}" if place else f"from {plain(check.low)} to {plain(check.high)} %"
        yield count.step(f"First arming only with {control_label(model, check.control)}", where, "")
    if guard.level >= 4:
        yield count.step("Lock again when the link is lost for", f"{plain(guard.relock_s)} s", GUARD_TESTS[4])
    for condition in guard.holds:
        said = f"every motor stopped; then locked until it has rested low for {plain(guard.rest_s)} s"
        yield count.step(f"While {phrase(model, condition)}", said, "The motor must stay still afterwards, too.")
    labels = {m.name: m.label for m in model.airframe.motors}
    for engine in guard.engines:
        low, high = f"at {plain(engine.idle)} % power", ""
        if engine.high_idle is not None and engine.high_when is not None:
            high = f"; at {plain(engine.high_idle)} % while {phrase(model, engine.high_when)}"
        said = "Armed, throttle low: it runs on, and the trim moves its idle. Cut: it stops."
        yield count.step(f"{labels[engine.motor]} is an engine and idles", low + high, said)
    if guard.wakes_when_low:
        yield count.step("A locked motor", f"wakes once the stick has rested low for {plain(guard.rest_s)} s", "")


def expo_words(expo: float) -> str:
    """An expo with what it does, for transmitters differ in its sign.

    >>> expo_words(30.0), expo_words(0.0), expo_words(-20.0)
    ('30 % (softer in the middle)', '0 %', '−20 % (sharper in the middle)')
    """
    if not expo:
        return "0 %"
    does = "softer" if expo > 0 else "sharper"
    return f"{plain(expo)} % ({does} in the middle)"


def _outputs(model: Model, parts: dict[str, Part], count: _Counter) -> Iterator[SheetStep]:
    seen = "Every servo moves the right way and binds at neither end."
    for lead in sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)):
        curve = () if lead.curve is None else (f"output curve {curve_words(lead.curve)}",)
        said = [
            "reversed" if lead.direction < 0 else "normal",
            *curve,
            f"centre (sub-trim) {plain(lead.centre)} %",
            f"travel {plain(lead.travel_neg)} / {plain(lead.travel_pos)} %",
            f"stops {plain(lead.stop_neg)} / {plain(lead.stop_pos)} %",
        ]
        if lead.slow_up_s or lead.slow_down_s:
            said.append(f"100 % takes {plain(lead.slow_up_s)} s up, {plain(lead.slow_down_s)} s down")
        port = "" if lead.port is None else f" (port {lead.port})"
        yield count.step(f"Output {lead.label}{port}", ", ".join(said), seen)
        seen = ""


def _axes(model: Model, count: _Counter) -> Iterator[SheetStep]:
    labels = {
        x.name: f"shared value {said_name(x.label, 'Shared value', x.name)}" for x in model.program.shared_values()
    }
    for plain_axis in model.program.axes:
        axis = model.program.felt(plain_axis)
        control = model.transmitter.control(axis.switch) if axis.switch else None
        by = f"{axis.command.capitalize()} from {control_label(model, axis.control)}"
        if axis.curve is not None:
            words = ", ".join(x for x in (curve_words(axis.curve), live_words(model, axis.curve)) if x)
            yield count.step(f"{by}, curve", words, "Before expo and rate.")
        for p, position in enumerate(control.positions if control else ("",)):
            s = setting_at(axis, p)
            sides = s.rate_neg == s.rate_pos or axis.command == "thrust"
            rate = f"{plain(s.rate_pos)} %" if sides else f"{plain(s.rate_neg)} / {plain(s.rate_pos)} %"
            rate = labels.get(s.rate_from or "", rate)
            where = f", {control.label} at {position}" if control else ""
            expo = labels.get(s.expo_from or "", expo_words(s.expo))
            while_ = "" if s.from_when is None else f", the shared ones while {phrase(model, s.from_when)}"
            yield count.step(f"{by}{where}", f"rate {rate}, expo {expo}{while_}", "")


def _mixes(
    model: Model, parts: dict[str, Part], count: _Counter, turned: frozenset[str], moves: dict[tuple[str, str], str]
) -> Iterator[SheetStep]:
    for placed in all_lines(model):
        what, value = mix_words(model, placed.line, placed.origin or "", -1.0 if placed.line.target in turned else 1.0)
        seen = moves.pop((placed.line.source, placed.line.target), "")  # said once, where it is met first
        yield count.step(what, value, seen)
    leads = {x.target: x for x in reversed(model.leads)}
    turned_by = dict.fromkeys(p.line.target for p in all_lines(model) if p.line.by_angle)
    for name in (n for n in turned_by if n in leads and isinstance(parts[n], Surface)):
        keyed = next(s for s in model.airframe.surfaces if s.name == name)
        words = _angle_words(Motion(leads[name], keyed), -1.0 if name in turned else 1.0)
        yield count.step(f"{keyed.label} by angle", words, BY_ANGLE)


BY_ANGLE = "Its lines in degrees are added up first, in a mixer of their own; this curve makes percent of the sum."


def _angle_words(motion: Motion, sense: float) -> str:
    """The curve from degrees to percent of a surface, by a few of its points; ``sense`` -1 where its signs are turned."""
    curve = motion.by_angle()
    straight = motion.source == "throws" and motion.lead.centre == 0 and motion.lead.curve is None
    percent = (-100.0, 0.0, 100.0) if straight else tuple(range(-100, 101, 25))
    low, high = sense_words(motion.part)
    said = []
    for angle in np.interp(percent, curve.ys, curve.xs).tolist():
        where = "0°" if abs(angle) < 0.05 else f"{number(abs(angle), 1)}° {high if sense * angle > 0 else low}"
        said.append(f"{where}: {number(float(curve(float(angle))))} %")
    return ", ".join(said)


def _trims(model: Model, count: _Counter) -> Iterator[SheetStep]:
    from hypsos.core.document.logbook import trim_words

    for axis in model.program.axes:
        if axis.trim is not None:
            own = {"per mode": "of its own in", "offset": "on top in"}.get(axis.trim.scope, "")
            modes = ", ".join(f"{trim_words(n, c)}" for n, c in axis.trim.by_mode.items()) if own else ""
            reach = f"{plain(axis.trim.step)} % a click, range {plain(axis.trim.range)} %"
            said = f"{trim_words(axis.command, axis.trim.clicks)}, {reach}"
            yield count.step(f"Trim of {axis.command}", f"{said}; {own} {modes}" if modes else said, "")


def _failsafe(model: Model, parts: dict[str, Part], count: _Counter, turned: frozenset[str]) -> Iterator[SheetStep]:
    yield count.step("Acts when the link is lost for", f"{plain(model.receiver.failsafe_after_s)} s", "")
    for lead in sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)):
        part = parts[lead.target]
        safe = lead.failsafe or usual_failsafe(part)
        if safe.action == "preset":
            value = safe.value
            if isinstance(part, Motor):
                power = power_percent(value)
                said = "stopped" if power == 0 else f"{plain(power)} % power"
            elif two_ended(part):
                said = standing(part, value, None, None)
            else:
                goes = side_percent(part, -value if lead.target in turned else value, 1).replace(".0 %", " %")
                said = f"channel at {plain(value)} %: {goes}" if lead.target in turned and value else goes
        else:
            said = "stays where it was" if safe.action == "hold" else "no pulses"
        yield count.step(lead.label, said, "Transmitter off: it does this.")
    spare = spare_ports(model)
    if spare and any(x.port is not None for x in model.leads):
        ports = ", ".join(str(n) for n in spare)
        said = {"no pulses": "no pulses", "hold": "stay where they were", "neutral": "neutral"}[model.receiver.spare]
        yield count.step(f"Spare port{'s' if len(spare) > 1 else ''} {ports}", said, "")


def _moved(model: Model, parts: dict[str, Part]) -> Iterator[Moved]:
    """For each command: the movement that shows it, where its rates stand, and where each part goes, as the engine says."""
    controls = {a.command: a.control for a in model.program.axes}
    shown = [c for c in COMMAND_MOVES if c in controls]
    rates = {command: {c: float(len(x.positions) - 1) for a in model.program.axes if a.command == command
             and (c := a.switch) and (x := model.transmitter.control(c))} for command in shown}  # fmt: skip
    still = quiet_hands(model) if shown else {}
    firsts = {c: still | rates[c] for c in shown}
    ends = [at for c in shown for at in (firsts[c], firsts[c] | {controls[c]: COMMAND_MOVES[c][1]})]
    outputs = settled_together(compile_plan(model), ends).outputs if ends else {}
    for i, command in enumerate(shown):
        usual, value, words = COMMAND_MOVES[command]
        full, stick = rates[command], controls[command]
        said = (
            words if stick == usual else f"{control_label(model, stick)} to its {'upper' if value > 0 else 'lower'} end"
        )
        seen = {}
        for lead in model.leads:
            part = parts[lead.target]
            trace, wide = outputs[lead.name], (len(ends), 1)
            before, after = (float(x) for x in np.broadcast_to(trace.stand, wide)[2 * i : 2 * i + 2, -1])
            if isinstance(part, Motor) or trace.deg is None or abs(after - before) < 0.05:
                continue
            deg, mm = (
                None if x is None else float(np.broadcast_to(x, wide)[2 * i + 1, -1]) for x in (trace.deg, trace.mm)
            )
            assert deg is not None
            seen[part.name] = standing(part, after, deg, mm)
        where = f" (rates at {_last_position(model, command)})" if full else ""
        yield command, f"{said.capitalize()}, full{where}", seen


def _checks(model: Model, parts: dict[str, Part], count: _Counter, moved: list[Moved]) -> Iterator[SheetStep]:
    switches = [f"{c.label} at {c.positions[0]}" for c in model.transmitter.controls if c.kind == "switch"]
    turned = quiet_words(model)
    if switches or turned:
        first = "All switches first" if not turned else "All switches, sliders and knobs first"
        stay = "Where nothing else is said they stay there."
        yield count.step(first, ", ".join((*switches, *turned)), stay)
    for _, words, seen in moved:
        if seen:
            yield count.step(words, "look", "; ".join(f"{parts[n].label} {w}" for n, w in seen.items()))


def _last_position(model: Model, command: str) -> str:
    axis = next(a for a in model.program.axes if a.command == command)
    control = model.transmitter.control(axis.switch or "")
    return control.positions[-1] if control else ""
