# SPDX-License-Identifier: GPL-3.0-or-later
"""A simulated transmitter that was played once, and others that are nearly like it.

Sought: the pulses of many transmitters that differ in a part or two, for the same moves.

How it is made: all that was known in every frame is kept. Of another transmitter only those parts
are worked out that differ, and whatever asks for them, on and on; the rest is taken over.

Why it is right: what is taken over asks for nothing that differs, in this frame or an earlier one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.stand_in.machine import Machine, Moves
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.radio_stretch import Node, Stretch

MOST_FIGURES = 40_000_000
"""So many figures are kept at the most, eight bytes each. Of a transmitter of which more is known
nothing is kept, and all others are played from the beginning."""


class PlayedRadio:
    """A radio with all that is known of it for some moves. Raises HypsosError where it can't work as
    it is said."""

    def __init__(self, radio: Radio, moves: Moves) -> None:
        self._radio, self._moves = radio, moves
        machine = Machine(radio)
        cells = len(moves.t_s) * max([1, *(len(x) for x in moves.tracks.values() if x.ndim > 1)])
        fits = cells * len(machine.nodes) <= MOST_FIGURES
        self._known = list(machine.stretches(moves)) if fits else None

    def pulses(self, radio: Radio, moves: Moves | None = None) -> dict[int, Numbers]:
        """Port -> the pulses in microseconds (N, T) of a radio; ``moves``: other ones than those
        that were played, with as many frames and situations. Raises HypsosError where that radio
        can't work as it is said."""
        asked = self._moves if moves is None else moves
        machine = Machine(radio)
        other = set(_other_parts(self._radio, radio)) | set(self._moved_otherwise(asked))
        if self._known is None or not _comparable(self._radio, radio):
            return machine.run(asked)
        ports = [channel.port for channel in radio.channels]
        sent: dict[int, list[Numbers]] = {port: [] for port in ports}
        anew = _worked_anew(machine, other)
        over = [node for node in machine.nodes if node.name not in anew]
        before: Stretch | None = None
        for known, stretch in zip(self._known, machine.untouched(asked), strict=True):
            stretch.before = before
            _take_over(over, known, stretch)
            for piece in machine.pieces:
                if piece.nodes[0].name in anew:
                    piece.work(stretch)
            for port in ports:
                sent[port].append(stretch.over_time(stretch.pulses[str(port)]))
            before, stretch.before = stretch, None
        return {port: np.concatenate(x).T for port, x in sent.items()}

    def _moved_otherwise(self, moves: Moves) -> Iterator[str]:
        """The hands that do something else than in the moves that were played."""
        if moves is self._moves:
            return
        for name in {*moves.tracks, *self._moves.tracks}:
            one, two = moves.tracks.get(name), self._moves.tracks.get(name)
            if one is None or two is None or not np.array_equal(one, two):
                yield name


def _comparable(one: Radio, two: Radio) -> bool:
    """Whether two radios differ in parts only, and not in what concerns all parts."""
    same = ("frame_s", "centre_us", "us_per_percent", "receiver", "modes", "hands", "levers")
    return all(getattr(one, key) == getattr(two, key) for key in same)


PARTS = (("rules", ""), ("shared", "shared:"), ("commands", ""), ("sums", ""))


def _other_parts(one: Radio, two: Radio) -> Iterator[str]:
    """The names of what is worked out for a part that the first radio does not have just so."""
    for kind, prefix in PARTS:
        known = {x.name: x for x in getattr(one, kind)}
        yield from (prefix + x.name for x in getattr(two, kind) if known.get(x.name) != x)
    channels = {x.port: x for x in one.channels}
    yield from (f"port:{x.port}" for x in two.channels if channels.get(x.port) != x)


def _worked_anew(machine: Machine, other: set[str]) -> set[str]:
    """The names of all that has to be worked out where these are others."""
    found = set(other)
    for piece in machine.pieces:
        names = {node.name for node in piece.nodes}
        asked = {name for node in piece.nodes for name in (*node.asks, *node.was)}
        if found & (names | asked):
            found |= names
    return found


def _take_over(nodes: Sequence[Node], known: Stretch, stretch: Stretch) -> None:
    """Give a stretch what is known already."""
    for node in nodes:
        if node.name == "modes":
            stretch.mode, stretch.rows, stretch.shares = known.mode, known.rows, known.shares
        for table, key in node.writes:
            getattr(stretch, table)[key] = getattr(known, table)[key]
