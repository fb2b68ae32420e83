# SPDX-License-Identifier: GPL-3.0-or-later
"""The one writer: history, the live state, what follows an edit, recorded moves, an aeroplane to
practise on."""

from __future__ import annotations

import threading
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState, Situation
from hypsos.core.fitting.practice_faults import practice
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.services.workbench import Workbench
from hypsos.hangar import Hangar


class HandClock:
    """A clock that goes when it is told to."""

    def __init__(self) -> None:
        self.time = 100.0

    def __call__(self) -> float:
        return self.time


def wait(bench: Workbench, seconds: float) -> None:
    """Let the bench's own ticks come, a frame at a time."""
    for _ in range(round(seconds / 0.02)):
        bench.simulation.clock.time += 0.02  # type: ignore[attr-defined]
        bench.simulation.tick()


@pytest.fixture
def bench(qtbot: QtBot, hangar: Hangar) -> Any:
    made = Workbench(hangar, "Samphire", clock=HandClock())
    return made


def test_an_edit_of_a_model_that_another_window_has_written_is_offered_again(
    qtbot: QtBot, bench: Workbench
) -> None:
    """There the first behaviour is taken out, here the third one is given another name."""
    other = Workbench(Hangar(bench.document.hangar.path), "Marram", clock=HandClock())
    bench.document.open("Marram")
    bench.simulation.advance(1.0)
    recipes = other.loaded.program.recipes
    other.document.edit("program.recipes", recipes[1:], "taken out")
    offered: list[Any] = []
    bench.notices.offered.connect(lambda *said: offered.append(said))
    before = bench.loaded
    bench.document.edit("program.recipes[2].label", "Brakes for the ridge", "another name")
    text, words, again = offered[0]
    assert "your edit (another name) is not in it" in text and words == "Make my edit again"
    assert bench.loaded == other.loaded != before and bench.document.undo_label is None
    again()
    labels = ["Brakes for the ridge" if x is recipes[2] else x.label for x in recipes[1:]]
    assert [x.label for x in bench.loaded.program.recipes] == labels
    assert bench.document.hangar.load("Marram") == bench.loaded
    other.document.look_again()
    assert other.loaded == bench.loaded


def test_an_edit_is_saved_first_and_a_refused_one_changes_nothing(bench: Workbench) -> None:
    before = bench.model
    with pytest.raises(DocumentError):
        bench.document.edit("leads[0].port", 2, "taken port")
    assert bench.model is before and bench.document.undo_label is None
    bench.document.edit("leads[0].centre", 4.0, "centre")
    assert bench.document.hangar.load("Samphire").leads[0].centre == 4.0
    bench.document.undo()
    assert bench.document.hangar.load("Samphire") == before == bench.model
    bench.document.edit("leads[0].centre", 0.0, "nothing new")
    assert bench.document.undo_label is None


def test_power_comes_on_with_the_hands_as_they_are(bench: Workbench) -> None:
    """The very first movement after opening is a movement, not how things stood at power-up."""
    bench.simulation.advance(0.6)  # the stick has rested low
    bench.simulation.set_control("motor_switch", 1.0)
    assert bench.state.guard == GuardState.ARMED
    bench.document.open("Samphire")
    assert bench.state.guard == GuardState.CUT and bench.state.live.controls["motor_switch"] == 0.0


def test_what_the_hands_hold_survives_an_edit_and_what_is_gone_is_let_go(bench: Workbench) -> None:
    bench.simulation.set_control("flap_switch", 2.0)
    bench.simulation.choose("tail_wheel")
    bench.document.edit("leads[0].centre", 3.0, "centre")
    assert (
        bench.state.live.controls["flap_switch"] == 2.0 and bench.simulation.chosen == "tail_wheel"
    )
    assert bench.simulation.explanation().part.name == "tail_wheel"
    from hypsos.core.shape.adapt_model import adapted
    from hypsos.core.shape.layout_choices import without_part

    bench.document.apply(
        adapted(bench.model, without_part(bench.model.airframe, "tail_wheel")).model,
        "no tail wheel",
    )
    assert bench.simulation.chosen is None and bench.simulation.explanation() is None
    bench.document.undo()
    assert any(x.target == "tail_wheel" for x in bench.model.leads)


