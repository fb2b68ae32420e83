# SPDX-License-Identifier: GPL-3.0-or-later
"""Flight modes and shared values as sheet lines, and which conditions have one."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.figure_words import plain, said_name
from hypsos.core.conditions import LogicSwitch, conditions_of
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.graph import asked_by
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.tunables import Adjuster
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import Part, channel_percent, control_label


def told_apart(model: Model) -> list[LogicSwitch]:
    """The conditions with a line of their own: those that somebody has named, and those that no
    sentence contains."""
    inside = {asked(text).key for _, text in asked_by(model)}
    for node in model.program.logic:
        inside.update(asked(text).key for text in conditions_of(node))
    return [x for x in model.program.logic if x.label != UNNAMED or x.name not in inside]


def mode_lines(
    model: Model, parts: dict[str, Part], turned: frozenset[str] = frozenset()
) -> Iterator[tuple[str, str]]:
    """What and value for each flight mode, in their order; of ``turned`` parts the channel's own
    figure."""
    for i, m in enumerate(model.program.modes):
        when = "default mode" if m.when is None else f"when {phrase(model, m.when)}"
        said = [when, f"transition time {plain(m.fade_s)} s"]
        for target, value in m.presets.items():
            part = parts.get(target)
            if part is None:
                label, amount = target, f"{plain(value)} %"
            else:
                moved = -value if target in turned else value
                label, amount = part.label, channel_percent(part, moved)
            if target in turned:
                amount = f"channel {plain(value)} %: {amount}"
            said.append(f"{label} {amount}")
        yield f"Mode {i + 1}: {m.label}", ", ".join(said)


def adjuster_words(model: Model, adjuster: Adjuster) -> str:
    """What moves a shared value in flight, in words."""
    control = "" if adjuster.control is None else control_label(model, adjuster.control)
    amount = plain(adjuster.amount)
    if adjuster.kind == "set":
        said = f"set by {control}"
    elif adjuster.kind == "add":
        said = f"{control} adds {amount} at full travel"
    else:
        ways = (("more", adjuster.up), ("less", adjuster.down))
        said = ", ".join(
            f"{amount} {way} each time {phrase(model, text)}"
            for way, text in ways
            if text is not None
        )
    labels = {m.name: m.label for m in model.program.modes}
    if adjuster.modes:
        said += f" in {', '.join(labels.get(m, m) for m in adjuster.modes)}"
    if adjuster.when is not None:
        then = "stays" if adjuster.keep else "returns"
        said += f" while {phrase(model, adjuster.when)}, and {then} when that ends"
    return said


def shared_lines(model: Model) -> Iterator[tuple[str, str]]:
    """What and value for each shared value."""
    labels = {m.name: m.label for m in model.program.modes}
    for x in model.program.shared_values():
        said = [
            f"{plain(x.value)} %",
            *(f"{labels.get(n, n)} {plain(v)} %" for n, v in x.by_mode.items()),
        ]
        said.append(f"bounds {plain(x.low)} to {plain(x.high)} %")
        if x.adjuster is not None:
            said.append(adjuster_words(model, x.adjuster))
        yield said_name(x.label, "Shared value", x.name), ", ".join(said)
