# SPDX-License-Identifier: GPL-3.0-or-later
"""Corners of pages in which planted faults went unseen."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose, press, type_into
from keyed import sheet_of
from PyQt6.QtWidgets import QApplication, QLabel, QWidget
from pytestqt.qtbot import QtBot

from hypsos.core.document.paths import with_at
from hypsos.core.parts.transmitter import Control
from hypsos.core.review.findings import Ask
from hypsos.core.review.repairs import Repair, TriedRepair
from hypsos.core.review.shakedown import shake
from hypsos.core.sheet.port_card import port_card
from hypsos.desk.cards.findings_view import FindingCard
from hypsos.desk.pages.say_page import ConditionCard
from hypsos.desk.widgets.picture import Picture

SWITCH = Control(
    name="another", label="Another switch", kind="switch", hand="right", positions=("one", "two")
)


def test_a_switch_that_comes_is_listed_once_beside_the_others(window: Any) -> None:
    bench = window.workbench
    window.go("feel")
    page = window.page("feel")
    before = [page.switch.itemText(i) for i in range(page.switch.count())]
    bench.document.apply(
        with_at(bench.loaded, "transmitter.controls", (*bench.loaded.transmitter.controls, SWITCH)),
        "a switch",
    )
    assert [page.switch.itemText(i) for i in range(page.switch.count())] == [
        *before,
        "Another switch",
    ]


def test_the_start_check_of_the_throttle_is_typed_in_percent_of_power(
    window: Any, qtbot: QtBot
) -> None:
    window.go("guard")
    asks, bench = window.page("guard").asks, window.workbench
    press(asks, "Ask for one thing more")
    low, high = (f for f in asks.checks[-1].findChildren(QWidget) if hasattr(f, "nudge"))
    type_into(qtbot, high, "10")
    type_into(qtbot, low, "5")
    check = bench.loaded.program.guard.start_check[-1]
    assert (check.control, check.low, check.high) == ("throttle_stick", -90.0, -80.0)
    assert (low.line.text(), high.line.text()) == ("5 %", "10 %")


def test_a_condition_says_whether_it_holds_now(window: Any) -> None:
    bench = window.workbench
    choose(window, "Marram")
    window.go("say")
    page = window.page("say")
    card = next(c for c in page.findChildren(ConditionCard) if c.isVisible())
    said = card.why.text()
    assert said.startswith(("✓ Holds now", "– Does not hold now"))
    for control in bench.loaded.transmitter.controls:
        for place in range(len(control.positions)):
            bench.simulation.set_control(control.name, float(place))
            bench.simulation.advance(2.0)
    moment = bench.state.moment
    assert card.why.text().startswith(
        "✓ Holds now" if moment.holds(card.name) else "– Does not hold now"
    )


def test_a_look_at_a_repair_casts_a_shadow_until_it_is_taken_back(window: Any) -> None:
    bench = window.workbench
    wrong = with_at(bench.loaded, "leads[0].stop_pos", 30.0)
    bench.document.apply(wrong, "a stop")
    found = next(f for f in shake(Ask(wrong)).findings if f.moves)
    window.go("shake")
    page = window.page("shake")
    card = FindingCard(page, page.found.shower, found, 1)
    repair = Repair("Take it back", with_at(wrong, "leads[0].stop_pos", 125.0))
    card.offer(bench.model, (TriedRepair(repair, True, ()),))
    look, _ = card.offers[0]
    look.click()
    assert bench.simulation.shadow is not None and set(bench.simulation.shadow) >= {
        "left_flaperon",
        "elevator",
    }
    look.click()
    assert bench.simulation.shadow is None


def test_the_timeline_shows_two_minutes_at_the_most(window: Any) -> None:
    window.bench.show_timeline()
    lanes = window.bench.timeline.lanes
    lanes.zoom(10)
    assert lanes.span == 120.0 and not window.bench.timeline.further.isEnabled()
    lanes.zoom(-10)
    assert lanes.span == 5.0 and not window.bench.timeline.nearer.isEnabled()


def test_pictures_say_what_they_show(window: Any) -> None:
    choose(window, "Marram")
    told = {}
    for step in ("airframe", "wiring", "throws", "feel", "modes"):
        window.go(step)
        page = window.page(step)
        if step == "modes":
            page.show_view("presets")
        QApplication.processEvents()
        told[step] = [w.accessibleName() for w in page.findChildren(Picture) if w.isVisible()]
    assert told["airframe"][0].startswith("Aeroplane from above: 3000 mm across; it moves Left")
    assert "port 1 Left aileron" in told["wiring"][0] and "port 10 Tow" in told["wiring"][0]
    linkage, plot = told["throws"]
    assert linkage == (
        "Linkage from the side: arm 10 mm, horn 9 mm; the servo turned by 0°, the surface by 0°"
    )
    assert (
        plot
        == "angle: at −100 % it gives 34 degrees up, at 0 % it gives 0, at 100 % it gives 55 degrees down"
    )
    assert told["feel"] == [
        "always: at −100 % it gives −80 %, at 0 % it gives 0 %, at 100 % it gives 80 %"
    ]
    assert "Launch: ruddervators from the side: 1° up" in told["modes"]


def test_a_sweep_is_told_to_a_screen_reader(window: Any) -> None:
    window.go("flaps")
    page = window.page("flaps")
    page.show_view("hands")
    said = page.hands.plot.accessibleName()
    assert said.startswith("Sweep of ") and all(line.name in said for line in page.hands.plot.lines)


@pytest.mark.parametrize(
    ("field", "typed", "kept"), [("step", "10.5", 10.0), ("range", "101", 100.0)]
)
def test_a_trim_goes_as_far_as_its_field_says(
    window: Any, qtbot: QtBot, field: Any, typed: Any, kept: Any
) -> None:
    window.go("modes")
    page = window.page("modes")
    page.show_view("trims")
    axis = next(
        i for i, a in enumerate(window.workbench.loaded.program.axes) if a.command == "roll"
    )
    type_into(qtbot, page.trims.fields["roll", field], f"{kept:g}")
    assert getattr(window.workbench.loaded.program.axes[axis].trim, field) == kept
    made = page.trims.fields["roll", field]
    type_into(qtbot, made, typed)
    assert (
        getattr(window.workbench.loaded.program.axes[axis].trim, field) == kept
        and made.complaint.text()
    )


def test_a_choice_of_nothing_shows_what_stands_in_its_place(window: Any) -> None:
    choose(window, "Marram")
    window.go("airframe")
    QApplication.processEvents()
    box = window.page("airframe").boxes["wing"]
    assert box.currentIndex() == -1 and box.shown_words() == "as drawn"


def test_a_glider_is_told_nothing_of_a_propeller(window: Any) -> None:
    for name, has_motor in (("Samphire", True), ("Whinlark", False)):
        choose(window, name)
        told = " ".join(x.caution for x in sheet_of(window.workbench.loaded).blocks)
        told += " ".join(x.caution for x in port_card(window.workbench.loaded).blocks)
        assert ("ropeller" in told) == has_motor
        for step in ("wiring", "directions", "throws", "failsafe"):
            window.go(step)
            QApplication.processEvents()
            labels = window.page(step).findChildren(QLabel)
            said = " ".join(w.text() for w in labels if w.isVisible())
            assert ("ropeller" in said) == has_motor, (name, step)
