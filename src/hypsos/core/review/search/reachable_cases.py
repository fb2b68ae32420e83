# SPDX-License-Identifier: GPL-3.0-or-later
"""What decides how a model's surfaces answer: every flight mode and every set of conditions that
can come about together.

Sought: the *cases*. In one case the flight mode, the truth of every condition that a line asks for
and the places of what is told apart are settled; within it a surface answers the hands by sums and
responses alone.

How: the state search runs once, on the slice that decides, and every distinct row of what it saw
becomes a case, with the shortest way there. From there the surfaces are looked at with the sticks,
sliders and trims wherever the case lets them be.

What must stay true: nothing that a surface goes by may differ within a case. What a sum reads
besides (a control compared with a level) is told apart by the interval that it stands in, and stays
in that interval while the case is looked at.

Why it is right: conditions and modes are all that lines hang on, apart from their sources; those
are tried in every place.

What it costs: the search of what decides, once for all surfaces; then a table of cases, from a
handful to some thousands.

An example: a flap switch with three positions and one flight mode *Landing* at the third give three
cases. Whether the elevator compensates enough is looked at three times, and not once for each place
of the sticks on each way there."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, Places, Signal, of_each
from hypsos.core.dependencies.graph import asked_by
from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation, compile_plan
from hypsos.core.engine.plan import Plan
from hypsos.core.engine.result import Contribution
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.review.findings import Stopped
from hypsos.core.review.search.input_grid import (
    EVERY_BEND,
    InputGrid,
    Knob,
    both_sides_alike,
    feeding_controls,
    grid_of,
    interval,
)
from hypsos.core.review.search.model_slice import ModelSlice, has_run_out, slice_of
from hypsos.core.review.search.replay import brought
from hypsos.core.review.search.state_encoding import StateEncoding
from hypsos.core.review.search.state_search import SearchStep, StateSearch

LOOKED_AT_ONCE = 32_768
"""Situations that the engine computes in one go."""
MOST_ROWS = 400_000
"""Situations in which one group of surfaces is looked at, at the most."""


@dataclass(frozen=True)
class SampledCases:
    """Situations in which surfaces are looked at: the case each belongs to, the hands, what came of
    it.

    ``stands`` and ``sums`` have a figure for each situation; ``why`` the contributions to the parts
    that were asked about."""

    cases: Places
    hands: dict[str, Array]
    stands: dict[str, Array]
    sums: dict[str, Array]
    commands: dict[str, Array]
    why: dict[str, list[Contribution]]

    def stand(self, lead: str) -> Array:
        """Where a lead's part stands in each."""
        return self.stands[lead]

    def sum(self, target: str) -> Array:
        """What the sum of a part is in each."""
        found = self.sums.get(target)
        return np.zeros(len(self.cases)) if found is None else found


@dataclass(frozen=True)
class CaseSampler:
    """A part of the model that is looked at: its slice, its grid, its plan."""

    model_slice: ModelSlice
    grid: InputGrid
    plan: Plan
    source: ModelSlice | None = None
    """The slice before what it is not looked at for was left out: the same after an edit
    elsewhere."""


