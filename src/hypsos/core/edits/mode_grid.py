# SPDX-License-Identifier: GPL-3.0-or-later
"""Which flight mode each position of one or two switches gives, by which rule; and rules made from
such a grid."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from itertools import product
from typing import NamedTuple

from hypsos.core.base.lookup import the_one
from hypsos.core.conditions import Combine, LogicSwitch, conditions_of
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.edits.condition_choices import free_name, without_orphans
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.transmitter import Control
from hypsos.core.wording.describe_condition import named, phrase

MOST = 20_000
"""Positions looked through at the most."""
Places = Mapping[str, int]
"""Switch -> its position."""


class Cell(NamedTuple):
    """The mode at some switch positions, the rule that gives it in words, and whether no rule does:
    then it is the default mode.

    ``before``: modes that go before it while something else holds, each with what that is.
    """

    mode: str
    rule: str
    fallen: bool
    before: tuple[tuple[str, str], ...] = ()


def truth(model: Model, text: str, places: Places, depth: int = 0) -> bool | None:
    """Whether a condition holds at these switch positions; None where something else decides."""
    asks = asked(text)
    # a mode, the guard, a timer, or a circle: switches alone do not say
    if asks.realm or depth > 16:
        return None
    found: bool | None = None
    if asks.name in places:
        found = places[asks.name] == (1 if asks.position is None else asks.position)
    elif asks.position is None:
        node = next((x for x in model.program.logic if x.name == asks.name), None)
        if node is not None:
            found = node.settled(
                [truth(model, text, places, depth + 1) for text in node.conditions()]
            )
    return None if found is None else found != asks.negated


def cell(model: Model, places: Places) -> Cell:
    """The mode at these switch positions, everything else left open."""
    before: list[tuple[str, str]] = []
    for mode in model.program.modes:
        held = True if mode.when is None else truth(model, mode.when, places)
        if held:
            rule = "no rule holds here" if mode.when is None else phrase(model, mode.when)
            return Cell(mode.name, rule, mode.when is None, tuple(before))
        # it may be flown here: that hangs on something else, which is told
        if held is None and mode.when is not None:
            before.append((mode.label, phrase(model, mode.when)))
    return Cell("", "there are no flight modes", True)


def asked_switches(model: Model, texts: Iterable[str]) -> tuple[Control, ...]:
    """The switches on which conditions hang, in the order of the transmitter."""
    nodes: dict[str, LogicSwitch] = {x.name: x for x in model.program.logic}
    open_, seen = [asked(t).name for t in texts], set[str]()
    while open_:
        name = open_.pop()
        if name not in seen:
            seen.add(name)
            open_ += [asked(t).name for t in conditions_of(nodes[name])] if name in nodes else []
    return tuple(c for c in model.transmitter.controls if c.name in seen and c.is_switch)


def mode_switches(model: Model) -> tuple[Control, ...]:
    """The switches by which flight modes are chosen, those that choose most of them first."""
    whens = [m.when for m in model.program.modes if m.when is not None]
    asked_by_each = [asked_switches(model, [when]) for when in whens]

    def most_asked_first(switch: Control) -> int:
        return -sum(switch in asked_for for asked_for in asked_by_each)

    return tuple(sorted(asked_switches(model, whens), key=most_asked_first))


def all_places(controls: Iterable[Control]) -> Iterator[dict[str, int]]:
    """Every combination of their positions, the first ones first."""
    held = list(controls)
    for places in product(*(range(len(c.positions)) for c in held)):
        yield {c.name: i for c, i in zip(held, places, strict=True)}


def never_flown(model: Model) -> tuple[FlightMode, ...]:
    """Modes that no position of the switches can give: rules before them always hold where theirs
    does."""
    modes = model.program.modes
    if len(modes) < 2:
        return ()
    switches = asked_switches(model, [m.when for m in modes if m.when is not None])
    left = {m.name for m in modes}
    for n, places in enumerate(all_places(switches)):
        # too many positions to look at, or each mode was met: nothing is said
        if n > MOST or not left:
            return ()
        for mode in modes:
            held = True if mode.when is None else truth(model, mode.when, places)
            # it holds here, or may hold: it can be flown
            if held is not False:
                left.discard(mode.name)
            if held:
                break
    return tuple(m for m in modes if m.name in left)


def grid_axes(model: Model) -> tuple[Control, ...]:
    """What a grid can be laid over: the switches, and the conditions that somebody has named, as
    two positions each."""
    switches = tuple(c for c in model.transmitter.controls if c.is_switch)
    flags = [x for x in named(model) if not x.gives_signal and not x.positions]
    return (
        *switches,
        *(
            Control(
                name=x.name,
                label=x.label,
                kind="switch",
                hand="left",
                positions=("does not hold", "holds"),
            )
            for x in flags
        ),
    )


def _grid_axis(model: Model, name: str) -> Control:
    control: Control = the_one(grid_axes(model), lambda c: c.name == name)
    return control


def _at(model: Model, control: Control, place: int) -> str:
    """The condition that holds at a place of one side of the grid."""
    if model.transmitter.control(control.name) is not None:
        return f"{control.name}@{place}"
    return control.name if place else f"!{control.name}"


def by_switches_only(model: Model, mode: FlightMode, names: Iterable[str]) -> bool:
    """Whether these switches alone decide a mode's condition."""
    if mode.when is None:
        return True
    mine = [_grid_axis(model, n) for n in names]
    when = mode.when
    return all(truth(model, when, places) is not None for places in all_places(mine))


