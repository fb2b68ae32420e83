# SPDX-License-Identifier: GPL-3.0-or-later
"""Shake it down in the window: found by itself after an edit, shown on the bench, mended, compared,
told on the sheet."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hands import choose
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.document.paths import with_at
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.search_words import NOTHING_PLUGGED
from hypsos.desk.services import search_client as shaking
from hypsos.desk.services.search_client import worker

PATIENT = 180_000


@pytest.fixture
def shaken(window: Any, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Any:
    monkeypatch.setattr(shaking, "BY_ITSELF", True)
    window.finish()
    window.go("shake")
    window.workbench.companions.search.search()
    qtbot.waitUntil(lambda: window.workbench.companions.search.current, timeout=PATIENT)
    return window


def _plant(window: Any, qtbot: QtBot) -> None:
    """A mix that starts the motor with the flap switch; the search finds it by itself."""
    bench = window.workbench
    up = MixLine(name="Idle up", target="motor", source="full", gain=12.0, when="flap_switch@2")
    bench.document.apply(
        with_at(bench.loaded, "program.mixes", (*bench.loaded.program.mixes, up)), "idle up"
    )
    qtbot.waitUntil(lambda: bench.companions.search.current, timeout=PATIENT)
    QApplication.processEvents()


def test_what_an_edit_brings_is_found_shown_and_mended(shaken: Any, qtbot: QtBot) -> None:
    window, bench, page = shaken, shaken.workbench, shaken.page("shake")
    assert "no danger" in page.found.says.text().lower() and bench.companions.search.words() == ""
    _plant(window, qtbot)
    card = page.found.cards[0]
    assert (
        card.finding.statement == "M2" and "Flap switch alone gives Motor more" in card.text.text()
    )
    assert "Motor switch to run, then 1 s later Flap switch to half" in card.way.text()
    assert window.rundown.words("shake") == "1 danger" and window.rundown.state("shake").count == 1
    assert "Flap switch alone" in page.strip.words.text()

    said = []
    bench.notices.captioned.connect(lambda spoken: said.append(spoken.caption))
    qtbot.mouseClick(card.show_me, Qt.MouseButton.LeftButton)
    assert bench.simulation.playing and bench.notices.narrated
    qtbot.waitUntil(lambda: not bench.simulation.playing, timeout=PATIENT)
    assert (
        bench.state.live.controls["flap_switch"] == 2 and bench.state.powers()["motor"] > 2.5
    )  # and it stays there
    assert said[0].startswith("Power on") and "Flap switch to landing" in said
    assert said[-1].startswith("Flap switch alone") and not bench.notices.narrated
    assert bench.companions.recorder is not None and bench.companions.recorder.now_s() > 0.3

    qtbot.mouseClick(card.change, Qt.MouseButton.LeftButton)
    assert window.rundown.current == "flaps"
    window.go("shake")
    qtbot.mouseClick(card.mend, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(card.offers), timeout=PATIENT)
    look, do = card.offers[0]
    offered = [w.text() for w in card.findChildren(QLabel) if "no more" in w.text()]
    assert offered[0].endswith(
        "The search finds this no more. At the end of the way: Motor stopped. The motors are armed by other rules."
    )
    qtbot.mouseClick(look, Qt.MouseButton.LeftButton)
    assert bench.simulation.shadow and set(bench.simulation.shadow) >= {"left_flaperon", "elevator"}
    before = bench.loaded
    qtbot.mouseClick(do, Qt.MouseButton.LeftButton)
    assert (
        bench.loaded.program.guard.holds == ("flap_switch@2",) and bench.simulation.shadow is None
    )
    assert bench.document.undo_label.startswith("hold the motor while")
    qtbot.waitUntil(lambda: bench.companions.search.current, timeout=PATIENT)
    assert not bench.companions.search.found.of_level("danger")
    bench.document.undo()
    assert bench.loaded.program.guard == before.program.guard


def test_trying_repairs_and_comparing_are_stopped_by_a_button(shaken: Any, qtbot: QtBot) -> None:
    window, page = shaken, shaken.page("shake")
    _plant(window, qtbot)
    card = page.found.cards[0]
    qtbot.mouseClick(card.mend, Qt.MouseButton.LeftButton)
    stop = next(
        b
        for b in card.findChildren(QPushButton)
        if b.accessibleName() == "Stop trying what would mend it"
    )
    qtbot.mouseClick(stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(
        lambda: any(
            w.text().startswith("Stopped: not everything") for w in card.findChildren(QLabel)
        ),
        timeout=PATIENT,
    )
    assert card.mend.isEnabled() and not any(
        "Nothing simple" in w.text() for w in card.findChildren(QLabel)
    )
    page.show_view("changed")
    view = page.changed
    assert view.stop.isHidden()
    view.other.setCurrentIndex(view.other.findText("Marram"))
    view.compare.click()
    assert view.stop.isVisible()
    qtbot.mouseClick(view.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.found is not None, timeout=PATIENT)
    assert (
        not view.found.proved
        and view.stop.isHidden()
        and "not everything" in view.says.text().lower()
    )


def test_a_statement_is_left_out_with_a_reason_and_asked_again(shaken: Any, qtbot: QtBot) -> None:
    window, bench, page = shaken, shaken.workbench, shaken.page("shake")
    page.show_view("searched")
    row = page.searched.rows["M4"]
    assert "complete" in row.says.text() and "situations" in row.says.text()
    qtbot.mouseClick(row.leave, Qt.MouseButton.LeftButton)
    qtbot.keyClick(row.reason, Qt.Key.Key_Return)  # without a reason nothing is left out
    assert not bench.loaded.not_asked
    qtbot.keyClicks(row.reason, "Our strip is fenced off.")
    qtbot.keyClick(row.reason, Qt.Key.Key_Return)
    assert bench.loaded.not_asked == {"M4": "Our strip is fenced off."}
    assert row.says.text() == "Not asked: Our strip is fenced off."
    qtbot.waitUntil(lambda: bench.companions.search.current, timeout=PATIENT)
    assert "M4" not in {f.statement for f in bench.companions.search.found.findings}
    window.go("sheet")
    window.page("sheet").show_sheet()
    shown = window.page("sheet").view.toPlainText()
    assert "Shaken down:" in shown and "Our strip is fenced off." in shown
    window.go("shake")
    qtbot.mouseClick(row.leave, Qt.MouseButton.LeftButton)
    assert not bench.loaded.not_asked


def test_what_changed_since_a_snapshot_is_a_table_and_a_shadow(
    shaken: Any, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench, page = shaken.workbench, shaken.page("shake")
    bench.document.keep("before the coast")
    page.show_view("changed")
    view = page.changed
    assert view.other.itemText(0) == "snapshot “before the coast”"
    view.compare.click()
    qtbot.waitUntil(lambda: view.found is not None, timeout=PATIENT)
    assert view.found.same and view.says.text().startswith("No difference")
    bench.document.edit("program.mixes[1].gain", 80.0, "less rudder")
    assert "Compare again" in view.says.text() and view.found is None
    assert [view.other.itemText(i) for i in (0, 1)] == [
        "before “less rudder”",
        "snapshot “before the coast”",
    ]
    assert view.other.currentIndex() == 1  # what was chosen stays chosen
    view.other.setCurrentIndex(0)
    told: list[str] = []
    monkeypatch.setattr(view.says, "setText", told.append)
    view.compare.click()
    view.compare.click()  # the first is overtaken, and says nothing of the second
    qtbot.waitUntil(lambda: any(t.endswith("situations so far …") for t in told), timeout=PATIENT)
    assert view.stop.isVisible()
    qtbot.waitUntil(lambda: view.found is not None, timeout=PATIENT)
    monkeypatch.undo()
    said = "\n".join(told)
    assert "part 1 of 7, " in said and "Ask again" not in said
    assert [d.part for d in view.found.differences] == [  # type: ignore[attr-defined]
        "rudder"
    ] and "1 part stands elsewhere" in told[-1]  # type: ignore[attr-defined]
    view.shows[0].click()
    assert (
        bench.simulation.playing
        and bench.simulation.chosen == "rudder"
        and bench.simulation.shadow is not None
    )
    assert abs(bench.simulation.shadow["rudder"]) == pytest.approx(28.2, abs=0.5)
    page.show_view("found")
    assert bench.simulation.shadow is None


def test_a_search_that_dies_is_told_and_begins_anew(shaken: Any, qtbot: QtBot) -> None:
    window, bench, page = shaken, shaken.workbench, shaken.page("shake")
    worker()._process.kill()
    bench.companions.search.again()
    qtbot.waitUntil(lambda: bench.companions.search.share is None, timeout=PATIENT)
    _plant(window, qtbot)
    assert bench.companions.search.found.of_level("danger") and not page.found.fault.isVisible()


def test_stopping_a_search_keeps_the_window_and_the_next_edit_searches_again(
    shaken: Any, qtbot: QtBot
) -> None:
    window, bench, page = shaken, shaken.workbench, shaken.page("shake")
    window.workbench.document.open("Marram")
    qtbot.waitUntil(lambda: bench.companions.search.share is not None, timeout=PATIENT)
    assert page.found.stop.isVisible()
    qtbot.waitUntil(
        lambda: bench.companions.search.what != "", timeout=PATIENT
    )  # it says what it is at
    page.found.stop.click()
    qtbot.waitUntil(lambda: bench.companions.search.share is None, timeout=PATIENT)
    found = bench.companions.search.found
    assert found is not None and any(s.note == "not searched: stopped" for s in found.searched)
    bench.document.edit("leads[0].centre", 1.0, "centre 1 %")
    qtbot.waitUntil(
        lambda: bench.companions.search.current and bench.companions.search.found is not found,
        timeout=PATIENT,
    )
    assert all(s.note != "not searched: stopped" for s in bench.companions.search.found.searched)


def test_paper_waits_for_the_search_and_says_its_one_state(
    window: Any, qtbot: QtBot, tmp_path: Path
) -> None:
    window.finish()
    bench = window.workbench
    window.go("sheet")
    page, shaking_now = window.page("sheet"), bench.companions.search
    assert window.rundown.words("shake") == "not shaken yet" == shaking_now.state()
    assert "Not shaken yet. What is searched for" in page.view.toPlainText()
    page.save(tmp_path / "waits.md")
    assert not (tmp_path / "waits.md").exists() and page.said.text().startswith(
        "waits.md is written as soon as"
    )
    assert window.rundown.words("shake") == "searching"
    qtbot.waitUntil((tmp_path / "waits.md").exists, timeout=PATIENT)
    assert f"digest {shaking_now.found.digest}" in (tmp_path / "waits.md").read_text()

    qtbot.waitUntil(
        lambda: f"digest {shaking_now.found.digest}" in page.view.toPlainText()
    )  # the same on the page
    bench.document.edit("note", "Pulls the sailplanes up.", "note")
    assert shaking_now.current, "nothing that is searched was edited"
    bench.document.edit("leads[0].centre", 1.0, "centre 1 %")
    assert shaking_now.state() == window.rundown.words("shake") == "not shaken since this edit"
    page.save(tmp_path / "other.md")
    choose(window, "Skerry")
    qtbot.waitUntil(lambda: not shaking_now.under_way, timeout=PATIENT)
    assert (
        not (tmp_path / "other.md").exists()
        and "other.md was not written: another model" in page.said.text()
    )


def test_with_nothing_plugged_in_the_page_does_not_say_that_nothing_was_found(
    window: Any, qtbot: QtBot
) -> None:
    window.finish()
    bench = window.workbench
    leads = tuple(x.changed({"port": None}) for x in bench.loaded.leads)
    bench.document.apply(
        bench.loaded.changed({"leads": leads, "y_leads": ()}), "nothing plugged in"
    )
    window.go("shake")
    bench.companions.search.search()
    qtbot.waitUntil(lambda: bench.companions.search.current, timeout=PATIENT)
    found = window.page("shake").found
    assert found.says.text().startswith(NOTHING_PLUGGED) and found.none.isHidden()
