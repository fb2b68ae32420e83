# SPDX-License-Identifier: GPL-3.0-or-later
"""A transmitter of the pilot's own, which serves many models: what it thinks in, what it has, where
each hand finds it."""

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, model_validator

from hypsos.core.base.values import Label, Name, Note, Value
from hypsos.core.parts.transmitter import Control, FirstEnd

School = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z ]{0,39}$")]
"""The name of a way of thinking; which there are is known in :mod:`hypsos.core.schools`."""
RETIRED = ("trim_step", "per_side")
Ability = Literal[
    "slow", "fade", "smooth", "product", "memory", "delays", "link", "voice", "shared"
]
ALL_ABILITIES: tuple[Ability, ...] = (
    "slow", "fade", "smooth", "product", "memory", "delays", "link", "voice", "shared",
)  # fmt: skip
"""What a transmitter may be able to do beside adding up lines. *slow*: movements that take time;
*fade*: from one flight mode to the next; *smooth*: curves that are round; *product*: a line that
multiplies; *memory*: latches; *delays*: conditions that wait; *link*: it knows that the link is
gone; *voice*: it speaks; *shared*: one figure for many lines, by flight mode, moved in flight."""
Count = Annotated[int, Field(ge=0, le=1000)]


class Profile(Value):
    """A transmitter. ``outputs``, ``mixes``, ``modes``, ``curve_points``, ``logic`` and ``timers``
    are how many it has at the most; ``trim_levers``: the commands that have one; ``first_end``:
    whether position 0 of a switch lies away from the pilot or towards him. ``sums``: helping sums
    beside those of its outputs. ``weight_step`` (percent), ``centre_step_us`` and ``time_step_s``
    are the steps in which its figures are typed, 0 for none; ``can``: what else it is able to
    do. ``reversal``: where a servo that sits the other way round is allowed for: at its output, or
    in the signs of what is mixed to it."""

    format: Literal["hypsos-transmitter"] = "hypsos-transmitter"
    name: Label
    note: Note = ""
    school: School = "by lines"
    controls: Annotated[tuple[Control, ...], Field(max_length=100)] = ()
    trim_levers: Annotated[tuple[Name, ...], Field(max_length=4)] = (
        "roll",
        "pitch",
        "yaw",
        "thrust",
    )
    outputs: Count = 8
    mixes: Count = 32
    modes: Count = 6
    curve_points: Count = 5
    logic: Count = 24
    timers: Count = 3
    sums: Count = 16
    weight_step: Annotated[float, Field(ge=0, le=10)] = 1.0
    centre_step_us: Annotated[float, Field(ge=0, le=20)] = 1.0
    time_step_s: Annotated[float, Field(ge=0, le=1)] = 0.1
    can: Annotated[tuple[Ability, ...], Field(max_length=20)] = ALL_ABILITIES
    centre_us: Annotated[float, Field(ge=1000, le=2000)] = 1500.0
    us_per_percent: Annotated[float, Field(gt=0, le=10)] = 5.0
    first_end: FirstEnd = "away"
    reversal: Literal["outputs", "signs"] = "outputs"

    @model_validator(mode="before")
    @classmethod
    def _without_the_retired(cls, data: Any) -> Any:
        """Fields that earlier versions wrote and nothing ever read."""
        return (
            {k: v for k, v in data.items() if k not in RETIRED} if isinstance(data, dict) else data
        )
