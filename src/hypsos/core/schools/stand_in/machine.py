# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated transmitter at work: hands go in frame by frame, pulses come out at the receiver's
ports, for many situations side by side.

In each frame everything is worked out once, in an order in which nothing is asked before it is
known; what is asked as it ``was`` is that of the frame before. While flight modes fade into each
other, every mode with a share works out its commands, shared values and sums by itself, and the
sums are crossed by the shares.

Time is taken in stretches of many frames, and each thing is worked out for a whole stretch at once,
after all that it asks. Things that ask each other in a circle, by way of what one of them was, are
worked out together, frame by frame."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import Numbers, Truths
from hypsos.core.schools.stand_in.hand_work import CommandWork, SharedWork, TrimWork
from hypsos.core.schools.stand_in.output_work import Ears, OutputWork
from hypsos.core.schools.stand_in.parts import FULL, Radio
from hypsos.core.schools.stand_in.radio_stretch import Node, Places, Setup, Stretch, asked_names
from hypsos.core.schools.stand_in.rule_work import ModeWork, mode_work, rule_node
from hypsos.core.schools.stand_in.sum_work import SumWork
from hypsos.core.schools.stand_in.work_order import in_order, pieces

A = TypeVar("A", bound=np.generic)

AROUND = {"link": 1.0, "power": 1.0, "link_quality": 100.0, "flight_battery": 1.0}
"""What surrounds the hands, with what it is where nothing is said of it."""


class Moves(NamedTuple):
    """What hands and surroundings do: times in seconds, evenly spaced, (T,), and by name what they
    are, to be broadcast to (N, T): percent, a switch's position, 0 or 1."""

    t_s: Numbers
    tracks: Mapping[str, Numbers]


MOST_CELLS = 40_000
"""So many frames times situations a stretch has, about: what is worked out of them stays near the
processor."""
MOST_FIGURES = 8_000_000
"""So many figures are known of a stretch at the most: of a transmitter with many parts it is
shorter."""


