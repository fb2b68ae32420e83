# SPDX-License-Identifier: GPL-3.0-or-later
"""The receiver and the leads: which servo is plugged in where, and what its output does on the
way."""

import itertools
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from hypsos.core.base.values import Label, Name, Percent, Seconds, Value
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.mix_lines import Response

MOST_POINTS = 9
"""So many points an output curve may have."""

Measured = Annotated[
    tuple[tuple[Percent, Annotated[float, Field(ge=-500, le=500)]], ...], Field(max_length=33)
]


class Receiver(Value):
    """The receiver: how many ports it has, its number for the transmitter, and when it acts on a
    lost link.

    ``power`` is what feeds it; a battery of its own may sit in a port, ``power_port``. ``stored``:
    it keeps its presets over power-off, and acts on them even when it has not heard the transmitter
    since. ``spare``: what the ports in which nothing is plugged do without the link."""

    ports: Annotated[int, Field(ge=1, le=32)] = 8
    number: Annotated[int, Field(ge=0, le=255)] = 0
    failsafe_after_s: Annotated[float, Field(ge=0.1, le=5)] = 1.0
    stored: bool = True
    spare: Literal["no pulses", "hold", "neutral"] = "no pulses"
    power: Literal["not said", "speed controller", "own battery"] = "not said"
    power_port: Annotated[int, Field(ge=1, le=32)] | None = None


class YLead(Value):
    """Two leads joined to one port. A ``reversing`` one turns the second servo's movement round."""

    first: Name
    second: Name
    reversing: bool = False


class Failsafe(Value):
    """What a channel does without the link. ``value`` is a demand in percent, for ``preset`` only.

    It passes through direction, centre, travel and stops like any demand, so reversing an output
    cannot turn an idle motor into a full one. ``meant``: a person has looked at a preset that
    steers, and wants it."""

    action: Literal["hold", "preset", "no pulses"] = "preset"
    value: Percent = 0.0
    meant: bool = False


class Lead(Value):
    """A servo or speed controller lead: what it moves, its port, and its output stage.

    ``port`` is None while it is not plugged in. ``direction`` 1 or -1; ``centre``, ``travel`` and
    ``stop`` in percent; ``slow`` and the servo's own speed ``servo_s`` in seconds for a change of
    100 %. With a ``linkage`` the surface's angle follows from it, else from the surface's throws.
    ``seen_right`` is the port and the direction with which it was seen to move the right way.
    ``curve`` bends the demand before the direction, the travel and the centre: with it two surfaces
    on servos that do not run alike can be made to agree. It rises all the way, and beyond its ends
    it goes on percent for percent. A motor has none. ``measured`` are rows of command in percent
    and trailing edge in millimetres, + is down or right; they stand in for what is computed.
    ``idle_us`` is, for a motor, the pulse at which its controller is off; ``waits_for_idle``: its
    controller, as the pilot knows of it, lets the motor turn only after it has heard a second of
    idle since the flight battery was plugged in."""

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
    idle_us: Annotated[float, Field(ge=500, le=2500)] = 1000.0
    waits_for_idle: bool = False
    linkage: Linkage | None = None
    failsafe: Failsafe | None = None
    seen_right: tuple[int, int] | None = None
    measured: Measured = ()
    curve: Response | None = None

    @property
    def checked(self) -> bool:
        """Whether it was seen to move the right way on the aeroplane, in this port with this
        direction."""
        return self.seen_right is not None and self.seen_right == (self.port, self.direction)

    @model_validator(mode="after")
    def _stops_the_right_way(self) -> Self:
        if not self.stop_neg < self.stop_pos:
            raise ValueError("stop_neg must lie below stop_pos")
        for i, (left, right) in enumerate(itertools.pairwise(self.measured)):
            if not (left[0] < right[0] and left[1] < right[1]):
                text = f"row {i + 2} of the measured table does not lie beyond row {i + 1}: command and movement must both rise"
                raise ValueError(text)
        for i, (left, right) in enumerate(
            itertools.pairwise(self.curve.points if self.curve is not None else ())
        ):
            if not left[1] < right[1]:
                raise ValueError(
                    f"point {i + 2} of the output curve does not lie above point {i + 1}: it must rise all the way"
                )
        if self.curve is not None and (len(self.curve.points) > MOST_POINTS or self.curve.live):
            raise ValueError(
                f"an output curve has at most {MOST_POINTS} points, and none that moves in flight"
            )
        if len(self.measured) == 1:
            raise ValueError("a measured table needs at least two rows")
        return self
