# SPDX-License-Identifier: GPL-3.0-or-later
"""What a search says: its lines, the sheet's, JSON, words of ways; and what is read off a
document."""

from __future__ import annotations

import json
import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from motors import THROTTLE, with_thrust
from parts import from_parts

from hypsos.core.checking.reader import from_json
from hypsos.core.conditions import Compare, Delay
from hypsos.core.dependencies.motor_dependencies import motor_reach
from hypsos.core.document.document import Model, digest
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.leads import Failsafe, YLead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.review.compare_models import Comparison, Difference, compared
from hypsos.core.review.findings import Ask, Finding, FindingMove, Searched, Shakedown
from hypsos.core.review.repairs import changes_words, repairs
from hypsos.core.review.report import as_json, as_text, comparison_text, proof_lines
from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.rules.behaviours_off import BehavioursOff, Group
from hypsos.core.review.rules.channel_defaults import defaults
from hypsos.core.review.rules.linkage_reach import linkages
from hypsos.core.review.rules.lost_travel import LostTravel
from hypsos.core.review.rules.ports_of_servos import plugs
from hypsos.core.review.rules.without_link import failsafes
from hypsos.core.review.search.replay import Replay, caption, way_words
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.search.surface_search import SurfaceSearch
from hypsos.core.review.search.timeouts import first_of, orders
from hypsos.core.review.search_words import searched_words, short_words
from hypsos.core.review.shakedown import ShakedownSearch, shake

MOVES = (
    FindingMove(0.0, "flap", 1.0),
    FindingMove(0.5, "stick", 100.0),
    FindingMove(0.6, "link", 0.0),
)
SAID = ("Flap switch to half", "throttle stick full", "the link is lost")
FOUND = Shakedown(
    "Marram", "abc",
    (
        Finding("M3", "danger", "leads[8].failsafe", "Motor still runs.", True, MOVES, SAID, 2.0, ("motor",)),
        Finding("S1", "danger", "program.axes[0]", "There is no roll.", False),
        Finding("S2", "fault", "leads[0].stop_pos", "Left aileron loses 5 %."),
        Finding("L2", "advice", "program.logic[0]", "Nothing goes by it."),
    ),
    (Searched("M3", 1200, True, 0.5), Searched("S2", 1, False, 0.25, "more situations than are searched", 2)),
    {"S4": "Crow is meant to jump."},
)  # fmt: skip
ROLL = tuple(
    MixLine(name=t, target=t, source="roll", gain=g)
    for t, g in (("left_aileron", 100.0), ("right_aileron", -100.0))
)
CLEAN = Shakedown("Marram", "abc", (), (Searched("M3", 1200, True, 0.5),))


def test_the_lines_of_a_terminal() -> None:
    assert as_text(FOUND) == [
        "Marram: 2 dangers, 1 fault, 1 word of advice in 1,201 situations",
        "danger  M3  Motor still runs.",
        "            the way: power on with Flap switch to half, then 0.5 s later throttle stick full, then the link is lost",
        "            leads[8].failsafe",
        "danger  S1  possible, not confirmed: There is no roll.",
        "            program.axes[0]",
        "fault   S2  Left aileron loses 5 %.",
        "            leads[0].stop_pos",
        "advice  L2  Nothing goes by it.",
        "            program.logic[0]",
        "partly  S2  No surface loses command to a cut-off or a stop. Not complete: more situations than are searched.",
        f"left    S4  {STATEMENTS['S4'].claim} Not asked: Crow is meant to jump.",
    ]
    assert as_text(CLEAN) == ["Marram: no danger, no fault, no advice in 1,200 situations"]
    assert (
        short_words(FOUND) == "2 dangers · 1 fault · 1 advice"
        and short_words(FOUND, True) == "▲ 2   ◆ 1   ● 1"
    )


def test_the_lines_of_the_sheet() -> None:
    assert proof_lines(FOUND, "28 November 2026") == (
        "Shaken down: 1,201 situations, 1 of 2 statements not completely, 28 November 2026, digest abc.",
        "Open: 2 dangers. Do not fly it like this.",
        "Danger: Motor still runs.",
        "Danger: There is no roll.",
        "Also open: 1 fault. The first: Left aileron loses 5 %.",
        f"Not asked ({STATEMENTS['S4'].claim[:-1]}): Crow is meant to jump.",
    )
    assert proof_lines(replace(CLEAN, plugged=False), "today") == (
        "Nothing is plugged in, so nothing is proved. Plug the leads in and search again. (today, digest abc)",
    )
    assert proof_lines(CLEAN, "today") == (
        "Shaken down: 1,200 situations, none dangerous, today, digest abc.",
    )
    assert [searched_words(s) for s in FOUND.searched] == [
        "1,200 situations, complete, 0.50 s",
        "1 situation, not complete: more situations than are searched, 0.25 s, 2 possible",
    ]
    stopped = Searched("M1", 0, False, 0.0, "not searched: stopped")
    assert searched_words(stopped) == "0 situations, not searched: stopped, 0.00 s"


