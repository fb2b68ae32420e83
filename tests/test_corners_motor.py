# SPDX-License-Identifier: GPL-3.0-or-later
"""Corners of motors, the guard and idle that planted faults have shown to be unwatched."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from motors import THROTTLE, armed, mode, play, said, with_thrust
from parts import from_parts, wired

from hypsos.core.document.migrate import migrated
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Axis, StartCheck
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.idle_pulse import idle_danger, idle_mended
from hypsos.core.fitting.direction_finder import check_of
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.templates import TEMPLATES


def test_what_the_lamp_says_in_every_state() -> None:
    model = from_parts(mixes=THROTTLE, motors=True)
    ready = armed(model)
    assert said(model, ready) == "Motor armed"
    stopped = play(model, (0.1, {}))
    assert said(model, stopped) == said(model, stopped, False) == "Motor cut"
    glider = from_parts()
    assert said(glider, compile_plan(glider).run(Situation(np.zeros(1)))) == ""
    just_low = play(
        model,
        (1.0, {"throttle_stick": 0.0}),
        (0.1, {"motor_switch": 1.0}),
        (0.1, {"throttle_stick": -95.0}),
    )
    assert said(model, just_low) == "Motor locked: put the motor to cut and back"
    assert "; bring the throttle stick low" in said(
        model, armed(model, throttle_stick=0.0), throttle_stick=0.0
    )
    no_axis = with_at(with_thrust(model), "program.axes", model.program.axes[:3])
    no_axis = with_at(
        no_axis, "program.mixes", (MixLine(name="c", target="left_motor", source="full", gain=30),)
    )
    assert said(no_axis, armed(no_axis)) == "Motor locked: left motor would be commanded 15 % by c"
    cut = with_at(with_at(model, "program.guard.level", 1), "leads[6].centre", 9.0)
    assert "not sent its idle pulse" in said(cut, armed(cut))


def test_idle_is_about_motors_and_says_the_pulse() -> None:
    model = from_parts(
        mixes=THROTTLE,
        motors=True,
        leads={"left_motor": {"centre": 10.0}, "rudder": {"centre": 10.0}},
    )
    said = {x.name: idle_danger(model, x) for x in model.leads}
    assert [n for n, x in said.items() if x] == [
        "left_motor"
    ] and "1050 µs, and its controller is off at 1000" in said["left_motor"]
    high = with_at(model, "leads[6].idle_us", 1900.0)
    mended = idle_mended(with_at(high, "leads[6].stop_pos", 50.0), 6).leads[6]
    assert (
        mended.direction,
        mended.centre,
        mended.travel_pos,
        mended.stop_pos,
        mended.travel_neg,
    ) == (-1, 0, 80, 80, 100)
    low = idle_mended(with_at(model, "leads[6].stop_neg", -50.0), 6).leads[6]
    assert (low.direction, low.travel_neg, low.stop_neg, low.stop_pos) == (1, 100, -100, 125)


@pytest.mark.parametrize("speed_up_only", [False, True])
def test_speed_up_only_leaves_the_slower_side(speed_up_only: Any) -> None:
    recipe = DifferentialThrust(
        left=("left_motor",), right=("right_motor",), share=40, speed_up_only=speed_up_only
    )
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.recipes", (recipe,))
    for rudder, left, right in ((-100, -40, 40), (50, 20, -20), (0, 0, 0)):
        sums = settled(compile_plan(model), {"throttle_stick": 0, "rudder_stick": rudder}).sums
        found = (sums["left_motor"][-1], sums["right_motor"][-1])
        assert found == pytest.approx(
            (max(left, 0), max(right, 0)) if speed_up_only else (left, right)
        )


def test_the_bars_of_an_engine_by_its_idle_pulse() -> None:
    """The idle at the other end makes no bar; one that lies further in does, and leads to it."""
    for fields, bars in (
        ({"idle_us": 2000.0, "direction": -1}, [("idle", -100), ("stick", 80)]),
        (
            {"idle_us": 1200.0, "travel_neg": 60.0},
            [("idle", -100), ("stick", 80), ("travel", 8), ("link", -8)],
        ),
    ):
        model = from_parts(mixes=THROTTLE, motors=True, leads={"left_motor": fields})
        why = settled(
            compile_plan(model), {"motor_switch": 1, "throttle_stick": -20.0}, ["left_motor"]
        ).why["left_motor"]
        assert [(b.kind, pytest.approx(b.amount)) for b in why] == bars
        assert why[-1].path == ("leads[6].idle_us" if len(bars) > 2 else why[-1].path)
    near = from_parts(
        mixes=THROTTLE,
        motors=True,
        leads={"left_motor": {"idle_us": 1900.0, "direction": -1, "travel_pos": 80}},
    )
    found = settled(compile_plan(near), {"motor_switch": 1, "throttle_stick": 0.5}).outputs[
        "left_motor"
    ]
    assert found.stand[-1] == pytest.approx(0.5)


def test_a_steep_old_throttle_with_a_response() -> None:
    line = {
        "name": "t",
        "target": "m",
        "source": "thrust",
        "gain": 200.0,
        "response": {"points": [[-100, -100], [0, 20], [100, 100]]},
    }
    old = {
        "format": "hypsos-model",
        "schema_version": 1,
        "airframe": {"motors": [{"name": "m"}]},
        "program": {"mixes": [line]},
    }
    made = migrated(old)["program"]["mixes"][0]
    assert (
        made["gain"] == 100
        and made["response"]["points"] == [[-100, -150], [0, 40], [100, 150]]
        and (made["in_s"], made["out_s"]) == (0, 0)
    )
    assert line["gain"] == 200  # what was read is left alone


def test_a_mode_for_the_motor_is_told_with_its_preset() -> None:
    model = with_at(
        from_parts(mixes=THROTTLE, motors=True), "program.modes", (mode("base", left_motor=7.0),)
    )
    told = armed(model).told
    assert told["left_motor"][-1] == -93 and told["right_motor"][-1] == -100
    assert Axis(command="roll", control="aileron_stick").settings[0].rate_pos == 100


def test_half_of_two_motors_has_no_differential_thrust() -> None:
    model = TEMPLATES["twin"].make("Trial")
    one = model.airframe.motors[:1]
    made = adapted(model, model.airframe.model_copy(update={"motors": one}))
    assert not any(isinstance(r, DifferentialThrust) for r in made.model.program.recipes)
    assert any(x.startswith("recipe") for x in made.let_go)


def test_who_wakes_and_who_does_not() -> None:
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.wakes_when_low", True)
    checked = with_at(
        model, "program.guard.start_check", (StartCheck(control="slider", low=-5, high=5),)
    )
    run = {"motor_switch": 1.0}
    assert (
        play(model, (1.0, run)).guard[-1] == play(checked, (1.0, run)).guard[-1] == GuardState.ARMED
    )
    assert play(checked, (1.0, run | {"slider": 50.0})).guard[-1] == GuardState.LOCKED
    assert (
        play(
            checked, (1.0, run), (0.2, {"slider": 50.0}), (0.2, {"motor_switch": 0.0}), (1.0, run)
        ).guard[-1]
        == 2
    )


def test_a_motor_without_a_thrust_axis_is_asked_by_what_it_would_be_told() -> None:
    model = from_parts(
        mixes=(MixLine(name="s", target="left_motor", source="slider"),), motors=True
    )
    model = with_at(model, "program.axes", model.program.axes[:3])
    assert armed(model, slider=-100.0).guard[-1] == GuardState.ARMED
    assert armed(model, slider=50.0).guard[-1] == GuardState.LOCKED


def test_a_pulse_a_microsecond_off_idle_is_not_the_idle_pulse() -> None:
    model = from_parts(mixes=THROTTLE, motors=True)
    at = next(i for i, x in enumerate(model.leads) if x.name == "left_motor")
    assert idle_danger(model, model.leads[at]) is None
    assert idle_danger(model, model.leads[at].model_copy(update={"centre": 0.2})) is not None


def test_what_is_cut_off_and_how_a_loose_motor_stands() -> None:
    far = MixLine(name="far", target="rudder", source="full", gain=200)
    found = settled(compile_plan(from_parts(mixes=(far,))), {}).outputs["rudder"]
    assert found.cut[-1] == 50
    loose = compile_plan(
        from_parts(mixes=THROTTLE, motors=True, leads={"left_motor": {"port": None}})
    )
    assert (
        settled(loose, {"throttle_stick": 70, "motor_switch": 1}).outputs["left_motor"].stand[-1]
        == -100
    )


def test_the_movements_that_show_two_motors() -> None:
    model = wired("twin")
    check = check_of(model)
    yaw = next(x for x in check.steps if x.key == "yaw_thrust")
    assert set(yaw.moves) == {"left_motor", "right_motor"} and yaw.after["rudder_stick"] == 100
    assert yaw.should == {"left_motor": 1, "right_motor": -1}
    assert all(x.moves for x in check.steps) and "left_motor" in check.parts
    at = next(i for i, x in enumerate(model.leads) if x.target == "elevator")
    assert "elevator" not in check_of(with_at(model, f"leads[{at}].port", None)).parts


def test_a_failsafe_at_the_end_of_a_surface_is_no_idle_pulse_and_one_above_idle_is_sent() -> None:
    leads = {
        "rudder": {"direction": -1, "failsafe": Failsafe(value=-100.0)},
        "left_motor": {"failsafe": Failsafe(value=-50.0)},
    }
    plan = compile_plan(from_parts(mixes=THROTTLE, motors=True, leads=leads))
    t = 0.02 * np.arange(100)
    found = plan.run(Situation(t, {}, np.where(t < 0.2, 1.0, 0.0))).outputs
    assert found["rudder"].us[-1] == 2000 and found["left_motor"].us[-1] == 1250


def test_the_lamp_tells_the_last_frame_and_of_a_cut_alone_only_the_switch() -> None:
    for level, words in (
        (1, "put the motor to cut and back"),
        (2, "left motor would be commanded 60 %"),
    ):
        model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.level", level)
        hands = {"motor_switch": 1.0, "throttle_stick": np.array([-100.0, -100.0, 20.0])}
        result = compile_plan(model).run(Situation(0.02 * np.arange(3), hands))
        assert said(model, result, throttle_stick=20.0).startswith(f"Motor locked: {words}"), level
