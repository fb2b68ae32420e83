# SPDX-License-Identifier: GPL-3.0-or-later
"""The base of every part of a document, and the number types they share."""

import unicodedata
from collections.abc import Mapping
from typing import Annotated, Any, Self

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    StringConstraints,
    ValidationError,
)

from hypsos.core.base.validation_messages import field_error


class Value(BaseModel):
    """A frozen, validated part of a document. Unknown fields, NaN and infinities are refused.

    Validators are built when first used: a program start builds the one of the whole document, and
    no more."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    def changed(self, fields: Mapping[str, Any]) -> Self:
        """The same with other fields, checked like any other. Raises DocumentError, in our words,
        where one is not allowed."""
        try:
            return type(self)(**{**dict(self), **fields})
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            where = ".".join(map(str, first["loc"]))
            raise field_error(first, where, "Nothing was changed.") from error


def make_one_ready() -> bool:
    """Build the validator of one kind of part that has none yet, so that no edit waits for it.
    False when all have theirs."""
    waiting = [Value]
    while waiting:
        kind = waiting.pop()
        if not kind.__pydantic_complete__:
            kind.model_rebuild()
            return True
        waiting += kind.__subclasses__()
    return False


Name = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
"""An identifier inside a document: lower-case letters, digits and underscores."""


TURNING = frozenset(
    "\u061c\u200b\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2060\u2066\u2067\u2068\u2069\ufeff"
)
"""Signs that turn the direction of reading, or that nobody can see: with them one name can be shown
as another."""


def one_line(text: str) -> str:
    """The text, where it is one line without control characters. Raises ValueError."""
    if not text.isprintable() and any(
        unicodedata.category(c) in ("Cc", "Cs", "Zl", "Zp") for c in text
    ):
        raise ValueError(
            "a name is one line of letters, digits and signs, without control characters"
        )
    if any(c in TURNING for c in text):
        raise ValueError("a name has no signs that turn the direction of reading or cannot be seen")
    return text


def _plain_text(text: str) -> str:
    if any(unicodedata.category(c) in ("Cc", "Cs") and c not in "\n\t" for c in text):
        raise ValueError(
            "a text has letters, digits, signs and line ends, without control characters"
        )
    return text


LONGEST_LABEL = 60
Label = Annotated[
    str,
    StringConstraints(min_length=1, max_length=LONGEST_LABEL, strip_whitespace=True),
    AfterValidator(one_line),
]
"""What people call a thing: one line."""

Line = Annotated[str, StringConstraints(max_length=80), AfterValidator(one_line)]
"""A line that may be empty."""

Note = Annotated[str, StringConstraints(max_length=4000), AfterValidator(_plain_text)]

Travel = Annotated[float, Field(ge=-100, le=100)]
"""Percent of a stick's full travel."""

Percent = Annotated[float, Field(ge=-150, le=150)]
"""Percent of a surface's nominal full deflection, as far as a sum may go."""

Share = Annotated[float, Field(ge=0, le=150)]
Seconds = Annotated[float, Field(ge=0, le=60)]
Millimetres = Annotated[float, Field(ge=-20000, le=20000)]
Length = Annotated[float, Field(gt=0, le=20000)]
Degrees = Annotated[float, Field(ge=-90, le=90)]


def with_tail(label: str, tail: str) -> str:
    """A label with a word or two behind it, cut to what a label may hold.

    >>> with_tail("Flaps", "half"), len(with_tail("x" * 60, "out and in"))
    ('Flaps half', 60)
    """
    tail = tail[: LONGEST_LABEL // 2].rstrip()
    return f"{label[: LONGEST_LABEL - 1 - len(tail)].rstrip()} {tail}"
