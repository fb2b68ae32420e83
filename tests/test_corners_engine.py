# SPDX-License-Identifier: GPL-3.0-or-later
"""Corners of the engine that planted faults have shown to be unwatched: conditions, bars, outputs,
what is on its way."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from motors import THROTTLE, armed
from parts import from_parts

from hypsos.core.base.errors import HypsosError
from hypsos.core.conditions import Compare, Delay, Gate, Latch
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.outputs import Output
from hypsos.core.engine.shaping import stored_setting
from hypsos.core.engine.situation import checked_value, control_bounds
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Tunable


def test_boundaries_of_conditions() -> None:
    logic = (
        Compare(name="inside", kind="within", a="slider", x=10, y=20, hysteresis=5),
        Compare(name="more", kind="difference", a="slider", b="late", x=0),
        Gate(name="late", source="rudder_stick", when="switch_b@1", parked=-50),
        Latch(name="kept", set="switch_b@1", reset="switch_c@2"),
    )
    plan = compile_plan(from_parts(logic=logic))
    t = 0.02 * np.arange(8)
    hands = {
        "slider": np.array([9.9, 10, 5, 4.9, 20, 25, 25.1, 20]),
        "switch_b": np.array([0, 1, 1, 1, 1, 1, 0, 0.0]),
        "rudder_stick": 7.0,
    }
    result = plan.run(Situation(t, hands))
    assert result.logic["inside"].tolist() == [False, True, True, False, True, True, False, True]
    assert result.logic["more"].tolist() == [True, True, False, False, True, True, True, True]
    assert (
        result.logic["kept"].tolist() == [False] + [True] * 7
        and Latch(name="x", set="link", reset="link").edges
    )


def test_where_controls_rest_and_what_they_take() -> None:
    model = from_parts(trims={"roll": Trim(clicks=30, step=2.0, range=20)})
    situation = Situation(np.zeros(1))
    assert (situation.link, situation.power, situation.link_quality) == (1.0, 1.0, 100.0)
    plan = compile_plan(model)
    assert (
        plan.rest["throttle_stick"] == -100
        and plan.rest["roll_trim"] == 20
        and plan.rest["slider"] == 0
    )
    assert (
        control_bounds(model, "switch_c") == (0, 2)
        and control_bounds(model, "roll_trim") == (-20, 20)
        and control_bounds(model, "slider") == (-100, 100)
    )
    assert (
        checked_value(model, "slider", 12.5) == 12.5
        and checked_value(model, "switch_c", 2.0) == 2.0
    )
    for name, value in (
        ("switch_c", 1.5),
        ("switch_c", 3.0),
        ("slider", 100.5),
        ("link", 0.5),
        ("roll_trim", 21),
        ("slider", float("nan")),
        ("nose", 1),
    ):
        with pytest.raises(HypsosError):
            checked_value(model, name, value)


def test_the_steps_of_an_output_lead_to_its_fields() -> None:
    model = from_parts(
        mixes=THROTTLE, motors=True, leads={"left_motor": {"port": None}, "rudder": {"port": None}}
    )
    result = armed(model)
    assert isinstance(Output(model, 0).lead, Lead) and result.outputs["left_motor"].us[-1] == 0
    ran = compile_plan(model).run(
        Situation(np.zeros(1), {"rudder_stick": 50.0}), None, ["rudder", "left_motor"]
    )
    why, loose = ran.why, ran.outputs["rudder"]
    assert (loose.pct[0], loose.stand[0], loose.us[0]) == (0, 0, 0)
    plugged = from_parts(mixes=THROTTLE, motors=True)
    flown = settled(
        compile_plan(plugged), {"motor_switch": 1, "throttle_stick": 20.0}, ["left_motor"]
    )
    assert [(b.kind, b.amount) for b in flown.why["left_motor"]] == [("idle", -100), ("stick", 120)]
    index = next(i for i, x in enumerate(model.leads) if x.name == "rudder")
    assert (
        why["rudder"][-1].label == "Lead not plugged in"
        and why["rudder"][-1].path == f"leads[{index}].port"
    )
    held = settled(compile_plan(model), {"motor_switch": 1, "throttle_stick": 20.0}, ["left_motor"])
    assert held.outputs["left_motor"].pct[-1] == -100
    last = held.why["left_motor"][-1]
    assert (last.label, last.amount, last.path) == ("Lead not plugged in", -120, "leads[6].port")


@pytest.mark.parametrize(
    ("stick", "field"), [(0.5, "travel_pos"), (-0.5, "travel_neg"), (-60.0, "travel_neg")]
)
def test_a_bar_of_travel_leads_to_the_side_to_which_the_demand_goes(stick: Any, field: Any) -> None:
    model = from_parts(
        leads={"rudder": {"travel_neg": 0.0, "travel_pos": 50.0, "stop_neg": 0.0, "centre": -0.5}}
    )
    why = settled(compile_plan(model), {"rudder_stick": stick}, ["rudder"]).why["rudder"]
    assert {b.path.split(".")[1] for b in why if b.kind == "travel"} == {field}
    assert {b.path.split(".")[1] for b in why if b.kind == "stop"} == {"stop_neg"}


def test_an_output_says_whether_it_is_still_on_its_way() -> None:
    """What the bench goes by to know that it may rest."""
    for field in ("slow_up_s", "servo_s"):
        plan = compile_plan(from_parts(leads={"rudder": {field: 0.2}}))
        start = plan.run(Situation(np.zeros(1))).memory
        t = 0.02 * np.arange(1, 40)
        moves = Situation(t, {"rudder_stick": 100.0})
        assert plan.run(moves.piece(0, 3), start).outputs["rudder"].moving
        after = plan.run(moves.piece(0, 38), start).memory
        assert not plan.run(moves.piece(38, 39), after).outputs["rudder"].moving
        after = plan.run(moves.piece(0, 30), start).memory
        assert not plan.run(moves.piece(30, 36), after).outputs["rudder"].moving


@pytest.mark.parametrize("frames", [1, 7, 60])
@pytest.mark.parametrize(("safe", "stays"), [("preset", 30.0), ("no pulses", 100.0)])
def test_without_a_pulse_a_servo_stays_where_the_last_one_left_it(
    frames: Any, safe: Any, stays: Any
) -> None:
    """Full rudder, the link is lost, the failsafe acts, the receiver loses its battery: nothing
    moves the servo back."""
    failsafe = {"action": safe, "value": 30.0 if safe == "preset" else 0.0}
    model = from_parts(leads={"rudder": {"failsafe": failsafe, "servo_s": 0.04}})
    plan = compile_plan(with_at(model, "receiver.failsafe_after_s", 0.2))
    t = 0.02 * np.arange(60)
    memory, got = None, []
    for i in range(0, 60, frames):
        piece = t[i : i + frames]
        moves = Situation(
            piece,
            {"rudder_stick": np.full(len(piece), 100.0)},
            link=np.where(piece < 0.2 - 1e-9, 1.0, 0.0),
            power=np.where(piece < 0.8 - 1e-9, 1.0, 0.0),
        )
        found = plan.run(moves, memory)
        memory = found.memory
        got.append(found.outputs["rudder"].stand)
    stand = np.concatenate(got)
    assert stand[18] == pytest.approx(100) and np.allclose(stand[24:], stays)


def test_what_controls_take_is_said() -> None:
    assert Compare(kind="above", name="c", a="slider", x=1).hysteresis == 0
    assert (Tunable(name="free", value=5).low, Tunable(name="free", value=5).high) == (0, 100)
    model = from_parts(trims={"roll": Trim(range=12)})
    for name, value, said in (
        ("switch_c", 1.5, "a whole number from 0 to 2"), ("slider", 200.0, "a number from -100 to 100"),
        ("link", 2.0, "a whole number from 0 to 1"), ("roll_trim", 13.0, "a number from -12 to 12"),
    ):  # fmt: skip
        with pytest.raises(HypsosError) as refused:
            checked_value(model, name, value)
        assert said in refused.value.remedy
    one = Situation(np.array([0.0]), {"slider": np.array([4.0])}).piece(0, 1)
    assert one.controls["slider"].shape == (1,) and float(np.asarray(one.link)) == 1


SLOW = MixLine(name="s", target="left_flap", source="switch_c", in_s=0.4, out_s=0.2)


STILL = MixLine(name="f", target="left_flap", source="full", gain=0.0)


FADE = (
    FlightMode(name="fast", when="switch_b@1", presets={"left_flap": 40.0}, fade_s=0.4),
    FlightMode(name="base"),
)


ON_SWITCH = MixLine(name="s", target="left_flap", source="full", gain=50, when="x")


@pytest.mark.parametrize(
    ("mix", "logic", "lasts"),
    [
        (SLOW, (), 0.8), (STILL, FADE, 0.4), (ON_SWITCH, (Delay(kind="on_delay", name="x", of="switch_b@1", seconds=0.3),), 0.3),
        (ON_SWITCH, (Delay(kind="pulse", name="x", of="switch_b@1", seconds=0.3),), 0.3),
        (ON_SWITCH, (Delay(kind="off_delay", name="x", of="switch_b@0", seconds=0.3),), 0.3),
    ],
)  # fmt: skip
@pytest.mark.parametrize("frames", [1, 5])
def test_what_is_still_on_its_way_says_so_and_ends(
    mix: Any, logic: Any, lasts: Any, frames: Any
) -> None:
    """The bench's clock stops when nothing is pending: frame by frame as in pieces."""
    modes, logic = (logic, ()) if logic is FADE else ((), logic)
    plan = compile_plan(from_parts(mixes=(mix,), logic=logic, modes=modes))
    memory, pending = None, []
    for i in range(0, 60, frames):
        t = 0.02 * np.arange(i, i + frames)
        moved = np.where(t >= 0.2 - 1e-9, 1.0, 0.0)
        found = plan.run(Situation(t, {"switch_b": moved, "switch_c": moved * 2 - 0.0}), memory)
        memory = found.memory
        pending.append((float(t[-1]), found.pending))
        assert mix is not SLOW or found.outputs["left_flap"].moving == found.pending
    still = [t for t, busy in pending if busy and t > 0.15]
    assert not pending[int(0.16 / 0.02 / frames) - 1][1] and not pending[-1][1]
    assert still and 0.2 + lasts - 0.13 < max(still) < 0.2 + lasts + 0.02


