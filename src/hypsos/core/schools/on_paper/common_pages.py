# SPDX-License-Identifier: GPL-3.0-or-later
"""Blocks of a sheet that are alike in all schools: hands, trims, outputs, rates, modes, conditions,
failsafe, voice and timers."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple

from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.program import Trim
from hypsos.core.parts.transmitter import STICK_PLACES
from hypsos.core.schools.on_paper.blocks import Block, Row, in_pairs
from hypsos.core.schools.on_paper.cells import (
    FROM_LOW,
    TURNED,
    curve_notes,
    feel_words,
    held_words,
    rule_words,
    slow_words,
)
from hypsos.core.schools.on_paper.paper_names import GUARD, Names
from hypsos.core.schools.on_paper.probe import pulse_at
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.parts import (
    Channel,
    Command,
    HandFeel,
    Lever,
    Mode,
    Mover,
    Rule,
    Shared,
)
from hypsos.core.wording.time_words import clock


def at(table: str, place: int | str) -> str:
    """The path of one thing in a table of the settings."""
    return f"{table}.{place}"


# -- hands -------------------------------------------------------------------------------------------


def controls_block(names: Names) -> Block:
    """The hands that are used: kind, positions in order, where each is found."""
    transmitter = names.model.transmitter
    rows = []
    for place, hand in enumerate(names.settings.hands):
        control = transmitter.control(hand.name)
        if control is None or not names.is_used(hand.name):
            continue
        positions = ", ".join(f"{i} {text}" for i, text in enumerate(control.positions))
        kind = f"{len(control.positions)} places" if control.positions else control.kind
        if control.kind == "momentary":
            kind = "button"
        cells = (hand.label or hand.name, kind, positions or "−100 to 100", control.place or "–")
        rows.append(Row(hand.name, cells, (at("hands", place),)))
    return Block(
        "controls",
        "Controls",
        columns=("Control", "Kind", "Positions in order", "Where it is here"),
        rows=tuple(rows),
    )


def stick_words(names: Names) -> str:
    """Which stick moves what."""
    said = []
    places = STICK_PLACES[names.model.transmitter.stick_mode]
    for hand, (across, along) in places.items():
        said.append(
            f"{hand} stick: {names.signal(across).lower()} across, {names.signal(along).lower()} to and fro"
        )
    return f"Stick mode {names.model.transmitter.stick_mode}; {'; '.join(said)}."


def trims_block(names: Names, commands: Sequence[Command]) -> Block:
    """The trim levers: where each stands, how far it goes, which modes have their own."""
    by_lever = {command.trim: command.name for command in commands if command.trim}
    rows = []
    for place, lever in enumerate(names.settings.levers):
        command = by_lever.get(lever.name)
        if command is None:
            continue
        axis = names.model.program.axis(command)
        trim = axis.trim if axis is not None else None
        start = _trim_words(lever.start, trim)
        reach = f"±{plain(lever.reach)} %"
        cells = (names.signal(command), start, reach, _scope_words(names, lever))
        rows.append(Row(lever.name, cells, (at("levers", place),)))
    return Block(
        "trims",
        "Trims",
        columns=("Trim", "Stands at", "Reaches", "In flight modes"),
        rows=tuple(rows),
    )


def _trim_words(percent: float, trim: Trim | None) -> str:
    """Where a trim stands, in percent, and in clicks where a click has a size."""
    said = f"{plain(percent)} %"
    if trim is None or not trim.step or not percent:
        return said
    clicks = round(percent / trim.step)
    return f"{said} ({plain(clicks)} {'click' if abs(clicks) == 1 else 'clicks'})"


def _scope_words(names: Names, lever: Lever) -> str:
    if lever.scope == "none":
        return "moves nothing"
    if lever.scope == "common":
        return "one for all"
    head = "each its own" if lever.scope == "per mode" else "one for all, and on top"
    own = [f"{names.mode(mode)} {plain(value)} %" for mode, value in lever.own.items()]
    return f"{head}: {', '.join(own)}" if own else head


# -- outputs -----------------------------------------------------------------------------------------


def outputs_blocks(names: Names, ruler: Ruler) -> Iterator[Block]:
    """The outputs of surfaces and devices; then those of motors."""
    settings = names.settings
    motors = {motor.name for motor in names.model.airframe.motors}
    rows: list[tuple[int, Channel]] = []
    powered: list[tuple[int, Channel]] = []
    for place, output in enumerate(settings.outputs):
        part = ruler.part_of(output.port)
        (powered if part in motors else rows).append((place, output))
    if rows:
        yield Block(
            "outputs",
            "Outputs",
            ("The linkage first: at plus and minus 100 % the part must stand as said.",),
            columns=(
                "Port", "Part", "Way", "Centre µs", "Travel % low / high", "Stops µs",
                "At +100 %", "At −100 %",
            ),
            rows=tuple(_output_row(names, ruler, place, x) for place, x in rows),
        )  # fmt: skip
    if powered:
        yield Block(
            "motors",
            "Outputs of motors",
            caution="Propeller off until the guard is tested.",
            columns=("Port", "Motor", "Way", "Travel % low / high", "Stops µs", "At −100 %", "At +100 %", "Stands still"),
            rows=tuple(_motor_row(names, ruler, place, x) for place, x in powered),
        )  # fmt: skip


def _way_words(names: Names, output: Channel) -> str:
    said = ["reversed" if output.turned else "normal"]
    if output.slow_up or output.slow_down:
        said.append(slow_words(output.slow_down, output.slow_up))
    if output.bend is not None:
        said.append(names.curve(output.bend))
    return ", ".join(said)


def _stops(names: Names, output: Channel) -> str:
    settings = names.settings
    ends = (output.stop_below, output.stop_above)
    low, high = (settings.centre_us + settings.us_per_percent * x for x in ends)
    return f"{plain(low)} to {plain(high)}"


def _output_row(names: Names, ruler: Ruler, place: int, output: Channel) -> Row:
    settings = names.settings
    centre = settings.centre_us + settings.us_per_percent * output.centre
    cells = (
        str(output.port),
        names.part(ruler.part_of(output.port)),
        _way_words(names, output),
        plain(centre),
        f"{plain(output.end_below)} / {plain(output.end_above)}",
        _stops(names, output),
        ruler.stands(output.port, pulse_at(settings, output, 100.0)),
        ruler.stands(output.port, pulse_at(settings, output, -100.0)),
    )
    return Row(f"port {output.port}", cells, (at("outputs", place),))


def _motor_row(names: Names, ruler: Ruler, place: int, output: Channel) -> Row:
    settings = names.settings
    still = settings.centre_us + settings.us_per_percent * output.cut_at
    while_ = f"{plain(still)} µs while {names.reference(output.cut)}" if output.cut else ""
    way = _way_words(names, output)
    if output.centre:
        way += f", centre {plain(settings.centre_us + settings.us_per_percent * output.centre)}"
    cells = (
        str(output.port),
        names.part(ruler.part_of(output.port)),
        way,
        f"{plain(output.end_below)} / {plain(output.end_above)}",
        _stops(names, output),
        f"{number(pulse_at(settings, output, -100.0))} µs",
        f"{number(pulse_at(settings, output, 100.0))} µs",
        while_,
    )
    return Row(f"port {output.port}", cells, (at("outputs", place),))


# -- rates -------------------------------------------------------------------------------------------


def rates_blocks(names: Names, commands: Sequence[Command], table: str) -> Iterator[Block]:
    """Rates and expo: by the positions of a switch where that is all, else a line each."""
    regular: dict[str, list[tuple[int, Command]]] = {}
    others = []
    for place, command in enumerate(commands):
        switch = _by_one_switch(names, command)
        if switch:
            regular.setdefault(switch, []).append((place, command))
        else:
            others.append((place, command))
    for switch, found in regular.items():
        # what is alike at all positions stands in the same table, where there is only one
        alike = [x for x in others if len(regular) == 1 and _is_always(x[1])]
        others = [x for x in others if x not in alike]
        yield _rates_by_switch(names, switch, [*found, *alike], table)
    if others:
        rows = [row for place, x in others for row in _feel_rows(names, place, x, table)]
        title = "Rates and expo of the others" if regular else "Rates and expo"
        yield Block(
            f"rates of {table}",
            title,
            ("Of several lines for one command the first that holds gives it.",)
            if len(rows) > len(others)
            else (),
            columns=("Command", "From", "Rate / expo (half gives)", "Holds"),
            rows=tuple(rows),
        )


def _is_always(command: Command) -> bool:
    """Whether a command goes by one line that always holds."""
    feels = command.feels
    return len(feels) == 1 and not feels[0].when and not feels[0].modes and feels[0].side == "both"


def _by_one_switch(names: Names, command: Command) -> str:
    """The switch by whose positions alone a command's feels go, one each; nothing else."""
    hands = {hand.name: hand.positions for hand in names.settings.hands}
    first = command.feels[0].when if command.feels else ()
    if len(first) != 1 or "@" not in first[0]:
        return ""
    switch = first[0].partition("@")[0]
    wanted = [(f"{switch}@{i}",) for i in range(hands.get(switch, 0))]
    plain_ones = all(
        feel.side == "both"
        and not feel.modes
        and feel.bend == command.feels[0].bend
        and feel.control == command.feels[0].control
        and feel.turned == command.feels[0].turned
        for feel in command.feels
    )
    return switch if plain_ones and [feel.when for feel in command.feels] == wanted else ""


