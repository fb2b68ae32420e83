# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches, flight modes, shared values, trims by mode, and how lines combine; the worked
cases that need them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from conftest import vectors
from parts import from_parts

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine, Delay
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.four_bar import Linkage, binds_at, deflection, servo_turn
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable

FRAME = 0.02


def test_a_circle_without_a_latch_is_refused_by_name() -> None:
    circle = (Combine(name="a", kind="any", of=("b",)), Combine(name="b", kind="not", of=("a",)))
    with pytest.raises(HypsosError, match=r"circle without a latch: a, b"):
        compile_plan(from_parts(logic=circle))


def test_three_modes_scale_rate_and_expo_through_shared_values() -> None:
    """Worked case: rates 35/85/100, expo 15/35/60, base 50/10; a live slider; an undefined position
    is the default mode."""
    modes = (
        FlightMode(name="one", when="switch_c@0"),
        FlightMode(name="two", when="switch_c@1"),
        FlightMode(name="base"),
    )
    live = Adjuster(control="slider", when="switch_b@1")
    rate = Tunable(
        name="rate", low=25, high=100, value=50, by_mode={"one": 35, "two": 85}, adjuster=live
    )
    bend = Tunable(name="bend", low=0, high=60, value=10, by_mode={"one": 15, "two": 35})
    model = from_parts(
        modes=modes,
        tunables=(rate, bend),
        settings={"roll": Setting(rate_from="rate", expo_from="bend")},
    )
    plan = compile_plan(model)

    def roll(**controls: Any) -> Any:
        return settled(plan, {"aileron_stick": 80, **controls}).commands["roll"][-1]

    assert roll(switch_c=1) == pytest.approx(59.432)
    assert roll(switch_c=2) == pytest.approx(50 * (0.9 * 0.8 + 0.1 * 0.512))
    assert roll(switch_c=1, switch_b=1, slider=-100) == pytest.approx(25 / 85 * 59.432)
    assert roll(switch_c=1, switch_b=1, slider=100) == pytest.approx(100 / 85 * 59.432)


def test_crow_on_the_throttle_stick() -> None:
    """Worked case: fully open at -80 and below, closed at -10 and above; off is off, never half;
    roll still works."""
    opening = Response(points=((-100, 100), (-80, 100), (-10, 0), (100, 0)))
    mixes = (
        MixLine(
            name="brake",
            target="brake",
            source="throttle_stick",
            response=opening,
            when="switch_b@1",
        ),
        MixLine(name="a", target="left_aileron", source="brake", gain=-42),
        MixLine(name="b", target="right_aileron", source="brake", gain=-42),
        MixLine(name="f", target="left_flap", source="brake", gain=86),
        MixLine(name="e", target="elevator", source="brake", gain=7),
    )
    plan = compile_plan(from_parts(mixes=mixes))
    for stick, b in ((-100, 100), (-80, 100), (-45, 50), (-10, 0), (60, 0)):
        sums = settled(plan, {"throttle_stick": stick, "switch_b": 1}).sums
        assert (
            sums["left_aileron"][-1],
            sums["left_flap"][-1],
            sums["elevator"][-1],
        ) == pytest.approx((-0.42 * b, 0.86 * b, 0.07 * b))
        off = settled(plan, {"throttle_stick": stick}).sums
        assert off["left_flap"][-1] == 0 and off["elevator"][-1] == 0
    sums = settled(plan, {"throttle_stick": -100, "switch_b": 1, "aileron_stick": 100}).sums
    assert (sums["left_aileron"][-1], sums["right_aileron"][-1]) == pytest.approx((58, -142))


def test_the_other_worked_cases_that_need_no_recipe() -> None:
    line = MixLine
    gains = (
        ("left_flap", "roll", 60),
        ("left_flap", "pitch", -60),
        ("right_flap", "roll", -60),
        ("right_flap", "pitch", -60),
    )
    elevons = tuple(line(name=f"{s} to {t}", target=t, source=s, gain=g) for t, s, g in gains)
    sums = settled(
        compile_plan(from_parts(mixes=elevons)), {"aileron_stick": 100, "elevator_stick": -100}
    ).sums
    assert (sums["left_flap"][-1], sums["right_flap"][-1]) == pytest.approx((0, -120))
    turn = (
        line(name="s", target="rudder", source="roll", gain=12, when="switch_c@1"),
        line(name="m", target="rudder", source="roll", gain=18, when="switch_c@2"),
    )
    plan = compile_plan(from_parts(mixes=turn))
    assert [
        settled(plan, {"aileron_stick": -50, "switch_c": c}).sums["rudder"][-1] for c in (0, 1, 2)
    ] == [0, -6, -9]
    above = Response(points=((-100, 0), (0, 0), (100, 100)))
    plan = compile_plan(
        from_parts(
            mixes=(line(name="t", target="elevator", source="thrust", gain=6, response=above),)
        )
    )
    assert [
        settled(plan, {"throttle_stick": x}).sums["elevator"][-1] for x in (-100, 0, 50, 100)
    ] == pytest.approx([0, 0, 3, 6])
    gains = (
        ("left_flap", "pitch", 70),
        ("right_flap", "pitch", 70),
        ("left_flap", "roll", 40),
        ("right_flap", "roll", -40),
    )
    canards = tuple(line(name=f"{s} to {t}", target=t, source=s, gain=g) for t, s, g in gains)
    plan = compile_plan(from_parts(mixes=canards, trims={"pitch": Trim()}))
    both = settled(plan, {"elevator_stick": -100, "pitch_trim": 8}).sums
    assert (both["left_flap"][-1], both["right_flap"][-1]) == pytest.approx((75.6, 75.6))
    roll = settled(plan, {"aileron_stick": 50}).sums
    assert (roll["left_flap"][-1], roll["right_flap"][-1]) == pytest.approx((20, -20))
    stick = Response(points=((-100, 0), (-60, 0), (100, 100)))
    plan = compile_plan(
        from_parts(
            mixes=(
                line(
                    name="f", target="left_flap", source="throttle_stick", response=stick, gain=-80
                ),
            )
        )
    )
    assert [
        settled(plan, {"throttle_stick": x}).sums["left_flap"][-1] for x in (-60, 20, 100)
    ] == pytest.approx([0, -40, -80])


