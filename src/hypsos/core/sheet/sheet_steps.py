# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed in, put into steps: one output per lead, rates and expo per axis, then mixes from a
source to an output."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.base.backends import of_each
from hypsos.core.base.figure_words import number, plain, power_percent, said_name
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.failsafe_defaults import spare_ports, two_ended, usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Axis, Engine, Guard, Setting
from hypsos.core.edits.announcement_words import voice_lines
from hypsos.core.edits.condition_words import mode_lines, shared_lines, told_apart
from hypsos.core.edits.mix_words import curve_words, live_words, mix_words
from hypsos.core.engine import compile_plan
from hypsos.core.engine.result import Trace
from hypsos.core.engine.shaping import setting_at
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.neutral_hands import quiet_hands, quiet_words
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.sheet.port_card import power_words
from hypsos.core.sheet.preflight_lists import (
    EACH_TITLE,
    FIRST_TITLE,
    RULES,
    before_each,
    before_first,
)
from hypsos.core.sheet.sheet_parts import Keyed, Sheet, SheetSection, SheetStep
from hypsos.core.wording.describe_condition import node_phrase, phrase
from hypsos.core.wording.words import (
    Part,
    channel_percent,
    control_label,
    run_positions,
    sense_words,
    standing,
)

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
GLIDER_FAILSAFE_CAUTION = "A stick held over: transmitter off, watch, and on again. Local rules and the makers' manuals come first."
"""Where there is no motor."""


CLOSING = (
    "These figures are computed from what was entered, not measured on this aeroplane. Local rules, the makers' manuals "
    "and the club's safety officer come first."
)


class _Counter:
    """Numbers the steps of a sheet through all of its sections, so that one can be called by
    its number."""

    def __init__(self) -> None:
        self.at = 0

    def step(self, what: str, value: str, expect: str = "") -> SheetStep:
        self.at += 1
        return SheetStep(self.at, what, value, expect)


Moved = tuple[str, str, dict[str, str]]
"""A command, the movement that shows it in words, and where each part then goes."""


def sheet_of(model: Model, given: Keyed, advice: str = "") -> Sheet:
    """The sheet of a model for what is keyed in. The figures to expect are computed with the
    model's own plan; ``advice`` is what to know about the school."""
    keyed, turned = given.settings, given.turned
    count = _Counter()
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    moved = list(_moved(model, parts))
    # the order of the sections is the order in which they are keyed in: the guard stands before
    # whatever could start a motor, and what is looked at comes last
    sections = [
        SheetSection(
            "Leads and ports",
            tuple(_ports(model, count)),
            f"{'Propeller off. ' if model.airframe.motors else ''}Label each lead at both ends.",
        )
    ]
    if model.program.guard is not None:
        sections.append(SheetSection("Motor guard", tuple(_guard(model, count)), GUARD_CAUTION))
    sections += [
        SheetSection(
            "Outputs",
            tuple(_outputs(keyed, count)),
            "" if turned else "Reverse here and nowhere else.",
        ),
        SheetSection(
            "Logical switches",
            tuple(
                count.step(said_name(x.label, UNNAMED, x.name), node_phrase(model, x))
                for x in told_apart(model)
            ),
        ),
        SheetSection(
            "Flight modes",
            tuple(count.step(*line) for line in mode_lines(keyed, parts, turned)),
            MODES_CAUTION,
        ),
        SheetSection("Shared values", tuple(count.step(*line) for line in shared_lines(model))),
        SheetSection(
            "Announcements and timers", tuple(count.step(*line) for line in voice_lines(model))
        ),
        SheetSection("Rates and expo", tuple(_axes(model, count))),
        SheetSection(
            "Mixes", tuple(_mixes(keyed, parts, count, turned, _first_seen(parts, moved)))
        ),
        SheetSection("Trims", tuple(_trims(model, count))),
        SheetSection(
            "Failsafe",
            tuple(_failsafe(keyed, parts, count, turned)),
            FAILSAFE_CAUTION if model.airframe.motors else GLIDER_FAILSAFE_CAUTION,
        ),
        SheetSection(
            "Check by eye",
            tuple(_checks(model, parts, count, moved)),
            f"{'Propeller still off. ' if model.airframe.motors else ''}Stand behind the aeroplane.",
        ),
        SheetSection(
            FIRST_TITLE, tuple(count.step(x.what, x.how) for x in before_first(model)), RULES
        ),
        SheetSection(EACH_TITLE, tuple(count.step(x.what, x.how) for x in before_each(model))),
    ]
    kept = tuple(section for section in sections if section.steps)
    about = f"{model.airframe.kind}. {model.note}".strip()
    return Sheet(
        f"{model.name}: sheet to key in",
        f"{about} {advice}".strip(),
        _port_rows(model, parts),
        kept,
        CLOSING,
    )


