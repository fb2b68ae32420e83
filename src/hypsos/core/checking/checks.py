# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold across the parts of a document: names that lead somewhere, ports used once, no
cycles."""

from __future__ import annotations

from collections.abc import Generator, Iterator, Sequence

from hypsos.core.checking import condition_checks as logic_checks
from hypsos.core.checking.problem import Problem, condition_problem, source_names, target_names
from hypsos.core.dependencies.y_leads import lines_by_target, partner, y_lead_problem
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines, expanded
from hypsos.core.document.names import reserved_names
from hypsos.core.document.program import FREE_COMMANDS, Axis, Guard, Setting, StartCheck
from hypsos.core.parts.airframe import PLATES, Surface
from hypsos.core.parts.four_bar import binds_at
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.pulses import idle_percent
from hypsos.core.parts.transmitter import STICKS, Control
from hypsos.core.recipes import RecipeBase

LEAST_IDLE = 20.0
"""Percent of the output between a motor's idle and the middle of the travel, at the least."""


def first_problem(model: Model) -> Problem | None:
    """The first thing that makes the document unusable, or None."""
    return next(problems(model), None)


def problems(model: Model) -> Iterator[Problem]:
    """Everything that makes the document unusable."""
    yield from _duplicates(model)
    yield from _airframe(model)
    yield from _leads(model)
    yield from _output_curves(model)
    yield from _program(model)
    yield from logic_checks.logic(model)
    yield from logic_checks.modes(model)
    yield from logic_checks.voice(model)
    yield from logic_checks.cycles(model)


def _duplicates(model: Model) -> Iterator[Problem]:
    """Names that stand for two things."""
    yield from _signals(model, (yield from _taken_twice(model)))
    for root, items in (
        ("leads", [x.name for x in model.leads]),
        ("airframe.panels", [p.name for p in model.airframe.panels]),
        ("program.modes", [m.name for m in model.program.modes]),
    ):
        for i, name in enumerate(items):
            if name in items[:i]:
                yield Problem(f"{root}[{i}].name", f"the name {name} is used twice")
    commands = [a.command for a in model.program.axes]
    for i, command in enumerate(commands):
        if command in commands[:i]:
            yield Problem(f"program.axes[{i}].command", f"there are two axes for {command}")


def _taken_twice(model: Model) -> Generator[Problem, None, dict[str, str]]:
    """Names of parts, controls, conditions, shared values, signals and timers, which share one
    space; gives back what each name stands for."""
    seen = {name: "a name of its own meaning" for name in reserved_names(model)}
    groups = [
        (f"airframe.{g}", getattr(model.airframe, g)) for g in ("surfaces", "motors", "devices")
    ]
    # parts, controls, conditions, shared values, signals and timers stand beside each other in
    # lines and conditions, so they share one space of names
    groups.append(("transmitter.controls", model.transmitter.controls))
    groups += [
        (f"program.{g}", getattr(model.program, g))
        for g in ("logic", "tunables", "signals", "timers")
    ]
    groups += [
        (f"program.recipes[{i}].own_values", r.own_values())
        for i, r in enumerate(model.program.recipes)
    ]
    for group, parts in groups:
        for i, part in enumerate(parts):
            if part.name in seen:
                yield Problem(
                    f"{group}[{i}].name",
                    f"the name {part.name} is taken already ({seen[part.name]})",
                )
            seen[part.name] = part.label
    return seen


