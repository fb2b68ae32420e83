# SPDX-License-Identifier: GPL-3.0-or-later
"""Y-leads: allowed where two servos always do the same, refused with the reason where they must
differ."""

from __future__ import annotations

from typing import Any

import pytest
from parts import wired

from hypsos.core.checking.checks import problems
from hypsos.core.dependencies.y_leads import followed, joined, parted, partner
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Failsafe, Lead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import without_part
from hypsos.core.sheet.port_card import port_card


def found(model: Model) -> Any:
    return [p for p in problems(model) if p.path.startswith("y_leads")]


@pytest.mark.parametrize(
    ("key", "first", "second", "reversing", "directions", "words"),
    [
        ("biplane", "left_elevator", "right_elevator", False, {}, ""),
        ("biplane", "left_elevator", "right_elevator", True, {"right_elevator": -1}, ""),
        (
            "biplane",
            "left_elevator",
            "right_elevator",
            False,
            {"right_elevator": -1},
            "would move the wrong way",
        ),
        ("biplane", "left_aileron", "left_lower_aileron", False, {}, ""),
        (
            "biplane",
            "left_aileron",
            "right_aileron",
            False,
            {"right_aileron": -1},
            "must differ (ailerons)",
        ),
        ("tug", "left_flaperon", "right_flaperon", False, {}, "must differ (ailerons)"),
        ("t_tail_sailplane", "left_flap", "right_flap", False, {}, ""),
        ("t_tail_sailplane", "left_airbrake", "right_airbrake", True, {"left_airbrake": -1}, ""),
        ("elevon_wing", "left_elevon", "right_elevon", False, {}, "must differ (elevons"),
        ("twin", "left_motor", "right_motor", False, {}, "must differ (differential thrust)"),
    ],
)
def test_only_what_always_does_the_same_may_share_a_port(
    key: Any, first: Any, second: Any, reversing: Any, directions: Any, words: Any
) -> None:
    made = joined(wired(key, **directions), first, second, reversing)
    said = found(made)
    assert bool(said) == bool(words) and (not words or words in said[0].text), said
    if not words:
        assert list(problems(made)) == [] and partner(made, second) == first
        loose = parted(made, 0)
        assert not loose.y_leads and next(x.port for x in loose.leads if x.name == second) is None


def test_plain_ailerons_without_differential_may_share_a_port() -> None:
    model = wired("trainer", right_aileron=-1)
    assert "must differ" in found(joined(model, "left_aileron", "right_aileron", False))[0].text
    even = with_at(model, "program.recipes[0].differential", 0.0)
    assert found(joined(even, "left_aileron", "right_aileron", False)) == []


def test_outputs_on_one_port_are_set_alike() -> None:
    model = wired("biplane")
    place = next(i for i, x in enumerate(model.leads) if x.name == "right_elevator")
    odd = with_at(model, f"leads[{place}].travel_pos", 80.0)
    assert "set differently" in found(joined(odd, "left_elevator", "right_elevator", False))[0].text
    third = joined(
        joined(model, "left_elevator", "right_elevator", False), "rudder", "right_elevator", False
    )
    assert any("hangs on another Y-lead" in p.text for p in found(third))
    split = joined(model, "left_elevator", "right_elevator", False)
    split = with_at(split, f"leads[{place}].port", None)
    assert "sit in one port" in found(split)[0].text
    assert "two different leads" in found(joined(model, "rudder", "rudder", False))[0].text


def test_a_y_lead_goes_with_its_surfaces_and_is_on_the_card() -> None:
    model = joined(wired("biplane"), "left_elevator", "right_elevator", False)
    rows = [row.cells for row in port_card(model).blocks[0].rows]
    row = next(cells for cells in rows if cells[1] == "Right elevator")
    assert "on a Y-lead with left elevator" in row[2] and rows[-1][1] == "Power"
    made = adapted(model, without_part(model.airframe, "left_elevator"))
    assert (
        not made.model.y_leads
        and "the Y-lead of left elevator" in made.let_go
        and list(problems(made.model)) == []
    )


def test_what_feeds_the_receiver_is_a_line_on_the_card() -> None:
    model = wired("twin")
    model = with_at(model, "receiver.power", "speed controller")
    assert "their manual says" in port_card(model).blocks[0].rows[-1].cells[2]
    own = with_at(with_at(model, "receiver.power", "own battery"), "receiver.power_port", 8)
    assert (
        port_card(own).blocks[0].rows[-1].cells[:3]
        == ("8", "Power", "a battery of its own in port 8")
        and list(problems(own)) == []
    )
    for port, words in ((1, "already holds"), (30, "there is no port 30")):
        assert words in next(p.text for p in problems(with_at(own, "receiver.power_port", port)))
    fed = with_at(model, "receiver.power_port", 8)
    assert "only a battery of its own" in next(p.text for p in problems(fed))