@pytest.mark.parametrize("kind", ["off_delay", "pulse"])
def test_a_single_frame_is_enough_to_set_off_a_delay(kind: Any) -> None:
    plan = compile_plan(
        from_parts(logic=(Delay(kind=kind, name="x", of="switch_b@1", seconds=0.3),))
    )
    t = 0.02 * np.arange(40)
    on = np.where(np.arange(40) == 3, 1.0, 0.0)
    whole = plan.run(Situation(t, {"switch_b": on})).logic["x"]
    memory, single = None, []
    for i in range(40):
        found = plan.run(Situation(t[i : i + 1], {"switch_b": on[i : i + 1]}), memory)
        memory = found.memory
        single.append(bool(found.logic["x"][-1]))
    assert single == whole.tolist() and single[4] and not single[2] and 14 <= sum(single) <= 17


def bars(model: Model, controls: Any, part: Any) -> Any:
    """Settled, then a frame with the controls moved: (kind, amount, path) of every bar."""
    plan = compile_plan(model)
    start = plan.run(Situation(np.zeros(1)))
    found = plan.run(Situation(np.array([0.02]), controls), start.memory, [part]).why[part]
    return [(b.kind, round(float(np.ravel(b.amount)[-1]), 6), b.path) for b in found]


def test_bars_are_those_that_matter_and_lead_to_their_numbers() -> None:
    slow = MixLine(name="s", target="left_flap", source="slider", in_s=0.4)
    over = MixLine(
        name="o",
        target="left_flap",
        source="full",
        gain=30,
        in_s=0.4,
        combine="replace",
        when="switch_b@1",
    )
    model = from_parts(
        mixes=(slow, over),
        trims={"roll": Trim(clicks=4, step=1)},
        modes=(FlightMode(name="base", presets={"rudder": 0.0}),),
    )
    assert bars(model, {}, "left_flap") == [
        ("mix", 0, "program.mixes[4].gain"),
        ("mix", 0, "program.mixes[5].gain"),
    ]
    moved = bars(model, {"slider": 50.0}, "left_flap")
    assert moved[:2] == [
        ("mix", 50, "program.mixes[4].gain"),
        ("slow", -45, "program.mixes[4].in_s"),
    ]
    assert {a for _, a, _ in moved[2:]} == {0.0}
    assert bars(model, {"rudder_stick": 20.0}, "rudder") == [("stick", 20, "program.mixes[3].gain")]
    assert bars(model, {"aileron_stick": 20.0}, "left_aileron") == [
        ("stick", 20, "program.mixes[0].gain"),
        ("trim", 4, "program.axes[0].trim.clicks"),
    ]
    raised = with_at(model, "program.modes[0].presets", {"rudder": 5.0})
    assert bars(raised, {}, "rudder")[-1] == ("preset", 5, "program.modes")


