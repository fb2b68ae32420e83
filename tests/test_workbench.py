# SPDX-License-Identifier: GPL-3.0-or-later
"""The one writer: history, the live state, what follows an edit, recorded moves, an aeroplane to practise on."""

from __future__ import annotations

import threading
import time
from dataclasses import replace

import numpy as np
import pytest

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState, Situation
from hypsos.core.fitting.practice_faults import practice
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.session.document_session import DocumentSession


class HandClock:
    """A clock that goes when it is told to."""

    def __init__(self) -> None:
        self.time = 100.0

    def __call__(self) -> float:
        return self.time


def wait(bench, seconds: float) -> None:
    """Let the bench's own ticks come, a frame at a time."""
    for _ in range(round(seconds / 0.02)):
        bench.clock.time += 0.02
        bench.tick()


@pytest.fixture
def bench(qtbot, hangar):
    made = DocumentSession(hangar, "Samphire", clock=HandClock())
    return made


def test_an_edit_is_saved_first_and_a_refused_one_changes_nothing(bench):
    before = bench.model
    with pytest.raises(DocumentError):
        bench.edit("leads[0].port", 2, "taken port")
    assert bench.model is before and bench.undo_label is None
    bench.edit("leads[0].centre", 4.0, "centre")
    assert bench.hangar.load("Samphire").leads[0].centre == 4.0
    bench.undo()
    assert bench.hangar.load("Samphire") == before == bench.model
    bench.edit("leads[0].centre", 0.0, "nothing new")
    assert bench.undo_label is None


def test_power_comes_on_with_the_hands_as_they_are(bench):
    """The very first movement after opening is a movement, not how things stood at power-up."""
    bench.advance(0.6)  # the stick has rested low
    bench.set_control("motor_switch", 1.0)
    assert bench.guard == GuardState.ARMED
    bench.open("Samphire")
    assert bench.guard == GuardState.CUT and bench.live.controls["motor_switch"] == 0.0


def test_what_the_hands_hold_survives_an_edit_and_what_is_gone_is_let_go(bench):
    bench.set_control("flap_switch", 2.0)
    bench.choose("tail_wheel")
    bench.edit("leads[0].centre", 3.0, "centre")
    assert bench.live.controls["flap_switch"] == 2.0 and bench.chosen == "tail_wheel"
    assert bench.explanation().part.name == "tail_wheel"
    from hypsos.core.shape.adapt_model import adapted
    from hypsos.core.shape.layout_choices import without_part

    bench.apply(adapted(bench.model, without_part(bench.model.airframe, "tail_wheel")).model, "no tail wheel")
    assert bench.chosen is None and bench.explanation() is None
    bench.undo()
    assert any(x.target == "tail_wheel" for x in bench.model.leads)


def test_a_held_key_moves_a_stick_and_stops_at_its_end(bench):
    bench.hold("aileron_stick", 400.0)
    wait(bench, 4)
    assert bench.live.controls["aileron_stick"] == 100.0
    bench.hold("aileron_stick", 0.0)
    wait(bench, 6)
    assert not bench.running


def test_recorded_moves_play_to_their_end_and_leave_the_hands_there(bench):
    t = 0.02 * np.arange(120)
    bench.play(Situation(t, {"aileron_stick": np.linspace(0, 60, 120)}, np.where(t < 2, 1.0, 0.0)))
    assert bench.playing
    wait(bench, 2.6)
    assert not bench.playing and bench.live.controls["aileron_stick"] == 60.0 and bench.live.link == 0.0
    bench.play(Situation(t, {"aileron_stick": np.zeros(120)}))
    bench.stop()
    assert not bench.playing


ENDS_PLAYING = {
    "a hand": lambda bench: bench.set_control("aileron_stick", 10.0),
    "an edit": lambda bench: bench.edit("leads[3].centre", 2.0, "centre"),
    "off and on": lambda bench: bench.switch_off_and_on(),
    "another model": lambda bench: bench.open("Marram"),
    "a look back": lambda bench: bench.hold_at(replace(bench.live)),
}


