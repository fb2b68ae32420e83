# SPDX-License-Identifier: GPL-3.0-or-later
"""The pilot's figures: asked in millimetres, proposed by name, held back for a reason that is said,
taken over from the log."""

from __future__ import annotations

import datetime
from typing import Any

import pytest
from hands import choose, press, stand_still, take, type_into
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.logbook import Flight
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.controls import with_positions
from hypsos.core.edits.flight_modes import proposed_mode, with_fade, with_mode
from hypsos.core.edits.trim_clicks import with_trims_at
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.fitting.rate_throws import at_full, main_surface, rate_for, throw_at_rate
from hypsos.core.fitting.roll_movement import roll_movement
from hypsos.core.fitting.throw_settings import place_of
from hypsos.core.recipes import Ailerons


def test_a_throw_at_a_rate_is_the_way_back_of_the_rate_for_a_throw(marram: Model) -> None:
    for command, mm in (("roll", -8.0), ("pitch", -5.0), ("yaw", 4.0)):
        name = main_surface(marram, command)
        assert name is not None
        rate = rate_for(marram, command, name, mm, "mm")
        assert throw_at_rate(marram, command, name, rate, mm > 0)[1] == pytest.approx(mm, abs=0.03)
    assert main_surface(marram, "roll") == "left_aileron" and main_surface(marram, "thrust") is None


def test_throws_at_full_stick_are_typed_per_rate(window: Any, qtbot: QtBot) -> None:
    choose(window, "Samphire")
    window.go("feel")
    page, bench = window.page("feel"), window.workbench
    qtbot.waitUntil(lambda: bool(page.far[0].text()))
    assert page.measure.currentData() == main_surface(bench.loaded, "roll")
    count = len(page.far)
    assert set(page.throws) == {(p, 0) for p in range(count)} and count == 3
    type_into(qtbot, page.throws[(1, 0)], "14")
    settings = bench.loaded.program.axis("roll").settings
    low, high = at_full(bench.loaded, "roll", 1, page.measure.currentData())
    assert low == pytest.approx(-14.0, abs=0.1) and settings[1].rate_neg == settings[1].rate_pos
    assert page.throws[(1, 0)].line.text().endswith("mm up")
    assert f"{abs(high):.1f} mm down" in page.far[1].text()
    type_into(qtbot, page.throws[(1, 0)], "99 mm up")
    refused = page.throws[(1, 0)].complaint.text()
    page.measure_throws()  # what is measured a moment later takes no refusal away
    assert refused.startswith("The linkage cannot reach")
    assert page.throws[(1, 0)].complaint.text() == refused
    page.alike.setChecked(False)
    type_into(qtbot, page.throws[(2, 1)], "9 mm down")
    settings = bench.loaded.program.axis("roll").settings
    assert settings[2].rate_neg != settings[2].rate_pos
    now = at_full(bench.loaded, "roll", 2, page.measure.currentData())
    assert now[1] == pytest.approx(9.0, abs=0.1)


def test_a_field_in_millimetres_shows_the_percent_beside_it(window: Any, qtbot: QtBot) -> None:
    choose(window, "Marram")
    window.go("flaps")
    page, bench = window.page("flaps"), window.workbench
    field = next(f for k, f in page.fields.items() if k[1] == "amounts.left_inner_flap")
    value = field._get()
    mm = place_of(bench.loaded, "left_inner_flap", value)[1]
    assert field.line.text() == f"{mm:.1f} mm down" and field.beside.text() == f"{value:g} %"
    type_into(qtbot, field, "30")  # millimetres, as they are shown
    now = field._get()
    assert place_of(bench.loaded, "left_inner_flap", now)[1] == pytest.approx(30.0)
    type_into(qtbot, field, "50 % down")
    assert field._get() == 50.0 and field.line.text() != "50 % down"
    type_into(qtbot, field, "far")
    assert "Write a number in mm (or °, or %)" in field.complaint.text()


def test_unequal_turns_are_said_of_a_differential_and_made_so_in_mm(
    window: Any, samphire: Model
) -> None:
    at = next(i for i, r in enumerate(samphire.program.recipes) if r.kind == "ailerons")
    recipe = samphire.program.recipes[at]
    assert isinstance(recipe, Ailerons)
    found = roll_movement(samphire, recipe)
    assert found is not None and found.as_asked and found.asked == pytest.approx(40.0)
    leads = [x for x in samphire.leads if x.target in (recipe.left[0], recipe.right[0])]
    made = samphire
    for lead in leads:  # as one who has turned the arms: far down, little up
        place = samphire.leads.index(lead)
        short, long_ = ("travel_neg", "travel_pos")
        if lead.direction < 0:
            short, long_ = long_, short
        made = with_at(made, f"leads[{place}]", lead.changed({short: 40.0, long_: 120.0}))
    worse = roll_movement(made, recipe)
    assert worse is not None and not worse.as_asked and worse.down_mm > worse.up_mm
    choose(window, "Samphire")
    bench = window.workbench
    bench.document.apply(made, "arms turned")
    window.go("flaps")
    page = window.page("flaps")
    card = page.rows[at].card or page.cards[at]
    QApplication.processEvents()
    assert "more going down, not 40 % less" in card.rolls.text() and not card.in_mm.isHidden()
    card.in_mm.click()
    mended = roll_movement(bench.loaded, bench.loaded.program.recipes[at])
    assert mended is not None and mended.as_asked and card.in_mm.isHidden()
    plan = compile_plan(bench.loaded)
    cases = [{"aileron_stick": x} for x in (-100.0, 0.0, 100.0)]
    mm = settled_together(plan, cases).outputs[leads[0].name].mm[:, -1]
    assert abs(mm[2] - mm[1]) < abs(mm[0] - mm[1])


