"""Which flight mode is flown, how far the fade into it has come, and the shared values of each mode."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine.logic import Conditions
from hypsos.core.engine.memory import Memory
from hypsos.core.logic import FlightMode, Tunable

Array = NDArray[np.float64]
Places = NDArray[np.intp]


@dataclass(frozen=True)
class ModeTrack:
    """``index`` of the mode flown, the run's shape. ``weights`` (M, ...) only where a fade is under way, else None."""

    index: Places
    weights: Array | None

    def blend(self, table: Array) -> Array:
        """A value per mode as a value over time, faded."""
        if self.weights is None:
            return np.asarray(table[self.index])
        return np.asarray(np.tensordot(table, self.weights, axes=1))


def mode_track(modes: tuple[FlightMode, ...], world: Conditions, memory: Memory) -> ModeTrack:
    """The modes over time; a fade runs in a straight line over the entered mode's ``fade_s``."""
    shape = world.link.shape
    index = np.zeros(shape, np.intp)
    for i, m in enumerate(modes[1:], 1):
        index[np.broadcast_to(world.flags[f"mode:{m.name}"], shape)] = i
    if not any(m.fade_s for m in modes):
        return ModeTrack(index, None)
    return ModeTrack(index, _weights(modes, index, world.t_s, memory))


@dataclass
class _Fade:
    """Where the fade of every row stands: the mode entered, since when, from which weights, and the weights now."""

    mode: Places
    since: Array
    start: Array
    now: Array

    def step(self, index: Places, t: float, fade_s: Array, eye: Array) -> None:
        """One frame on: rows (R,), weights (R, M)."""
        entered = index != self.mode
        if entered.any():
            self.start = np.where(entered[:, None], self.now, self.start)
            self.since = np.where(entered, t, self.since)
            self.mode = index
        length = fade_s[self.mode]
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(length > 0, np.clip((t - self.since) / length, 0.0, 1.0), 1.0)
        self.now = self.start + (eye[self.mode] - self.start) * share[:, None]


def _weights(modes: tuple[FlightMode, ...], index: Places, t_s: Array, memory: Memory) -> Array | None:
    """Weights (M, ...) of the modes, or None when no fade is under way in any frame."""
    rows, frames, count = int(np.prod(index.shape[:-1], dtype=int)), index.shape[-1], len(modes)
    flat = index.reshape(rows, frames)
    eye, fade_s = np.eye(count), np.array([m.fade_s for m in modes])
    last: _Fade | None = memory.before.get("fade")
    if last is None or memory.instant:
        first = flat[:, -1] if memory.instant else flat[:, 0]
        fade = _Fade(first, np.full(rows, -np.inf), eye[first], eye[first])
    else:
        spread = (rows,)
        fade = _Fade(
            np.broadcast_to(last.mode, spread), np.broadcast_to(last.since, spread),
            np.broadcast_to(last.start, (rows, count)), np.broadcast_to(last.now, (rows, count)),
        )  # fmt: skip
    memory.after["fade"] = fade
    if memory.instant:
        return None
    settled = np.all(fade.now == eye[fade.mode])
    changes = np.flatnonzero((np.diff(flat, axis=1, prepend=fade.mode[:, None]) != 0).any(axis=0))
    if settled and not changes.size:
        return None
    out = np.empty((frames, rows, count))
    out[:] = eye[flat.T]
    i = int(changes[0]) if settled else 0
    while i < frames:
        fade.step(flat[:, i], float(t_s[i]), fade_s, eye)
        out[i] = fade.now
        i += 1
        if np.all(fade.now == eye[fade.mode]):  # nothing fades: on to the next change
            later = changes[changes >= i]
            i = int(later[0]) if later.size else frames
    memory.pending |= bool(np.any(fade.now != eye[fade.mode]))
    return np.moveaxis(out, 0, -1).transpose(1, 0, 2).reshape(count, *index.shape)


class TunablePlan:
    """The shared values of a model."""

    def __init__(self, model: Model) -> None:
        self.tunables = model.program.tunables
        names = [m.name for m in model.program.modes] or ["base"]
        self._tables = {x.name: np.array([x.by_mode.get(n, x.value) for n in names]) for x in self.tunables}

    def values(self, modes: Places | int, world: Conditions) -> dict[str, Array]:
        """Each shared value over time for the modes flown (or for one mode), adjusted in flight, within its bounds."""
        return {x.name: self._value(x, modes, world) for x in self.tunables}

    def _value(self, x: Tunable, modes: Places | int, world: Conditions) -> Array:
        stored = np.asarray(self._tables[x.name][modes])
        if x.adjuster is not None:
            live = x.low + (world.signals[x.adjuster.control] + 100.0) / 200.0 * (x.high - x.low)
            stored = live if x.adjuster.when is None else np.where(world.flag(x.adjuster.when), live, stored)
        return np.asarray(np.clip(stored, x.low, x.high))
