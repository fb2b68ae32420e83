# SPDX-License-Identifier: GPL-3.0-or-later
"""Captions, timers and the voice in the real window."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model

if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench

import os
import stat

import numpy as np
import pytest
from hands import stand_still
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from hypsos.core.checking.checks import problems
from hypsos.core.edits.ready_announcements import ready_sets, with_ready_set
from hypsos.core.engine import compile_plan
from hypsos.core.engine.announcements import Spoken, seconds_of
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.core.shape.templates import TEMPLATES


def page_of(window: Any) -> Any:
    window.go("say")
    return window.page("say")


def settle() -> None:
    """What has just been made is laid out."""
    for _ in range(4):
        QApplication.processEvents()


@pytest.fixture
def window(window: Any) -> Any:
    window.finish()  # as it is once the bench is on the screen
    stand_still(window.workbench)
    return window


def heard(bench: Workbench) -> Any:
    """What is said from now on."""
    said: Any = []
    bench.simulation.followers.append(lambda result, _: said.extend(s.caption for s in result.said))
    return said


def put(bench: Workbench, **fields: Any) -> None:
    bench.document.apply(
        bench.loaded.changed({"program": bench.loaded.program.changed(fields)}), "trial"
    )


def test_the_ready_sets_say_what_the_model_does(window: Any, qtbot: QtBot) -> None:
    bench = window.workbench
    bench.document.open("Marram")
    put(bench, announcements=(), timers=())
    page, said = page_of(window), heard(bench)
    for button in [page.sets.itemAt(i).widget() for i in range(page.sets.count())]:
        assert button.text().startswith("Add: ")
    for key in [s.key for s in ready_sets(bench.loaded)]:
        page._add_set(key, key)
    assert all(s.there for s in ready_sets(bench.loaded))
    assert with_ready_set(bench.loaded, "motor") == bench.loaded
    bench.simulation.set_control("throttle_stick", 50.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(8.0)
    assert said[:1] == ["Motor locked"] and said.count("Locked: stick low") == 3
    said.clear()
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.advance(3.0)
    bench.simulation.set_control(
        "task_switch", 2.0
    )  # the landing mode borrows the stick: low is brakes out
    bench.simulation.advance(6.0)
    assert said[-3:] == ["Motor cut", "Landing", "Brakes out"]
    said.clear()
    bench.simulation.set_control("throttle_stick", 100.0)
    bench.simulation.advance(4.0)
    assert said == ["Brakes in"]


def test_the_flight_timer_counts_while_the_motor_is_released_and_is_kept(window: Any) -> None:
    bench = window.workbench
    assert [x.label for x in bench.loaded.program.timers] == ["Flight timer"]
    name, said = bench.loaded.program.timers[0].name, heard(bench)

    def shown() -> Any:
        return round(float(bench.state.live.result.timers[name][-1]), 2)

    bench.simulation.advance(0.6)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(175.0)
    assert window.bench.sky.labels["timers"].text() == "Flight timer 3:05"
    bench.simulation.advance(12.0)
    assert "Flight timer: 3 minutes left" in said
    bench.simulation.switch_off_and_on()
    bench.simulation.advance(20.0)
    assert bench.state.guard_words.startswith("Motor locked") and shown() == pytest.approx(
        173, abs=0.1
    )
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(0.1)
    bench.simulation.set_control("motor_switch", 1.0)
    said.clear()
    bench.simulation.advance(165.6)
    assert (
        said[-3:] == ["10", "9", "8"]
        and "Flight timer: 1 minute left" in said
        and "Flight timer: 30 seconds left" in said
    )


def lasting(model: Model, *acts: Any) -> Any:
    """The flight timer's reading in seconds, to the tenth, at each time asked for; the acts as rows
    of moves."""
    made = with_ready_set(
        model.changed({"program": model.program.changed({"timers": ()})}), "flight"
    )
    assert list(problems(made)) == []
    moves = read_moves("\n".join(acts) + "\n", made)
    result = compile_plan(made).run(moves)
    (timer,) = made.program.timers
    return lambda t: round(
        float(result.timers[timer.name][np.searchsorted(moves.t_s, t - 1e-6)]), 1
    )


def test_a_flight_begins_with_the_whole_time_and_a_lock_in_the_air_does_not() -> None:
    model = TEMPLATES["trainer"].begin("Trial")
    reading = lasting(
        model,
        "t_s,motor_switch,throttle_stick",
        "0,0,-100",
        "1,1,-100",
        "301,0,-100",
        "310,1,-100",
        "350,0,-100",
        "411,1,-100",
        "451,1,-100",
    )
    assert (reading(301), reading(309)) == (60.0, 60.0)  # five minutes gone, and it waits
    assert reading(350) == 20.0  # cut and armed again within a minute: the same flight
    assert reading(405) == 20.0  # on the ground it shows what was left
    assert (reading(411.3), reading(451)) == (359.7, 320.0)


def test_a_flight_after_the_transmitter_was_off_begins_with_the_whole_time(window: Any) -> None:
    bench = window.workbench
    bench.document.add(with_ready_set(TEMPLATES["trainer"].begin("Trial"), "flight"))
    name = bench.loaded.program.timers[0].name
    for _ in range(2):
        bench.simulation.advance(1.0)
        bench.simulation.set_control("motor_switch", 1.0)
        bench.simulation.advance(100.0)
        assert bench.state.live.result.timers[name][-1] == pytest.approx(260, abs=0.2)
        bench.simulation.set_control("motor_switch", 0.0)
        bench.simulation.switch_off_and_on()


@pytest.mark.parametrize(("name", "acts", "times"), [
    ("t_tail_sailplane", ("t_s,tow_button", "0,0", "20,1", "20.5,0", "80,0", "90,1", "91,0", "100,0"),
     {19: 360, 80: 300, 100: 350}),
    ("elevon_wing", ("t_s,throttle_stick", "0,-100", "20,60", "50,-100", "80,60", "100,60"),
     {19: 360, 50: 330, 79: 330, 100: 340}),
])  # fmt: skip
def test_without_a_motor_the_time_runs_from_the_launch(name: Any, acts: Any, times: Any) -> None:
    reading = lasting(TEMPLATES[name].begin("Trial"), *acts)
    assert {t: reading(t) for t in times} == pytest.approx(times, abs=0.1)


def test_a_launch_mode_ends_where_the_flight_begins() -> None:
    model = TEMPLATES["t_tail_sailplane"].begin("Trial")
    modes = (
        FlightMode(name="launch", label="Launch", when="rates_switch@2"),
        FlightMode(name="base", label="Cruise"),
    )
    model = model.changed({"program": model.program.changed({"modes": modes})})
    reading = lasting(
        model, "t_s,rates_switch", "0,0", "10,2", "20,0", "50,0", "60,2", "70,0", "100,0"
    )
    assert [reading(t) for t in (9, 19, 50, 69, 100)] == pytest.approx(
        [360, 360, 330, 360, 330], abs=0.1
    )


def test_a_caption_rises_is_heard_and_can_be_muted(
    window: Any, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The system's voice is a program that is found and asked; here a stand-in that writes down
    what it was asked to say."""
    out = tmp_path / "spoken"
    program = tmp_path / "espeak-ng"
    program.write_text(f'#!/bin/sh\necho "$@" >> {out}\n')
    program.chmod(program.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", f"{tmp_path}{os.pathsep}/bin{os.pathsep}/usr/bin")
    bench, page = window.workbench, page_of(window)
    put(
        bench,
        announcements=(Announcement(caption="-x; & rm", when="flap_switch@1", rank="danger"),),
    )
    bench.simulation.set_control("flap_switch", 1.0)
    bench.simulation.advance(0.1)
    caption = window.bench.caption
    assert (
        caption.isVisible()
        and caption.text() == "!  -x; & rm"
        and "-x; & rm" in caption.accessibleName()
    )
    qtbot.waitUntil(lambda: out.exists() and out.read_text() == "-- -x; & rm\n")
    page.said[0].findChildren(type(page.new))[0].click()  # hear it
    qtbot.waitUntil(lambda: out.read_text().count("rm") == 2)
    qtbot.keyClick(window, Qt.Key.Key_F6)
    assert window.workbench.companions.voice.muted and "F6" in window.notice.text.text()
    bench.simulation.set_control("flap_switch", 0.0)
    bench.simulation.advance(0.1)
    bench.simulation.set_control("flap_switch", 1.0)
    bench.simulation.advance(seconds_of("-x; & rm") + 1)
    qtbot.waitUntil(lambda: bench.companions.voice._process is None)
    assert not bench.companions.voice.waiting and out.read_text().count("rm") == 2
    page.refresh()
    assert not page.hear.isChecked()
    page.hear.click()
    assert not bench.companions.voice.muted


def test_a_window_that_goes_leaves_no_voice_behind(
    window: Any,
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capfd: pytest.CaptureFixture[str],
) -> None:
    program = tmp_path / "espeak-ng"
    program.write_text("#!/bin/sh\nexec sleep 60\n")
    program.chmod(program.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", f"{tmp_path}{os.pathsep}/bin{os.pathsep}/usr/bin")
    bench = window.workbench
    put(bench, announcements=(Announcement(caption="Half", when="flap_switch@1"),))
    bench.simulation.set_control("flap_switch", 1.0)
    bench.simulation.advance(0.1)
    qtbot.waitUntil(
        lambda: (
            bench.companions.voice._process is not None
            and bench.companions.voice._process.processId() > 0
        )
    )
    number = bench.companions.voice._process.processId()
    window.close()
    assert bench.companions.voice._process is None and not os.path.exists(f"/proc/{number}/exe")
    assert "Destroyed" not in capfd.readouterr().err


def test_a_voice_that_cannot_speak_is_not_asked_again(
    window: Any, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    program = tmp_path / "espeak-ng"
    program.write_text("#!/bin/sh\nexit 3\n")
    program.chmod(program.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", str(tmp_path))
    bench = window.workbench
    put(bench, announcements=(Announcement(caption="Half", when="flap_switch@1"),))
    bench.simulation.set_control("flap_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.companions.voice.command is not None
    qtbot.waitUntil(lambda: bench.companions.voice.command is None)
    assert window.bench.caption.isVisible()


def test_a_caption_goes_with_its_moment(window: Any) -> None:
    """Put to another moment, the bench does not go on showing what was said at this one."""
    bench = window.workbench
    window.finish()
    window.bench.show_caption(Spoken(0, "Motor armed", "danger", ""))
    assert window.bench.caption.isVisible()
    bench.simulation.hold_at(bench.state.live)
    assert not window.bench.caption.isVisible()


def test_captions_and_timers_are_set_up_on_the_page(window: Any, qtbot: QtBot) -> None:
    bench, page = window.workbench, page_of(window)
    put(bench, announcements=(), timers=())
    page.new_caption.click()
    card = page.said[0]
    assert card.title.hasFocus()
    qtbot.keyClicks(card.title, "Half flaps")
    qtbot.keyClick(card.title, Qt.Key.Key_Return)
    card.moment.setCurrentIndex(2)
    card.moment.activated.emit(2)
    settle()
    assert card.every.isVisible()
    card.every.line.selectAll()
    card.every.line.insert("2.5")
    card.every.line.editingFinished.emit()
    card.rank.activated.emit(0)
    editor = card.editors[0]
    editor.choose(editor.words[0], "switch:flap_switch")
    made = bench.loaded.program.announcements[0]
    assert made == Announcement(
        caption="Half flaps", when="flap_switch@2", moment="while", every_s=2.5, rank="danger"
    )
    page.new_timer.click()
    timer = page.timed[0]
    timer.counts.activated.emit(1)  # down, and from nothing: refused
    assert (
        "counts down from nothing" in window.notice.text.text() and timer.counts.currentIndex() == 0
    )
    for field, text in ((timer.span, "1:30"), (timer.moments, "1:00, 10"), (timer.every, "0:20")):
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
    timer.counts.activated.emit(1)
    timer.keeps.click()
    timer.editors[1].choose(timer.editors[1].words[0], "switch:tow_button")
    made = bench.loaded.program.timers[0]
    assert (made.counts, made.span_s, made.moments, made.every_s, made.keeps) == (
        "down",
        90.0,
        (60.0, 10.0),
        20.0,
        True,
    )
    assert made.reset == "tow_button@1" and timer.moments.text() == "1:00, 0:10"
    timer.span.selectAll()
    qtbot.keyClicks(timer.span, "soon")
    qtbot.keyClick(timer.span, Qt.Key.Key_Return)
    assert "'soon' is not a time" in window.notice.text.text() and timer.span.text() == "1:30"
    timer.gone.click()
    page.said[0].gone.click()
    assert not bench.loaded.program.timers and not bench.loaded.program.announcements
    bench.document.undo()
    assert page.said[0].title.text() == "Half flaps"


def test_what_can_never_be_said_is_said(window: Any) -> None:
    bench, page = window.workbench, page_of(window)
    timer = Timer(name="run", label="Run", when="timer:run_b", last_s=5)
    put(
        bench,
        announcements=(Announcement(caption="Never", when="timer:run"),),
        timers=(
            timer.changed({"when": "link"}),
            timer.changed({"name": "run_b", "label": "Run B", "when": "timer:run"}),
        ),
    )
    texts = [a.text for a in bench.attentions() if a.step == "say"]
    assert "Something waits for Run to run out, and it never does." in texts
    assert "Run B has no end before which it could count its last seconds." in texts
    page.show_place("program.timers[1].last_s")
    settle()
    assert page.timed[1].last.isVisible()


def test_while_only_a_timer_counts_the_bench_wakes_with_its_seconds(window: Any) -> None:
    """Between two seconds there is nothing to see or to say; each second is shown as it comes."""
    bench, words = stand_still(window.workbench), window.bench.sky.labels["timers"]
    bench.simulation.advance(0.6)
    bench.simulation.set_control("motor_switch", 1.0)
    for _ in range(60):  # what still moves comes to rest
        bench.simulation.clock.t += 0.1
        bench.simulation.tick()
    seen = []
    for _ in range(4):
        bench.simulation.clock.t += bench.simulation._timer.interval() / 1000
        bench.simulation.tick()
        seen.append(int(words.text()[-2:]))
    assert bench.simulation._timer.isActive() and seen == list(range(seen[0], seen[0] - 4, -1))
