# SPDX-License-Identifier: GPL-3.0-or-later
"""The same aeroplane on different transmitters: reduced, translated, proved."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import random_models
from faulty import demo_model
from settings_mutants import mutants

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.situation import Situation
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools import SCHOOLS, reduced
from hypsos.core.schools.costs import cost, motor_cost, priced
from hypsos.core.schools.figures import in_steps
from hypsos.core.schools.keying import Keying, keying, proved
from hypsos.core.schools.proof import Prover, TranslationProof
from hypsos.core.schools.proof_moves import Battery, MoveMaker, hands_of
from hypsos.core.schools.proof_words import NO_OUTPUT, rounding_words
from hypsos.core.schools.reductions.plain_form import percent_of_degrees
from hypsos.core.schools.settings_reader import (
    settings_from_json,
    settings_schema,
    settings_to_json,
)
from hypsos.core.schools.stand_in.machine import Moves, simulate
from hypsos.core.schools.stand_in.parts import Radio, Share, Sum
from hypsos.core.schools.sum_ends import ends_of_sums
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import make_sheet
from hypsos.core.sheet.keyed_work import work_out

MODELS = ("Samphire", "Marram", "Skerry", "Whinlark", "Sorrel", "Tidewrack", "Sandpiper")


def transmitter(name: str) -> Profile:
    return next(p for p in shipped() if p.name == name)


# -- translated and proved ---------------------------------------------------------------------------


@pytest.mark.parametrize("name", MODELS)
@pytest.mark.parametrize("where", ["Sill", "Groyne", "Headland"])
def test_every_demo_model_sends_the_same_pulses_on_every_transmitter(name: str, where: str) -> None:
    made = keying(demo_model(name.lower()), transmitter(where))
    exact, rounded = made.radio(made.exact), made.radio(made.settings)
    found = Prover(made.reduced.model, exact, rounded).run(0.04, in_minutes=False)
    assert found.fault is None
    assert found.situations > 50
    # what typing in steps does stays in the size of a step
    assert found.rounding.us < 20
    if where == "Headland":
        assert made.reduced.lacks == ()


def test_a_design_without_lacks_flies_as_it_did() -> None:
    """What Headland needs no reduction for is still the design: mixes for behaviours, percent for
    degrees."""
    for name in ("Skerry", "Marram"):
        model = demo_model(name.lower())
        made = reduced(model, transmitter("Headland")).model
        battery = MoveMaker(model, (), 0.1).looks()
        assert {c.name for c in made.transmitter.controls} == {
            c.name for c in model.transmitter.controls
        }
        runs = [
            compile_plan(x).run(Situation.of(battery.t_s, battery.tracks)) for x in (model, made)
        ]
        for lead in model.leads:
            one, two = (r.outputs[lead.name].us for r in runs)
            # of a curve through a linkage, 17 points are left
            assert float(np.abs(one - two).max()) < 1.5


def test_minutes_of_moves_with_drop_outs_are_equal_too() -> None:
    made = keying(demo_model("skerry"), transmitter("Groyne"))
    found = proved(made)
    assert found.fault is None
    assert found.difference is None
    assert found.seconds > 8 * 60


@pytest.mark.parametrize("seed", [35, 58, 124, 140, 239, 1092, 1190])
def test_random_models_are_reduced_and_play_alike(seed: int) -> None:
    model = random_models.made(seed, seed % 2 == 1)
    for profile in shipped():
        try:
            made = keying(model, profile)
        except HypsosError:  # a motor that is not off at idle is mended first
            continue
        exact, rounded = made.radio(made.exact), made.radio(made.settings)
        found = Prover(made.reduced.model, exact, rounded).run(0.02, in_minutes=False)
        assert found.fault is None, (profile.name, found.fault)


# -- what is lacking ---------------------------------------------------------------------------------

TAKEN_AWAY = {
    "outputs": ({"outputs": 5}, "Samphire", "output"),
    "mixes": ({"mixes": 5}, "Samphire", "mixes"),
    "sums": ({"sums": 0}, "Marram", "sums"),
    "modes": ({"modes": 3}, "Marram", "mode"),
    "points": ({"curve_points": 3}, "Marram", "curve"),
    "logic": ({"logic": 10}, "Marram", "conditions"),
    "timers": ({"timers": 0}, "Samphire", "timer"),
    "levers": ({"trim_levers": ("pitch", "yaw")}, "Samphire", "trim lever"),
}


@pytest.mark.parametrize("what", sorted(TAKEN_AWAY))
def test_what_a_transmitter_has_too_few_of_is_in_the_list(what: str) -> None:
    fields, name, kind = TAKEN_AWAY[what]
    profile = transmitter("Headland").changed(fields)
    assert kind in {lack.kind for lack in reduced(demo_model(name.lower()), profile).lacks}
    _plays_alike(demo_model(name.lower()), profile)


@pytest.mark.parametrize("name", ["marram", "tidewrack", "samphire", "skerry", "whinlark"])
def test_both_sides_have_outputs_or_none(name: str) -> None:
    """One flap of a pair, or one lower aileron, would have been plugged in alone."""
    model = demo_model(name)
    for outputs in range(2, 10):
        made = reduced(model, transmitter("Headland").changed({"outputs": outputs})).model
        plugged = {x.target for x in made.leads if x.port is not None}
        assert len({x.port for x in made.leads if x.port is not None}) <= outputs
        for part in plugged:
            assert (model.airframe.other_side(part) or part) in plugged, (outputs, part)
        # of a single part there is none left out while an output is free
        free = outputs - len({x.port for x in made.leads if x.port is not None})
        alone = [x for x in made.leads if model.airframe.other_side(x.target) is None]
        assert not free or all(x.port is not None for x in alone), outputs


def test_a_wheel_gives_way_to_what_lets_a_sailplane_go() -> None:
    """Samphire is a tug: on six outputs it had its tail wheel, and no tow release."""
    made = reduced(demo_model("samphire"), transmitter("Sill"))
    ports = {x.target: x.port for x in made.model.leads}
    assert ports["tail_wheel"] is None and ports["tow_release"] == 6
    assert any("from the rudder" in x.help for x in made.lacks)


ABILITIES = {
    "slow": ("Samphire", "slow"),
    "fade": ("Marram", "fade"),
    "smooth": ("Marram", "curve"),
    "product": ("Skerry", "product"),
    "memory": ("Samphire", "guard"),
    "delays": ("Marram", "delay"),
    "link": ("Samphire", "guard"),
    "voice": ("Samphire", "voice"),
    "shared": ("Whinlark", "shared value"),
}


@pytest.mark.parametrize("ability", sorted(ABILITIES))
def test_what_a_transmitter_is_not_able_to_is_in_the_list(ability: str) -> None:
    name, kind = ABILITIES[ability]
    able = transmitter("Headland")
    profile = able.changed({"can": tuple(x for x in able.can if x != ability)})
    assert kind in {lack.kind for lack in reduced(demo_model(name.lower()), profile).lacks}
    _plays_alike(demo_model(name.lower()), profile)


@pytest.mark.parametrize("control", ["left_b", "left_c", "right_b", "right_c", "right_six"])
def test_a_switch_that_is_missing_is_in_the_list_once_there_is_none_left(control: str) -> None:
    few = transmitter("Headland")
    left = tuple(c for c in few.controls if c.kind != "switch" or c.name in ("right_a", control))
    found = reduced(demo_model("skerry"), few.changed({"controls": left}))
    assert "control" in {lack.kind for lack in found.lacks}


def _plays_alike(model: Model, profile: Profile) -> None:
    made = keying(model, profile)
    exact, rounded = made.radio(made.exact), made.radio(made.settings)
    assert Prover(made.reduced.model, exact, rounded).run(0.02, in_minutes=False).fault is None


def test_a_motor_without_a_switch_to_cut_it_is_refused() -> None:
    bare = transmitter("Sill")
    sticks = tuple(c for c in bare.controls if not c.is_switch)
    with pytest.raises(HypsosError, match="cut the motor"):
        reduced(demo_model("samphire"), bare.changed({"controls": sticks}))


def test_lacks_of_a_motor_stand_first_and_say_what_it_does() -> None:
    found = reduced(demo_model("samphire"), transmitter("Sill"))
    assert found.lacks[0].motor
    assert "Stick low first" in found.lacks[0].help
    told = priced(found)
    assert told[0].motor
    words = " ".join(told[0].cost)
    assert "starts at once with 100 % power" in words
    assert "Motor switch to run" in words


def test_a_cost_is_in_millimetres_with_the_hands_that_show_it() -> None:
    found = reduced(demo_model("skerry"), transmitter("Sill"))
    stage = next(s for s in found.stages if s.lacks[0].kind == "control")
    told = " ".join(cost(stage.before, stage.after))
    assert "Left flaperon: up to 10.8 mm elsewhere" in told
    assert "Rates switch at high, aileron stick at −100 %" in told
    assert motor_cost(stage.before, stage.after) == ()


def test_three_lines_of_differential_thrust_never_stay_without_the_fourth() -> None:
    """Without the line that fades it in, the others would turn a motor at idle."""
    for where in ("Sill", "Groyne"):
        model = reduced(demo_model("skerry"), transmitter(where)).model
        plan = compile_plan(model)
        hands = {"rudder_stick": [[100.0]], "motor_switch": [[2.0]], "throttle_stick": [[-100.0]]}
        known = {n: np.array(x) for n, x in hands.items()}
        result = plan.run(Situation.of(np.zeros(1), known), instant=True)
        assert all(float(told.max()) <= -100.0 for told in result.told.values())


# -- settings as files -------------------------------------------------------------------------------


@pytest.mark.parametrize("where", ["Sill", "Groyne", "Headland"])
def test_settings_go_out_and_come_in_the_same(where: str) -> None:
    made = keying(demo_model("skerry"), transmitter(where))
    text = settings_to_json(made.settings)
    assert settings_from_json(text) == made.settings
    jsonschema_like = settings_schema()["oneOf"]
    assert {x["properties"]["school"]["const"] for x in jsonschema_like} == set(SCHOOLS)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: "not JSON", "damaged or is not JSON"),
        (lambda d: json.dumps({**d, "format": "other"}), "not settings written by Hypsos"),
        (lambda d: json.dumps({**d, "version": 9}), "from a newer Hypsos"),
        (lambda d: json.dumps({**d, "school": "by colour"}), "no school by colour"),
        (lambda d: json.dumps({**d, "surplus": 1}), "surplus"),
        (lambda d: json.dumps(d) + " " * 2_000_001, "at most 2,000,000 letters"),
    ],
)
def test_a_file_that_is_no_settings_is_said_in_a_sentence(
    change: Callable[[dict[str, Any]], str], words: str
) -> None:
    made = keying(demo_model("skerry"), transmitter("Groyne"))
    data = json.loads(settings_to_json(made.settings))
    with pytest.raises(HypsosError, match=words):
        settings_from_json(change(data), "mine.json")


def test_settings_of_another_model_or_with_a_name_that_isnt_there_are_refused() -> None:
    made = keying(demo_model("skerry"), transmitter("Groyne"))
    other = keying(demo_model("sorrel"), transmitter("Groyne")).settings
    with pytest.raises(HypsosError, match="the settings of Sorrel, not of Skerry"):
        proved(made, other)
    text = settings_to_json(made.settings).replace('"master": "yaw"', '"master": "sway"')
    with pytest.raises(HypsosError, match="asks for sway, which isn't there"):
        proved(made, settings_from_json(text))
    many = settings_to_json(made.settings).replace(
        '"mixes": [', '"mixes": [' + '{"master":"yaw","to":"rudder"},' * 10_000
    )
    with pytest.raises(HypsosError):
        settings_from_json(many)


# -- the prover is put to the test -------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "where"), [("Samphire", "Sill"), ("Skerry", "Groyne"), ("Skerry", "Headland")]
)
def test_a_changed_setting_that_changes_a_pulse_is_found(name: str, where: str) -> None:
    """A sample of all changes: what the prover does not find, other moves don't find either."""
    made = keying(demo_model(name.lower()), transmitter(where))
    base, model = made.radio(made.settings), made.reduced.model
    mine = MoveMaker(model, [base], 0.05).looks()
    others = MoveMaker(model, [base], 0.15)
    others._rng = np.random.default_rng(4711)
    check = others.looks()
    every = list(mutants(made.settings))
    found = changes = 0
    for i in np.random.default_rng(3).permutation(len(every))[:24].tolist():
        radio = _radio(made, every[i][1])
        if radio is None or radio == base:
            continue
        seen = _differs(base, radio, mine)
        if not seen and _differs(base, radio, check):
            # the quick look did not show it: the whole proof has to
            seen = Prover(model, base, base, radio).run(0.3).difference is not None
            assert seen, every[i][0]
        changes += seen
        found += seen
    assert changes >= 4
    assert found == changes


