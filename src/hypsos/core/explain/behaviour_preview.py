# SPDX-License-Identifier: GPL-3.0-or-later
"""What a behaviour does, shown: the parts that it moves for each of what moves it, and the trailing
edge where it matters."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import of_each
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Signal
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.mode_ways import ways_to_modes
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.recipes import Recipe
from hypsos.core.wording.words import control_label

HANDS = {"roll": ("aileron_stick", 100.0), "pitch": ("elevator_stick", -100.0), "yaw": ("rudder_stick", 100.0),
         "thrust": ("throttle_stick", 100.0)}  # fmt: skip
SAID = {"roll": "roll right", "pitch": "pull", "yaw": "rudder right", "thrust": "full power"}


class Shown(NamedTuple):
    """What moves it, in words, and how far each part goes from its rest, in percent: + is down,
    right, or more power."""

    words: str
    moves: dict[str, float]


class Edge(NamedTuple):
    """The trailing edge in one state: its words, every surface where it stands (percent), with the
    stick full left and full right, and in millimetres with the stick in its middle."""

    words: str
    middle: dict[str, float]
    left: dict[str, float]
    right: dict[str, float]
    mm: dict[str, float]


def alone(model: Model, recipe: Recipe) -> Model:
    """The model with this behaviour only, which acts always, plain sticks, and motors that are
    mixed but never armed."""
    program = model.program
    freed = recipe.changed(
        {field: None for field, _ in recipe.asks() if field not in recipe.moved_by}
    )
    axes = tuple(Axis(command=a.command, control=HANDS[a.command][0]) for a in program.axes)
    modes = tuple(m.changed({"presets": {}, "fade_s": 0.0}) for m in program.modes)
    bare = program.changed(
        {
            "axes": axes,
            "recipes": (freed.changed({"on": True}),),
            "mixes": (),
            "modes": modes,
            "announcements": (),
            "timers": (),
            "detached": (),
        }
    )
    return _with_all_signals(model, model.changed({"program": bare}))


def _with_all_signals(model: Model, made: Model) -> Model:
    """A model made of another one for a picture, with every signal of that: what was left out may
    be read by what is left.

    A signal that nothing feeds is 0.
    """
    known = made.program.signal_labels()
    labels = model.program.signal_labels()
    gone = [Signal(name=name, label=label) for name, label in labels.items() if name not in known]
    if not gone:
        return made
    signals = (*made.program.signals, *gone)
    return made.changed({"program": made.program.changed({"signals": signals})})


LEAST_SHOWN = 0.05
"""Percent: a part that moves less is not shown."""


def shown(model: Model, recipe: Recipe) -> list[Shown]:
    """What moves a behaviour, and what it then moves, by itself."""
    only = alone(model, recipe)
    cases = []
    for what in recipe.moved_by:
        cases += _cases(model, only, recipe, what)
    if not cases:
        return []
    # all cases are worked out together: row 2 i is before case i, row 2 i + 1 after it
    situations = []
    for _, before, after in cases:
        situations += [before, after]
    sums = settled_together(compile_plan(only), situations).sums
    moves = {}
    for part in model.airframe.moved():
        if part.name in sums:
            settled = of_each(sums[part.name], len(situations))
            moves[part.name] = settled[1::2] - settled[::2]
    out = []
    for i, (words, _, _) in enumerate(cases):
        by = {name: float(move[i]) for name, move in moves.items()}
        out.append(Shown(words, {name: x for name, x in by.items() if abs(x) > LEAST_SHOWN}))
    return out


def _cases(model: Model, only: Model, recipe: Recipe, what: str) -> Cases:
    """The movements with which one of the things is shown that move a behaviour: words, the hands
    before and after."""
    if what == "control":
        control = getattr(recipe, "control", None)
        if not control:
            return []
        low, high = ends(only, recipe, control)
        return [(control_label(model, control), {control: low}, {control: high})]
    if what == "modes":
        return list(_by_mode(only))
    if what in {p.key for p in recipe.of("condition")}:
        return list(_by_position(model, getattr(recipe, what)))
    stick, value = HANDS[what]
    with_power = what == "yaw" and bool(model.airframe.motors)
    base = {"throttle_stick": 0.0} if with_power else {}
    return [(SAID[what], base, base | {stick: value})]


def _by_position(model: Model, text: str | None) -> Cases:
    """A condition that asks for a switch's position: away from it, and there."""
    asks = asked(text) if text is not None else None
    if asks is None or asks.position is None or model.transmitter.control(asks.name) is None:
        return []
    there, away = {asks.name: float(asks.position)}, {asks.name: float(asks.position == 0)}
    before, after = (there, away) if asks.negated else (away, there)
    return [(control_label(model, asks.name), before, after)]