def _by_port(model: Model) -> list[Lead]:
    """The leads in the order of their ports, and behind them those that are not plugged in."""
    return sorted(model.leads, key=lambda lead: (lead.port is None, lead.port or 0))


def _port_rows(model: Model, parts: dict[str, Part]) -> tuple[tuple[str, str, str], ...]:
    """The table of ports: its number, the lead in it, what that moves; power last."""
    rows = [
        ("–" if lead.port is None else str(lead.port), lead.label, parts[lead.target].label)
        for lead in _by_port(model)
    ]
    rows.append((str(model.receiver.power_port or "–"), "Power", power_words(model)))
    return tuple(rows)


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
    for lead in _by_port(model):
        value = "not plugged in" if lead.port is None else f"port {lead.port}"
        yield count.step(f"Lead of {lead.label}", value, seen)
        seen = ""


def _guard(model: Model, count: _Counter) -> Iterator[SheetStep]:
    guard = model.program.guard
    assert guard is not None
    yield from _guard_switch(model, guard, count)
    yield from _arming(model, guard, count)
    if guard.level >= 4:
        yield count.step(
            "Lock again when the link is lost for", f"{plain(guard.relock_s)} s", GUARD_TESTS[4]
        )
    for condition in guard.holds:
        said = (
            f"every motor stopped; then locked until it has rested low for {plain(guard.rest_s)} s"
        )
        yield count.step(
            f"While {phrase(model, condition)}", said, "The motor must stay still afterwards, too."
        )
    for engine in guard.engines:
        label = next(m.label for m in model.airframe.motors if m.name == engine.motor)
        said = "Armed, throttle low: it runs on, and the trim moves its idle. Cut: it stops."
        yield count.step(f"{label} is an engine and idles", _idles(model, engine), said)
    if guard.wakes_when_low:
        yield count.step(
            "A locked motor", f"wakes once the stick has rested low for {plain(guard.rest_s)} s", ""
        )


def _thrust_words(model: Model) -> str:
    """What people call the control of the thrust."""
    axis = model.program.axis("thrust")
    return "every control of the motor" if axis is None else control_label(model, axis.control)


def _guard_switch(model: Model, guard: Guard, count: _Counter) -> Iterator[SheetStep]:
    """Where the switch stops the motors, where it lets them run, and at which pulse each controller
    is off."""
    switch = model.transmitter.control(guard.switch)
    assert switch is not None
    run = ", ".join(switch.positions[i] for i in run_positions(model))
    others = ", ".join(p for i, p in enumerate(switch.positions) if i in guard.cut)
    stick = _thrust_words(model)
    yield count.step(
        f"{switch.label} at {others}",
        "every motor stopped",
        f"Move the {stick}: the motor stays still.",
    )
    yield count.step(f"{switch.label} at {run}", f"motor follows the {stick} once armed", "")
    motors = {m.name for m in model.airframe.motors}
    for lead in model.leads:
        if lead.target in motors:
            yield count.step(
                f"{lead.label}, stopped", f"{plain(lead.idle_us)} µs, its controller off", ""
            )


