"""From sums to pulses and surfaces, all channels at once.

Guard, limits, slow, direction, travel, centre, stops, the receiver with its failsafe, servo speed, linkage.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hypsos.core.airframe import Device, Motor, Surface
from hypsos.core.document import Model
from hypsos.core.engine.memory import Flags, Memory, held, slow, spread_state
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


def _throws(part: Surface | Motor | Device) -> tuple[float, float, float]:
    """Degrees at -100 % and at 100 %, and the chord at the ruler in millimetres."""
    if isinstance(part, Surface):
        return part.throw_up_deg, part.throw_down_deg, part.chord_mm
    return (part.throw_deg, part.throw_deg, 0.0) if isinstance(part, Device) else (0.0, 0.0, 0.0)


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
        self._slows = np.array([[x.slow_up_s for x in model.leads], [x.slow_down_s for x in model.leads]], float)
        self._servos = np.array([[x.servo_s for x in model.leads]] * 2, float)
        self._ruled = [isinstance(p, Surface) for p in self.parts]
        throws = [_throws(p) for p in self.parts]
        self._throws = [np.array([t[k] for t in throws], float) for k in range(3)]

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
        busy = (slowed != clipped)[..., -1] | (turned != received)[..., -1]
        busy = busy.reshape(len(self.leads), -1).any(axis=1)
        cut = demand - clipped
        deg, mm = self._surfaces(stand, spread)
        out = {}
        for i, lead in enumerate(self.leads):
            angle = None if self._motor[i] else deg[i]
            out[lead.name] = OutputTrace(
                pct[i], us[i], stand[i], cut[i], at_stop[i], acting, bool(busy[i]) or lead.target in moving, angle,
                mm[i] if self._ruled[i] else None,
            )  # fmt: skip
        return out

    def _slow(self, x: Array, what: str, memory: Memory, frame_s: float, demand: bool) -> Array:
        rates = self._slows if demand else self._servos
        if not rates.any():
            return x
        if x.shape[-1] == 1 and not memory.instant:
            last = memory.before.get(what)
            if last is not None:
                with np.errstate(divide="ignore"):
                    up, down = np.where(rates > 0, 100.0 * frame_s / rates, np.inf)
                spread = (len(self.leads), *(1,) * (x.ndim - 1))
                y = spread_state(last, x.shape[:-1])[..., None]
                x = np.minimum(np.maximum(x, y - down.reshape(spread)), y + up.reshape(spread))
            memory.after[what] = x[..., -1]
            return x
        out = x.copy()
        last = memory.before.get(what)
        last = None if last is None else spread_state(last, x.shape[:-1])
        for i in np.flatnonzero(rates.any(axis=0)):
            own = Memory(before={} if last is None else {"x": last[i]}, instant=memory.instant)
            out[i] = slow(x[i], rates[0, i], rates[1, i], frame_s, own, "x")
            memory.pending |= own.pending
        memory.after[what] = out[..., -1].copy()
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

    def _surfaces(self, stand: Array, spread: tuple[int, ...]) -> tuple[Array, Array]:
        """Degrees and millimetres of every channel; those of a motor mean nothing."""
        up, down, chord = (x.reshape(spread) for x in self._throws)
        deg = np.where(stand < 0, up, down) * stand / 100.0
        for i, lead in enumerate(self.leads):
            if lead.linkage is not None:
                deg[i] = deflection(lead.linkage, lead.linkage.servo_deg * stand[i] / 100.0)
        return deg, ruler_mm(deg, chord)
