# SPDX-License-Identifier: GPL-3.0-or-later
"""A made-up aeroplane with hidden wiring faults, to practise the directions check on."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.engine import Plan, Result
from hypsos.core.fitting.direction_finder import Check, WiringExplanation, WiringRepair, check_of


@dataclass(frozen=True)
class Practice:
    """A made-up aeroplane whose wiring nobody sees: which part each port really moves, and how its
    servo sits."""

    ports: Mapping[int, str]
    sense: Mapping[str, int]

    def mended(self, model: Model, found: WiringRepair) -> Practice:
        """This aeroplane with its plugs and servos changed as an explanation says; the model stays
        as it is."""
        port = {x.target: x.port or 0 for x in reversed(model.leads)}
        ports = dict(self.ports)
        for lead, part in found.on.items():
            ports[port[part]] = self.ports[port[lead]]
        sense = dict(self.sense)
        for part in found.reverse:
            if part in sense:
                sense[part] = -sense[part]
        return Practice(ports, sense)

    def truth(self, model: Model) -> WiringExplanation:
        """What is wrong between this aeroplane and the model as it is now."""
        on, turned = {}, set()
        for lead in model.leads:
            part = self.ports.get(lead.port or 0)
            if part is not None and part != lead.target:
                on[lead.target] = part
            if self.sense.get(lead.target, lead.direction) != lead.direction:
                turned.add(lead.target)
        return WiringExplanation(on, frozenset(turned))


def really(plan: Plan, result: Result, aeroplane: Practice, flight_battery: bool = True) -> Result:
    """The last frame of a run as it shows on an aeroplane that is wired otherwise than the model
    says."""
    model = plan.model
    first = {x.target: i for i, x in reversed(list(enumerate(model.leads)))}
    outputs = dict(result.outputs)
    # what a controller has heard on another channel is not known: it may turn
    battery = np.array([flight_battery])
    for lead in model.leads:
        part = aeroplane.ports.get(lead.port or 0)
        if part is None:
            continue
        sent, own = result.outputs[lead.name], first[part]
        stand = aeroplane.sense[part] * float(np.ravel(sent.pct)[-1])
        deg, mm = plan.angles(own, stand)
        outputs[model.leads[own].name] = sent._replace(
            stand=np.array([stand]),
            deg=None if deg is None else np.array([deg]),
            mm=None if mm is None else np.array([mm]),
            ready=battery,
        )
    return replace(result, outputs=outputs)


def practice(model: Model, seed: int) -> Practice:
    """One or two hidden faults, chosen by the seed."""
    check = check_of(model)
    rng = np.random.default_rng(seed)
    faults = list(single_faults(check))
    count = min(len(faults), int(rng.integers(1, 3)))
    places = rng.choice(len(faults), size=count, replace=False)
    return practice_with(model, [faults[place] for place in places.tolist()])


def practice_with(model: Model, faults: list[WiringExplanation]) -> Practice:
    """An aeroplane with these faults, one after the other."""
    first = {x.target: x for x in reversed(model.leads)}
    ports = {x.port: x.target for x in first.values() if x.port is not None}
    sense: dict[str, int] = {n: x.direction for n, x in first.items()}
    for fault in faults:
        old = dict(ports)
        where = {part: port for port, part in old.items()}
        for lead, part in fault.on.items():
            ports[where[lead]] = old[where[part]]
        for part in fault.reversed_:
            sense[part] = -sense[part]
    return Practice(ports, sense)


def single_faults(check: Check) -> Iterator[WiringExplanation]:
    """Every servo the other way round, and every pair of leads swapped."""
    for part in check.parts:
        yield WiringExplanation(reversed_=frozenset((part,)))
    for a, b in itertools.combinations(check.parts, 2):
        yield WiringExplanation({a: b, b: a})