def test_arming_with_a_motor_that_a_rudder_raises_is_played() -> None:
    """The stick is nearly low, full rudder raises one motor beyond what counts as low: a guard that
    takes more for low arms there. The proof has to go there by intent: chance met it in one of two
    draws."""
    made = keying(demo_model("skerry"), transmitter("Headland"))
    base, model = made.radio(made.settings), made.reduced.model
    armings = MoveMaker(model, [made.radio(made.exact), base]).armings()
    for place, rule in enumerate(made.settings.logic):
        if rule.name in ("guard_left_motor", "guard_right_motor"):
            for more in (1.0, 10.0):
                other = rule.changed({"level": rule.level + more})
                logic = (*made.settings.logic[:place], other, *made.settings.logic[place + 1 :])
                radio = made.radio(made.settings.changed({"logic": logic}))
                assert _differs(base, radio, armings), (rule.name, more)


def test_every_sum_is_brought_to_its_ends() -> None:
    """As low and as high as any of all corners brings it. Chance had not brought an aileron of
    Tidewrack to where its limit acts: full stick, brakes and knife edge together."""
    model = keying(demo_model("skerry"), transmitter("Headland")).reduced.model
    hands = hands_of(model, ())
    ends = {n: x if n in hands.switches else (x[0], x[-1]) for n, x in hands.places.items()}
    targets = [x.target for x in model.leads if x.target not in ("left_motor", "right_motor")]
    rng = np.random.default_rng(1)
    found = ends_of_sums(model, targets, ends, hands.rest, rng)
    corners = [dict(zip(ends, x, strict=True)) for x in itertools.product(*ends.values())]
    everywhere = settled_together(compile_plan(model), corners).sums
    for target, (low, high) in zip(targets, found, strict=True):
        there = settled_together(compile_plan(model), [low, high]).sums[target][:, -1]
        all_of = everywhere[target][:, -1]
        assert there == pytest.approx([all_of.min(), all_of.max()])
    made = keying(demo_model("tidewrack"), transmitter("Headland"))
    base = made.radio(made.settings)
    looks = MoveMaker(made.reduced.model, [made.radio(made.exact), base]).looks()
    for field in ("low", "stop_below"):
        first, *others = made.settings.outputs
        other = made.settings.changed({"outputs": (first.changed({field: -140.0}), *others)})
        assert _differs(base, made.radio(other), looks), field


