# SPDX-License-Identifier: GPL-3.0-or-later
"""First values of behaviours, their edges, and what is said of them; the small things a pilot
relies on without looking."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from keyed import sheet_text
from motors import play
from parts import from_parts
from test_behaviours import AILERONS, FLAPS, MODES, OFFERED, crow, sums, with_recipes

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import first_problem, problems
from hypsos.core.conditions import Compare
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting
from hypsos.core.edits.behaviours import added, ground_of, offers
from hypsos.core.edits.plain_mixes import other_side, sign_over
from hypsos.core.edits.ready_announcements import with_ready_set
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.explain.behaviour_preview import Shown, shown, trailing_edges
from hypsos.core.explain.mix_streams import effects, net
from hypsos.core.explain.response_sweeps import swept
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.camber import CamberPresets
from hypsos.core.recipes.corrections import (
    CoordinatedTurn,
    KnifeEdge,
    ThrottleRudder,
    ThrustLine,
    TurnShare,
)
from hypsos.core.recipes.crow import Crow
from hypsos.core.recipes.flap_positions import Flaps
from hypsos.core.recipes.recipe_base import Amount
from hypsos.core.recipes.snap_flap import SnapFlap
from hypsos.core.recipes.stick_flaps import StickFlaps
from hypsos.core.recipes.stick_scaling import ModeFeel, StickScaling
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.core.shape.adapt_model import BRAKES, adapted
from hypsos.core.shape.layout_choices import with_motors, with_wing
from hypsos.core.shape.templates import TEMPLATES

FIRST = {
    "Ailerons": {"share": 100, "differential": 50}, "VTail": {"pitch_share": 55, "yaw_share": 45},
    "Canards": {"pitch_share": 70, "roll_share": 0, "with_trim": True},
    "CamberFollow": {"control": "slide_0", "amount": 20, "up": 40, "to_ailerons": 100, "to_flaps": 20, "differential": 40,
                     "elevator": 0,
                     "edge_deg": 25},
    "CoordinatedTurn": {"control": None, "helps": (TurnShare(left=40, right=40),), "with_trim": False,
                        "rudders": ("right_ruddervator",), "against": ("left_ruddervator",)},
    "Crow": {"control": "slide_0", "closed": -85, "opened": 100, "in_s": 0.5, "out_s": 0.5,
             "amounts": (Amount(parts=FLAPS, travel=100), Amount(parts=AILERONS, travel=-72))},
    "DifferentialThrust": {"share": 15, "inner": 60, "at_idle": "none"}, "Elevons": {"roll_share": 72, "pitch_share": 27},
    "KnifeEdge": {"reach": 10, "pitch_lever": None}, "ThrustLine": {"pivot": 0, "share": 0},
    "SnapFlap": {"share": 24, "aileron_share": 24, "edge_deg": 25, "dead": 10, "pull_only": True},
    "StickFlaps": {"control": "slide_0", "rest": -60, "flaps": 40, "spoilers": 30, "flap_elevator": 0, "spoiler_elevator": 0,
                   "chosen": "flap_switch@1"},
    "StickScaling": {"base": ModeFeel(rate=70, expo=25), "least": 25, "most": 100, "axes": ("roll", "pitch", "yaw")},
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(FIRST))
def test_first_values(name: Any) -> None:
    recipe = OFFERED[name][1]
    assert {k: getattr(recipe, k) for k in FIRST[name]} == FIRST[name] and recipe.on  # type: ignore[attr-defined]
    assert recipe.when == ("guard:armed" if name == "ThrustLine" else None)
    figures = OFFERED["CamberPresets"][1].by_mode  # type: ignore[attr-defined]
    assert {m: (x.flap, x.aileron, x.elevator) for m, x in figures.items()} == {
        "thermal": (16, 16, 0),
        "speed": (-8, -8, 0),
    }
    edges = dict(OFFERED["CamberPresets"][1].edges({}))
    assert {m: set(x.values()) for m, x in edges.items()} == {"thermal": {16}, "speed": {-8}}
    assert all(
        edge[n] == figures[m].aileron for m, edge in edges.items() for n in edge if "aileron" in n
    )


def test_crow_takes_the_throttle_stick_where_nothing_flies_by_it_and_each_half_alone() -> None:
    glider = TEMPLATES["t_tail_sailplane"].make("Glider")
    few = tuple(c for c in glider.transmitter.controls if c.is_switch)
    mixes = tuple(
        m
        for m in glider.program.mixes
        if m.target != "brake" and m.source in ("roll", "pitch", "yaw")
    )
    bare = glider.changed(
        {
            "transmitter": glider.transmitter.changed({"controls": few}),
            "program": glider.program.changed({"mixes": mixes}),
        }
    )
    made = next(o.made for o in offers(bare) if o.kind is Crow)
    assert (made.control, made.closed, made.opened) == ("throttle_stick", -10, -80)
    assert ground_of(bare).quiet and not ground_of(TEMPLATES["trainer"].make("T")).quiet
    again = added(bare, made)
    assert not ground_of(again).quiet  # it is taken
    only = crow()
    assert only.changed({"amounts": only.amounts[:1]}).expand(lambda n: None)


def test_crow_on_a_slider_and_the_way_its_points_lie() -> None:
    up = crow().changed({"control": "slider", "closed": -85, "opened": 100})
    model = with_recipes(up)
    assert [sums(model, slider=x)["left_flap"] for x in (-100, -85, 7.5, 100)] == pytest.approx(
        [0, 0, 43, 86]
    )
    for closed, opened, said in ((0, 9, 1), (0, -9, 1), (0, 10, 0), (5, -80, 0)):
        found = list(up.changed({"closed": closed, "opened": opened}).doubts(lambda n: None))
        assert len(found) == said
    assert [f for f, _ in up.changed({"closed": 5, "opened": 5}).problems(lambda n: None)][:1] == [
        "opened"
    ]
    flat = up.changed(
        {"elevator": Response(points=((0.0, 0.0), (100.0, 0.0))), "elevators": ("elevator",)}
    )
    assert all(x.line.target != "elevator" for x in flat.expand(lambda n: None))


def test_turn_with_a_negated_rule_a_trim_and_a_slow_stick() -> None:
    turn = CoordinatedTurn(
        control="switch_c",
        helps=(TurnShare(left=10, right=20), TurnShare()),
        rudders=("rudder",),
        when="!switch_b@1",
    )
    model = with_recipes(turn)
    assert [sums(model, aileron_stick=100, switch_b=b)["rudder"] for b in (0, 1)] == pytest.approx(
        [20, 0]
    )
    assert sums(model, aileron_stick=-100)["rudder"] == pytest.approx(-10)
    assert (
        sums(model, aileron_stick=100, switch_c=1)["rudder"]
        == sums(model, aileron_stick=100, switch_c=2)["rudder"]
        == 0
    )
    for with_trim_, value in ((False, 0), (True, 2.4)):
        trimmed = with_recipes(
            turn.changed(
                {"helps": (TurnShare(left=12, right=12),), "control": None, "with_trim": with_trim_}
            )
        )
        assert sums(trimmed, roll_trim=20.0)["rudder"] == pytest.approx(value)
    more = turn.changed({"helps": (TurnShare(),) * 4})
    control = from_parts().transmitter.control
    assert list(more.problems(control)) and not list(turn.problems(control))
    wide = turn.on_switch("control", control("switch_c"))
    assert len(wide.helps) == 3 and wide.helps[2] == wide.helps[1]


def test_stick_flaps_without_a_choice_are_flaps_only() -> None:
    plain = StickFlaps(control="slider", surfaces=FLAPS, elevators=("elevator",))
    model = with_recipes(plain)
    out = sums(model, slider=100)
    assert (
        out["left_flap"] == 40
        and out["elevator"] == 4
        and plain.signals() == (("flap", "Flaps or spoilers, flaps"),)
    )
    turned = with_recipes(plain.changed({"chosen": "!switch_b@1"}))
    assert [sums(turned, slider=100, switch_b=b)["left_flap"] for b in (0, 1)] == [-30, 40]
    assert list(plain.changed({"rest": 100}).problems(lambda n: None)) and not list(
        plain.problems(lambda n: None)
    )


@pytest.mark.parametrize("when", [None, "switch_c@1"])
def test_from_spoilers_to_flaps_the_surfaces_take_their_time(when: Any) -> None:
    """The choice comes before the slow, like every other condition: the edge of the wing never
    jumps from up to down."""
    stick = StickFlaps(
        control="slider",
        flaps=40,
        spoilers=30,
        chosen="switch_b@1",
        when=when,
        in_s=0.5,
        out_s=0.25,
        surfaces=FLAPS,
    )
    t = 0.02 * np.arange(200)
    chosen, on = np.where((t > 1) & (t < 2), 1.0, 0.0), np.where(t < 3 - 1e-9, 1.0, 0.0)
    moves = Situation(t, {"slider": np.full(200, 100.0), "switch_b": chosen, "switch_c": on})
    got = compile_plan(with_recipes(stick)).run(moves).outputs["left_flap"].stand
    assert [got[i] for i in (0, 49, 99, 149)] == pytest.approx([40, 40, -30, 40])
    assert got[199] == pytest.approx(40 if when is None else 0)
    step = np.abs(np.diff(got)).max()
    assert step == pytest.approx(
        (40 * 8 + 30 * 4) / 100
    )  # in a frame the flaps go by 8 % of their way, the spoilers come by 4 %


def test_scaling_says_what_is_out_of_its_bounds() -> None:
    feel = StickScaling(by_mode={"one": ModeFeel(rate=20)}, least=25, most=100)
    assert [f for f, _ in feel.problems(lambda n: None)] == ["by_mode.one.rate"]
    assert [f for f, _ in feel.changed({"base": ModeFeel(rate=101)}).problems(lambda n: None)] == [
        "by_mode.one.rate",
        "base.rate",
    ]
    assert [f for f, _ in feel.changed({"least": 100.0}).problems(lambda n: None)][:1] == ["most"]
    assert [f for f, _ in feel.changed({"least": 0.0}).doubts(lambda n: None)] == [
        "least"
    ] and not list(feel.doubts(lambda n: None))
    rate, bend = feel.own_values()
    assert (rate.low, rate.high, rate.by_mode, bend.low, bend.high) == (
        25,
        100,
        {"one": 25},
        -100,
        100,
    )


def test_what_is_left_of_a_behaviour_goes_on() -> None:
    body = from_parts().airframe
    snap = SnapFlap(flaps=FLAPS, ailerons=AILERONS)
    assert (
        snap.fitted(body, frozenset(FLAPS), frozenset()).flaps == ()
        and snap.fitted(body, frozenset(), frozenset()) is snap
    )
    assert snap.fitted(body, frozenset((*FLAPS, *AILERONS)), frozenset()) is None
    brakes = crow()
    fewer = brakes.fitted(body, frozenset(("left_flap",)), frozenset())
    assert [a.parts for a in fewer.amounts] == [AILERONS, ("right_flap",)]
    assert brakes.fitted(body, frozenset((*FLAPS, *AILERONS)), frozenset()) is None
    turn = CoordinatedTurn(rudders=("rudder",), against=("left_flap",))
    assert turn.fitted(body, frozenset(("rudder",)), frozenset()).rudders == ()
    assert turn.fitted(body, frozenset(("rudder", "left_flap")), frozenset()) is None
    presets = CamberPresets(flaps=FLAPS, by_mode={"one": {"flap": 3}, "two": {"flap": 4}})
    assert (
        set(presets.without_mode("one").by_mode) == {"two"}
        and presets.without_mode("three") is presets
    )


def test_a_picture_of_one_behaviour_bears_what_reads_the_others() -> None:
    """A behaviour shown as if it always acted has no spoilers to choose; by itself it has no
    neighbours. Both may be read."""
    brakes = StickFlaps(control="slider", surfaces=FLAPS, chosen="switch_b@1")
    rolls = Ailerons(
        left=AILERONS[:1], right=AILERONS[1:], differential=30, differential_off="flap_spoiler"
    )
    out = Compare(kind="above", name="out", label="Out", a="flap_spoiler", x=20, hysteresis=2)
    model = with_recipes(rolls, brakes, logic=(out,))
    assert first_problem(model) is None
    down = [e.middle["left_flap"] for e in trailing_edges(model, 1)]
    assert down[0] == pytest.approx(0, abs=1e-9) and down[-1] == pytest.approx(40)
    (right,) = [x for x in shown(model, rolls) if x.words == "roll right"]
    assert right.moves == {"left_aileron": pytest.approx(70), "right_aileron": pytest.approx(-100)}


def test_edges_at_the_positions_that_matter() -> None:
    model = with_recipes(crow(), modes=MODES)
    assert [e.words for e in trailing_edges(model, 0)] == ["closed", "half", "fully open"]
    half = trailing_edges(model, 0)[1]
    assert (
        half.middle["left_flap"] == pytest.approx(43)
        and half.left["left_aileron"] < half.middle["left_aileron"] < half.right["left_aileron"]
    )
    presets = CamberPresets(flaps=FLAPS, by_mode={"one": {"flap": 8}})
    edges = trailing_edges(with_recipes(presets, modes=MODES), 0)
    assert [e.words for e in edges] == ["Flight mode"] * 3 and [
        e.middle["left_flap"] for e in edges
    ] == [8, 0, 0]
    snap = trailing_edges(with_recipes(SnapFlap(flaps=FLAPS, share=20)), 0)
    assert [(e.words, round(e.middle["left_flap"])) for e in snap] == [("at rest", 0), ("pull", 20)]
    found = shown(from_parts(), crow())
    assert found == [
        Shown(
            "throttle stick",
            {
                "left_aileron": pytest.approx(-42),  # type: ignore[dict-item]
                "right_aileron": pytest.approx(-42),  # type: ignore[dict-item]
                "left_flap": pytest.approx(86),  # type: ignore[dict-item]
                "right_flap": pytest.approx(86),  # type: ignore[dict-item]
            },
        )
    ]
    gated = shown(from_parts(), crow(master="switch_b@1", gate="!link").changed({"on": False}))
    assert gated == found  # shown as it acts, whatever it waits for


def test_nets_effects_and_sweeps_of_a_small_aeroplane() -> None:
    model = from_parts(
        mixes=(
            MixLine(name="f", target="left_flap", source="switch_c", gain=30),
            MixLine(name="s", target="camber", source="slider"),
            MixLine(name="r", target="right_flap", source="camber", gain=10),
        )
    )
    found = net(model)
    assert {(n.name, n.column) for n in found.nodes} >= {
        ("roll", 0),
        ("switch_c", 0),
        ("slider", 0),
        ("camber", 1),
        ("left_flap", 2),
    }
    assert "switch_b" not in {n.name for n in found.nodes} and [
        s.mix for s in found.streams
    ] == list(range(len(model.program.mixes)))
    assert [s.name for s in found.streams if s.key in found.upstream("right_flap")] == ["s", "r"]
    plan = compile_plan(model)
    by_switch = effects(model, plan, "switch_c", {"switch_c": 1.0})
    assert [(e.part, e.low[0], e.high[0]) for e in by_switch] == [("left_flap", -30, 30)]
    by_slider = effects(model, plan, "slider", {"slider": 55.0, "link": 1.0})
    assert [(e.part, e.low[0], e.high[0]) for e in by_slider] == [("right_flap", -10, 10)]
    line = swept(plan, "switch_c", "left_flap")[0]
    assert (
        line.x.tolist() == [0, 1, 2]
        and line.percent.tolist() == [-30, 0, 30]
        and line.name == "as it is"
    )
    held = swept(plan, "slider", "left_flap", hands={"switch_c": 2.0, "link": 0.0})[0]
    assert (
        np.allclose(held.percent, 30)
        and held.values("°") is held.deg
        and held.values("mm") is held.mm
    )


def test_a_knife_edge_that_corrects_one_thing_makes_only_its_lines() -> None:
    flat = Response(points=((-100.0, 0.0), (100.0, 0.0)))
    edge = KnifeEdge(elevators=("elevator",), left=AILERONS[:1], right=AILERONS[1:], pitch=flat)
    assert {x.line.target for x in edge.expand(lambda n: None)} == {"knife_edge_roll", *AILERONS}
    trimmed = edge.changed({"pitch_lever": "slider"})
    assert sums(with_recipes(trimmed), rudder_stick=100, slider=100)["elevator"] == pytest.approx(
        10
    )
    assert trimmed.made_response("pitch").live == (0, 1) and edge.made_response("roll").live == ()


def test_a_copy_stands_behind_its_own_and_a_v_tail_has_its_own_signs() -> None:
    tail = TEMPLATES["v_tail_sailplane"].make("V")
    for source, sign in (("yaw", -1), ("pitch", 1)):
        line = MixLine(name="w", target="left_ruddervator", source=source, gain=20)
        assert sign_over(tail, line) == sign
    lines = (
        MixLine(name="a", target="left_flap", source="roll", gain=20),
        MixLine(name="b", target="rudder", source="slider", gain=5),
    )
    model = from_parts(mixes=lines)
    at = [m.name for m in model.program.mixes].index("a")
    both = other_side(model, at).program.mixes
    assert [(m.name, m.target, m.gain) for m in both[at : at + 3]] == [
        ("a", "left_flap", 20),
        ("a", "right_flap", -20),
        ("b", "rudder", 5),
    ]
    with pytest.raises(HypsosError, match="already"):
        other_side(other_side(model, at), at)


def test_one_half_of_a_wing_has_no_behaviour_of_both() -> None:
    model = TEMPLATES["t_tail_sailplane"].make("G")
    body = model.airframe
    half = tuple(s for s in body.surfaces if s.side != "left")
    ground = ground_of(model.changed({"airframe": body.changed({"surfaces": half})}))
    assert StickFlaps.begin(ground) is None and KnifeEdge.begin(ground) is None
    assert (
        StickFlaps.begin(ground_of(model)) is not None
        and KnifeEdge.begin(ground_of(model)) is not None
    )
    edge = KnifeEdge.begin(ground_of(model)).changed({"pitch_lever": "slider"})
    (lever,) = edge.own_values()
    assert (lever.low, lever.high, lever.value) == (-edge.reach, edge.reach, 0)


def crowned(model: Model) -> Any:
    """The model with crow brakes besides, as the gallery makes them."""
    offer = next(o for o in offers(model) if o.kind is Crow)
    assert offer.made is not None, offer.why
    return added(model, offer.made), offer.made


def test_crow_and_airbrakes_go_each_by_its_own_control_and_never_both_by_one() -> None:
    """Opened together by one signal the flaps would go twice as far, and the elevator with one of
    them only."""
    slider = Control(name="second_slider", label="Second slider", kind="slider", hand="right")
    model = with_hands(TEMPLATES["t_tail_sailplane"].begin("Trial"), slider)
    model, crow = crowned(model)
    plates = next(r for r in model.program.recipes if r.kind == "airbrakes")
    assert crow.signal != plates.signal and {crow.control, plates.control} == {
        "brake_slider",
        "second_slider",
    }
    assert list(problems(model)) == []
    still = {"brake_slider": -100.0, "second_slider": -100.0}
    out = sums(model, **still | {plates.control: 100.0})
    assert (out["left_airbrake"], out["left_flap"], out["left_aileron"], out["elevator"]) == (
        -100,
        0,
        0,
        0,
    )
    out = sums(model, **still | {crow.control: 100.0})
    assert (out["left_airbrake"], out["left_flap"], out["left_aileron"], out["elevator"]) == (
        0,
        100,
        -72,
        24,
    )
    both = sums(model, **dict.fromkeys(still, 100.0))
    assert (both["left_airbrake"], both["left_flap"], both["elevator"]) == (-100, 100, 24)


def test_a_new_behaviour_feeds_no_signal_that_a_plain_line_feeds() -> None:
    line = MixLine(name="Brakes on a slider", target="brake", source="brake_slider")
    model = with_hands(TEMPLATES["v_tail_sailplane"].begin("Trial"), BRAKES)
    model = model.changed(
        {"program": model.program.changed({"mixes": (*model.program.mixes, line)})}
    )
    spare = Control(name="second_slider", label="Second slider", kind="slider", hand="right")
    assert crowned(with_hands(model, spare))[1].signal == "brake_2"


def test_airbrakes_have_an_elevator_that_begins_with_nothing() -> None:
    """Which way it is wanted can't be known before they have been tried."""
    model = TEMPLATES["t_tail_sailplane"].begin("Trial")
    at = next(i for i, r in enumerate(model.program.recipes) if r.kind == "airbrakes")
    assert model.program.recipes[at].elevators == ("elevator",)  # type: ignore[attr-defined]
    assert sums(model, brake_slider=100.0)["elevator"] == 0
    helped = with_at(
        model, f"program.recipes[{at}].elevator", Response(points=((0.0, 0.0), (100.0, 4.0)))
    )
    assert (
        sums(helped, brake_slider=100.0)["elevator"] == 4
        and sums(helped, brake_slider=-100.0)["elevator"] == 0
    )


