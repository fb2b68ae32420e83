# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents of the first version open, and mean the same or something safer: a test for each kind
of change."""

from __future__ import annotations

import copy
import json
import re
from typing import Any

import numpy as np
import pytest
from parts import from_parts

from hypsos.core.checking.reader import file_problems, from_json
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.migrate import migrated
from hypsos.core.edits.ready_announcements import with_ready_set
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.shape.templates import TEMPLATES


def old(mixes: Any = (), recipes: Any = (), motors: Any = False, **program: Any) -> Any:
    """A document as the first version wrote it."""
    data = json.loads(to_json(from_parts(motors=motors)))
    data["schema_version"] = 1
    del data["receiver"]["stored"], data["program"]["signals"]
    for lead in data["leads"]:
        del lead["idle_us"]
    for line in data["program"]["mixes"]:
        line["slow_up_s"], line["slow_down_s"] = line.pop("in_s"), line.pop("out_s")
    data["program"]["mixes"] += mixes
    data["program"]["recipes"] = list(recipes)
    if motors:
        data["program"]["guard"] = {
            "level": 2,
            "switch": "motor_switch",
            "run_position": 1,
            "stick": "throttle_stick",
        }
    data["program"] |= program
    return data


def opened(data: Any) -> Any:
    return from_json(json.dumps(data), "old")


def line(target: Any, source: Any, gain: Any = 100.0, **fields: Any) -> Any:
    return {"name": "old", "target": target, "source": source, "gain": gain, **fields}


def test_a_present_document_is_left_alone(samphire: Model) -> None:
    data = json.loads(to_json(samphire))
    assert migrated(copy.deepcopy(data)) == data


@pytest.mark.parametrize(
    ("gain", "expected"), [(86.0, (0.344, 0.172)), (-42.0, (0.084, 0.168)), (200.0, (0.8, 0.4))]
)
def test_the_slow_of_a_line_works_before_its_gain_and_is_as_fast_as_it_was(
    gain: Any, expected: Any
) -> None:
    data = old([line("left_flap", "switch_c", gain, slow_up_s=0.4, slow_down_s=0.2)])
    made = opened(data).program.mixes[-1]
    assert (made.in_s, made.out_s) == pytest.approx(expected)
    t = 0.02 * np.arange(60)
    result = compile_plan(opened(data)).run(Situation(t, {"switch_c": np.where(t > 0.1, 2.0, 0.0)}))
    change = np.diff(result.sums["left_flap"])
    assert np.abs(change).max() == pytest.approx(100 * 0.02 / (0.4 if gain > 0 else 0.2))


def test_the_smallest_and_the_slowest_old_lines() -> None:
    small, slow = (
        line("left_flap", "switch_c", g, slow_up_s=60.0, slow_down_s=50.0) for g in (0.5, 200.0)
    )
    shared = line("rudder", "slider", 0.5, gain_from="bite")
    none = shared | {"gain": 0.0}
    found = opened(
        old([small, slow, shared, none], tunables=[{"name": "bite", "value": 40.0}])
    ).program.mixes[-4:]
    assert [x for m in found for x in (m.in_s, m.out_s)] == pytest.approx(
        [0.3, 0.25, 60.0, 60.0, 0.0, 0.0, 0.0, 0.0]
    )
    assert found[2].gain == found[3].gain == 100


def test_one_run_position_of_three_leaves_two_that_cut() -> None:
    data = old([line("left_motor", "thrust")], motors=True)
    data["program"]["guard"] |= {"switch": "switch_c", "run_position": 1}
    assert opened(data).program.guard.cut == (0, 2)
    data["program"]["recipes"] = [
        {
            "kind": "flaps",
            "label": "F",
            "surfaces": ["left_flap"],
            "control": "switch_b",
            "positions": [{"flap": 0}, {"flap": 40}],
        }
    ]
    made = opened(data).program.recipes[0]
    assert (made.in_s, made.out_s) == (0, 0)


def test_a_shared_value_that_stood_in_for_the_gain_multiplies_it_now() -> None:
    tunable = {"name": "bite", "value": 40.0}
    model = opened(old([line("left_flap", "roll", -25.0, gain_from="bite")], tunables=[tunable]))
    assert settled(compile_plan(model), {"aileron_stick": 50}).sums["left_flap"][-1] == -20


@pytest.mark.parametrize(
    ("mixes", "at"),
    [
        ([line("left_motor", "thrust")], {-100: -100, 0: 0, 100: 100}),
        ([line("left_motor", "thrust", 120.0)], {-100: -120, -50: -60, 0: 0, 100: 120}),
        (
            [line("left_motor", "thrust", 50.0)],
            {-100: -100, 0: -50, 100: 0},
        ),  # it began at half power
        (
            [line("left_motor", "thrust"), line("left_motor", "full", -100.0, combine="replace")],
            {-100: -100, 100: -100},
        ),
        (
            [line("left_motor", "thrust"), line("left_motor", "full", 20.0, combine="replace")],
            {-100: 20, 100: 20},
        ),
        ([line("left_motor", "full", 450.0, combine="replace")], {-100: 400}),
        ([line("left_motor", "full", 400.5, combine="replace")], {-100: 400}),
        ([line("left_motor", "full", 30.0)], {-100: -70, 100: -70}),  # it began at 65 % power
    ],
)
def test_a_motor_is_counted_from_idle(mixes: Any, at: Any) -> None:
    plan = compile_plan(opened(old(mixes, motors=True)))
    for stick, demand in at.items():
        assert settled(plan, {"throttle_stick": stick}).sums["left_motor"][-1] == pytest.approx(
            demand
        )


def test_the_rates_of_the_thrust_scale_from_idle_and_give_no_more_than_before() -> None:
    data = old([line("left_motor", "thrust")], motors=True)
    thrust = next(a for a in data["program"]["axes"] if a["command"] == "thrust")
    for rate in (0.0, 60.0, 100.0):
        thrust["settings"] = [{"rate_neg": rate, "rate_pos": rate, "expo": 0.0}]
        plan = compile_plan(opened(data))
        for stick in (-100, -50, 0, 50, 100):
            before = rate / 100 * stick
            assert settled(plan, {"throttle_stick": stick}).sums["left_motor"][-1] <= before + 1e-9
    thrust["settings"] = [{"rate_neg": 120.0, "rate_pos": 120.0, "expo": 0.0}]
    assert opened(data).program.axis("thrust").settings[0].rate_pos == 100


@pytest.mark.parametrize(("run", "cut"), [(1, (0,)), (0, (1,))])
def test_one_run_position_becomes_the_others_cut(run: Any, cut: Any) -> None:
    data = old(motors=True)
    data["program"]["guard"] |= {"run_position": run, "stick": "elevator_stick", "threshold": 40.0}
    guard = opened(data).program.guard
    assert guard.cut == cut and guard.threshold == -90 and guard.relock_s == 0.5
    data["program"]["guard"] |= {"switch": "switch_c", "run_position": 2, "relock_s": 1.0}
    assert opened(data).program.guard.cut == (0, 1) and opened(data).program.guard.relock_s == 1.0
    data["program"]["guard"] |= {"switch": "nowhere", "run_position": 1}
    assert migrated(data)["program"]["guard"]["cut"] == [0]


@pytest.mark.parametrize("run", [0, 0.0, "0", "0.0", " 0 "])
def test_a_run_position_is_read_as_a_number_however_it_was_written(run: Any) -> None:
    data = old(motors=True)
    data["program"]["guard"]["run_position"] = run
    assert opened(data).program.guard.cut == (1,)
    data["program"]["guard"]["run_position"] = "first"
    assert any("run_position" in text for text in file_problems(json.dumps(data), "old"))


@pytest.mark.parametrize(
    ("fields", "idle"),
    [({}, 1000.0), ({"direction": -1}, 2000.0), ({"travel_neg": 80.0}, 1100.0), ({"centre": 4.0}, 1020.0),
     ({"direction": -1, "stop_pos": 90.0}, 1950.0)],
)  # fmt: skip
def test_the_idle_of_a_motor_is_the_pulse_that_was_sent_there(fields: Any, idle: Any) -> None:
    data = old([line("left_motor", "thrust")], motors=True)
    lead = next(x for x in data["leads"] if x["target"] == "left_motor")
    lead |= fields
    model = opened(data)
    assert next(x for x in model.leads if x.target == "left_motor").idle_us == idle
    still = compile_plan(model).run(Situation(np.zeros(1)))
    assert (
        still.outputs["left_motor"].us[-1] == idle and still.outputs["left_motor"].stand[-1] == -100
    )


@pytest.mark.parametrize(
    ("mixes", "rates", "more"),
    [
        (
            [line("left_motor", "thrust"), line("left_motor", "full", 200.0, combine="scale")],
            (100.0, 100.0),
            True,
        ),
        (
            [line("left_motor", "thrust"), line("left_motor", "full", 50.0, combine="scale")],
            (100.0, 100.0),
            False,
        ),
        ([line("left_motor", "thrust")], (150.0, 60.0), True),
        ([line("left_motor", "thrust")], (60.0, 60.0), False),
        ([line("left_motor", "thrust")], (100.0, 100.0), False),
        (
            [{"name": "old", "target": "left_motor", "source": "thrust"}],
            (100.0, 100.0),
            False,
        ),  # without a gain it was 100
    ],
)
def test_more_power_than_before_waits_for_a_yes(mixes: Any, rates: Any, more: Any) -> None:
    data = old(mixes, motors=True)
    thrust = next(a for a in data["program"]["axes"] if a["command"] == "thrust")
    thrust["settings"] = [{"rate_neg": rates[0], "rate_pos": rates[1], "expo": 0.0}]
    model = opened(data)
    said = model.program.guard.unconfirmed
    assert bool(said) == more and all("where the older version gave" in x for x in said)
    plan, t = compile_plan(model), 0.02 * np.arange(100)
    hands = {
        "motor_switch": np.where(t > 1, 1.0, 0.0),
        "throttle_stick": np.where(t > 1.5, 100.0, -100.0),
    }
    assert (plan.run(Situation(t, hands)).outputs["left_motor"].stand[-1] > -100) != more
    agreed = model.changed(
        {
            "program": model.program.changed(
                {"guard": model.program.guard.changed({"unconfirmed": ()})}
            )
        }
    )
    assert compile_plan(agreed).run(Situation(t, hands)).outputs["left_motor"].stand[-1] > -100


@pytest.mark.parametrize(("direction", "idle"), [(1, 1000.0), (-1, 2000.0)])
@pytest.mark.parametrize("said", [True, False])
def test_a_motors_idle_is_the_pulse_that_it_got(direction: Any, idle: Any, said: Any) -> None:
    """Also where the transmitter of the older document does not say its centre and slope: they are
    the usual ones."""
    data = old(motors=True)
    for lead in data["leads"]:
        lead["direction"] = direction if lead["target"] == "left_motor" else lead["direction"]
    for key in () if said else ("centre_us", "us_per_percent"):
        data["transmitter"].pop(key, None)
    assert next(x for x in opened(data).leads if x.target == "left_motor").idle_us == idle


def test_a_trim_for_a_mode_that_is_gone_was_taken() -> None:
    data = old()
    data["program"]["modes"] = [{"name": "base", "label": "Base"}]
    data["program"]["axes"][0]["trim"] = {"scope": "per mode", "by_mode": {"base": 3, "gone": 5}}
    assert opened(data).program.axes[0].trim.by_mode == {"base": 3}


ODD: Any = (
    None,
    3,
    -1.5,
    1e400,
    True,
    "x",
    "",
    [],
    {},
    [1],
    {"a": 1},
    [[]],
    [{}],
    "\u0000",
    float("nan"),
)


def deep(levels: Any) -> Any:
    out: Any = []
    for _ in range(levels):
        out = [out]
    return out


def mutated(data: Any, dice: Any) -> Any:
    """A copy of a document with one to three places of it replaced by something odd."""
    data = copy.deepcopy(data)
    for _ in range(dice.randint(1, 3)):
        at, way = data, []  # type: ignore[var-annotated]
        while isinstance(at, dict | list) and at and (len(way) < 1 or dice.random() < 0.8):
            key = dice.choice(list(at)) if isinstance(at, dict) else dice.randrange(len(at))
            way.append((at, key))
            at = at[key]
        held, key = way[-1]
        if key in ("format", "schema_version"):
            continue
        odd = (
            deep(dice.choice((3, 900))) if dice.random() < 0.06 else copy.deepcopy(dice.choice(ODD))
        )
        if isinstance(held, dict) and dice.random() < 0.2:
            held[
                dice.choice(
                    ("name", "positions", "run_position", "by_mode", "points", "when", "scale")
                )
            ] = odd
        else:
            held[key] = odd
    return data


def test_no_mutation_of_an_old_document_ends_otherwise_than_in_our_words() -> None:
    import random

    from hypsos.core.base.errors import HypsosError

    logic = [{"kind": "any", "name": "guard", "of": ["switch_b@1"]}]
    flaps = {
        "kind": "flaps",
        "label": "F",
        "surfaces": ["left_flap"],
        "control": "switch_b",
        "positions": [{"flap": 0}, {"flap": 40}],
    }
    mixes = [
        line("left_motor", "thrust", 200.0, response={"points": [[-100, -100], [100, 100]]}),
        line("left_motor", "full", 200.0, combine="scale"),
    ]
    base = old(
        mixes, [flaps], motors=True, logic=logic, modes=[{"name": "base", "presets": {"rudder": 3}}]
    )
    dice, refused = random.Random(7), 0
    for _ in range(1500):
        text = json.dumps(mutated(base, dice))
        try:
            from_json(text, "old")
        except HypsosError:
            refused += 1
    assert refused > 750


def test_flap_recipes_get_signals_of_their_own_and_new_words() -> None:
    fields = {
        "control": "switch_c",
        "positions": [{"flap": 0.0}, {"flap": 30.0}, {"flap": 80.0}],
        "slow_up_s": 1.5,
        "slow_down_s": 3.0,
    }
    flaps = {"kind": "flaps", "label": "Flaps", "surfaces": ["left_flap"]} | fields
    droop = {"kind": "flaperons", "label": "Droop", "surfaces": ["left_aileron"]} | fields
    model = opened(old([line("elevator", "flap", 10.0)], [flaps, droop]))
    assert [r.signal for r in model.program.recipes] == ["flap", "flap_2"]
    assert (model.program.recipes[0].in_s, model.program.recipes[0].out_s) == (1.5, 3.0)
    assert settled(compile_plan(model), {"switch_c": 2}).sums["elevator"][-1] == pytest.approx(8)


def test_differential_thrust_starts_no_motor_at_idle() -> None:
    recipe = {
        "kind": "differential_thrust",
        "label": "D" * 70,
        "left": ["left_motor"],
        "right": ["right_motor"],
        "inner": 140.0,
    }
    mixes = [line("left_motor", "thrust"), line("right_motor", "thrust")]
    model = opened(old(mixes, [recipe], motors=True))
    assert model.program.recipes[0].signal == "turn_power"
    twice = opened(old(mixes, [recipe, recipe], motors=True))
    assert [r.signal for r in twice.program.recipes] == ["turn_power", "turn_power_2"]
    made = model.program.recipes[0]
    assert (made.at_idle, made.inner, len(made.label)) == ("none", 100.0, 60)
    assert settled(compile_plan(model), {"rudder_stick": 100}).sums["left_motor"][-1] == -100


@pytest.mark.parametrize(("seconds", "kept"), [(0.0, 0.1), (1.0, 1.0), (60.0, 5.0)])
def test_the_wait_of_the_failsafe_has_bounds(seconds: Any, kept: Any) -> None:
    data = old()
    data["receiver"]["failsafe_after_s"] = seconds
    assert opened(data).receiver.failsafe_after_s == kept and opened(data).receiver.stored


def test_names_that_have_a_meaning_of_their_own_are_changed_everywhere() -> None:
    logic = [
        {"kind": "any", "name": "guard", "label": "Guarded", "of": ["switch_b@1"]},
        {"kind": "not", "name": "mode", "of": ["guard"]},
    ]
    model = opened(old([line("left_flap", "full", 30.0, when="!guard")], logic=logic))
    assert [x.name for x in model.program.logic] == ["guard_switch", "mode_switch"]
    assert model.program.mixes[-1].when == "!guard_switch" and model.program.logic[1].of == (
        "guard_switch",
    )
    assert settled(compile_plan(model), {"switch_b": 0}).sums["left_flap"][-1] == 30
    data = json.loads(
        json.dumps(model.model_dump(mode="json")).replace("switch_b", "flight_battery")
    )
    made = opened(data | {"schema_version": 2})
    assert (
        made.transmitter.control("flight_battery_switch")
        and made.transmitter.control("flight_battery") is None
    )
    assert made.program.logic[0].of == ("flight_battery_switch@1",)


@pytest.mark.parametrize("what", ["program", "leads", "transmitter", "airframe", "receiver"])
@pytest.mark.parametrize(
    "value", [None, 3, [], {}, "x", [1, None], {"guard": 5, "mixes": [3], "recipes": {"a": 1}}]
)
def test_what_is_no_document_is_left_for_the_check_to_name(what: Any, value: Any) -> None:
    data = old(motors=True)
    data[what] = value
    found = file_problems(json.dumps(data), "old")
    assert all(text.startswith("old") and "Traceback" not in text for text in found)


def test_a_slow_behind_a_shared_value_is_as_fast_as_it_was() -> None:
    tunable = {"name": "bite", "value": 40.0}
    data = old(
        [line("left_flap", "switch_c", -25.0, gain_from="bite", slow_up_s=1.0, slow_down_s=2.0)],
        tunables=[tunable],
    )
    t = 0.02 * np.arange(200)
    out = (
        compile_plan(opened(data))
        .run(Situation(t, {"switch_c": np.where(t > 0.1, 2.0, 0.0)}))
        .sums["left_flap"]
    )
    change = np.diff(out)
    assert change.min() == pytest.approx(
        -100 * 0.02 / 2.0
    )  # 100 % of the output in two seconds, downwards


def test_the_states_of_the_guard_have_had_other_names() -> None:
    """Up to version 3 they were stopped and released; conditions, captions and labels that the
    program made change with them."""
    trainer = TEMPLATES["trainer"].make("Trial").changed({"note": "Mine."})
    present = with_ready_set(with_ready_set(trainer, "motor"), "flight")
    text = to_json(present)
    assert {"guard:cut", "guard:armed", "!guard:armed"} <= set(
        re.findall(r'"(!?guard:[a-z]+)"', text)
    )
    for new, old_word in (
        ("guard:cut", "guard:stopped"), ("guard:armed", "guard:released"), ('"Motor cut"', '"Motor stopped"'),
        ('"Motor armed"', '"Motor released"'), ("First arming of a flight", "First release of a flight"),
        ('"schema_version": 4', '"schema_version": 3'),
    ):  # fmt: skip
        assert new in text
        text = text.replace(new, old_word)
    kept = text.replace('"note": "', '"note": "guard:released, Motor released. ')
    assert from_json(text) == present
    assert from_json(kept).note.startswith(
        "guard:released, Motor released. "
    )  # a pilot's own words stay