def with_cell(model: Model, names: tuple[str, ...], places: Places, mode: str) -> Model:
    """The model with another mode at one place of the grid of one or two switches.

    The rules of the modes that these switches alone choose are written anew, each for its own
    places; rules that hang on something else stay, and go on before or behind them as they did."""
    program = model.program
    mine = [_grid_axis(model, n) for n in names]
    owned = [
        m.name for m in program.modes if m.when is not None and by_switches_only(model, m, names)
    ]
    base = program.modes[-1].name
    if mode != base and mode not in owned:
        owned.append(mode)
    grid = {tuple(p.values()): _owned_at(model, p, {*owned, base}) for p in all_places(mine)}
    grid[tuple(places[c.name] for c in mine)] = mode
    logic, modes = list(program.logic), []
    taken = model
    for m in program.modes:
        if m.name not in owned:
            modes.append(m)
            continue
        cells = [p for p, name in grid.items() if name == m.name]
        text, made = _rule(taken, mine, cells) if cells else _never(taken, mine[0])
        logic += made
        taken = taken.changed({"program": taken.program.changed({"logic": tuple(logic)})})
        modes.append(m.changed({"when": text}))
    after = model.changed(
        {"program": program.changed({"logic": tuple(logic), "modes": tuple(modes)})}
    )
    return without_orphans(model, after)


def _owned_at(model: Model, places: Places, names: set[str]) -> str:
    """The first of these modes that holds at a place."""
    for m in model.program.modes:
        if m.name in names and (m.when is None or truth(model, m.when, places)):
            return m.name
    return model.program.modes[-1].name


def _rule(
    model: Model, controls: list[Control], cells: list[tuple[int, ...]]
) -> tuple[str, list[LogicSwitch]]:
    """A condition that holds at these places and nowhere else, and the conditions it is made of."""
    if len(controls) == 1:
        texts = [_at(model, controls[0], p[0]) for p in cells]
    else:
        a, b = controls
        rest, texts = set(cells), []
        for i in range(len(a.positions)):
            row = {(i, k) for k in range(len(b.positions))}
            # a whole row is one position of the first switch
            if row <= rest:
                texts.append(_at(model, a, i))
                rest -= row
        for k in range(len(b.positions)):
            # a whole column one position of the second, where it adds anything
            column = {(i, k) for i in range(len(a.positions))}
            if column <= set(cells) and column & rest:
                texts.append(_at(model, b, k))
                rest -= column
        made: list[LogicSwitch] = []
        # what is left are single places: both positions at once
        for i, k in sorted(rest):
            node = Combine(
                kind="all",
                name=_free(model, made),
                label=UNNAMED,
                of=(_at(model, a, i), _at(model, b, k)),
            )
            made.append(node)
            texts.append(node.name)
        if len(texts) == 1:
            return texts[0], made
        node = Combine(kind="any", name=_free(model, made), label=UNNAMED, of=tuple(texts[:16]))
        return node.name, [*made, node]
    if len(texts) == 1:
        return texts[0], []
    node = Combine(kind="any", name=_free(model, []), label=UNNAMED, of=tuple(texts))
    return node.name, [node]


def _never(model: Model, control: Control) -> tuple[str, list[LogicSwitch]]:
    """A condition that never holds: for a mode to which no place of the grid is left. That it is
    never flown is then said."""
    node = Combine(
        kind="all",
        name=_free(model, []),
        label=UNNAMED,
        of=(_at(model, control, 0), _at(model, control, 1)),
    )
    return node.name, [node]


def _free(model: Model, made: list[LogicSwitch]) -> str:
    program = model.program.changed({"logic": (*model.program.logic, *made)})
    return free_name(model.changed({"program": program}), "mode rule")