def test_a_held_key_moves_a_stick_and_stops_at_its_end(bench: Workbench) -> None:
    bench.simulation.hold("aileron_stick", 400.0)
    wait(bench, 4)
    assert bench.state.live.controls["aileron_stick"] == 100.0
    bench.simulation.hold("aileron_stick", 0.0)
    wait(bench, 6)
    assert not bench.simulation.running


def test_recorded_moves_play_to_their_end_and_leave_the_hands_there(bench: Workbench) -> None:
    t = 0.02 * np.arange(120)
    bench.simulation.play(
        Situation(t, {"aileron_stick": np.linspace(0, 60, 120)}, np.where(t < 2, 1.0, 0.0))
    )
    assert bench.simulation.playing
    wait(bench, 2.6)
    assert (
        not bench.simulation.playing
        and bench.state.live.controls["aileron_stick"] == 60.0
        and bench.state.live.link == 0.0
    )
    bench.simulation.play(Situation(t, {"aileron_stick": np.zeros(120)}))
    bench.simulation.stop()
    assert not bench.simulation.playing


ENDS_PLAYING = {
    "a hand": lambda bench: bench.simulation.set_control("aileron_stick", 10.0),
    "an edit": lambda bench: bench.document.edit("leads[3].centre", 2.0, "centre"),
    "off and on": lambda bench: bench.simulation.switch_off_and_on(),
    "another model": lambda bench: bench.document.open("Marram"),
    "a look back": lambda bench: bench.simulation.hold_at(replace(bench.state.live)),
}


@pytest.mark.parametrize("act", ENDS_PLAYING)
def test_whatever_takes_the_bench_in_hand_ends_what_is_played(bench: Workbench, act: Any) -> None:
    """The hands stay where the moves had brought them; switched off and on, or with another model,
    the motor is still."""
    t = 0.02 * np.arange(400)
    armed = {
        "motor_switch": (t >= 0.8).astype(float),
        "throttle_stick": np.where(t < 1.2, -100.0, 40.0),
    }
    bench.simulation.play(Situation(t, armed | {"aileron_stick": np.linspace(0.0, 80.0, 400)}))
    wait(bench, 2.0)
    assert bench.simulation.playing and motor_us(bench) > 1500
    aileron = bench.state.live.controls["aileron_stick"]
    ENDS_PLAYING[act](bench)
    assert not bench.simulation.playing
    wait(bench, 3.0)
    still = act in ("off and on", "another model")
    assert (motor_us(bench) == 1000) == still
    if act != "another model":
        assert bench.state.live.controls["throttle_stick"] == 40.0
        assert bench.state.live.controls["aileron_stick"] == (10.0 if act == "a hand" else aileron)


def motor_us(bench: Workbench) -> float:
    """The pulse that the motor's lead sends."""
    return float(np.ravel(bench.state.live.result.outputs["motor"].us)[-1])


def test_every_new_model_gets_a_receiver_number_of_its_own(bench: Workbench) -> None:
    for name in ("Dunlin", "Knot"):
        bench.document.add(TEMPLATES["trainer"].make(name))
    numbers = bench.document.hangar.numbers()
    assert (
        len(numbers) == len(bench.document.hangar.names())
        and numbers[bench.model.receiver.number] == "Knot"
    )
    copy = with_at(bench.document.hangar.load("Marram"), "name", "Marram B")
    bench.document.add(copy)
    assert bench.model.receiver.number not in (
        0,
        bench.document.hangar.load("Marram").receiver.number,
    )


