# SPDX-License-Identifier: GPL-3.0-or-later
"""Shared values: a figure that several lines read, with bounds, and what moves it in flight."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from hypsos.core.base.values import Label, Name, Value
from hypsos.core.parts.condition_text import Condition


class Adjuster(Value):
    """What moves a shared value in flight while ``when`` holds, within its bounds.

    ``set``: the travel of ``control`` from its low to its high bound replaces the stored value.
    ``add``: ``amount`` at the control's full travel is added to it. ``step``: each time ``up``
    begins to hold it is ``amount`` more, each time ``down`` does it is so much less. It works in
    the flight modes ``modes``, in every one where none is named. Where ``when`` ends, the stored
    value returns, or with ``keep`` the last one stays."""

    kind: Literal["set", "add", "step"] = "set"
    control: Name | None = None
    up: Condition | None = None
    down: Condition | None = None
    amount: Annotated[float, Field(gt=0, le=500)] = 1.0
    modes: Annotated[tuple[Name, ...], Field(max_length=32)] = ()
    when: Condition | None = None
    keep: bool = False

    @model_validator(mode="after")
    def _has_what_moves_it(self) -> Self:
        if self.kind == "step" and self.up is None and self.down is None:
            raise ValueError(
                "steps need a button, a switch position or another condition for up or for down"
            )
        if self.kind != "step" and self.control is None:
            raise ValueError("a value that is set or added to in flight needs a control")
        return self

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        fields = (("when", self.when), ("up", self.up), ("down", self.down))
        return tuple((field, text) for field, text in fields if text is not None)


class Tunable(Value):
    """A shared value with bounds, with values of its own per flight mode, and perhaps an adjuster.
    ``unit`` is for people."""

    name: Name
    label: Label = "Shared value"
    low: Annotated[float, Field(ge=-500, le=500)] = 0.0
    high: Annotated[float, Field(ge=-500, le=500)] = 100.0
    unit: Literal["%", "mm", "°", "s", ""] = "%"
    value: Annotated[float, Field(ge=-500, le=500)]
    by_mode: Annotated[
        dict[Name, Annotated[float, Field(ge=-500, le=500)]], Field(max_length=32)
    ] = {}
    adjuster: Adjuster | None = None

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        if self.adjuster is None:
            return ()
        return tuple((f"adjuster.{field}", text) for field, text in self.adjuster.asks())

    def reads(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, control)."""
        if self.adjuster is None or self.adjuster.control is None:
            return ()
        return (("adjuster.control", self.adjuster.control),)

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no other shared value."""
        return ()
