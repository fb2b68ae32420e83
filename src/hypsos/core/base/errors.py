# SPDX-License-Identifier: GPL-3.0-or-later
"""What can go wrong, said so that a pilot can act on it."""

from __future__ import annotations

import re

UNITS = ("_mm", "_deg", "_us", "_s")


def field_words(path: str) -> str:
    """What a person calls the field at a document path.

    >>> field_words("airframe.surfaces[3].throw_up_deg")
    'the throw up'
    """
    name = re.sub(r"\[\d+\]$", "", path).rsplit(".", 1)[-1]
    for unit in UNITS:
        name = name.removesuffix(unit)
    return f"the {name.replace('_', ' ')}" if name else "this"


class HypsosError(Exception):
    """Something that could not be done.

    Parameters
    ----------
    what : one sentence part: what happened.
    where : the place: a document path such as ``program.axes[0].settings[1].expo``, a file, a row and column.
    remedy : what to do about it.
    """

    def __init__(self, what: str, where: str = "", remedy: str = "") -> None:
        super().__init__(what)
        self.what, self.where, self.remedy = what, where, remedy

    def __str__(self) -> str:
        head = f"{self.where}: {self.what}" if self.where else self.what
        head = head.rstrip(".") + "."
        return f"{head} {self.remedy}".strip()

    @property
    def plain(self) -> str:
        """What is said where the place is before one's eyes: what happened and what to do, without
        paths."""
        what = self.what
        if what.startswith(("should ", "this field ")):
            what = f"{field_words(self.where)} {what.removeprefix('this field ')}"
        return f"{what[:1].upper()}{what[1:]}".rstrip(".") + f". {self.remedy}".rstrip()


class DocumentError(HypsosError):
    """A model document that does not hold together. ``where`` is a path in the document or a file's
    name."""


class MovesError(HypsosError):
    """A list of stick and switch moves that cannot be played. ``where`` names row and column."""


class HangarError(HypsosError):
    """The store of models could not be read or written; nothing was changed."""


class HangarMoved(HangarError):
    """The hangar's file is gone, or another file lies in its place, since it was opened; nothing
    was written."""


class MovedOn(HangarError):
    """Another window or program has written a model since it was read; ``gone`` where it took it
    out."""

    def __init__(self, what: str, where: str, remedy: str, gone: bool) -> None:
        super().__init__(what, where, remedy)
        self.gone = gone
