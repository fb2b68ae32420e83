# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by behaviour."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.base.values import Label, Line, Name, Value
from hypsos.core.schools.figures import Bend
from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.parts import MOST, Command, Names, Port, Ref, Time, Weight

Places = Annotated[tuple[Ref, ...], Field(max_length=12)]
"""Positions of switches (``flap_switch@2``); one of them is enough. None: always."""
BehaviourKind = Literal[
    "ailerons", "elevator", "rudder", "throttle", "flaps", "camber", "brakes",
    "ailerons to flaps", "snap flap", "aileron to rudder", "steering",
]  # fmt: skip


class Slot(Value):
    """What a behaviour gives to one part: shares of its side above zero and of that below, or a
    curve; at some positions or in some modes, where any are named."""

    part: Name
    above: Weight = 100.0
    below: Weight = 100.0
    bend: Bend | None = None
    places: Places = ()
    modes: Names = ()


class ValueAt(Value):
    """A value of a behaviour at positions or in modes, in percent."""

    value: Weight = 100.0
    places: Places = ()
    modes: Names = ()


class ReadyBehaviour(Value):
    """A ready behaviour.

    The hand or command ``master``, with its trim or without, is bent by a curve and weighted by the
    first of its ``values`` that holds at the switch's position or in the mode (none named: 100 %);
    it moves in no less than so many seconds for 100 %; and goes to the parts of its ``slots``."""

    kind: BehaviourKind
    label: Label = "Behaviour"
    master: Name
    trim: bool = True
    bend: Bend | None = None
    values: Annotated[tuple[ValueAt, ...], Field(max_length=40)] = ()
    time_in: Time = 0.0
    time_out: Time = 0.0
    slots: Annotated[tuple[Slot, ...], Field(max_length=100)] = ()


class OwnMix(Value):
    """A mix of the pilot's own: one master, one follower, a rate for either side of the pivot, or a
    curve; at positions of one switch or in modes; with the master's trim or without."""

    label: Label = "Mix"
    master: Name
    follower: Name
    trim: bool = True
    bend: Bend | None = None
    above: Weight = 100.0
    below: Weight = 100.0
    places: Places = ()
    modes: Names = ()


class OneCut(Value):
    """The one cut: an output that stands at a value while the switch is at one of its
    positions."""

    port: Port
    places: Annotated[tuple[Ref, ...], Field(min_length=1, max_length=6)]


class ModeAt(Value):
    """A flight mode: flown where all of its switches stand so, the first in the list before the
    others; the last has none."""

    name: Name
    label: Line = ""
    places: Places = ()


class BehaviourSettings(Settings):
    """Settings by behaviour.

    ``axes``: rates and expo by the positions of one switch, or by mode. ``behaviours``: each kind
    once. ``cut``: of one output."""

    school: Literal["by behaviour"] = "by behaviour"
    wing: Line = ""
    tail: Line = ""
    axes: Annotated[tuple[Command, ...], Field(max_length=8)] = ()
    modes: Annotated[tuple[ModeAt, ...], Field(max_length=MOST)] = ()
    behaviours: Annotated[tuple[ReadyBehaviour, ...], Field(max_length=MOST)] = ()
    mixes: Annotated[tuple[OwnMix, ...], Field(max_length=MOST)] = ()
    cut: OneCut | None = None
