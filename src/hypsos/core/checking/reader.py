# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents read from text: what is wrong with them is said in our words, with its place."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from hypsos.core.base.errors import DocumentError
from hypsos.core.base.validation_messages import field_error
from hypsos.core.checking.checks import first_problem, problems
from hypsos.core.document.document import FORMAT, LARGEST, SCHEMA_VERSION, Model
from hypsos.core.document.migrate import migrated
from hypsos.core.document.paths import clean, join_path

MOST_ERRORS = 200
DEEPEST = 40
"""Brackets within brackets; a model has fewer than twenty."""
TOO_DEEP = "the file is nested too deeply to be a model"


def from_json(text: str, source: str = "model file") -> Model:
    """Read a model from JSON text.

    Parameters
    ----------
    text : the file's contents.
    source : what to call it in an error, usually the file's name.

    Raises
    ------
    DocumentError : no JSON, not a model, from a newer version, a field out of bounds, or a name that dangles; the error
        names the place in the document.
    """
    model = _parsed(text, source)
    problem = first_problem(model)
    if problem is not None:
        raise DocumentError(problem.text, f"{source}, {problem.path}", problem.remedy)
    return model


def file_problems(text: str, source: str = "model file") -> list[str]:
    """Every reason why a file cannot be used, one sentence each; empty when it is sound."""
    try:
        data = _object(text, source)
        model = Model.model_validate(data)
    except DocumentError as error:
        return [str(error)]
    except ValidationError as error:
        return [str(e) for e in validation_errors(error, source)]
    return [str(DocumentError(p.text, f"{source}, {p.path}", p.remedy)) for p in problems(model)]


def validation_errors(error: ValidationError, source: str) -> list[DocumentError]:
    """Each finding of a failed validation as an error with its path in the document."""
    out = []
    for item in error.errors(include_url=False)[:MOST_ERRORS]:
        path = clean(join_path(item["loc"]))
        where = f"{source}, {path}" if path else source
        remedy = "Correct this field and try again; nothing was changed."
        out.append(field_error(item, where, remedy))
    return out


def _parsed(text: str, source: str) -> Model:
    try:
        return Model.model_validate(_object(text, source))
    except ValidationError as error:
        raise validation_errors(error, source)[0] from error


def _object(text: str, source: str) -> dict[str, Any]:
    unchanged = "Choose a model file written by Hypsos; nothing was changed."
    if len(text) > LARGEST:
        raise DocumentError(
            f"a model file has at most {LARGEST:,} letters, this one {len(text):,}",
            source,
            unchanged,
        )
    try:
        data = json.loads(text)
    except json.JSONDecodeError as error:
        where = f"{source}, line {error.lineno}, column {error.colno}"
        raise DocumentError("the file is damaged or is not JSON", where, unchanged) from error
    except RecursionError as error:
        raise DocumentError(TOO_DEEP, source, unchanged) from error
    except ValueError as error:  # a whole number of thousands of digits
        raise DocumentError(
            "a number in the file has too many digits", source, unchanged
        ) from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DocumentError("this is not a Hypsos model file", source, unchanged)
    if _deeper_than(data, DEEPEST):
        raise DocumentError(TOO_DEEP, source, unchanged)
    version = data.get("schema_version")
    if isinstance(version, int) and version > SCHEMA_VERSION:
        text = f"the file is from a newer Hypsos (format {version}; this one reads up to {SCHEMA_VERSION})"
        raise DocumentError(text, source, "Open it with a newer Hypsos; nothing was changed.")
    return migrated(data)


def _deeper_than(data: Any, most: int) -> bool:
    """Whether lists and objects lie within each other more than so many times."""
    level = [data]
    for _ in range(most):
        inside: list[Any] = []
        for held in level:
            inside += held.values() if isinstance(held, dict) else held
        level = [x for x in inside if isinstance(x, dict | list)]
        if not level:
            return False
    return True
