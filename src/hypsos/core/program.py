"""What the transmitter is told: axes with their feel, mix lines, recipes, and the guard of the motors."""

from typing import Annotated, Literal

from pydantic import Field, field_validator

from hypsos.core.logic import FlightMode, LogicSwitch, Tunable
from hypsos.core.recipes import Recipe
from hypsos.core.shapes import MixLine, Response
from hypsos.core.values import Label, Name, Percent, Seconds, Travel, Value

AXIS_COMMANDS = ("roll", "pitch", "yaw", "thrust")
FREE_COMMANDS = ("flap", "brake", "camber")
"""Commands that mix lines may feed, besides surfaces and motors; they are sources in their turn."""


class Setting(Value):
    """The feel of one axis: a rate in percent to each side, and expo from -100 to 100.

    ``rate_from`` and ``expo_from`` name shared values that stand in for the numbers.
    """

    rate_neg: Annotated[float, Field(ge=0, le=150)] = 100.0
    rate_pos: Annotated[float, Field(ge=0, le=150)] = 100.0
    expo: Annotated[float, Field(ge=-100, le=100)] = 0.0
    rate_from: Name | None = None
    expo_from: Name | None = None


FULL = Setting.model_construct()
"""What an undefined switch position falls back to: full rate, no expo."""


class Trim(Value):
    """A trim: percent per click, range in percent to each side, and where it stands now, in clicks.

    ``scope``: common to all flight modes; ``per mode`` with the clicks of ``by_mode`` instead; ``offset`` with the clicks of
    ``by_mode`` on top.
    """

    step: Annotated[float, Field(gt=0, le=10)] = 1.0
    range: Annotated[float, Field(gt=0, le=100)] = 25.0
    clicks: Annotated[int, Field(ge=-500, le=500)] = 0
    scope: Literal["common", "per mode", "offset"] = "common"
    by_mode: dict[Name, Annotated[int, Field(ge=-500, le=500)]] = {}


class Axis(Value):
    """From a stick to a command: curve, then expo, then rate, then trim.

    ``settings`` are by position of ``switch``, from its first; a missing one means full rate and no expo. Without a
    switch the first setting holds always.
    """

    command: Literal["roll", "pitch", "yaw", "thrust"]
    control: Name
    curve: Response | None = None
    switch: Name | None = None
    settings: tuple[Setting | None, ...] = (FULL,)
    trim: Trim | None = None

    @field_validator("settings")
    @classmethod
    def _six_at_most(cls, value: tuple[Setting | None, ...]) -> tuple[Setting | None, ...]:
        if not 1 <= len(value) <= 6:
            raise ValueError("an axis has one to six settings, one for each switch position")
        return value


class Guard(Value):
    """The release of the motors. Each level includes those before it.

    1 cut: a switch position stops every motor. 2 low to arm: released only if the stick was below ``threshold`` when the
    switch went to run. 3 rest: it must have rested there for ``rest_s``. 4 re-lock: a link lost for longer than
    ``relock_s`` locks again until the switch is cycled. ``wakes_when_low`` turns locked into released once the
    stick has rested low.
    """

    level: Annotated[int, Field(ge=1, le=4)] = 2
    switch: Name
    run_position: Annotated[int, Field(ge=0, le=5)] = 1
    stick: Name = "throttle_stick"
    threshold: Travel = -95.0
    rest_s: Seconds = 0.5
    relock_s: Seconds = 1.0
    wakes_when_low: bool = False


class Program(Value):
    """All of it. ``frame_s`` is the time from one frame to the next in seconds."""

    frame_s: Annotated[float, Field(ge=0.002, le=0.1)] = 0.02
    axes: tuple[Axis, ...] = ()
    mixes: tuple[MixLine, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    guard: Guard | None = None
    logic: tuple[LogicSwitch, ...] = ()
    modes: tuple[FlightMode, ...] = ()
    tunables: tuple[Tunable, ...] = ()


__all__ = ["AXIS_COMMANDS", "FREE_COMMANDS", "Axis", "Guard", "Label", "Percent", "Program", "Setting", "Trim"]
