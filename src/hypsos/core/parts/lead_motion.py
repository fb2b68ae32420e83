# SPDX-License-Identifier: GPL-3.0-or-later
"""What a lead makes of its part: percent, degrees and millimetres as one thing, both ways."""

from __future__ import annotations

import math

import numpy as np

from hypsos.core.base.backends import ARRAYS, FRAME, Backend, Signal
from hypsos.core.base.errors import HypsosError
from hypsos.core.parts.airframe import Device, Motor, Surface
from hypsos.core.parts.curves import Curve, ruler_mm
from hypsos.core.parts.four_bar import servo_turn, solvers
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import demand_of, output_curve, servo_percent

RANGE, FINE = 150.0, 301
"""The demand that an output can take, to both sides; so many places of it where a linkage or a
table bends the way."""


class Motion:
    """Where a part stands for a stand in percent of its own sense (+ is down, right, open).

    By what was measured where there is a table, else through the linkage, else straight to the
    part's throws."""

    def __init__(self, lead: Lead, part: Surface | Motor | Device) -> None:
        self.lead, self.part = lead, part
        self.motor = isinstance(part, Motor)
        self.chord = part.chord_mm if isinstance(part, Surface) else None
        self._up = self._down = 0.0
        if isinstance(part, Surface):
            self._up, self._down = part.throw_up_deg, part.throw_down_deg
        elif isinstance(part, Device):
            self._up = self._down = part.throw_deg
        self.link = lead.linkage
        self._measured = Curve(lead.measured) if lead.measured and self.chord else None
        if self.link is not None:
            self._solver = solvers(self.link)[0]
            self._servo = self.link.servo_deg / 100.0
            self._flush = 0.0
            if self.link.flush:
                self._flush = float(self._solver.degrees(self._servo * self.link.flush, FRAME))

    @property
    def source(self) -> str:
        """Where its figures come from: measured, linkage or throws."""
        if self._measured is not None:
            return "measured"
        return "throws" if self.link is None else "linkage"

    def degrees(self, stand: Signal, backend: Backend = FRAME) -> Signal:
        """The angle in degrees; NaN beyond where a linkage binds."""
        if self._measured is not None:
            assert self.chord is not None
            # a ruler at the trailing edge reads the chord of the arc
            return 2.0 * backend.arcsin(self._measured(stand) / (2.0 * self.chord)) * _DEGREES
        if self.link is not None:
            return self._solver.degrees(self._servo * stand, backend) - self._flush
        # the same throw both ways is the usual case, and a straight line
        if self._up == self._down:
            return stand * (self._up / 100.0)
        return backend.where(stand < 0, self._up / 100.0, self._down / 100.0) * stand

    def angles(
        self, stand: Signal, backend: Backend = FRAME
    ) -> tuple[Signal | None, Signal | None]:
        """Degrees and millimetres at the ruler; None for a motor, and for what has no ruler."""
        if self.motor:
            return None, None
        deg = self.degrees(stand, backend)
        return deg, None if self.chord is None else ruler_mm(deg, self.chord, backend)

    def at(self, stand: float) -> tuple[float | None, float | None]:
        """Degrees and millimetres at a single stand; None as in :meth:`angles`."""
        deg, mm = self.angles(stand)
        return None if deg is None else float(deg), None if mm is None else float(mm)

    def percent(self, degrees: float) -> float:
        """The stand in percent that gives an angle. Raises HypsosError when it is out of reach."""
        label = self.part.label.lower()
        if self._measured is not None:
            mm = float(ruler_mm(degrees, self.chord or 0.0))
            if not self._measured.ys[0] <= mm <= self._measured.ys[-1]:
                raise HypsosError(
                    f"{label} was never measured at {abs(mm):.1f} mm",
                    "",
                    "Measure further, or ask for less.",
                )
            return float(np.interp(mm, self._measured.ys, self._measured.xs))
        if self.link is not None:
            # counted from flush by the pilot, from the linkage's own neutral by the servo
            return float(servo_turn(self.link, degrees + self._flush)) / self._servo
        throw = self._up if degrees < 0 else self._down
        return 100.0 * degrees / throw

    def percent_at(self, value: float, unit: str) -> float:
        """The stand in percent for a movement in ``mm`` at the trailing edge or in degrees, + is
        down or right.

        Raises HypsosError when a ruler could never read that much, or the linkage cannot reach it.
        """
        degrees = value
        if unit == "mm":
            chord = self.chord or 0.0
            if abs(value) > 2 * chord:
                text = f"{abs(value):g} mm is more than {self.part.label.lower()} can move"
                raise HypsosError(text, "", f"Its chord is {chord:g} mm.")
            degrees = math.copysign(2 * math.degrees(math.asin(abs(value) / (2 * chord))), value)
        return round(self.percent(degrees), 9)

    def by_angle(self) -> Curve:
        """Degrees, counted from where it stands with nothing, to the demand in percent that turns
        it so far: through the travel and the centre of its output, as far as an output can send or
        it can go."""
        lead, demands = self.lead, np.linspace(-RANGE, RANGE, FINE)
        if self.source == "throws":  # straight but where it goes through its middle
            middle = demand_of(0.0, lead) or 0.0
            bends = [0.0, middle]
            if (
                lead.curve is not None
            ):  # its points, and where it goes through nothing, for there the travel is another
                bent = output_curve(lead.curve)
                bends += [bent.back(0.0), *bent.places]
                bends += demands.tolist() if lead.curve.shape == "smooth" else []
            demands = np.array(
                sorted({min(RANGE, max(-RANGE, x)) for x in (-RANGE, *bends, RANGE)})
            )
        # where it would stand without end stops: those are told elsewhere
        stands = lead.direction * servo_percent(demands, lead, ARRAYS)[1]
        low, high = self.limits() if self.source == "linkage" else (-2 * RANGE, 2 * RANGE)
        inside = (stands >= low) & (stands <= high)
        # degrees are counted from where it stands with nothing asked of it
        neutral = float(self.degrees(float(lead.direction * servo_percent(0.0, lead, FRAME)[1])))
        angles = np.asarray(self.degrees(np.clip(stands, low, high), ARRAYS), float) - neutral
        points = [(0.0, 0.0)]
        there = list(zip(demands[inside].tolist(), angles[inside].tolist(), strict=True))
        # from the middle outwards: an output without travel, or a linkage at its dead point, turns
        # no further
        for demand, angle in there:
            if demand > 0 and angle > points[-1][0] + 1e-9:
                points.append((angle, demand))
        for demand, angle in reversed(there):
            if demand < 0 and angle < points[0][0] - 1e-9:
                points.insert(0, (angle, demand))
        return Curve(points)

    def limits(self) -> tuple[float, float]:
        """The stands in percent, low and high, between which nothing binds, within what an output
        can send."""
        if self.link is None or self._measured is not None:
            return -RANGE, RANGE
        ends = []
        for sign in (-1.0, 1.0):
            # outwards to both sides, until the linkage binds
            stands = sign * np.linspace(0.0, RANGE, 601)
            with np.errstate(invalid="ignore"):
                stuck = np.flatnonzero(~np.isfinite(self.degrees(stands, ARRAYS)))
            ends.append(float(stands[stuck[0] - 1]) if stuck.size else sign * RANGE)
        return ends[0], ends[1]


_DEGREES = 180.0 / math.pi
