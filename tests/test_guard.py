# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard through time: holds, second switch, start check, a lost link, an edit; and the receiver
behind it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from motors import FRAME, THROTTLE, armed, line, mode, play, pulses, said
from parts import from_parts

from hypsos.core.checking.checks import first_problem
from hypsos.core.conditions import Combine, Delay, Latch
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Trim
from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS, with_proposal
from hypsos.core.edits.relock_time import too_short
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.rundown import attentions
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.scenario_run import run_scenario
from hypsos.hangar import Hangar


def test_out_of_a_landing_with_the_stick_up_the_motor_waits(marram: Model) -> None:
    """Brakes shut, the stick up, and the switch from landing to normal: two flicks."""
    result = play(
        marram,
        (1.0, {}),
        (0.5, {"motor_switch": 1.0}),
        (2.0, {"throttle_stick": 40.0}),
        (1.0, {"task_switch": 2.0}),
        (1.0, {"throttle_stick": 100.0}),
        (2.0, {"task_switch": 0.0}),
        (0.4, {"throttle_stick": -100.0}),
        (0.4, {}),
        (0.5, {"throttle_stick": -20.0}),
    )
    at = np.cumsum([1.0, 0.5, 2.0, 1.0, 1.0, 2.0, 0.4, 0.4, 0.5])
    place = [round(x / FRAME) - 1 for x in at]
    states = [GuardState(int(result.guard[i])).name for i in place]
    assert states == ["CUT", "ARMED", "ARMED", "CUT", "CUT", "LOCKED", "LOCKED", "ARMED", "ARMED"]
    us = result.outputs["motor"].us
    assert set(us[place[2] + 2 : place[7]]) == {1000.0} and us[-1] == 1400.0


def test_one_switch_for_cut_normal_and_more() -> None:
    """Two positions run: between them nothing is stopped and nothing armed; a hold stops in one of
    them."""
    model = from_parts(mixes=THROTTLE, motors=True)
    model = with_at(with_at(model, "program.guard.switch", "switch_c"), "program.guard.cut", (0,))
    up = {"throttle_stick": 30.0}
    result = play(
        model,
        (1.0, {}),
        (0.1, {"switch_c": 1.0}),
        (0.5, up),
        (0.5, {"switch_c": 2.0}),
        (0.5, {"switch_c": 1.0}),
    )
    assert set(result.guard[51:]) == {GuardState.ARMED}
    skipped = play(
        model,
        (1.0, up),
        (0.1, {"switch_c": 1.0}),
        (0.5, {"throttle_stick": -100.0}),
        (0.5, {"switch_c": 2.0}),
    )
    assert skipped.guard[-1] == GuardState.LOCKED
    two = with_at(model, "program.guard.cut", (0, 2))
    assert play(two, (1.0, {}), (0.1, {"switch_c": 1.0}), (0.5, up)).guard[-1] == GuardState.ARMED
    for cut in (0.0, 2.0):
        assert (
            play(two, (1.0, {}), (0.1, {"switch_c": 1.0}), (0.5, {"switch_c": cut})).guard[-1]
            == GuardState.CUT
        )


def test_start_check_second_switch_and_their_first_release() -> None:
    from hypsos.core.document.program import StartCheck

    model = from_parts(mixes=THROTTLE, motors=True)
    checks = (
        StartCheck(control="switch_b", position=0),
        StartCheck(control="slider", low=-10, high=10),
    )
    checked = with_at(model, "program.guard.start_check", checks)
    assert (
        armed(checked, switch_b=1.0).guard[-1]
        == armed(checked, slider=50.0).guard[-1]
        == GuardState.LOCKED
    )
    assert (
        armed(checked, slider=10.0).guard[-1]
        == armed(checked, slider=-10.0).guard[-1]
        == GuardState.ARMED
    )
    later = play(
        checked,
        (1.0, {}),
        (0.2, {"motor_switch": 1.0}),
        (0.2, {"motor_switch": 0.0, "switch_b": 1.0}),
        (0.2, {"motor_switch": 1.0}),
    )
    assert later.guard[-1] == GuardState.ARMED  # only before the first release
    assert "as the start check wants them" in said(
        checked, armed(checked, switch_b=1.0), switch_b=1.0
    )
    also = with_at(model, "program.guard.also", "switch_b@1")
    assert "to cut and back while B at on" in said(also, armed(also))
    assert (
        armed(also).guard[-1] == GuardState.LOCKED
        and armed(also, switch_b=1.0).guard[-1] == GuardState.ARMED
    )
    let_go = play(
        also, (1.0, {"switch_b": 1.0}), (0.2, {"motor_switch": 1.0}), (0.2, {"switch_b": 0.0})
    )
    assert let_go.guard[-1] == GuardState.ARMED  # a button need not be held in flight