def _signals(model: Model, seen: dict[str, str]) -> Iterator[Problem]:
    """Every recipe feeds a signal of its own; and no logical switch stands in the way of another
    column of the trace."""
    fed: dict[str, str] = {}
    for i, recipe in enumerate(model.program.recipes):
        path = f"program.recipes[{i}].signal"
        for name, _ in recipe.signals():
            if name in fed:
                yield Problem(
                    path,
                    f"{recipe.label} and {fed[name]} feed one signal, {name}",
                    "Give each a signal of its own.",
                )
            # the usual signals are there for a recipe to feed
            elif name in seen and name not in FREE_COMMANDS:
                yield Problem(path, f"the name {name} is taken already ({seen[name]})")
            fed[name] = recipe.label
    # a logical switch is a column of the trace under its own name
    columns = {f"{timer.name}_s" for timer in model.program.timers}
    for lead in model.leads:
        columns |= {f"{lead.name}_pct", f"{lead.name}_us", f"{lead.target}_deg"}
    for i, x in enumerate(model.program.logic):
        if x.name in columns:
            yield Problem(
                f"program.logic[{i}].name",
                f"{x.name} is a column of the trace already",
                "Choose another name.",
            )


def _airframe(model: Model) -> Iterator[Problem]:
    body = model.airframe
    named = {s.name: s for s in body.surfaces}
    overlapping = _overlapping(body.surfaces)
    if not body.panels:
        yield Problem("airframe.panels", "an aeroplane needs at least one wing")
    for i, s in enumerate(body.surfaces):
        path = f"airframe.surfaces[{i}]"
        panel = body.panel(s.panel)
        master = named.get(s.follows or "")
        # a follower hangs on a surface of the same panel that follows nobody itself
        leads = master is not None and master.follows is None and master.panel == s.panel
        if s.follows is not None and not leads:
            yield Problem(
                f"{path}.follows", f"there is no surface {s.follows} with a servo on {s.panel}"
            )
        if panel is None:
            yield Problem(f"{path}.panel", f"there is no panel {s.panel}")
        elif not s.start_mm < s.end_mm <= panel.half_span_mm + 1e-6:
            half = f"{panel.label} reaches {panel.half_span_mm:g} mm from its root"
            yield Problem(
                f"{path}.end_mm",
                f"{s.label} must begin before it ends and end on {panel.label}; {half}",
            )
        # as deep as the panel at either end, there would be no wing left before it
        elif s.chord_mm >= min(panel.chord_at(s.start_mm), panel.chord_at(s.end_mm)):
            yield Problem(f"{path}.chord_mm", f"{s.label} is deeper than {panel.label}")
        for other in overlapping.get(i, ()):
            yield Problem(
                f"{path}.start_mm", f"{s.label} and {other.label} lie on top of each other"
            )


def _overlapping(surfaces: Sequence[Surface]) -> dict[int, list[Surface]]:
    """Place of a surface -> those before it in the list that lie on top of it.

    Along each panel, from its root, only those are compared whose end is not passed yet: as many as
    lie side by side, and not all with all. Plates stand out of the upper side, before what is hinged
    behind them, and are left out."""
    found: dict[int, list[int]] = {}
    along: dict[str, list[int]] = {}
    for i, s in enumerate(surfaces):
        if s.role not in PLATES:
            along.setdefault(s.panel, []).append(i)
    for places in along.values():
        begun: list[int] = []
        for i in sorted(places, key=lambda place: surfaces[place].start_mm):
            s = surfaces[i]
            begun = [k for k in begun if s.start_mm < surfaces[k].end_mm - 1e-6]
            for k in begun:
                if _overlap(s, surfaces[k]):
                    found.setdefault(max(i, k), []).append(min(i, k))
            begun.append(i)
    return {i: [surfaces[k] for k in sorted(others)] for i, others in found.items()}


def _overlap(a: Surface, b: Surface) -> bool:
    together = a.panel == b.panel and (a.side == b.side or "centre" in (a.side, b.side))
    return together and a.start_mm < b.end_mm - 1e-6 and b.start_mm < a.end_mm - 1e-6


def _output_curves(model: Model) -> Iterator[Problem]:
    """Motors whose output is bent: their idle and full power would be elsewhere than the guard
    takes them to be."""
    motors = {m.name for m in model.airframe.motors}
    for i, lead in enumerate(model.leads):
        if lead.curve is not None and lead.target in motors:
            text = f"{lead.label} is a motor's lead, and a motor has no output curve"
            yield Problem(f"leads[{i}].curve", text, "Bend its throttle curve instead.")


