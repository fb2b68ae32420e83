# SPDX-License-Identifier: GPL-3.0-or-later
"""What the simulated transmitter is made of.

A *reference* names something that is true or not: a rule, ``switch@2`` (a switch's position from
0), ``mode:thermal``, ``link``, ``power``; ``!`` in front turns it round, ``was:`` in front of the
name asks for it as it was in the frame before (false before the first one)."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Literal, NamedTuple

from pydantic import Field, StringConstraints

from hypsos.core.base.values import Line, Name, Value
from hypsos.core.schools.figures import Bend

MOST = 1000
"""So many parts of one kind a transmitter may have at the most."""
REFERENCE = r"^!?(was:)?(mode:)?[a-z][a-z0-9_]{0,39}(@[0-9]{1,2})?$"
Ref = Annotated[str, StringConstraints(pattern=REFERENCE)]
Refs = Annotated[tuple[Ref, ...], Field(max_length=12)]
Names = Annotated[tuple[Name, ...], Field(max_length=40)]
NoName = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39})?$")]
"""A name, or nothing."""
NoRef = Annotated[
    str, StringConstraints(pattern=r"^(!?(was:)?(mode:)?[a-z][a-z0-9_]{0,39}(@[0-9]{1,2})?)?$")
]
"""A reference, or nothing."""
Weight = Annotated[float, Field(ge=-10000, le=10000)]
Time = Annotated[float, Field(ge=0, le=1000)]
Port = Annotated[int, Field(ge=1, le=64)]

FULL = "full"
"""The source that always gives 100 %."""
BASE = "base"
"""The flight mode of a transmitter that has no others."""


class Reference(NamedTuple):
    """A reference taken apart."""

    name: str
    position: int | None = None
    negated: bool = False
    before: bool = False


@cache
def reference(text: str) -> Reference:
    """What a reference's text says.

    >>> reference("!was:armed"), reference("flap_switch@2").position
    (Reference(name='armed', position=None, negated=True, before=True), 2)
    """
    negated = text.startswith("!")
    rest = text[1:] if negated else text
    before = rest.startswith("was:")
    rest = rest.removeprefix("was:")
    name, at, place = rest.partition("@")
    return Reference(name, int(place) if at else None, negated, before)


class Hand(Value):
    """A stick, switch, slider or knob. ``positions``: of a switch, 0 of anything else; ``rest``:
    where it stands when nothing is said of it."""

    name: Name
    positions: Literal[0, 2, 3, 4, 5, 6]
    rest: Weight
    label: Line = ""


class Lever(Value):
    """A trim lever: percent from ``start``, to ``reach`` at the most.

    ``scope``: *common* to all modes; *per mode*: what it moves in a mode is that mode's, from the
    figures ``own`` (percent) or from ``start``; *offset*: the same on top of ``start``."""

    name: Name
    reach: Annotated[float, Field(gt=0, le=100)]
    start: Weight
    scope: Literal["common", "per mode", "offset", "none"] = "common"
    own: dict[Name, Weight] = {}


class HandFeel(Value):
    """One way in which a hand's movement becomes a command: turned round, bent, cut at 100 %, expo,
    then weighted about ``pivot``. It holds while all of ``when`` do and a mode of ``modes`` is
    flown (none named: any), on the ``side`` on which its expo comes out. ``weight_by`` and
    ``expo_by``: shared values in the place of the figures, held to 0 … 150 % and ±100 %."""

    control: Name
    turned: bool = False
    bend: Bend | None = None
    expo: Annotated[float, Field(ge=-100, le=100)] = 0.0
    expo_by: NoName = ""
    weight: Weight = 100.0
    weight_by: NoName = ""
    pivot: Literal[0, -100] = 0
    side: Literal["both", "above", "below"] = "both"
    when: Refs = ()
    modes: Names = ()


class Command(Value):
    """What a hand asks for: the first of its feels that holds gives it, none gives 0; then comes
    the trim."""

    name: Name
    feels: Annotated[tuple[HandFeel, ...], Field(max_length=MOST)]
    trim: NoName = ""


class Share(Value):
    """One line of a sum.

    The source (a command with its trim or without, a hand, another sum, ``full``) is bent, counted
    from ``-100`` where it is ``from_low``, and is 0 while a reference of ``when`` fails or another
    mode than one of ``modes`` is flown. Then it is slowed, and weighted by ``above`` where it is
    above zero, by ``below`` where it is below; times a shared value in percent. It *adds* to the
    sum so far, *multiplies* it (in percent) or *replaces* it; these two leave the sum alone while
    they do not hold."""

    source: Name
    trim: bool = True
    bend: Bend | None = None
    from_low: bool = False
    when: Refs = ()
    modes: Names = ()
    slow_in: Time = 0.0
    slow_out: Time = 0.0
    above: Weight = 100.0
    below: Weight = 100.0
    by: NoName = ""
    join: Literal["add", "multiply", "replace"] = "add"


class Sum(Value):
    """A named sum of lines, worked from the first to the last. While ``held`` holds the slow
    movements of its lines stand at nothing, and set out from there."""

    name: Name
    shares: Annotated[tuple[Share, ...], Field(max_length=MOST)]
    held: NoRef = ""


RuleKind = Literal[
    "above",
    "below",
    "and",
    "or",
    "either",
    "latch",
    "begins",
    "lasts",
    "lingers",
    "pulse",
    "counts",
]


class Rule(Value):
    """Something that is true or not, made of two things at the most.

    ``above``, ``below``: ``a`` (its size, where ``size``; less the signal ``b`` where one is named)
    is beyond ``level``. ``and``, ``or``, ``either`` (one and not the other) of two references.
    ``latch``: from when ``a`` holds until ``b`` does, which wins. ``begins``: the frame in which
    ``a`` begins to hold. ``lasts``: ``a`` has held for ``seconds``; ``lingers``: and goes on for
    so long; ``pulse``: for so long from when it begins. ``counts``: a place from 0 to ``level``
    less one, one further each time ``a`` begins; asked as ``name@2``."""

    name: Name
    kind: RuleKind
    a: Ref
    b: NoRef = ""
    level: Weight = 0.0
    size: bool = False
    seconds: Time = 0.0


class Mover(Value):
    """What moves a shared value in flight: a hand that *sets* it between its bounds or *adds* up to
    ``amount``, or two references that *step* it by ``amount``. ``keep``: when ``when`` ends the
    last value stays. ``modes`` (none: all) are those in which it acts."""

    kind: Literal["set", "add", "step"]
    control: NoName = ""
    amount: Weight = 0.0
    up: NoRef = ""
    down: NoRef = ""
    when: NoRef = ""
    keep: bool = False
    modes: Names = ()


class Shared(Value):
    """A shared value: one for each mode, between its bounds."""

    name: Name
    by_mode: dict[Name, Weight]
    low: Weight
    high: Weight
    mover: Mover | None = None


class Mode(Value):
    """A flight mode: the first whose reference holds is flown; the last has none. ``fade_s``: the
    time of the way into it, in a straight line over the sums of both."""

    name: Name
    when: NoRef
    fade_s: Time = 0.0
    label: Line = ""


class Channel(Value):
    """An output: the sum, held from ``low`` to ``high``, slowed, bent (percent for percent beyond
    the bend's ends), turned round, with its ends and centre in percent, cut at its stops. While the
    reference ``cut`` holds it stands at ``cut_at`` percent, and its slow movement at ``low``."""

    port: Port
    sum: Name
    low: Weight = -150.0
    high: Weight = 150.0
    slow_up: Time = 0.0
    slow_down: Time = 0.0
    bend: Bend | None = None
    turned: bool = False
    centre: Weight = 0.0
    end_below: Weight = 100.0
    end_above: Weight = 100.0
    stop_below: Weight = -125.0
    stop_above: Weight = 125.0
    cut: NoRef = ""
    cut_at: Weight = -100.0


class Safe(Value):
    """What a port does without the link: *hold*, *none* (no pulses) or a *place* in microseconds.
    ``unheard``: the percent it stands at before anything was ever heard."""

    action: Literal["hold", "none", "place"] = "place"
    place_us: Annotated[float, Field(ge=0, le=4000)] = 1500.0
    unheard: Weight = 0.0


class RadioReceiver(Value):
    """The receiver: after so many seconds of silence its failsafe acts, by port. ``stored``: also
    before it has heard the transmitter; ``own_battery``: the flight battery does not feed it."""

    after_s: Time
    ports: dict[Port, Safe]
    stored: bool = True
    own_battery: bool = False


class Radio(Value):
    """A whole transmitter with its receiver, as it is keyed in."""

    frame_s: Annotated[float, Field(gt=0, le=1)]
    centre_us: Annotated[float, Field(ge=500, le=2500)]
    us_per_percent: Annotated[float, Field(gt=0, le=20)]
    hands: Annotated[tuple[Hand, ...], Field(max_length=MOST)]
    levers: Annotated[tuple[Lever, ...], Field(max_length=MOST)] = ()
    rules: Annotated[tuple[Rule, ...], Field(max_length=MOST)] = ()
    modes: Annotated[tuple[Mode, ...], Field(max_length=MOST)] = ()
    shared: Annotated[tuple[Shared, ...], Field(max_length=MOST)] = ()
    commands: Annotated[tuple[Command, ...], Field(max_length=MOST)] = ()
    sums: Annotated[tuple[Sum, ...], Field(max_length=MOST)] = ()
    channels: Annotated[tuple[Channel, ...], Field(max_length=MOST)] = ()
    receiver: RadioReceiver
