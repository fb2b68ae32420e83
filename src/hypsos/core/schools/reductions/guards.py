# SPDX-License-Identifier: GPL-3.0-or-later
"""Guards that a transmitter can't say."""

from __future__ import annotations

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.document.program import FULL, Guard
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.situation import Situation, control_bounds
from hypsos.core.parts.condition_text import opposite
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import with_program
from hypsos.core.schools.reductions.fixed import NEVER, Fixed, asking_instead, held_fast
from hypsos.core.wording.describe_condition import phrase

DRAWN = 2000
"""So many places of the hands are asked whether a motor would turn with the stick low."""


def simple_guard(model: Model, _profile: Profile) -> Step:
    """A guard of at most level 2 that asks for nothing else than its switch and the stick."""
    guard = model.program.guard
    if guard is None:
        return Step(model)
    lacks = []
    if guard.level > 2:
        lacks.append(_waits(guard))
        guard = guard.changed({"level": 2})
    guard, more = _bare_guard(model, guard)
    lacks += more
    made = with_program(model, guard=guard)
    if guard.holds:
        made, lack = _held_by_lines(made, guard)
        lacks.append(lack)
    return Step(made, tuple(lacks))


def _waits(guard: Guard) -> Lack:
    waits = f"the stick rests low for {guard.rest_s:g} s before it arms"
    if guard.level >= 4:
        waits += f", and a link lost for {guard.relock_s:g} s locks"
    return Lack(
        "guard",
        waits,
        "conditions that don't wait",
        "It arms where the stick is low in the moment of the switch; a lost link locks nothing.",
        "Stick low first, each time; to cut after every loss of the link, before you go near.",
        motor=True,
    )


def _bare_guard(model: Model, guard: Guard) -> tuple[Guard, list[Lack]]:
    """A guard without a second condition, a start check, waking or an engine's idle."""
    lacks: list[Lack] = []
    changes: dict[str, object] = {}
    if guard.also is not None:
        lacks.append(
            Lack(
                "guard",
                f"arming asks for {phrase(model, guard.also)}, too",
                "one switch",
                "It is not asked for.",
                "Look at it yourself before you switch to run.",
                motor=True,
            )
        )
        changes["also"] = None
    if guard.start_check:
        lacks.append(
            Lack(
                "guard",
                "a check of where hands stand before the first arming",
                "none",
                "Nothing is asked.",
                "Look over the switches before you switch to run.",
                motor=True,
            )
        )
        changes["start_check"] = ()
    if guard.wakes_when_low:
        lacks.append(
            Lack(
                "guard",
                "locked, it arms once the stick has rested low",
                "a lock that only the switch clears",
                "Only the switch frees it.",
                motor=True,
            )
        )
        changes["wakes_when_low"] = False
    return guard.changed(changes) if changes else guard, lacks


def _held_by_lines(model: Model, guard: Guard) -> tuple[Model, Lack]:
    """A design whose holds stop the motors in their lines: what a line gives is nothing while a
    hold is on, and there again as soon as it ends."""
    said = ", ".join(phrase(model, text) for text in guard.holds)
    motors = {m.name for m in model.airframe.motors}
    hold = guard.holds[0]
    mixes: list[MixLine] = []
    for line in model.program.mixes:
        if line.target in motors and line.when is None:
            line = line.changed({"when": opposite(hold), "out_s": 0.0})
        mixes.append(line)
    lack = Lack(
        "guard",
        f"the motors stay stopped after {said}, until the stick has rested low",
        "conditions that don't wait",
        f"They stand still while {phrase(model, hold)}, and follow the stick as soon as that ends.",
        "Stick low before you leave it.",
        motor=True,
    )
    made = with_program(model, guard=guard.changed({"holds": ()}), mixes=tuple(mixes))
    return made, lack