@pytest.mark.parametrize("less", [1.0, 10.0])
def test_a_hand_comes_to_where_it_is_compared_from_both_ends(less: float) -> None:
    """Marram's climb ends a little lower than it begins; only who comes down from above, and stops
    between, sees where."""
    made = keying(demo_model("marram"), transmitter("Headland"))
    base = made.radio(made.settings)
    played = MoveMaker(made.reduced.model, [made.radio(made.exact), base]).crossings()
    place = next(i for i, x in enumerate(made.settings.logic) if x.name == "stick_up_stay")
    rule = made.settings.logic[place]
    other = rule.changed({"level": rule.level - less})
    logic = (*made.settings.logic[:place], other, *made.settings.logic[place + 1 :])
    assert played is not None
    assert _differs(base, made.radio(made.settings.changed({"logic": logic})), played)


@pytest.mark.parametrize("name", ["marram", "whinlark"])
def test_a_receiver_that_hears_nothing_when_it_is_switched_on_is_played(name: str) -> None:
    """One that keeps its failsafe only while it is on sends nothing then, also to a motor."""
    made = keying(demo_model(name), transmitter("Groyne"))
    base = made.radio(made.settings)
    played = MoveMaker(made.reduced.model, [made.radio(made.exact), base]).beginnings()
    safe = made.settings.failsafe
    other = made.settings.changed({"failsafe": safe.changed({"stored": not safe.stored})})
    assert _differs(base, made.radio(other), played)