def pair(first: Any = None, second: Any = None, mixes: Any = None, reversing: Any = False) -> Any:
    """Two elevators of a biplane on a Y-lead, with other outputs."""
    model = wired("biplane")
    places = [
        next(i for i, x in enumerate(model.leads) if x.name == n)
        for n in ("left_elevator", "right_elevator")
    ]
    for place, change in zip(places, (first or {}, second or {}), strict=True):
        lead = Lead(**{**dict(model.leads[place]), **change})
        model = with_at(model, f"leads[{place}]", lead)
    if mixes is not None:
        model = with_at(model, "program.mixes", (*model.program.mixes, *mixes))
    return found(joined(model, "left_elevator", "right_elevator", reversing))


ASKEW = {
    "centre": 5.0,
    "travel_neg": 80.0,
    "travel_pos": 90.0,
    "stop_neg": -70.0,
    "stop_pos": 60.0,
    "slow_up_s": 1.0,
    "slow_down_s": 2.0,
}
MIRRORED = {
    "centre": -5.0,
    "travel_neg": 90.0,
    "travel_pos": 80.0,
    "stop_neg": -60.0,
    "stop_pos": 70.0,
    "direction": -1,
}


@pytest.mark.parametrize("field", list(ASKEW))
def test_each_figure_of_the_output_must_be_alike(field: Any) -> None:
    assert "set differently" in pair({field: ASKEW[field]})[0].text
    assert pair({field: ASKEW[field]}, {field: ASKEW[field]}) == []


@pytest.mark.parametrize("field", [f for f in MIRRORED if f != "direction"])
def test_behind_a_reversing_lead_the_second_output_is_the_mirror_of_the_first(field: Any) -> None:
    first = {f: ASKEW[f] for f in ASKEW if "slow" not in f}
    assert pair(first, MIRRORED, reversing=True) == []
    assert (
        "set differently"
        in pair(first, MIRRORED | {field: MIRRORED[field] + 1}, reversing=True)[0].text
    )
    slow = {"slow_up_s": 1.0, "slow_down_s": 2.0}
    assert pair(first | slow, MIRRORED | slow, reversing=True) == []


def test_what_is_the_same_for_opposite_demands() -> None:
    """Two parts that always get the opposite demand: the second servo sits the other way round."""
    opposite = (MixLine(name="o", target="rudder", source="yaw", gain=-100),)
    model = wired("biplane", tail_wheel=-1)
    wheel = next(i for i, m in enumerate(model.program.mixes) if m.target == "tail_wheel")
    mixes = tuple(
        m.model_copy(update={"gain": -100.0}) if i == wheel else m
        for i, m in enumerate(model.program.mixes)
    )
    model = with_at(model, "program.mixes", mixes)
    place = next(i for i, x in enumerate(model.leads) if x.name == "tail_wheel")
    assert found(joined(model, "rudder", "tail_wheel", False)) == []
    in_a_mode = with_at(model, "program.modes", (FlightMode(name="base"),))
    assert found(joined(in_a_mode, "rudder", "tail_wheel", False)) == []
    for value, sound in ((-20.0, True), (20.0, False)):
        rudder = next(i for i, x in enumerate(model.leads) if x.name == "rudder")
        safe = with_at(model, f"leads[{rudder}].failsafe", Failsafe(value=20.0))
        safe = with_at(safe, f"leads[{place}].failsafe", Failsafe(value=value))
        said = found(joined(safe, "rudder", "tail_wheel", False))
        assert (said == []) == sound and (sound or "different plans" in said[0].text)
    slow = {"slow_up_s": 1.0, "slow_down_s": 3.0}
    turned = {"slow_up_s": 3.0, "slow_down_s": 1.0}
    for other, sound in ((turned, True), (slow, False)):
        leads = tuple(
            Lead(**{**dict(x), **({"rudder": slow, "tail_wheel": other}.get(x.name, {}))})
            for x in model.leads
        )
        assert (
            found(joined(with_at(model, "leads", leads), "rudder", "tail_wheel", False)) == []
        ) == sound
    more = with_at(model, "program.mixes", (*mixes, *opposite))
    assert "must differ" in found(joined(more, "rudder", "tail_wheel", False))[0].text


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("gain", 40.0), ("differential", 20.0), ("with_trim", False), ("in_s", 1.0), ("out_s", 1.0), ("when", "link"),
        ("combine", "replace"), ("source", "yaw"), ("response", Response(points=((-100, 0), (100, 50)))),
    ],
)  # fmt: skip
def test_every_field_of_a_line_tells_two_servos_apart(field: Any, value: Any) -> None:
    line = MixLine(name="more", target="left_elevator", source="roll", gain=30)
    twin = line.model_copy(update={"target": "right_elevator"})
    assert pair(mixes=(line, twin)) == []
    said = pair(mixes=(line, twin.model_copy(update={field: value})))
    assert "left elevator and right elevator must differ (more)" in said[0].text


def test_presets_of_modes_tell_two_servos_apart() -> None:
    for second, sound in ((7.0, True), (8.0, False), (None, False)):
        presets = {"left_elevator": 7.0} | ({} if second is None else {"right_elevator": second})
        model = with_at(
            wired("biplane"), "program.modes", (FlightMode(name="base", presets=presets),)
        )
        assert (found(joined(model, "left_elevator", "right_elevator", False)) == []) == sound