def test_json_has_every_field() -> None:
    made = as_json(FOUND)
    assert made["findings"][0] == {
        "statement": "M3",
        "level": "danger",
        "part": "leads[8].failsafe",
        "text": "Motor still runs.",
        "confirmed": True,
        "sequence": [{"t_s": m.t_s, "set": m.control, "to": m.to} for m in MOVES],
        "waits_s": 0.0,
        "length_s": 2.6,
        "also": [],
    }
    assert (made["findings"][1]["length_s"], made["findings"][1]["sequence"]) == (0.0, [])
    assert made["searched"] == [
        {"statement": "M3", "situations": 1200, "complete": True, "possible": 0, "seconds": 0.5},
        {
            "statement": "S2",
            "situations": 1,
            "complete": False,
            "possible": 2,
            "seconds": 0.25,
            "note": "more situations than are searched",
        },
    ]
    assert made["not_asked"] == {"S4": "Crow is meant to jump."} and made["digest"] == "abc"


def test_what_is_done_in_words() -> None:
    model = demo_model("marram")
    said = {
        ("link", 0.0): "the link is lost",
        ("link", 1.0): "the link comes back",
        ("link_quality", 40.0): "link quality at 40 %",
        ("power", 0.0): "the flight battery is unplugged",
        ("power", 1.0): "the flight battery is plugged in",
        ("roll_trim", -50.0): "roll trim to its low end",
        ("roll_trim", 50.0): "roll trim to its high end",
        ("roll_trim", 2.0): "roll trim at 2.0 %",
        ("camber_slider", 30.0): "Camber slider at 30 %",
        ("task_switch", 2.0): "Task switch to landing",
        ("rudder_stick", 100.0): "rudder stick 100 right",
    }
    assert {key: caption(model, FindingMove(0.0, *key)) for key in said} == said
    assert way_words((), ()) == "power on"
    assert (
        way_words((FindingMove(0.2, "a", 1.0), FindingMove(0.6, "b", 1.0)), ("one", "two"))
        == "power on, then one, then 0.4 s later two"
    )


def test_steps_become_moves_in_time() -> None:
    stage = Replay(demo_model("samphire"))
    stage.waits["delay"] = 1.5
    steps = (
        SearchStep("a", 1.0),
        SearchStep("", 0.0),
        SearchStep("b", 2.0),
        SearchStep("", 0.0, ("delay",)),
        SearchStep("c", 3.0),
    )
    moves, look = stage.moves(steps, 0.1, 0.5)
    assert [(m.control, m.t_s) for m in moves] == [
        ("a", 0.0),
        ("b", 0.1),
        ("c", pytest.approx(0.1 + 1.54 + 0.5)),
    ]
    waited, look = stage.moves((*steps[:3], SearchStep("", 0.0, ("delay",))), 0.1)
    assert [m.t_s for m in waited] == [0.0, 0.1] and look >= 1.54


def test_what_a_stop_takes_away_has_the_sense_of_the_surface() -> None:
    for direction in (1, -1):
        leads = {"elevator": {"direction": direction, "stop_neg": -80.0, "stop_pos": 90.0}}
        search = SurfaceSearch(from_parts(leads=leads), 100_000, lambda: False)
        lead = search.leads["elevator"]
        cut = search.cut(lead, np.array([-100.0, -50.0, 100.0, 160.0]))
        low, high = (-20.0, 10.0) if direction == 1 else (-10.0, 20.0)
        assert cut == pytest.approx([low, 0.0, high, 10.0 + (60.0 if direction == 1 else 70.0)])
        stands = search.standing("elevator", np.array([-100.0, -50.0, 100.0, 160.0]))
        assert stands == pytest.approx([-100 - low, -50.0, 100 - high, 100 - high])


def test_plugs_failsafes_and_channels() -> None:
    model = from_parts()
    doubled = with_at(model, "receiver.ports", 5)
    texts = [f.text for f in plugs(doubled)]
    assert texts == ["Rudder sits in port 6, and the receiver has 5."]
    loose = model.changed({"leads": tuple(x.changed({"port": None}) for x in model.leads)})
    assert not list(plugs(loose))
    same = model.changed(
        {"leads": (model.leads[0], model.leads[1].changed({"port": 1}), *model.leads[2:])}
    )
    assert [f.text for f in plugs(same)] == ["Right aileron and another lead both sit in port 1."]
    joined = same.changed({"y_leads": (YLead(first="left_aileron", second="right_aileron"),)})
    assert [f.part for f in plugs(joined)] == ["y_leads[0]"]
    for left, right, rolls in (
        (40.0, 38.5, False),
        (40.0, 36.0, True),
        (0.0, None, False),
        (40.0, None, True),
    ):
        fail = [None if v is None else Failsafe(action="preset", value=v) for v in (left, right)]
        leads = [x.changed({"failsafe": f}) for x, f in zip(model.leads[:2], fail, strict=True)]
        found = list(failsafes(model.changed({"leads": (*leads, *model.leads[2:])})))
        assert [f.part for f in found] == (["leads[1].failsafe"] if rolls else [])
    assert [f.text for f in defaults(model)] == [
        f"Nothing moves {s} flap: its servo goes by the transmitter's own default."
        for s in ("left", "right")
    ]


