# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings files in and out."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from hypsos.core.base.errors import DocumentError
from hypsos.core.checking.reader import validation_errors
from hypsos.core.schools import SCHOOLS
from hypsos.core.schools.settings_file import FORMAT, VERSION, Settings

LARGEST = 2_000_000
"""Letters in a settings file; the largest of the demo models' has a tenth of it."""
UNCHANGED = "Choose a settings file written by Hypsos; nothing was changed."


def settings_from_json(text: str, source: str = "settings file") -> Any:
    """Read settings of any school from JSON text.

    Raises DocumentError: too long, no JSON, no settings, from a newer version, of a school that
    isn't there, or with a field out of bounds; it names the place."""
    if len(text) > LARGEST:
        raise DocumentError(
            f"a settings file has at most {LARGEST:,} letters, this one {len(text):,}",
            source,
            UNCHANGED,
        )
    data = _object(text, source)
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        words = f"the settings are from a newer Hypsos (format {version}; this one reads up to {VERSION})"
        raise DocumentError(words, source, "Use a newer Hypsos; nothing was changed.")
    school = SCHOOLS.get(str(data.get("school")))
    if school is None:
        words = f"there is no school {data.get('school')}"
        raise DocumentError(words, f"{source}, school", f"There is {', '.join(SCHOOLS)}.")
    try:
        return school.settings.model_validate(data)
    except ValidationError as error:
        raise validation_errors(error, source)[0] from error


def _object(text: str, source: str) -> dict[str, Any]:
    try:
        data = json.loads(text)
    except json.JSONDecodeError as error:
        where = f"{source}, line {error.lineno}, column {error.colno}"
        raise DocumentError("the file is damaged or is not JSON", where, UNCHANGED) from error
    except (RecursionError, ValueError) as error:
        raise DocumentError("the file can't be read", source, UNCHANGED) from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DocumentError("these are not settings written by Hypsos", source, UNCHANGED)
    return data


def settings_to_json(settings: Settings) -> str:
    """Settings as indented JSON text."""
    return settings.model_dump_json(indent=1) + "\n"


def settings_schema() -> dict[str, Any]:
    """The JSON Schema of settings: one of the schools'."""
    every = {name: school.settings.model_json_schema() for name, school in SCHOOLS.items()}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Hypsos settings",
        "description": "What is keyed into a transmitter of one of the schools.",
        "oneOf": list(every.values()),
    }
