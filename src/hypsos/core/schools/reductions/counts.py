# SPDX-License-Identifier: GPL-3.0-or-later
"""More of a thing than a transmitter has: what the design can do best without goes first.

What goes first: captions and modes that ask for much, where conditions are too many; then mixes that
somebody wrote by hand, the last one first; then behaviours, from the last one back. What steers and
what brings power stays."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import reaches_motor, with_program
from hypsos.core.schools.reductions.fixed import Fixed, held_fast, without_unused

Needs = Mapping[str, tuple[int, int]]
"""Thing -> how many are needed, and how many there are."""
Measure = Callable[[Model], Needs]


def fitting(model: Model, measure: Measure) -> Step:
    """The design with no more of anything than there is."""
    lacks: list[Lack] = []
    while True:
        model = without_unused(model)
        over = {what: x for what, x in measure(model).items() if x[0] > x[1]}
        if not over:
            return Step(model, tuple(lacks))
        what, (needed, has) = next(iter(over.items()))
        smaller = next(iter(_smaller(model, what)), None)
        if smaller is None:
            return Step(model, tuple(lacks))
        before = needed
        made, gone, motor = smaller
        model = made
        lacks.append(
            Lack(
                what,
                gone,
                f"{has} {what}, and {before} would be needed",
                "It is left out.",
                motor=motor,
            )
        )


def _smaller(model: Model, what: str) -> Iterator[tuple[Model, str, bool]]:
    """Ways to need less of a thing, the one that costs least first: the design after it, what is
    gone, and whether that reaches a motor."""
    program = model.program
    if what == "conditions":
        logic = {x.name for x in program.logic}
        for x in reversed(program.announcements):
            if asked(x.when).name in logic:
                left = tuple(y for y in program.announcements if y is not x)
                yield with_program(model, announcements=left), f"the caption “{x.caption}”", False
    groups = _groups(model)
    if what == "conditions":
        asking = [g for g in groups if any(_asks_logic(model, x) for x in groups[g])]
        order = [*reversed(asking)]
    else:
        order = [*reversed(groups)]
    for name in order:
        gone = groups[name]
        mine = set(map(id, gone))
        left_mixes = tuple(x for x in program.mixes if id(x) not in mine)
        motor = any(reaches_motor(model, x.target) for x in gone)
        yield with_program(model, mixes=left_mixes), gone[0].name, motor
    if what == "conditions":
        for mode in program.modes[:-1]:
            if mode.when is not None and asked(mode.when).name in {x.name for x in program.logic}:
                fixed = Fixed(truths={f"mode:{mode.name}": False})
                yield held_fast(model, fixed), f"flight mode {mode.label}", False


def _asks_logic(model: Model, line: MixLine) -> bool:
    names = {x.name for x in model.program.logic}
    return (line.when is not None and asked(line.when).name in names) or line.source in names


STEERING = {"roll", "pitch", "yaw", "thrust"}


def _groups(model: Model) -> dict[str, list[MixLine]]:
    """The lines that may go, those that belong together under one name: hand-written ones of a name
    and source come last, so they go first."""
    recipes: dict[str, list[MixLine]] = {}
    own: dict[str, list[MixLine]] = {}
    basic = {"ailerons", "elevons", "v_tail", "tailplane"}
    parts = {p.name for p in model.airframe.moved()}
    for line in model.program.mixes:
        if line.origin is not None:
            if line.origin.rstrip("_0123456789") not in basic:
                recipes.setdefault(f"behaviour {line.origin}", []).append(line)
            continue
        plain = line.source in STEERING and line.target in parts and line.response is None
        turns = line.name == "By angle"
        if not plain and not turns:
            own.setdefault(f"mix {line.name} {line.source}", []).append(line)
    return {**recipes, **own}
