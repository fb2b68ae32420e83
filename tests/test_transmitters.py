# SPDX-License-Identifier: GPL-3.0-or-later
"""One transmitter for many models: controls go where they fit, and the model flies on as it did."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hands import choose, wild_hands
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from hypsos.core.checking.checks import problems
from hypsos.core.dependencies.references import uses, without_place
from hypsos.core.document.document import Model
from hypsos.core.edits.controls import cut_end, with_cut_end
from hypsos.core.edits.transmitters import profile_of, shipped, taken
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.shape.templates import TEMPLATES
from hypsos.hangar import Hangar

DEMO = ["Marram", "Samphire", "Skerry", "Sorrel", "Tidewrack", "Whinlark"]


def wild(model: Model, seed: int, frames: Any = 400) -> Any:
    """Hands that go through every position a model has."""
    return wild_hands(model, np.random.default_rng(seed), frames, control_held=10, stick_held=8)


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("profile", shipped(), ids=lambda p: p.name)
def test_a_model_on_another_transmitter_does_what_it_did(
    hangar: Hangar, name: Any, profile: Any
) -> None:
    model = hangar.load(name)
    change = taken(model, profile)
    made = change.model
    assert list(problems(made)) == [] and made.transmitter.taken == profile.name
    used = {c.label for c in model.transmitter.controls if uses(model).get(c.name)}
    assert {mine for mine, _ in change.placed} | set(change.homeless) == used
    assert len({place for _, place in change.placed}) == len(change.placed)
    assert set(without_place(made)) == set(change.homeless)
    seats = {x.place: x for x in profile.controls}
    for c in made.transmitter.controls:
        if c.place:
            seat = seats.pop(c.place)
            assert (c.kind, c.hand, len(c.positions)) == (seat.kind, seat.hand, len(seat.positions))
    assert not seats  # everything the transmitter has is there
    guard = model.program.guard
    if guard is not None:
        switch = made.transmitter.control(guard.switch)
        assert switch.place or switch.label in change.homeless
        old = model.transmitter.control(guard.switch).positions
        new = {p: i for i, p in enumerate(switch.positions)}
        cut = {switch.positions[i] for i in made.program.guard.cut}
        assert (
            cut == {old[i] for i in guard.cut} | (set(new) - set(old))
            and made.transmitter.first_end == profile.first_end
        )
    hands, t = wild(model, 5), 0.02 * np.arange(400)
    before = compile_plan(model).run(Situation(t, hands))
    moved = dict(hands)
    for c in (
        model.transmitter.controls
    ):  # the hand moves a switch to the same end, and to the same name
        seat = made.transmitter.control(c.name)
        if c.kind == "switch" and seat is not None:
            places = [seat.positions.index(p) for p in c.positions]
            moved[c.name] = np.array(places, float)[hands[c.name].astype(int)]
            far = [made.transmitter.row_from_far(i, len(places)) for i in places]
            assert (
                change.other_way
                or far
                == [model.transmitter.row_from_far(i, len(places)) for i in range(len(places))]
                or (len(seat.positions) > len(places))
            )
    after = compile_plan(made).run(
        Situation(t, {n: x for n, x in moved.items() if n in compile_plan(made).rest})
    )
    for lead in model.leads:
        np.testing.assert_allclose(
            after.outputs[lead.name].us, before.outputs[lead.name].us, atol=1e-9
        )
    again = taken(made, profile)
    assert again.model == made and again.homeless == change.homeless


def test_the_motor_gets_its_switch_first_and_never_a_button(hangar: Hangar) -> None:
    for name in ("Samphire", "Marram"):
        model = hangar.load(name)
        few = shipped()[0].changed({"controls": shipped()[0].controls[:1]})
        change = taken(model, few)
        assert [mine for mine, _ in change.placed] == ["Motor switch"]
        button = few.changed({"controls": shipped()[0].controls[3:4]})
        assert "Motor switch" in taken(model, button).homeless


def test_a_transmitter_is_taken_and_kept_in_the_window(window: Any, qtbot: QtBot) -> None:
    window.finish()
    choose(window, "Marram")
    bench = window.workbench
    window.go("hands")
    card = window.page("hands").transmitter
    assert card.which.currentText() == "This model's own" and card.offer.isHidden()
    card.which.setCurrentText("Sill")
    card.which.activated.emit(card.which.currentIndex())
    before = bench.model
    assert (
        "Motor switch: Left, far switch" in card.goes.text() and "Snap flap" in card.homeless.text()
    )
    card.leave.click()
    assert bench.model == before and card.which.currentIndex() == 0
    card.which.setCurrentText("Sill")
    card.which.activated.emit(card.which.currentIndex())
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(1.0)
    card.take.click()
    assert bench.model.transmitter.taken == "Sill" and bench.state.guard != GuardState.ARMED
    assert any("Snap flap has no place on Sill" in a.text for a in bench.attentions())
    assert window.rundown.state("hands").count == 3
    assert {h.control.name for h in window.bench.hands._handles["left"]} >= {
        "motor_switch",
        "task_switch",
    }
    bench.document.undo()
    assert bench.model == before
    card.keep.click()
    assert "Give the layout a name" in window.notice.text.text()
    qtbot.keyClicks(card.name, "Mine")
    qtbot.mouseClick(card.keep, Qt.MouseButton.LeftButton)
    assert bench.model.transmitter.taken == "Mine" and not without_place(bench.model)
    choose(window, "Samphire")
    assert card.which.findText("Mine") > 0
    card.which.setCurrentText("Mine")
    card.which.activated.emit(card.which.currentIndex())
    card.take.click()
    assert bench.model.transmitter.taken == "Mine" and not without_place(bench.model)
    card.drop.click()
    assert card.which.findText("Mine") < 0 and bench.model.transmitter.taken == "Mine"
    window.notice.acts[0].click()
    assert card.which.findText("Mine") > 0


def test_trim_levers_come_and_go(window: Any, qtbot: QtBot) -> None:
    window.finish()
    window.go("hands")
    bench, card = window.workbench, window.page("hands").transmitter
    assert (
        card.trims["pitch"].text() == "Pitch: beside the right stick"
        and card.trims["pitch"].isChecked()
    )
    card.trims["pitch"].click()
    assert (
        bench.model.program.axis("pitch").trim is None
        and "pitch_trim" not in bench.state.live.controls
    )
    card.trims["pitch"].click()
    assert bench.model.program.axis("pitch").trim is not None
    bench.document.undo()
    bench.document.undo()
    assert bench.model.program.axis("pitch").trim.clicks == bench.state.trim_clicks("pitch")


def test_transmitters_stay_in_the_hangar_and_a_broken_one_stops_nobody(
    tmp_path: Path, hangar: Hangar
) -> None:
    path = tmp_path / "own.sqlite3"
    own = Hangar(path)
    kept = profile_of(hangar.load("Marram"), "Sill")  # one's own stands for the one that ships
    own.keep_transmitter(kept)
    own._db.execute("INSERT INTO transmitters (name, document) VALUES ('broken', '{}')")
    own.close()
    again = Hangar(path)
    assert [x.name for x in again.transmitters()] == [
        "Sill",
        "Groyne",
        "Headland",
    ] and again.transmitters()[0] == kept
    assert again.own_transmitters() == ["broken", "Sill"]
    again.drop_transmitter("Sill")
    assert again.transmitters()[0] == shipped()[0]
    again.close()


@pytest.mark.parametrize("end", ["away", "towards"])
@pytest.mark.parametrize(
    "key", [k for k, t in TEMPLATES.items() if t.make("T").program.guard is not None]
)
def test_the_motor_is_cut_at_the_end_the_pilot_chose_for_all_his_models(key: str, end: str) -> None:
    model = with_cut_end(TEMPLATES[key].begin("Trial"), end)
    guard, hands = model.program.guard, model.transmitter
    positions = hands.control(guard.switch).positions
    assert cut_end(model) == end and [positions[i] for i in guard.cut] == ["cut"]
    row = hands.row_from_far(positions.index("cut"), len(positions))
    assert row == (0 if end == "away" else len(positions) - 1) and list(problems(model)) == []
    flaps = hands.control("flap_switch")
    if flaps is not None:  # lever down is flap down, whatever end cuts the motor
        assert (
            hands.row_from_far(flaps.positions.index("landing"), len(flaps.positions))
            == len(flaps.positions) - 1
        )


def test_the_end_is_asked_once_and_goes_with_every_new_model(qtbot: QtBot, window: Any) -> None:
    window.invite()
    box = window.welcome.cut
    box.setCurrentIndex(box.findData("towards"))
    box.activated.emit(box.currentIndex())
    window.begin("trainer")
    assert cut_end(window.workbench.loaded) == "towards"
    window.begin("bare")
    window.go("airframe")
    page = window.page("airframe")
    page.boxes["motors"].setCurrentIndex(1)
    page.boxes["motors"].activated.emit(1)
    assert cut_end(window.workbench.loaded) == "towards"
    box.setCurrentIndex(box.findData("away"))
    box.activated.emit(box.currentIndex())
    window.begin("twin")
    assert cut_end(window.workbench.loaded) == "away"


@pytest.mark.parametrize("key", ["trainer", "twin", "bare"])
def test_whatever_end_cuts_the_bench_begins_with_the_motor_cut(
    qtbot: QtBot, window: Any, key: str
) -> None:
    """Nobody has touched anything: the switch stands where it cuts, though its first position is
    *run*."""
    window.invite()
    box = window.welcome.cut
    box.setCurrentIndex(box.findData("towards"))
    box.activated.emit(box.currentIndex())
    window.begin(key)
    if key == "bare":
        window.go("airframe")
        page = window.page("airframe")
        page.boxes["motors"].setCurrentIndex(1)
        page.boxes["motors"].activated.emit(1)
    bench = window.workbench
    guard = bench.loaded.program.guard
    assert guard.cut == (1,) and bench.state.live.controls[guard.switch] == 1
    assert window.bench.lamp.words == "Motor cut"
    assert compile_plan(bench.loaded).run(Situation.of(np.zeros(1), {})).guard[-1] == GuardState.CUT
