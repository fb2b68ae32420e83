# SPDX-License-Identifier: GPL-3.0-or-later
"""The school that keeps reversal in the signs of the mixes: every output normal, the same pulses.

Motors keep theirs at the output, for the cut acts before it; so does a part that another mix reads.
"""

from __future__ import annotations

from collections.abc import Collection

from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.edits.detach import detached_all
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.sheet.sheet_parts import Keyed

REASON = (
    "In this school a servo that sits the other way round is allowed for in the signs of its mixes. Then trims, presets and "
    "failsafe values depend on it too, and each must be turned with it; that is why reversing at the output is the default."
)


def turned_targets(model: Model) -> frozenset[str]:
    """The parts whose reversal can move from the output into the mixes."""
    motors = {m.name for m in model.airframe.motors}
    read = {p.line.source for p in all_lines(model)}
    angled = {p.line.target for p in all_lines(model) if p.line.by_angle}
    bent = {x.target for x in model.leads if x.linkage is not None or x.measured}
    read |= angled & bent  # its way from angle to percent has no mirror image
    found = {
        x.target
        for x in model.leads
        if x.direction < 0 and x.target not in motors and x.target not in read
    }
    return frozenset(t for t in found if all(x.direction < 0 for x in model.leads if x.target == t))


def _throws_exchanged(surface: Surface) -> Surface:
    up, down = surface.throw_up_deg, surface.throw_down_deg
    return surface.changed({"throw_up_deg": down, "throw_down_deg": up})


def _presets_turned(mode: FlightMode, turned: Collection[str]) -> FlightMode:
    presets = {t: -v if t in turned else v for t, v in mode.presets.items()}
    return mode.changed({"presets": presets})


def signs_in_mixes(model: Model) -> Keyed:
    """The same pulses, the model's reversals moved from the outputs into the mixes; recipes become
    plain mixes."""
    turned = turned_targets(model)
    plain = detached_all(model, range(len(model.program.recipes))).program
    mixes = []
    for made in plain.mixes:
        line = made.changed({"origin": None})
        if line.target in turned and line.combine != "scale":
            line = line.changed({"gain": -line.gain, "differential": -line.differential})
        mixes.append(line)
    leads = []
    for lead in model.leads:
        if lead.target in turned:
            safe = lead.failsafe
            update = {"direction": 1, "slow_up_s": lead.slow_down_s, "slow_down_s": lead.slow_up_s}
            if safe is not None and safe.action == "preset":
                update["failsafe"] = safe.changed({"value": -safe.value or 0.0})  # type: ignore[assignment]
            lead = lead.changed(update)
        leads.append(lead)
    angled = turned & {p.line.target for p in all_lines(model) if p.line.by_angle}
    surfaces = []
    for surface in model.airframe.surfaces:
        surfaces.append(_throws_exchanged(surface) if surface.name in angled else surface)
    modes = tuple(_presets_turned(m, turned) for m in model.program.modes)
    program = plain.changed({"mixes": tuple(mixes), "modes": modes, "detached": ()})
    body = model.airframe.changed({"surfaces": tuple(surfaces)})
    return Keyed(
        model.changed({"leads": tuple(leads), "program": program, "airframe": body}), turned
    )
