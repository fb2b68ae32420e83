# SPDX-License-Identifier: GPL-3.0-or-later
"""The school by function, as the others know it."""

from __future__ import annotations

from hypsos.core.conditions.counter import Counter
from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.by_function.function_pages import pages
from hypsos.core.schools.by_function.function_radio import radio
from hypsos.core.schools.by_function.function_settings import FunctionSettings
from hypsos.core.schools.by_function.function_translation import in_signs, translate
from hypsos.core.schools.from_model.hardware import EXACT
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import (
    fewer_modes,
    levels_only,
    simpler_curves,
    with_program,
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
from hypsos.core.schools.reductions.fixed import Fixed, held_fast
from hypsos.core.schools.reductions.guards import guard_by_abilities, only_the_stick, simple_guard
from hypsos.core.schools.school import School


def no_counters(model: Model, _profile: Profile) -> Step:
    """Nothing counts here."""
    fixed, lacks = Fixed(), []
    for x in model.program.logic:
        if isinstance(x, Counter):
            fixed.truths[x.name] = False
            fixed.positions[x.name] = 0
            lacks.append(
                Lack(
                    "memory",
                    f"{x.label}, which counts",
                    "nothing that counts",
                    "It stays at its first place.",
                )
            )
    if not lacks:
        return Step(model)
    return Step(held_fast(model, fixed), tuple(lacks))


def waits(model: Model, profile: Profile) -> Step:
    """Conditions of this school never wait."""
    return without_delays(model, _lacking(profile, "delays"))


def figures(model: Model, profile: Profile) -> Step:
    """This school has no shared values."""
    return without_shared(model, _lacking(profile, "shared"))


def products(model: Model, profile: Profile) -> Step:
    """Mixes of this school add."""
    return without_products(model, _lacking(profile, "product"))


def _lacking(profile: Profile, ability: str) -> Profile:
    return profile.changed({"can": tuple(x for x in profile.can if x != ability)})


def fits(model: Model, profile: Profile) -> Step:
    """No more mixes, functions and conditions than there are."""

    def measure(made: Model) -> Needs:
        settings = translate(made, EXACT, profile.name)
        return {
            "conditions": (len(settings.conditions), profile.logic),
            "functions of its own": (len(settings.own_functions), profile.sums),
            "mixes": (sum(not x.ready for x in settings.mixes), profile.mixes),
        }

    return fitting(model, measure)


def no_engine_idle(model: Model, _profile: Profile) -> Step:
    """An engine's idle is what the stick gives at its low end."""
    guard = model.program.guard
    if guard is None or not guard.engines:
        return Step(model)
    lack = Lack(
        "guard",
        "an idle that holds while the engine is armed",
        "none",
        "The stick alone gives the idle.",
        "Trim the throttle up to its idle, and cut with the switch.",
        motor=True,
    )
    return Step(with_program(model, guard=guard.changed({"engines": ()})), (lack,))


SCHOOL = School(
    name="by function",
    title="Hands feed functions, functions feed servos",
    settings=FunctionSettings,
    reductions=(
        fixed_sides,
        without_link,
        products,
        without_suppression,
        simple_guard,
        no_engine_idle,
        waits,
        without_memory,
        levels_only,
        guard_by_abilities,
        no_counters,
        without_slow,
        without_fades,
        fewer_modes,
        figures,
        simpler_curves,
        only_the_stick,
        without_voice,
        fits,
    ),
    translate=translate,
    radio=radio,
    pages=pages,
    in_signs=in_signs,
)
