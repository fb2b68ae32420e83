"""Operations that remember: edges, latches, delays, slow. Each works along the last axis and carries its state in and out.

The state is what the next piece of time needs, so a replay cut into pieces gives the same as one in one piece.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
_EPS = 1e-9


@dataclass
class Memory:
    """State by operation. ``pending`` is set when time alone will still change something.

    With ``instant`` every delay has passed, every slow movement and every fade has ended: the frame as it settles.
    """

    before: dict[str, Any] = field(default_factory=dict)
    after: dict[str, Any] = field(default_factory=dict)
    pending: bool = False
    instant: bool = False

    @property
    def first(self) -> bool:
        """True on the first piece of time, from power-up."""
        return not self.before


def rising(x: Flags, memory: Memory, key: str) -> Flags:
    """True where the input is true now and was false in the frame before; never on the first frame."""
    last = memory.before.get(key)
    memory.after[key] = x[..., -1].copy()
    if x.shape[-1] == 1:
        return np.zeros(x.shape, bool) if last is None else x & ~np.asarray(last)[..., None]
    shifted = np.empty_like(x)
    shifted[..., 1:] = x[..., :-1]
    shifted[..., 0] = x[..., 0] if last is None else last
    return x & ~shifted


def latch(on: Flags, off: Flags, memory: Memory, key: str) -> Flags:
    """By levels: set where ``on``, cleared where ``off``; clearing wins; unchanged elsewhere. Starts cleared."""
    last = memory.before.get(key)
    if on.shape[-1] == 1 and on.shape == off.shape:
        out = on & ~off if last is None else (on | np.asarray(last)[..., None]) & ~off
        memory.after[key] = out[..., 0]
        return out
    on, off = np.broadcast_arrays(on, off)
    start = np.zeros(on.shape[:-1], bool) if last is None else np.broadcast_to(last, on.shape[:-1])
    event = on | off
    index = np.maximum.accumulate(np.where(event, np.arange(on.shape[-1]), -1), axis=-1)
    value = np.take_along_axis(on & ~off, np.maximum(index, 0), axis=-1)
    out = np.where(index >= 0, value, start[..., None])
    memory.after[key] = out[..., -1].copy()
    return out


def edge_latch(on: Flags, off: Flags, memory: Memory, key: str) -> Flags:
    """A latch that is set and cleared by rising edges."""
    return latch(rising(on, memory, f"{key}.on"), rising(off, memory, f"{key}.off"), memory, key)


def above(value: Array, threshold: float, hysteresis: float, memory: Memory, key: str) -> Flags:
    """``value > threshold``, off again only below ``threshold - hysteresis``."""
    if hysteresis == 0.0:
        return value > threshold
    return latch(value > threshold, value <= threshold - hysteresis, memory, key)


def on_delay(x: Flags, t_s: Array, delay_s: float, memory: Memory, key: str) -> Flags:
    """True once the input has been true without a break for ``delay_s``: ``t_now - t_first >= delay_s``."""
    last = memory.before.get(key)
    if x.shape[-1] == 1:
        first = np.full(x.shape, t_s[0]) if last is None else np.where(np.isnan(last), t_s[0], last)[..., None]
        out = x if memory.instant else x & (t_s - first >= delay_s - _EPS)
        memory.after[key] = np.where(x, first, np.nan)[..., 0]
        memory.pending |= bool((x & ~out).any())
        return out
    start = np.full(x.shape[:-1], np.nan) if last is None else np.broadcast_to(last, x.shape[:-1])
    index = np.maximum.accumulate(np.where(x, -1, np.arange(x.shape[-1])), axis=-1)
    since = t_s[np.minimum(index + 1, x.shape[-1] - 1)]
    carried = np.where(np.isnan(start), t_s[0], start)[..., None]
    since = np.where(index < 0, carried, since)
    out = x if memory.instant else x & (t_s - since >= delay_s - _EPS)
    memory.after[key] = np.where(x[..., -1], since[..., -1], np.nan)
    memory.pending |= bool(np.any(x[..., -1] & ~out[..., -1]))
    return out


def slow(x: Array, up_s: float, down_s: float, frame_s: float, memory: Memory, key: str) -> Array:
    """Limit the change in a frame to ``100 * frame_s / slow_s``, up and down apart; zero seconds is unlimited.

    The first frame of all is taken as it comes.
    """
    if up_s == 0.0 and down_s == 0.0:
        return x
    if memory.instant:
        memory.after[key] = x[..., -1].copy()
        return x
    up = 100.0 * frame_s / up_s if up_s > 0 else np.inf
    down = 100.0 * frame_s / down_s if down_s > 0 else np.inf
    last = memory.before.get(key)
    if x.shape[-1] == 1:
        out = x if last is None else np.minimum(np.maximum(x, last[..., None] - down), last[..., None] + up)
        memory.after[key] = out[..., 0]
        memory.pending |= bool((np.abs(out - x) > _EPS).any())
        return out
    start = x[..., 0] if last is None else np.broadcast_to(last, x.shape[:-1])
    rows, frames = int(np.prod(x.shape[:-1], dtype=int)), x.shape[-1]
    if rows > 64:
        out = np.empty_like(x)
        y = start
        for i in range(frames):
            y = np.minimum(np.maximum(x[..., i], y - down), y + up)
            out[..., i] = y
    else:
        flat, starts = x.reshape(rows, frames), np.asarray(start).reshape(rows)
        out = np.stack([_slow_row(flat[i], float(starts[i]), up, down) for i in range(rows)]).reshape(x.shape)
    memory.after[key] = out[..., -1].copy()
    memory.pending |= bool(np.any(np.abs(out[..., -1] - x[..., -1]) > _EPS))
    return out


def _slow_row(x: Array, start: float, up: float, down: float) -> Array:
    """One row: only the stretches where the limit bites are walked frame by frame."""
    out = x.copy()
    previous = np.concatenate(([start], x[:-1]))
    change = x - previous
    bites = np.flatnonzero((change > up) | (change < -down))
    done = 0
    for first in bites:
        if first < done:
            continue
        y = previous[first] if first else start
        i = int(first)
        while i < len(x):
            target = x[i]
            y = min(max(target, y - down), y + up)
            out[i] = y
            i += 1
            if y == target:
                break
        done = i
    return out


def spread_state(last: NDArray[Any], shape: tuple[int, ...]) -> NDArray[Any]:
    """A state of fewer situations for more of them: leading axes stay (the channels), situations are added behind."""
    return np.broadcast_to(last.reshape(last.shape + (1,) * (len(shape) - last.ndim)), shape)


def held(x: Array, fresh: Flags, memory: Memory, key: str) -> tuple[Array, Flags]:
    """The last value seen while ``fresh``; the flags say where there has been one at all."""
    last = memory.before.get(key)
    fresh = np.broadcast_to(fresh, x.shape)
    index = np.maximum.accumulate(np.where(fresh, np.arange(x.shape[-1]), -1), axis=-1)
    value = np.take_along_axis(x, np.maximum(index, 0), axis=-1)
    if last is None:
        known = index >= 0
    else:
        value = np.where(index >= 0, value, spread_state(last[0], x.shape[:-1])[..., None])
        known = (index >= 0) | spread_state(last[1], x.shape[:-1])[..., None]
    memory.after[key] = (value[..., -1].copy(), known[..., -1].copy())
    return value, known


def off_delay(x: Flags, t_s: Array, delay_s: float, memory: Memory, key: str) -> Flags:
    """False once the input has been false without a break for ``delay_s`` since it was last true."""
    last = memory.before.get(key)
    shape = x.shape[:-1]
    was, since = (np.zeros(shape, bool), np.full(shape, np.nan)) if last is None else last
    previous = np.concatenate([np.broadcast_to(was, shape)[..., None], x[..., :-1]], axis=-1)
    fell = previous & ~x
    index = np.maximum.accumulate(np.where(fell | x, np.arange(x.shape[-1]), -1), axis=-1)
    fallen = np.where(index >= 0, t_s[np.maximum(index, 0)], np.broadcast_to(since, shape)[..., None])
    with np.errstate(invalid="ignore"):
        lasting = ~x & (t_s - fallen < delay_s - _EPS) & (not memory.instant)
    out = x | lasting
    memory.after[key] = (x[..., -1].copy(), fallen[..., -1].copy())
    memory.pending |= bool(np.any(lasting[..., -1]))
    return out


def pulse(x: Flags, t_s: Array, length_s: float, memory: Memory, key: str) -> Flags:
    """True for ``length_s`` from each rising edge."""
    edge = rising(x, memory, f"{key}.edge")
    last = memory.before.get(key)
    start = np.full(x.shape[:-1], -np.inf) if last is None else np.broadcast_to(last, x.shape[:-1])
    index = np.maximum.accumulate(np.where(edge, np.arange(x.shape[-1]), -1), axis=-1)
    since = np.where(index >= 0, t_s[np.maximum(index, 0)], start[..., None])
    out = (t_s - since < length_s - _EPS) & (not memory.instant)
    memory.after[key] = since[..., -1].copy()
    memory.pending |= bool(np.any(out[..., -1]))
    return np.asarray(out)


def counter(x: Flags, count: int, memory: Memory, key: str) -> NDArray[np.intp]:
    """A position from 0 to ``count - 1``, one further on each rising edge, round and round."""
    last = memory.before.get(key)
    steps = np.cumsum(rising(x, memory, f"{key}.edge"), axis=-1)
    start = np.zeros(x.shape[:-1], np.intp) if last is None else np.broadcast_to(last, x.shape[:-1])
    out = np.asarray((start[..., None] + steps) % count, np.intp)
    memory.after[key] = out[..., -1].copy()
    return out
