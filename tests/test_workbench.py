"""The one writer: history, the live state, what follows an edit, recorded moves, an aeroplane to practise on."""

from __future__ import annotations

import numpy as np
import pytest

from hypsos.core.engine import GuardState, Situation
from hypsos.core.errors import DocumentError, HypsosError
from hypsos.core.paths import with_at
from hypsos.core.practice import practice
from hypsos.core.templates import TEMPLATES
from hypsos.desk.history import MOST, Change, History
from hypsos.desk.workbench import Workbench


@pytest.fixture
def bench(qtbot, hangar):
    made = Workbench(hangar, "Samphire")
    yield made
    made._timer.stop()


def test_history_goes_back_and_forth_and_merges():
    value, seen = [0], []
    history = History(lambda: seen.append(history.undo_label))

    def put(new: int, label: str, merge: str = "") -> None:
        old, value[0] = value[0], new
        history.add(Change(label, lambda: value.__setitem__(0, old), lambda: value.__setitem__(0, new), merge))

    put(1, "one")
    put(2, "drag", "drag")
    put(3, "drag", "drag")
    put(4, "other", "else")
    history.undo()
    history.undo()
    assert value == [1] and history.undo_label == "one" and history.redo_label == "drag"
    history.redo()
    assert value == [3]
    put(9, "new way")
    assert history.redo_label is None and seen[-1] == "new way"
    for i in range(MOST + 50):
        put(i, f"step {i}")
    count = 0
    while history.undo_label:
        history.undo()
        count += 1
    assert count == MOST
    history.clear()
    history.undo()
    history.redo()
    assert history.undo_label is None and history.redo_label is None


def test_a_step_that_cannot_be_undone_stays_in_the_history():
    def refuse() -> None:
        raise HypsosError("the hangar is locked")

    history = History(lambda: None)
    history.add(Change("edit", refuse, refuse))
    with pytest.raises(HypsosError):
        history.undo()
    assert history.undo_label == "edit" and history.redo_label is None


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
    bench.set_control("motor_switch", 1.0)
    assert bench.guard == GuardState.RELEASED
    bench.open("Samphire")
    assert bench.guard == GuardState.STOPPED and bench.live.controls["motor_switch"] == 0.0


def test_what_the_hands_hold_survives_an_edit_and_what_is_gone_is_let_go(bench):
    bench.set_control("flap_switch", 2.0)
    bench.choose("tail_wheel")
    bench.edit("leads[0].centre", 3.0, "centre")
    assert bench.live.controls["flap_switch"] == 2.0 and bench.chosen == "tail_wheel"
    assert bench.explanation().part.name == "tail_wheel"
    from hypsos.core.adapt import adapted
    from hypsos.core.layout import without_part

    bench.apply(adapted(bench.model, without_part(bench.model.airframe, "tail_wheel")).model, "no tail wheel")
    assert bench.chosen is None and bench.explanation() is None
    bench.undo()
    assert any(x.target == "tail_wheel" for x in bench.model.leads)


def test_a_held_key_moves_a_stick_and_stops_at_its_end(bench):
    bench.hold("aileron_stick", 400.0)
    for _ in range(200):
        bench._origin -= 0.02
        bench._tick()
    assert bench.live.controls["aileron_stick"] == 100.0
    bench.hold("aileron_stick", 0.0)
    for _ in range(300):
        bench._origin -= 0.02
        bench._tick()
    assert not bench._timer.isActive()


def test_recorded_moves_play_to_their_end_and_leave_the_hands_there(bench):
    t = 0.02 * np.arange(120)
    bench.play(Situation(t, {"aileron_stick": np.linspace(0, 60, 120)}, np.where(t < 2, 1.0, 0.0)))
    assert bench.playing
    for _ in range(130):
        bench._origin -= 0.02
        bench._tick()
    assert not bench.playing and bench.live.controls["aileron_stick"] == 60.0 and bench.live.link == 0.0
    bench.play(Situation(t, {"aileron_stick": np.zeros(120)}))
    bench.stop()
    assert not bench.playing


def test_every_new_model_gets_a_receiver_number_of_its_own(bench):
    for name in ("Dunlin", "Knot"):
        bench.add(TEMPLATES["trainer"].make(name))
    numbers = bench.hangar.numbers()
    assert len(numbers) == len(bench.hangar.names()) and numbers[bench.model.receiver.number] == "Knot"
    copy = with_at(bench.hangar.load("Marram"), "name", "Marram B")
    bench.add(copy)
    assert bench.model.receiver.number not in (0, bench.hangar.load("Marram").receiver.number)


def test_practising_leaves_the_model_alone_and_ends_with_another_model(bench):
    before = bench.model
    bench.practise(practice(bench.model, 4))
    bench.set_control("aileron_stick", 70.0)
    assert bench.shown is not bench.live.result and bench.model is before
    from hypsos.core.adapt import adapted
    from hypsos.core.layout import without_part

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