def _arming(model: Model, guard: Guard, count: _Counter) -> Iterator[SheetStep]:
    """What must hold before the motors are armed."""
    if guard.level >= 2:
        low = f"{_thrust_words(model)} and every motor at or below {plain(power_percent(guard.threshold))} % power"
        rest = f" for {plain(guard.rest_s)} s" if guard.level >= 3 else ""
        yield count.step("Arm only with", low + rest, GUARD_TESTS[min(guard.level, 3)])
    if guard.also is not None:
        yield count.step(
            "Arm only while", phrase(model, guard.also), "Without it the motor must not turn."
        )
    for check in guard.start_check:
        control = model.transmitter.control(check.control)
        where = f"from {plain(check.low)} to {plain(check.high)} %"
        if control is not None and check.position is not None:
            where = f"at {control.positions[check.position]}"
        yield count.step(f"First arming only with {control_label(model, check.control)}", where, "")


def _idles(model: Model, engine: Engine) -> str:
    """At which power an engine idles."""
    low = f"at {plain(engine.idle)} % power"
    if engine.high_idle is None or engine.high_when is None:
        return low
    return f"{low}; at {plain(engine.high_idle)} % while {phrase(model, engine.high_when)}"


def expo_words(expo: float) -> str:
    """An expo with what it does, for transmitters differ in its sign.

    >>> expo_words(30.0), expo_words(0.0), expo_words(-20.0)
    ('30 % (softer in the middle)', '0 %', '−20 % (sharper in the middle)')
    """
    if not expo:
        return "0 %"
    does = "softer" if expo > 0 else "sharper"
    return f"{plain(expo)} % ({does} in the middle)"


def _outputs(model: Model, count: _Counter) -> Iterator[SheetStep]:
    # what is to be seen is the same for all of them, so it is said with the first
    seen = "Every servo moves the right way and binds at neither end."
    for lead in _by_port(model):
        said = ["reversed" if lead.direction < 0 else "normal"]
        if lead.curve is not None:
            said.append(f"output curve {curve_words(lead.curve)}")
        said += [
            f"centre (sub-trim) {plain(lead.centre)} %",
            f"travel {plain(lead.travel_neg)} / {plain(lead.travel_pos)} %",
            f"stops {plain(lead.stop_neg)} / {plain(lead.stop_pos)} %",
        ]
        if lead.slow_up_s or lead.slow_down_s:
            said.append(
                f"100 % takes {plain(lead.slow_up_s)} s up, {plain(lead.slow_down_s)} s down"
            )
        port = "" if lead.port is None else f" (port {lead.port})"
        yield count.step(f"Output {lead.label}{port}", ", ".join(said), seen)
        seen = ""


def _axes(model: Model, count: _Counter) -> Iterator[SheetStep]:
    labels = {
        x.name: f"shared value {said_name(x.label, 'Shared value', x.name)}"
        for x in model.program.shared_values()
    }
    for plain_axis in model.program.axes:
        axis = model.program.felt(plain_axis)
        control = model.transmitter.control(axis.switch) if axis.switch else None
        by = f"{axis.command.capitalize()} from {control_label(model, axis.control)}"
        if axis.curve is not None:
            shape, live = curve_words(axis.curve), live_words(model, axis.curve)
            words = f"{shape}, {live}" if live else shape
            yield count.step(f"{by}, curve", words, "Before expo and rate.")
        if control is None:
            yield count.step(by, _setting_words(model, axis, setting_at(axis, 0), labels), "")
            continue
        for place, position in enumerate(control.positions):
            words = _setting_words(model, axis, setting_at(axis, place), labels)
            yield count.step(f"{by}, {control.label} at {position}", words, "")


