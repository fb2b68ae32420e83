"""What can go wrong, said so that a pilot can act on it."""

from __future__ import annotations


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


class DocumentError(HypsosError):
    """A model document that does not hold together. ``where`` is a path in the document or a file's name."""


class MovesError(HypsosError):
    """A list of stick and switch moves that cannot be played. ``where`` names row and column."""


class HangarError(HypsosError):
    """The store of models could not be read or written; nothing was changed."""
