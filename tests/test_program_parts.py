# SPDX-License-Identifier: GPL-3.0-or-later
"""Mixes, shapes, trims, shared values, conditions, rooms and flight modes, one by one."""

from __future__ import annotations

from typing import Any

import pytest
from parts import from_parts
from test_behaviours import AILERONS, FLAPS, MODES, crow, sums, with_recipes

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.edits.behaviours import added, offers, without
from hypsos.core.edits.capacity import Need, needs, needs_words
from hypsos.core.edits.detach import attached, changed_since, detached
from hypsos.core.edits.flight_modes import at_place, with_mode, without_mode
from hypsos.core.edits.mode_grid import cell, truth
from hypsos.core.edits.named_shapes import SHAPES, named_shape, with_new_point
from hypsos.core.edits.plain_mixes import moved, order_matters, sources, with_mix
from hypsos.core.edits.shared_values import dead_axes, kept_now, tunable_users, with_tunable
from hypsos.core.edits.trim_sets import with_trim, with_trim_field
from hypsos.core.engine import compile_plan
from hypsos.core.explain.behaviour_preview import trailing_edges
from hypsos.core.explain.mix_streams import across
from hypsos.core.explain.mode_ways import taken_now, ways_to_modes
from hypsos.core.explain.response_sweeps import swept
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import YLead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import RECIPES
from hypsos.core.recipes.camber import CamberPresets
from hypsos.core.recipes.corrections import CoordinatedTurn
from hypsos.core.recipes.crow import Crow
from hypsos.core.recipes.snap_flap import SnapFlap
from hypsos.core.recipes.stick_scaling import ModeFeel
from hypsos.core.shape.templates import TEMPLATES


def test_signals_and_what_is_left_behind() -> None:
    model = with_recipes(SnapFlap(flaps=FLAPS), crow())
    reading = with_at(
        model,
        "program.mixes",
        (*model.program.mixes, MixLine(name="x", target="rudder", source="snap_flap")),
    )
    left = without(reading, 0)
    assert [s.name for s in left.program.signals] == ["snap_flap"] and list(problems(left)) == []
    assert without(model, 0).program.signals == ()
    apart = detached(model, 1)
    assert changed_since(apart, "crow") == 0
    other = with_at(apart, "program.mixes[0].gain", 50.0)
    assert changed_since(other, "crow") == 1
    assert changed_since(with_at(apart, "program.mixes", apart.program.mixes[1:]), "crow") == 1
    with pytest.raises(HypsosError, match="no detached behaviour"):
        attached(apart, "nothing")
    taken = added(apart, crow())
    with pytest.raises(HypsosError, match="feeds the same signal"):
        attached(taken, "crow")


def test_shapes_by_their_points() -> None:
    wanted = {
        ("straight",): ((-100, -100), (100, 100)),
        ("upper",): ((-100, 0), (0, 0), (100, 100)),
        ("lower",): ((-100, -100), (0, 0), (100, 0)),
        ("dead band", 15): ((-100, -100), (-15, 0), (15, 0), (100, 100)),
        ("dead end", -60): ((-100, 0), (-60, 0), (100, 100)),
        ("v",): ((-100, 100), (0, 0), (100, 100)),
        ("offset", 20): ((-100, -80), (100, 120)),
        ("slope", 40, 30): ((-100, -10), (100, 70)),
    }
    for (name, *figures), points in wanted.items():
        assert SHAPES[name].make(*figures).points == points
    assert (
        named_shape(None) == ("straight", ())
        and named_shape(Response(points=((-100, 0), (40, 3), (100, 0))))[0] == "points"
    )
    bent = Response(points=((-100, 0), (0, 0), (100, 100)), shape="smooth")
    assert named_shape(bent)[0] == "points" and named_shape(
        bent.changed({"shape": "straight"})
    ) == ("upper", ())
    assert named_shape(SHAPES["dead band"].make(95))[0] == "points"  # beyond what its figure may be


@pytest.mark.parametrize("x", [0.0, -1.0])
def test_the_points_of_a_response_lie_to_the_right_of_each_other(x: Any) -> None:
    with pytest.raises(
        ValueError, match=f"point 3 at x = {x:g} does not lie to the right of point 2 at x = 0"
    ):
        Response(points=((-100, 0), (0, 1), (x, 2), (100, 3)))


