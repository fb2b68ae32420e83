# SPDX-License-Identifier: GPL-3.0-or-later
"""What is gone through before a flight: on the sheet, and ticked on the field."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose, type_into
from keyed import sheet_text
from pytestqt.qtbot import QtBot

from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet.preflight_lists import before_each, before_first


def test_balance_and_mass_are_shaped_and_printed(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    assert "At the point the plans give, ready to fly, from the side" in sheet_text(bench.loaded)
    window.go("airframe")
    page = window.page("airframe")
    type_into(qtbot, page.balance, "82")
    type_into(qtbot, page.mass, "3400")
    assert (bench.loaded.airframe.balance_mm, bench.loaded.airframe.mass_g) == (82.0, 3400.0)
    said = "82 mm behind the wing's leading edge at its root, ready to fly, 3400 g, from the side"
    assert said in sheet_text(bench.loaded)
    type_into(qtbot, page.balance, "-5")
    assert "5 mm ahead of the wing's leading edge" in sheet_text(bench.loaded)
    type_into(qtbot, page.balance, "0")
    type_into(qtbot, page.mass, "0")
    assert (bench.loaded.airframe.balance_mm, bench.loaded.airframe.mass_g) == (None, None)
    type_into(qtbot, page.mass, "-1")
    assert page.mass.complaint.text() and bench.loaded.airframe.mass_g is None


@pytest.mark.parametrize(("key", "first", "each"), [
    ("trainer", {"Range"}, {"Propeller"}), ("elevon_wing", {"Range"}, set()), ("tug", {"Range", "Tow release"}, {"Propeller"}),
])  # fmt: skip
def test_the_lists_ask_for_what_this_aeroplane_has(key: Any, first: Any, each: Any) -> None:
    model = TEMPLATES[key].begin("Dunlin")
    asked = {x.what: x.how for x in before_first(model)}
    always = {x.what: x.how for x in before_each(model)}
    assert first <= set(asked) and ("Tow release" in asked) == ("Tow release" in first)
    assert ("motor running and the model held" in asked["Range"]) == bool(model.airframe.motors)
    assert ("Propeller" in always) == ("Propeller" in each) and "Dunlin" in always["Model chosen"]
    assert "after 1 s" in asked["Failsafe"] and {
        "Balance",
        "Insurance, club and local rules",
        "Height and airspace",
    } <= set(asked)
    text = sheet_text(model)
    for what, how in asked.items():
        assert f"| {what} | {how} |" in text


def test_ticks_are_counted_and_gone_for_the_next_flight(window: Any) -> None:
    window.go("log")
    bench, page = window.workbench, window.page("log")
    card = page.before
    assert card._title.text() == "Before each flight"  # it has flown
    for tick in card.ticks.values():
        tick.click()
    assert card._left.text() == "All of it has been looked at."
    page.write()
    assert card._left.text() == f"{len(card.ticks)} left" and not any(
        t.isChecked() for t in card.ticks.values()
    )
    first = next(iter(card.ticks.values()))
    first.click()
    bench.document.edit("note", "another note", "note")
    assert first.isChecked()  # an edit that changes no list takes no tick away
    bench.document.add(TEMPLATES["tug"].begin("Dunlin"))
    assert card._title.text() == "Before the first flight" and "Tow release" in card.ticks
    choose(window, "Whinlark")
    assert "Propeller" not in card.ticks and not any(t.isChecked() for t in card.ticks.values())
