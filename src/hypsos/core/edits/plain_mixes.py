# SPDX-License-Identifier: GPL-3.0-or-later
"""Plain mixes: adding one by its two ends, for the other side, their order where it matters."""

from __future__ import annotations

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import AXIS_COMMANDS
from hypsos.core.edits.behaviours import free_label
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.describe_condition import signal_labels

FIRST_GAIN = 20.0
"""A new mix on a surface begins with so much: enough to see, little enough to look at."""


def sources(model: Model) -> list[tuple[str, str]]:
    """Everything a mix can read, each with its words: commands first, then hands, signals,
    surfaces, a constant."""
    labels = signal_labels(model)
    commands = [a.command for a in model.program.axes]
    hands = [c.name for c in model.transmitter.controls] + list(STICKS)
    gates = [x.name for x in model.program.gates()]
    motors = {m.name for m in model.airframe.motors}
    parts = [p.name for p in model.airframe.moved() if p.name not in motors]
    names = [
        *commands,
        *hands,
        *gates,
        *model.program.signal_labels(),
        *parts,
        "full",
        "link_quality",
    ]
    words = {c: f"{c} command" for c in AXIS_COMMANDS}
    return [(n, words.get(n, labels.get(n, n.replace("_", " ")))) for n in dict.fromkeys(names)]


def ends(model: Model) -> list[tuple[str, str]]:
    """Everything a mix can feed: surfaces, motors, devices, signals."""
    labels = signal_labels(model)
    names = [*(p.name for p in model.airframe.moved()), *model.program.signal_labels()]
    return [(n, labels.get(n, n)) for n in dict.fromkeys(names)]


def with_mix(model: Model, source: str, target: str) -> Model:
    """The model with one more mix at the end. On a motor it begins with 0: nothing starts that
    nobody meant."""
    labels = dict(sources(model)) | dict(ends(model))
    motor = any(m.name == target for m in model.airframe.motors)
    name = f"{labels.get(source, source)} to {labels.get(target, target)}"[:56].capitalize()
    taken = [m.name for m in model.program.mixes]
    trimmed = source in AXIS_COMMANDS
    line = MixLine(
        name=free_label(name, taken),
        target=target,
        source=source,
        gain=0.0 if motor else FIRST_GAIN,
        with_trim=not trimmed,
    )
    return _with(model, (*model.program.mixes, line))


def without_mix(model: Model, index: int) -> Model:
    """The model without a mix."""
    return _with(model, tuple(m for i, m in enumerate(model.program.mixes) if i != index))


def other_side(model: Model, index: int) -> Model:
    """The model with a mix copied to the part on the other side, with the sign that is right there:
    what rolls or turns goes the other way, what pitches or is a signal of both sides goes the same
    way. Raises HypsosError where there is no other side, and where that side has the mix
    already."""
    line = model.program.mixes[index]
    other = model.airframe.other_side(line.target)
    if other is None:
        raise HypsosError("this part has no like on the other side", "")
    if any(
        (m.source, m.target, m.name) == (line.source, other, line.name) for m in model.program.mixes
    ):
        raise HypsosError("the other side has this mix already", "")
    made = line.changed(
        {"target": other, "gain": line.gain * sign_over(model, line), "origin": None}
    )
    source = model.airframe.other_side(line.source)
    if source is not None:
        made = made.changed({"source": source})
    mixes = model.program.mixes
    return _with(model, (*mixes[: index + 1], made, *mixes[index + 1 :]))


def sign_over(model: Model, line: MixLine) -> float:
    """The sign with which a mix goes to the other side: minus where the source has a sense across
    the aeroplane."""
    part = next(p for p in model.airframe.moved() if p.name == line.target)
    vertical = getattr(part, "vertical", False)
    across = line.source in ("roll", "yaw", "aileron_stick", "rudder_stick")
    if isinstance(part, Motor):
        return -1.0 if across else 1.0
    ruddervator = getattr(part, "role", "") == "ruddervator"
    if vertical and not ruddervator:
        return 1.0  # both rudders go the same way
    return -1.0 if across else 1.0


def order_matters(model: Model, target: str) -> bool:
    """Whether the order of the mixes on a target changes anything: only where one replaces or
    scales."""
    lines = [p.line for p in all_lines(model) if p.line.target == target]
    return len(lines) > 1 and any(x.combine != "add" for x in lines)


def moved(model: Model, index: int, by: int) -> Model:
    """The model with a mix before or behind the next one that feeds the same target."""
    mixes = list(model.program.mixes)
    target = mixes[index].target
    places = [i for i, m in enumerate(mixes) if m.target == target]
    at = places.index(index) + by
    if not 0 <= at < len(places):
        return model
    held = mixes.pop(index)
    mixes.insert(places[at], held)
    return _with(model, tuple(mixes))


def _with(model: Model, mixes: tuple[MixLine, ...]) -> Model:
    return model.changed({"program": model.program.changed({"mixes": mixes})})
