# SPDX-License-Identifier: GPL-3.0-or-later
"""Every behaviour: the worked cases, and what must hold of each whatever its figures are."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from parts import from_parts

from hypsos.core.checking.checks import problems
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Trim
from hypsos.core.edits.behaviours import added, copied, offers, without
from hypsos.core.edits.detach import attached, changed_since, detached
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.behaviour_preview import shown, trailing_edges
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import RECIPES
from hypsos.core.recipes.camber import CamberFollow, CamberPresets, ModeCamber
from hypsos.core.recipes.corrections import CoordinatedTurn, KnifeEdge, ThrustLine, TurnShare
from hypsos.core.recipes.crow import Crow
from hypsos.core.recipes.differential_thrust import DifferentialThrust
from hypsos.core.recipes.elevons import Elevons
from hypsos.core.recipes.recipe_base import Amount
from hypsos.core.recipes.snap_flap import SnapFlap
from hypsos.core.recipes.stick_flaps import StickFlaps
from hypsos.core.recipes.stick_scaling import ModeFeel, StickScaling
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import with_device, with_drag_rudders
from hypsos.core.shape.templates import TEMPLATES

STICKS = ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick")
MODES = (
    FlightMode(name="one", when="switch_c@0", fade_s=0.2),
    FlightMode(name="two", when="switch_c@1"),
    FlightMode(name="base"),
)
FLAPS, AILERONS = ("left_flap", "right_flap"), ("left_aileron", "right_aileron")


def with_recipes(*recipes: Any, **fields: Any) -> Any:
    """The aeroplane put together by hand with these behaviours; its own mixes go on."""
    base = from_parts(trims={c: Trim() for c in ("roll", "pitch", "yaw")}, **fields)
    made = base.changed({"program": base.program.changed({"recipes": recipes})})
    assert list(problems(made)) == []
    return made


def sums(model: Model, **hands: Any) -> Any:
    found = settled(compile_plan(model), hands).sums
    return {p.name: 0.0 for p in model.airframe.moved()} | {
        n: float(np.ravel(x)[-1]) for n, x in found.items()
    }


def crow(**fields: Any) -> Any:
    amounts = (Amount(parts=AILERONS, travel=-42), Amount(parts=FLAPS, travel=86))
    return Crow(
        control="throttle_stick", closed=-10, opened=-80, amounts=amounts, in_s=0, out_s=0, **fields
    )


def test_crow_opens_between_its_points_and_is_shut_whenever_a_rule_fails() -> None:
    """Worked case 1, with one rule, with two, and with a slow behind them."""
    for rules in (
        {"master": "switch_b@1"},
        {"master": "switch_b@1", "gate": "!switch_c@2"},
        {"when": "switch_b@1", "gate": "switch_c@0"},
    ):
        model = with_recipes(crow(**rules))
        for stick, b in ((-100, 100), (-80, 100), (-45, 50), (-10, 0), (100, 0)):
            out = sums(model, throttle_stick=stick, switch_b=1)
            assert (out["left_aileron"], out["left_flap"]) == pytest.approx((-0.42 * b, 0.86 * b))
            assert sums(model, throttle_stick=stick, switch_b=0)["left_flap"] == 0
            if "gate" in rules:
                assert sums(model, throttle_stick=stick, switch_b=1, switch_c=2)["left_flap"] == 0
        rolled = sums(model, throttle_stick=-100, switch_b=1, aileron_stick=100)
        assert (rolled["left_aileron"], rolled["right_aileron"]) == pytest.approx((58, -142))
    slow = with_recipes(
        crow(master="switch_b@1", gate="switch_c@0").changed({"in_s": 1.0, "out_s": 1.0})
    )
    t = 0.02 * np.arange(40)
    hands = {
        "throttle_stick": np.full(40, -100.0),
        "switch_b": np.ones(40),
        "switch_c": np.where(t < 0.4, 0.0, 1.0),
    }
    track = compile_plan(slow).run(Situation(t, hands)).sums["left_flap"]
    assert (
        np.abs(np.diff(track)).max() <= 86 * 0.02 + 1e-9 and track[19] > 10
    )  # shut slowly too, not at once


def test_the_other_worked_cases() -> None:
    turn = CoordinatedTurn(
        control="switch_c",
        helps=(TurnShare(), TurnShare(left=12, right=12), TurnShare(left=18, right=18)),
        rudders=("rudder",),
    )
    model = with_recipes(turn)
    assert [
        sums(model, aileron_stick=-50, switch_c=c)["rudder"] for c in (0, 1, 2)
    ] == pytest.approx([0, -6, -9])
    uneven = with_recipes(turn.changed({"control": None, "helps": (TurnShare(left=10, right=20),)}))
    assert [sums(uneven, aileron_stick=x)["rudder"] for x in (-100, 100)] == pytest.approx(
        [-10, 20]
    )
    model = with_recipes(ThrustLine(elevators=("elevator",), pivot=0, share=6), motors=True)
    assert [sums(model, throttle_stick=x)["elevator"] for x in (-100, 0, 50, 100)] == pytest.approx(
        [0, 0, 3, 6]
    )
    stick = StickFlaps(
        control="throttle_stick",
        rest=-60,
        flaps=80,
        spoilers=50,
        chosen="switch_b@1",
        surfaces=FLAPS,
        elevators=("elevator",),
        flap_elevator=4,
        spoiler_elevator=-3,
    )
    model = with_recipes(stick)
    assert [
        sums(model, throttle_stick=x)["left_flap"] for x in (-100, -60, 20, 100)
    ] == pytest.approx([0, 0, 40, 80])
    up = [sums(model, throttle_stick=x, switch_b=1) for x in (-60, 20, 100)]
    assert [x["left_flap"] for x in up] == pytest.approx([0, -25, -50]) and up[2][
        "elevator"
    ] == pytest.approx(-3)
    snap = with_recipes(
        SnapFlap(share=20, dead=10, flaps=FLAPS, ailerons=AILERONS, aileron_share=10)
    )
    pulled, pushed = sums(snap, elevator_stick=-55), sums(snap, elevator_stick=100)
    assert (pulled["left_flap"], pulled["left_aileron"], pushed["left_flap"]) == pytest.approx(
        (10, 5, 0)
    )
    both = with_recipes(SnapFlap(share=20, dead=0, pull_only=False, flaps=FLAPS))
    assert sums(both, elevator_stick=50)["left_flap"] == pytest.approx(-10)
    camber = CamberFollow(
        control="slider",
        amount=20,
        to_ailerons=80,
        to_flaps=40,
        differential=0,
        elevator=-6,
        left_flaps=FLAPS[:1],
        right_flaps=FLAPS[1:],
        ailerons=AILERONS,
        elevators=("elevator",),
    )
    out = sums(with_recipes(camber), slider=50, aileron_stick=50)
    assert (
        out["left_flap"],
        out["right_flap"],
        out["left_aileron"],
        out["right_aileron"],
        out["elevator"],
    ) == (pytest.approx((30, -10, 58, -42, -0.6)))


def test_rates_by_mode_and_camber_by_mode() -> None:
    """Worked case 9 as a behaviour; what a mode has none of is the base figure, and a fade goes
    from one to the other."""
    feel = StickScaling(
        axes=("roll",),
        base=ModeFeel(rate=50, expo=10),
        least=25,
        most=100,
        slider="slider",
        by_mode={"one": ModeFeel(rate=35, expo=15), "two": ModeFeel(rate=85, expo=35)},
    )
    still = with_recipes(feel.changed({"slider": None}), modes=MODES)
    plan = compile_plan(still)
    got = [settled(plan, {"aileron_stick": 80, "switch_c": c}).commands["roll"][-1] for c in (1, 2)]
    assert got == pytest.approx([59.432, 50 * (0.9 * 0.8 + 0.1 * 0.512)])
    live = compile_plan(with_recipes(feel, modes=MODES))
    low = settled(live, {"aileron_stick": 100, "switch_c": 1, "slider": -100}).commands["roll"][-1]
    assert low == pytest.approx(25)
    gated = compile_plan(with_recipes(feel.changed({"when": "switch_b@1"}), modes=MODES))
    assert settled(gated, {"aileron_stick": 100, "switch_c": 1}).commands["roll"][
        -1
    ] == pytest.approx(100)
    presets = CamberPresets(
        flaps=FLAPS,
        ailerons=AILERONS,
        elevators=("elevator",),
        by_mode={"one": ModeCamber(flap=8, aileron=6, elevator=-1), "two": ModeCamber(flap=-5)},
    )
    model = with_recipes(presets, modes=MODES)
    out = [sums(model, switch_c=c) for c in (0, 1, 2)]
    assert [(x["left_flap"], x["right_aileron"], x["elevator"]) for x in out] == [
        (8, 6, -1),
        (-5, 0, 0),
        (0, 0, 0),
    ]
    t = 0.02 * np.arange(30)
    track = (
        compile_plan(model)
        .run(Situation(t, {"switch_c": np.where(t < 0.1, 1.0, 0.0)}))
        .sums["left_flap"]
    )
    assert (
        track[0] == -5
        and track[-1] == pytest.approx(8)
        and np.all(np.diff(track) >= -1e-9)
        and np.any((track > 0) & (track < 7))
    )


def test_corners_of_elevons_give_way_as_asked() -> None:
    wing = TEMPLATES["elevon_wing"].make("Trial")
    wing = with_at(
        wing,
        "program.axes",
        tuple(
            a.changed({"switch": None, "settings": (a.settings[-1].changed({"expo": 0}),)})
            for a in wing.program.axes
        ),
    )

    def right(sharing: Any, r: Any = 60.0, p: Any = 60.0, **hands: Any) -> Any:
        made = Elevons(
            left="left_elevon", right="right_elevon", roll_share=r, pitch_share=p, sharing=sharing
        )
        return sums(with_at(wing, "program.recipes[0]", made), **hands)

    corner = {"aileron_stick": 100, "elevator_stick": -100}
    assert right("none", **corner)["right_elevon"] == pytest.approx(-120)
    for sharing, first in (("pitch first", (0, -60)), ("roll first", (60, 0))):
        for r, p in ((60, 60), (100, 100), (140, 30), (30, 140), (50, 50), (100, 20)):
            for x in (-100, -35, 0, 60, 100):
                for y in (-100, -20, 0, 75, 100):
                    out = right(sharing, r, p, aileron_stick=x, elevator_stick=y)
                    most = max(100, r, p)
                    assert (
                        abs(out["left_elevon"]) <= most + 1e-9
                        and abs(out["right_elevon"]) <= most + 1e-9
                    )
        half = right(sharing, **corner)
        whole = (
            (half["left_elevon"] - half["right_elevon"]) / 2,
            (half["left_elevon"] + half["right_elevon"]) / 2,
        )
        assert min(abs(whole[0]), abs(whole[1])) == pytest.approx(40) and max(
            map(abs, first)
        ) == pytest.approx(60)


def test_a_knife_edge_is_trimmed_in_flight() -> None:
    edge = KnifeEdge(
        elevators=("elevator",),
        left=AILERONS[:1],
        right=AILERONS[1:],
        pitch_lever="slider",
        reach=10,
    )
    model = with_recipes(edge)
    plain = sums(model, rudder_stick=100)
    assert (plain["elevator"], plain["left_aileron"], plain["right_aileron"]) == pytest.approx(
        (6, 4, -4)
    )
    more = [sums(model, rudder_stick=x, slider=50)["elevator"] for x in (-100, -50, 0, 75, 100)]
    assert more == pytest.approx([11, 7, 0, 9, 11])
    odd = with_recipes(edge.changed({"pitch_lever": None, "roll_lever": "slider"}))
    assert [
        sums(odd, rudder_stick=x, slider=100)["left_aileron"] for x in (-100, 100)
    ] == pytest.approx([-14, 14])


def test_typed_levers_of_motors() -> None:
    four = ("l1", "l2")
    recipe = DifferentialThrust(
        left=four, right=("r1", "r2"), share=20, inner=50, levers={"l2": 80.0}
    )
    gains = {
        x.line.target: x.line.gain
        for x in recipe.expand(lambda n: None)
        if x.line.target in (*four, "r1", "r2")
    }
    assert gains == {"l1": 20, "l2": 16, "r1": -20, "r2": -10}


# -- what holds of every behaviour --------------------------------------------------------------


def ground() -> Any:
    """An aeroplane that can have nearly every behaviour: a V-tail sailplane with modes, sliders,
    switches that do nothing."""
    made = TEMPLATES["v_tail_sailplane"].make("Trial")
    more = (
        Control(name="task", label="Task", kind="switch", hand="right", positions=("a", "b", "c")),
        Control(
            name="spare", label="Spare", kind="switch", hand="right", positions=("a", "b", "c")
        ),
        Control(name="on", label="On", kind="switch", hand="right", positions=("off", "on")),
        *(
            Control(name=f"slide_{i}", label=f"Slide {i}", kind="slider", hand="left")
            for i in range(3)
        ),
    )
    tx = made.transmitter.changed({"controls": (*made.transmitter.controls, *more)})
    modes = (
        FlightMode(name="thermal", when="task@1"),
        FlightMode(name="speed", when="task@2"),
        FlightMode(name="cruise"),
    )
    bare = made.program.changed({"recipes": (), "modes": modes})
    return made.changed({"transmitter": tx, "program": bare})


GROUND = ground()
BIPLANE = TEMPLATES["biplane"].make("Biplane")
TWIN = TEMPLATES["twin"].make("Twin")
PLATED = with_at(TEMPLATES["t_tail_sailplane"].make("Plated"), "program.recipes", ())
WING = TEMPLATES["elevon_wing"].make("Wing")
SPLIT = adapted(WING, with_drag_rudders(WING.airframe, True)).model
GEARED = adapted(
    TWIN, with_device(with_device(TWIN.airframe, "retracts", True), "gear doors", True)
).model
BODIES = (
    WING, TEMPLATES["canard_delta"].make("Delta"), SPLIT, GEARED, TWIN, PLATED, BIPLANE, GROUND
)  # fmt: skip
OFFERED = {o.kind.__name__: (m, o.made) for m in BODIES for o in offers(m) if o.made is not None}
AT_NOTHING = ("KnifeEdge", "ThrottleRudder", "ThrustLine")
"""Those whose sign nobody knows beforehand: they begin with nothing."""
HANDS = st.fixed_dictionaries({n: st.integers(-10, 10).map(lambda x: 10.0 * x) for n in STICKS})
EXTRA = st.fixed_dictionaries(
    {
        "task": st.integers(0, 2),
        "spare": st.integers(0, 2),
        "on": st.integers(0, 1),
        "slide_0": st.integers(-100, 100),
    }
)


def test_every_behaviour_can_be_had_by_some_aeroplane() -> None:
    assert set(OFFERED) == {k.__name__ for k in RECIPES}


def bare_of(model: Model, *recipes: Any) -> Any:
    """The model with these behaviours and no others, without plain mixes but a motor's own."""
    motors = {m.name for m in model.airframe.motors}
    mixes = tuple(m for m in model.program.mixes if m.target in motors)
    return model.changed(
        {"program": model.program.changed({"recipes": recipes, "mixes": mixes, "detached": ()})}
    )


