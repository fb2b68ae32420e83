# SPDX-License-Identifier: GPL-3.0-or-later
"""Mending what the directions check has found: the model changed, in words what to change, and what
was seen right."""

from __future__ import annotations

from collections.abc import Iterable

from hypsos.core.document.document import Model
from hypsos.core.document.lines import expanded
from hypsos.core.edits.detach import detached_all
from hypsos.core.fitting.direction_finder import WiringExplanation, WiringRepair


def repaired(model: Model, repair: WiringRepair) -> Model:
    """The model mended. A recipe whose mixes need another sign is detached into plain mixes
    first."""
    # part -> the place of its lead; of several leads the first one's
    first = {x.target: i for i, x in reversed(list(enumerate(model.leads)))}
    leads = list(model.leads)
    for lead, part in repair.on.items():
        leads[first[part]] = leads[first[part]].changed({"port": model.leads[first[lead]].port})
    for part in repair.reverse:
        turned = leads[first[part]]
        leads[first[part]] = turned.changed({"direction": -turned.direction})
    wrong = []
    for i, recipe in enumerate(model.program.recipes):
        made = [placed.line for placed in expanded(recipe, model.transmitter)]
        if any((line.source, line.target) in repair.signs for line in made):
            wrong.append(i)
    mended = detached_all(model, wrong) if wrong else model
    mixes = []
    for line in mended.program.mixes:
        if (line.source, line.target) in repair.signs:
            line = line.changed({"gain": -line.gain})
        mixes.append(line)
    program = mended.program.changed({"mixes": tuple(mixes)})
    return mended.changed({"leads": tuple(leads), "program": program})


def repair_words(model: Model, repair: WiringRepair) -> list[str]:
    """What to change, one sentence for each thing; empty where nothing is wrong."""
    labels = {p.name: p.label for p in model.airframe.moved()}
    ports = {x.target: x.port for x in reversed(model.leads)}
    said = []
    for ring in WiringExplanation(repair.on).swaps:
        names = " and ".join(f"{labels[n].lower()} (port {ports[n]})" for n in ring)
        said.append(f"The plugs of {names} sit in each other's ports.")
    for n in sorted(repair.reverse):
        said.append(f"{labels[n]} runs the other way: reverse its output.")
    for step, n in repair.signs:
        said.append(
            f"{labels[n]} is right on other commands and wrong on {step}: turn the sign of that mix."
        )
    return said


def marked(model: Model, parts: Iterable[str]) -> Model:
    """The model with these parts' leads noted as seen to move the right way."""
    wanted = set(parts)
    target = {x.name: x.target for x in model.leads}
    # what hangs on the same Y-lead was seen with it
    wanted |= {target[y.second] for y in model.y_leads if target[y.first] in wanted}
    leads = []
    for lead in model.leads:
        if lead.target in wanted and lead.port is not None:
            # as it was plugged then, and turned: another port or direction has to be seen anew
            lead = lead.changed({"seen_right": (lead.port, lead.direction)})
        leads.append(lead)
    return model.changed({"leads": tuple(leads)})
