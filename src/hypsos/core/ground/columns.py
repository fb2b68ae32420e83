"""Columns of figures and words as CSV text, thousands of rows at a time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
Kept = NDArray[np.bool_]
DECIMALS = 4
SCALE = 10**DECIMALS
LARGEST = 9e13
"""Beyond that a figure times :data:`SCALE` is no longer a whole number that a double can hold."""
ZERO, MINUS, POINT, COMMA, LINE = (ord(c) for c in "0-.,\n")

Column = NDArray[np.float64] | Sequence[str]


def csv_text(columns: Mapping[str, Column]) -> str:
    """The rows of some columns of one length as CSV text: figures with up to four decimals and no needless zeros, nothing
    where a figure is not finite.

    >>> csv_text({"a": np.array([1.5, -0.00004, np.nan]), "b": ["x", "yz", ""]})
    '1.5,x\\n0,yz\\n,\\n'
    """
    parts = [_words(c) if not isinstance(c, np.ndarray) else _figures(c) for c in columns.values()]
    ends = [COMMA] * (len(parts) - 1) + [LINE]
    signs, kept = [], []
    for (text, keep), end in zip(parts, ends, strict=True):
        rows = len(text)
        signs += [text, np.full((rows, 1), end, np.uint8)]
        kept += [keep, np.ones((rows, 1), bool)]
    whole: bytes = np.hstack(signs)[np.hstack(kept)].tobytes()
    return whole.decode("utf-8")


def _words(column: Sequence[str]) -> tuple[Bytes, Kept]:
    raw = np.array([w.encode() for w in column], "S")
    text = raw.view(np.uint8).reshape(len(column), -1)
    return text, text != 0


def _figures(column: NDArray[np.float64]) -> tuple[Bytes, Kept]:
    """Sign, whole digits, point, decimals: every sign that a figure could have, and which of them it has."""
    finite = np.isfinite(column) & (np.abs(column) < LARGEST)
    scaled = np.rint(np.where(finite, column, 0.0) * SCALE)
    scaled = scaled.astype(np.int32 if np.abs(scaled).max(initial=0) < 2e9 else np.int64)
    size = np.abs(scaled)
    whole, rest = size // SCALE, size % SCALE
    width = len(str(int(whole.max(initial=0))))
    text = np.empty((len(column), width + DECIMALS + 2), np.uint8)
    keep = np.zeros(text.shape, bool)
    text[:, 0], keep[:, 0] = MINUS, scaled < 0
    for k in range(width):
        place = 10 ** (width - 1 - k)
        text[:, 1 + k] = ZERO + (whole // place) % 10
        keep[:, 1 + k] = (whole >= place) | (k == width - 1)
    text[:, 1 + width], keep[:, 1 + width] = POINT, rest > 0
    for k in range(DECIMALS):
        place = 10 ** (DECIMALS - 1 - k)
        text[:, 2 + width + k] = ZERO + (rest // place) % 10
        keep[:, 2 + width + k] = rest % (place * 10) > 0
    return text, keep & finite[:, None]
