# SPDX-License-Identifier: GPL-3.0-or-later
"""The jobs of wing and tail, modes and shared values, set up in the window from a template; six of
them by keyboard alone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hands import say_seen
from keyed import proven_on_all, sheet_text
from pilot import Pilot, flown
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.practice_faults import practice

MOUSE, KEYS = False, True


@pytest.fixture
def pilot(qtbot: QtBot, tmp_path: Path) -> Any:
    return lambda template, keys=MOUSE: Pilot(qtbot, tmp_path, template, keys)


def sums(model: Model, **hands: Any) -> Any:
    found = settled(compile_plan(model), hands).sums
    return {n: float(np.ravel(x)[-1]) for n, x in found.items()}


def commands(model: Model, **hands: Any) -> Any:
    found = settled(compile_plan(model), hands).commands
    return {n: float(np.ravel(x)[-1]) for n, x in found.items()}


def test_j01_brakes_of_four_ailerons_on_the_throttle_stick(pilot: Any) -> None:
    p = pilot("biplane")
    switch = p.control(p.step("hands"), "Switch, two positions")
    wing = p.step("flaps")
    card = p.behaviour(wing, "Crow brakes")
    p.choose(card.choices["control"], "throttle stick")
    p.type(card.fields["closed"], "-10")
    p.type(card.fields["opened"], "-80")
    p.type(card.fields["amounts.left_lower_aileron"], "42 % up")
    p.type(card.fields["amounts.left_aileron"], "42 % up")
    words = p.bench.loaded.transmitter.control(switch).label
    p.when(card.whens["master"], "A switch or button", words)
    model = p.bench.loaded
    four = ("left_aileron", "right_aileron", "left_lower_aileron", "right_lower_aileron")
    for stick, b in ((-100, 100), (-80, 100), (-45, 50), (-10, 0), (60, 0)):
        out = sums(
            model,
            **{
                "throttle_stick": stick,
                switch: len(model.transmitter.control(switch).positions) - 1,
            },
        )
        assert [out[n] for n in four] == pytest.approx([-0.42 * b] * 4)
        off = sums(model, **{"throttle_stick": stick, switch: 0})
        assert [off[n] for n in four] == [0] * 4
    p.done("J01")


def test_j02_rudder_with_roll_on_a_switch_and_trim_above_half_throttle(pilot: Any) -> None:
    p = pilot("trainer", KEYS)
    wing = p.step("flaps")
    card = p.behaviour(wing, "Aileron to rudder")
    p.choose(card.choices["control"], "Rates switch")
    card = wing.rows[-1].card
    for place, share in ((0, "0"), (1, "12"), (2, "18")):
        for side in ("left", "right"):
            p.type(card.fields[f"helps[{place}].{side}"], share)
    thrust = p.behaviour(wing, "Throttle to elevator")
    p.type(thrust.fields["share"], "6 % down")
    model = p.bench.loaded
    base = [sums(model, rates_switch=c)["rudder"] for c in (0, 1, 2)]
    turned = [sums(model, aileron_stick=-100, rates_switch=c) for c in (0, 1, 2)]
    roll = [commands(model, aileron_stick=-100, rates_switch=c)["roll"] for c in (0, 1, 2)]
    assert [x["rudder"] for x in turned] == pytest.approx(
        [b + r * g for b, r, g in zip(base, roll, (0, 0.12, 0.18), strict=True)]
    )
    armed = {"motor_switch": 1}
    rest = sums(model, **armed)["elevator"]
    got = [sums(model, throttle_stick=x, **armed)["elevator"] - rest for x in (-100, 0, 50, 100)]
    assert got == pytest.approx([0, 0, 3, 6])
    assert (
        sums(model, throttle_stick=100)["elevator"] == rest
    )  # the motor is cut, and the nose with it
    p.done("J02")


def test_j04_flaps_or_spoilers_on_the_stick_the_motor_on_a_slider(pilot: Any) -> None:
    p = pilot("tug")
    slider = p.control(p.step("hands"), "Slider")
    feel = p.step("feel")
    p.click(feel.axes.button(3))
    p.choose(feel.control, p.bench.loaded.transmitter.control(slider).label)
    wing = p.step("flaps")
    p.press(wing.cards[1], "Remove")  # flaps on a switch
    card = p.behaviour(wing, "Flaps or spoilers on a stick")
    p.type(card.fields["flaps"], "45")
    p.type(card.fields["spoilers"], "30")
    p.when(card.whens["chosen"], "A switch or button", "Flap switch")
    model = p.bench.loaded
    chosen = len(model.transmitter.control("flap_switch").positions) - 1
    assert [
        sums(model, throttle_stick=x)["left_flaperon"] for x in (-100, -60, 20, 100)
    ] == pytest.approx([0, 0, 22.5, 45])
    up = sums(model, throttle_stick=100, flap_switch=chosen)
    assert up["left_flaperon"] == up["right_flaperon"] == pytest.approx(-30)
    motor = sums(model, **{slider: 100.0, "throttle_stick": -100.0, "motor_switch": 1})["motor"]
    assert motor == pytest.approx(100) and sums(model, throttle_stick=100.0)["motor"] < 1
    p.done("J04")


def test_j05_rates_on_a_switch_and_the_same_for_three_transmitters(pilot: Any) -> None:
    p = pilot("trainer", KEYS)
    feel = p.step("feel")
    p.choose(feel.switch, "Rates switch")
    for place, rate, expo in ((0, "50", "20"), (1, "100", "35")):
        p.type(feel.fields[(place, "rate_pos")], rate)
        p.type(feel.fields[(place, "expo")], expo)
    p.click(feel.copy)
    model = p.bench.loaded
    assert commands(model, aileron_stick=100, rates_switch=0)["roll"] == pytest.approx(50)
    third = model.program.axes[0].changed({"settings": model.program.axes[0].settings[:2]})
    p.bench.document.edit("program.axes[0]", third, "third position left open")
    assert commands(p.bench.loaded, aileron_stick=80, rates_switch=2)["roll"] == pytest.approx(
        80
    )  # full rate, no expo
    p.click(feel.axes.button(0))
    assert "nobody set it" in "".join(w.text() for w in feel.findChildren(type(feel.measured)))
    from hypsos.core.edits.transmitters import shipped, taken

    for profile in shipped():
        other = taken(model, profile).model
        rates = other.program.axis("roll").switch
        first = other.transmitter.control(rates).positions.index(
            model.transmitter.control(rates).positions[0]
        )
        assert commands(other, **{"aileron_stick": 100, rates: first})["roll"] == pytest.approx(50)
    # keyed into each of them, it sends the same; so it does with the position that nobody set
    for made in (model, p.bench.loaded):
        assert proven_on_all(made) == [1, 1, 0]
    p.done("J05")


def test_j06_elevons_by_hand(pilot: Any) -> None:
    p = pilot("bare")
    body = p.step("airframe")
    p.choose(body.boxes["wing"], "two elevons")
    wing = p.step("flaps")
    if not any(r.kind == "elevons" for r in p.bench.loaded.program.recipes):
        p.behaviour(wing, "Elevons")
    p.type(wing.cards[0].fields["roll_share"], "50")
    p.type(wing.cards[0].fields["pitch_share"], "50")
    p.type(wing.cards[0].fields["reflex"], "0")
    p.press(wing.cards[0], "Detach")
    model = p.bench.loaded
    assert not model.program.recipes
    p.bench.document.edit(
        "program.axes",
        tuple(
            a.changed({"switch": None, "settings": (a.settings[-1].changed({"expo": 0}),)})
            for a in model.program.axes
        ),
        "plain",
    )
    out = sums(p.bench.loaded, aileron_stick=100, elevator_stick=-100)
    assert (out["left_elevon"], out["right_elevon"]) == pytest.approx((0, -100))
    for i in range(4):
        gain = p.bench.loaded.program.mixes[i].gain
        p.type(wing.mixes[i], f"{1.2 * gain:.0f}")
    out = sums(p.bench.loaded, aileron_stick=100, elevator_stick=-100)
    assert (out["left_elevon"], out["right_elevon"]) == pytest.approx((0, -120))
    p.done("J06")


def test_j07_a_full_house_sailplane_in_five_modes(pilot: Any) -> None:
    p = pilot("v_tail_sailplane")
    hands = p.step("hands")
    p.control(hands, "Switch, three positions")
    p.control(hands, "Slider")
    modes = p.step("modes")
    for _ in range(4):
        p.click(modes.grid.new)
    p.click(modes.views.button(1))
    presets = modes.presets
    thermal = next(m.name for m in p.bench.loaded.program.modes if m.label == "Thermal")
    speed = next(m.name for m in p.bench.loaded.program.modes if m.label == "Speed")
    p.type(presets.fields[(thermal, "left_flap")], "4 down")
    p.type(presets.fields[(speed, "left_flap")], "2 up")
    wing = p.step("flaps")
    crow = p.behaviour(wing, "Crow brakes")
    landing = next(m for m in p.bench.loaded.program.modes if m.label == "Landing")
    p.when(crow.whens["master"], "the flight mode")
    p.behaviour(wing, "Snap flap")
    p.behaviour(wing, "Camber follow")
    p.behaviour(wing, "Aileron to rudder")
    model = p.bench.loaded
    assert [m.label for m in model.program.modes] == [
        "Landing",
        "Launch",
        "Thermal",
        "Speed",
        "Cruise",
    ]
    from hypsos.core.explain.mode_ways import ways_to_modes

    ways = ways_to_modes(model)
    assert set(ways) == {m.name for m in model.program.modes}
    control = next(r for r in model.program.recipes if r.kind == "crow").control
    out = sums(model, **(ways[landing.name] | {control: 100.0}))
    shut = sums(model, **(ways[speed] | {control: 100.0}))
    assert out["left_flap"] - shut["left_flap"] > 60 and out["left_aileron"] < -20
    assert (
        sums(model, **(ways[thermal] | {"elevator_stick": -100.0}))["left_flap"]
        > sums(model, **ways[thermal])["left_flap"] + 5
    )
    from hypsos.core.fitting.throw_settings import place_of

    held = next(m for m in model.program.modes if m.name == thermal).presets
    assert place_of(model, "left_flap", held["left_flap"])[1] == pytest.approx(4, abs=0.05)
    assert place_of(model, "right_flap", held["right_flap"])[1] == pytest.approx(4, abs=0.05)
    p.done("J07")


def test_j08_a_four_servo_wing_from_nothing(pilot: Any) -> None:
    p = pilot("bare")
    body = p.step("airframe")
    p.choose(body.boxes["wing"], "ailerons and flaps, four servos")
    p.choose(body.boxes["tail"], "tailplane and fin")
    p.choose(body.boxes["motors"], "1")
    p.plug_in()
    guard = p.step("guard")
    p.click(guard.levels.button(2))
    wing = p.step("flaps")
    flaps = next(c for c in wing.cards if c.recipe().kind == "flaps")
    p.type(flaps.fields["positions[1].flap"], "12 mm down")
    model = p.bench.loaded
    assert all(x.port is not None for x in model.leads)
    from hypsos.core.fitting.throw_settings import place_of

    value = sums(model, flap_switch=1)["left_flap"]
    assert place_of(model, "left_flap", value)[1] == pytest.approx(12, abs=0.05)
    assert (
        settled(compile_plan(model), {"throttle_stick": 100}).outputs["motor"].us[-1] == 1000
    )  # cut first
    p.done("J08")


def test_j09_flaperons_on_two_channels(pilot: Any) -> None:
    p = pilot("trainer", KEYS)
    body = p.step("airframe")
    p.choose(body.boxes["wing"], "two flaperons")
    wing = p.step("flaps")
    droop = next(c for c in wing.cards if c.recipe().kind == "flaperons")
    for place, flap in ((1, "35 %"), (2, "90 %")):
        p.type(droop.fields[f"positions[{place}].flap"], flap)
    model = p.bench.loaded
    roll = commands(model, aileron_stick=100)["roll"]
    half = next(i for i, x in enumerate(droop.recipe().positions) if x.flap == 35)
    out = sums(model, flap_switch=half, aileron_stick=100)
    assert (out["left_flaperon"], out["right_flaperon"]) == pytest.approx(
        (35 + 0.36 * roll, 35 - 0.6 * roll)
    )
    assert sums(model, flap_switch=2)["elevator"] != 0
    names = [x.name for x in model.leads if "flaperon" in x.name]
    assert names == ["left_flaperon", "right_flaperon"]
    p.done("J09")


def test_j10_differential_thrust_on_four_motors(pilot: Any) -> None:
    p = pilot("twin", KEYS)
    body = p.step("airframe")
    p.choose(body.boxes["motors"], "4")
    wing = p.step("flaps")
    card = next(c for c in wing.cards if c.recipe().kind == "differential_thrust")
    p.type(card.fields["share"], "20")
    inner = card.recipe().left[1]
    p.type(card.fields[f"levers.{inner}"], "50")
    model = p.bench.loaded
    left, right = card.recipe().left, card.recipe().right
    base = sums(model, throttle_stick=0, motor_switch=1)
    yaw = commands(model, rudder_stick=-100)["yaw"]
    over = sums(model, throttle_stick=0, motor_switch=1, rudder_stick=-100)
    assert over[left[0]] - base[left[0]] == pytest.approx(0.2 * yaw) and over[right[0]] - base[
        right[0]
    ] == pytest.approx(-0.2 * yaw)
    assert over[left[1]] - base[left[1]] == pytest.approx(0.1 * yaw)
    idle = sums(model, throttle_stick=-100, rudder_stick=-100)
    assert all(idle[m] == -100 for m in (*left, *right))
    p.done("J10")


def test_j11_knife_edge_trimmed_in_flight(pilot: Any) -> None:
    p = pilot("biplane")
    knob = p.control(p.step("hands"), "Knob")
    wing = p.step("flaps")
    card = p.behaviour(wing, "Knife-edge correction")
    p.choose(card.choices["pitch_lever"], p.bench.loaded.transmitter.control(knob).label)
    modes = p.step("modes")
    p.click(modes.views.button(2))
    p.click(modes.trims.together)
    p.type(modes.trims.fields[("roll", "step")], "0.25")
    model = p.bench.loaded
    assert {
        a.trim.step for a in model.program.axes if a.trim is not None and a.command != "thrust"
    } == {0.25}
    yaw = commands(model, rudder_stick=100)["yaw"]
    low, high = (
        sums(model, **{"rudder_stick": 100.0, knob: x})["left_elevator"] for x in (0.0, 100.0)
    )
    assert low == 0 and yaw > 0 and high - low == pytest.approx(10, abs=0.5)
    p.bench.simulation.set_control("rudder_stick", 100.0)
    p.bench.simulation.set_control(knob, 100.0)
    p.step("flaps")
    p.press(card, "Elevator down: its curve")
    edit = card.responses["pitch"]
    p.click(edit.keep)  # what the knob says now becomes the curve
    assert dict(p.bench.loaded.program.recipes[-1].pitch.points)[100.0] == pytest.approx(10)
    p.done("J11")


def test_j15_canards_with_pitch_roll_or_both(pilot: Any) -> None:
    p = pilot("canard_delta")
    switch = p.control(p.step("hands"), "Switch, two positions")
    wing = p.step("flaps")
    canards = next(c for c in wing.cards if c.recipe().kind == "canards")
    p.press(canards, "Copy")
    first, second = (c for c in wing.cards if c.recipe().kind == "canards")
    p.type(first.fields["roll_share"], "0")
    p.type(second.fields["pitch_share"], "0")
    p.type(second.fields["roll_share"], "40")
    p.click(wing.rows[second.index].on)
    p.when(second.when, "A switch or button", p.bench.loaded.transmitter.control(switch).label)
    model = p.bench.loaded
    on = next(int(r.when.split("@")[1]) for r in model.program.recipes if r.when)
    pitch, roll = (
        commands(model, elevator_stick=-100)["pitch"],
        commands(model, aileron_stick=100)["roll"],
    )
    out = sums(model, elevator_stick=-100, aileron_stick=100, **{switch: on})
    assert (out["left_canard"], out["right_canard"]) == pytest.approx(
        (0.7 * pitch + 0.4 * roll, 0.7 * pitch - 0.4 * roll)
    )
    off = sums(model, elevator_stick=-100, aileron_stick=100, **{switch: 0 if on else 1})
    assert off["left_canard"] == off["right_canard"] == pytest.approx(0.7 * pitch)
    trimmed = sums(model, pitch_trim=8.0)
    assert trimmed["left_canard"] == trimmed["right_canard"] == pytest.approx(5.6)
    p.done("J15")


def test_j16_a_new_model_on_a_transmitter_with_many_channels(pilot: Any) -> None:
    p = pilot("v_tail_sailplane", KEYS)
    hands = p.step("hands")
    p.choose(hands.transmitter.which, "Headland")
    p.click(hands.transmitter.take)
    p.plug_in()
    wing = p.step("flaps")
    ailerons = next(c for c in wing.cards if c.recipe().kind == "ailerons")
    p.type(ailerons.fields["differential"], "45")
    name = p.step("model")
    p.type(name.name, "Whimbrel")
    model = p.bench.loaded
    assert model.name == "Whimbrel" and model.transmitter.taken == "Headland" and not model.y_leads
    assert len({x.port for x in model.leads}) == len(model.leads)
    assert "of" in wing.room.text() and "does not fit" not in wing.room.text()
    p.done("J16")


@pytest.mark.parametrize("job", ["J17", "J18"])
def test_j17_j18_elevons_checked_and_mended_on_the_bench(pilot: Any, job: Any) -> None:
    """Two elevons with swapped plugs and a servo that runs the wrong way; and with one turned servo
    only."""
    p = pilot("elevon_wing")
    p.plug_in()
    page, model = p.step("directions"), p.bench.loaded
    wanted = {"J17": lambda f: f.faults == 2 and f.on, "J18": lambda f: f.faults == 1 and not f.on}[
        job
    ]
    page.practise(next(s for s in range(99) if wanted(practice(model, s).truth(model))))  # type: ignore[no-untyped-call]
    p.actions += 1
    parts = {x.name: x for x in model.airframe.moved()}
    for _ in range(2):
        for i, step in enumerate(page.check.steps):
            page.go_to(i)
            p.press(page, "Move it for me")
            seen = page.check.seen(p.bench.state.practice.truth(model))[step.key]
            p.actions += len(seen)
            say_seen(page, parts, seen)
        while page.finding.question is not None:
            lead = page.finding.question.lead
            port = next(x.port for x in model.leads if x.target == lead)
            p.click(page.replies[p.bench.state.practice.ports[port]])
        if not page.finding.settled.faults:
            break
        p.press(page, "Mend it on this aeroplane")
    assert p.bench.state.practice.truth(model).faults == 0 and p.bench.loaded == model
    p.done(job)


def test_j20_modes_that_scale_rates_through_shared_values(pilot: Any) -> None:
    p = pilot("trainer")
    slider = p.control(p.step("hands"), "Slider")
    modes = p.step("modes")
    for _ in range(3):
        p.click(modes.grid.new)
    wing = p.step("flaps")
    card = p.behaviour(wing, "Stick scaling by mode")
    names = [m.name for m in p.bench.loaded.program.modes]
    for mode, rate, expo in zip(
        names, ("35", "85", "100", "50"), ("15", "35", "60", "10"), strict=True
    ):
        p.type(card.fields[f"by_mode.{mode}.rate"], rate)
        p.type(card.fields[f"by_mode.{mode}.expo"], expo)
    from hypsos.core.explain.mode_ways import ways_to_modes

    model = p.bench.loaded
    ways = ways_to_modes(model)
    assert commands(model, **(ways[names[1]] | {"aileron_stick": 80.0}))["roll"] == pytest.approx(
        59.432
    )
    assert commands(model, **(ways[names[-1]] | {"aileron_stick": 100.0}))["pitch"] == 0
    p.choose(card.choices["slider"], p.bench.loaded.transmitter.control(slider).label)
    live = commands(p.bench.loaded, **(ways[names[1]] | {"aileron_stick": 100.0, slider: -100.0}))[
        "roll"
    ]
    assert live == pytest.approx(25)
    p.done("J20")


def test_j21_triple_rates_and_a_cut_that_speaks(pilot: Any) -> None:
    p = pilot("trainer", KEYS)
    feel = p.step("feel")
    p.choose(feel.switch, "Rates switch")
    for place, rate in ((0, "50"), (1, "75"), (2, "100")):
        p.type(feel.fields[(place, "rate_pos")], rate)
    p.click(feel.copy)
    p.plug_in()
    say = p.step("say")
    p.press(say, "Add: The motor's states")
    model = p.bench.loaded
    for place, rate in ((0, 50), (1, 75), (2, 100)):  # type: ignore[assignment]
        for command, stick in (("roll", "aileron_stick"), ("yaw", "rudder_stick")):
            assert commands(model, **{stick: 100.0, "rates_switch": place})[
                command
            ] == pytest.approx(rate)
    rows = "t_s,throttle_stick,motor_switch\n0,-100,0\n1,-100,1\n2,50,1\n3,50,0\n4,50,0\n"
    result, said = flown(model, rows)
    assert [c for _, c in said] == ["Motor armed", "Motor cut"] and result.outputs["motor"].us[
        -1
    ] == 1000
    assert "| Roll | Aileron stick | 50 / " in sheet_text(model)
    p.done("J21")
