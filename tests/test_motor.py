# SPDX-License-Identifier: GPL-3.0-or-later
"""No way round the guard: what could start a motor that nobody meant to start."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from motors import FRAME, THROTTLE, armed, line, mode, play, pulses, said, with_thrust
from parts import from_parts

from hypsos.core.checking.checks import problems
from hypsos.core.dependencies.y_leads import joined
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting, Trim
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.explain.idle_pulse import idle_danger, idle_mended
from hypsos.core.parts.leads import Failsafe, Lead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.shape.templates import TEMPLATES
from hypsos.hangar import Hangar


@pytest.mark.parametrize(
    "mixes",
    [
        (),
        tuple(m.model_copy(update={"gain": 0.0}) for m in THROTTLE),
        tuple(m.model_copy(update={"gain": 50.0}) for m in THROTTLE),
        tuple(m.model_copy(update={"gain": -100.0}) for m in THROTTLE),
        tuple(m.model_copy(update={"when": "switch_b@1"}) for m in THROTTLE),
        (
            *THROTTLE,
            MixLine(name="half", target="left_motor", source="full", gain=50, combine="scale"),
        ),
    ],
)
def test_whatever_becomes_of_its_throttle_a_motor_with_the_stick_low_is_off(mixes: Any) -> None:
    for level in (1, 2, 3, 4):
        result = armed(with_at(from_parts(mixes=mixes, motors=True), "program.guard.level", level))
        assert result.guard[-1] == GuardState.ARMED and set(pulses(result)) == {1000.0}


@pytest.mark.parametrize("rate", [0.0, 60.0, 150.0])
def test_a_thrust_rate_never_lifts_idle(rate: Any) -> None:
    model = with_thrust(
        from_parts(mixes=THROTTLE, motors=True), settings=(Setting(rate_neg=rate, rate_pos=rate),)
    )
    assert set(pulses(armed(model))) == {1000.0}
    full = play(model, (1.0, {}), (0.1, {"motor_switch": 1.0}), (0.1, {"throttle_stick": 100.0}))
    assert full.outputs["left_motor"].us[-1] == min(1000 + 10 * rate, 2125)


RAISED = {
    "a trim": lambda m: with_thrust(m, trim=Trim(clicks=25)),
    "a curve with a floor": lambda m: with_thrust(
        m, curve=Response(points=((-100, -60), (100, 100)))
    ),
    "a curve turned round": lambda m: with_thrust(
        m, curve=Response(points=((-100, 100), (100, -100)))
    ),
    "a preset": lambda m: with_at(m, "program.modes", (mode("base", left_motor=15.0),)),
    "a constant": lambda m: with_at(
        m, "program.mixes", (*m.program.mixes, line("right_motor", "full", 10.0))
    ),
    "a slow constant": lambda m: with_at(
        m, "program.mixes", (*m.program.mixes, line("right_motor", "full", 40.0, in_s=9.0))
    ),
    "a slow signal": lambda m: with_at(
        m,
        "program.mixes",
        (
            *m.program.mixes,
            line("camber", "switch_c", 100.0, in_s=20.0),
            line("left_motor", "camber", 60.0),
        ),
    ),
}


@pytest.mark.parametrize("how", RAISED)
def test_a_motor_that_would_run_with_the_stick_low_is_not_released(how: Any) -> None:
    model = RAISED[how](from_parts(mixes=THROTTLE, motors=True))
    for level in (2, 3, 4):
        result = armed(with_at(model, "program.guard.level", level), switch_c=2.0)
        assert set(result.guard) == {GuardState.CUT, GuardState.LOCKED} and set(pulses(result)) == {
            1000.0
        }
        assert "would be commanded" in said(model, result, switch_c=2.0)


def test_power_that_a_fade_is_only_about_to_bring_releases_nothing() -> None:
    """The mode with power is entered in the very frame in which the switch goes to run: now low, in
    four seconds not."""
    modes = (
        mode("power", left_motor=60.0).changed({"when": "switch_c@2", "fade_s": 4.0}),
        mode("cruise"),
    )
    for level in (2, 3, 4):
        model = with_at(
            from_parts(mixes=THROTTLE, modes=modes, motors=True), "program.guard.level", level
        )
        result = play(model, (1.0, {}), (5.0, {"switch_c": 2.0, "motor_switch": 1.0}))
        assert set(result.guard) == {GuardState.CUT, GuardState.LOCKED} and set(pulses(result)) == {
            1000.0
        }
        assert play(model, (1.0, {}), (5.0, {"motor_switch": 1.0})).guard[-1] == GuardState.ARMED


def test_power_that_a_slow_line_is_only_about_to_bring_releases_nothing() -> None:
    """A signal of its own that comes in over four seconds drives the motor; it sets out as the
    switch goes to run."""
    lines = (
        *THROTTLE,
        MixLine(name="x", target="left_flap", source="switch_c", in_s=4.0),
        MixLine(name="y", target="left_motor", source="left_flap"),
    )
    model = from_parts(mixes=lines, motors=True)
    away = {"switch_c": 0.0, "motor_switch": 0.0}
    result = play(model, (5.0, away), (9.0, {"switch_c": 2.0, "motor_switch": 1.0}))
    assert set(result.guard) == {GuardState.CUT, GuardState.LOCKED} and set(pulses(result)) == {
        1000.0
    }
    assert play(model, (5.0, away), (9.0, {"motor_switch": 1.0})).guard[-1] == GuardState.ARMED


def test_the_guard_watches_the_control_that_feeds_the_thrust() -> None:
    """Thrust on a slider: the stick may lie low as long as it likes."""
    model = with_thrust(from_parts(mixes=THROTTLE, motors=True), control="slider")
    assert set(pulses(armed(model, slider=20.0))) == {1000.0}
    assert armed(model, slider=-100.0).guard[-1] == GuardState.ARMED


def test_rudder_held_over_with_differential_thrust() -> None:
    recipe = DifferentialThrust(left=("left_motor",), right=("right_motor",), share=30)
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.recipes", (recipe,))
    over = armed(model, rudder_stick=-100.0)
    assert over.guard[-1] == GuardState.ARMED and set(pulses(over)) == {
        1000.0
    }  # rudder alone is nothing at idle
    full = with_at(model, "program.recipes[0].at_idle", "full")
    over = armed(full, rudder_stick=-100.0)
    assert over.guard[-1] == GuardState.LOCKED and "Right motor" in said(
        full, over, rudder_stick=-100.0
    ).title().replace("Motor", "motor")
    power = play(
        model,
        (1.0, {}),
        (0.1, {"motor_switch": 1.0}),
        (0.1, {"throttle_stick": -50.0, "rudder_stick": -100.0}),
    )
    stands = [float(power.outputs[f"{s}_motor"].stand[-1]) for s in ("left", "right")]
    assert stands == pytest.approx([-80, -20])


def test_a_threshold_that_lets_power_through_is_refused() -> None:
    from hypsos.core.base.errors import DocumentError

    with pytest.raises(DocumentError, match="-90 or less"):
        with_at(from_parts(motors=True), "program.guard.threshold", 100.0)


@pytest.mark.parametrize("where", ["line", "output", "signal"])
@pytest.mark.parametrize("level", [2, 3])
def test_nothing_wound_up_before_comes_out_at_the_release(where: Any, level: Any) -> None:
    """Full power behind a slow, cut, stick low, armed again soon."""
    mixes, leads = THROTTLE, {}
    if where == "line":
        mixes = tuple(m.model_copy(update={"in_s": 3.0, "out_s": 3.0}) for m in THROTTLE)
    elif where == "signal":
        mixes = (line("camber", "throttle_stick", 100.0, in_s=3.0, out_s=3.0),)
        mixes += tuple(
            line(m, "camber", 100.0, response=Response(points=((-100, 0), (100, 150))))
            for m in ("left_motor", "right_motor")
        )
    else:
        leads = {n: {"slow_up_s": 3.0, "slow_down_s": 3.0} for n in ("left_motor", "right_motor")}
    model = with_at(from_parts(mixes=mixes, motors=True, leads=leads), "program.guard.level", level)
    result = play(
        model,
        (1.0, {}),
        (0.1, {"motor_switch": 1.0}),
        (8.0, {"throttle_stick": 100.0}),
        (0.1, {"motor_switch": 0.0}),
        (0.6, {"throttle_stick": -100.0}),
        (1.0, {"motor_switch": 1.0}),
    )
    before, after = round(9.1 / FRAME), round(9.16 / FRAME)
    assert result.outputs["left_motor"].us[before - 1] > 1700
    assert set(result.outputs["left_motor"].us[after:]) == {1000.0}
    if where != "signal":  # there the signal itself is still high, and the guard waits for it
        assert result.guard[-1] == GuardState.ARMED


LIFTED = [
    {"centre": 50.0},
    {"travel_neg": 0.0},
    {"stop_neg": -60.0},
    {"direction": -1},
    {"direction": -1, "centre": -50.0},
]


@pytest.mark.parametrize("fields", LIFTED)
def test_what_lifts_idle_is_a_danger_and_releases_nothing(fields: Any) -> None:
    model = from_parts(mixes=THROTTLE, motors=True, leads={"right_motor": fields})
    index = next(i for i, x in enumerate(model.leads) if x.name == "right_motor")
    assert "its controller is off at 1000 µs" in (idle_danger(model, model.leads[index]) or "")
    result = play(
        model,
        (1.0, {}),
        (0.2, {"motor_switch": 1.0}),
        (0.5, {"throttle_stick": 100.0}),
        (0.5, {"link": 0.0}),
    )
    assert result.guard[-1] != GuardState.ARMED and set(pulses(result)) == {1000.0}
    mended = idle_mended(model, index)
    assert idle_danger(mended, mended.leads[index]) is None
    result = play(mended, (1.0, {}), (0.2, {"motor_switch": 1.0}), (0.5, {"throttle_stick": 100.0}))
    assert set(pulses(result)[: round(1.2 / FRAME)]) == {1000.0} and pulses(result)[-1] == 2000.0


def test_an_engine_whose_idle_is_at_the_other_end() -> None:
    fields = {"idle_us": 1900.0, "direction": -1, "travel_pos": 80.0}
    model = from_parts(mixes=THROTTLE, motors=True, leads={"right_motor": fields})
    result = play(model, (1.0, {}), (0.2, {"motor_switch": 1.0}), (0.5, {"throttle_stick": 100.0}))
    trace = result.outputs["right_motor"]
    assert (
        trace.us[0] == 1900
        and trace.stand[0] == -100
        and trace.us[-1] == 1000
        and trace.stand[-1] == 100
    )


def test_motors_on_y_leads() -> None:
    model = from_parts(mixes=THROTTLE, motors=True)
    names = [x.name for x in model.leads]

    def refused(first: Any, second: Any, **fields: Any) -> Any:
        at = names.index(second)
        leads = tuple(
            Lead(**{**dict(x), **fields}) if i == at else x for i, x in enumerate(model.leads)
        )
        found = list(problems(joined(with_at(model, "leads", leads), first, second, False)))
        return [p for p in found if p.path.startswith("y_leads")]

    assert refused("left_motor", "right_motor") == []
    assert refused("left_motor", "elevator") and refused(
        "left_motor", "right_motor", idle_us=1100.0
    )
    assert refused("left_motor", "right_motor", failsafe=Failsafe(action="hold"))


def test_skerry_with_the_rudder_over(hangar: Hangar) -> None:
    skerry = hangar.load("Skerry")
    over = {"rudder_stick": -100.0, "motor_switch": 2.0}
    result = play(skerry, (1.0, over), (1.0, {"motor_switch": 1.0}), (1.0, {"rudder_stick": 100.0}))
    assert set(pulses(result)) == {1000.0}


def test_every_template_is_off_at_idle() -> None:
    for key, template in TEMPLATES.items():
        model = template.make("Trial")
        assert all(idle_danger(model, lead) is None for lead in model.leads), key


@pytest.mark.parametrize("name", ["Marram", "Samphire", "Skerry", "Sorrel", "Tidewrack"])
def test_a_hundred_thousand_random_moves(hangar: Hangar, name: Any) -> None:
    """500 pairs of hands for 200 frames: while the link is there, no pulse off idle unless armed;
    every release with the throttle and all motors low."""
    model = hangar.load(name)
    plan = compile_plan(model)
    rng = np.random.default_rng(len(name))
    rows, frames = 500, 200

    def held(draw: Any, share: Any) -> Any:
        out = draw((rows, frames)).astype(float)
        stays = rng.random((rows, frames)) > share
        stays[:, 0] = False
        at = np.maximum.accumulate(np.where(stays, 0, np.arange(frames)), axis=1)
        return np.take_along_axis(out, at, axis=1)

    controls = {
        n: held(lambda s: rng.integers(-100, 101, s), 0.15)
        for n in plan.rest
        if n.endswith("stick")
    }
    for n in plan.rest:
        control = model.transmitter.control(n)
        if control is not None:
            top = len(control.positions)
            controls[n] = held(
                (lambda s, top=top: rng.integers(0, top, s))
                if top
                else (lambda s: rng.integers(-100, 101, s)),
                0.05,
            )
        elif n.endswith("_trim"):
            controls[n] = held(lambda s: rng.integers(-20, 21, s), 0.03)
    low = held(lambda s: rng.random(s) < 0.6, 0.04) > 0
    controls["throttle_stick"] = np.where(low, -100.0, controls["throttle_stick"])
    link = held(lambda s: rng.random(s) < 0.9, 0.1)
    result = plan.run(Situation(FRAME * np.arange(frames), controls, link))
    armed, up = result.guard == GuardState.ARMED, link > 0.5
    motors = {m.name for m in model.airframe.motors}
    assert motors and armed.any()
    for lead in model.leads:
        if lead.target in motors:
            us = np.broadcast_to(result.outputs[lead.name].us, (rows, frames))
            assert (us[~armed & up] == lead.idle_us).all()
    new = armed[:, 1:] & ~armed[:, :-1]
    guard = model.program.guard
    assert new.any() and (controls["throttle_stick"][:, 1:][new] <= guard.threshold).all()
    for told in result.told.values():
        assert (np.broadcast_to(told, (rows, frames))[:, 1:][new] <= guard.threshold + 1e-9).all()
