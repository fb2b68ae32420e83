# SPDX-License-Identifier: GPL-3.0-or-later
"""A motor on a switch: a power for each position, soft start and stop, and a limit for each run."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import Clock
from keyed import sheet_text
from motors import line, play

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import StartCheck
from hypsos.core.edits.behaviours import added, offers
from hypsos.core.edits.controls import turned, with_positions
from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS, with_proposal
from hypsos.core.edits.ready_announcements import with_ready_set
from hypsos.core.edits.run_limit import LABEL, RUN_S
from hypsos.core.engine import GuardState
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import CamberFollow, CoordinatedTurn, MotorSwitch
from hypsos.core.recipes.corrections import TurnShare
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.rundown import attentions
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.scenario_run import run_scenario
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.services.workbench import Workbench
from hypsos.hangar import Hangar

A_LIMIT = next(p for p in GUARD_PROPOSALS if p.title == "A limit for each run")
RUN, OFF, HALF, FULL = {"motor_switch": 1.0}, {"climb": 0.0}, {"climb": 1.0}, {"climb": 2.0}
ARMED, LOCKED = GuardState.ARMED, GuardState.LOCKED


def sailplane(positions: Any = ("off", "half", "full"), **fields: Any) -> Any:
    """A sailplane with a motor, every lead plugged in, its motor on a switch."""
    bare = TEMPLATES["v_tail_sailplane"].begin("Trial")
    leads = tuple(x.changed({"port": i + 1}) for i, x in enumerate(bare.leads))
    switch = Control(
        name="climb", label="Climb switch", kind="switch", hand="right", positions=positions
    )
    hands = bare.transmitter.changed({"controls": (*bare.transmitter.controls, switch)})
    model = bare.changed({"transmitter": hands, "leads": leads})
    made = next(o.made for o in offers(model) if o.kind is MotorSwitch)
    return added(model, made.changed(fields))


def power(result: Any, frame: Any = -1) -> Any:
    return (result.outputs["motor"].us[frame] - 1000.0) / 10.0


def test_each_position_has_its_power_and_the_throttle_gives_none() -> None:
    model = sailplane(in_s=0.0, out_s=0.0, second=40.0)
    assert list(problems(model)) == []
    armed: Any = ((1.0, {}), (1.5, RUN))
    for switch, percent in ((OFF, 0.0), (HALF, 40.0), (FULL, 100.0)):
        for stick in (-100.0, 100.0):
            result = play(model, *armed, (0.2, switch | {"throttle_stick": stick}))
            assert result.guard[-1] == ARMED and power(result) == pytest.approx(percent)
    two = sailplane(("off", "on"), in_s=0.0, second=70.0)
    assert power(play(two, *armed, (0.2, HALF))) == pytest.approx(70.0)


def test_it_starts_and_stops_softly_and_cut_stops_it_at_once() -> None:
    model = sailplane()  # a second to full power, half of one back
    running: Any = ((1.0, {}), (1.5, RUN), (2.0, FULL))
    assert power(play(model, *running[:2], (0.5, FULL))) == pytest.approx(50.0, abs=2.5)
    assert power(play(model, *running)) == pytest.approx(100.0)
    assert power(play(model, *running, (0.26, OFF))) == pytest.approx(50.0, abs=5.0)
    cut = play(model, *running, (0.02, {"motor_switch": 0.0}))
    assert power(cut) == 0.0
    back = play(model, *running, (1.0, {"motor_switch": 0.0}), (5.0, RUN))
    assert back.guard[-1] == LOCKED and power(back) == 0.0  # the switch still asks for power


def test_switched_off_by_its_condition_it_gives_nothing() -> None:
    model = sailplane(when="rates_switch@0", in_s=0.0)
    running: Any = ((1.0, {}), (1.5, RUN), (0.5, FULL))
    assert power(play(model, *running)) == 100.0
    gone = play(model, *running, (2.0, {"rates_switch": 1.0}))
    assert gone.guard[-1] == ARMED and power(gone) == 0.0
    off = model.program.recipes[-1].changed({"on": False})
    without = with_at(model, f"program.recipes[{len(model.program.recipes) - 1}]", off)
    assert power(play(without, *running)) == 0.0


@pytest.mark.parametrize("level", [1, 2, 3, 4])
def test_after_its_time_it_is_held_until_the_switch_was_off(level: Any) -> None:
    model = with_at(with_proposal(sailplane(), A_LIMIT), "program.guard.level", level)
    assert list(problems(model)) == [] and not A_LIMIT.suits(model)
    running: Any = ((1.0, {}), (1.5, RUN), (RUN_S - 0.5, FULL))
    last = play(model, *running)
    assert last.guard[-1] == ARMED and power(last) == 100.0
    over = play(model, *running, (60.0, {}), (5.0, HALF))
    assert over.guard[-1] != ARMED and power(over) == 0.0
    again = play(model, *running, (2.0, {}), (3.0, OFF))
    assert again.guard[-1] == ARMED and power(again) == 0.0
    second = play(model, *running, (2.0, {}), (3.0, OFF), (RUN_S - 1.0, FULL))
    assert second.guard[-1] == ARMED and power(second) == 100.0


def test_the_limit_is_said_and_printed_and_counts_at_every_position_with_power() -> None:
    model = with_proposal(sailplane(third=0.0), A_LIMIT)  # off, half, off
    assert list(problems(model)) == []
    running: Any = ((1.0, {}), (1.5, RUN), (RUN_S + 1.0, HALF))
    held = play(model, *running)
    assert held.guard[-1] != ARMED and LABEL in [x.caption for x in held.said]
    assert play(model, *running, (3.0, FULL)).guard[-1] == ARMED
    assert LABEL in sheet_text(model)


def test_the_search_takes_the_switch_for_the_throttle_and_nothing_else() -> None:
    """Its own switch is there to give power; a condition that brings the power back is not."""
    motors = {"M1", "M2", "M3", "M4", "M5", "M6"}
    clean = with_proposal(sailplane(in_s=4.0), A_LIMIT)
    found = [f for f in shake(Ask(clean)).findings if f.statement in motors]
    assert [f.level for f in found] == ["advice"] and "when the link returns" in found[
        0
    ].text  # on its way it goes on
    scenarios = ready_scenarios(clean)
    assert scenarios and [run_scenario(clean, x).broken for x in scenarios] == [()] * len(scenarios)
    found = shake(Ask(sailplane(when="flap_switch@1"))).findings  # type: ignore[assignment]
    assert any(f.statement == "M2" and "Flap switch" in f.text for f in found)
    both = with_at(
        clean, "program.mixes", (*clean.program.mixes, line("motor", "rates_switch", 60.0))
    )
    assert {f.statement for f in shake(Ask(both)).findings} & {"M2", "M6"}


def test_what_it_cannot_be_is_said_and_the_lines_it_replaces_go() -> None:
    model = sailplane()
    index = len(model.program.recipes) - 1
    assert not any(x.target == "motor" for x in model.program.mixes)
    never = with_at(model, f"program.recipes[{index}].first", 10.0)
    assert "it can never be armed" in " ".join(a.text for a in attentions(never))
    last = len(model.transmitter.controls) - 1
    six = with_at(
        model, f"transmitter.controls[{last}].positions", ("off", "1", "2", "3", "4", "full")
    )
    assert any("has 6 positions" in p.text for p in problems(six))
    captions = [x.caption for x in with_ready_set(model, "motor").program.announcements]
    assert "Locked: switch off" in captions and "Locked: stick low" not in captions
    locked = with_ready_set(model, "motor")
    told = play(locked, (1.0, FULL), (6.0, RUN)).said
    assert "Locked: switch off" in [x.caption for x in told]


def test_an_edit_of_it_locks_a_running_motor_and_so_does_taking_it_away(hangar: Hangar) -> None:
    """The throttle's line comes back as the behaviour is undone: with the stick up the motor must
    not run by that."""
    bench = Workbench(hangar, "Samphire", clock=Clock())
    program = bench.loaded.program
    bench.document.apply(
        added(bench.loaded, MotorSwitch(control="flap_switch", motors=("motor",))),
        "a motor on a switch",
    )
    last = len(program.recipes)

    def run() -> None:
        bench.simulation.set_control("motor_switch", 0.0)
        bench.simulation.set_control("flap_switch", 0.0)
        bench.simulation.set_control("throttle_stick", -100.0)
        bench.simulation.advance(4.0)  # a soft stop of 3 s among them
        bench.simulation.set_control("motor_switch", 1.0)
        bench.simulation.advance(0.5)
        bench.simulation.set_control("flap_switch", 2.0)
        bench.simulation.advance(2.0)
        assert bench.state.guard == ARMED and bench.state.turning, bench.state.guard_words

    for path, value in (
        (f"program.recipes[{last}].second", 30.0),
        (f"program.recipes[{last}].out_s", 3.0),
    ):
        run()
        bench.document.edit(path, value, "an edit")
        bench.simulation.advance(0.5)
        assert bench.state.guard == LOCKED and not bench.state.turning, path
    run()
    bench.simulation.set_control("throttle_stick", 100.0)
    for _ in range(3):
        bench.document.undo()
    assert bench.loaded.program.recipes == program.recipes
    bench.simulation.advance(5.0)
    assert bench.state.guard == LOCKED and not bench.state.turning


def at_each(model: Model) -> Any:
    """The power in percent at each position of its switch, by its name."""
    control = model.transmitter.control("climb")
    low = control.positions.index("off")
    steps = ((1.0, {"climb": float(low)}), (1.5, RUN | {"climb": float(low)}))
    return {
        name: power(play(model, *steps, (0.2, {"climb": float(i)})))
        for i, name in enumerate(control.positions)
    }


@pytest.mark.parametrize("positions", [("off", "half", "full"), ("off", "on")])
def test_a_switch_turned_round_gives_the_same_power_at_the_same_word(positions: Any) -> None:
    """With its positions the other way round *off* gives nothing still. It gave full power."""
    model = sailplane(positions, in_s=0.0, out_s=0.0, first=0.0, second=40.0, third=90.0)
    before = at_each(model)
    assert before["off"] == 0 and max(before.values()) > 30
    other = turned(model, "climb")
    assert other.transmitter.control("climb").positions == positions[::-1] and at_each(
        other
    ) == pytest.approx(before)


def test_a_position_that_comes_gives_no_more_than_the_last_one() -> None:
    model = sailplane(("off", "on"), in_s=0.0, out_s=0.0, second=40.0)
    more = at_each(with_positions(model, "climb", 3))
    assert (more["off"], more["on"]) == pytest.approx((0, 40)) and max(
        more.values()
    ) == pytest.approx(40)


def test_brakes_on_a_switch_that_is_turned_round_stay_shut_at_the_same_word() -> None:
    model = TEMPLATES["t_tail_sailplane"].make("Trial")
    switch = Control(
        name="brakes", label="Brakes", kind="switch", hand="left", positions=("in", "out")
    )
    model = with_at(model, "transmitter.controls", (*model.transmitter.controls, switch))
    i = next(i for i, r in enumerate(model.program.recipes) if r.kind == "airbrakes")
    model = with_at(model, f"program.recipes[{i}].control", "brakes")
    for made in (model, turned(model, "brakes")):
        names = made.transmitter.control("brakes").positions
        out = {
            n: play(made, (2.0, {"brakes": float(k)})).sums["left_airbrake"][-1]
            for k, n in enumerate(names)
        }
        assert out == pytest.approx({"in": 0.0, "out": -100.0})


def test_what_reads_a_switch_as_a_number_and_cannot_follow_is_said() -> None:
    model = sailplane(("off", "on"))
    made = next(
        o.made for o in offers(TEMPLATES["v_tail_sailplane"].make("T")) if o.kind is CamberFollow
    )
    model = added(model, made.changed({"control": "flap_switch", "signal": "curve"}))
    with pytest.raises(HypsosError, match="Camber follow"):
        turned(model, "flap_switch")


def test_a_start_check_goes_with_the_switch_that_is_turned_round() -> None:
    model = sailplane()
    check = StartCheck(control="climb", position=0)
    model = with_at(model, "program.guard.start_check", (check,))
    other = turned(model, "climb")
    assert [c.position for c in other.program.guard.start_check] == [2]
    assert turned(other, "climb") == model
    elsewhere = turned(model, "flap_switch").program.guard.start_check
    assert [c.position for c in elsewhere] == [0]


def test_shares_by_position_go_with_the_switch_that_is_turned_round() -> None:
    model = TEMPLATES["trainer"].make("Trial")
    three = Control(
        name="help", label="Help", kind="switch", hand="left", positions=("none", "some", "more")
    )
    model = with_at(model, "transmitter.controls", (*model.transmitter.controls, three))
    made = next(o.made for o in offers(model) if o.kind is CoordinatedTurn)
    made = made.changed(
        {"control": "help", "helps": (TurnShare(left=0, right=0), TurnShare(left=12, right=15))}
    )
    model = added(model, made)
    for tried in (model, turned(model, "help")):
        names = tried.transmitter.control("help").positions
        rudder = {
            n: play(
                tried, (0.1, {"help": float(i), "aileron_stick": 100.0, "rates_switch": 2.0})
            ).sums["rudder"]
            for i, n in enumerate(names)
        }
        found = {n: float(np.ravel(x)[-1]) for n, x in rudder.items()}
        assert found == pytest.approx({"none": 0.0, "some": 15.0, "more": 0.0}), names
