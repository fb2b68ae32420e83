# SPDX-License-Identifier: GPL-3.0-or-later
"""The transmitter's controls: added, taken away, moved, turned round, given more positions; the
model goes on as it did."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import first_free, first_numbered, replaced, the_place
from hypsos.core.base.values import Value
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.names import taken_names
from hypsos.core.document.program import Axis, Guard
from hypsos.core.edits.condition_choices import WORDS_OF_PEOPLE, asked_at, text_at
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.scenario import Scenario
from hypsos.core.parts.transmitter import Control, FirstEnd
from hypsos.core.recipes import Recipe

KINDS = (
    ("switch", 2, "Switch, two positions"), ("switch", 3, "Switch, three positions"), ("switch", 6, "Switch, six positions"),
    ("momentary", 2, "Button"), ("slider", 0, "Slider"), ("knob", 0, "Knob"),
)  # fmt: skip
"""Kind, positions, and what people call it."""
POSITIONS = {
    2: ("off", "on"), 3: ("first", "middle", "last"), 6: ("first", "second", "third", "fourth", "fifth", "sixth"),
}  # fmt: skip
NAMED = {"switch": "Switch", "momentary": "Button", "slider": "Slider", "knob": "Knob"}


def with_control(model: Model, kind: str, count: int, hand: str) -> tuple[Model, str]:
    """The model with one control more, at the end of a hand's, and its name."""
    labels = {c.label for c in model.transmitter.controls}
    # names always have a number, labels only where there are two
    name = first_numbered(kind, taken_names(model), "_")
    label = first_free(NAMED[kind], labels)
    positions = ("let go", "pressed") if kind == "momentary" else POSITIONS.get(count, ())
    made = Control(name=name, label=label, kind=kind, hand=hand, positions=positions)
    return _with(model, (*model.transmitter.controls, made)), name


def without_control(model: Model, name: str) -> Model:
    """The model without a control that nothing hangs on. Raises HypsosError that lists what
    does."""
    users = uses(model).get(name, ())
    if users:
        label = _control(model, name).label
        raise HypsosError(
            f"{label} moves {', '.join(users)}", "", "Give that another control first."
        )
    return _with(model, tuple(c for c in model.transmitter.controls if c.name != name))


def moved(model: Model, name: str, by: int) -> Model:
    """A control so many places further on among those of its hand; by nothing at the ends.

    Raises HypsosError where it is not there any more.
    """
    controls = list(model.transmitter.controls)
    at = the_place((c.name for c in controls), name)
    mine = [i for i, c in enumerate(controls) if c.hand == controls[at].hand]
    place = mine.index(at) + by
    if not 0 <= place < len(mine):
        return model
    other = mine[place]
    controls[at], controls[other] = controls[other], controls[at]
    return _with(model, tuple(controls))


def other_hand(model: Model, name: str) -> Model:
    """A control under the other hand."""
    old = _control(model, name)
    made = old.changed({"hand": "right" if old.hand == "left" else "left"})
    return _with(model, (*(c for c in model.transmitter.controls if c.name != name), made))


def turned(model: Model, name: str) -> Model:
    """A switch whose other end is the first: everything goes on by the names of its positions.

    Raises HypsosError where its signal is compared, passed on, or sets a shared value: a number
    knows no names."""
    control = _control(model, name)
    count = len(control.positions)
    reads = list(_reads_its_number(model, name, count))
    if reads:
        said = f"{control.label} is read as a number by {', '.join(reads)}, which knows no names of positions"
        raise HypsosError(said, "", "Let that go by another control first.")
    made = _with_replaced(model, control.changed({"positions": control.positions[::-1]}))
    made = _at_places(made, name, lambda i: count - 1 - i)
    # rates, lines that read the switch, and recipes have figures by its positions
    axes = tuple(_turned_axis(axis, name, count) for axis in made.program.axes)
    mixes = tuple(_mirrored(line) if line.source == name else line for line in made.program.mixes)
    recipes = tuple(_turned(recipe, name, count) or recipe for recipe in made.program.recipes)
    return made.changed(
        {"program": made.program.changed({"axes": axes, "mixes": mixes, "recipes": recipes})}
    )


def _at_places(model: Model, name: str, place: Callable[[int], int]) -> Model:
    """The model where what asks for a position of a switch by its number, cuts at it, checks it or
    moves to it means another number."""
    made = asked_at(model, name, place)
    scenarios = tuple(_scenario_at_places(x, name, place) for x in made.scenarios)
    program = made.program
    if program.guard is not None:
        program = program.changed({"guard": _guard_at_places(program.guard, name, place)})
    return made.changed({"program": program, "scenarios": scenarios})