def test_trims_and_shared_values_one_by_one() -> None:
    model = from_parts(trims={"roll": Trim(clicks=4, by_mode={})})
    assert (
        with_trim(model, "yaw", True).program.axes[2].trim == Trim()
        and with_trim(model, "roll", False).program.axes[0].trim is None
    )
    assert with_trim(model, "yaw", True).program.axes[0] == model.program.axes[0]
    assert (
        with_trim_field(model, ("roll", "yaw"), "range", 4.0).program.axes[0].trim.range == 4
    )  # it stands just at its end
    zero = Tunable(name="rate", low=0, high=100, value=0, label="Rate")
    for shared, words in (
        (zero, "it is zero: no roll"), (zero.changed({"value": 50, "by_mode": {"one": 0}}), "in Flight mode it is zero: no roll"),
        (zero.changed({"value": 50, "adjuster": Adjuster(control="slider")}), "it may go down to zero in flight: no roll"),
    ):  # fmt: skip
        found = dead_axes(
            from_parts(
                modes=MODES, tunables=(shared,), settings={"roll": Setting(rate_from="rate")}
            )
        )
        assert found == [("rate", words)]
    calm = zero.changed({"value": 50})
    assert (
        dead_axes(from_parts(tunables=(calm,), settings={"roll": Setting(rate_from="rate")})) == []
    )
    held = from_parts(
        tunables=(calm,),
        settings={"roll": Setting(rate_from="rate"), "yaw": Setting(expo_from="rate")},
    )
    assert tunable_users(held, "rate") == ("rate of roll", "expo of yaw")
    curved = with_at(
        held,
        "program.axes[1].curve",
        Response(points=((-100, 0), (100, 9)), live=(1,), live_from="rate"),
    )
    assert "curve of pitch" in tunable_users(curved, "rate")
    assert with_tunable(model, "Lift").program.tunables[-1].name == "lift"


def test_conditions_by_switches_alone() -> None:
    logic = (
        Combine(name="no", kind="not", of=("switch_b@1",)),
        Combine(name="one", kind="one", of=("switch_b@1", "switch_c@1")),
        Combine(name="any", kind="any", of=("link", "switch_b@1")),
        Combine(name="all", kind="all", of=("link", "switch_b@1")),
    )
    model = from_parts(logic=logic)
    for text, places, found in (
        ("no", {"switch_b": 1}, False), ("!no", {"switch_b": 1}, True), ("one", {"switch_b": 1, "switch_c": 1}, False),
        ("one", {"switch_b": 1, "switch_c": 0}, True), ("one", {"switch_b": 1}, None), ("any", {"switch_b": 1}, True),
        ("any", {"switch_b": 0}, None), ("all", {"switch_b": 0}, False), ("all", {"switch_b": 1}, None), ("link", {}, None),
        ("switch_c@2", {"switch_c": 2}, True), ("mode:x", {"switch_b": 1}, None),
    ):  # fmt: skip
        assert truth(model, text, places) is found, (text, places)
    assert cell(model, {"switch_b": 0}).mode == ""
    modes = (
        FlightMode(name="a", label="A", when="switch_b@1"),
        FlightMode(name="b", label="B", when="switch_c@1"),
        FlightMode(name="z", label="Z"),
    )
    flown = from_parts(modes=modes)
    assert [m.name for m in at_place(flown, "a", 9).program.modes] == [
        "b",
        "a",
        "z",
    ]  # the default mode stays the last
    alone = without_mode(without_mode(flown, "a"), "b")
    assert alone.program.modes == ()
    set_ = with_at(without_mode(flown, "a"), "program.modes[1].presets", {"left_flap": 3.0})
    assert [m.name for m in without_mode(set_, "b").program.modes] == [
        "z"
    ]  # it holds something still


def test_hands_that_give_each_mode_leave_the_motor_cut(marram: Model) -> None:
    ways = ways_to_modes(marram)
    assert (
        all(w["motor_switch"] == 0 for n, w in ways.items() if n != "climb")
        and ways["climb"]["motor_switch"] == 1
    )


