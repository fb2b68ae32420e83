# SPDX-License-Identifier: GPL-3.0-or-later
"""Which flight mode is flown, how far the fade into it has come, and the shared values of each
mode."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Backend, Flag, Place, Places, Signal, Table
from hypsos.core.base.memory import Memory, held, rising, stepped
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.document.document import Model
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.tunables import Adjuster, Tunable


@dataclass(frozen=True)
class ModeTrack:
    """``index`` of the mode flown over the run.

    ``frames`` are the places of those in which a fade is under way, None when there is none;
    ``weights`` then hold each mode's share in those frames."""

    index: Place
    frames: Places | None = None
    weights: tuple[Signal, ...] = ()

    def blend(self, backend: Backend, table: Table) -> Signal:
        """A value per mode as a value over time, faded."""
        value = backend.take(table, self.index)
        if self.frames is None:
            return value
        return backend.put(
            value, self.frames, sum(w * x for w, x in zip(self.weights, table.values, strict=True))
        )


def mode_index(modes: tuple[FlightMode, ...], world: ConditionWorld) -> Place:
    """The place of the mode flown in the list; 0 without modes."""
    backend = world.backend
    index = backend.full(world.shape, 0)
    # at most one of these flags is up, so the order in which they are looked at does not matter
    for i, m in enumerate(modes[1:], 1):
        index = backend.where(world.flags[f"mode:{m.name}"], i, index)
    return index


def mode_track(modes: tuple[FlightMode, ...], world: ConditionWorld, memory: Memory) -> ModeTrack:
    """The modes over time; a fade runs in a straight line over the entered mode's ``fade_s``."""
    index = mode_index(modes, world)
    if not any(m.fade_s for m in modes):
        return ModeTrack(index)
    return _faded(modes, index, world, memory)


@dataclass(frozen=True)
class _Fade:
    """Where the fade of every row stands: the mode entered (R,), since when (R,), from which
    weights and the weights now (R, M)."""

    mode: Places
    since: Array
    start: Array
    now: Array
    settled: bool
    names: tuple[str, ...] = ()

    def of(self, names: tuple[str, ...]) -> _Fade | None:
        """The same fade among these modes: modes are known by name. None where the mode flown is
        gone."""
        if names == self.names:
            return self
        # an edit may have renamed, added or taken out modes in the middle of a fade
        flown = {self.names[int(i)] for i in self.mode}
        if not flown <= set(names):
            return None
        start, now = self._columns(self.start, names), self._columns(self.now, names)
        mode = np.array([names.index(self.names[int(i)]) for i in self.mode], np.intp)
        for x in (start, now):  # the share of modes that are gone goes to the mode entered
            x[np.arange(len(mode)), mode] += 1.0 - x.sum(axis=1)
        return _Fade(mode, self.since, start, now, self.settled, names)

    def _columns(self, shares: Array, names: tuple[str, ...]) -> Array:
        """Shares (rows, modes) with a column for each of these modes, 0 for one that is new."""
        columns = np.zeros((len(shares), len(names)))
        for i, name in enumerate(names):
            if name in self.names:
                columns[:, i] = shares[:, self.names.index(name)]
        return columns

    def at(self, index: Places, t: Array, fade_s: Array) -> _Fade:
        """The fade later on: rows (R,) in the modes ``index`` since the last look, at the time
        ``t``."""
        # where another mode was entered, the fade begins anew from the shares of this moment
        entered = index != self.mode
        start = np.where(entered[:, None], self.now, self.start) if entered.any() else self.start
        since = np.where(entered, t, self.since)
        now = _weights(start, index, since, t, fade_s)
        return _Fade(
            index, since, start, now, bool(np.all(now == np.eye(len(fade_s))[index])), self.names
        )


def _weights(start: Array, index: Places, since: Array, t: Array, fade_s: Array) -> Array:
    """The shares of all modes on the straight line from ``start`` to the mode entered; shapes (...,
    M)."""
    length = fade_s[index]
    # a mode without a fade is entered at once; its length of 0 is not divided by in the end
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(length > 0, np.clip((t - since) / length, 0.0, 1.0), 1.0)
    return np.asarray(start + (np.eye(len(fade_s))[index] - start) * share[..., None])


def _faded(
    modes: tuple[FlightMode, ...], index: Place, world: ConditionWorld, memory: Memory
) -> ModeTrack:
    """The mode of each frame, and where one passes into another the share of each.

    A single frame that goes on in a mode that has settled needs no more than the mode itself; that
    is nearly every frame of the bench, so it is asked first."""
    names = tuple(m.name for m in modes)
    last: _Fade | None = memory.before.get("fade")
    last = last.of(names) if last is not None else None
    if world.backend.single and last is not None and last.settled and int(last.mode[0]) == index:
        memory.after["fade"] = last
        return ModeTrack(index)
    # from here on: rows of situations, frames along time
    flat = np.asarray(index).reshape(-1, world.shape[-1])
    last = _fade_before(last, flat, names, memory.instant)
    memory.after["fade"] = last
    if memory.instant:
        return ModeTrack(index)
    # a frame counts where any situation changes its mode in it
    changed = (np.diff(flat, axis=1, prepend=last.mode[:, None]) != 0).any(axis=0)
    if last.settled and not changed.any():
        return ModeTrack(index)
    rows, frames = flat.shape
    t, fade_s = np.broadcast_to(world.t_s, (frames,)), np.array([m.fade_s for m in modes])
    places, weights, fade = (_by_piece if rows == 1 else _by_frame)(
        flat, t, fade_s, last, np.flatnonzero(changed)
    )
    memory.after["fade"] = fade
    # the run ends in the middle of a fade: whoever asks knows that it is not over
    memory.pending |= not fade.settled
    return ModeTrack(index, places, _shares(weights, world)) if places.size else ModeTrack(index)


