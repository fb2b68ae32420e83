"""Rows of a page whose thing has gone: an undo, another window, a neighbour's button took it out under a hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from inspect import CO_VARARGS
from typing import Any, TypeVar

from hypsos.core.ground.errors import HypsosError

Thing = TypeVar("Thing")


class GoneError(HypsosError):
    """What a row shows is no longer in the model."""

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


def while_there(slot: Callable[..., Any]) -> Callable[..., None]:
    """A slot that does nothing once what its row shows has gone: a field hands in what was typed as it leaves the screen.

    A signal may carry more than the slot takes, such as a button's tick; Qt leaves that out by itself, and so does this.
    """
    code = slot.__code__
    most = code.co_argcount if not code.co_flags & CO_VARARGS else None

    @wraps(slot)
    def guarded(*args: Any, **kwargs: Any) -> None:
        try:
            slot(*args[:most], **kwargs)
        except GoneError:
            return

    return guarded
