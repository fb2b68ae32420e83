# SPDX-License-Identifier: GPL-3.0-or-later
"""The transmitter's controls: whatever is done to them, the model goes on as it did, and no motor
starts by it."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import pytest
from hands import choose, take
from parts import from_parts
from PyQt6.QtCore import Qt
from pytestqt.exceptions import capture_exceptions
from pytestqt.qtbot import QtBot

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import GoneError
from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Compare
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.controls import (
    KINDS,
    moved,
    other_hand,
    turned,
    with_control,
    with_positions,
    without_control,
)
from hypsos.core.edits.detach import changed_since
from hypsos.core.edits.flight_modes import at_place, let_go
from hypsos.core.edits.mode_grid import with_cell
from hypsos.core.edits.shared_values import kept_now, with_value
from hypsos.core.engine import GuardState, compile_plan
from hypsos.core.engine.sweep import settled, settled_together
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.scenarios.scenario_run import run_scenarios
from hypsos.hangar import Hangar

DEMO = ["Marram", "Samphire", "Skerry", "Sorrel", "Tidewrack", "Whinlark"]


@pytest.mark.parametrize("name", DEMO)
def test_a_switch_turned_round_does_by_its_names_what_it_did(hangar: Hangar, name: Any) -> None:
    model = hangar.load(name)
    switches = [c for c in model.transmitter.controls if c.is_switch]
    rest = {c.name: 0.0 for c in switches}
    hands = {"aileron_stick": 40.0, "elevator_stick": -30.0, "rudder_stick": 20.0}
    for control in switches:
        other, last = turned(model, control.name), len(control.positions) - 1
        assert list(problems(other)) == [] and turned(other, control.name) == model
        places = list(itertools.product(range(last + 1), (0.0, 1.0)))
        motor = (
            model.program.guard.switch
            if model.program.guard and model.airframe.motors
            else control.name
        )
        ours = [
            rest | hands | ({motor: m} if motor != control.name else {}) | {control.name: float(i)}
            for i, m in places
        ]
        theirs = [x | {control.name: last - x[control.name]} for x in ours]
        a, b = (settled_together(compile_plan(m), x) for m, x in ((model, ours), (other, theirs)))
        for lead in model.leads:
            assert np.broadcast_to(b.outputs[lead.name].us, (len(places), 1)) == pytest.approx(
                np.broadcast_to(a.outputs[lead.name].us, (len(places), 1))
            ), (control.name, lead.name)


def test_a_switch_that_is_read_as_a_number_is_not_turned_round() -> None:
    logic = Compare(kind="above", name="up", label="Up", a="switch_c", x=10)
    shared = Tunable(name="t", label="Soft", value=5, adjuster=Adjuster(control="switch_b"))
    model = from_parts(logic=(logic,), tunables=(shared,))
    for name, by in (("switch_c", "Up"), ("switch_b", "Soft")):
        with pytest.raises(HypsosError, match=f"read as a number by {by}"):
            turned(model, name)
    source = MixLine(name="s", target="left_flap", source="switch_c", gain=40.0)
    shaped = source.changed(
        {"target": "right_flap", "response": Response(points=((-100, 10), (0, 0), (100, 80)))}
    )
    model = from_parts(mixes=(source, shaped))
    ours, theirs = compile_plan(model), compile_plan(turned(model, "switch_c"))
    for place in range(3):
        a = settled(ours, {"switch_c": float(place)}).sums
        b = settled(theirs, {"switch_c": float(2 - place)}).sums
        assert (a["left_flap"][-1], a["right_flap"][-1]) == (
            b["left_flap"][-1],
            b["right_flap"][-1],
        ), place


def test_a_control_that_is_used_stays_and_says_by_what(hangar: Hangar) -> None:
    model = hangar.load("Samphire")
    with pytest.raises(HypsosError, match=r"Flap switch moves .*Flaperons"):
        without_control(model, "flap_switch")
    for kind, count, _ in KINDS:
        made, name = with_control(model, kind, count, "right")
        assert list(problems(made)) == [] and uses(made).get(name) is None
        assert without_control(made, name) == model
        again, second = with_control(made, kind, count, "right")
        assert second != name and len({c.label for c in again.transmitter.controls}) == len(
            again.transmitter.controls
        )


def test_where_a_hand_finds_them(hangar: Hangar) -> None:
    model = hangar.load("Marram")
    mine = [c.name for c in model.transmitter.controls if c.hand == "left"]
    lower = moved(model, mine[0], 1)
    assert [c.name for c in lower.transmitter.controls if c.hand == "left"] == [
        mine[1],
        mine[0],
        *mine[2:],
    ]
    assert moved(model, mine[0], -1) == model and moved(lower, mine[0], -1) == model
    over = other_hand(model, mine[0])
    assert [c.name for c in over.transmitter.controls if c.hand == "right"][-1] == mine[0]
    assert (
        settled(compile_plan(over), {}).outputs.keys()
        == settled(compile_plan(model), {}).outputs.keys()
    )


def test_new_positions_of_the_motor_switch_stop_the_motor_and_asked_ones_do_not_go(
    hangar: Hangar,
) -> None:
    model = hangar.load("Samphire")
    more = with_positions(model, "motor_switch", 3)
    assert more.program.guard.cut == (0, 1) and list(problems(more)) == []
    assert more.transmitter.control("motor_switch").positions == ("cut", "middle", "run")
    assert with_positions(more, "motor_switch", 2) == model
    marram = hangar.load("Marram")
    with pytest.raises(HypsosError, match="something asks for Task switch at landing"):
        with_positions(marram, "task_switch", 2)
    six = with_positions(marram, "task_switch", 6)
    control = six.transmitter.control("task_switch")
    assert (
        control.positions[:3] == marram.transmitter.control("task_switch").positions
        and len(set(control.positions)) == 6
    )
    assert with_positions(six, "task_switch", 3) == marram


def test_a_third_position_comes_between_two_ends_that_do_what_they_did(hangar: Hangar) -> None:
    """The end for *spoilers* became the middle, and the other end was called *middle*."""
    model = hangar.load("Sandpiper")
    more = with_positions(model, "spoiler_switch", 3)
    assert more.transmitter.control("spoiler_switch").positions == ("flaps", "middle", "spoilers")
    stick = {"throttle_stick": 100.0}
    for before, now in ((0.0, 0.0), (1.0, 2.0)):
        there = settled(compile_plan(model), stick | {"spoiler_switch": before})
        here = settled(compile_plan(more), stick | {"spoiler_switch": now})
        assert here.outputs["left_flaperon"] == there.outputs["left_flaperon"]
    assert with_positions(more, "spoiler_switch", 2) == model
    # rates by two positions: a middle that comes has the last one's, and each end keeps its own
    rates = model.program.axes[0].settings
    two = with_at(model, "program.axes[0].switch", "motor_switch")
    two = with_at(two, "program.axes[0].settings", rates[:2])
    three = with_positions(two, "motor_switch", 3)
    assert three.program.axes[0].settings == (rates[0], rates[1], rates[1])
    assert with_positions(three, "motor_switch", 2) == two
    # of three that are set the ends stay; where something asks for the middle, the last one goes
    fewer = with_positions(model, "rates_switch", 2)
    assert fewer.program.axes[0].settings == (rates[0], rates[2])
    asked = with_at(model, "program.timers[0].when", "rates_switch@1")
    fewer = with_positions(asked, "rates_switch", 2)
    assert fewer.transmitter.control("rates_switch").positions == ("low", "mid")
    assert fewer.program.axes[0].settings == rates


@pytest.mark.parametrize("edit", [turned, partial(with_positions, count=3)])
@pytest.mark.parametrize("name", ["Samphire", "Marram", "Sandpiper"])
def test_scenarios_move_a_switch_to_where_they_moved_it(
    hangar: Hangar, name: str, edit: Any
) -> None:
    """After a motor's switch was turned round they went to *cut* for *run*."""
    model = hangar.load(name)
    made = edit(model, "motor_switch")
    assert all(outcome.good for outcome in run_scenarios(made))
    assert made.scenarios != model.scenarios


