# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold of the surfaces in every case that can come about: they steer the right way, lose nothing, answer alike."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Places
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.engine.result import Contribution
from hypsos.core.fitting.direction_finder import right_way
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.review.search.influence import bent, crooked, lags
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases, SampledCases, decided
from hypsos.core.review.search.replay import Check, Played, Replay, caption, captions, proved
from hypsos.core.review.search.separable_inputs import SeparableInputs
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.statements import MORE_THAN_SEARCHED, Finding, FindingMove, Level
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import Part, side_percent

LARGE = 20_000
"""Combinations of the hands in what decides for all surfaces, from which on it is searched for each group by itself."""
BENT = "what bends behind another bend, or is bent in flight, is looked at at some of its places only"
SLOW = "what is slow, or lasts for a moment, is looked at where it comes to rest, not on its way"
ALMOST = 0.9
"""Of what a finding says, so much at the least must be seen on the way that shows it."""
LOST = 1.0
"""Percent of a surface's command: less than that is lost to nobody."""
UNLIKE = 1.0
"""Percent by which both halves of a pair may answer differently."""
UNLIKE_DEG = 1.5
STEERING = ("roll", "pitch", "yaw")
LIMIT = 150.0
MUCH = 0.2
"""Share of a command: where more than that is lost it is a fault even if it takes every trim at its end."""