def _from_words(names: Names, feel: HandFeel) -> str:
    said = [names.signal(feel.control)]
    if feel.turned:
        said.append(TURNED)
    if feel.bend is not None:
        said.append(names.curve(feel.bend))
    if feel.pivot:
        said.append(FROM_LOW)
    return ", ".join(said)


def _rates_by_switch(
    names: Names, switch: str, found: Sequence[tuple[int, Command]], table: str
) -> Block:
    count = len(found[0][1].feels)
    rows = []
    for place, command in found:
        feels = [feel_words(names, feel) for feel in command.feels]
        if len(feels) < count:
            feels = [f"always {feels[0]}"] * count
        cells = (names.signal(command.name), _from_words(names, command.feels[0]), *feels)
        rows.append(Row(command.name, cells, (at(table, place),)))
    places = tuple(f"{i} {names.position(switch, i)}" for i in range(count))
    return Block(
        f"rates by {switch}",
        f"Rates and expo by {names.signal(switch)}",
        ("Rate / expo (half a stick gives), in percent.",),
        columns=("Command", "From", *places),
        rows=tuple(rows),
    )


def _feel_rows(names: Names, place: int, command: Command, table: str) -> Iterator[Row]:
    for at_, feel in enumerate(command.feels):
        held = held_words(names, feel.when, feel.modes)
        if feel.side != "both":
            held = [*held, f"{feel.side} the middle"]
        cells = (
            names.signal(command.name),
            _from_words(names, feel),
            feel_words(names, feel),
            ", ".join(held) or "always",
        )
        yield Row(f"{command.name} {at_}", cells, (f"{table}.{place}.feels.{at_}",))


