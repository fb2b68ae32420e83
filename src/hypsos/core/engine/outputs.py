# SPDX-License-Identifier: GPL-3.0-or-later
"""From sums to pulses and surfaces, channel by channel.

Guard, limits, slow, output curve, direction, travel, centre, stops, the receiver with its failsafe,
servo speed, linkage."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import EPS, FRAME, Backend, Flag, Signal
from hypsos.core.base.memory import CONTROLLER, Memory, held, latch, on_delay, slow
from hypsos.core.dependencies.failsafe_defaults import usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.engine.engine_idle import Idling
from hypsos.core.engine.result import Channel, Contribution, Kind
from hypsos.core.parts.airframe import Device, Motor, Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import IDLE, bent, idle_fits, idle_percent, servo_percent

SUM_LIMIT = 150.0
IDLE_HEARD_S = 1.0
"""For so long a controller that waits for idle hears it before it lets its motor turn."""


class Reception(NamedTuple):
    """What reaches the receiver over a run, and what feeds the motors. ``silent``: for as long as
    the failsafe waits, with power on."""

    t_s: Signal
    connected: Flag
    silent: Flag
    power: Flag
    flight_battery: Flag
    all_arrives: bool


class Demands(NamedTuple):
    """What is asked of the outputs: the sums, where the motors are armed, and how engines idle."""

    sums: Mapping[str, Signal]
    armed: Flag
    idling: Mapping[str, Idling]


class Output:
    """One lead with the part it moves, made ready."""

    def __init__(self, model: Model, index: int) -> None:
        self.index = index
        self.lead: Lead = model.leads[index]
        part: Surface | Motor | Device = next(
            p for p in model.airframe.moved() if p.name == self.lead.target
        )
        self.motor = isinstance(part, Motor)
        self.rest = IDLE if self.motor else 0.0
        self.motion = Motion(self.lead, part)
        self._tx = (model.transmitter.centre_us, model.transmitter.us_per_percent)
        self._idle = idle_percent(self.lead, model.transmitter)
        # percent from the middle down to idle: the half of the pulse that is no power
        self._span = abs(self._idle)
        # a motor that is not plugged in needs no idle pulse
        self.idle_fits = (
            not self.motor or self.lead.port is None or idle_fits(self.lead, model.transmitter)
        )
        safe = self.lead.failsafe or usual_failsafe(part)
        self._action = safe.action
        self._stored = model.receiver.stored
        preset = safe.value if safe.action == "preset" else self.rest
        self._fallback = float(servo_percent(preset, self.lead, FRAME)[2])
        # a preset at or below idle means *off*: the idle pulse itself, wherever it lies
        if self.motor and preset <= IDLE:
            self._fallback = self._idle
        # what a receiver holds before it has ever heard anything
        self._silent_rest = self._idle if self.motor else self.lead.direction * self.rest
        self._keys = tuple(f"{what}.{self.lead.name}" for what in ("slow", "held", "servo", "left"))
        self._controller_keys = tuple(
            f"{CONTROLLER}{self.lead.name}.{what}" for what in ("heard", "ready")
        )

    def run(
        self,
        asked: Demands,
        received: Reception,
        frame_s: float,
        memory: Memory,
        parts: list[Contribution] | None,
    ) -> Channel:
        """Everything behind the sum; contributions are appended to ``parts`` where they are asked
        for."""
        backend, lead = memory.backend, self.lead
        slow_key, held_key, servo_key, left_key = self._keys
        total, guarded, demand = self._demanded(asked, backend)
        clipped = backend.clip(demand, IDLE if self.motor else -SUM_LIMIT, SUM_LIMIT)
        slowed = clipped
        if lead.slow_up_s or lead.slow_down_s:
            # a motor that is stopped stops at once, however slow it starts
            off = backend.not_(asked.armed) if self.motor else False
            slowed = slow(
                clipped, lead.slow_up_s, lead.slow_down_s, frame_s, memory, slow_key, off, IDLE
            )
        curved = bent(slowed, lead, backend)
        moved, centred, stopped = servo_percent(slowed, lead, backend)
        # the guard speaks last, behind every line, limit and slow: unarmed, the lead sends its
        # idle and nothing else
        sent = backend.where(asked.armed, stopped, self._idle) if self.motor else stopped
        # the pulse is there at once; the servo follows it in its own time
        got, pulses, acting = self._receive(sent, received, memory, held_key)
        turned = got
        if not self.motor:
            # a servo without pulses stays where it is; a motor without pulses has no power,
            # which is seen below
            target = got if pulses is None else self._left(got, pulses, memory, held_key, left_key)
            turned = slow(target, lead.servo_s, lead.servo_s, frame_s, memory, servo_key)
        busy = _still_moves(slowed, clipped, backend) or _still_moves(turned, got, backend)
        stand, pct, us = self._pulse(got, turned, pulses, backend)
        if parts is not None:
            sense = self._sense
            # the path from the sum to the part: each step is explained by what it changes
            stages = (
                total,
                guarded,
                demand,
                clipped,
                slowed,
                curved,
                sense * moved,
                sense * centred,
                sense * stopped,
                sense * sent,
                sense * got,
                sense * turned,
                stand,
            )
            self._explain(parts, stages, backend)
        at_stop = (centred != stopped) & backend.not_(acting)
        deg, mm = self.motion.angles(stand, backend)
        ready = self._ready(us, stand, received, memory) if self.motor else None
        return Channel(pct, us, stand, demand - clipped, at_stop, acting, busy, deg, mm, ready)

    def _demanded(self, asked: Demands, backend: Backend) -> tuple[Signal, Signal, Signal]:
        """The sum; what the guard leaves of it; and the demand, which for an engine does not go
        below its idle."""
        total = asked.sums[self.lead.target]
        if not self.motor:
            return total, total, total
        guarded = demand = backend.where(asked.armed, total, IDLE)
        idling = asked.idling.get(self.lead.target)
        if idling is not None:
            demand = backend.where(asked.armed, idling.raised(total, backend), IDLE)
        return total, guarded, demand

    @property
    def _sense(self) -> float:
        """The sign with which stages behind the output are explained; of a motor as its controller
        takes the pulses."""
        if not self.motor:
            return self.lead.direction
        return 1 if self._idle < 0 else -1

    def _pulse(
        self, got: Signal, turned: Signal, pulses: Flag | None, backend: Backend
    ) -> tuple[Signal, Signal, Signal]:
        """Where the part stands and the pulse in percent and in microseconds; at rest and without a
        pulse where the lead is not plugged in."""
        direction = self.lead.direction
        # nothing is plugged in: the figures are of the right shape, and at rest
        if self.lead.port is None:
            return got * 0.0 + self.rest, got * 0.0 + direction * self.rest, got * 0.0
        centre_us, slope = self._tx
        us = centre_us + slope * got
        if pulses is not None:
            us = backend.where(pulses, us, 0.0)
        stand = direction * turned
        if self.motor:
            stand = self._power(
                backend, got if pulses is None else backend.where(pulses, got, self._idle)
            )
        return stand, got, us

    def _ready(self, us: Signal, stand: Signal, received: Reception, memory: Memory) -> Flag:
        """Whether the speed controller lets its motor follow the pulse.

        It does while the flight battery feeds it. A controller that waits for idle does only once
        it has heard a second of idle since that battery came. No pulse is no idle. The pulses hang
        on nothing of this. Of a controller that is only now said to wait, as an edit does it,
        nobody knows what it has heard: it may turn."""
        fed = received.flight_battery
        if not self.lead.waits_for_idle:
            return fed
        backend = memory.backend
        heard_key, ready_key = self._controller_keys
        # an edit says only now that it waits: nobody knows what it has heard
        if not memory.first:
            memory.before.setdefault(ready_key, True)
        # without the flight battery the controller hears nothing, and the second begins anew
        at_idle = fed & (us > 0) & (stand <= IDLE + EPS)
        was_pending = memory.pending
        heard = on_delay(at_idle, received.t_s, IDLE_HEARD_S, memory, heard_key)
        ready = latch(heard, backend.not_(fed), memory, ready_key)
        if bool(np.all(memory.after[ready_key])):
            memory.pending = was_pending  # it has heard all that it waits for
        return ready

    def _left(
        self, got: Signal, pulses: Flag, memory: Memory, held_key: str, left_key: str
    ) -> Signal:
        """Where the servo is told to stand: without a pulse it stays where the last one left it, be
        that the failsafe's.

        What the receiver last heard is where it stood before, unless a preset or a silence came
        since; only then is there more to remember."""
        if left_key not in memory.before and held_key in memory.before:
            memory.before[left_key] = memory.before[held_key]
        return held(got, pulses, False, self._silent_rest, memory, left_key)[0]

    def _power(self, backend: Backend, pct: Signal) -> Signal:
        """A motor's stand by its pulse: -100 where its controller is off, one percent of pulse one
        percent above the middle."""
        above = pct if self._idle < 0 else -pct
        return backend.where(above < 0, above * (100.0 / self._span), above)

    def _receive(
        self, sent: Signal, received: Reception, memory: Memory, key: str
    ) -> tuple[Signal, Flag | None, Flag]:
        """What the receiver makes of it: the last frame it had since it got power, then the
        failsafe. Also: pulses at all (None: always), failsafe acting."""
        backend, power = memory.backend, received.power
        if received.all_arrives:  # the usual case, told apart for speed
            memory.after[key] = (backend.end(sent), True)
            return sent, None, received.silent
        # the last frame heard, and whether there has been one since the receiver got power
        last, known = held(
            sent, received.connected, backend.not_(power), self._silent_rest, memory, key
        )
        # before the first frame ever, a receiver sends no pulses
        heard = power & (received.connected | known)
        acting = power & received.silent
        if self._action == "hold":
            return last, heard, acting
        if self._action == "no pulses":
            return last, heard & backend.not_(acting), acting
        # a receiver that has stored its failsafe has it before it ever heard the transmitter;
        # one that is sent it has to have heard it
        acts = acting if self._stored else acting & known
        return backend.where(acts, self._fallback, last), heard | acts, acting

    def _explain(
        self, parts: list[Contribution], stages: tuple[Signal, ...], backend: Backend
    ) -> None:
        path = f"leads[{self.index}]"
        travel, stop, last = self._sides(stages[5], self.lead.direction * stages[7])
        steps: tuple[tuple[str, Kind, str], ...] = (
            ("Guard holds the motor at idle", "guard", "program.guard"),
            ("Idle of the engine", "idle", "program.guard.engines"),
            ("Cut off beyond the limit", "cut-off", ""),
            ("Still on its way", "slow", f"{path}.slow_up_s"),
            ("Output curve", "travel", f"{path}.curve"),
            ("Travel", "travel", f"{path}.{travel}"),
            ("Centre", "centre", f"{path}.centre"),
            ("End stop", "stop", f"{path}.{stop}"),
            ("Guard sends the idle pulse", "guard", "program.guard"),
            ("Link lost", "link", f"{path}.failsafe"),
            ("Servo still on its way", "slow", f"{path}.servo_s"),
            (
                "Lead not plugged in" if last == "port" else "By its idle pulse",
                "link",
                f"{path}.{last}",
            ),
        )
        for (label, kind, where), before, after in zip(steps, stages[:-1], stages[1:], strict=True):
            # what a step changes is what it contributes; what changes nothing is not told
            amount = after - before
            if not backend.never(backend.abs(amount) > 1e-12):
                parts.append(Contribution(label, kind, amount, where))

    def _sides(self, curved: Signal, centred: Signal) -> tuple[str, str, str]:
        """The fields behind the last frame's travel, stop and slow: those of the side to which the
        output goes."""
        demand, place = (float(np.ravel(x)[-1]) for x in (curved, centred))
        return (
            "travel_neg" if self.lead.direction * demand < 0 else "travel_pos",
            "stop_neg" if place < 0 else "stop_pos",
            "idle_us" if self.motor and self.lead.port is not None else "port",
        )


def _still_moves(now: Signal, wanted: Signal, backend: Backend) -> bool:
    """Whether what is slow has not come to where it is wanted by the end of the run."""
    return now is not wanted and not backend.never(backend.differs(now, wanted))


class OutputBank:
    """Every lead of a model with the part it moves."""

    def __init__(self, model: Model) -> None:
        self.outputs = [Output(model, i) for i in range(len(model.leads))]
        self._first = {x.target: i for i, x in reversed(list(enumerate(model.leads)))}

    def run(
        self,
        asked: Demands,
        received: Reception,
        frame_s: float,
        memory: Memory,
        why: dict[str, list[Contribution]],
    ) -> list[Channel]:
        """Everything behind the sums; contributions are appended to ``why`` for the parts that it
        names."""
        out = []
        for output in self.outputs:
            target = output.lead.target
            parts = why.get(target) if self._first[target] == output.index else None
            out.append(output.run(asked, received, frame_s, memory, parts))
        return out
