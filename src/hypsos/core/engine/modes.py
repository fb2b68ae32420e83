"""Which flight mode is flown, how far the fade into it has come, and the shared values of each mode."""

from __future__ import annotations

import itertools
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


def _weights(modes: tuple[FlightMode, ...], index: Places, t_s: Array, memory: Memory) -> Array | None:
    rows, frames, count = int(np.prod(index.shape[:-1], dtype=int)), index.shape[-1], len(modes)
    flat = index.reshape(rows, frames)
    last = memory.before.get("fade")
    out = np.zeros((count, rows, frames))
    ends: list[tuple[int, float, Array]] = []
    fading = False
    if memory.instant:
        memory.after["fade"] = [(int(m), -np.inf, np.eye(count)[m]) for m in flat[:, -1]]
        return None
    for r in range(rows):
        mode, since, start = (
            (int(flat[r, 0]), -np.inf, np.eye(count)[flat[r, 0]]) if last is None else last[min(r, len(last) - 1)]
        )
        changes = np.flatnonzero(np.diff(np.concatenate([[mode], flat[r]]))).tolist()
        edges = [0, *changes, frames]
        now = start
        for k, (a, b) in enumerate(itertools.pairwise(edges)):
            if k > 0:
                mode, since, start = int(flat[r, a]), float(t_s[a]), now
            fade = modes[mode].fade_s
            target = np.eye(count)[mode]
            share = np.ones(b - a) if fade == 0 else np.clip((t_s[a:b] - since) / fade, 0, 1)
            out[:, r, a:b] = start[:, None] + (target - start)[:, None] * share
            fading |= bool((share < 1).any() and np.any(start != target))
            if b > a:
                now = out[:, r, b - 1]
        ends.append((mode, since, start))
        memory.pending |= bool(np.any((now > 1e-12) & (now < 1 - 1e-12))) or not np.isclose(now[mode], 1.0)
    memory.after["fade"] = ends
    return out.reshape(count, *index.shape) if fading else None


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
