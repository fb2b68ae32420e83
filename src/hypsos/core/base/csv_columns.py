# SPDX-License-Identifier: GPL-3.0-or-later
"""Columns of figures and words as CSV text, thousands of rows at a time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
Digits = NDArray[np.uint32]
DECIMALS, GROUP = 4, 4
"""Digits after the point, and digits that are looked up at once."""
SCALE = BLOCK = 10_000
LARGEST = 9e13
"""Beyond that a figure times :data:`SCALE` is no longer a whole number that a double can hold."""
ZERO, MINUS, POINT, COMMA, LINE = (ord(c) for c in "0-.,\n")
NOTHING = b"\0"
"""Stands where a sign could be and is not; all of them are taken out at the end."""

Column = NDArray[np.float64] | Sequence[str]


def csv_text(columns: Mapping[str, Column]) -> str:
    r"""The rows of some columns of one length as CSV text: figures with up to four decimals and no
    needless zeros, nothing where a figure is not finite.

    >>> csv_text({"a": np.array([1.5, -0.00004, np.nan]), "b": ["x", "yz", ""]})
    '1.5,x\n0,yz\n,\n'
    """
    parts = [_words(c) if not isinstance(c, np.ndarray) else _figures(c) for c in columns.values()]
    whole = np.empty((len(parts[0]), sum(x.shape[1] + 1 for x in parts)), np.uint8)
    at = 0
    for text in parts:
        end = at + text.shape[1]
        whole[:, at:end], whole[:, end] = text, COMMA
        at = end + 1
    whole[:, -1] = LINE
    return whole.tobytes().translate(None, NOTHING).decode("utf-8")


def _words(column: Sequence[str]) -> Bytes:
    raw = np.array([w.encode() for w in column], "S")
    return raw.view(np.uint8).reshape(len(column), -1)


def _figures(column: NDArray[np.float64]) -> Bytes:
    """Sign, whole digits, point, decimals: every sign that a figure could have, nothing where it
    has none."""
    finite = np.isfinite(column) & (np.abs(column) < LARGEST)
    scaled = np.rint(np.where(finite, column, 0.0) * SCALE)
    scaled = scaled.astype(np.int32 if np.abs(scaled).max(initial=0) < 2e9 else np.int64)
    size = np.abs(scaled)
    whole = size // SCALE
    tables = _tables()
    groups = -(-len(str(int(whole.max(initial=0)))) // GROUP)
    text = np.empty((len(column), 1 + groups * GROUP + 1 + DECIMALS), np.uint8)
    text[:, 0] = np.where(scaled < 0, MINUS, 0)
    for k in range(groups):
        here = text[:, 1 + k * GROUP : 1 + (k + 1) * GROUP]
        # this group of digits and all before it
        above = whole if k == groups - 1 else whole // BLOCK ** (groups - 1 - k)
        if k == 0:
            here[:] = _signs(tables.first, above)
        else:
            here[:] = _signs(tables.every, above % BLOCK)
            lead = above < BLOCK  # nothing stands in the groups before
            here[lead] = _signs(tables.first, above[lead])
        if k < groups - 1:
            here[above == 0] = 0
    rest = size - whole * SCALE
    text[:, -1 - DECIMALS] = np.where(rest > 0, POINT, 0)
    text[:, -DECIMALS:] = _signs(tables.decimals, rest)
    if not finite.all():
        text[~finite] = 0
    return text


def _signs(table: Digits, numbers: NDArray[np.signedinteger]) -> Bytes:
    """The four signs of each number: (numbers, 4)."""
    signs: Bytes = table[numbers].view(np.uint8).reshape(-1, GROUP)
    return signs


class _Tables(NamedTuple):
    """The four signs of every number below 10,000, as one word each: all digits; without zeros that
    lead; without zeros at the end, as decimals are written."""

    every: Digits
    first: Digits
    decimals: Digits


@cache
def _tables() -> _Tables:
    numbers = np.arange(BLOCK)[:, None]
    places = 10 ** np.arange(GROUP - 1, -1, -1)
    every = ZERO + (numbers // places) % 10
    leads = numbers < places
    leads[:, -1] = False  # nothing before the point is a zero
    ends = numbers % (places * 10) == 0
    kept = (every, np.where(leads, 0, every), np.where(ends, 0, every))
    return _Tables(*(np.ascontiguousarray(x, np.uint8).view(np.uint32).ravel() for x in kept))
