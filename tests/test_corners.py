# SPDX-License-Identifier: GPL-3.0-or-later
"""Corners of the core that planted faults have shown to be unwatched."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from motors import THROTTLE
from parts import from_parts, wired

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine, Gate
from hypsos.core.dependencies.motor_dependencies import motor_reach
from hypsos.core.dependencies.y_leads import joined
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Axis, Setting, Signal, Trim
from hypsos.core.edits.detach import detached, free_signal
from hypsos.core.edits.rate_switch import on_rates_switch
from hypsos.core.edits.trim_clicks import clicks_in, with_clicks
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.apply_fix import marked
from hypsos.core.fitting.direction_finder import WiringExplanation, check_of, find
from hypsos.core.fitting.throw_settings import demand_for, motion_of, reach, ruled, ruler_rows
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.four_bar import Linkage, binds_at, deflection, servo_turn
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import (
    Ailerons,
    Airbrakes,
    Amount,
    Canards,
    DifferentialThrust,
    Elevons,
    Flaps,
    VTail,
)
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.shape import layout_choices as layout
from hypsos.core.shape.adapt_model import adapted, usual_axes
from hypsos.core.shape.templates import TEMPLATES


def test_clicks_in_every_scope() -> None:
    trim = {
        s: Trim(clicks=3, scope=s, by_mode={"fast": 4}, step=2.0, range=12)
        for s in ("common", "per mode", "offset")
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


def test_what_an_adjuster_and_a_gate_hang_on() -> None:
    logic = (
        Combine(name="adj", kind="any", of=("switch_c@2",)),
        Gate(name="loose", source="slider", when="switch_b@1", parked=0),
        Combine(name="aside", kind="any", of=("switch_c@1",)),
    )
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


def test_new_parts_get_what_they_usually_do() -> None:
    body = layout.with_device(
        layout.with_device(layout.with_wing(layout.blank(1500), "four"), "tow release", True),
        "retracts",
        True,
    )
    body = layout.with_plates(layout.with_tail(body, "conventional"), "airbrake", True)
    model = adapted(TEMPLATES["bare"].make("Trial"), body).model
    sources = {m.target: m.source for m in model.program.mixes}
    assert sources["tow_release"] == "tow_button" and sources["retracts"] == "gear_switch"
    plates = next(r for r in model.program.recipes if isinstance(r, Airbrakes))
    assert (plates.control, plates.amounts) == (
        "brake_slider",
        (Amount(parts=("left_airbrake", "right_airbrake"), travel=-100),),
    )
    flaps = next(r for r in model.program.recipes if isinstance(r, Flaps))
    assert [(p.flap, p.elevator) for p in flaps.positions] == [(0, 0), (21, 9), (50, 18)] and (
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
    assert lines["elevator"] == ("pitch", -100) and lines["rudder"] == ("yaw", 100)
    assert (plates.closed, plates.opened, plates.elevators) == (-85, 100, ("elevator",))
    tug = layout.with_device(layout.with_wing(layout.blank(1500), "flaperons"), "tail wheel", True)
    made = adapted(TEMPLATES["bare"].make("Trial"), tug).model.program
    assert [(r.kind, r.share, r.differential) for r in made.recipes if isinstance(r, Ailerons)] == [
        ("ailerons", 60, 40)
    ]
    assert [(m.target, m.source, m.gain) for m in made.mixes] == [("tail_wheel", "yaw", 70)]


@pytest.mark.parametrize(
    ("wing", "lost", "differential"), [("one", "", 0), ("two", "right_aileron", None)]
)
def test_ailerons_need_both_sides_or_one_servo_for_both(
    wing: Any, lost: Any, differential: Any
) -> None:
    body = layout.with_wing(layout.blank(1500), wing)
    body = body.model_copy(update={"surfaces": tuple(s for s in body.surfaces if s.name != lost)})
    made = adapted(TEMPLATES["bare"].make("Trial"), body).model.program.recipes
    assert [r.differential for r in made] == ([] if differential is None else [differential])  # type: ignore[attr-defined]


def test_a_mix_that_reads_what_is_gone_goes_with_it(samphire: Model) -> None:
    for field in ("source", "differential_off"):
        line = MixLine(**{"name": "odd", "target": "rudder", "source": "yaw", field: "tail_wheel"})
        model = with_at(samphire, "program.mixes", (*samphire.program.mixes, line))
        made = adapted(model, layout.without_part(model.airframe, "tail_wheel"))
        assert "mix odd" in made.let_go and all(m.name != "odd" for m in made.model.program.mixes)


def test_names_for_signals() -> None:
    recipe = Flaps(
        surfaces=("left_flap",),
        control="switch_c",
        positions=(FlapPosition(), FlapPosition(flap=9)),
    )
    model = with_at(
        with_at(from_parts(), "program.recipes", (recipe,)),
        "program.signals",
        (Signal(name="flap_2", label="x"),),
    )
    assert (
        free_signal(model.program, (), "flap") == "flap_3"
        and free_signal(model.program, {"flap_3", "flap_4"}, "flap") == "flap_5"
    )
    assert (
        free_signal(model.program, (), "other") == "other"
        and free_signal(model.program, {"other"}, "other") == "other_2"
    )
    assert [s.name for s in detached(model, 0).program.signals] == [
        "flap_2"
    ]  # every model has a flap signal
    own = with_at(model, "program.recipes[0].signal", "droop")
    assert [s.name for s in detached(own, 0).program.signals] == ["flap_2", "droop"]


def test_of_two_servos_on_a_port_both_are_seen_and_what_moves_too_little_is_not() -> None:
    model = joined(wired("biplane"), "left_elevator", "right_elevator", False)
    assert [x.name for x in marked(model, ["left_elevator"]).leads if x.checked] == [
        "left_elevator",
        "right_elevator",
    ]
    for gain, seen in ((3.0, False), (4.5, True)):
        faint = from_parts(
            mixes=(MixLine(name="f", target="left_flap", source="slider", gain=gain / 2),)
        )
        assert any("left_flap" in s.moves for s in check_of(faint).steps) == seen


def test_the_simplest_explanation_comes_first() -> None:
    check = check_of(wired("biplane"))
    seen = check.seen(
        WiringExplanation(
            {"left_aileron": "right_aileron", "right_aileron": "left_aileron"}, frozenset()
        )
    )
    part = {k: {n: v for n, v in row.items() if n == "left_aileron"} for k, row in seen.items()}
    found = find(check, part, {}).explanations
    assert len(found) > 1 and [e.faults for e in found] == sorted(e.faults for e in found)


def test_linkages_at_their_ends() -> None:
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
        assert float(servo_turn(leaning, deflection(leaning, turn))) == pytest.approx(
            turn, abs=1e-9
        )
    far = Linkage(arm_mm=19, horn_mm=12, distance_mm=60, arm_deg=-12)
    low, high = binds_at(far, -90, 0), binds_at(far, 0, 90)
    assert (
        low < -20
        and high > 20
        and binds_at(far, low + 2, high - 2) is None
        and np.isnan(deflection(far, high))
    )
    assert np.isfinite(deflection(far, high - 0.6)) and np.isfinite(deflection(far, low + 0.6))


def test_demands_and_ruler_rows(samphire: Model) -> None:
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


def test_recipes_as_they_come() -> None:
    assert (Ailerons(left=(), right=()).share, Ailerons(left=(), right=()).differential) == (100, 0)
    assert (Elevons(left="a", right="b").roll_share, Elevons(left="a", right="b").pitch_share) == (
        50,
        50,
    )
    assert (VTail(left="a", right="b").pitch_share, VTail(left="a", right="b").yaw_share) == (
        55,
        45,
    )
    canards = Canards(left="a", right="b")
    assert (canards.pitch_share, canards.roll_share, canards.with_trim) == (70, 0, True) and len(
        list(canards.expand(lambda n: None))
    ) == 2
    thrust = DifferentialThrust(left=("a",), right=("b",))
    assert (thrust.share, thrust.inner, thrust.speed_up_only, thrust.at_idle) == (
        15,
        60,
        False,
        "none",
    )
    lines = [m.line for m in thrust.expand(lambda n: None)]
    assert not lines[0].with_trim and [x.combine for x in lines] == ["add", "scale", "add", "add"]
    assert (
        len(
            list(
                DifferentialThrust(left=("a",), right=("b",), at_idle="full").expand(lambda n: None)
            )
        )
        == 3
    )
    flaps = Flaps(
        surfaces=("left_flap",),
        control="switch_c",
        positions=(FlapPosition(), FlapPosition(flap=9)),
    )
    assert (
        flaps.in_s,
        flaps.out_s,
        flaps.positions[0].elevator,
        flaps.elevators,
        flaps.signal,
    ) == (0, 0, 0, (), "flap")
    long = Flaps(**{**dict(flaps), "label": "L" * 60})
    assert long.named() == "L" * 60 and long.named("elevator") == "L" * 50 + ", elevator"


def test_an_elevator_for_flaps_that_all_stand_alike() -> None:
    positions = (FlapPosition(flap=20, elevator=5), FlapPosition(flap=20, elevator=5))
    recipe = Flaps(
        surfaces=("left_flap",), elevators=("elevator",), control="switch_b", positions=positions
    )
    sums = settled(
        compile_plan(with_at(from_parts(), "program.recipes", (recipe,))), {"switch_b": 1}
    ).sums
    assert (sums["left_flap"][-1], sums["elevator"][-1]) == (20, 5)
    none = recipe.model_copy(update={"positions": (FlapPosition(), FlapPosition(flap=60))})
    assert [x.line.target for x in none.expand(from_parts().transmitter.control)] == [
        "flap",
        "left_flap",
    ]
    one = with_at(
        from_parts(),
        "program.recipes",
        (
            recipe.model_copy(
                update={"positions": (FlapPosition(), FlapPosition(flap=60, elevator=9))}
            ),
        ),
    )
    assert (
        settled(compile_plan(one), {"switch_b": 1}).sums["elevator"][-1] == 9
        and settled(compile_plan(one), {}).sums["elevator"][-1] == 0
    )


def test_a_measured_side_that_does_not_move_has_no_differential() -> None:
    model = from_parts()
    lead = model.leads[0].model_copy(
        update={"measured": ((-100.0, 0.0), (0.0, 0.0), (100.0, 12.0))}
    )
    assert reach(Motion(lead, model.airframe.surfaces[0])).differential == 0
    surface = model.airframe.surfaces[0].model_copy(
        update={"throw_up_deg": 30, "throw_down_deg": 20}
    )
    found = reach(Motion(model.leads[0].model_copy(update={"travel_pos": 0.0}), surface))
    assert found.lost == (0, 0) and found.differential == pytest.approx(100 / 3)
    assert found.step_mm == pytest.approx(abs(found.mm[0]) * 2 / 1024)
    tiny = surface.model_copy(update={"throw_up_deg": 0.4, "throw_down_deg": 0.3})
    assert reach(Motion(model.leads[0], tiny)).differential == pytest.approx(25)
    assert [s.name for s in ruled(model)] == [
        s.name for s in model.airframe.surfaces
    ] and not ruled(model.model_copy(update={"leads": ()}))


def test_a_part_seen_to_rest_where_its_lead_asks_nothing_of_it_is_no_riddle() -> None:
    check = check_of(wired("biplane"))
    found = find(check, {"roll": {"rudder": 0, "left_elevator": 0}}, {}).explanations
    assert found and not any(e.reversed_ for e in found)
    thin = wired("biplane").model_copy(
        update={"leads": tuple(x for x in wired("biplane").leads if x.name != "rudder")}
    )
    assert "rudder" not in check_of(thin).parts


def test_a_recipe_for_a_command_that_no_stick_gives_is_named() -> None:
    model = from_parts()
    recipe = Ailerons(left=("left_aileron",), right=("right_aileron",))
    program = model.program.model_copy(
        update={"axes": model.program.axes[1:], "mixes": (), "recipes": (recipe,)}
    )
    found = [(p.path, p.text) for p in problems(model.model_copy(update={"program": program}))]
    assert ("program.recipes[0]", "Ailerons uses roll, and there is nothing of that name") in found


def test_what_a_blank_aeroplane_starts_with() -> None:
    found = [
        (a.command, [s.rate_pos for s in a.settings], [s.expo for s in a.settings])
        for a in usual_axes()
    ]
    assert found == [
        ("roll", [60, 80, 100], [20, 25, 30]),
        ("pitch", [65, 80, 100], [20, 25, 30]),
        ("yaw", [80, 90, 100], [20, 20, 20]),
        ("thrust", [100], [0]),
    ]
    assert [[s.rate_pos for s in a.settings] for a in usual_axes(())] == [[80], [80], [90], [100]]


@pytest.mark.parametrize("positions", [2, 3, 6])
def test_a_new_rates_switch_is_low_first_and_keeps_what_was_flown_at_its_end(
    positions: Any,
) -> None:
    switch = Control(
        name="rates",
        label="Rates",
        kind="switch",
        hand="right",
        positions=tuple("abcdef"[:positions]),
    )
    one = Axis(
        command="roll",
        control="aileron_stick",
        settings=(Setting(rate_neg=90, rate_pos=80, expo=30),),
    )
    made = on_rates_switch(one, switch)
    rates = [s.rate_pos for s in made.settings]
    assert (made.switch, len(rates), rates[0], rates[-1]) == ("rates", positions, 48, 80)
    assert np.allclose(np.diff(rates), 32 / (positions - 1), atol=0.11) and {
        s.expo for s in made.settings
    } == {30}
    assert made.settings[0].rate_neg == 54
    wider = switch.changed({"name": "other", "positions": tuple("abcdef")})
    kept = on_rates_switch(made, wider)
    assert [s.rate_pos for s in kept.settings] == rates + [80] * (6 - positions)
    assert on_rates_switch(made, None) == one.changed({"settings": made.settings[:1]})


@pytest.mark.parametrize("key", TEMPLATES)
def test_a_template_flies_at_low_mid_and_high_rates(key: Any) -> None:
    model = TEMPLATES[key].begin("Trial")
    plan = compile_plan(model)
    for command, hands in (
        ("roll", {"aileron_stick": 100.0}),
        ("pitch", {"elevator_stick": -100.0}),
        ("yaw", {"rudder_stick": 100.0}),
    ):
        found = [
            float(settled(plan, hands | {"rates_switch": float(k)}).commands[command][-1])
            for k in range(3)
        ]
        assert found == pytest.approx([s.rate_pos for s in model.program.axis(command).settings])
        assert found[0] < found[1] < found[2] == 100


def test_a_servo_without_travel_to_a_side_is_said() -> None:
    model = from_parts(leads={"rudder": {"travel_neg": 0, "travel_pos": 80}})
    assert demand_for(model, "rudder", 12.0, "deg") > 0
    small = with_at(with_at(model, "leads[5].travel_neg", 50), "leads[5].travel_pos", 1)
    assert small.leads[5].target == "rudder" and demand_for(
        small, "rudder", 0.15, "deg"
    ) == pytest.approx(50)
    with pytest.raises(HypsosError, match="has no travel to that side"):
        demand_for(model, "rudder", -12.0, "deg")


def test_a_part_moves_there_and_back_by_its_throws_its_linkage_or_its_table() -> None:
    model = from_parts()
    surface = model.airframe.surfaces[0].model_copy(
        update={"throw_up_deg": 30, "throw_down_deg": 20}
    )
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


def test_what_is_lost_of_a_travel_counts_from_where_the_servo_rests() -> None:
    model = from_parts(leads={"rudder": {"centre": 20.0, "stop_pos": 70.0, "stop_neg": -150.0}})
    lost = reach(motion_of(model, "rudder")).lost
    assert sorted(round(x, 6) for x in lost) == [0, 50]


def test_a_switch_with_more_positions_than_the_flaps_is_pointed_out() -> None:
    two = tuple(FlapPosition(flap=f, elevator=0) for f in (0.0, 30.0))
    control = {c.name: c for c in from_parts().transmitter.controls}
    for switch, doubts in (("switch_c", ["positions"]), ("switch_b", []), ("gone", [])):
        flaps = Flaps(
            surfaces=("left_flap",), elevators=(), control=switch, positions=two, signal="flap"
        )
        assert [field for field, _ in flaps.doubts(control.get)] == doubts


def test_trims_of_axes_that_have_none_do_not_move() -> None:
    model = from_parts(trims={"roll": Trim()})
    assert with_clicks(model, "pitch", "base", 1) is None
    moved = with_clicks(model, "roll", "base", 1)
    assert [a.trim.clicks if a.trim else None for a in moved.program.axes] == [1, None, None, None]


def test_a_behaviour_names_so_many_parts_and_no_more() -> None:
    names = tuple(f"s{i}" for i in range(61))
    assert len(Ailerons(left=names[:60], right=()).left) == 60
    with pytest.raises(ValueError, match="60"):
        Ailerons(left=names, right=())


def test_flaps_on_a_switch_with_more_or_fewer_positions() -> None:
    three = tuple(FlapPosition(flap=f, elevator=0) for f in (0.0, 30.0, 80.0))
    flaps = Flaps(
        surfaces=("left_flap",), elevators=(), control="switch_c", positions=three, signal="flap"
    )
    for count, wanted in ((2, [0, 30]), (3, [0, 30, 80]), (6, [0, 30, 80, 80, 80, 80])):
        control = Control(
            name="other",
            label="Other",
            kind="switch",
            hand="left",
            positions=tuple("abcdef"[:count]),
        )
        made = flaps.on_switch("control", control)
        assert made.control == "other" and [p.flap for p in made.positions] == wanted