def _leads(model: Model) -> Iterator[Problem]:
    parts = {p.name for p in model.airframe.moved()}
    motors = {m.name for m in model.airframe.motors}
    for i, lead in enumerate(model.leads):
        path = f"leads[{i}]"
        # with an idle near the middle one side of the travel would be nearly nothing
        if lead.target in motors and abs(idle_percent(lead, model.transmitter)) < LEAST_IDLE:
            text = f"{lead.idle_us:g} µs is too near the middle of the travel to be a motor's idle"
            yield Problem(f"{path}.idle_us", text, "Usual is 1000 µs.")
        if lead.target not in parts:
            yield Problem(
                f"{path}.target", f"there is no surface, motor or device called {lead.target}"
            )
        yield from _measured(model, lead, path)
    yield from _ports(model)
    yield from _y_leads(model)


def _measured(model: Model, lead: Lead, path: str) -> Iterator[Problem]:
    """A linkage that binds, and figures that no ruler can have read."""
    if lead.linkage is not None:
        # a reversed output turns it the other way
        reach = lead.direction * lead.linkage.servo_deg / 100.0
        stuck = binds_at(lead.linkage, *sorted((lead.stop_neg * reach, lead.stop_pos * reach)))
        if stuck is not None:
            text = f"the linkage of {lead.label} binds when the servo has turned {abs(stuck):.0f}°"
            yield Problem(
                f"{path}.linkage",
                text,
                "Shorten the arm, lengthen the horn, or bring the end stops in.",
            )
    chord = next((s.chord_mm for s in model.airframe.surfaces if s.name == lead.target), None)
    # a chord turned right round is twice as long as itself: no ruler reads more
    most = max((abs(mm) for _, mm in lead.measured), default=0.0)
    if chord is not None and most > 2 * chord:
        text = f"{most:g} mm is more than a ruler at the trailing edge of {lead.label} can read"
        yield Problem(f"{path}.measured", text, f"Its chord is {chord:g} mm.")


def _ports(model: Model) -> Iterator[Problem]:
    """Ports that the receiver has not, and ports that hold more than they can."""
    holders: dict[int, Lead] = {}
    for i, lead in enumerate(model.leads):
        if lead.port is None:
            continue
        if lead.port > model.receiver.ports:
            text = f"the receiver has {model.receiver.ports} ports, there is no port {lead.port}"
            yield Problem(f"leads[{i}].port", text)
        holder = holders.get(lead.port)
        # two leads of one Y-lead sit in one port
        if holder is not None and partner(model, lead.name) != holder.name:
            text = f"port {lead.port} already holds {holder.label}; a port takes one lead"
            yield Problem(
                f"leads[{i}].port", text, f"Unplug {holder.label} first or choose a free port."
            )
        holders[lead.port] = lead
    yield from _power(model, {port: lead.label for port, lead in holders.items()})


def _y_leads(model: Model) -> Iterator[Problem]:
    if not model.y_leads:
        return
    try:
        # what both are told is compared line by line
        by_target = lines_by_target(model)
    except ValueError:
        return  # a recipe that cannot expand is named with its place
    for i, y in enumerate(model.y_leads):
        wrong = y_lead_problem(model, y, by_target)
        if wrong is not None:
            yield Problem(f"y_leads[{i}]", *wrong)


def _power(model: Model, ports: dict[int, str]) -> Iterator[Problem]:
    port = model.receiver.power_port
    if port is None:
        return
    if model.receiver.power != "own battery":
        yield Problem(
            "receiver.power_port",
            "only a battery of its own sits in a port",
            "A speed controller feeds it by its lead.",
        )
    elif port in ports:
        yield Problem(
            "receiver.power_port", f"port {port} already holds {ports[port]}", "Choose a free port."
        )
    elif port > model.receiver.ports:
        yield Problem(
            "receiver.power_port",
            f"the receiver has {model.receiver.ports} ports, there is no port {port}",
        )


