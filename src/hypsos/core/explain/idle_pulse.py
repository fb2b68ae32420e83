# SPDX-License-Identifier: GPL-3.0-or-later
"""Idle is idle on the pulse: whether a motor's lead sends, for idle, the pulse at which its
controller is off."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.backends import FRAME
from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.document.document import Model
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import IDLE, idle_fits, idle_percent, servo_percent


def idle_danger(model: Model, lead: Lead) -> str | None:
    """What is wrong with a motor's lead at idle, in a sentence or two; None where it is as it
    should be."""
    hands = model.transmitter
    if all(m.name != lead.target for m in model.airframe.motors) or idle_fits(lead, hands):
        return None
    sent = hands.centre_us + hands.us_per_percent * float(servo_percent(IDLE, lead, FRAME)[2])
    return (
        f"At idle {lead.label} would be sent {number(sent)} µs, and its controller is off at {number(lead.idle_us)} µs. "
        "The guard sends the idle pulse and does not arm this motor."
    )


def idle_dangers(model: Model) -> Iterator[tuple[int, str]]:
    """The place of each lead that is wrong at idle, and what is wrong."""
    for i, lead in enumerate(model.leads):
        said = idle_danger(model, lead)
        if said is not None:
            yield i, said


def failsafe_danger(lead: Lead) -> str | None:
    """What is wrong with the failsafe of a motor's lead, in a sentence; None where it leaves the
    motor at idle."""
    safe = lead.failsafe
    if safe is not None and safe.action == "hold":
        return f"{lead.label} would keep running without the link."
    if safe is not None and safe.action == "preset" and safe.value > IDLE:
        return (
            f"{lead.label} would run at {power_percent(safe.value):.0f} % power without the link."
        )
    return None


def motor_dangers(model: Model) -> Iterator[tuple[str, str]]:
    """What is dangerous about a motor whatever the hands do, as (path, sentence): an idle that is
    none, a failsafe that runs it, an older document that meant less power."""
    motors = {m.name for m in model.airframe.motors}
    for i, text in idle_dangers(model):
        yield f"leads[{i}].idle_us", text
    for i, lead in enumerate(model.leads):
        said = failsafe_danger(lead) if lead.target in motors else None
        if said is not None:
            yield f"leads[{i}].failsafe", said
    guard = model.program.guard
    for i, text in enumerate(guard.unconfirmed if guard is not None else ()):
        yield (
            f"program.guard.unconfirmed[{i}]",
            f"{text} No motor is armed until you have agreed to it.",
        )


def idle_mended(model: Model, index: int) -> Model:
    """The model with a motor's lead that sends its idle pulse at idle: direction, travel and stop
    to fit, no centre."""
    lead, idle = model.leads[index], idle_percent(model.leads[index], model.transmitter)
    side = "neg" if idle < 0 else "pos"
    stop = min(lead.stop_neg, idle) if idle < 0 else max(lead.stop_pos, idle)
    fields = {
        "direction": 1 if idle < 0 else -1,
        "centre": 0.0,
        f"travel_{side}": abs(idle),
        f"stop_{side}": stop,
    }
    leads = list(model.leads)
    leads[index] = leads[index].changed({**fields})
    return model.changed({"leads": tuple(leads)})
