# SPDX-License-Identifier: GPL-3.0-or-later
"""An edit made on one state of a model, made again on a newer one: only what it changed is changed
there.

Sought: two windows have one model open. This one makes an edit on what it knows; meanwhile the
other has written. Both edits are to be in what is kept.

What must stay true: whatever the edit left alone is as the other window has it, gone if it is gone
there; whatever the edit changed is as the edit has it. Where both changed the same figure, the
later edit stands. No figure goes to another part than the one that it was typed for. What comes of
it is checked like any document, and refused with its place where the two don't go together.

How: documents are compared field by field and key by key. The parts in a list (leads, mixes,
behaviours ...) are known by their names, wherever they stand; a part that has only been renamed
stays the same one. Lists of figures are compared item by item where they are of one length; one
that the edit made longer or shorter goes over whole.

An example: here the second of three mixes goes from 20 to 25 %; there the first one is taken out.
The result has two mixes, of which the first has 25 %."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Mapping, Sequence
from typing import Any, TypeVar

from hypsos.core.base.errors import DocumentError
from hypsos.core.checking.checks import first_problem
from hypsos.core.document.document import Model, checked

BY_HAND = "The other window's change stands; make yours by hand."
KNOWN_BY = (
    ("name",),
    ("command",),
    ("motor",),
    ("kind", "label"),
    ("first", "second"),
    ("caption",),
    ("label",),
)
"""The fields by which parts of a document are known; of a part the first of these that it has."""


Key = TypeVar("Key", bound=Hashable)


def carried(before: Model, after: Model, newer: Model) -> Model:
    """``newer`` with what tells ``after`` from ``before``, part by part and field by field. Raises
    DocumentError where the two don't go together."""
    made = _carried(*(m.model_dump(mode="json") for m in (before, after, newer)))
    model = checked(lambda: Model(**made))
    problem = first_problem(model)
    if problem is not None:
        raise DocumentError(problem.text, problem.path, BY_HAND)
    return model


def _carried(before: Any, after: Any, newer: Any) -> Any:
    if before == after:
        return newer
    if isinstance(after, dict) and isinstance(before, dict) and isinstance(newer, dict):
        return _carried_keys(before, after, newer)
    if isinstance(after, list) and isinstance(before, list) and isinstance(newer, list):
        return _carried_list(before, after, newer)
    return after


def _carried_keys(
    before: dict[str, Any], after: dict[str, Any], newer: dict[str, Any]
) -> dict[str, Any]:
    """Key by key: what the edit took out is gone, and what it left alone is as it is in ``newer``,
    gone there or not."""
    return {key: _one(key, before, after, newer) for key in _kept(before, after, newer)}


def _kept(
    before: Mapping[Key, Any], after: Mapping[Key, Any], newer: Mapping[Key, Any]
) -> list[Key]:
    """The keys that stay, in the order of ``newer``, then those that only the edit has."""
    kept = []
    for key in dict.fromkeys((*newer, *after)):
        taken_out = key in before and key not in after
        left_alone = key in before and key in after and before[key] == after[key]
        if not taken_out and (key in newer or not left_alone):
            kept.append(key)
    return kept


def _one(
    key: Key, before: Mapping[Key, Any], after: Mapping[Key, Any], newer: Mapping[Key, Any]
) -> Any:
    return _carried(before.get(key), after.get(key), newer.get(key))


def _carried_list(before: list[Any], after: list[Any], newer: list[Any]) -> list[Any]:
    if all(isinstance(x, dict) and _name(x) for x in (*before, *after, *newer)):
        return _carried_parts(before, after, newer)
    if len(before) == len(after) == len(newer):
        return [_carried(b, a, n) for b, a, n in zip(before, after, newer, strict=True)]
    return after


def _carried_parts(
    before: list[dict[str, Any]], after: list[dict[str, Any]], newer: list[dict[str, Any]]
) -> list[Any]:
    """Parts by their names. They stand as in ``newer``, or as in ``after`` where the edit has moved
    them; what the edit has added stands behind what it was put behind."""
    names = _names(before)
    old = dict(zip(names, before, strict=True))
    mine = dict(zip(_names_since(names, after), after, strict=True))
    theirs = dict(zip(_names_since(names, newer), newer, strict=True))
    for key in mine.keys() & theirs.keys() - old.keys():
        if mine[key] != theirs[key]:
            text = f"both windows have added {key[0][-1]}, and not the same"
            raise DocumentError(text, str(key[0][-1]), BY_HAND)
    kept = _kept(old, mine, theirs)
    moved = [k for k in mine if k in old] != [k for k in old if k in mine]
    order = _placed(list(theirs), list(mine))
    if moved:
        order = _placed(list(mine), list(theirs))
    return [_one(key, old, mine, theirs) for key in order if key in kept]


def _placed(order: list[Any], others: Sequence[Any]) -> list[Any]:
    """An order with whatever only ``others`` has, each behind the one that it follows there."""
    out = list(order)
    for i, key in enumerate(others):
        if key not in out:
            out.insert(out.index(others[i - 1]) + 1 if i else 0, key)
    return out


Name = tuple[tuple[Any, ...], int]
"""What a part is known by, and which one it is of those of that name."""


def _name(part: dict[str, Any]) -> tuple[Any, ...] | None:
    for fields in KNOWN_BY:
        if all(field in part for field in fields):
            return tuple(part[field] for field in fields)
    return None


def _names(parts: Sequence[dict[str, Any]]) -> list[Name]:
    seen: Counter[Any] = Counter()
    out = []
    for part in parts:
        name = _name(part)
        assert name is not None
        out.append((name, seen[name]))
        seen[name] += 1
    return out


def _names_since(before: Sequence[Name], parts: Sequence[dict[str, Any]]) -> list[Name]:
    """The names of parts as they were ``before``: where none was added or taken out, a new name in
    the place of one that is gone is that part renamed."""
    names = _names(parts)
    if len(names) != len(before):
        return names
    gone, new = set(before) - set(names), set(names) - set(before)
    out = []
    for was, now in zip(before, names, strict=True):
        renamed = was in gone and now in new
        out.append(was if renamed else now)
    return out
