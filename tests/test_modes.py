# SPDX-License-Identifier: GPL-3.0-or-later
"""Flight modes: the grid, presets, trims, shared values and what moves them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import choose, every_view
from hypothesis import given, settings
from hypothesis import strategies as st
from keyed import sheet_text
from parts import from_parts
from PyQt6.QtWidgets import QAbstractButton

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.edits.capacity import needs
from hypsos.core.edits.flight_modes import at_place, let_go, mirrored, with_mode, without_mode
from hypsos.core.edits.mode_grid import all_places, cell, never_flown, with_cell
from hypsos.core.edits.shared_values import (
    dead_axes,
    freed,
    kept_now,
    tunable_users,
    with_value,
    without_tunable,
)
from hypsos.core.edits.transmitters import shipped, taken
from hypsos.core.edits.trim_sets import with_trim_field
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.mode_ways import taken_now, ways_to_modes
from hypsos.core.fitting.trims_to_centres import THREADS, carried_over
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import Amount, Crow
from hypsos.core.rundown import attentions
from hypsos.hangar import Hangar

NAMES = ("one", "two", "three")


def sums(model: Model, **hands: Any) -> Any:
    found = settled(compile_plan(model), hands)
    names = [m.name for m in model.program.modes]
    mode = names[int(np.ravel(found.modes)[-1])] if names else ""
    return {n: float(np.ravel(x)[-1]) for n, x in found.sums.items()} | {"mode": mode}


def modes_of(*whens: Any) -> Any:
    made = tuple(
        FlightMode(name=n, label=n.capitalize(), when=w) for n, w in zip(NAMES, whens, strict=False)
    )
    return (*made, FlightMode(name="base", label="Base"))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.sampled_from((*NAMES, "base")), min_size=6, max_size=6))
def test_a_grid_of_two_switches_is_what_was_put_into_it(wanted: Any) -> None:
    """Every cell of a 2 x 3 grid gets a mode of its own, one after the other: what the engine then
    flies is the grid."""
    model = from_parts(modes=modes_of("switch_b@1", "switch_c@1", "switch_c@2"))
    controls = [model.transmitter.control(n) for n in ("switch_b", "switch_c")]
    places = list(all_places(controls))
    for place, mode in zip(places, wanted, strict=True):
        model = with_cell(model, ("switch_b", "switch_c"), place, mode)
        assert list(problems(model)) == []
    for place, mode in zip(places, wanted, strict=True):
        found = cell(model, place)
        flown = sums(model, **{n: float(i) for n, i in place.items()})["mode"]
        assert found.mode == flown == mode and found.fallen == (mode == "base")
    assert {m.name for m in never_flown(model)} == {*NAMES, "base"} - set(wanted)


def test_a_cell_says_its_rule_what_goes_before_it_and_where_none_holds(marram: Model) -> None:
    found = cell(marram, {"task_switch": 0, "flight_switch": 1})
    assert (found.mode, found.rule, found.before) == (
        "thermal",
        "Flight switch at thermal",
        (("Climb", "Climbing"),),
    )
    assert cell(marram, {"task_switch": 2, "flight_switch": 1}).mode == "landing"
    fallen = cell(marram, {"task_switch": 0, "flight_switch": 0})
    assert fallen.mode == "cruise" and fallen.fallen
    ways = ways_to_modes(marram)
    assert set(ways) == {
        m.name for m in marram.program.modes
    }  # climb takes the throttle, and is found with it
    for name, hands in ways.items():
        assert sums(marram, **hands)["mode"] == name


def test_a_mode_that_no_position_gives_is_said() -> None:
    both = Combine(name="both", kind="all", of=("switch_b@1", "switch_c@1"))
    hidden = from_parts(modes=modes_of("switch_b@1", "both"), logic=(both,))
    assert [m.name for m in never_flown(hidden)] == ["two"]
    assert any("Two is never flown" in a.text and a.step == "modes" for a in attentions(hidden))
    assert never_flown(at_place(hidden, "two", 0)) == ()
    whole = from_parts(modes=modes_of("switch_b@0", "switch_b@1"))
    assert [m.name for m in never_flown(whole)] == ["base"]


def test_modes_come_go_and_take_what_is_theirs_along(marram: Model) -> None:
    more = with_mode(marram, "Storm", like="thermal")
    assert list(problems(more)) == [] and more.program.modes[-2].label == "Storm"
    assert (
        more.program.modes[-2].presets
        == next(m for m in marram.program.modes if m.name == "thermal").presets
    )
    assert next(x for x in more.program.tunables if x.name == "camber_share").by_mode["storm"] == 24
    assert next(a for a in more.program.axes if a.command == "pitch").trim.by_mode["storm"] == 3
    assert (
        next(r for r in more.program.recipes if r.label == "Roll by mode").by_mode["storm"].rate  # type: ignore[attr-defined]
        == 85
    )  # type: ignore[attr-defined]
    fewer = without_mode(more, "storm")
    assert (
        fewer.program.modes == marram.program.modes
        and fewer.program.tunables == marram.program.tunables
    )
    assert (
        fewer.program.recipes == marram.program.recipes
        and fewer.program.axes == marram.program.axes
    )
    for name, who in (("landing", "motor"), ("cruise", "default mode")):
        with pytest.raises(HypsosError, match=who):
            without_mode(marram, name)
    with pytest.raises(HypsosError, match="stays the last"):
        at_place(marram, "cruise", 0)


def test_what_sliders_and_trims_say_is_taken_and_nothing_moves(marram: Model) -> None:
    """Camber by the slider and the mode's own trim go into the mode; with the slider back all
    surfaces stand as they did."""
    hands = {"flight_switch": 1.0, "camber_slider": 60.0}
    before = sums(marram, **hands)
    plan = compile_plan(marram)
    memory = plan.run(Situation(np.array([0.0, 9.0]), hands)).memory
    found = taken_now(marram, plan.rest | hands, memory, "thermal")
    after = sums(found.model, flight_switch=1.0)
    surfaces = [s.name for s in marram.airframe.surfaces]
    assert {n: after[n] for n in surfaces} == pytest.approx(
        {n: before[n] for n in surfaces}, abs=0.02
    )
    assert found.put_back == ("Camber slider",) and abs(found.presets["left_inner_flap"] - 8) > 5
    assert (
        next(a for a in found.model.program.axes if a.command == "pitch").trim.by_mode["thermal"]
        == 0
    )
    other = sums(found.model, flight_switch=2.0)
    assert other == pytest.approx(sums(marram, flight_switch=2.0))


def test_presets_mirrored(marram: Model) -> None:
    made = mirrored(
        marram, {"left_inner_flap": 5.0, "right_inner_flap": 1.0, "left_ruddervator": -2.0}, "left"
    )
    assert made == {
        "left_inner_flap": 5.0,
        "right_inner_flap": 5.0,
        "left_ruddervator": -2.0,
        "right_ruddervator": -2.0,
    }


# -- trims --------------------------------------------------------------------------------------


@settings(max_examples=25, deadline=None)
@given(
    st.tuples(*[st.integers(-20, 20)] * 3), st.sampled_from((1, -1)), st.sampled_from((60.0, 100.0))
)
def test_trims_carried_over_leave_every_pulse(clicks: Any, direction: Any, travel: Any) -> None:
    trims = {
        c: Trim(step=0.5, clicks=n) for c, n in zip(("roll", "pitch", "yaw"), clicks, strict=True)
    }
    sides = dict(direction=direction, travel_neg=travel, travel_pos=travel)
    model = from_parts(
        trims=trims, leads={n: sides for n in ("left_aileron", "elevator", "rudder")}
    )
    if not any(clicks):
        with pytest.raises(HypsosError, match="nothing to carry"):
            carried_over(model)
        return
    found = carried_over(model)
    assert found.worst_us <= 0.5 and all(
        a.trim.clicks == 0 for a in found.model.program.axes if a.trim is not None
    )
    for stick in (-100.0, -30.0, 0.0, 55.0, 100.0):
        hands = {"aileron_stick": stick, "elevator_stick": stick, "rudder_stick": -stick}
        old, new = (settled(compile_plan(m), hands).outputs for m in (model, found.model))
        for name in old:
            assert float(new[name].us[-1]) == pytest.approx(float(old[name].us[-1]), abs=0.5)


def test_a_trim_that_cannot_be_carried_whole_is_refused_with_its_lead() -> None:
    uneven = from_parts(
        trims={"pitch": Trim(clicks=10)}, leads={"elevator": dict(travel_neg=60, travel_pos=100)}
    )
    with pytest.raises(
        HypsosError, match=r"Elevator would change by .* another travel to each side, differential"
    ):
        carried_over(uneven)


def test_the_turn_of_the_clevis_does_what_the_trim_did(samphire: Model) -> None:
    """With the rod longer by what is said, the surface stands where the moved centre puts it."""
    from hypsos.core.fitting.trims_to_centres import _rod
    from hypsos.core.parts.four_bar import deflection

    model = with_at(samphire, "program.axes[1].trim.clicks", 8)
    found = carried_over(model)
    turn = next(t for t in found.turns if t.lead == "elevator")
    lead = next(x for x in model.leads if x.name == "elevator")
    link = lead.linkage
    before, after = (
        lead.direction * x * link.servo_deg / 100 for x in (lead.centre, lead.centre + turn.percent)
    )
    wanted = float(deflection(link, after))
    assert _rod(link, before, wanted) == pytest.approx(_rod(link, 0, 0) + turn.rod_mm)
    assert turn.turns("M2") == pytest.approx(turn.rod_mm / 0.4) and set(THREADS) == {"M2", "M2.5"}
    assert abs(turn.rod_mm) > 0.05


def test_fields_of_all_trims_at_once() -> None:
    trims = {c: Trim(step=1, clicks=4, by_mode={}) for c in ("roll", "pitch")}
    made = with_trim_field(from_parts(trims=trims), ("roll", "pitch"), "step", 0.5)
    assert [(a.trim.step, a.trim.clicks) for a in made.program.axes[:2]] == [
        (0.5, 8)
    ] * 2  # they stand where they stood
    with pytest.raises(HypsosError, match="stands 4 % off already"):
        with_trim_field(from_parts(trims=trims), ("roll",), "range", 3.0)


# -- shared values ------------------------------------------------------------------------------


def test_adjusters_add_step_and_keep() -> None:
    def model(adjuster: Any, **fields: Any) -> Any:
        shared = Tunable(name="share", low=0, high=50, value=20, adjuster=adjuster, **fields)
        line = MixLine(name="flap", target="left_flap", source="full", gain_from="share")
        return from_parts(mixes=(line,), tunables=(shared,))

    def track(made: Any, **hands: Any) -> Any:
        t = 0.02 * np.arange(len(next(iter(hands.values()))))
        return compile_plan(made).run(Situation(t, hands)).sums["left_flap"]

    adds = model(Adjuster(kind="add", control="slider", amount=10))
    assert track(adds, slider=np.array([0.0, 50, 100, -100])) == pytest.approx([20, 25, 30, 10])
    steps = model(Adjuster(kind="step", up="switch_b@1", down="switch_c@2", amount=8))
    taps = np.array([0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 0, 0.0])
    downs = np.array([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 2, 2.0])
    assert track(steps, switch_b=taps, switch_c=downs) == pytest.approx(
        [20, 28, 28, 36, 36, 44, 44, 50, 50, 50, 50, 42, 42]
    )
    for keep, last in ((True, 37.5), (False, 20)):
        kept = model(Adjuster(control="slider", when="switch_b@1", keep=keep))
        got = track(kept, slider=np.array([50.0, 50, 50, -100]), switch_b=np.array([0.0, 1, 0, 0]))
        assert got == pytest.approx([20, 37.5, last, last])


def test_shared_values_say_who_goes_by_them_and_hold_their_bounds(marram: Model) -> None:
    assert tunable_users(marram, "snap_share") == ("Snap flap",)
    with pytest.raises(HypsosError, match="Snap flap goes by Snap flap share"):
        without_tunable(marram, "snap_share")
    freely = freed(marram, "snap_share", 20.0)
    assert tunable_users(freely, "snap_share") == () and "snap_share" not in {
        x.name for x in freely.program.tunables
    }
    snap = next(r for r in freely.program.recipes if r.kind == "snap_flap")
    assert (
        snap.share == next(r for r in marram.program.recipes if r.kind == "snap_flap").share * 0.2  # type: ignore[attr-defined]
    )  # type: ignore[attr-defined]
    with pytest.raises(HypsosError, match="60 lies outside 10 to 32"):
        with_value(marram, "snap_share", None, 60)
    held = kept_now(marram, "snap_share", "cruise", 23.333)
    assert next(x for x in held.program.tunables if x.name == "snap_share").value == 23.33
    own = kept_now(marram, "camber_share", "thermal", 12)
    assert (
        next(x for x in own.program.tunables if x.name == "camber_share").by_mode["thermal"] == 12
    )
    rated = with_at(marram, "program.recipes[8].least", 0.0)
    rated = with_at(rated, "program.recipes[8].slider", "camber_slider")
    assert dead_axes(rated) == [("roll_scaling_rate", "it may go down to zero in flight: no roll")]
    assert any("no roll" in a.text and a.step == "modes" for a in attentions(rated))


def test_points_that_move_need_what_moves_them() -> None:
    points = ((-100.0, 0.0), (0.0, 0.0), (100.0, 50.0))
    for fields, words in (
        ({"live": (2,)}, "need a shared value"),
        ({"live": (3,), "live_from": "x"}, "one of the 3"),
    ):
        with pytest.raises(DocumentError, match=words):
            Response(points=points).changed(fields)
    moved = Response(points=points, live=(2,), live_from="x").lifted(120)
    assert moved == ((-100.0, 0.0), (0.0, 0.0), (100.0, 150.0))


def test_what_a_transmitter_lacks_is_said(marram: Model) -> None:
    small = taken(marram, shipped()[0]).model
    short = [n.words for n in needs(small, shipped()[0]) if not n.fits]
    assert "mixes" in short and all(n.fits for n in needs(marram, None))


def test_a_lever_without_a_trim_moves_the_value_only(samphire: Model) -> None:
    from hypsos.core.edits.trim_clicks import with_clicks

    shared = Tunable(
        name="lift",
        low=-20,
        high=20,
        value=0,
        adjuster=Adjuster(kind="add", control="yaw_trim", amount=25),
    )
    line = MixLine(name="flap", target="left_flap", source="full", gain_from="lift")
    base = from_parts(mixes=(line,), tunables=(shared,), trims={"yaw": Trim(step=2, scope="lever")})
    moved = with_clicks(base, "yaw", "base", 3)
    assert moved.program.axes[2].trim.clicks == 3 and not moved.program.axes[2].trim.by_mode
    out = sums(moved)
    assert out["left_flap"] == pytest.approx(6) and out["rudder"] == 0


def test_a_stick_that_brakes_and_drives_is_pointed_out() -> None:
    crow = Crow(
        control="throttle_stick",
        closed=-10,
        opened=-80,
        amounts=(Amount(parts=("left_flap",), travel=80),),
    )
    model = with_at(from_parts(motors=True), "program.recipes", (crow,))
    assert any(
        "both go by the throttle stick" in a.text and a.step == "guard" for a in attentions(model)
    )
    held = with_at(model, "program.guard.holds", ("switch_b@1",))
    assert not any("both go by" in a.text for a in attentions(held))


def test_what_moves_in_flight_is_on_the_sheet(hangar: Hangar) -> None:
    text = sheet_text(hangar.load("Tidewrack"))
    assert "moved by V1" in text and "left of the middle the other way" in text
    assert "Knife-edge knob sets it from bound to bound" in text
    wing = with_at(hangar.load("Whinlark"), "program.recipes[1].when", "bold_switch@1")
    text = sheet_text(wing)
    assert "| while Bold switch at on |" in text
    assert "Rate slider adds up to 10, in Ridge or Race" in text


def test_what_went_by_a_shared_value_does_the_same_without_it() -> None:
    """Every kind of user at once: the commands and the surfaces do the same."""
    up = Response(
        points=((-100, -20), (0, 0), (100, 60)), live=(0, 2), live_from="much", live_odd=True
    )
    much = Tunable(name="much", low=0, high=100, value=40)
    built = from_parts(
        tunables=(much,),
        settings={"roll": Setting(rate_from="much"), "pitch": Setting(expo_from="much")},
        mixes=(
            MixLine(name="m", target="rudder", source="roll", gain=50, gain_from="much"),
            MixLine(name="c", target="elevator", source="slider", response=up),
        ),
    )
    free = freed(built, "much", 40.0)
    assert free.program.tunables == () and [
        m.gain for m in free.program.mixes if m.name == "m"
    ] == [20]
    for places in (
        {"aileron_stick": 70, "elevator_stick": -35, "slider": 55},
        {"aileron_stick": -100, "slider": -100},
    ):
        assert sums(free, **places) == pytest.approx(sums(built, **places))
    at = next(i for i, m in enumerate(built.program.mixes) if m.name == "m")
    wide = with_at(built, f"program.mixes[{at}].gain", 500.0)
    wide = with_at(
        with_at(wide, "program.tunables[0].high", 200.0), "program.tunables[0].value", 150.0
    )
    with pytest.raises(HypsosError, match="beyond the bounds"):
        freed(wide, "much", 150.0)


@pytest.mark.parametrize("name", ["one", "two"])
def test_what_asks_for_a_mode_acts_at_the_same_moments_without_it(name: Any) -> None:
    lines = (
        MixLine(name="y", target="left_flap", source="slider", gain=10, when=f"mode:{name}"),
        MixLine(name="n", target="right_flap", source="slider", gain=10, when=f"!mode:{name}"),
    )
    built = from_parts(modes=modes_of("switch_b@1", "switch_c@1"), mixes=lines)
    free = let_go(built, name)
    assert name not in {m.name for m in free.program.modes} and list(problems(free)) == []
    for b in (0.0, 1.0):
        for c in (0.0, 1.0, 2.0):
            before, after = (sums(m, switch_b=b, switch_c=c, slider=100.0) for m in (built, free))
            assert (before["left_flap"], before["right_flap"]) == (
                after["left_flap"],
                after["right_flap"],
            )


def test_a_base_mode_that_is_asked_for_stays_when_it_is_alone() -> None:
    line = MixLine(name="y", target="left_flap", source="slider", gain=10, when="mode:base")
    alone = without_mode(from_parts(modes=modes_of("switch_b@1"), mixes=(line,)), "one")
    assert [m.name for m in alone.program.modes] == ["base"] and list(problems(alone)) == []
    assert without_mode(from_parts(modes=modes_of("switch_b@1")), "one").program.modes == ()


def test_an_ampersand_in_a_label_is_read_on_every_button(window: Any) -> None:
    """A button takes a bare ampersand for a shortcut and does not show it."""
    bench = window.workbench
    choose(window, "Marram")
    model = bench.loaded
    renamed = {
        "modes": tuple(
            m.changed({"label": f"A & B {i}"}) for i, m in enumerate(model.program.modes)
        ),
        "recipes": tuple(
            r.changed({"label": f"C & D {i}"}) for i, r in enumerate(model.program.recipes)
        ),
        "mixes": tuple(
            m.changed({"name": f"E & F {i}"}) for i, m in enumerate(model.program.mixes)
        ),
    }
    leads = tuple(x.changed({"label": f"G & H {i}"}) for i, x in enumerate(model.leads))
    bench.document.apply(
        model.changed({"program": model.program.changed(renamed), "leads": leads}), "ampersands"
    )
    bare = {
        (name, button.text())
        for page, name in every_view(window)
        for button in page.findChildren(QAbstractButton)
        if "&" in button.text().replace("&&", "")
    }
    assert not bare


def test_marram_climbs_only_with_its_motor_armed() -> None:
    """Stick up while the motor is cut or locked, at power-up, on a go-around, behind a cut: never
    the mode *Climb*."""
    from faulty import demo_model
    from motors import play

    model = demo_model("marram")
    run, cut = {"motor_switch": 1.0}, {"motor_switch": 0.0}
    up, low = {"throttle_stick": 80.0}, {"throttle_stick": -100.0}
    landing, normal = {"task_switch": 2.0}, {"task_switch": 0.0}
    for steps in (
        ((2.0, run | up),),  # stick up, and the battery comes
        ((1.0, low | cut), (1.0, up), (1.0, run)),
        (
            (1.0, low | cut),
            (2.0, run),
            (2.0, up),
            (2.0, landing),
            (2.0, normal),
        ),  # go-around, the stick still up
        ((1.0, low | cut), (2.0, run), (2.0, up), (1.0, cut), (1.0, run)),
    ):
        result = play(model, *steps)
        armed, mode = (
            np.asarray(result.guard) == GuardState.ARMED,
            np.broadcast_to(result.modes, result.t_s.shape),
        )
        climbing = mode == [m.name for m in model.program.modes].index("climb")
        lately = (
            np.convolve(armed, np.ones(30))[: len(armed)] > 0
        )  # it fades out over half a second
        assert not (climbing & ~lately).any(), steps
    result = play(model, (1.0, low | cut), (2.0, run), (2.0, up))
    assert int(np.ravel(result.modes)[-1]) == [m.name for m in model.program.modes].index("climb")