def test_differential_thrust_keeps_idle_and_cut() -> None:
    """Worked case: 15 %, cruise -76, full left rudder; at the stick's low end; cut."""
    each = (("left_motor", 15), ("right_motor", -15))
    mixes = tuple(MixLine(name="throttle", target=m, source="thrust") for m, _ in each)
    mixes += tuple(MixLine(name="twist", target=m, source="yaw", gain=g) for m, g in each)
    plan = compile_plan(from_parts(mixes=mixes, motors=True))
    for stick, run, left, right in ((-76, 1, -91, -61), (-100, 1, -100, -85), (-76, 0, -100, -100)):
        out = settled(
            plan, {"throttle_stick": stick, "rudder_stick": -100, "motor_switch": run}
        ).outputs
        assert (out["left_motor"].stand[-1], out["right_motor"].stand[-1]) == pytest.approx(
            (left, right)
        )


@pytest.mark.parametrize("row", vectors("linkage"))
def test_linkage(row: Any) -> None:
    link = Linkage(
        arm_mm=row["rs"],
        horn_mm=row["rh"],
        distance_mm=row["D"],
        offset_mm=row["e"],
        arm_deg=row["a0"],
        horn_deg=row["b0"],
    )
    found = float(deflection(link, row["theta"]))
    if row["deflection"] is None:
        stuck = binds_at(link, row["theta"], 0.0)
        assert np.isnan(found) and stuck is not None and row["theta"] <= stuck < 0
        return
    assert found == pytest.approx(row["deflection"], abs=1e-4)
    assert float(servo_turn(link, found)) == pytest.approx(row["theta"], abs=1e-6)


def test_a_linkage_out_of_reach_is_said_and_a_binding_one_kept_out(marram: Model) -> None:
    short = Linkage(arm_mm=6, horn_mm=20, distance_mm=60)
    with pytest.raises(HypsosError, match=r"cannot reach 60\.0°"):
        servo_turn(short, 60.0)
    index = next(i for i, x in enumerate(marram.leads) if x.linkage is not None)
    long_arm = marram.leads[index].linkage.model_copy(update={"arm_mm": 40.0})
    leads = tuple(
        x.model_copy(update={"linkage": long_arm}) if i == index else x
        for i, x in enumerate(marram.leads)
    )
    found = [p for p in problems(marram.model_copy(update={"leads": leads})) if "binds" in p.text]
    assert [p.path for p in found] == [f"leads[{index}].linkage"]


def test_a_fade_goes_straight_from_one_mode_to_the_other_through_replaced_and_scaled_sums(
    marram: Model,
) -> None:
    """Half throttle, then landing, which stops the motor: on the way it never gives more than it
    gave."""
    still = MixLine(
        name="None", target="motor", source="full", gain=0, combine="replace", when="mode:landing"
    )
    at_once = tuple(
        x.changed({"in_s": 0.0}) if x.target == "motor" else x for x in marram.program.mixes
    )
    plan = compile_plan(
        with_at(marram, "program.mixes", (*at_once, still))
    )  # a soft start is held at idle by the guard
    start = plan.run(Situation(FRAME * np.arange(60), {"motor_switch": 0.0})).memory
    climb = {"motor_switch": 1.0, "throttle_stick": -30.0}
    start = plan.run(Situation(FRAME * np.arange(60, 62), {"motor_switch": 1.0}), start).memory
    start = plan.run(Situation(FRAME * np.arange(62, 200), climb), start).memory
    result = plan.run(
        Situation(FRAME * np.arange(200, 230), climb | {"task_switch": 2.0}), start, ["motor"]
    )
    t = FRAME * np.arange(30)
    assert result.sums["motor"] == pytest.approx(-30 - 70 * np.clip(t / 0.3, 0, 1), abs=1e-9)
    assert sum(c.amount for c in result.why["motor"]) == pytest.approx(
        result.outputs["motor"].stand, abs=1e-9
    )


