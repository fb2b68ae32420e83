# SPDX-License-Identifier: GPL-3.0-or-later
"""Looking at each set of controls by itself comes to the same as looking everywhere."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from parts import from_parts
from random_models import made

from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.review.findings import Ask
from hypsos.core.review.rules.steering import Steering
from hypsos.core.review.search.influence import knobs_of
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.surface_search import SurfaceSearch
from hypsos.core.review.shakedown import shake

MODELS = ("tidewrack", "skerry", 7, 16, 18, 22, 37)


def _searched(name: str | int) -> SurfaceSearch:
    model = demo_model(name) if isinstance(name, str) else made(name)
    return SurfaceSearch(model, 600_000, lambda: False)


def _with_mixes(name: str, *mixes: dict[Any, Any]) -> Model:
    data = json.loads(demo_model(name).model_dump_json())
    data["program"]["mixes"] += [{"name": f"more {i}", **x} for i, x in enumerate(mixes)]
    return from_json(json.dumps(data))


@pytest.mark.parametrize("name", MODELS)
def test_a_sum_goes_as_far_as_where_every_case_is_looked_at_by_itself(name: Any) -> None:
    _goes_as_far(_searched(name))


def test_without_power_the_link_has_no_quality_to_add() -> None:
    """What the link's quality gives hangs on the receiver's power, though no line asks for it."""
    both = (
        {"target": "left_flaperon", "source": "link_quality", "gain": 77.0},
        {"target": "left_flaperon", "source": "full", "gain": -50.0, "when": "!power"},
    )
    _goes_as_far(SurfaceSearch(_with_mixes("samphire", *both), 600_000, lambda: False))


def _goes_as_far(search: SurfaceSearch) -> None:
    looked = 0
    for lead in search.leads:
        sampler = search.reachable.sampler((lead,))
        once, each = (
            SeparableInputs(search.reachable, sampler, (lead,), each=x) for x in (False, True)
        )
        assert len(once) <= len(each)
        sums = [search.looked(sampler, x.owners, x.numbers).sum(lead) for x in (once, each)]
        for a, b in zip(once.furthest(sums[0]), each.furthest(sums[1]), strict=True):
            there = search.looked(sampler, np.array([a[2]]), np.array([a[3]])).sum(lead)[0]
            assert a[1] == pytest.approx(b[1], abs=1e-9) and there == pytest.approx(a[1], abs=1e-9)
            looked += 1
    assert looked


@pytest.mark.parametrize("name", MODELS)
def test_what_is_left_of_a_command_is_what_is_left_wherever_the_hands_are(name: Any) -> None:
    search = _searched(name)
    for command in search.steered:
        mine = Steering(search, command)
        if not mine.ways or not len(mine.cases):
            continue
        fixed = {mine.stick: 0.0, **search.still((mine.stick,))}
        owners, numbers, whole = search.reachable.rows(mine.sampler, mine.cases, fixed, 2_000_000)
        everywhere = mine.looked(owners, numbers)
        for end, given in mine.given().items():
            i = int(given.left.argmin())
            assert whole and given.left[i] == pytest.approx(everywhere[end].min(), abs=0.01)
            at = mine.looked(given.owners[i : i + 1], given.numbers[i : i + 1])
            assert at[end][0] == pytest.approx(given.left[i], abs=1e-6)


def test_what_was_looked_at_for_some_cases_is_not_taken_for_others() -> None:
    search = _searched("whinlark")
    samplers = ((lead, search.reachable.sampler((lead,))) for lead in search.leads)
    lead, sampler = next(
        (lead, sampler) for lead, sampler in samplers if len(search.reachable.cases(sampler)) > 1
    )
    cases = search.reachable.cases(sampler)
    first = search.apart(sampler, (lead,), cases=cases[:1])
    assert search.apart(sampler, (lead,), cases=cases[:1].copy()) is first
    assert search.apart(sampler, (lead,), cases=cases).cases.tolist() == cases.tolist()


def test_nobody_is_asked_to_steer_without_the_link() -> None:
    model = _with_mixes(
        "samphire", {"target": "elevator", "source": "full", "gain": 5.0, "when": "!link"}
    )
    found = shake(Ask(model), ("S1",))
    assert not found.findings and found.searched[0].complete


def test_halves_that_a_stop_keeps_alike_are_looked_at_where_it_does_not() -> None:
    held = [
        {"source": "full", "gain": gain, "when": f"flap_switch@{at}", "target": f"{side}_flaperon"}
        for gain, at in ((150.0, 0), (-150.0, 2))
        for side in ("left", "right")
        for _ in range(2)
    ]
    one = {"target": "left_flaperon", "source": "pitch", "gain": 20.0}
    found = shake(Ask(_with_mixes("samphire", *held, one)), ("S3",))
    assert [f.confirmed for f in found.findings] == [True]
    assert "left flaperon" in found.findings[0].text.lower()


@pytest.mark.parametrize(("level", "complete"), [(50.0, True), (149.0, False)])
def test_what_compares_where_a_surface_stands_is_seen_both_ways_or_left_open(
    level: Any, complete: Any
) -> None:
    data = json.loads(demo_model("samphire").model_dump_json())
    data["program"]["logic"].append(
        {"kind": "above", "name": "high", "label": "High", "a": "elevator", "x": level}
    )
    data["program"]["announcements"].append({"caption": "High", "when": "high", "moment": "begins"})
    found = shake(Ask(from_json(json.dumps(data))), ("L2", "L5"))
    assert not found.findings
    assert [s.complete for s in found.searched] == [complete, complete]


def test_what_a_shared_value_bends_is_never_called_complete() -> None:
    """The slider moves the rate with which the stick goes through a response that turns back: most
    is between its ends."""
    points = ((-100.0, 0.0), (-50.0, -60.0), (0.0, 0.0), (50.0, 60.0), (100.0, 0.0))
    adjuster = Adjuster(kind="add", control="slider", amount=50)
    shared = Tunable(name="rate", low=0, high=100, value=50, adjuster=adjuster)
    line = MixLine(
        name="Flap", target="left_flap", source="pitch", gain=100, response=Response(points=points)
    )
    for flap, complete in ((line, False), (line.changed({"response": None}), True)):
        model = from_parts(
            mixes=(flap,), tunables=(shared,), settings={"pitch": Setting(rate_from="rate")}
        )
        found = shake(Ask(model), ("S1", "S2"))
        assert [s.complete for s in found.searched] == [True, complete], found.searched


def test_a_model_without_pairs_is_complete_there() -> None:
    model = from_parts()
    leads = tuple(x for x in model.leads if x.target in ("elevator", "rudder"))
    found = shake(Ask(model.changed({"leads": leads})), ("S3",))
    assert found.searched[0].complete and found.searched[0].situations == 0


@pytest.mark.parametrize(("count", "complete"), [(5, True), (15, False)])
def test_more_bends_than_are_searched_at_a_motor_are_said(count: Any, complete: Any) -> None:
    points = tuple(
        (-100.0 + 200.0 * i / count, -100.0 + 200.0 * i / count) for i in range(count + 1)
    )
    lines = tuple(
        MixLine(name=t, target=t, source="thrust", response=Response(points=points))
        for t in ("left_motor", "right_motor")
    )
    found = shake(Ask(from_parts(mixes=lines, motors=True)), ("M1", "M2"))
    assert [s.complete for s in found.searched] == [True, complete]


def test_a_knob_that_moves_the_curve_of_an_axis_acts_on_what_that_axis_moves() -> None:
    """Points of the roll curve go up and down with a slider: the ailerons hang on the stick and on
    the slider together."""
    live = Tunable(
        name="bend",
        low=-20,
        high=20,
        value=0,
        label="Bend",
        adjuster=Adjuster(kind="set", control="slider"),
    )
    model = from_parts(tunables=(live,))
    curve = Response(
        points=((-100.0, -100.0), (0.0, 0.0), (100.0, 100.0)), live=(1,), live_from="bend"
    )
    still = with_at(model, "program.axes[0].curve", curve.changed({"live": (), "live_from": None}))
    line = next(x for x in model.program.mixes if x.target == "left_aileron")
    assert model.program.axes[0].command == line.source == "roll"
    assert "slider" in knobs_of(with_at(model, "program.axes[0].curve", curve), line)
    assert "slider" not in knobs_of(still, line)