def test_a_motors_switch_whose_position_goes_stands_where_it_cuts(window: Any) -> None:
    choose(window, "Samphire")
    bench = window.workbench
    window.go("hands")
    for count in (3, 2):
        box = window.page("hands").cards["motor_switch"].count
        box.setCurrentIndex(box.findData(count))
        box.activated.emit(box.currentIndex())
        if count == 3:
            bench.simulation.set_control("motor_switch", 1.0)  # the middle cuts, too
    assert len(bench.loaded.transmitter.control("motor_switch").positions) == 2
    assert bench.state.live.controls["motor_switch"] == 0.0


def test_the_hands_are_laid_out_in_the_window_and_no_motor_starts_by_it(
    qtbot: QtBot, window: Any
) -> None:
    choose(window, "Marram")
    window.go("hands")
    bench, page = window.workbench, window.page("hands")
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.5)
    bench.simulation.set_control("throttle_stick", 30.0)
    bench.simulation.advance(0.5)
    assert bench.state.guard == GuardState.ARMED
    page.cards["motor_switch"].buttons["turn"].click()
    bench.simulation.advance(0.5)
    assert bench.model.transmitter.control("motor_switch").positions == ("run", "cut")
    assert bench.state.guard != GuardState.ARMED and not bench.state.turning
    bench.document.undo()
    bench.simulation.advance(0.5)
    assert bench.state.guard != GuardState.ARMED and not bench.state.turning
    take(page.add["left"], "Switch, six positions")
    made = page.cards["switch_1"]
    qtbot.keyClicks(made.title, "Camera")
    qtbot.keyClick(made.title, Qt.Key.Key_Return)
    made.positions[0].setText("")
    qtbot.keyClicks(made.positions[0], "straight down")
    qtbot.keyClick(made.positions[0], Qt.Key.Key_Return)
    control = bench.model.transmitter.control("switch_1")
    assert (control.label, control.positions[0]) == (
        "Camera",
        "straight down",
    ) and control.hand == "left"
    assert made.does.text().startswith("Idle") and "switch_1" in window.bench.hands.toggles
    window.go("wiring")  # a page that is not in sight learns of it later
    with capture_exceptions() as errors:
        bench.document.edit(
            "transmitter.controls",
            with_positions(bench.loaded, "switch_1", 3).transmitter.controls,
            "three",
        )
        made.positions[3].editingFinished.emit()  # the field of a position that has just gone
        bench.document.undo()
    assert not errors
    window.go("hands")
    made = page.cards["switch_1"]
    made.count.setCurrentIndex(made.count.findData(3))
    made.count.activated.emit(made.count.currentIndex())
    made = page.cards["switch_1"]
    bench.simulation.set_control("switch_1", 2.0)
    made.count.setCurrentIndex(made.count.findData(6))
    made.count.activated.emit(made.count.currentIndex())
    bench.simulation.set_control(
        "switch_1", 5.0
    )  # the handle of three positions that was there follows nothing any more
    bench.simulation.advance(0.1)
    assert (
        window.bench.hands.toggles["switch_1"].words()
        == f"at {bench.model.transmitter.control('switch_1').positions[5]}"
    )
    bench.document.undo()
    assert bench.state.live.controls["switch_1"] == 2.0
    bench.document.redo()
    made = page.cards["switch_1"]
    made.count.setCurrentIndex(made.count.findData(2))
    made.count.activated.emit(made.count.currentIndex())
    assert len(bench.model.transmitter.control("switch_1").positions) == 2
    page.cards["task_switch"].buttons["remove"].click()
    assert "Task switch moves" in page.cards["task_switch"].complaint.text()
    page.cards["switch_1"].buttons["hand"].click()
    assert bench.model.transmitter.control("switch_1").hand == "right"
    page.cards["switch_1"].buttons["remove"].click()
    assert "switch_1" not in page.cards and bench.document.undo_label == "Camera removed"


GONE: dict[str, Callable[[Model], object]] = {
    "a control": lambda m: moved(m, "lost", -1),
    "a mode let go": lambda m: let_go(m, "lost"),
    "a mode's place": lambda m: at_place(m, "lost", 0),
    "a switch of the grid": lambda m: with_cell(m, ("lost",), {"lost": 0}, "cruise"),
    "a shared value's figure": lambda m: with_value(m, "lost", None, 0.0),
    "a shared value as it is now": lambda m: kept_now(m, "lost", "", 0.0),
    "a detached behaviour": lambda m: changed_since(m, "lost"),
}


@pytest.mark.parametrize("act", GONE.values(), ids=GONE.keys())
def test_what_is_gone_is_changed_no_more(samphire: Model, act: Any) -> None:
    """Its row or menu may still be under a hand: wild hands pressed *earlier* on one."""
    with pytest.raises(GoneError, match="no longer in the model"):
        act(samphire)
