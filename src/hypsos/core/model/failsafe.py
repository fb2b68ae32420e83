"""Proposals for a lost link, channel by channel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hypsos.core.model.document import Model
from hypsos.core.model.words import Part
from hypsos.core.parts.airframe import Device, Motor, Surface
from hypsos.core.parts.wiring import Failsafe

IDLE = Failsafe(value=-100.0)
NEUTRAL = Failsafe()


@dataclass(frozen=True)
class Proposal:
    """A set of failsafes: its title, the reason for it, and what it gives each part."""

    title: str
    reason: str
    of: Callable[[Part], Failsafe]


def usual_failsafe(part: Part) -> Failsafe:
    """What a channel does without the link where nobody has said anything: motors stopped, the rest neutral."""
    return IDLE if isinstance(part, Motor) else NEUTRAL


def _neutral(part: Part) -> Failsafe:
    if isinstance(part, Device) and part.kind == "tow release":
        return Failsafe(value=100.0)
    return usual_failsafe(part)


def _flaps_down(part: Part) -> Failsafe:
    if isinstance(part, Surface) and part.role in ("flap", "flaperon"):
        return Failsafe(value=35.0)
    return _neutral(part)


def _gentle_turn(part: Part) -> Failsafe:
    if isinstance(part, Surface) and part.role in ("rudder", "ruddervator"):
        return Failsafe(value=12.0 if part.side != "left" else -12.0)
    return _flaps_down(part)


PROPOSALS = (
    Proposal(
        "Stopped and neutral",
        "Motors stopped, surfaces neutral, a tow line let go. The default: it glides on and comes down near.",
        _neutral,
    ),
    Proposal(
        "Stopped, flaps part down",
        "As before, with a third of the flap: slower and steeper. Try it in the air on purpose first.",
        _flaps_down,
    ),
    Proposal(
        "Stopped, flaps, a gentle turn",
        "As before, with a little rudder: a sailplane circles down instead of flying away.",
        _gentle_turn,
    ),
)


def proposed(model: Model, proposal: Proposal) -> Model:
    """The model with a proposal on every lead."""
    parts = {p.name: p for p in model.airframe.moved()}
    leads = tuple(x.changed({"failsafe": proposal.of(parts[x.target])}) for x in model.leads)
    return model.changed({"leads": leads})