def test_a_switch_that_has_its_work_is_left_to_it() -> None:
    """Flaps take a switch that is free; the rates stay where they are."""
    model = with_hands(TEMPLATES["trainer"].begin("Trial"))
    model = adapted(model, with_wing(model.airframe, "four")).model
    hands = tuple(c for c in model.transmitter.controls if c.name != "flap_switch")
    bare = model.changed(
        {
            "transmitter": model.transmitter.changed({"controls": hands}),
            "program": model.program.changed({"recipes": model.program.recipes[:1]}),
        }
    )
    offer = next(o for o in offers(bare) if o.kind is Flaps)
    assert offer.made is None and (offer.why, offer.step) == (
        "it takes a switch that does nothing yet",
        "hands",
    )


def with_hands(model: Model, *controls: Any) -> Any:
    """The model with controls besides its own."""
    hands = model.transmitter
    return model.changed({"transmitter": hands.changed({"controls": (*hands.controls, *controls)})})


def test_the_thrust_line_is_corrected_only_while_the_motor_is_released() -> None:
    """On the ground with the motor cut, and after a go-around that left it locked, the stick moves
    no elevator."""
    model = TEMPLATES["trainer"].begin("Trial")
    offer = next(o for o in offers(model) if o.kind is ThrustLine)
    assert offer.made.share == 0 and not [
        x for x in offer.made.expand(lambda n: None) if x.line.target == "elevator"
    ]
    model = added(model, offer.made.changed({"share": 6.0}))
    assert list(problems(model)) == []
    elevator = {}
    for words, hands in (
        ("armed", {"motor_switch": 1.0}), ("cut", {"motor_switch": 0.0}), ("low", {"motor_switch": 1.0, "throttle_stick": -100.0})
    ):  # fmt: skip
        elevator[words] = sums(model, **{"throttle_stick": 100.0} | hands)["elevator"]
    assert elevator == {"armed": 6.0, "cut": 0.0, "low": 0.0}
    rows = "t_s,throttle_stick,motor_switch\n0,100,0\n1,100,1\n3,100,1\n"  # armed with the stick up: locked
    result = compile_plan(model).run(read_moves(rows, model))
    assert result.guard[-1] == GuardState.LOCKED and result.sums["elevator"][-1] == 0


