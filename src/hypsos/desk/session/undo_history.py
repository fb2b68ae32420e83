# SPDX-License-Identifier: GPL-3.0-or-later
"""Named steps to undo and redo."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from hypsos.core.document.document import Model

MOST = 200


class UndoStep(NamedTuple):
    """A step of the history: its name, and what undoes and redoes it. Steps with the same ``merge``
    become one. ``before`` is the model it set out from, where it changed that."""

    label: str
    undo: Callable[[], None]
    redo: Callable[[], None]
    merge: str = ""
    before: Model | None = None


class History:
    """What was done and what was undone, newest last. ``changed`` is called whenever either list
    changes."""

    def __init__(self, changed: Callable[[], object]) -> None:
        self._changed = changed
        self._done: list[UndoStep] = []
        self._undone: list[UndoStep] = []
        self._sealed = False  # what comes after an undo is a step of its own

    def add(self, change: UndoStep) -> None:
        """Remember a step that was just done."""
        last = self._done[-1] if self._done else None
        if last is not None and change.merge and last.merge == change.merge and not self._sealed:
            last = self._done.pop()
            change = change._replace(undo=last.undo, before=last.before)
        self._done.append(change)
        del self._done[:-MOST]
        self._undone.clear()
        self._sealed = False
        self._changed()

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._done[-1].label if self._done else None

    @property
    def last_edit(self) -> UndoStep | None:
        """The last step that changed the model."""
        return next((x for x in reversed(self._done) if x.before is not None), None)

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self._undone[-1].label if self._undone else None

    def undo(self) -> None:
        """Take back the last step. What the step raises leaves the history as it was."""
        if self._done:
            self._done[-1].undo()
            self._undone.append(self._done.pop())
            self._sealed = True
            self._changed()

    def redo(self) -> None:
        """Bring back the last step taken back. What the step raises leaves the history as it
        was."""
        if self._undone:
            self._undone[-1].redo()
            self._done.append(self._undone.pop())
            self._sealed = True
            self._changed()
