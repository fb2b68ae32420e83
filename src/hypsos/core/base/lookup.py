# SPDX-License-Identifier: GPL-3.0-or-later
"""Things by their names: what a hand still holds and may have gone (by an undo, by another window,
by a neighbour's button), one in the place of another, and a name that nobody has."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Container, Iterable
from typing import Any, Protocol, TypeVar

from hypsos.core.base.errors import HypsosError

Thing = TypeVar("Thing")


class Named(Protocol):
    """Anything that has a name of its own."""

    @property
    def name(self) -> str:
        """The name."""


NamedThing = TypeVar("NamedThing", bound=Named)


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


def replaced(things: Iterable[NamedThing], made: NamedThing) -> tuple[NamedThing, ...]:
    """The same things with ``made`` in the place of the one of its name."""
    return tuple(made if thing.name == made.name else thing for thing in things)


def first_free(wanted: str, taken: Container[str], between: str = " ", longest: int = 99) -> str:
    """A name that is not ``taken``: the wanted one, or that with the first number behind it that is
    free. ``longest``: so many letters of the wanted one are kept before a number.

    >>> first_free("flap", {"flap", "flap_2"}, "_")
    'flap_3'
    """
    if wanted not in taken:
        return wanted
    return first_numbered(wanted[:longest], taken, between, 2)


def first_numbered(stem: str, taken: Container[str], between: str = " ", first: int = 1) -> str:
    """The same for a name that always has a number, counted from the ``first``."""
    names = (f"{stem}{between}{number}" for number in itertools.count(first))
    return next(name for name in names if name not in taken)
