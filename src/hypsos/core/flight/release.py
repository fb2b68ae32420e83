"""What the lamp says: the release of the motors, and which motor stands in its way."""

from __future__ import annotations

import numpy as np

from hypsos.core.engine import GuardState, Result
from hypsos.core.flight.idle import idle_dangers
from hypsos.core.model.document import Model
from hypsos.core.model.phrases import phrase
from hypsos.core.model.words import control_label, number, power_percent

SHORT = {
    GuardState.STOPPED: "Motor stopped",
    GuardState.LOCKED: "Motor locked",
    GuardState.RELEASED: "Motor released",
}


def release_words(model: Model, result: Result, connected: bool) -> str:
    """The state of the last frame in a sentence."""
    state = GuardState(int(np.ravel(result.guard)[-1]))
    if state == GuardState.RELEASED and not connected:
        return "Motor released, link lost: it starts again when the link returns"
    if state != GuardState.LOCKED or model.program.guard is None:
        return SHORT[state]
    return f"Motor locked: {_reason(model, result)}"


def _reason(model: Model, result: Result) -> str:
    guard, labels = model.program.guard, {m.name: m.label for m in model.airframe.motors}
    assert guard is not None
    for i, _ in idle_dangers(model):
        return f"{model.leads[i].label} is not sent its idle pulse at idle"
    powers = {labels[n]: power_percent(float(np.ravel(x)[-1])) for n, x in result.told.items()}
    most = max(powers, key=lambda n: powers[n], default=None)
    if most is not None and powers[most] > power_percent(guard.threshold) and guard.level > 1:
        axis = model.program.axis("thrust")
        stick = f"; bring the {control_label(model, axis.control)} low" if axis is not None else ""
        return f"{most} would be told {number(powers[most])} %{stick}"
    switch = control_label(model, guard.switch)
    besides = [f"while {phrase(model, guard.also)}"] if guard.also is not None else []
    besides += ["with all switches and sliders as the start check wants them"] if guard.start_check else []
    return " ".join([f"put the {switch[:1].lower()}{switch[1:]} to cut and back", *besides])
