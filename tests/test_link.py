# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated link, and taking the present positions as failsafe."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import choose, stand_still, type_into
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.leads import Failsafe
from hypsos.core.scenarios.failsafe_capture import capture_doubts, captured
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.desk.cards.link_card import LinkCard
from hypsos.desk.services.recorder import Recorder
from hypsos.desk.widgets.battery_button import battery_words
from hypsos.hangar import Hangar

LEFT = Qt.MouseButton.LeftButton


@pytest.mark.parametrize(("own", "without_power", "without_flight_battery"), [
    ("not said", (0.0, 0.0), (0.0, 0.0)), ("speed controller", (0.0, 0.0), (0.0, 0.0)), ("own battery", (0.0, 1.0), (1.0, 0.0)),
])  # fmt: skip
def test_a_battery_is_taken_out_of_what_hangs_on_it(
    window: Any, own: Any, without_power: Any, without_flight_battery: Any
) -> None:
    """Power of the receiver, and the motors' battery, with each of the two taken out."""
    bench = window.workbench
    bench.document.edit("receiver.power", own, "power")
    for act, wanted in (
        (bench.simulation.set_power, without_power),
        (bench.simulation.set_flight_battery, without_flight_battery),
    ):
        act(False)
        assert (bench.state.live.power, bench.state.live.flight_battery) == wanted
        act(True)
        assert (bench.state.live.power, bench.state.live.flight_battery) == (1.0, 1.0)


@pytest.mark.parametrize("name", ["Marram", "Skerry", "Sorrel", "Tidewrack", "Samphire"])
def test_what_is_captured_is_what_the_receiver_then_sends(hangar: Hangar, name: Any) -> None:
    model = hangar.load(name)
    hands = {
        "aileron_stick": 30.0,
        "elevator_stick": -20.0,
        "rudder_stick": 10.0,
        "throttle_stick": -100.0,
    }
    now = settled(compile_plan(model), hands)
    made = captured(model, now)
    lost = compile_plan(made).run(
        Situation(0.02 * np.arange(300), {}, np.array([1.0] * 5 + [0.0] * 295))
    )
    for lead in model.leads:
        if lead.port is not None:
            assert lost.outputs[lead.name].failsafe[-1]
            assert float(lost.outputs[lead.name].us[-1]) == pytest.approx(
                float(now.outputs[lead.name].us[-1]), abs=0.01
            )
    assert captured(made, now) == made


def test_what_would_be_captured_is_said_motors_first(hangar: Hangar) -> None:
    model = hangar.load("Samphire")
    hands = {"motor_switch": 1.0, "throttle_stick": 20.0, "aileron_stick": 50.0}
    said = capture_doubts(model, settled(compile_plan(model), hands))
    assert said[0] == "Motor would go on turning with 60 % power." and any(
        "Left flaperon would stay" in x for x in said[1:]
    )
    assert capture_doubts(model, settled(compile_plan(model), {})) == [
        "Elevator would stay 1.7 mm down."
    ]  # its trim


@pytest.mark.parametrize(("seconds", "state"), [(2.3, GuardState.ARMED), (2.6, GuardState.LOCKED)])
def test_a_drop_out_lasts_just_so_long(window: Any, seconds: Any, state: Any) -> None:
    choose(window, "Marram")
    bench = stand_still(window.workbench)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.5)
    assert bench.state.guard == GuardState.ARMED
    bench.simulation.drop_out(seconds)
    assert bench.state.live.link == 0 and bench.simulation.running
    bench.simulation.advance(seconds - 0.06)
    assert bench.state.live.link == 0
    bench.simulation.advance(0.1)
    assert bench.state.live.link == 1 and bench.state.guard == state
    bench.simulation.drop_out(3.0)
    bench.simulation.set_link(True)  # by hand, sooner
    bench.simulation.advance(5.0)
    assert bench.state.live.link == 1
    bench.simulation.drop_out(3.0)
    choose(window, "Skerry")  # another aeroplane has a link of its own
    assert window.workbench.state.live.link == 1


