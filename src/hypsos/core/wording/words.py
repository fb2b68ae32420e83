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


SHARED_VALUE = (
    "A shared value is one figure that rates, expo, gains and points can go by: set in one place, "
    "for each flight mode, and in flight."
)


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


LEAST_POWER = 0.05
"""Percent of power: less is a motor that stands still."""


def is_at_rest(part: Part, deg: float | None, mm: float | None) -> bool:
    """Whether a part stands where nothing moves it, as closely as that is said. A motor stands
    still, and what has two ends lies at one of them: neither is at rest."""
    if isinstance(part, Motor) or (isinstance(part, Device) and part.kind not in STEERED):
        return False
    away = deg if mm is None else mm
    return away is None or round(abs(away), 1) == 0


def _rest_word(part: Part) -> str:
    """What is said of a part that nothing moves: ``shut`` of one that opens."""
    return "shut" if isinstance(part, Surface) and part.role in OPENING else "neutral"


def side_percent(part: Part, value: float, digits: int = 0) -> str:
    """A share of full deflection in words: ``'35 % down'``; ``'neutral'`` at zero."""
    if number(abs(value), digits) == number(0, digits):
        return _rest_word(part) if not isinstance(part, Motor) else "0 %"
    return f"{number(abs(value), digits)} % {sense_words(part)[value > 0]}"


def channel_percent(part: Part, value: float) -> str:
    """The same with a decimal where there is one: ``'35 % down'``, ``'35.5 % down'``."""
    whole = float(round(value, 1)).is_integer()
    return side_percent(part, value, 0 if whole else 1)


def standing(part: Part, stand: float, deg: float | None, mm: float | None) -> str:
    """Where a part stands, as one would say it: ``'12 mm up'``, ``'8° right'``, ``'43 % power'``,
    ``'stopped'``."""
    if isinstance(part, Motor):
        power = power_percent(stand)
        return "stopped" if power < LEAST_POWER else f"{number(power)} % power"
    if isinstance(part, Device) and part.kind not in STEERED:
        low, high = DEVICE_WORDS[part.kind]
        if abs(stand) <= 50:
            return f"between {low} and {high}"
        return high if stand > 0 else low
    if is_at_rest(part, deg, mm):
        return _rest_word(part)
    words = sense_words(part)
    if mm is not None:
        return f"{number(abs(mm), 1)} mm {words[mm > 0]}"
    assert deg is not None
    return f"{angle(deg)} {words[deg > 0]}"


def angle(deg: float) -> str:
    """How large an angle is, whichever way: ``'8.0°'``."""
    return f"{number(abs(deg), 1)}°"


def degrees(part: Part, deg: float) -> str:
    """An angle in words: ``'8.0° up'``."""
    if round(abs(deg), 1) == 0:
        return angle(0.0)
    return f"{angle(deg)} {sense_words(part)[deg > 0]}"


def clause(sentence: str) -> str:
    """A sentence without its full stop, for within another one."""
    return sentence.removesuffix(".")


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