@pytest.mark.parametrize("name", ["guard_again", "guard_link_back", "guard_long_loss"])
def test_what_stops_a_running_motor_for_a_while_is_played(name: str) -> None:
    """A second more of what the guard waits for: after the landing mode, after a link that came back
    between two losses, after a long one."""
    made = keying(demo_model("marram"), transmitter("Headland"))
    base, model = made.radio(made.settings), made.reduced.model
    played = MoveMaker(model, [made.radio(made.exact), base]).interruptions()
    place = next(i for i, x in enumerate(made.settings.logic) if x.name == name)
    rule = made.settings.logic[place]
    other = rule.changed({"seconds": rule.seconds + 1.0})
    logic = (*made.settings.logic[:place], other, *made.settings.logic[place + 1 :])
    assert _differs(base, made.radio(made.settings.changed({"logic": logic})), played)


def _radio(made: Keying, settings: Any) -> Radio | None:
    try:
        radio: Radio = made.radio(settings)
        simulate(radio, Moves(np.zeros(1), {}))
    except HypsosError:
        return None
    return radio


def _differs(one: Radio, two: Radio, battery: Battery) -> bool:
    mine, theirs = (simulate(r, Moves(battery.t_s, battery.tracks)) for r in (one, two))
    if mine.keys() != theirs.keys():
        return True
    return any(float(np.abs(mine[p] - theirs[p]).max()) > 1.0 for p in mine)


