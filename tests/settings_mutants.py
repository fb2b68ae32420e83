# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings with one thing changed, as a slip of the finger would: for the test of the prover."""

from __future__ import annotations

import copy
import json
from collections.abc import Iterator
from typing import Any

LEFT_ALONE = {"format", "version", "school", "model", "transmitter", "design", "label", "words"}
"""Fields that move nothing, by what they are."""


def mutants(settings: Any, step: float = 1.0) -> Iterator[tuple[str, Any]]:
    """Every settings file that differs in one place: a number a step more or less, ten more or less,
    of the other sign; a flag turned; a line of a list dropped, doubled, exchanged with its
    neighbour. Each with the words for what was done; those that are no settings are left out."""
    data = json.loads(settings.model_dump_json())
    kind = type(settings)
    for path, how, change in _changes(data, (), step):
        made = copy.deepcopy(data)
        change(made)
        try:
            yield f"{'.'.join(map(str, path))} {how}", kind.model_validate(made)
        except ValueError:
            continue


def _changes(x: Any, path: tuple[Any, ...], step: float) -> Iterator[tuple[Any, str, Any]]:
    if path and path[-1] in LEFT_ALONE:
        return
    if path and path[0] in ("said", "timers", "wing", "tail"):
        return
    if isinstance(x, bool):
        yield path, "turned", _setter(path, not x)
    elif isinstance(x, (int, float)):
        for how, value in (
            ("+1", x + step), ("-1", x - step), ("+10", x + 10), ("-10", x - 10), ("sign", -x),
        ):  # fmt: skip
            if value != x:
                yield path, how, _setter(path, value)
    elif isinstance(x, list):
        for i in range(len(x)):
            yield (*path, i), "dropped", _lister(path, i, "drop")
            yield (*path, i), "doubled", _lister(path, i, "double")
            if i + 1 < len(x) and x[i] != x[i + 1]:
                yield (*path, i), "exchanged", _lister(path, i, "exchange")
            yield from _changes(x[i], (*path, i), step)
    elif isinstance(x, dict):
        for key, value in x.items():
            yield from _changes(value, (*path, key), step)


def _at(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path:
        data = data[key]
    return data


def _setter(path: tuple[Any, ...], value: Any) -> Any:
    def change(data: Any) -> None:
        _at(data, path[:-1])[path[-1]] = value

    return change


def _lister(path: tuple[Any, ...], place: int, how: str) -> Any:
    def change(data: Any) -> None:
        found = _at(data, path)
        if how == "drop":
            del found[place]
        elif how == "double":
            found.insert(place, copy.deepcopy(found[place]))
        else:
            found[place], found[place + 1] = found[place + 1], found[place]

    return change
