# SPDX-License-Identifier: GPL-3.0-or-later
"""Reading back: the figures of a step that a transmitter shows, and the settings with one of them as
it was read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any, NamedTuple

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.on_paper.blocks import NEW_LINE
from hypsos.core.schools.settings_file import Settings
from hypsos.core.sheet.keying_in import KeyedStep

WORDS = {
    "above": "weight above zero, %", "below": "weight below zero, %", "end_below": "travel, low side, %",
    "end_above": "travel, high side, %",
    "stop_below": "stop, low side, %", "stop_above": "stop, high side, %", "slow_in": "slow in, s", "slow_out": "slow out, s",
    "slow_up": "slow up, s", "slow_down": "slow down, s", "weight": "rate, %", "expo": "expo, %",
    "place_us": "failsafe, µs", "by_mode": "value in",
    "fade_s": "fade, s", "delay_in": "slow in, s", "delay_out": "slow out, s", "time_in": "slow in, s", "time_out": "slow out, s",
    "low": "lower bound", "high": "upper bound", "start": "stands at, %", "reach": "reaches, %", "value": "value, %",
    "level": "level, %", "own": "its own in", "span_s": "seconds",
    "every_s": "every so many seconds", "centre": "centre, %",
}  # fmt: skip
"""What the fields of settings are called."""
NO_FIGURES = frozenset({"port", "positions", "pivot", "unheard", "rest", "cut_at"})
"""Fields with numbers that nobody reads off a transmitter."""
SKIPPED = frozenset({"feels", "takes", "shares", "slots", "values"})
"""Fields that say nothing to a pilot on the way to a figure."""
AT_NOTHING = frozenset(
    {"slow_up", "slow_down", "slow_in", "slow_out", "delay_in", "delay_out", "time_in", "time_out", "level", "seconds", "every_s"}
)  # fmt: skip
"""Fields that are not there where they are 0."""
BOUNDS = frozenset({"low", "high"})
NAMES = ("name", "part", "label", "sum", "kind")
SOURCES = ("source", "function", "control", "part", "value")


class ReadField(NamedTuple):
    """A figure of a step as it is in the settings: its path, what it is, its value."""

    path: str
    label: str
    value: float


def read_fields(
    settings: Settings, step: KeyedStep, called: Callable[[str], str] = str
) -> list[ReadField]:
    """The figures of a step that a transmitter shows; ``called``: what the sheet calls a name of the
    settings."""
    data = settings.model_dump(mode="json")
    found = []
    for whole in step.covers:
        for path, value in _leaves(_at(data, whole), whole):
            words = _leaf_words(data, whole, path, called)
            # what has no name of its own is called as its row begins
            named = words[0] or _row_name(step)
            found.append(ReadField(path, ", ".join([named, *words[1:]]), value))
    return found


def _row_name(step: KeyedStep) -> str:
    """What a row begins with; behind a bare number what comes next."""
    first = step.cells[0].replace(NEW_LINE, " ")
    return f"{first} {step.cells[1]}" if first.isdigit() and len(step.cells) > 1 else first


def as_read(made: Keying, path: str, value: float) -> Any:
    """The settings with a figure as the transmitter shows it. Raises HypsosError where it can't be
    one."""
    data = made.settings.model_dump(mode="json")
    above, _, last = path.rpartition(".")
    place = _at(data, above)
    place[int(last) if isinstance(place, list) else last] = value
    try:
        return made.school.settings.model_validate(data)
    except ValueError as error:
        said = f"{plain(value)} is no figure for this place"
        raise HypsosError(said, path, "Look at it once more.") from error


def _at(data: Any, path: str) -> Any:
    for part in path.split("."):
        data = data[int(part)] if isinstance(data, list) else data[part]
    return data


def _leaves(data: Any, path: str) -> Iterator[tuple[str, float]]:
    if isinstance(data, dict):
        for key, value in data.items():
            fixed = key in BOUNDS and "port" in data
            absent = key in AT_NOTHING and value == 0
            if key not in NO_FIGURES and not fixed and not absent:
                yield from _leaves(value, f"{path}.{key}")
    elif isinstance(data, list):
        for place, value in enumerate(data):
            yield from _leaves(value, f"{path}.{place}")
    elif isinstance(data, int | float) and not isinstance(data, bool):
        yield path, float(data)


def _leaf_words(data: Any, whole: str, path: str, called: Callable[[str], str]) -> list[str]:
    """A figure in words, the name of what it belongs to first, which may be empty:
    ``['Left flaperon', 'Roll', 'weight above zero, %']``."""
    at, said = whole, [called(_first(_at(data, whole), NAMES))]
    rest, points, point = path.removeprefix(f"{whole}.").partition("bend.points.")
    for part in filter(None, rest.split(".")):
        at = f"{at}.{part}"
        inner = _at(data, at)
        if part in SKIPPED:
            continue
        if not part.isdigit():
            said.append(WORDS.get(part) or called(part))
        elif isinstance(inner, dict):
            source = called(_first(inner, SOURCES)) or f"line {int(part) + 1}"
            held = [called(x) for x in _held(inner)]
            said.append(f"{source} ({' and '.join(held)})" if held else source)
        else:
            said.append(str(int(part) + 1))
    if points:
        place, _, which = point.partition(".")
        said.append(
            f"curve, point {int(place) + 1}, {('where it lies', 'how high it is')[int(which)]}, %"
        )
    return [said[0], *(x for x in said[1:] if x)]


def _first(thing: Any, keys: tuple[str, ...]) -> str:
    """The first of these fields that says anything."""
    if not isinstance(thing, dict):
        return ""
    return next((str(thing[key]) for key in keys if isinstance(thing.get(key), str)), "")


def _held(thing: Mapping[str, Any]) -> list[str]:
    return [str(x) for key in ("when", "modes", "places") for x in thing.get(key) or ()]
