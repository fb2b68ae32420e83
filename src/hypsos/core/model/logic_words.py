"""Conditions, logical switches, flight modes and shared values as sheet lines."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.model.document import Model
from hypsos.core.model.words import Part, plain, said_name, side_percent
from hypsos.core.parts.logic import Combine, Compare, Counter, Delay, Gate, Latch, LogicSwitch, asked

JOINED = {"all": "all of", "any": "any of", "one": "exactly one of", "not": "not"}
DELAYED = {"on_delay": "on after", "off_delay": "off after", "pulse": "pulse of"}


def condition_words(model: Model, text: str) -> str:
    """A condition as people say it: ``'Task switch at landing'``, ``'not Brakes out'``."""
    negated, is_mode, name, position = asked(text)
    control = model.transmitter.control(name)
    if is_mode:
        said = f"mode {next((m.label for m in model.program.modes if m.name == name), name)}"
    elif control is not None and position is not None:
        said = f"{control.label} at {control.positions[position]}"
    elif name in ("link", "power"):
        said = "link up" if name == "link" else "receiver powered"
    else:
        label = next((said_name(x.label, "Logical switch", name) for x in model.program.logic if x.name == name), name)
        said = f"{label} at {position}" if position is not None else label
    return f"not {said}" if negated else said


def condition_choices(model: Model) -> list[tuple[str | None, str]]:
    """The conditions there are to choose from, in words: none, every switch position, logical switches, flight modes."""
    out: list[tuple[str | None, str]] = [(None, "always")]
    for control in model.transmitter.controls:
        out += [(f"{control.name}@{i}", f"while {control.label} at {p}") for i, p in enumerate(control.positions)]
    texts = [x.name for x in model.program.logic if not isinstance(x, Gate | Counter)]
    texts += [f"mode:{m.name}" for m in model.program.modes]
    for text in texts:
        out += [(text, f"while {condition_words(model, text)}"), (f"!{text}", f"unless {condition_words(model, text)}")]
    return out


def logic_words(model: Model, x: LogicSwitch) -> str:
    """What a logical switch is made of."""
    if isinstance(x, Compare):
        tail = f", off again {plain(x.hysteresis)} % further back" if x.hysteresis else ""
        said = {
            "above": f"{x.a} > {plain(x.x)} %",
            "below": f"{x.a} < {plain(x.x)} %",
            "beyond": f"{x.a} beyond {plain(x.x)} % either way",
            "within": f"{x.a} from {plain(x.x)} to {plain(x.y if x.y is not None else x.x)} %",
            "difference": f"{x.a} minus {x.b} > {plain(x.x)} %",
        }[x.kind]
        return said.replace("_", " ") + tail
    if isinstance(x, Combine):
        return f"{JOINED[x.kind]}: {'; '.join(condition_words(model, c) for c in x.of)}"
    if isinstance(x, Latch):
        how = "edge" if x.edges else "level"
        return f"latch, set by {condition_words(model, x.set)}, cleared by {condition_words(model, x.reset)} ({how})"
    if isinstance(x, Delay):
        return f"{DELAYED[x.kind]} {plain(x.seconds)} s: {condition_words(model, x.of)}"
    if isinstance(x, Counter):
        return f"counts to {x.count} on {condition_words(model, x.of)}"
    assert isinstance(x, Gate)
    return f"passes {x.source} while {condition_words(model, x.when)}, else {plain(x.parked)} %".replace("_", " ")


def mode_lines(model: Model, parts: dict[str, Part], turned: frozenset[str] = frozenset()) -> Iterator[tuple[str, str]]:
    """What and value for each flight mode, in their order; of ``turned`` parts the channel's own figure."""
    for i, m in enumerate(model.program.modes):
        when = "base mode" if m.when is None else f"when {condition_words(model, m.when)}"
        said = [when, f"fade {plain(m.fade_s)} s"]
        for target, value in m.presets.items():
            part = parts.get(target)
            goes = "" if part is None else side_percent(part, -value if target in turned else value, 1)
            amount = f"{plain(value)} %" if part is None else goes.replace(".0 %", " %")
            amount = f"channel {plain(value)} %: {amount}" if target in turned else amount
            said.append(f"{part.label if part else target} {amount}")
        yield f"Mode {i + 1}: {m.label}", ", ".join(said)


def shared_lines(model: Model) -> Iterator[tuple[str, str]]:
    """What and value for each shared value."""
    labels = {m.name: m.label for m in model.program.modes}
    for x in model.program.tunables:
        said = [f"{plain(x.value)} %", *(f"{labels.get(n, n)} {plain(v)} %" for n, v in x.by_mode.items())]
        said.append(f"bounds {plain(x.low)} to {plain(x.high)} %")
        if x.adjuster is not None:
            when = f" while {condition_words(model, x.adjuster.when)}" if x.adjuster.when else ""
            said.append(f"set by {x.adjuster.control.replace('_', ' ')}{when}")
        yield said_name(x.label, "Shared value", x.name), ", ".join(said)
