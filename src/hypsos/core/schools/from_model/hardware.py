# SPDX-License-Identifier: GPL-3.0-or-later
"""Hands, trim levers, shared values, outputs and the receiver of a model, as they are keyed in."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from hypsos.core.base.backends import FRAME
from hypsos.core.dependencies.failsafe_defaults import usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.program import Trim
from hypsos.core.engine.rest_positions import resting
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.pulses import IDLE, idle_percent, servo_percent
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.parts.tunables import Tunable
from hypsos.core.schools.figures import Bend, in_steps
from hypsos.core.schools.stand_in.parts import (
    Channel,
    Hand,
    Lever,
    Mover,
    RadioReceiver,
    Safe,
    Shared,
)
from hypsos.core.wording.words import Part

NO_MODES = ("base",)


class Steps(NamedTuple):
    """The steps in which a transmitter takes its figures; 0 is as finely as one likes. Weights in
    percent, centres in microseconds, times in seconds."""

    weight: float = 0.0
    centre_us: float = 0.0
    time_s: float = 0.0

    @classmethod
    def of(cls, profile: Profile) -> Steps:
        """Those of a transmitter."""
        return cls(profile.weight_step, profile.centre_step_us, profile.time_step_s)

    def percent(self, value: float) -> float:
        """A figure in percent as it can be typed."""
        return in_steps(value, self.weight)

    def seconds(self, value: float) -> float:
        """A time as it can be typed."""
        return in_steps(value, self.time_s)

    def pulse(self, us: float) -> float:
        """A pulse in microseconds as it can be typed."""
        return in_steps(us, self.centre_us)

    def bend(self, response: Response | None) -> Bend | None:
        """A response as it can be typed; points that fall together are one."""
        if response is None:
            return None
        points: dict[float, float] = {}
        for x, y in response.points:
            points.setdefault(self.percent(x), self.percent(y))
        if len(points) < 2 or (response.live and len(points) < len(response.points)):
            points = dict(response.points)
        return Bend(
            points=tuple(points.items()),
            smooth=response.shape == "smooth",
            live=response.live,
            live_by=response.live_from or "",
            live_odd=response.live_odd,
        )


EXACT = Steps()
"""Figures as finely as they are in the design."""


def hands(model: Model) -> tuple[Hand, ...]:
    """The sticks and the controls of a model, as its transmitter has them."""
    rest = resting(model)
    found = [Hand(name=name, positions=0, rest=rest[name]) for name in STICKS]
    for control in model.transmitter.controls:
        found.append(
            Hand(
                name=control.name,
                positions=len(control.positions),
                rest=rest[control.name],
                label=control.label,
            )
        )
    return tuple(found)


def lever_name(command: str) -> str:
    """The trim lever of a command, as it is called in moves."""
    return f"{command}_trim"


def levers(model: Model) -> tuple[Lever, ...]:
    """The trim levers, from where they stand."""
    found = []
    for axis in model.program.axes:
        if axis.trim is not None:
            found.append(_lever(model, axis.command, axis.trim))
    return tuple(found)


def _lever(model: Model, command: str, trim: Trim) -> Lever:
    flown = {mode.name for mode in model.program.modes} or set(NO_MODES)
    own = {}
    if trim.scope in ("per mode", "offset"):
        for mode, clicks in trim.by_mode.items():
            if mode in flown:
                own[mode] = min(trim.range, max(-trim.range, clicks * trim.step))
    return Lever(
        name=lever_name(command),
        reach=trim.range,
        start=resting(model)[lever_name(command)],
        scope="none" if trim.scope == "lever" else trim.scope,
        own=own,
    )


def shared_values(model: Model, steps: Steps) -> tuple[Shared, ...]:
    """The shared values, with what moves them in flight."""
    modes = [mode.name for mode in model.program.modes] or list(NO_MODES)
    return tuple(_shared(x, modes, steps) for x in model.program.shared_values())


def _shared(x: Tunable, modes: list[str], steps: Steps) -> Shared:
    by_mode = {mode: steps.percent(x.by_mode.get(mode, x.value)) for mode in modes}
    mover = None
    if x.adjuster is not None:
        a = x.adjuster
        mover = Mover(
            kind=a.kind,
            control=a.control or "",
            amount=steps.percent(a.amount),
            up=a.up or "",
            down=a.down or "",
            when=a.when or "",
            keep=a.keep,
            modes=a.modes,
        )
    low, high = steps.percent(x.low), steps.percent(x.high)
    return Shared(name=x.name, by_mode=by_mode, low=low, high=high, mover=mover)


def keyed_leads(model: Model) -> Iterator[Lead]:
    """The leads that are an output of their own: plugged in, and not the second of a Y-lead."""
    second = {y.second for y in model.y_leads}
    for lead in sorted(model.leads, key=lambda x: x.port or 0):
        if lead.port is not None and lead.name not in second:
            yield lead


def outputs(
    model: Model, steps: Steps, cut: str, sums: Mapping[str, str] | None = None
) -> tuple[Channel, ...]:
    """The outputs by port. ``cut``: the reference that stops the motors; ``sums``: what an output
    sends, where that is not called like its part."""
    motors = {motor.name for motor in model.airframe.motors}
    return tuple(
        _channel(model, lead, steps, cut if lead.target in motors else "", sums or {})
        for lead in keyed_leads(model)
    )


def _channel(model: Model, lead: Lead, steps: Steps, cut: str, sums: Mapping[str, str]) -> Channel:
    motor = lead.target in {m.name for m in model.airframe.motors}
    slope = model.transmitter.us_per_percent
    assert lead.port is not None
    # a motor's ends decide its pulse at idle, which is a pulse and not a percent: left as it is
    percent = EXACT.percent if motor else steps.percent
    return Channel(
        port=lead.port,
        sum=sums.get(lead.target, lead.target),
        low=IDLE if motor else -150.0,
        slow_up=steps.seconds(lead.slow_up_s),
        slow_down=steps.seconds(lead.slow_down_s),
        bend=steps.bend(lead.curve),
        turned=lead.direction < 0,
        centre=steps.pulse(lead.centre * slope) / slope,
        end_below=percent(lead.travel_neg),
        end_above=percent(lead.travel_pos),
        stop_below=percent(lead.stop_neg),
        stop_above=percent(lead.stop_pos),
        cut=cut,
        cut_at=idle_percent(lead, model.transmitter) if motor else IDLE,
    )


def receiver(model: Model, steps: Steps) -> RadioReceiver:
    """The receiver with its failsafe, by port."""
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    ports = {}
    for lead in keyed_leads(model):
        assert lead.port is not None
        ports[lead.port] = _safe(model, lead, parts[lead.target], steps)
    return RadioReceiver(
        # the receiver's own time, not the transmitter's
        after_s=model.receiver.failsafe_after_s,
        ports=ports,
        stored=model.receiver.stored,
        own_battery=model.receiver.power == "own battery",
    )


def _safe(model: Model, lead: Lead, part: Part, steps: Steps) -> Safe:
    transmitter = model.transmitter
    motor = lead.target in {m.name for m in model.airframe.motors}
    idle = idle_percent(lead, transmitter)
    safe = lead.failsafe or usual_failsafe(part)
    preset = safe.value if safe.action == "preset" else (IDLE if motor else 0.0)
    place = float(servo_percent(preset, lead, FRAME)[2])
    if motor and preset <= IDLE:
        place = idle
    return Safe(
        action={"preset": "place", "no pulses": "none"}.get(safe.action, "hold"),
        place_us=steps.pulse(transmitter.centre_us + transmitter.us_per_percent * place),
        unheard=idle if motor else 0.0,
    )