@pytest.mark.parametrize(
    ("linkage", "travel", "says"),
    [
        (Linkage(arm_mm=10, horn_mm=10, distance_mm=60), 100.0, []),
        (
            Linkage(arm_mm=10, horn_mm=20, distance_mm=60),
            100.0,
            [
                f"Elevator reaches {x}° {s} at full command, and 30.0° {s} is wanted."
                for x, s in ((21.6, "up"), (19.7, "down"))  # by hand from the four bars
            ],
        ),
        (
            Linkage(arm_mm=20, horn_mm=10, distance_mm=60),
            100.0,
            ["The linkage of elevator binds before full command: it stops at 56 %."],
        ),
        (
            Linkage(arm_mm=20, horn_mm=10, distance_mm=60, servo_deg=52),
            45.0,
            ["Elevator moves 0.51° for a microsecond: too coarse to trim. A longer horn helps."],
        ),
    ],
)
def test_linkages_that_bind_fall_short_or_are_coarse(linkage: Any, travel: Any, says: Any) -> None:
    model = from_parts(
        leads={"elevator": {"linkage": linkage, "travel_neg": travel, "travel_pos": travel}}
    )
    found = list(linkages(model))
    assert [f.text for f in found] == says and all(f.part == "leads[4].linkage" for f in found)


def test_a_motor_hangs_on_the_shared_values_of_its_responses_and_rates() -> None:
    response = Response(
        points=((-100.0, -100.0), (0.0, 0.0), (100.0, 100.0)), live=(1,), live_from="lift"
    )
    throttle = MixLine(name="throttle", target="left_motor", source="thrust", response=response)
    shared = tuple(Tunable(name=n, low=-20, high=100, value=50) for n in ("lift", "rate", "else"))
    model = from_parts(
        mixes=(throttle,),
        motors=True,
        tunables=shared,
        settings={"thrust": Setting(rate_from="rate")},
    )
    model = with_at(model, "program.axes[3].settings", (None, Setting(rate_from="rate")))
    for i, reaches in enumerate((True, True, False)):
        other = with_at(model, f"program.tunables[{i}].value", 60.0)
        assert (motor_reach(other) != motor_reach(model)) is reaches


def test_motors_that_differ_are_certain_and_said_with_their_power() -> None:
    skerry = demo_model("skerry")
    found = compared(skerry, with_at(skerry, "program.recipes[2].at_idle", "full"))
    motors = [d for d in found.differences if d.part.endswith("motor")]
    assert motors and all(
        d.confirmed and (d.first, d.second) == ("stopped", "8 % power") for d in motors
    )
    assert comparison_text(found)[0].startswith("Skerry and Skerry differ (")
    assert any(" by up to " in line and ", then " in line for line in comparison_text(found))


def test_what_a_wheel_gives_while_a_condition_holds_is_seen_case_by_case() -> None:
    """The amount of a line is a shared value that the slider sets only while a switch is on."""
    adjuster = Adjuster(kind="set", control="slider", when="switch_b@1")
    shared = Tunable(name="much", low=-100, high=100, value=20, adjuster=adjuster)
    line = MixLine(name="Flap", target="left_flap", source="slider", gain_from="much")
    search = SurfaceSearch(from_parts(mixes=(line,), tunables=(shared,)), 100_000, lambda: False)
    sampler = search.reachable.sampler(("left_flap",))
    ends = {side: far for side, far, _, _ in LostTravel(search).reached(sampler, "left_flap")}
    assert ends == {1.0: pytest.approx(100.0), -1.0: pytest.approx(-20.0)}


def test_a_behaviour_that_a_condition_switches_leaks_only_where_it_does() -> None:
    data = json.loads(demo_model("samphire").model_dump_json())
    node = Compare(
        kind="above", name="high", label="High", a="elevator_stick", x=50.0, hysteresis=5.0
    )
    data["program"]["logic"].append(json.loads(node.model_dump_json()))
    mixes = data["program"]["mixes"]
    mixes += [
        {"name": "Help", "origin": "help", "target": t, "source": "full", "gain": 10.0, "when": w}
        for t, w in (("rudder", "high"), ("elevator", "high"), ("tail_wheel", None))
    ]
    found = [
        f
        for f in shake(Ask(from_json(json.dumps(data))), ("S5",)).findings
        if f.text.startswith("Help")
    ]
    assert [f.text.split(" while")[0] for f in found] == ["Help still gives tail wheel 10 % right"]


def test_delays_end_in_every_set_and_never_before_a_shorter_one() -> None:
    four = ["a", "b", "c", "d"]
    assert len(list(orders(four, {}))) == 15 and ("a", "c") in orders(four, {})
    assert list(orders([*four, "e"], {})) == [("a",), ("b",), ("c",), ("d",), ("e",), (*four, "e")]
    assert list(orders(["long", "short"], {"long": ("short",)})) == [("short",), ("long", "short")]
    assert list(orders(["long"], {"long": ("short",)})) == [
        ("long",)
    ]  # the short one has ended before


@pytest.mark.parametrize(
    ("whens", "when"), [(("a", "a", None), "a"), (("a", None, None), None), ((None, None), None)]
)
def test_mixes_that_belong_together_go_by_what_most_of_them_ask(whens: Any, when: Any) -> None:
    lines = tuple(
        MixLine(
            name="Help",
            origin="help",
            target="left_flap",
            source="full",
            gain=10.0,
            when=w and "switch_b@1",
        )
        for w in whens
    )
    search = SurfaceSearch(from_parts(mixes=lines), 100_000, lambda: False)
    group = next(g for g in BehavioursOff(search).groups() if g.label == "Help")
    assert group.when == (when and "switch_b@1") and len(group.lines) == len(whens)


