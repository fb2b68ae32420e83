"""What must never happen to a motor, searched through everything the hands, the link and the battery can do."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from hypsos.core.engine import Result
from hypsos.core.flight.idle import idle_dangers
from hypsos.core.ground.lanes import Array, Flags, Places
from hypsos.core.model.document import Model
from hypsos.core.model.words import number, power_percent
from hypsos.core.parts.wiring import Lead
from hypsos.core.shakedown.cone import Cone, cone_of
from hypsos.core.shakedown.motors_told import CHANGE, CHANGE_S, MORE, RELEASED, TURNS, Motors
from hypsos.core.shakedown.play import GAP_S, Stage, brought, captions, proved
from hypsos.core.shakedown.reach import TICK, Edges, Reach, Step
from hypsos.core.shakedown.space import space_of
from hypsos.core.shakedown.statements import Finding

MOST_EACH = 3
"""Different causes told of one statement and one motor at the most."""


@dataclass
class _Broken:
    """The first way to break a statement at a motor by a kind of act."""

    statement: str
    lead: int
    knob: int
    node: int
    step: Step | None
    depth: int = 0
    more: float = 0.0


class MotorSearch:
    """The search of everything that can happen to the motors of a model, and what came of it."""

    def __init__(self, model: Model, most: int, stopped: Callable[[], bool]) -> None:
        self.model, self.stage = model, Stage(model)
        self.stage.waits[CHANGE] = CHANGE_S
        self.cone: Cone = cone_of(model, guard=True)
        self.space = space_of(self.cone)
        motors = {m.name for m in model.airframe.motors}
        self.leads: list[Lead] = [x for x in self.cone.model.leads if x.target in motors]
        self.index = [i for i, x in enumerate(model.leads) if x.target in motors]
        self._first: dict[tuple[str, int, int], _Broken] = {}
        guard = model.program.guard
        self.let_by = max(MORE, guard.threshold + 100.0) + 1e-6 if guard is not None else MORE
        """What a motor may be told at its release: what the guard calls low."""
        axis = model.program.axis("thrust")
        self.thrust = axis.control if axis is not None else ""
        self.motors = Motors(model, self.stage, self.leads, self.index, self.let_by)
        self.reach = Reach(self.cone, self.space, self._watch, self._judge, most, stopped)

    def run(self) -> MotorSearch:
        """Search all of it."""
        self.reach.run()
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

    def _note(self, statement: str, lead: int, edges: Edges, where: Flags, more: Array) -> None:
        """Keep the shortest way of its kind; of equally long ones that by which the motor gets most."""
        if not where.any():
            return
        key, depth = (statement, lead, edges.knob), self.reach.depth
        i = int(np.argmax(np.where(where, more, -np.inf)))
        held = self._first.get(key)
        if held is None or (held.depth == depth and more[i] > held.more + 1e-9):
            step = self.reach.step(edges, i)
            self._first[key] = _Broken(statement, lead, edges.knob, int(edges.source[i]), step, depth, float(more[i]))

    def _judge(self, edges: Edges) -> None:
        seen = self.reach.table()
        before, after = seen[edges.before], seen[edges.after]
        name = self.space.knobs[edges.knob].name if edges.knob >= 0 else ""
        was, now = before[:, 0] == RELEASED, after[:, 0] == RELEASED
        if not now.any():
            return
        back = name in ("link", "power")
        for n in range(len(self.leads)):
            more = self._stand(after, n) - self._stand(before, n)
            up = (more > MORE) & now
            if not up.any():
                continue
            again = before[:, 3 + 3 * n] > 0 if name == "link" or (back and self.motors.level >= 4) else True
            if name != self.thrust:
                self._note("M2", n, edges, up & was & again, more)
            if not back:
                self._note("M6", n, edges, up & (more > self.let_by) & ~was & self._linked(edges), more)

    def _linked(self, edges: Edges) -> Flags:
        """Where the receiver hears the transmitter."""
        return self._connected(edges.to)

    def _connected(self, hands: Places) -> Flags:
        values = self.space.values(hands)
        one = np.ones(len(hands))
        out: Flags = values.get("link", one) * values.get("power", one) > 0.5
        return out

    def _battery(self) -> None:
        """From every situation in which a motor runs: the battery out, everything that waits has waited, the battery in."""
        reach, nodes = self.reach, self.reach.nodes
        off = next((i for i, k in enumerate(self.space.knobs) if k.name == "power"), None)
        if off is None or not len(reach.seen):
            return
        places = self.space.places(nodes.hands)[off]
        on = np.flatnonzero((nodes.memory > 0) & (places == 1) & self._connected(nodes.hands))
        here = reach.then(nodes.memory[on], nodes.hands[on])
        if here is None:
            return
        out_ = nodes.hands - places * self.space.strides[off]
        for n in range(len(self.leads)):
            runs = on[self._stand(reach.table()[here[1]], n) > -100.0 + MORE]
            first = reach.then(nodes.memory[runs], out_[runs])
            gone = reach.then(reach.passed(first[0]), out_[runs]) if first is not None else None
            back = reach.then(gone[0], nodes.hands[runs]) if gone is not None else None
            if back is None:
                continue
            stands = self._stand(reach.table()[back[1]], n)
            again = np.flatnonzero(stands > -100.0 + MORE)
            if again.size:
                depth = np.array([len(reach.way(int(x))) for x in runs[again[:200]]])
                i = again[int(np.lexsort((-stands[again[:200]], depth))[0])]
                step = Step("power", 1.0)
                self._first["M4", n, off] = _Broken(
                    "M4", n, off, int(runs[i]), step, int(depth.min()), float(stands[i])
                )

    def _states(self) -> None:
        """What no frame may show: a motor that is not at idle where it is not released, or without the link."""
        reach = self.reach
        table, good = reach.seen, reach.found()
        if not len(table):
            return
        link = self._connected(reach.of_hands)
        power = self.space.values(reach.of_hands).get("power", np.ones(len(table))) > 0.5
        for n in range(len(self.leads)):
            turns = good & (self._stand(table, n) > -100.0 + TURNS)
            acting = (table[:, 3 + 3 * n] > 0) & power & ~link
            held = table[:, 0] != RELEASED
            for statement, wrong in (("M1", turns & held & (link | acting)), ("M3", turns & acting)):
                found = np.flatnonzero(wrong)
                if found.size:
                    nodes = reach.nodes_at(found)
                    self._first[statement, n, TICK] = _Broken(statement, n, TICK, int(nodes.min()), None)

    # -- what is said -----------------------------------------------------------------------------------------------------

    def findings(self) -> Iterator[Finding]:
        """Everything found, each way played in real time first."""
        yield from self._idle()
        yield from self._failsafe()
        told: dict[tuple[str, str], int] = {}
        restarts: set[int] = set()
        order = {"M4": 0}
        for key in sorted(self._first, key=lambda k: (order.get(k[0], 1), k[0], self._first[k].depth, k[1], k[2])):
            broken = self._first[key]
            knob = self.space.knobs[broken.knob].name if broken.knob >= 0 else ""
            if broken.statement == "M2" and knob == "power" and broken.lead in restarts:
                continue  # said as what comes of a change of the battery
            found = self._told(broken)
            if found is None:
                continue
            if found.statement == "M4":
                restarts.add(broken.lead)
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
                text = f"Without the link {lead.label} is told to run with {number(power)} % power, and no guard can stop it then."
                yield Finding("F1", "danger", f"leads[{i}].failsafe", text, seen=(lead.target,))

    def _told(self, broken: _Broken) -> Finding | None:
        found = [*self.reach.way(broken.node), *([broken.step] if broken.step is not None else [])]
        free = self.cone.free
        way = [x for s in found for x in (brought(self.model, free[s.control], s.to) if s.control in free else (s,))]
        told = self.motors
        checks = {"M1": told.unreleased, "M3": told.without_link, "M4": told.restarts, "M6": told.at_release}
        n = broken.lead
        if broken.statement == "M4":
            way[-1:-1] = [Step("power", 0.0), Step("", 0.0, (CHANGE,))]
        check = checks.get(broken.statement, told.raised)(n)
        proof = proved(self.stage, way, check)
        if broken.statement == "M2" and self.stage.settle_s > GAP_S:
            rested = proved(self.stage, way, check, rested=True)  # not half way through a fade that lets less be seen
            if told.more(told.play(n, rested), n) > told.more(told.play(n, proof), n) + 1.0:
                proof = rested
        if broken.statement == "M4" and not proof.confirmed:
            return None  # the battery was away for a moment only
        moves = proof.moves
        part, text, level = told.said(broken.statement, n, proof.steps, told.play(n, proof))
        if not text:
            return None
        return Finding(
            broken.statement, level, part, text, proof.confirmed, moves, captions(self.model, moves), proof.look_s,
            (self.leads[n].target,),
        )  # fmt: skip
