# SPDX-License-Identifier: GPL-3.0-or-later
"""Trims carried over into the outputs' centres, and the turn of the clevis that would do the
same."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import FRAME
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.four_bar import Linkage, deflection
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import servo_percent

THREADS = {"M2": 0.4, "M2.5": 0.45}
"""Pitch of the thread in millimetres a turn (ISO 261, coarse)."""
ALLOWED_US = 0.5


class Turn(NamedTuple):
    """One lead whose centre takes over a trim: by how many percent and microseconds, and the change
    of its pushrod that would do the same, in millimetres (+ is longer; None without a linkage)."""

    lead: str
    label: str
    percent: float
    us: float
    rod_mm: float | None

    def turns(self, thread: str) -> float:
        """Turns of a clevis with this thread."""
        return (self.rod_mm or 0.0) / THREADS[thread]


class Carried(NamedTuple):
    """The model with trims at zero and centres moved, lead by lead, the largest change of a pulse
    (µs), and the axes whose trims stay, each with why."""

    model: Model
    turns: tuple[Turn, ...]
    worst_us: float
    left: tuple[tuple[str, str], ...] = ()


def carried_over(model: Model) -> Carried:
    """Trims into centres, of every axis of which all pulses then stay within half a microsecond;
    the others are left as they are. Raises HypsosError where there is nothing to carry, or nothing
    can be: then it says which lead, and why."""
    off = [axis.command for axis in model.program.axes if _stands_off(axis)]
    if not off:
        raise HypsosError(
            "no trim that all flight modes share stands off its middle",
            "",
            "There is nothing to carry over.",
        )
    whole = _carried(model, off)
    if isinstance(whole, Carried):
        return whole
    left, fits = [], []
    for command in off:
        tried = _carried(model, [command])
        if isinstance(tried, Carried):
            fits.append(command)
        else:
            left.append((command, tried))
    made = _carried(model, fits) if fits else whole
    if not isinstance(made, Carried):
        raise HypsosError(
            made, "", "Turn the clevis on the aeroplane instead, and set the trim back."
        )
    return made._replace(left=tuple(left))


def _stands_off(axis: Axis) -> bool:
    """Whether an axis has clicks that hold in every flight mode."""
    trim = axis.trim
    if trim is None or trim.scope == "lever" or axis.command == "thrust":
        return False
    return trim.clicks != 0


def _carried(model: Model, commands: Sequence[str]) -> Carried | str:
    """Trims of these axes carried over; or why they can't be."""
    axes = []
    for axis in model.program.axes:
        if axis.command in commands and axis.trim is not None:
            axis = axis.changed({"trim": axis.trim.changed({"clicks": 0})})
        axes.append(axis)
    bare = model.changed({"program": model.program.changed({"axes": tuple(axes)})})
    motors = {m.name for m in model.airframe.motors}
    # hands at rest, then each switch at each of its positions
    rests: list[dict[str, float]] = [{}]
    for control in model.transmitter.controls:
        if control.is_switch:
            rests += [{control.name: float(i)} for i in range(len(control.positions))]
    before, plain = (settled_together(compile_plan(m), rests[:1]).sums for m in (model, bare))
    leads, turns = [], []
    for lead in model.leads:
        demand, without = (
            float(np.ravel(s.get(lead.target, np.zeros(1)))[-1]) for s in (before, plain)
        )
        more = demand - without
        if lead.target in motors or abs(more) < 1e-9:
            leads.append(lead)
            continue
        with_trim = float(servo_percent(demand, lead, FRAME)[0])
        percent = with_trim - float(servo_percent(without, lead, FRAME)[0])
        centre = lead.centre + percent
        if abs(centre) > 50:
            return f"the centre of {lead.label} would stand {abs(centre):.0f} % off"
        leads.append(lead.changed({"centre": centre}))
        us = percent * model.transmitter.us_per_percent
        rod = _rod_change(lead, lead.centre, centre)
        turns.append(Turn(lead.name, lead.label, percent, us, rod))
    made = bare.changed({"leads": tuple(leads)})
    name, worst = _worst(model, made, rests)
    if worst > ALLOWED_US:
        why = "it has another travel to each side, differential, or a curve"
        return f"the pulse of {name} would change by {worst:.1f} µs somewhere: {why}"
    return Carried(made, tuple(turns), worst)


def _worst(before: Model, after: Model, rests: list[dict[str, float]]) -> tuple[str, float]:
    """The lead whose pulse changes most over stick corners and switch positions, and by how many
    microseconds."""
    sticks = [a.control for a in before.program.axes if a.command != "thrust"]
    corners: list[dict[str, float]] = [{}]
    for stick, place in itertools.product(sticks, (-100.0, -40.0, 40.0, 100.0)):
        corners.append({stick: place})
    cases = [rest | corner for rest, corner in itertools.product(rests, corners)]
    old, new = (settled_together(compile_plan(m), cases).outputs for m in (before, after))
    found = [(float(np.max(np.abs(new[n].us - old[n].us))), n) for n in old]
    worst, name = max(found, default=(0.0, ""))
    return next((x.label for x in before.leads if x.name == name), ""), worst


def _rod_change(lead: Lead, before: float, after: float) -> float | None:
    """How much longer the pushrod would have to be for the surface to stand at the old centre as it
    does at the new one."""
    link = lead.linkage
    if link is None:
        return None
    turn, wanted = (lead.direction * x * link.servo_deg / 100.0 for x in (before, after))
    return _rod(link, turn, float(deflection(link, wanted))) - _rod(link, 0.0, 0.0)


def _rod(link: Linkage, servo_deg: float, horn_deg: float) -> float:
    """The distance of the two holes with the servo arm and the horn turned so far from neutral."""
    a, b = math.radians(link.arm_deg + servo_deg), math.radians(link.horn_deg + horn_deg)
    x = link.distance_mm + link.horn_mm * math.sin(b) - link.arm_mm * math.sin(a)
    y = -link.offset_mm + link.horn_mm * math.cos(b) - link.arm_mm * math.cos(a)
    return math.hypot(x, y)
