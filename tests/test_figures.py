# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that once misled: what is shown, promised or said is what the engine does."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from keyed import sheet_of, sheet_text
from parts import from_parts

from hypsos.core.checking.checks import problems
from hypsos.core.checking.reader import file_problems, from_json
from hypsos.core.conditions import Combine
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Axis, Setting, Signal, Trim
from hypsos.core.edits.detach import detached
from hypsos.core.edits.trim_clicks import with_clicks
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled, sweep_columns
from hypsos.core.explain.explain_part import explain
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.fitting.effective_throw import full_stick
from hypsos.core.fitting.rate_throws import at_full, rate_for
from hypsos.core.fitting.throw_settings import motion_of, wanted, with_arm_set_off
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes import Ailerons, DifferentialThrust, Flaperons, Flaps
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.scenarios.moves_csv import trace_columns
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import blank, with_motors, with_tail, with_wing
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.shape.templates.common import usual
from hypsos.core.sheet import sheet_html, sheet_markdown


def stand(model: Model, name: Any, **controls: Any) -> Any:
    result = settled(compile_plan(model), controls, [name])
    return explain(model, result, name)


def positions(*flaps: Any) -> Any:
    return tuple(FlapPosition(flap=f) for f in flaps)


def test_two_flap_recipes_never_feed_each_other() -> None:
    """Flaps 0/40/90 and drooping ailerons 0/10/20 on one switch."""
    flaps = Flaps(
        surfaces=("left_flap", "right_flap"), control="switch_c", positions=positions(0, 40, 90)
    )
    droop = Flaperons(
        surfaces=("left_aileron", "right_aileron"),
        control="switch_c",
        positions=positions(0, 10, 20),
        signal="droop",
    )
    model = with_at(from_parts(), "program.recipes", (flaps, droop))
    assert list(problems(model)) == []
    for place, flap, aileron in ((0, 0, 0), (1, 40, 10), (2, 90, 20)):
        sums = settled(compile_plan(model), {"switch_c": place}).sums
        assert (sums["left_flap"][-1], sums["left_aileron"][-1]) == (flap, aileron)
    shared = with_at(model, "program.recipes[1].signal", "flap")
    assert [p.path for p in problems(shared)] == ["program.recipes[1].signal"]


def test_a_signal_of_the_pilots_own() -> None:
    mixes = (
        MixLine(name="in", target="airbrake_feel", source="slider"),
        MixLine(name="out", target="elevator", source="airbrake_feel", gain=20),
    )
    model = with_at(
        from_parts(mixes=mixes),
        "program.signals",
        (Signal(name="airbrake_feel", label="Airbrake feel"),),
    )
    assert (
        list(problems(model)) == []
        and settled(compile_plan(model), {"slider": 50}).sums["elevator"][-1] == 10
    )
    assert "| Airbrake feel | Slider 100 |" in sheet_text(model)


@pytest.mark.parametrize("source", ["flap", "brake", "camber", "left_flap", "left_motor"])
def test_what_nothing_feeds_reads_as_nothing(source: Any) -> None:
    mixes = (
        MixLine(name="m", target="rudder", source=source),
        MixLine(
            name="d", target="elevator", source="pitch", differential=50, differential_off=source
        ),
    )
    model = from_parts(mixes=mixes, motors=True)
    assert list(problems(model)) == []
    assert settled(compile_plan(model), {}).sums["rudder"][-1] == (
        -100 if source == "left_motor" else 0
    )


def test_trim_levers_in_moves_act_on_the_mode_flown() -> None:
    modes = (
        FlightMode(name="fast", label="Fast", when="switch_b@1"),
        FlightMode(name="base", label="Base"),
    )
    for scope, fast, base in (("per mode", 6.0, 2.0), ("offset", 8.0, 2.0), ("common", 6.0, 6.0)):
        trim = Trim(clicks=2, scope=scope, by_mode={"fast": 2})
        plan = compile_plan(from_parts(modes=modes, trims={"pitch": trim}))
        t = 0.02 * np.arange(100)
        lever = np.where(t < 0.5, 2.0, 6.0)  # moved while the fast mode is flown
        result = plan.run(Situation(t, {"pitch_trim": lever, "switch_b": (t < 1).astype(float)}))
        assert (result.commands["pitch"][45], result.commands["pitch"][-1]) == (fast, base), scope


