# SPDX-License-Identifier: GPL-3.0-or-later
"""Looking up what a hand still holds, and what may have gone: by an undo, by another window, by a
neighbour's button."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from hypsos.core.base.errors import HypsosError

Thing = TypeVar("Thing")


class GoneError(HypsosError):
    """What is asked for is no longer in the model."""

    def __init__(self) -> None:
        super().__init__("this is no longer in the model", "", "The page shows what there is now.")


def the_one(things: Iterable[Thing], found: Callable[[Thing], bool]) -> Thing:
    """The thing for which ``found`` holds. Raises GoneError."""
    for thing in things:
        if found(thing):
            return thing
    raise GoneError


def the_place(things: Iterable[object], name: object) -> int:
    """Where ``name`` stands among ``things``. Raises GoneError."""
    for place, thing in enumerate(things):
        if thing == name:
            return place
    raise GoneError


def at_place(things: tuple[Thing, ...], place: int) -> Thing:
    """The thing at a place. Raises GoneError."""
    if not 0 <= place < len(things):
        raise GoneError
    return things[place]


def the_named(things: Iterable[Any], name: str) -> Any:
    """The thing with this ``name``. Raises GoneError."""
    return the_one(things, lambda thing: bool(thing.name == name))
