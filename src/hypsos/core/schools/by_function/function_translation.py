# SPDX-License-Identifier: GPL-3.0-or-later
"""A design said by function: its sums as servos that take shares of functions, and as mixes."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.schools.by_function.function_settings import (
    FunctionMix,
    FunctionSettings,
    Servo,
    Taken,
)
from hypsos.core.schools.from_model.guard_rules import ARMED
from hypsos.core.schools.from_model.hardware import Steps, outputs
from hypsos.core.schools.from_model.head import head
from hypsos.core.schools.from_model.keyed_modes import keyed_modes
from hypsos.core.schools.from_model.latched_guard import write_latched_guard
from hypsos.core.schools.from_model.ready_mixes import ready_word
from hypsos.core.schools.from_model.speech import said, timers
from hypsos.core.schools.from_model.sums import DesignSums
from hypsos.core.schools.from_model.used import used_references, used_sums
from hypsos.core.schools.signs import turned_sums, unturned
from hypsos.core.schools.stand_in.parts import Share


def in_signs(settings: FunctionSettings) -> FunctionSettings:
    """The same with the reversal of outputs in the signs of shares and mixes."""
    read = {mix.master for mix in settings.mixes}
    read |= {taken.function for servo in settings.servos for taken in servo.takes}
    read |= {name for rule in settings.conditions for name in (rule.a, rule.b)}
    turned = turned_sums(settings.outputs, read)
    servos = []
    for servo in settings.servos:
        if servo.part in turned:
            takes = tuple(x.changed(_turned(x.above, x.below)) for x in servo.takes)
            servo = servo.changed({"takes": takes})
        servos.append(servo)
    mixes = []
    for mix in settings.mixes:
        mixes.append(mix.changed(_turned(mix.above, mix.below)) if mix.to in turned else mix)
    sent = tuple(unturned(x, turned) for x in settings.outputs)
    return settings.changed({"servos": tuple(servos), "mixes": tuple(mixes), "outputs": sent})


def _turned(above: float, below: float) -> dict[str, float]:
    return {"above": -above, "below": -below}


def translate(model: Model, steps: Steps, transmitter: str) -> FunctionSettings:
    """The settings of a reduced model."""
    sums = DesignSums(model, steps, by_mode=True)
    guard = model.program.guard
    if sums.guarded and guard is not None:
        write_latched_guard(model, guard, sums.book, steps)
    cut = f"!{ARMED}" if sums.guarded else ""
    sent = outputs(model, steps, cut)
    functions = sums.commands()
    modes = keyed_modes(model, sums.conditions, steps)
    speech, clocks = said(model, sums.ref), timers(model, sums.ref)
    channels = used_sums(sums.channels, [x.sum for x in sent], sums.book.rules)
    asked = used_references(sent, functions, modes, (), channels)
    asked += [x.when for x in speech] + [text for x in clocks for text in (x.when, x.reset)]
    servos, mixes, own = [], [], []
    sent_sums = {x.sum for x in sent}
    for made in channels:
        shares = _without_base(made.shares)
        plain = [x for x in shares if _is_taken(x)] if made.name in sent_sums else []
        if made.name in sent_sums:
            servos.append(Servo(part=made.name, takes=tuple(_taken(x) for x in plain)))
        else:
            own.append(made.name)
        mixes += [_mix(model, x, made.name) for x in shares if x not in plain]
    return FunctionSettings(
        **head(model, steps, transmitter),
        functions=functions,
        own_functions=tuple(own),
        servos=tuple(servos),
        mixes=tuple(mixes),
        conditions=sums.book.used(asked),
        modes=modes,
        cut=cut,
        outputs=sent,
        said=speech,
        timers=clocks,
    )


def _without_base(shares: tuple[Share, ...]) -> tuple[Share, ...]:
    """A motor's lines; a throttle that is counted from its low end, in full, and idle taken off at
    the end, is the throttle as it is."""
    base = Share(source="full", above=-100.0, below=-100.0)
    whole = Share(source="thrust", from_low=True)
    if base in shares and whole in shares:
        left = [x for x in shares if x is not base and x != base]
        place = left.index(whole)
        left[place] = whole.changed({"from_low": False})
        return tuple(left)
    return shares


def _is_taken(share: Share) -> bool:
    """Whether a line is a plain share of a function."""
    plain = Share(source=share.source, trim=share.trim, above=share.above, below=share.below)
    return share == plain and share.source != "full"


def _taken(share: Share) -> Taken:
    return Taken(function=share.source, above=share.above, below=share.below, trim=share.trim)


def _mix(model: Model, share: Share, to: str) -> FunctionMix:
    return FunctionMix(
        ready=ready_word(model, share.source, to),
        master=share.source,
        to=to,
        trim=share.trim,
        bend=share.bend,
        from_low=share.from_low,
        above=share.above,
        below=share.below,
        when=share.when,
        modes=share.modes,
        delay_in=share.slow_in,
        delay_out=share.slow_out,
    )