def test_a_wrong_figure_is_told_with_its_place_its_size_and_the_way() -> None:
    made = keying(demo_model("skerry"), transmitter("Groyne"))
    text = settings_to_json(made.settings)
    servo = next(x for x in made.settings.servos if x.part == "left_flaperon")
    wrong = servo.takes[0].changed({"above": servo.takes[0].above + 20.0})
    data = json.loads(text)
    for written in data["servos"]:
        if written["part"] == "left_flaperon":
            written["takes"][0] = json.loads(wrong.model_dump_json())
    found = proved(made, settings_from_json(json.dumps(data)))
    assert found.fault is None
    assert found.difference is not None
    assert found.difference.lead == "left_flaperon"
    # 20 % more of the command, which goes to 125 % with its trim: 125 µs
    assert found.difference.size_us == pytest.approx(125.0, abs=1.0)
    assert found.difference.mm is not None
    assert found.difference.mm > 3
    # only what leads there: the stick, and the trim that goes on top of it
    assert {act.control for act in found.difference.way} == {"aileron_stick", "roll_trim"}


# -- figures -----------------------------------------------------------------------------------------


def test_a_value_that_no_step_reaches_is_rounded_and_said() -> None:
    assert in_steps(12.5, 1.0) == 13.0
    assert in_steps(-12.5, 1.0) == -13.0
    assert in_steps(12.3, 0.5) == 12.5
    coarse = transmitter("Headland").changed({"weight_step": 5.0})
    model = demo_model("samphire")
    made = keying(model, coarse)
    exact, rounded = made.radio(made.exact), made.radio(made.settings)
    found = Prover(made.reduced.model, exact, rounded).run(0.05, in_minutes=False)
    assert found.fault is None
    # the flaps' 36 % and 64 % become 35 and 65, the elevator's 4 and 9 become 5 and 10
    assert 4.9 < found.rounding.us < 40
    assert found.rounding.mm > 0.1


# -- worked by hand ----------------------------------------------------------------------------------

CASES = json.loads((Path(__file__).parent / "data" / "schools.json").read_text(encoding="utf-8"))
STICKS = ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick")


@pytest.mark.parametrize("case", CASES, ids=[f"{c['school']}: {c['why'][:50]}" for c in CASES])
def test_a_case_worked_by_hand(case: dict[str, Any]) -> None:
    """A few settings, hands moved after a tenth of a second, and the pulses that come out."""
    given = case["settings"]
    hands = [{"name": n, "positions": 0, "rest": -100 * (n == "throttle_stick")} for n in STICKS]
    head = {
        "school": case["school"], "model": "Case", "transmitter": "Case",
        "failsafe": {"after_s": 1, "ports": {str(x["port"]): {} for x in given["outputs"]}},
    }  # fmt: skip
    whole = {**head, **given, "hands": [*hands, *given.get("hands", [])]}
    school = SCHOOLS[case["school"]]
    radio = school.radio(school.settings.model_validate(whole))
    frames = round(case["after_s"] / 0.02) + 1
    t = np.arange(frames) * 0.02
    rest = {h.name: h.rest for h in radio.hands} | {x.name: x.start for x in radio.levers}
    tracks = {}
    for name, value in case["hands"].items():
        tracks[name] = np.where(t >= 0.1 - 1e-9, value, rest[name])
    if "link_lost_at" in case:
        tracks["link"] = np.where(t >= case["link_lost_at"] - 1e-9, 0.0, 1.0)
    sent = simulate(radio, Moves(t, tracks))
    found = {str(port): float(us[0, -1]) for port, us in sent.items()}
    assert found == pytest.approx(case["expect"], abs=1e-6)


