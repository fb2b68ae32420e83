# SPDX-License-Identifier: GPL-3.0-or-later
"""The hands: the transmitter's sticks, switches, sliders and knobs, and where a hand finds them."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from hypsos.core.base.values import Label, Line, Name, Value

STICKS = ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick")
STICK_SIDES = {
    "aileron_stick": ("left", "right"), "elevator_stick": ("back", "forward"), "rudder_stick": ("left", "right"),
}  # fmt: skip
SWITCH_KINDS = ("switch", "momentary")
AROUND = {"link": 1.0, "power": 1.0, "link_quality": 100.0, "flight_battery": 1.0}
"""What surrounds the hands, by the names it has in moves, with the value it has where nothing is
said of it."""


class Control(Value):
    """One switch, momentary button, slider or knob. A switch has two, three or six named positions.

    ``place`` says where it sits on the transmitter that the model has taken; empty where it is on
    none."""

    name: Name
    label: Label
    kind: Literal["switch", "momentary", "slider", "knob"]
    hand: Literal["left", "right"]
    positions: Annotated[tuple[Label, ...], Field(max_length=6)] = ()
    place: Line = ""

    @model_validator(mode="after")
    def _positions_fit(self) -> Self:
        allowed = {"switch": (2, 3, 6), "momentary": (2,)}.get(self.kind, (0,))
        if len(self.positions) not in allowed:
            raise ValueError(
                f"a {self.kind} has {' or '.join(map(str, allowed))} positions, not {len(self.positions)}"
            )
        return self

    @property
    def is_switch(self) -> bool:
        return self.kind in SWITCH_KINDS


def switch_value(position: int, count: int) -> float:
    """The signal of a switch position, evenly spread from -100 to 100 %.

    >>> [switch_value(i, 3) for i in range(3)]
    [-100.0, 0.0, 100.0]
    """
    return -100.0 + 200.0 * position / (count - 1)


FirstEnd = Literal["away", "towards"]


class Transmitter(Value):
    """Stick mode, controls, the transmitter of the pilot's own that was ``taken`` (its name, or
    nothing), and the pulse that stands for 0 % and for each percent (microseconds). ``first_end``:
    whether position 0 of its switches lies away from the pilot or towards him."""

    label: Label = "Transmitter"
    taken: Line = ""
    stick_mode: Annotated[int, Field(ge=1, le=4)] = 2
    controls: Annotated[tuple[Control, ...], Field(max_length=100)] = ()
    centre_us: Annotated[float, Field(ge=1000, le=2000)] = 1500.0
    us_per_percent: Annotated[float, Field(gt=0, le=10)] = 5.0
    first_end: FirstEnd = "towards"

    def row_from_far(self, position: int, count: int) -> int:
        """Where a switch's position lies as its lever is drawn, counted from the end away from the
        pilot.

        >>> [Transmitter(first_end=end).row_from_far(0, 3) for end in ("towards", "away")]
        [2, 0]
        """
        return position if self.first_end == "away" else count - 1 - position

    def control(self, name: str) -> Control | None:
        """The switch, slider or knob of that name, or None for a stick or an unknown name."""
        return next((c for c in self.controls if c.name == name), None)


STICK_PLACES: dict[int, dict[str, tuple[str, str]]] = {
    1: {"left": ("rudder_stick", "elevator_stick"), "right": ("aileron_stick", "throttle_stick")},
    2: {"left": ("rudder_stick", "throttle_stick"), "right": ("aileron_stick", "elevator_stick")},
    3: {"left": ("aileron_stick", "elevator_stick"), "right": ("rudder_stick", "throttle_stick")},
    4: {"left": ("aileron_stick", "throttle_stick"), "right": ("rudder_stick", "elevator_stick")},
}
"""Stick mode -> hand -> (the movement left and right, the movement to and fro)."""