def _program(model: Model) -> Iterator[Problem]:
    known = _Known(model)
    for i, axis in enumerate(model.program.axes):
        yield from _axis(model, axis, f"program.axes[{i}]", known.shared)
    yield from _lines(model, known)
    guard, motors = model.program.guard, model.airframe.motors
    if guard is None and motors:
        text = "this aeroplane has a motor and no guard for it"
        yield Problem(
            "program.guard",
            text,
            "Give it a guard with at least a cut position; nothing was changed.",
        )
    if guard is not None and not motors:
        text = "this aeroplane has no motor, and its guard would go on unseen"
        yield Problem(
            "program.guard", text, "Take the guard out; one is proposed when a motor comes."
        )
    if guard is not None:
        yield from _guard(model, guard)


def _inputs(model: Model) -> set[str]:
    """The sticks and the controls."""
    return {c.name for c in model.transmitter.controls} | set(STICKS)


def _switches(model: Model) -> dict[str, Control]:
    return {c.name: c for c in model.transmitter.controls if c.is_switch}


def _axis(model: Model, axis: Axis, path: str, shared: set[str]) -> Iterator[Problem]:
    """What an axis names that is not there."""
    if axis.control not in _inputs(model):
        yield Problem(f"{path}.control", f"there is no stick or control called {axis.control}")
    if axis.switch is not None and axis.switch not in _switches(model):
        yield Problem(f"{path}.switch", f"there is no switch called {axis.switch}")
    modes = {m.name for m in model.program.modes}
    for mode in axis.trim.by_mode if axis.trim is not None else ():
        if mode not in modes:
            yield Problem(f"{path}.trim.by_mode.{mode}", f"there is no flight mode {mode}")
    for k, setting in enumerate(axis.settings):
        if setting is not None:
            yield from _setting(model, setting, f"{path}.settings[{k}]", shared)
    if (
        axis.curve is not None
        and axis.curve.live_from is not None
        and axis.curve.live_from not in shared
    ):
        yield Problem(
            f"{path}.curve.live_from", f"there is no shared value called {axis.curve.live_from}"
        )


def _setting(model: Model, setting: Setting, path: str, shared: set[str]) -> Iterator[Problem]:
    """What the rates and expo of one position name that is not there."""
    for field in ("rate_from", "expo_from"):
        name = getattr(setting, field)
        if name is not None and name not in shared:
            yield Problem(f"{path}.{field}", f"there is no shared value called {name}")
    if setting.from_when is not None and (wrong := condition_problem(model, setting.from_when)):
        yield Problem(f"{path}.from_when", wrong)


def _guard(model: Model, guard: Guard) -> Iterator[Problem]:
    switch = _switches(model).get(guard.switch)
    if switch is None:
        yield Problem("program.guard.switch", f"there is no switch called {guard.switch}")
    else:
        yield from _cut(guard, switch)
    for field, text in guard.asks():
        if wrong := condition_problem(model, text):
            yield Problem(f"program.guard.{field}", wrong)
    yield from _engines(model, guard)
    for i, check in enumerate(guard.start_check):
        yield from _start_check(model, check, f"program.guard.start_check[{i}]")


def _cut(guard: Guard, switch: Control) -> Iterator[Problem]:
    """Positions that cut the motor: they must be there, and leave one in which it may run."""
    count = len(switch.positions)
    for i, position in enumerate(guard.cut):
        if position >= count:
            yield Problem(
                f"program.guard.cut[{i}]", f"{switch.label} has no position {position + 1}"
            )
    # a motor that can never run is a mistake; one that can never be stopped cannot be written,
    # for one position is cut at least
    if len(set(guard.cut)) >= count:
        text = f"every position of {switch.label} stops the motor: it could never run"
        yield Problem("program.guard.cut", text, "Leave at least one position in which it may run.")


