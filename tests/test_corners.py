"""Corners of the core that planted faults have shown to be unwatched."""

from __future__ import annotations

import numpy as np
import pytest
from parts import from_parts, wired
from test_motor import THROTTLE, armed

from hypsos.core.checking.checks import problems
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.motion import Motion
from hypsos.core.engine.outputs import Output
from hypsos.core.engine.situation import checked_value, control_bounds
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.directions import Explanation, check_of, find, marked
from hypsos.core.fitting.throws import demand_for, motion_of, reach, ruled, ruler_rows
from hypsos.core.ground.errors import HypsosError
from hypsos.core.model.detach import detached, free_signal
from hypsos.core.model.joined import joined
from hypsos.core.model.paths import with_at
from hypsos.core.model.program import Signal, Trim
from hypsos.core.model.reach import motor_reach
from hypsos.core.model.trims import clicks_in, with_clicks
from hypsos.core.parts.linkage import Linkage, binds_at, deflection, servo_turn
from hypsos.core.parts.logic import Adjuster, Combine, Compare, Delay, FlightMode, Gate, Latch, Tunable
from hypsos.core.parts.shapes import MixLine
from hypsos.core.parts.wiring import Lead
from hypsos.core.recipes import Ailerons, Canards, DifferentialThrust, Elevons, Flaps, VTail
from hypsos.core.recipes.flaps import FlapPosition
from hypsos.core.shape import layout
from hypsos.core.shape.adapt import adapted, usual_axes
from hypsos.core.shape.templates import TEMPLATES


def test_clicks_in_every_scope():
    trim = {
        s: Trim(clicks=3, scope=s, by_mode={"fast": 4}, step=2.0, range=12) for s in ("common", "per mode", "offset")
    }
    assert [clicks_in(trim[s], "fast") for s in trim] == [3, 4, 7] and {
        clicks_in(t, "base") for t in trim.values()
    } == {3}
    modes = (FlightMode(name="fast", when="switch_b@1"), FlightMode(name="base"))
    for scope, most in (("common", 3), ("per mode", 2), ("offset", -1)):
        model = from_parts(modes=modes, trims={"pitch": trim[scope]})
        moves = [n for n in range(-12, 13) if with_clicks(model, "pitch", "fast", n) is not None]
        assert max(moves) == most, scope
    model = from_parts(modes=modes, trims={"pitch": trim["offset"]})
    made = with_clicks(model, "pitch", "base", 2).program.axis("pitch").trim
    assert (made.clicks, made.by_mode) == (3, {"fast": 4, "base": 2})
    alone = from_parts(trims={"pitch": trim["per mode"]})
    assert (
        with_clicks(alone, "pitch", "base", 1).program.axis("pitch").trim.clicks == 4
    )  # without modes there is one trim


def test_what_an_adjuster_and_a_gate_hang_on():
    logic = (
        Combine(name="adj", kind="any", of=("switch_c@2",)), Gate(name="loose", source="slider", when="switch_b@1", parked=0),
        Combine(name="aside", kind="any", of=("switch_c@1",)),
    )  # fmt: skip
    shared = (
        Tunable(name="bite", value=50, adjuster=Adjuster(control="slider", when="adj")),
        Tunable(name="plain", value=9),
    )
    mixes = tuple(m.model_copy(update={"gain_from": "bite"}) for m in THROTTLE)
    model = from_parts(mixes=mixes, motors=True, logic=logic, tunables=shared)
    assert motor_reach(with_at(model, "program.logic[0].of", ("link",))) != motor_reach(model)
    for path, value in (
        ("program.logic[1].parked", 50.0),
        ("program.logic[2].of", ("link",)),
        ("program.tunables[1].value", 3.0),
    ):
        assert motor_reach(with_at(model, path, value)) == motor_reach(model), path


