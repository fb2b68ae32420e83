# SPDX-License-Identifier: GPL-3.0-or-later
"""Gear with doors, drag rudders, and tailplanes whose halves roll or move as a whole: worked by
hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from keyed import sheet_text
from motors import play
from pytestqt.qtbot import QtBot

from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Signal
from hypsos.core.edits.behaviours import added, offers
from hypsos.core.edits.controls import turned
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.fitting.direction_finder import check_of
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import DifferentialTailplane, DragRudders, GearWithDoors
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.shape import layout_choices as layout
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.measures import measures_of
from hypsos.core.shape.solid_model import solid
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.wording.words import side_percent, standing

HIGH = {"rates_switch": 2.0}


def shaped(key: str, *changes: Any) -> Any:
    """A template on an airframe that each of the changes alters, every lead plugged in."""
    model = TEMPLATES[key].make("Trial")
    for change in changes:
        model = adapted(model, change(model.airframe)).model
    leads = tuple(x.changed({"port": i + 1}) for i, x in enumerate(model.leads))
    return model.changed({"leads": leads})


def having(model: Model, kind: Any, **fields: Any) -> Any:
    made = next(o.made for o in offers(model) if o.kind is kind)
    return added(model, made.changed(fields))


def faults(model: Model) -> list[str]:
    assert list(problems(model)) == []
    return [f.text for f in shake(Ask(model)).findings if f.level != "advice"]


# -- gear with doors ----------------------------------------------------------------------------

UP, DOWN = (
    {"gear_switch": 0.0, "rudder_stick": 100.0, **HIGH},
    {"gear_switch": 1.0, "rudder_stick": 100.0, **HIGH},
)


def with_gear(*kinds: str, **fields: Any) -> Any:
    body = [lambda b, k=k: layout.with_device(b, k, True) for k in ("retracts", *kinds)]
    return having(shaped("trainer", *body), GearWithDoors, **fields)


def gear_at(result: Any, second: float) -> list[float]:
    """Gear, doors and wheel in percent of their ways at a second after the first one."""
    i = round((1.0 + second) / 0.02) - 1
    return [
        float(np.broadcast_to(result.sums[n], result.t_s.shape)[i])
        for n in ("retracts", "gear_doors", "nose_wheel")
    ]


def test_the_doors_open_then_the_gear_goes_up_then_they_close() -> None:
    model = with_gear("gear doors", door_s=1.0, gear_s=2.0, steering=40.0)
    assert faults(model) == []
    result = play(model, (1.0, DOWN), (5.0, UP), (5.0, DOWN))
    for second, gear, doors, wheel in (
        (0.0, -100, -100, 40), (0.5, -100, 0, 40), (1.0, -100, 100, 40), (2.0, 0, 100, 20), (3.0, 100, 100, 0),
        (3.5, 100, 0, 0), (4.5, 100, -100, 0), (5.5, 100, 0, 0), (7.0, 0, 100, 20), (8.5, -100, 0, 40), (9.5, -100, -100, 40),
    ):  # fmt: skip
        assert gear_at(result, second) == pytest.approx([gear, doors, wheel], abs=2.1), second


def test_turned_back_on_the_way_it_goes_back_by_the_way_it_came() -> None:
    model = with_gear("gear doors", door_s=1.0, gear_s=2.0)
    result = play(model, (1.0, DOWN), (2.0, UP), (4.0, DOWN))
    for second, gear, doors in ((2.0, 0, 100), (3.0, -100, 100), (3.5, -100, 0), (4.0, -100, -100)):
        assert gear_at(result, second)[:2] == pytest.approx([gear, doors], abs=2.1), second


def test_the_gear_never_moves_with_its_doors_shut() -> None:
    """Whatever the switch does and whenever: in every frame in which the gear is on its way the
    doors are open."""
    dice = np.random.default_rng(7)
    for doors_down in ("closed", "open"):
        model = with_gear("gear doors", door_s=0.6, gear_s=0.9, doors_down=doors_down)
        steps = [
            (float(dice.uniform(0.1, 2.5)), (UP, DOWN)[int(dice.integers(2))]) for _ in range(60)
        ]
        result = play(model, (1.0, DOWN), *steps)
        gear, doors = result.sums["retracts"], result.sums["gear_doors"]
        moving = np.abs(np.asarray(gear)) < 100 - 1e-6
        assert moving.sum() > 100 and (np.asarray(doors)[moving] > 100 - 1e-6).all()


def test_doors_that_stay_open_with_the_gear_down_and_a_gear_without_doors() -> None:
    model = with_gear("gear doors", door_s=1.0, gear_s=2.0, doors_down="open")
    result = play(model, (1.0, DOWN), (4.0, UP))
    for second, gear, doors in ((0.0, -100, 100), (1.0, 0, 100), (2.0, 100, 100), (3.0, 100, -100)):
        assert gear_at(result, second)[:2] == pytest.approx([gear, doors], abs=2.1), second
    bare = with_gear(gear_s=2.0)
    result = play(bare, (1.0, DOWN), (1.0, UP))
    assert (
        float(np.asarray(result.sums["retracts"])[-1]) == pytest.approx(0, abs=2.1)
        and faults(bare) == []
    )


def test_without_its_condition_the_gear_stays_down_with_its_doors_shut() -> None:
    model = with_gear("gear doors", door_s=0.5, gear_s=0.5, when="rates_switch@0")
    assert list(problems(model)) == []
    for low, gear, doors in ((0.0, 100, -100), (2.0, -100, -100)):
        result = play(model, (0.5, DOWN), (3.0, UP | {"rates_switch": low}))
        assert gear_at(result, 2.0)[:2] == pytest.approx([gear, doors], abs=0.1)


def test_it_takes_the_place_of_the_plain_lines_and_keeps_their_switch() -> None:
    plain = shaped(
        "trainer",
        *(lambda b, k=k: layout.with_device(b, k, True) for k in ("retracts", "gear doors")),
    )
    lines = {x.target: (x.source, x.gain) for x in plain.program.mixes}
    assert lines["retracts"] == ("gear_switch", -100.0) and lines["gear_doors"] == (
        "gear_switch",
        100.0,
    )
    model = having(plain, GearWithDoors)
    assert not {"retracts", "gear_doors", "nose_wheel"} & {x.target for x in model.program.mixes}
    recipe = model.program.recipes[-1]
    assert (recipe.up, recipe.steering) == ("gear_switch@0", lines["nose_wheel"][1])
    assert "| Retracts | Gear" in sheet_text(model)
    assert recipe.fitted(model.airframe, frozenset({"retracts"}), frozenset()) is None
    assert recipe.fitted(model.airframe, frozenset({"gear_doors"}), frozenset()).doors == ()


def test_the_gear_is_down_when_nobody_has_touched_anything() -> None:
    """At power-up with all hands off, on the bench and in a trace: by plain lines, by the
    behaviour, and turned round."""
    plain = shaped(
        "trainer",
        *(lambda b, k=k: layout.with_device(b, k, True) for k in ("retracts", "gear doors")),
    )
    made = having(plain, GearWithDoors)
    for model in (plain, made, turned(plain, "gear_switch"), turned(made, "gear_switch")):
        result = compile_plan(model).run(Situation.of(np.zeros(1), {}))
        assert float(np.ravel(result.sums["retracts"])[-1]) == -100.0
    names = made.transmitter.control("gear_switch").positions
    assert names[int(compile_plan(made).rest["gear_switch"])] == "down"


# -- drag rudders -------------------------------------------------------------------------------


def opened(model: Model, stick: float) -> tuple[float, float]:
    result = play(model, (0.1, {"rudder_stick": stick, **HIGH}))
    return tuple(
        float(np.ravel(result.sums[f"{side}_drag_rudder"])[-1]) for side in ("left", "right")
    )  # type: ignore[return-value]


@pytest.mark.parametrize(
    ("fields", "stick", "seen"),
    [
        ({}, 0, (0, 0)), ({}, 100, (0, -100)), ({}, -100, (-100, 0)), ({"share": 60.0}, 100, (0, -60)),
        ({"resting": 20.0}, 0, (-20, -20)), ({"resting": 20.0, "share": 50.0}, 100, (0, -70)),
        ({"resting": 30.0, "share": 10.0}, 100, (-20, -40)), ({"resting": 20.0}, -100, (-100, 0)),
        ({"resting": 100.0}, 0, (-100, -100)), ({"resting": 100.0}, 100, (0, -100)),
    ],
)  # fmt: skip
def test_only_the_side_opens_to_which_the_nose_is_to_go(fields: Any, stick: Any, seen: Any) -> None:
    model = shaped("elevon_wing", lambda b: layout.with_drag_rudders(b, True))
    i = next(i for i, r in enumerate(model.program.recipes) if isinstance(r, DragRudders))
    for field, value in fields.items():
        model = with_at(model, f"program.recipes[{i}].{field}", value)
    assert opened(model, float(stick)) == pytest.approx(seen)


def test_drag_rudders_come_with_their_behaviour_and_shake_down_clean() -> None:
    model = shaped("elevon_wing", lambda b: layout.with_drag_rudders(b, True))
    assert faults(model) == []
    step = next(s for s in check_of(model).steps if s.key == "yaw")
    assert step.moves.keys() == {"right_drag_rudder"} and step.should == {"right_drag_rudder": -1}
    whole = model.airframe
    assert layout.with_drag_rudders(layout.with_drag_rudders(whole, False), True) == whole
    plate = next(s for s in whole.surfaces if s.name == "left_drag_rudder")
    said = (
        standing(plate, 0.0, 0.0, 0.0),
        standing(plate, -80.0, -48.0, -43.1),
        side_percent(plate, 0.0),
    )
    assert said == ("shut", "43.1 mm open", "shut") and side_percent(plate, -80.0) == "80 % open"
    halves = [h for h in solid(whole).hinged if h.name == "left_drag_rudder"]
    assert len(halves) == 2 and halves[0].axis == pytest.approx(
        -halves[1].axis, abs=0.01
    )  # one half up, one down


# -- tailplanes ---------------------------------------------------------------------------------


def test_the_halves_of_a_tailplane_roll_besides_their_pitch() -> None:
    model = shaped("biplane", lambda b: layout.with_tail(b, "conventional", 2, 1, all_moving=True))
    model = having(model, DifferentialTailplane)
    assert faults(model) == []
    result = play(model, (0.1, {"aileron_stick": 100.0, "elevator_stick": -100.0, **HIGH}))
    pair = [float(np.ravel(result.sums[f"{side}_elevator"])[-1]) for side in ("left", "right")]
    assert pair == pytest.approx(
        [-80.0, -120.0]
    )  # all of the pull up, and 20 of the roll: the right one further up
    step = next(s for s in check_of(model).steps if s.key == "roll")
    assert (step.should["left_elevator"], step.should["right_elevator"]) == (1, -1)


def test_an_all_moving_tailplane_turns_as_a_whole() -> None:
    plain = TEMPLATES["twin"].make("Trial").airframe
    whole = layout.with_tail(plain, "conventional", 1, 1, all_moving=True)
    assert layout.is_all_moving(whole) and not layout.is_all_moving(plain)
    panel = next(p for p in whole.panels if p.name == "tailplane")
    elevator = next(s for s in whole.surfaces if s.name == "elevator")
    assert elevator.chord_mm == pytest.approx(0.7 * panel.chord_at(panel.half_span_mm / 2), abs=1)
    for body, share in ((plain, 0.5), (whole, 0.85)):  # of the depth of the tailplane at its root
        moved = np.concatenate(
            [h.faces.corners.reshape(-1, 3) for h in solid(body).hinged if h.name == "elevator"]
        )
        depth = np.ptp(moved[:, 0])
        assert (depth > share * panel.root_chord_mm) == (body is whole), depth
    assert layout.with_tail(whole, "conventional", 1, 1) != whole
    assert not layout.is_all_moving(layout.with_tail(whole, "conventional", 1, 1))


def test_the_page_offers_them(qtbot: QtBot, window: Any) -> None:
    from test_bench_steps import pick
    from test_window import new_model

    new_model(qtbot, window, "Trial", "template:biplane")
    window.go("airframe")
    page = window.page("airframe")
    pick(page.boxes["elevators"], "all-moving, two halves")
    body = window.workbench.loaded.airframe
    assert [s.all_moving for s in body.surfaces if s.role == "elevator"] == [True, True]
    page.ticks["drag rudder"].click()
    assert [
        s.name for s in window.workbench.loaded.airframe.surfaces if s.role == "drag rudder"
    ] == ["left_drag_rudder", "right_drag_rudder"]
    body = window.workbench.loaded.airframe
    words = {s.name: [m.words for m in measures_of(s)] for s in body.surfaces}
    assert (
        "Depth behind the axis" in words["left_elevator"]
        and "Depth behind the hinge" in words["left_aileron"]
    )
    assert "Opens by" in words["left_drag_rudder"] and {"Throw left", "Throw right"} <= set(
        words["rudder"]
    )
    assert (
        page.boxes["elevators"].currentText() == "all-moving, two halves"
        and page.ticks["drag rudder"].isChecked()
    )
    pick(page.boxes["elevators"], "one")
    assert [
        s.all_moving for s in window.workbench.loaded.airframe.surfaces if s.role == "elevator"
    ] == [False]


def geared(*lines: MixLine, **signals: str) -> Any:
    """A trainer with retracts that these lines alone move, and two switches that do nothing
    else."""
    model = shaped("trainer", lambda b: layout.with_device(b, "retracts", True))
    more = (
        Control(name="a", label="A", kind="switch", hand="left", positions=("one", "two", "three")),
        Control(name="b", label="B", kind="switch", hand="left", positions=("one", "two")),
        Control(
            name="push",
            label="Push",
            kind="momentary",
            hand="left",
            positions=("let go", "pressed"),
        ),
    )
    model = with_at(model, "transmitter.controls", (*model.transmitter.controls, *more))
    model = with_at(
        model, "program.signals", tuple(Signal(name=n, label=n) for n in signals.values())
    )
    model = with_at(
        model, "program.mixes", tuple(x for x in model.program.mixes if x.target != "retracts")
    )
    made = with_at(model, "program.mixes", (*model.program.mixes, *lines))
    assert list(problems(made)) == []
    return compile_plan(made).rest


def line(source: str, gain: float, target: str = "retracts", **fields: Any) -> MixLine:
    return MixLine(name="gear", target=target, source=source, gain=gain, **fields)


@pytest.mark.parametrize(
    ("lines", "rests"),
    [
        ([line("a", 100)], {"a": 0, "b": 0}),
        ([line("a", -100)], {"a": 2, "b": 0}),
        ([line("a", 100, response=Response(points=((-100, 40), (0, -90), (100, -50))))], {"a": 1}),
        ([line("full", 100), line("full", -200, when="b@1")], {"a": 0, "b": 1}),
        ([line("full", 100), line("full", -100, when="!a@0", combine="replace")], {"a": 1, "b": 0}),
        (
            [line("full", -100), line("b", 100, combine="scale")],
            {"b": 1},
        ),  # its first position turns the sign round
        (
            [line("b", -100), line("full", 20, when="link")],
            {"b": 1},
        ),  # what is no switch is taken not to hold
        ([line("way", 100), line("a", -50, target="way")], {"a": 2}),
        ([line("full", 100, when="push@1")], {"push": 0, "a": 0}),
        ([line("aileron_stick", 100)], {"a": 0, "b": 0}),
    ],
)
def test_a_switch_rests_where_the_gear_is_furthest_down(lines: Any, rests: Any) -> None:
    found = geared(*lines, way="way")
    assert {n: found[n] for n in rests} == rests


def test_a_gear_takes_a_spare_switch_where_nothing_moves_it_yet() -> None:
    model = shaped("trainer", lambda b: layout.with_device(b, "retracts", True))
    mixes = tuple(x for x in model.program.mixes if x.target not in ("retracts", "nose_wheel"))
    three = Control(
        name="three", label="Three", kind="switch", hand="left", positions=("down", "middle", "up")
    )
    tx = model.transmitter.controls
    controls = (*(c for c in tx if c.name != "gear_switch"), three)
    model = with_at(with_at(model, "program.mixes", mixes), "transmitter.controls", controls)
    made = next(o.made for o in offers(model) if o.kind is GearWithDoors)
    assert (made.up, made.steering) == ("three@2", 40.0)
    fewer = with_at(model, "transmitter.controls", tuple(c for c in controls if c.name != "three"))
    offer = next(o for o in offers(fewer) if o.kind is GearWithDoors)
    assert offer.made is None and offer.why == "it takes a switch that does nothing yet"