@pytest.mark.parametrize("act", ENDS_PLAYING)
def test_whatever_takes_the_bench_in_hand_ends_what_is_played(bench, act):
    """The hands stay where the moves had brought them; switched off and on, or with another model, the motor is still."""
    t = 0.02 * np.arange(400)
    armed = {"motor_switch": (t >= 0.8).astype(float), "throttle_stick": np.where(t < 1.2, -100.0, 40.0)}
    bench.play(Situation(t, armed | {"aileron_stick": np.linspace(0.0, 80.0, 400)}))
    wait(bench, 2.0)
    assert bench.playing and motor_us(bench) > 1500
    aileron = bench.live.controls["aileron_stick"]
    ENDS_PLAYING[act](bench)
    assert not bench.playing
    wait(bench, 3.0)
    still = act in ("off and on", "another model")
    assert (motor_us(bench) == 1000) == still
    if act != "another model":
        assert bench.live.controls["throttle_stick"] == 40.0
        assert bench.live.controls["aileron_stick"] == (10.0 if act == "a hand" else aileron)


def motor_us(bench) -> float:
    """The pulse that the motor's lead sends."""
    return float(np.ravel(bench.live.result.outputs["motor"].us)[-1])


def test_every_new_model_gets_a_receiver_number_of_its_own(bench):
    for name in ("Dunlin", "Knot"):
        bench.add(TEMPLATES["trainer"].make(name))
    numbers = bench.hangar.numbers()
    assert len(numbers) == len(bench.hangar.names()) and numbers[bench.model.receiver.number] == "Knot"
    copy = with_at(bench.hangar.load("Marram"), "name", "Marram B")
    bench.add(copy)
    assert bench.model.receiver.number not in (0, bench.hangar.load("Marram").receiver.number)


def test_a_file_is_opened_as_what_the_hangar_holds_or_beside_it(bench, tmp_path):
    """`hypsos FILE.json`: the same model is opened, another one of that name goes beside it, and can be taken out again."""
    offers = []
    bench.offered.connect(lambda *x: offers.append(x))
    names, path = bench.hangar.names(), tmp_path / "Marram.json"
    marram = bench.hangar.load("Marram")
    path.write_text(marram.model_dump_json())
    bench.show_file(path)
    assert bench.model == marram and bench.hangar.names() == names and not offers
    path.write_text(marram.changed({"note": "Another one"}).model_dump_json())
    bench.show_file(path)
    assert bench.model.name != "Marram" and bench.model.note == "Another one" and bench.hangar.load("Marram") == marram
    said, words, act = offers[-1]
    assert said == f"Marram.json is in your hangar now, as {bench.model.name}." and words == "Take it out again"
    act()
    assert bench.hangar.names() == names


def test_a_model_comes_to_the_bench_with_its_brakes_shut(bench):
    """A slider has no spring: it stands where it gives nothing until a hand moves it, and there it stays through an edit."""
    bench.open("Tidewrack")
    assert bench.live.controls["brake_slider"] == -100 and bench.live.controls["edge_knob"] == 0
    assert bench.live.result.outputs["left_aileron"].stand[-1] == 0
    bench.set_control("brake_slider", 20.0)
    bench.edit("program.recipes[0].share", 90.0, "less roll")
    assert bench.live.controls["brake_slider"] == 20
    bench.open("Sandpiper")
    assert bench.live.controls["motor_slider"] == -100


def test_practising_leaves_the_model_alone_and_ends_with_another_model(bench):
    before = bench.model
    bench.practise(practice(bench.model, 4))
    bench.set_control("aileron_stick", 70.0)
    assert bench.shown is not bench.live.result and bench.model is before
    from hypsos.core.shape.adapt_model import adapted
    from hypsos.core.shape.layout_choices import without_part

    bench.apply(adapted(before, without_part(before.airframe, "elevator")).model, "no elevator")
    assert bench.practice is None and bench.powers() is not None
    bench.practise(practice(bench.model, 1))
    bench.open("Whinlark")
    assert bench.practice is None and bench.shown is bench.live.result


def test_a_trim_stops_at_the_end_of_its_range(bench):
    axis = next(a for a in bench.model.program.axes if a.command == "pitch")
    for _ in range(60):
        bench.trim("pitch", 1)
    made = next(a for a in bench.model.program.axes if a.command == "pitch")
    assert made.trim.clicks * made.trim.step <= axis.trim.range < (made.trim.clicks + 1) * made.trim.step
    assert bench.undo_label.startswith("trim pitch")
    bench.undo()
    assert next(a for a in bench.model.program.axes if a.command == "pitch").trim.clicks == axis.trim.clicks


