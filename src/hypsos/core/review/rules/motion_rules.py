# SPDX-License-Identifier: GPL-3.0-or-later
"""What happens on the way: jumps, conditions that flicker, fades and slows that pass through something worse."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import product
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array, Places
from hypsos.core.base.figure_words import number
from hypsos.core.base.memory import Memory
from hypsos.core.conditions import LogicSwitch, conditions_of
from hypsos.core.conditions.condition_base import NEAR, UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.airframe import Device
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import AROUND, STICKS
from hypsos.core.review.rules.steering import SHARE
from hypsos.core.review.rules.surface_rules import ALMOST, SurfaceSearch
from hypsos.core.review.search.influence import knobs_of
from hypsos.core.review.search.model_slice import ModelSlice, slice_of
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases, coded
from hypsos.core.review.search.replay import Played, Replay
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.statements import Finding
from hypsos.core.wording.describe_condition import condition_path, node_phrase
from hypsos.core.wording.words import control_label, side_percent

JUMP = 40.0
"""Percent of full deflection in two frames: more than that is a jump."""
COARSE_S, LOOKS, MOST_LOOKS = 0.1, 5, 400
"""At the most from one look to the next while something fades; how often at the least the quickest that takes time is looked at
on its way; and how many looks there are at the most."""
MOST_TOLD, MOST_LEFT = 6, 48
MOST_ACTS = 20_000


class _Act(NamedTuple):
    """One control moved, from many cases: its places before and after."""

    control: str
    start: float
    to: float
    cases: Places


class MotionRules:
    """The surfaces of a model while something changes."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model = search, search.model

    @property
    def reachable(self) -> ReachableCases:
        """What decides for the surfaces at hand."""
        return self.search.reachable

    # -- S4 ---------------------------------------------------------------------------------------------------------------

    def jumps(self, names: Sequence[str]) -> Iterator[Finding]:
        """S4: surfaces that jump as a switch goes one position on."""
        sampler = self.reachable.sampler(names, in_time=True)
        told: dict[tuple[str, str], tuple[float, _Act, int, float, str, Mapping[str, float]]] = {}
        acts, hands = list(self._switched(sampler)), self._shared(sampler)
        for act, looks in zip(acts, self._two(sampler, acts, 2, hands), strict=True):
            self.search.count("S4", len(act.cases) * len(hands))
            for held, (before, after), name in ((h, x, n) for h, x in zip(hands, looks, strict=True) for n in names):
                lead = self.search.leads[name]
                if isinstance(self.search.parts[name], Device):
                    continue
                moved = after[lead.name][:, -1] - before[lead.name][:, -1]
                i = int(np.argmax(np.abs(moved))) if len(moved) else 0
                if len(moved) and abs(moved[i]) > JUMP:
                    mates = (act.control, self._mate(name))
                    if mates not in told or abs(moved[i]) > abs(told[mates][3]) + 1e-9:
                        told[mates] = (float(before[lead.name][i, -1]), act, i, float(moved[i]), name, held)
        for (control, _), (start, act, i, far, name, held) in sorted(told.items(), key=lambda x: -abs(x[1][3]))[
            :MOST_TOLD
        ]:
            yield self._jumped(sampler, control, name, start, act, i, far, held)

    def _shared(self, sampler: CaseSampler) -> list[Mapping[str, float]]:
        """Where shared values that are moved in flight may have been left, all of them together; where that is too much to
        look at, one after the other, and said to be not complete."""
        free = [k for k in sampler.grid.knobs if k.name in sampler.model_slice.free]
        if np.prod([len(k.values) for k in free], dtype=float) <= MOST_LEFT:
            return [dict(zip([k.name for k in free], x, strict=True)) for x in product(*(k.values for k in free))]
        self.search.count("S4", 0, False)
        return [{}, *({k.name: v} for k in free for v in k.values)]

    def _mate(self, name: str) -> str:
        other = self.model.airframe.other_side(name)
        return min(name, other) if other in self.search.leads else name

    def _jumped(
        self,
        sampler: CaseSampler,
        control: str,
        name: str,
        start: float,
        act: _Act,
        i: int,
        moved: float,
        held: Mapping[str, float],
    ) -> Finding:
        search, part = self.search, self.search.parts[name]
        names = self.model.transmitter.control(control)
        to = names.positions[int(act.to)] if names is not None else number(act.to)
        case = int(act.cases[i])
        text = (
            f"{part.label} jumps from {side_percent(part, start)} to {side_percent(part, start + moved)} as "
            f"{control_label(self.model, control)} goes to {to}, without a slow or a fade."
        )
        way = [*self.reachable.way(case, sampler, {**held, control: act.start}), SearchStep(control, act.to)]

        def check(played: Played) -> bool:
            x, at = search.sent(played, name), played.last
            then = min(at + 1, len(x) - 1)
            return bool(at > 0 and abs(x[then] - x[at - 1]) > max(JUMP, ALMOST * abs(moved)))

        index = search.lead_index(name)
        return search.finding("S4", "advice", f"leads[{index}].slow_up_s", text, way, check, (name,))

    def _switched(self, sampler: CaseSampler) -> Iterator[_Act]:
        """Every switch one position on, with the sticks at rest."""
        cases = self._at_rest(sampler)
        for c in self.model.transmitter.controls:
            reachable = {k.name for k in self.reachable.grid.knobs}
            if not c.is_switch or (c.name not in reachable and c.name not in {k.name for k in sampler.grid.knobs}):
                continue
            for p in range(len(c.positions)):
                for to in (p - 1, p + 1):
                    if 0 <= to < len(c.positions):
                        here = cases
                        if c.name in reachable:
                            here = cases[self.reachable.columns[f"place:{c.name}"][cases] == p]
                        if len(here):
                            yield _Act(c.name, float(p), float(to), here)

    def _at_rest(self, sampler: CaseSampler) -> Places:
        """Cases with every stick, slider and knob where it rests."""
        cases = np.arange(len(self.reachable.nodes))
        for knob in self.reachable.grid.knobs:
            control = self.model.transmitter.control(knob.name)
            if knob.name in STICKS or (control is not None and not control.is_switch):
                cases = cases[self.reachable.columns[f"place:{knob.name}"][cases] == knob.rest]
        columns = [*self.reachable.deciders(sampler)]
        columns += [x for k, x in self.reachable.columns.items() if k.startswith("place:")]
        if not columns or not len(cases):
            return cases[:1]
        first = np.unique(coded([x[cases] for x in columns]), return_index=True)[1]
        return cases[np.sort(first)][:MOST_ACTS]

    def _two(
        self, sampler: CaseSampler, acts: Sequence[_Act], frames: int, hands: Sequence[Mapping[str, float]] = ({},),
        frame_s: float | None = None,
    ) -> list[list[tuple[dict[str, Array], dict[str, Array]]]]:  # fmt: skip
        """Where every lead's part stands before an act, and in so many frames after it: for each act, and for each of the
        ``hands`` that are held besides. All in one run."""
        step = sampler.model_slice.model.program.frame_s if frame_s is None else frame_s
        pairs = [(act, held) for act in acts for held in hands]
        cases = np.concatenate([act.cases for act, _ in pairs]) if pairs else np.zeros(0, np.intp)
        if not len(cases):
            return [[({}, {}) for _ in hands] for _ in acts]
        at = {n: v.copy() for n, v in self.reachable.hands_at(cases).items()}
        names = {n for _, held in pairs for n in held} | {act.control for act in acts}
        for name in names - at.keys():
            at[name] = np.full(len(cases), sampler.plan.rest.get(name, 0.0))
        then, k = {n: v.copy() for n, v in at.items()}, 0
        for act, held in pairs:
            here = slice(k, k + len(act.cases))
            k += len(act.cases)
            for name, value in held.items():
                at[name][here] = then[name][here] = value
            at[act.control][here], then[act.control][here] = act.start, act.to
        memory = self.reachable.encoding.memory(self.reachable.memory[cases])
        t = np.asarray(step * np.arange(1, frames + 1), float)
        still = _come_to_rest(sampler, _situation(np.zeros(1), at), memory)
        moved = sampler.plan.run(_situation(t, then), still.memory)
        before = {n: np.broadcast_to(x.stand, (len(cases), 1)) for n, x in still.outputs.items()}
        after = {n: np.broadcast_to(x.stand, (len(cases), frames)) for n, x in moved.outputs.items()}
        out: list[list[tuple[dict[str, Array], dict[str, Array]]]] = []
        k = 0
        for act in acts:
            mine = []
            for _ in hands:
                here = slice(k, k + len(act.cases))
                k += len(act.cases)
                mine.append(({n: x[here] for n, x in before.items()}, {n: x[here] for n, x in after.items()}))
            out.append(mine)
        return out

    # -- L4 ---------------------------------------------------------------------------------------------------------------

    def flickers(self, names: Sequence[str]) -> Iterator[Finding]:
        """L4: conditions without a way back on which a motor or a large movement hangs."""
        motor = slice_of(self.model, guard=True).model.program if self.model.airframe.motors else None
        holding = {x.name for x in motor.logic} if motor is not None else set()
        sampler = self.reachable.sampler(names, in_time=True)
        asked_for = {x.name for x in sampler.model_slice.model.program.logic} | holding
        release = self._of_release()
        for i, node in enumerate(self.model.program.logic):
            if node.name not in asked_for:
                continue
            if not node.flickers_at:
                continue
            path = f"program.logic[{i}].hysteresis" if node.label != UNNAMED else condition_path(self.model, node.name)
            said = node_phrase(self.model, node)
            if node.name in holding and motor is not None and not self._delayed(node.name):
                self.search.count("L4", 1)
                hangs = (
                    "the motor's arming hangs on it"
                    if node.name in release
                    else "what a motor is commanded hangs on it"
                )
                text = f"Right at its level “{said}” would switch to and fro, and {hangs}."
                yield Finding("L4", "advice", path, text)
                continue
            found = self._flickering(sampler, node, names)
            if found is not None:
                name, moved = found
                text = (
                    f"Right at its level “{said}” would switch to and fro, and {self.search.parts[name].label.lower()} would "
                    f"jump by {number(abs(moved))} % each time."
                )
                yield Finding("L4", "advice", path, text, seen=(name,))

    def _of_release(self) -> set[str]:
        """The conditions on which the motors' release itself hangs."""
        guard = self.model.program.guard
        if guard is None:
            return set()
        texts = [text for field, text in guard.conditions() if not field.startswith("engines")]
        return {x.name for x in slice_of(self.model, conditions=texts).model.program.logic}

    def _delayed(self, name: str) -> bool:
        """Whether everything that asks a condition waits a while."""
        users = [x for x in self.model.program.logic if any(asked(t).name == name for t in conditions_of(x))]
        return bool(users) and all(x.waits_out for x in users)

    def _flickering(self, sampler: CaseSampler, node: LogicSwitch, names: Sequence[str]) -> tuple[str, float] | None:
        """The surface that jumps most as the signal crosses the level, where it jumps far."""
        gates = {x.name: signal for x in self.model.program.gates() for signal in x.signals()}
        compared = node.signals()[0]
        signal = gates.get(compared, compared)
        cases = np.arange(len(self.reachable.nodes))[:400]
        best: tuple[str, float] | None = None
        for below, above in (x for level in node.flickers_at for x in self._across(signal, level)):
            for start, to in ((below, above), (above, below)):
                act = _Act(signal, start, to, cases)
                ((before, after),) = self._two(sampler, [act], 2)[0]
                self.search.count("L4", len(cases))
                for name in names:
                    lead = self.search.leads[name]
                    moved = after[lead.name][:, -1] - before[lead.name][:, -1]
                    i = int(np.argmax(np.abs(moved)))
                    if abs(moved[i]) > JUMP and (best is None or abs(moved[i]) > abs(best[1])):
                        best = (name, float(moved[i]))
        return best

    def _across(self, signal: str, level: float) -> Iterator[tuple[float, float]]:
        """The places just below and just above a level of a stick, a slider, a trim lever or the link's quality, where it can
        cross that level at all."""
        if signal == "link_quality":
            low, high = 0.0, 100.0
        elif signal in self.search.stage.plan.rest:
            low, high = control_bounds(self.model, signal)
        else:
            return
        if low < level < high:
            yield level - NEAR, level + NEAR

    # -- S8 ---------------------------------------------------------------------------------------------------------------

    def passages(self, command: str) -> Iterator[Finding]:
        """S8: a command that is less half way through a fade or a slow than at both its ends."""
        ways = self.search.ways(command)
        sampler = self.reachable.sampler(ways, in_time=True) if ways else None
        if sampler is not None and _times(sampler):
            wanted = max(sampler.model_slice.model.program.frame_s, min(COARSE_S, min(_times(sampler)) / LOOKS))
            step = max(wanted, Replay(sampler.model_slice.model).settle_s / MOST_LOOKS)
            self.search.count("S8", 0, step == wanted)  # what passes from one look to the next is not seen
            yield from self._passages(command, self.search.steered[command], ways, _coarse(sampler, step), step)

    def _passages(
        self, command: str, stick: str, ways: Mapping[str, int], sampler: CaseSampler, step: float
    ) -> Iterator[Finding]:
        search, sense = self.search, -1.0 if command == "pitch" else 1.0
        frames = int(np.ceil(Replay(sampler.model_slice.model).settle_s / step) + 3)
        names = {n: search.leads[n].name for n in ways}
        found: dict[str, tuple[float, _Act, int, float, float]] = {}
        acts, values = list(self._switched(sampler)), (-100.0, 0.0, 100.0)
        if not held_back(sampler.model_slice.model, stick):
            acts = self._cut_off(sampler, acts, [{stick: v} for v in values])
        every = self._two(sampler, acts, frames, [{stick: v} for v in values], step)
        for act, found_ in zip(acts, every, strict=True):
            looks = dict(zip(values, found_, strict=True))
            search.count("S8", 3 * len(act.cases) * frames)
            for end in (-100.0, 100.0):
                sign = sense * np.sign(end)
                got = np.zeros((len(act.cases), frames + 1))
                for name, way in ways.items():
                    lead = names[name]
                    for k in (0, 1):
                        x = looks[end][k][lead] - looks[0.0][k][lead]
                        got[:, slice(0, 1) if k == 0 else slice(1, None)] += sign * way * x / len(ways)
                ends = np.minimum(got[:, 0], got[:, -1])
                worst = got.min(axis=1)
                less = ends - worst
                i = int(np.argmax(less))
                more = act.control not in found or less[i] > found[act.control][0] + 1e-9
                if less[i] > 100.0 * SHARE * 0.5 and worst[i] < 0.6 * ends[i] and more:
                    found[act.control] = (float(less[i]), act, i, end, float(worst[i] / max(ends[i], 1e-9)))
        for control, (_, act, i, end, share) in sorted(found.items())[:MOST_TOLD]:
            yield self._passed(sampler, command, stick, ways, control, act, i, end, share)

    def _cut_off(self, sampler: CaseSampler, acts: Sequence[_Act], hands: Sequence[Mapping[str, float]]) -> list[_Act]:
        """The acts with a surface at its limit at either end. Where nothing holds a command back, a fade leads straight from
        one end to the other: only what is cut off there can make less of it on the way."""
        if not acts:
            return []
        looks = [(act, held, place) for act in acts for held in hands for place in (act.start, act.to)]
        cases = np.concatenate([act.cases for act, _, _ in looks])
        at = {n: v.copy() for n, v in self.reachable.hands_at(cases).items()}
        names = {n for _, held, _ in looks for n in held} | {act.control for act in acts}
        for name in names - at.keys():
            at[name] = np.full(len(cases), sampler.plan.rest.get(name, 0.0))
        k = 0
        for act, held, place in looks:
            here = slice(k, k := k + len(act.cases))
            for name, value in (*held.items(), (act.control, place)):
                at[name][here] = value
        memory = self.reachable.encoding.memory(self.reachable.memory[cases])
        outputs = _come_to_rest(sampler, _situation(np.zeros(1), at), memory).outputs.values()
        cut = np.zeros(len(cases), bool)
        for x in outputs:
            cut |= np.broadcast_to(x.at_stop | (x.cut != 0), (len(cases), 1))[:, -1]
        self.search.count("S8", len(cases))
        kept, k = [], 0
        for act in acts:
            rows = 2 * len(hands) * len(act.cases)
            if cut[k : k + rows].any():
                kept.append(act)
            k += rows
        return kept

    def _passed(
        self, sampler: CaseSampler, command: str, stick: str, ways: Mapping[str, int], control: str, act: _Act, i: int, end: float,
        share: float,
    ) -> Finding:  # fmt: skip
        search, sense = self.search, -1.0 if command == "pitch" else 1.0
        names = self.model.transmitter.control(control)
        to = names.positions[int(act.to)] if names is not None else number(act.to)
        left = "none of it" if share <= 1e-6 else f"{number(100 * share)} % of it"
        text = (
            f"On the way to {to} ({control_label(self.model, control)}) {command} passes through less than at both ends: "
            f"{left} is left."
        )
        way = [
            *self.reachable.way(int(act.cases[i]), sampler, {control: act.start}),
            SearchStep(stick, end),
            SearchStep(control, act.to),
        ]
        sign = sense * (1.0 if end > 0 else -1.0)

        def check(played: Played) -> bool:
            other = search.stage.again(played, (stick,))
            got = sum(w * (search.stand(played, n) - search.stand(other, n)) for n, w in ways.items())
            got = sign * np.asarray(got) / len(ways)
            at = max(0, played.last - 1)
            ends = min(got[at], got[-1])
            return bool(ends - got[at:].min() > 100.0 * SHARE * 0.5)

        part = self._slowest(sampler, ways)
        return search.finding("S8", "fault", part, text, way, check, tuple(ways))

    def _slowest(self, sampler: CaseSampler, ways: Mapping[str, int]) -> str:
        """The place of the slow or the fade that takes longest."""
        best, found = 0.0, "program.modes"
        for line, path in zip(sampler.model_slice.model.program.mixes, sampler.model_slice.paths, strict=True):
            if line.target in ways and max(line.in_s, line.out_s) > best:
                best, found = max(line.in_s, line.out_s), path
        for i, mode in enumerate(self.model.program.modes):
            if mode.fade_s > best:
                best, found = mode.fade_s, f"program.modes[{i}].fade_s"
        return found


