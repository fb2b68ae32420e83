# SPDX-License-Identifier: GPL-3.0-or-later
"""The window where it could lose something, or let a motor go: fields that hand in, damaged models,
the guard's page."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hands import behind_its_back, choose, press, type_into
from PyQt6.QtCore import QDate, QEvent, Qt
from PyQt6.QtWidgets import QApplication, QCheckBox, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.engine import GuardState
from hypsos.core.parts.leads import Failsafe
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.rundown import STEPS
from hypsos.core.shape.layout_choices import with_motors
from hypsos.desk.app import open_workbench
from hypsos.desk.services.play_moves import LONG_MOVES
from hypsos.desk.widgets.focus_order import called
from hypsos.desk.window import Window
from hypsos.hangar import Hangar


def test_a_note_is_handed_in_before_another_model_comes(qtbot: QtBot, window: Any) -> None:
    window.go("model")
    page, hangar = window.page("model"), window.workbench.document.hangar
    marram = hangar.load("Marram").note
    page.note.setPlainText("typed just now")
    choose(window, "Marram")
    assert (
        hangar.load("Samphire").note == "typed just now"
        and hangar.load("Marram").note == marram == page.note.toPlainText()
    )
    page.note.setPlainText("and this")
    window.go("feel")
    assert hangar.load("Marram").note == "and this"


def test_a_note_is_handed_in_when_the_window_closes(qtbot: QtBot, window: Any) -> None:

    window.go("model")
    window.page("model").note.setPlainText("typed and closed")
    path = window.workbench.document.hangar.path
    window.close()
    again = Hangar(path)
    assert again.load("Samphire").note == "typed and closed"
    again.close()


def test_a_draft_of_a_flight_waits_for_its_own_model(qtbot: QtBot, window: Any) -> None:
    window.go("log")
    page = window.page("log")
    page.texts["place"].setText("north dune")
    page.remark.setPlainText("ballooned with flap")
    choose(window, "Marram")
    assert page.texts["place"].text() == "" and page.remark.toPlainText() == ""
    page.remark.setPlainText("another")
    choose(window, "Samphire")
    assert (page.texts["place"].text(), page.remark.toPlainText()) == (
        "north dune",
        "ballooned with flap",
    )
    page.write()
    assert (
        window.workbench.document.hangar.flights("Samphire")[0].flight.remark
        == "ballooned with flap"
    )
    assert all(
        f.flight.remark != "ballooned with flap"
        for f in window.workbench.document.hangar.flights("Marram")
    )


def test_a_damaged_model_is_shown_with_what_can_be_done(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    bench.document.hangar.keep("Sorrel", "as it was")
    behind_its_back(
        bench.document.hangar, "UPDATE models SET document = '{' WHERE name IN ('Sorrel', 'Marram')"
    )
    choose(window, "Sorrel")
    assert (
        "damaged" in window.notice.text.text()
        and bench.model.name == "Samphire" == window.models.currentText()
    )
    window.go("model")
    page = window.page("model")
    qtbot.waitUntil(lambda: len(page.damage.found) == 2, timeout=20_000)
    said = [x.text() for x in page.findChildren(QLabel)]
    assert "Sorrel cannot be read" in said and "Marram cannot be read" in said
    press(page, "Back to as it was")
    assert bench.model.name == "Sorrel"
    qtbot.waitUntil(lambda: len(page.damage.found) == 1, timeout=20_000)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    said = [x.text() for x in page.findChildren(QLabel)]
    assert "Sorrel cannot be read" not in said and said.count("Marram cannot be read") == 1
    press(page, "Remove it")
    assert "Marram" not in bench.document.hangar.names() and window.models.findText("Marram") < 0


def test_a_hangar_whose_first_model_is_damaged_opens_on_another(
    qtbot: QtBot, hangar: Hangar
) -> None:
    behind_its_back(hangar, "UPDATE models SET document = '{' WHERE name = 'Marram'")
    bench = open_workbench(hangar, "Marram")
    assert bench.model is not None and bench.model.name == "Samphire"


def test_the_guard_page_cuts_in_more_than_one_position(qtbot: QtBot, window: Any) -> None:
    window.go("guard")
    page, bench = window.page("guard"), window.workbench
    page.cuts[0].click()
    assert "must stop the motor" in page.complaint.text() and bench.model.program.guard.cut == (0,)
    page.cuts[1].click()
    assert "could never run" in page.complaint.text() and bench.model.program.guard.cut == (0,)
    page.switch.setCurrentIndex(page.switch.findData("rates_switch"))
    page.switch.activated.emit(page.switch.currentIndex())
    assert [c.text() for c in page.cuts] == ["low", "mid", "high"]
    QApplication.processEvents()
    ticks = [
        b
        for b in page.findChildren(QCheckBox)
        if b.isVisible() and b.accessibleName().startswith("Stops")
    ]
    assert [b.text() for b in ticks] == [
        "low",
        "mid",
        "high",
    ]  # those of the switch before are gone
    page.cuts[1].click()
    assert bench.model.program.guard.cut == (0, 1) and not page.complaint.isVisible()
    type_into(qtbot, page.threshold, "50")
    assert (
        "0 to 5 % power" in page.threshold.complaint.text()
        and bench.model.program.guard.threshold == -95
    )
    type_into(qtbot, page.threshold, "4")
    assert bench.model.program.guard.threshold == -92


def test_what_is_asked_of_a_guard_that_is_gone_is_asked_no_more(window: Any) -> None:
    """The rows may still be under a hand as another model comes: wild hands pressed one of their
    buttons."""
    window.go("guard")
    page, bench = window.page("guard"), window.workbench
    page.asks.add_check.click()
    (check,) = page.asks.checks
    choose(window, "Whinlark")  # it has no motor
    before = bench.loaded
    for button in (page.asks.add_check, page.asks.add_hold, *check.findChildren(QPushButton)):
        button.click()
    page.asks.refresh()
    assert bench.loaded == before and before.program.guard is None


def test_what_an_older_document_meant_otherwise_is_agreed_to_on_the_page_and_only_there(
    qtbot: QtBot, window: Any
) -> None:
    bench = window.workbench
    guard = bench.loaded.program.guard.changed(
        {"unconfirmed": ("The throttle gave half of it in calm.",)}
    )
    bench.document.edit("program.guard", guard, "older")
    window.show_place("program.guard.unconfirmed")
    QApplication.processEvents()
    page = window.page("guard")
    agree = next(
        b
        for b in page.findChildren(QPushButton)
        if b.text().startswith("I have looked at it") and b.isVisible()
    )
    said = [w.text() for w in page.findChildren(QLabel) if w.isVisible()]
    assert QApplication.focusWidget() is agree and any(
        "The throttle gave half of it in calm." in t for t in said
    )
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(1.0)
    assert bench.state.guard == GuardState.LOCKED and "older document" in bench.state.guard_words
    qtbot.keyClick(agree, Qt.Key.Key_Space)
    assert (
        bench.loaded.program.guard.unconfirmed == () and bench.state.guard == GuardState.LOCKED
    )  # and it does not start by that
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.ARMED
    window.show_place("program.guard.rest_s")
    assert (
        page.rest.isAncestorOf(QApplication.focusWidget())
        or QApplication.focusWidget() is page.rest
    )


def test_a_motor_that_is_not_off_at_idle_is_said_where_it_is_typed_and_mended_there(
    qtbot: QtBot, window: Any
) -> None:
    bench = window.workbench
    window.go("wiring")
    page = window.page("wiring")
    page.choose("motor")
    index = next(i for i, x in enumerate(bench.model.leads) if x.name == "motor")
    bench.document.edit(f"leads[{index}].centre", 20.0, "centre")
    said = next(x.text() for x in page.findChildren(QLabel) if "At idle" in x.text())
    assert "1100 µs" in said and window.rundown.state("guard").count == 1
    bench.simulation.advance(1)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.LOCKED and "idle pulse" in window.bench.reason.text()
    press(page, "Make idle fit")
    assert bench.model.leads[index].centre == 0 and window.rundown.state("guard").count == 0
    bench.document.edit(f"leads[{index}].direction", -1, "reversed")
    window.go("guard")
    press(window.page("guard"), "Let Motor send 1000 µs at idle")
    assert bench.model.leads[index].direction == 1


def test_the_lamp_says_what_stands_in_the_way(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    bench.simulation.advance(1)
    bench.simulation.set_control("throttle_stick", 20.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert (
        window.bench.lamp.words == "Motor locked"
        and "would be commanded 60 %" in window.bench.reason.text()
    )
    assert (
        window.bench.lamp.sentence
        == window.bench.lamp.accessibleName()
        == window.bench.reason.text()
    )
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.advance(0.1)
    assert "to cut and back" in window.bench.reason.text()
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(0.6)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.set_link(False)
    bench.simulation.advance(0.1)
    assert (
        window.bench.lamp.words == "Armed, link lost"
        and "follows the stick again when the link returns" in window.bench.reason.text()
    )


def test_differential_thrust_can_be_had_again(qtbot: QtBot, window: Any) -> None:
    from hypsos.core.shape.adapt_model import adapted

    choose(window, "Skerry")
    bench = window.workbench
    window.go("flaps")
    page = window.page("flaps")
    for count in (0, 4):
        bench.document.apply(
            adapted(bench.model, with_motors(bench.model.airframe, count)).model, f"{count} motors"
        )
        page.open_gallery()
        offered = {tile.text(): tile for tile in page.gallery.tiles}
        assert offered["Differential thrust"].isEnabled() == bool(count)
        assert count or "no motor on each side" in offered["Differential thrust"].toolTip()
    assert not any(isinstance(r, DifferentialThrust) for r in bench.model.program.recipes)
    offered["Differential thrust"].click()
    made = next(r for r in bench.model.program.recipes if isinstance(r, DifferentialThrust))
    assert len(made.left) == len(made.right) == 2 and made.at_idle == "none"


def test_every_field_of_a_behaviour_is_set_in_the_window(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("flaps")
    page = window.page("flaps")

    def pick(box: Any, words: Any) -> None:
        box.setCurrentIndex(box.findText(words))
        box.activated.emit(box.currentIndex())

    ailerons, droop = page.cards
    when = ailerons.when.open()
    when.choose(when.words[0], "switch:flap_switch")
    assert bench.model.program.recipes[0].when == "flap_switch@2"
    bench.document.edit("program.recipes[0].when", "flap_switch@1", "from elsewhere")
    assert "half" in [
        w.text() for w in when.words
    ]  # an open sentence says what another edit made of it
    bench.document.undo()
    pick(droop.choices["control"], "Rates switch")
    recipe = bench.model.program.recipes[1]
    assert recipe.control == "rates_switch" and len(recipe.positions) == 3
    page.cards[1].ticks["elevators"]["elevator"].click()
    assert bench.model.program.recipes[1].elevators == ()
    page.cards[1].name.setText("")
    page.cards[1].name.insert("Droop")
    page.cards[1].name.editingFinished.emit()
    assert (
        bench.model.program.recipes[1].label == "Droop"
        and bench.document.undo_label == "called Droop"
    )
    page.cards[0].remove()
    assert [r.label for r in bench.model.program.recipes] == ["Droop"] and len(page.cards) == 1
    page.open_gallery()
    next(tile for tile in page.gallery.tiles if tile.text() == "Ailerons").click()
    assert [r.label for r in bench.model.program.recipes] == ["Droop", "Ailerons"]
    for recipe in bench.model.program.recipes:  # what it says of itself is all that there is to it
        told = {p.key for p in recipe.parameters} | {"kind", "label", "when", "signal", "on"}
        assert told == set(type(recipe).model_fields) and recipe.about and recipe.missing


def test_full_stick_can_be_let_give_what_is_wanted(qtbot: QtBot, window: Any) -> None:
    window.go("throws")
    page = window.page("throws")
    page.choose("left_flaperon")
    assert "take part of it away" in page.full.text() and "differential of 40 %" in page.full.text()
    type_into(qtbot, page.wanted_fields["up"], "12")
    type_into(qtbot, page.wanted_fields["down"], "6")
    page.allow.click()
    assert (
        "12.0 mm up" in page.full.text()
        or "11.9 mm up" in page.full.text()
        or "12.1 mm up" in page.full.text()
    )
    page.choose("elevator")
    assert page.allow.isHidden()


def test_long_moves_are_read_beside_the_window(qtbot: QtBot, window: Any, tmp_path: Path) -> None:
    t = 0.02 * np.arange(40_000)
    rows = "\n".join(f"{x:.2f},{y:.1f}" for x, y in zip(t, 50 * np.sin(t), strict=True))
    path = tmp_path / "long.csv"
    path.write_text(f"t_s,aileron_stick\n{rows}\n")
    assert path.stat().st_size > LONG_MOVES
    window.play_moves(path)
    assert (
        not window.workbench.simulation.playing and "Reading long.csv" in window.notice.text.text()
    )
    qtbot.waitUntil(lambda: window.workbench.simulation.playing, timeout=20_000)
    window.workbench.simulation.stop()
    (tmp_path / "bad.csv").write_text(f"t_s,aileron_stick\n{rows}\n0,1\n")
    window.play_moves(tmp_path / "bad.csv")
    qtbot.waitUntil(lambda: "time runs backwards" in window.notice.text.text(), timeout=20_000)


@pytest.mark.parametrize("name", ["<b>bold</b>", "a & b"])
def test_a_name_is_no_markup(qtbot: QtBot, window: Any, name: Any) -> None:
    bench = window.workbench
    bench.document.edit("transmitter.controls[0].label", name, f"called {name}")
    tips = [
        w.toolTip() for w in window.findChildren(type(window.bench.hands.toggles["motor_switch"]))
    ]
    assert any(
        "&lt;b&gt;bold" in tip or "a &amp; b" in tip for tip in (*tips, window.undo.toolTip())
    )
    assert all("<b>" not in tip for tip in (*tips, window.undo.toolTip()))


def test_half_a_sign_at_the_end_of_a_field_is_answered(qtbot: QtBot, window: Any) -> None:
    """A field that is full cuts the last sign in two."""
    bench, half = window.workbench, "x" * 59 + "\ud83d"
    names = bench.document.hangar.names()
    window.go("model")
    page = window.page("model")
    page.new_name.setText(half)
    page.make_new()
    assert "broken in half" in window.notice.text.text() and bench.document.hangar.names() == names
    page.name.setText(half)
    page.name.setModified(True)  # as if typed
    page.name.editingFinished.emit()
    assert "broken in half" in page.complaint.text() and bench.model.name == "Samphire"
    bench.document.keep("kept \ud83d")
    assert bench.document.hangar.snapshots("Samphire")[0].label == "kept \ufffd"
    window.go("log")
    log = window.page("log")
    log.texts["place"].setText("dune \ud83d")
    flights = len(bench.document.hangar.flights("Samphire"))
    log.write()
    assert (
        "broken in half" in window.notice.text.text()
        and len(bench.document.hangar.flights("Samphire")) == flights
    )
    bench.notices.noticed.emit("")
    window.go("hands")
    card = window.page("hands").transmitter
    card.name.setText(half)
    press(card, "Keep this layout for other models")
    assert "broken in half" in window.notice.text.text() and not [
        p for p in bench.document.hangar.transmitters() if "x" * 9 in p.name
    ]


def test_a_number_typed_and_not_finished_is_handed_in_when_the_window_closes(
    qtbot: QtBot, window: Any
) -> None:
    window.activateWindow()
    window.go("flaps")
    field = window.page("flaps").fields[(0, "share")]
    field.line.setFocus()
    field.line.selectAll()
    field.line.insert("55")
    path = window.workbench.document.hangar.path
    window.close()
    again = Hangar(path)
    assert again.load("Samphire").program.recipes[0].share == 55  # type: ignore[attr-defined]
    again.close()


def test_snapshots_show_the_time_on_the_wall(monkeypatch: pytest.MonkeyPatch) -> None:
    import time

    from hypsos.desk.widgets.dates import local_time

    monkeypatch.setenv("TZ", "UTC-3")
    time.tzset()
    try:
        assert (
            local_time("2026-11-25T22:30:00.123Z") == "2026-11-26 01:30"
            and local_time("once") == "once"
        )
    finally:
        monkeypatch.undo()
        time.tzset()


def test_throws_of_an_aeroplane_without_a_surface(qtbot: QtBot, window: Any) -> None:
    window.go("model")
    page = window.page("model")
    page.source.setCurrentIndex(page.source.findData("template:bare"))
    page.make_new()
    window.go("throws")
    page = window.page("throws")
    assert "Shape the aeroplane first" in page.now.text() and page.surface.count() == 0
    assert not any(b.isEnabled() for b in page.findChildren(QPushButton))
    choose(window, "Samphire")
    assert (
        page.surface.count() == 4
        and page.set_travel.isEnabled()
        and page.now.text().startswith("Now at full command")
    )


@pytest.mark.parametrize(
    ("step", "path", "value", "name"),
    [
        ("guard", "program.guard.level", 1, "Cut"), ("guard", "program.guard.cut", (1,), "Stops the motor at cut"),
        ("failsafe", "leads[1].failsafe", Failsafe(action="hold"), "Right flaperon without the link"),
        ("wiring", "leads[1].port", None, "Elevator"), ("feel", "program.axes[1].settings", (None, None, None), ""),
    ],
)  # fmt: skip
def test_what_asks_for_a_second_look_leads_to_its_place(
    qtbot: QtBot, window: Any, step: Any, path: Any, value: Any, name: Any
) -> None:
    bench = window.workbench
    bench.document.edit(path, value, "trial")
    window.go(step)
    page = window.page(step)
    assert page.strip.found and page.strip.words.text().count(page.strip.found[0].text) == 1
    page.strip.show_.click()
    focused = QApplication.focusWidget()
    if step == "wiring":
        assert page.output.chosen == bench.model.leads[1].name
    elif step == "feel":
        assert page.command == "pitch"
    else:
        assert page.isAncestorOf(focused) and name == called(focused)


def test_a_flight_that_is_typed_and_not_written_down_is_there_at_the_next_start(
    qtbot: QtBot, tmp_path: Path, hangar: Hangar
) -> None:
    path = hangar.path
    for end in ("closed", "killed"):
        window = Window(open_workbench(Hangar(path), "Samphire"))
        window.show()
        qtbot.waitExposed(window)
        window.activateWindow()
        window.go("log")
        page = window.page("log")
        if end == "killed":
            assert (page.texts["place"].text(), page.remark.toPlainText(), page._minutes) == (  # type: ignore[attr-defined]
                "north dune",
                "closed",
                7.0,
            )
            assert page.trims["roll"].line.text() == "3 right" and page.date.date() == QDate(  # type: ignore[attr-defined]
                2026, 5, 4
            )  # type: ignore[attr-defined]
        page.texts["place"].selectAll()  # type: ignore[attr-defined]
        qtbot.keyClicks(page.texts["place"], "north dune")  # type: ignore[attr-defined]
        page.remark.setPlainText(end)  # type: ignore[attr-defined]
        page.date.setDate(QDate(2026, 5, 4))  # type: ignore[attr-defined]
        page._set_trim("roll", 3)  # type: ignore[attr-defined]
        page.minutes.line.setFocus()  # type: ignore[attr-defined]
        page.minutes.line.selectAll()  # type: ignore[attr-defined]
        qtbot.keyClicks(page.minutes.line, "7")  # type: ignore[attr-defined]
        if end == "closed":
            window.close()
        else:
            qtbot.waitUntil(lambda: not page._rest.isActive(), timeout=10_000)  # type: ignore[attr-defined]  # noqa: B023
    again = Hangar(path)
    assert '"killed"' in again.draft("Samphire") and again.draft("Marram") == ""
    window.close()
    window = Window(open_workbench(again, "Samphire"))
    window.show()
    window.go("log")
    window.page("log").write()  # type: ignore[attr-defined]
    assert '"remark": ""' in again.draft("Samphire")
    assert any(f.flight.remark == "killed" for f in again.flights("Samphire"))
    window.close()


def test_a_long_sentence_at_the_foot_of_a_page_is_not_cut_through(
    qtbot: QtBot, window: Any
) -> None:
    from hypsos.core.rundown import Attention

    strip = window.page("guard").strip
    window.go("guard")
    text = " ".join(["a motor is expected to stand still and it runs"] * 8) + "."
    strip.say(
        [Attention("guard", text, "program.guard"), Attention("guard", "Short.", "x")],
        proposed=False,
    )
    words = strip.words
    assert words.text().endswith(" …") and words.accessibleDescription() == f"1 of 2: {text}"
    room = words.fontMetrics().boundingRect(
        0, 0, words.width(), 1000, int(Qt.TextFlag.TextWordWrap), words.text()
    )
    assert room.height() <= strip.height()
    strip.next.click()
    assert words.text() == "2 of 2: Short."


@pytest.mark.parametrize("step", [s.key for s in STEPS])
def test_a_page_in_sight_bears_that_the_last_model_is_gone(window: Any, step: Any) -> None:
    """Its model was taken out, and the bench says once more that something moved."""
    window.go(step)
    bench, model = window.workbench, window.workbench.model
    bench.state.model = None
    bench.simulation.live_changed.emit()
    bench.simulation.ticked.emit()
    bench.state.model = model
