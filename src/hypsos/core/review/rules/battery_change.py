# SPDX-License-Identifier: GPL-3.0-or-later
"""M4: after a change of the flight battery with everything left as it was, no motor starts.

The battery is changed in real time, away for longer and for shorter. A receiver with a battery of
its own loses no link by it: a motor that runs then goes on being told to. A controller that waits
for idle starts in neither case."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from hypsos.core.base.backends import Places
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.review.findings import Finding, FindingMove, Level
from hypsos.core.review.rules.guard_repairs import WHOLE_GUARD, lock_after_lost_link
from hypsos.core.review.rules.statement import Repairs, Statement
from hypsos.core.review.search.motor_replay import MORE
from hypsos.core.review.search.motor_rule import MotorRule, SearchedMotors
from hypsos.core.review.search.replay import Check, Played, captions, proved

AWAY_S = (0.2, 1.0, 3.0)
"""Seconds for which the flight battery is away: a loose plug, a quick hand, a change."""
CHANGES_TRIED = 3
"""Situations from which the battery is changed in real time."""


class BatteryChange(MotorRule):
    """A motor that turns by itself after a change of the battery."""

    code = "M4"

    def __init__(self, search: SearchedMotors) -> None:
        super().__init__(search)
        self._running: dict[int, list[int]] = {}
        """Motor -> situations in which it runs, from which the flight battery is changed."""

    def after_all_acts(self) -> None:
        """Find the situations in which a motor runs from which the flight battery is changed: those
        after which it runs again where everything that waits has waited, and the first ones of
        all."""
        search, reach, nodes = self.search, self.search.reach, self.search.reach.nodes
        power_knob = next((i for i, k in enumerate(search.grid.knobs) if k.name == "power"), None)
        if power_knob is None or not len(reach.seen):
            return
        places = search.grid.places(nodes.hands)[power_knob]
        on = np.flatnonzero((nodes.memory > 0) & (places == 1) & search.connected(nodes.hands))
        here = reach.then(nodes.memory[on], nodes.hands[on])
        if here is None:
            return
        unpowered = nodes.hands - places * search.grid.strides[power_knob]
        for n in range(len(search.leads)):
            stands = search.risen(reach.table()[here[1]], n)
            turns = stands > -100.0 + MORE
            runs, power = on[turns], stands[turns]
            again = self._runs_again(n, runs, unpowered)
            firsts = [
                search.shortest(runs[x], power[x], CHANGES_TRIED)
                for x in (again, np.arange(len(runs)))
            ]
            self._running[n] = [*firsts[0], *firsts[1]]

    def _runs_again(self, n: int, runs: Places, unpowered: Places) -> Places:
        """Which of these situations leave a motor running after the power was gone until everything
        had waited its time."""
        reach, nodes = self.search.reach, self.search.reach.nodes
        first = reach.then(nodes.memory[runs], unpowered[runs])
        gone = None if first is None else reach.then(reach.passed(first[0]), unpowered[runs])
        back = None if gone is None else reach.then(gone[0], nodes.hands[runs])
        if back is None:
            return np.zeros(0, np.intp)
        return np.flatnonzero(self.search.risen(reach.table()[back[1]], n) > -100.0 + MORE)

    def beside(self) -> Iterator[Finding]:
        found = [] if self.search.stopped() else list(self._changed_battery())
        seen = set(itertools.chain.from_iterable(finding.seen for finding in found))
        self.search.restarts = {
            place for place, lead in enumerate(self.search.leads) if lead.target in seen
        }
        yield from found[:1]

    def _changed_battery(self) -> Iterator[Finding]:
        for n in range(len(self.search.leads)):
            waits = self.model.leads[self.search.index[n]].waits_for_idle
            for node in () if waits else dict.fromkeys(self._running.get(n, ())):
                found = self._restarted(n, node)
                if found is not None:
                    yield found
                    break

    def _restarted(self, n: int, node: int) -> Finding | None:
        """A motor that turns by itself after a change of the battery: by how much, and after how
        long without one.

        It is looked for where it would turn after the longest time away first: that is what a
        change of the battery is."""
        stage = self.search.stage
        proof = proved(stage, self.search.way(node), self._runs(n))
        guard = self.model.program.guard
        if not proof.confirmed or guard is None:
            return None
        own = self.model.receiver.power == "own battery"
        times = set(AWAY_S)
        if guard.level >= WHOLE_GUARD and not own:
            # just under and over the time after which the guard locks
            times |= {guard.relock_s - 0.1, guard.relock_s + 0.1}
        start = (proof.moves[-1].t_s if proof.moves else 0.0) + max(1.0, stage.settle_s)
        for away_s in sorted((x for x in times if x > 0), reverse=True):
            out = FindingMove(round(start, 3), "flight_battery", 0.0)
            moves = (
                *proof.moves,
                out,
                FindingMove(round(start + away_s, 3), "flight_battery", 1.0),
            )
            played = stage.play(moves, proof.look_s, (self.search.leads[n].target,))
            power = self._turning(n, played, start + away_s)
            if power > MORE / 2:
                text = self._words(n, power, away_s, own)
                level: Level = "fault" if own or self.motors.level < WHOLE_GUARD else "advice"
                return self._finding(n, level, text, moves, proof.look_s)
        return None

    def _runs(self, n: int) -> Check:
        """It runs at the end."""

        def check(played: Played) -> bool:
            return bool(self.motors.risen(played, n)[-1] > -100.0 + MORE)

        return check

    def _turning(self, n: int, played: Played, since_s: float) -> float:
        """The most power with which it turns from a second on: by its pulse, where its controller
        has a battery and lets it."""
        from_frame = int(np.searchsorted(played.t_s, since_s - 1e-6))
        trace = played.result.outputs[self.search.leads[n].name]
        ready = np.broadcast_to(np.asarray(trace.ready, bool), played.t_s.shape)
        stands = np.where(ready, self.motors.risen(played, n), -100.0)
        return power_percent(float(stands[from_frame:].max()))

    def _words(self, n: int, power: float, away_s: float, own: bool) -> str:
        """What a motor does when the battery comes back."""
        label, when = self.motors.label(n), "when the next flight battery is plugged in"
        if own:
            return (
                f"{label} starts with {number(power)} % power {when}: the receiver "
                "has a battery of its own and hears the transmitter all the while, so that no level of the guard sees the change."
            )
        if away_s < max(AWAY_S):
            when = f"after {plain(round(away_s, 2))} s without the flight battery"
        return f"{label} starts by itself with {number(power)} % power {when}."

    def _finding(
        self, n: int, level: Level, text: str, moves: tuple[FindingMove, ...], look_s: float
    ) -> Finding:
        said = captions(self.model, moves)
        return Finding(
            "M4",
            level,
            "program.guard.level",
            text,
            True,
            moves,
            said,
            look_s,
            (self.search.leads[n].target,),
        )


def repairs(model: Model, finding: Finding) -> Repairs:
    """The whole guard, or controllers that wait for idle."""
    if model.program.guard is None:
        return
    yield from lock_after_lost_link(model, finding)
    motors = {m.name for m in model.airframe.motors}
    leads = []
    for lead in model.leads:
        if lead.target in motors:
            lead = lead.changed({"waits_for_idle": True})
        leads.append(lead)
    yield (
        "Say that the controllers wait for idle, if they do",
        lambda: model.changed({"leads": tuple(leads)}),
    )


STATEMENT = Statement(
    "M4", "After a change of the flight battery with everything left as it was, no motor starts.", "danger", "motors",
    motors=BatteryChange, repairs=repairs,
)  # fmt: skip