@pytest.mark.parametrize(
    ("gaps", "state"),
    [
        ([(0.4, 1.0)], "ARMED"),
        ([(0.52, 1.0)], "LOCKED"),
        ([(0.9, 0.02), (0.88, 1.0)], "LOCKED"),
        ([(0.3, 0.1), (0.3, 1.0)], "LOCKED"),
        ([(0.3, 0.22), (0.3, 1.0)], "ARMED"),
        ([(0.3, 0.18), (0.3, 1.0)], "LOCKED"),
    ],
)
@pytest.mark.parametrize("wakes", [False, True])
def test_a_bouncing_contact_does_not_start_the_count_anew(
    gaps: Any, state: Any, wakes: Any
) -> None:
    """Battery away and back, a contact in between; waking never clears what a lost link has
    locked."""
    model = with_at(
        with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.level", 4),
        "program.guard.wakes_when_low",
        wakes,
    )
    steps = [(1.0, {}), (0.2, {"motor_switch": 1.0})]
    for away, back in gaps:
        steps += [(away, {"power": 0.0}), (back, {"power": 1.0})]
    result = play(model, *steps)
    assert result.guard[-1] == GuardState[state]
    assert (
        play(model, *steps, (0.1, {"motor_switch": 0.0}), (0.1, {"motor_switch": 1.0})).guard[-1]
        == GuardState.ARMED
    )


def test_the_first_three_levels_come_back_with_the_link_and_say_so() -> None:
    model = from_parts(mixes=THROTTLE, motors=True)
    result = play(
        model, (1.0, {}), (0.2, {"motor_switch": 1.0}), (2.0, {"throttle_stick": 50.0, "link": 0.0})
    )
    assert (
        said(model, result, False, throttle_stick=50.0)
        == "Motor armed, link lost: it starts again when the link returns"
    )
    assert result.outputs["left_motor"].us[-1] == 1000
    again = play(
        model,
        (1.0, {}),
        (0.2, {"motor_switch": 1.0}),
        (2.0, {"throttle_stick": 50.0, "link": 0.0}),
        (0.1, {"link": 1.0}),
    )
    assert again.outputs["left_motor"].us[-1] == 1750


@pytest.mark.parametrize("stored", [True, False])
@pytest.mark.parametrize("action", ["preset", "hold", "no pulses"])
def test_a_receiver_that_has_just_got_power_knows_nothing(action: Any, stored: Any) -> None:
    """Full power and deflection, its battery away, and back without a transmitter."""
    leads = {
        n: {"failsafe": Failsafe(action=action, value=v)}
        for n, v in (("left_motor", -100.0), ("rudder", 30.0))
    }
    model = with_at(from_parts(mixes=THROTTLE, motors=True, leads=leads), "receiver.stored", stored)
    result = play(
        model,
        (1.0, {}),
        (0.2, {"motor_switch": 1.0}),
        (0.2, {"throttle_stick": 100.0, "rudder_stick": 100.0}),
        (0.5, {"power": 0.0}),
        (0.9, {"power": 1.0, "link": 0.0}),
        (0.4, {}),
    )
    t = FRAME * np.arange(len(result.t_s))
    for name, us in (("left_motor", 1000.0), ("rudder", 1650.0)):
        trace = result.outputs[name]
        assert (
            trace.us[(t > 1.41) & (t < 1.89)].max() == 0
            and trace.us[(t > 1.91) & (t < 2.79)].max() == 0
        )
        assert trace.us[-1] == (us if action == "preset" and stored else 0)
    assert set(result.outputs["left_motor"].stand[t > 1.41]) == {-100.0}