def known(model: Model, hands: Any) -> Any:
    names = {c.name for c in model.transmitter.controls} | set(STICKS)
    return {n: x for n, x in hands.items() if n in names}


@pytest.mark.parametrize("name", sorted(OFFERED))
@settings(max_examples=8, deadline=None)
@given(hands=HANDS, extra=EXTRA)
def test_what_holds_of_every_behaviour(name: Any, hands: Any, extra: Any) -> None:
    model, recipe = OFFERED[name]
    here = known(model, hands | extra)
    alone, nothing = bare_of(model, recipe), bare_of(model)
    out, base = sums(alone, **here), sums(nothing, **here)
    # off is nothing anywhere, whether it is switched off or its condition fails
    offs = (recipe.changed({"on": False}), recipe.changed({"when": "!link"}))
    for off in (
        offs[:1] if name == "GearWithDoors" else offs
    ):  # a gear without its condition stays down, not half way
        quiet = sums(bare_of(model, off), **here)
        assert {n: quiet[n] for n in base} == pytest.approx(base, abs=1e-9)
    # detaching keeps every figure, and attaching brings the behaviour back
    apart = detached(alone, 0)
    assert (
        list(problems(apart)) == []
        and not apart.program.recipes
        and changed_since(apart, recipe.kind) == 0
    )
    assert sums(apart, **here) == pytest.approx(out, abs=1e-9)
    assert attached(apart, recipe.kind) == alone and from_json(to_json(apart)) == apart
    # two of them add, and neither changes what the other gives
    if name not in ("StickScaling",):
        twice = copied(alone, 0)
        both = with_at(twice, "program.recipes[1].on", True)
        doubled = sums(both, **here)
        for n in (p.name for p in model.airframe.moved()):
            assert doubled[n] - base.get(n, 0.0) == pytest.approx(
                2 * (out[n] - base.get(n, 0.0)), abs=1e-6
            ), n
    # no motor but by what is there to drive one
    motors = [m.name for m in model.airframe.motors]
    if name not in ("DifferentialThrust", "MotorSwitch"):
        assert all(out[m] == pytest.approx(base[m], abs=1e-9) for m in motors)
    # left and right are each other's mirror under mirrored hands; what turns is turned
    mirrored = here | {
        "aileron_stick": -here["aileron_stick"],
        "rudder_stick": -here["rudder_stick"],
    }
    there, calm = sums(alone, **mirrored), sums(nothing, **mirrored)
    for part in model.airframe.surfaces:
        other = model.airframe.other_side(part.name)
        if part.follows is not None or part.name not in out:
            continue
        mine = out[part.name] - base.get(part.name, 0.0)
        if other is not None and part.side in ("left", "right"):
            want = there[other] - calm.get(other, 0.0)
            assert mine == pytest.approx(want if not part.vertical else -want, abs=1e-9), part.name
        elif part.vertical:
            assert mine == pytest.approx(-(there[part.name] - calm.get(part.name, 0.0)), abs=1e-9)