class Furthest(NamedTuple):
    """How far a sum goes to one side: 1 or -1, percent, the case and the number of the hands."""

    side: float
    total: float
    case: int
    hands: int


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
        self.parts: dict[str, Part] = {p.name: p for p in model.airframe.moved() if p.name not in motors}
        self.leads: dict[str, Lead] = {}
        for x in model.leads:
            if x.target in self.parts and x.port is not None:
                self.leads.setdefault(x.target, x)
        self.steered: dict[str, str] = {a.command: a.control for a in model.program.axes if a.command in STEERING}
        _, whole = decided(model, tuple(self.leads))
        self.large = grid_of(whole, bends=False, ends=False).size > LARGE
        """Whether what decides is searched for each group of surfaces by itself, not for all at once."""
        self._decided: set[tuple[str, ...]] = set()
        self.decide(self.leads)
        self._aparts: dict[tuple[Any, ...], SeparableInputs] = {}
        self.tried: dict[str, int] = {}
        self.partly: dict[str, str] = {}

    def decide(self, parts: Iterable[str]) -> ReachableCases:
        """Go by what decides for some parts; in a model that is not large by what decides for all of them."""
        key = tuple(parts) if self.large else tuple(self.leads)
        held = self._known.get(key)
        if held is None or not (key in self._decided or held.follows(self.model, key)):
            same = self._alike(key)
            held = same if same is not None else ReachableCases(self.model, key, self._most, self._stopped)
            self._known[key] = held
        self._decided.add(key)
        self.reachable, self.complete = held, held.complete
        return held

    def _alike(self, key: tuple[str, ...]) -> ReachableCases | None:
        """What decides for other parts, where it is the very same."""
        _, model_slice = decided(self.model, key)
        return next((d for k, d in self._known.items() if k in self._decided and d.model_slice is model_slice), None)

    def count(self, statement: str, rows: int, whole: bool = True) -> None:
        """So many situations more were tried for a statement."""
        self.tried[statement] = self.tried.get(statement, 0) + rows
        if not (whole and self.complete):
            self.partly[statement] = self.reachable.partly or MORE_THAN_SEARCHED

    def straight(self, statement: str, sampler: CaseSampler, names: Iterable[str]) -> None:
        """Mark a statement where shared values bend what comes to some surfaces."""
        model = sampler.model_slice.model
        if not sampler.grid.whole or any(bent(model, n) or crooked(model, n) for n in names):
            self.partly.setdefault(statement, BENT)

    # -- looking ----------------------------------------------------------------------------------------------------------

    def still(self, but: Sequence[str] = ()) -> dict[str, float]:
        """The sticks and the trims where nobody touches them, but some."""
        sticks = {c: 0.0 for c in self.steered.values()}
        trims = {n: v for n, v in self.stage.plan.rest.items() if n.endswith("_trim")}
        return {n: v for n, v in (sticks | trims).items() if n not in but}

    def looked(
        self, sampler: CaseSampler, cases: Places, numbers: Places, more: Mapping[str, float] | None = None
    ) -> SampledCases:
        """A look with the hands of these numbers, some of them elsewhere."""
        hands = sampler.grid.values(numbers)
        for name, value in (more or {}).items():
            hands[name] = np.full(len(cases), value)
        return self.reachable.look(sampler, cases, hands)

    def apart(
        self, sampler: CaseSampler, names: tuple[str, ...], fixed: Mapping[str, float] | None = None, cases: Places | None = None,
        put: tuple[str, ...] = (),
    ) -> SeparableInputs:  # fmt: skip
        """Where the hands go, each set of them by itself, for the sums of surfaces: in some cases or in all; ``fixed`` controls
        stay, and those ``put`` are put elsewhere."""
        key = (names, tuple(sorted((fixed or {}).items())), put)
        cases = self.reachable.cases(sampler) if cases is None else cases
        held = self._aparts.get(key)
        if held is None or held.sampler is not sampler or not np.array_equal(held.cases, cases):
            held = self._aparts[key] = SeparableInputs(self.reachable, sampler, names, cases, fixed, put=put)
        return held

    def why(self, sampler: CaseSampler, case: int, hands: Mapping[str, float], target: str) -> list[Contribution]:
        """What makes a surface stand where it stands, in one situation."""
        one = np.array([case], np.intp)
        look = self.reachable.look(sampler, one, {n: np.array([v]) for n, v in hands.items()}, (target,))
        return look.why[target]

    def placed(self, sampler: CaseSampler, path: str) -> str:
        """A place in a slice's document as the place in the whole one."""
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
        if modes:
            said.append(f"in {mode_label(self.model, modes[int(self.reachable.columns['modes'][case])].name)}")
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs}
        decided = {k.name for k in self.reachable.grid.knobs}
        all_hands = {n: float(x[0]) for n, x in self.reachable.hands_at(np.array([case], np.intp)).items()} | dict(
            hands
        )
        for name, value in all_hands.items():
            rest = rests.get(name, 0.0)
            if (
                name not in sampler.model_slice.free
                and abs(value - rest) > 1e-6
                and not (modes and name in decided and name not in hands)
            ):
                said.append(caption(self.model, FindingMove(0.0, name, value)))
        return f"with {', '.join(said)}".replace("with in ", "in ", 1) if said else "with everything at rest"

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
        return np.broadcast_to(played.result.outputs[self.leads[target].name].stand, played.t_s.shape)

    def sent(self, played: Played, target: str) -> Array:
        """Where a part is sent in every frame, before its servo's own speed."""
        lead = self.leads[target]
        return lead.direction * np.broadcast_to(played.result.outputs[lead.name].pct, played.t_s.shape)

    def ways(self, command: str) -> dict[str, int]:
        """Which way each surface goes that a command steers with."""
        surfaces = {n: p for n, p in self.parts.items() if n in self.leads and isinstance(p, Surface)}
        return {n: w for n, p in surfaces.items() if (w := right_way(command, p)) is not None}

    # -- S2 ---------------------------------------------------------------------------------------------------------------

    def reached(self, sampler: CaseSampler, name: str, fixed: Mapping[str, float] | None = None) -> Iterator[Furthest]:
        """How far a sum goes to each side, with some controls fixed."""
        apart = self.apart(sampler, (name,), fixed)
        self.count("S2", len(apart), apart.whole)
        if len(apart):
            for found in apart.furthest(self.looked(sampler, apart.owners, apart.numbers).sum(name)):
                yield Furthest(*found)

    def cut(self, lead: Lead, total: Array | float) -> Array:
        """How much of a sum in percent never reaches the surface, with its sign."""
        clipped = np.clip(total, -LIMIT, LIMIT)
        _, centred, stopped = servo_percent(clipped, lead)
        return np.asarray((total - clipped) + lead.direction * (centred - stopped))

    def standing(self, name: str, total: Array) -> Array:
        """Where a surface stands for a sum in percent."""
        lead = self.leads[name]
        return np.asarray(lead.direction * servo_percent(np.clip(total, -LIMIT, LIMIT), lead)[2])

    def lost(self, name: str) -> Iterator[Finding]:
        """S2: command that a cut-off or a stop takes away from a surface."""
        lead, sampler = self.leads[name], self.reachable.sampler((name,))
        in_time = self.reachable.sampler((name,), in_time=True).model_slice.model
        if (
            lags(in_time, name, {k.name for k in self.reachable.grid.knobs})
            or self.reachable.passes(sampler)
            or (any(m.fade_s for m in in_time.program.modes) and self._fades_apart(sampler))
        ):
            self.partly["S2"] = SLOW
        self.straight("S2", sampler, (name,))
        standing = {found.side: found for found in self.reached(sampler, name, self.trims())}
        for found in self.reached(sampler, name):
            with_trims = abs(float(self.cut(lead, found.total)))
            there = standing.get(found.side)
            if there is not None and abs(float(self.cut(lead, there.total))) > LOST:
                lost = self._lost(sampler, name, there, "fault")
                more = with_trims > abs(float(self.cut(lead, there.total))) + LOST
                said = f"{lost.text} With every trim at its end it is {number(with_trims)} %."
                yield replace(lost, text=said) if more else lost
            elif with_trims > LOST:
                much = with_trims > MUCH * abs(found.total)
                yield self._lost(sampler, name, found, "fault" if much else "advice")

    def trims(self) -> dict[str, float]:
        """The trims where they stand."""
        return {n: v for n, v in self.stage.plan.rest.items() if n.endswith("_trim")}

    def _lost(self, sampler: CaseSampler, name: str, furthest: Furthest, level: Level) -> Finding:
        """S2, in words: how much a surface loses, where, and who has used up its travel."""
        lead, i = self.leads[name], self.lead_index(name)
        side, total, case, number_ = furthest
        amount = abs(float(self.cut(lead, total)))
        look = self.looked(sampler, np.array([case], np.intp), np.array([number_], np.intp))
        hands = self.hands_of(look, 0, sampler)
        _, centred, _ = servo_percent(np.clip(total, -LIMIT, LIMIT), lead)
        stop = "stop_neg" if centred < 0 else "stop_pos"
        over = abs(total) > LIMIT + LOST
        users = self._users(sampler, case, hands, name, side)
        path = f"leads[{i}].{stop}" if not over else (users[0][1] if users else f"leads[{i}].{stop}")
        part = self.parts[name]
        by = " and ".join(f"{label} ({side_percent(part, x)})" for label, _, x in users[:3])
        text = (
            f"{part.label} loses {number(amount)} % of its command {'to the limit of a sum' if over else 'at its stop'} "
            f"{self.where(sampler, case, hands)}; the travel goes to {by}."
        )

        def check(played: Played) -> bool:
            every = np.broadcast_to(played.result.sums.get(name, np.zeros(1)), played.t_s.shape)
            total = every[played.last :]  # a pulse may have run out again by the end of the look
            here = side * np.sign(total) > 0
            return bool((here & (np.abs(self.cut(lead, total)) > max(LOST, ALMOST * amount))).any())

        found = self.finding("S2", level, path, text, self.reachable.way(case, sampler, hands), check, (name,))
        mate = self.model.airframe.other_side(name)
        pair = "/".join(sorted((name, mate))) if mate in self.leads else name
        cause = f"S2 {pair} {number(amount)}" if level == "fault" else f"S2 {pair}"
        brief = f"{part.label} loses {number(amount)} % {self.where(sampler, case, hands)}."
        return replace(found, cause=cause, brief=brief)

    def _fades_apart(self, sampler: CaseSampler) -> bool:
        """Whether a fade may begin in a flight mode that is never flown with the hands as they are then: because the modes go
        by what moves these surfaces, or by the link."""
        whens = [m.when for m in self.model.program.modes if m.when is not None]
        knobs = grid_of(slice_of(self.model, conditions=whens), bends=False, ends=False).knobs if whens else ()
        return bool({k.name for k in knobs} & {*(k.name for k in sampler.grid.knobs), "link", "power"})

    def _users(
        self, sampler: CaseSampler, case: int, hands: Mapping[str, float], target: str, side: float
    ) -> list[tuple[str, str, float]]:
        """Who uses the travel of a surface to one side: label, place, percent, the most first."""
        found = [
            (c.label, self.placed(sampler, c.path), float(np.ravel(c.amount)[-1]))
            for c in self.why(sampler, case, hands, target)
            if c.kind in ("stick", "trim", "mix", "preset")
        ]
        return sorted((x for x in found if side * x[2] > 0.5), key=lambda x: -side * x[2])

    # -- groups -----------------------------------------------------------------------------------------------------------

    def groups(self) -> list[tuple[str, ...]]:
        """Surfaces looked at together: all of them; in a large model the halves of each pair, and the others each alone."""
        if not self.large:
            return [tuple(self.leads)]
        pairs = self.pairs()
        return [*pairs, *((n,) for n in self.leads if all(n not in p for p in pairs))]

    def pairs(self) -> list[tuple[str, str]]:
        """Surfaces that are each other's likes on both sides."""
        found = ((n, self.model.airframe.other_side(n)) for n in self.leads)
        place = {n: i for i, n in enumerate(self.leads)}
        both = {(a, b) for a, b in found if b is not None and b in place and place[a] < place[b]}
        return sorted(both, key=lambda p: place[p[0]])
