# SPDX-License-Identifier: GPL-3.0-or-later
"""Whole jobs set up in the window from an empty hangar, every click and every text typed
counted."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hands import play_scenarios
from keyed import proven_on_all
from pilot import Pilot, flown, states
from pytestqt.qtbot import QtBot


@pytest.fixture
def pilot(qtbot: QtBot, tmp_path: Path) -> Any:
    return lambda template: Pilot(qtbot, tmp_path, template)


def test_j03_arming_with_a_lock_that_speaks(pilot: Any) -> None:
    p = pilot("trainer")
    p.plug_in()
    guard = p.step("guard")
    p.click(guard.levels.button(3))
    say = p.step("say")
    p.press(say, "Add: The motor's states")
    result, said = flown(
        p.bench.loaded,
        "t_s,throttle_stick,motor_switch\n0,20,0\n2,20,1\n9,-100,1\n12,-100,0\n13,-100,1\n15,60,1\n16,60,1\n",
    )
    assert states(result, 1, 3, 10, 12.5, 13.5) == ["cut", "locked", "locked", "cut", "armed"]
    alarms = [t for t, c in said if c == "Locked: stick low"]
    assert said[0] == (2.0, "Motor locked") and len(alarms) == 3 and alarms[-1] < 9.5
    assert [c for _, c in said if c == "Motor armed"] == ["Motor armed"]
    assert (
        result.outputs["motor"].us[round(8 / 0.02)] == 1000
        and result.outputs["motor"].us[-1] > 1500
    )
    p.done("J03")


def test_j12_flaps_and_brakes_on_one_switch_brakes_only_with_the_throttle_low(pilot: Any) -> None:
    p = pilot("v_tail_sailplane")
    wing = p.step("flaps")
    brakes = p.behaviour(wing, "Flaps on a control")
    p.type(brakes.fields["positions[1].flap"], "0")
    p.type(brakes.fields["positions[2].flap"], "60 % up")
    p.click(brakes.more)
    p.type(brakes.name, "Brakes")
    for name in ("left_aileron", "right_aileron", "left_flap", "right_flap"):
        p.click(wing.rows[-1].card.ticks["surfaces"][name])
    brakes = wing.rows[-1].card
    editor = p.when(brakes.when, "A stick or slider", "throttle stick")
    p.word(editor, 1, "is below")
    p.type(editor.numbers[0], "10")
    say = p.step("say")
    p.press(say, "Add: Brakes")
    model = p.bench.loaded
    result, said = flown(
        model,
        "t_s,throttle_stick,flap_switch\n0,0,0\n1,0,1\n4,0,2\n8,-100,2\n12,0,2\n16,0,0\n20,0,0\n",
    )

    def at(name: Any, t: Any) -> Any:
        return float(result.sums[name][round(t / 0.02)])

    flap = model.program.recipes[[r.kind for r in model.program.recipes].index("flaps")].positions
    assert at("left_flap", 3.5) == flap[1].flap and at("left_flap", 7.5) == flap[2].flap
    assert (
        at("left_aileron", 7.5) == 0
        and at("left_aileron", 11.5) == -60
        and at("right_aileron", 11.5) == -60
    )
    assert at("left_aileron", 15.5) == 0 and at("left_flap", 11.5) == flap[2].flap
    assert (
        -60 < at("left_aileron", 8.3) < 0 and -60 < at("left_aileron", 12.3) < 0
    )  # slowly, both ways
    assert [c for _, c in said if c.startswith("Brakes")] == ["Brakes out", "Brakes in"]
    assert 8 < next(t for t, c in said if c == "Brakes out") < 9
    p.done("J12")


def test_j13_a_plain_electric_that_wakes_and_counts(pilot: Any) -> None:
    p = pilot("trainer")
    guard = p.step("guard")
    p.click(guard.levels.button(3))
    p.type(guard.rest, "1")
    p.click(guard.wakes)
    p.click(guard.asks.add_check)
    hands = guard.asks.checks[-1].findChildren(type(guard.switch))
    p.choose(hands[0], "Rates switch")
    say = p.step("say")
    p.press(say, "Add: The motor's states")
    p.press(say, "Add: Flight timer")
    model = p.bench.loaded
    timer = model.program.timers[0].name
    result, said = flown(
        model,
        "t_s,throttle_stick,motor_switch,rates_switch\n0,20,0,1\n1,20,1,1\n3,-100,1,1\n6,-100,1,0\n8,40,1,0\n200,40,1,0\n",
    )
    assert states(result, 2, 5, 7) == [
        "locked",
        "locked",
        "armed",
    ]  # the check stands in the way, then it wakes
    woke = float(result.t_s[int((result.guard == 2).argmax())])
    assert woke == pytest.approx(6.0, abs=0.05)
    assert result.timers[timer][-1] == pytest.approx(360 - (200 - woke), abs=0.05)
    assert (pytest.approx(woke + 180, abs=0.1), "Flight timer: 3 minutes left") in said
    assert model.program.timers[0].keeps
    p.done("J13")


def test_j14_a_twin_with_one_switch_for_cut_normal_and_differential(pilot: Any) -> None:
    p = pilot("twin")
    p.plug_in()
    hands = p.step("hands")
    card = hands.cards["motor_switch"]
    p.choose(card.count, "3 positions")
    card = hands.cards["motor_switch"]
    p.type(card.positions[1], "normal")
    p.type(card.positions[2], "differential")
    guard = p.step("guard")
    p.click(
        guard.cuts[1]
    )  # a new position of the motor's switch stops it, until one says that it may run there
    wing = p.step("flaps")
    both = next(c for c in wing.cards if c.recipe().kind == "differential_thrust")
    p.when(both.when, "A switch or button", "Motor switch")
    failsafe = p.step("failsafe")
    p.click(failsafe.proposals["Stopped and neutral"][0])
    model = p.bench.loaded
    assert model.program.recipes[-1].when == "motor_switch@2" or any(
        r.when == "motor_switch@2" for r in model.program.recipes
    )
    assert model.program.guard.cut == (0,) and all(x.failsafe is not None for x in model.leads)
    rows = "t_s,throttle_stick,motor_switch,rudder_stick,link\n0,-100,0,0,1\n1,-100,1,0,1\n2,20,1,100,1\n"
    rows += "4,20,2,100,1\n6,20,0,100,1\n"
    result, _ = flown(
        model,
        rows
        + "7,20,0,-100,1\n8,-100,0,0,1\n9,-100,2,0,1\n10,50,2,100,1\n11,50,2,100,0\n15,50,2,100,0\n",
    )
    left, right = (result.outputs[f"{s}_motor"].us for s in ("left", "right"))

    def us(t: Any) -> Any:
        i = round(t / 0.02)
        return float(left[i]), float(right[i])

    assert us(3)[0] == us(3)[1] > 1500 and us(5)[0] > us(5)[1]
    assert us(6.5) == us(7.5) == (1000, 1000)
    assert states(result, 0.5, 1.5, 5, 6.5, 9.5) == ["cut", "armed", "armed", "cut", "armed"]
    assert us(14.9) == (1000, 1000)
    # Headland has all of it; the others lack the fade of differential thrust and more of the lock
    assert proven_on_all(model) == [4, 2, 0]
    p.done("J14")


def test_j19_a_cut_that_locks_again_when_the_battery_is_changed(pilot: Any) -> None:
    p = pilot("trainer")
    p.plug_in()
    guard = p.step("guard")
    p.click(guard.levels.button(4))
    shake = p.step("shake")
    p.press(shake, "Scenarios")
    p.press(shake, "Add the usual ones")
    p.bench.document.edit("program.guard.relock_s", 0.5, "re-lock time")
    model = p.bench.loaded
    rows = "t_s,throttle_stick,motor_switch,link,power\n0,-100,0,1,1\n1,-100,1,1,1\n2,20,1,1,1\n4,20,1,0,1\n4.3,20,1,1,1\n"
    rows += "6,20,1,0,0\n"
    result, _ = flown(
        model,
        rows
        + "9,20,1,1,1\n12,-100,1,1,1\n14,-100,0,1,1\n15,-100,1,1,1\n16,20,1,1,1\n17,20,1,1,1\n",
    )
    assert states(result, 3, 5, 7, 10, 13, 14.5, 15.5) == [
        "armed",
        "armed",
        "locked",
        "locked",
        "locked",
        "cut",
        "armed",
    ]
    assert (result.outputs["motor"].us[round(9.1 / 0.02) : round(16 / 0.02)] == 1000).all()
    play_scenarios(p.window.workbench)
    assert p.window.rundown.state("shake").name == "settled"
    p.step("guard")
    told = guard.rehearsals
    p.qtbot.waitUntil(lambda: bool(told.buttons), timeout=20_000)
    outcomes = told._found[1]
    assert outcomes[
        "Bump the switch, then the stick"
    ].defeated  # the one way round it, said plainly
    assert not outcomes["Change the battery with everything left on"].defeated
    p.done("J19")