def test_a_file_is_opened_as_what_the_hangar_holds_or_beside_it(
    bench: Workbench, tmp_path: Path
) -> None:
    """`hypsos FILE.json`: the same model is opened, another one of that name goes beside it, and
    can be taken out again."""
    offers = []
    bench.notices.offered.connect(lambda *x: offers.append(x))
    names, path = bench.document.hangar.names(), tmp_path / "Marram.json"
    marram = bench.document.hangar.load("Marram")
    path.write_text(marram.model_dump_json())
    bench.document.show_file(path)
    assert bench.model == marram and bench.document.hangar.names() == names and not offers
    path.write_text(marram.changed({"note": "Another one"}).model_dump_json())
    bench.document.show_file(path)
    assert (
        bench.model.name != "Marram"
        and bench.model.note == "Another one"
        and bench.document.hangar.load("Marram") == marram
    )
    said, words, act = offers[-1]
    assert (
        said == f"Marram.json is in your hangar now, as {bench.model.name}."
        and words == "Take it out again"
    )
    act()
    assert bench.document.hangar.names() == names


def test_a_model_comes_to_the_bench_with_its_brakes_shut(bench: Workbench) -> None:
    """A slider has no spring: it stands where it gives nothing until a hand moves it, and there it
    stays through an edit."""
    bench.document.open("Tidewrack")
    assert (
        bench.state.live.controls["brake_slider"] == -100
        and bench.state.live.controls["edge_knob"] == 0
    )
    assert bench.state.live.result.outputs["left_aileron"].stand[-1] == 0
    bench.simulation.set_control("brake_slider", 20.0)
    bench.document.edit("program.recipes[0].share", 90.0, "less roll")
    assert bench.state.live.controls["brake_slider"] == 20
    bench.document.open("Sandpiper")
    assert bench.state.live.controls["motor_slider"] == -100


def test_practising_leaves_the_model_alone_and_ends_with_another_model(bench: Workbench) -> None:
    before = bench.model
    bench.simulation.practise(practice(bench.model, 4))
    bench.simulation.set_control("aileron_stick", 70.0)
    assert bench.state.shown is not bench.state.live.result and bench.model is before
    from hypsos.core.shape.adapt_model import adapted
    from hypsos.core.shape.layout_choices import without_part

    bench.document.apply(
        adapted(before, without_part(before.airframe, "elevator")).model, "no elevator"
    )
    assert bench.state.practice is None and bench.state.powers() is not None
    bench.simulation.practise(practice(bench.model, 1))
    bench.document.open("Whinlark")
    assert bench.state.practice is None and bench.state.shown is bench.state.live.result


def test_a_trim_stops_at_the_end_of_its_range(bench: Workbench) -> None:
    axis = next(a for a in bench.model.program.axes if a.command == "pitch")
    for _ in range(60):
        bench.document.trim("pitch", 1)
    made = next(a for a in bench.model.program.axes if a.command == "pitch")
    assert (
        made.trim.clicks * made.trim.step
        <= axis.trim.range
        < (made.trim.clicks + 1) * made.trim.step
    )
    assert bench.document.undo_label.startswith("trim pitch")
    bench.document.undo()
    assert (
        next(a for a in bench.model.program.axes if a.command == "pitch").trim.clicks
        == axis.trim.clicks
    )


def test_moves_on_the_bench_are_those_of_a_trace_frame_by_frame(bench: Workbench) -> None:
    """Power and link quality, the first frame, a press of one frame: played in ticks of any
    size."""
    from hypsos.core.engine import compile_plan

    rng = np.random.default_rng(5)
    frames = 400
    t = 0.02 * np.arange(frames)
    controls = {
        n: np.repeat(rng.integers(-100, 101, 40), 10).astype(float)
        for n in ("aileron_stick", "elevator_stick")
    }
    controls["throttle_stick"] = np.where(t < 2, -100.0, 40.0)
    controls["motor_switch"] = (t >= 0.6).astype(float)
    controls["tow_button"] = (np.arange(frames) == 77).astype(float)
    power = ((t < 4) | (t > 4.5)).astype(float)
    moves = Situation(t, controls, (t < 6).astype(float), power, np.linspace(100, 0, frames))
    trace = compile_plan(bench.model).run(moves)
    seen: Any = {n: [] for n in trace.outputs}
    guard = []

    def note() -> None:
        for n in seen:
            seen[n] += np.ravel(bench.state.live.result.outputs[n].us).tolist()
        guard.extend(np.ravel(bench.state.live.result.guard).tolist())

    bench.simulation.play(moves)
    bench.simulation.live_changed.connect(note)
    while bench.simulation.playing:
        bench.simulation.clock.time += 0.02 * int(rng.integers(1, 9))  # type: ignore[attr-defined]
        bench.simulation.tick()
    assert guard[:frames] == trace.guard.tolist() and GuardState.ARMED in guard
    for n, us in seen.items():
        assert us[:frames] == pytest.approx(trace.outputs[n].us.tolist(), abs=1e-9), n