def test_a_mode_that_comes_in_the_middle_of_a_fade_takes_no_share_of_it() -> None:
    landing = FlightMode(name="landing", when="switch_b@1", fade_s=2.0, presets={"elevator": 40.0})
    base, other = (
        FlightMode(name="base", fade_s=2.0),
        FlightMode(name="thermal", when="switch_c@2", presets={"elevator": -90.0}),
    )
    two, three = from_parts(modes=(landing, base)), from_parts(modes=(landing, other, base))
    start = compile_plan(two).run(Situation(FRAME * np.arange(10), {}))
    half = compile_plan(two).run(
        Situation(FRAME * np.arange(10, 60), {"switch_b": 1.0}), start.memory
    )
    for on in (1.0, 0.0):  # it goes on, or turns back
        rest = Situation(FRAME * np.arange(60, 80), {"switch_b": on})
        kept, changed = (
            compile_plan(m).run(rest, half.memory).sums["elevator"] for m in (two, three)
        )
        assert 15 < changed[0] < 25 and changed == pytest.approx(kept)


def test_a_fade_under_way_goes_on_in_many_situations_at_once() -> None:
    landing = FlightMode(name="landing", when="switch_b@1", fade_s=2.0, presets={"elevator": 40.0})
    plan = compile_plan(from_parts(modes=(landing, FlightMode(name="base", fade_s=2.0))))
    start = plan.run(Situation(FRAME * np.arange(10), {}))
    half = plan.run(Situation(FRAME * np.arange(10, 60), {"switch_b": 1.0}), start.memory).memory
    t = FRAME * np.arange(60, 80)
    both = plan.run(Situation(t, {"switch_b": np.array([[1.0], [0.0]]) * np.ones(20)}), half).sums[
        "elevator"
    ]
    for row, on in zip(both, (1.0, 0.0), strict=True):
        assert row == pytest.approx(plan.run(Situation(t, {"switch_b": on}), half).sums["elevator"])
    assert both[0, -1] > both[1, -1] + 8


def test_what_settled_has_no_fade_left() -> None:
    modes = (
        FlightMode(name="fast", when="switch_b@1", presets={"left_flap": 40.0}, fade_s=1.0),
        FlightMode(name="base"),
    )
    plan = compile_plan(from_parts(modes=modes))
    t = 0.02 * np.arange(4)
    moves = Situation(t, {"switch_b": np.array([0.0, 0.0, 0.0, 1.0])})
    for memory in (None, plan.run(Situation(np.zeros(1))).memory):
        done = plan.run(moves, memory, instant=True)
        assert done.sums["left_flap"].tolist() == [0, 0, 0, 40]
        after = plan.run(Situation(np.array([0.08]), {"switch_b": 1.0}), done.memory)
        assert after.sums["left_flap"][-1] == 40 and not after.pending


def test_modes_that_come_and_go_under_a_fade_leave_the_others_their_shares() -> None:
    first, second, base = (
        FlightMode(name=n, when=w, presets={"left_flap": x}, fade_s=1.0)
        for n, w, x in (
            ("first", "switch_c@1", 20.0),
            ("second", "switch_c@2", 60.0),
            ("base", None, 0.0),
        )
    )
    more = FlightMode(name="more", when="switch_b@1", fade_s=1.0)
    t = 0.02 * np.arange(25)
    plan = compile_plan(from_parts(modes=(first, second, base)))
    start = plan.run(Situation(np.zeros(1), {"switch_c": 1.0})).memory
    half = plan.run(Situation(t + 0.02, {"switch_c": 2.0}), start).memory
    on = Situation(np.array([0.52]), {"switch_c": 2.0})
    for modes, wanted in (
        ((first, second, base), 40.0), ((more, first, second, base), 40.0), ((first, second), 40.0),
        ((second, base), 60.0), ((base, second, first), 39.2),
    ):  # fmt: skip
        found = compile_plan(from_parts(modes=modes)).run(on, half).sums["left_flap"][-1]
        assert found == pytest.approx(wanted), [m.name for m in modes]


def test_two_slow_lines_of_the_same_name_keep_their_own_pace() -> None:
    lines = (
        MixLine(name="s", target="elevator", source="switch_b", gain=10, in_s=t, out_s=t)
        for t in (2.0, 8.0)
    )
    plan = compile_plan(from_parts(mixes=tuple(lines)))
    start = plan.run(Situation(FRAME * np.arange(2), {}))
    result = plan.run(Situation(FRAME * np.arange(2, 53), {"switch_b": 1.0}), start.memory)
    one = 10 * FRAME * 51 / 2.0 + 10 * FRAME * 51 / 8.0
    assert result.sums["elevator"][-1] - start.sums["elevator"][-1] == pytest.approx(one)


@pytest.mark.parametrize(
    "field", [{"seconds": -1}, {"seconds": float("nan")}, {"of": "two words"}, {"of": "switch_b@"}]
)
def test_numbers_and_conditions_out_of_bounds(field: Any) -> None:
    with pytest.raises(ValueError, match=next(iter(field))):
        Delay(**({"name": "d", "kind": "pulse", "of": "link", "seconds": 1.0} | field))