def test_new_parts_get_what_they_usually_do():
    body = layout.with_device(
        layout.with_device(layout.with_wing(layout.blank(1500), "four"), "tow release", True), "retracts", True
    )
    body = layout.with_plates(layout.with_tail(body, "conventional"), "airbrake", True)
    model = adapted(TEMPLATES["bare"].make("Trial"), body).model
    sources = {m.target: m.source for m in model.program.mixes}
    assert (
        sources["tow_release"] == "tow_button"
        and sources["retracts"] == "gear_switch"
        and sources["left_airbrake"] == "brake"
    )
    flaps = next(r for r in model.program.recipes if isinstance(r, Flaps))
    assert [(p.flap, p.elevator) for p in flaps.positions] == [(0, 0), (35, 3), (85, 7)] and (
        flaps.in_s,
        flaps.out_s,
    ) == (1.5, 1.5)
    assert (
        flaps.surfaces == ("left_flap", "right_flap")
        and flaps.elevators == ("elevator",)
        and flaps.control == "flap_switch"
    )
    ailerons = next(r for r in model.program.recipes if isinstance(r, Ailerons))
    assert (ailerons.share, ailerons.differential) == (100, 35)
    lines = {m.target: (m.source, m.gain) for m in model.program.mixes}
    assert (
        lines["elevator"] == ("pitch", -100) and lines["rudder"] == ("yaw", 100) and lines["left_airbrake"][1] == -100
    )
    slider = next(m for m in model.program.mixes if m.target == "brake")
    assert (slider.source, slider.response.points) == ("brake_slider", ((-100, 0), (-85, 0), (100, 100)))
    tug = layout.with_device(layout.with_wing(layout.blank(1500), "flaperons"), "tail wheel", True)
    made = adapted(TEMPLATES["bare"].make("Trial"), tug).model.program
    assert [(r.kind, r.share, r.differential) for r in made.recipes if isinstance(r, Ailerons)] == [
        ("ailerons", 60, 40)
    ]
    assert [(m.target, m.source, m.gain) for m in made.mixes] == [("tail_wheel", "yaw", 70)]


@pytest.mark.parametrize(("wing", "lost", "differential"), [("one", "", 0), ("two", "right_aileron", None)])
def test_ailerons_need_both_sides_or_one_servo_for_both(wing, lost, differential):
    body = layout.with_wing(layout.blank(1500), wing)
    body = body.model_copy(update={"surfaces": tuple(s for s in body.surfaces if s.name != lost)})
    made = adapted(TEMPLATES["bare"].make("Trial"), body).model.program.recipes
    assert [r.differential for r in made] == ([] if differential is None else [differential])


def test_a_mix_that_reads_what_is_gone_goes_with_it(samphire):
    for field in ("source", "differential_off"):
        line = MixLine(**{"name": "odd", "target": "rudder", "source": "yaw", field: "tail_wheel"})
        model = with_at(samphire, "program.mixes", (*samphire.program.mixes, line))
        made = adapted(model, layout.without_part(model.airframe, "tail_wheel"))
        assert "mix odd" in made.let_go and all(m.name != "odd" for m in made.model.program.mixes)


def test_names_for_signals():
    recipe = Flaps(surfaces=("left_flap",), control="switch_c", positions=(FlapPosition(), FlapPosition(flap=9)))
    model = with_at(
        with_at(from_parts(), "program.recipes", (recipe,)), "program.signals", (Signal(name="flap_2", label="x"),)
    )
    assert (
        free_signal(model.program, (), "flap") == "flap_3"
        and free_signal(model.program, {"flap_3", "flap_4"}, "flap") == "flap_5"
    )
    assert (
        free_signal(model.program, (), "other") == "other"
        and free_signal(model.program, {"other"}, "other") == "other_2"
    )
    assert [s.name for s in detached(model, 0).program.signals] == ["flap_2"]  # every model has a flap signal
    own = with_at(model, "program.recipes[0].signal", "droop")
    assert [s.name for s in detached(own, 0).program.signals] == ["flap_2", "droop"]


def test_of_two_servos_on_a_port_both_are_seen_and_what_moves_too_little_is_not():
    model = joined(wired("biplane"), "left_elevator", "right_elevator", False)
    assert [x.name for x in marked(model, ["left_elevator"]).leads if x.checked] == ["left_elevator", "right_elevator"]
    for gain, seen in ((3.0, False), (4.5, True)):
        faint = from_parts(mixes=(MixLine(name="f", target="left_flap", source="slider", gain=gain / 2),))
        assert any("left_flap" in s.moves for s in check_of(faint).steps) == seen


def test_the_simplest_explanation_comes_first():
    check = check_of(wired("biplane"))
    seen = check.seen(Explanation({"left_aileron": "right_aileron", "right_aileron": "left_aileron"}, frozenset()))
    part = {k: {n: v for n, v in row.items() if n == "left_aileron"} for k, row in seen.items()}
    found = find(check, part, {}).explanations
    assert len(found) > 1 and [e.faults for e in found] == sorted(e.faults for e in found)