def _scenario_at_places(scenario: Scenario, name: str, place: Callable[[int], int]) -> Scenario:
    """A scenario whose moves bring a switch to where they brought it before."""
    moves = []
    for move in scenario.moves:
        if move.control == name:
            move = move.changed({"to": float(place(round(move.to)))})
        moves.append(move)
    expected = []
    for expectation in scenario.expectations:
        if expectation.kind == "holds":
            what = text_at(expectation.what, name, place)
            expectation = expectation.changed({"what": what})
        expected.append(expectation)
    return scenario.changed({"moves": tuple(moves), "expectations": tuple(expected)})


def _guard_at_places(guard: Guard, name: str, place: Callable[[int], int]) -> Guard:
    """The guard cuts where it cut, and its start check asks for the same position."""
    checks = []
    for check in guard.start_check:
        if check.control == name and check.position is not None:
            check = check.changed({"position": place(check.position)})
        checks.append(check)
    cut = guard.cut
    if guard.switch == name:
        cut = tuple(sorted(place(i) for i in cut))
    return guard.changed({"start_check": tuple(checks), "cut": cut})


def _reads_its_number(model: Model, name: str, count: int) -> Iterator[str]:
    """What reads a switch as a number, by its name, and so can't follow when the switch is turned
    round."""
    program = model.program
    comparing = [x for x in program.logic if not x.gives_signal]
    yield from (x.label for x in (*comparing, *program.gates()) if name in x.signals())
    for value in program.shared_values():
        if value.adjuster is not None and value.adjuster.control == name:
            yield value.label
    for axis in program.axes:
        if axis.control == name:
            yield axis.command
    for recipe in program.recipes:
        if _turned(recipe, name, count) is None:
            yield recipe.label


def _turned_axis(axis: Axis, name: str, count: int) -> Axis:
    """An axis whose rates go by a switch that is turned round: each position keeps its own."""
    if axis.switch != name:
        return axis
    return axis.changed({"settings": _all_settings(axis.settings, count)[::-1]})


def with_positions(model: Model, name: str, count: int) -> Model:
    """A switch with another number of positions. New ones of the motor switch stop the motor.

    A switch has two ends. A third position comes between them, and is the first to go again where
    nothing asks for it; any others come and go behind the last.

    Raises HypsosError where something asks for a position that would go.
    """
    control = _control(model, name)
    old = len(control.positions)
    asked_for = _positions_asked(model, name)
    new = tuple(range(old, count))
    if (old, count) == (2, 3):
        names, new = _with_a_middle(control.positions), (1,)
        model = _at_places(model, name, lambda i: 2 * i)
    elif (old, count) == (3, 2) and 1 not in asked_for:
        names = control.positions[::2]
        model = _without_the_middle(model, name)
    else:
        for i in range(count, old):
            if i in asked_for:
                text = f"something asks for {control.label} at {control.positions[i]}"
                raise HypsosError(text, "", "Let it ask for another position first.")
        names = _position_names(control.positions, count)
    if new:
        model = _with_figures_for(model, name, old, count)
    made = _with_replaced(model, control.changed({"positions": names}))
    guard = made.program.guard
    if guard is None or guard.switch != name:
        return made
    cut = {i for i in guard.cut if i < count} or {0}
    guard = guard.changed({"cut": tuple(sorted(cut.union(new)))})
    return made.changed({"program": made.program.changed({"guard": guard})})


def _with_figures_for(model: Model, name: str, old: int, count: int) -> Model:
    """The model whose rates and recipes have figures for so many positions of a switch."""
    axes = tuple(_recounted_axis(axis, name, old, count) for axis in model.program.axes)
    recipes = tuple(_recounted(recipe, name, old, count) for recipe in model.program.recipes)
    return model.changed({"program": model.program.changed({"axes": axes, "recipes": recipes})})


