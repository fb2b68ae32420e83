# SPDX-License-Identifier: GPL-3.0-or-later
"""Airframes composed from choices, a model fitted to another one, measures, and the recipes that
came with them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from parts import wired

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.dependencies.y_leads import joined
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting
from hypsos.core.edits.behaviours import offers
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes import Canards, DifferentialThrust, Elevons, Flaps
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.shape import layout_choices as layout
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import usual_volumes
from hypsos.core.shape.measures import measured, measures_of, pieces, tail_volumes, volume_words
from hypsos.core.shape.solid_model import solid
from hypsos.core.shape.templates import TEMPLATES


def plain(model: Model) -> Any:
    """Every lead plugged in, every axis straight."""
    leads = tuple(x.model_copy(update={"port": i + 1}) for i, x in enumerate(model.leads))
    axes = tuple(a.model_copy(update={"settings": (Setting(),)}) for a in model.program.axes)
    model = model.model_copy(update={"leads": leads})
    return with_at(model, "program.axes", axes)


def stands(model: Model, **controls: Any) -> Any:
    result = settled(compile_plan(model), controls)
    return {x.target: float(np.ravel(result.outputs[x.name].stand)[-1]) for x in model.leads}


@pytest.mark.parametrize("key", list(TEMPLATES))
def test_every_template_is_sound_is_drawn_and_answers_every_stick(key: Any) -> None:
    model = plain(TEMPLATES[key].make("Trial"))
    assert list(problems(model)) == []
    made = solid(model.airframe)
    assert {h.name for h in made.hinged} == {
        p.name for p in (*model.airframe.surfaces, *model.airframe.devices)
    } and all(np.isfinite(f.corners).all() for f in made.fixed)
    rest = stands(model)
    roles = {s.name: s for s in model.airframe.surfaces}
    pulled, rolled = stands(model, elevator_stick=-100), stands(model, aileron_stick=100)
    for name, surface in roles.items():
        if surface.role in ("elevator", "elevon", "ruddervator"):
            assert pulled[name] < rest[name], name
        if surface.role == "canard":
            assert pulled[name] > rest[name], name
        if surface.role in ("aileron", "elevon", "flaperon") and name in rolled:
            assert (rolled[name] > 0) == (surface.side == "left"), name


def test_worked_cases_of_elevons_canards_and_differential_thrust() -> None:
    wing = plain(TEMPLATES["elevon_wing"].make("Trial"))
    wing = with_at(wing, "program.recipes[0]", Elevons(left="left_elevon", right="right_elevon"))
    out = stands(wing, aileron_stick=100, elevator_stick=-100)
    assert (out["left_elevon"], out["right_elevon"]) == pytest.approx((0, -100))
    wide = with_at(
        wing,
        "program.recipes[0]",
        Elevons(left="left_elevon", right="right_elevon", roll_share=60, pitch_share=60),
    )
    result = settled(compile_plan(wide), {"aileron_stick": 100, "elevator_stick": -100})
    assert result.sums["right_elevon"][-1] == pytest.approx(-120)
    delta = plain(TEMPLATES["canard_delta"].make("Trial"))
    place = next(i for i, r in enumerate(delta.program.recipes) if isinstance(r, Canards))
    delta = with_at(delta, f"program.recipes[{place}].roll_share", 40.0)
    trimmed = settled(
        compile_plan(with_at(delta, "program.axes[1].trim.clicks", 8)), {"elevator_stick": -100}
    )
    assert (
        trimmed.sums["left_canard"][-1] == trimmed.sums["right_canard"][-1] == pytest.approx(75.6)
    )
    rolled = stands(delta, aileron_stick=50)
    assert (rolled["left_canard"], rolled["right_canard"]) == pytest.approx((20, -20))
    twin = plain(TEMPLATES["twin"].make("Trial"))
    out = stands(twin, motor_switch=1, throttle_stick=-76, rudder_stick=-100)
    assert (out["left_motor"], out["right_motor"]) == pytest.approx((-91, -61))
    out = stands(twin, motor_switch=1, throttle_stick=-100, rudder_stick=-100)
    assert (out["left_motor"], out["right_motor"]) == pytest.approx((-100, -100))
    place = next(i for i, r in enumerate(twin.program.recipes) if isinstance(r, DifferentialThrust))
    steers = {"motor_switch": 1, "throttle_stick": -100, "rudder_stick": -100}
    out = stands(with_at(twin, f"program.recipes[{place}].at_idle", "full"), **steers)
    assert (out["left_motor"], out["right_motor"]) == pytest.approx((-100, -85))
    out = stands(twin, motor_switch=0, throttle_stick=-100, rudder_stick=-100)
    assert (out["left_motor"], out["right_motor"]) == (-100, -100)
    place = next(i for i, r in enumerate(twin.program.recipes) if isinstance(r, DifferentialThrust))
    faster = with_at(twin, f"program.recipes[{place}].speed_up_only", True)
    out = stands(faster, motor_switch=1, throttle_stick=-76, rudder_stick=-100)
    assert (out["left_motor"], out["right_motor"]) == pytest.approx((-76, -61))


def test_another_tail_keeps_what_it_can_and_says_what_it_let_go(samphire: Model) -> None:
    body = layout.with_tail(samphire.airframe, "V-tail")
    made = adapted(samphire, body)
    assert list(problems(made.model)) == [] and layout.tail_choice(body) == "V-tail"
    assert [x for x in made.let_go if x.startswith("lead")] == [
        "lead Elevator from port 2",
        "lead Rudder from port 4",
    ]
    kept = {x.name: x for x in made.model.leads}
    assert kept["left_flaperon"] == samphire.leads[0] and kept["left_ruddervator"].port is None
    flaperons = next(r for r in made.model.program.recipes if r.kind == "flaperons")
    assert flaperons.elevators == ("left_ruddervator", "right_ruddervator")  # type: ignore[attr-defined]
    assert (
        made.model.program.guard == samphire.program.guard
        and made.model.program.axes == samphire.program.axes
    )
    back = adapted(made.model, layout.with_tail(body, "conventional", 1, 1))
    assert list(problems(back.model)) == [] and "recipe V-tail" in back.let_go
    same = adapted(samphire, samphire.airframe)
    assert same.model == samphire and not same.added and not same.let_go


def test_one_elevator_becomes_two_and_goes_on_with_what_it_had(samphire: Model) -> None:
    place = next(i for i, m in enumerate(samphire.program.mixes) if m.target == "elevator")
    model = with_at(samphire, f"program.mixes[{place}].gain", -88.0)
    two = adapted(model, layout.with_tail(model.airframe, "conventional", 2, 2))
    assert list(problems(two.model)) == [] and not two.let_go
    lead = next(x for x in model.leads if x.target == "elevator")
    kept = {x.target: x for x in two.model.leads}
    assert (kept["left_elevator"].port, kept["left_elevator"].linkage) == (lead.port, lead.linkage)
    assert kept["right_elevator"].port is None and kept["left_rudder"].port == 4
    gains = {m.target: m.gain for m in two.model.program.mixes if m.source == "pitch"}
    assert gains == {"left_elevator": -88.0, "right_elevator": -88.0}
    one = adapted(two.model, layout.with_tail(two.model.airframe, "conventional", 1, 1))
    assert list(problems(one.model)) == [] and [x for x in one.let_go if "lead" in x] == [
        "lead Right elevator",
        "lead Right rudder",
    ]
    assert next(x for x in one.model.leads if x.target == "elevator").port == lead.port
    assert {m.target: m.gain for m in one.model.program.mixes if m.source == "pitch"} == {
        "elevator": -88.0
    }


def test_choices_can_be_mixed_freely() -> None:
    model = TEMPLATES["bare"].make("Trial")
    steps = [
        lambda b: layout.with_wing(b, "one"),
        lambda b: layout.with_wing(b, "six"),
        lambda b: layout.with_second_wing(b, "two"),
        lambda b: layout.with_tail(b, "T-tail", 2, 2),
        lambda b: layout.with_canards(b, True),
        lambda b: layout.with_plates(b, "airbrake", True),
        lambda b: layout.with_plates(b, "spoiler", True),
        lambda b: layout.with_motors(b, 6),
        *(lambda b, k=k: layout.with_device(b, k, True) for k in layout.DEVICES),
        lambda b: layout.with_motors(b, 4),
        lambda b: layout.with_tail(b, "none", 1, 0),
        lambda b: layout.with_wing(b, "elevons"),
        lambda b: layout.with_second_wing(b, None),
        lambda b: layout.with_canards(b, False),
    ]
    for step in steps:
        model = adapted(model, step(model.airframe)).model  # type: ignore[no-untyped-call]
        assert list(problems(model)) == []
        compile_plan(model)
        assert {x.target for x in model.leads} == {p.name for p in model.airframe.moved()}
        panels = {p.name: p for p in model.airframe.panels}
        for (
            s
        ) in model.airframe.surfaces:  # a small part of the chord that it hangs on, and not nothing
            share = s.chord_mm / panels[s.panel].root_chord_mm
            assert 0.05 < share < 0.6, (s.name, share)
    assert len(model.airframe.motors) == 4 and layout.wing_choice(model.airframe) == "elevons"


def test_one_servo_moves_both_ailerons() -> None:
    model = adapted(
        TEMPLATES["bare"].make("Trial"),
        layout.with_wing(TEMPLATES["bare"].make("T").airframe, "one"),
    ).model
    assert [x.target for x in model.leads] == ["left_aileron"]
    assert stands(plain(model), aileron_stick=80)["left_aileron"] == pytest.approx(80)


def test_measures_change_both_sides_and_refuse_what_cannot_be(samphire: Model) -> None:
    body = samphire.airframe
    paths = {label: path for path, label, _ in pieces(body)}
    wing = measured(body, paths["Wing"], "span_mm", 1600.0)
    assert wing.panels[0].span_mm == 1600 and wing.surfaces[0].end_mm == pytest.approx(
        860 * 1600 / 1800, abs=0.1
    )
    deeper = measured(body, paths["Flaperon"], "chord_mm", 80.0)
    assert [s.chord_mm for s in deeper.surfaces[:2]] == [80, 80]
    assert list(problems(samphire.model_copy(update={"airframe": deeper}))) == []
    too_long = measured(body, paths["Flaperon"], "end_mm", 950.0)
    found = [p for p in problems(samphire.model_copy(update={"airframe": too_long}))]
    assert found[0].path == "airframe.surfaces[0].end_mm" and "reaches 900 mm" in found[0].text
    for field, value in (("chord_mm", -5.0), ("throw_up_deg", 120.0)):
        with pytest.raises(DocumentError):
            measured(body, paths["Flaperon"], field, value)
    assert all(
        m.bounds[0] < m.bounds[1] for _, _, piece in pieces(body) for m in measures_of(piece)
    )


@pytest.mark.parametrize("key", [k for k in TEMPLATES if k not in ("bare", "elevon_wing")])
def test_a_tail_steadies_its_aeroplane_as_such_tails_do(key: Any) -> None:
    body = TEMPLATES[key].begin("Trial").airframe
    volumes, usual = tail_volumes(body), usual_volumes(body)
    assert usual and set(usual) <= set(volumes)
    assert all(low <= volumes[name] <= most for name, (low, most) in usual.items()), (
        volumes,
        usual,
    )
    assert f"(usual {usual['Fin'][0]:g} to {usual['Fin'][1]:g})" in volume_words(body)


@pytest.mark.parametrize("tail", ["conventional", "T-tail", "V-tail"])
@pytest.mark.parametrize(("span", "pod"), [(900, False), (2400, False), (2000, True), (5000, True)])
def test_a_tail_that_is_chosen_is_of_usual_size(tail: Any, span: Any, pod: Any) -> None:
    body = layout.with_tail(layout.with_wing(layout.blank(span, pod=pod), "two"), tail)
    volumes, usual = tail_volumes(body), usual_volumes(body)
    flat, high = (volumes[n] / usual[n][0] for n in ("Tailplane", "Fin"))
    assert min(flat, high) > 0.98
    if tail != "V-tail":  # two panels do both, and the greater need rules
        assert all(low <= volumes[n] <= most for n, (low, most) in usual.items())


def test_both_wings_of_a_biplane_are_steadied_by_its_tail() -> None:
    body = TEMPLATES["biplane"].make("Trial").airframe
    upper, lower, tail = (
        next(p for p in body.panels if p.name == n) for n in ("wing", "lower_wing", "tailplane")
    )
    area = upper.area_dm2 + lower.area_dm2
    quarter = (upper.area_dm2 * upper.quarter_mm + lower.area_dm2 * lower.quarter_mm) / area
    by_hand = tail.area_dm2 * (tail.quarter_mm - quarter) / (area * upper.mean_chord_mm)
    assert tail_volumes(body)["Tailplane"] == pytest.approx(by_hand)


def test_a_glider_is_towed_under_its_nose_and_a_tug_tows_above_its_middle() -> None:
    glider, tug = (TEMPLATES[k].make("T").airframe for k in ("t_tail_sailplane", "tug"))
    hooks = [next(d for d in body.devices if d.kind == "tow release") for body in (glider, tug)]
    assert hooks[0].z_mm < 0 < hooks[1].z_mm
    assert hooks[0].x_mm < layout.main_wing(glider).x_mm


def test_tail_volumes_by_hand(samphire: Model) -> None:
    wing, tail = samphire.airframe.panels[0], samphire.airframe.panels[1]
    arm = tail.quarter_mm - wing.quarter_mm
    by_hand = (640 * (205 + 165) / 2) * arm / ((1800 * (300 + 255) / 2) * wing.mean_chord_mm)
    assert tail_volumes(samphire.airframe)["Tailplane"] == pytest.approx(by_hand)


@pytest.mark.parametrize(
    ("role", "up", "down"),
    [("flap", 12, 70), ("aileron", 20, 20), ("airbrake", 70, 1), ("spoiler", 70, 1)],
)
def test_a_surface_that_is_added_goes_as_far_as_such_a_surface_does(
    samphire: Model, role: Any, up: Any, down: Any
) -> None:
    body = layout.without_part(samphire.airframe, "left_flaperon")
    added = layout.with_surfaces(body, layout.main_wing(body), role)
    throws = {(s.throw_up_deg, s.throw_down_deg) for s in added.surfaces if s.role == role}
    assert throws == {(up, down)}


@pytest.mark.parametrize("pod", [False, True])
def test_a_v_tail_is_as_large_as_its_two_works_ask_for(pod: Any) -> None:
    """What it does as a tailplane and as a fin goes by the squares of cosine and sine of its tilt;
    the greater need counts."""
    body = layout.with_tail(layout.blank(2000.0, pod=pod), "V-tail")
    usual, found = layout.usual_volumes(body), tail_volumes(body)
    over = {name: found[name] - sum(usual[name]) / 2 for name in found}
    assert min(over.values()) == pytest.approx(0.0, abs=0.02) and max(over.values()) >= 0.0


def test_single_parts_are_added_and_taken_off(samphire: Model) -> None:
    body = samphire.airframe
    wing = layout.main_wing(body)
    flapped = layout.with_surfaces(body, wing, "flap")
    with pytest.raises(HypsosError, match="no room left"):
        layout.with_surfaces(layout.with_surfaces(flapped, wing, "flap"), wing, "flap")
    bare = layout.without_part(body, "left_flaperon")
    assert [s.name for s in bare.surfaces] == ["elevator", "rudder"]
    flaps = layout.with_surfaces(layout.with_surfaces(bare, wing, "flap"), wing, "spoiler")
    made = adapted(samphire, flaps)
    assert list(problems(made.model)) == [] and "recipe Flaperons" in made.let_go
    assert {s.name for s in flaps.surfaces} >= {
        "left_flap",
        "right_flap",
        "left_spoiler",
        "right_spoiler",
    }
    assert (
        layout.without_part(body, wing.name) == body
        and layout.without_part(body, "fin").panel("fin") is None
    )
    assert [
        m.name for m in layout.without_part(layout.with_motors(body, 4), "left_inner_motor").motors
    ] == ["left_outer_motor", "right_outer_motor"]


CHOICES = st.one_of(
    st.sampled_from([("wing", w) for w in layout.WINGS]),
    st.sampled_from([("second", c) for c in (None, "none", "two")]),
    st.tuples(
        st.just("tail"), st.sampled_from(list(layout.TAILS)), st.integers(1, 2), st.integers(0, 2)
    ),
    st.sampled_from([("motors", n) for n in layout.MOTOR_COUNTS]),
    st.tuples(st.just("canards"), st.booleans()),
    st.tuples(st.just("plates"), st.sampled_from(("airbrake", "spoiler")), st.booleans()),
    st.tuples(st.just("device"), st.sampled_from(layout.DEVICES), st.booleans()),
    st.tuples(st.just("off"), st.integers(0, 30)),
)
ACTIONS = {
    "wing": layout.with_wing, "second": layout.with_second_wing, "tail": layout.with_tail, "motors": layout.with_motors,
    "canards": layout.with_canards, "plates": layout.with_plates, "device": layout.with_device,
}  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(st.sampled_from([k for k in TEMPLATES]), st.lists(CHOICES, min_size=1, max_size=7))
def test_whatever_is_chosen_in_whatever_order_makes_a_sound_model(key: Any, chosen: Any) -> None:
    """No choice leaves a name that leads nowhere, a lead without a part, or an aeroplane that
    cannot be drawn or flown."""
    model = TEMPLATES[key].make("Trial")
    for kind, *arguments in chosen:
        if kind == "off":
            parts = [p.name for p in (*model.airframe.moved(), *model.airframe.panels)]
            body = layout.without_part(model.airframe, parts[arguments[0] % len(parts)])
        else:
            body = ACTIONS[kind](model.airframe, *arguments)
        made = adapted(model, body)
        kept = {x.name for x in model.leads} & {x.name for x in made.model.leads}
        assert {x.name: x for x in model.leads if x.name in kept} == {
            x.name: x for x in made.model.leads if x.name in kept
        }
        model = made.model
        assert list(problems(model)) == [], (kind, arguments)
        assert {x.target for x in model.leads} == {p.name for p in model.airframe.moved()}
    solid(model.airframe)
    result = settled(compile_plan(plain(model)), {"aileron_stick": 40, "elevator_stick": -40})
    assert all(np.isfinite(o.us).all() for o in result.outputs.values())
    assert adapted(model, model.airframe).model == model


def test_motors_further_in_have_less_of_a_lever() -> None:
    four = plain(
        adapted(
            TEMPLATES["twin"].make("Trial"),
            layout.with_motors(TEMPLATES["twin"].make("Trial").airframe, 4),
        ).model
    )
    thrust = next(r for r in four.program.recipes if isinstance(r, DifferentialThrust))
    out = stands(four, motor_switch=1, throttle_stick=-20, rudder_stick=-100)
    expected = {thrust.left[0]: -35, thrust.left[1]: -29, thrust.right[0]: -5, thrust.right[1]: -11}
    assert {n: out[n] for n in expected} == pytest.approx(expected)
    place = four.program.recipes.index(thrust)
    faster = with_at(four, f"program.recipes[{place}].speed_up_only", True)
    only = stands(faster, motor_switch=1, throttle_stick=-20, rudder_stick=-100)
    assert {n: only[n] for n in expected} == pytest.approx(
        expected | dict.fromkeys(thrust.left, -20)
    )


def test_two_motors_are_offered_differential_thrust_and_one_is_not(samphire: Model) -> None:
    def turning(motors: Any) -> Any:
        offered = offers(adapted(samphire, layout.with_motors(samphire.airframe, motors)).model)
        return [
            (x.made.left, x.made.right) for x in offered if isinstance(x.made, DifferentialThrust)
        ]

    assert turning(1) == [] and turning(2) == [(("left_motor",), ("right_motor",))]


def test_what_a_pilot_chose_stays_when_other_parts_come_and_go() -> None:
    twin = TEMPLATES["twin"].make("Trial")
    four = adapted(twin, layout.with_motors(twin.airframe, 4)).model
    place = next(i for i, r in enumerate(four.program.recipes) if isinstance(r, DifferentialThrust))
    outer = {
        "left": four.program.recipes[place].left[:1],  # type: ignore[attr-defined]
        "right": four.program.recipes[place].right[:1],  # type: ignore[attr-defined]
    }  # type: ignore[attr-defined]
    four = with_at(four, f"program.recipes[{place}]", four.program.recipes[place].changed(outer))
    bare = adapted(four, layout.without_part(four.airframe, "rudder")).model
    kept = next(r for r in bare.program.recipes if isinstance(r, DifferentialThrust))
    assert (kept.left, kept.right) == (outer["left"], outer["right"])
    mine = Flaps(
        control="switch_b",
        positions=(FlapPosition(), FlapPosition(flap=35), FlapPosition(flap=85)),
        surfaces=("a",),
        elevators=("tail",),
    )
    more = mine.changed({"surfaces": ("a", "b"), "elevators": ("other",)})
    both = mine.joined(more)
    assert both.surfaces == ("a", "b") and both.elevators == ("tail",)


def said_of(model: Model, body: Any) -> str:
    """What a change of shape brings and what it lets go, in the words the pilot reads."""
    made = adapted(model, body)
    return f"{'; '.join(made.added)} | {'; '.join(made.let_go)}"


def test_every_change_of_shape_says_all_that_comes_and_goes() -> None:
    sailplane, biplane, twin, bare = (
        wired(k) for k in ("t_tail_sailplane", "biplane", "twin", "bare")
    )

    def follow(target: Any, source: Any = "brake", name: Any = "Spoiler comp") -> Any:
        return MixLine(name=name, target=target, source=source, gain=9)

    sailplane = with_at(sailplane, "program.mixes", (*sailplane.program.mixes, follow("elevator")))
    halves = (
        follow("left_elevator"),
        follow("right_elevator"),
        follow("right_elevator", "roll", "odd"),
    )
    biplane = with_at(biplane, "program.mixes", (*biplane.program.mixes, *halves))
    biplane = joined(biplane, "left_elevator", "right_elevator", False)
    assert said_of(sailplane, layout.with_tail(sailplane.airframe, "V-tail")) == (
        "lead Left ruddervator; lead Right ruddervator; Flaps fitted to the surfaces there are; "
        "Airbrakes fitted to the surfaces there are; "
        "Spoiler comp now moves left ruddervator, right ruddervator; recipe V-tail | lead Elevator from port 5; "
        "lead Rudder from port 6; mix Elevator on elevator; mix Rudder on rudder"
    )
    assert said_of(sailplane, layout.with_tail(sailplane.airframe, "none")) == (
        "Flaps fitted to the surfaces there are; Airbrakes fitted to the surfaces there are | lead Elevator from port 5; "
        "mix Elevator on elevator; "
        "mix Spoiler comp on elevator"
    )
    assert said_of(biplane, layout.with_tail(biplane.airframe, "V-tail")) == (
        "lead Left ruddervator; lead Right ruddervator; Spoiler comp now moves left ruddervator, right ruddervator; "
        "odd now moves left ruddervator, right ruddervator; recipe V-tail | lead Left elevator from port 5; "
        "lead Right elevator from port 5; lead Rudder from port 7; mix Left elevator on left elevator; "
        "mix Right elevator on right elevator; mix Rudder on rudder; the Y-lead of left elevator"
    )
    assert said_of(biplane, layout.with_tail(biplane.airframe, "conventional")) == (
        "lead Left elevator now serves elevator | lead Right elevator from port 5; the Y-lead of left elevator"
    )
    assert said_of(twin, layout.with_motors(twin.airframe, 4)) == (
        "lead Left outer motor; lead Right outer motor; lead Left inner motor; lead Right inner motor; "
        "Differential thrust fitted to the motors there are | lead Left motor from port 5; lead Right motor from port 6; "
        "mix Throttle, left motor on left motor; mix Throttle, right motor on right motor"
    )
    body = layout.with_canards(layout.with_motors(layout.with_wing(bare.airframe, "four"), 2), True)
    assert said_of(bare, body) == (
        "lead Left flap; lead Right flap; lead Left aileron; lead Right aileron; lead Left canard; lead Right canard; "
        "lead Left motor; lead Right motor; recipe Ailerons; flap switch; recipe Flaps; recipe Canards; motor switch; "
        "a motor guard on the motor switch | "
    )
    body = layout.with_device(layout.with_wing(sailplane.airframe, "six"), "retracts", True)
    assert said_of(sailplane, body) == (
        "lead Left mid flap; lead Right mid flap; lead Retracts; gear switch; a receiver with 12 ports | "
    )


def test_presets_of_parts_that_are_gone_go_and_those_of_heirs_stay(samphire: Model) -> None:
    modes = (
        FlightMode(
            name="base",
            label="Base",
            presets={"elevator": 4.0, "tail_wheel": 9.0, "left_flaperon": 2.0},
        ),
    )
    model = with_at(samphire, "program.modes", modes)
    made = adapted(model, layout.without_part(model.airframe, "tail_wheel"))
    assert made.model.program.modes[0].presets == {"elevator": 4.0, "left_flaperon": 2.0}
    assert "preset of Base for tail wheel" in made.let_go
    two = adapted(model, layout.with_tail(model.airframe, "conventional", elevators=2)).model
    assert two.program.modes[0].presets == {
        "tail_wheel": 9.0,
        "left_flaperon": 2.0,
        "left_elevator": 4.0,
        "right_elevator": 4.0,
    }
    vee = adapted(model, layout.with_tail(model.airframe, "V-tail")).model
    tail = {n: v for n, v in vee.program.modes[0].presets.items() if "ruddervator" in n}
    assert tail == {"left_ruddervator": 4.0, "right_ruddervator": 4.0}


@pytest.mark.parametrize("scale", [0.002, 0.01, 0.1, 10.0])
def test_choices_on_a_wing_of_any_size(scale: Any) -> None:
    """A wing with a chord of 3 mm, or of 3 m: what is chosen fits or is refused with a sentence."""
    body = blank_of(scale)
    for choose in (
        *(lambda b, k=k: layout.with_wing(b, k) for k in layout.WINGS), lambda b: layout.with_plates(b, "airbrake", True),
        lambda b: layout.with_plates(b, "spoiler", True), lambda b: layout.with_canards(b, True),
        lambda b: layout.with_motors(b, 4),
        *(lambda b, k=k: layout.with_tail(b, k, 2, 2) for k in layout.TAILS), lambda b: layout.with_second_wing(b, "two"),
        *(lambda b, r=r: layout.with_surfaces(b, b.panels[0], r) for r in ("aileron", "flap", "airbrake")),
    ):  # fmt: skip
        try:
            made = choose(body)  # type: ignore[no-untyped-call]
        except HypsosError:
            continue
        solid(made)
        assert all(s.chord_mm > 0 and s.end_mm > 0 for s in made.surfaces)


def blank_of(scale: Any) -> Any:
    body = layout.blank(1500)
    wing = body.panels[0]
    sizes = {
        f: getattr(wing, f) * scale
        for f in ("span_mm", "root_chord_mm", "tip_chord_mm", "sweep_mm")
    }
    return body.model_copy(update={"panels": (wing.model_copy(update=sizes),)})
