"""Proposals for a lost link, channel by channel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hypsos.core.model.document import Model
from hypsos.core.model.words import Part
from hypsos.core.parts.airframe import Airframe, Device, Motor, Surface
from hypsos.core.parts.wiring import Failsafe

IDLE = Failsafe(value=-100.0)
NEUTRAL = Failsafe()


@dataclass(frozen=True)
class Proposal:
    """A set of failsafes: its title, the reason for it, and what it gives each part."""

    title: str
    reason: str
    of: Callable[[Part], Failsafe]
    suits: Callable[[Airframe], bool] = lambda body: True
    """Whether it says anything to an aeroplane."""


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


def _brakes_out(part: Part) -> Failsafe:
    if isinstance(part, Surface) and part.role in BRAKES:
        return Failsafe(value=BRAKES[part.role])
    return _neutral(part)


def _wing_up(part: Part) -> Failsafe:
    if isinstance(part, Surface) and part.role == "elevon":
        return Failsafe(value=-8.0)
    return _neutral(part)


def _roles(*roles: str) -> Callable[[Airframe], bool]:
    return lambda body: bool(body.with_roles(*roles))


def _brakes(body: Airframe) -> bool:
    return bool(body.with_roles("airbrake")) or bool(body.with_roles("flap") and body.with_roles("aileron"))


BRAKES = {"airbrake": 100.0, "flap": 60.0, "aileron": -30.0}
"""Brakes out: airbrakes open, flaps down with the ailerons up, whichever there are."""
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
        _roles("flap", "flaperon"),
    ),
    Proposal(
        "Stopped, flaps, a gentle turn",
        "As before, with a little rudder: a sailplane circles down instead of flying away.",
        _gentle_turn,
        _roles("rudder", "ruddervator"),
    ),
    Proposal(
        "Stopped, brakes out",
        "A sailplane that nobody steers is to come down: airbrakes open, flaps down, ailerons up. It sinks fast; try it high.",
        _brakes_out,
        _brakes,
    ),
    Proposal(
        "Stopped, a little up",
        "A flying wing glides on with its elevons a little up, as it is trimmed; a gust must not put it on its nose.",
        _wing_up,
        _roles("elevon"),
    ),
)


def spare_ports(model: Model) -> tuple[int, ...]:
    """The ports in which nothing is plugged."""
    used = {x.port for x in model.leads} | {model.receiver.power_port}
    return tuple(n for n in range(1, model.receiver.ports + 1) if n not in used)


def proposed(model: Model, proposal: Proposal) -> Model:
    """The model with a proposal on every lead."""
    parts = {p.name: p for p in model.airframe.moved()}
    leads = tuple(x.changed({"failsafe": proposal.of(parts[x.target])}) for x in model.leads)
    return model.changed({"leads": leads})
