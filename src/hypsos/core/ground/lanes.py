"""Two kinds of number for one set of rules: arrays for many frames or situations, Python's own numbers for a single frame.

Every rule is written once against a :class:`Lane`. In the array lane a signal is an array whose last axis is time; in
the frame lane it is a float, a flag a bool, a position an int: for one figure many times faster than an array of one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
Places = NDArray[np.intp]
Signal = Any
"""A float (frame lane) or an array with time last (array lane); a flag or a whole number alike."""


class Lane(NamedTuple):
    """The operations in which the two kinds of number differ. Arithmetic, comparisons, ``&``, ``|`` and ``abs`` do not.

    ``never(flag)``: true nowhere; ``always(flag)``: true everywhere. ``end(x)``: what the next piece of time needs.
    ``differs(a, b)``: flags of the situations in which two signals differ when the run ends. ``take(table, i)``: a
    table's value at a place. ``cut(x, frames)`` and ``put(x, frames, part)``: some of the frames out and back in.
    ``full(shape, value)``: a constant. ``change(x, before)``: from one frame to the next, the first from ``before``;
    ``cumulate(x, before)``: the running sum.
    """

    single: bool
    where: Callable[[Any, Any, Any], Any]
    minimum: Callable[[Any, Any], Any]
    maximum: Callable[[Any, Any], Any]
    not_: Callable[[Any], Any]
    copysign: Callable[[Any, Any], Any]
    sin: Callable[[Any], Any]
    cos: Callable[[Any], Any]
    sqrt: Callable[[Any], Any]
    arccos: Callable[[Any], Any]
    arcsin: Callable[[Any], Any]
    arctan2: Callable[[Any, Any], Any]
    never: Callable[[Any], bool]
    always: Callable[[Any], bool]
    end: Callable[[Any], Any]
    differs: Callable[[Any, Any], Any]
    take: Callable[[Table, Any], Any]
    cut: Callable[[Any, Any], Any]
    put: Callable[[Any, Any, Any], Any]
    full: Callable[[tuple[int, ...], Any], Any]
    change: Callable[[Any, Any], Any]
    cumulate: Callable[[Any, Any], Any]

    def clip(self, x: Signal, low: Signal, high: Signal) -> Signal:
        """``x`` held between two bounds."""
        return self.minimum(self.maximum(x, low), high)


class Table:
    """Numbers looked up by a position or a flight mode, at hand for both lanes."""

    __slots__ = ("array", "values")

    def __init__(self, values: Sequence[Any]) -> None:
        self.values = tuple(values)
        self.array = np.array(self.values)


EPS = 1e-9


def _end(x: NDArray[Any]) -> Any:
    last = x[..., -1]
    return last.item() if last.ndim == 0 else last.copy()


def _put(x: Any, frames: Places, part: Any) -> Array:
    out = np.array(x, float)
    out[..., frames] = part
    return out


def _lesser(a: float, b: float) -> float:
    return a if a <= b else b


def _greater(a: float, b: float) -> float:
    return a if a >= b else b


FRAME = Lane(
    single=True,
    where=lambda flag, a, b: a if flag else b,
    minimum=_lesser,
    maximum=_greater,
    not_=lambda flag: not flag,
    copysign=math.copysign,
    sin=math.sin,
    cos=math.cos,
    sqrt=math.sqrt,
    arccos=lambda x: math.acos(x) if -1.0 <= x <= 1.0 else math.nan,
    arcsin=math.asin,
    arctan2=math.atan2,
    never=lambda flag: not flag,
    always=bool,
    end=lambda x: x,
    differs=lambda a, b: abs(a - b) > EPS,
    take=lambda table, i: table.values[i],
    cut=lambda x, frames: x,
    put=lambda x, frames, part: part,
    full=lambda shape, value: value,
    change=lambda x, before: x - before,
    cumulate=lambda x, before: before + x,
)

ARRAYS = Lane(
    single=False,
    where=np.where,
    minimum=np.minimum,
    maximum=np.maximum,
    not_=np.logical_not,
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
    differs=lambda a, b: np.abs(a[..., -1] - b[..., -1]) > EPS,
    take=lambda table, i: table.array.take(i, mode="clip"),
    cut=lambda x, frames: x.take(frames, axis=-1) if np.ndim(x) else x,
    put=_put,
    full=np.full,
    change=lambda x, before: np.diff(x, axis=-1, prepend=np.broadcast_to(np.asarray(before), x.shape[:-1])[..., None]),
    cumulate=lambda x, before: np.cumsum(x, axis=-1) + np.asarray(before)[..., None],
)
