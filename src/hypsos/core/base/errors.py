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
        what = self._in_words()
        return f"{what[:1].upper()}{what[1:]}".rstrip(".") + f". {self.remedy}".rstrip()

    def _in_words(self) -> str:
        """What happened, where no path stands before it."""
        return self.what


class DocumentError(HypsosError):
    """A model document that does not hold together. ``where`` is a path in the document or a file's
    name."""


class FieldError(DocumentError):
    """A field of a document with a value that it may not have.

    ``predicate`` says so behind the field's name: ``'should be a number'``; ``alone``: beside a
    path it needs a subject: ``'this field is missing'``."""

    def __init__(self, predicate: str, where: str, remedy: str, alone: bool = False) -> None:
        super().__init__(f"this field {predicate}" if alone else predicate, where, remedy)
        self.predicate = predicate

    def _in_words(self) -> str:
        return f"{field_words(self.where)} {self.predicate}"


class MovesError(HypsosError):
    """A list of stick and switch moves that cannot be played. ``where`` names row and column."""


class HangarError(HypsosError):
    """The store of models could not be read or written; nothing was changed."""


class HangarDamaged(HangarError):
    """The store of models is there, and cannot be read as one."""


class HangarMoved(HangarError):
    """The hangar's file is gone, or another file lies in its place, since it was opened; nothing
    was written."""


class MovedOn(HangarError):
    """Another window or program has written a model since it was read; ``gone`` where it took it
    out."""

    def __init__(self, what: str, where: str, remedy: str, gone: bool) -> None:
        super().__init__(what, where, remedy)
        self.gone = gone