def test_failsafes_on_one_port() -> None:
    hold = Failsafe(action="hold")
    for first, second, sound in (
        (None, Failsafe(), True), (None, Failsafe(value=5), False), (hold, Failsafe(action="hold", value=3), True),
        (hold, Failsafe(action="no pulses"), False), (Failsafe(value=9), Failsafe(value=9), True),
    ):  # fmt: skip
        said = pair({"failsafe": first}, {"failsafe": second})
        assert (said == []) == sound and (
            sound or "different plans for a lost link" in said[0].text
        )


def test_a_reversing_lead_and_no_other_fits_a_servo_the_other_way_round() -> None:
    for direction, reversing, sound in (
        (1, False, True),
        (1, True, False),
        (-1, True, True),
        (-1, False, False),
    ):
        said = pair(second={"direction": direction}, reversing=reversing)
        assert (said == []) == sound
        if not sound:
            assert ("a plain one" if reversing else "a reversing one") in said[0].remedy


def test_a_lead_that_is_not_there_or_joined_twice() -> None:
    model = joined(wired("biplane"), "left_elevator", "right_elevator", False)
    assert partner(model, "rudder") is None and partner(model, "left_elevator") == "right_elevator"
    gone = with_at(model, "y_leads[0].second", "nowhere")
    assert "two different leads" in found(gone)[0].text
    again = with_at(model, "y_leads", (*model.y_leads, *model.y_leads))
    assert all("hangs on another Y-lead" in p.text for p in found(again)) and len(found(again)) == 2


@pytest.mark.parametrize("changed", ["left_elevator", "right_elevator"])
@pytest.mark.parametrize("reversing", [False, True])
def test_an_edit_of_one_of_two_leads_on_a_port_reaches_the_other(
    changed: Any, reversing: Any
) -> None:
    """Every figure of the output, reversing and the failsafe: never refused, always alike."""
    before = joined(
        wired("biplane", **({"right_elevator": -1} if reversing else {})),
        "left_elevator",
        "right_elevator",
        reversing,
    )
    place = next(i for i, x in enumerate(before.leads) if x.name == changed)
    edits = ASKEW | {"direction": -before.leads[place].direction, "failsafe": Failsafe(value=12.0)}
    model = before
    for field, value in edits.items():
        edited = with_at(model, f"leads[{place}].{field}", value)
        model = followed(model, edited)
        assert list(problems(model)) == [], field
        assert getattr(model.leads[place], field) == value
    both = {x.name: x for x in model.leads if "elevator" in x.name}
    other = both["right_elevator" if changed == "left_elevator" else "left_elevator"]
    assert other.failsafe == Failsafe(value=12.0) and other.centre == (-5.0 if reversing else 5.0)
    assert (other.slow_up_s, other.slow_down_s) == (1.0, 2.0) and other.linkage == before.leads[
        place
    ].linkage
    pair_only = model.model_copy(update={"leads": tuple(both.values())})
    place = [x.name for x in pair_only.leads].index(changed)
    follower = followed(pair_only, with_at(pair_only, f"leads[{place}].centre", 7.0)).leads[
        1 - place
    ]
    assert follower.centre == (-7.0 if reversing else 7.0)
    one = pair_only.model_copy(update={"leads": pair_only.leads[:1]})
    assert (
        followed(pair_only, one) is one
    )  # a lead that is not there any more is the check's affair
    assert (
        followed(before, before) is before
        and followed(before, with_at(before, "note", "x")).leads == before.leads
    )


def test_two_motors_on_a_port_stay_off_at_one_pulse() -> None:
    model = wired("twin")
    model = joined(with_at(model, "program.recipes", ()), "left_motor", "right_motor", False)
    assert list(problems(model)) == []
    place = next(i for i, x in enumerate(model.leads) if x.name == "right_motor")
    made = followed(model, with_at(model, f"leads[{place}].idle_us", 1100.0))
    assert {x.idle_us for x in made.leads if "motor" in x.name} == {1100.0} and list(
        problems(made)
    ) == []
    unsaid = model
    for i in (i for i, x in enumerate(model.leads) if "motor" in x.name):
        unsaid = with_at(unsaid, f"leads[{i}].failsafe", None)
    made = followed(unsaid, with_at(unsaid, f"leads[{place}].idle_us", 1100.0))
    assert {
        x.failsafe.value for x in made.leads if "motor" in x.name and x.failsafe is not None
    } == {-100.0}
    apart = model.model_copy(
        update={"y_leads": ()}
    )  # the lead comes on with an edit: the check speaks, nothing follows
    both = with_at(model, f"leads[{place}].slow_up_s", 1.0)
    assert followed(apart, both) is both
    held = followed(made, with_at(made, f"leads[{place}].failsafe", Failsafe(action="hold")))
    assert {x.failsafe.action for x in held.leads if "motor" in x.name} == {"hold"} and list(
        problems(held)
    ) == []
