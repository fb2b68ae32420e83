# SPDX-License-Identifier: GPL-3.0-or-later
"""What reaches a motor, edit by edit: only that locks a running one."""

from __future__ import annotations

from typing import Any

import pytest
from parts import from_parts

from hypsos.core.conditions import Combine, Compare, Gate
from hypsos.core.dependencies.motor_dependencies import motor_reach
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Signal, StartCheck, Trim
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Adjuster, Tunable

LOGIC = (
    Compare(name="deep", kind="above", a="gate", x=10),
    Combine(name="on", kind="all", of=("deep", "link")),
    Gate(name="gate", source="slider", when="switch_b@1", parked=0),
    Combine(name="held", kind="any", of=("switch_c@2",)),
    Combine(name="aside", kind="any", of=("switch_c@1",)),
    Combine(name="waits", kind="any", of=("switch_c@1",)),
)
MODES = (
    FlightMode(name="fast", when="held", fade_s=1.0, presets={"left_motor": 0.0, "elevator": 3.0}),
    FlightMode(name="base"),
)
MIXES = (
    MixLine(name="t", target="left_motor", source="thrust", gain_from="power", when="on"),
    MixLine(name="s", target="own", source="yaw", in_s=1.0),
    MixLine(
        name="y",
        target="left_motor",
        source="own",
        gain=10,
        differential=5,
        differential_off="brake",
    ),
    MixLine(name="b", target="brake", source="slider"),
    MixLine(name="aside", target="left_flap", source="roll"),
)
TUNABLES = (
    Tunable(name="power", value=100, adjuster=Adjuster(control="slider", when="held")),
    Tunable(name="feel", value=50),
    Tunable(name="other", value=5),
)


def model() -> Any:
    made = from_parts(
        mixes=MIXES,
        logic=LOGIC,
        modes=MODES,
        tunables=TUNABLES,
        motors=True,
        settings={"yaw": Setting(rate_from="feel"), "roll": Setting(rate_from="other")},
        trims={"yaw": Trim(), "roll": Trim()},
    )
    made = with_at(made, "program.guard.holds", ("waits",))
    return with_at(made, "program.signals", (Signal(name="own", label="Own"),))


def index(items: Any, name: Any) -> Any:
    return next(i for i, x in enumerate(items) if x.name == name)


BASE = model()
MIX = {m.name: index(BASE.program.mixes, m.name) for m in MIXES}
LEFT = index(BASE.leads, "left_motor")
REACHES = {
    f"program.mixes[{MIX['t']}].gain": 90.0, f"program.mixes[{MIX['y']}].gain": 0.0, f"program.mixes[{MIX['s']}].in_s": 0.0,
    f"program.mixes[{MIX['b']}].gain": 50.0, "program.guard.level": 4, "program.guard.holds": ("aside",),
    "program.guard.start_check": (StartCheck(control="switch_b", position=0),), f"leads[{LEFT}].centre": 4.0,
    f"leads[{LEFT}].failsafe": Failsafe(action="hold"), f"leads[{LEFT}].port": None, "program.logic[0].x": 20.0,
    "program.logic[2].parked": 50.0, "program.logic[3].of": ("switch_c@0",), "program.logic[5].of": ("switch_c@0",),
    "program.modes[0].fade_s": 0.0,
    "program.modes[0].presets": {"left_motor": 9.0, "elevator": 3.0}, "program.tunables[0].value": 90.0,
    "program.tunables[1].value": 60.0, "program.axes[2].settings": (Setting(),), "program.axes[3].settings": (Setting(expo=20),),
    "receiver.failsafe_after_s": 2.0, "receiver.stored": False, "program.frame_s": 0.01, "transmitter.centre_us": 1520.0,
    "program.axes[2].trim": Trim(clicks=3),
    "transmitter.us_per_percent": 4.0, "transmitter.controls": (*BASE.transmitter.controls[:-1],),
}  # fmt: skip
LEAVES = {
    f"program.mixes[{MIX['aside']}].gain": 50.0, f"leads[{LEFT}].label": "L", f"leads[{LEFT}].seen_right": (7, 1),
    "leads[0].centre": 3.0, "program.logic[4].of": ("switch_c@0",),
    "program.modes[0].presets": {"left_motor": 0.0, "elevator": 9.0},
    "program.tunables[2].value": 9.0, "program.axes[0].settings": (Setting(expo=20),), "program.axes[0].trim": Trim(clicks=3),
    "note": "x", "airframe.surfaces[0].throw_up_deg": 20.0, "receiver.number": 5, "transmitter.stick_mode": 1,
}  # fmt: skip


@pytest.mark.parametrize("path", REACHES)
def test_what_reaches_a_motor(path: Any) -> None:
    assert motor_reach(with_at(BASE, path, REACHES[path])) != motor_reach(BASE)


@pytest.mark.parametrize("path", LEAVES)
def test_what_reaches_none(path: Any) -> None:
    changed = with_at(BASE, path, LEAVES[path])
    assert changed != BASE and motor_reach(changed) == motor_reach(BASE)


def test_without_a_motor_nothing_reaches_one() -> None:
    assert motor_reach(from_parts()) == ()
