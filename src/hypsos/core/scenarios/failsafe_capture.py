# SPDX-License-Identifier: GPL-3.0-or-later
"""Taking the present positions as what channels do without the link."""

from __future__ import annotations

import numpy as np

from hypsos.core.base.figure_words import power_percent
from hypsos.core.dependencies.failsafe_defaults import two_ended
from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.leads import Failsafe, Lead
from hypsos.core.parts.pulses import demand_of
from hypsos.core.wording.words import LEAST_POWER, Part, standing

LEAST = 2.0
"""Percent of full deflection: less than that is neutral enough."""


def captured(model: Model, result: Result) -> Model:
    """The model with every plugged channel's present pulse as its preset, in the demand that gives
    it."""
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    leads = []
    for lead in model.leads:
        if lead.port is not None:
            sent = float(result.outputs[lead.name].pct[-1])
            lead = lead.changed({"failsafe": _taken(lead, parts[lead.target], sent)})
        leads.append(lead)
    return model.changed({"leads": tuple(leads)})


def _taken(lead: Lead, part: Part, pct: float) -> Failsafe:
    """A present pulse as a preset; who takes the place of a thing with two ends has said which one
    it is."""
    return Failsafe(value=_demand(lead, pct), meant=two_ended(part))


def _demand(lead: Lead, pct: float) -> float:
    """The demand for which a lead sends so many percent; the nearest within what a preset may
    be."""
    demand = demand_of(pct, lead)
    return float(np.clip(round(demand or 0.0, 3), -100.0, 100.0))


def capture_doubts(model: Model, result: Result) -> list[str]:
    """What to know before the present positions are taken: motors that would go on turning first,
    then what is deflected."""
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    motors, surfaces = [], []
    for lead in model.leads:
        part, trace = parts[lead.target], result.outputs[lead.name]
        stand = float(trace.stand[-1])
        deg, mm = (None if x is None else float(x[-1]) for x in (trace.deg, trace.mm))
        said = standing(part, stand, deg, mm)
        if lead.port is None:
            continue
        if isinstance(part, Motor) and power_percent(stand) >= LEAST_POWER:
            motors.append(f"{part.label} would go on turning with {said}.")
        elif isinstance(part, Surface) and abs(stand) > LEAST:
            surfaces.append(f"{part.label} would stay {said}.")
    return motors + surfaces