def test_boundaries_of_conditions():
    logic = (
        Compare(name="inside", kind="within", a="slider", x=10, y=20, hysteresis=5),
        Compare(name="more", kind="difference", a="slider", b="late", x=0),
        Gate(name="late", source="rudder_stick", when="switch_b@1", parked=-50),
        Latch(name="kept", set="switch_b@1", reset="switch_c@2"),
    )  # fmt: skip
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
    assert result.logic["kept"].tolist() == [False] + [True] * 7 and Latch(name="x", set="link", reset="link").edges


def test_where_controls_rest_and_what_they_take():
    model = from_parts(trims={"roll": Trim(clicks=30, step=2.0, range=20)})
    situation = Situation(np.zeros(1))
    assert (situation.link, situation.power, situation.link_quality) == (1.0, 1.0, 100.0)
    plan = compile_plan(model)
    assert plan.rest["throttle_stick"] == -100 and plan.rest["roll_trim"] == 20 and plan.rest["slider"] == 0
    assert (
        control_bounds(model, "switch_c") == (0, 2)
        and control_bounds(model, "roll_trim") == (-20, 20)
        and control_bounds(model, "slider") == (-100, 100)
    )
    assert checked_value(model, "slider", 12.5) == 12.5 and checked_value(model, "switch_c", 2.0) == 2.0
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


def test_linkages_at_their_ends():
    plain = Linkage(arm_mm=10, horn_mm=10, distance_mm=60)
    assert plain.servo_deg == 45 and Linkage(arm_mm=0.8, horn_mm=10, distance_mm=500).arm_mm == 0.8
    for wrong in ({"arm_mm": 0}, {"arm_mm": 500.5}):
        with pytest.raises(ValueError, match="arm_mm"):
            Linkage(**{"arm_mm": 10, "horn_mm": 10, "distance_mm": 60} | wrong)
    assert plain.offset_mm == plain.arm_deg == plain.horn_deg == plain.flush == 0 and deflection(
        plain, 30.0
    ) == pytest.approx(30.0)
    leaning = Linkage(arm_mm=10, horn_mm=14, distance_mm=60, horn_deg=25, arm_deg=-20, offset_mm=4)
    for turn in (-30.0, 0.0, 30.0):
        assert float(servo_turn(leaning, deflection(leaning, turn))) == pytest.approx(turn, abs=1e-9)
    far = Linkage(arm_mm=19, horn_mm=12, distance_mm=60, arm_deg=-12)
    low, high = binds_at(far, -90, 0), binds_at(far, 0, 90)
    assert low < -20 and high > 20 and binds_at(far, low + 2, high - 2) is None and np.isnan(deflection(far, high))
    assert np.isfinite(deflection(far, high - 0.6)) and np.isfinite(deflection(far, low + 0.6))


def test_demands_and_ruler_rows(samphire):
    rows = ruler_rows(motion_of(samphire, "left_flaperon"))
    assert (
        [p for p, _ in rows] == [-100, -50, 0, 50, 100]
        and rows[2][1] == 0
        and rows[0][1] < rows[1][1] < 0 < rows[3][1] < rows[4][1]
    )
    index = next(i for i, x in enumerate(samphire.leads) if x.target == "left_flaperon")
    shut = Lead(**{**dict(samphire.leads[index]), "travel_pos": 0.0})
    model = with_at(samphire, f"leads[{index}]", shut)
    with pytest.raises(HypsosError, match="has no travel to that side"):
        demand_for(model, "left_flaperon", 5.0, "mm")
    assert demand_for(model, "left_flaperon", -5.0, "mm") < 0


