"""Y-leads: allowed where two servos always do the same, refused with the reason where they must differ."""

from __future__ import annotations

import pytest

from hypsos.core.adapt import adapted
from hypsos.core.checks import problems
from hypsos.core.joined import joined, parted, partner
from hypsos.core.layout import without_part
from hypsos.core.paths import with_at
from hypsos.core.sheet.card import port_card
from hypsos.core.templates import TEMPLATES


def wired(key, **directions):
    model = TEMPLATES[key].make("Trial")
    leads = tuple(
        x.model_copy(update={"port": i + 1, "direction": directions.get(x.name, 1)}) for i, x in enumerate(model.leads)
    )
    return model.model_copy(update={"leads": leads})


def found(model):
    return [p for p in problems(model) if p.path.startswith("y_leads")]


@pytest.mark.parametrize(
    ("key", "first", "second", "reversing", "directions", "words"),
    [
        ("biplane", "left_elevator", "right_elevator", False, {}, ""),
        ("biplane", "left_elevator", "right_elevator", True, {"right_elevator": -1}, ""),
        ("biplane", "left_elevator", "right_elevator", False, {"right_elevator": -1}, "would move the wrong way"),
        ("biplane", "left_aileron", "left_lower_aileron", False, {}, ""),
        ("biplane", "left_aileron", "right_aileron", False, {"right_aileron": -1}, "must differ (ailerons)"),
        ("tug", "left_flaperon", "right_flaperon", False, {}, "must differ (ailerons)"),
        ("t_tail_sailplane", "left_flap", "right_flap", False, {}, ""),
        ("t_tail_sailplane", "left_airbrake", "right_airbrake", True, {"left_airbrake": -1}, ""),
        ("elevon_wing", "left_elevon", "right_elevon", False, {}, "must differ (elevons"),
        ("twin", "left_motor", "right_motor", False, {}, "must differ (differential thrust)"),
    ],
)
def test_only_what_always_does_the_same_may_share_a_port(key, first, second, reversing, directions, words):
    made = joined(wired(key, **directions), first, second, reversing)
    said = found(made)
    assert bool(said) == bool(words) and (not words or words in said[0].text), said
    if not words:
        assert list(problems(made)) == [] and partner(made, second) == first
        loose = parted(made, 0)
        assert not loose.y_leads and next(x.port for x in loose.leads if x.name == second) is None


def test_plain_ailerons_without_differential_may_share_a_port():
    model = wired("trainer", right_aileron=-1)
    assert "must differ" in found(joined(model, "left_aileron", "right_aileron", False))[0].text
    even = with_at(model, "program.recipes[0].differential", 0.0)
    assert found(joined(even, "left_aileron", "right_aileron", False)) == []


def test_outputs_on_one_port_are_set_alike():
    model = wired("biplane")
    place = next(i for i, x in enumerate(model.leads) if x.name == "right_elevator")
    odd = with_at(model, f"leads[{place}].travel_pos", 80.0)
    assert "set differently" in found(joined(odd, "left_elevator", "right_elevator", False))[0].text
    third = joined(joined(model, "left_elevator", "right_elevator", False), "rudder", "right_elevator", False)
    assert any("hangs on another Y-lead" in p.text for p in found(third))
    split = joined(model, "left_elevator", "right_elevator", False)
    split = with_at(split, f"leads[{place}].port", None)
    assert "sit in one port" in found(split)[0].text
    assert "two different leads" in found(joined(model, "rudder", "rudder", False))[0].text


def test_a_y_lead_goes_with_its_surfaces_and_is_on_the_card():
    model = joined(wired("biplane"), "left_elevator", "right_elevator", False)
    card = port_card(model)
    row = next(r for r in card.ports if r[1] == "Right elevator")
    assert "on a Y-lead with left elevator" in row[2] and card.ports[-1][1] == "Power"
    made = adapted(model, without_part(model.airframe, "left_elevator"))
    assert not made.model.y_leads and "a Y-lead of left_elevator" in made.let_go and list(problems(made.model)) == []


def test_what_feeds_the_receiver_is_a_line_on_the_card():
    model = wired("twin")
    model = with_at(model, "receiver.power", "speed controller")
    assert "their manual says" in port_card(model).ports[-1][2]
    own = with_at(with_at(model, "receiver.power", "own battery"), "receiver.power_port", 8)
    assert port_card(own).ports[-1] == ("8", "Power", "a battery of its own in port 8") and list(problems(own)) == []
    for port, words in ((1, "already holds"), (30, "there is no port 30")):
        assert words in next(p.text for p in problems(with_at(own, "receiver.power_port", port)))
    fed = with_at(model, "receiver.power_port", 8)
    assert "only a battery of its own" in next(p.text for p in problems(fed))
