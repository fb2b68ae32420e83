# SPDX-License-Identifier: GPL-3.0-or-later
"""An engine idles while it is armed and stops at cut; an electric motor never does the like."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import press, type_into
from keyed import sheet_text
from motors import THROTTLE, armed, line, play, said, with_thrust
from parts import from_parts
from pytestqt.qtbot import QtBot

from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Compare
from hypsos.core.dependencies.motor_dependencies import motor_reach
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Engine, Trim
from hypsos.core.edits.engine_kind import electric, with_engine
from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS, with_proposal
from hypsos.core.engine import GuardState
from hypsos.core.review.compare_models import compared
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.scenario_run import run_scenario
from hypsos.core.shape.adapt_model import adapted

LEFT = Engine(motor="left_motor", idle=15.0)
AN_ENGINE = next(p for p in GUARD_PROPOSALS if p.title == "An engine")


def engine(trim: Any = 0, mixes: Any = (), **fields: Any) -> Any:
    """Two engines."""
    model = from_parts(mixes=(*THROTTLE, *mixes), motors=True)
    model = with_thrust(model, trim=Trim(step=1.0, range=40.0, clicks=trim))
    return with_engine(with_engine(model, LEFT.changed(fields)), Engine(motor="right_motor"))


def power(result: Any, name: Any = "left_motor") -> Any:
    """Percent of power by the pulse on the lead, at the end."""
    return (result.outputs[name].us[-1] - 1000.0) / 10.0


@pytest.mark.parametrize(
    ("stick", "trim", "percent"),
    [
        (-100, 0, 15.0),
        (-100, 20, 25.0),
        (-100, -20, 5.0),
        (-100, -40, 0.0),
        (0, 0, 57.5),
        (0, 20, 67.5),
        (100, 0, 100.0),
    ],
)
def test_the_stick_is_laid_out_between_idle_with_its_trim_and_full(
    stick: Any, trim: Any, percent: Any
) -> None:
    result = play(
        engine(trim), (1.0, {}), (0.5, {"motor_switch": 1.0}), (0.2, {"throttle_stick": stick})
    )
    assert result.guard[-1] == GuardState.ARMED and power(result) == pytest.approx(percent)


def test_a_trim_that_locks_an_electric_motor_arms_an_engine() -> None:
    model = engine(20)
    other = electric(model, "right_motor")
    both = armed(other)
    assert both.guard[-1] == GuardState.LOCKED and "right motor would be commanded 10 %" in said(
        other, both
    )
    result = armed(model)
    assert result.guard[-1] == GuardState.ARMED and power(result) == power(
        result, "right_motor"
    ) == pytest.approx(25.0)
    assert said(model, result) == "Motor armed: left motor idles at 25 %"
    stick = armed(model, throttle_stick=-90.0)
    assert (
        stick.guard[-1] == GuardState.LOCKED and power(stick) == 0.0
    )  # the stick has to be low all the same


@pytest.mark.parametrize("level", [1, 2, 3, 4])
def test_an_engine_runs_only_while_it_is_released(level: Any) -> None:
    model = with_at(engine(10), "program.guard.level", level)
    result = play(
        model,
        (1.0, {}),
        (0.5, {"motor_switch": 1.0}),
        (0.5, {"motor_switch": 0.0}),
        (5.0, {"link": 0.0}),
    )
    free, us = result.guard == GuardState.ARMED, result.outputs["left_motor"].us
    assert free.any() and np.all(us[free] == 1200.0) and np.all(us[~free] == 1000.0)


def test_nothing_takes_an_engine_below_its_idle() -> None:
    away = line("left_motor", "yaw", -60.0)
    model = engine(0, (away,))
    result = play(
        model,
        (1.0, {}),
        (0.5, {"motor_switch": 1.0}),
        (0.2, {"throttle_stick": -80.0, "rudder_stick": 100.0}),
    )
    assert power(result) == pytest.approx(15.0) and power(result, "right_motor") == pytest.approx(
        23.5
    )


def test_the_second_idle_goes_by_its_condition() -> None:
    model = engine(0, high_idle=25.0, high_when="switch_b@1")
    steps: Any = ((1.0, {}), (0.5, {"motor_switch": 1.0}), (0.2, {"switch_b": 1.0}))
    assert power(play(model, *steps[:2])) == pytest.approx(15.0)
    assert power(play(model, *steps)) == pytest.approx(25.0)
    assert power(play(model, *steps, (0.2, {"throttle_stick": 100.0}))) == pytest.approx(100.0)
    assert power(play(model, *steps, (0.2, {"motor_switch": 0.0}))) == 0.0


@pytest.mark.parametrize(
    ("fields", "place"),
    [
        ({"motor": "third"}, "motor"), ({"high_idle": 25.0}, "high_when"), ({"high_when": "switch_b@1"}, "high_when"),
        ({"high_idle": 15.0, "high_when": "switch_b@1"}, "high_idle"),
        ({"high_idle": 25.0, "high_when": "nothing@1"}, "high_when"),
        ({"high_idle": 25.0, "high_when": "guard:armed"}, "high_when"),
    ],
)  # fmt: skip
def test_what_an_engine_cannot_be_is_said_with_its_place(fields: Any, place: Any) -> None:
    model = from_parts(mixes=THROTTLE, motors=True)
    assert next(problems(model), None) is None
    wrong = with_at(model, "program.guard.engines", (LEFT.changed(fields),))
    assert [p.path for p in problems(wrong)] == [f"program.guard.engines[0].{place}"]
    twice = with_at(model, "program.guard.engines", (LEFT, LEFT))
    assert [p.path for p in problems(twice)] == ["program.guard.engines[1].motor"]


def test_the_proposal_makes_an_engine_of_the_motor_and_another_unmakes_it(samphire: Model) -> None:
    model = with_proposal(samphire, AN_ENGINE)
    (found,) = model.program.guard.engines
    assert (found.motor, found.idle) == ("motor", 15.0) and model.program.axis(
        "thrust"
    ).trim.range == 20.0
    assert next(problems(model), None) is None
    assert "| Motor | own above 0 / 85<br>Fixed −70<br>Thrust 100<br>" in sheet_text(model)
    kept = with_at(model, "program.guard.engines[0].idle", 12.0)
    assert with_proposal(kept, AN_ENGINE).program.guard.engines[0].idle == 12.0
    assert with_proposal(model, GUARD_PROPOSALS[0]).program.guard.engines == ()
    assert electric(model, "motor").program.guard.engines == ()
    without = samphire.airframe.changed(
        {"motors": (samphire.airframe.motors[0].changed({"name": "other"}),)}
    )
    assert adapted(model, without).model.program.guard.engines == ()


def test_an_engine_at_idle_is_no_motor_that_starts(samphire: Model) -> None:
    """What the search says of a motor holds above an engine's idle; its scenarios expect an engine
    to run at the low end."""
    model = with_proposal(samphire, AN_ENGINE)
    switch = next(
        c.name
        for c in model.transmitter.controls
        if c.is_switch and c.name != model.program.guard.switch
    )
    model = with_at(
        model,
        "program.guard.engines",
        (Engine(motor="motor", high_idle=25.0, high_when=f"{switch}@1"),),
    )
    motors = {"M1", "M2", "M3", "M4", "M5", "M6"}
    assert [f.text for f in shake(Ask(model)).findings if f.statement in motors] == []
    assert [run_scenario(model, x).broken for x in ready_scenarios(model)] == [()] * len(
        ready_scenarios(model)
    )
    mix = line("motor", f"{switch}", 60.0)
    raised = with_at(model, "program.mixes", (*model.program.mixes, mix))
    assert {f.statement for f in shake(Ask(raised)).findings} & {"M2", "M6"}


def test_engines_are_told_apart(samphire: Model) -> None:
    model = with_proposal(samphire, AN_ENGINE)
    assert not compared(model, electric(model, "motor")).same
    assert not compared(model, with_at(model, "program.guard.engines[0].idle", 20.0)).same
    assert compared(model, model).same


def test_an_engine_is_said_and_set_in_the_window(qtbot: QtBot, window: Any) -> None:
    window.go("guard")
    page, bench = window.page("guard"), window.workbench
    (row,) = page.engines.rows
    row.choice.click()
    assert bench.loaded.program.guard.engine("motor").idle == 15.0
    (row,) = page.engines.rows
    type_into(qtbot, row.fields[0], "12")
    press(page.engines, "A second, higher idle …")
    assert bench.loaded.program.guard.engine("motor") == Engine(
        motor="motor",
        idle=12.0,
        high_idle=17.0,
        high_when=bench.loaded.program.guard.engines[0].high_when,
    )
    (row,) = page.engines.rows
    type_into(qtbot, row.fields[1], "20")
    assert bench.loaded.program.guard.engines[0].high_idle == 20.0 and row.sentence.words
    press(page.engines, "Without it")
    assert bench.loaded.program.guard.engine("motor") == Engine(motor="motor", idle=12.0)
    page.engines.rows[0].choice.click()
    assert bench.loaded.program.guard.engines == ()


def test_saying_that_an_armed_motor_is_an_engine_starts_nothing(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("guard")
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(1.0)
    assert bench.state.guard == GuardState.ARMED
    window.page("guard").engines.rows[0].choice.click()
    bench.simulation.advance(1.0)
    assert bench.state.guard == GuardState.LOCKED and power(bench.state.live.result, "motor") == 0.0


def test_what_reaches_an_engine_by_its_second_idle_or_by_an_angle_locks_it(samphire: Model) -> None:
    """An edit of a condition behind the second idle, or of the throws of a surface by angle that a
    motor reads, reaches it."""
    low = Compare(name="slow", label="Slow", kind="above", a="aileron_stick", x=20.0)
    model = with_at(samphire, "program.logic", (*samphire.program.logic, low))
    model = with_engine(model, Engine(motor="motor", high_idle=25.0, high_when="slow"))
    at = len(model.program.logic) - 1
    assert motor_reach(with_at(model, f"program.logic[{at}].x", -90.0)) != motor_reach(model)
    assert motor_reach(with_at(model, "program.guard.engines[0].idle", 20.0)) != motor_reach(model)
    turned = with_at(model, "program.recipes[0].edge_deg", 25.0)
    free = turned.airframe.surfaces[0].name
    throws = with_at(turned, "airframe.surfaces[0].throw_up_deg", 9.0)
    assert motor_reach(throws) == motor_reach(turned)  # nothing reads it
    reads = (*turned.program.mixes, line("motor", free, 10.0))
    assert motor_reach(with_at(throws, "program.mixes", reads)) != motor_reach(
        with_at(turned, "program.mixes", reads)
    )
