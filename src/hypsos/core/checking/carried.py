"""An edit made on one state of a model, made again on a newer one: only what it changed is changed there."""

from __future__ import annotations

from typing import Any

from hypsos.core.checking.checks import first_problem
from hypsos.core.ground.errors import DocumentError
from hypsos.core.model.document import Model, checked


def carried(before: Model, after: Model, newer: Model) -> Model:
    """``newer`` with what tells ``after`` from ``before``: field by field, and item by item in lists of one length; a list
    that the edit made longer or shorter goes over whole. Raises DocumentError where the two don't go together."""
    made = _carried(*(m.model_dump(mode="json") for m in (before, after, newer)))
    model = checked(lambda: Model(**made))
    problem = first_problem(model)
    if problem is not None:
        raise DocumentError(problem.text, problem.path, "The other window's change stands; make yours by hand.")
    return model


def _carried(before: Any, after: Any, newer: Any) -> Any:
    if before == after:
        return newer
    if isinstance(after, dict) and isinstance(before, dict) and isinstance(newer, dict):
        keys = dict.fromkeys((*newer, *after))
        return {k: _carried(before.get(k), after.get(k), newer.get(k)) for k in keys if k in after or k not in before}
    lists = isinstance(after, list) and isinstance(before, list) and isinstance(newer, list)
    if lists and len(before) == len(after) == len(newer):
        return [_carried(b, a, n) for b, a, n in zip(before, after, newer, strict=True)]
    return after
