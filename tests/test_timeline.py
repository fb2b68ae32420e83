# SPDX-License-Identifier: GPL-3.0-or-later
"""The timeline in the real window: what it records, the way back, stretches kept as scenarios that
are watched."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model

if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench

import numpy as np
import pytest
from hands import play_scenarios, stand_still
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QComboBox, QFrame, QPushButton

from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import LARGEST, to_json
from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState
from hypsos.core.engine.rest_positions import resting
from hypsos.core.explain.timeline_tracks import values
from hypsos.core.parts.scenario import Expectation, Move, Scenario
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.core.scenarios.scenario_from_recording import trimmed
from hypsos.core.scenarios.scenario_run import moves_of, run_scenarios, scenario_csv, situation_of

KEY, LEFT = Qt.Key, Qt.MouseButton.LeftButton


@pytest.fixture
def bench(window: Any) -> Any:
    """A bench on which time passes only where the test says so."""
    made = stand_still(window.workbench)
    window.finish()
    window.bench._show_lower(3)
    QApplication.processEvents()
    return made


def lanes_of(window: Any) -> Any:
    return window.bench.timeline.lanes


def fly(bench: Workbench, seconds: Any = 4.0, flaps: Any = True) -> Any:
    """Arm, open the throttle, stir the sticks; the pulses of every frame that has passed."""
    pulses: Any = []
    bench.simulation.followers.append(
        lambda r, s: pulses.extend(
            zip(
                s.t_s.tolist(),
                *(np.broadcast_to(o.us, s.t_s.shape) for o in r.outputs.values()),
                strict=True,
            )
        )
    )
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.5)
    bench.simulation.set_control("throttle_stick", 20.0)
    stir(bench, seconds, flaps)
    bench.simulation.followers.pop()
    return pulses


def stir(bench: Workbench, seconds: Any, flaps: Any = True) -> None:
    for k in range(round(seconds / 0.1)):
        bench.simulation.set_control("aileron_stick", float(60.0 * np.sin(0.7 * k)))
        bench.simulation.set_control("flap_switch", float(k // 9 % 3 * flaps))
        bench.simulation.advance(0.1)


def standing(bench: Workbench) -> Any:
    """The pulses of the next frame, with the hands as they are."""
    return [float(o.us[-1]) for o in bench.state.live.result.outputs.values()]


def test_the_bench_goes_back_to_any_moment_and_on_from_there_as_it_did(
    window: Any, bench: Workbench
) -> None:
    pulses = fly(bench)
    recorder, lanes = bench.companions.recorder, lanes_of(window)
    now = bench.state.live
    for ago in (3.9, 2.003, 1.5, 0.4):
        t = recorder.now_s() - ago
        assert lanes.look_at(t) and recorder.away and bench.simulation.held_still
        there = [p for p in pulses if p[0] <= t + 1e-9][-1]
        assert bench.state.live.frame == round(there[0] / bench.state.plan.frame_s)
        at = recorder.index_at(t)
        if recorder.first + at not in [f for f, _ in recorder._snaps]:
            assert standing(bench) == pytest.approx(there[1:])
        bench.simulation.clock.t += 7.0  # type: ignore[attr-defined]  # nothing moves while it is held, however long one looks
        bench.simulation.tick()
        assert bench.state.live.frame == round(there[0] / bench.state.plan.frame_s)
    window.bench.timeline.now.click()
    assert bench.state.live == now and not recorder.away and not bench.simulation.held_still
    start = recorder.index_at(recorder.now_s() - 3.0)
    hands = recorder.situation(start + 1, recorder.index_at(recorder.now_s()) + 1)
    before = {t: rest for t, *rest in pulses}
    lanes.look_at(float(recorder.t_s[start]))
    again = []
    bench.simulation.followers.append(
        lambda r, s: again.append((float(s.t_s[-1]), [float(o.us[-1]) for o in r.outputs.values()]))
    )
    window.bench.timeline.go_on.click()
    for i in range(len(hands.t_s)):
        for name, track in hands.controls.items():
            bench.state.live.controls[name] = float(track[i])
        bench.simulation._commit(bench.state.live.frame + 1)
    assert len(again) == len(hands.t_s)
    for t, us in again:
        assert us == pytest.approx(before[min(before, key=lambda x: abs(x - t))], abs=1e-9)
    assert recorder.t_s[-1] == pytest.approx(again[-1][0]) and (np.diff(recorder.t_s) > 0).all()


def test_a_moment_before_an_edit_is_seen_and_not_gone_back_to(
    window: Any, bench: Workbench
) -> None:
    fly(bench, 2.0)
    recorder, lanes = bench.companions.recorder, lanes_of(window)
    bench.document.edit("program.axes[0].settings[0].rate_pos", 71.0, "rate")
    frame = bench.state.live.frame
    assert not lanes.look_at(recorder.now_s() - 1.0) and bench.state.live.frame == frame
    assert (
        "before the last edit" in window.bench.timeline.says.text()
        and not window.bench.timeline.go_on.isEnabled()
    )
    lanes.pause(False)
    stir(bench, 1.5)
    assert lanes.look_at(recorder.now_s() - 0.2)


def test_an_edit_of_the_guard_while_the_bench_stands_in_the_past_locks(
    window: Any, bench: Workbench
) -> None:
    fly(bench, 2.0)
    lanes_of(window).look_at(bench.companions.recorder.now_s() - 0.6)
    assert bench.state.guard == GuardState.ARMED
    bench.document.edit("program.guard.rest_s", 0.9, "rest")
    assert (
        bench.state.guard == GuardState.LOCKED
        and not bench.simulation.held_still
        and not bench.companions.recorder.away
    )
    bench.simulation.advance(3.0)
    assert not bench.state.turning


def test_another_model_put_on_the_bench_while_it_stands_in_the_past_is_not_held(
    window: Any, bench: Workbench
) -> None:
    for leave in (lambda: bench.document.open("Skerry"), bench.simulation.put_none):
        fly(bench, 1.0)
        assert (
            lanes_of(window).look_at(bench.companions.recorder.now_s() - 0.5)
            and bench.simulation.held_still
        )
        leave()  # type: ignore[no-untyped-call]
        assert not bench.simulation.held_still and not bench.companions.recorder.away
        bench.document.open("Samphire")
        before = bench.simulation.time_s()
        bench.simulation.clock.t += 1.0
        assert bench.simulation.time_s() == pytest.approx(before + 1.0)


def test_a_stretch_is_replayed_as_it_was_also_after_more_than_two_minutes(
    window: Any, bench: Workbench
) -> None:
    for k in range(40):
        bench.simulation.set_control("aileron_stick", float(k))
        bench.simulation.advance(10.0)
    fly(bench)
    recorder = bench.companions.recorder
    assert recorder.first > 0
    for ago in (3.7, 2.003, 1.11):
        start = recorder.index_at(recorder.now_s() - ago)
        end = start + 12
        stretch, result = recorder.replayed(start, end)
        again = values(recorder.tracks, result, stretch)
        assert stretch.t_s[-1] == pytest.approx(recorder.t_s[end - 1])
        assert again[-1] == pytest.approx(recorder.rows[end - 1], abs=1e-9, nan_ok=True)


def test_two_minutes_are_kept_and_no_more_and_another_model_begins_anew(
    window: Any, bench: Workbench
) -> None:
    for k in range(100):
        bench.simulation.set_control("aileron_stick", float(k))
        bench.simulation.advance(10.0)
    recorder = bench.companions.recorder
    assert 119 < recorder.t_s[-1] - recorder.t_s[0] < 300 and len(recorder.rows) == len(
        recorder.t_s
    )
    assert all(recorder.can_go_back(k) for k in range(len(recorder.t_s)))
    lanes_of(window).look_at(recorder.t_s[-1] - 115.0)
    assert bench.state.live.controls["aileron_stick"] == 88.0
    bench.document.open("Whinlark")
    assert len(recorder.t_s) <= 1 and all(x.group != "motors" for x in recorder.tracks)


def test_what_moves_has_a_lane_and_the_cursor_goes_by_mouse_and_keys(
    window: Any, qtbot: QtBot, bench: Workbench
) -> None:
    fly(bench, 3.0)
    lanes, panel = lanes_of(window), window.bench.timeline
    lanes._again()
    names = [bench.companions.recorder.tracks[k].label for k in lanes._lanes]
    assert names[0] == "Motor guard" and {
        "Aileron stick",
        "Flap switch",
        "Motor",
        "Left flaperon",
    } <= set(names)
    assert "Rudder stick" not in names
    panel.all.click()
    assert "Rudder stick" in [bench.companions.recorder.tracks[k].label for k in lanes._lanes]
    panel.all.click()
    plot = lanes.plot()
    qtbot.mouseClick(
        lanes, LEFT, pos=QPoint(plot.right() - plot.width() // 15, plot.top() + 5)
    )  # two seconds of thirty
    assert panel.says.text().startswith("2.") or panel.says.text().startswith("1.9")
    here = lanes.cursor_s
    qtbot.keyClick(lanes, KEY.Key_Left)
    qtbot.keyClick(lanes, KEY.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert (
        lanes.cursor_s == pytest.approx(here + 0.9)
        and "Motor guard armed" in lanes.accessibleDescription()
    )
    qtbot.keyClick(lanes, KEY.Key_Minus)
    assert lanes.span == 60.0
    wheel = QWheelEvent(
        QPointF(200, 40),
        QPointF(200, 40),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.ControlModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    lanes.wheelEvent(wheel)
    assert lanes.span == 30.0
    end = lanes.end_s
    for page, back in ((KEY.Key_PageUp, 15.0), (KEY.Key_PageUp, 30.0), (KEY.Key_PageDown, 15.0)):
        qtbot.keyClick(lanes, page)
        assert lanes.end_s == pytest.approx(end - back) and panel.pause.isChecked()
    qtbot.keyClick(lanes, KEY.Key_Escape)
    assert lanes.end_s is None and lanes.cursor_s is None and not bench.simulation.held_still
    bench.simulation.set_control("rudder_stick", 40.0)
    lanes.look_at(bench.companions.recorder.now_s() - 1.0)
    bench.simulation.set_control("rudder_stick", -40.0)  # a hand moves: time goes on from there
    lanes._tick()
    assert lanes.cursor_s is None and not bench.companions.recorder.away
    window.bench._show_lower(0)
    assert not lanes._clock.isActive()


def test_a_stretch_becomes_a_scenario_that_is_watched(
    window: Any, qtbot: QtBot, bench: Workbench
) -> None:
    bench.simulation.advance(0.5)
    fly(bench, 4.0, flaps=False)
    lanes, recorder = lanes_of(window), bench.companions.recorder
    count = len(bench.loaded.scenarios)
    lanes.look_at(recorder.now_s() - 3.0)
    qtbot.keyClick(lanes, KEY.Key_BracketLeft)
    lanes.look_at(recorder.now_s() - 1.0)
    qtbot.keyClick(lanes, KEY.Key_BracketRight)
    assert "stretch of 2.0 s" in window.bench.timeline.says.text()
    window.bench.timeline.keep.click()
    made = bench.loaded.scenarios[-1]
    assert len(bench.loaded.scenarios) == count + 1 and window.rundown.current == "shake"
    assert (
        3.3 < made.length_s < 3.8
    )  # the arming comes first: the motor was armed as the stretch began
    result = bench.state.plan.run(situation_of(bench.loaded, made))
    assert result.guard[-1] == GuardState.ARMED and not window.notice.isVisible()
    assert np.ptp(result.outputs["left_flaperon"].us) > 50
    page = window.page("shake")
    card = page.cards[-1]
    assert card.title.text() == "Scenario" and "nothing is expected" in card.says.text()
    card.add_expected.click()
    assert bench.loaded.scenarios[-1].expectations[0].kind == "stopped"
    play_scenarios(bench)
    assert "✗ 0 of 1" in card.says.text() and "it ran with 60 % power" in card.broken.text()
    assert window.rundown.state("shake").count == 1
    found = [a for a in bench.attentions() if a.step == "shake"]
    assert found[0].path == f"scenarios[{count}]" and "it ran with" in found[0].text
    put = made.changed(
        {"expectations": (Expectation(kind="runs", what="motor", from_s=2.0, to_s=2.0),)}
    )
    card._put(put, "expected")
    play_scenarios(bench)
    assert (
        "✓ as expected (1)" in card.says.text() and window.rundown.state("shake").name == "settled"
    )
    bench.document.edit("program.guard.cut", (1,), "the other way round")
    play_scenarios(bench)
    assert window.rundown.state("shake").name == "needs attention"
    bench.document.undo()
    play_scenarios(bench)
    assert window.rundown.state("shake").name == "settled"
    next(b for b in card.findChildren(QPushButton) if b.text() == "Play").click()
    bench.simulation.clock.t += 0.5  # type: ignore[attr-defined]
    bench.simulation.tick()
    assert bench.simulation.playing and bench.state.guard == GuardState.CUT


def test_scenarios_are_played_beside_the_window_after_an_edit(
    window: Any, qtbot: QtBot, bench: Workbench
) -> None:
    assert all(x.good for x in run_scenarios(bench.loaded))
    qtbot.waitUntil(lambda: bench.companions.scenarios.outcomes is not None, timeout=20_000)
    bench.document.edit("program.recipes[1].positions[2].flap", 20.0, "less flap")
    assert bench.companions.scenarios.outcomes is None
    qtbot.waitUntil(lambda: bench.companions.scenarios.outcomes is not None, timeout=20_000)
    assert any("Flaperons out and in" in a.text for a in bench.attentions())
    window.go("shake")
    assert any("stands from" in c.broken.text() for c in window.page("shake").cards)


def test_moves_and_expectations_are_edited_as_a_list(
    window: Any, qtbot: QtBot, bench: Workbench
) -> None:
    window.go("shake")
    page = window.page("shake")
    page.new.click()
    card = page.cards[-1]
    for _ in range(2):
        card.add_move.click()
    moves = bench.loaded.scenarios[-1].moves
    assert [m.t_s for m in moves] == [0.0, 1.0]
    card._put_move(1, control="flap_switch", to=2.0)
    card._put_move(0, t_s=3.0)
    assert [(m.t_s, m.control) for m in bench.loaded.scenarios[-1].moves] == [
        (1.0, "flap_switch"),
        (3.0, "throttle_stick"),
    ]
    card._trim()
    card._set_from(2.0)
    card.trim.click()
    made = bench.loaded.scenarios[-1]
    assert (made.length_s, [(m.t_s, m.control) for m in made.moves]) == (
        3.0,
        [(0.0, "flap_switch"), (1.0, "throttle_stick")],
    )
    card._set_from(9.0)
    card.trim.click()
    assert "othing would be left" in window.notice.text.text()
    with pytest.raises(Exception, match="must not end before"):
        card._put_expected(0, Expectation(kind="holds", what="link", from_s=3, to_s=1))
    page.usual.click()
    assert not page.usual.isVisibleTo(page)  # they are all there


def test_what_is_expected_of_a_part_that_is_gone_can_be_seen_changed_and_removed(
    window: Any, bench: Workbench
) -> None:
    """Another airframe can leave expectations behind that name nothing of it, while their rows are
    open."""
    window.go("shake")
    page = window.page("shake")
    page.new.click()
    card = page.cards[-1]
    card.open()
    place = len(bench.loaded.scenarios) - 1
    gone = (
        Expectation(kind="stands", what="lost_flap", from_s=0, to_s=1),
        Expectation(kind="holds", what="!lost", from_s=0, to_s=1),
    )
    bench.document.edit(f"scenarios[{place}].expectations", gone, "gone")
    frames = [
        f for f in card._more.findChildren(QFrame) if f.toolTip().startswith("from 0 s to 1 s")
    ]
    rows = [f.findChildren(QComboBox) for f in frames]
    assert [(r[1].currentIndex(), r[1].placeholderText()) for r in rows] == [
        (-1, "not there any more")
    ] * 2
    rows[1][2].setCurrentIndex(0)
    rows[1][2].activated.emit(0)
    assert bench.loaded.scenarios[-1].expectations[1].what == "lost"
    card = page.cards[-1]
    named = [
        b for b in card.findChildren(QPushButton) if b.accessibleName() == "Remove expectation 1"
    ]
    named[-1].click()
    assert [x.what for x in bench.loaded.scenarios[-1].expectations] == ["lost"]


def test_a_scenario_goes_out_as_csv_and_comes_back(samphire: Model, marram: Model) -> None:
    for model in (samphire, marram):
        for scenario in model.scenarios:
            moves = read_moves(scenario_csv(scenario), model)
            mine = situation_of(model, scenario)
            for name, track in mine.controls.items():
                np.testing.assert_allclose(
                    np.asarray(moves.controls[name])[: len(track)], track, err_msg=name
                )
            back = moves_of(moves, resting(model))
            there = {(round(m.t_s, 6), m.control, m.to) for m in back}
            rest = resting(model)
            moved = {
                (m.t_s, m.control, m.to)
                for m in scenario.moves
                if m.t_s or m.to != rest.get(m.control)
            }
            assert (
                there <= {(m.t_s, m.control, m.to) for m in scenario.moves}
                and len(there) >= len(moved) - 4
            )


def test_a_scenario_that_no_longer_fits_says_so(samphire: Model) -> None:
    scenario = samphire.scenarios[0]
    gone = with_at(samphire, "scenarios[0].moves[0].control", "lost_switch")
    outcome = run_scenarios(gone)[0]
    assert not outcome.good and "no control lost_switch any more" in outcome.broken[0].text
    for what, kind in (("mode:none", "holds"), ("tow_motor", "runs"), ("no caption", "said")):
        x = Expectation(kind=kind, what=what, from_s=0, to_s=1)
        broken = run_scenarios(
            samphire.changed({"scenarios": (scenario.changed({"expectations": (x,)}),)})
        )[0].broken
        assert broken[0].place == 0
    assert trimmed(samphire, scenario, 0.0, 1.0).length_s == 1.0


def test_as_many_scenarios_as_may_be_are_read_again(samphire: Model) -> None:
    names = [c.name for c in samphire.transmitter.controls] + [
        "aileron_stick",
        "elevator_stick",
        "rudder_stick",
    ]
    moves = tuple(
        Move(t_s=0.70123 * k, control=names[k % 3 + 4], to=-63.21987654321) for k in range(800)
    )
    expected = tuple(
        Expectation(kind="said", what="x" * 80, from_s=1.2345, to_s=599.98765) for _ in range(60)
    )
    whole = Scenario(label="y" * 60, moves=moves, length_s=600.0, expectations=expected)
    model = samphire.changed({"scenarios": (whole,) * 20})
    text = to_json(model)
    assert len(text) < LARGEST and from_json(text, "whole") == model


def test_a_long_stretch_is_thinned_and_still_lands_where_it_did(
    window: Any, bench: Workbench
) -> None:
    bench.simulation.advance(1.0)
    for k in range(900):
        bench.simulation.set_control("aileron_stick", float(60.0 * np.sin(0.05 * k)))
        bench.simulation.set_control("elevator_stick", float(30.0 * np.sin(0.04 * k)))
        bench.simulation.advance(0.02)
    window.bench.timeline.keep.click()
    made = bench.loaded.scenarios[-1]
    assert 400 < len(made.moves) <= 800
    last = {m.control: m.to for m in made.moves}
    assert last["aileron_stick"] == bench.state.live.controls["aileron_stick"]


def test_at_rest_the_timeline_is_painted_a_few_times_a_second_and_wakes_with_the_hands(
    window: Any, qtbot: QtBot
) -> None:
    from hypsos.desk.bench.timeline_view import FRAMES_MS, REST_MS

    window.finish()
    window.bench.show_timeline()
    lanes = window.bench.timeline.lanes
    lanes._tick()
    lanes._tick()
    bench = stand_still(window.workbench)
    bench.simulation.advance(0.1)
    lanes._tick()
    for _ in range(8):
        bench.simulation.clock.t += 0.3  # time goes on, and nothing else
        bench.simulation.tick()
        lanes._tick()
    assert lanes._clock.interval() == REST_MS
    window.workbench.simulation.set_control("aileron_stick", 30.0)
    assert lanes._clock.interval() == FRAMES_MS
