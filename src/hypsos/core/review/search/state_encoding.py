# SPDX-License-Identifier: GPL-3.0-or-later
"""What the engine remembers, as rows of figures: so that two situations are known to be the same
from here on."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.base.memory import Memory, Waiting

LONG_AGO = -1e6
"""The second at which something began that has waited its time; everything else is at second 0."""
RUN_OUT = 10_000_000
"""Frames that a timer has counted which has run out."""
Path = tuple[str, ...]


class StateEncoding:
    """Memories of many situations as rows of one table, each row once.

    Row 0 stands for *no power yet*: nothing is remembered. ``timed`` are the keys of what waits for
    a time, ``fixed`` those whose value makes no difference to any question, with the value that
    stands for all."""

    def __init__(
        self, timed: Mapping[str, Waiting], fixed: Mapping[str, float] | None = None
    ) -> None:
        self.timed, self._fixed = timed, dict(fixed or {})
        self.paths: list[Path] = []
        self._kinds: list[type] = []
        self._made: Memory | None = None
        self.rows: Array = np.zeros((1, 0))
        self._known: dict[bytes, int] = {}
        self._times: dict[str, int] = {}

    def __len__(self) -> int:
        return len(self.rows)

    def taken(self, memory: Memory, count: int) -> Places:
        """The numbers of the rows of a memory of ``count`` situations."""
        leaves = list(_leaves(memory.after))
        # the first memory says which figures there are; all later ones of this model have the
        # same
        if not self.paths:
            self._learn(memory, leaves)
        table = np.empty((count, len(leaves)))
        for k, (_, x) in enumerate(leaves):
            # a figure that is the same in all situations stands only once in a memory
            table[:, k] = np.broadcast_to(np.asarray(x, float), (count,))
        for k, path in enumerate(self.paths):
            # what the receiver heard last is taken for one figure, so that it multiplies no
            # situations
            if path[0] in self._fixed and path[-1] == "0":
                table[:, k] = self._fixed[path[0]]
        for key, k in self._times.items():
            if key.startswith("timer:"):
                # of a timer only this is told apart: whether it has run out
                table[:, k] = np.where(table[:, k] >= RUN_OUT / 2, RUN_OUT, 0)
        return self._numbers(table)

    def _learn(self, memory: Memory, leaves: list[tuple[Path, Any]]) -> None:
        self.paths = [p for p, _ in leaves]
        self._kinds = [np.asarray(x).dtype.type for _, x in leaves]
        self._made = memory
        self.rows = np.full((1, len(leaves)), np.nan)
        for k, path in enumerate(self.paths):
            key = path[0]
            waiting = self.timed.get(key)
            # of what waits only the second at which it began is told apart, and only by whether
            # it is long ago
            if waiting is not None and waiting.since in ("", path[-1]):
                self._times[key] = k

    def _numbers(self, table: Array) -> Places:
        # rows are compared byte by byte: "+ 0.0" makes 0 of -0, and what is not a number gets
        # one of its own
        clean = np.where(np.isnan(table), 1e300, table + 0.0)
        flat = np.ascontiguousarray(clean).view(np.dtype((np.void, clean.shape[1] * 8))).ravel()
        # each different row is looked up once, however many situations have it
        unique, inverse = np.unique(flat, return_inverse=True)
        found = np.empty(len(unique), np.intp)
        fresh: list[int] = []
        for j, raw in enumerate(unique):
            key = raw.tobytes()
            at = self._known.get(key)
            if at is None:
                at = self._known[key] = len(self.rows) + len(fresh)
                fresh.append(j)
            found[j] = at
        if fresh:
            # new rows go to the end, so that numbers given before stay what they are
            made = np.frombuffer(b"".join(unique[j].tobytes() for j in fresh), float).reshape(
                len(fresh), -1
            )
            self.rows = np.concatenate([self.rows, np.where(made == 1e300, np.nan, made)])
        return found[inverse.ravel()]

    def memory(self, numbers: Places) -> Memory:
        """The memory of situations that stand side by side."""
        assert self._made is not None
        table = self.rows[numbers]
        values: dict[Path, NDArray[Any]] = {
            p: table[:, k].astype(self._kinds[k]) for k, p in enumerate(self.paths)
        }
        return Memory(after=_rebuilt(self._made.after, values, ()), many=True)

    # -- time ------------------------------------------------------------------------------------

    def young(self) -> dict[str, Flags]:
        """What waits for its time -> in which rows it still waits."""
        out: dict[str, Flags] = {}
        for key, k in self._times.items():
            found = self.rows[:, k] == 0.0
            waiting = self.timed[key]
            if waiting.on:
                found = found & ((self.rows[:, self._place(key, waiting.on)] != 0.0) == waiting.so)
            # row 0 has no power, and nothing waits there
            found[0] = False
            out[key] = found
        return out

    def _place(self, key: str, last: str) -> int:
        return next(k for k, p in enumerate(self.paths) if p[0] == key and p[-1] == last)

    def aged(self, numbers: Places, keys: tuple[str, ...]) -> Places:
        """The rows in which the time of these has passed."""
        table = self.rows[numbers].copy()
        for key in keys:
            # its time has passed: it began long ago, or has counted enough
            table[:, self._times[key]] = RUN_OUT if key.startswith("timer:") else LONG_AGO
        return self._numbers(table)


def _leaves(x: Any, path: Path = ()) -> Any:
    if isinstance(x, dict):
        for key in x:
            yield from _leaves(x[key], (*path, key))
    elif isinstance(x, tuple):
        for i, part in enumerate(x):
            yield from _leaves(part, (*path, str(i)))
    else:
        yield path, x


def _rebuilt(x: Any, values: dict[Path, NDArray[Any]], path: Path) -> Any:
    if isinstance(x, dict):
        return {key: _rebuilt(part, values, (*path, key)) for key, part in x.items()}
    if isinstance(x, tuple):
        return tuple(_rebuilt(part, values, (*path, str(i))) for i, part in enumerate(x))
    return values[path]
