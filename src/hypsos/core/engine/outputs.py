"""From a sum to a pulse, and from there to the surface: guard, limits, slow, direction, centre, travel, stops, failsafe."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hypsos.core.airframe import Device, Motor, Surface
from hypsos.core.document import Model
from hypsos.core.engine.memory import Flags, Memory, held, slow
from hypsos.core.engine.result import Contribution, OutputTrace
from hypsos.core.engine.shaping import ruler_mm
from hypsos.core.wiring import Failsafe, Lead

Array = NDArray[np.float64]
IDLE = -100.0
SUM_LIMIT = 150.0


def servo_percent(demand: Array, lead: Lead) -> tuple[Array, Array, Array]:
    """A demand in percent through direction, travel, centre and stops.

    Returns three arrays in percent of the output: after direction and travel, with the centre, and after the stops.
    """
    p = lead.direction * demand
    moved = p * np.where(p < 0, lead.travel_neg, lead.travel_pos) / 100.0
    centred = lead.centre + moved
    return moved, centred, np.clip(centred, lead.stop_neg, lead.stop_pos)


@dataclass(frozen=True)
class OutputStage:
    """One lead with the part it moves."""

    name: str
    target: str
    lead: Lead
    path: str
    part: Surface | Motor | Device
    centre_us: float
    us_per_percent: float

    @property
    def is_motor(self) -> bool:
        return isinstance(self.part, Motor)

    def failsafe(self) -> Failsafe:
        """What was chosen, or the default: a motor at idle, everything else neutral."""
        return self.lead.failsafe or Failsafe(value=IDLE if self.is_motor else 0.0)

    def run(
        self,
        total: Array,
        released: Flags,
        connected: Flags,
        lost: Flags,
        power: Flags,
        frame_s: float,
        memory: Memory,
        parts: list[Contribution] | None,
        moving: bool = False,
    ) -> OutputTrace:
        """Everything behind the sum, frame by frame; the contributions go into ``parts`` when it is a list."""
        lead = self.lead
        demand = total
        if self.is_motor:
            demand = np.where(released, total, IDLE)
            _note(parts, "Guard holds the motor at idle", "guard", demand - total, "program.guard")
        clipped = np.clip(demand, IDLE if self.is_motor else -SUM_LIMIT, SUM_LIMIT)
        cut = demand - clipped
        _note(parts, "Cut off beyond the limit", "cut-off", -cut, "")
        slowed = slow(clipped, lead.slow_up_s, lead.slow_down_s, frame_s, memory, f"{self.name}.slow")
        if self.is_motor:
            slowed = np.where(released, slowed, IDLE)
        _note(parts, "Still on its way", "slow", slowed - clipped, f"{self.path}.slow_up_s")
        moved, centred, stopped = servo_percent(slowed, lead)
        sense = float(lead.direction)
        _note(parts, "Travel", "travel", sense * moved - slowed, f"{self.path}.travel_pos")
        _note(parts, "Centre", "centre", sense * (centred - moved), f"{self.path}.centre")
        _note(parts, "End stop", "stop", sense * (stopped - centred), f"{self.path}.stop_pos")
        q, pulses, safe = self._receive(stopped, connected, lost, power, memory)
        _note(parts, "Link lost", "link", sense * (q - stopped), f"{self.path}.failsafe")
        stand = sense * q
        at_stop = (np.abs(stopped - centred) > 1e-9) & ~safe
        if lead.port is None:
            rest = np.full_like(stand, IDLE if self.is_motor else 0.0)
            _note(parts, "Lead not plugged in", "link", rest - stand, f"{self.path}.port")
            stand, q, pulses = rest, sense * rest, np.zeros_like(pulses)
        us = np.where(pulses, self.centre_us + self.us_per_percent * q, 0.0)
        deg, mm = self._surface(stand)
        moving = moving or bool(np.any(np.abs(slowed[..., -1] - clipped[..., -1]) > 1e-9))
        return OutputTrace(q, us, stand, cut, at_stop, safe, moving, deg, mm)

    def _receive(
        self, sent: Array, connected: Flags, lost: Flags, power: Flags, memory: Memory
    ) -> tuple[Array, Flags, Flags]:
        """What the receiver makes of it: the last frame it had, then the failsafe. Also: pulses at all, failsafe acting."""
        if bool(connected.all()):  # the usual case, told apart for speed: everything sent arrives
            memory.after[f"{self.name}.held"] = (sent[..., -1].copy(), np.True_)
            return sent, power, lost
        shape = np.broadcast_shapes(sent.shape, connected.shape)
        sent = np.broadcast_to(sent, shape)
        connected = np.broadcast_to(connected, shape)
        last, known = held(sent, connected, memory, f"{self.name}.held")
        safe = self.failsafe()
        preset = IDLE if self.is_motor else 0.0
        if safe.action == "preset":
            preset = max(safe.value, IDLE) if self.is_motor else safe.value
        fallback = servo_percent(np.full(shape, preset), self.lead)[2]
        acting = np.broadcast_to(lost, shape) & np.broadcast_to(power, shape)
        q = np.where(known, last, fallback)
        if safe.action == "preset":
            q = np.where(acting, fallback, q)
        pulses = np.broadcast_to(power, shape) & (connected | known | acting)
        if safe.action == "no pulses":
            pulses = pulses & ~acting
            if self.is_motor:
                q = np.where(acting, fallback, q)
        return q, pulses, acting

    def _surface(self, stand: Array) -> tuple[Array | None, Array | None]:
        part = self.part
        if isinstance(part, Motor):
            return None, None
        if isinstance(part, Device):
            return part.throw_deg * stand / 100.0, None
        deg = np.where(stand < 0, part.throw_up_deg, part.throw_down_deg) * stand / 100.0
        return deg, ruler_mm(deg, part.chord_mm)


def output_stages(model: Model) -> list[OutputStage]:
    """One stage for each lead, in the document's order."""
    parts = {p.name: p for p in model.airframe.moved()}
    tx = model.transmitter
    return [
        OutputStage(x.name, x.target, x, f"leads[{i}]", parts[x.target], tx.centre_us, tx.us_per_percent)
        for i, x in enumerate(model.leads)
    ]


def _note(parts: list[Contribution] | None, label: str, kind: str, amount: Array, path: str) -> None:
    if parts is not None and np.any(np.abs(amount) > 1e-12):
        parts.append(Contribution(label, kind, amount, path))  # type: ignore[arg-type]
