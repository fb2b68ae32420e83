# SPDX-License-Identifier: GPL-3.0-or-later
"""What must never happen to a motor, searched through everything the hands, the link and the
battery can do."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from hypsos.core.base.backends import Array, Flags, Places, of_each
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.parts.leads import Lead
from hypsos.core.review.findings import Finding
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import ModelSlice, slice_of
from hypsos.core.review.search.motor_replay import ARMED, MORE, TURNS, MotorReplay
from hypsos.core.review.search.motor_rule import (
    FAILSAFE,
    PULSES,
    STANDS,
    BrokenWay,
    MotorAct,
    MotorRule,
    MotorStates,
    column,
)
from hypsos.core.review.search.replay import Played, Proof, Replay, brought, captions, lived, proved
from hypsos.core.review.search.state_search import TICK, WAIT, Edges, SearchStep, StateSearch
from hypsos.core.wording.words import clause

LOOKED_AT = 400
"""Situations of which the shortest ways are taken."""
MOST_EACH = 3
"""Different causes told of one statement and one motor at the most."""


class MotorSearch:
    """The search of everything that can happen to the motors of a model, and what came of it."""

    def __init__(
        self,
        model: Model,
        rules: Sequence[type[MotorRule]],
        most: int,
        ended: Callable[[], bool],
        stopped: Callable[[], bool] | None = None,
    ) -> None:
        """``rules``: what is looked for. ``ended``: whether the search has to end, and then what it
        has found is told; ``stopped``: whether nobody waits for it any more."""
        self.model, self.stage, self.stopped = model, Replay(model), stopped or ended
        self.model_slice: ModelSlice = slice_of(model, guard=True)
        self.grid = grid_of(self.model_slice)
        motors = {m.name for m in model.airframe.motors}
        self.leads: list[Lead] = [x for x in self.model_slice.model.leads if x.target in motors]
        self.index = [i for i, x in enumerate(model.leads) if x.target in motors]
        # of each kind (statement, motor, control moved last) a shortest way
        self._first: dict[tuple[str, int, int], BrokenWay] = {}
        self._worst: dict[tuple[str, int, int], BrokenWay] = {}
        """Of each kind the way, however long, after which the motor gets most."""
        self.restarts: set[int] = set()
        """The motors of which it is told that they start after a change of the flight battery."""
        guard = model.program.guard
        # a motor may be told a little as it is armed: as much as the guard takes for low
        self.let_by = max(MORE, guard.threshold + 100.0) + 1e-6 if guard is not None else MORE
        """What a motor may be told as it is armed: what the guard calls low."""
        self.throttles = model.program.throttles()
        self.motors = MotorReplay(model, self.stage, self.leads, self.index, self.let_by)
        self.reach = StateSearch(self.model_slice, self.grid, self._watch, self._judge, most, ended)
        self.rules = [rule(self) for rule in rules]

    def run(self) -> MotorSearch:
        """Search all of it."""
        self.reach.run()
        if self.stopped():
            return self
        for rule in self.rules:
            rule.after_all_acts()
        # then the states themselves: what no frame may show, however it came about
        self.reach.gather()
        self._states()
        return self

    # -- what is looked at -----------------------------------------------------------------------

    def _watch(self, result: Result) -> Array:
        """Per situation: the guard's state; then for every motor's lead where the motor stands,
        whether there are pulses, and whether the failsafe acts."""
        columns: list[Array] = [result.guard.astype(float)]
        for lead in self.leads:
            trace = result.outputs[lead.name]
            columns += [trace.stand, (trace.us > 0).astype(float), trace.failsafe.astype(float)]
        rows = max(len(c) if c.ndim > 1 else 1 for c in columns)
        return np.stack([of_each(c, rows) for c in columns], axis=-1)

    def stand(self, table: Array, lead: int) -> Array:
        """Where a motor stands, in percent of its pulse; idle where there are no pulses."""
        pulses, stands = table[..., column(lead, PULSES)] > 0, table[..., column(lead, STANDS)]
        return np.asarray(np.where(pulses, stands, -100.0))

    def risen(self, table: Array, lead: int) -> Array:
        """The same counted from where it stands with nothing asked of it."""
        return self.motors.above_calm(self.stand(table, lead), lead)

    def _note(self, rule: MotorRule, lead: int, edges: Edges, where: Flags, more: Array) -> None:
        """Keep the shortest way of its kind; of equally long ones that by which the motor gets
        most."""
        if not where.any():
            return
        key, depth = (rule.code, lead, edges.knob), self.reach.depth
        # of this step the one that gives the motor most
        i = int(np.argmax(np.where(where, more, -np.inf)))
        held, worst = self._first.get(key), self._worst.get(key)
        # situations come in the order of their acts, so the first of a kind has one of the
        # shortest ways
        first = held is None or (held.depth == depth and more[i] > held.more + 1e-9)
        # neither shorter nor worse than what is held
        if not first and worst is not None and more[i] <= worst.more + 1e-9:
            return
        step = self.reach.step(edges, i)
        found = BrokenWay(rule, lead, edges.knob, int(edges.source[i]), step, depth, float(more[i]))
        if first:
            self._first[key] = found
        if worst is None or found.more > worst.more + 1e-9:
            self._worst[key] = found

    def _judge(self, edges: Edges) -> None:
        seen = self.reach.table()
        act = MotorAct(self, edges, seen[edges.before], seen[edges.after])
        # without an armed motor nothing is sent but idle
        if not act.armed.any():
            return
        for n in range(len(self.leads)):
            for rule in self.rules:
                found = rule.by_act(act, n)
                if found is not None:
                    self._note(rule, n, edges, *found)

    def connected(self, hands: Places) -> Flags:
        """Where the receiver hears the transmitter."""
        values = self.grid.values(hands)
        one = np.ones(len(hands))
        out: Flags = values.get("link", one) * values.get("power", one) > 0.5
        return out

    def _states(self) -> None:
        """What no frame may show."""
        reach = self.reach
        table, good = reach.seen, reach.found()
        if not len(table):
            return
        link = self.connected(reach.of_hands)
        power = self.grid.values(reach.of_hands).get("power", np.ones(len(table))) > 0.5
        # what the guard holds at idle
        held = table[:, 0] != ARMED
        for n in range(len(self.leads)):
            turns = good & (self.stand(table, n) > -100.0 + TURNS)
            acting = (table[:, column(n, FAILSAFE)] > 0) & power & ~link
            for rule in self.rules:
                wrong = rule.in_states(MotorStates(turns, acting, held, link))
                # a rule that says nothing of states is not asked
                found = np.flatnonzero(False if wrong is None else wrong)
                if found.size:
                    nodes, stands = reach.nodes_at(found), self.stand(table, n)[found]
                    key, worst = (rule.code, n, TICK), int(np.argmax(stands))
                    self._first[key] = BrokenWay(
                        rule, n, TICK, self.shortest(nodes, stands, 1)[0], None
                    )
                    self._worst[key] = BrokenWay(
                        rule, n, TICK, int(nodes[worst]), None, more=float(stands[worst])
                    )

    def shortest(self, nodes: Places, stands: Array, count: int) -> list[int]:
        """The situations with the shortest ways, of equally short ones those in which the motor
        runs most."""
        # they were found in the order of their acts
        # the first found have the fewest acts; only of these the ways are counted
        early = np.argsort(nodes, kind="stable")[:LOOKED_AT]
        found = [(self._acts_to(int(nodes[i])), -float(stands[i]), int(nodes[i])) for i in early]
        return [x for _, _, x in sorted(found)[:count]]

    def _acts_to(self, node: int) -> int:
        """How many acts of the hands and waits lead to a situation."""
        return sum(1 for s in self.reach.way(node) if s.control or s.waits)

    def way(self, node: int) -> list[SearchStep]:
        """The acts of the hands that lead to a situation."""
        free = self.model_slice.free
        steps = self.reach.way(node)
        out: list[SearchStep] = []
        for step in steps:
            if step.control in free:
                # a stand-in for a shared value is no control: what moves it in truth is shown
                out += brought(self.model, free[step.control], step.to)
            else:
                out.append(step)
        return out

    # -- what is said ----------------------------------------------------------------------------

    def findings(self) -> Iterator[Finding]:
        """Everything found, each way played in real time first."""
        for rule in self.rules:
            yield from rule.beside()
        told: dict[tuple[str, str], int] = {}
        # the shortest first: of ways with one and the same cause only a few are told
        for key in sorted(self._first, key=lambda k: (k[0], self._first[k].depth, k[1], k[2])):
            if self.stopped():
                return  # each of them is played first
            broken = self._first[key]
            found = None if broken.rule.left_out(broken) else self._told(broken)
            if found is None:
                continue
            # ways that end at one place of the document have one cause
            same = (found.statement, found.part)
            told[same] = told.get(same, 0) + 1
            if told[same] <= (1 if found.part == "program.guard.level" else MOST_EACH):
                yield found

    def knob(self, broken: BrokenWay) -> str:
        """The name of what is moved last; nothing where time alone passes."""
        return self.grid.knobs[broken.knob].name if broken.knob >= 0 else ""

    def _told(self, broken: BrokenWay) -> Finding | None:
        """A statement that was broken, played in real time, with the shortest way and the worst
        figure."""
        found = self._proof(broken)
        if found is None:
            return None
        n, rule = broken.lead, broken.rule
        proof, played = found
        part, text, level = rule.said(n, proof.steps, played)
        if not text:
            return None
        text = self._with_worst(broken, text, rule.figure(n, proof, played))
        moves = proof.moves
        cause = f"{rule.cause} of {self.leads[n].name}" if rule.cause else ""
        return Finding(
            rule.code,
            level,
            part,
            text,
            proof.confirmed,
            moves,
            captions(self.model, moves),
            proof.look_s,
            (self.leads[n].target,),
            waits_s=self.stage.waiting(proof.steps),
            cause=cause,
        )

    def _proof(self, broken: BrokenWay) -> tuple[Proof, Played] | None:
        """The way to it, confirmed if the engine comes to it, and that way played; None where no
        single act brings it about."""
        way = broken.rule.way(broken, self.way(broken.node), self._acts(broken))
        if way is None:
            return None
        proof = self._proved(broken, way)
        return proof, self.motors.play(broken.lead, proof)

    def _proved(self, broken: BrokenWay, way: list[SearchStep]) -> Proof:
        """A way played in real time: in the order in which a pilot lives it where that comes to the
        same."""
        rule, later = broken.rule, broken.knob == WAIT
        check = rule.check(broken.lead, later)
        # a pilot puts the switches right before the battery goes in; told so, if it leads to the
        # same
        # where time brings it about, the order of the waits is part of it
        usual = lived(self.model, way) if rule.as_lived and not later else way
        if usual != way:
            proof = proved(self.stage, usual, check)
            if proof.confirmed:
                return proof
        return rule.better(broken, way, proved(self.stage, way, check))

    def _acts(self, broken: BrokenWay) -> list[SearchStep]:
        """The last act, as the hands do it: a trim click by click, a shared value press by
        press."""
        step, free = broken.step, self.model_slice.free
        if step is None:
            return []
        if step.control in free:
            return list(brought(self.model, free[step.control], step.to))
        if not step.control.endswith("_trim"):
            return [step]
        start = float(self.grid.values(self.reach.nodes.hands[[broken.node]])[step.control][0])
        return list(self.motors.clicks(step.control, start, step.to))

    def _with_worst(self, broken: BrokenWay, text: str, figure: float) -> str:
        """A sentence with the worst figure of its kind, where a longer way leads to more."""
        rule = broken.rule
        worst = self._worst.get((rule.code, broken.lead, broken.knob))
        # the shortest way is the worst one already
        if worst is None or worst.node == broken.node or not rule.names_worst:
            return text
        found = self._proof(worst)
        if found is None or not found[0].confirmed:
            return text
        most = rule.figure(broken.lead, *found)
        if most < figure + 1.0:
            return text
        return f"{clause(text)}; at worst {rule.by}{number(most)} % power."
