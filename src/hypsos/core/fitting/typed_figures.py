# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that were typed in millimetres or degrees stay what they were typed as.

Sought: 20 mm of flap are 20 mm until the pilot says otherwise. The document holds percent, and
percent of what an output does; a longer arm, another chord or another angle at full travel turn the
same percent into other millimetres.

How: what was typed is kept beside the percent. It is *true* as long as the percent still stands
there and still comes to the same millimetres. After an edit of a linkage, a throw or a chord those
that were true and are so no longer are named, and the pilot says which to keep.

What must stay true: a figure that is shown as typed is what the ruler reads, within
``TOLERANCE``. Where a list has changed, a figure follows its own part and no other."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Any

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.fitting.rate_throws import rate_for, throw_at_rate
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.parts.typed_figure import TypedFigure
from hypsos.core.recipes.one_edge import OneEdge
from hypsos.core.recipes.recipe_base import RecipeBase
from hypsos.core.wording.words import part_named, sense_words

TOLERANCE = 0.06
"""Millimetres or degrees: what rounding a rate to a tenth of a percent may come to, and no pilot
sees on a ruler."""
MOST = 200


# -- one figure ----------------------------------------------------------------------------------


def percent_of(model: Model, figure: TypedFigure) -> float:
    """The percent that come to what was typed, as the model is now. Raises HypsosError where it is
    out of reach."""
    rated = _rate_of(model, figure.path)
    if rated is not None:
        return rate_for(model, rated, figure.surface, figure.value, figure.unit)
    edge = _edge_of(model, figure.path)
    if edge is not None:
        surface = _surface(model, figure.surface)
        return float(round(edge.edge_percent(surface, figure.value, figure.unit), 9))
    return demand_for(model, figure.surface, figure.value, figure.unit)


def reads_now(model: Model, figure: TypedFigure) -> float:
    """What the percent at its place come to now, in the unit in which it was typed. Raises
    HypsosError where that can't be said."""
    percent = float(get_at(model, figure.path))
    rated = _rate_of(model, figure.path)
    edge = _edge_of(model, figure.path)
    if rated is not None:
        deg, mm = throw_at_rate(model, rated, figure.surface, percent, figure.value > 0)
    elif edge is not None and edge.edge_deg is not None:
        deg = percent * edge.edge_deg / 100.0
        mm = float(ruler_mm(deg, _surface(model, figure.surface).chord_mm))
    else:
        deg, mm = place_of(model, figure.surface, percent)
    return deg if figure.unit == "°" else (mm or 0.0)


def is_true(model: Model, figure: TypedFigure) -> bool:
    """Whether what stands in the document is what was typed, and a ruler would read it."""
    try:
        if get_at(model, figure.path) != figure.percent:
            return False
        return abs(reads_now(model, figure) - figure.value) <= TOLERANCE
    except HypsosError:
        return False


def figure_words(model: Model, surface: str, value: float, unit: str) -> str:
    """``20 mm down``, ``3.5° up``."""
    shown = plain(round(abs(value), 1))
    joined = f"{shown}°" if unit == "°" else f"{shown} {unit}"
    side = sense_words(_surface(model, surface))[value > 0]
    return f"{joined} {side}" if abs(value) >= 0.05 else joined


def _rate_of(model: Model, path: str) -> str | None:
    """The command whose rate stands at a path; None where it is no rate."""
    match = re.match(r"program\.axes\[(\d+)\]\.settings", path)
    axes = model.program.axes
    return axes[int(match[1])].command if match and int(match[1]) < len(axes) else None


def _edge_of(model: Model, path: str) -> OneEdge | None:
    """The behaviour that goes by one angle, where the figure at a path is a share of that angle."""
    match = re.match(r"program\.recipes\[(\d+)\]\.([a-z_]+)(?:\.\w+\.(\w+))?", path)
    recipes = model.program.recipes
    if match is None or int(match[1]) >= len(recipes):
        return None
    recipe = recipes[int(match[1])]
    if not isinstance(recipe, OneEdge) or recipe.edge_deg is None:
        return None
    shares = {p.key for p in recipe.parameters if p.of == "edge_deg"}
    by_mode = {p.key for p in recipe.of("by mode")}
    is_share = match[2] in shares or (match[2] in by_mode and match[3] in ("flap", "aileron"))
    return recipe if is_share else None


def _surface(model: Model, name: str) -> Surface:
    part = part_named(model, name)
    if not isinstance(part, Surface):
        raise HypsosError(f"{part.label} has no edge to be measured")
    return part