def test_a_jump_is_told_once_for_a_pair_and_the_furthest_first() -> None:
    jumps = (("left_flap", 60.0), ("right_flap", 70.0), ("elevator", 90.0), ("rudder", 30.0))
    lines = tuple(
        MixLine(name=t, target=t, source="full", gain=g, when="switch_b@1") for t, g in jumps
    )
    lines += (
        MixLine(
            name="slowly",
            target="left_aileron",
            source="full",
            gain=90.0,
            when="switch_c@1",
            in_s=1.0,
            out_s=1.0,
        ),
    )
    found = shake(Ask(from_parts(mixes=lines)), ("S4",)).findings
    assert [f.text for f in found] == [
        "Elevator jumps from neutral to 90 % down as B goes to on, without a slow or a fade.",
        "Right flap jumps from neutral to 70 % down as B goes to on, without a slow or a fade.",
    ]
    assert all(f.confirmed and f.level == "advice" for f in found)
    assert [f.part for f in found] == ["leads[4].slow_up_s", "leads[3].slow_up_s"]


@pytest.mark.parametrize(
    ("taken", "says", "level"),
    [
        (79.0, None, None), (90.0, "Only 10 % of roll is left with B to on.", "fault"),
        (100.0, "There is no roll with B to on.", "danger"), (130.0, "Roll goes the wrong way with B to on.", "danger"),
    ],
)  # fmt: skip
def test_how_much_of_a_command_is_left(taken: Any, says: Any, level: Any) -> None:
    lines = tuple(
        MixLine(name=f"off {t}", target=t, source="roll", gain=g, when="switch_b@1")
        for t, g in (("left_aileron", -taken), ("right_aileron", taken))
    )
    found = shake(Ask(from_parts(mixes=(*ROLL, *lines))), ("S1",)).findings
    assert [(f.text, f.level) for f in found] == ([] if says is None else [(says, level)])
    assert all(f.confirmed and f.part.startswith("program.mixes[4") for f in found)
    assert all(f.captions == ("B to on", "aileron stick 100 left") for f in found)


def test_a_surface_at_its_stop_has_less_left() -> None:
    """Camber pushes both ailerons down as far as 140 of 150 %: down only 10 of 100 are left, up all
    of it."""
    both = ("left_aileron", "right_aileron")
    lines = tuple(
        MixLine(name=t, target=t, source="full", gain=140.0, when="switch_b@1") for t in both
    )
    leads = {t: {"stop_pos": 150.0} for t in both}
    found = shake(Ask(from_parts(mixes=(*ROLL, *lines), leads=leads)), ("S1", "S2")).findings
    assert [(f.statement, len(f.also)) for f in found] == [
        ("S2", 1)
    ]  # one goes up as the other can't go down
    assert [f.part for f in found] == ["program.mixes[4].gain"]
    assert all(": 90 % is lost" in f.text for f in found)


def test_what_pushes_the_same_surface_by_different_hands_is_added() -> None:
    """A slider and a switch, each one way only, together take both ailerons to 180 %; the stop at
    100 leaves a fifth of one."""
    down = Response(points=((-100.0, 0.0), (0.0, 0.0), (100.0, 100.0)))
    lines = tuple(
        MixLine(name=f"{s} {t}", target=t, source=s, gain=90.0, response=down)
        for t in ("left_aileron", "right_aileron")
        for s in ("slider", "switch_c")
    )
    leads = {t: {"stop_pos": 100.0, "stop_neg": -150.0} for t in ("left_aileron", "right_aileron")}
    found = shake(Ask(from_parts(mixes=(*ROLL, *lines), leads=leads)), ("S1",)).findings
    assert {f.text for f in found} == {"Only 10 % of roll is left with Slider at 100 %, C to c."}
    assert {(m.control, m.to) for m in found[0].moves} >= {("slider", 100.0), ("switch_c", 2.0)}


def test_a_slow_that_lets_a_command_through_nothing_on_its_way() -> None:
    """From one way of roll to another, both slow: half way neither is there."""
    lines = tuple(
        MixLine(name=f"{t} {w}", target=t, source="roll", gain=g, when=w, in_s=4.0)
        for w in ("!switch_b@1", "switch_b@1")
        for t, g in (("left_aileron", 100.0), ("right_aileron", -100.0))
    )
    found = shake(Ask(from_parts(mixes=lines)), ("S8",)).findings
    told = "On the way to on (B) roll passes through less than at both ends: 2 % of it is left."
    assert [(f.text, f.level, f.confirmed) for f in found] == [(told, "fault", True)]
    assert found[0].part.startswith("program.mixes[")


def test_what_has_ended_whenever_something_longer_has() -> None:
    model = with_at(from_parts(motors=True), "program.guard.level", 4)
    relock = model.program.guard.relock_s
    assert first_of(model, {"failsafe": relock}) == {"failsafe": ("guard.lost",)}
    assert (
        first_of(model, {"failsafe": relock / 2})
        == {}
        == first_of(from_parts(motors=True), {"failsafe": relock})
    )
    logic = tuple(
        Delay(kind=k, name=n, of=of, seconds=s)
        for n, k, of, s in (
            ("long", "on_delay", "switch_b@1", 2.0),
            ("short", "on_delay", "switch_b@1", 1.0),
            ("other", "on_delay", "switch_c@1", 0.5),
            ("off", "off_delay", "switch_b@1", 0.5),
        )
    )
    assert first_of(from_parts(logic=logic), {}) == {"?long.on_delay": ("?short.on_delay",)}