@pytest.mark.parametrize("side", [1.0, -1.0])
def test_differential_holds_for_the_smallest_movement_and_is_let_go_at_full_brake_and_beyond(
    side: Any,
) -> None:
    line = MixLine(
        name="d",
        target="left_flap",
        source="slider",
        differential=0.5 * side,
        differential_off="left_aileron",
    )
    model = from_parts(mixes=(line,))
    plan = compile_plan(model)
    for roll, left in ((0.0, 0.995), (-50.0, 0.995), (50.0, 0.9975), (100.0, 1.0)):
        for slider in (0.25, -0.25):
            stand = settled(plan, {"slider": slider, "aileron_stick": roll}).sums["left_flap"][-1]
            assert stand == pytest.approx(slider * (left if slider * side > 0 else 1.0)), (
                roll,
                slider,
            )
    strong = with_at(model, "program.mixes[0].gain", 140.0)
    assert strong.program.mixes[0].target == "left_aileron"
    found = settled(compile_plan(strong), {"slider": side, "aileron_stick": 100.0}).sums[
        "left_flap"
    ][-1]
    assert found == pytest.approx(side)


def test_what_is_fed_by_something_on_its_way_is_on_its_way_too() -> None:
    first = MixLine(name="s", target="left_flap", source="slider", in_s=0.2)
    model = from_parts(mixes=(first, MixLine(name="t", target="right_flap", source="left_flap")))
    plan = compile_plan(model)
    start = plan.run(Situation(np.zeros(1))).memory
    for frames, busy in ((4, True), (30, False)):
        found = plan.run(Situation(0.02 * np.arange(1, frames), {"slider": 100.0}), start).outputs
        assert [found[n].moving for n in ("left_flap", "right_flap", "rudder")] == [
            busy,
            busy,
            False,
        ]


