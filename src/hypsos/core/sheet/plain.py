"""The plain school: one output per lead, rates and expo per axis, then mixes from a source to an output."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.airframe import Motor
from hypsos.core.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.lines import PlacedLine, all_lines
from hypsos.core.engine.shaping import setting_at
from hypsos.core.program import AXIS_COMMANDS, FREE_COMMANDS
from hypsos.core.sheet.card import power_words
from hypsos.core.sheet.logic_words import condition_words, logic_words, mode_lines, shared_lines
from hypsos.core.sheet.parts import Section, Sheet, SheetStep
from hypsos.core.sweep import settled
from hypsos.core.transmitter import STICKS
from hypsos.core.words import Part, control_label, power_percent, run_positions, side_percent, standing

COMMAND_MOVES = {
    "roll": ("aileron_stick", 100.0, "stick right"),
    "pitch": ("elevator_stick", -100.0, "stick back"),
    "yaw": ("rudder_stick", 100.0, "rudder stick right"),
}
MODES_CAUTION = "The first mode whose condition holds is flown. Try each on the ground before it is needed in the air."
GUARD_TESTS = {
    1: "Switch to run: the motor may turn at once if the stick is up.",
    2: "Stick up, switch to run: the motor must not turn. Stick low, switch off and on: released.",
    3: "Stick just lowered, switch to run: the motor must not turn. Rest the stick low first: released.",
    4: "Arm it, take the receiver's battery off and on: the motor must stay still until the switch is cycled.",
}


class _Counter:
    def __init__(self) -> None:
        self.at = 0

    def step(self, what: str, value: str, expect: str = "") -> SheetStep:
        self.at += 1
        return SheetStep(self.at, what, value, expect)


def plain(model: Model, keyed: Model | None = None, turned: frozenset[str] = frozenset()) -> Sheet:
    """The sheet of a model in the plain school. The figures to expect are computed with the model's own plan.

    Another school hands in what it keys in instead, ``keyed``, with the parts whose signs are ``turned`` there.
    """
    keyed = keyed or model
    count = _Counter()
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    leads = sorted(model.leads, key=lambda x: (x.port is None, x.port or 0))
    ports = tuple(("–" if x.port is None else str(x.port), x.label, parts[x.target].label) for x in leads)
    ports += ((str(model.receiver.power_port or "–"), "Power", power_words(model)),)
    sections = [
        Section("Leads and ports", tuple(_ports(model, count)), "Propeller off. Label each lead at both ends."),
    ]
    if model.program.guard is not None:
        caution = "Propeller off or model held down, stick low, hands clear. First of all, before any servo is set up."
        sections.append(Section("Motor guard", tuple(_guard(model, count)), caution))
    sections += [
        Section(
            "Outputs",
            tuple(_outputs(keyed, parts, count)),
            "" if turned else "Reverse here and nowhere else.",
        ),
        Section("Logical switches", tuple(count.step(x.label, logic_words(model, x)) for x in model.program.logic)),
        Section("Flight modes", tuple(count.step(*line) for line in mode_lines(keyed, parts, turned)), MODES_CAUTION),
        Section("Shared values", tuple(count.step(*line) for line in shared_lines(model))),
        Section("Rates and expo", tuple(_axes(model, count))),
        Section("Mixes", tuple(_mixes(keyed, parts, count, turned))),
        Section("Trims", tuple(_trims(model, count))),
        Section(
            "Failsafe",
            tuple(_failsafe(keyed, parts, count, turned)),
            "Propeller off. Check on the ground with the transmitter switched off; local rules and the makers' manuals come first.",
        ),
        Section(
            "Check by eye", tuple(_checks(model, parts, count)), "Propeller still off. Stand behind the aeroplane."
        ),
    ]
    closing = (
        "Before the first flight: range check, failsafe check, directions check, and someone experienced to look on. "
        "These figures are computed from what was entered, not measured on this aeroplane. Local rules, the makers' manuals "
        "and the club's safety officer come first."
    )
    kept = tuple(s for s in sections if s.steps)
    return Sheet(f"{model.name}: sheet to key in", f"{model.airframe.kind}. {model.note}".strip(), ports, kept, closing)


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
    yield count.step(f"{switch.label} at {run}", f"motor follows the {stick} once released", "")
    if guard.level >= 2:
        low = f"{stick} and every motor at or below {power_percent(guard.threshold):g} % power"
        if guard.level >= 3:
            low += f" for {guard.rest_s:g} s"
        yield count.step("Arm only with", low, GUARD_TESTS[min(guard.level, 3)])
    if guard.level >= 4:
        yield count.step("Lock again when the link is lost for", f"{guard.relock_s:g} s", GUARD_TESTS[4])
    if guard.wakes_when_low:
        yield count.step("A locked motor", f"wakes once the stick has rested low for {guard.rest_s:g} s", "")


def _outputs(model: Model, parts: dict[str, Part], count: _Counter) -> Iterator[SheetStep]:
    seen = "Every servo moves the right way and binds at neither end."
    for lead in sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)):
        said = [
            "reversed" if lead.direction < 0 else "normal",
            f"centre {lead.centre:g} %",
            f"travel {lead.travel_neg:g} / {lead.travel_pos:g} %",
            f"stops {lead.stop_neg:g} / {lead.stop_pos:g} %",
        ]
        if lead.slow_up_s or lead.slow_down_s:
            said.append(f"slow {lead.slow_up_s:g} / {lead.slow_down_s:g} s")
        port = "" if lead.port is None else f" (port {lead.port})"
        yield count.step(f"Output {lead.label}{port}", ", ".join(said), seen)
        seen = ""


def _axes(model: Model, count: _Counter) -> Iterator[SheetStep]:
    for axis in model.program.axes:
        control = model.transmitter.control(axis.switch) if axis.switch else None
        if axis.command == "thrust" and axis.settings == (setting_at(axis, 9),):
            continue
        for p, position in enumerate(control.positions if control else ("",)):
            s = setting_at(axis, p)
            labels = {x.name: f"shared value {x.label}" for x in model.program.tunables}
            rate = (
                labels.get(s.rate_from or "") or f"{s.rate_pos:g} %"
                if s.rate_neg == s.rate_pos
                else f"{s.rate_neg:g} / {s.rate_pos:g} %"
            )
            where = f", {control.label} at {position}" if control else ""
            yield count.step(
                f"{axis.command.capitalize()}{where}",
                f"rate {rate}, expo {labels.get(s.expo_from or '') or f'{s.expo:g} %'}",
                "",
            )


def _mixes(model: Model, parts: dict[str, Part], count: _Counter, turned: frozenset[str]) -> Iterator[SheetStep]:
    names = {p.name: p.label for p in parts.values()} | {c.name: c.label for c in model.transmitter.controls}
    names |= {c: f"{c} command" for c in (*AXIS_COMMANDS, *FREE_COMMANDS)} | {s: s.replace("_", " ") for s in STICKS}
    names |= {x.name: x.label for x in model.program.logic} | {
        "full": "a constant 100 %",
        "link_quality": "link quality",
    }
    for placed in all_lines(model):
        what, value, seen = _mix_words(model, placed, names, parts, -1.0 if placed.line.target in turned else 1.0)
        yield count.step(what, value, seen)


def _mix_words(
    model: Model, placed: PlacedLine, names: dict[str, str], parts: dict[str, Part], sense: float
) -> tuple[str, str, str]:
    line = placed.line
    value = [] if line.gain == 100 and line.response else [f"{line.gain:g} %"]
    if line.response is not None:
        control = model.transmitter.control(line.source)
        points = [f"at {x:g}: {y:g}" for x, y in line.response.points]
        if control is not None and len(control.positions) == len(points):
            points = [f"{n}: {y:g} %" for n, (_, y) in zip(control.positions, line.response.points, strict=True)]
        value.append(("smooth curve " if line.response.shape == "smooth" else "") + ", ".join(points))
    shared = next((x.label for x in model.program.tunables if x.name == line.gain_from), None)
    if shared is not None:
        value[0] = f"{'minus ' if line.gain < 0 else ''}shared value {shared}"
    if line.combine != "add":
        value.append({"replace": "replaces what comes before it", "scale": "scales what comes before it"}[line.combine])
    if line.when is not None:
        value.append(f"only while {condition_words(model, line.when)}")
    if not line.with_trim:
        value.append("without trim")
    if line.differential:
        side = "down" if sense * line.differential > 0 else "up"
        value.append(f"{abs(line.differential):g} % less on the side going {side}")
    if line.in_s or line.out_s:
        value.append(f"comes in over {line.in_s:g} s, goes out over {line.out_s:g} s")
    source, target = names.get(line.source, line.source), names.get(line.target, line.target)
    origin = f" ({placed.origin})" if placed.origin and placed.origin not in target else ""
    return (
        f"{source[:1].upper()}{source[1:]} to {target}{origin}",
        ", ".join(value),
        _expected(line.source, placed, parts, sense),
    )


def _expected(source: str, placed: PlacedLine, parts: dict[str, Part], sense: float) -> str:
    part = parts.get(placed.line.target)
    if part is None or source not in COMMAND_MOVES or isinstance(part, Motor):
        return ""
    sign = sense if placed.line.gain > 0 else -sense
    return f"{COMMAND_MOVES[source][2].capitalize()}: {part.label} goes {side_percent(part, sign, 0).split()[-1]}."


def _trims(model: Model, count: _Counter) -> Iterator[SheetStep]:
    from hypsos.core.logbook import trim_words

    for axis in model.program.axes:
        if axis.trim is not None:
            own = {"per mode": "of its own in", "offset": "on top in"}.get(axis.trim.scope, "")
            modes = ", ".join(f"{trim_words(n, c)}" for n, c in axis.trim.by_mode.items()) if own else ""
            said = f"{trim_words(axis.command, axis.trim.clicks)}, {axis.trim.step:g} % a click, range {axis.trim.range:g} %"
            yield count.step(f"Trim of {axis.command}", f"{said}; {own} {modes}" if modes else said, "")


def _failsafe(model: Model, parts: dict[str, Part], count: _Counter, turned: frozenset[str]) -> Iterator[SheetStep]:
    yield count.step("Acts when the link is lost for", f"{model.receiver.failsafe_after_s:g} s", "")
    for lead in sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)):
        part, safe = parts[lead.target], lead.failsafe
        if safe is None or safe.action == "preset":
            value = safe.value if safe else (-100.0 if isinstance(part, Motor) else 0.0)
            if isinstance(part, Motor):
                power = power_percent(value)
                said = "stopped" if power == 0 else f"{power:g} % power"
            else:
                goes = side_percent(part, -value if lead.target in turned else value, 1).replace(".0 %", " %")
                said = f"channel at {value:g} %: {goes}" if lead.target in turned and value else goes
        else:
            said = "stays where it was" if safe.action == "hold" else "no pulses"
        yield count.step(lead.label, said, "Transmitter off: it does this.")


def _checks(model: Model, parts: dict[str, Part], count: _Counter) -> Iterator[SheetStep]:
    plan = compile_plan(model)
    for command, (stick, value, words) in COMMAND_MOVES.items():
        if not any(a.command == command for a in model.program.axes):
            continue
        full = {c: float(len(x.positions) - 1) for a in model.program.axes if a.command == command and (c := a.switch)
                and (x := model.transmitter.control(c))}  # fmt: skip
        base = settled(plan, full)
        moved = settled(plan, full | {stick: value})
        seen = []
        for lead in model.leads:
            part = parts[lead.target]
            before, after = base.outputs[lead.name], moved.outputs[lead.name]
            if isinstance(part, Motor) or after.deg is None or np.abs(after.stand - before.stand)[-1] < 0.05:
                continue
            mm = None if after.mm is None else float(after.mm[-1])
            seen.append(f"{part.label} {standing(part, float(after.stand[-1]), float(after.deg[-1]), mm)}")
        if seen:
            where = f" (rates at {_last_position(model, command)})" if full else ""
            yield count.step(f"{words.capitalize()}, full{where}", "look", "; ".join(seen))


def _last_position(model: Model, command: str) -> str:
    axis = next(a for a in model.program.axes if a.command == command)
    control = model.transmitter.control(axis.switch or "")
    return control.positions[-1] if control else ""
