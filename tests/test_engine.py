"""The worked cases and the properties that must hold for every model."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hypsos.core.document import from_json, to_json
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.errors import DocumentError, HypsosError
from hypsos.core.paths import with_at
from hypsos.core.program import Setting, StartCheck
from hypsos.core.recipes import Flaperons, VTail
from hypsos.core.recipes.flaps import FlapPosition
from hypsos.core.shapes import MixLine, Response
from hypsos.core.sweep import settled
from hypsos.core.templates import TEMPLATES
from hypsos.core.why import explain
from hypsos.core.wiring import Failsafe


def wired(key: str):
    model = TEMPLATES[key].make("Trial")
    leads = tuple(x.model_copy(update={"port": i + 1}) for i, x in enumerate(model.leads))
    axes = tuple(a.model_copy(update={"settings": (Setting(),)}) for a in model.program.axes)
    return with_at(with_at(model, "leads", leads), "program.axes", axes)


TUG, SAILPLANE = wired("tug"), wired("v_tail_sailplane")


def stands(model, **controls):
    result = settled(compile_plan(model), controls)
    return {x.target: float(np.ravel(result.outputs[x.name].stand)[-1]) for x in model.leads}


def test_flaperons_at_half_with_full_right():
    out = stands(TUG, flap_switch=1, aileron_stick=100)
    assert (out["left_flaperon"], out["right_flaperon"]) == pytest.approx((71, -25), abs=1e-9)


def test_v_tail_pulled_and_right():
    out = stands(SAILPLANE, elevator_stick=-100, rudder_stick=100)
    assert (out["left_ruddervator"], out["right_ruddervator"]) == pytest.approx((-100, -10), abs=1e-9)


def test_signs_of_every_axis():
    out = stands(TUG, aileron_stick=50, elevator_stick=-50, rudder_stick=50)
    assert out["left_flaperon"] > 0 > out["right_flaperon"]
    assert out["elevator"] == -50
    assert out["rudder"] == 50


def test_elevator_stays_in_step_with_slow_flaps():
    plan = compile_plan(TUG)
    start = plan.run(Situation(np.array([0.0]))).memory
    t = 0.02 * np.arange(1, 120)
    result = plan.run(Situation(t, {"flap_switch": 2.0}), start)
    flap, elevator = result.sums["flap"], result.sums["elevator"]
    assert 0 < flap[10] < 35 and flap[-1] == 90
    below = flap <= 35
    assert elevator[below] == pytest.approx(flap[below] * 4 / 35)
    assert elevator[-1] == pytest.approx(9)


def test_undefined_position_falls_back_to_full_rate_without_expo():
    axis = TUG.program.axes[0].model_copy(
        update={"switch": "rates_switch", "settings": (Setting(rate_neg=40, rate_pos=40, expo=50),)}
    )
    model = with_at(TUG, "program.axes[0]", axis)
    result = settled(compile_plan(model), {"aileron_stick": 50, "rates_switch": 2})
    assert result.commands["roll"][-1] == 50


def test_trim_of_a_line_without_trim():
    model = with_at(TUG, "program.axes[1].trim.clicks", 8)
    model = with_at(model, "program.mixes[0].with_trim", False)
    result = settled(compile_plan(model), {"elevator_stick": -50}, ["elevator"])
    assert result.commands["pitch"][-1] == 58
    assert result.sums["elevator"][-1] == -50


@pytest.mark.parametrize(
    ("level", "low_for", "state"),
    [(1, 0.0, "RELEASED"), (2, 0.0, "LOCKED"), (2, 0.1, "RELEASED"), (3, 0.3, "LOCKED"), (3, 0.6, "RELEASED")],
)
def test_guard_levels(level, low_for, state):
    """The stick comes down from half, stays low for a time, then the switch goes to run."""
    model = with_at(TUG, "program.guard.level", level)
    t = 0.02 * np.arange(100)
    down = t >= 1.0 - low_for - 1e-9 if low_for else np.zeros(100, bool)
    moves = {"throttle_stick": np.where(down, -100.0, 0.0), "motor_switch": (t >= 1.0).astype(float)}
    result = compile_plan(model).run(Situation(t, moves))
    assert result.guard[-1] == GuardState[state]
    assert (result.guard[:50] == GuardState.STOPPED).all()


def test_guard_power_up_with_the_switch_at_run_is_locked_until_cycled():
    for level in (1, 2, 3, 4):
        plan = compile_plan(with_at(TUG, "program.guard.level", level))
        t = 0.02 * np.arange(150)
        switch = np.where((t > 1) & (t < 1.2), 0.0, 1.0)
        result = plan.run(Situation(t, {"motor_switch": switch}))
        assert (result.guard[t <= 1] == GuardState.LOCKED).all()
        assert result.guard[-1] == GuardState.RELEASED


def test_guard_relocks_after_a_battery_change_but_not_after_a_drop_out():
    plan = compile_plan(with_at(TUG, "program.guard.level", 4))
    t = 0.02 * np.arange(400)
    moves = {"motor_switch": (t > 0.8).astype(float)}
    for lost_s, state in ((0.4, GuardState.RELEASED), (0.5, GuardState.LOCKED), (1.5, GuardState.LOCKED)):
        power = ((t < 2) | (t > 2 + lost_s)).astype(float)
        assert plan.run(Situation(t, moves, power=power)).guard[-1] == state


def test_wakes_when_low_turns_locked_into_released():
    t = 0.02 * np.arange(150)
    moves = {"throttle_stick": np.where(t < 1.5, 0.0, -100.0), "motor_switch": (t > 0.5).astype(float)}
    for wakes, state in ((False, GuardState.LOCKED), (True, GuardState.RELEASED)):
        plan = compile_plan(with_at(TUG, "program.guard.wakes_when_low", wakes))
        result = plan.run(Situation(t, moves))
        assert result.guard[-1] == state
        assert result.guard[int(1.9 / 0.02)] == GuardState.LOCKED


@pytest.mark.parametrize("direction", [1, -1])
def test_a_held_motor_is_idle_whatever_is_mixed_into_it(direction):
    index = next(i for i, x in enumerate(TUG.leads) if x.target == "motor")
    model = with_at(TUG, f"leads[{index}].direction", direction)
    model = with_at(model, "program.mixes", (*model.program.mixes, MixLine(name="Bad", target="motor", source="full")))
    result = settled(compile_plan(model), {"throttle_stick": 100})
    assert result.outputs["motor"].stand[-1] == -100
    assert result.outputs["motor"].us[-1] == 1000


def test_failsafe_waits_holds_and_acts_before_reversing():
    model = with_at(TUG, "leads[0].failsafe", Failsafe(value=30))
    model = with_at(model, "leads[1].failsafe", Failsafe(action="hold"))
    model = with_at(model, "leads[3].failsafe", Failsafe(action="no pulses"))
    model = with_at(model, "leads[0].direction", -1)
    t = 0.02 * np.arange(200)
    link = (t < 1.0).astype(float)
    moves = {"aileron_stick": np.where(t < 1.5, 50.0, -80.0)}
    out = compile_plan(model).run(Situation(t, moves, link)).outputs
    left, right = out["left_flaperon"], out["right_flaperon"]
    assert (left.stand[t < 1.9] == left.stand[0]).all()
    assert left.stand[-1] == 30 and left.us[-1] == 1500 - 5 * 30
    assert right.stand[-1] == right.stand[0]
    assert out["rudder"].us[-1] == 0 and out["rudder"].us[0] > 0
    assert out["motor"].us[-1] == 1000


def test_a_loose_lead_moves_nothing_and_says_so():
    model = with_at(TUG, "leads[0].port", None)
    result = settled(compile_plan(model), {"aileron_stick": 80}, ["left_flaperon"])
    explanation = explain(model, result, "left_flaperon")
    assert explanation.stand == 0 and result.outputs["left_flaperon"].us[-1] == 0
    assert explanation.bars[-1].label == "Lead not plugged in"


def test_a_motor_sum_never_goes_below_idle():
    mix = MixLine(name="Rudder slows it", target="motor", source="yaw", gain=-40)
    model = with_at(TUG, "program.mixes", (*TUG.program.mixes, mix))
    result = settled(compile_plan(model), {"motor_switch": 1, "rudder_stick": 100, "throttle_stick": -90}, ["motor"])
    assert result.outputs["motor"].stand[-1] == -100
    assert {b.kind: b.amount for b in explain(model, result, "motor").bars}["cut-off"] == pytest.approx(30)


SITUATIONS = st.fixed_dictionaries(
    {
        "aileron_stick": st.floats(-100, 100),
        "elevator_stick": st.floats(-100, 100),
        "throttle_stick": st.floats(-100, 100),
        "rudder_stick": st.floats(-100, 100),
        "roll_trim": st.floats(-25, 25),
        "pitch_trim": st.floats(-25, 25),
        "flap_switch": st.integers(0, 2),
        "motor_switch": st.integers(0, 1),
        "link": st.integers(0, 1),
    }
)


@settings(max_examples=60, deadline=None)
@given(SITUATIONS, st.sampled_from([TUG, SAILPLANE]), st.floats(-40, 40), st.floats(40, 150), st.sampled_from([1, -1]))
def test_contributions_add_up_and_stay_within_stops(values, model, centre, travel, direction):
    changed = {"centre": centre, "travel_pos": travel, "stop_neg": -90.0, "direction": direction, "slow_up_s": 3.0}
    leads = tuple(x.model_copy(update=changed) for x in model.leads)
    model = with_at(model, "leads", leads)
    plan = compile_plan(model)
    names = [p.name for p in model.airframe.moved()]
    start = plan.run(Situation(np.array([0.0]))).memory
    controls = {k: v for k, v in values.items() if k != "link"}
    result = plan.run(Situation(np.array([0.02]), controls, values["link"]), start, names)
    for name in names:
        explanation = explain(model, result, name)
        assert sum(b.amount for b in explanation.bars) == pytest.approx(explanation.stand, abs=1e-9)
        trace = result.outputs[name]
        assert (-90 if name != "motor" else -100) - 1e-9 <= trace.pct[0] <= 125 + 1e-9
        assert np.isfinite(trace.pct).all() and np.isfinite(trace.us).all()


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**31), st.lists(st.integers(1, 119), max_size=4))
def test_a_replay_in_pieces_equals_one_in_one_piece(seed, cuts):
    rng = np.random.default_rng(seed)
    t = 0.02 * np.arange(120)
    moves = {n: rng.integers(-100, 101, 120).astype(float) for n in ("aileron_stick", "throttle_stick")}
    moves |= {
        "flap_switch": np.repeat(rng.integers(0, 3, 6), 20),
        "motor_switch": np.repeat(rng.integers(0, 2, 12), 10),
    }
    moves["throttle_stick"][rng.random(120) < 0.5] = -100
    link = np.repeat(rng.integers(0, 2, 6), 20)
    plan = compile_plan(with_at(TUG, "receiver.failsafe_after_s", 0.1))
    whole = plan.run(Situation(t, moves, link))
    memory, parts = None, []
    edges = [0, *sorted(set(cuts)), 120]
    for a, b in itertools.pairwise(edges):
        s = slice(a, b)
        piece = plan.run(Situation(t[s], {k: v[s] for k, v in moves.items()}, link[s]), memory)
        memory = piece.memory
        parts.append(piece)
    for name, trace in whole.outputs.items():
        assert np.concatenate([p.outputs[name].us for p in parts]) == pytest.approx(trace.us, abs=1e-9)
    assert np.concatenate([p.guard for p in parts]).tolist() == whole.guard.tolist()


def test_reversing_mirrors_the_pulse_and_nothing_else():
    values = {"aileron_stick": 40.0, "flap_switch": 2}
    plain = settled(compile_plan(TUG), values).outputs
    turned = settled(compile_plan(with_at(TUG, "leads[0].direction", -1)), values).outputs
    for name in plain:
        mirror = name == "left_flaperon"
        assert turned[name].us[-1] - 1500 == pytest.approx((plain[name].us[-1] - 1500) * (-1 if mirror else 1))
        assert turned[name].stand[-1] == pytest.approx(plain[name].stand[-1])


def test_situations_side_by_side_are_those_one_by_one():
    plan = compile_plan(SAILPLANE)
    sticks = np.linspace(-100, 100, 9)
    together = settled(plan, {"aileron_stick": sticks[:, None], "flap_switch": 1})
    for i, stick in enumerate(sticks):
        alone = settled(plan, {"aileron_stick": stick, "flap_switch": 1})
        for name, trace in alone.outputs.items():
            both = np.broadcast_to(together.outputs[name].us, (9, together.t_s.size))
            assert both[i, -1] == pytest.approx(trace.us[-1])


@settings(max_examples=50, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(-100, 100), st.integers(-150, 150)), min_size=2, max_size=9, unique_by=lambda p: p[0]
    )
)
def test_smooth_responses_pass_their_points_and_never_overshoot(points):
    from hypsos.core.engine.shaping import response_curve

    points = sorted(points)
    curve = response_curve(Response(points=points, shape="smooth"))
    xs, ys = np.array(points, float).T
    assert curve(xs) == pytest.approx(ys, abs=1e-9)
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        y = curve(np.linspace(x0, x1, 21))
        assert y.min() >= min(y0, y1) - 1e-9 and y.max() <= max(y0, y1) + 1e-9


@pytest.mark.parametrize(
    ("path", "value", "place"),
    [
        ("program.mixes[0].source", "nowhere", "program.mixes[0].source"),
        ("program.mixes[0].target", "wing_tip", "program.mixes[0].target"),
        ("leads[1].port", 1, "leads[1].port"),
        ("leads[1].port", 30, "leads[1].port"),
        ("leads[1].name", "left_flaperon", "leads[1].name"),
        ("program.guard", None, "program.guard"),
        ("program.guard.cut", (2,), "program.guard.cut[0]"),
        ("program.guard.cut", (0, 1), "program.guard.cut"),
        ("program.guard.holds", ("mode:gone",), "program.guard.holds[0]"),
        ("program.guard.also", "rates_switch@5", "program.guard.also"),
        ("program.guard.start_check", (StartCheck(control="rates_switch"),), "program.guard.start_check[0].position"),
        ("airframe.surfaces[0].end_mm", 2000.0, "airframe.surfaces[0].end_mm"),
        ("program.axes[0].switch", "gone", "program.axes[0].switch"),
    ],
)
def test_what_does_not_hold_together_is_named_with_its_place(path, value, place):
    with pytest.raises(DocumentError) as caught:
        from_json(to_json(with_at(TUG, path, value)), "trial.json")
    assert caught.value.where == f"trial.json, {place}"


def test_mixes_that_feed_each_other_in_a_circle_are_named():
    circle = (
        MixLine(name="a", target="elevator", source="rudder"),
        MixLine(name="b", target="rudder", source="elevator"),
    )
    with pytest.raises(HypsosError, match=r"circle: (elevator, rudder|rudder, elevator)"):
        compile_plan(with_at(TUG, "program.mixes", (*TUG.program.mixes, *circle)))


def test_values_out_of_bounds_are_refused_and_the_document_is_untouched():
    for path, value in (
        ("program.axes[0].settings[0].expo", float("nan")),
        ("program.axes[0].settings[0].rate_pos", float("inf")),
        ("leads[0].slow_up_s", -1.0),
        ("leads[0].stop_pos", 151.0),
    ):
        with pytest.raises(DocumentError) as caught:
            with_at(TUG, path, value)
        assert caught.value.where == path


def test_recipes_always_expand_the_same_way_and_can_be_detached():
    recipe = Flaperons(
        surfaces=("left_flaperon", "right_flaperon"),
        elevators=("elevator",),
        control="flap_switch",
        positions=(FlapPosition(), FlapPosition(flap=50, elevator=-5), FlapPosition(flap=80, elevator=3)),
    )
    base = with_at(TUG, "program.recipes", ())
    made = with_at(base, "program.recipes", (recipe,))
    lines = tuple(m.line for m in recipe.expand(TUG.transmitter.control))
    detached = with_at(base, "program.mixes", (*base.program.mixes, *lines))
    for position in (0, 1, 2):
        assert stands(made, flap_switch=position) == stands(detached, flap_switch=position)
    assert stands(made, flap_switch=1)["elevator"] == -5
    with pytest.raises(DocumentError, match="same elevator"):
        bad = (FlapPosition(flap=20), FlapPosition(flap=20, elevator=2))
        from_json(to_json(with_at(made, "program.recipes[0].positions", bad)))


def test_v_tail_shares_are_symmetric():
    lines = [m.line for m in VTail(left="a", right="b", pitch_share=60, yaw_share=40).expand(lambda n: None)]
    gains = {(x.target, x.source): x.gain for x in lines}
    assert gains == {("a", "pitch"): -60, ("a", "yaw"): -40, ("b", "pitch"): -60, ("b", "yaw"): 40}
