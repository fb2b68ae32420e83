# SPDX-License-Identifier: GPL-3.0-or-later
"""Scenarios: stretches of moves from power-up that are played again after every edit, and what is
expected of them."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from hypsos.core.base.values import Label, Name, Value

LONGEST_S = 600
When = Annotated[float, Field(ge=0, le=LONGEST_S)]


class Move(Value):
    """A control, ``link``, ``power``, ``flight_battery`` or ``link_quality`` that goes to a value
    at a time, in seconds from power-up."""

    t_s: When
    control: Name
    to: Annotated[float, Field(ge=-100, le=100)]


class Expectation(Value):
    """What must be so from ``from_s`` to ``to_s``.

    ``holds``: a condition, as text. ``stopped`` and ``runs``: a motor. ``stands``: a surface or
    device from ``low`` to ``high`` percent of its own sense. ``said``: a caption begins to be said
    in that time. ``what`` names it."""

    kind: Literal["holds", "stopped", "runs", "stands", "said"]
    what: Annotated[str, Field(min_length=1, max_length=80)]
    from_s: When
    to_s: When
    low: Annotated[float, Field(ge=-150, le=150)] = -150.0
    high: Annotated[float, Field(ge=-150, le=150)] = 150.0

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.to_s < self.from_s:
            raise ValueError("an expectation must not end before it begins")
        if self.high < self.low:
            raise ValueError("the low value must not lie above the high one")
        return self


class Scenario(Value):
    """Moves in rising time, how long it lasts, and what is expected."""

    label: Label
    moves: Annotated[tuple[Move, ...], Field(max_length=800)] = ()
    length_s: Annotated[float, Field(gt=0, le=LONGEST_S)]
    expectations: Annotated[tuple[Expectation, ...], Field(max_length=240)] = ()

    @model_validator(mode="after")
    def _rising(self) -> Self:
        times = [m.t_s for m in self.moves]
        if times != sorted(times):
            raise ValueError("the moves must stand in rising time")
        return self
