# SPDX-License-Identifier: GPL-3.0-or-later
"""What the templates share: a model on a body, with everything its parts usually do."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.program import USUAL_LEVEL, USUAL_RELOCK_S, Guard, Program
from hypsos.core.parts.airframe import Airframe
from hypsos.core.parts.leads import Receiver
from hypsos.core.parts.transmitter import Control, Transmitter
from hypsos.core.shape.adapt_model import ARM, FLAPS, RATES, adapted, usual_axes


def transmitter(*extra: Control) -> Transmitter:
    """The usual hands with these controls besides."""
    return Transmitter(label="Club transmitter", controls=(ARM, FLAPS, RATES, *extra))


def guard() -> Guard:
    """Cut on the motor switch, armed only with the stick low and rested, locked again by a long
    loss of the link."""
    return Guard(level=USUAL_LEVEL, switch=ARM.name, relock_s=USUAL_RELOCK_S)


def usual(name: str, body: Airframe, note: str = "", ports: int = 8) -> Model:
    """A model on this body, nothing plugged in yet, with what its parts usually do."""
    bare = body.changed({"surfaces": (), "motors": (), "devices": ()})
    hands = Transmitter(label="Club transmitter", controls=(RATES,))
    empty = Model(
        name=name,
        note=note,
        airframe=bare,
        transmitter=hands,
        receiver=Receiver(ports=ports),
        program=Program(axes=usual_axes()),
    )
    return adapted(empty, body).model