# -- curves ------------------------------------------------------------------------------------------


def curves_block(names: Names) -> Block:
    """Every curve that something on the sheet goes by."""
    rows = []
    for letter, bend in names.curves():
        cells = (letter, names.points(bend), curve_notes(names, bend))
        rows.append(Row(f"curve {names.points(bend)}", cells))
    return Block(
        "curves",
        "Curves",
        ("Source: value. Beyond its ends a curve keeps its end values.",),
        columns=("Curve", "Points", "Line"),
        rows=tuple(rows),
    )


# -- conditions --------------------------------------------------------------------------------------


def rules_blocks(names: Names, rules: Sequence[Rule], table: str) -> Iterator[Block]:
    """The conditions, those of the motor guard by themselves."""
    own: list[Row] = []
    guard: list[Row] = []
    for place, rule in enumerate(rules):
        cells = (names.code(rule.name), names.rule_label(rule.name), rule_words(names, rule))
        row = Row(f"condition {rule.name}", cells, (at(table, place),))
        (guard if rule.name.startswith(GUARD) else own).append(row)
    columns = ("No.", "For", "True when")
    if own:
        yield Block("conditions", "Conditions", columns=columns, rows=tuple(own))
    if guard:
        yield Block(
            "guard",
            "Motor guard: its conditions",
            caution="Propeller off. It is tested further down, once all lines of the motors are in.",
            columns=columns,
            rows=tuple(guard),
        )


