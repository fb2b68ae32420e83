# SPDX-License-Identifier: GPL-3.0-or-later
"""Two motors played through seconds, for tests of the motor and of its guard."""

from __future__ import annotations

from typing import Any

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Axis
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.parts.mix_lines import MixLine

FRAME = 0.02


THROTTLE = tuple(
    MixLine(name="throttle", target=m, source="thrust") for m in ("left_motor", "right_motor")
)


def play(model: Model, *steps: Any) -> Any:
    """Played from power-up: (seconds, control=value, ...); what is set stays. Result, and the
    times."""
    plan = compile_plan(model)
    rows: dict[str, list[float]] = {n: [] for n in (*plan.rest, "link", "power")}
    now = dict(plan.rest) | {"link": 1.0, "power": 1.0}
    for seconds, change in steps:
        now |= change
        for n, v in now.items():
            rows[n] += [v] * round(seconds / FRAME)
    link, power = np.array(rows.pop("link")), np.array(rows.pop("power"))
    controls = {n: np.array(v) for n, v in rows.items()}
    return plan.run(Situation(FRAME * np.arange(len(link)), controls, link, power))


def armed(model: Model, seconds: Any = 1.0, **before: Any) -> Any:
    """Everything at rest and the throttle low for a second, then the switch to run."""
    return play(model, (1.0, before), (seconds, {"motor_switch": 1.0}))


def pulses(result: Any) -> Any:
    return np.concatenate(
        [np.ravel(t.us) for n, t in result.outputs.items() if n.endswith("motor")]
    )


def axis(**fields: Any) -> Any:
    return Axis(**{"command": "thrust", "control": "throttle_stick"} | fields)


def with_thrust(model: Model, **fields: Any) -> Any:
    axes = tuple(a for a in model.program.axes if a.command != "thrust")
    return with_at(model, "program.axes", (*axes, axis(**fields)))


def mode(name: Any, **presets: Any) -> Any:
    from hypsos.core.parts.flight_mode import FlightMode

    return FlightMode(name=name, presets=presets)


def line(target: Any, source: Any, gain: Any, **fields: Any) -> Any:
    return MixLine(name="extra", target=target, source=source, gain=gain, **fields)


def said(model: Model, result: Any, connected: Any = True, **controls: Any) -> Any:
    """What is said of the motors at the end of a run."""
    from hypsos.core.explain.explain_condition import Moment
    from hypsos.core.explain.motor_words import motor_said

    held = (
        dict(compile_plan(model).rest) | {"motor_switch": float(result.guard[-1] != 0)} | controls
    )
    return motor_said(Moment(model, result, held, connected)).sentence
