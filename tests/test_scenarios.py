# SPDX-License-Identifier: GPL-3.0-or-later
"""Scenarios, their expectations at their very edges, what is kept of a stretch, and what the usual
ones ask."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from hands import every_view
from parts import from_parts

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import first_problem
from hypsos.core.conditions import Combine, Gate
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.transmitters import shipped, taken
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.scenario import Expectation, Move, Scenario
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.scenario_from_recording import kept, trimmed
from hypsos.core.scenarios.scenario_run import expectation_words, run_scenario, situation_of
from hypsos.hangar import Hangar


def moves(*rows: Any) -> Any:
    return tuple(Move(t_s=t, control=c, to=v) for t, c, v in rows)


def outcome(model: Model, rows: Any, *expected: Any, length: Any = 3.0) -> Any:
    """Which of the expectations are not met: place and time."""
    found = run_scenario(
        model, Scenario(label="s", moves=moves(*rows), length_s=length, expectations=expected)
    )
    return [(b.place, round(b.t_s, 4)) for b in found.broken]


def expect(kind: Any, what: Any, start: Any, end: Any = None, **fields: Any) -> Any:
    return Expectation(
        kind=kind, what=what, from_s=start, to_s=start if end is None else end, **fields
    )


def test_an_expectation_holds_from_its_first_frame_to_its_last() -> None:
    model, rows = from_parts(motors=True), [(1.0, "switch_b", 1.0), (2.0, "switch_b", 0.0)]
    on = "switch_b@1"
    assert outcome(model, rows, expect("holds", on, 1.0, 1.98)) == []
    assert outcome(model, rows, expect("holds", on, 0.98, 1.5)) == [(0, 0.98)]
    assert outcome(model, rows, expect("holds", on, 1.0, 2.0)) == [(0, 2.0)]
    assert outcome(model, rows, expect("holds", f"!{on}", 2.0, 2.98), expect("holds", on, 2.5)) == [
        (1, 2.5)
    ]
    assert (
        outcome(model, rows, expect("holds", on, 1.011, 1.012)) == []
    )  # between two frames: the one that holds then
    assert (
        outcome(model, rows, expect("holds", f"!{on}", 7.0, 8.0)) == []
    )  # after the end: as it was left


def test_where_a_part_stands_is_held_to_its_bounds() -> None:
    model = from_parts()
    rows = [(0.0, "rudder_stick", 40.0)]
    assert outcome(model, rows, expect("stands", "rudder", 1.0, low=40.0, high=40.0)) == []
    assert outcome(model, rows, expect("stands", "rudder", 1.0, low=40.04, high=90.0)) == []
    assert outcome(model, rows, expect("stands", "rudder", 1.0, low=40.1, high=90.0)) == [(0, 1.0)]
    assert outcome(model, rows, expect("stands", "rudder", 1.0, low=-9.0, high=39.9)) == [(0, 1.0)]
    words = run_scenario(
        model,
        Scenario(
            label="s",
            moves=moves(*rows),
            length_s=2,
            expectations=(expect("stands", "rudder", 1.0, low=0, high=9),),
        ),
    )
    assert "At 1 s it stood at 40 % right" in words.broken[0].text


def test_a_caption_must_be_said_in_its_time_and_be_that_one() -> None:
    model = from_parts()
    said = tuple(Announcement(caption=c, when=f"switch_c@{i}") for i, c in ((1, "One"), (2, "Two")))
    model = model.changed({"program": model.program.changed({"announcements": said})})
    rows = [(1.0, "switch_c", 1.0)]
    assert outcome(model, rows, expect("said", "One", 1.0), expect("said", "One", 0.5, 2.0)) == []
    late, other = expect("said", "One", 1.02, 2.0), expect("said", "Two", 0.0, 3.0)
    assert outcome(model, rows, late, other) == [(0, 2.0), (1, 3.0)]


def test_a_motor_runs_from_the_first_of_its_power() -> None:
    line = MixLine(name="t", target="left_motor", source="thrust")
    model = from_parts(motors=True, mixes=(line,))
    arm = [(0.5, "motor_switch", 1.0), (1.0, "throttle_stick", -99.0)]
    assert (
        outcome(
            model,
            arm,
            expect("stopped", "left_motor", 0.0, 0.98),
            expect("runs", "left_motor", 1.0, 2.9),
        )
        == []
    )
    assert outcome(
        model, arm, expect("runs", "left_motor", 0.9, 2.0), expect("stopped", "left_motor", 1.0)
    ) == [(0, 0.9), (1, 1.0)]


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ((0.0, "switch_b", 2.0), "switch_b cannot go to 2"),
        ((0.0, "switch_c", 0.5), "switch_c cannot go to 0.5"),
        ((0.0, "link_quality", -5.0), "link_quality cannot go to -5"),
        ((0.0, "gone", 1.0), "no control gone any more"),
    ],
)
def test_a_move_that_cannot_be_made_says_which(row: Any, why: Any) -> None:
    with pytest.raises(HypsosError, match=why) as error:
        situation_of(
            from_parts(), Scenario(label="s", moves=moves((0.0, "slider", 5.0), row), length_s=1)
        )
    assert error.value.where == "move 2"


def test_a_move_acts_from_its_own_frame_on() -> None:
    model = from_parts()
    made = situation_of(
        model,
        Scenario(label="s", moves=moves((0.5, "slider", 30.0), (0.51, "link", 0.0)), length_s=1.0),
    )
    assert len(made.t_s) == 50
    assert np.flatnonzero(np.diff(made.controls["slider"])).tolist() == [24]
    assert np.flatnonzero(np.diff(made.link)).tolist() == [25]


def test_a_stretch_in_the_air_arms_first_and_one_on_the_ground_does_not() -> None:
    line = MixLine(name="t", target="left_motor", source="thrust")
    model = from_parts(motors=True, mixes=(line,))
    model = with_at(model, "program.guard.rest_s", 0.7)
    plan, t = compile_plan(model), 0.02 * np.arange(50)
    hands = {"motor_switch": np.ones(50), "throttle_stick": np.full(50, 20.0)}
    air = kept(model, plan, Situation(t, hands), GuardState.ARMED, "air", None)
    assert air.start_s == pytest.approx(0.7 + 0.5 + 0.5) and air.scenario.length_s == pytest.approx(
        air.start_s + 1.0
    )
    assert [(m.t_s, m.control, m.to) for m in air.scenario.moves] == [
        (0.0, "motor_switch", 0.0),
        (0.0, "throttle_stick", -100.0),
        (1.2, "motor_switch", 1.0),
        (1.7, "throttle_stick", 20.0),
    ]
    guard = plan.run(situation_of(model, air.scenario)).guard
    assert guard[round(1.2 / 0.02) - 1] == GuardState.CUT and guard[-1] == GuardState.ARMED
    for state in (GuardState.LOCKED, GuardState.CUT):
        ground = kept(model, plan, Situation(t, hands), state, "ground", None)
        assert ground.start_s == 0.0 and {m.t_s for m in ground.scenario.moves} == {0.0}
    with pytest.raises(HypsosError, match="nothing to keep"):
        kept(model, plan, Situation(t[:3], {"slider": np.zeros(3)}), GuardState.CUT, "x", None)
    ten_minutes = 0.02 * np.arange(30_000)
    assert (
        kept(model, plan, Situation(ten_minutes, {}), GuardState.CUT, "x", None).scenario.length_s
        == 600.0
    )
    with pytest.raises(HypsosError, match="ten minutes at the most"):
        kept(model, plan, Situation(0.02 * np.arange(30_001), {}), GuardState.CUT, "x", None)


def test_the_usual_scenarios_ask_for_what_the_guard_promises(hangar: Hangar) -> None:
    tug, wing = hangar.load("Samphire"), hangar.load("Whinlark")
    asked = {
        s.label: [expectation_words(tug, x) for x in s.expectations] for s in ready_scenarios(tug)
    }
    assert asked["Arm with the stick up"] == [
        "from 0.1 s to 1.95 s Motor is stopped",
        "from 2.1 s to 3.95 s Motor is stopped",
    ]
    assert asked["A short drop-out in flight"][-2:] == [
        "at 4.95 s Motor runs",
        "at 7.25 s Motor runs",
    ]
    assert len(asked["Switch left on at power-up"]) == 2 and len(asked["Flaperons out and in"]) == 4
    woken = with_at(tug, "program.guard.wakes_when_low", True)
    left_on = next(s for s in ready_scenarios(woken) if s.label == "Switch left on at power-up")
    assert len(left_on.expectations) == 1
    assert all(
        s.label != "Arm with the stick up"
        for s in ready_scenarios(with_at(tug, "program.guard.level", 1))
    )
    for level, power, left in (
        (4, "not said", "everything left on"), (4, "own battery", "the switch at cut"), (2, "not said", "the switch at cut"),
    ):  # fmt: skip
        made = with_at(with_at(tug, "program.guard.level", level), "receiver.power", power)
        changed = next(s for s in ready_scenarios(made) if s.label.startswith("Change the battery"))
        assert (
            changed.label == f"Change the battery with {left}" and run_scenario(made, changed).good
        )
        out = next(m.t_s for m in changed.moves if (m.control, m.to) == ("flight_battery", 0.0))
        cut = [m.t_s for m in changed.moves if (m.control, m.to) == ("motor_switch", 0.0)]
        assert (0 < cut[-1] < out) == (left == "the switch at cut")
    flaps = next(s for s in ready_scenarios(tug) if s.label == "Flaperons out and in")
    less = with_at(
        tug,
        "program.recipes[1].positions[2].flap",
        tug.program.recipes[1].positions[2].flap - 4.0,  # type: ignore[attr-defined]
    )  # type: ignore[attr-defined]
    assert [b.place for b in run_scenario(less, flaps).broken] == [0, 1]
    (drop,) = ready_scenarios(wing)
    assert [x.what for x in drop.expectations] == ["!link", "link"] and drop.moves[0].to == 60.0
    assert run_scenario(wing, drop).good


def test_a_gate_that_is_known_late_is_read_by_no_motor() -> None:
    gate = Gate(name="held", source="slider", when="guard:armed", parked=0.0)
    last = Gate(name="told", source="slider", when="out", parked=0.0)
    out = Combine(kind="all", name="out", of=("link", "far"))
    flap = MixLine(name="f", target="left_flap", source="held")
    model = from_parts(motors=True, logic=(gate,), mixes=(flap,))
    assert first_problem(model) is None
    spin = MixLine(name="s", target="left_motor", source="held")
    assert (
        "come after it"
        in first_problem(from_parts(motors=True, logic=(gate,), mixes=(flap, spin))).text
    )
    from hypsos.core.conditions import Compare

    far = Compare(kind="above", name="far", a="rudder", x=10)
    model = from_parts(
        motors=True, logic=(far, out, last), mixes=(flap.changed({"source": "told"}),)
    )
    assert "known too late" in first_problem(model).text


def test_seats_of_a_transmitter_never_take_a_name_that_is_taken() -> None:
    names = [c.name for c in shipped()[0].controls][:3]
    logic = (Combine(kind="all", name=names[0], of=("switch_b@1",)),)
    model = from_parts(logic=logic)
    timers = (Timer(name=names[1], when="link"),)
    model = model.changed({"program": model.program.changed({"timers": timers})})
    made = taken(model, shipped()[0]).model
    assert first_problem(made) is None and {c.name for c in made.transmitter.controls}.isdisjoint(
        names[:2]
    )


def test_the_voice_keeps_the_clock_going_until_all_is_said() -> None:
    model = from_parts()
    said = tuple(Announcement(caption=c, when="switch_b@1") for c in ("One", "Two"))
    model = model.changed({"program": model.program.changed({"announcements": said})})
    plan = compile_plan(model)

    def ticking(seconds: Any) -> Any:
        frames = round(seconds / 0.02)
        at = np.where(np.arange(frames) > 4, 1.0, 0.0)
        return plan.run(Situation(0.02 * np.arange(frames), {"switch_b": at})).ticking

    one = 0.1 + 0.5 + 3 * 0.07  # the first caption has ended, the second follows at once
    assert (
        not ticking(0.08)
        and ticking(0.2)
        and ticking(one + 0.1)
        and ticking(one + 0.68)
        and not ticking(one + 0.8)
    )


def test_what_is_cut_off_a_scenario_leaves_its_hands() -> None:
    rows = moves(
        (0.0, "switch_b", 1.0), (1.0, "slider", 40.0), (2.0, "switch_b", 0.0), (2.5, "slider", 0.0)
    )
    asks = (expect("holds", "link", 0.0, 0.5), expect("holds", "link", 0.5, 2.6))
    whole = Scenario(label="s", moves=rows, length_s=3.0, expectations=asks)
    part = trimmed(from_parts(), whole, 1.0, 2.5)
    assert [(m.t_s, m.control, m.to) for m in part.moves] == [
        (0.0, "switch_b", 1.0),
        (0.0, "slider", 40.0),
        (1.0, "switch_b", 0.0),
    ]
    assert part.length_s == 1.5 and [(x.from_s, x.to_s) for x in part.expectations] == [(0.0, 1.5)]


def test_thinning_keeps_every_switch_and_the_end_of_every_stick() -> None:
    model, frames = from_parts(), 3000
    i = np.arange(frames)
    hands = {"slider": (i % 7) * 10.0, "switch_c": (i // 40 % 3).astype(float)}
    made = kept(
        model,
        compile_plan(model),
        Situation(0.02 * i, hands, (i % 500 > 3).astype(float)),
        GuardState.CUT,
        "s",
        None,
    )
    by = {
        n: [m for m in made.scenario.moves if m.control == n]
        for n in ("slider", "switch_c", "link")
    }
    assert len(by["switch_c"]) == 74 and len(by["link"]) == 12 and 300 < len(by["slider"]) <= 714
    assert by["slider"][-1].to == hands["slider"][-1]


def test_a_switch_goes_to_the_seat_with_as_many_positions() -> None:
    model = from_parts(motors=True)
    change = dict(taken(model, shipped()[0]).placed)
    assert (
        change["Motor"] == "Left, far switch"
    )  # two positions, though others stand under the same hand
    used = from_parts(
        motors=True, mixes=(MixLine(name="c", target="left_flap", source="switch_c"),)
    )
    assert dict(taken(used, shipped()[0]).placed)["C"] == "Left, near switch"


def test_as_many_motors_as_a_document_allows_open_in_every_view(window: Any) -> None:
    bench = window.workbench
    tug = bench.loaded
    motor, lead = tug.airframe.motors[0], next(x for x in tug.leads if x.target == "motor")
    more = [{"name": f"motor{i}", "label": f"Motor {i}"} for i in range(2, 41)]
    motors = (motor, *(motor.changed(x) for x in more))
    leads = (*tug.leads, *(lead.changed({**x, "target": x["name"], "port": None}) for x in more))
    many = tug.changed(
        {"name": "Forty", "airframe": tug.airframe.changed({"motors": motors}), "leads": leads}
    )
    ready = ready_scenarios(many)
    assert all(
        len({x.what for x in s.expectations if x.kind == "stopped"}) == 40 for s in ready[:2]
    )
    bench.document.add(many.changed({"scenarios": ready}))
    seen = [name for _, name in every_view(window)]
    assert "shake scenarios" in seen and "guard" in seen


def test_the_longest_names_leave_every_ready_set_and_scenario_whole() -> None:
    """What is put together of two names may not be longer than a label, else the page that offers
    it does not open."""
    from hypsos.core.edits.ready_announcements import ready_sets, with_ready_set

    tug = demo_model("samphire")
    flaps = next(i for i, r in enumerate(tug.program.recipes) if r.kind == "flaperons")
    long = with_at(tug, f"program.recipes[{flaps}].label", "x" * 60)
    switch = next(i for i, c in enumerate(long.transmitter.controls) if c.name == "flap_switch")
    long = with_at(long, f"transmitter.controls[{switch}].positions", ("up", "y" * 40, "z" * 40))
    assert any(s.label.endswith("out and in") for s in ready_scenarios(long))
    said = with_ready_set(long, "flaps").program.announcements
    assert {s.key for s in ready_sets(long)} >= {"flaps"} and any(
        x.caption.endswith("yyy") for x in said
    )
