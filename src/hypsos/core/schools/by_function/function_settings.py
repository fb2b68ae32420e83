# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by function."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.base.values import Line, Name, Value
from hypsos.core.schools.figures import Bend
from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.parts import (
    MOST,
    Command,
    Mode,
    Names,
    NoRef,
    Refs,
    Rule,
    Time,
    Weight,
)


class Taken(Value):
    """A share that a servo takes of a function, of its side above zero and of that below; with its
    trim or without."""

    function: Name
    above: Weight = 100.0
    below: Weight = 100.0
    trim: bool = True


class Servo(Value):
    """A servo, and what it takes of which functions."""

    part: Name
    takes: Annotated[tuple[Taken, ...], Field(max_length=MOST)] = ()


class FunctionMix(Value):
    """What one function gives to another one, or to a servo: bent by a curve, in shares of its
    sides, while its conditions hold and one of its modes is flown, delayed on its way in and out.
    ``ready`` names the transmitter's own mix that does this; nothing: one of the pilot's own.
    ``from_low``: counted from the low end of its way."""

    ready: Line = ""
    master: Name
    to: Name
    trim: bool = True
    bend: Bend | None = None
    from_low: bool = False
    above: Weight = 100.0
    below: Weight = 100.0
    when: Refs = ()
    modes: Names = ()
    delay_in: Time = 0.0
    delay_out: Time = 0.0


class FunctionSettings(Settings):
    """Settings by function.

    ``functions``: those that a hand feeds, with curve, rate and expo by condition, and trim.
    ``own_functions``: names of functions that only mixes feed. ``conditions``: of two things at the
    most. ``cut``: while it holds the outputs of motors stand at idle, and what is delayed on the way
    to them sets out from there."""

    school: Literal["by function"] = "by function"
    functions: Annotated[tuple[Command, ...], Field(max_length=MOST)] = ()
    own_functions: Names = ()
    servos: Annotated[tuple[Servo, ...], Field(max_length=MOST)] = ()
    mixes: Annotated[tuple[FunctionMix, ...], Field(max_length=MOST)] = ()
    conditions: Annotated[tuple[Rule, ...], Field(max_length=MOST)] = ()
    modes: Annotated[tuple[Mode, ...], Field(max_length=MOST)] = ()
    cut: NoRef = ""