def test_a_click_changes_the_trim_that_is_flown_and_stops_at_its_range() -> None:
    modes = (
        FlightMode(name="fast", label="Fast", when="switch_b@1"),
        FlightMode(name="base", label="Base"),
    )
    trim = Trim(clicks=2, scope="per mode", range=5)
    model = from_parts(modes=modes, trims={"pitch": trim})
    made = with_clicks(model, "pitch", "fast", 3)
    assert (
        made.program.axis("pitch").trim.by_mode == {"fast": 5}
        and made.program.axis("pitch").trim.clicks == 2
    )
    assert (
        with_clicks(made, "pitch", "fast", 1) is None
        and with_clicks(made, "yaw", "fast", 1) is None
    )
    gone = with_clicks(model, "pitch", "nowhere", 1)
    assert (
        gone.program.axis("pitch").trim.clicks == 3
        and gone.program.axis("pitch").trim.by_mode == {}
    )
    out_of_range = with_at(model, "program.axes[1].trim.by_mode", {"fast": 90})
    assert settled(compile_plan(out_of_range), {"switch_b": 1}).commands["pitch"][-1] == 5


def test_wing_before_tail_and_motors_one_after_the_other() -> None:
    """What was chosen first goes on when the rest comes."""
    model = usual("Trial", with_wing(blank(1500), "flaperons"))
    flaps = next(r for r in model.program.recipes if isinstance(r, Flaperons))
    assert flaps.elevators == ()
    made = adapted(model, with_tail(model.airframe, "conventional"))
    assert "elevator compensation, flaperons" in made.added
    model = made.model
    flaps = next(r for r in model.program.recipes if isinstance(r, Flaperons))
    assert flaps.elevators == ("elevator",) and stand(model, "elevator", flap_switch=2).bars
    twin = TEMPLATES["twin"].make("Trial")
    for count in (4, 6, 2):
        made = adapted(twin, with_motors(twin.airframe, count))
        assert "Differential thrust fitted to the motors there are" in made.added
        thrust = next(r for r in made.model.program.recipes if isinstance(r, DifferentialThrust))
        assert len(thrust.left) == len(thrust.right) == count // 2 and not any(
            "differential" in x.lower() for x in made.let_go
        )
        by_name = {m.name: m.y_mm for m in made.model.airframe.motors}
        assert [by_name[n] for n in thrust.left] == sorted(
            by_name[n] for n in thrust.left
        )  # from the outside in
        twin = made.model


def test_detaching_keeps_the_order() -> None:
    """A hand-made line that replaces stood behind the recipe, and stands behind its lines."""
    still = MixLine(name="still", target="left_aileron", source="full", gain=0, combine="replace")
    recipe = Ailerons(left=("left_aileron",), right=("right_aileron",), share=60)
    base = from_parts()
    mixes = (*(m for m in base.program.mixes if "aileron" not in m.target), still)
    model = with_at(with_at(base, "program.mixes", mixes), "program.recipes", (recipe,))
    flaps = Flaps(
        surfaces=("left_flap",),
        control="switch_c",
        positions=positions(0, 40, 90),
        signal="my_flap",
    )
    model = with_at(model, "program.recipes", (recipe, flaps))
    loose = detached(detached(model, 0), 0)
    assert list(problems(loose)) == [] and loose.program.recipes == ()
    for controls in ({"aileron_stick": 60}, {"switch_c": 1, "aileron_stick": -30}):
        before, after = (settled(compile_plan(m), controls).sums for m in (model, loose))
        assert {n: x[-1] for n, x in after.items()} == {n: x[-1] for n, x in before.items()}


BROKEN = [
    ('"when": null', '"when": "nothing_there"', "program.recipes[0].when"),
    ('"label": "Ailerons"', f'"label": "{"A" * 61}"', "program.recipes[0].label"),
    ('"label": "Ailerons"', '"label": ""', "program.recipes[0].label"),
    ('"label": "Ailerons"', '"label": "a\\u0007b"', "program.recipes[0].label"),
    ('"control": "flap_switch"', '"control": "gone"', "program.recipes[1].control"),
    (
        '"elevators": [\n     "elevator"',
        '"elevators": [\n     "gone"',
        "program.recipes[1].elevators[0]",
    ),
]


@pytest.mark.parametrize(("old", "new", "place"), BROKEN)
def test_every_field_of_a_recipe_is_checked(
    samphire: Model, old: Any, new: Any, place: Any
) -> None:
    text = to_json(samphire)
    recipes = text.index('"recipes"')
    assert old in text[recipes:]
    damaged = text[:recipes] + text[recipes:].replace(old, new, 1)
    found = file_problems(damaged, "f")
    assert len(found) >= 1 and found[0].startswith(f"f, {place}: ") and "\n" not in found[0]


