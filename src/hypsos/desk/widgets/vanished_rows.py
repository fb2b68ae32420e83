# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows of a page whose thing has gone: an undo, another window, a neighbour's button took it out
under a hand."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from inspect import CO_VARARGS
from typing import Any

from hypsos.core.base.lookup import GoneError


def while_there(slot: Callable[..., Any]) -> Callable[..., None]:
    """A slot that does nothing once what its row shows has gone: a field hands in what was typed as
    it leaves the screen.

    A signal may carry more than the slot takes, such as a button's tick; Qt leaves that out by
    itself, and so does this."""
    code = slot.__code__
    most = code.co_argcount if not code.co_flags & CO_VARARGS else None

    @wraps(slot)
    def guarded(*args: Any, **kwargs: Any) -> None:
        try:
            slot(*args[:most], **kwargs)
        except GoneError:
            return

    return guarded