def test_moves_on_the_bench_are_those_of_a_trace_frame_by_frame(bench):
    """Power and link quality, the first frame, a press of one frame: played in ticks of any size."""
    from hypsos.core.engine import compile_plan

    rng = np.random.default_rng(5)
    frames = 400
    t = 0.02 * np.arange(frames)
    controls = {
        n: np.repeat(rng.integers(-100, 101, 40), 10).astype(float) for n in ("aileron_stick", "elevator_stick")
    }
    controls["throttle_stick"] = np.where(t < 2, -100.0, 40.0)
    controls["motor_switch"] = (t >= 0.6).astype(float)
    controls["tow_button"] = (np.arange(frames) == 77).astype(float)
    power = ((t < 4) | (t > 4.5)).astype(float)
    moves = Situation(t, controls, (t < 6).astype(float), power, np.linspace(100, 0, frames))
    trace = compile_plan(bench.model).run(moves)
    seen = {n: [] for n in trace.outputs}
    guard = []

    def note() -> None:
        for n in seen:
            seen[n] += np.ravel(bench.live.result.outputs[n].us).tolist()
        guard.extend(np.ravel(bench.live.result.guard).tolist())

    bench.play(moves)
    bench.live_changed.connect(note)
    while bench.playing:
        bench.clock.time += 0.02 * int(rng.integers(1, 9))
        bench.tick()
    assert guard[:frames] == trace.guard.tolist() and GuardState.ARMED in guard
    for n, us in seen.items():
        assert us[:frames] == pytest.approx(trace.outputs[n].us.tolist(), abs=1e-9), n


def run_up(bench, power: float = 40.0) -> None:
    """Arm it and give it some power."""
    bench.advance(1.0)
    bench.set_control("motor_switch", 1.0)
    bench.advance(0.1)
    bench.set_control("throttle_stick", power)
    bench.advance(0.1)
    assert bench.guard == GuardState.ARMED


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("program.guard.level", 3), ("program.guard.threshold", -99.0), ("program.guard.cut", (1,)), ("program.frame_s", 0.01),
        ("receiver.failsafe_after_s", 2.0),
    ],
)  # fmt: skip
def test_an_edit_that_reaches_a_motor_locks_and_none_releases(bench, path, value):
    run_up(bench)
    bench.edit(path, value, "edit")
    bench.advance(1.0)
    assert bench.guard != GuardState.ARMED and not bench.turning
    bench.set_control("throttle_stick", -100.0)
    bench.advance(1.0)
    bench.undo()
    bench.advance(1.0)
    assert bench.guard != GuardState.ARMED
    bench.set_control("motor_switch", 0.0)
    bench.advance(0.2)
    bench.edit(path, value, "edit")  # with cut at the other position, the switch has come to run without a hand
    bench.advance(1.0)
    assert bench.guard != GuardState.ARMED


def test_an_edit_that_reaches_no_motor_leaves_it_running(bench):
    run_up(bench)
    for path, value in (
        ("leads[0].centre", 3.0),
        ("note", "x"),
        ("program.recipes[0].share", 50.0),
        ("leads[0].label", "L"),
    ):
        bench.edit(path, value, "edit")
    bench.trim("pitch", 2)
    bench.advance(0.5)
    assert bench.guard == GuardState.ARMED and bench.turning


def test_a_failed_open_leaves_everything_with_the_model_on_the_bench(bench, monkeypatch):
    """Whatever goes wrong, an edit, a snapshot and a flight after it belong to the model that is still there."""
    import hypsos.desk.session.document_session as module

    def broken(model):
        raise RuntimeError("nobody thought of this")

    before = {n: bench.hangar.load(n) for n in bench.hangar.names()}
    monkeypatch.setattr(module, "compile_plan", broken)
    with pytest.raises(RuntimeError):
        bench.open("Marram")
    monkeypatch.undo()
    bench.edit("note", "after the failure", "note")
    bench.keep("kept")
    bench.edit("name", "Samphire II", "name")
    assert (
        bench.hangar.load("Samphire II").note == "after the failure" and len(bench.hangar.snapshots("Samphire II")) == 1
    )
    assert all(bench.hangar.load(n) == m for n, m in before.items() if n != "Samphire")