def test_a_label_of_the_greatest_length_expands() -> None:
    recipe = Flaperons(
        label="F" * 60,
        surfaces=("left_flap",),
        elevators=("elevator",),
        control="switch_c",
        positions=(FlapPosition(), FlapPosition(flap=30, elevator=4)),
    )
    assert list(problems(with_at(from_parts(), "program.recipes", (recipe,)))) == []


def test_a_motor_on_a_slider_is_not_locked_for_ever() -> None:
    model = from_parts(
        mixes=(MixLine(name="t", target="left_motor", source="thrust"),), motors=True
    )
    axes = (*model.program.axes[:3], Axis(command="thrust", control="slider"))
    model = with_at(model, "program.axes", axes)
    plan = compile_plan(model)
    assert stand(model, "left_motor", motor_switch=1, slider=40).stand == pytest.approx(40)
    table = sweep_columns(plan, "slider", -100, 100, 5, {"motor_switch": 1})
    assert table["left_motor_us"].tolist() == [1000, 1250, 1500, 1750, 2000]
    text = sheet_text(model)
    assert (
        "| Thrust | Slider, from its low end |" in text and "| Slider low | still, 1000 |" in text
    )


def test_why_of_a_flap_with_its_arm_set_off(samphire: Model) -> None:
    name = "left_flaperon"
    lead = with_arm_set_off(motion_of(samphire, name), 8.0, 40.0)
    index = next(i for i, x in enumerate(samphire.leads) if x.target == name)
    model = with_at(samphire, f"leads[{index}]", lead)
    said = stand(model, name).sentence
    assert "the servo stands −48.9 % and flush is at −50.0 %, so the surface is 0.3 mm down" in said
    assert "% up, which is" not in said


def test_why_of_a_motor_that_nothing_asks_to_turn(samphire: Model) -> None:
    assert stand(samphire, "motor").sentence == "Motor is stopped: nothing asks it to turn."
    asked = stand(samphire, "motor", throttle_stick=-50.0).sentence
    assert asked.startswith("Motor: Idle stopped, ") and asked.endswith(
        "; together stopped."
    )  # the guard holds it


def test_why_of_a_surface_whose_mixes_cancel() -> None:
    both = tuple(
        MixLine(name=n, target="rudder", source="full", gain=g)
        for n, g in (("Over", 10), ("Back", -10))
    )
    said = stand(from_parts(mixes=both), "rudder").sentence
    assert said == "Rudder: Over 10.0 % right and Back 10.0 % left; together neutral."


def test_bars_lead_to_the_side_that_is_set() -> None:
    fields = {"travel_neg": 50.0, "travel_pos": 60.0, "stop_neg": -30.0, "stop_pos": 40.0}
    for direction in (1, -1):
        model = from_parts(leads={"rudder": fields | {"direction": direction}})
        for stick in (100.0, -100.0):
            side = "pos" if stick * direction > 0 else "neg"
            paths = {b.kind: b.path for b in stand(model, "rudder", rudder_stick=stick).bars}
            index = next(i for i, x in enumerate(model.leads) if x.target == "rudder")
            assert (
                paths["travel"] == f"leads[{index}].travel_{side}"
                and paths["stop"] == f"leads[{index}].stop_{side}"
            )


def test_a_logical_switch_has_no_column_of_the_trace(samphire: Model) -> None:
    for name in ("guard", "mode", "t_s", "left_flaperon_pct", "left_flaperon_deg"):
        made = with_at(samphire, "program.logic", (Combine(name=name, kind="any", of=("link",)),))
        assert "program.logic[0].name" in [p.path for p in problems(made)], name
    columns = trace_columns(samphire, settled(compile_plan(samphire), {}))
    assert columns["guard"] == ["cut"] and columns["mode"] == ["base"]


def test_no_pulse_has_no_percent(samphire: Model) -> None:
    result = compile_plan(samphire).run(Situation(0.02 * np.arange(3), {}, 0.0, 0.0))
    columns = trace_columns(samphire, result)
    assert (columns["rudder_us"] == 0).all() and np.isnan(columns["rudder_pct"]).all()