# -- flight modes ------------------------------------------------------------------------------------


class ModePresets(NamedTuple):
    """The fixed figures of a part by flight mode, and where they are in the settings."""

    label: str
    by_mode: Mapping[str, float]
    paths: tuple[str, ...]


def modes_block(
    names: Names,
    modes: Sequence[Mode],
    presets: Sequence[ModePresets],
    when: Callable[[Mode], str],
    table: str = "modes",
) -> Block:
    """Flight modes in a matrix: when each is flown and how long its fade takes; presets of parts,
    shared values."""
    shared = names.settings.shared
    if not modes:
        rows = [
            Row(
                f"shared {x.name}",
                (names.shared_label(x.name), *(plain(v) for v in x.by_mode.values()), *_shared_rest(names, x)),
                (at("shared", place),),
            )
            for place, x in enumerate(shared)
        ]  # fmt: skip
        columns = ("Shared value", "Value", "Bounds", "Moved in flight by")
        return Block("modes", "Shared values", columns=columns, rows=tuple(rows))
    keys = [mode.name for mode in modes]
    flown = (when(mode) or "no other is" for mode in modes)
    paths = tuple(at(table, i) for i in range(len(modes)))
    rows = [Row("flown while", ("Flown while", *flown), paths)]
    if any(mode.fade_s for mode in modes):
        rows.append(Row("fades", ("Fade into it, s", *(plain(m.fade_s) for m in modes))))
    preset_rows = []
    for x in presets:
        cells = (x.label, *(plain(x.by_mode.get(key, 0.0)) for key in keys))
        preset_rows.append(Row(f"preset {x.label}", cells, x.paths))
    rows += in_pairs(preset_rows)
    for place, value in enumerate(shared):
        values = (plain(value.by_mode.get(key, 0.0)) for key in keys)
        cells = (names.shared_label(value.name), *values)
        rows.append(Row(f"shared {value.name}", cells, (at("shared", place),)))
    return Block(
        "modes",
        "Flight modes, what stands where in each, and shared values",
        ("The first from the left whose condition holds is flown.",),
        columns=("", *(names.mode(key) for key in keys)),
        rows=tuple(rows),
    )


def moved_values_block(names: Names) -> Block:
    """What moves shared values in flight, and how far. The bounds of others are never met."""
    rows = []
    for place, x in enumerate(names.settings.shared):
        if x.mover is None:
            continue
        bounds, moved = _shared_rest(names, x)
        rows.append(Row(f"bounds {x.name}", (names.shared_label(x.name), bounds, moved), (at("shared", place),)))  # fmt: skip
    columns = ("Shared value", "Bounds", "Moved in flight by")
    return Block("bounds", "Shared values moved in flight", columns=columns, rows=tuple(rows))


def _shared_rest(names: Names, x: Shared) -> tuple[str, str]:
    bounds = f"{plain(x.low)} to {plain(x.high)}"
    return bounds, "nothing" if x.mover is None else _mover_words(names, x.mover)


def _mover_words(names: Names, mover: Mover) -> str:
    if mover.kind == "step":
        up = names.reference(mover.up) if mover.up else "nothing"
        down = names.reference(mover.down) if mover.down else "nothing"
        said = f"up {plain(mover.amount)} with {up}, down with {down}"
    elif mover.kind == "add":
        said = f"{names.signal(mover.control)} adds up to {plain(mover.amount)}"
    else:
        said = f"{names.signal(mover.control)} sets it from bound to bound"
    more = [*held_words(names, (mover.when,) if mover.when else (), mover.modes)]
    if mover.keep:
        more.append("keeps its last")
    return ", ".join([said, *more])


# -- failsafe ----------------------------------------------------------------------------------------


