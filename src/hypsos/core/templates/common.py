"""What the templates share: hands, plain leads, axes."""

from __future__ import annotations

from hypsos.core.airframe import Airframe, Motor
from hypsos.core.program import Axis, Guard, Setting, Trim
from hypsos.core.transmitter import Control, Transmitter
from hypsos.core.wiring import Failsafe, Lead

ARM = Control(name="motor_switch", label="Motor switch", kind="switch", hand="left", positions=("cut", "run"))
RATES = Control(
    name="rates_switch", label="Rates switch", kind="switch", hand="right", positions=("calm", "normal", "full")
)
FLAPS = Control(
    name="flap_switch", label="Flap switch", kind="switch", hand="left", positions=("up", "half", "landing")
)


def transmitter(*extra: Control) -> Transmitter:
    """The usual hands with these controls besides."""
    return Transmitter(label="Club transmitter", controls=(ARM, FLAPS, RATES, *extra))


def axes() -> tuple[Axis, ...]:
    """All four sticks at full rate, roll and pitch a little softened, trims on the three flying axes."""
    out = [
        Axis(command=command, control=stick, settings=(Setting(expo=expo),), trim=Trim())
        for command, stick, expo in (
            ("roll", "aileron_stick", 25.0),
            ("pitch", "elevator_stick", 25.0),
            ("yaw", "rudder_stick", 0.0),
        )
    ]
    return (*out, Axis(command="thrust", control="throttle_stick"))


def guard() -> Guard:
    """Cut on the motor switch, released only with the stick low."""
    return Guard(level=2, switch=ARM.name, run_position=1)


def leads(airframe: Airframe) -> tuple[Lead, ...]:
    """A lead for every moved part, not plugged in, with the proposed failsafe."""
    return tuple(
        Lead(
            name=part.name,
            label=part.label,
            target=part.name,
            failsafe=Failsafe(value=-100.0 if isinstance(part, Motor) else 0.0),
        )
        for part in airframe.moved()
    )