def test_the_promise_of_a_throw_counts_what_acts_on_the_surface(samphire: Model) -> None:
    """Differential and a share take part of the movement away; it is said, and can be allowed
    for."""
    found = full_stick(samphire, "left_flaperon")
    assert found.command == "roll" and found.shares == pytest.approx(
        (0.6, 0.36), abs=0.02
    )  # and two clicks of trim
    assert any("differential of 40 %" in x for x in found.takes) and any(
        "share of 60 %" in x for x in found.takes
    )
    result = settled(compile_plan(samphire), {"aileron_stick": 100, "rates_switch": 2})
    assert found.mm[1] == pytest.approx(float(result.outputs["left_flaperon"].mm[-1]))
    made = wanted(motion_of(samphire, "left_flaperon"), 8.0, 4.0, "mm", shares=found.shares)
    index = next(i for i, x in enumerate(samphire.leads) if x.target == "left_flaperon")
    lead = Lead(
        **{
            **dict(samphire.leads[index]),
            "travel_neg": made.travel_neg,
            "travel_pos": made.travel_pos,
        }
    )
    again = full_stick(with_at(samphire, f"leads[{index}]", lead), "left_flaperon")
    assert made.lost == () and again.mm == pytest.approx((-8.0, 4.0), abs=0.15)


def test_where_a_stick_is_shown_alone_the_brakes_are_shut() -> None:
    """A slider that rests in its middle has the brakes half out: sheet and throws have it where it
    gives nothing, and say so."""
    model = demo_model("tidewrack")
    assert quiet_hands(model) == {"brake_slider": -100.0, "edge_knob": 0.0, "roll_knob": 0.0}
    shut = {"brake_slider": -100.0, "rates_switch": 2.0}
    plan = compile_plan(model)
    down, up = (
        float(settled(plan, shut | {"aileron_stick": x}).outputs["left_aileron"].mm[-1])
        for x in (100.0, -100.0)
    )
    found = full_stick(model, "left_aileron")
    assert found.mm == pytest.approx((up, down)) and down == pytest.approx(15.0, abs=0.05)
    assert at_full(model, "roll", 2, "left_aileron") == pytest.approx((up, down))
    rate = rate_for(model, "roll", "left_aileron", 12.0, "mm")
    slower = with_at(model, "program.axes[0].settings[0]", Setting(rate_neg=rate, rate_pos=rate))
    assert at_full(slower, "roll", 0, "left_aileron")[1] == pytest.approx(12, abs=0.1)
    unplugged = TEMPLATES["t_tail_sailplane"].make("Brant")
    assert all(x.port is None for x in unplugged.leads) and quiet_hands(unplugged) == {
        "brake_slider": -100.0
    }
    assert quiet_hands(demo_model("sandpiper")) == {}  # what gives power stands low anyway
    turned = model.program.recipes[1].changed({"closed": 85.0, "opened": -100.0})
    assert quiet_hands(with_at(model, "program.recipes[1]", turned))["brake_slider"] == 100.0


def test_the_sheet_leaves_nothing_out() -> None:
    curve = Response(points=((-100, -100), (0, 20), (100, 100)))
    mixes = (
        MixLine(name="b", target="brake", source="slider"),
        MixLine(
            name="shared",
            target="left_flap",
            source="roll",
            response=curve,
            gain_from="bite",
            differential=30,
            differential_off="brake",
        ),
    )
    from hypsos.core.parts.tunables import Tunable

    model = from_parts(
        mixes=mixes,
        tunables=(Tunable(name="bite", value=40),),
        logic=(Combine(name="both_on", kind="all", of=("link",)),),
    )
    model = with_at(model, "program.axes[0].curve", curve)
    model = with_at(model, "leads[0].centre", -0.0)
    text = sheet_text(model)
    for words in (
        "| Roll | Aileron stick, curve A |",
        "| A | −100: −100, 0: 20, 100: 100 | straight |",
        "Roll 100, by V1, curve A",
        "| Left flap: roll less | Roll 0 / −30, by V1, curve A<br>times Brake 100, curve B |",
        "| V1 Bite | 40 |",
    ):
        assert words in text, words
    assert "-0" not in text


def test_a_note_makes_no_heading_and_no_tick(samphire: Model) -> None:
    evil = "fine\n# Settled\n| 9 | x | y | z | [x] |\n<b>bold</b>"
    model = with_at(with_at(samphire, "note", evil), "program.mixes[0].name", "A | B <i>")
    text = sheet_markdown(sheet_of(model))
    assert (
        "\n# Settled" not in text
        and "| [x] |" not in text
        and "<b>" not in text.replace("\\<b", "")
    )
    assert "<b>bold" not in sheet_html(sheet_of(model))