def _situation(t: Array, hands: Mapping[str, Array]) -> Situation:
    named = {n: v[:, None] for n, v in hands.items()}
    rows = len(next(iter(named.values())))
    named |= {n: np.broadcast_to(named.get(n, np.float64(r)), (rows, 1)) for n, r in AROUND.items()}
    named.setdefault("rudder_stick", np.zeros((rows, 1)))
    return Situation.of(t, named)


def _come_to_rest(sampler: CaseSampler, situation: Situation, memory: Memory) -> Result:
    """A frame in which everything that moves slowly has come to rest, and what waits for a time still waits as it did.

    An off-delay or a pulse that runs in a case holds its condition there: taken for run out before the act and for running
    after it, the act would seem to bring what was there all the while.
    """
    ended = sampler.plan.run(situation, memory, instant=True)
    kept = Memory(after={**ended.memory.after, **memory.after}, many=True)
    return sampler.plan.run(situation, kept)


def held_back(model: Model, stick: str) -> bool:
    """Whether anything slow is between a stick and the surfaces."""
    if any(x.slow_up_s or x.slow_down_s for x in model.leads):
        return True
    slow = [x for x in model.program.mixes if x.in_s or x.out_s]
    return any(
        x.combine != "add" or stick in knobs_of(model, x) for x in slow
    )  # what scales or replaces holds the rest back


def _times(sampler: CaseSampler) -> list[float]:
    """How long everything takes that takes time."""
    program = sampler.model_slice.model.program
    found = [s for x in program.mixes for s in (x.in_s, x.out_s)] + [m.fade_s for m in program.modes]
    found += [s for x in sampler.model_slice.model.leads for s in (x.slow_up_s, x.slow_down_s)]
    return [s for s in found if s]


def _coarse(sampler: CaseSampler, step: float) -> CaseSampler:
    """The same with longer frames."""
    from hypsos.core.engine import compile_plan

    program = sampler.model_slice.model.program.changed({"frame_s": step})
    model_slice = ModelSlice(
        sampler.model_slice.model.changed({"program": program}), sampler.model_slice.paths, sampler.model_slice.free
    )
    return CaseSampler(model_slice, sampler.grid, compile_plan(model_slice.model))