@pytest.mark.parametrize("level", [2, 3])
def test_at_the_threshold_is_low_and_above_it_is_not(level: Any) -> None:
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.level", level)
    for stick, preset, arms in (
        (-95.0, 0.0, True),
        (-94.9, 0.0, False),
        (-100.0, 5.0, True),
        (-100.0, 5.1, False),
    ):
        made = with_at(model, "program.modes", (mode("base", right_motor=preset),))
        result = armed(made, throttle_stick=stick)
        assert (result.guard[-1] == GuardState.ARMED) == arms, (stick, preset)


def test_what_an_edit_does_to_the_memory() -> None:
    """Locked, whatever state it was in; and nothing at all where there is no memory yet."""
    from hypsos.core.engine.axes import without_trims
    from hypsos.core.engine.guard import locked

    model = with_at(
        from_parts(mixes=THROTTLE, motors=True, trims={"roll": Trim()}),
        "program.guard.holds",
        ("switch_b@1",),
    )
    plan = compile_plan(model)
    assert locked(None) is None and without_trims(None) is None
    start = armed(model)
    again = plan.run(Situation(np.array([5.0]), {"motor_switch": 1.0}), locked(start.memory))
    assert start.guard[-1] == GuardState.ARMED and again.guard[-1] == GuardState.LOCKED
    held = play(model, (1.0, {}), (0.2, {"motor_switch": 1.0}), (0.2, {"switch_b": 1.0}))
    later = Situation(5.0 + FRAME * np.arange(100), {"motor_switch": 1.0, "switch_b": 0.0})
    assert plan.run(later, held.memory).guard[-1] == GuardState.ARMED
    assert (
        plan.run(later, locked(held.memory)).guard[-1] == GuardState.LOCKED
    )  # an edit ends the waiting
    state = locked(start.memory).after["guard.state"]
    assert (
        np.all(start.memory.after["guard.state"][0])
        and not np.any(state[0])
        and not np.any(state[2])
    )
    moved = replace(start.memory, after=start.memory.after | {"trim.roll": 3})
    assert without_trims(moved).after.keys() == start.memory.after.keys()


def test_proposals_fit_the_motors_and_leave_nothing_that_turns_at_idle(hangar: Hangar) -> None:
    for name in ("Samphire", "Skerry", "Sorrel"):
        model = hangar.load(name)
        fitting = [p for p in GUARD_PROPOSALS if p.suits(model)]
        assert len(fitting) == (1 if name == "Skerry" else 2)
        for proposal in fitting:
            made = with_proposal(model, proposal)
            assert (
                first_problem(made) is None
                and made.program.guard.switch == model.program.guard.switch
            )
            assert made.program.guard.cut == model.program.guard.cut
            assert all(getattr(r, "at_idle", "none") == "none" for r in made.program.recipes)
            assert not any(b for x in ready_scenarios(made) for b in run_scenario(made, x).broken)


def test_what_a_slow_line_will_take_away_is_not_taken_away_yet() -> None:
    """A fast line gives a motor 8 %, a slow one takes 12 % in ten seconds: at the release it would
    turn for most of them."""
    fast = MixLine(name="more", target="left_motor", source="full", gain=8.0)
    slow = MixLine(name="less", target="left_motor", source="full", gain=-12.0, in_s=10.0)
    for mixes, state, asked in (
        ((fast, slow), GuardState.LOCKED, -92.0),
        ((slow,), GuardState.ARMED, -100.0),
    ):
        result = armed(from_parts(mixes=(*THROTTLE, *mixes), motors=True))
        assert result.guard[-1] == state and set(result.outputs["left_motor"].us) == {1000.0}
        assert np.ravel(result.told["left_motor"])[-1] == pytest.approx(asked)


def late(kind: Any, seconds: Any, of: Any, name: Any = "late") -> Any:
    return Delay(kind=kind, name=name, of=of, seconds=seconds)