def test_recipes_as_they_come():
    assert (Ailerons(left=(), right=()).share, Ailerons(left=(), right=()).differential) == (100, 0)
    assert (Elevons(left="a", right="b").roll_share, Elevons(left="a", right="b").pitch_share) == (50, 50)
    assert (VTail(left="a", right="b").pitch_share, VTail(left="a", right="b").yaw_share) == (55, 45)
    canards = Canards(left="a", right="b")
    assert (canards.pitch_share, canards.roll_share, canards.with_trim) == (70, 0, True) and len(
        list(canards.expand(lambda n: None))
    ) == 2
    thrust = DifferentialThrust(left=("a",), right=("b",))
    assert (thrust.share, thrust.inner, thrust.speed_up_only, thrust.at_idle) == (15, 60, False, "none")
    lines = [m.line for m in thrust.expand(lambda n: None)]
    assert not lines[0].with_trim and [x.combine for x in lines] == ["add", "scale", "add", "add"]
    assert len(list(DifferentialThrust(left=("a",), right=("b",), at_idle="full").expand(lambda n: None))) == 3
    flaps = Flaps(surfaces=("left_flap",), control="switch_c", positions=(FlapPosition(), FlapPosition(flap=9)))
    assert (flaps.in_s, flaps.out_s, flaps.positions[0].elevator, flaps.elevators, flaps.signal) == (
        0,
        0,
        0,
        (),
        "flap",
    )
    long = Flaps(**{**dict(flaps), "label": "L" * 60})
    assert long.named() == "L" * 60 and long.named("elevator") == "L" * 50 + ", elevator"


def test_an_elevator_for_flaps_that_all_stand_alike():
    positions = (FlapPosition(flap=20, elevator=5), FlapPosition(flap=20, elevator=5))
    recipe = Flaps(surfaces=("left_flap",), elevators=("elevator",), control="switch_b", positions=positions)
    sums = settled(compile_plan(with_at(from_parts(), "program.recipes", (recipe,))), {"switch_b": 1}).sums
    assert (sums["left_flap"][-1], sums["elevator"][-1]) == (20, 5)
    none = recipe.model_copy(update={"positions": (FlapPosition(), FlapPosition(flap=60))})
    assert [x.line.target for x in none.expand(from_parts().transmitter.control)] == ["flap", "left_flap"]
    one = with_at(
        from_parts(),
        "program.recipes",
        (recipe.model_copy(update={"positions": (FlapPosition(), FlapPosition(flap=60, elevator=9))}),),
    )
    assert (
        settled(compile_plan(one), {"switch_b": 1}).sums["elevator"][-1] == 9
        and settled(compile_plan(one), {}).sums["elevator"][-1] == 0
    )


def test_the_steps_of_an_output_lead_to_its_fields():
    model = from_parts(mixes=THROTTLE, motors=True, leads={"left_motor": {"port": None}, "rudder": {"port": None}})
    result = armed(model)
    assert isinstance(Output(model, 0).lead, Lead) and result.outputs["left_motor"].us[-1] == 0
    ran = compile_plan(model).run(Situation(np.zeros(1), {"rudder_stick": 50.0}), None, ["rudder", "left_motor"])
    why, loose = ran.why, ran.outputs["rudder"]
    assert (loose.pct[0], loose.stand[0], loose.us[0]) == (0, 0, 0)
    plugged = from_parts(mixes=THROTTLE, motors=True)
    released = settled(compile_plan(plugged), {"motor_switch": 1, "throttle_stick": 20.0}, ["left_motor"])
    assert [(b.kind, b.amount) for b in released.why["left_motor"]] == [("idle", -100), ("stick", 120)]
    index = next(i for i, x in enumerate(model.leads) if x.name == "rudder")
    assert why["rudder"][-1].label == "Lead not plugged in" and why["rudder"][-1].path == f"leads[{index}].port"
    held = settled(compile_plan(model), {"motor_switch": 1, "throttle_stick": 20.0}, ["left_motor"])
    assert held.outputs["left_motor"].pct[-1] == -100
    last = held.why["left_motor"][-1]
    assert (last.label, last.amount, last.path) == ("Lead not plugged in", -120, "leads[6].port")


@pytest.mark.parametrize(("stick", "field"), [(0.5, "travel_pos"), (-0.5, "travel_neg"), (-60.0, "travel_neg")])
def test_a_bar_of_travel_leads_to_the_side_to_which_the_demand_goes(stick, field):
    model = from_parts(leads={"rudder": {"travel_neg": 0.0, "travel_pos": 50.0, "stop_neg": 0.0, "centre": -0.5}})
    why = settled(compile_plan(model), {"rudder_stick": stick}, ["rudder"]).why["rudder"]
    assert {b.path.split(".")[1] for b in why if b.kind == "travel"} == {field}
    assert {b.path.split(".")[1] for b in why if b.kind == "stop"} == {"stop_neg"}


def test_an_output_says_whether_it_is_still_on_its_way():
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