def test_the_conditions_of_a_behaviour_are_one_sentence_and_say_what_holds_back(
    window: Any,
) -> None:
    choose(window, "Marram")
    bench = window.workbench
    stand_still(bench)
    window.go("flaps")
    page = window.page("flaps")
    card = next(c for c in page.cards if c.recipe().kind == "crow")
    lines = [x.button.text() for x in card.limits.lines if x.isVisible()]
    assert lines == ["acts while Brakes armed", "and only while …"]
    assert card.limits.held_back.text() == "Held back now: Brakes armed does not hold."
    editor = next(x for x in card.limits.lines if x.asked is None).open()
    word = editor.words[0]
    wanted = next(c for c in word.word.choices if c.label == "the link is up" or "link" in c.label)
    editor.choose(word, wanted.key)
    lines = [x.button.text() for x in card.limits.lines if x.isVisible()]
    assert lines[0] == "acts while Brakes armed" and lines[1].startswith("and while ")
    assert len(lines) == 3


def test_modes_are_proposed_by_the_names_of_free_positions(samphire: Model) -> None:
    model = samphire
    at = next(
        i for i, c in enumerate(model.transmitter.controls) if c.kind == "switch" and c.positions
    )
    used = model.transmitter.controls[at].name
    hands = model.transmitter
    new = hands.controls[at].changed(
        {"name": "task", "label": "Task", "positions": ("normal", "launch", "landing")}
    )
    model = model.changed({"transmitter": hands.changed({"controls": (*hands.controls, new)})})
    names = []
    for _ in range(3):
        name = proposed_mode(model)
        model = with_mode(model, name)
        names.append((name, model.program.modes[-2].when))
    assert names[:2] == [("Landing", "task@2"), ("Launch", "task@1")]
    assert not (names[2][1] or "").startswith(("task", used))
    even = with_fade(model, 0.7)
    assert {m.fade_s for m in even.program.modes} == {0.7}
    two = model.changed(
        {
            "transmitter": hands.changed(
                {"controls": (*hands.controls, new.changed({"positions": ("up", "down")}))}
            )
        }
    )
    third = with_positions(two.changed({"program": samphire.program}), "task", 3)
    assert third.transmitter.control("task").positions == ("up", "middle", "down")


def test_a_new_mode_is_made_at_a_place_of_the_grid(window: Any) -> None:
    choose(window, "Marram")
    window.go("modes")
    grid, bench = window.page("modes").grid, window.workbench
    grid.cells[(0, 2)].click()
    menu = grid.cells[(0, 2)].open_
    assert menu.rows()[menu.list.currentRow()] == grid.cells[(0, 2)].mode  # what is flown now
    menu.shut()
    take(grid.cells[(0, 2)], "A new mode here")
    mode = grid.cells[(0, 2)].mode
    assert mode not in ("Speed", "Cruise") and bench.loaded.program.modes[-2].label == mode
    assert bench.document.undo_label.startswith(f"mode {mode} at ")
    assert grid.cells[(0, 1)].mode == "Thermal"


def test_logged_trims_go_to_the_bench_or_into_the_centres(window: Any) -> None:
    choose(window, "Sandpiper")
    bench = window.workbench
    axis = bench.loaded.program.axis("pitch")
    assert axis.trim is not None
    flight = Flight(date=datetime.date(2026, 11, 1), trims={"pitch": 4, "roll": 0})
    bench.document.log(flight)
    window.go("log")
    page = window.page("log")
    before = bench.loaded
    press(page, "Put these trims on the bench")
    assert bench.loaded.program.axis("pitch").trim.clicks == 4
    assert bench.state.trim_clicks("pitch") == 4
    bench.document.undo()
    press(page, "Put them into the centres")
    assert bench.loaded.program.axis("pitch").trim.clicks == 0
    moved = [a.target for a, b in zip(before.leads, bench.loaded.leads, strict=True) if a != b]
    assert moved and "Set the trims of your transmitter back" in window.notice.text.text()
    with pytest.raises(HypsosError, match="does not go 400 clicks far"):
        with_trims_at(before, {"pitch": 400})


def test_a_plug_that_was_pulled_is_asked_again_and_one_may_stop_for_today(window: Any) -> None:
    choose(window, "Samphire")
    bench = window.workbench
    new = tuple(x.changed({"seen_right": None}) for x in bench.loaded.leads)
    bench.document.apply(bench.loaded.changed({"leads": new}), "nothing looked at yet")
    window.go("directions")
    page = window.page("directions")
    for _ in range(len(page.check.steps) - 1):
        page.answer_all()
    QApplication.processEvents()
    said = [x.text() for x in page.said.findChildren(QPushButton) if x.isVisibleTo(page)]
    assert "Enough for today" in said
    press(page.said, "Enough for today")
    seen = {x.target for x in bench.loaded.leads if x.checked}
    assert seen and seen < set(page.check.parts)
    page.pull("rudder", "elevator")
    assert page.known
    press(page.said, "Ask again")
    assert not page.known
    assert get_at(bench.loaded, "name") == "Samphire"