def run_up(bench: Workbench, power: float = 40.0) -> None:
    """Arm it and give it some power."""
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    bench.simulation.set_control("throttle_stick", power)
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.ARMED


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("program.guard.level", 3), ("program.guard.threshold", -99.0), ("program.guard.cut", (1,)), ("program.frame_s", 0.01),
        ("receiver.failsafe_after_s", 2.0),
    ],
)  # fmt: skip
def test_an_edit_that_reaches_a_motor_locks_and_none_releases(
    bench: Workbench, path: Any, value: Any
) -> None:
    run_up(bench)
    bench.document.edit(path, value, "edit")
    bench.simulation.advance(1.0)
    assert bench.state.guard != GuardState.ARMED and not bench.state.turning
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.advance(1.0)
    bench.document.undo()
    bench.simulation.advance(1.0)
    assert bench.state.guard != GuardState.ARMED
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(0.2)
    bench.document.edit(
        path, value, "edit"
    )  # with cut at the other position, the switch has come to run without a hand
    bench.simulation.advance(1.0)
    assert bench.state.guard != GuardState.ARMED


def test_an_edit_that_reaches_no_motor_leaves_it_running(bench: Workbench) -> None:
    run_up(bench)
    for path, value in (
        ("leads[0].centre", 3.0),
        ("note", "x"),
        ("program.recipes[0].share", 50.0),
        ("leads[0].label", "L"),
    ):
        bench.document.edit(path, value, "edit")
    bench.document.trim("pitch", 2)
    bench.simulation.advance(0.5)
    assert bench.state.guard == GuardState.ARMED and bench.state.turning