def test_a_model_that_loses_its_motor_keeps_nothing_that_waits_for_a_release() -> None:
    model = with_ready_set(TEMPLATES["trainer"].begin("Trial"), "flight")
    model = added(model, next(o.made for o in offers(model) if o.kind is ThrustLine))
    told = adapted(model, with_motors(model.airframe, 0))
    assert list(problems(told.model)) == [] and "recipe Throttle to elevator" in told.let_go
    (timer,) = told.model.program.timers
    assert (timer.when, timer.reset) == ("power", None)


def test_throttle_to_rudder_by_points_and_only_while_the_motor_is_armed() -> None:
    """A V-tail's panels go opposite ways; it begins with nothing, for nobody knows the swirl
    beforehand."""
    for key, rudders in (
        ("trainer", {"rudder": 1}),
        ("v_tail_sailplane", {"left_ruddervator": -1, "right_ruddervator": 1}),
    ):
        model = TEMPLATES[key].begin("Trial")
        made = next(o.made for o in offers(model) if o.kind is ThrottleRudder)
        assert made.when == "guard:armed" and [
            x.line.target for x in made.expand(lambda n: None)
        ] == ["throttle_rudder"]
        points = Response(points=((-100.0, 0.0), (0.0, 2.0), (100.0, 6.0)))
        model = added(model, made.changed({"response": points}))
        assert list(problems(model)) == []
        for throttle, armed, right in (
            (-100, 1, 0),
            (-50, 1, 1),
            (0, 1, 2),
            (100, 1, 6),
            (100, 0, 0),
        ):
            out = sums(model, throttle_stick=float(throttle), motor_switch=float(armed))
            assert {n: out[n] for n in rudders} == pytest.approx(
                {n: s * right for n, s in rudders.items()}
            )
        gone = made.fitted(with_motors(model.airframe, 0), frozenset({"motor"}), frozenset())
        assert gone is None
    assert (
        next(
            o.made
            for o in offers(TEMPLATES["t_tail_sailplane"].begin("T"))
            if o.kind is ThrottleRudder
        )
        is None
    )


