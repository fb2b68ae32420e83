# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold of the surfaces in every case that can come about: they steer the right way, lose
nothing, answer alike."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from hypsos.core.base.backends import Array, Places
from hypsos.core.document.document import Model
from hypsos.core.engine.result import Contribution
from hypsos.core.fitting.direction_finder import right_way
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.review.findings import MORE_THAN_SEARCHED, Finding, FindingMove, Level
from hypsos.core.review.search.influence import bent, crooked
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.reachable_cases import (
    CaseSampler,
    ReachableCases,
    SampledCases,
    decided,
)
from hypsos.core.review.search.replay import Check, Played, Replay, caption, captions, proved
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import Part

LARGE = 20_000
"""Combinations of the hands in what decides for all surfaces, from which on it is searched for each
group by itself."""
BENT = (
    "what bends behind another bend, or is bent in flight, is looked at at some of its places only"
)
ALMOST = 0.9
"""Of what a finding says, so much at the least must be seen on the way that shows it."""
LOST = 1.0
"""Percent of a surface's command: less than that is lost to nobody."""
UNLIKE = 1.0
"""Percent by which both halves of a pair may answer differently."""
UNLIKE_DEG = 1.5
STEERING = ("roll", "pitch", "yaw")
LIMIT = 150.0


class SurfaceSearch:
    """The surfaces of a model in every case that decides."""

    def __init__(
        self,
        model: Model,
        most: int,
        stopped: Callable[[], bool],
        known: dict[tuple[str, ...], ReachableCases] | None = None,
    ) -> None:
        self._most, self._stopped, self._known = most, stopped, {} if known is None else known
        self.model, self.stage = model, Replay(model)
        motors = {m.name for m in model.airframe.motors}
        self.parts: dict[str, Part] = {
            p.name: p for p in model.airframe.moved() if p.name not in motors
        }
        self.leads: dict[str, Lead] = {}
        for x in model.leads:
            if x.target in self.parts and x.port is not None:
                # of two servos on one surface the first speaks for both
                self.leads.setdefault(x.target, x)
        self.steered: dict[str, str] = {
            a.command: a.control for a in model.program.axes if a.command in STEERING
        }
        _, whole = decided(model, tuple(self.leads))
        self.large = grid_of(whole, bends=False, ends=False).size > LARGE
        """Whether what decides is searched for each group of surfaces by itself, not for all at
        once."""
        self._decided: set[tuple[str, ...]] = set()
        self.decide(self.leads)
        self._aparts: dict[tuple[Any, ...], SeparableInputs] = {}
        self.tried: dict[str, int] = {}
        self.partly: dict[str, str] = {}

    def decide(self, parts: Iterable[str]) -> ReachableCases:
        """Go by what decides for some parts; in a model that is not large by what decides for all
        of them."""
        # one search for all surfaces where it is small enough: it answers every question at once
        key = tuple(parts) if self.large else tuple(self.leads)
        held = self._known.get(key)
        # found for this model already, or for the one before the edit and still true
        if held is None or not (key in self._decided or held.follows(self.model, key)):
            held = self._alike(key)
            if held is None:
                held = ReachableCases(self.model, key, self._most, self._stopped)
            self._known[key] = held
        self._decided.add(key)
        self.reachable, self.complete = held, held.complete
        return held

    def _alike(self, key: tuple[str, ...]) -> ReachableCases | None:
        """What decides for other parts, where it is the very same."""
        _, model_slice = decided(self.model, key)
        return next(
            (
                d
                for k, d in self._known.items()
                if k in self._decided and d.model_slice is model_slice
            ),
            None,
        )

    def count(self, statement: str, rows: int, whole: bool = True) -> None:
        """So many situations more were tried for a statement."""
        self.tried[statement] = self.tried.get(statement, 0) + rows
        # a statement that was looked at in a part of the cases is never called complete
        if not (whole and self.complete):
            self.partly[statement] = self.reachable.partly or MORE_THAN_SEARCHED

    def straight(self, statement: str, sampler: CaseSampler, names: Iterable[str]) -> None:
        """Mark a statement where shared values bend what comes to some surfaces."""
        model = sampler.model_slice.model
        if not sampler.grid.whole or any(bent(model, n) or crooked(model, n) for n in names):
            self.partly.setdefault(statement, BENT)

    # -- looking ---------------------------------------------------------------------------------

    def heard(self, sampler: CaseSampler) -> Places:
        """The cases of a sampler in which the receiver has power and hears the transmitter."""
        cases = self.reachable.cases(sampler)
        for knob in self.reachable.grid.knobs:
            if knob.name in ("link", "power"):
                stands = np.array(knob.values)[self.reachable.columns[f"place:{knob.name}"]]
                cases = cases[stands[cases] > 0]
        return cases

    def still(self, but: Sequence[str] = ()) -> dict[str, float]:
        """The sticks and the trims where nobody touches them, but some."""
        sticks = {c: 0.0 for c in self.steered.values()}
        trims = {n: v for n, v in self.stage.plan.rest.items() if n.endswith("_trim")}
        return {n: v for n, v in (sticks | trims).items() if n not in but}

    def looked(
        self,
        sampler: CaseSampler,
        cases: Places,
        numbers: Places,
        more: Mapping[str, float] | None = None,
    ) -> SampledCases:
        """A look with the hands of these numbers, some of them elsewhere."""
        hands = sampler.grid.values(numbers)
        for name, value in (more or {}).items():
            hands[name] = np.full(len(cases), value)
        return self.reachable.look(sampler, cases, hands)

    def apart(
        self,
        sampler: CaseSampler,
        names: tuple[str, ...],
        fixed: Mapping[str, float] | None = None,
        cases: Places | None = None,
        put: tuple[str, ...] = (),
    ) -> SeparableInputs:
        """Where the hands go, each set of them by itself, for the sums of surfaces: in some cases
        or in all; ``fixed`` controls stay, and those ``put`` are put elsewhere."""
        key = (names, tuple(sorted((fixed or {}).items())), put)
        cases = self.reachable.cases(sampler) if cases is None else cases
        held = self._aparts.get(key)
        if held is None or held.sampler is not sampler or not np.array_equal(held.cases, cases):
            held = self._aparts[key] = SeparableInputs(
                self.reachable, sampler, names, cases, fixed, put=put
            )
        return held

    def why(
        self, sampler: CaseSampler, case: int, hands: Mapping[str, float], target: str
    ) -> list[Contribution]:
        """What makes a surface stand where it stands, in one situation."""
        one = np.array([case], np.intp)
        look = self.reachable.look(
            sampler, one, {n: np.array([v]) for n, v in hands.items()}, (target,)
        )
        return look.why[target]

    def placed(self, sampler: CaseSampler, path: str) -> str:
        """A place in a slice's document as the place in the whole one."""
        # lines of a slice know where they come from; a line of a behaviour leads to that
        # behaviour
        found = re.match(r"program\.mixes\[(\d+)\]", path)
        if found:
            return sampler.model_slice.paths[int(found[1])]
        found = re.match(r"leads\[(\d+)\](.*)", path)
        if found:
            name = sampler.model_slice.model.leads[int(found[1])].name
            return f"leads[{next(i for i, x in enumerate(self.model.leads) if x.name == name)}]{found[2]}"
        found = re.match(r"program\.axes\[(\d+)\](.*)", path)
        if found:
            command = sampler.model_slice.model.program.axes[int(found[1])].command
            return f"program.axes[{self.axis_index(command)}]{found[2]}"
        return path

    def axis_index(self, command: str) -> int:
        """The place of an axis in the document."""
        return next(i for i, a in enumerate(self.model.program.axes) if a.command == command)

    def lead_index(self, target: str) -> int:
        """The place of a surface's lead in the document."""
        return next(i for i, x in enumerate(self.model.leads) if x.name == self.leads[target].name)

    def hands_of(self, look: SampledCases, i: int, sampler: CaseSampler) -> dict[str, float]:
        """The hands of one situation."""
        names = {k.name for k in sampler.grid.knobs} | set(self.steered.values())
        return {n: float(x[i]) for n, x in look.hands.items() if n in names}

    def where(self, sampler: CaseSampler, case: int, hands: Mapping[str, float]) -> str:
        """A case in the pilot's words: the flight mode and what stands elsewhere than at rest."""
        said = []
        modes = self.reachable.model_slice.model.program.modes
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs}
        decided = {k.name for k in self.reachable.grid.knobs}
        # what the hands of the case are, and over them those that are looked at
        in_case = self.reachable.hands_at(np.array([case], np.intp))
        all_hands = {n: float(x[0]) for n, x in in_case.items()} | dict(hands)
        for name, value in all_hands.items():
            away = abs(value - rests.get(name, 0.0)) > 1e-6
            # a switch that only chose the mode is told by the mode's name
            told_by_mode = modes and name in decided and name not in hands
            if away and name not in sampler.model_slice.free and not told_by_mode:
                said.append(caption(self.model, FindingMove(0.0, name, value)))
        if modes:
            flown = modes[int(self.reachable.columns["modes"][case])]
            return ", ".join([f"in {mode_label(self.model, flown.name)}", *said])
        return f"with {', '.join(said)}" if said else "with everything at rest"

    def finding(
        self,
        statement: str,
        level: Level,
        part: str,
        text: str,
        way: Sequence[SearchStep],
        check: Check,
        seen: tuple[str, ...],
    ) -> Finding:
        """A finding with its way played."""
        proof = proved(self.stage, way, check)
        return Finding(
            statement,
            level,
            part,
            text,
            proof.confirmed,
            proof.moves,
            captions(self.model, proof.moves),
            proof.look_s,
            seen,
        )

    def stand(self, played: Played, target: str) -> Array:
        """Where a part stands in every frame that was played."""
        return np.broadcast_to(
            played.result.outputs[self.leads[target].name].stand, played.t_s.shape
        )

    def sent(self, played: Played, target: str) -> Array:
        """Where a part is sent in every frame, before its servo's own speed."""
        lead = self.leads[target]
        return lead.direction * np.broadcast_to(
            played.result.outputs[lead.name].pct, played.t_s.shape
        )

    def ways(self, command: str) -> dict[str, int]:
        """Which way each surface goes that a command steers with."""
        surfaces = {
            n: p for n, p in self.parts.items() if n in self.leads and isinstance(p, Surface)
        }
        return {n: w for n, p in surfaces.items() if (w := right_way(command, p)) is not None}

    # -- where a sum ends up ---------------------------------------------------------------------

    def cut(self, lead: Lead, total: Array | float) -> Array:
        """How much of a sum in percent never reaches the surface, with its sign."""
        # lost to the limit of a sum, and behind it lost at the stop of the output
        clipped = np.clip(total, -LIMIT, LIMIT)
        _, centred, stopped = servo_percent(clipped, lead)
        return np.asarray((total - clipped) + lead.direction * (centred - stopped))

    def standing(self, name: str, total: Array) -> Array:
        """Where a surface stands for a sum in percent."""
        lead = self.leads[name]
        return np.asarray(lead.direction * servo_percent(np.clip(total, -LIMIT, LIMIT), lead)[2])

    # -- groups ----------------------------------------------------------------------------------

    def groups(self) -> list[tuple[str, ...]]:
        """Surfaces looked at together: all of them; in a large model the halves of each pair, and
        the others each alone."""
        if not self.large:
            return [tuple(self.leads)]
        pairs = self.pairs()
        paired = set(itertools.chain.from_iterable(pairs))
        return [*pairs, *((name,) for name in self.leads if name not in paired)]

    def pairs(self) -> list[tuple[str, str]]:
        """Surfaces that are each other's likes on both sides."""
        found = ((n, self.model.airframe.other_side(n)) for n in self.leads)
        place = {n: i for i, n in enumerate(self.leads)}
        both = {(a, b) for a, b in found if b is not None and b in place and place[a] < place[b]}
        return sorted(both, key=lambda p: place[p[0]])