def only_the_stick(model: Model, _profile: Profile) -> Step:
    """A design in which no motor would be told more than its threshold while the stick is low:
    whatever else feeds it and could is left out, for this lock looks at the stick alone."""
    lacks: list[Lack] = []
    motors = {m.name for m in model.airframe.motors}
    while _turns_when_low(model):
        others = [x for x in model.program.mixes if x.target in motors and x.source != "thrust"]
        if not others:
            model, lack = _plain_throttle(model)
            lacks.append(lack)
            break
        gone = others[0]
        sources = {x.source for x in others}
        mixes = tuple(
            x
            for x in model.program.mixes
            if not (x.target in motors and x.source in sources and x.source != "thrust")
        )
        model = with_program(model, mixes=mixes)
        lacks.append(
            Lack(
                "guard",
                f"{gone.name} is asked before a motor arms",
                "a lock that looks at the stick alone",
                "It is left out: with the stick low it could turn a motor as it arms.",
                motor=True,
            )
        )
    modes = model.program.modes
    if any(motors & set(m.presets) for m in modes):
        cleared = []
        for mode in modes:
            left = {k: v for k, v in mode.presets.items() if k not in motors}
            cleared.append(mode.changed({"presets": left}))
        model = with_program(model, modes=tuple(cleared))
        lacks.append(
            Lack(
                "guard",
                "a preset of a motor",
                "a lock that looks at the stick alone",
                "It is left out.",
                motor=True,
            )
        )
    return Step(model, tuple(lacks))


def _plain_throttle(model: Model) -> tuple[Model, Lack]:
    """A design whose throttle gives no more than its stick says while that is low: without a trim
    and a curve of its own."""
    axes = tuple(
        a.changed({"trim": None, "curve": None, "settings": (FULL,), "switch": None})
        if a.command == "thrust"
        else a
        for a in model.program.axes
    )
    motors = {m.name for m in model.airframe.motors}
    mixes = tuple(
        x.changed({"response": None, "gain": min(100.0, max(0.0, x.gain)), "gain_from": None})
        if x.target in motors
        else x
        for x in model.program.mixes
    )
    lack = Lack(
        "guard",
        "a throttle whose trim, curve or rate lifts the motor while the stick is low",
        "a lock that looks at the stick alone",
        "The throttle has no trim, curve or rate: the motor follows the stick.",
        motor=True,
    )
    return with_program(model, axes=axes, mixes=mixes), lack


def _turns_when_low(model: Model) -> bool:
    """Whether any motor would be told more than the threshold with the stick at or below it."""
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is None or axis is None:
        return False
    rng = np.random.default_rng(7)
    tracks = {}
    for name, rest in resting(model).items():
        low, high = control_bounds(model, name)
        control = model.transmitter.control(name)
        if name == axis.control:
            drawn = rng.choice([low, guard.threshold, (low + guard.threshold) / 2], DRAWN)
        elif control is not None and control.is_switch:
            drawn = rng.integers(int(low), int(high) + 1, DRAWN).astype(float)
        else:
            drawn = rng.choice([low, high, 0.0, rest], DRAWN)
        tracks[name] = drawn[:, None]
    # what a motor is told may hang on the link, too
    tracks["link"] = rng.integers(0, 2, (DRAWN, 1)).astype(float)
    tracks["link_quality"] = rng.uniform(0.0, 100.0, (DRAWN, 1))
    # a few frames: a condition that hangs on itself may be another one in the next
    times = np.arange(4, dtype=np.float64) * model.program.frame_s
    result = compile_plan(model).run(Situation.of(times, tracks))
    most = guard.threshold + 1e-6
    return any(bool(np.any(told > most)) for told in result.told.values())


