# SPDX-License-Identifier: GPL-3.0-or-later
"""Logical switches: named booleans, and what they are made of.

A condition is written as text: a logical switch ``armed``, a switch position ``flap_switch@2`` (numbered from 0), a
counter's position ``step@1``, a flight mode ``mode:thermal``, the guard's state ``guard:armed``, a timer that has run
out ``timer:flight``, the link ``link``, the receiver's ``power``; each negated by ``!`` in front.
"""

import re
from collections.abc import Iterator
from functools import cache
from typing import Annotated, ClassVar, Literal, NamedTuple, Self

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


class _Condition(_Named):
    """What every logical switch says of itself: the conditions it asks and the signals it reads, each with its field, and what is
    wrong with it by itself. ``reads_sums``: whether it may read the sums of surfaces and signals of the model's own."""

    reads_sums: ClassVar[bool] = False

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        return ()

    def reads(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, signal)."""
        return ()

    def wrong(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong with it)."""
        return iter(())


class Compare(_Condition):
    """A signal against numbers. ``beyond``: abs(a) > x; ``within``: x <= a <= y; ``difference``: a - b > x.

    ``hysteresis`` h: on beyond x, off only beyond x by h the other way.
    """

    kind: Literal["above", "below", "beyond", "within", "difference"]
    a: Name
    b: Name | None = None
    x: Annotated[float, Field(ge=-300, le=300)]
    y: Annotated[float, Field(ge=-300, le=300)] | None = None
    hysteresis: Annotated[float, Field(ge=0, le=100)] = 0.0
    reads_sums: ClassVar[bool] = True

    def reads(self) -> tuple[tuple[str, str], ...]:
        return (("a", self.a),) if self.b is None else (("a", self.a), ("b", self.b))

    def wrong(self) -> Iterator[tuple[str, str]]:
        if self.kind == "difference" and self.b is None:
            yield "b", "a difference needs a second signal"
        if self.kind == "within" and (self.y is None or self.y < self.x):
            yield "y", "a range needs an upper end that is not below its lower end"


class Combine(_Condition):
    """``all``, ``any``, exactly ``one`` of, or ``not`` the first of these conditions."""

    kind: Literal["all", "any", "one", "not"]
    of: Annotated[tuple[Condition, ...], Field(min_length=1, max_length=16)]

    def asks(self) -> tuple[tuple[str, str], ...]:
        return tuple((f"of[{k}]", text) for k, text in enumerate(self.of))


class Latch(_Condition):
    """Set and cleared by rising edges, or by levels; clearing wins."""

    kind: Literal["latch"] = "latch"
    set: Condition
    reset: Condition
    edges: bool = True

    def asks(self) -> tuple[tuple[str, str], ...]:
        return ("set", self.set), ("reset", self.reset)


class Delay(_Condition):
    """True once the input was true for ``seconds`` (on_delay), until it was false for so long (off_delay), or for so
    long from a rising edge (pulse)."""

    kind: Literal["on_delay", "off_delay", "pulse"]
    of: Condition
    seconds: Positive

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("of", self.of),)


class Counter(_Condition):
    """Steps through ``count`` positions on each rising edge; a position is the condition ``name@position``."""

    kind: Literal["counter"] = "counter"
    of: Condition
    count: Annotated[int, Field(ge=2, le=32)]

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("of", self.of),)


class Gate(_Condition):
    """A signal of its own: the source while the condition holds, else the parked value, which must be stated."""

    kind: Literal["gate"] = "gate"
    source: Name
    when: Condition
    parked: Percent

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("when", self.when),)

    def reads(self) -> tuple[tuple[str, str], ...]:
        return (("source", self.source),)


LogicSwitch = Annotated[Compare | Combine | Latch | Delay | Counter | Gate, Discriminator("kind")]


def conditions_of(node: LogicSwitch) -> tuple[str, ...]:
    """The conditions that a logical switch hangs on."""
    return tuple(text for _, text in node.asks())


def signals_of(node: LogicSwitch) -> tuple[str, ...]:
    """The signals that a logical switch reads."""
    return tuple(name for _, name in node.reads())


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