def _fade_before(last: _Fade | None, flat: Places, names: tuple[str, ...], instant: bool) -> _Fade:
    """The fade that was under way before the first frame. ``flat``: the modes, a row for each
    situation; ``instant``: everything that takes time has ended, in the mode of the last frame."""
    if last is None or instant:
        return _arrived(flat[:, -1 if instant else 0], names)
    return last if len(last.mode) == len(flat) else _for_rows(last, len(flat), names)


def _shares(weights: Array, world: ConditionWorld) -> tuple[Signal, ...]:
    """The share of each mode over the frames that fade. ``weights``: (frames, rows, modes)."""
    frames, _, modes = weights.shape
    if world.backend.single:
        return tuple(weights.reshape(modes).tolist())
    return tuple(weights.transpose(2, 1, 0).reshape(modes, *world.shape[:-1], frames))


def _arrived(mode: Places, names: tuple[str, ...]) -> _Fade:
    """No fade under way: each situation has all of its mode."""
    whole = np.eye(len(names))[mode]
    return _Fade(mode, np.full(len(mode), -np.inf), whole, whole, True, names)


def _for_rows(last: _Fade, rows: int, names: tuple[str, ...]) -> _Fade:
    """A fade of one situation as that of several which go on from it."""
    wide = (rows, len(names))
    return _Fade(
        np.broadcast_to(last.mode, (rows,)),
        np.broadcast_to(last.since, (rows,)),
        np.broadcast_to(last.start, wide),
        np.broadcast_to(last.now, wide),
        last.settled,
        names,
    )


def _by_piece(
    flat: Places, t: Array, fade_s: Array, fade: _Fade, changes: NDArray[np.intp]
) -> tuple[NDArray[np.intp], Array, _Fade]:
    """One row, from one change of mode to the next: the frames that fade, their weights (F, 1, M),
    the fade at the end."""
    # between two changes one fade runs, so its weights are one formula over the piece
    edges = sorted({0, *changes.tolist(), flat.shape[1]})
    places, weights = [], []
    for a, b in pairwise(edges):
        begun = fade.at(flat[:, a], t[a : a + 1], fade_s)
        # only as far as the fade lasts; behind it nothing has to be blended
        until = min(
            b, int(np.searchsorted(t, begun.since[0] + fade_s[begun.mode[0]], side="right"))
        )
        piece = _weights(begun.start, begun.mode, begun.since, t[a:until], fade_s)
        # the last frames of a fade may have arrived already
        going = piece[:, begun.mode[0]] < 1
        places.append(a + np.flatnonzero(going))
        weights.append(piece[going][:, None, :])
        fade = begun.at(flat[:, b - 1], t[b - 1 : b], fade_s)
    return np.concatenate(places), np.concatenate(weights), fade


def _by_frame(
    flat: Places, t: Array, fade_s: Array, fade: _Fade, changes: NDArray[np.intp]
) -> tuple[NDArray[np.intp], Array, _Fade]:
    """Many rows, frame by frame while any of them fades: the frames, their weights (F, R, M), the
    fade at the end."""
    places, weights = [], []
    i = int(changes[0]) if fade.settled else 0
    while i < flat.shape[1]:
        fade = fade.at(flat[:, i], t[i], fade_s)
        if fade.settled:  # nothing fades: on to the next change
            later = changes[changes > i]
            i = int(later[0]) if later.size else flat.shape[1]
            continue
        places.append(i)
        weights.append(fade.now)
        i += 1
    return np.array(places, np.intp), np.array(weights).reshape(-1, *fade.now.shape), fade


class Adjustment(NamedTuple):
    """What an adjuster does to a shared value: what it sets or adds while it acts, what it leaves
    while it does not, and where there is something left.

    In a fade the mode that is left and the mode that is entered may see its condition otherwise;
    each then has the value of its own, and the sums are crossed. So what it leaves is of before it
    began to act, and what it did is of before it ended."""

    acting: Signal
    left: Signal
    anything_left: Flag


Moved = dict[str, Adjustment]
"""Shared value -> what its adjuster does to it."""


