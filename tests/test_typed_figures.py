# SPDX-License-Identifier: GPL-3.0-or-later
"""A figure typed in millimetres or degrees stays what it was typed as."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose, type_into
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model, digest, to_json
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.behaviours import without
from hypsos.core.edits.flight_modes import at_place
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.fitting.typed_figures import (
    followed_typed,
    no_longer_true,
    reads_now,
    typed_at,
    with_measures_kept,
    with_percent_kept,
    with_typed,
)
from hypsos.core.parts.typed_figure import TypedFigure
from hypsos.core.wording.words import part_named


def turned_further(model: Model, name: str, by: float) -> Model:
    """The model in which a surface turns so many times as far at full travel."""
    lead = next(i for i, x in enumerate(model.leads) if x.target == name)
    link = model.leads[lead].linkage
    if link is not None:
        return with_at(model, f"leads[{lead}].linkage.arm_mm", link.arm_mm * by)
    at = next(i for i, s in enumerate(model.airframe.surfaces) if s.name == name)
    surface = model.airframe.surfaces[at]
    wider = {
        "throw_up_deg": surface.throw_up_deg * by,
        "throw_down_deg": surface.throw_down_deg * by,
    }
    return with_at(model, f"airframe.surfaces[{at}]", surface.changed(wider))


def typed(model: Model, path: str, surface: str, value: float, unit: str, percent: float) -> Model:
    stored = with_at(model, path, percent)
    figure = TypedFigure(path=path, surface=surface, unit=unit, value=value, percent=percent)
    return with_typed(stored, [figure])


def a_preset(model: Model) -> tuple[Model, str, str]:
    """Marram's first mode with 9 mm down at an aileron, typed so."""
    name = next(s.name for s in model.airframe.surfaces if s.role == "aileron")
    mode = model.program.modes[0]
    model = with_at(model, "program.modes[0].presets", {**mode.presets, name: 0.0})
    path = f"program.modes[0].presets.{name}"
    return typed(model, path, name, 9.0, "mm", demand_for(model, name, 9.0, "mm")), path, name


def test_what_was_typed_is_true_until_the_surface_turns_further(marram: Model) -> None:
    model, path, name = a_preset(marram)
    figure = typed_at(model, path)
    assert figure is not None and reads_now(model, figure) == pytest.approx(9.0)
    assert digest(model) == digest(model.changed({"typed": ()}))
    after = followed_typed(model, turned_further(model, name, 1.5))
    assert no_longer_true(model, after) == (figure,) and typed_at(after, path) is None
    kept, missed = with_measures_kept(after, [figure])
    assert not missed and typed_at(kept, path) is not None
    assert place_of(kept, name, get_at(kept, path))[1] == pytest.approx(9.0)
    assert get_at(kept, path) < figure.percent
    dropped = with_percent_kept(after, [figure])
    assert dropped.typed == () and get_at(dropped, path) == figure.percent
    narrow = followed_typed(model, turned_further(model, name, 0.02))
    same, missed = with_measures_kept(narrow, [figure])
    assert len(missed) == 1 or get_at(same, path) > 100


def test_a_typed_figure_follows_its_own_part_and_no_other(marram: Model) -> None:
    model, path, name = a_preset(marram)
    first = model.program.modes[0].name
    moved = followed_typed(model, at_place(model, first, 2))
    assert [f.path for f in moved.typed] == [f"program.modes[0].presets.{name}"] or [
        f.path for f in moved.typed
    ] == [f"program.modes[2].presets.{name}"]
    at = [m.name for m in moved.program.modes].index(first)
    assert typed_at(moved, f"program.modes[{at}].presets.{name}") is not None
    last = len(marram.program.recipes) - 1
    recipe = marram.program.recipes[last]
    key, value = next((k, v) for k, v in recipe if isinstance(v, float) and v)
    figure = TypedFigure(
        path=f"program.recipes[{last}].{key}", surface=name, unit="mm", value=1.0, percent=value
    )
    gone = followed_typed(marram, without(with_typed(marram, [figure]), 0))
    assert [f.path for f in gone.typed] == [f"program.recipes[{last - 1}].{key}"]
    other = with_at(model, path, 3.0)
    assert followed_typed(model, other).typed == ()
    assert Model.model_validate_json(to_json(model)) == model


def test_a_flap_typed_in_millimetres_stays_so_in_the_window(window: Any, qtbot: QtBot) -> None:
    choose(window, "Samphire")
    bench = window.workbench
    window.go("flaps")
    page = window.page("flaps")
    page.rows[0].unfold(True)
    (index, key), field = next(
        (k, f) for k, f in page.fields.items() if k[1].startswith("positions[1].flap")
    )
    path = f"program.recipes[{index}].{key}"
    type_into(qtbot, field, "12 mm down")
    assert field.line.text() == "12 mm down"
    figure = typed_at(bench.loaded, path)
    assert figure is not None and (figure.value, figure.unit) == (12.0, "mm")
    assert bench.document.undo_label.count("down") == 1  # one step
    surface = part_named(bench.loaded, figure.surface)
    before = get_at(bench.loaded, path)
    bench.document.apply(turned_further(bench.loaded, surface.name, 1.5), "turns further")
    assert "12 mm down becomes" in window.notice.text.text() and window.notice.isVisible()
    page.refresh()
    _, mm = place_of(bench.loaded, surface.name, before)
    assert mm is not None and mm > 17
    assert field.line.text() == f"{mm:.1f} mm down"  # never shown as what it is not
    keep_mm, keep_percent = window.notice.acts
    assert (keep_mm.text(), keep_percent.text()) == ("Keep the mm", "Keep the %")
    keep_mm.click()
    page.refresh()
    assert field.line.text() == "12 mm down" and get_at(bench.loaded, path) < before
    bench.document.undo()
    assert get_at(bench.loaded, path) == before and typed_at(bench.loaded, path) is None
    bench.document.undo()
    page.refresh()
    assert field.line.text() == "12 mm down"
    field.nudge(1)
    assert field.line.text() == "12.5 mm down"
    type_into(qtbot, field, "30 % down")
    assert field.beside.text() == "30 %" and bench.loaded.typed == ()


def test_a_rate_typed_in_millimetres_is_kept_so(window: Any, qtbot: QtBot) -> None:
    choose(window, "Samphire")
    window.go("feel")
    page, bench = window.page("feel"), window.workbench
    page.show_axis("pitch")
    page.measure.setCurrentIndex(page.measure.findData("elevator"))
    page.measure.activated.emit(page.measure.currentIndex())
    place = next(k for k in page.fields if k[1] == "rate_pos")
    type_into(qtbot, page.fields[place], "8 mm")
    assert page.fields[place].line.text() == "8 mm"
    assert {f.unit for f in bench.loaded.typed} == {"mm"}
    bench.document.apply(turned_further(bench.loaded, "elevator", 1.3), "turns further")
    window.notice.acts[0].click()
    assert page.fields[place].line.text() == "8 mm"
