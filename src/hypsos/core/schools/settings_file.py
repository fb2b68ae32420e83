# SPDX-License-Identifier: GPL-3.0-or-later
"""What the settings files of all schools have in common: the head, the hardware, what is said."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from hypsos.core.base.values import Label, Line, Name, Value
from hypsos.core.schools.stand_in.parts import MOST, Channel, Hand, Lever, RadioReceiver, Shared

FORMAT = "hypsos-settings"
VERSION = 1
Free = Annotated[str, StringConstraints(max_length=120)]


class Said(Value):
    """A caption that the transmitter says: when its condition begins or ends to hold, or while it
    does, every so many seconds."""

    words: Label
    when: Free
    moment: Literal["begins", "ends", "while"] = "begins"
    every_s: Annotated[float, Field(ge=0, le=600)] = 0.0


class TimerAt(Value):
    """A timer: which way it counts, from where, while which condition holds, what sets it back."""

    name: Name
    label: Label = "Timer"
    counts: Literal["up", "down"] = "up"
    span_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    when: Free
    reset: Free = ""


class Settings(Value):
    """What is keyed in, whatever the school: for which model on which transmitter, and the hardware
    that all schools have.

    ``design``: the digest of the design that was translated. Times in seconds, the rest in percent;
    a pulse is ``centre_us + us_per_percent`` times the percent of an output."""

    format: Literal["hypsos-settings"] = "hypsos-settings"
    version: Literal[1] = 1
    school: str
    model: Label
    transmitter: Label
    design: Line = ""
    frame_s: Annotated[float, Field(gt=0, le=1)] = 0.02
    centre_us: Annotated[float, Field(ge=500, le=2500)] = 1500.0
    us_per_percent: Annotated[float, Field(gt=0, le=20)] = 5.0
    hands: Annotated[tuple[Hand, ...], Field(max_length=MOST)] = ()
    levers: Annotated[tuple[Lever, ...], Field(max_length=MOST)] = ()
    shared: Annotated[tuple[Shared, ...], Field(max_length=MOST)] = ()
    outputs: Annotated[tuple[Channel, ...], Field(max_length=MOST)] = ()
    failsafe: RadioReceiver
    said: Annotated[tuple[Said, ...], Field(max_length=MOST)] = ()
    timers: Annotated[tuple[TimerAt, ...], Field(max_length=MOST)] = ()

    def hardware(self) -> dict[str, Any]:
        """The parts of the stand-in that are alike in all schools."""
        return {
            "frame_s": self.frame_s,
            "centre_us": self.centre_us,
            "us_per_percent": self.us_per_percent,
            "hands": self.hands,
            "levers": self.levers,
            "shared": self.shared,
            "receiver": self.failsafe,
        }