def test_each_school_has_a_dozen_worked_cases() -> None:
    for school in SCHOOLS:
        assert sum(c["school"] == school for c in CASES) >= 12


def test_what_is_more_than_can_be_keyed_in_is_refused_in_a_sentence(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def crowded(*_: object) -> Sum:
        return Sum(name="s", shares=(Share(source="full"),) * 1001)

    school = SCHOOLS["by lines"]._replace(translate=crowded)
    monkeypatch.setitem(SCHOOLS, "by lines", school)
    headland = next(p for p in shipped() if p.name == "Headland")
    with pytest.raises(HypsosError, match="at most 1000") as told:
        keying(demo_model("samphire"), headland)
    assert "Take some of it out" in told.value.plain


def test_a_linkage_that_bends_by_fewer_points_is_told_where_it_is_more_than_rounding() -> None:
    """The way from degrees to percent of Marram's inner flaps has more points than any of these
    transmitters; what is left out is the greatest distance from its true curve."""
    marram = demo_model("marram")
    flap = next(x for x in marram.airframe.surfaces if x.name == "left_inner_flap")
    lead = next(x for x in marram.leads if x.target == flap.name)
    true = Motion(lead, flap).by_angle()
    told = {}
    # the flaps have no outputs on Sill itself
    sill = keying(marram, transmitter("Sill")).reduced
    assert not sill.near and not any("degrees to percent" in x.need for x in sill.lacks)
    larger = transmitter("Sill").changed({"outputs": 10})
    for where, profile in (
        ("Sill", larger),
        ("Groyne", transmitter("Groyne")),
        ("Headland", transmitter("Headland")),
    ):
        made = keying(marram, profile)
        lacking = [x.need for x in made.reduced.lacks if "degrees to percent" in x.need]
        told[where] = bool(lacking)
        assert told[where] != bool(made.reduced.near)
        if lacking:
            assert "Left inner flap, Right inner flap" in lacking[0]
    assert told == {"Sill": True, "Groyne": True, "Headland": False}
    near = keying(marram, transmitter("Headland")).reduced.near[0]
    points = percent_of_degrees(marram, flap.name, 17).points
    degrees = np.linspace(points[0][0], points[-1][0], 2000)
    off = np.abs(np.interp(degrees, *zip(*points, strict=True)) - np.asarray(true(degrees)))
    assert near.us == pytest.approx(5.0 * off.max(), abs=0.02) and 1.0 < near.us < 2.5
    said = rounding_words(TranslationProof(1, 1.0, {}), (near, near._replace(label="Right")))
    assert said.endswith(
        "Left inner flap, Right: 17 points stand for the curve of the linkage, "
        "up to 1.4 µs, 0.5 mm besides."
    )


@pytest.mark.parametrize("template", ["trainer", "twin", "elevon_wing"])
def test_of_a_model_with_nothing_plugged_in_nothing_is_proved(template: str) -> None:
    """A new model is looked at on its sheet before its leads are plugged in; that ended in an error
    that nobody foresaw."""
    model = TEMPLATES[template].make("Trial")
    for profile in shipped():
        made = keying(model, profile)
        work = work_out(made)
        assert work.checks is not None
        assert not any(lack.motor for lack in made.reduced.lacks)
        assert work.lines(made) == (NO_OUTPUT,)
        blocks = {
            block.key for block in make_sheet(model, made, work.lacks, (), work.checks).blocks
        }
        assert "outputs" not in blocks and "guard test" not in blocks
        with pytest.raises(HypsosError, match="no pulse to compare"):
            proved(made, made.settings)