def test_each_mode_flies_with_its_own_trim() -> None:
    modes = tuple(
        FlightMode(name=n, when=w)
        for n, w in (("a", "switch_c@0"), ("b", "switch_c@1"), ("c", None))
    )
    trim = Trim(clicks=1, step=2, scope="per mode", by_mode={"a": 3, "b": 5})
    plan = compile_plan(from_parts(modes=modes, trims={"roll": trim}))
    moves = Situation(0.02 * np.arange(3), {"switch_c": np.array([0.0, 1.0, 2.0])})
    assert plan.run(moves).commands["roll"].tolist() == [6, 10, 2]
    assert [float(plan.run(moves.piece(i, i + 1)).commands["roll"][0]) for i in range(3)] == [
        6,
        10,
        2,
    ]


def test_latches_in_a_circle_remember_from_piece_to_piece_and_in_every_shape() -> None:
    logic = (
        Latch(name="a", set="switch_b@1", reset="b", edges=False),
        Latch(name="b", set="switch_c@2", reset="a", edges=False),
    )
    plan = compile_plan(from_parts(logic=logic))
    t = 0.02 * np.arange(8)
    dice = np.random.default_rng(4)
    hands = {
        "switch_b": dice.integers(0, 2, (6, 8)) * 1.0,
        "switch_c": dice.integers(0, 3, (6, 8)) * 1.0,
    }
    whole = plan.run(Situation(t, hands)).logic
    assert 5 < whole["a"].sum() < 40
    cubes = plan.run(Situation(t, {n: x.reshape(2, 3, 8) for n, x in hands.items()})).logic
    memory, pieces = None, []
    for k in range(8):
        found = plan.run(
            Situation(t[k : k + 1], {n: x[:, k : k + 1] for n, x in hands.items()}), memory
        )
        memory = found.memory
        pieces.append(found.logic["a"])
    assert np.array_equal(np.concatenate(pieces, axis=1), whole["a"])
    assert np.array_equal(cubes["a"].reshape(6, 8), whole["a"]) and np.array_equal(
        cubes["b"].reshape(6, 8), whole["b"]
    )


def test_a_setting_as_it_is_stored_for_a_mode() -> None:
    model = from_parts(
        tunables=(
            Tunable(name="soft", value=30, by_mode={"fast": 50}),
            Tunable(name="rate", value=70),
        )
    )
    plain = Setting(rate_neg=40, rate_pos=60, expo=10)
    assert stored_setting(model, plain, "fast") == plain
    shared = Setting(rate_from="rate", expo_from="soft")
    found = [stored_setting(model, shared, m) for m in ("fast", "base")]
    assert [(s.rate_neg, s.rate_pos, s.expo) for s in found] == [(70, 70, 50), (70, 70, 30)]


def test_a_delay_inside_a_circle_of_latches_keeps_the_clock_going() -> None:
    logic = (
        Latch(name="a", set="switch_b@1", reset="late", edges=False),
        Delay(kind="on_delay", name="late", of="a", seconds=0.3),
    )
    plan = compile_plan(from_parts(logic=logic))
    t = 0.02 * np.arange(30)
    start = plan.run(Situation(np.array([-0.02]))).memory
    moved = Situation(t, {"switch_b": np.where(t < 0.03, 1.0, 0.0)})
    for shape in (lambda x: x, lambda x: np.stack([x, x])):
        many = Situation(t, {"switch_b": shape(moved.controls["switch_b"])})
        assert plan.run(many.piece(0, 5), None).pending
    half = plan.run(moved.piece(0, 5), start)
    assert half.pending and half.logic["a"][-1]
    done = plan.run(moved.piece(5, 30), half.memory)
    assert not done.pending and not done.logic["a"][-1] and not done.logic["late"][-1]
