# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions in one breath, for lists and the sheet, and what their members are called.

A condition that somebody has named is said by its name, one without a name by what it is made of.
"""

from __future__ import annotations

from collections.abc import Mapping

from hypsos.core.base.cache import kept
from hypsos.core.document.document import Model
from hypsos.core.document.program import AXIS_COMMANDS
from hypsos.core.parts.condition_values import Combine, Compare, Counter, Delay, Gate, Latch, LogicSwitch, asked
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.time_words import timer_label
from hypsos.core.wording.words import STICK_SIDES, plain, power_percent, said_name

UNNAMED = "Logical switch"
"""The label of a condition that nobody has named."""
COMPARED = {
    "above": "is above", "below": "is below", "beyond": "is, to either side, beyond", "within": "lies between",
    "difference": "is more than",
}  # fmt: skip
JOINED = {"all": "all of these hold:", "any": "any of these holds:", "one": "exactly one of these holds:"}
STATE_WORDS = ("is {}", "is not {}")
DEEPEST = 12


def phrase(model: Model, text: str | None, inside: tuple[str, ...] = ()) -> str:
    """A condition in one breath, for lists and the sheet: ``'throttle stick is below 25 % and Brakes at out'``.

    What has no label of its own is told by what it is made of, but for what is just being told (``inside``): a latch may go
    by itself.
    """
    if text is None:
        return "always"
    negated, realm, name, position = asked(text)
    no = "not " if negated else ""
    control = model.transmitter.control(name)
    if realm:
        return {
            "mode": f"{no}mode {mode_label(model, name)}", "guard": f"the motor {STATE_WORDS[negated].format(name)}",
            "timer": f"{timer_named(model, name)} has {'not ' if negated else ''}run out",
        }[realm]  # fmt: skip
    if control is not None and position is not None:
        place = control.positions[position] if position < len(control.positions) else str(position)
        return f"{no}{control.label} at {place}"
    if name in ("link", "power"):
        return {"link": "link lost" if negated else "link up", "power": f"{no}receiver powered"}[name]
    node = node_named(model, name)
    if node is None or node.label != UNNAMED or name in inside or len(inside) > DEEPEST:
        label = name if node is None else said_name(node.label, UNNAMED, name)
        return f"{no}{label} at {position}" if position is not None else f"{no}{label}"
    said = node_phrase(model, node, position, (*inside, name))
    return f"not ({said})" if negated else said


def node_phrase(model: Model, node: LogicSwitch, position: int | None = None, inside: tuple[str, ...] = ()) -> str:
    """What a condition is made of."""
    inside = inside or (node.name,)

    def inner(text: str) -> str:
        return phrase(model, text, inside)

    if isinstance(node, Compare):
        low, high = (level_words(node.a, v, node.kind) for v in (node.x, node.x if node.y is None else node.y))
        said = {
            "within": f"{low} and {high}", "difference": f"{low} above {signal_label(model, node.b or node.a)}",
        }.get(node.kind, low)  # fmt: skip
        share = 0.5 if node.a == "throttle_stick" and node.kind in ("above", "below", "within") else 1.0
        back = f", off again {plain(share * node.hysteresis)} % further back" if node.hysteresis else ""
        return f"{signal_label(model, node.a)} {COMPARED[node.kind]} {said}{back}"
    if isinstance(node, Combine):
        if len(node.of) == 1 and node.kind != "not":
            return phrase(model, node.of[0], inside[:-1])
        parts = [inner(c) for c in node.of]
        if node.kind == "not":
            return f"not ({parts[0]})"
        if node.kind == "one":
            return f"exactly one of ({'; '.join(parts)})"
        joined = f" {'and' if node.kind == 'all' else 'or'} ".join(parts)
        return joined if len(inside) <= 1 else f"({joined})"
    if isinstance(node, Latch):
        how = "" if node.edges else " (by levels)"
        return f"from {inner(node.set)} until {inner(node.reset)}{how}"
    if isinstance(node, Delay):
        return {
            "on_delay": f"{inner(node.of)}, once it has lasted {node.seconds:g} s",
            "off_delay": f"{inner(node.of)}, and {node.seconds:g} s longer",
            "pulse": f"{node.seconds:g} s from the moment when {inner(node.of)}",
        }[node.kind]
    if isinstance(node, Counter):
        at = f"step {position + 1} of" if position is not None else "steps through"
        return f"{at} {node.count}, one further each time {inner(node.of)}"
    return f"{signal_label(model, node.source)} while {inner(node.when)}, else {node.parked:g} %"


def level_words(signal: str, value: float, kind: str = "above") -> str:
    """A level as its signal is said: the throttle stick in % of its way, a sprung stick to its sides, all else in %.

    >>> level_words("throttle_stick", -90), level_words("elevator_stick", -50), level_words("slider", -10)
    ('5 %', '50 % back', '−10 %')
    """
    if kind in ("above", "below", "within") and signal == "throttle_stick":
        return f"{plain(power_percent(value))} %"
    if kind in ("above", "below", "within") and signal in STICK_SIDES and value:
        return f"{plain(abs(value))} % {STICK_SIDES[signal][value > 0]}"
    return f"{plain(value)} %"


def node_named(model: Model, name: str) -> LogicSwitch | None:
    """A logical switch by its name."""
    return next((x for x in model.program.logic if x.name == name), None)


def mode_label(model: Model, name: str) -> str:
    """What people call a flight mode."""
    return next((m.label for m in model.program.modes if m.name == name), name)


def timer_named(model: Model, name: str) -> str:
    """What people call a timer."""
    found = next((x for x in model.program.timers if x.name == name), None)
    return name if found is None else timer_label(found)


def signal_label(model: Model, name: str) -> str:
    """What people call a signal that can be compared."""
    return signal_labels(model).get(name, name.replace("_", " "))


@kept
def signal_labels(model: Model) -> Mapping[str, str]:
    """What people call everything that can be read, fed or compared."""
    names = {p.name: p.label for p in model.airframe.moved()} | {c.name: c.label for c in model.transmitter.controls}
    names |= {c: f"{c} command" for c in AXIS_COMMANDS} | {s: s.replace("_", " ") for s in STICKS}
    names |= model.program.signal_labels()
    names |= {x.name: said_name(x.label, UNNAMED, x.name) for x in model.program.logic}
    return names | {"full": "a constant 100 %", "link_quality": "link quality"}


def named(model: Model) -> list[LogicSwitch]:
    """The conditions that somebody has named, in their order; gates, which are signals, too."""
    return [x for x in model.program.logic if x.label != UNNAMED]


def condition_path(model: Model, name: str) -> str:
    """Where a condition stands in the document."""
    return f"program.logic[{next(i for i, x in enumerate(model.program.logic) if x.name == name)}]"


def compared_signals(model: Model) -> list[str]:
    """What can be compared: sticks, sliders and knobs, the link's quality, gates."""
    controls = [c.name for c in model.transmitter.controls if not c.is_switch]
    return [*STICKS, *controls, "link_quality", *(x.name for x in model.program.logic if isinstance(x, Gate))]
