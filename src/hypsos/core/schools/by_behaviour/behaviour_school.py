# SPDX-License-Identifier: GPL-3.0-or-later
"""The school by behaviour, as the others know it."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.by_behaviour.behaviour_pages import pages
from hypsos.core.schools.by_behaviour.behaviour_radio import radio
from hypsos.core.schools.by_behaviour.behaviour_settings import BehaviourSettings
from hypsos.core.schools.by_behaviour.behaviour_translation import in_signs, mode_places, translate
from hypsos.core.schools.by_behaviour.sorting import sorted_lines, when_of
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import (
    Reduction,
    fewer_modes,
    reaches_motor,
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
from hypsos.core.schools.reductions.differentials import fixed_sides
from hypsos.core.schools.reductions.fixed import Fixed, held_fast, through_names, without_unused
from hypsos.core.schools.reductions.guards import one_soft_start, plain_cut
from hypsos.core.schools.school import School
from hypsos.core.wording.describe_condition import phrase


def bare(profile: Profile) -> Profile:
    """A transmitter of this school, whatever else it says of itself: no free logic, nothing that
    multiplies, no shared values, no fades, no link."""
    left = tuple(x for x in profile.can if x in ("slow", "smooth", "voice"))
    return profile.changed({"can": left})


def modes_by_switches(model: Model, _profile: Profile) -> Step:
    """Flight modes that positions of two switches choose; the others are left out."""
    gone = [
        m
        for m in model.program.modes[:-1]
        if m.when is not None and mode_places(model, m.when) is None
    ]
    lacks = tuple(
        Lack(
            "mode",
            f"flight mode {m.label}, chosen by more than positions of two switches",
            "modes that two switches choose",
            "It is never flown.",
        )
        for m in gone
    )
    if not gone:
        return Step(model)
    return Step(held_fast(model, Fixed(truths={f"mode:{m.name}": False for m in gone})), lacks)


def plain_rates(model: Model, _profile: Profile) -> Step:
    """Rates and expo go by one switch or by the flight modes; not by a condition besides."""
    lacks, axes = [], []
    for axis in model.program.axes:
        settings = []
        for setting in axis.settings:
            if setting is not None and setting.from_when is not None:
                lacks.append(
                    Lack(
                        "condition",
                        f"rates of {axis.command} only while {phrase(model, setting.from_when)}",
                        "rates by one switch or by flight modes",
                        "The setting's own figures hold.",
                    )
                )
                fields = {"from_when": None, "rate_from": None, "expo_from": None}
                setting = setting.changed(fields)
            settings.append(setting)
        axes.append(axis.changed({"settings": tuple(settings)}))
    return Step(with_program(model, axes=tuple(axes)), tuple(lacks))


def said_by_places(model: Model, _profile: Profile) -> Step:
    """Captions at positions of switches and in modes; the others are not said."""
    lacks = []
    kept = [x for x in model.program.announcements if when_of(model, x.when) is not None]
    silent = [f"“{x.caption}”" for x in model.program.announcements if x not in kept]
    if silent:
        what = f"the caption {silent[0]}" if len(silent) == 1 else f"captions: {', '.join(silent)}"
        have = "captions at switch positions and in modes"
        said = "It is not said." if len(silent) == 1 else "They are not said."
        lacks.append(Lack("voice", what, have, said))
    timers = []
    switches = {c.name for c in model.transmitter.controls if c.is_switch}
    for timer in model.program.timers:
        simple = asked(timer.when).name in switches and (
            timer.reset is None or asked(timer.reset).name in switches
        )
        if simple:
            timers.append(timer)
        else:
            lacks.append(Lack("timer", timer.label, "timers that a switch runs", "It is left out."))
    made = with_program(model, announcements=tuple(kept), timers=tuple(timers))
    return Step(made, tuple(lacks))


def no_gates(model: Model, _profile: Profile) -> Step:
    """A hand that passes only while something holds stays where it is parked."""
    gates = model.program.gates()
    if not gates:
        return Step(model)
    lacks = tuple(
        Lack(
            "condition",
            f"{g.label}, which lets a hand pass only at times",
            "none",
            "It stays parked.",
        )
        for g in gates
    )
    fixed = Fixed(values={g.name: float(dict(g)["parked"]) for g in gates})
    return Step(held_fast(model, fixed), lacks)


def what_fits(model: Model, profile: Profile) -> Step:
    """Ready behaviours and as many mixes of one's own as there are; the rest is left out, both
    sides of a pair together."""
    lacks: list[Lack] = []
    while True:
        model = without_unused(model)
        found = sorted_lines(model)
        motors = {
            x.target for x in model.leads if x.target in {m.name for m in model.airframe.motors}
        }
        spare = profile.mixes - max(0, len(motors) - 1)
        gone: list[MixLine] = [x for x, _ in found.left_over]
        why = found.left_over[0][1] if found.left_over else ""
        if not gone and len(found.mixes) > spare:
            gone = _last_together(model, found.mixes)
            why = f"{profile.mixes} mixes of one's own, and {len(found.mixes)} would be needed"
        if not gone:
            return Step(model, tuple(lacks))
        names = {(x.name, x.source) for x in gone[:1]} if found.left_over else None
        model, more = _without(model, gone, why, names)
        lacks += more


def _last_together(model: Model, mixes: tuple[MixLine, ...]) -> list[MixLine]:
    """The last mix with all that have its name: in the design they may be lines in a row."""
    last = mixes[-1].name
    found = [x for x in model.program.mixes if x.name == last]
    return found or [mixes[-1]]


def _without(
    model: Model, gone: list[MixLine], why: str, names: set[tuple[str, str]] | None
) -> tuple[Model, list[Lack]]:
    """A design without some lines, and all of the behaviour that they belong to."""
    first = gone[0]
    together = [
        x
        for x in model.program.mixes
        if (
            x in gone and (names is None or (x.name, x.source) in names or x.origin == first.origin)
        )
        or (first.origin is not None and x.origin == first.origin and _same_chain(x, first, model))
    ]
    together = together or [first]
    mine = set(map(id, together))
    left = tuple(x for x in model.program.mixes if id(x) not in mine)
    motor = any(reaches_motor(model, x.target) for x in together)
    have = f"not in this school: {why}" if not why[:1].isdigit() else why
    lack = Lack("mixes", first.name, have, "It is left out.", motor=motor)
    return with_program(model, mixes=left), [lack]


def _same_chain(x: MixLine, first: MixLine, model: Model) -> bool:
    """Whether two lines of one behaviour hang together through its signal."""
    signals = {y.target for y in model.program.mixes} & {y.source for y in model.program.mixes}
    mine = {x.source, x.target} & signals
    return bool(mine & {first.source, first.target})


def _on(step: Reduction) -> Reduction:
    """A reduction for what this school has at the most."""
    return lambda model, profile: step(model, bare(profile))


def said_plainly(model: Model, _profile: Profile) -> Step:
    """Conditions that are no more than one other, said by that one."""
    return Step(through_names(model))


SCHOOL = School(
    name="by behaviour",
    title="Ready behaviours for each wing and tail, with a few mixes of one's own",
    settings=BehaviourSettings,
    reductions=(
        fixed_sides,
        plain_cut,
        *(
            _on(step)
            for step in (
                without_link,
                without_delays,
                without_memory,
                no_gates,
                without_slow,
                without_fades,
                without_products,
                without_suppression,
                said_plainly,
                modes_by_switches,
                fewer_modes,
                plain_rates,
                without_shared,
                simpler_curves,
                without_voice,
                said_by_places,
                one_soft_start,
                what_fits,
            )
        ),
    ),
    translate=translate,
    radio=radio,
    pages=pages,
    in_signs=in_signs,
)