@pytest.mark.parametrize(
    ("logic", "when"),
    [
        ((late("on_delay", 3.0, "switch_b@1"),), "late"),
        ((late("off_delay", 3.0, "!switch_b@1"),), "!late"),
        ((late("pulse", 3.0, "switch_b@1"),), "late"),
        ((late("pulse", 3.0, "switch_b@1"), Combine(kind="all", name="after", of=("!late", "switch_b@1"))), "after"),
        ((late("on_delay", 3.0, "switch_b@1"), late("pulse", 1.0, "late", "then")), "then"),
        (
            (late("on_delay", 2.0, "switch_b@1"), late("on_delay", 5.0, "switch_b@1", "later"),
             Combine(kind="all", name="between", of=("late", "!later"))), "between",
        ),
        (
            (late("on_delay", 3.0, "switch_b@1"), Latch(name="kept", set="late", reset="switch_c@2")), "kept",
        ),
    ],
)  # fmt: skip
@pytest.mark.parametrize("as_preset", [False, True])
def test_nothing_that_was_on_its_way_before_the_release_starts_a_motor(
    logic: Any, when: Any, as_preset: Any
) -> None:
    """A second after a switch was moved and everything reads idle, the motor's switch goes to run:
    it stays locked, and no pulse comes later, though nobody moves a hand. Nothing on its way, the
    same moves release it."""
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.logic", logic)
    if as_preset:
        modes = (
            FlightMode(name="on", when=when, presets={"left_motor": 60.0}),
            FlightMode(name="base"),
        )
        model = with_at(model, "program.modes", modes)
    else:
        model = with_at(
            model, "program.mixes", (*THROTTLE, line("left_motor", "full", 30.0, when=when))
        )
    assert first_problem(model) is None
    moves: Any = ((1.0, {}), (1.0, {"switch_b": 1.0}), (9.0, {"motor_switch": 1.0}))
    result = play(model, *moves)
    assert np.all(pulses(result) == 1000.0) and result.guard[-1] == GuardState.LOCKED
    free = play(model, (1.0, {}), (1.0, {}), (1.0, {"motor_switch": 1.0}))
    assert free.guard[-1] == GuardState.ARMED or "off_delay" in logic[0].kind
    plan, memory = compile_plan(model), None
    for t in range(0, 300, 10):  # frame by frame it is the same
        row = {"switch_b": float(t >= 50), "motor_switch": float(t >= 100)}
        for i in range(t, t + 10):
            one = plan.run(
                Situation(np.array([i * FRAME]), {n: float(v) for n, v in row.items()}), memory
            )
            memory = one.memory
            assert (
                one.guard[-1] == result.guard[i]
                and one.told["left_motor"][-1] == result.told["left_motor"][i]
            ), i


@pytest.mark.parametrize(("level", "relock", "after", "wrong"), [
    (4, 2.5, 1.0, False), (4, 1.0, 1.0, False), (4, 0.5, 1.0, True), (4, 2.5, 3.0, True), (3, 0.5, 1.0, False),
])  # fmt: skip
def test_a_loss_that_the_failsafe_does_not_act_on_stops_no_motor_for_good(
    window: Any, level: Any, relock: Any, after: Any, wrong: Any
) -> None:
    """The re-lock time lies at or beyond the failsafe's: said of a document, and refused where it
    is typed."""
    bench = window.workbench
    bench.document.edit("program.guard.level", level, "level")
    bench.document.apply(
        with_at(
            with_at(bench.loaded, "program.guard.relock_s", 5.0), "receiver.failsafe_after_s", 0.1
        ),
        "wide",
    )
    made = with_at(
        with_at(bench.loaded, "program.guard.relock_s", relock), "receiver.failsafe_after_s", after
    )
    said = [a.text for a in attentions(made) if a.path == "program.guard.relock_s"]
    assert bool(said) == wrong and bool(too_short(made)) == wrong
    bench.document.edit("receiver.failsafe_after_s", after, "after")
    window.go("guard")
    field = window.page("guard").relock
    field._take(relock)
    assert bench.loaded.program.guard.relock_s == (5.0 if wrong else relock)
    assert field.complaint.isHidden() != wrong


def test_a_failsafe_does_not_wait_longer_than_the_guard(window: Any) -> None:
    bench = window.workbench
    bench.document.apply(
        with_at(with_at(bench.loaded, "program.guard.level", 4), "program.guard.relock_s", 2.5),
        "whole",
    )
    window.go("failsafe")
    field = window.page("failsafe").after
    for seconds, stored in ((3.0, 1.0), (2.5, 2.5)):
        field._take(seconds)
        assert bench.loaded.receiver.failsafe_after_s == stored
    late = bench.loaded.changed(
        {"receiver": bench.loaded.receiver.changed({"failsafe_after_s": 4.0})}
    )
    assert with_proposal(late, GUARD_PROPOSALS[0]).program.guard.relock_s == 4.5