def _setting_words(model: Model, axis: Axis, setting: Setting, labels: dict[str, str]) -> str:
    """A rate with its expo; what comes from a shared value by that one's name."""
    rate = f"{plain(setting.rate_neg)} / {plain(setting.rate_pos)} %"
    # a throttle has only one side
    if setting.rate_neg == setting.rate_pos or axis.command == "thrust":
        rate = f"{plain(setting.rate_pos)} %"
    rate = labels.get(setting.rate_from or "", rate)
    expo = labels.get(setting.expo_from or "", expo_words(setting.expo))
    words = f"rate {rate}, expo {expo}"
    if setting.from_when is None:
        return words
    return f"{words}, the shared ones while {phrase(model, setting.from_when)}"


def _mixes(
    model: Model,
    parts: dict[str, Part],
    count: _Counter,
    turned: frozenset[str],
    moves: dict[tuple[str, str], str],
) -> Iterator[SheetStep]:
    by_angle: dict[str, None] = {}  # in the order in which they are met, each once
    for placed in all_lines(model):
        line = placed.line
        sense = -1.0 if line.target in turned else 1.0
        what, value = mix_words(model, line, placed.origin or "", sense)
        # said once, where it is met first
        seen = moves.pop((line.source, line.target), "")
        yield count.step(what, value, seen)
        if line.by_angle:
            by_angle[line.target] = None
    # of several leads on one surface the first one's curve is keyed in
    leads = {lead.target: lead for lead in reversed(model.leads)}
    for name in by_angle:
        if name not in leads or not isinstance(parts[name], Surface):
            continue
        keyed = next(s for s in model.airframe.surfaces if s.name == name)
        words = _angle_words(Motion(leads[name], keyed), -1.0 if name in turned else 1.0)
        yield count.step(f"{keyed.label} by angle", words, BY_ANGLE)


BY_ANGLE = "Its lines in degrees are added up first, in a mixer of their own; this curve makes percent of the sum."


def _angle_words(motion: Motion, sense: float) -> str:
    """The curve from degrees to percent of a surface, by a few of its points; ``sense`` -1 where
    its signs are turned."""
    curve = motion.by_angle()
    straight = motion.source == "throws" and motion.lead.centre == 0 and motion.lead.curve is None
    # a straight curve is told by its ends and its middle
    percent = (-100.0, 0.0, 100.0) if straight else tuple(range(-100, 101, 25))
    low, high = sense_words(motion.part)
    said = []
    for angle in np.interp(percent, curve.ys, curve.xs).tolist():
        side = high if sense * angle > 0 else low
        where = "0°" if abs(angle) < 0.05 else f"{number(abs(angle), 1)}° {side}"
        said.append(f"{where}: {number(float(curve(float(angle))))} %")
    return ", ".join(said)


def _trims(model: Model, count: _Counter) -> Iterator[SheetStep]:
    from hypsos.core.document.logbook import trim_words

    for axis in model.program.axes:
        trim = axis.trim
        if trim is None:
            continue
        reach = f"{plain(trim.step)} % a click, range {plain(trim.range)} %"
        said = f"{trim_words(axis.command, trim.clicks)}, {reach}"
        own = {"per mode": "of its own in", "offset": "on top in"}.get(trim.scope, "")
        if own and trim.by_mode:
            modes = ", ".join(trim_words(mode, clicks) for mode, clicks in trim.by_mode.items())
            said += f"; {own} {modes}"
        yield count.step(f"Trim of {axis.command}", said, "")


def _failsafe(
    model: Model, parts: dict[str, Part], count: _Counter, turned: frozenset[str]
) -> Iterator[SheetStep]:
    yield count.step(
        "Acts when the link is lost for", f"{plain(model.receiver.failsafe_after_s)} s", ""
    )
    for lead in _by_port(model):
        said = _failsafe_words(parts[lead.target], lead, lead.target in turned)
        yield count.step(lead.label, said, "Transmitter off: it does this.")
    spare = spare_ports(model)
    if spare and any(x.port is not None for x in model.leads):
        ports = ", ".join(str(n) for n in spare)
        said = "stay where they were" if model.receiver.spare == "hold" else model.receiver.spare
        which = "Spare ports" if len(spare) > 1 else "Spare port"
        yield count.step(f"{which} {ports}", said, "")


