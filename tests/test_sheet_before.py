"""What is gone through before a flight: on the sheet, and ticked on the field."""

from __future__ import annotations

import pytest
from hands import choose

from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import make_sheet, sheet_markdown
from hypsos.core.sheet.before import before_each, before_first


@pytest.mark.parametrize(("key", "first", "each"), [
    ("trainer", {"Range"}, {"Propeller"}), ("elevon_wing", {"Range"}, set()), ("tug", {"Range", "Tow release"}, {"Propeller"}),
])  # fmt: skip
def test_the_lists_ask_for_what_this_aeroplane_has(key, first, each):
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
    text = sheet_markdown(make_sheet(model, "plain"))
    first_at, each_at = (text.index(title) for title in ("## Before the first flight", "## Before each flight"))
    assert text.index("## Check by eye") < first_at < each_at
    for what, how in (asked | always).items():
        assert f"| {what} | {how} |" in text


def test_ticks_are_counted_and_gone_for_the_next_flight(window):
    window.go("log")
    bench, page = window.workbench, window.page("log")
    card = page.before
    assert card._title.text() == "Before each flight"  # it has flown
    for tick in card.ticks.values():
        tick.click()
    assert card._left.text() == "All of it has been looked at."
    page.write()
    assert card._left.text() == f"{len(card.ticks)} left" and not any(t.isChecked() for t in card.ticks.values())
    first = next(iter(card.ticks.values()))
    first.click()
    bench.edit("note", "another note", "note")
    assert first.isChecked()  # an edit that changes no list takes no tick away
    bench.add(TEMPLATES["tug"].begin("Dunlin"))
    assert card._title.text() == "Before the first flight" and "Tow release" in card.ticks
    choose(window, "Whinlark")
    assert "Propeller" not in card.ticks and not any(t.isChecked() for t in card.ticks.values())
