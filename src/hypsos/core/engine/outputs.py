"""From sums to pulses and surfaces, channel by channel.

Guard, limits, slow, direction, travel, centre, stops, the receiver with its failsafe, servo speed, linkage.
"""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.airframe import Device, Motor, Surface
from hypsos.core.document import Model
from hypsos.core.engine.memory import Memory, held, slow
from hypsos.core.engine.motion import Motion
from hypsos.core.engine.result import Contribution, Kind
from hypsos.core.lanes import ARRAYS, Lane, Signal
from hypsos.core.wiring import Failsafe, Lead

IDLE = -100.0
SUM_LIMIT = 150.0


def servo_percent(demand: Signal, lead: Lead, lane: Lane = ARRAYS) -> tuple[Signal, Signal, Signal]:
    """A demand in percent through direction, travel, centre and stops of one lead.

    Returns three signals in percent of the output: after direction and travel, with the centre, and after the stops.
    """
    p = lead.direction * demand
    moved = p * lane.where(p < 0, lead.travel_neg, lead.travel_pos) / 100.0
    centred = lead.centre + moved
    return moved, centred, lane.clip(centred, lead.stop_neg, lead.stop_pos)


class Reception(NamedTuple):
    """What reaches the receiver over a run. ``lost``: for longer than the failsafe waits."""

    connected: Signal
    lost: Signal
    power: Signal
    all_arrives: bool


class Channel(NamedTuple):
    """One channel over the run; see :class:`~hypsos.core.engine.result.OutputTrace`."""

    pct: Signal
    us: Signal
    stand: Signal
    cut: Signal
    at_stop: Signal
    failsafe: Signal
    moving: bool
    deg: Signal | None
    mm: Signal | None


class Output:
    """One lead with the part it moves, made ready."""

    def __init__(self, model: Model, index: int) -> None:
        self.index = index
        self.lead: Lead = model.leads[index]
        part: Surface | Motor | Device = next(p for p in model.airframe.moved() if p.name == self.lead.target)
        self.motor = isinstance(part, Motor)
        self.rest = IDLE if self.motor else 0.0
        self.motion = Motion(self.lead, part)
        self._tx = (model.transmitter.centre_us, model.transmitter.us_per_percent)
        safe = self.lead.failsafe or Failsafe(value=self.rest)
        self._action = safe.action
        preset = safe.value if safe.action == "preset" else self.rest
        self._fallback = float(servo_percent(max(preset, IDLE) if self.motor else preset, self.lead)[2])
        self._keys = tuple(f"{what}.{index}" for what in ("slow", "held", "servo"))

    def run(
        self, total: Signal, released: Signal, received: Reception, frame_s: float, memory: Memory,
        parts: list[Contribution] | None,
    ) -> Channel:  # fmt: skip
        """Everything behind the sum; contributions are appended to ``parts`` where they are asked for."""
        lane, lead = memory.lane, self.lead
        slow_key, held_key, servo_key = self._keys
        demand = lane.where(released, total, IDLE) if self.motor else total
        clipped = lane.clip(demand, IDLE if self.motor else -SUM_LIMIT, SUM_LIMIT)
        slowed = slow(clipped, lead.slow_up_s, lead.slow_down_s, frame_s, memory, slow_key)
        if self.motor and slowed is not clipped:
            slowed = lane.where(released, slowed, IDLE)
        moved, centred, stopped = servo_percent(slowed, lead, lane)
        got, pulses, acting = self._receive(stopped, received, memory, held_key)
        turned = slow(got, lead.servo_s, lead.servo_s, frame_s, memory, servo_key)
        busy = slowed is not clipped and not lane.never(lane.differs(slowed, clipped))
        busy = busy or (turned is not got and not lane.never(lane.differs(turned, got)))
        direction = lead.direction
        if lead.port is None:
            stand, pct = got * 0.0 + self.rest, got * 0.0 + direction * self.rest
            us = got * 0.0
        else:
            centre_us, slope = self._tx
            stand, pct = direction * turned, got
            us = centre_us + slope * pct
            if pulses is not None:
                us = lane.where(pulses, us, 0.0)
        if parts is not None:
            stages = (total, demand, clipped, slowed, direction * moved, direction * centred, direction * stopped,
                      direction * got, direction * turned, stand)  # fmt: skip
            self._explain(parts, stages, lane)
        at_stop = (centred != stopped) & lane.not_(acting)
        deg, mm = self.motion.angles(stand, lane)
        return Channel(pct, us, stand, demand - clipped, at_stop, acting, bool(busy), deg, mm)

    def _receive(self, sent: Signal, received: Reception, memory: Memory, key: str) -> tuple[Signal, Signal, Signal]:
        """What the receiver makes of it: the last frame it had, then the failsafe. Also: pulses at all (None: always),
        failsafe acting."""
        lane, power = memory.lane, received.power
        if received.all_arrives:  # the usual case, told apart for speed
            memory.after[key] = (lane.end(sent), True)
            return sent, None, received.lost
        last, known = held(sent, received.connected, memory, key)
        acting = received.lost & power
        silent = self._action == "no pulses"
        falls_back = lane.not_(known)
        if self._action == "preset" or (silent and self.motor):
            falls_back = falls_back | acting
        pulses = power & (received.connected | known | acting)
        if silent:
            pulses = pulses & lane.not_(acting)
        return lane.where(falls_back, self._fallback, last), pulses, acting

    def _explain(self, parts: list[Contribution], stages: tuple[Signal, ...], lane: Lane) -> None:
        path = f"leads[{self.index}]"
        steps: tuple[tuple[str, Kind, str], ...] = (
            ("Guard holds the motor at idle", "guard", "program.guard"),
            ("Cut off beyond the limit", "cut-off", ""),
            ("Still on its way", "slow", f"{path}.slow_up_s"),
            ("Travel", "travel", f"{path}.travel_pos"),
            ("Centre", "centre", f"{path}.centre"),
            ("End stop", "stop", f"{path}.stop_pos"),
            ("Link lost", "link", f"{path}.failsafe"),
            ("Servo still on its way", "slow", f"{path}.servo_s"),
            ("Lead not plugged in", "link", f"{path}.port"),
        )
        for (label, kind, where), before, after in zip(steps, stages[:-1], stages[1:], strict=True):
            amount = after - before
            if not lane.never(abs(amount) > 1e-12):
                parts.append(Contribution(label, kind, amount, where))


class OutputBank:
    """Every lead of a model with the part it moves."""

    def __init__(self, model: Model) -> None:
        self.outputs = [Output(model, i) for i in range(len(model.leads))]
        self._first = {x.target: i for i, x in reversed(list(enumerate(model.leads)))}

    def run(
        self, signals: dict[str, Signal], released: Signal, received: Reception, frame_s: float, memory: Memory,
        why: dict[str, list[Contribution]],
    ) -> list[Channel]:  # fmt: skip
        """Everything behind the sums; contributions are appended to ``why`` for the parts that it names."""
        out = []
        for output in self.outputs:
            target = output.lead.target
            total = signals.get(target)
            if total is None:
                total = signals["full"] * 0.0
            parts = why.get(target) if self._first[target] == output.index else None
            out.append(output.run(total, released, received, frame_s, memory, parts))
        return out
