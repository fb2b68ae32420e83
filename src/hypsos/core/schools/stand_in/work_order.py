# SPDX-License-Identifier: GPL-3.0-or-later
"""In which order the parts of the simulated transmitter are worked out, and what has to be worked
out together, frame by frame.

Sought: each part worked out for a whole stretch of frames at once, for that is quick.

What must stay true: nothing is asked before it is known. A part that asks what another *was* asks
for the frame before; where that other one, on some way, asks for this part in its turn, both can
only go on frame by frame.

How it is made: the parts that lie on such a circle are one *piece*. The pieces stand in no circle
any more, and are worked out one after the other."""

from __future__ import annotations

from collections.abc import Sequence
from graphlib import CycleError, TopologicalSorter
from typing import Any

import numpy as np

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.stand_in.parts import FULL
from hypsos.core.schools.stand_in.radio_stretch import Node, Stretch

CELLS = ("hands", "places", "flags", "counts", "pulses")
"""The tables of a stretch that have a row for each cell."""
ROWS = ("signals", "plain", "shared")
"""Those that have a row for each cell and for each mode with a share in it."""


class Piece:
    """Something that is worked out for a stretch at once."""

    def __init__(self, node: Node) -> None:
        self.nodes = (node,)
        self.work = node.work
        """What works it out."""


class Circle:
    """Nodes that ask each other by way of what one of them was: worked out frame by frame."""

    def __init__(self, nodes: Sequence[Node]) -> None:
        self.nodes = tuple(nodes)
        self._writes = [x for node in nodes for x in node.writes]
        names = {node.name for node in nodes}
        asked = {name for node in nodes for name in (*node.asks, *node.was)} - names
        # a shared value has its name in its table without what stands in front
        self._asked = {name.removeprefix("shared:") for name in asked}
        self._finds_mode = "modes" in names
        self._last: Stretch | None = None

    def work(self, stretch: Stretch) -> None:
        """One stretch further."""
        frames = [self._frame(stretch, i) for i in range(len(stretch.t_s))]
        if self._finds_mode:
            _take_modes(stretch, frames)
        for table, key in self._writes:
            found = [getattr(frame, table)[key] for frame in frames]
            count = stretch.situations
            whole = [x[:count] for x in found]
            if table in ROWS:
                whole += [x[count:] for x in found]
            getattr(stretch, table)[key] = np.concatenate(whole)

    def _frame(self, stretch: Stretch, i: int) -> Stretch:
        """A frame of the stretch, worked out."""
        count = stretch.situations
        cells = slice(i * count, (i + 1) * count)
        frame = Stretch(stretch.setup, stretch.t_s[i : i + 1], {FULL: stretch.hands[FULL][cells]})
        faded = self._modes_of(stretch, frame, i, cells)
        for table in CELLS:
            found: dict[str, Any] = getattr(stretch, table)
            there = {n: found[n][cells] for n in self._asked if n in found}
            getattr(frame, table).update(there)
        for table in ROWS:
            found = getattr(stretch, table)
            for name in self._asked:
                if name in found:
                    whole = found[name]
                    rows = np.concatenate([whole[cells], whole[faded]])
                    getattr(frame, table)[name] = rows
        frame.before = self._last
        for node in self.nodes:
            node.work(frame)
        self._last, frame.before = frame, None
        return frame

    def _modes_of(self, stretch: Stretch, frame: Stretch, i: int, cells: slice) -> slice:
        """Give a frame the modes of its cells and of the rows that are faded; these rows."""
        count = stretch.situations
        if self._finds_mode:
            return slice(0, 0)
        frame.mode = stretch.mode[cells]
        if stretch.rows is None:
            return slice(0, 0)
        rows = stretch.rows[stretch.count :]
        # the rows of modes stand in the order of their cells
        first, last = np.searchsorted(rows, [cells.start, cells.stop]).tolist()
        faded = slice(stretch.count + first, stretch.count + last)
        if last > first:
            frame.fade(
                stretch.mode[faded], rows[first:last] - i * count, stretch.shares[first:last]
            )
        return faded


def _take_modes(stretch: Stretch, frames: Sequence[Stretch]) -> None:
    """The modes that were found frame by frame, for the whole stretch."""
    count = stretch.situations
    stretch.mode = np.concatenate([frame.mode[:count] for frame in frames])
    faded = [(i, frame) for i, frame in enumerate(frames) if frame.rows is not None]
    if faded:
        mode = np.concatenate([frame.mode[count:] for _, frame in faded])
        rows = np.concatenate([_faded_rows(frame) + i * count for i, frame in faded])
        stretch.fade(mode, rows, np.concatenate([frame.shares for _, frame in faded]))


def _faded_rows(frame: Stretch) -> Any:
    assert frame.rows is not None
    return frame.rows[frame.count :]


def pieces(nodes: Sequence[Node]) -> list[Piece | Circle]:
    """What is worked out one after the other; ``nodes`` in an order in which each stands after those
    that it asks."""
    asks, asked_by = _links(nodes)
    group = {node.name: node.name for node in nodes}
    for node in nodes:
        # only what somebody was closes a circle; whoever is on one has the whole circle at once
        if node.was and group[node.name] == node.name:
            circle = _from(node.name, asks) & _from(node.name, asked_by)
            group.update(dict.fromkeys(circle, node.name))
    after: dict[str, set[str]] = {name: set() for name in group.values()}
    for name, others in asks.items():
        after[group[name]].update(group[x] for x in others if group[x] != group[name])
    members: dict[str, list[Node]] = {}
    for node in nodes:
        members.setdefault(group[node.name], []).append(node)
    out: list[Piece | Circle] = []
    for name in TopologicalSorter(after).static_order():
        mine = members[name]
        alone = len(mine) == 1 and mine[0].name not in mine[0].was
        out.append(Piece(mine[0]) if alone else Circle(mine))
    return out


Links = dict[str, set[str]]


def _links(nodes: Sequence[Node]) -> tuple[Links, Links]:
    """Whom each node asks, now or as it was; and by whom it is asked."""
    names = {node.name for node in nodes}
    asks = {node.name: {*node.asks, *node.was} & names for node in nodes}
    asked_by: Links = {name: set() for name in names}
    for name, others in asks.items():
        for other in others:
            asked_by[other].add(name)
    return asks, asked_by


def _from(start: str, links: Links) -> set[str]:
    """All that is reached from somewhere by one link or more."""
    found: set[str] = set()
    waiting = [start]
    while waiting:
        new = links[waiting.pop()] - found
        found |= new
        waiting += new
    return found


def in_order(nodes: list[Node], given: set[str]) -> list[Node]:
    """The nodes, each after those that it asks. Raises HypsosError where they ask each other in a
    circle, for what isn't there, or are called alike."""
    by_name: dict[str, Node] = {}
    for node in nodes:
        if node.name in by_name or node.name in given:
            raise HypsosError(
                f"there are two things called {node.name}", node.name, "Name one anew."
            )
        by_name[node.name] = node
    for node in nodes:
        for name in node.asks:
            if name not in by_name and name not in given:
                text = f"{node.name} asks for {name}, which isn't there"
                raise HypsosError(text, node.name, "Write it in, or ask for something else.")
    asks = {node.name: [x for x in node.asks if x in by_name] for node in nodes}
    try:
        order = list(TopologicalSorter(asks).static_order())
    except CycleError as error:
        name = error.args[1][0]
        text = f"{name} hangs on itself in a circle"
        fix = "Ask for one of them as it was in the frame before."
        raise HypsosError(text, name, fix) from error
    return [by_name[name] for name in order]