def test_a_shared_value_is_held_to_what_it_stands_in_for() -> None:
    from hypsos.core.document.program import Setting
    from hypsos.core.parts.tunables import Tunable

    tunables = (
        Tunable(name="e", low=-500, high=500, value=200),
        Tunable(name="r", low=-500, high=500, value=-50),
    )
    model = from_parts(
        tunables=tunables, settings={"roll": Setting(expo_from="e"), "yaw": Setting(rate_from="r")}
    )
    result = settled(compile_plan(model), {"aileron_stick": 50, "rudder_stick": 80})
    assert result.commands["roll"][-1] == pytest.approx(12.5) and result.commands["yaw"][-1] == 0
    from hypsos.core.rundown import attentions

    said = " ".join(a.text for a in attentions(model))
    assert (
        "could go below and beyond what a rate can be" in said
        and "below and beyond what an expo can be" in said
    )


def test_the_order_of_leads_and_of_lines_that_do_nothing_changes_nothing() -> None:
    """Memory belongs to names: an inert line put first, leads in another order, in the middle of a
    slow."""
    mixes = (
        MixLine(name="s", target="rudder", source="switch_c", in_s=2.0, out_s=2.0),
        MixLine(name="t", target="left_motor", source="thrust"),
    )
    model = from_parts(mixes=mixes, motors=True, leads={"elevator": {"slow_up_s": 3.0}})
    t = 0.02 * np.arange(30)
    hands = {
        "switch_c": np.where(t > 0.1, 2.0, 0.0),
        "elevator_stick": np.where(t > 0.1, -100.0, 0.0),
    }
    memory = compile_plan(model).run(Situation(t, hands)).memory
    inert = MixLine(name="inert", target="rudder", source="full", gain=0, in_s=5.0)
    other = with_at(model, "program.mixes", (inert, *model.program.mixes))
    other = with_at(other, "leads", tuple(reversed(other.leads)))
    later = Situation(t + 0.6, {"switch_c": 2.0, "elevator_stick": -100.0})
    one, two = (compile_plan(m).run(later, memory).outputs for m in (model, other))
    for name in one:
        assert one[name].us == pytest.approx(two[name].us, abs=1e-9), name


def test_a_model_that_reads_back_is_the_same(samphire: Model) -> None:
    assert from_json(to_json(samphire)) == samphire


def test_a_trace_in_pieces_is_the_trace_in_one(
    marram: Model, monkeypatch: pytest.MonkeyPatch
) -> None:
    from hypsos.core.scenarios import moves_csv as moves

    t = 0.02 * np.arange(700)
    hands = Situation(
        t,
        {
            "aileron_stick": 90 * np.sin(t),
            "flight_switch": (t > 3) * 1.0,
            "motor_switch": (t > 1) * 1.0,
        },
        (t < 9) * 1.0,
    )
    plan = compile_plan(marram)
    whole = "".join(moves.csv_lines(trace_columns(marram, plan.run(hands))))
    monkeypatch.setattr(moves, "BLOCK", 130)
    monkeypatch.setattr(moves, "ROWS", 37)
    pieces = list(moves.trace_lines(plan, hands))
    assert "".join(text for _, text in pieces) == whole and [done for done, _ in pieces][-1] == 1.0
    row = dict(zip(whole.split("\n")[0].split(","), whole.split("\n")[301].split(","), strict=True))
    assert float(row["t_s"]) == 6 and float(row["roll"]) == round(
        float(plan.run(hands).commands["roll"][300]), 4
    )


@pytest.mark.parametrize("scale", [1.0, 1e-6, 1e5, 3e9])
def test_figures_are_written_as_they_are_rounded(scale: Any) -> None:
    from hypsos.core.base.csv_columns import csv_text

    rng = np.random.default_rng(3)
    values = np.concatenate(
        [
            rng.normal(0, scale, 500),
            [0.0, -0.0, 0.00004, -0.00005, 1500, -100, 0.1 + 0.2, np.nan, np.inf],
        ]
    )
    found = csv_text({"x": values}).split("\n")[:-1]
    for value, text in zip(values, found, strict=True):
        if not np.isfinite(value):
            assert text == ""
        else:
            assert float(text) == pytest.approx(
                round(float(value), 4), abs=1.01e-4 if scale < 1e6 else 1e-3
            )
            assert (
                text != "-0"
                and not ("." in text and text.endswith("0"))
                and len(text.partition(".")[2]) <= 4
            )
