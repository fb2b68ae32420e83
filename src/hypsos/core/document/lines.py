# SPDX-License-Identifier: GPL-3.0-or-later
"""All mix lines of a model, those written by hand and those made by recipes, in an order in which
they can be summed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from hypsos.core.base.cache import kept
from hypsos.core.document.document import Model
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Transmitter
from hypsos.core.recipes.recipe_base import MadeLine, RecipeBase


class PlacedLine(NamedTuple):
    """A mix line with the document path where its number is set and the recipe it came from, if
    any."""

    line: MixLine
    path: str
    origin: str | None = None


class LineOrder(NamedTuple):
    """Targets in the order in which they can be summed; ``cycle`` names those that feed each other
    in a circle."""

    targets: tuple[str, ...]
    cycle: tuple[str, ...] = ()


MOST_KEPT = 64
_expanded: dict[int, tuple[RecipeBase, Transmitter, tuple[MadeLine, ...]]] = {}
"""What recipes that were asked about lately stand for: an edit leaves most of them the very
same."""


def expanded(recipe: RecipeBase, transmitter: Transmitter) -> tuple[MadeLine, ...]:
    """The mix lines a recipe stands for, switched off or not. Raises ValueError where it cannot
    expand."""
    held = _expanded.get(id(recipe))
    if held is not None and held[0] is recipe and held[1] is transmitter:
        return held[2]
    made = tuple(recipe.expand(transmitter.control))
    if len(_expanded) >= MOST_KEPT:
        _expanded.clear()
    _expanded[id(recipe)] = (recipe, transmitter, made)
    return made


@kept
def all_lines(model: Model) -> tuple[PlacedLine, ...]:
    """Recipes first, in their order, then the mixes written by hand."""
    out = []
    for i, recipe in enumerate(model.program.recipes):
        for made in expanded(recipe, model.transmitter) if recipe.on else ():
            out.append(PlacedLine(made.line, f"program.recipes[{i}].{made.field}", recipe.label))
    out += [
        PlacedLine(line, f"program.mixes[{i}].gain") for i, line in enumerate(model.program.mixes)
    ]
    return tuple(out)


def line_order(lines: Iterable[PlacedLine]) -> LineOrder:
    """Sort targets so that each is summed before it is used as a source."""
    feeds: dict[str, set[str]] = {}
    for placed in lines:
        feeds.setdefault(placed.line.target, set()).update(placed.line.signals())
    done: dict[str, bool] = {}
    order: list[str] = []
    trail: list[str] = []

    def visit(target: str) -> tuple[str, ...]:
        if target in trail:
            return tuple(trail[trail.index(target) :])
        if done.get(target):
            return ()
        trail.append(target)
        for source in sorted(feeds[target]):
            if source in feeds and (cycle := visit(source)):
                return cycle
        trail.pop()
        done[target] = True
        order.append(target)
        return ()

    for target in feeds:
        if cycle := visit(target):
            return LineOrder((), cycle)
    return LineOrder(tuple(order))