@pytest.mark.parametrize("when", ["guard:armed", "timer:flight", "!guard:locked"])
def test_lines_that_go_by_the_guard_or_a_timer_are_looked_at_in_both(when: Any) -> None:
    timer = Timer(name="flight", label="Flight", when="switch_b@1", counts="down", span_s=5.0)
    line = MixLine(name="Flap", target="left_flap", source="full", gain=50.0, when=when)
    model = with_at(from_parts(mixes=(*THROTTLE, line), motors=True), "program.timers", (timer,))
    search = SurfaceSearch(model, 100_000, lambda: False)
    ends = {
        side: far
        for side, far, _, _ in LostTravel(search).reached(
            search.reachable.sampler(("left_flap",)), "left_flap"
        )
    }
    assert ends == {1.0: 50.0, -1.0: 0.0}


@pytest.mark.parametrize(("moment", "differ"), [("while", True), ("begins", False)])
def test_how_often_something_is_said_again_counts_only_where_it_is(
    moment: Any, differ: Any
) -> None:
    model = from_parts(
        mixes=(MixLine(name="Flap", target="left_flap", source="full", when="switch_b@1"),)
    )
    one, two = (
        with_at(
            model,
            "program.announcements",
            (Announcement(caption="Flaps", when="switch_b@1", moment=moment, every_s=s),),
        )
        for s in (3.0, 5.0)
    )
    assert bool(compared(one, two).others) == differ


def test_two_models_that_differ_in_time_only() -> None:
    line = MixLine(name="Flap", target="left_flap", source="full", gain=50.0, when="switch_b@1")
    one = from_parts(mixes=(line,))
    for fields, says in (
        ({"in_s": 1.0}, ("Left flap takes another time on its way.",)),
        ({"out_s": 1.0}, ("Left flap takes another time on its way.",)), ({}, ()),
    ):  # fmt: skip
        found = compared(one, from_parts(mixes=(line.changed(fields),)))
        assert (found.others, found.differences, found.proved) == (says, (), True)
    more = compared(one, from_parts(mixes=(line.changed({"gain": 80.0}),)))
    (only,) = more.differences
    flap = next(s for s in one.airframe.surfaces if s.name == "left_flap")
    ruled = [
        2 * flap.chord_mm * math.sin(math.radians(flap.throw_down_deg * share / 2))
        for share in (0.5, 0.8)
    ]
    said = tuple(f"{mm:.1f} mm down" for mm in ruled)
    assert (only.label, only.first, only.second, only.where) == ("Left flap", *said, "B to on")
    assert (
        only.most == pytest.approx(30.0) and only.confirmed and only.moves[-1].control == "switch_b"
    )


def test_a_comparison_in_lines() -> None:
    part = Difference(
        "left_flap",
        "Left flap",
        30.0,
        "50.0 % down",
        "80.0 % down",
        ("Landing",),
        "B to on",
        (),
        (),
        True,
    )
    found = Comparison("One", "Two", (part,), ("Timers differ.",), 1500, True)
    assert comparison_text(found) == [
        "One and Two differ (1,500 situations, everything was searched):",
        "Left flap                by up to 30.0 % in Landing: 50.0 % down, then 80.0 % down, with B to on",
        "Timers differ.",
    ]
    assert comparison_text(Comparison("One", "Two", (), (), 7, False)) == [
        "None found between One and Two in 7 situations; not everything could be searched, so there may be one."
    ]


def test_how_far_a_search_has_come_grows_to_its_end() -> None:
    told = []
    ShakedownSearch().run(
        Ask(demo_model("samphire")), (), lambda share, what: told.append((share, what))
    )
    shares = [share for share, _ in told]
    assert (
        shares == sorted(shares)
        and 0.0 == shares[0] < 0.5 < shares[-1] < 1.0
        and all(what for _, what in told)
    )


def test_what_differs_only_between_the_bends_is_found() -> None:
    """An expo, and a smooth curve through the points of a straight one: both agree at every bend
    and at every end."""
    points = ((-100.0, -80.0), (0.0, 0.0), (50.0, 10.0), (100.0, 90.0))
    straight = Response(points=points)
    line = MixLine(name="Flap", target="left_flap", source="slider", gain=100.0, response=straight)
    smooth = line.changed({"response": straight.changed({"shape": "smooth"})})
    (flap,) = compared(from_parts(mixes=(line,)), from_parts(mixes=(smooth,))).differences
    assert flap.part == "left_flap" and flap.most > 12.0 and flap.confirmed
    plain, soft = (from_parts(settings={"pitch": Setting(expo=x)}) for x in (0.0, 40.0))
    (elevator,) = compared(plain, soft).differences
    assert elevator.most == pytest.approx(
        40.0 * 2 / 27**0.5, abs=0.02
    )  # c (x - x³) is most at x = 1/√3
    mixes = tuple(
        x.changed({"target": t}) for x, t in ((line, "left_flap"), (smooth, "right_flap"))
    )
    found = shake(Ask(from_parts(mixes=mixes)), ("S3",)).findings
    assert len(found) == 1 and found[0].confirmed and "Left flap goes to" in found[0].text