Cases = list[tuple[str, dict[str, float], dict[str, float]]]
"""What moves it in words, the hands before, and the hands after."""


def ends(model: Model, recipe: Recipe, name: str) -> tuple[float, float]:
    """Where the control of a behaviour rests, and where it has gone all the way: as the control
    counts."""
    control = model.transmitter.control(name)
    if control is not None and control.is_switch:
        return 0.0, len(control.positions) - 1.0
    closed, opened = getattr(recipe, "closed", None), getattr(recipe, "opened", None)
    if closed is not None and opened is not None:
        return (-100.0, 100.0) if closed < opened else (100.0, -100.0)
    return (
        -100.0 if name in STICKS or hasattr(recipe, "rest") or recipe.of("positions") else 0.0
    ), 100.0


def _by_mode(model: Model) -> list[tuple[str, dict[str, float], dict[str, float]]]:
    """Flight modes cannot be flown without their conditions; the first mode with figures is shown
    by its own."""
    ways = ways_to_modes(model)
    base = ways.get(model.program.modes[-1].name, {}) if model.program.modes else {}
    return [(m.label, base, ways[m.name]) for m in model.program.modes[:-1] if m.name in ways][:1]


def trailing_edges(model: Model, index: int) -> list[Edge]:
    """The trailing edge of the whole aeroplane at the positions that matter to one of its
    behaviours, while that acts; with full left and right stick besides."""
    recipe = model.program.recipes[index]
    freed = recipe.changed({field: None for field, _ in recipe.asks()} | {"on": True})
    recipes = list(model.program.recipes)
    recipes[index] = freed
    program = model.program.changed({"recipes": tuple(recipes)})
    acting = _with_all_signals(model, model.changed({"program": program}))
    plan = compile_plan(acting)
    states = _states(acting, freed)
    sticks = [a.control for a in model.program.axes if a.command == "roll"]
    # three situations for each state, in the order in which an edge has them
    cases = []
    for _, hands in states:
        cases += [hands | dict.fromkeys(sticks, roll) for roll in (0.0, -100.0, 100.0)]
    result = settled_together(plan, cases)
    # where two leads move one surface, the first one counts
    stands = {
        lead.target: of_each(result.outputs[lead.name].stand, len(cases))
        for lead in reversed(model.leads)
    }
    rulers = {
        lead.target: of_each(mm, len(cases))
        for lead in reversed(model.leads)
        if (mm := result.outputs[lead.name].mm) is not None
    }
    rows: list[dict[str, float]] = [{} for _ in cases]
    for surface in model.airframe.surfaces:
        if surface.name in stands:
            for row, stand in zip(rows, stands[surface.name].tolist(), strict=True):
                row[surface.name] = stand
    edges = []
    for i, (words, _) in enumerate(states):
        middle, left, right = rows[3 * i : 3 * i + 3]
        read = {name: float(found[3 * i]) for name, found in rulers.items()}
        edges.append(Edge(words, middle, left, right, read))
    return edges


def _states(model: Model, recipe: Recipe) -> list[tuple[str, dict[str, float]]]:
    """The positions that matter, in words, and the hands for each."""
    name = getattr(recipe, "control", None)
    if "control" in recipe.moved_by and name:
        return [(words, {name: place}) for words, place in _places(model, recipe, name)]
    if "modes" in recipe.moved_by or recipe.of("by mode"):
        ways = ways_to_modes(model)
        return [(m.label, ways[m.name]) for m in model.program.modes if m.name in ways]
    out: list[tuple[str, dict[str, float]]] = [("at rest", {})]
    for what in recipe.moved_by:
        if what in HANDS and what != "roll":
            stick, value = HANDS[what]
            out.append((SAID[what], {stick: value}))
    return out


def _places(model: Model, recipe: Recipe, name: str) -> list[tuple[str, float]]:
    """The places of a behaviour's control that matter: in words, and as the control counts."""
    control = model.transmitter.control(name)
    if control is not None and control.is_switch:
        return [(position, float(i)) for i, position in enumerate(control.positions)]
    low, high = ends(model, recipe, name)
    if getattr(recipe, "closed", None) is not None:
        half = (recipe.closed + recipe.opened) / 2  # type: ignore[attr-defined]
        return [("closed", low), ("half", half), ("fully open", high)]
    positions = getattr(recipe, "positions", ())
    if positions:
        steps = np.linspace(-100, 100, len(positions))
        return [(f"place {i + 1}", float(x)) for i, x in enumerate(steps)]
    if low == 0.0:
        return [("lower end", -100.0), ("middle", 0.0), ("upper end", 100.0)]
    return [("low", low), ("half", 0.0), ("full", high)]
