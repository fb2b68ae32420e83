# SPDX-License-Identifier: GPL-3.0-or-later
"""The directions check: every single and double fault of every template is found, and nothing is
mended wrongly."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import pytest
from parts import wired

from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.detach import detached_all
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.apply_fix import marked, repair_words, repaired
from hypsos.core.fitting.direction_finder import WiringExplanation, check_of, find
from hypsos.core.fitting.practice_faults import practice, practice_with, really, single_faults
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes import Elevons
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import with_device
from hypsos.core.shape.templates import TEMPLATES


def solve(model: Model, check: Any, aeroplane: Any) -> Any:
    """Answer everything as this aeroplane shows it; returns what was settled on, and the questions
    it took."""
    truth = aeroplane.truth(model)
    seen, pulled = check.seen(truth), {}  # type: ignore[var-annotated]
    while True:
        found = find(check, seen, pulled)
        if found.question is None:
            return found.settled, len(pulled)
        assert len(found.question.answers) > 1 and len(pulled) < 4
        pulled[found.question.lead] = truth.on.get(found.question.lead, found.question.lead)


@pytest.mark.parametrize("key", [k for k in TEMPLATES if k != "bare"])
def test_every_fault_is_found_with_no_false_repair(key: Any) -> None:
    model = wired(key)
    check = check_of(model)
    faults = list(single_faults(check))
    doubles = list(itertools.combinations(faults, 2))
    for combination in [(f,) for f in faults] + doubles:
        aeroplane = practice_with(model, list(combination))
        settled_on, _ = solve(model, check, aeroplane)
        assert settled_on is not None, combination
        mended = repaired(model, check.repair(settled_on))
        left = aeroplane.truth(mended)
        now = replace(
            check, sense={x.target: x.direction for x in mended.leads if x.target in check.sense}
        )
        assert not left.reversed_ and all(now.alike(a, b) for a, b in left.on.items()), (
            combination,
            settled_on,
        )


def test_a_sound_aeroplane_needs_no_repair_and_a_question_only_where_two_leads_differ_in_amount() -> (
    None
):
    for key in (
        k for k in TEMPLATES if k != "bare"
    ):  # two leads that do the same may change places unasked
        model = wired(key)
        found, questions = solve(model, check_of(model), practice_with(model, []))
        assert questions == (
            key in ("trainer", "tug", "biplane")
        )  # rudder and wheel go the same way, not as far
        assert repair_words(model, check_of(model).repair(found)) == []


def test_ailerons_that_get_the_same_pulses_may_sit_in_each_others_ports() -> None:
    model = wired("trainer", right_aileron=-1)
    place = next(i for i, r in enumerate(model.program.recipes) if r.kind == "ailerons")
    for differential, alike in ((0.0, True), (20.0, False)):
        check = check_of(with_at(model, f"program.recipes[{place}].differential", differential))
        assert check.alike("left_aileron", "right_aileron") == alike
        swapped = [
            e
            for e in find(check, check.seen(WiringExplanation()), {}).explanations
            if "left_aileron" in e.on
        ]
        assert bool(swapped) != alike


def test_signs_of_hand_made_elevon_mixes() -> None:
    """Pitch written the wrong way round: no reversing and no swapping mends that, the mix must
    change."""
    model = wired("elevon_wing")
    lines = tuple(
        MixLine(name="elevons", target=t, source=s, gain=g)
        for t, s, g in (
            ("left_elevon", "roll", 50),
            ("left_elevon", "pitch", 50),
            ("right_elevon", "roll", -50),
            ("right_elevon", "pitch", 50),
        )
    )
    by_hand = with_at(with_at(model, "program.recipes", ()), "program.mixes", lines)
    found, _ = solve(by_hand, check_of(by_hand), practice_with(by_hand, []))
    repair = check_of(by_hand).repair(found)
    assert (
        repair.signs == (("pitch", "left_elevon"), ("pitch", "right_elevon")) and not repair.reverse
    )
    turned = check_of(by_hand).repair(WiringExplanation(reversed_=frozenset({"left_elevon"})))
    assert turned.reverse == {"left_elevon"} and set(turned.signs) == set(repair.signs)
    said = repair_words(by_hand, repair)
    assert len(said) == 2 and all("wrong on pitch: turn the sign of that mix" in x for x in said)
    mended = repaired(by_hand, repair)
    assert [m.gain for m in mended.program.mixes] == [50, -50, -50, -50]
    assert not check_of(mended).repair(find(check_of(mended), {}, {}).explanations[0])


def test_only_the_recipe_with_the_wrong_sign_is_detached() -> None:
    model = wired("canard_delta")
    at = next(i for i, r in enumerate(model.program.recipes) if r.kind == "elevons")
    twisted = Elevons(
        **{**dict(model.program.recipes[at]), "left": "right_elevon", "right": "left_elevon"}
    )
    model = with_at(model, f"program.recipes[{at}]", twisted)
    found, _ = solve(model, check_of(model), practice_with(model, []))
    mended = repaired(model, check_of(model).repair(found))
    assert [r.kind for r in mended.program.recipes] == ["canards"] and check_of(mended).repair(
        found
    ).signs == ()


def test_a_steered_wheel_goes_with_the_rudder_and_other_devices_as_the_model_says() -> None:
    model = adapted(
        wired("trainer"), with_device(wired("trainer").airframe, "tow release", True)
    ).model
    leads = tuple(x.model_copy(update={"port": i + 1}) for i, x in enumerate(model.leads))
    should = {
        n: (s.key, s.should.get(n))
        for s in check_of(model.model_copy(update={"leads": leads})).steps
        for n in s.moves
    }
    assert should["nose_wheel"] == ("yaw", 1) and should["tow_release"] == ("tow_button", None)
    more = (("nose_wheel", "roll"), ("tow_release", "yaw"), ("motor", "yaw"))
    also = tuple(MixLine(name="x", target=t, source=s) for t, s in more)
    both = with_at(
        model.model_copy(update={"leads": leads}), "program.mixes", (*model.program.mixes, *also)
    )
    rows = {s.key: s.should for s in check_of(both).steps}
    assert (
        "yaw_thrust" not in rows
        and "nose_wheel" not in rows["roll"]
        and "tow_release" not in rows["yaw"]
        and rows["yaw"]["nose_wheel"] == 1
    )


def test_reversal_belongs_to_the_output() -> None:
    """One wrong command is all a rudder has: the output is reversed, whether servo or mix is to
    blame."""
    model = wired("canard_delta")
    place = next(i for i, m in enumerate(model.program.mixes) if m.target == "rudder")
    wrong_mix = with_at(model, f"program.mixes[{place}].gain", -100.0)
    for trial, faults in (
        (wrong_mix, []),
        (model, [f for f in single_faults(check_of(model)) if f.reversed_ == {"rudder"}]),
    ):
        check = check_of(trial)
        found, _ = solve(trial, check, practice_with(trial, faults))
        repair = check.repair(found)
        assert (
            repair.reverse == {"rudder"}
            and not repair.signs
            and "reverse its output" in repair_words(trial, repair)[0]
        )


def test_a_servo_that_never_moves_has_no_simple_explanation() -> None:
    model = wired("tug")
    check = check_of(model)
    seen = check.seen(practice_with(model, []).truth(model))
    dead = {
        step: {n: 0 if n == "elevator" else v for n, v in row.items()} for step, row in seen.items()
    }
    assert find(check, dead, {}).explanations == ()


def test_five_servos_the_other_way_round_are_told_and_six_are_not() -> None:
    check = check_of(wired("canard_delta"))
    six = ("left_elevon", "right_elevon", "rudder", "left_canard", "right_canard", "motor")
    for count in (5, 6):
        truth = WiringExplanation(reversed_=frozenset(six[:count]))
        assert find(check, check.seen(truth), {}).explanations == (
            (truth,) if count == 5 else ()
        ), count


def test_the_question_asked_is_the_first_that_leaves_the_least_open() -> None:
    model = wired("biplane")
    check = check_of(model)
    asked = 0
    for pair in itertools.combinations(single_faults(check), 2):
        found = find(check, check.seen(practice_with(model, list(pair)).truth(model)), {})
        open_ = {}
        for lead in check.parts:
            told = [e.on.get(lead, lead) for e in found.explanations]
            if len(set(told)) > 1:
                open_[lead] = max(map(told.count, told))
        assert (found.question.lead if found.question else "") == min(
            open_, key=open_.__getitem__, default=""
        )
        if found.question is not None:
            steps = [s.key for s in check.steps if found.question.lead in s.moves]
            assert found.question.step == steps[0]
            asked += 1
    assert asked > 100


def test_the_practice_aeroplane_moves_as_its_wiring_says() -> None:
    model = wired("canard_delta")
    plan = compile_plan(model)
    first, again = practice(model, 7), practice(model, 7)
    assert first == again and first.truth(model).faults in (1, 2)
    swapped = practice_with(
        model, [f for f in single_faults(check_of(model)) if set(f.on) == {"left_elevon", "rudder"}]
    )
    result = settled(plan, {"rudder_stick": 100})
    shown = really(plan, result, swapped)
    assert shown.outputs["left_elevon"].stand[-1] == pytest.approx(
        result.outputs["rudder"].stand[-1]
    )
    assert shown.outputs["rudder"].stand[-1] == pytest.approx(
        result.outputs["left_elevon"].stand[-1]
    )


def test_what_was_seen_right_counts_only_for_that_port_and_direction() -> None:
    model = marked(wired("tug"), ["elevator"])
    place = next(i for i, x in enumerate(model.leads) if x.target == "elevator")
    assert model.leads[place].checked and sum(x.checked for x in model.leads) == 1
    assert not with_at(model, f"leads[{place}].direction", -1).leads[place].checked


@pytest.mark.parametrize(
    ("key", "left", "right"),
    [
        ("elevon_wing", "left_elevon", "right_elevon"),
        ("canard_delta", "left_elevon", "right_elevon"),
        ("v_tail_sailplane", "left_ruddervator", "right_ruddervator"),
        ("tug", "left_flaperon", "right_flaperon"),
    ],
)
@pytest.mark.parametrize("swapped", [False, True])
@pytest.mark.parametrize("turned", [(), ("left",), ("right",), ("left", "right")])
def test_all_eight_ways_in_which_a_coupled_pair_can_come_up(
    key: Any, left: Any, right: Any, swapped: Any, turned: Any
) -> None:
    model = wired(key)
    check = check_of(model)
    faults = [WiringExplanation({left: right, right: left})] if swapped else []
    faults += [
        WiringExplanation(reversed_=frozenset({left if side == "left" else right}))
        for side in turned
    ]
    aeroplane = practice_with(model, faults)
    found, _ = solve(model, check, aeroplane)
    assert found is not None and found.faults == len(faults)
    mended = repaired(model, check.repair(found))
    assert aeroplane.truth(mended).faults == 0
    said = repair_words(model, check.repair(found))
    assert len(said) == len(faults) and (not swapped or "each other's ports" in said[0])


def test_with_some_answers_still_open_the_truth_is_among_what_fits() -> None:
    """After the first movement alone, of which only what should have moved was looked at."""
    model = wired("canard_delta")
    check = check_of(model)
    for fault in single_faults(check):
        seen = check.seen(practice_with(model, [fault]).truth(model))
        step = check.steps[0]
        partly = {step.key: {n: seen[step.key][n] for n in step.moves}}
        fits = find(check, partly, {}).explanations
        same = [e for e in fits if (dict(e.on), e.reversed_) == (dict(fault.on), fault.reversed_)]
        harmless = all(seen[step.key][n] == step.expected(n) for n in step.moves)
        assert same or harmless, fault
        assert not harmless or any(e.faults == 0 for e in fits)


@pytest.mark.parametrize("key", ["elevon_wing", "canard_delta", "v_tail_sailplane", "biplane"])
def test_a_swap_that_hides_behind_a_wrong_sign_is_asked_about_first(key: Any) -> None:
    """One mix with the wrong sign and two leads in each other's ports: the first repair is right
    already."""
    model = wired(key)
    model = detached_all(model, range(len(model.program.recipes)))
    count = 0
    for i, line in enumerate(model.program.mixes):
        flawed = with_at(model, f"program.mixes[{i}].gain", -line.gain)
        check = check_of(flawed)
        step = next(
            (s for s in check.steps if s.key == line.source and line.target in s.should), None
        )
        for a, b in itertools.combinations(check.parts, 2) if step is not None else ():
            if line.target in (a, b):
                swapped = WiringExplanation({a: b, b: a})
                aeroplane = practice_with(flawed, [swapped])
                found, _ = solve(flawed, check, aeroplane)
                assert found is not None and check.repair(found) == check.repair(swapped), (
                    line.name,
                    a,
                    b,
                )
                count += 1
    assert count > 3
