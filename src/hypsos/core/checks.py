"""What must hold across the parts of a document: names that lead somewhere, ports used once, no cycles."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hypsos.core.document import Model
from hypsos.core.program import AXIS_COMMANDS, FREE_COMMANDS
from hypsos.core.transmitter import STICKS


@dataclass(frozen=True)
class Problem:
    """Something that makes a document unusable: its path, what is wrong, what to do."""

    path: str
    text: str
    remedy: str = "Correct it and try again; nothing was changed."


def first_problem(model: Model) -> Problem | None:
    """The first thing that makes the document unusable, or None."""
    return next(problems(model), None)


def problems(model: Model) -> Iterator[Problem]:
    """Everything that makes the document unusable."""
    yield from _duplicates(model)
    yield from _airframe(model)
    yield from _leads(model)
    yield from _program(model)
    yield from _cycles(model)


def target_names(model: Model) -> set[str]:
    """Names that a mix line may feed."""
    return {part.name for part in model.airframe.moved()} | set(FREE_COMMANDS)


def source_names(model: Model) -> set[str]:
    """Names that a mix line may read."""
    controls = {c.name for c in model.transmitter.controls} | set(STICKS)
    return target_names(model) | controls | {a.command for a in model.program.axes} | {"full"}


def _duplicates(model: Model) -> Iterator[Problem]:
    reserved = {*STICKS, *AXIS_COMMANDS, *FREE_COMMANDS, "full", "link", "power", "t_s"}
    seen = {name: "a name of its own meaning" for name in reserved}
    groups = [(f"airframe.{g}", getattr(model.airframe, g)) for g in ("surfaces", "motors", "devices")]
    groups.append(("transmitter.controls", model.transmitter.controls))
    for group, parts in groups:
        for i, part in enumerate(parts):
            if part.name in seen:
                yield Problem(f"{group}[{i}].name", f"the name {part.name} is taken already ({seen[part.name]})")
            seen[part.name] = part.label
    for group, items in (("leads", [x.name for x in model.leads]), ("panels", [p.name for p in model.airframe.panels])):
        for i, name in enumerate(items):
            if name in items[:i]:
                root = group if group == "leads" else f"airframe.{group}"
                yield Problem(f"{root}[{i}].name", f"the name {name} is used twice")
    commands = [a.command for a in model.program.axes]
    for i, command in enumerate(commands):
        if command in commands[:i]:
            yield Problem(f"program.axes[{i}].command", f"there are two axes for {command}")


def _airframe(model: Model) -> Iterator[Problem]:
    panels = {p.name: p for p in model.airframe.panels}
    for i, s in enumerate(model.airframe.surfaces):
        path = f"airframe.surfaces[{i}]"
        panel = panels.get(s.panel)
        if panel is None:
            yield Problem(f"{path}.panel", f"there is no panel {s.panel}")
        elif not s.start_mm < s.end_mm <= panel.half_span_mm + 1e-6:
            yield Problem(f"{path}.end_mm", f"{s.label} must begin before it ends and end on {panel.label}")
        elif s.chord_mm >= min(panel.root_chord_mm, panel.tip_chord_mm):
            yield Problem(f"{path}.chord_mm", f"{s.label} is deeper than {panel.label}")


def _leads(model: Model) -> Iterator[Problem]:
    parts = {p.name for p in model.airframe.moved()}
    ports: dict[int, str] = {}
    for i, lead in enumerate(model.leads):
        path = f"leads[{i}]"
        if lead.target not in parts:
            yield Problem(f"{path}.target", f"there is no surface, motor or device called {lead.target}")
        if lead.port is None:
            continue
        if lead.port > model.receiver.ports:
            yield Problem(
                f"{path}.port", f"the receiver has {model.receiver.ports} ports, there is no port {lead.port}"
            )
        if lead.port in ports:
            text = f"port {lead.port} already holds {ports[lead.port]}; a port takes one lead"
            yield Problem(f"{path}.port", text, f"Unplug {ports[lead.port]} first or choose a free port.")
        ports[lead.port] = lead.label


def _program(model: Model) -> Iterator[Problem]:
    switches = {c.name: c for c in model.transmitter.controls if c.is_switch}
    inputs = {c.name for c in model.transmitter.controls} | set(STICKS)
    for i, axis in enumerate(model.program.axes):
        path = f"program.axes[{i}]"
        if axis.control not in inputs:
            yield Problem(f"{path}.control", f"there is no stick or control called {axis.control}")
        if axis.switch is not None and axis.switch not in switches:
            yield Problem(f"{path}.switch", f"there is no switch called {axis.switch}")
    yield from _lines(model)
    guard = model.program.guard
    if guard is None:
        if model.airframe.motors:
            text = "this aeroplane has a motor and no guard for it"
            yield Problem("program.guard", text, "Give it a guard with at least a cut position; nothing was changed.")
        return
    if guard.switch not in switches:
        yield Problem("program.guard.switch", f"there is no switch called {guard.switch}")
    elif guard.run_position >= len(switches[guard.switch].positions):
        label = switches[guard.switch].label
        yield Problem("program.guard.run_position", f"{label} has no position {guard.run_position + 1}")
    if guard.stick not in inputs:
        yield Problem("program.guard.stick", f"there is no stick called {guard.stick}")


def _lines(model: Model) -> Iterator[Problem]:
    targets, sources = target_names(model), source_names(model)
    for i, mix in enumerate(model.program.mixes):
        if mix.target not in targets:
            yield Problem(f"program.mixes[{i}].target", f"there is nothing called {mix.target} to move")
        if mix.source not in sources:
            yield Problem(f"program.mixes[{i}].source", f"there is no source called {mix.source}")
    for i, recipe in enumerate(model.program.recipes):
        path = f"program.recipes[{i}]"
        found = [Problem(f"{path}.{field}", text) for field, text in recipe.problems(model.transmitter.control)]
        yield from found
        for made in () if found else recipe.expand(model.transmitter.control):
            for name, known in ((made.line.target, targets), (made.line.source, sources)):
                if name not in known:
                    yield Problem(path, f"{recipe.label} uses {name}, and there is nothing of that name")


def _cycles(model: Model) -> Iterator[Problem]:
    from hypsos.core.engine.lines import all_lines, line_order

    try:
        lines = all_lines(model)
    except ValueError:
        return  # a recipe that cannot expand is reported above
    cycle = line_order(lines).cycle
    if cycle:
        yield Problem("program.mixes", f"these feed each other in a circle: {', '.join(cycle)}")
