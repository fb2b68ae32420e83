# SPDX-License-Identifier: GPL-3.0-or-later
"""What an output makes of a demand, and the pulse at which a motor's controller is off."""

from __future__ import annotations

from functools import lru_cache

from hypsos.core.base.backends import ARRAYS, FRAME, Backend, Signal
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.transmitter import Transmitter

IDLE = -100.0
"""A motor's demand at idle."""


class OutputCurve:
    """The curve of an output, both ways. Beyond its ends it goes on percent for percent, so nothing
    is lost to it."""

    def __init__(self, response: Response) -> None:
        self._curve = Curve(response.points, response.shape)
        self.places = tuple(self._curve.xs)

    def __call__(self, demand: Signal, backend: Backend) -> Signal:
        """What a demand in percent becomes."""
        low, high = self.places[0], self.places[-1]
        inside = backend.clip(demand, low, high)
        return self._curve(inside) + (demand - inside)

    def back(self, value: float) -> float:
        """The demand in percent that becomes ``value``."""
        ys = self._curve.ys
        if value <= ys[0]:
            return self.places[0] + (value - ys[0])
        if value >= ys[-1]:
            return self.places[-1] + (value - ys[-1])
        low, high = self.places[0], self.places[-1]
        for _ in range(60):  # it rises all the way, so halving finds the place
            middle = (low + high) / 2
            low, high = (middle, high) if float(self._curve(middle)) < value else (low, middle)
        return (low + high) / 2


@lru_cache(maxsize=512)
def output_curve(response: Response) -> OutputCurve:
    """The curve of an output made ready."""
    return OutputCurve(response)


def bent(demand: Signal, lead: Lead, backend: Backend = ARRAYS) -> Signal:
    """A demand in percent behind the curve of its output."""
    return demand if lead.curve is None else output_curve(lead.curve)(demand, backend)


def demand_of(percent: float, lead: Lead) -> float | None:
    """The demand for which a lead's output stands at so many percent, before its stops; None
    without travel to that side. The way back of :func:`servo_percent`."""
    way = percent - lead.centre
    travel = lead.travel_neg if way < 0 else lead.travel_pos
    if travel == 0:
        return None
    value = 100.0 * lead.direction * way / travel
    return value if lead.curve is None else output_curve(lead.curve).back(value)


def servo_percent(
    demand: Signal, lead: Lead, backend: Backend = ARRAYS
) -> tuple[Signal, Signal, Signal]:
    """A demand in percent through the curve, direction, travel, centre and stops of one lead.

    Returns three signals in percent of the output: after direction and travel, with the centre, and
    after the stops."""
    p = lead.direction * bent(demand, lead, backend)
    moved = p * backend.where(p < 0, lead.travel_neg, lead.travel_pos) / 100.0
    centred = lead.centre + moved
    return moved, centred, backend.clip(centred, lead.stop_neg, lead.stop_pos)


def idle_percent(lead: Lead, transmitter: Transmitter) -> float:
    """The pulse at which a motor's controller is off, in percent of the output."""
    return (lead.idle_us - transmitter.centre_us) / transmitter.us_per_percent


def idle_fits(lead: Lead, transmitter: Transmitter) -> bool:
    """Whether a motor's lead sends its idle pulse for idle, whatever its direction, centre, travel
    and stops."""
    sent = float(servo_percent(IDLE, lead, FRAME)[2])
    return abs(sent - idle_percent(lead, transmitter)) * transmitter.us_per_percent < 0.5