def test_a_measured_side_that_does_not_move_has_no_differential():
    model = from_parts()
    lead = model.leads[0].model_copy(update={"measured": ((-100.0, 0.0), (0.0, 0.0), (100.0, 12.0))})
    assert reach(Motion(lead, model.airframe.surfaces[0])).differential == 0
    surface = model.airframe.surfaces[0].model_copy(update={"throw_up_deg": 30, "throw_down_deg": 20})
    found = reach(Motion(model.leads[0].model_copy(update={"travel_pos": 0.0}), surface))
    assert found.lost == (0, 0) and found.differential == pytest.approx(100 / 3)
    assert found.step_mm == pytest.approx(abs(found.mm[0]) * 2 / 1024)
    tiny = surface.model_copy(update={"throw_up_deg": 0.4, "throw_down_deg": 0.3})
    assert reach(Motion(model.leads[0], tiny)).differential == pytest.approx(25)
    assert [s.name for s in ruled(model)] == [s.name for s in model.airframe.surfaces] and not ruled(
        model.model_copy(update={"leads": ()})
    )


def test_a_part_seen_to_rest_where_its_lead_asks_nothing_of_it_is_no_riddle():
    check = check_of(wired("biplane"))
    found = find(check, {"roll": {"rudder": 0, "left_elevator": 0}}, {}).explanations
    assert found and not any(e.reversed_ for e in found)
    thin = wired("biplane").model_copy(update={"leads": tuple(x for x in wired("biplane").leads if x.name != "rudder")})
    assert "rudder" not in check_of(thin).parts


def test_a_recipe_for_a_command_that_no_stick_gives_is_named():
    model = from_parts()
    recipe = Ailerons(left=("left_aileron",), right=("right_aileron",))
    program = model.program.model_copy(update={"axes": model.program.axes[1:], "mixes": (), "recipes": (recipe,)})
    found = [(p.path, p.text) for p in problems(model.model_copy(update={"program": program}))]
    assert ("program.recipes[0]", "Ailerons uses roll, and there is nothing of that name") in found


def test_what_a_blank_aeroplane_starts_with():
    assert [(a.command, a.settings[0].expo) for a in usual_axes()] == [
        ("roll", 25), ("pitch", 25), ("yaw", 0), ("thrust", 0)
    ]  # fmt: skip


def test_a_servo_without_travel_to_a_side_is_said():
    model = from_parts(leads={"rudder": {"travel_neg": 0, "travel_pos": 80}})
    assert demand_for(model, "rudder", 12.0, "deg") > 0
    small = with_at(with_at(model, "leads[5].travel_neg", 50), "leads[5].travel_pos", 1)
    assert small.leads[5].target == "rudder" and demand_for(small, "rudder", 0.15, "deg") == pytest.approx(50)
    with pytest.raises(HypsosError, match="has no travel to that side"):
        demand_for(model, "rudder", -12.0, "deg")


def test_a_part_moves_there_and_back_by_its_throws_its_linkage_or_its_table():
    model = from_parts()
    surface = model.airframe.surfaces[0].model_copy(update={"throw_up_deg": 30, "throw_down_deg": 20})
    lead, link = model.leads[0], Linkage(arm_mm=19, horn_mm=12, distance_mm=60, arm_deg=-12)
    plain = Motion(lead, surface)
    linked = Motion(lead.model_copy(update={"linkage": link}), surface)
    table = ((-100.0, -9.0), (0.0, 0.0), (100.0, 12.0))
    ruled_ = Motion(lead.model_copy(update={"linkage": link, "measured": table}), surface)
    assert [m.source for m in (plain, linked, ruled_)] == ["throws", "linkage", "measured"]
    for motion, degrees in ((plain, (-12.0, 7.0)), (linked, (-9.0, 6.0)), (ruled_, (-8.0, 9.0))):
        for deg in degrees:
            assert float(motion.degrees(motion.percent(deg))) == pytest.approx(deg)
    assert linked.limits() != (-150, 150) and plain.limits() == ruled_.limits() == (-150, 150)
    with pytest.raises(HypsosError, match="more than left aileron can move"):
        plain.percent_at(2 * surface.chord_mm + 1, "mm")
    with pytest.raises(HypsosError, match="never measured"):
        ruled_.percent(40.0)