def test_battery_quality_and_capture_in_the_window(qtbot: QtBot, window: Any) -> None:
    window.go("failsafe")
    bench, card = window.workbench, window.page("failsafe").findChild(LinkCard)
    assert (
        card.own.isHidden() and card.flight.text() == "Take the flight battery out"
    )  # it feeds the receiver, too
    above = window.bench.battery
    assert (
        above.text() == "Take battery out"
        and above.accessibleName() == "Take the flight battery out"
    )
    window.finish()
    window.activateWindow()
    qtbot.keyClick(window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    assert (
        not bench.state.flight_battery
        and not bench.state.connected
        and above.text() == "Put battery in"
        and above.isChecked()
    )
    assert window.bench.strips.figures(bench.state.lead("elevator")).pulse == "no pulse"
    above.click()
    assert bench.state.flight_battery and bench.state.connected
    assert window.bench.strips.figures(bench.state.lead("elevator")).pulse.endswith(" µs")
    card.flight.click()
    bench.simulation.advance(0.1)
    assert bench.state.live.result.outputs["elevator"].us[-1] == 0 and card.says.text() == "no link"
    assert card.flight.text() == "Put the flight battery in again" and card.flight.isChecked()
    card.flight.click()
    card.quality.setFocus()
    qtbot.keyClick(card.quality, Qt.Key.Key_PageDown)
    assert bench.state.live.link_quality == 90 and card.says.text() == "90 %"
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.set_control("elevator_stick", -60.0)
    bench.simulation.advance(0.5)
    before = bench.model
    qtbot.mouseClick(card.take, LEFT)
    assert (
        bench.model is before
        and card.asked.isVisible()
        and "Elevator would stay" in card.doubts.text()
    )
    card.not_now.click()
    assert not card.asked.isVisible() and bench.model is before
    qtbot.mouseClick(card.take, LEFT)
    card.sure.click()
    assert next(x for x in bench.model.leads if x.target == "elevator").failsafe.value < -20
    assert (
        bench.document.undo_label == "failsafe: the present positions"
        and not card.asked.isVisible()
    )
    bench.document.undo()
    assert bench.model == before
    card.drops[1].click()
    assert bench.state.live.link == 0


def running(window: Any, own: bool, waits: bool) -> Any:
    """Samphire at half throttle, its receiver fed by a battery of its own or not, its controller
    waiting for idle or not."""
    choose(window, "Samphire")
    window.go("failsafe")
    bench, card = stand_still(window.workbench), window.page("failsafe").findChild(LinkCard)
    bench.document.edit("receiver.power", "own battery" if own else "speed controller", "power")
    bench.document.edit(f"leads[{bench.state.lead_index('motor')}].waits_for_idle", waits, "waits")
    bench.simulation.advance(2.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("throttle_stick", 0.0)
    bench.simulation.advance(0.5)
    assert bench.state.turning and bench.state.guard_words == "Motor armed"
    return bench, card


@pytest.mark.parametrize(
    ("own", "waits", "out", "back", "turns"),
    [
        (True, False, "Motor stands still, commanded to run at 50 %: no flight battery; it STARTS when the battery goes in",
         "Motor armed", True),
        (True, True, "Motor stands still, commanded to run at 50 %: no flight battery; its controller waits for idle then",
         "Motor stands still, commanded to run at 50 %: its controller waits until it has heard idle for a second; "
         "bring the throttle stick low", False),
        (False, False, "Motor armed, no power: it starts again when the battery goes in", "Motor armed", True),
        (False, True, "Motor armed, no power: its controller waits for idle when the battery goes in",
         "Motor stands still, commanded to run at 50 %: its controller waits until it has heard idle for a second; "
         "bring the throttle stick low", False),
    ],
)  # fmt: skip
def test_a_change_of_the_flight_battery_is_told_as_it_is(
    window: Any, own: Any, waits: Any, out: Any, back: Any, turns: Any
) -> None:
    bench, card = running(window, own, waits)
    assert card.own.isHidden() == (not own)
    card.flight.click()
    bench.simulation.advance(0.5)  # shorter than any guard locks again
    assert not bench.state.turning and bench.state.guard_words == out
    assert (bench.state.live.result.outputs["motor"].us[-1] > 0) == own == bench.state.connected
    card.flight.click()
    bench.simulation.advance(0.5)
    assert bench.state.guard_words == back and bench.state.turning == turns
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.advance(1.1)
    bench.simulation.set_control("throttle_stick", 0.0)
    bench.simulation.advance(0.2)
    assert (
        bench.state.turning and bench.state.powers()["motor"] == 50.0
    )  # it has heard its second of idle
    for out in (True, False) if own else ():
        card.own.click()
        assert (card.own.isChecked(), bench.state.receiver_fed) == (out, not out)
        assert card.own.text() == battery_words("receiver's battery", out)


def test_a_controller_knows_what_it_has_heard_while_the_transmitter_is_off(window: Any) -> None:
    """It keeps its battery: nothing is said to wait that would turn."""
    bench, _ = running(window, False, True)
    bench.document.edit("program.guard.level", 1, "level 1")
    bench.simulation.switch_off_and_on()
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.LOCKED and not bench.state.turning
    for place in (0.0, 1.0):
        bench.simulation.set_control("motor_switch", place)
        bench.simulation.advance(0.1)
    assert (
        bench.state.guard == GuardState.ARMED
        and bench.state.turning
        and bench.state.guard_words == "Motor armed"
    )


def test_a_controller_that_is_only_now_said_to_wait_may_turn(window: Any) -> None:
    bench, _ = running(window, False, False)
    motor = bench.state.lead_index("motor")
    bench.document.edit(f"leads[{motor}].failsafe", Failsafe(action="hold"), "hold")
    bench.simulation.advance(1.0)
    for place, stick in ((0.0, -100.0), (1.0, -100.0), (1.0, 0.0)):
        bench.simulation.set_control("throttle_stick", stick)
        bench.simulation.set_control("motor_switch", place)
        bench.simulation.advance(1.2)
    bench.simulation.set_link(False)
    bench.simulation.advance(0.5)
    assert "Motor RUNS at 50 %" in bench.state.guard_words
    bench.document.edit(f"leads[{motor}].waits_for_idle", True, "it waits")
    bench.simulation.advance(0.1)
    assert bench.state.turning and "Motor RUNS at 50 %" in bench.state.guard_words


@pytest.mark.parametrize("own", [True, False])
def test_the_flight_battery_in_moves(hangar: Hangar, own: Any) -> None:
    """Without a battery of the receiver's own the two are one, by whichever name; with one, no
    pulse hangs on the motors'."""
    model = with_at(hangar.load("Samphire"), "receiver.power", "own battery" if own else "not said")
    sent = {}
    for name in ("power", "flight_battery"):
        moves = read_moves(f"t_s,{name}\n0,1\n2,0\n4,1\n6,1\n", model)
        result = compile_plan(model).run(moves)
        sent[name] = result.outputs["motor"].us > 0
        ready = np.flatnonzero(result.outputs["motor"].ready)
        stays_fed = own and name == "power"
        assert (
            ready[0] == 50
            and ready[-1] == 300
            and (150 in ready) == (220 in ready) == stays_fed
            and 250 in ready
        )
    receiver, motors = sent.values()
    assert not receiver[100:200].any() and receiver[:100].all() and receiver[200:].all()
    assert motors.all() if own else (motors == receiver).all()


def test_the_flight_battery_comes_back_with_the_timeline(window: Any) -> None:
    bench, card = running(window, True, False)
    recorder = Recorder(bench.simulation)
    card.flight.click()
    bench.simulation.advance(0.5)
    card.flight.click()
    bench.simulation.advance(0.5)
    assert bench.state.turning
    out = int(
        np.flatnonzero(
            recorder.rows[:, [x.key for x in recorder.tracks].index("flight_battery")] == 0
        )[-1]
    )
    assert recorder.go_back(out) and not bench.state.flight_battery and not bench.state.turning
    recorder.back_to_now()
    assert bench.state.flight_battery and bench.state.turning


def test_a_preset_that_steers_is_agreed_to_once(qtbot: QtBot, window: Any) -> None:
    choose(window, "Samphire")
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    place = bench.state.lead_index("elevator")
    assert page.meant["elevator"].isHidden() and page.meant["motor"].isHidden()
    type_into(qtbot, page.values["elevator"], "30 %")
    assert page.meant["elevator"].isVisible() and not page.meant["rudder"].isVisible()
    page.meant["elevator"].click()
    assert bench.loaded.leads[place].failsafe == Failsafe(value=30.0, meant=True)
    type_into(qtbot, page.values["elevator"], "-60 %")
    assert bench.loaded.leads[place].failsafe == Failsafe(
        value=-60.0
    )  # to another one nobody has agreed
    assert page.meant["elevator"].isVisible() and not page.meant["elevator"].isChecked()


@pytest.mark.parametrize("pressed", [0.0, 1.0])
def test_who_takes_the_present_place_of_a_tow_release_has_said_which_end(
    hangar: Hangar, pressed: Any
) -> None:
    model = with_at(hangar.load("Samphire"), "leads[6].failsafe", Failsafe(action="hold"))
    assert model.leads[6].target == "tow_release"
    made = captured(model, settled(compile_plan(model), {"tow_button": pressed}))
    assert made.leads[6].failsafe == Failsafe(value=200 * pressed - 100, meant=True)
    assert not made.leads[0].failsafe.meant