def _failsafe_words(part: Part, lead: Lead, turned: bool) -> str:
    """What a lead does without the link; of a ``turned`` channel the channel's own figure
    besides."""
    safe = lead.failsafe or usual_failsafe(part)
    if safe.action != "preset":
        return "stays where it was" if safe.action == "hold" else "no pulses"
    if isinstance(part, Motor):
        power = power_percent(safe.value)
        return "stopped" if power == 0 else f"{plain(power)} % power"
    if two_ended(part):
        return standing(part, safe.value, None, None)
    goes = channel_percent(part, -safe.value if turned else safe.value)
    return f"channel at {plain(safe.value)} %: {goes}" if turned and safe.value else goes


def _moved(model: Model, parts: dict[str, Part]) -> Iterator[Moved]:
    """For each command: the movement that shows it, where its rates stand, and where each part
    goes, as the engine says."""
    axes = {a.command: a for a in model.program.axes}
    shown = [axes[command] for command in COMMAND_MOVES if command in axes]
    if not shown:
        return
    # all movements are worked out together: for each the hands before it, then the hands at its end
    still, hands = quiet_hands(model), []
    for axis in shown:
        before = still | _fullest_rates(model, axis)
        hands += [before, before | {axis.control: COMMAND_MOVES[axis.command][1]}]
    outputs = settled_together(compile_plan(model), hands).outputs
    for i, axis in enumerate(shown):
        seen = {}
        for lead in model.leads:
            part = parts[lead.target]
            said = _goes(part, outputs[lead.name], 2 * i, len(hands))
            if said:
                seen[part.name] = said
        where = ""
        if _fullest_rates(model, axis):
            where = f" (rates at {_last_position(model, axis.command)})"
        yield axis.command, f"{_movement(model, axis).capitalize()}, full{where}", seen


LEAST_MOVE = 0.05
"""Percent: a part that moves less is not said to move."""


def _fullest_rates(model: Model, axis: Axis) -> dict[str, float]:
    """The switch of an axis' rates at its last position; nothing where it has none."""
    switch = model.transmitter.control(axis.switch) if axis.switch else None
    return {} if switch is None else {switch.name: len(switch.positions) - 1.0}


def _movement(model: Model, axis: Axis) -> str:
    """The movement of the hand that shows a command."""
    usual, value, words = COMMAND_MOVES[axis.command]
    if axis.control == usual:
        return words
    end = "upper" if value > 0 else "lower"
    return f"{control_label(model, axis.control)} to its {end} end"


def _goes(part: Part, trace: Trace, before: int, count: int) -> str:
    """Where a part goes from one of ``count`` situations to the next one, in words; nothing where
    it stays or is a motor."""
    if isinstance(part, Motor) or trace.deg is None:
        return ""
    after = before + 1
    stands = of_each(trace.stand, count)
    if abs(float(stands[after] - stands[before])) < LEAST_MOVE:
        return ""
    deg = float(of_each(trace.deg, count)[after])
    mm = None if trace.mm is None else float(of_each(trace.mm, count)[after])
    return standing(part, float(stands[after]), deg, mm)


def _checks(
    model: Model, parts: dict[str, Part], count: _Counter, moved: list[Moved]
) -> Iterator[SheetStep]:
    switches = [
        f"{c.label} at {c.positions[0]}" for c in model.transmitter.controls if c.kind == "switch"
    ]
    turned = quiet_words(model)
    if switches or turned:
        first = "All switches first" if not turned else "All switches, sliders and knobs first"
        stay = "Where nothing else is said they stay there."
        yield count.step(first, ", ".join((*switches, *turned)), stay)
    for _, words, seen in moved:
        if seen:
            each = [f"{parts[name].label} {goes}" for name, goes in seen.items()]
            yield count.step(words, "look", "; ".join(each))


def _last_position(model: Model, command: str) -> str:
    axis = next(a for a in model.program.axes if a.command == command)
    control = model.transmitter.control(axis.switch or "")
    return control.positions[-1] if control else ""
