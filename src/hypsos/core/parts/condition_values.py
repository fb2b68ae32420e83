# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches: named booleans, and what they are made of.

A condition is written as text: a logical switch ``armed``, a switch position ``flap_switch@2`` (numbered from 0), a
counter's position ``step@1``, a flight mode ``mode:thermal``, the guard's state ``guard:armed``, a timer that has run
out ``timer:flight``, the link ``link``, the receiver's ``power``; each negated by ``!`` in front.
"""

import re
from functools import cache
from typing import Annotated, Literal, NamedTuple, Self

from pydantic import Discriminator, Field, model_validator

from hypsos.core.base.values import Label, Name, Percent, Seconds, Value

CONDITION = r"^!?((mode:|guard:|timer:)?[a-z][a-z0-9_]{0,39}|[a-z][a-z0-9_]{0,39}@[0-9]{1,2})$"
Condition = Annotated[str, Field(pattern=CONDITION)]
Positive = Annotated[float, Field(ge=0, le=300)]
_PARTS = re.compile(r"^(!?)(mode:|guard:|timer:)?([a-z][a-z0-9_]*)(?:@([0-9]+))?$")


class ConditionQuestion(NamedTuple):
    """What a condition asks: a switch's or a counter's position, a flag, link or power; or, in a ``realm`` of its own, a
    flight ``mode``, a state of the ``guard``, a ``timer``; perhaps its contrary."""

    negated: bool
    realm: str
    name: str
    position: int | None

    @property
    def key(self) -> str:
        """What it hangs on, with modes, states of the guard and timers told from flags."""
        return f"{self.realm}:{self.name}" if self.realm else self.name


def opposite(text: str) -> str:
    """The condition that holds where this one does not."""
    return text[1:] if text.startswith("!") else f"!{text}"


@cache
def asked(text: str) -> ConditionQuestion:
    """A condition's text as what it asks; it is taken apart here and nowhere else.

    >>> asked("!flap_switch@2")
    ConditionQuestion(negated=True, realm='', name='flap_switch', position=2)
    """
    match = _PARTS.match(text)
    if match is None:
        raise ValueError(f"{text!r} is not a condition")
    return ConditionQuestion(
        bool(match[1]), (match[2] or "").rstrip(":"), match[3], int(match[4]) if match[4] is not None else None
    )


class _Named(Value):
    name: Name
    label: Label = "Logical switch"


class Compare(_Named):
    """A signal against numbers. ``beyond``: abs(a) > x; ``within``: x <= a <= y; ``difference``: a - b > x.

    ``hysteresis`` h: on beyond x, off only beyond x by h the other way.
    """

    kind: Literal["above", "below", "beyond", "within", "difference"]
    a: Name
    b: Name | None = None
    x: Annotated[float, Field(ge=-300, le=300)]
    y: Annotated[float, Field(ge=-300, le=300)] | None = None
    hysteresis: Annotated[float, Field(ge=0, le=100)] = 0.0


class Combine(_Named):
    """``all``, ``any``, exactly ``one`` of, or ``not`` the first of these conditions."""

    kind: Literal["all", "any", "one", "not"]
    of: Annotated[tuple[Condition, ...], Field(min_length=1, max_length=16)]


class Latch(_Named):
    """Set and cleared by rising edges, or by levels; clearing wins."""

    kind: Literal["latch"] = "latch"
    set: Condition
    reset: Condition
    edges: bool = True


class Delay(_Named):
    """True once the input was true for ``seconds`` (on_delay), until it was false for so long (off_delay), or for so
    long from a rising edge (pulse)."""

    kind: Literal["on_delay", "off_delay", "pulse"]
    of: Condition
    seconds: Positive


class Counter(_Named):
    """Steps through ``count`` positions on each rising edge; a position is the condition ``name@position``."""

    kind: Literal["counter"] = "counter"
    of: Condition
    count: Annotated[int, Field(ge=2, le=32)]


class Gate(_Named):
    """A signal of its own: the source while the condition holds, else the parked value, which must be stated."""

    kind: Literal["gate"] = "gate"
    source: Name
    when: Condition
    parked: Percent


LogicSwitch = Annotated[Compare | Combine | Latch | Delay | Counter | Gate, Discriminator("kind")]


def conditions_of(node: LogicSwitch) -> tuple[str, ...]:
    """The conditions that a logical switch hangs on."""
    if isinstance(node, Compare):
        return ()
    if isinstance(node, Combine):
        return node.of
    if isinstance(node, Latch):
        return (node.set, node.reset)
    return (node.when,) if isinstance(node, Gate) else (node.of,)


def signals_of(node: LogicSwitch) -> tuple[str, ...]:
    """The signals that a logical switch reads."""
    if isinstance(node, Compare):
        return (node.a,) if node.b is None else (node.a, node.b)
    return (node.source,) if isinstance(node, Gate) else ()


KINDS = frozenset(
    ("above", "below", "beyond", "within", "difference", "all", "any", "one", "not", "latch", "on_delay", "off_delay",
     "pulse", "counter", "gate")
)  # fmt: skip


class Adjuster(Value):
    """What moves a shared value in flight while ``when`` holds, within its bounds.

    ``set``: the travel of ``control`` from its low to its high bound replaces the stored value. ``add``: ``amount`` at the
    control's full travel is added to it. ``step``: each time ``up`` begins to hold it is ``amount`` more, each time ``down``
    does it is so much less. It works in the flight modes ``modes``, in every one where none is named. Where ``when`` ends,
    the stored value returns, or with ``keep`` the last one stays.
    """

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
            raise ValueError("steps need a button, a switch position or another condition for up or for down")
        if self.kind != "step" and self.control is None:
            raise ValueError("a value that is set or added to in flight needs a control")
        return self

    def conditions(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition) that it asks."""
        fields = (("when", self.when), ("up", self.up), ("down", self.down))
        return tuple((field, text) for field, text in fields if text is not None)


class Tunable(_Named):
    """A shared value with bounds, with values of its own per flight mode, and perhaps an adjuster. ``unit`` is for people."""

    label: Label = "Shared value"
    low: Annotated[float, Field(ge=-500, le=500)] = 0.0
    high: Annotated[float, Field(ge=-500, le=500)] = 100.0
    unit: Literal["%", "mm", "°", "s", ""] = "%"
    value: Annotated[float, Field(ge=-500, le=500)]
    by_mode: Annotated[dict[Name, Annotated[float, Field(ge=-500, le=500)]], Field(max_length=32)] = {}
    adjuster: Adjuster | None = None


class FlightMode(_Named):
    """A flight mode. The first whose ``when`` holds is flown; the last one has none and is the default mode.

    ``presets`` are added to surfaces and motors, in percent; ``fade_s`` is the time to fade into this mode.
    """

    label: Label = "Flight mode"
    when: Condition | None = None
    fade_s: Seconds = 0.0
    presets: Annotated[dict[Name, Percent], Field(max_length=300)] = {}