class Machine:
    """A radio at its first frame. Raises HypsosError where parts ask each other in a circle or name
    what isn't there."""

    def __init__(self, radio: Radio) -> None:
        self.radio, self._setup = radio, Setup(radio)
        self._trims = {lever.name: TrimWork(lever, self._setup) for lever in radio.levers}
        self._ports = [channel.port for channel in radio.channels]
        self.nodes = in_order(list(self._all_nodes()), _given(radio))
        """What is worked out in each frame, in its order."""
        self.pieces = pieces(self.nodes)
        """What is worked out together, in its order."""

    def _all_nodes(self) -> Iterator[Node]:
        radio, setup = self.radio, self._setup
        for rule in radio.rules:
            yield rule_node(rule)
        earlier: tuple[str, ...] = ()
        for mode in radio.modes:
            name = f"mode:{mode.name}"
            asks, was = asked_names([mode.when] if mode.when else [])
            work = mode_work(mode, earlier)
            yield Node(name, (*asks, *earlier), work, [("flags", name)], was)
            earlier = (*earlier, name)
        yield Node("modes", earlier, ModeWork(setup).work, (), remembers=True)
        for shared in radio.shared:
            yield SharedWork(shared, setup).node()
        for command in radio.commands:
            yield CommandWork(command, setup, self._trims).node()
        for made in radio.sums:
            yield SumWork(made, setup).node()
        ears = Ears(radio)
        heard = [("flags", "acting"), ("flags", "known")]
        yield Node("ears", ("link", "power"), ears.hear, heard, remembers=True)
        for channel in radio.channels:
            yield OutputWork(channel, radio, ears).node()

    def run(self, moves: Moves) -> dict[int, Numbers]:
        """Port -> its pulses in microseconds (N, T), 0 where there is none."""
        sent: dict[int, list[Numbers]] = {port: [] for port in self._ports}
        for stretch in self.stretches(moves):
            for port in self._ports:
                sent[port].append(stretch.over_time(stretch.pulses[str(port)]))
        return {port: np.concatenate(x).T for port, x in sent.items()}

    def stretches(self, moves: Moves) -> Iterator[Stretch]:
        """The frames of these moves, stretch by stretch, with all that is known in each."""
        before: Stretch | None = None
        for stretch in self.untouched(moves):
            stretch.before = before
            for piece in self.pieces:
                piece.work(stretch)
            yield stretch
            before, stretch.before = stretch, None

    def untouched(self, moves: Moves) -> Iterator[Stretch]:
        """The frames of these moves with what hands and surroundings say, and nothing else."""
        tracks, count = self._tracks(moves)
        frames = len(moves.t_s)
        hands, places, flags = self._heard(tracks, count)
        cells = min(MOST_CELLS, MOST_FIGURES // len(self.nodes))
        length = max(1, cells // count)
        for start in range(0, frames, length):
            end = min(frames, start + length)
            stretch = Stretch(self._setup, moves.t_s[start:end], _cells(hands, start, end))
            stretch.places = _cells(places, start, end)
            stretch.flags = _cells(flags, start, end)
            yield stretch

    def _tracks(self, moves: Moves) -> tuple[dict[str, Numbers], int]:
        """Every hand, lever and surrounding over time (T, N), and how many situations there are."""
        radio = self.radio
        rest = {hand.name: hand.rest for hand in radio.hands} | AROUND
        rest |= {lever.name: lever.start for lever in radio.levers}
        given = {n: np.atleast_2d(np.asarray(x, float)) for n, x in moves.tracks.items()}
        count = max([1, *(x.shape[0] for x in given.values())])
        shape = (count, len(moves.t_s))
        tracks = {}
        for name, still in rest.items():
            found = given.get(name, np.full((1, 1), still))
            tracks[name] = np.ascontiguousarray(np.broadcast_to(found, shape).T)
        return tracks, count

    def _heard(
        self, raw: Mapping[str, Numbers], count: int
    ) -> tuple[dict[str, Numbers], dict[str, Places], dict[str, Truths]]:
        """What hands and surroundings say over time: percent, positions of switches, and whether
        the receiver has power and hears; each (T, N)."""
        hands = dict(raw)
        hands[FULL] = np.full((len(raw["power"]), count), 100.0)
        places: dict[str, Places] = {}
        for hand in self.radio.hands:
            if hand.positions:
                place = places[hand.name] = raw[hand.name].astype(np.intp)
                # evenly spread from -100 to 100 %
                hands[hand.name] = -100.0 + 200.0 * place / (hand.positions - 1)
        power = raw["power"] > 0.5
        if not self.radio.receiver.own_battery:
            power = power & (raw["flight_battery"] > 0.5)
        link = power & (raw["link"] > 0.5)
        hands["link_quality"] = np.where(link, raw["link_quality"], 0.0)
        return hands, places, {"power": power, "link": link}


def _cells(tracks: Mapping[str, NDArray[A]], start: int, end: int) -> dict[str, NDArray[A]]:
    """A stretch of what goes over time (T, N), cell by cell."""
    return {name: x[start:end].reshape(-1) for name, x in tracks.items()}


def simulate(radio: Radio, moves: Moves) -> dict[int, Numbers]:
    """Port -> the pulses in microseconds that a radio sends for these moves, from power-up on;
    (N, T), 0 where there is none. Raises HypsosError where the radio can't work as it is said."""
    return Machine(radio).run(moves)


def _given(radio: Radio) -> set[str]:
    """The names that nothing has to work out. Raises HypsosError where two hands, levers or outputs
    have one name or one port."""
    given = {FULL, "link", "power", *AROUND}
    for name in (*(h.name for h in radio.hands), *(x.name for x in radio.levers)):
        if name in given:
            raise HypsosError(f"there are two hands called {name}", name, "Take one of them out.")
        given.add(name)
    ports = [channel.port for channel in radio.channels]
    for port in ports:
        if ports.count(port) > 1:
            raise HypsosError(f"two outputs have port {port}", "outputs", "Give each its own.")
    return given