def plain_cut(model: Model, _profile: Profile) -> Step:
    """A switch that cuts, and nothing that locks: at run the motor follows its stick.

    The design gets no guard any more; the lines of its motors give nothing while the switch stands
    at cut. So what is left is looked at as what it is."""
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return Step(model)
    control = model.transmitter.control(guard.switch)
    run = [
        i for i in range(len(control.positions) if control is not None else 2) if i not in guard.cut
    ]
    lacks = [
        Lack(
            "guard",
            _guard_words(guard),
            "a switch that cuts",
            "At run the motor follows the stick at once, wherever it stands, also when the "
            "transmitter is switched on and when the link comes back.",
            "Stick low first, each time: look at it before you switch to run, and before you switch on.",
            motor=True,
        )
    ]
    if guard.engines:
        lacks.append(
            Lack(
                "guard",
                "an idle that holds while the engine is armed",
                "none",
                "The stick alone gives the idle.",
                "Trim the throttle up to its idle, and cut with the switch.",
                motor=True,
            )
        )
    when = f"{guard.switch}@{run[0]}" if len(run) == 1 else f"!{guard.switch}@{guard.cut[0]}"
    motors = {m.name for m in model.airframe.motors}
    mixes = []
    for line in model.program.mixes:
        if line.target in motors:
            if line.when is not None and line.when != when:
                lacks.append(_left_out(line.name, phrase(model, line.when)))
                continue
            line = line.changed({"when": when, "out_s": 0.0})
        mixes.append(line)
    modes = tuple(
        m.changed({"presets": {k: v for k, v in m.presets.items() if k not in motors}})
        for m in model.program.modes
    )
    cut = opposite(when)
    states = {"guard:armed": when, "guard:cut": cut, "guard:locked": NEVER.name}
    made = with_program(model, guard=None, mixes=tuple(mixes), modes=modes)
    made = held_fast(asking_instead(made, states), Fixed(truths={NEVER.name: False}))
    leads = []
    for lead in made.leads:
        if lead.target in motors and lead.slow_down_s:
            lacks.append(
                Lack(
                    "slow",
                    f"{lead.label}, {lead.slow_down_s:g} s from full to stopped",
                    "a cut that stops at once",
                    "It slows down at once.",
                    motor=True,
                )
            )
            lead = lead.changed({"slow_down_s": 0.0})
        leads.append(lead)
    return Step(made.changed({"leads": tuple(leads)}), tuple(lacks))


def _left_out(name: str, while_: str) -> Lack:
    return Lack(
        "condition",
        f"{name}, only while {while_}",
        "a motor that one switch cuts",
        "It is left out.",
        motor=True,
    )


def _guard_words(guard: Guard) -> str:
    words = ["a cut that locks until the switch has been moved"]
    if guard.level >= 2:
        words.append("arms only with the stick low")
    if guard.level >= 3:
        words.append(f"rested low for {guard.rest_s:g} s")
    if guard.level >= 4:
        words.append(f"locks after a link lost for {guard.relock_s:g} s")
    return ", ".join(words)


def guard_by_abilities(model: Model, profile: Profile) -> Step:
    """A guard of no more than what the transmitter's conditions can do."""
    guard = model.program.guard
    if guard is None or "memory" in profile.can:
        return Step(model)
    return plain_cut(model, profile)


def one_soft_start(model: Model, _profile: Profile) -> Step:
    """A slow start of the one motor that the cut covers; that of others would have run its course
    while they were cut."""
    motors = {m.name for m in model.airframe.motors}
    if len(motors) < 2:
        return Step(model)
    slow = [x for x in model.program.mixes if x.target in motors and (x.in_s or x.out_s)]
    if not slow:
        return Step(model)
    mine = set(map(id, slow))
    mixes = tuple(
        x.changed({"in_s": 0.0, "out_s": 0.0}) if id(x) in mine else x for x in model.program.mixes
    )
    lack = Lack(
        "slow",
        "a soft start of several motors",
        "one that the cut covers",
        "They start at once.",
        "Open the throttle slowly.",
        motor=True,
    )
    return Step(with_program(model, mixes=mixes), (lack,))