@pytest.mark.parametrize("sharing", ["none", "pitch first", "roll first"])
def test_elevons_have_a_differential_and_a_reflex(sharing: Any) -> None:
    model = TEMPLATES["elevon_wing"].begin("Trial")
    plain = Setting()
    axes = tuple(a.changed({"settings": (plain,), "switch": None}) for a in model.program.axes)
    model = model.changed({"program": model.program.changed({"axes": axes})})
    recipe = model.program.recipes[0].changed(
        {
            "roll_share": 60.0,
            "pitch_share": 20.0,
            "differential": 40.0,
            "reflex": -4.0,
            "sharing": sharing,
        }
    )
    model = with_at(model, "program.recipes[0]", recipe)
    rest, right = sums(model), sums(model, aileron_stick=100.0)
    assert (rest["left_elevon"], rest["right_elevon"]) == (-4, -4)
    assert (right["left_elevon"], right["right_elevon"]) == pytest.approx((36 - 4, -60 - 4))
    assert sums(model, elevator_stick=-100.0)["left_elevon"] == pytest.approx(-24)
    off = with_at(model, "program.recipes[0].differential_off", "brake")
    mixes = (*off.program.mixes, MixLine(name="out", target="brake", source="full"))
    assert sums(with_at(off, "program.mixes", mixes), aileron_stick=100.0)[
        "left_elevon"
    ] == pytest.approx(60 - 4)


