# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold across the parts of a document: each thing that may be wrong is named with its
place, and nothing else is."""

from __future__ import annotations

import random
from typing import Any

import pytest
from parts import from_parts

from hypsos.core.checking.checks import _overlap, _overlapping, problems
from hypsos.core.conditions import Combine, Compare, Counter, Delay, Gate, Latch
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Axis, Guard, Setting, Signal, StartCheck, Trim
from hypsos.core.parts.airframe import PLATES
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.leads import Receiver
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import Ailerons, Flaps
from hypsos.core.recipes.flap_positions import FlapPosition

LOGIC = (
    Compare(name="deep", kind="above", a="gate", x=10), Combine(name="on", kind="all", of=("deep", "link", "power", "!count@3")),
    Gate(name="gate", source="slider", when="switch_b@1", parked=0), Latch(name="kept", set="on", reset="mode:fast"),
    Counter(name="count", of="count_it", count=4), Delay(name="count_it", kind="pulse", of="switch_c@2", seconds=1),
)  # fmt: skip
MODES = (FlightMode(name="fast", when="switch_b@1"), FlightMode(name="base"))
TUNABLES = (
    Tunable(
        name="bite",
        value=100,
        by_mode={"fast": 100},
        adjuster=Adjuster(control="slider", when="on"),
    ),
)
MIXES = (
    MixLine(name="t", target="left_motor", source="thrust"), MixLine(name="b", target="brake", source="gate", when="kept"),
    MixLine(name="f", target="left_flap", source="own", differential=5, differential_off="brake", gain_from="bite"),
)  # fmt: skip


def base() -> Any:
    model = from_parts(mixes=MIXES, logic=LOGIC, modes=MODES, tunables=TUNABLES, motors=True)
    model = with_at(model, "program.signals", (Signal(name="own", label="Own"),))
    recipes = (
        Ailerons(left=("left_aileron",), right=("right_aileron",), when="on"),
        Flaps(
            surfaces=("right_flap",),
            control="switch_c",
            positions=(FlapPosition(), FlapPosition(flap=30), FlapPosition(flap=60)),
        ),
    )
    model = with_at(model, "program.recipes", recipes)
    axes = tuple(
        Axis(**{**dict(a), "trim": Trim(by_mode={"fast": 2})}) if a.command != "thrust" else a
        for a in model.program.axes
    )
    return with_at(model, "program.axes", axes)


BASE = base()
MIX = {m.name: next(i for i, x in enumerate(BASE.program.mixes) if x.name == m.name) for m in MIXES}
LEFT = next(i for i, x in enumerate(BASE.leads) if x.name == "left_motor")


def test_a_model_with_something_of_everything_is_sound() -> None:
    assert list(problems(BASE)) == []
    full = with_at(BASE, "receiver.ports", len(BASE.leads))
    assert list(problems(full)) == []


WRONG = [
    # names
    ("airframe.surfaces[1].name", "left_aileron", "airframe.surfaces[1].name", "taken already"),
    ("airframe.surfaces[1].name", "thrust", "airframe.surfaces[1].name", "a name of its own meaning"),
    ("transmitter.controls[3].name", "link", "transmitter.controls[3].name", "taken already"),
    ("program.logic[0].name", "elevator", "program.logic[0].name", "taken already"),
    ("program.logic[0].name", "guard", "program.logic[0].name", "taken already"),
    ("program.logic[0].name", "roll_trim", "program.logic[0].name", "taken already"),
    ("program.logic[0].name", "rudder_us", "program.logic[0].name", "a column of the trace"),
    ("program.signals[0].name", "slider", "program.signals[0].name", "taken already"),
    ("leads[1].name", "left_aileron", "leads[1].name", "used twice"),
    ("airframe.panels[1].name", "wing", "airframe.panels[1].name", "used twice"),
    ("program.modes[1].name", "fast", "program.modes[1].name", "used twice"),
    ("program.axes[1].command", "roll", "program.axes[1].command", "two axes for roll"),
    ("program.recipes[1].signal", "elevator", "program.recipes[1].signal", "taken already"),
    ("program.recipes[0].signal", "flap", "program.recipes[1].signal", "feed one signal"),
    # the airframe
    ("airframe.surfaces[0].panel", "nowhere", "airframe.surfaces[0].panel", "there is no panel"),
    ("airframe.surfaces[0].end_mm", 501.0, "airframe.surfaces[0].end_mm", "reaches 500 mm"),
    ("airframe.surfaces[0].start_mm", 400.0, "airframe.surfaces[0].end_mm", "begin before it ends"),
    ("airframe.surfaces[0].chord_mm", 200.0, "airframe.surfaces[0].chord_mm", "deeper than"),
    ("airframe.surfaces[0].start_mm", 100.0, "airframe.surfaces[2].start_mm", "on top of each other"),
    ("airframe.surfaces[0].follows", "left_flap", "leads[0].target", "no surface, motor or device"),
    ("airframe.surfaces[0].follows", "rudder", "airframe.surfaces[0].follows", "no surface rudder with a servo"),
    ("airframe.surfaces[0].follows", "nowhere", "airframe.surfaces[0].follows", "no surface nowhere"),
    # the leads
    ("leads[0].target", "nowhere", "leads[0].target", "no surface, motor or device"),
    ("leads[0].port", 9, "leads[0].port", "there is no port 9"),
    ("leads[0].port", 2, "leads[1].port", "port 2 already holds"),
    ("leads[0].linkage", Linkage(arm_mm=40, horn_mm=10, distance_mm=60, servo_deg=60), "leads[0].linkage", "binds when"),
    ("leads[0].measured", ((-100, -90), (100, 10)), "leads[0].measured", "more than a ruler"),
    (f"leads[{LEFT}].idle_us", 1450.0, f"leads[{LEFT}].idle_us", "too near the middle"),
    ("receiver.power_port", 8, "receiver.power_port", "only a battery of its own"),
    ("receiver", Receiver(power="own battery", power_port=3), "receiver.power_port", "already holds"),
    ("receiver", Receiver(power="own battery", power_port=9), "receiver.power_port", "there is no port 9"),
    ("y_leads", ({"first": "rudder", "second": "rudder"},), "y_leads[0]", "two different leads"),
    # the program
    ("program.axes[0].control", "nowhere", "program.axes[0].control", "no stick or control"),
    ("program.axes[0].switch", "slider", "program.axes[0].switch", "no switch called slider"),
    ("program.axes[0].settings", (Setting(rate_from="nowhere"),), "program.axes[0].settings[0].rate_from", "no shared value"),
    ("program.axes[0].settings", (None, Setting(expo_from="on")), "program.axes[0].settings[1].expo_from", "no shared value"),
    ("program.axes[0].trim.by_mode", {"gone": 1}, "program.axes[0].trim.by_mode.gone", "no flight mode"),
    (f"program.mixes[{MIX['f']}].target", "roll", f"program.mixes[{MIX['f']}].target", "nothing called roll to move"),
    (f"program.mixes[{MIX['f']}].source", "on", f"program.mixes[{MIX['f']}].source", "no source called on"),
    (f"program.mixes[{MIX['f']}].differential_off", "gone", f"program.mixes[{MIX['f']}].differential_off", "no source called"),
    (f"program.mixes[{MIX['f']}].gain_from", "on", f"program.mixes[{MIX['f']}].gain_from", "no shared value called on"),
    (f"program.mixes[{MIX['b']}].when", "gate", f"program.mixes[{MIX['b']}].when", "no logical switch gate"),
    (f"program.mixes[{MIX['b']}].when", "switch_c@3", f"program.mixes[{MIX['b']}].when", "has no position 3"),
    (f"program.mixes[{MIX['b']}].when", "count@4", f"program.mixes[{MIX['b']}].when", "has no position 4"),
    (f"program.mixes[{MIX['b']}].when", "on@0", f"program.mixes[{MIX['b']}].when", "has no position 0"),
    (f"program.mixes[{MIX['b']}].when", "!mode:gone", f"program.mixes[{MIX['b']}].when", "no flight mode gone"),
    (f"program.mixes[{MIX['b']}].source", "left_flap", "program.mixes", "in a circle"),
    ("program.recipes[0].left", ("left_aileron", "left_aileron"), "program.recipes[0].left[1]", "twice"),
    ("program.recipes[0].right", ("wing",), "program.recipes[0].right[0]", "called wing"),
    ("program.recipes[0].when", "gone", "program.recipes[0].when", "no logical switch gone"),
    ("program.recipes[1].control", "knob_9", "program.recipes[1].control", "no stick or control called knob_9"),
    ("program.recipes[1].control", "switch_b", "program.recipes[1].positions", "more flap positions than"),
    ("program.recipes[1].positions", (FlapPosition(flap=5), FlapPosition(flap=5, elevator=3)),
     "program.recipes[1].positions[1].elevator", "need the same"),
    # the guard
    ("program.guard", None, "program.guard", "no guard for it"),
    ("program.guard.switch", "slider", "program.guard.switch", "no switch called slider"),
    ("program.guard.cut", (0, 2), "program.guard.cut[1]", "has no position 3"),
    ("program.guard.cut", (0, 1), "program.guard.cut", "could never run"),
    ("program.guard.holds", ("on", "gone"), "program.guard.holds[1]", "no logical switch gone"),
    ("program.guard.also", "mode:gone", "program.guard.also", "no flight mode gone"),
    ("program.guard.start_check", (StartCheck(control="nowhere"),), "program.guard.start_check[0].control", "no stick or control"),
    ("program.guard.start_check", (StartCheck(control="slider", position=0),),
     "program.guard.start_check[0].position", "by its position"),
    ("program.guard.start_check", (StartCheck(control="switch_b"),), "program.guard.start_check[0].position", "by its position"),
    ("program.guard.start_check", (StartCheck(control="switch_b", position=2),),
     "program.guard.start_check[0].position", "no position 3"),
    ("program.guard.start_check", (StartCheck(control="slider", low=5, high=4),),
     "program.guard.start_check[0].low", "must not lie above"),
    # logic, modes, shared values
    ("program.logic[0].a", "on", "program.logic[0].a", "no stick, control or gate"),
    ("program.logic[0]", Compare(name="deep", kind="difference", a="slider", x=1), "program.logic[0].b", "needs a second signal"),
    ("program.logic[0]", Compare(name="deep", kind="difference", a="slider", b="x1", x=1), "program.logic[0].b", "called x1"),
    ("program.logic[0]", Compare(name="deep", kind="within", a="slider", x=1), "program.logic[0].y", "needs an upper end"),
    ("program.logic[0]", Compare(name="deep", kind="within", a="slider", x=1, y=0), "program.logic[0].y", "needs an upper end"),
    ("program.logic[1].of", ("link", "gone"), "program.logic[1].of[1]", "no logical switch gone"),
    ("program.logic[2].source", "roll", "program.logic[2].source", "no stick, control or gate"),
    ("program.logic[2].when", "gone", "program.logic[2].when", "no logical switch"),
    ("program.logic[3].set", "gone", "program.logic[3].set", "no logical switch"),
    ("program.logic[3].reset", "gone", "program.logic[3].reset", "no logical switch"),
    ("program.logic[5].of", "gone", "program.logic[5].of", "no logical switch"),
    ("program.logic[2].when", "on", "program.logic", "without a latch: deep, gate, on"),
    ("program.modes[1].when", "link", "program.modes[1].when", "the last flight mode is the base"),
    ("program.modes[0].when", None, "program.modes[0].when", "only the last"),
    ("program.modes[0].when", "gone", "program.modes[0].when", "no logical switch"),
    ("program.modes[0].presets", {"wing": 3.0}, "program.modes[0].presets.wing", "nothing called wing"),
    ("program.tunables[0].high", -1.0, "program.tunables[0].low", "must lie below"),
    ("program.tunables[0].high", 0.0, "program.tunables[0].low", "must lie below"),
    ("program.tunables[0].value", 101.0, "program.tunables[0].value", "lies outside 0 to 100"),
    ("program.tunables[0].by_mode", {"fast": -1.0}, "program.tunables[0].by_mode.fast", "lies outside"),
    ("program.tunables[0].by_mode", {"gone": 1.0}, "program.tunables[0].by_mode.gone", "no flight mode"),
    ("program.tunables[0].adjuster", Adjuster(control="on"), "program.tunables[0].adjuster.control", "no control called on"),
    ("program.tunables[0].adjuster", Adjuster(control="slider", when="gone"),
     "program.tunables[0].adjuster.when", "no logical switch"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value", "place", "words"), WRONG)
def test_what_is_wrong_is_named_with_its_place(
    path: Any, value: Any, place: Any, words: Any
) -> None:
    found = list(problems(with_at(BASE, path, value)))
    assert any(p.path == place and words in p.text for p in found), found
    assert all(p.text and p.remedy.endswith(".") for p in found)


RIGHT = [
    ("airframe.surfaces[0].end_mm", 500.0), ("airframe.surfaces[0].start_mm", 190.0), ("airframe.surfaces[0].chord_mm", 199.0),
    ("leads[0].measured", ((-100, -80), (100, 80))), ("leads[0].port", None), (f"leads[{LEFT}].idle_us", 1400.0),
    ("receiver", Receiver(power="own battery", power_port=None)), ("program.tunables[0].value", 0.0), ("program.signals", ()),
    ("program.guard", Guard(switch="switch_c", cut=(0, 2), holds=("mode:fast",), also="!power", start_check=(
        StartCheck(control="switch_c", position=2), StartCheck(control="slider", low=4, high=4)))),
    ("program.logic[0]", Compare(name="deep", kind="within", a="slider", x=1, y=1)),
    ("program.recipes[1].positions", (FlapPosition(flap=5, elevator=3), FlapPosition(flap=5, elevator=3))),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value"), RIGHT)
def test_what_lies_just_inside_is_allowed(path: Any, value: Any) -> None:
    model = with_at(BASE, path, value)
    found = [p for p in problems(model) if not (path == "program.signals" and "own" in p.text)]
    assert found == []


def test_an_aeroplane_needs_a_wing_and_a_battery_a_port() -> None:
    bare = with_at(from_parts(), "airframe.panels", ())
    assert "airframe.panels" in [p.path for p in problems(bare)]
    more = (
        *BASE.transmitter.controls,
        Control(name="more", label="More", kind="knob", hand="left"),
    )
    assert list(problems(with_at(BASE, "transmitter.controls", more))) == []


def test_plates_lie_over_a_trailing_edge() -> None:
    surfaces = BASE.airframe.surfaces
    brake = surfaces[0].model_copy(
        update={"name": "left_brake", "label": "Left brake", "role": "airbrake"}
    )
    flap = surfaces[0].model_copy(update={"name": "left_more", "label": "Left more"})
    for extra, sound in ((brake, True), (flap, False)):
        found = [
            p
            for p in problems(with_at(BASE, "airframe.surfaces", (*surfaces, extra)))
            if "on top" in p.text
        ]
        assert (found == []) == sound


def test_surfaces_on_top_of_each_other_are_found_as_by_comparing_all(marram: Model) -> None:
    """Along each panel only neighbours are compared; here every two of them are."""
    dice, flap, found = random.Random(3), marram.airframe.surfaces[0], 0
    for _ in range(300):
        surfaces = []
        for i in range(dice.randint(2, 9)):
            place = {
                "name": f"s{i}",
                "panel": dice.choice(("wing", "tail")),
                "side": dice.choice(("left", "right", "centre")),
                "start_mm": dice.choice((0.0, 10.0, 20.0, 30.0)),
                "end_mm": dice.choice((10.0, 20.0, 30.0, 40.0)),
                "role": dice.choice(("flap", "aileron", "spoiler")),
            }
            surfaces.append(flap.changed(place))
        for i, one in enumerate(surfaces):
            flat = one.role not in PLATES
            below = [x for x in surfaces[:i] if x.role not in PLATES and _overlap(one, x)]
            expected = below if flat else []
            assert _overlapping(surfaces).get(i, []) == expected
            found += len(expected)
    assert found > 200
