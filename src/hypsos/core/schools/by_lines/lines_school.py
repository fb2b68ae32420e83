# SPDX-License-Identifier: GPL-3.0-or-later
"""The school by lines, as the others know it."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.by_lines.lines_pages import pages
from hypsos.core.schools.by_lines.lines_radio import radio
from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.by_lines.lines_translation import in_signs, translate
from hypsos.core.schools.from_model.hardware import EXACT
from hypsos.core.schools.lacks import Step
from hypsos.core.schools.reductions.abilities import (
    fewer_modes,
    simpler_curves,
    without_delays,
    without_fades,
    without_link,
    without_memory,
    without_products,
    without_shared,
    without_slow,
    without_suppression,
    without_voice,
)
from hypsos.core.schools.reductions.counts import Needs, fitting
from hypsos.core.schools.reductions.differentials import fixed_sides
from hypsos.core.schools.reductions.guards import guard_by_abilities
from hypsos.core.schools.reductions.look_ahead import nothing_on_its_way
from hypsos.core.schools.school import School


def suppression(model: Model, profile: Profile) -> Step:
    """Differential that something else takes away needs a product."""
    return Step(model) if "product" in profile.can else without_suppression(model, profile)


def fits(model: Model, profile: Profile) -> Step:
    """No more lines, sums and conditions than there are."""

    def measure(made: Model) -> Needs:
        settings = translate(made, EXACT, profile.name)
        sent = {x.sum for x in settings.outputs}
        return {
            "conditions": (len(settings.logic), profile.logic),
            "sums": (sum(x.name not in sent for x in settings.channels), profile.sums),
            "mixes": (sum(len(x.shares) for x in settings.channels), profile.mixes),
        }

    return fitting(model, measure)


SCHOOL = School(
    name="by lines",
    title="Every output is a list of lines",
    settings=LinesSettings,
    reductions=(
        fixed_sides,
        nothing_on_its_way,
        without_link,
        without_delays,
        without_memory,
        guard_by_abilities,
        without_slow,
        without_fades,
        fewer_modes,
        without_products,
        suppression,
        without_shared,
        simpler_curves,
        without_voice,
        fits,
    ),
    translate=translate,
    radio=radio,
    pages=pages,
    in_signs=in_signs,
)
