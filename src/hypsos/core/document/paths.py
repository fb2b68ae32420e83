# SPDX-License-Identifier: GPL-3.0-or-later
"""Paths into a document, such as ``program.axes[0].settings[1].expo``: read them, replace what is
there."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from hypsos.core.base.errors import DocumentError
from hypsos.core.base.validation_messages import field_error
from hypsos.core.conditions import KIND_NAMES
from hypsos.core.recipes import RECIPES

M = TypeVar("M", bound=BaseModel)
_PART = re.compile(r"([a-z_][a-z0-9_]*)|\[(\d+)\]")


def clean(text: str) -> str:
    """A text that can be written anywhere, of one line and not endless: for names found in
    files."""
    shown = text if len(text) <= 200 else f"{text[:200]}…"
    return "".join(c if c.isprintable() else "�" for c in shown)


def split_path(path: str) -> list[str | int]:
    """``'axes[0].expo'`` -> ``['axes', 0, 'expo']``."""
    return [int(index) if index else name for name, index in _PART.findall(path)]


def join_path(parts: Iterable[str | int]) -> str:
    """The inverse of :func:`split_path`; the tag that a union puts behind an index is left out."""
    tags = {kind.model_fields["kind"].default for kind in RECIPES} | KIND_NAMES
    text = ""
    after_index = False
    for part in parts:
        if isinstance(part, int):
            text += f"[{part}]"
        elif not (after_index and part in tags):
            text += f".{part}" if text else part
        after_index = isinstance(part, int)
    return text


def get_at(root: Any, path: str) -> Any:
    """What stands at a path. Raises DocumentError when nothing does."""
    here = root
    for part in split_path(path):
        try:
            keyed = isinstance(part, int) or isinstance(here, dict)
            here = here[part] if keyed else getattr(here, str(part))
        except (IndexError, KeyError, AttributeError, TypeError) as error:
            raise DocumentError("there is nothing at this place", path) from error
    return here


def with_at(root: M, path: str, value: Any) -> M:
    """A new document with another value at a path; every part on the way is validated again.

    Raises DocumentError with the path and the reason when the value is not allowed; the old
    document is untouched."""
    try:
        made: M = _replaced(root, split_path(path), value)
        return made
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise field_error(first, path, "The old value is kept.") from error


def _replaced(here: Any, parts: list[str | int], value: Any) -> Any:
    if not parts:
        return value
    head, rest = parts[0], parts[1:]
    if isinstance(head, int):
        items = list(here)
        items[head] = _replaced(items[head], rest, value)
        return tuple(items)
    if isinstance(here, dict):
        return {**here, head: _replaced(here[head], rest, value) if rest else value}
    fields = {name: getattr(here, name) for name in type(here).model_fields}
    fields[head] = _replaced(fields[head], rest, value)
    return type(here)(**fields)