def test_new_mixes_and_where_order_matters() -> None:
    model = from_parts(trims={"roll": Trim()})
    assert with_mix(model, "roll", "rudder").program.mixes[-1].with_trim is False
    assert with_mix(model, "slider", "rudder").program.mixes[-1].with_trim is True
    assert dict(sources(model))["roll"] == "roll command" and "left_flap" in dict(sources(model))
    one = from_parts(
        mixes=(MixLine(name="a", target="left_flap", source="full", combine="replace"),)
    )
    assert not order_matters(one, "left_flap")  # alone it comes before and behind nothing
    two = with_at(
        one,
        "program.mixes",
        (*one.program.mixes, MixLine(name="b", target="left_flap", source="full")),
    )
    at = len(two.program.mixes) - 1
    assert (
        order_matters(two, "left_flap")
        and moved(two, at, 1) == two
        and moved(two, at, -1).program.mixes[-1].name == "a"
    )


def test_needs_are_counted(marram: Model) -> None:
    found = {n.what: n.needed for n in needs(marram, None)}
    assert found == {"outputs": 10, "mixes": 47, "modes": 6, "points": 4, "logic": 28, "timers": 1}
    assert needs_words(needs(marram, None)).endswith("28 logical switches, 1 timer")


def test_what_comes_by_itself_and_where_modes_begin() -> None:
    assert {k.__name__ for k in RECIPES if k.comes} == {
        "Ailerons",
        "Flaperons",
        "Flaps",
        "VTail",
        "Elevons",
        "Canards",
        "Airbrakes",
        "DragRudders",
    }
    sailplane = from_parts(
        modes=tuple(FlightMode(name=n, label=n) for n in ("launch", "landing", "mine", "base"))
    )
    made = next(o.made for o in offers(sailplane) if o.kind is CamberPresets)
    assert {m: (x.flap, x.aileron, x.elevator) for m, x in made.by_mode.items()} == {
        "launch": (47, 47, 0),
        "landing": (13, 13, 0),  # of 30 degrees
    }
    assert (ModeFeel().rate, ModeFeel().expo, crow().on) == (100, 0, True)
    trainer = TEMPLATES["trainer"].make("T")
    slider = Control(name="slider", label="Slider", kind="slider", hand="left")
    hands = trainer.transmitter.changed({"controls": (*trainer.transmitter.controls, slider)})
    assert (
        next(o.made for o in offers(trainer) if o.kind is Crow) is None
    )  # its rates switch has its work
    brakes = next(
        o.made for o in offers(trainer.changed({"transmitter": hands})) if o.kind is Crow
    )  # there are no flaps
    assert brakes.elevator.points == ((0, 0), (50, 16), (100, 24))
    assert [(a.parts, a.travel) for a in brakes.amounts] == [(AILERONS, -90)]
    tail = {k.__name__: p.later for k in RECIPES for p in k.parameters if p.key == "elevators"}
    assert tail["ThrustLine"] and tail["KnifeEdge"] and tail["Crow"]
    empty = trainer.changed({"transmitter": trainer.transmitter.changed({"controls": ()})})
    found = {o.kind: (o.why, o.step) for o in offers(empty)}
    assert found[Crow] == ("it takes a slider, a knob or a switch that does nothing yet", "hands")
    assert found[CamberPresets] == ("there are no flight modes yet", "modes")


def test_only_what_sliders_say_is_taken() -> None:
    lines = (
        MixLine(name="c", target="left_flap", source="slider", gain=10),
        MixLine(name="m", target="motor", source="slider", gain=10),
        MixLine(name="k", target="right_flap", source="switch_c", gain=3),
    )
    model = from_parts(mixes=lines, modes=MODES)
    rest = compile_plan(model).rest
    mode = MODES[-1].name
    for at, flap in ((50.0, 5.0), (-40.0, -4.0), (0.06, 0.01), (0.04, None)):
        found = taken_now(
            model, {**rest, "aileron_stick": 80.0, "rudder_stick": -30.0, "slider": at}, None, mode
        )
        assert found.presets == ({} if flap is None else {"left_flap": flap})
        assert found.put_back == (("Slider",) if flap is not None else ())
    clean = model.changed({"program": model.program.changed({"mixes": lines[2:]})})
    assert taken_now(clean, {**rest, "slider": 50.0}, None, mode).put_back == ()