def test_a_failed_open_leaves_everything_with_the_model_on_the_bench(
    bench: Workbench, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whatever goes wrong, an edit, a snapshot and a flight after it belong to the model that is
    still there."""
    import hypsos.desk.session.document_session as module

    def broken(model: Model) -> None:
        raise RuntimeError("nobody thought of this")

    before = {n: bench.document.hangar.load(n) for n in bench.document.hangar.names()}
    monkeypatch.setattr(module, "compile_plan", broken)
    with pytest.raises(RuntimeError):
        bench.document.open("Marram")
    monkeypatch.undo()
    bench.document.edit("note", "after the failure", "note")
    bench.document.keep("kept")
    bench.document.edit("name", "Samphire II", "name")
    assert (
        bench.document.hangar.load("Samphire II").note == "after the failure"
        and len(bench.document.hangar.snapshots("Samphire II")) == 1
    )
    assert all(bench.document.hangar.load(n) == m for n, m in before.items() if n != "Samphire")


def test_another_window_is_noticed_before_anything_is_lost(bench: Workbench) -> None:
    from hypsos.hangar import Hangar

    offers, said = [], []  # type: ignore[var-annotated]
    bench.notices.offered.connect(lambda *offer: offers.append(offer))
    bench.notices.noticed.connect(said.append)
    other = Hangar(bench.document.hangar.path)
    theirs = with_at(other.load("Samphire"), "program.axes[0].settings[0].expo", 41.0)
    other.save("Samphire", with_at(theirs, "note", "theirs"))
    bench.document.edit("program.axes[0].settings[1].expo", 9.0, "mine")
    assert (
        bench.model.note == "theirs"
        and bench.document.undo_label is None
        and bench.document.hangar.load("Samphire") == bench.model
    )
    (words, button, again), *more = offers
    assert "your edit (mine) is not in it" in words and button and not more
    again()
    assert [s.expo for s in bench.model.program.axes[0].settings[:2]] == [
        41,
        9,
    ] and bench.document.undo_label == "mine"
    assert (
        bench.document.hangar.load("Samphire") == bench.model
        and bench.model.note == "theirs"
        and not said
    )
    other.save("Samphire", with_at(bench.model, "note", "once more"))
    bench.document.undo()  # would have wiped theirs
    assert (
        bench.model.note == "once more"
        and bench.document.undo_label is None
        and "undo begins anew" in said[-1]
    )
    other.save("Samphire", with_at(bench.model, "note", "and again"))
    bench.document.look_again()
    assert bench.model.note == "and again" and len(said) == 2
    other.taken_out("Samphire")
    with pytest.raises(HypsosError, match="no longer in the hangar"):
        bench.document.edit("note", "mine", "note")
    other.close()


def test_trim_levers_move_the_trim_of_the_mode_flown(bench: Workbench) -> None:
    bench.document.open("Marram")
    bench.simulation.set_control("flight_switch", 1.0)
    bench.simulation.advance(2.0)
    assert bench.state.mode_name == "thermal"
    before, result = (
        bench.model.program.axis("pitch").trim,
        bench.state.live.result.commands["pitch"][-1],
    )
    bench.document.trim("pitch", 2)
    bench.simulation.advance(0.1)
    after = bench.model.program.axis("pitch").trim
    assert (
        after.clicks == before.clicks and after.by_mode["thermal"] == before.by_mode["thermal"] + 2
    )
    assert bench.state.live.result.commands["pitch"][-1] == pytest.approx(result + 2 * before.step)
    assert (
        "in Thermal" in bench.document.undo_label
        and bench.state.trim_clicks("pitch") == before.clicks + after.by_mode["thermal"]
    )
    bench.simulation.set_control("flight_switch", 0.0)
    bench.simulation.advance(2.0)
    assert bench.state.trim_clicks("pitch") == before.clicks


def test_a_flight_mode_added_and_removed_in_the_middle_of_a_fade(bench: Workbench) -> None:
    """The bench goes on, nothing jumps, and undo has its entry."""
    from hypsos.core.parts.flight_mode import FlightMode

    bench.document.open("Marram")
    bench.simulation.set_control("flight_switch", 1.0)
    bench.simulation.advance(0.3)
    before = {
        n: float(x.us[-1]) for n, x in bench.state.live.result.outputs.items() if n != "motor"
    }
    modes = bench.model.program.modes
    extra = FlightMode(
        name="extra",
        label="Extra",
        when="turn_switch@2",
        fade_s=1.0,
        presets={"left_aileron": 30.0},
    )
    bench.document.edit("program.modes", (extra, *modes), "add a mode")
    bench.simulation.advance(0.02)
    assert {
        n: float(x.us[-1]) for n, x in bench.state.live.result.outputs.items() if n != "motor"
    } == pytest.approx(before, abs=8)
    bench.simulation.set_control("turn_switch", 2.0)
    bench.simulation.advance(0.4)
    bench.document.undo()
    bench.simulation.advance(3.0)
    assert bench.state.mode_name == "thermal" and bench.document.redo_label == "add a mode"


def test_what_was_asked_aside_is_not_handed_to_somebody_who_is_gone(qtbot: QtBot) -> None:
    from PyQt6 import sip
    from PyQt6.QtCore import QObject

    from hypsos.desk.services.background import aside

    told: list[int] = []
    gates = [threading.Event() for _ in range(2)]
    owners = [QObject() for _ in gates]
    for owner, gate in zip(owners, gates, strict=True):
        aside(owner, lambda gate=gate: gate.wait(10) and len(told), told.append, told.append)  # type: ignore[misc]
    gates[0].set()
    time.sleep(0.1)  # the answer is under way
    sip.delete(owners[0])
    sip.delete(owners[1])  # and here it is not yet
    gates[1].set()
    qtbot.wait(100)
    assert told == []
