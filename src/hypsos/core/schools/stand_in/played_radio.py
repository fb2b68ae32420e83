# SPDX-License-Identifier: GPL-3.0-or-later
"""A simulated transmitter that was played once, and others that are nearly like it.

Sought: the pulses of many transmitters that differ in a part or two, for the same moves.

How it is made: all that was known in every frame is kept. Of another transmitter only those parts
are worked out that differ, and whatever asks for them, on and on; the rest is taken over. Where in
a stretch of frames a part comes out as it was known, whoever asks for it takes over, too, unless it
remembers earlier frames.

Why it is right: what is taken over goes by nothing that differs, in these frames or in earlier
ones."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.stand_in.machine import Machine, Moves
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.radio_stretch import Node, Stretch
from hypsos.core.schools.stand_in.work_order import Circle, Piece

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
        if self._known is None or not _comparable(self._radio, radio, asked):
            return machine.run(asked)
        other = set(_other_parts(self._radio, radio)) | set(self._moved_otherwise(asked))
        nearly = _NearlyAlike(machine, other)
        ports = [channel.port for channel in radio.channels]
        sent: dict[int, list[Numbers]] = {port: [] for port in ports}
        before: Stretch | None = None
        for known, stretch in zip(self._known, machine.untouched(asked), strict=True):
            stretch.before = before
            nearly.work(known, stretch)
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


def _comparable(one: Radio, two: Radio, moves: Moves) -> bool:
    """Whether two radios differ in parts only, and not in what concerns all parts."""
    same = ("frame_s", "centre_us", "us_per_percent")
    heard = ("after_s", "stored", "own_battery")
    return (
        all(getattr(one, key) == getattr(two, key) for key in same)
        and all(getattr(one.receiver, key) == getattr(two.receiver, key) for key in heard)
        and [x.name for x in one.modes] == [x.name for x in two.modes]
        and [(x.name, x.positions) for x in one.hands] == [(x.name, x.positions) for x in two.hands]
        and [x.name for x in one.levers] == [x.name for x in two.levers]
        and _at_rest_otherwise(one, two) <= set(moves.tracks)
    )


def _at_rest_otherwise(one: Radio, two: Radio) -> set[str]:
    """The hands and levers that rest somewhere else: where they are has to be told."""
    rests = {x.name: x.rest for x in one.hands} | {x.name: x.start for x in one.levers}
    others = {x.name: x.rest for x in two.hands} | {x.name: x.start for x in two.levers}
    return {name for name, rest in rests.items() if others[name] != rest}


PARTS = (("rules", ""), ("shared", "shared:"), ("commands", ""), ("sums", ""))


def _other_parts(one: Radio, two: Radio) -> Iterator[str]:
    """The names of what is worked out for a part that the first radio does not have just so."""
    for kind, prefix in PARTS:
        known = {x.name: x for x in getattr(one, kind)}
        yield from (prefix + x.name for x in getattr(two, kind) if known.get(x.name) != x)
    channels = {x.port: x for x in one.channels}
    yield from (f"port:{x.port}" for x in two.channels if channels.get(x.port) != x)
    safe = one.receiver.ports
    yield from (f"port:{port}" for port, x in two.receiver.ports.items() if safe.get(port) != x)
    yield from (f"port:{port}" for port in safe if port not in two.receiver.ports)
    levers = {x.name: x for x in one.levers}
    yield from (x.name for x in two.levers if levers[x.name] != x)
    modes = {x.name: x for x in one.modes}
    for mode in two.modes:
        if modes[mode.name] != mode:
            yield from ("modes", f"mode:{mode.name}")


class _NearlyAlike:
    """A radio that differs from a known one in the parts ``other``."""

    def __init__(self, machine: Machine, other: set[str]) -> None:
        self._machine, self._other = machine, other
        self._anew = _worked_anew(machine, other)
        self._over = [node for node in machine.nodes if node.name not in self._anew]
        self._differed: set[str] = set()
        """What was another than known in the stretch before."""

    def work(self, known: Stretch, stretch: Stretch) -> None:
        """One stretch further."""
        _take_over(self._over, known, stretch)
        differs = set(self._other)
        for piece in self._machine.pieces:
            if piece.nodes[0].name not in self._anew:
                continue
            if not self._has_to(piece, differs):
                _take_over(piece.nodes, known, stretch)
                continue
            piece.work(stretch)
            if not _as_known(piece.nodes, known, stretch):
                differs.update(node.name for node in piece.nodes)
        self._differed = differs

    def _has_to(self, piece: Piece | Circle, differs: set[str]) -> bool:
        """Whether a piece may come out otherwise than it is known."""
        if len(piece.nodes) > 1 or any(node.remembers for node in piece.nodes):
            return True
        node = piece.nodes[0]
        asked = {node.name, *node.asks, *node.was}
        return bool(differs & asked) or bool(self._differed & set(node.was))


def _as_known(nodes: Sequence[Node], known: Stretch, stretch: Stretch) -> bool:
    """Whether all that these nodes write is as it is known."""
    for node in nodes:
        if node.name == "modes" and not _same_modes(known, stretch):
            return False
        for table, key in node.writes:
            found = getattr(known, table).get(key)
            if found is None or not np.array_equal(found, getattr(stretch, table)[key]):
                return False
    return True


def _same_modes(one: Stretch, two: Stretch) -> bool:
    if not np.array_equal(one.mode, two.mode) or not np.array_equal(one.shares, two.shares):
        return False
    if one.rows is None or two.rows is None:
        return one.rows is two.rows
    return np.array_equal(one.rows, two.rows)


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