class TunablePlan:
    """The shared values of a model, its own and those of its behaviours."""

    def __init__(self, model: Model) -> None:
        self.tunables = model.program.shared_values()
        names = [m.name for m in model.program.modes] or ["base"]
        self._tables: dict[str, Table] = {}
        for shared in self.tunables:
            by_mode = [shared.by_mode.get(name, shared.value) for name in names]
            self._tables[shared.name] = Table(by_mode)
        self._trim_range: dict[str, float] = {}
        for axis in model.program.axes:
            if axis.trim is not None:
                self._trim_range[f"{axis.command}_trim"] = axis.trim.range
        self._listed: dict[str, Table] = {}
        """Of each adjuster 1 in the modes in which it acts, 0 in the others."""
        for x in self.tunables:
            if x.adjuster is not None:
                # an adjuster that names no modes acts in all of them
                acts_in = x.adjuster.modes or names
                self._listed[x.name] = Table([float(n in acts_in) for n in names])

    def moved(self, modes: Place, world: ConditionWorld, memory: Memory) -> Moved:
        """What the adjusters do over time, while ``modes`` are flown."""
        return {
            x.name: self._live(x, x.adjuster, modes, world, memory)
            for x in self.tunables
            if x.adjuster is not None
        }

    def values(
        self, modes: Place, world: ConditionWorld, flag: Callable[[str], Flag], moved: Moved
    ) -> dict[str, Signal]:
        """Each shared value over time for the modes flown (or for one mode), adjusted in flight,
        within its bounds.

        ``flag`` gives the truth of a condition as those modes see it.
        """
        return {x.name: self._value(x, modes, world, flag, moved) for x in self.tunables}

    def _live(
        self, x: Tunable, adjuster: Adjuster, modes: Place, world: ConditionWorld, memory: Memory
    ) -> Adjustment:
        """What an adjuster does over time, while ``modes`` are flown."""
        backend, key = world.backend, f"adjuster.{x.name}"
        always: Flag = backend.full(world.shape, True)
        never = backend.not_(always)
        active = always if adjuster.when is None else world.flag(adjuster.when)
        if adjuster.kind == "step":
            made = self._stepped(x, adjuster, modes, active, world, memory)
            if adjuster.keep or adjuster.when is None:
                return Adjustment(made, made, always)
            return Adjustment(
                held(made, active, never, 0.0, memory, f"{key}.acting")[0],
                backend.full(world.shape, 0.0),
                always,
            )
        assert adjuster.control is not None
        # a trim lever goes over its own range; here it counts as a whole slider
        signal = world.signals[adjuster.control] * (
            100.0 / self._trim_range.get(adjuster.control, 100.0)
        )
        share = (signal + 100.0) / 200.0
        if adjuster.kind == "set":
            moved = x.low + share * (x.high - x.low)
        else:
            moved = adjuster.amount * signal / 100.0
        if not adjuster.keep or adjuster.when is None:
            return Adjustment(moved, moved, never)
        # what it leaves is what it did last while it acted; before it ever acted there is
        # nothing left
        kept, known = held(moved, active, never, 0.0, memory, key)
        idle = backend.not_(active)
        # held a second time while it does not act: in a fade a mode that no longer sees it act
        # must find what was left before, not what it does now
        left = held(kept, idle, never, 0.0, memory, f"{key}.left")[0]
        known_there = held(
            backend.where(known, 1.0, 0.0), idle, never, 0.0, memory, f"{key}.known"
        )[0]
        return Adjustment(moved, left, known_there > 0.5)

    def _stepped(
        self,
        x: Tunable,
        adjuster: Adjuster,
        modes: Place,
        active: Flag,
        world: ConditionWorld,
        memory: Memory,
    ) -> Signal:
        """The steps made so far. A step is a press while the adjuster acts: that it begins to act
        is no press."""
        backend, key = world.backend, f"adjuster.{x.name}"
        step: Signal = backend.full(world.shape, 0.0)
        for way, text, sign in (("up", adjuster.up, 1.0), ("down", adjuster.down, -1.0)):
            if text is not None:
                # the moment at which it begins to hold is the press
                pressed = rising(world.flag(text), memory, f"{key}.{way}") & active
                step = step + backend.where(pressed, sign * adjuster.amount, 0.0)
        stored = backend.take(self._tables[x.name], modes)
        # without *keep* the steps are forgotten as soon as it does not act
        forgets = backend.full(world.shape, False) if adjuster.keep else backend.not_(active)
        return stepped(step, forgets, x.low - stored, x.high - stored, memory, key)

    def _value(
        self,
        x: Tunable,
        modes: Place,
        world: ConditionWorld,
        flag: Callable[[str], Flag],
        moves: Moved,
    ) -> Signal:
        backend = world.backend
        stored = backend.take(self._tables[x.name], modes)
        adjuster = x.adjuster
        if adjuster is not None:
            way = moves[x.name]
            moved, here = way.acting, backend.full(world.shape, True)
            if adjuster.when is not None:
                acts = flag(adjuster.when)  # as the mode that looks sees it
                moved, here = backend.where(acts, moved, way.left), acts | way.anything_left
            if adjuster.modes:
                # in modes that it does not name it neither sets nor adds
                here = here & (backend.take(self._listed[x.name], modes) > 0.5)
            stored = backend.where(
                here, moved if adjuster.kind == "set" else stored + moved, stored
            )
        return backend.clip(stored, x.low, x.high)
