# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window does in corners that no other test enters."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import Any

import pytest
from hands import answers, behind_its_back, choose, press, type_into
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from hypsos.core.document.logbook import Flight
from hypsos.core.document.paths import with_at
from hypsos.core.edits.named_shapes import BY_HAND
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.rundown import STEPS
from hypsos.desk.cards.mix_editor import MixEditor
from hypsos.desk.pages import model_page, shake_page
from hypsos.desk.services import search_client, search_server
from hypsos.desk.theme.look import SCALES, look
from hypsos.desk.widgets.run_down_list import ROW, STEP_KEYS


def test_recorded_moves_become_a_scenario(
    window: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    """As long as the moves and one frame; it is called as the file, and its name is ready to be
    typed over."""
    file = tmp_path / "windy_day.csv"
    file.write_text("t_s,aileron_stick,motor_switch\n0,0,0\n1.5,40,0\n4,-20,0\n")
    monkeypatch.setattr(shake_page, "ask_which", lambda *_: file)
    window.go("shake")
    page, bench = window.page("shake"), window.workbench
    page.show_view("scenarios")
    before = len(bench.loaded.scenarios)
    page._choose()
    made = bench.loaded.scenarios[-1]
    assert len(bench.loaded.scenarios) == before + 1
    assert (made.label, made.length_s) == (
        "windy day",
        pytest.approx(4.0 + bench.loaded.program.frame_s),
    )
    moved = [(round(m.t_s, 3), m.to) for m in made.moves if m.control == "aileron_stick"]
    assert moved == [(1.5, 40.0), (4.0, -20.0)]
    assert page.cards[-1].title.selectedText() == "windy day"
    file.write_text("t_s,no_such_stick\n0,0\n1,5\n")
    page._choose()
    assert (
        len(bench.loaded.scenarios) == before + 1 and "no_such_stick" in window.notice.text.text()
    )


def test_a_finding_that_the_strip_names_is_led_to(window: Any) -> None:
    window.finish()
    bench, shaking = window.workbench, window.workbench.companions.search
    up = MixLine(name="Idle up", target="motor", source="full", gain=12.0, when="flap_switch@2")
    bench.document.apply(
        with_at(bench.loaded, "program.mixes", (*bench.loaded.program.mixes, up)), "idle up"
    )
    shaking.found = shake(Ask(bench.loaded))
    window.go("shake")
    page = window.page("shake")
    page.found.refresh()
    window.show_place("found:0")
    QApplication.processEvents()
    assert page.found.cards[0].finding == shaking.found.findings[0]
    assert window.focusWidget() is page.found.cards[0].show_me
    assert shaking.finding(f"found:{len(shaking.found.findings)}") is None
    assert shaking.finding("program.mixes[0]") is None


def test_letters_grow_and_shrink_by_keys_as_far_as_they_go(window: Any, qtbot: QtBot) -> None:
    window.finish()
    at = SCALES.index(look.scale)
    try:
        qtbot.keyClick(window, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
        assert look.scale == SCALES[at + 1]
        qtbot.keyClick(window, Qt.Key.Key_Minus, Qt.KeyboardModifier.ControlModifier)
        assert look.scale == SCALES[at]
        for key, end in ((Qt.Key.Key_Minus, SCALES[0]), (Qt.Key.Key_Equal, SCALES[-1])):
            for _ in range(len(SCALES) + 1):
                qtbot.keyClick(window, key, Qt.KeyboardModifier.ControlModifier)
            assert look.scale == end
    finally:
        look.set_scale(SCALES[at])


def test_a_model_that_cannot_be_read_is_exported_as_it_is_and_removed(
    window: Any, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    hangar = window.workbench.document.hangar
    behind_its_back(
        hangar, "UPDATE models SET document = substr(document, 1, 300) WHERE name = 'Sorrel'"
    )
    window.go("model")
    page = window.page("model")
    window.workbench.document.hangar_changed.emit()
    qtbot.waitUntil(
        lambda: [name for _, name, _ in page.damage.found] == ["Sorrel"], timeout=20_000
    )
    asked: list[str] = []
    monkeypatch.setattr(
        model_page,
        "ask_where",
        lambda _, title, name, kinds: asked.append(name) or tmp_path / "s.json",  # type: ignore[func-returns-value]
    )
    raw = hangar.raw(page.damage.found[0][0])
    press(page, "Export it as it is…")
    assert asked == ["Sorrel"] and (tmp_path / "s.json").read_text() == raw and len(raw) == 300
    press(page, "Remove it")
    qtbot.waitUntil(lambda: page.damage.found == [], timeout=20_000)
    assert "Sorrel" not in hangar.names()


def test_without_leads_there_is_nothing_to_check(window: Any) -> None:
    bench = window.workbench
    window.go("directions")
    page = window.page("directions")
    page.go_to(2)
    press(page, "All as it should")
    bench.document.apply(bench.loaded.changed({"leads": ()}), "no leads")
    QApplication.processEvents()
    assert page._title.text() == "Plug in the leads first; then there is something to move."
    assert page.answers == {} and page.at == 0
    assert not page.move_.isEnabled() and not page.all_right.isEnabled()
    bench.document.undo()
    QApplication.processEvents()
    assert page._title.text().startswith("1. ") and page.move_.isEnabled()


def test_answers_are_of_one_model_only(window: Any) -> None:
    window.go("directions")
    page = window.page("directions")
    press(page, "All as it should")
    assert page.answers
    choose(window, "Marram")
    QApplication.processEvents()
    assert page.answers == {} and page.at == 0
    assert answers(page, "Left aileron: up")


def test_a_flight_struck_out_of_the_log_comes_back_as_it_was(window: Any) -> None:
    bench = window.workbench
    bench.document.log(Flight(date=datetime.date(2026, 11, 20), minutes=7.5, remark="ridge lift"))

    def rows() -> list[tuple[int, Flight]]:
        return [(f.id, f.flight) for f in bench.document.hangar.flights("Samphire")]

    before = rows()
    number, kept = next((n, f) for n, f in before if f.remark == "ridge lift")
    bench.document.strike(number, kept)
    assert rows() == [x for x in before if x[0] != number]
    bench.document.undo()
    assert sorted(rows(), key=str) == sorted(before, key=str)
    bench.document.redo()
    assert rows() == [x for x in before if x[0] != number]


def test_points_by_hand_of_a_response(window: Any, qtbot: QtBot) -> None:
    """A line gets five points on it; a point stays between its neighbours; 33 points are the
    most."""
    bench = window.workbench
    window.go("feel")
    page = window.page("feel")
    page._toggle_curve()
    edit = page.curve

    def points() -> tuple[tuple[float, float], ...]:
        return edit.response().points  # type: ignore[no-any-return]

    choose_shape(edit, "slope")
    slope, offset = edit.figures
    type_into(qtbot, offset, "20")
    type_into(qtbot, slope, "60")
    assert points() == ((-100.0, -40.0), (100.0, 80.0))
    choose_shape(edit, BY_HAND)
    assert points() == ((-100.0, -40.0), (-50.0, -10.0), (0.0, 20.0), (50.0, 50.0), (100.0, 80.0))
    kept = bench.loaded
    edit.canvas.chosen = 2
    type_into(qtbot, edit.at, "70")  # its neighbour stands at 50
    assert "stays between its neighbours" in edit.at.complaint.text() and bench.loaded == kept
    for _ in range(29):
        edit.more.click()
    assert len(points()) == 33 or not edit.more.isEnabled()
    before = len(points())
    edit.more.click()
    assert len(points()) == before
    choose_shape(edit, "straight")
    choose_shape(edit, BY_HAND)
    assert points() == tuple((x, x) for x in (-100.0, -50.0, 0.0, 50.0, 100.0))


def choose_shape(edit: Any, key: str) -> None:
    """Choose a named shape as the list does."""
    edit.shape.setCurrentIndex(edit.shape.findData(key))
    edit.shape.activated.emit(edit.shape.currentIndex())


def test_a_shared_value_moved_in_flight(window: Any, qtbot: QtBot) -> None:
    """By a free knob; at another control; by how much; it acts in some modes and stays; a name that
    can't be is taken back."""
    bench = window.workbench
    choose(window, "Marram")
    knob = Control(name="free_knob", label="Free knob", kind="knob", hand="right")
    bench.document.apply(
        with_at(bench.loaded, "transmitter.controls", (*bench.loaded.transmitter.controls, knob)),
        "a knob",
    )
    window.go("modes")
    page = window.page("modes")
    page.show_view("shared")
    page.shared.new.click()
    card = page.shared.cards[-1]
    card.kind.choose("add")
    card.kind.activated.emit(card.kind.currentIndex())
    assert (card.value().adjuster.kind, card.value().adjuster.control) == ("add", "free_knob")
    card = page.shared.cards[-1]
    type_into(qtbot, card.amount, "7.5")
    card.control.choose("rudder_stick")
    card.control.activated.emit(card.control.currentIndex())
    made = card.value().adjuster
    assert (made.amount, made.control, made.modes) == (7.5, "rudder_stick", ())
    every = [m.name for m in bench.loaded.program.modes]
    card.modes[every[0]].click()
    assert card.value().adjuster.modes == tuple(every[1:])
    for mode in every[1:]:
        card.modes[mode].click()
    assert (
        card.value().adjuster.modes == (every[-1],)
        and "In no mode at all" in window.notice.text.text()
    )
    assert card.modes[every[-1]].isChecked()
    card.title.setText("Snap\nflap\u202e")
    card.title.setModified(True)
    old = card.value().label
    card.title.editingFinished.emit()
    assert card.value().label == old == card.title.text()


def test_a_flight_that_cannot_be_read_is_named_in_the_log(window: Any) -> None:
    hangar = window.workbench.document.hangar
    behind_its_back(
        hangar, "UPDATE flights SET flight = '{' WHERE id = (SELECT min(id) FROM flights)"
    )
    name, number = next((n, k) for n in hangar.names() for k in hangar.unreadable_flights(n))
    choose(window, name)
    window.go("log")
    said = [x.text() for x in window.page("log").findChildren(QLabel)]
    assert f"Flight {number} of the log cannot be read; the others are not touched." in said


def test_the_run_down_by_arrows_and_its_tips(window: Any, qtbot: QtBot) -> None:
    """Arrows go from step to step and stop at both ends; the tip names the step under the pointer
    and its key."""
    rundown = window.rundown
    window.go(STEPS[0].key)
    for key, wanted in (
        (Qt.Key.Key_Up, 0),
        (Qt.Key.Key_Down, 1),
        (Qt.Key.Key_Down, 2),
        (Qt.Key.Key_Up, 1),
    ):
        qtbot.keyClick(rundown, key)
        assert rundown.current == STEPS[wanted].key
    window.go(STEPS[-1].key)
    qtbot.keyClick(rundown, Qt.Key.Key_Down)
    assert rundown.current == STEPS[-1].key
    for index in (0, 3, len(STEPS) - 1):
        at = QPoint(20, 8 + round((index + 0.5) * look.px(ROW)))
        QApplication.sendEvent(
            rundown, QHelpEvent(QEvent.Type.ToolTip, at, rundown.mapToGlobal(at))
        )
        assert rundown.toolTip().startswith(f"{STEPS[index].verb}: ")
        assert ("(Alt+" in rundown.toolTip()) == (index < len(STEP_KEYS))


def test_the_aeroplane_is_drawn_anew_from_each_side_and_with_larger_deflections(
    window: Any,
) -> None:
    bench, view = window.workbench, window.bench.aeroplane
    bench.simulation.set_control("aileron_stick", 100.0)
    bench.simulation.advance(1.0)
    pictures = []
    for name in ("behind", "above", "side"):
        view.set_view(name)
        pictures.append(view.grab().toImage())
    view.set_exaggeration(3.0)
    pictures.append(view.grab().toImage())
    assert all(a != b for i, a in enumerate(pictures) for b in pictures[:i])


def test_what_is_foreseen_of_a_search_stays_while_it_goes_on(window: Any) -> None:
    window.finish()
    shaking = window.workbench.companions.search
    shaking._asked, shaking.share, shaking.what = (7, window.workbench.model), 0.0, ""
    for share, what, now in (
        (0.0, "About three seconds.", "About three seconds."),
        (0.2, "M1", "M1"),
        (0.0, "M2", "M2"),
    ):
        shaking._said(search_server.SearchReply(7, "progress", (share, what)))
        assert (shaking.share, shaking.what, shaking.foreseen) == (
            share,
            now,
            "About three seconds.",
        )


def test_a_bar_of_the_brakes_leads_to_the_amount_of_its_own_surfaces(window: Any) -> None:
    choose(window, "Marram")
    window.finish()
    crow = window.workbench.loaded.program.recipes[2]
    for k, amount in enumerate(crow.amounts):
        window.show_place(f"program.recipes[2].amounts[{k}].travel")
        QApplication.processEvents()
        field = (
            window.page("flaps").rows[2].card.field_for(f"program.recipes[2].amounts[{k}].travel")
        )
        assert field is window.page("flaps").rows[2].card.fields[f"amounts.{amount.parts[0]}"]
        assert field.isAncestorOf(window.focusWidget())


def test_a_window_that_has_gone_asks_for_no_search(
    window: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another window's search overtook its own: it would ask again, and overtake that one, and so
    on."""
    window.finish()
    client = window.workbench.companions.search
    asked: list[str] = []
    monkeypatch.setattr(
        search_client.worker(),
        "ask",
        lambda kind, *_: asked.append(kind) or len(asked),  # type: ignore[func-returns-value]
    )  # type: ignore[func-returns-value]
    client.search()
    assert asked == ["shake"]
    window.close()
    client._said(search_server.SearchReply(1, "overtaken", None))
    assert not client._wait.isActive() and not client.under_way
    client.search()
    assert asked == ["shake"]


def test_the_editor_of_a_throttle_says_how_long_a_start_takes(window: Any, qtbot: QtBot) -> None:
    """The two times are for 100 %, and a motor goes 200 % from stopped to full: the page says what
    the sheet says."""
    choose(window, "Marram")
    window.go("flaps")
    window.page("flaps").show_view("streams")
    place = next(
        k for k, x in enumerate(window.workbench.loaded.program.mixes) if x.target == "motor"
    )
    editor = MixEditor(window.workbench, place, window.page("flaps").streams)
    qtbot.addWidget(editor)
    assert editor.start.text() == "The motor goes from stopped to full over 0.8 s, back at once."
    type_into(qtbot, editor.in_s, "0")
    editor.refresh()
    assert editor.start.isHidden()