def test_what_cancels_is_told_once_for_each_two() -> None:
    lines = tuple(
        MixLine(name=n, target="left_flap", source=s, gain=g)
        for n, s, g in (
            ("One", "slider", 40.0),
            ("Other", "pitch", 30.0),
            ("Back", "slider", -40.0),
        )
    )
    found = shake(Ask(from_parts(mixes=lines)), ("S7",)).findings
    assert [(f.text, f.level) for f in found] == [
        (
            "One and Back cancel on left flap over the whole travel, 40 % each: neither does anything there.",
            "advice",
        )
    ]


@pytest.mark.parametrize(
    ("level", "power", "waits", "found"),
    [
        (2, "not said", False, ("fault", "when the next flight battery is plugged in")),
        (4, "not said", False, ("advice", "after 0.4 s without the flight battery")),
        (4, "own battery", False, ("fault", "no level of the guard sees the change")),
        (2, "own battery", False, ("fault", "no level of the guard sees the change")),
        (2, "not said", True, None),
        (4, "own battery", True, None),
    ],
)
def test_a_change_of_the_flight_battery_in_real_time(
    level: Any, power: Any, waits: Any, found: Any
) -> None:
    """A receiver's own battery hears the transmitter through the change; a plug that is loose for
    less than the re-lock time locks nothing; a controller that waits for idle starts in neither
    case."""
    model = demo_model("samphire")
    motor = next(i for i, x in enumerate(model.leads) if x.target == "motor")
    for path, value in (
        ("program.guard.level", level), ("program.guard.relock_s", 0.5), ("receiver.power", power),
        (f"leads[{motor}].waits_for_idle", waits),
    ):  # fmt: skip
        model = with_at(model, path, value)
    told = [f for f in shake(Ask(model), ("M4",)).findings if f.statement == "M4"]
    if found is None:
        assert told == []
        return
    (finding,) = told
    assert (
        finding.level == found[0]
        and found[1] in finding.text
        and "100 % power" in finding.text
        and finding.confirmed
    )
    battery = ("the flight battery is unplugged", "the flight battery is plugged in")
    assert finding.captions == ("Motor switch to run", "throttle stick full", *battery)


def test_a_controller_that_waits_hears_nothing_of_a_receiver_that_loses_its_own_battery() -> None:
    """The flight battery stays in: it has heard its second of idle, and lets the motor turn as soon
    as there are pulses again."""
    model = demo_model("samphire")
    motor = next(i for i, x in enumerate(model.leads) if x.target == "motor")
    for path, value in (
        ("program.guard.level", 2), ("receiver.power", "own battery"), (f"leads[{motor}].waits_for_idle", True),
    ):  # fmt: skip
        model = with_at(model, path, value)
    (finding,) = shake(Ask(model), ("M2",)).findings
    assert (
        finding.level == "fault"
        and "when the receiver has power again, from 0 to 100 % power" in finding.text
    )
    assert finding.captions[-2:] == (
        "the receiver's battery is unplugged",
        "the receiver's battery is plugged in",
    )
    fed = with_at(model, "receiver.power", "not said")  # by the flight battery: it waits again
    (finding,) = shake(Ask(fed), ("M2",)).findings
    assert finding.captions[-2:] == ("the link is lost", "the link comes back")


def test_a_lead_that_is_not_plugged_in_goes_to_the_first_port_that_is_free() -> None:
    model = with_at(demo_model("samphire"), "leads[0].port", None)
    (finding,) = (f for f in shake(Ask(model), ("W1",)).findings if f.part == "leads[0].port")
    (repair,) = repairs(model, finding)
    assert repair.words == "Plug it into port 1" and repair.model.leads[0].port == 1


def test_what_a_repair_changes_in_words() -> None:
    def moved(name: str, most: float) -> Difference:
        return Difference(
            name, name, most, "9 mm up", "7 mm up", (), "aileron stick 100 left", (), (), True
        )

    def words(*parts: Difference, others: Any = (), proved: Any = True) -> str:
        return changes_words(Comparison("a", "b", parts, others, 9, proved))

    most = "In flight, where it changes most: "
    flap, aileron = (
        f"{n} 7 mm up instead of 9 mm up (aileron stick 100 left)" for n in ("Flap", "Aileron")
    )
    assert words() == "No lead sends anything else than before."
    assert words(proved=False) == "Not all of what it changes was compared."
    assert words(moved("Flap", 5), moved("Aileron", 9)) == f"{most}{aileron}; {flap}."
    three = words(
        moved("Flap", 5),
        moved("Rudder", 1),
        moved("Aileron", 9),
        others=("The output of flap sends other pulses.",),
    )
    assert three == f"{most}{aileron}; {flap}; 1 more otherwise, by less."
    assert (
        words(others=("Rudder takes another time on its way.",))
        == "Rudder takes another time on its way."
    )


