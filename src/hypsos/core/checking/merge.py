# SPDX-License-Identifier: GPL-3.0-or-later
"""An edit made on one state of a model, made again on a newer one: only what it changed is changed
there.

Sought: two windows have one model open. This one makes an edit on what it knows; meanwhile the
other has written. Both edits are to be in what is kept.

What must stay true: whatever the edit left alone is as the other window has it, gone if it is gone
there; whatever the edit changed is as the edit has it. Where both changed the same figure, the
later edit stands. What comes of it is checked like any document, and refused with its place where
the two don't go together.

How: documents are compared field by field and key by key. A list of one length in all three is
compared item by item; a list that the edit made longer or shorter goes over whole, for its items
can't be told apart by their place.

An example: here a throw goes from 20 to 25; there a mode is taken out, with the trims kept for it.
The result has the new throw, and neither the mode nor its trims."""

from __future__ import annotations

from typing import Any

from hypsos.core.base.errors import DocumentError
from hypsos.core.checking.checks import first_problem
from hypsos.core.document.document import Model, checked


def carried(before: Model, after: Model, newer: Model) -> Model:
    """``newer`` with what tells ``after`` from ``before``: field by field, and item by item in
    lists of one length; a list that the edit made longer or shorter goes over whole. Raises
    DocumentError where the two don't go together."""
    made = _carried(*(m.model_dump(mode="json") for m in (before, after, newer)))
    model = checked(lambda: Model(**made))
    problem = first_problem(model)
    if problem is not None:
        raise DocumentError(
            problem.text, problem.path, "The other window's change stands; make yours by hand."
        )
    return model


def _carried(before: Any, after: Any, newer: Any) -> Any:
    if before == after:
        return newer
    if isinstance(after, dict) and isinstance(before, dict) and isinstance(newer, dict):
        return _carried_keys(before, after, newer)
    lists = isinstance(after, list) and isinstance(before, list) and isinstance(newer, list)
    if lists and len(before) == len(after) == len(newer):
        return [_carried(b, a, n) for b, a, n in zip(before, after, newer, strict=True)]
    return after


def _carried_keys(
    before: dict[str, Any], after: dict[str, Any], newer: dict[str, Any]
) -> dict[str, Any]:
    """Key by key: what the edit took out is gone, and what it left alone is as it is in ``newer``,
    gone there or not."""
    made: dict[str, Any] = {}
    for key in dict.fromkeys((*newer, *after)):
        taken_out = key in before and key not in after
        left_alone = key in before and key in after and before[key] == after[key]
        if taken_out or (left_alone and key not in newer):
            continue
        made[key] = _carried(before.get(key), after.get(key), newer.get(key))
    return made
