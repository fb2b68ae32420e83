# SPDX-License-Identifier: GPL-3.0-or-later
"""Every job as a set-up through the core alone; its figures are written down in
tests/data/jobs.json, from the semantics."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from hypsos.core.checking.checks import problems
from hypsos.core.checking.reader import from_json
from hypsos.core.conditions import Combine, Compare
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.program import Setting
from hypsos.core.edits.behaviours import added, offers
from hypsos.core.edits.detach import detached_all
from hypsos.core.edits.flight_modes import with_modes
from hypsos.core.edits.ready_announcements import with_ready_set
from hypsos.core.edits.transmitters import shipped, taken
from hypsos.core.engine import GuardState, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.apply_fix import repaired
from hypsos.core.fitting.direction_finder import WiringRepair
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import (
    Canards,
    CoordinatedTurn,
    Crow,
    Flaperons,
    KnifeEdge,
    SnapFlap,
    StickFlaps,
    ThrustLine,
)
from hypsos.core.recipes.camber import CamberPresets, ModeCamber
from hypsos.core.recipes.corrections import TurnShare
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.recipes.recipe_base import Amount
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import blank, with_motors, with_tail, with_wing
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.shape.templates.common import usual

CASES = json.loads((Path(__file__).parent / "data" / "jobs.json").read_text())
FLAPS, AILERONS = ("left_flap", "right_flap"), ("left_aileron", "right_aileron")
FLAPERONS = ("left_flaperon", "right_flaperon")


def switch(name: Any, *positions: Any) -> Any:
    return Control(
        name=name,
        label=name.replace("_", " ").capitalize(),
        kind="switch",
        hand="left",
        positions=positions,
    )


def slide(name: Any, kind: Any = "slider") -> Any:
    return Control(name=name, label=name.replace("_", " ").capitalize(), kind=kind, hand="left")


def begun(template: Any, *controls: Any, **program: Any) -> Any:
    """A template with plain sticks, every lead plugged in, these controls besides, and these parts
    of its program."""
    model = TEMPLATES[template].make("Job") if isinstance(template, str) else template
    axes = tuple(a.changed({"settings": (Setting(),), "switch": None}) for a in model.program.axes)
    tx = model.transmitter.changed({"controls": (*model.transmitter.controls, *controls)})
    leads = tuple(x.changed({"port": i + 1}) for i, x in enumerate(model.leads))
    receiver = model.receiver.changed({"ports": max(model.receiver.ports, len(leads))})
    fields = {"axes": axes} | program
    return model.changed(
        {
            "transmitter": tx,
            "leads": leads,
            "receiver": receiver,
            "program": model.program.changed(fields),
        }
    )


def but(model: Model, *kinds: Any) -> Any:
    """Its behaviours without those of these kinds."""
    return tuple(r for r in model.program.recipes if r.kind not in kinds)


def rated(model: Model, name: Any, *settings: Any) -> Any:
    axes = tuple(
        a.changed({"switch": name, "settings": settings}) if a.command != "thrust" else a
        for a in model.program.axes
    )
    return model.changed({"program": model.program.changed({"axes": axes})})


def guarded(model: Model, **fields: Any) -> Any:
    return model.changed(
        {"program": model.program.changed({"guard": model.program.guard.changed(fields)})}
    )


def j01() -> Any:
    four = (*AILERONS, "left_lower_aileron", "right_lower_aileron")
    crow = Crow(
        control="throttle_stick",
        closed=-10,
        opened=-80,
        master="brake_switch@1",
        amounts=(Amount(parts=four, travel=-42),),
    )
    model = added(begun("biplane", switch("brake_switch", "in", "out")), crow)
    ailerons = next(i for i, r in enumerate(model.program.recipes) if r.kind == "ailerons")
    recipes = tuple(
        r.changed({"differential": 0}) if i == ailerons else r
        for i, r in enumerate(model.program.recipes)
    )
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def j02() -> Any:
    turn = CoordinatedTurn(
        control="rates_switch",
        helps=tuple(TurnShare(left=x, right=x) for x in (0, 12, 18)),
        rudders=("rudder",),
    )
    return added(
        added(begun("trainer"), turn), ThrustLine(elevators=("elevator",), pivot=0, share=6)
    )


def j03() -> Any:
    return with_ready_set(guarded(begun("trainer"), level=3), "motor")


def j04() -> Any:
    body = with_motors(with_tail(with_wing(blank(1500, pod=True), "flaperons"), "conventional"), 1)
    model = begun(
        usual("Job", body), slide("motor_slider"), switch("spoiler_switch", "flaps", "spoilers")
    )
    axes = tuple(
        a.changed({"control": "motor_slider"}) if a.command == "thrust" else a
        for a in model.program.axes
    )
    stick = StickFlaps(
        control="throttle_stick",
        rest=-60,
        flaps=40,
        spoilers=35,
        chosen="spoiler_switch@1",
        surfaces=FLAPERONS,
        elevators=("elevator",),
        flap_elevator=4,
        spoiler_elevator=-3,
    )
    recipes = (*but(model, "flaperons"), stick)
    return model.changed({"program": model.program.changed({"axes": axes, "recipes": recipes})})


def j05() -> Any:
    half = Setting(rate_neg=50, rate_pos=50)
    soft = Setting(expo=25)
    return rated(begun("trainer"), "rates_switch", half, soft)


def elevon_wing() -> Any:
    """Half and half."""
    model = begun("elevon_wing")
    recipes = tuple(
        r.changed({"roll_share": 50, "pitch_share": 50, "reflex": 0}) if r.kind == "elevons" else r
        for r in model.program.recipes
    )
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def j06() -> Any:
    return elevon_wing()


def j07() -> Any:
    modes = (
        FlightMode(name="landing", when="task_switch@2"),
        FlightMode(name="launch", when="task_switch@1"),
        FlightMode(name="thermal", when="flight_switch@1"),
        FlightMode(name="speed", when="flight_switch@2"),
        FlightMode(name="cruise"),
    )
    three = [switch(n, "a", "b", "c") for n in ("task_switch", "flight_switch")]
    model = with_modes(begun("v_tail_sailplane", *three), modes)
    figures = {"launch": (16, 12), "thermal": (8, 7), "speed": (-5, -4), "landing": (4, 4)}
    table = {n: ModeCamber(flap=f, aileron=a) for n, (f, a) in figures.items()}
    crow = Crow(
        control="throttle_stick",
        closed=-10,
        opened=-80,
        master="mode:landing",
        amounts=(Amount(parts=FLAPS, travel=86), Amount(parts=AILERONS, travel=-42)),
    )
    model = model.changed({"program": model.program.changed({"recipes": but(model, "flaps")})})
    for recipe in (
        CamberPresets(flaps=FLAPS, ailerons=AILERONS, by_mode=table),
        crow,
        SnapFlap(flaps=FLAPS, share=20, dead=10),
    ):
        model = added(model, recipe)
    return guarded(model, holds=("mode:landing",))


def j08() -> Any:
    body = with_motors(
        with_tail(with_wing(TEMPLATES["bare"].make("Job").airframe, "four"), "conventional"), 1
    )
    model = begun(adapted(TEMPLATES["bare"].make("Job"), body).model)
    steps = (FlapPosition(), FlapPosition(flap=35, elevator=3), FlapPosition(flap=85, elevator=7))
    recipes = tuple(
        r.changed({"positions": steps}) if r.kind == "flaps" else r for r in model.program.recipes
    )
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def j09() -> Any:
    body = with_wing(TEMPLATES["trainer"].make("Job").airframe, "flaperons")
    model = begun(adapted(TEMPLATES["trainer"].make("Job"), body).model)
    steps = (FlapPosition(), FlapPosition(flap=35, elevator=3), FlapPosition(flap=90, elevator=7))
    recipes = tuple(
        r.changed({"positions": steps}) if isinstance(r, Flaperons) else r
        for r in model.program.recipes
    )
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def j10() -> Any:
    twin = TEMPLATES["twin"].make("Job")
    model = begun(adapted(twin, with_motors(twin.airframe, 4)).model)
    made = next(o.made for o in offers(model) if o.kind.__name__ == "DifferentialThrust")
    return added(
        model.changed(
            {"program": model.program.changed({"recipes": but(model, "differential_thrust")})}
        ),
        made,
    )


def j11() -> Any:
    edge = KnifeEdge(
        elevators=("left_elevator", "right_elevator"),
        left=("left_aileron", "left_lower_aileron"),
        right=("right_aileron", "right_lower_aileron"),
        pitch_lever="edge_knob",
        reach=10,
    )
    return added(begun("biplane", slide("edge_knob", "knob")), edge)


def j12() -> Any:
    low = Compare(
        name="low", label="Throttle low", kind="below", a="throttle_stick", x=-90, hysteresis=4
    )
    up = (Amount(parts=AILERONS, travel=-40),)
    brakes = Crow(
        control="flap_switch", closed=0, opened=100, gate="low", amounts=up, in_s=1, out_s=1
    )
    model = begun("v_tail_sailplane", logic=(low,))
    steps = tuple(FlapPosition(flap=x) for x in (0, 35, 85))
    recipes = tuple(
        r.changed({"positions": steps}) if r.kind == "flaps" else r for r in model.program.recipes
    )
    return added(model.changed({"program": model.program.changed({"recipes": recipes})}), brakes)


def j13() -> Any:
    return guarded(begun("trainer"), level=3, rest_s=1.0, wakes_when_low=True)


def j14() -> Any:
    model = begun("twin")
    three = switch("motor_switch", "cut", "normal", "differential")
    controls = tuple(three if c.name == "motor_switch" else c for c in model.transmitter.controls)
    model = model.changed({"transmitter": model.transmitter.changed({"controls": controls})})
    recipes = tuple(
        r.changed({"when": "motor_switch@2"}) if r.kind == "differential_thrust" else r
        for r in model.program.recipes
    )
    return model.changed({"program": model.program.changed({"recipes": recipes})})


def j15() -> Any:
    model = begun("canard_delta", switch("canard_switch", "pitch", "both", "roll"))
    ends = {"left": "left_canard", "right": "right_canard"}
    canards = (
        Canards(label="Pitch", **ends, pitch_share=70, roll_share=0, when="!canard_switch@2"),
        Canards(label="Roll", **ends, pitch_share=0, roll_share=40, when="!canard_switch@0"),
    )
    return model.changed(
        {"program": model.program.changed({"recipes": (*but(model, "canards"), *canards)})}
    )


def j16() -> Any:
    model = begun("v_tail_sailplane")
    recipes = tuple(
        r.changed({"differential": 45}) if r.kind == "ailerons" else r
        for r in model.program.recipes
    )
    return taken(
        model.changed({"program": model.program.changed({"recipes": recipes})}), shipped()[-1]
    ).model


def j17() -> Any:
    """Swapped plugs and a servo that sits the other way: what the check found is mended."""
    model = elevon_wing()
    swapped = {"left_elevon": "right_elevon", "right_elevon": "left_elevon"}
    return repaired(
        model, WiringRepair(on=swapped, reverse=frozenset({"right_elevon"}), signs=frozenset())
    )


def j18() -> Any:
    return repaired(
        elevon_wing(), WiringRepair(on={}, reverse=frozenset({"right_elevon"}), signs=frozenset())
    )


def j19() -> Any:
    return guarded(begun("trainer"), level=4, relock_s=0.5)


def j20() -> Any:
    two = [switch(n, "off", "on") for n in ("bold_switch", "live_switch")]
    model = begun("trainer", switch("mode_switch", "a", "b", "c"), *two, slide("rate_slider"))
    race = Combine(
        name="race_wanted", label="Race wanted", kind="all", of=("mode_switch@2", "bold_switch@1")
    )
    modes = (
        FlightMode(name="one", when="mode_switch@0"),
        FlightMode(name="two", when="mode_switch@1"),
        FlightMode(name="three", when="race_wanted"),
        FlightMode(name="base"),
    )
    rate = Tunable(
        name="rate",
        label="Rate",
        low=25,
        high=100,
        value=50,
        by_mode={"one": 35, "two": 85, "three": 100},
        adjuster=Adjuster(control="rate_slider", when="live_switch@1"),
    )
    bend = Tunable(
        name="bend",
        label="Expo",
        low=0,
        high=60,
        value=10,
        by_mode={"one": 15, "two": 35, "three": 60},
    )
    model = with_modes(model, modes)
    feel = Setting(rate_from="rate", expo_from="bend")
    axes = tuple(
        a.changed({"settings": (feel,)}) if a.command != "thrust" else a for a in model.program.axes
    )
    return model.changed(
        {
            "program": model.program.changed(
                {"axes": axes, "logic": (race,), "tunables": (rate, bend)}
            )
        }
    )


def j21() -> Any:
    rates = [Setting(rate_neg=x, rate_pos=x, expo=20) for x in (50, 75, 100)]
    return with_ready_set(rated(begun("trainer"), "rates_switch", *rates), "motor")


JOBS = {
    name.upper(): made
    for name, made in list(globals().items())
    if name.startswith("j") and name[1:].isdigit()
}


@cache
def model_of(job: Any) -> Any:
    model = JOBS[job]()
    assert list(problems(model)) == [] and from_json(to_json(model)) == model
    return model


def check(model: Model, case: Any) -> None:
    if "moves" in case:
        result = compile_plan(model).run(read_moves(case["moves"].replace("|", "\n") + "\n", model))
        states = {
            t: GuardState(int(result.guard[round(float(t) / 0.02)])).name.lower()
            for t in case["at"]
        }
        assert states == case["at"]
        for t, us in case.get("us", {}).items():
            assert float(result.outputs["motor"].us[round(float(t) / 0.02)]) == us
        assert "said" not in case or [s.caption for s in result.said] == case["said"]
        return
    result = settled(compile_plan(model), case["hands"])
    for table, found in (("sums", result.sums), ("commands", result.commands)):
        for name, value in case.get(table, {}).items():
            assert float(np.ravel(found[name])[-1]) == pytest.approx(value, abs=1e-6), (
                table,
                name,
                case["hands"],
            )
    for name, value in case.get("us", {}).items():
        assert float(np.ravel(result.outputs[name].us)[-1]) == pytest.approx(value, abs=0.01), (
            name,
            case["hands"],
        )


def test_every_job_is_there() -> None:
    assert sorted(JOBS) == sorted({c["job"] for c in CASES}) == [f"J{i:02}" for i in range(1, 22)]


@pytest.mark.parametrize("case", CASES, ids=[f"{c['job']}-{i}" for i, c in enumerate(CASES)])
def test_a_job_does_what_is_written_down(case: Any) -> None:
    check(model_of(case["job"]), case)


@pytest.mark.parametrize("job", sorted(JOBS))
def test_a_job_does_the_same_detached(job: Any) -> None:
    """All of its behaviours turned into plain mixes: the same figures."""
    model = model_of(job)
    apart = detached_all(model, range(len(model.program.recipes)))
    assert list(problems(apart)) == [] and not apart.program.recipes
    for case in (c for c in CASES if c["job"] == job):
        check(apart, case)