def test_the_repair_of_the_first_of_two_unused_conditions_is_offered() -> None:
    """Taking it out moves the second one to its place; by their names they are told apart."""
    from hypsos.core.conditions import Combine
    from hypsos.core.review.repairs import named_place, repairs, tried

    model = demo_model("whinlark")
    unused = tuple(
        Combine(kind="any", name=n, label=n, of=("link",))
        for n in ("first_unused", "second_unused")
    )
    model = with_at(model, "program.logic", (*unused, *model.program.logic))
    before = shake(Ask(model))
    finding = next(
        f for f in before.findings if named_place(model, f.part) == "program.logic{first_unused}"
    )
    offers = [tried(Ask(model), finding, r, before) for r in repairs(model, finding)]
    assert offers and offers[0].gone and offers[0].new == ()
    assert named_place(model, "leads[0].failsafe").startswith(f"leads{{{model.leads[0].name}/")


def test_less_of_one_line_that_leaves_the_surface_short_mends_nothing() -> None:
    """The elevator gets 100 and 90 %; three quarters of the first are still too much, now named by
    the second."""
    from hypsos.core.review.repairs import repairs, tried

    more = MixLine(name="More pitch", target="elevator", source="pitch", gain=-90.0)
    model = demo_model("samphire")
    ask = Ask(with_at(model, "program.mixes", (*model.program.mixes, more)))
    before = shake(ask, ("S2",))
    finding = before.findings[0]
    lower = next(
        r for r in repairs(ask.model, finding) if r.words == "Lower “Elevator” by a quarter"
    )
    offered = tried(ask, finding, lower, before)
    assert not offered.gone and {f.part for f in offered.new if f.statement == "S2"} == {
        "program.mixes[5].gain"
    }


def _two_fins(right: float = 100.0, **lead: object) -> Model:
    """Two fins side by side, each with a rudder of its own that turns the same way as the other."""
    model = from_parts()
    rudder, moved = (
        model.airframe.surfaces[-1],
        next(x for x in model.leads if x.target == "rudder"),
    )
    sides = [(f"{s}_rudder", f"{s.capitalize()} rudder", s) for s in ("left", "right")]
    fins = tuple(rudder.changed({"name": n, "label": label, "side": s}) for n, label, s in sides)
    ports = (20, 21)
    leads = tuple(
        moved.changed(
            {"name": n, "label": label, "target": n, "port": p} | (lead if p == 21 else {})
        )
        for (n, label, _), p in zip(sides, ports, strict=True)
    )
    gains = {"left_rudder": 100.0, "right_rudder": right}
    lines = tuple(MixLine(name=n, target=n, source="yaw", gain=g) for n, g in gains.items())
    program = model.program.changed(
        {"mixes": (*(x for x in model.program.mixes if x.target != "rudder"), *lines)}
    )
    airframe = model.airframe.changed({"surfaces": (*model.airframe.surfaces[:-1], *fins)})
    others = tuple(x for x in model.leads if x.target != "rudder")
    return model.changed({"airframe": airframe, "leads": (*others, *leads), "program": program})


@pytest.mark.parametrize(
    ("model", "said"),
    [
        (_two_fins(), ""),
        (_two_fins(centre=6.0), ""),  # a centre is set so that the rudder is flush
        (
            _two_fins(80.0),
            "Left rudder goes to 100 % left, right rudder to 80 % right where its mirror image is asked",
        ),
        (
            _two_fins(-100.0),
            "Left rudder goes to 100 % left, right rudder to 100 % left where its mirror image is asked",
        ),
        (from_parts(leads={"right_aileron": {"centre": 6.0}}), ""),
        (
            from_parts(leads={"right_aileron": {"travel_pos": 80.0, "centre": 6.0}}),
            "Left aileron goes to 100 % down",
        ),
        (
            from_parts(
                leads={
                    "right_aileron": {
                        "centre": 6.0,
                        "linkage": Linkage(arm_mm=10, horn_mm=12, distance_mm=60),
                    }
                }
            ),
            "right aileron to 6 % down",
        ),
    ],
)
def test_two_fins_are_mirrored_and_a_flush_centre_is_no_difference(model: Model, said: Any) -> None:
    found = shake(Ask(model), ("S3",)).findings
    assert [f.confirmed for f in found] == [True] * bool(said)
    assert not said or said in found[0].text


def _sent_without_link(model: Model, **presets: float) -> Model:
    leads = tuple(
        x.changed({"failsafe": Failsafe(value=presets[x.target])}) if x.target in presets else x
        for x in model.leads
    )
    return model.changed({"leads": leads})


@pytest.mark.parametrize(
    ("name", "presets", "said"),
    [
        ("samphire", {"elevator": 20.0, "rudder": -20.0}, []),
        (
            "samphire",
            {"elevator": 21.0},
            ["Without the link elevator goes to 21 % down: the model dives."],
        ),
        (
            "samphire",
            {"elevator": -40.0},
            ["elevator goes to 40 % up: the model pulls up and may stall."],
        ),
        (
            "samphire",
            {"rudder": 30.0},
            ["rudder goes to 30 % right: the model turns, and may spin."],
        ),
        (
            "whinlark",
            {"left_elevon": 30.0, "right_elevon": 30.0},
            ["left elevon and right elevon go to 30 % down"],
        ),
    ],
)
def test_a_failsafe_that_steers_is_found_until_somebody_means_it(
    name: Any, presets: Any, said: Any
) -> None:
    model = _sent_without_link(demo_model(name), **presets)
    found = [f for f in failsafes(model) if f.seen[0] in presets]
    assert len(found) == len(said) and all(x in f.text for x, f in zip(said, found, strict=True))
    meant = tuple(
        x.changed({"failsafe": x.failsafe.changed({"meant": True})}) if x.target in presets else x
        for x in model.leads
    )
    agreed = model.changed({"leads": meant})
    assert not [f for f in failsafes(agreed) if f.seen[0] in presets] and digest(agreed) == digest(
        model
    )
    for f in found:
        left = [[g for g in failsafes(r.model) if g.seen[0] in presets] for r in repairs(model, f)]
        assert [] in left, "one of the repairs mends it whole"


