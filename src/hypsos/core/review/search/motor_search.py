# SPDX-License-Identifier: GPL-3.0-or-later
"""What must never happen to a motor, searched through everything the hands, the link and the battery can do."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.explain.idle_pulse import idle_dangers
from hypsos.core.parts.leads import Lead
from hypsos.core.review.rules.motor_replay import ARMED, MORE, TURNS, MotorReplay
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import ModelSlice, slice_of
from hypsos.core.review.search.replay import GAP_S, Played, Proof, Replay, brought, captions, lived, proved
from hypsos.core.review.search.state_search import TICK, WAIT, Edges, SearchStep, StateSearch
from hypsos.core.review.statements import Finding, FindingMove, Level

AWAY_S = (0.2, 1.0, 3.0)
"""Seconds for which the flight battery is away: a loose plug, a quick hand, a change."""
CHANGES_TRIED, LOOKED_AT = 3, 400
"""Situations from which the battery is changed in real time, and of how many the shortest ones are taken."""
MOST_EACH = 3
"""Different causes told of one statement and one motor at the most."""


@dataclass
class _Broken:
    """The first way to break a statement at a motor by a kind of act."""

    statement: str
    lead: int
    knob: int
    node: int
    step: SearchStep | None
    depth: int = 0
    more: float = 0.0


class MotorSearch:
    """The search of everything that can happen to the motors of a model, and what came of it."""

    def __init__(
        self, model: Model, most: int, ended: Callable[[], bool], stopped: Callable[[], bool] | None = None
    ) -> None:
        """``ended``: whether the search has to end, and then what it has found is told; ``stopped``: whether nobody waits for
        it any more."""
        self.model, self.stage, self._stopped = model, Replay(model), stopped or ended
        self.model_slice: ModelSlice = slice_of(model, guard=True)
        self.grid = grid_of(self.model_slice)
        motors = {m.name for m in model.airframe.motors}
        self.leads: list[Lead] = [x for x in self.model_slice.model.leads if x.target in motors]
        self.index = [i for i, x in enumerate(model.leads) if x.target in motors]
        self._first: dict[tuple[str, int, int], _Broken] = {}
        self._worst: dict[tuple[str, int, int], _Broken] = {}
        """Of each kind the way, however long, after which the motor gets most."""
        self._running: dict[int, list[int]] = {}
        """Motor -> situations in which it runs, from which the flight battery is changed."""
        guard = model.program.guard
        self.let_by = max(MORE, guard.threshold + 100.0) + 1e-6 if guard is not None else MORE
        """What a motor may be told as it is armed: what the guard calls low."""
        self.throttles = model.program.throttles()
        self.motors = MotorReplay(model, self.stage, self.leads, self.index, self.let_by)
        self.reach = StateSearch(self.model_slice, self.grid, self._watch, self._judge, most, ended)

    def run(self) -> MotorSearch:
        """Search all of it."""
        self.reach.run()
        if self._stopped():
            return self
        self._battery()
        self.reach.gather()
        self._states()
        return self

    # -- what is looked at ------------------------------------------------------------------------------------------------

    def _watch(self, result: Result) -> Array:
        """Per situation: the guard's state; then for every motor's lead where the motor stands, whether there are pulses, and
        whether the failsafe acts."""
        columns: list[Array] = [result.guard.astype(float)]
        for lead in self.leads:
            trace = result.outputs[lead.name]
            columns += [trace.stand, (trace.us > 0).astype(float), trace.failsafe.astype(float)]
        rows = max(len(c) if c.ndim > 1 else 1 for c in columns)
        return np.stack([np.broadcast_to(c, (rows, 1))[:, -1] for c in columns], axis=-1)

    def _stand(self, table: Array, lead: int) -> Array:
        """Where a motor stands, in percent of its pulse; idle where there are no pulses."""
        out: Array = np.where(table[..., 2 + 3 * lead] > 0, table[..., 1 + 3 * lead], -100.0)
        return out

    def _risen(self, table: Array, lead: int) -> Array:
        """The same counted from where it stands with nothing asked of it."""
        return self.motors.above_calm(self._stand(table, lead), lead)

    def _note(self, statement: str, lead: int, edges: Edges, where: Flags, more: Array) -> None:
        """Keep the shortest way of its kind; of equally long ones that by which the motor gets most."""
        if not where.any():
            return
        key, depth = (statement, lead, edges.knob), self.reach.depth
        i = int(np.argmax(np.where(where, more, -np.inf)))
        held, worst = self._first.get(key), self._worst.get(key)
        first = held is None or (held.depth == depth and more[i] > held.more + 1e-9)
        if not first and worst is not None and more[i] <= worst.more + 1e-9:
            return
        step = self.reach.step(edges, i)
        found = _Broken(statement, lead, edges.knob, int(edges.source[i]), step, depth, float(more[i]))
        if first:
            self._first[key] = found
        if worst is None or found.more > worst.more + 1e-9:
            self._worst[key] = found

    def _judge(self, edges: Edges) -> None:
        seen = self.reach.table()
        before, after = seen[edges.before], seen[edges.after]
        name = self.grid.knobs[edges.knob].name if edges.knob >= 0 else ""
        was, now = before[:, 0] == ARMED, after[:, 0] == ARMED
        if not now.any():
            return
        back = name in ("link", "power")
        if name and name == self.motors.yaw:
            self._turning(edges, before, after, was & now)
        for n in range(len(self.leads)):
            more = self._risen(after, n) - self._risen(before, n)
            up = (more > MORE) & now
            if not up.any():
                continue
            again = before[:, 3 + 3 * n] > 0 if name == "link" or (back and self.motors.level >= 4) else True
            if name not in self.throttles:
                self._note("M2", n, edges, up & was & again, more)
            if not back:
                self._note("M6", n, edges, up & (more > self.let_by) & ~was & self._linked(edges), more)

    def _turning(self, edges: Edges, before: Array, after: Array, good: Flags) -> None:
        """S1: the rudder stick's control moves, and the motors turn the model the other way."""
        hands = (
            self.grid.values(edges.to)[self.motors.yaw]
            - self.grid.values(self.reach.nodes.hands[edges.source])[self.motors.yaw]
        )
        turned = sum(
            side * (self._stand(after, n) - self._stand(before, n)) for n, side in enumerate(self.motors.sides)
        )
        wrong = -np.sign(hands) * np.asarray(turned)
        self._note("S1", 0, edges, good & self._linked(edges) & (wrong > MORE), wrong)

    def _linked(self, edges: Edges) -> Flags:
        """Where the receiver hears the transmitter."""
        return self._connected(edges.to)

    def _connected(self, hands: Places) -> Flags:
        values = self.grid.values(hands)
        one = np.ones(len(hands))
        out: Flags = values.get("link", one) * values.get("power", one) > 0.5
        return out

    def _battery(self) -> None:
        """The situations in which a motor runs from which the flight battery is changed: those after which it runs again where
        everything that waits has waited, and the first ones of all."""
        reach, nodes = self.reach, self.reach.nodes
        off = next((i for i, k in enumerate(self.grid.knobs) if k.name == "power"), None)
        if off is None or not len(reach.seen):
            return
        places = self.grid.places(nodes.hands)[off]
        on = np.flatnonzero((nodes.memory > 0) & (places == 1) & self._connected(nodes.hands))
        here = reach.then(nodes.memory[on], nodes.hands[on])
        if here is None:
            return
        out_ = nodes.hands - places * self.grid.strides[off]
        for n in range(len(self.leads)):
            stands = self._risen(reach.table()[here[1]], n)
            runs, power = on[stands > -100.0 + MORE], stands[stands > -100.0 + MORE]
            again = np.zeros(0, np.intp)
            first = reach.then(nodes.memory[runs], out_[runs])
            gone = reach.then(reach.passed(first[0]), out_[runs]) if first is not None else None
            back = reach.then(gone[0], nodes.hands[runs]) if gone is not None else None
            if back is not None:
                again = np.flatnonzero(self._risen(reach.table()[back[1]], n) > -100.0 + MORE)
            firsts = [self._shortest(runs[x], power[x]) for x in (again, np.arange(len(runs)))]
            self._running[n] = [*firsts[0], *firsts[1]]

    def _shortest(self, nodes: Places, stands: Array) -> list[int]:
        """The situations with the shortest ways, of equally short ones those in which the motor runs most."""
        early = np.argsort(nodes, kind="stable")[:LOOKED_AT]  # they were found in the order of their acts
        found = [(self._acts_to(int(nodes[i])), -float(stands[i]), int(nodes[i])) for i in early]
        return [x for _, _, x in sorted(found)[:CHANGES_TRIED]]

    def _acts_to(self, node: int) -> int:
        """How many acts of the hands and waits lead to a situation."""
        return sum(1 for s in self.reach.way(node) if s.control or s.waits)

    def _changed_battery(self) -> Iterator[Finding]:
        """M4: the battery is changed in real time, away for longer and for shorter, with everything left as it was.

        A receiver with a battery of its own loses no link by it: a motor that runs then goes on being told to. A controller
        that waits for idle starts in neither case.
        """
        for n in range(len(self.leads)):
            waits = self.model.leads[self.index[n]].waits_for_idle
            for node in () if waits else dict.fromkeys(self._running.get(n, ())):
                found = self._restarted(n, node)
                if found is not None:
                    yield found
                    break

    def _way(self, node: int) -> list[SearchStep]:
        free = self.model_slice.free
        steps = self.reach.way(node)
        return [x for s in steps for x in (brought(self.model, free[s.control], s.to) if s.control in free else (s,))]

    def _restarted(self, n: int, node: int) -> Finding | None:
        """A motor that turns by itself after a change of the battery: by how much, and after how long without one.

        It is looked for where it would turn after the longest time away first: that is what a change of the battery is.
        """
        proof = proved(self.stage, self._way(node), self.motors.runs(n))
        guard = self.model.program.guard
        if not proof.confirmed or guard is None:
            return None
        own = self.model.receiver.power == "own battery"
        about = (guard.relock_s - 0.1, guard.relock_s + 0.1) if guard.level >= 4 and not own else ()
        start = (proof.moves[-1].t_s if proof.moves else 0.0) + max(1.0, self.stage.settle_s)
        for away_s in sorted({x for x in (*AWAY_S, *about) if x > 0}, reverse=True):
            out = FindingMove(round(start, 3), "flight_battery", 0.0)
            moves = (*proof.moves, out, FindingMove(round(start + away_s, 3), "flight_battery", 1.0))
            played = self.stage.play(moves, proof.look_s, (self.leads[n].target,))
            power = self.motors.turning(n, played, start + away_s)
            if power > MORE / 2:
                text = self._restart_words(n, power, away_s, own)
                level: Level = "fault" if own or self.motors.level < 4 else "advice"
                return self._battery_finding(n, level, text, moves, proof.look_s)
        return None

    def _restart_words(self, n: int, power: float, away_s: float, own: bool) -> str:
        """What a motor does when the battery comes back."""
        when = "when the next flight battery is plugged in"
        if own:
            return (
                f"{self.motors.label(n)} starts with {number(power)} % power {when}: the receiver "
                "has a battery of its own and hears the transmitter all the while, so that no level of the guard sees the change."
            )
        if away_s < max(AWAY_S):
            when = f"after {plain(round(away_s, 2))} s without the flight battery"
        return f"{self.motors.label(n)} starts by itself with {number(power)} % power {when}."

    def _battery_finding(
        self, n: int, level: Level, text: str, moves: tuple[FindingMove, ...], look_s: float
    ) -> Finding:
        said = captions(self.model, moves)
        return Finding("M4", level, "program.guard.level", text, True, moves, said, look_s, (self.leads[n].target,))

    def _states(self) -> None:
        """What no frame may show: a motor that is not at idle where it is not armed, or without the link."""
        reach = self.reach
        table, good = reach.seen, reach.found()
        if not len(table):
            return
        link = self._connected(reach.of_hands)
        power = self.grid.values(reach.of_hands).get("power", np.ones(len(table))) > 0.5
        for n in range(len(self.leads)):
            turns = good & (self._stand(table, n) > -100.0 + TURNS)
            acting = (table[:, 3 + 3 * n] > 0) & power & ~link
            held = table[:, 0] != ARMED
            for statement, wrong in (("M1", turns & held & (link | acting)), ("M3", turns & acting)):
                found = np.flatnonzero(wrong)
                if found.size:
                    nodes, stands = reach.nodes_at(found), self._stand(table, n)[found]
                    key, worst = (statement, n, TICK), int(np.argmax(stands))
                    self._first[key] = _Broken(statement, n, TICK, self._shortest(nodes, stands)[0], None)
                    self._worst[key] = _Broken(statement, n, TICK, int(nodes[worst]), None, more=float(stands[worst]))

    # -- what is said -----------------------------------------------------------------------------------------------------

    def findings(self) -> Iterator[Finding]:
        """Everything found, each way played in real time first."""
        yield from self._idle()
        yield from self._failsafe()
        told: dict[tuple[str, str], int] = {}
        changes = [] if self._stopped() else list(self._changed_battery())
        shared = self.model.receiver.power != "own battery"  # then power that comes back is a battery that was changed
        restarts = {n for n, lead in enumerate(self.leads) for f in changes if lead.target in f.seen}
        yield from changes[:1]
        for key in sorted(self._first, key=lambda k: (k[0], self._first[k].depth, k[1], k[2])):
            if self._stopped():
                return  # each of them is played first
            broken = self._first[key]
            knob = self.grid.knobs[broken.knob].name if broken.knob >= 0 else ""
            waits = self.model.leads[self.index[broken.lead]].waits_for_idle
            if broken.statement == "M2" and knob == "power" and shared and (broken.lead in restarts or waits):
                continue  # said as what comes of a change of the battery; or its controller does not start then
            found = self._told(broken)
            if found is None:
                continue
            same = (found.statement, found.part)
            told[same] = told.get(same, 0) + 1
            if told[same] <= (1 if found.part == "program.guard.level" else MOST_EACH):
                yield found

    def _idle(self) -> Iterator[Finding]:
        for i, text in idle_dangers(self.model):
            yield Finding("M5", "danger", f"leads[{i}].idle_us", text, seen=(self.model.leads[i].target,))

    def _failsafe(self) -> Iterator[Finding]:
        """A motor's own plan for a lost link that leaves it turning."""
        for i in self.index:
            lead = self.model.leads[i]
            safe = lead.failsafe
            if safe is None or safe.action != "preset" or lead.port is None:
                continue
            power = power_percent(safe.value)
            if power > TURNS / 2:
                power_words = f"{number(power)} % power"
                text = f"Without the link {lead.label} is commanded to run with {power_words}, and no guard can stop it then."
                yield Finding(
                    "F1", "danger", f"leads[{i}].failsafe", text, seen=(lead.target,), cause=f"preset of {lead.name}"
                )

    def _told(self, broken: _Broken) -> Finding | None:
        """A statement that was broken, played in real time, with the shortest way and the worst figure."""
        found = self._proof(broken)
        if found is None:
            return None
        n, told = broken.lead, self.motors
        proof, played = found
        part, text, level = told.said(broken.statement, n, proof, played)
        if not text:
            return None
        text = self._with_worst(broken, text, told.figure(broken.statement, n, proof, played))
        moves = proof.moves
        cause = f"preset of {self.leads[n].name}" if broken.statement in ("M1", "M3") else ""
        return Finding(
            broken.statement, level, part, text, proof.confirmed, moves, captions(self.model, moves), proof.look_s,
            (self.leads[n].target,), waits_s=self.stage.waiting(proof.steps), cause=cause,
        )  # fmt: skip

    def _proof(self, broken: _Broken) -> tuple[Proof, Played] | None:
        """The way to it, confirmed if the engine comes to it, and that way played; None where no single act brings it about."""
        n, told = broken.lead, self.motors
        way = self._way(broken.node)
        acts = self._acts(broken)
        if broken.statement == "M2":
            if broken.knob == TICK and _last_control(way) in self.throttles:
                return None  # what comes a frame later comes of the thrust control
            single = told.single_act(n, way, acts)
            if single is None:
                return None
            way = single
        else:
            way = [*way, *acts]
        proof = self._proved(broken, way)
        return proof, told.play(n, proof)

    def _proved(self, broken: _Broken, way: list[SearchStep]) -> Proof:
        """A way played in real time: in the order in which a pilot lives it where that comes to the same."""
        n, told = broken.lead, self.motors
        later = broken.knob == WAIT
        checks = {"M1": told.unarmed, "M3": told.without_link, "M6": told.at_arming, "S1": told.turned}
        check = checks.get(broken.statement, told.raised_later if later else told.raised)(n)
        usual = lived(self.model, way) if broken.statement in ("M2", "M3") and not later else way
        if usual != way:
            proof = proved(self.stage, usual, check)
            if proof.confirmed:
                return proof
        proof = proved(self.stage, way, check)
        if broken.statement == "M2" and not later and self.stage.settle_s > GAP_S:
            rested = proved(self.stage, way, check, rested=True)  # not half way through a fade that lets less be seen
            if told.more(told.play(n, rested), n) > told.more(told.play(n, proof), n) + 1.0:
                proof = rested
        return proof

    def _acts(self, broken: _Broken) -> list[SearchStep]:
        """The last act, as the hands do it: a trim click by click, a shared value press by press."""
        step, free = broken.step, self.model_slice.free
        if step is None:
            return []
        if step.control in free:
            return list(brought(self.model, free[step.control], step.to))
        if not step.control.endswith("_trim"):
            return [step]
        start = float(self.grid.values(self.reach.nodes.hands[[broken.node]])[step.control][0])
        return list(self.motors.clicks(step.control, start, step.to))

    def _with_worst(self, broken: _Broken, text: str, figure: float) -> str:
        """A sentence with the worst figure of its kind, where a longer way leads to more."""
        worst = self._worst.get((broken.statement, broken.lead, broken.knob))
        if worst is None or worst.node == broken.node or broken.statement == "S1":
            return text
        found = self._proof(worst)
        if found is None or not found[0].confirmed:
            return text
        most = self.motors.figure(broken.statement, broken.lead, *found)
        if most < figure + 1.0:
            return text
        by = "by " if broken.statement == "M2" else ""
        return f"{text.removesuffix('.')}; at worst {by}{number(most)} % power."


def _last_control(way: Sequence[SearchStep]) -> str:
    return next((s.control for s in reversed(way) if s.control), "")


def turns_by_motors(model: Model) -> bool:
    """Whether there are motors on both sides that could turn the model."""
    sides = {np.sign(m.y_mm) for m in model.airframe.motors}
    return model.program.axis("yaw") is not None and {-1.0, 1.0} <= sides
