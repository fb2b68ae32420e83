# SPDX-License-Identifier: GPL-3.0-or-later
"""Looks that may be taken at an aeroplane: hands put somewhere, and everything come to rest."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.proof_moves import times_of
from hypsos.core.schools.stand_in.machine import Moves
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.played_radio import PlayedRadio
from hypsos.core.wording.words import run_positions

FRAME_S = 0.2
"""Frames of a look: only its end counts."""
ARMING_S = 1.5
LONGEST_S = 6.0
MOST_COMBINATIONS = 64


class HandsLook(NamedTuple):
    """Hands by name, where they are not at rest: percent, or a switch's position."""

    hands: tuple[tuple[str, float], ...]


def stilled(radio: Radio) -> Radio:
    """The transmitter with everything that is slow at once at its end, and in coarse frames: where
    it comes to rest is the same."""
    sums = []
    for made in radio.sums:
        shares = tuple(x.changed({"slow_in": 0.0, "slow_out": 0.0}) for x in made.shares)
        sums.append(made.changed({"shares": shares}))
    channels = tuple(x.changed({"slow_up": 0.0, "slow_down": 0.0}) for x in radio.channels)
    modes = tuple(x.changed({"fade_s": 0.0}) for x in radio.modes)
    changes = {"sums": tuple(sums), "channels": channels, "modes": modes, "frame_s": FRAME_S}
    return radio.changed(changes)


class LookPlayer:
    """Plays looks on transmitters.

    The motor's switch goes to run with the stick low first; then all hands go where the look has
    them, and stay until the longest time that is waited for is over."""

    def __init__(self, model: Model, radio: Radio, rest: Mapping[str, float]) -> None:
        self.model, self.radio = model, radio
        self.rest = {hand.name: hand.rest for hand in radio.hands} | quiet_hands(model)
        self.rest |= {name: value for name, value in rest.items() if name in self.rest}
        axis = model.program.axis("thrust")
        self.thrust = axis.control if axis is not None else ""
        runs = run_positions(model)
        guard = model.program.guard
        self.armed = {guard.switch: float(runs[0])} if guard is not None and runs else {}
        waits = [x for x in times_of(radio) if x <= LONGEST_S]
        self._lead = round(ARMING_S / FRAME_S)
        self._hold = round(max([0.5, *waits]) / FRAME_S) + 4
        self._played: tuple[list[HandsLook], PlayedRadio] | None = None
        """The looks that were played last, and all that is known of them."""

    def candidates(self) -> list[HandsLook]:
        """Every look that may be chosen: combinations of switches, and a movement of one hand or two
        with each."""
        found: dict[tuple[tuple[str, float], ...], None] = {}
        moves = list(self._moves())
        for switches in self._switches():
            for moved in moves:
                hands = {**switches, **moved}
                asked = sorted((n, v) for n, v in hands.items() if v != self._still(n))
                found[tuple(asked)] = None
        return [HandsLook(hands) for hands in found]

    def first(self, name: str) -> float:
        """Where a hand is as the transmitter is switched on: the motor's switch where it cuts."""
        guard = self.model.program.guard
        if name in self.armed and guard is not None:
            return float(guard.cut[0])
        return self.rest[name]

    def all_hands(self, look: HandsLook) -> tuple[tuple[str, float], ...]:
        """Where every hand stands for a look."""
        moved = dict(look.hands)
        return tuple((x.name, moved.get(x.name, self._still(x.name))) for x in self.radio.hands)

    def _still(self, name: str) -> float:
        """Where a hand is before a look: at rest, the motor's switch at run."""
        return self.armed.get(name, self.rest[name])

    def _switches(self) -> Iterator[dict[str, float]]:
        hands = [hand for hand in self.radio.hands if hand.positions]
        places = [[(hand.name, float(i)) for i in range(hand.positions)] for hand in hands]
        count = int(np.prod([len(x) for x in places])) if places else 1
        if count <= MOST_COMBINATIONS:
            yield from (dict(x) for x in itertools.product(*places))
            return
        others = [[x for x in found if x[1] != self._still(x[0])] for found in places]
        yield {}
        for found in others:
            yield from (dict([x]) for x in found)
        for one, two in itertools.combinations(others, 2):
            yield from (dict(x) for x in itertools.product(one, two))

    def _moves(self) -> Iterator[dict[str, float]]:
        turning = [hand.name for hand in self.radio.hands if not hand.positions]
        sticks = [name for name in turning if name != self.thrust]
        powers = (None, 0.0, 100.0) if self.thrust else (None,)
        for power in powers:
            base = {} if power is None else {self.thrust: power}
            yield base
            for name in sticks:
                yield {**base, name: 100.0}
                yield {**base, name: -100.0}

    def pulses(self, radio: Radio, looks: list[HandsLook], turned_switch: str = "") -> Numbers:
        """The pulses (ports, looks) at the end of each look, of a transmitter much like the
        player's own; ``turned_switch``: one that works the other way round."""
        if self._played is None or self._played[0] is not looks:
            self._played = (looks, PlayedRadio(self.radio, self._moves_for(looks)))
        moves = self._moves_for(looks, turned_switch) if turned_switch else None
        sent = self._played[1].pulses(radio, moves)
        at_the_end = [sent[channel.port][:, -1] for channel in radio.channels]
        return np.array(at_the_end, dtype=np.float64).reshape(len(at_the_end), len(looks))

    def _moves_for(self, looks: list[HandsLook], turned_switch: str = "") -> Moves:
        """What hands do for these looks, side by side."""
        frames = self._lead + self._hold
        t = np.arange(frames, dtype=np.float64) * FRAME_S
        tracks = {}
        for hand in self.radio.hands:
            still = self._still(hand.name)
            x = np.full((len(looks), frames), self.first(hand.name))
            x[:, self._lead - 3 :] = still
            targets = [dict(look.hands).get(hand.name, still) for look in looks]
            x[:, self._lead :] = np.array(targets)[:, None]
            if hand.name == turned_switch:
                x = hand.positions - 1 - x
            tracks[hand.name] = x
        return Moves(t, tracks)