def _without_the_middle(model: Model, name: str) -> Model:
    """The model where nothing goes by the middle of a switch any more, and its ends do what they
    did."""
    guard = model.program.guard
    if guard is not None and guard.switch == name:
        cut = tuple(i for i in guard.cut if i != 1) or (0,)
        guard = guard.changed({"cut": cut})
        model = model.changed({"program": model.program.changed({"guard": guard})})
    # a scenario that moved it to the middle moves it to its first end
    model = _at_places(model, name, lambda i: i // 2)
    return _with_figures_for(model, name, 3, 2)


def _recounted_axis(axis: Axis, name: str, old: int, count: int) -> Axis:
    """An axis whose rates go by a switch with another number of positions: both ends keep theirs,
    and a middle that comes does what the last one does."""
    if axis.switch != name or {old, count} != {2, 3}:
        return axis
    first, *others = _all_settings(axis.settings, old)
    last = others[-1]
    between = (last,) if count == 3 else ()
    return axis.changed({"settings": (first, *between, last)})


def _positions_asked(model: Model, name: str) -> set[int]:
    """The positions of a switch that a condition or the start check asks for."""
    pattern = re.compile(rf"^!?{name}@(\d+)$")
    found = {int(match[1]) for match in map(pattern.match, _texts(model)) if match is not None}
    for check in model.program.guard.start_check if model.program.guard is not None else ():
        if check.control == name and check.position is not None:
            found.add(check.position)
    return found


def _position_names(names: tuple[str, ...], count: int) -> tuple[str, ...]:
    """So many names of positions: those there are first, then usual ones."""
    taken = {p.lower() for p in names}
    named = (*names, *(p for p in POSITIONS[count] if p not in taken))[:count]
    return named + tuple(f"position {i + 1}" for i in range(len(named), count))


def _with_a_middle(names: tuple[str, ...]) -> tuple[str, ...]:
    """The names of two ends with one for the place between them."""
    first, last = names
    taken = {first.lower(), last.lower()}
    middle = next(x for x in ("middle", "half", "between") if x not in taken)
    return first, middle, last


def cut_end(model: Model) -> FirstEnd | None:
    """At which end of its switch the motor is cut, as the hands have it; None without a guard, and
    where no end alone cuts."""
    guard = model.program.guard
    control = model.transmitter.control(guard.switch) if guard is not None else None
    if guard is None or control is None or control.kind != "switch":
        return None
    rows = [model.transmitter.row_from_far(i, len(control.positions)) for i in guard.cut]
    far, near = 0 in rows, len(control.positions) - 1 in rows
    if far == near:
        return None
    return "away" if far else "towards"


def with_cut_end(model: Model, end: FirstEnd) -> Model:
    """The model with its motor's switch turned round where it is cut at the other end; as it is
    where that can't be."""
    guard = model.program.guard
    if guard is None or cut_end(model) in (None, end):
        return model
    try:
        return turned(model, guard.switch)
    except HypsosError:
        return model


def _turned(recipe: Recipe, name: str, count: int) -> Recipe | None:
    """A behaviour where a switch begins at its other end; None where it can't follow."""
    made: Recipe | None = recipe
    for key, control in recipe.reads():
        if control == name and made is not None:
            made = made.turned(key, count)
    return made


def _recounted(recipe: Recipe, name: str, old: int, count: int) -> Recipe:
    """A behaviour where a switch has another number of positions."""
    for key, control in recipe.reads():
        if control == name:
            recipe = recipe.recounted(key, old, count)
    return recipe


# -- inside -------------------------------------------------------------------------------------


def _control(model: Model, name: str) -> Control:
    found = model.transmitter.control(name)
    if found is None:
        raise HypsosError(f"there is no control called {name}", "transmitter.controls")
    return found


def _with_replaced(model: Model, control: Control) -> Model:
    """The model with this control in the place of the one of its name."""
    return _with(model, replaced(model.transmitter.controls, control))


def _with(model: Model, controls: tuple[Control, ...]) -> Model:
    return model.changed({"transmitter": model.transmitter.changed({"controls": controls})})


def _all_settings(settings: tuple[Any, ...], count: int) -> tuple[Any, ...]:
    return (*settings, *(None,) * (count - len(settings)))[:count]


def _mirrored(line: MixLine) -> MixLine:
    """A line that reads a switch's signal the other way round."""
    if line.response is None:
        return line.changed({"gain": -line.gain})
    points = tuple((-x, y) for x, y in reversed(line.response.points))
    return line.changed({"response": Response(points=points, shape=line.response.shape)})


def _texts(value: Any) -> list[str]:
    """Every text in a value but names, labels and notes."""
    if isinstance(value, str):
        return [value]
    inside: Iterable[Any] = ()
    if isinstance(value, tuple):
        inside = value
    elif isinstance(value, Value):
        fields = type(value).model_fields
        inside = (getattr(value, field) for field in fields if field not in WORDS_OF_PEOPLE)
    return list(itertools.chain.from_iterable(map(_texts, inside)))