@pytest.mark.parametrize("name", sorted(OFFERED))
def test_first_values_are_seen_at_once_and_shown(name: Any) -> None:
    model, recipe = OFFERED[name]
    made = added(bare_of(model), recipe)
    assert list(problems(made)) == [] and from_json(to_json(made)) == made
    moves = any(x.moves for x in shown(model, recipe))
    assert moves or name in ("StickScaling", *AT_NOTHING), "its picture shows nothing"
    whole = (
        added(model, recipe) if recipe.kind not in {r.kind for r in model.program.recipes} else made
    )
    leads = tuple(x.changed({"port": i + 1}) for i, x in enumerate(whole.leads))
    plugged = whole.changed(
        {"leads": leads, "receiver": whole.receiver.changed({"ports": max(8, len(leads))})}
    )
    edges = trailing_edges(plugged, len(plugged.program.recipes) - 1)
    assert edges and all(set(e.left) == set(e.middle) for e in edges)
    gone = without(made, len(made.program.recipes) - 1)
    assert list(problems(gone)) == []


def test_what_an_aeroplane_lacks_is_said_with_the_step_that_helps() -> None:
    said = {
        o.kind.__name__: (o.why, o.step)
        for o in offers(TEMPLATES["elevon_wing"].make("Wing"))
        if o.made is None
    }
    assert said["SnapFlap"] == (
        "there are no flaps and no ailerons with servos of their own",
        "airframe",
    )
    bare = TEMPLATES["v_tail_sailplane"].make("Trial")
    said = {o.kind.__name__: (o.why, o.step) for o in offers(bare) if o.made is None}
    assert said["CamberPresets"][1] == said["StickScaling"][1] == "modes"
    few = tuple(c for c in GROUND.transmitter.controls if c.name in ("motor_switch", "task"))
    sliderless = GROUND.changed({"transmitter": GROUND.transmitter.changed({"controls": few})})
    said = {o.kind.__name__: (o.why, o.step) for o in offers(sliderless) if o.made is None}
    assert said["Crow"] == ("it takes a slider, a knob or a switch that does nothing yet", "hands")


def test_brakes_give_ailerons_back_what_differential_takes() -> None:
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    made = added(
        model, crow(signal="brake").changed({"amounts": (Amount(parts=AILERONS, travel=-40),)})
    )
    assert next(r for r in made.program.recipes if r.kind == "ailerons").differential_off == "brake"  # type: ignore[attr-defined]
    alone = without(made, len(made.program.recipes) - 1)
    assert list(problems(alone)) == []