def test_words_places_and_ends() -> None:
    assert needs_words(
        [
            Need("a", "mix", "mixes", 12, 40),
            Need("b", "mix", "mixes", 1, None),
            Need("c", "flight mode", "flight modes", 1, 1),
        ]
    ) == ("12 of 40 mixes, 1 mix, 1 of 1 flight modes")
    body = from_parts()
    shared_lead = body.changed({"y_leads": (YLead(first="left_flap", second="right_flap"),)})
    assert [
        n.needed - m.needed
        for n, m in zip(needs(body, None), needs(shared_lead, None), strict=True)
    ][0:2] == [1, 0]
    assert [s.side for s in across(body)][:4] == ["left", "left", "right", "right"]
    line = swept(compile_plan(body), "rudder_stick", "rudder")[0]
    assert (line.x[0], line.x[-1]) == (-100, 100)
    edges = trailing_edges(with_recipes(CoordinatedTurn(rudders=("rudder",))), 0)
    assert [e.words for e in edges] == [
        "at rest"
    ]  # roll is laid over every picture, and has none of its own
    live = Response(points=((-100, 0), (0, 5), (100, 9)), live=(1, 2), live_from="x")
    more, at = with_new_point(live, 50.0, 7.0)
    assert (more.points[at], more.live) == ((50, 7), (1, 3))
    again, at = with_new_point(live, 0.4, 8.0)  # one there already is moved
    assert (again.points[at], again.live, len(again.points)) == ((0, 8), (1, 2), 3)
    snap = with_recipes(SnapFlap(flaps=FLAPS))
    assert (
        sums(snap, pitch_trim=20.0)["left_flap"] == 0
        and sums(snap, elevator_stick=-100)["left_flap"] != 0
    )


def test_a_coarser_step_keeps_where_the_trims_stand() -> None:
    own = Trim(clicks=4, step=2, range=30, scope="per mode", by_mode={"one": -6})
    coarse = (
        with_trim_field(from_parts(modes=MODES, trims={"roll": own}), ("roll",), "step", 4.0)
        .program.axes[0]
        .trim
    )
    assert (coarse.clicks, coarse.by_mode, coarse.step) == (2, {"one": -3}, 4)
    far = from_parts(trims={"roll": Trim(clicks=10, step=2, range=30)})
    with pytest.raises(HypsosError, match="stands 20 % off already"):
        with_trim_field(far, ("roll",), "range", 15.0)


def test_a_new_mode_never_takes_the_motor_switch() -> None:
    trainer = TEMPLATES["trainer"].make("T")
    guard = trainer.program.guard
    for label in ("One", "Two", "Three", "Four", "Five"):
        trainer = with_mode(trainer, label)
    rules = [m.when for m in trainer.program.modes[:-1]]
    assert len(rules) == 5 and all(r.split("@")[0] != guard.switch for r in rules)
    only = tuple(c for c in trainer.transmitter.controls if c.name == guard.switch)
    bare = trainer.changed({"transmitter": trainer.transmitter.changed({"controls": only})})
    bare = bare.changed({"program": bare.program.changed({"modes": ()})})
    with pytest.raises(HypsosError, match="a flight mode needs a switch"):
        with_mode(bare, "One")


def test_a_new_mode_is_flown_at_the_position_of_its_name() -> None:
    """*Landing* belongs to the flap switch at *landing*, not at *half*, which comes first."""
    sailplane = TEMPLATES["v_tail_sailplane"].make("T")
    first, second = with_mode(sailplane, "Landing"), with_mode(sailplane, "Speed")
    flaps = next(c for c in sailplane.transmitter.controls if c.name == "flap_switch")
    assert first.program.modes[0].when == f"flap_switch@{flaps.positions.index('landing')}"
    # no other is free: that of the rates moves no surface by itself
    assert second.program.modes[0].when == "rates_switch@1"


def test_what_fits_exactly_fits() -> None:
    assert (
        Need("a", "mix", "mixes", 4, 4).fits
        and not Need("a", "mix", "mixes", 5, 4).fits
        and Need("a", "mix", "mixes", 5, None).fits
    )
    assert next(n.needed for n in needs(from_parts(), None) if n.what == "modes") == 1
    values = [Tunable(name=n, low=0, high=50, value=1, label=n) for n in ("a", "b", "c")]
    kept = kept_now(from_parts(tunables=tuple(values)), "b", "", 60.0)
    assert [t.value for t in kept.program.tunables] == [1, 50, 1]