def _start_check(model: Model, check: StartCheck, path: str) -> Iterator[Problem]:
    """One thing that is asked before the first start: a switch by its position, anything else from
    a low to a high value."""
    control = _switches(model).get(check.control)
    if check.control not in _inputs(model):
        yield Problem(f"{path}.control", f"there is no stick or control called {check.control}")
    # a switch has positions, a stick has none
    elif (control is None) != (check.position is None):
        text = "a switch is checked by its position, anything else from a low to a high value"
        yield Problem(f"{path}.position", text)
    elif control is not None and (check.position or 0) >= len(control.positions):
        yield Problem(
            f"{path}.position", f"{control.label} has no position {(check.position or 0) + 1}"
        )
    elif check.low > check.high:
        yield Problem(f"{path}.low", "the low value must not lie above the high one")


def _engines(model: Model, guard: Guard) -> Iterator[Problem]:
    motors, seen = {m.name for m in model.airframe.motors}, set[str]()
    for i, engine in enumerate(guard.engines):
        path = f"program.guard.engines[{i}]"
        if engine.motor not in motors:
            yield Problem(f"{path}.motor", f"there is no motor called {engine.motor}")
        elif engine.motor in seen:
            yield Problem(
                f"{path}.motor",
                f"{engine.motor} is said to be an engine twice",
                "Leave one of the two.",
            )
        seen.add(engine.motor)
        # the one without the other would never be asked for
        if (engine.high_idle is None) != (engine.high_when is None):
            text = (
                "a second idle needs its figure, and a condition under which the engine goes by it"
            )
            yield Problem(f"{path}.high_when", text)
        elif engine.high_idle is not None and engine.high_idle <= engine.idle:
            yield Problem(f"{path}.high_idle", "the second idle has to lie above the first one")


class _Known:
    """What lines may name: targets, sources, surfaces with an angle, shared values."""

    def __init__(self, model: Model) -> None:
        self.targets, self.sources = target_names(model), source_names(model)
        self.hinged = {s.name for s in model.airframe.surfaces}
        self.shared = {x.name for x in model.program.shared_values()}


def _lines(model: Model, known: _Known) -> Iterator[Problem]:
    """What the plain mixes and the lines of the recipes name that is not there."""
    # expanded once for all recipes
    made = _made_lines(model)
    for i, mix in enumerate(model.program.mixes):
        yield from _plain_mix(model, mix, f"program.mixes[{i}]", known)
    for i, recipe in enumerate(model.program.recipes):
        path = f"program.recipes[{i}]"
        found = [Problem(f"{path}.{field}", text) for field, text in _recipe(model, recipe)]
        yield from found
        if found:
            continue  # its lines may not even be made
        for line in made[i] if made is not None else _lines_of(model, recipe):
            yield from _line_of(recipe, line, path, known)


def _plain_mix(model: Model, mix: MixLine, path: str, known: _Known) -> Iterator[Problem]:
    """What a mix by hand names that is not there."""
    if mix.target not in known.targets:
        yield Problem(f"{path}.target", f"there is nothing called {mix.target} to move")
    if mix.source not in known.sources:
        yield Problem(f"{path}.source", f"there is no source called {mix.source}")
    if mix.by_angle and mix.target not in known.hinged:
        text = f"{mix.target} is no hinged surface: it has no angle"
        yield Problem(f"{path}.by_angle", text, "Let the line give percent.")
    if mix.when is not None and (wrong := condition_problem(model, mix.when)):
        yield Problem(f"{path}.when", wrong)
    shared = {
        "gain_from": mix.gain_from,
        "differential_from": mix.differential_from,
        "response.live_from": mix.response.live_from if mix.response is not None else None,
    }
    for field, value in shared.items():
        if value is not None and value not in known.shared:
            yield Problem(f"{path}.{field}", f"there is no shared value called {value}")
    if mix.differential_off is not None and mix.differential_off not in known.sources:
        yield Problem(
            f"{path}.differential_off", f"there is no source called {mix.differential_off}"
        )