class ReachableCases:
    """The cases that decide, found once for all surfaces of a model."""

    def __init__(
        self, model: Model, parts: Sequence[str], most: int, stopped: Callable[[], bool]
    ) -> None:
        self.model, self.stopped = model, stopped
        self.texts, self.model_slice = decided(model, parts)
        self.grid = grid_of(self.model_slice, bends=False, ends=False)
        self._ready()
        self.reach = StateSearch(
            self.model_slice, self.grid, self._watch, None, most, stopped
        ).run()
        self.complete, self.partly, self.encoding = (
            self.reach.complete,
            self.reach.partly,
            self.reach.encoding,
        )
        self._settled()
        # what the search needed on its way is given back: only ways and memories are asked for
        # from here on
        self.reach.forget()

    @classmethod
    def unsearched(cls, model: Model, parts: Sequence[str]) -> ReachableCases:
        """The same without a search of its own: what was reached is given to it by
        :meth:`takes`."""
        out = cls.__new__(cls)
        out.model, out.stopped = model, lambda: False
        out.texts, out.model_slice = decided(model, parts)
        out._ready()
        return out

    def takes(
        self,
        reach: StateSearch,
        encoding: StateEncoding,
        grid: InputGrid,
        nodes: Places,
        memory: Places,
        hands: Places,
        seen: Places,
    ) -> None:
        """Take situations that were searched elsewhere."""
        self.reach, self.grid, self.complete, self.encoding = reach, grid, reach.complete, encoding
        self.partly = reach.partly
        self.nodes, self.memory, self.hands = nodes, memory, hands
        self._told(seen, hands)

    def watched(self, result: Result) -> Array:
        """What is looked at while searching: a row for each situation."""
        return self._watch(result)

    @property
    def width(self) -> int:
        """How many columns that has."""
        return (
            2 + len(self._names) + len(self._counters) + len(self.model_slice.model.program.timers)
        )

    def _ready(self) -> None:
        self._names = [x.name for x in self.model_slice.model.program.logic if not x.gives_signal]
        self._counters = [
            x.name for x in self.model_slice.model.program.logic if x.kind == "counter"
        ]
        self._samplers: dict[tuple[Any, ...], tuple[ModelSlice, CaseSampler]] = {}
        self._cases: dict[int, tuple[CaseSampler, Places]] = {}
        self._class_of: dict[tuple[Knob, bool], list[int]] = {}
        self.columns: dict[str, Places] = {}
        self._moving: dict[str, Places] = {}
        """The same for what lasts for a frame or two only."""

    def follows(self, model: Model, parts: Sequence[str]) -> bool:
        """Whether what decides is the same in a model after an edit; then it goes on with that
        one."""
        if decided(model, parts)[1] is not self.model_slice or not self.complete:
            return False
        self.model = model
        return True

    def _watch(self, result: Result) -> Array:
        columns: list[NDArray[Any]] = [
            result.modes,
            result.guard,
            *(result.logic[n] for n in self._names),
        ]
        columns += [result.steps[n] for n in self._counters]
        columns += [
            has_run_out(x, result.timers[x.name]) for x in self.model_slice.model.program.timers
        ]
        rows = max((len(c) for c in columns if c.ndim > 1), default=1)
        return np.stack([of_each(c, rows).astype(np.int16) for c in columns], axis=-1)

    def _settled(self) -> None:
        """The situations in which nothing changes by itself any more, the shortest ways first, and
        what decides in them."""
        reach = self.reach
        if not len(reach.seen):
            self.nodes, self.memory, self.hands = (np.zeros(0, np.intp) for _ in range(3))
            return
        nodes = reach.nodes_at(np.arange(len(reach.seen)))
        # it has come to rest where another frame with the same hands leads to the same memory
        still = (nodes >= 0) & (reach.result_of(reach.of_memory, reach.of_hands) == reach.of_memory)
        moving = np.flatnonzero((nodes >= 0) & ~still)
        rows = np.flatnonzero(still)
        # situations are numbered as they were found, so the first have the shortest ways
        rows = rows[np.argsort(nodes[rows], kind="stable")]
        # what lasts for a frame or two is kept apart, see "passes"
        self._told(reach.seen[moving].astype(np.intp), reach.of_hands[moving])
        self._moving = self.columns
        self.nodes, self.memory, self.hands = (
            nodes[rows],
            reach.of_memory[rows],
            reach.of_hands[rows],
        )
        self._told(reach.seen[rows].astype(np.intp), self.hands)

    def _told(self, seen: Places, hands: Places) -> None:
        """What decides, by name, from the table of what was seen with these hands."""
        keys = [
            "modes",
            "guard",
            *(f"flag:{n}" for n in self._names),
            *(f"count:{n}" for n in self._counters),
        ]
        keys += [f"timer:{x.name}" for x in self.model_slice.model.program.timers]
        self.columns = {k: seen[:, i] for i, k in enumerate(keys)}
        for knob, at in zip(self.grid.knobs, self.grid.places(hands), strict=True):
            self.columns[f"place:{knob.name}"] = at
            values = np.array(knob.values)[at]
            # between which levels it stands: what moves freely within them decides nothing
            self.columns[f"interval:{knob.name}"] = interval(
                self.model_slice.model, knob.name, values
            )

    # -- looking ---------------------------------------------------------------------------------

    def sampler(
        self, parts: Iterable[str], in_time: bool = False, angles: bool = False, between: int = 0
    ) -> CaseSampler:
        """What looks at these parts; ``angles``: at their angles as well; ``between``: also between
        the bends."""
        key = (tuple(parts), in_time, angles, between)
        model_slice = slice_of(self.model, parts=key[0], outputs=True, in_time=in_time)
        held = self._samplers.get(key)
        if held is not None and held[0] is model_slice:
            return held[1]
        seen = model_slice
        if not angles:
            # where lines are by angle the percent hang on the linkage; elsewhere it is left out
            by_angle = {x.target for x in model_slice.model.program.mixes if x.by_angle}
            leads = []
            for lead in model_slice.model.leads:
                if lead.target not in by_angle:
                    lead = lead.changed({"linkage": None, "measured": ()})
                leads.append(lead)
            seen = replace(model_slice, model=model_slice.model.changed({"leads": tuple(leads)}))
        feeding = feeding_controls(seen.model)
        whole = grid_of(seen, most=EVERY_BEND, between=between)
        # what only decides is in the cases already; the sampler moves what feeds sums
        grid = InputGrid(tuple(k for k in whole.knobs if k.name in feeding), whole.whole)
        found = CaseSampler(seen, grid, compile_plan(seen.model), model_slice)
        self._samplers[key] = (model_slice, found)
        return found

    def cases(self, sampler: CaseSampler) -> Places:
        """The rows that a sampler tells apart, each once: the one with the shortest way."""
        if not len(self.nodes):
            return np.zeros(0, np.intp)
        held = self._cases.get(id(sampler))
        if held is None or held[0] is not sampler:
            columns = list(self.deciders(sampler))
            first = (
                np.unique(coded(columns), return_index=True)[1] if columns else np.zeros(1, np.intp)
            )
            held = self._cases[id(sampler)] = (sampler, np.sort(first))
        return held[1]

    def passes(self, sampler: CaseSampler) -> bool:
        """Whether something decides for a frame or two that decides nowhere for longer."""
        if not self._moving or not len(next(iter(self._moving.values()), ())):
            return False
        # the same columns are made of what passes as of what lasts
        settled, self.columns = self.columns, self._moving
        passing = list(self.deciders(sampler))
        self.columns = settled
        lasting = list(self.deciders(sampler))
        if not lasting:
            return False
        # coded together, so that equal rows have equal numbers
        both = coded([np.concatenate([a, b]) for a, b in zip(lasting, passing, strict=True)])
        return not np.isin(both[len(lasting[0]) :], both[: len(lasting[0])]).all()

    def deciders(self, sampler: CaseSampler) -> Iterator[NDArray[Any]]:
        """What a sampler goes by in every row: the mode, the truth of conditions, where shared
        controls stand."""
        yield from self.columns_of(
            sampler, _texts(sampler.model_slice.model, modes=False), self.shared(sampler)
        )

    def columns_of(
        self, sampler: CaseSampler, asked_for: Iterable[str], shared: Iterable[str]
    ) -> Iterator[NDArray[Any]]:
        """In every row: the mode, the truth of these conditions, where these controls stand."""
        if sampler.model_slice.model.program.modes and "modes" in self.columns:
            yield self.columns["modes"]
        for text in sorted(asked_for):
            asks = asked(text)
            if asks.realm == "mode":
                continue
            if asks.realm:
                yield self.columns["guard" if asks.realm == "guard" else f"timer:{asks.name}"]
            elif asks.position is not None and asks.name in self._counters:
                yield self.columns[f"count:{asks.name}"] == asks.position
            elif asks.position is not None or asks.name in ("link", "power"):
                wanted = 1 if asks.position is None else asks.position
                # a switch that nothing else asks for stands at its first position
                place = self.columns.get(f"place:{asks.name}")
                if place is not None:
                    yield place == wanted
            else:
                yield self.columns[f"flag:{asks.name}"]
        for name in shared:
            yield self._classes(sampler, name)

    def shared(self, sampler: CaseSampler) -> list[str]:
        """The controls that a sampler reads and that decide besides."""
        return [k.name for k in sampler.grid.knobs if f"place:{k.name}" in self.columns]

    def kinds(self, sampler: CaseSampler, cases: Places) -> Iterator[tuple[dict[str, int], Places]]:
        """Cases in which the shared controls are in the same classes: those, and the cases."""
        shared = self.shared(sampler)
        own = [self._classes(sampler, n)[cases] for n in shared]
        keys = list(zip(*(x.tolist() for x in own), strict=True)) if own else [()] * len(cases)
        found: dict[tuple[int, ...], list[int]] = {}
        for key, case in zip(keys, cases.tolist(), strict=True):
            found.setdefault(key, []).append(case)
        for key, mine in found.items():
            yield dict(zip(shared, key, strict=True)), np.array(mine, np.intp)

    def _classes(self, sampler: CaseSampler, name: str) -> Places:
        told_by = "place" if self._is_switch(sampler, name) else "interval"
        return self.columns[f"{told_by}:{name}"]

    def rows(
        self,
        sampler: CaseSampler,
        cases: Places,
        fixed: Mapping[str, float] | None = None,
        most: int = MOST_ROWS,
    ) -> tuple[Places, Places, bool]:
        """(case, number of the hands) for every place of the controls that agrees with a case, and
        whether that is all.

        ``fixed``: controls that stay where this says, as far as the case lets them.
        """
        owners, numbers, whole = [], [], True
        for own, mine in self.kinds(sampler, cases):
            here = self.numbers(sampler, own, fixed or {})
            room = max(1, most * len(mine) // max(1, len(cases)))
            # of more than there is room for every so many-th, evenly
            step = -(-len(here) * len(mine) // room)
            if step > 1:
                whole, here = False, here[::step]
            owners.append(np.repeat(mine, len(here)))
            numbers.append(np.tile(here, len(mine)))
        if not owners:
            return np.zeros(0, np.intp), np.zeros(0, np.intp), whole
        return np.concatenate(owners), np.concatenate(numbers), whole

    def numbers(
        self,
        sampler: CaseSampler,
        own: Mapping[str, int],
        fixed: Mapping[str, float],
        once: Collection[str] = (),
    ) -> Places:
        """The numbers of the hands in which shared controls are in these classes and the fixed ones
        where they stay; where a class does not let one stay there, at all the places it allows, or
        at the first of them for those ``once``."""
        out = np.zeros(1, np.intp)
        good: Sequence[int]
        for knob, stride in zip(sampler.grid.knobs, sampler.grid.strides, strict=True):
            good = range(len(knob.values))
            if knob.name in own:
                classes = self._class(sampler, knob)
                good = [i for i in good if classes[i] == own[knob.name]]
            if knob.name in fixed:
                # where its class lets it; else wherever the class allows
                good = [i for i in good if abs(knob.values[i] - fixed[knob.name]) < 1e-6] or good
            if knob.name in once:
                good = good[:1] or (0,)
            out = (out[None, :] + (np.array(good, np.intp) * stride)[:, None]).ravel()
            if len(out) > 60 * MOST_ROWS:
                out = out[:: len(out) // MOST_ROWS]
        return out

    def _is_switch(self, sampler: CaseSampler, name: str) -> bool:
        control = sampler.model_slice.model.transmitter.control(name)
        return control is not None and control.is_switch

    def _class(self, sampler: CaseSampler, knob: Knob) -> list[int]:
        """In which class every place of a shared control is."""
        key = (knob, self._is_switch(sampler, knob.name))
        if key not in self._class_of:
            values = np.array(knob.values)
            # what is searched at one side stands for the other
            alike = both_sides_alike(self.model_slice.model, knob.name)
            found = interval(self.model_slice.model, knob.name, np.abs(values) if alike else values)
            self._class_of[key] = (values.astype(np.intp) if key[1] else found).tolist()
        return self._class_of[key]

    def hands_at(self, cases: Places) -> dict[str, Array]:
        """Where the controls that decide stand in these cases."""
        return self.grid.values(self.hands[cases]) if len(cases) else {}

    def look(
        self,
        sampler: CaseSampler,
        cases: Places,
        hands: Mapping[str, Array],
        why: Sequence[str] = (),
    ) -> SampledCases:
        """Look at a part of the model in these cases, with these hands besides (arrays over the
        cases).

        Many situations are looked at piece by piece, so that what the engine computes on the way
        needs no more room than for one piece. Raises :class:`Stopped` between two pieces where
        somebody has stopped the search."""
        pieces = []
        for start in range(0, max(1, len(cases)), LOOKED_AT_ONCE):
            if start and self.stopped():
                raise Stopped
            here = slice(start, start + LOOKED_AT_ONCE)
            hands_here = {name: values[here] for name, values in hands.items()}
            pieces.append(self._looked(sampler, cases[here], hands_here, why))
        if len(pieces) == 1:
            return pieces[0]
        return SampledCases(
            cases,
            _end_to_end([piece.hands for piece in pieces]),
            _end_to_end([piece.stands for piece in pieces]),
            _end_to_end([piece.sums for piece in pieces]),
            _end_to_end([piece.commands for piece in pieces]),
            {part: _joined([piece.why[part] for piece in pieces]) for part in pieces[0].why},
        )

    def _looked(
        self, sampler: CaseSampler, cases: Places, hands: Mapping[str, Array], why: Sequence[str]
    ) -> SampledCases:
        whole = {**self.hands_at(cases), **hands}
        shape = (len(cases), 1)
        named = {n: v[:, None] for n, v in whole.items()}
        # every situation needs a row of its own, whether anything of the hands moves or not
        for name, rest in (*AROUND.items(), ("rudder_stick", 0.0)):
            named[name] = np.broadcast_to(named.get(name, np.float64(rest)), shape)
        memory = self.encoding.memory(self.memory[cases])
        result = sampler.plan.run(Situation.of(np.zeros(1), named), memory, why)

        def column(x: Signal) -> Array:
            return of_each(x, len(cases))

        return SampledCases(
            cases,
            whole,
            {n: column(x.stand) for n, x in result.outputs.items()},
            {n: column(x) for n, x in result.sums.items()},
            {n: column(x) for n, x in result.commands.items()},
            {n: [c._replace(amount=column(c.amount)) for c in result.why[n]] for n in why},
        )

    def way(self, case: int, sampler: CaseSampler, hands: Mapping[str, float]) -> list[SearchStep]:
        """The acts from power-up to a case, and then the hands as they are looked at."""
        steps = list(self.reach.way(int(self.nodes[case])))
        stand = self.grid.values(self.hands[case : case + 1]).values()
        at = {k.name: float(x[0]) for k, x in zip(self.grid.knobs, stand, strict=True)}
        rests = {k.name: k.values[k.rest] for k in sampler.grid.knobs}
        for name, value in hands.items():
            if name in rests and abs(value - at.get(name, rests[name])) > 1e-9:
                steps += self._to(sampler, name, at.get(name, rests[name]), value)
        return steps

    def _to(
        self, sampler: CaseSampler, name: str, start: float, value: float
    ) -> Iterable[SearchStep]:
        if name in sampler.model_slice.free:
            yield from brought(self.model, sampler.model_slice.free[name], value)
            return
        control = self.model.transmitter.control(name)
        if control is None or not control.is_switch or control.kind != "switch":
            yield SearchStep(name, value)
            return
        way = 1 if value > start else -1
        yield from (
            SearchStep(name, float(p)) for p in range(int(start) + way, int(value) + way, way)
        )


def _joined(pieces: Sequence[Sequence[Contribution]]) -> list[Contribution]:
    """The contributions of several pieces, each as one column; one that a piece does not have is
    nothing there."""
    sizes = [len(piece[0].amount) if piece else 0 for piece in pieces]  # type: ignore[arg-type]
    found: dict[tuple[str, str, str], list[Array]] = {}
    for place, piece in enumerate(pieces):
        for c in piece:
            one = (c.label, c.kind, c.path)
            if one not in found:
                found[one] = [np.zeros(size) for size in sizes]
            # one line may give twice to one sum
            found[one][place] = found[one][place] + np.asarray(c.amount)
    return [Contribution(n, k, np.concatenate(x), p) for (n, k, p), x in found.items()]  # type: ignore[arg-type]


def _end_to_end(pieces: Sequence[Mapping[str, Array]]) -> dict[str, Array]:
    """Columns of the same names, one piece behind the other."""
    return {name: np.concatenate([piece[name] for piece in pieces]) for name in pieces[0]}


def decided(model: Model, parts: Sequence[str]) -> tuple[set[str], ModelSlice]:
    """The conditions by which some parts go, and the part of the model that decides them."""
    whole = slice_of(model, parts=parts)
    texts = _texts(whole.model)
    if whole.model.program.modes:
        texts.add(f"mode:{whole.model.program.modes[-1].name}")
    return texts, slice_of(model, conditions=sorted(texts))


def _texts(model: Model, modes: bool = True) -> set[str]:
    """The conditions that lines, gates and shared values ask, and (``modes``) those of the flight
    modes."""
    found: set[str] = set()
    for gate in model.program.gates():
        found.update(gate.conditions())
    for path, text in asked_by(model):
        if modes or not path.startswith("program.modes"):
            found.add(text)
    return found


def alike(columns: Sequence[NDArray[Any]]) -> Places:
    """For every row of some columns of small numbers the place of the first that is the same."""
    _, first, inverse = np.unique(coded(columns), return_index=True, return_inverse=True)
    return np.asarray(first[inverse], np.intp)


def coded(columns: Sequence[NDArray[Any]]) -> NDArray[np.int64]:
    """One number for every row of some columns of small numbers."""
    code, room = np.zeros(len(columns[0]), np.int64), 1
    for x in columns:
        x = x.astype(np.int64)
        low, size = int(x.min()), int(x.max()) - int(x.min()) + 1
        # before the number overflows it is replaced by its rank, which tells the same rows apart
        if room * size > 2**62:
            _, code = np.unique(code, return_inverse=True)
            room = int(code.max()) + 1
        code, room = code * size + (x - low), room * size
    return code
