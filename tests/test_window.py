# SPDX-License-Identifier: GPL-3.0-or-later
"""The real window, driven through the whole first flight by mouse and keyboard."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import pytest
from hands import press, type_into
from PyQt6.QtCore import QEvent, QObject, QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import to_json
from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState
from hypsos.core.rundown import STEPS
from hypsos.desk.app import open_workbench
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.theme.look import look
from hypsos.desk.window import Window
from hypsos.hangar import Hangar

LEFT = Qt.MouseButton.LeftButton


def new_model(qtbot: QtBot, window: Any, name: str, source: str = "template:tug") -> None:
    page = window.page("model")
    page.source.setCurrentIndex(page.source.findData(source))
    qtbot.keyClicks(page.new_name, name)
    qtbot.keyClick(page.new_name, Qt.Key.Key_Return)
    assert window.workbench.model.name == name


def test_a_new_model_and_its_note(qtbot: QtBot, window: Any) -> None:
    new_model(qtbot, window, "Dunlin")
    qtbot.keyClicks(window.page("model").note, "second tug")
    qtbot.waitUntil(lambda: window.workbench.model.note == "second tug", timeout=20_000)
    assert window.rundown.state("wiring").name == "not begun"


@pytest.mark.parametrize(("width", "narrow"), [(999, True), (1000, False)])
def test_below_a_thousand_pixels_the_rundown_shows_marks_only(
    window: Any, width: Any, narrow: Any
) -> None:
    window.resize(width, 700)
    QApplication.processEvents()
    assert (window.width(), window.rundown.narrow) == (width, narrow)


def test_a_second_lead_on_a_port_is_refused_where_it_stands(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    new_model(qtbot, window, "Dunlin")
    qtbot.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier)
    page = window.page("wiring")
    page.plug("left_flaperon", 1)
    page.rows["right_flaperon"].activated.emit(1)
    assert "already holds Left flaperon" in page.complaints["right_flaperon"].text()
    offered = [
        [page.rows[n].itemText(k) for k in (1, 2)] for n in ("left_flaperon", "right_flaperon")
    ]
    assert offered == [["1", "2"], ["1   L flaperon", "2"]]
    assert bench.model.leads[1].port is None and page.rows["right_flaperon"].currentIndex() == 0
    press(page, "Plug in the rest in order")
    assert sorted(x.port for x in bench.model.leads) == [1, 2, 3, 4, 5, 6, 7]
    assert not page.complaints["left_flaperon"].isVisible()


def test_the_guard_by_mouse_and_key(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("guard")
    page = window.page("guard")
    page.levels.button(1).click()
    assert bench.model.program.guard.level == 1 and window.rundown.state("guard").count == 1
    page.levels.button(2).click()
    toggle = window.bench.hands.toggles["motor_switch"]
    bench.simulation.set_control("throttle_stick", 60.0)
    qtbot.mouseClick(toggle, LEFT, pos=toggle.slot(1).center().toPoint())
    assert window.bench.lamp.words == "Motor locked" and not bench.state.turning
    qtbot.keyClick(toggle, Qt.Key.Key_Up)  # away from the pilot: cut
    assert window.bench.lamp.words == "Motor cut"
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.advance(1.1)
    qtbot.keyClick(toggle, Qt.Key.Key_2)
    bench.simulation.set_control("throttle_stick", 20.0)
    assert window.bench.lamp.words == "Motor armed" and bench.state.powers() == {"motor": 60.0}


def test_the_feel_by_position_of_a_switch(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    new_model(qtbot, window, "Dunlin")
    window.go("feel")
    page = window.page("feel")
    page.switch.activated.emit(page.switch.findData("rates_switch"))
    assert len(page.fields) == 6
    type_into(qtbot, page.fields[(0, "rate_pos")], "45")
    type_into(qtbot, page.fields[(0, "expo")], "30 %")
    axis = bench.model.program.axes[0]
    assert (axis.settings[0].rate_neg, axis.settings[0].rate_pos, axis.settings[0].expo) == (
        45,
        45,
        30,
    )
    type_into(qtbot, page.fields[(0, "expo")], "300")
    assert not page.fields[(0, "expo")].complaint.isHidden() and bench.model.program.axes[0] == axis
    qtbot.keyClick(page.fields[(0, "expo")].line, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bench.model.program.axes[0].settings[0].expo == 40
    assert [x.name for x in page.response.plot.lines] == [
        "low",
        "mid",
        "high",
    ] and page.response.plot.present == 0
    bench.simulation.set_control("aileron_stick", 100.0)
    assert page.response.plot.dot == (100.0, 45.0)
    assert page.alike.isChecked()
    bench.document.edit(
        "program.axes[0].settings[2].rate_neg", 80.0, "one side"
    )  # as another window does it
    assert not page.alike.isChecked() and page.fields[(2, "rate_neg")].line.text() == "80 %"


def test_flaps_in_millimetres_come_in_slowly_and_the_ailerons_go_on(
    qtbot: QtBot, window: Any
) -> None:
    bench = window.workbench
    window.go("flaps")
    page = window.page("flaps")
    type_into(qtbot, page.fields[(1, "positions[1].flap")], "12 mm down")
    flap = bench.model.program.recipes[1].positions[1].flap
    type_into(qtbot, page.fields[(1, "positions[1].elevator")], "5 % up")
    assert bench.model.program.recipes[1].positions[1].elevator == -5
    type_into(qtbot, page.fields[(1, "in_s")], "2")
    rest = bench.state.live.result.outputs["left_flaperon"].stand[-1]
    bench.simulation.set_control("flap_switch", 1.0)
    assert rest <= bench.state.live.result.outputs["left_flaperon"].stand[-1] < rest + 5
    bench.simulation.advance(3)
    demand = bench.state.live.result.sums["left_flaperon"][-1]
    assert demand == pytest.approx(flap, abs=1.5)  # and a click or two of trim
    bench.simulation.set_control("aileron_stick", 100.0)
    sums = bench.state.live.result.sums
    assert sums["left_flaperon"][-1] > demand > sums["right_flaperon"][-1]


def test_the_failsafe_by_proposal_and_by_hand(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("failsafe")
    page = window.page("failsafe")
    press(page, "Stopped, flaps part down")
    type_into(qtbot, page.values["rudder"], "10 % right")
    page.choices["motor"].activated.emit(1)
    assert window.rundown.state("failsafe").name == "needs attention"
    page.choices["motor"].activated.emit(0)
    window.bench.link.click()
    bench.simulation.advance(1.2)
    safe = {x.target: x.failsafe.value for x in bench.model.leads}
    assert (safe["motor"], safe["left_flaperon"], safe["rudder"]) == (
        -100,
        36.7,
        10,
    )  # with the trim
    outputs = bench.state.live.result.outputs
    assert outputs["motor"].us[-1] == 1000 and all(
        outputs[n].failsafe[-1] for n in ("motor", "left_flaperon", "rudder")
    )
    window.bench.link.click()
    assert bench.state.live.link == 1.0


def test_why_by_touching_the_aeroplane_and_a_bar_leads_to_its_number(
    qtbot: QtBot, window: Any
) -> None:
    bench = window.workbench
    bench.simulation.set_control("flap_switch", 1.0)
    bench.simulation.advance(3)
    window.bench.aeroplane.set_view("above")
    window.bench.aeroplane.repaint()
    centre = window.bench.aeroplane.scene.bounds[0].center()
    qtbot.mouseClick(window.bench.aeroplane, LEFT, pos=centre.toPoint())
    assert (
        bench.simulation.chosen == "left_flaperon"
        and window.bench.below.currentWidget().widget() is window.bench.why
    )
    bars = window.bench.why.bars()
    at = next(i for i, b in enumerate(bars) if b.label == "Flaperons")
    row = window.bench.why.row_height()
    qtbot.mouseClick(window.bench.why, LEFT, pos=QPoint(30, int(look.px(22) + row * (at + 0.5))))
    assert window.rundown.current == "flaps"


def test_the_sheet_in_the_window_and_as_files(qtbot: QtBot, window: Any, tmp_path: Path) -> None:
    window.finish()
    window.go("sheet")
    page = window.page("sheet")
    text = page.view.toPlainText()
    assert (
        "Samphire on its own transmitter: key in" in text
        and "Motor guard: its conditions" in text
        and "1000 µs while not C" in text
    )
    for ending in (".pdf", ".html", ".md"):
        page.save(tmp_path / f"sheet{ending}")
        qtbot.waitUntil((tmp_path / f"sheet{ending}").exists, timeout=60_000)
    assert "Shaken down: " in (tmp_path / "sheet.md").read_text()
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    text = (tmp_path / "sheet.md").read_text()
    assert "## Checks: set, measure, compare" in text and "Played against the design: " in text
    assert "<h2>Checks: set, measure, compare</h2>" in (tmp_path / "sheet.html").read_text()


def test_a_flight_is_written_undone_and_all_edits_with_it(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    new_model(qtbot, window, "Dunlin")
    bench.document.edit("leads[0].centre", 3.0, "centre 3 %")
    window.go("log")
    page = window.page("log")
    page.texts["place"].setText("Sandreach, north strip")
    type_into(qtbot, page.minutes, "8.5")
    type_into(qtbot, page.trims["pitch"], "3 down")
    press(page, "Write the flight down")
    flight = bench.document.hangar.flights("Dunlin")[0].flight
    assert (flight.minutes, flight.trims["pitch"], flight.place) == (
        8.5,
        -3,
        "Sandreach, north strip",
    )
    assert window.undo.text().startswith("Undo: flight of")
    press(window, window.undo.text())
    assert (
        bench.document.hangar.flights("Dunlin") == [] and bench.document.undo_label == "centre 3 %"
    )
    bench.document.undo()
    assert bench.model.leads[0].centre == 0 and bench.document.undo_label is None
    while bench.document.redo_label:
        bench.document.redo()
    reopened = Hangar(bench.document.hangar.path)
    assert reopened.load("Dunlin") == bench.model and len(reopened.flights("Dunlin")) == 1
    reopened.close()


class Painted(QObject):
    """Counts how often a widget is painted."""

    def __init__(self, widget: Any) -> None:
        super().__init__(widget)
        self.times = 0
        widget.installEventFilter(self)

    def eventFilter(self, watched: Any, event: Any) -> bool:
        self.times += event.type() == QEvent.Type.Paint
        return False


@pytest.mark.parametrize("mode", [1, 2, 3, 4])
def test_each_stick_mode_puts_the_movements_under_its_thumbs(
    qtbot: QtBot, window: Any, mode: Any
) -> None:
    bench = window.workbench
    left, right = window.bench.hands.sticks["left"], window.bench.hands.sticks["right"]
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    painted = [(Painted(stick), stick.movements()) for stick in (left, right)]
    window.bench.mode.activated.emit(mode - 1)
    assert bench.model.transmitter.stick_mode == mode
    for (seen, before), stick in zip(painted, (left, right), strict=True):
        if before != stick.movements():
            qtbot.waitUntil(lambda seen=seen: seen.times > 0, timeout=20_000)  # type: ignore[misc]
    across = {1: "rudder_stick", 2: "rudder_stick", 3: "aileron_stick", 4: "aileron_stick"}[mode]
    upward = {1: "elevator_stick", 2: "throttle_stick", 3: "elevator_stick", 4: "throttle_stick"}[
        mode
    ]
    assert left.movements() == (across, upward)
    assert {*left.movements(), *right.movements()} == {
        "aileron_stick",
        "elevator_stick",
        "throttle_stick",
        "rudder_stick",
    }
    corner = left.field().topRight().toPoint() + QPoint(-2, 2)
    qtbot.mousePress(left, LEFT, pos=corner)
    throttle = upward == "throttle_stick"
    assert bench.state.live.controls[across] == 100 and bench.state.live.controls[upward] == (
        -100 if throttle else 100
    )
    qtbot.mouseRelease(left, LEFT, pos=corner)
    assert (
        bench.state.live.controls[across] == 0
        and bench.state.live.controls["throttle_stick"] == -100
    )


def test_both_sticks_answer_the_keyboard_at_once_and_spring_back(qtbot: QtBot, window: Any) -> None:
    bench, stick = window.workbench, window.bench.hands.sticks["right"]
    stick.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_W):
        qtbot.keyPress(stick, key)
    qtbot.waitUntil(
        lambda: (
            bench.state.live.controls["aileron_stick"] > 20
            and bench.state.live.controls["throttle_stick"] > -95
        ),
        timeout=20_000,
    )
    for key in (Qt.Key.Key_Right, Qt.Key.Key_W):
        qtbot.keyRelease(stick, key)
    assert (
        bench.state.live.controls["aileron_stick"] == 0
        and bench.state.live.controls["throttle_stick"] > -100
    )
    clicks = bench.model.program.axes[1].trim.clicks
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    painted = Painted(stick)
    qtbot.keyClick(stick, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(
        lambda: painted.times > 0, timeout=20_000
    )  # the mark moves at once, though the stick stands still
    assert (
        bench.model.program.axes[1].trim.clicks == clicks + 1
        and "pitch" in bench.document.undo_label
    )


def test_files_with_something_wrong_are_answered_in_the_window(
    qtbot: QtBot, window: Any, tmp_path: Path
) -> None:
    bench = window.workbench
    before, names = bench.model, bench.document.hangar.names()
    page = window.page("model")
    newer = tmp_path / "newer.json"
    newer.write_text(to_json(before).replace('"schema_version": 4', '"schema_version": 6'))
    damaged = tmp_path / "damaged.json"
    damaged.write_text(to_json(before)[:400])
    foreign = tmp_path / "foreign.json"
    foreign.write_text('{"kind": "shopping list"}')
    for path, said in (
        (newer, "newer Hypsos"), (damaged, "damaged"), (foreign, "not a Hypsos model"), (tmp_path / "no.json", "cannot be read"),
    ):  # fmt: skip
        page.import_file(path)
        assert (
            window.notice.isVisible()
            and said in window.notice.text.text()
            and path.name in window.notice.text.text()
        )
    moves = tmp_path / "moves.csv"
    moves.write_text("t_s,yoke\n0,1\n")
    window.play_moves(moves)
    assert (
        "row 1, column 2: there is no control called yoke" in window.notice.text.text()
        and not bench.simulation.playing
    )
    assert bench.model == before and bench.document.hangar.names() == names


def test_a_hangar_that_cannot_be_written_refuses_the_edit_and_keeps_the_model(
    window: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = window.workbench
    before = bench.model
    bench.document.hangar.read_only = True
    window.go("failsafe")
    press(window.page("failsafe"), "Stopped, flaps part down")
    assert "can be read and not written" in window.notice.text.text()
    assert bench.model == before and bench.document.undo_label is None


def test_a_locked_hangar_and_a_full_disk_are_answered_in_the_window(window: Any) -> None:
    bench = window.workbench
    before = bench.model
    bench.document.hangar._db.execute("PRAGMA busy_timeout = 50")
    other = sqlite3.connect(bench.document.hangar.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    window.go("failsafe")
    press(window.page("failsafe"), "Stopped, flaps part down")
    assert "Another program is writing" in window.notice.text.text() and bench.model == before
    other.execute("ROLLBACK")
    other.close()
    (pages,) = bench.document.hangar._db.execute("PRAGMA page_count").fetchone()
    bench.document.hangar._db.execute(f"PRAGMA max_page_count = {pages}")
    bench.notices.attempt(lambda: bench.document.edit("note", "x" * 4000, "a long note"))
    for i in range(20):
        bench.notices.attempt(lambda i=i: bench.document.add(with_at(before, "name", f"Model {i}")))
    assert "The disk is full" in window.notice.text.text()
    last = len(bench.document.hangar.names())
    bench.notices.attempt(lambda: bench.document.add(with_at(before, "name", "One too many")))
    assert (
        len(bench.document.hangar.names()) == last
        and bench.document.hangar.load("Samphire").airframe == before.airframe
    )


def test_moves_are_played_on_the_bench_in_their_own_time(
    qtbot: QtBot, window: Any, tmp_path: Path
) -> None:
    moves = tmp_path / "moves.csv"
    moves.write_text("t_s,aileron_stick,flap_switch\n0,0,0\n0.1,70,\n0.3,,2\n0.5,,\n")
    window.play_moves(moves)
    bench = window.workbench
    assert bench.simulation.playing and window.bench.play.text() == "Stop playing"
    qtbot.waitUntil(lambda: not bench.simulation.playing, timeout=20_000)
    assert (
        bench.state.live.controls["aileron_stick"] == 70
        and bench.state.live.controls["flap_switch"] == 2
    )


def test_a_copy_a_snapshot_and_another_model(qtbot: QtBot, window: Any) -> None:
    bench, page = window.workbench, window.page("model")
    press(page, "Keep a snapshot")
    bench.document.edit("note", "tried something", "note")
    press(page, "Go back to it")
    assert bench.model.note != "tried something" and bench.document.undo_label == "back to snapshot"
    new_model(qtbot, window, "Samphire B", "copy:Samphire")
    assert bench.model.leads == bench.document.hangar.load("Samphire").leads
    window.models.setCurrentText("Marram")
    window.models.activated.emit(window.models.currentIndex())
    assert bench.model.name == "Marram"
    for key in (s.key for s in STEPS):
        window.go(key)
        QApplication.processEvents()
        assert isinstance(window.pages.currentWidget(), StepPage)


def test_an_empty_hangar_says_what_goes_there_and_offers_the_first_step(
    qtbot: QtBot, window: Any, tmp_path: Path
) -> None:
    empty = Window(open_workbench(Hangar(tmp_path / "new" / "hangar.sqlite3")))
    qtbot.addWidget(empty)
    empty.show()
    empty.go("feel")
    assert (
        empty.welcome.isVisible()
        and empty.windowTitle() == "Hypsos"
        and not empty.models.isVisible()
    )
    tile = empty.welcome.tiles[3]
    qtbot.waitUntil(lambda: all(t.picture is not None for t in empty.welcome.tiles), timeout=20_000)
    QApplication.sendEvent(tile, QEvent(QEvent.Type.Enter))
    assert empty.welcome.alive is tile and empty.welcome.live.isVisible()
    at = dict(empty.welcome.live.simulation.state.live.controls)
    qtbot.waitUntil(
        lambda: (
            empty.welcome.live.simulation.state.live.controls["aileron_stick"]
            != at["aileron_stick"]
        )
    )
    assert all(p == 0 for p in empty.welcome.live.simulation.state.powers().values())
    empty.welcome.mode.setCurrentIndex(0)
    empty.welcome.mode.activated.emit(0)
    tile.click()
    assert empty.workbench.model.transmitter.stick_mode == 1 and not empty.welcome.isVisible()
    empty.page("model").pictures.click()  # type: ignore[attr-defined]
    assert empty.welcome.isVisible()
    press(empty.welcome, "Back")
    empty.go("wiring")
    assert empty.rundown.current == "wiring" and empty.models.currentText() == "T-tail sailplane"


def test_detached_recipes_move_the_same(window: Any) -> None:
    bench = window.workbench
    bench.simulation.set_control("flap_switch", 2.0)
    bench.simulation.advance(3)
    before = {n: t.stand[-1] for n, t in bench.state.live.result.outputs.items()}
    window.go("flaps")
    window.page("flaps").cards[1].detach()
    bench.simulation.advance(3)
    assert len(bench.model.program.recipes) == 1
    assert {n: t.stand[-1] for n, t in bench.state.live.result.outputs.items()} == pytest.approx(
        before
    )


def test_an_unwired_new_sailplane_can_be_opened_again_after_a_crash(
    qtbot: QtBot, window: Any
) -> None:
    new_model(qtbot, window, "Whimbrel", "template:v_tail_sailplane")
    path = window.workbench.document.hangar.path
    again = open_workbench(Hangar(path), "Whimbrel")
    assert again.model == window.workbench.model and again.state.guard == GuardState.CUT
    assert with_at(again.model, "note", "x").note == "x"  # type: ignore[type-var]
    assert Window(again).bench.aeroplane.part_at(QPointF(-5, -5)) is None


def test_sliders_knobs_and_flight_modes_on_the_bench(qtbot: QtBot, window: Any) -> None:
    window.workbench.document.open("Marram")
    bench, hands = window.workbench, window.bench.hands
    fader = hands.faders["camber_slider"]
    qtbot.mouseClick(fader, LEFT, pos=fader.track().center().toPoint() + QPoint(20, 0))
    assert bench.state.live.controls["camber_slider"] > 20
    qtbot.keyClick(fader, Qt.Key.Key_Left)
    qtbot.mouseDClick(fader, LEFT)
    assert bench.state.live.controls["camber_slider"] == 0
    assert window.bench.flown.text() == "Cruise"
    window.go("feel")
    page = window.page("feel")
    assert (
        page.fields[(0, "rate_pos")].line.text() == "80 %"
        and "Roll by mode, rate" in page.shared.text()
    )
    qtbot.keyClick(hands.toggles["flight_switch"], Qt.Key.Key_Down)
    assert (
        window.bench.flown.text() == "Thermal"
        and page.fields[(0, "rate_pos")].line.text() == "85 %"
    )
    bench.simulation.choose("right_ruddervator")
    window.show_place("program.mixes[1].gain")
    assert window.rundown.current == "flaps" and window.page("flaps").mixes[1].line.text() == "80 %"
    window.show_place("program.modes")
    assert window.rundown.current == "modes"