def test_another_window_is_noticed_before_anything_is_lost(bench):
    from hypsos.hangar import Hangar

    offers, said = [], []
    bench.offered.connect(lambda *offer: offers.append(offer))
    bench.noticed.connect(said.append)
    other = Hangar(bench.hangar.path)
    theirs = with_at(other.load("Samphire"), "program.axes[0].settings[0].expo", 41.0)
    other.save("Samphire", with_at(theirs, "note", "theirs"))
    bench.edit("program.axes[0].settings[1].expo", 9.0, "mine")
    assert bench.model.note == "theirs" and bench.undo_label is None and bench.hangar.load("Samphire") == bench.model
    (words, button, again), *more = offers
    assert "your edit (mine) is not in it" in words and button and not more
    again()
    assert [s.expo for s in bench.model.program.axes[0].settings[:2]] == [41, 9] and bench.undo_label == "mine"
    assert bench.hangar.load("Samphire") == bench.model and bench.model.note == "theirs" and not said
    other.save("Samphire", with_at(bench.model, "note", "once more"))
    bench.undo()  # would have wiped theirs
    assert bench.model.note == "once more" and bench.undo_label is None and "undo begins anew" in said[-1]
    other.save("Samphire", with_at(bench.model, "note", "and again"))
    bench.look_again()
    assert bench.model.note == "and again" and len(said) == 2
    other.remove("Samphire")
    with pytest.raises(HypsosError, match="no longer in the hangar"):
        bench.edit("note", "mine", "note")
    other.close()


def test_trim_levers_move_the_trim_of_the_mode_flown(bench):
    bench.open("Marram")
    bench.set_control("flight_switch", 1.0)
    bench.advance(2.0)
    assert bench.mode_name == "thermal"
    before, result = bench.model.program.axis("pitch").trim, bench.live.result.commands["pitch"][-1]
    bench.trim("pitch", 2)
    bench.advance(0.1)
    after = bench.model.program.axis("pitch").trim
    assert after.clicks == before.clicks and after.by_mode["thermal"] == before.by_mode["thermal"] + 2
    assert bench.live.result.commands["pitch"][-1] == pytest.approx(result + 2 * before.step)
    assert "in Thermal" in bench.undo_label and bench.trim_clicks("pitch") == before.clicks + after.by_mode["thermal"]
    bench.set_control("flight_switch", 0.0)
    bench.advance(2.0)
    assert bench.trim_clicks("pitch") == before.clicks


def test_a_flight_mode_added_and_removed_in_the_middle_of_a_fade(bench):
    """The bench goes on, nothing jumps, and undo has its entry."""
    from hypsos.core.parts.flight_mode import FlightMode

    bench.open("Marram")
    bench.set_control("flight_switch", 1.0)
    bench.advance(0.3)
    before = {n: float(x.us[-1]) for n, x in bench.live.result.outputs.items() if n != "motor"}
    modes = bench.model.program.modes
    extra = FlightMode(name="extra", label="Extra", when="turn_switch@2", fade_s=1.0, presets={"left_aileron": 30.0})
    bench.edit("program.modes", (extra, *modes), "add a mode")
    bench.advance(0.02)
    assert {n: float(x.us[-1]) for n, x in bench.live.result.outputs.items() if n != "motor"} == pytest.approx(
        before, abs=8
    )
    bench.set_control("turn_switch", 2.0)
    bench.advance(0.4)
    bench.undo()
    bench.advance(3.0)
    assert bench.mode_name == "thermal" and bench.redo_label == "add a mode"


def test_what_was_asked_aside_is_not_handed_to_somebody_who_is_gone(qtbot):
    from PyQt6 import sip
    from PyQt6.QtCore import QObject

    from hypsos.desk.services.background import aside

    told: list[int] = []
    gates = [threading.Event() for _ in range(2)]
    owners = [QObject() for _ in gates]
    for owner, gate in zip(owners, gates, strict=True):
        aside(owner, lambda gate=gate: gate.wait(10) and len(told), told.append, told.append)
    gates[0].set()
    time.sleep(0.1)  # the answer is under way
    sip.delete(owners[0])
    sip.delete(owners[1])  # and here it is not yet
    gates[1].set()
    qtbot.wait(100)
    assert told == []
