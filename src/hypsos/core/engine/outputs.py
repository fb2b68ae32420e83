"""From sums to pulses and surfaces, all channels at once.

Guard, limits, slow, direction, travel, centre, stops, the receiver with its failsafe, servo speed, linkage.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hypsos.core.airframe import Device, Motor, Surface
from hypsos.core.document import Model
from hypsos.core.engine.memory import Flags, Memory, held, slow
from hypsos.core.engine.result import Contribution, Kind, OutputTrace
from hypsos.core.engine.shaping import ruler_mm
from hypsos.core.linkage import deflection
from hypsos.core.wiring import Failsafe, Lead

Array = NDArray[np.float64]
IDLE = -100.0
SUM_LIMIT = 150.0


def servo_percent(demand: Array, lead: Lead) -> tuple[Array, Array, Array]:
    """A demand in percent through direction, travel, centre and stops of one lead.

    Returns three arrays in percent of the output: after direction and travel, with the centre, and after the stops.
    """
    return _servo_percent(
        demand, lead.direction, lead.travel_neg, lead.travel_pos, lead.centre, lead.stop_neg, lead.stop_pos
    )


def _servo_percent(
    demand: Array,
    direction: Array | float,
    travel_neg: Array | float,
    travel_pos: Array | float,
    centre: Array | float,
    stop_neg: Array | float,
    stop_pos: Array | float,
) -> tuple[Array, Array, Array]:
    p = direction * demand
    moved = p * np.where(p < 0, travel_neg, travel_pos) / 100.0
    centred = centre + moved
    return moved, centred, np.minimum(np.maximum(centred, stop_neg), stop_pos)


class OutputBank:
    """Every lead of a model with the part it moves. Arrays inside have channels first, then the run's shape."""

    def __init__(self, model: Model) -> None:
        parts: dict[str, Surface | Motor | Device] = {p.name: p for p in model.airframe.moved()}
        self.leads = model.leads
        self.parts = [parts[x.target] for x in model.leads]
        self.names = tuple(x.name for x in model.leads)
        self._motor = [isinstance(p, Motor) for p in self.parts]
        self._first = {x.target: i for i, x in reversed(list(enumerate(model.leads)))}
        self._safe = [
            x.failsafe or Failsafe(value=IDLE if m else 0.0) for x, m in zip(model.leads, self._motor, strict=True)
        ]
        self._tx = (model.transmitter.centre_us, model.transmitter.us_per_percent)
        fields = ("direction", "travel_neg", "travel_pos", "centre", "stop_neg", "stop_pos")
        self._fields = [np.array([getattr(x, f) for x in model.leads], float) for f in fields]
        preset = [
            max(s.value, IDLE) if m else s.value if s.action == "preset" else 0.0
            for s, m in zip(self._safe, self._motor, strict=True)
        ]
        preset = [
            IDLE if m and s.action != "preset" else p for p, s, m in zip(preset, self._safe, self._motor, strict=True)
        ]
        self._fallback = _servo_percent(np.array(preset), *self._fields)[2]
        self._plugged = np.array([x.port is not None for x in model.leads], bool)
        self._rest = np.array([IDLE if m else 0.0 for m in self._motor])

    def run(
        self,
        sums: dict[str, Array],
        released: Flags,
        connected: Flags,
        lost: Flags,
        power: Flags,
        frame_s: float,
        memory: Memory,
        why: dict[str, list[Contribution]],
        moving: set[str],
    ) -> dict[str, OutputTrace]:
        """Everything behind the sums; contributions are appended to ``why`` for the parts that it names."""
        if not self.leads:
            return {}
        shape = connected.shape
        none = np.zeros(shape)
        total = np.stack([sums.get(x.target, none) for x in self.leads])
        spread = (len(self.leads), *(1,) * len(shape))
        direction, *fields = (f.reshape(spread) for f in self._fields)
        motor = np.array(self._motor).reshape(spread)
        held_back = motor & ~released
        demand = np.where(held_back, IDLE, total)
        clipped = np.minimum(np.maximum(demand, np.where(motor, IDLE, -SUM_LIMIT)), SUM_LIMIT)
        slowed = self._slow(clipped, "slow", memory, frame_s, demand=True)
        if slowed is not clipped:
            slowed = np.where(held_back, IDLE, slowed)
        moved, centred, stopped = _servo_percent(slowed, direction, *fields)
        received, pulses, acting = self._receive(stopped, connected, lost, power, memory)
        turned = self._slow(received, "servo", memory, frame_s, demand=False)
        plugged = self._plugged.reshape(spread)
        rest = self._rest.reshape(spread)
        stand = np.where(plugged, direction * turned, rest)
        pct = np.where(plugged, received, direction * rest)
        centre_us, slope = self._tx
        us = np.where(pulses & plugged, centre_us + slope * pct, 0.0)
        at_stop = (centred != stopped) & ~acting
        stages = {
            "total": total, "demand": demand, "clipped": clipped, "slowed": slowed, "moved": direction * moved,
            "centred": direction * centred, "stopped": direction * stopped, "received": direction * received,
            "turned": direction * turned, "stand": stand,
        }  # fmt: skip
        for target, parts in why.items():
            if target in self._first:
                self._explain(parts, self._first[target], stages)
        out = {}
        for i, lead in enumerate(self.leads):
            deg, mm = self._surface(i, stand[i])
            busy = lead.target in moving or bool(np.any(np.abs(slowed[i, ..., -1] - clipped[i, ..., -1]) > 1e-9))
            busy = busy or bool(np.any(np.abs(turned[i, ..., -1] - received[i, ..., -1]) > 1e-9))
            cut = demand[i] - clipped[i]
            out[lead.name] = OutputTrace(pct[i], us[i], stand[i], cut, at_stop[i], acting, busy, deg, mm)
        return out

    def _slow(self, x: Array, what: str, memory: Memory, frame_s: float, demand: bool) -> Array:
        out = x
        for i, lead in enumerate(self.leads):
            up, down = (lead.slow_up_s, lead.slow_down_s) if demand else (lead.servo_s, lead.servo_s)
            if up or down:
                out = out.copy() if out is x else out
                out[i] = slow(x[i], up, down, frame_s, memory, f"{lead.name}.{what}")
        return out

    def _receive(
        self, sent: Array, connected: Flags, lost: Flags, power: Flags, memory: Memory
    ) -> tuple[Array, Flags, Flags]:
        """What the receiver makes of it: the last frame it had, then the failsafe. Also: pulses at all, failsafe acting."""
        if bool(connected.all()):  # the usual case, told apart for speed: everything sent arrives
            memory.after["held"] = (sent[..., -1].copy(), np.ones(sent.shape[:-1], bool))
            return sent, power, lost
        spread = (len(self.leads), *(1,) * connected.ndim)
        last, known = held(sent, connected, memory, "held")
        acting = lost & power
        fallback = np.broadcast_to(self._fallback.reshape(spread), sent.shape)
        actions = np.array([s.action for s in self._safe]).reshape(spread)
        motor = np.array(self._motor).reshape(spread)
        to_fallback = acting & ((actions == "preset") | ((actions == "no pulses") & motor))
        q = np.where(to_fallback | ~known, fallback, last)
        pulses = power & (connected | known | acting) & ~(acting & (actions == "no pulses"))
        return q, pulses, acting

    def _explain(self, parts: list[Contribution], i: int, stages: dict[str, Array]) -> None:
        path = f"leads[{i}]"
        steps: tuple[tuple[str, Kind, str, str, str], ...] = (
            ("Guard holds the motor at idle", "guard", "total", "demand", "program.guard"),
            ("Cut off beyond the limit", "cut-off", "demand", "clipped", ""),
            ("Still on its way", "slow", "clipped", "slowed", f"{path}.slow_up_s"),
            ("Travel", "travel", "slowed", "moved", f"{path}.travel_pos"),
            ("Centre", "centre", "moved", "centred", f"{path}.centre"),
            ("End stop", "stop", "centred", "stopped", f"{path}.stop_pos"),
            ("Link lost", "link", "stopped", "received", f"{path}.failsafe"),
            ("Servo still on its way", "slow", "received", "turned", f"{path}.servo_s"),
            ("Lead not plugged in", "link", "turned", "stand", f"{path}.port"),
        )
        for label, kind, a, b, where in steps:
            amount = stages[b][i] - stages[a][i]
            if np.any(np.abs(amount) > 1e-12):
                parts.append(Contribution(label, kind, amount, where))

    def _surface(self, i: int, stand: Array) -> tuple[Array | None, Array | None]:
        part, lead = self.parts[i], self.leads[i]
        if isinstance(part, Motor):
            return None, None
        if isinstance(part, Device):
            return part.throw_deg * stand / 100.0, None
        if lead.linkage is not None:
            deg = deflection(lead.linkage, lead.linkage.servo_deg * stand / 100.0)
        else:
            deg = np.where(stand < 0, part.throw_up_deg, part.throw_down_deg) * stand / 100.0
        return deg, ruler_mm(deg, part.chord_mm)
