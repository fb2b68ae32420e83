# SPDX-License-Identifier: GPL-3.0-or-later
"""Operations that remember: edges, latches, delays, slow. Each works along the last axis and
carries its state in and out.

The state is what the next piece of time needs, so a replay cut into pieces gives the same as one in
one piece. Each operation has its one step in the frame backend and its scan over time in the array
backend next to each other; both read and leave the same state."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import ARRAYS, EPS, Array, Backend, Flag, Flags, Place, Signal

KEPT = "kept"
"""Where frames counted by timers are that are kept while the power is off."""
CONTROLLER = "controller."
"""How the keys begin of what a speed controller on the aeroplane has heard."""


def outlasts(key: str) -> bool:
    """Whether it is still known when the transmitter is switched on again."""
    return key == KEPT or key.startswith(CONTROLLER)


class Waiting(NamedTuple):
    """What an operation that waits for a time keeps in the memory under its key.

    It waits ``seconds``. Since when stands in the part ``since`` of what is kept (``""``: it is all
    of it). It waits only where the part ``on`` is ``so``, where there is such a part."""

    seconds: float
    since: str = ""
    on: str = ""
    so: bool = True


@dataclass
class Memory:
    """State by operation. ``pending`` is set when time alone will still change something.

    With ``instant`` every delay has passed, every slow movement and every fade has ended: the frame
    as it settles. ``many`` is set when the state is that of several situations side by side.
    ``ticking`` is set when nothing may move and yet something waits for its time: a timer counts, a
    caption is due."""

    before: dict[str, Any] = field(default_factory=dict)
    after: dict[str, Any] = field(default_factory=dict)
    pending: bool = False
    instant: bool = False
    backend: Backend = ARRAYS
    many: bool = False
    ticking: bool = False

    @property
    def first(self) -> bool:
        """True on the first piece of time, from power-up."""
        return all(map(outlasts, self.before))

    @property
    def fresh(self) -> bool:
        """True where what comes next is a power-up: all it holds is what is kept while the power is
        off."""
        return bool(self.after) and all(map(outlasts, self.after))


def _spread(last: Any, default: Any, like: NDArray[Any]) -> NDArray[Any]:
    """The state before the run, one value per situation."""
    return np.broadcast_to(np.asarray(default if last is None else last), like.shape[:-1])


def _latest(happened: Flags) -> NDArray[np.intp]:
    """The latest frame up to each one in which something happened, -1 before the first."""
    return np.asarray(
        np.maximum.accumulate(np.where(happened, np.arange(happened.shape[-1]), -1), axis=-1),
        np.intp,
    )


def _anywhere(x: Flags) -> Flags:
    """The frames in which it is true in any situation."""
    return np.asarray(x.any(axis=tuple(range(x.ndim - 1))))


def rising(x: Flag, memory: Memory, key: str) -> Flag:
    """True where the input is true now and was false in the frame before; never on the first
    frame."""
    last = memory.before.get(key)
    if memory.backend.single:
        memory.after[key] = x
        return x and last is not None and not last
    assert isinstance(x, np.ndarray)
    memory.after[key] = memory.backend.end(x)
    shifted = np.empty_like(x)
    shifted[..., 1:] = x[..., :-1]
    shifted[..., 0] = x[..., 0] if last is None else last
    return x & ~shifted


def latch(on: Flag, off: Flag, memory: Memory, key: str) -> Flag:
    """By levels: set where ``on``, cleared where ``off``; clearing wins; unchanged elsewhere.
    Starts cleared."""
    last = memory.before.get(key)
    if memory.backend.single:
        out = memory.after[key] = bool((on or last) and not off)
        return out
    on, off = np.broadcast_arrays(on, off)
    # each frame goes by the latest one in which anything was said, and by the state before the
    # run where nothing has been said yet
    index = _latest(on | off)
    value = np.take_along_axis(on & ~off, np.maximum(index, 0), axis=-1)
    flags = np.where(index >= 0, value, _spread(last, False, on)[..., None])
    memory.after[key] = memory.backend.end(flags)
    return flags


def edge_latch(on: Flag, off: Flag, memory: Memory, key: str) -> Flag:
    """A latch that is set and cleared by rising edges."""
    return latch(rising(on, memory, f"{key}.on"), rising(off, memory, f"{key}.off"), memory, key)


def on_delay(x: Flag, t_s: Signal, delay_s: float, memory: Memory, key: str) -> Flag:
    """True once the input has been true without a break for ``delay_s``: ``t_now - t_first >=
    delay_s``."""
    last = memory.before.get(key)
    if not isinstance(x, np.ndarray):
        first = t_s if last is None or math.isnan(last) else last
        come = x and bool(memory.instant or t_s - first >= delay_s - EPS)
        memory.after[key] = first if x else math.nan
        memory.pending |= x and not come
        return come
    start, t = _spread(last, math.nan, x), np.asarray(t_s)
    # the stretch of truth in which a frame lies began after the latest false frame
    index = _latest(~x)
    since = t[np.minimum(index + 1, x.shape[-1] - 1)]
    since = np.where(index < 0, np.where(np.isnan(start), t[0], start)[..., None], since)
    out = x if memory.instant else x & (t - since >= delay_s - EPS)
    memory.after[key] = memory.backend.end(np.where(x, since, math.nan))
    memory.pending |= bool(np.any(x[..., -1] & ~out[..., -1]))
    return out


def off_delay(x: Flag, t_s: Signal, delay_s: float, memory: Memory, key: str) -> Flag:
    """False once the input has been false without a break for ``delay_s`` since it was last
    true."""
    was, since = memory.before.get(key, (False, math.nan))
    if not isinstance(x, np.ndarray):
        since = t_s if x or was else since
        goes_on = not x and not memory.instant and bool(t_s - since < delay_s - EPS)
        memory.after[key] = (x, since)
        memory.pending |= goes_on
        return x or goes_on
    t = np.asarray(t_s)
    previous = np.concatenate([_spread(was, False, x)[..., None], x[..., :-1]], axis=-1)
    # the fall is the first false frame; while the input is true it is that frame itself
    index = _latest(previous | x)
    fallen = np.where(index >= 0, t[np.maximum(index, 0)], _spread(since, math.nan, x)[..., None])
    with np.errstate(invalid="ignore"):
        lasting = ~x & (t - fallen < delay_s - EPS) & (not memory.instant)
    memory.after[key] = (memory.backend.end(x), memory.backend.end(fallen))
    memory.pending |= bool(np.any(lasting[..., -1]))
    return x | lasting


def pulse(x: Flag, t_s: Signal, length_s: float, memory: Memory, key: str) -> Flag:
    """True for ``length_s`` from each rising edge."""
    edge = rising(x, memory, f"{key}.edge")
    last = memory.before.get(key, -math.inf)
    if not isinstance(edge, np.ndarray):
        since = t_s if edge else last
        on = not memory.instant and bool(t_s - since < length_s - EPS)
        memory.after[key] = since
        memory.pending |= on
        return on
    index, t = _latest(edge), np.asarray(t_s)
    since = np.where(index >= 0, t[np.maximum(index, 0)], _spread(last, None, edge)[..., None])
    out: Flags = (t - since < length_s - EPS) & (not memory.instant)
    memory.after[key] = memory.backend.end(since)
    memory.pending |= bool(np.any(out[..., -1]))
    return out


def counter(x: Flag, count: int, memory: Memory, key: str) -> Place:
    """A position from 0 to ``count - 1``, one further on each rising edge, round and round."""
    edge = rising(x, memory, f"{key}.edge")
    last = memory.before.get(key, 0)
    if not isinstance(edge, np.ndarray):
        place: int = (last + edge) % count
        memory.after[key] = place
        return place
    out = np.asarray(
        (_spread(last, 0, edge)[..., None] + np.cumsum(edge, axis=-1)) % count, np.intp
    )
    memory.after[key] = memory.backend.end(out)
    return out


def counted(
    x: Flag, reset: Flag | None, memory: Memory, key: str, kept: int, told: str = ""
) -> Place:
    """Frames since power-up, ``kept`` at first, that came after one in which ``x`` held; none as
    ``reset`` begins to hold. ``told`` tells one reset from another."""
    last = memory.before.get(key)
    n, was = (kept, False) if last is None else last
    anew = False if reset is None else rising(reset, memory, f"{key}.reset.{told}")
    if not isinstance(x, np.ndarray):
        count: int = 0 if anew else n + (was and not memory.instant)
        memory.after[key] = (count, x)
        memory.ticking |= x
        return count
    before = np.concatenate([_spread(was, False, x)[..., None], x[..., :-1]], axis=-1)
    steps = np.cumsum(before & (not memory.instant), axis=-1)
    # counted from the latest reset on: the running total less what it was there
    index = _latest(np.broadcast_to(anew, x.shape))
    since = np.take_along_axis(steps, np.maximum(index, 0), axis=-1)
    out = np.asarray(
        np.where(index >= 0, steps - since, _spread(n, 0, x)[..., None] + steps), np.intp
    )
    memory.after[key] = (memory.backend.end(out), memory.backend.end(x))
    memory.ticking |= bool(np.any(x[..., -1]))
    return out


def spell(x: Flag, t_s: Signal, every_s: float, memory: Memory, key: str) -> Flag:
    """True where the input begins to be true, the first frame included, and every ``every_s`` as
    long as it is."""
    was, since, times = memory.before.get(key, (False, math.nan, 0))
    if not isinstance(x, np.ndarray):
        if not x:
            memory.after[key] = (x, math.nan, 0)
            return False
        if not was:
            since = t_s
        now = math.floor((t_s - since + EPS) / every_s)
        memory.after[key] = (x, since, now)
        return bool(not was or now > times)
    t = np.asarray(t_s)
    before = np.concatenate([[was], x[:-1]])
    begins = x & ~before
    index = _latest(begins)
    start = np.where(index >= 0, t[np.maximum(index, 0)], since)
    with np.errstate(invalid="ignore"):
        count = np.where(x, np.floor((t - start + EPS) / every_s), 0)
    # due again where one more whole interval has passed since the frame before
    out: Flags = begins | (x & (count > np.concatenate([[times], count[:-1]])))
    memory.after[key] = (bool(x[-1]), float(start[-1]) if x[-1] else math.nan, int(count[-1]))
    return out


def slow(
    x: Signal,
    up_s: float,
    down_s: float,
    frame_s: float,
    memory: Memory,
    key: str,
    stopped: Flag = False,
    idle: float = 0.0,
) -> Signal:
    """Limit the change in a frame to ``100 * frame_s / slow_s``, up and down apart; zero seconds is
    unlimited.

    The first frame of all is taken as it comes. Where ``stopped``, the value is held at ``idle``,
    so that it sets out from there afterwards and nothing wound up before comes out."""
    backend = memory.backend
    if stopped is not False and not backend.never(stopped):
        if isinstance(x, np.ndarray):
            return _slow_between(x, up_s, down_s, frame_s, memory, key, stopped, idle)
        memory.after[key] = idle
        return idle
    if up_s == 0.0 and down_s == 0.0:
        return x
    if memory.instant:
        memory.after[key] = memory.backend.end(x)
        return x
    up = 100.0 * frame_s / up_s if up_s > 0 else math.inf
    down = 100.0 * frame_s / down_s if down_s > 0 else math.inf
    last = memory.before.get(key)
    if not isinstance(x, np.ndarray):
        y: float = x if last is None else min(max(x, last - down), last + up)
        memory.after[key] = y
        memory.pending |= abs(y - x) > EPS
        return y
    start = x[..., 0] if last is None else _spread(last, 0.0, x)
    rows, frames = int(np.prod(x.shape[:-1], dtype=int)), x.shape[-1]
    # many rows go together, a frame at a time; of a few each goes by itself, and only the
    # stretches at the limit are walked
    if rows > 64 or frames == 1:
        out = np.empty_like(x)
        at = start
        for i in range(frames):
            out[..., i] = at = np.minimum(np.maximum(x[..., i], at - down), at + up)
    else:
        flat, starts = x.reshape(rows, frames), np.asarray(start).reshape(rows)
        out = np.stack(
            [_slow_row(flat[i], float(starts[i]), up, down) for i in range(rows)]
        ).reshape(x.shape)
    memory.after[key] = memory.backend.end(out)
    memory.pending |= bool(np.any(memory.backend.differs(out, x)))
    return out


def _slow_between(
    x: Array,
    up_s: float,
    down_s: float,
    frame_s: float,
    memory: Memory,
    key: str,
    stopped: Flag,
    idle: float,
) -> Array:
    """:func:`slow` where some frames are stopped: piece by piece, a piece begins where any
    situation stops or starts."""
    x, held_ = np.broadcast_arrays(x, stopped)
    other = _anywhere(held_[..., 1:] != held_[..., :-1])
    edges = [0, *(np.flatnonzero(other) + 1).tolist(), x.shape[-1]]
    out = np.empty(x.shape)
    state, pending = memory.before.get(key), False
    # within a piece nothing stops or starts: a row is held all through it, or runs as usual
    for a, b in itertools.pairwise(edges):
        piece = Memory(
            before={} if state is None else {key: state},
            instant=memory.instant,
            backend=memory.backend,
        )
        part = slow(x[..., a:b], up_s, down_s, frame_s, piece, key)
        off = held_[..., a : a + 1]
        out[..., a:b] = np.where(off, idle, part)
        state = np.where(off[..., 0], idle, out[..., b - 1])
        pending = piece.pending and not bool(np.all(off))
    memory.pending |= pending
    memory.after[key] = memory.backend.end(out)
    return out


def _slow_row(x: Array, start: float, up: float, down: float) -> Array:
    """One row: only the stretches where the limit bites are walked frame by frame."""
    change = np.diff(x, prepend=start)
    bites = np.flatnonzero((change > up) | (change < -down))
    if not bites.size:
        return x
    out = x.copy()
    values = x.tolist()
    done, end = 0, len(values)
    for first in bites.tolist():
        if first < done:
            continue
        y = values[first - 1] if first else start
        i = first
        while i < end:
            target = values[i]
            y = min(max(target, y - down), y + up)
            # it has caught up: from here on it goes as it comes until the limit bites again
            if y == target:
                break
            out[i] = y
            i += 1
        done = i + 1
    return out


def held(
    x: Signal, fresh: Flag, forgets: Flag, rest: float, memory: Memory, key: str
) -> tuple[Signal, Flag]:
    """The last value seen while ``fresh`` (``rest`` before there was one), and whether there has
    been one since ``forgets``."""
    last, was_known = memory.before.get(key, (rest, False))
    if not isinstance(x, np.ndarray):
        now = (x, True) if fresh else (last, was_known and not forgets)
        memory.after[key] = now
        return now
    fresh, forgets = np.broadcast_to(fresh, x.shape), np.broadcast_to(forgets, x.shape)
    index = _latest(fresh)
    value = np.take_along_axis(x, np.maximum(index, 0), axis=-1)
    value = np.where(index >= 0, value, _spread(last, rest, x)[..., None])
    known = latch(fresh, forgets & ~fresh, Memory(before={key: was_known}), key)
    memory.after[key] = (memory.backend.end(value), memory.backend.end(known))
    return value, known


def stepped(
    step: Signal, forgets: Flag, low: Signal, high: Signal, memory: Memory, key: str
) -> Signal:
    """The running sum of the steps, held from ``low`` to ``high`` at every step; nothing while
    ``forgets`` holds."""
    last = memory.before.get(key, 0.0)
    if not isinstance(step, np.ndarray):
        now = 0.0 if forgets else last
        if step:
            now = min(max(now + step, low), high)
        memory.after[key] = now
        return float(now)
    lost = np.broadcast_to(forgets, step.shape)
    low, high = np.broadcast_to(low, step.shape), np.broadcast_to(high, step.shape)
    events = _anywhere(step != 0) | _anywhere(lost)
    out = np.empty(step.shape)
    now, at = np.array(_spread(last, 0.0, step), float), 0
    # between two events nothing changes
    for i in np.flatnonzero(events).tolist():
        out[..., at:i] = now[..., None]
        kept = np.where(lost[..., i], 0.0, now)
        stepping = step[..., i] != 0
        now = np.where(
            stepping, np.minimum(np.maximum(kept + step[..., i], low[..., i]), high[..., i]), kept
        )
        out[..., i] = now
        at = i + 1
    out[..., at:] = now[..., None]
    memory.after[key] = memory.backend.end(out)
    return out


Machine = Callable[[tuple[Flag, ...], tuple[Flag, ...]], tuple[Flag, ...]]
"""One frame of a machine made of flags: (what it was, what it hears) -> what it is."""


def machine(
    step: Machine, heard: tuple[Flag, ...], start: int, memory: Memory, key: str
) -> tuple[Flag, ...]:
    """A machine of ``start`` flags, all off at power-up, over time; its state in every frame.

    ``step`` must have come to rest after two frames in which it heard the same, so only the frames
    after a change are walked."""
    backend = memory.backend
    state: tuple[Flag, ...] = memory.before.get(key, (False,) * start)
    if backend.single:
        memory.after[key] = state = step(state, heard)
        return state
    flags = np.broadcast_arrays(*heard)
    frames = flags[0].shape[-1]
    changed = np.zeros(frames, bool)
    for x in flags:
        changed[1:] |= _anywhere(x[..., 1:] != x[..., :-1])
    changed[0] = True
    # two frames after a change the machine has come to rest
    walked = np.flatnonzero(changed | np.roll(changed, 1) | np.roll(changed, 2))
    states: tuple[Flag, ...] = tuple(_spread(s, False, flags[0]) for s in state)
    found = np.empty((start, len(walked), *flags[0].shape[:-1]), bool)
    for n, i in enumerate(walked.tolist()):
        states = step(states, tuple(x[..., i] for x in flags))
        for k, s in enumerate(states):
            found[k, n] = s
    at = np.searchsorted(walked, np.arange(frames), side="right") - 1
    out = tuple(np.moveaxis(found[k][at], 0, -1) for k in range(start))
    memory.after[key] = tuple(backend.end(x) for x in out)
    return out
