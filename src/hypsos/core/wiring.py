"""The receiver and the leads: which servo is plugged in where, and what its output does on the way."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from hypsos.core.linkage import Linkage
from hypsos.core.values import Label, Name, Percent, Seconds, Value


class Receiver(Value):
    """The receiver: how many ports it has, its number for the transmitter, and when it acts on a lost link."""

    ports: Annotated[int, Field(ge=1, le=32)] = 8
    number: Annotated[int, Field(ge=0, le=255)] = 0
    failsafe_after_s: Seconds = 1.0


class Failsafe(Value):
    """What a channel does without the link. ``value`` is a demand in percent, for ``preset`` only.

    It passes through direction, centre, travel and stops like any demand, so reversing an output cannot turn an
    idle motor into a full one.
    """

    action: Literal["hold", "preset", "no pulses"] = "preset"
    value: Percent = 0.0


class Lead(Value):
    """A servo or speed controller lead: what it moves, its port, and its output stage.

    ``port`` is None while it is not plugged in. ``direction`` 1 or -1; ``centre``, ``travel`` and ``stop`` in percent;
    ``slow`` and the servo's own speed ``servo_s`` in seconds for a change of 100 %. With a ``linkage`` the surface's angle
    follows from it, else from the surface's throws.
    """

    name: Name
    label: Label
    target: Name
    port: Annotated[int, Field(ge=1, le=32)] | None = None
    direction: Literal[1, -1] = 1
    centre: Annotated[float, Field(ge=-50, le=50)] = 0.0
    travel_neg: Annotated[float, Field(ge=0, le=150)] = 100.0
    travel_pos: Annotated[float, Field(ge=0, le=150)] = 100.0
    stop_neg: Annotated[float, Field(ge=-150, le=0)] = -125.0
    stop_pos: Annotated[float, Field(ge=0, le=150)] = 125.0
    slow_up_s: Seconds = 0.0
    slow_down_s: Seconds = 0.0
    servo_s: Seconds = 0.0
    linkage: Linkage | None = None
    failsafe: Failsafe | None = None

    @model_validator(mode="after")
    def _stops_the_right_way(self) -> Lead:
        if not self.stop_neg < self.stop_pos:
            raise ValueError("stop_neg must lie below stop_pos")
        return self
