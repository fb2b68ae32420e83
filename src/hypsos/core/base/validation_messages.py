# SPDX-License-Identifier: GPL-3.0-or-later
"""What a failed validation says, in words a pilot can act on."""

from __future__ import annotations

import json
from collections.abc import Mapping
from difflib import get_close_matches
from typing import Any

from hypsos.core.base.errors import DocumentError, FieldError

SIMPLE = {
    "extra_forbidden": "is not part of the format",
    "missing": "is missing",
    "float_type": "should be a number",
    "float_parsing": "should be a number",
    "finite_number": "should be a finite number",
    "int_type": "should be a whole number",
    "int_parsing": "should be a whole number",
    "int_parsing_size": "should be a smaller whole number",
    "int_from_float": "should be a whole number",
    "bool_type": "should be true or false",
    "bool_parsing": "should be true or false",
    "string_type": "should be text",
    "string_unicode": "should be text that can be written down: a sign in it is broken in half",
    "string_sub_type": "should be text",
    "string_pattern_mismatch": "should be a name of small letters, digits and underscores, as the format describes it",
    "tuple_type": "should be a list",
    "list_type": "should be a list",
    "dict_type": "should be a set of named values",
    "model_type": "should be a set of named values",
    "model_attributes_type": "should be a set of named values",
    "date_type": "should be a date such as 2026-11-25",
    "date_parsing": "should be a date such as 2026-11-25",
    "date_from_datetime_parsing": "should be a date such as 2026-11-25",
    "date_from_datetime_inexact": "should be a date without a time of day",
    "recursion_loop": "is nested in itself",
}
BOUND = {
    "greater_than_equal": ("should be {} or more", "ge"),
    "greater_than": ("should be more than {}", "gt"),
    "less_than_equal": ("should be {} or less", "le"),
    "less_than": ("should be less than {}", "lt"),
    "string_too_long": ("should have at most {} letters", "max_length"),
    "string_too_short": ("should have at least {} letter", "min_length"),
    "too_long": ("should have at most {} entries", "max_length"),
    "too_short": ("should have at least {} entries", "min_length"),
    "literal_error": ("should be {}", "expected"),
}
WITHOUT_A_VALUE = ("extra_forbidden", "missing")
"""What is wrong with the field and not with what stands in it."""
SHOWN = 60
MOST_KINDS = 18
"""So many kinds are named whole; of more of them those nearest to what was found."""


def field_error(item: Mapping[str, Any], where: str, remedy: str) -> DocumentError:
    """One finding of a failed validation as an error in our words; ``where`` is its place."""
    kind, context = str(item["type"]), item.get("ctx") or {}
    if kind == "value_error":  # raised by a check of ours, with its own words
        return DocumentError(str(context["error"]), where, remedy)
    if kind == "union_tag_not_found":
        return DocumentError("its kind is missing", where, remedy)
    if kind in WITHOUT_A_VALUE:
        return FieldError(SIMPLE[kind], where, remedy, alone=True)
    return FieldError(_predicate(kind, context) + found(item.get("input")), where, remedy)


def _predicate(kind: str, context: Mapping[str, Any]) -> str:
    """What is wrong with a value, to stand behind the field's name."""
    if kind == "union_tag_invalid":
        return _kinds(str(context.get("tag", "")), str(context.get("expected_tags", "")))
    if kind in BOUND:
        words, field = BOUND[kind]
        bound = context.get(field, "")
        return words.format(f"{bound:g}" if isinstance(bound, float) else bound)
    return SIMPLE.get(kind, "cannot be used")


def _kinds(tag: str, expected: str) -> str:
    """Which kinds there are, for one that there is not."""
    known = expected.split(", ")
    if len(known) <= MOST_KINDS:
        return f"should be of a kind that there is: {expected}"
    near = get_close_matches(f"'{tag}'", known, 3, 0.3) or known[:3]
    return f"should be one of the {len(known)} kinds that there are, such as {', '.join(near)}"


def found(value: Any) -> str:
    """``', found 300'`` for a plain value, cut short where it is long; no word for a list or a set
    of values."""
    if not isinstance(value, str | int | float | bool | None):
        return ""
    if value is None or value == "":
        return ", found nothing"
    try:
        text = json.dumps(value[: SHOWN + 1] if isinstance(value, str) else value)
    except ValueError:
        return ""
    shown = text if len(text) <= SHOWN else f"{text[:SHOWN]}…"
    return f", found {shown}"