# -- those of a model ----------------------------------------------------------------------------


def typed_at(model: Model, path: str) -> TypedFigure | None:
    """The figure at a path as it was typed, where that is still true."""
    found = next((f for f in model.typed if f.path == path), None)
    return found if found is not None and is_true(model, found) else None


def with_typed(model: Model, figures: Iterable[TypedFigure]) -> Model:
    """The model in which these were typed. Those for which nothing was stored are left out."""
    made = [f for f in figures if _stands(model, f)]
    paths = {f.path for f in made}
    others = [f for f in model.typed if f.path not in paths]
    return model.changed({"typed": tuple([*others, *made][-MOST:])}) if made else model


def followed_typed(before: Model, after: Model) -> Model:
    """An edit with the typed figures that are still there: each at the place where its part stands
    now. Those that were changed since are gone."""
    if not after.typed:
        return after
    kept = []
    for figure in after.typed:
        moved = figure.changed({"path": _moved_path(before, after, figure.path)})
        if _stands(after, moved):
            kept.append(moved)
    return after if tuple(kept) == after.typed else after.changed({"typed": tuple(kept)})


def _stands(model: Model, figure: TypedFigure) -> bool:
    try:
        found: Any = get_at(model, figure.path)
    except DocumentError:
        return False
    return bool(found == figure.percent)


def _lists(model: Model) -> dict[str, Sequence[Any]]:
    """The lists whose parts come and go, by their paths."""
    program = model.program
    return {
        "program.recipes": program.recipes,
        "program.modes": program.modes,
        "leads": model.leads,
    }


def _moved_path(before: Model, after: Model, path: str) -> str:
    """Where a part of a list stands now. A part is the same one where it has the same name, or is
    equal."""
    now = _lists(after)
    for root, old in _lists(before).items():
        match = re.match(rf"{re.escape(root)}\[(\d+)\](.*)", path)
        if match is None:
            continue
        new, at = now[root], int(match[1])
        if at >= len(old) or (at < len(new) and _same(new[at], old[at])):
            return path
        place = next((i for i, part in enumerate(new) if _same(part, old[at])), None)
        return path if place is None else f"{root}[{place}]{match[2]}"
    return path


def _same(a: Any, b: Any) -> bool:
    if isinstance(a, RecipeBase) and isinstance(b, RecipeBase):
        return type(a) is type(b) and a.label == b.label
    return bool(a.name == b.name)


def no_longer_true(before: Model, after: Model) -> tuple[TypedFigure, ...]:
    """The figures that an edit has turned into something else than what was typed."""
    if not after.typed or _measures(before) == _measures(after):
        return ()
    was = {(f.surface, f.unit, f.value, f.percent): f for f in before.typed}
    lost = []
    for figure in after.typed:
        old = was.get((figure.surface, figure.unit, figure.value, figure.percent))
        if old is not None and is_true(before, old) and not is_true(after, figure):
            lost.append(figure)
    return tuple(lost)


def _measures(model: Model) -> tuple[object, ...]:
    """What makes millimetres of percent."""
    edges = tuple(getattr(r, "edge_deg", None) for r in model.program.recipes)
    return (model.airframe, model.leads, edges)


def with_measures_kept(model: Model, figures: Sequence[TypedFigure]) -> tuple[Model, list[str]]:
    """The model in which these come to what was typed again, and what can't be had, in words."""
    missed = []
    for figure in figures:
        try:
            percent = percent_of(model, figure)
            model = with_at(model, figure.path, percent)
        except HypsosError as error:
            missed.append(
                f"{figure_words(model, figure.surface, figure.value, figure.unit)}: {error.plain}"
            )
            continue
        model = with_typed(model, [figure.changed({"percent": percent})])
    return model, missed


def with_percent_kept(model: Model, figures: Sequence[TypedFigure]) -> Model:
    """The model in which the percent of these stand, and nobody asks what was typed."""
    gone = {f.path for f in figures}
    return model.changed({"typed": tuple(f for f in model.typed if f.path not in gone)})


def change_words(model: Model, figures: Sequence[TypedFigure]) -> str:
    """What becomes of figures that are no longer what was typed: ``Left flap: 20 mm down becomes
    59.6 mm down``."""
    said: list[str] = []
    for figure in figures:
        name = _surface(model, figure.surface).label
        typed = figure_words(model, figure.surface, figure.value, figure.unit)
        now = figure_words(model, figure.surface, reads_now(model, figure), figure.unit)
        said.append(f"{name}: {typed} becomes {now}")
    return "; ".join(dict.fromkeys(said))