def test_what_controls_take_is_said():
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
FADE = (FlightMode(name="fast", when="switch_b@1", presets={"left_flap": 40.0}, fade_s=0.4), FlightMode(name="base"))
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
def test_what_is_still_on_its_way_says_so_and_ends(mix, logic, lasts, frames):
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
def test_a_single_frame_is_enough_to_set_off_a_delay(kind):
    plan = compile_plan(from_parts(logic=(Delay(kind=kind, name="x", of="switch_b@1", seconds=0.3),)))
    t = 0.02 * np.arange(40)
    on = np.where(np.arange(40) == 3, 1.0, 0.0)
    whole = plan.run(Situation(t, {"switch_b": on})).logic["x"]
    memory, single = None, []
    for i in range(40):
        found = plan.run(Situation(t[i : i + 1], {"switch_b": on[i : i + 1]}), memory)
        memory = found.memory
        single.append(bool(found.logic["x"][-1]))
    assert single == whole.tolist() and single[4] and not single[2] and 14 <= sum(single) <= 17


def bars(model, controls, part):
    """Settled, then a frame with the controls moved: (kind, amount, path) of every bar."""
    plan = compile_plan(model)
    start = plan.run(Situation(np.zeros(1)))
    found = plan.run(Situation(np.array([0.02]), controls), start.memory, [part]).why[part]
    return [(b.kind, round(float(np.ravel(b.amount)[-1]), 6), b.path) for b in found]


def test_bars_are_those_that_matter_and_lead_to_their_numbers():
    slow = MixLine(name="s", target="left_flap", source="slider", in_s=0.4)
    over = MixLine(name="o", target="left_flap", source="full", gain=30, in_s=0.4, combine="replace", when="switch_b@1")
    model = from_parts(
        mixes=(slow, over),
        trims={"roll": Trim(clicks=4, step=1)},
        modes=(FlightMode(name="base", presets={"rudder": 0.0}),),
    )
    assert bars(model, {}, "left_flap") == [("mix", 0, "program.mixes[4].gain"), ("mix", 0, "program.mixes[5].gain")]
    moved = bars(model, {"slider": 50.0}, "left_flap")
    assert moved[:2] == [("mix", 50, "program.mixes[4].gain"), ("slow", -45, "program.mixes[4].in_s")]
    assert {a for _, a, _ in moved[2:]} == {0.0}
    assert bars(model, {"rudder_stick": 20.0}, "rudder") == [("stick", 20, "program.mixes[3].gain")]
    assert bars(model, {"aileron_stick": 20.0}, "left_aileron") == [
        ("stick", 20, "program.mixes[0].gain"), ("trim", 4, "program.axes[0].trim.clicks")
    ]  # fmt: skip
    raised = with_at(model, "program.modes[0].presets", {"rudder": 5.0})
    assert bars(raised, {}, "rudder")[-1] == ("preset", 5, "program.modes")


@pytest.mark.parametrize("side", [1.0, -1.0])
def test_differential_holds_for_the_smallest_movement_and_is_let_go_at_full_brake_and_beyond(side):
    line = MixLine(
        name="d", target="left_flap", source="slider", differential=0.5 * side, differential_off="left_aileron"
    )
    model = from_parts(mixes=(line,))
    plan = compile_plan(model)
    for roll, left in ((0.0, 0.995), (-50.0, 0.995), (50.0, 0.9975), (100.0, 1.0)):
        for slider in (0.25, -0.25):
            stand = settled(plan, {"slider": slider, "aileron_stick": roll}).sums["left_flap"][-1]
            assert stand == pytest.approx(slider * (left if slider * side > 0 else 1.0)), (roll, slider)
    strong = with_at(model, "program.mixes[0].gain", 140.0)
    assert strong.program.mixes[0].target == "left_aileron"
    found = settled(compile_plan(strong), {"slider": side, "aileron_stick": 100.0}).sums["left_flap"][-1]
    assert found == pytest.approx(side)


def test_what_is_fed_by_something_on_its_way_is_on_its_way_too():
    first = MixLine(name="s", target="left_flap", source="slider", in_s=0.2)
    model = from_parts(mixes=(first, MixLine(name="t", target="right_flap", source="left_flap")))
    plan = compile_plan(model)
    start = plan.run(Situation(np.zeros(1))).memory
    for frames, busy in ((4, True), (30, False)):
        found = plan.run(Situation(0.02 * np.arange(1, frames), {"slider": 100.0}), start).outputs
        assert [found[n].moving for n in ("left_flap", "right_flap", "rudder")] == [busy, busy, False]