def failsafe_block(names: Names, ruler: Ruler) -> Block:
    """What every port does without the link."""
    settings, rows = names.settings, []
    for output in settings.outputs:
        safe = settings.failsafe.ports[output.port]
        part = ruler.part_of(output.port)
        does = {"hold": "stays", "none": "no pulses"}.get(safe.action, f"{plain(safe.place_us)} µs")
        stands = ""
        if safe.action == "place":
            stands = ruler.stands(output.port, safe.place_us)
        cells = (str(output.port), names.part(part), does, stands)
        rows.append(Row(f"failsafe {output.port}", cells, (f"failsafe.ports.{output.port}",)))
    receiver = settings.failsafe
    said = [f"It acts when the link has been gone for {plain(receiver.after_s)} s."]
    if not receiver.stored:
        said.append("The transmitter sends it; before the first hearing there are no pulses.")
    caution = "Propeller off, throttle at a third, a stick held over: transmitter off, watch, and on again."
    if not names.model.airframe.motors:
        caution = "A stick held over: transmitter off, watch, and on again."
    return Block(
        "failsafe",
        "Failsafe",
        tuple(said),
        caution=f"{caution} Local rules and the makers' manuals come first.",
        columns=("Port", "Part", "Without the link", "Stands"),
        rows=tuple(rows),
    )


# -- voice and timers --------------------------------------------------------------------------------


def voice_blocks(names: Names) -> Iterator[Block]:
    """What is said, and the timers."""
    settings = names.settings
    rows = []
    for place, x in enumerate(settings.said):
        how = {"begins": "", "ends": "when it ends"}.get(
            x.moment, f"while it lasts, every {plain(x.every_s)} s"
        )
        when = names.reference(x.when)
        cells = (x.words, f"{when}, {how}" if how else when)
        rows.append(Row(f"said {x.words} {x.when}", cells, (at("said", place),)))
    if rows:
        lines = ("Said when it begins, where nothing else stands.",)
        yield Block("voice", "Voice", lines, columns=("Says", "For"), rows=tuple(rows))
    clocks = []
    for place, timer in enumerate(settings.timers):
        span = f"down from {clock(timer.span_s)}" if timer.counts == "down" else "up"
        reset = names.reference(timer.reset) if timer.reset else "by hand"
        about = (timer.label, span, names.reference(timer.when), reset)
        clocks.append(Row(f"timer {timer.name}", about, (at("timers", place),)))
    if clocks:
        columns = ("Timer", "Counts", "While", "Set back")
        yield Block("timers", "Timers", columns=columns, rows=tuple(clocks))


# -- how to read -------------------------------------------------------------------------------------


def reading_lines(names: Names) -> list[str]:
    """The rules of reading that hold in all schools."""
    settings = names.settings
    slope, centre = settings.us_per_percent, settings.centre_us
    first = "away from you" if names.model.transmitter.first_end == "away" else "towards you"
    return [
        f"100 % is {plain(100 * slope)} µs from the centre; 0 % is {plain(centre)} µs. Plus is: surface down, "
        "rudder right, motor more. Commands: roll and yaw plus is stick right; pitch plus is stick back, so its stick "
        "is turned round.",
        f"A switch counts its positions from 0; position 0 is the end {first}, and as a source it goes in even steps from "
        f"−100 to 100. {stick_words(names)}",
        "Rate r, expo e: the stick x first goes through its curve, is cut at ±100, then e (as a share of 1): "
        "(1 − e)·x + e·x³; below 0 the same bow seen from the end. Then times r. “From its low end” does all this from −100 "
        "instead of from 0.",
        "60 / 36: 60 % while the source is below 0, 36 % above. The trim is added after rate and expo; “no trim” takes the "
        "command without it. “From its low end” at a line counts the source from −100: it goes from 0 to 200.",
        "A sum may go to ±150 % (a motor's from −100 to 150); nothing but the stops cuts an output. Output: the sum, slow, curve, "
        "reversed, times its travel on the low or high side, plus the centre, stops. Slow s: so many seconds for each 100 %, "
        "to the figure after the curve and before the weight.",
        "Millimetres are measured at the trailing edge from where the part stands in line (0°), straight, with a ruler.",
    ]  # fmt: skip
