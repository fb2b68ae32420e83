# SPDX-License-Identifier: GPL-3.0-or-later
"""The prover is put to the test: every figure, flag and line of a settings file is changed, one at a
time, and the prover has to find each change that changes a pulse anywhere.

``python benchmarks/prover.py [MODEL TRANSMITTER [FIRST END]]``; without names every demo model on
every transmitter that ships, which takes some hours. FIRST and END: only these changes, counted
from 0, so that a long file can be shared out.

What the prover does not find is played in other random moves, as many as its own. A change that
shows there is a *hole*. Every change is played in the prover's own moves; where its settings act at
places that the design does not know, by the prover itself."""

from __future__ import annotations

import itertools
import sys
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from settings_mutants import mutants

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.keying import keying
from hypsos.core.schools.proof import EQUAL_US, Prover
from hypsos.core.schools.proof_moves import Battery, MoveMaker
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.played_radio import PlayedRadio

DEMO = Path(__file__).parent.parent / "src" / "hypsos" / "demo"
MOTOR_FOUND, MOTOR_HOLE = "found, a motor's", "hole, a motor's"
JUST = 1e-6
"""A difference of just what still counts as equal is none."""
QUICK = 0.1
"""This share of the prover's looks shows most changes."""


class Played(NamedTuple):
    """Moves, and what the right settings send there."""

    radio: PlayedRadio
    pulses: dict[int, Numbers]
    battery: Battery


class Bench:
    """One model on one transmitter."""

    def __init__(self, model: Model, profile: Profile) -> None:
        self.made = keying(model, profile)
        self.model = self.made.reduced.model
        self.base: Radio = self.made.radio(self.made.settings)
        self.exact: Radio = self.made.radio(self.made.exact)
        ruler = Ruler(self.model)
        motors = {m.name for m in self.model.airframe.motors}
        self.motor_ports = {port for port in ruler.leads if ruler.part_of(port) in motors}
        self.prover = Prover(self.model, self.exact, self.base)
        self._played: dict[str, list[Played]] = {}
        self._made: dict[str, Iterator[Battery]] = {}

    def batteries(self, which: str) -> Iterator[Played]:
        """The moves of the prover (*quick*: some of its looks, *own*), or *other* ones."""
        known = self._played.setdefault(which, [])
        yield from known
        if which not in self._made:
            self._made[which] = self._moves(which)
        for battery in self._made[which]:
            radio = PlayedRadio(self.base, self.prover._moves(self.base, battery))
            known.append(Played(radio, radio.pulses(self.base), battery))
            yield known[-1]

    def _moves(self, which: str) -> Iterator[Battery]:
        share, seed = {"quick": (QUICK, 0), "own": (1.0, 0), "other": (1.0, 4711)}[which]
        maker = MoveMaker(self.model, [self.exact, self.base], share)
        if seed:
            maker._rng = np.random.default_rng(seed)
        return iter([maker.looks()]) if which == "quick" else maker.all()

    def differing(self, radio: Radio, which: str) -> set[int]:
        """The ports at which a radio sends something else, in the first moves that show any."""
        for played in self.batteries(which):
            moves = None
            if radio.levers != self.base.levers:
                # a lever goes as far as in the design, from where it stands in these settings
                moves = self.prover._moves(radio, played.battery)
            found = _apart(played.pulses, played.radio.pulses(radio, moves))
            if found:
                return found
        return set()

    def proved_different(self, radio: Radio) -> bool:
        """Whether the prover itself finds a difference in moves that it makes for this radio
        alone."""
        own = MoveMaker(self.model, [self.exact, self.base])
        if MoveMaker(self.model, [self.exact, self.base, radio]).leads_nowhere_else(own):
            return False
        return Prover(self.model, self.exact, self.base, radio).run().difference is not None


def _apart(mine: dict[int, Numbers], theirs: dict[int, Numbers]) -> set[int]:
    found = set(mine) ^ set(theirs)
    for port in set(mine) & set(theirs):
        if float(np.abs(mine[port] - theirs[port]).max()) > EQUAL_US + JUST:
            found.add(port)
    return found


def tried(bench: Bench, step: float, told: bool, which: slice = slice(None)) -> Counter[str]:
    """Every change of one settings file, or ``which`` of them, and what became of it."""
    counted: Counter[str] = Counter()
    changes = mutants(bench.made.settings, step)
    for words, settings in itertools.islice(changes, which.start, which.stop):
        what = _one(bench, settings)
        counted["all"] += 1
        counted[what] += 1
        if told and "hole" in what:
            print(f"  {what}: {words}", flush=True)
    return counted


def _one(bench: Bench, settings: Any) -> str:
    """What becomes of one change: refused, nothing (the transmitter is the same), found, not
    different anywhere, or a hole; with whether a motor's pulse differs."""
    try:
        radio = bench.made.radio(settings)
        found = bench.differing(radio, "quick") or bench.differing(radio, "own")
    except HypsosError:
        return "refused"
    if radio == bench.base:
        return "nothing"
    if found:
        return MOTOR_FOUND if found & bench.motor_ports else "found"
    other = bench.differing(radio, "other")
    if bench.proved_different(radio):
        return MOTOR_FOUND if other & bench.motor_ports else "found"
    if not other:
        return "equal"
    return MOTOR_HOLE if other & bench.motor_ports else "hole"


def main() -> None:
    """The table."""
    wanted = [x.casefold() for x in sys.argv[1:3]]
    which = slice(*(int(x) for x in sys.argv[3:5])) if len(sys.argv) == 5 else slice(None)
    print(
        "| model | transmitter | changes | refused or nothing | found | of a motor | equal "
        "| holes | of a motor | s |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|")
    for path in sorted(DEMO.glob("*.model.json")):
        model = from_json(path.read_text())
        for profile in shipped():
            names = {model.name.casefold(), profile.name.casefold()}
            if wanted and not set(wanted) <= names:
                continue
            begin = time.perf_counter()
            n = tried(Bench(model, profile), max(profile.weight_step, 0.5), True, which)
            took = time.perf_counter() - begin
            print(
                f"| {model.name} | {profile.name} | {n['all']} | {n['refused'] + n['nothing']} "
                f"| {n['found'] + n[MOTOR_FOUND]} | {n[MOTOR_FOUND]} | {n['equal']} "
                f"| {n['hole'] + n[MOTOR_HOLE]} | {n[MOTOR_HOLE]} | {took:.0f} |",
                flush=True,
            )


if __name__ == "__main__":
    main()