def _line_of(recipe: RecipeBase, line: MixLine, path: str, known: _Known) -> Iterator[Problem]:
    """What a line made by a recipe names that is not there."""
    missing = [line.target] if line.target not in known.targets else []
    missing += [line.source] if line.source not in known.sources else []
    missing += [name for name in line.reads_shared() if name not in known.shared]
    for name in missing:
        yield Problem(path, f"{recipe.label} uses {name}, and there is nothing of that name")
    if line.differential_off is not None and line.differential_off not in known.sources:
        yield Problem(
            f"{path}.differential_off", f"there is no signal called {line.differential_off}"
        )


def _made_lines(model: Model) -> list[list[MixLine]] | None:
    """The lines of every recipe, also of those switched off; None where one of them cannot
    expand."""
    try:
        lines = all_lines(model)
    except ValueError:
        return None
    out: list[list[MixLine]] = [[] for _ in model.program.recipes]
    for placed in lines:
        if placed.path.startswith("program.recipes["):
            out[int(placed.path[16:].split("]", 1)[0])].append(placed.line)
    for place, recipe in enumerate(model.program.recipes):
        if not recipe.on:  # what is switched off is checked as it would be
            out[place] = _lines_of(model, recipe)
    return out


def _lines_of(model: Model, recipe: RecipeBase) -> list[MixLine]:
    return [made.line for made in expanded(recipe, model.transmitter)]


def _recipe(model: Model, recipe: RecipeBase) -> Iterator[tuple[str, str]]:
    """What is wrong with a recipe: every field by its kind, then what only the recipe itself can
    see."""
    yield from _recipe_parts(model, recipe)
    yield from _recipe_controls(model, recipe)
    for field, text in recipe.asks():
        if wrong := condition_problem(model, text):
            yield field, wrong
    yield from _recipe_values(model, recipe)
    yield from recipe.problems(model.transmitter.control)


def _recipe_parts(model: Model, recipe: RecipeBase) -> Iterator[tuple[str, str]]:
    """Parts of the aeroplane that are not there, or stand in it twice."""
    parts = {p.name for p in model.airframe.moved()}
    seen: set[str] = set()
    for field, name in recipe.parts():
        if name not in parts:
            yield (
                field,
                f"there is no surface, motor or device called {name} with a lead of its own",
            )
        elif name in seen:
            yield field, f"{name} stands in {recipe.label} twice"
        seen.add(name)


def _recipe_controls(model: Model, recipe: RecipeBase) -> Iterator[tuple[str, str]]:
    """Controls that are not there, or are no switch where one is asked for."""
    switched = {p.key for p in recipe.of("switch")}
    may_be_lever = {p.key for p in recipe.of("control") if p.levers}
    levers = {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    signals = {*STICKS, *(x.name for x in model.program.gates())}
    for field, name in recipe.reads():
        control = model.transmitter.control(name)
        # a trim lever is no control of the transmitter's list
        if field in may_be_lever and name in levers:
            continue
        if field in switched and (control is None or not control.is_switch):
            yield field, f"there is no switch called {name}"
        elif control is None and name not in signals:
            yield field, f"there is no stick or control called {name}"


def _recipe_values(model: Model, recipe: RecipeBase) -> Iterator[tuple[str, str]]:
    """The shared values and flight modes that a recipe names and that are not there."""
    for field, name in recipe.shares():
        if all(x.name != name for x in model.program.shared_values()):
            yield field, f"there is no shared value called {name}"
    modes = {m.name for m in model.program.modes} or {"base"}
    for parameter in recipe.of("by mode"):
        for name in getattr(recipe, parameter.key):
            if name not in modes:
                yield f"{parameter.key}.{name}", f"there is no flight mode {name}"
