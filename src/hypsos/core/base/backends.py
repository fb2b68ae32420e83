# SPDX-License-Identifier: GPL-3.0-or-later
"""Two kinds of number for one set of rules: arrays for many frames or situations, Python's own
numbers for a single frame.

Sought: one evaluator that is fast both for an hour of frames and for the next frame of the bench,
with every rule written once.

How: rules are written against a :class:`Backend`. In the array backend a signal is an array whose
last axis is time; in the frame backend it is a float, a flag a bool, a position an int. For one
figure that is many times faster than an array of one.

What must stay true: both give the same figures, to the last bit that a pulse shows. So rules use
the backend's own operations for what arrays and numbers do differently (``where``, ``not_``,
tables, curves), and plain operators for the rest. What remembers has a step for one frame and a
scan for many, side by side.

Why it can be trusted: a test replays a flight frame by frame and in one piece, cut in every place,
and compares; the second reference in the tests knows nothing of either.

An example: ``backend.where(armed, demand, idle)`` picks for each of 180,000 frames, or is one
``if``."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, Protocol, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
Places = NDArray[np.intp]
Signal = float | Array
"""A value over time: a float (frame backend) or an array with time last (array backend)."""
Flag = bool | Flags
"""A truth over time, alike."""
Place = int | Places
"""A position, a count or a flight mode over time, alike."""
Kind = TypeVar("Kind", Flag, Place, Signal)


class Where(Protocol):
    """``a`` where the flag holds, else ``b``."""

    def __call__(self, flag: Flag, a: Kind, b: Kind, /) -> Kind:
        """Of the same kind as both."""


class Cut(Protocol):
    """Some of the frames."""

    def __call__(self, x: Kind, frames: Places, /) -> Kind:
        """Of the same kind as ``x``."""


class Full(Protocol):
    """A constant."""

    def __call__(self, shape: tuple[int, ...], value: Kind, /) -> Kind:
        """Of the same kind as ``value``."""


class Backend(NamedTuple):
    """The operations in which the two kinds of number differ. Arithmetic, comparisons, ``&`` and
    ``|`` do not.

    ``never(flag)``: true nowhere; ``always(flag)``: true everywhere. ``end(x)``: what the next
    piece of time needs. ``differs(a, b)``: flags of the situations in which two signals differ when
    the run ends. ``take(table, i)``: a table's value at a place. ``cut(x, frames)`` and ``put(x,
    frames, part)``: some of the frames out and back in. ``full(shape, value)``: a constant.
    ``change(x, before)``: from one frame to the next, the first from ``before``; ``cumulate(x,
    before)``: the running sum."""

    single: bool
    where: Where
    minimum: Callable[[Signal, Signal], Signal]
    maximum: Callable[[Signal, Signal], Signal]
    not_: Callable[[Flag], Flag]
    abs: Callable[[Signal], Signal]
    copysign: Callable[[Signal, Signal], Signal]
    sin: Callable[[Signal], Signal]
    cos: Callable[[Signal], Signal]
    sqrt: Callable[[Signal], Signal]
    arccos: Callable[[Signal], Signal]
    arcsin: Callable[[Signal], Signal]
    arctan2: Callable[[Signal, Signal], Signal]
    never: Callable[[Flag], bool]
    always: Callable[[Flag], bool]
    end: Callable[[Any], Any]
    differs: Callable[[Signal, Signal], Flag]
    take: Callable[[Table, Place], Signal]
    cut: Cut
    put: Callable[[Signal, Places, Signal], Signal]
    full: Full
    change: Callable[[Signal, Signal], Signal]
    cumulate: Callable[[Signal, Signal], Signal]

    def clip(self, x: Signal, low: Signal, high: Signal) -> Signal:
        """``x`` held between two bounds."""
        return self.minimum(self.maximum(x, low), high)


class Table:
    """Numbers looked up by a position or a flight mode, at hand for both backends."""

    __slots__ = ("array", "values")

    def __init__(self, values: Sequence[Any]) -> None:
        self.values = tuple(values)
        self.array = np.array(self.values)


EPS = 1e-9


def of_each(values: ArrayLike, rows: int) -> NDArray[Any]:
    """One figure for each of ``rows`` situations, out of a run of a single frame: shape (rows,).

    What is the same in every situation stands only once in a run; here it is repeated."""
    return np.broadcast_to(values, (rows, 1))[:, -1]


def _end(x: NDArray[Any]) -> Any:
    last = x[..., -1]
    # of one situation a plain number, of several a copy, or the whole flight would be kept for it
    return last.item() if last.ndim == 0 else last.copy()


def _put(x: Any, frames: Places, part: Any) -> Array:
    out = np.array(x, float)
    out[..., frames] = part
    return out


# Python's own min and max take longer than a comparison, for they look for several arguments first


def _lesser(a: Any, b: Any) -> Any:
    return a if a <= b else b


def _greater(a: Any, b: Any) -> Any:
    return a if a >= b else b


def _size(x: Any) -> Any:
    # a name of ours: inside the table below "abs" is a field
    return abs(x)


def _arccos(x: Any) -> float:
    # as arrays do it: what cannot be is not a number, and no error
    return math.acos(x) if -1.0 <= x <= 1.0 else math.nan


def _differs(a: Any, b: Any) -> Flags:
    return np.asarray(np.abs(a[..., -1] - b[..., -1]) > EPS)


def _change(x: Any, before: Any) -> Array:
    return np.diff(x, axis=-1, prepend=np.broadcast_to(np.asarray(before), x.shape[:-1])[..., None])


FRAME = Backend(
    single=True,
    where=lambda flag, a, b: a if flag else b,
    minimum=_lesser,
    maximum=_greater,
    not_=lambda flag: not flag,
    abs=_size,
    copysign=math.copysign,
    sin=math.sin,
    cos=math.cos,
    sqrt=math.sqrt,
    arccos=_arccos,
    arcsin=math.asin,
    arctan2=math.atan2,
    never=lambda flag: not flag,
    always=bool,
    end=lambda x: x,
    differs=lambda a, b: _size(a - b) > EPS,
    take=lambda table, i: table.values[i],
    cut=lambda x, _frames: x,
    put=lambda _x, _frames, part: part,
    full=lambda _shape, value: value,
    change=lambda x, before: x - before,
    cumulate=lambda x, before: before + x,
)

ARRAYS = Backend(
    single=False,
    where=np.where,
    minimum=np.minimum,
    maximum=np.maximum,
    not_=np.logical_not,
    abs=np.abs,
    copysign=np.copysign,
    sin=np.sin,
    cos=np.cos,
    sqrt=np.sqrt,
    arccos=np.arccos,
    arcsin=np.arcsin,
    arctan2=np.arctan2,
    never=lambda flag: not np.any(flag),
    always=lambda flag: bool(np.all(flag)),
    end=_end,
    differs=_differs,
    take=lambda table, i: table.array.take(i, mode="clip"),
    cut=lambda x, frames: x.take(frames, axis=-1) if np.ndim(x) else x,
    put=_put,
    full=np.full,
    change=_change,
    cumulate=lambda x, before: np.cumsum(x, axis=-1) + np.asarray(before)[..., None],
)