def test_presets_of_elevons_by_mode_begin_with_nothing() -> None:
    model = TEMPLATES["elevon_wing"].begin("Trial")
    modes = tuple(FlightMode(name=n, label=n) for n in ("thermal", "base"))
    model = model.changed(
        {
            "program": model.program.changed(
                {"modes": (modes[0].changed({"when": "rates_switch@2"}), modes[1])}
            )
        }
    )
    made = next(o.made for o in offers(model) if o.kind is CamberPresets)
    assert set(made.flaps) == {"left_elevon", "right_elevon"} and made.by_mode == {}
    reflexed = added(model, made.changed({"by_mode": {"thermal": {"flap": -3.0}}}))
    assert (
        sums(reflexed, rates_switch=2.0)["left_elevon"] == -12
        and sums(reflexed, rates_switch=0.0)["left_elevon"] == -9
    )


@pytest.mark.parametrize(
    ("template", "share"), [("v_tail_sailplane", 18), ("t_tail_sailplane", 40), ("trainer", 20)]
)
def test_the_rudder_helps_by_a_share_of_full_rudder(template: Any, share: Any) -> None:
    """A V-tail gives full rudder at 45 % of its travel: 40 % of that are 18 %."""
    model = TEMPLATES[template].make("Trial")
    made = next(o.made for o in offers(model) if o.kind is CoordinatedTurn)
    assert made.helps == (TurnShare(left=share, right=share),)


def test_a_folding_propeller_starts_softly_and_stops_at_once() -> None:
    """Half power after 0.4 s, full after 0.8; the sheet says so from stopped to full, though the
    line counts by 100 %."""
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    model = model.changed(
        {"leads": tuple(x.changed({"port": i + 1}) for i, x in enumerate(model.leads))}
    )
    steps = [
        (1.0, {}),
        (1.0, {"motor_switch": 1.0}),
        (1.2, {"throttle_stick": 100.0}),
        (0.1, {"throttle_stick": -100.0}),
    ]
    us = play(model, *steps).outputs["motor"].us
    full = 100 + 40 - 1  # the first step is taken in the frame of the change
    assert (
        us[99] == 1000
        and us[100 + 19] == pytest.approx(1500)
        and us[full - 1] < 2000
        and us[full] == pytest.approx(2000)
    )
    assert us[160] == 1000
    said = sheet_text(model)
    assert "| Motor | Thrust 100, from its low end, slow 0.4 / 0 s<br>Fixed −100<br>" in said
