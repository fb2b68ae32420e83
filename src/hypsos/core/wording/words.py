# SPDX-License-Identifier: GPL-3.0-or-later
"""How figures are said to people. A surface's movement is never a bare sign: it is up or down, left
or right."""

from __future__ import annotations

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import OPENING, SPLIT, STEERED, Device, Motor, Surface
from hypsos.core.parts.guard_states import GuardState
from hypsos.core.parts.transmitter import STICK_SIDES

Part = Surface | Motor | Device
GUARD_WORDS = {GuardState.CUT: "cut", GuardState.LOCKED: "locked", GuardState.ARMED: "armed"}
DEVICE_WORDS = {
    "tow release": ("closed", "open"),
    "retracts": ("down", "up"),
    "gear doors": ("closed", "open"),
}


def sense_words(part: Part) -> tuple[str, str]:
    """What - and + mean for a part: up and down, or left and right."""
    if isinstance(part, Motor):
        return ("less", "more")
    if isinstance(part, Device):
        return ("left", "right") if part.kind in STEERED else DEVICE_WORDS[part.kind]
    if part.role in SPLIT:
        return ("open", "shut")
    return ("left", "right") if part.vertical else ("up", "down")


def control_label(model: Model, name: str) -> str:
    """What people call a control: ``'throttle stick'``, ``'Motor slider'``."""
    control = model.transmitter.control(name)
    return control.label if control is not None else name.replace("_", " ")


def part_named(model: Model, name: str) -> Part:
    """A surface, motor or device by its name. Raises HypsosError that lists those there are."""
    for part in model.airframe.moved():
        if part.name == name:
            return part
    known = ", ".join(p.name for p in model.airframe.moved())
    raise HypsosError(
        f"{model.name} has no surface, motor or device called {name}", "", f"It has {known}."
    )


def run_positions(model: Model) -> list[int]:
    """The positions of the motor switch in which the motors may run."""
    guard = model.program.guard
    control = None if guard is None else model.transmitter.control(guard.switch)
    if guard is None or control is None:
        return []
    return [place for place in range(len(control.positions)) if place not in guard.cut]


AT_REST = ("neutral", "shut")
"""What is said of a part that nothing moves: ``shut`` of one that opens."""


def _rest_word(part: Part) -> str:
    return "shut" if isinstance(part, Surface) and part.role in OPENING else "neutral"


def side_percent(part: Part, value: float, digits: int = 0) -> str:
    """A share of full deflection in words: ``'35 % down'``; ``'neutral'`` at zero."""
    if number(abs(value), digits) == number(0, digits):
        return _rest_word(part) if not isinstance(part, Motor) else "0 %"
    return f"{number(abs(value), digits)} % {sense_words(part)[value > 0]}"


def standing(part: Part, stand: float, deg: float | None, mm: float | None) -> str:
    """Where a part stands, as one would say it: ``'12 mm up'``, ``'8° right'``, ``'43 % power'``,
    ``'stopped'``."""
    if isinstance(part, Motor):
        power = power_percent(stand)
        return "stopped" if power < 0.05 else f"{number(power)} % power"
    if isinstance(part, Device) and part.kind not in STEERED:
        low, high = DEVICE_WORDS[part.kind]
        if abs(stand) <= 50:
            return f"between {low} and {high}"
        return high if stand > 0 else low
    words = sense_words(part)
    at_rest = _rest_word(part)
    if mm is not None:
        return (
            at_rest if number(abs(mm), 1) == "0.0" else f"{number(abs(mm), 1)} mm {words[mm > 0]}"
        )
    if deg is None or number(abs(deg), 1) == "0.0":
        return at_rest
    return f"{number(abs(deg), 1)}° {words[deg > 0]}"


def degrees(part: Part, deg: float) -> str:
    """An angle in words: ``'8.0° up'``."""
    shown = number(abs(deg), 1)
    return "0.0°" if shown == "0.0" else f"{shown}° {sense_words(part)[deg > 0]}"


def stick_words(name: str, value: float) -> str:
    """Where a stick stands, as one would say it: ``'60 left'``, ``'centre'``; the throttle
    ``'low'``, ``'40 %'``, ``'full'``.

    >>> stick_words("elevator_stick", -50), stick_words("throttle_stick", -20), stick_words("aileron_stick", 0.2)
    ('50 back', '40 %', 'centre')
    """
    if name == "throttle_stick":
        ends = {-100: "low", 100: "full"}
        return ends.get(round(value), f"{number(power_percent(value))} %")
    return "centre" if abs(value) < 0.5 else f"{abs(value):.0f} {STICK_SIDES[name][value > 0]}"
