# SPDX-License-Identifier: GPL-3.0-or-later
"""A design said in lines: each part of it becomes the part of the settings that means the same."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.from_model.guard_rules import ARMED, GuardRules
from hypsos.core.schools.from_model.hardware import Steps, outputs, shared_values
from hypsos.core.schools.from_model.head import head
from hypsos.core.schools.from_model.keyed_modes import keyed_modes
from hypsos.core.schools.from_model.speech import said, timers
from hypsos.core.schools.from_model.sums import DesignSums
from hypsos.core.schools.from_model.used import used_references, used_sums
from hypsos.core.schools.signs import turned_sums, unturned
from hypsos.core.schools.stand_in.parts import Share


def in_signs(settings: LinesSettings) -> LinesSettings:
    """The same with the reversal of outputs in the signs of their lines."""
    read = {share.source for made in settings.channels for share in made.shares}
    read |= {name for rule in settings.logic for name in (rule.a, rule.b)}
    turned = turned_sums(settings.outputs, read)
    channels = []
    for made in settings.channels:
        if made.name in turned:
            shares = tuple(_turned_line(share) for share in made.shares)
            made = made.changed({"shares": shares})
        channels.append(made)
    sent = tuple(unturned(x, turned) for x in settings.outputs)
    return settings.changed({"channels": tuple(channels), "outputs": sent})


def _turned_line(share: Share) -> Share:
    """A line with the other sign; one that multiplies keeps its own."""
    if share.join == "multiply":
        return share
    return share.changed({"above": -share.above, "below": -share.below})


def translate(model: Model, steps: Steps, transmitter: str) -> LinesSettings:
    """The settings of a reduced model."""
    sums = DesignSums(model, steps)
    guard = model.program.guard
    if sums.guarded and guard is not None:
        GuardRules(model, guard, sums.conditions, sums.book, steps, sums.told()).write()
    sent = outputs(model, steps, f"!{ARMED}" if sums.guarded else "")
    inputs = sums.commands()
    modes = keyed_modes(model, sums.conditions, steps)
    shared = shared_values(model, steps)
    speech, clocks = said(model, sums.ref), timers(model, sums.ref)
    channels = used_sums(sums.channels, [x.sum for x in sent], sums.book.rules)
    asked = used_references(sent, inputs, modes, shared, channels)
    asked += [x.when for x in speech] + [text for x in clocks for text in (x.when, x.reset)]
    return LinesSettings(
        **head(model, steps, transmitter),
        inputs=inputs,
        logic=sums.book.used(asked),
        modes=modes,
        shared=shared,
        channels=channels,
        outputs=sent,
        said=speech,
        timers=clocks,
    )
