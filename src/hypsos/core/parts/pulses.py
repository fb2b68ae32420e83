"""What an output makes of a demand, and the pulse at which a motor's controller is off."""

from __future__ import annotations

from hypsos.core.ground.lanes import ARRAYS, FRAME, Lane, Signal
from hypsos.core.parts.transmitter import Transmitter
from hypsos.core.parts.wiring import Lead

IDLE = -100.0
"""A motor's demand at idle."""


def servo_percent(demand: Signal, lead: Lead, lane: Lane = ARRAYS) -> tuple[Signal, Signal, Signal]:
    """A demand in percent through direction, travel, centre and stops of one lead.

    Returns three signals in percent of the output: after direction and travel, with the centre, and after the stops.
    """
    p = lead.direction * demand
    moved = p * lane.where(p < 0, lead.travel_neg, lead.travel_pos) / 100.0
    centred = lead.centre + moved
    return moved, centred, lane.clip(centred, lead.stop_neg, lead.stop_pos)


def idle_percent(lead: Lead, transmitter: Transmitter) -> float:
    """The pulse at which a motor's controller is off, in percent of the output."""
    return (lead.idle_us - transmitter.centre_us) / transmitter.us_per_percent


def idle_fits(lead: Lead, transmitter: Transmitter) -> bool:
    """Whether a motor's lead sends its idle pulse for idle, whatever its direction, centre, travel and stops."""
    sent = float(servo_percent(IDLE, lead, FRAME)[2])
    return abs(sent - idle_percent(lead, transmitter)) * transmitter.us_per_percent < 0.5