def test_a_motor_that_starts_while_nobody_touches_anything_is_found_with_the_wait() -> None:
    """What waits for its time is a step of the way, confirmed in real time and said with its
    seconds."""
    late = MixLine(name="late", target="left_motor", source="full", gain=30.0, when="later")
    later = Delay(name="later", kind="on_delay", of="switch_b@1", seconds=4.0)
    found = shake(Ask(from_parts((later,), mixes=(*THROTTLE, late), motors=True)), ("M2",))
    finding = found.findings[0]
    assert finding.confirmed and finding.level == "danger" and finding.waits_s == 4.0
    assert finding.text.startswith(
        "left motor gets more by itself as time passes, from 0 to 15 % power"
    )
    assert "then B to on, then 4 s pass" in as_text(found)[2]
    played = Replay(from_parts((later,), mixes=(*THROTTLE, late), motors=True)).play(
        finding.moves, finding.length_s
    )
    us = played.result.outputs["left_motor"].us
    assert us[played.last + 190] == 1000 and us[-1] == 1150


@pytest.mark.parametrize(
    ("level", "step", "found"), [(2, 8.0, True), (4, 8.0, True), (4, 1.0, False)]
)
def test_one_act_is_one_click_of_a_trim(level: Any, step: Any, found: Any) -> None:
    """A trim lever from end to end is many acts; only a click that gives a motor more than 5 % by
    itself is told."""
    model = with_thrust(from_parts(mixes=THROTTLE, motors=True), trim=Trim(step=step, range=40.0))
    model = with_at(with_at(model, "program.guard.level", level), "program.guard.relock_s", 0.3)
    told = [f for f in shake(Ask(model), ("M2",)).findings if f.part.endswith("trim.clicks")]
    assert (
        all(f.confirmed and f.text.startswith("One click of thrust trim alone") for f in told)
        and bool(told) == found
    )


def test_what_a_master_switches_off_gives_nothing_either() -> None:
    """A behaviour has more conditions than its own *only while*: a master, a gate. Nothing of it
    may be left without them."""
    model = from_parts()
    search = SurfaceSearch(model, 100_000, lambda: False)
    line = MixLine(name="brakes", target="left_aileron", source="full", gain=-30.0)
    leaking = Group("Crow brakes", "program.recipes[0]", (line,), None, ("switch_b@1",))
    (found,) = BehavioursOff(search).off(leaking)
    assert found.level == "fault" and found.text.endswith(
        "30 % up while it is off (B at on does not hold)."
    )
    shut = leaking._replace(lines=(line.changed({"when": "switch_b@1"}),))
    assert list(BehavioursOff(search).off(shut)) == []


def test_what_is_too_much_for_one_search_is_taken_up_by_the_next(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """Without time only what stands on paper is answered, the rest is said to be open; the next
    search answers it."""
    ask, shaker = Ask(from_parts(mixes=ROLL)), ShakedownSearch()
    monkeypatch.setattr("hypsos.core.review.shakedown.LONGEST_S", 0.0)
    first = {s.statement: s.complete for s in shaker.run(ask).searched}
    assert first["W1"] and first["L1"] and not (first["S1"] or first["S4"] or first["L2"])
    monkeypatch.undo()
    assert shaker.run(ask).whole


def test_a_position_without_a_setting_has_no_rate_to_mend() -> None:
    """Nothing set is the full rate: what takes the command away is elsewhere, and asking what mends
    it ends in no error."""
    nothing = with_at(from_parts(mixes=ROLL), "program.axes[0].settings", (None,))
    for finding in (
        Finding("S1", "fault", "program.axes[0].settings[0]", "Only 3 % of roll is left."),
        Finding("L1", "fault", "program.axes[0].settings[0]", "Roll has nothing set."),
    ):
        assert repairs(nothing, finding) == []


@pytest.mark.parametrize(("gains", "asked_about"), [((10.0, 20.0), True), ((10.0, -20.0), False)])
def test_a_position_left_out_between_two_is_asked_about_unless_it_is_the_middle(
    gains: Any, asked_about: Any
) -> None:
    lines = tuple(
        MixLine(name=f"camber {p}", target="left_flap", source="full", gain=g, when=f"switch_c@{p}")
        for p, g in zip((0, 2), gains, strict=True)
    )
    found = [
        f
        for f in shake(Ask(from_parts(mixes=lines)), ("L1",)).findings
        if "Is that meant?" in f.text
    ]
    assert [f.text[:8] for f in found] == (["C at b: "] if asked_about else [])
