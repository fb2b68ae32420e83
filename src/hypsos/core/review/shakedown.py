# SPDX-License-Identifier: GPL-3.0-or-later
"""The whole search: every statement in the order of danger, what was found kept where an edit can't have touched it."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, NamedTuple

from hypsos.core.document.document import Model, digest
from hypsos.core.review.rules import document_rules as papers
from hypsos.core.review.rules.behaviour_rules import BehaviourRules
from hypsos.core.review.rules.condition_rules import ConditionSearch
from hypsos.core.review.rules.motion_rules import MotionRules
from hypsos.core.review.rules.motor_rules import MotorSearch, turns_by_motors
from hypsos.core.review.rules.steering import Steering
from hypsos.core.review.rules.surface_rules import BENT, SurfaceSearch
from hypsos.core.review.rules.symmetry import Symmetry
from hypsos.core.review.rules.wing_edge import WingEdge
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.reachable_cases import ReachableCases
from hypsos.core.review.statements import (
    LEVELS,
    MORE_THAN_SEARCHED,
    STATEMENTS,
    STOPPED,
    Ask,
    Finding,
    Progress,
    Searched,
    Shakedown,
    Stopped,
)

PER_S = 250_000.0
"""Situations computed in a second, about."""
LONGEST_S = 10.0
"""Seconds that one search may compute, all its questions together. They are counted on the processor, so that a model is
answered alike whatever else the machine does."""
SHARES = {"motors": 0.5, "surfaces": 0.85, "conditions": 1.0}
"""Of those seconds, after which share each group of questions has to be done: what is left over goes to the next."""
MOST = int(PER_S * LONGEST_S)
"""Situations computed for one question at the most: what is remembered of more needs too much room."""
MEMORIES = 300.0
"""Memories for each combination of the hands, about."""
ON_PAPER = frozenset(("W1", "W2", "W3", "W4", "G1", "S6", "L1", "L3"))
"""Statements that are read off the document: they are asked however much else there is."""
MOTORS = ("M1", "M2", "M3", "M4", "M5", "M6", "F1")


class _Done(NamedTuple):
    """What came of one piece of work: its findings, and situations by statement, and those not searched completely."""

    findings: tuple[Finding, ...]
    tried: dict[str, int]
    partly: dict[str, str]


@dataclass(frozen=True)
class _Task:
    """A piece of work: its name, the statements it answers, what it hangs on, and how it is done."""

    name: str
    statements: tuple[str, ...]
    key: tuple[Any, ...]
    work: Callable[[], _Done]


class _Tally:
    """What has come of the tasks so far, by statement."""

    def __init__(self, wanted: list[str]) -> None:
        self.wanted = wanted
        self.seconds = dict.fromkeys(wanted, 0.0)
        self.tried = dict.fromkeys(wanted, 0)
        self.partly: dict[str, str] = {}
        """Statements that were not searched completely, each with the reason."""
        self.open = set(wanted)
        """Statements of which nothing has been done."""
        self.findings: list[Finding] = []

    def add(self, task: _Task, done: _Done, seconds: float) -> None:
        """A task was done."""
        mine = [s for s in task.statements if s in self.seconds]
        self.open -= set(mine)
        for statement in mine:
            self.seconds[statement] += seconds / len(mine)
            self.tried[statement] += done.tried.get(statement, 0)
        self.partly |= done.partly
        self.findings += [f for f in done.findings if f.statement in self.seconds]

    def leave(self, task: _Task, reason: str) -> None:
        """A task was not begun, or was stopped in the middle."""
        self.partly |= dict.fromkeys(task.statements, reason)

    def give_up(self, task: _Task) -> None:
        """A task would have taken longer than the search may."""
        self.partly |= dict.fromkeys(task.statements, MORE_THAN_SEARCHED)
        self.open -= set(task.statements)

    def told(self, model: Model, stopped: bool) -> Shakedown:
        """What the search found. Not ``stopped``: of what is still open there is nothing in this model."""
        open_ = self.open if stopped else set[str]()
        searched = tuple(self._searched(s, stopped or s in open_) for s in self.wanted)
        reasons = {s: reason for s, reason in model.not_asked.items() if s in STATEMENTS}
        plugged = any(lead.port is not None for lead in model.leads)
        return Shakedown(model.name, digest(model), tuple(_ordered(self.findings)), searched, reasons, plugged)

    def _searched(self, statement: str, stopped: bool) -> Searched:
        possible = sum(f.statement == statement and not f.confirmed for f in self.findings)
        note = STOPPED if stopped else self.partly.get(statement, "")
        complete = not stopped and statement not in self.partly
        return Searched(
            statement, self.tried[statement], complete, round(self.seconds[statement], 3), note, possible
        )  # fmt: skip


class Estimate(NamedTuple):
    """What a search would take: situations, and whether that is more than can be finished."""

    situations: float
    too_much: bool


class ShakedownSearch:
    """Searches a model again and again, as it is edited."""

    def __init__(self, most: int = MOST) -> None:
        self.most = most
        self._held: dict[str, tuple[tuple[Any, ...], _Done]] = {}
        self._reachable: dict[tuple[str, ...], ReachableCases] = {}
        self._given_up: Callable[[], bool] = lambda: False
        """Whether nobody waits for this search any more."""
        self._begun = self._until = 0.0
        """When this search began, and when the questions at hand have to be done, on this thread's clock."""

    def run(
        self, ask: Ask, only: Collection[str] = (), progress: Progress | None = None,
        stopped: Callable[[], bool] = lambda: False,
    ) -> Shakedown:  # fmt: skip
        """Search a model for all statements, or for some.

        ``progress`` is told a share from 0 to 1 and what is being searched; where ``stopped`` says so the rest is left, and
        what was found is kept.
        """
        model, self._begun = ask.model, time.thread_time()
        ended, self._given_up = partial(self._ended, stopped), stopped
        wanted = [s for s in STATEMENTS if (not only or s in only) and s not in model.not_asked]
        tally = _Tally(wanted)
        for share, task in self._tasks(ask, wanted, ended):
            if stopped():
                tally.leave(task, STOPPED)
                continue
            if progress is not None:
                progress(share, task.name)
            begun = time.perf_counter()
            done = self._done(task, stopped)
            if done is not None:
                tally.add(task, done, time.perf_counter() - begun)
            elif stopped():
                tally.leave(task, STOPPED)
            else:
                tally.give_up(task)
        return tally.told(model, stopped())

    def _done(self, task: _Task, stopped: Callable[[], bool]) -> _Done | None:
        """What comes of a piece of work: as it was kept, or worked out now; None where it was stopped, or where the search has
        computed for as long as it may."""
        held = self._held.get(task.name)
        if held is not None and held[0] == task.key:
            return held[1]
        begun = time.thread_time()
        if begun >= self._until and task.statements[0] not in ON_PAPER:
            return None
        try:
            done = task.work()
        except Stopped:
            return None
        alone_too_long = time.thread_time() - begun > LONGEST_S / 2
        if not stopped() and (not self._ended(stopped) or alone_too_long):
            self._held[task.name] = (task.key, done)  # what was cut short by what went before is taken up the next time
        return done

    def _ended(self, stopped: Callable[[], bool]) -> bool:
        """Whether somebody has stopped the search, or it has computed for as long as it may."""
        return stopped() or time.thread_time() >= self._until

    # -- the work ---------------------------------------------------------------------------------------------------------

    def _tasks(self, ask: Ask, wanted: list[str], stopped: Callable[[], bool]) -> Iterator[tuple[float, _Task]]:
        self._until = self._begun + SHARES["motors"] * LONGEST_S
        made = [*self._motor_tasks(ask.model, stopped), *self._paper_tasks(ask)]
        made = [t for t in made if set(t.statements) & set(wanted)]
        surfaces = [s for s in wanted if s[0] == "S" and s != "S6"] + [s for s in wanted if s == "L4"]
        conditions = [t for t in self._condition_tasks(ask.model, stopped) if set(t.statements) & set(wanted)]
        total = len(made) + len(conditions) + (40 if surfaces else 0)
        for i, task in enumerate(made):
            yield i / total, task
        at = len(made)
        self._until = self._begun + SHARES["surfaces"] * LONGEST_S
        if surfaces:
            if stopped():
                yield at / total, _Task("surfaces", tuple(surfaces), (), lambda: _Done((), {}, {}))
            else:
                found = [t for t in self._surface_tasks(ask.model, stopped) if set(t.statements) & set(wanted)]
                for i, task in enumerate(found):
                    yield (at + 40.0 * i / max(1, len(found))) / total, task
            at += 40
        self._until = self._begun + SHARES["conditions"] * LONGEST_S
        for i, task in enumerate(conditions):
            yield (at + i) / total, task

    def _motor_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        if not model.airframe.motors:
            yield _Task("motors", MOTORS, (), lambda: _Done((), {}, {}))
            return
        model_slice = slice_of(model, guard=True)

        def work() -> _Done:
            search = MotorSearch(model, self.most, stopped, self._given_up).run()
            count = search.reach.situations
            motors = len(search.leads)
            tried = dict.fromkeys(("M1", "M2", "M3", "M4", "M6"), count) | {"M5": motors, "F1": motors, "S1": 0}
            searched = () if search.reach.complete else ("M1", "M2", "M3", "M4", "M6")
            partly = dict.fromkeys(searched, search.reach.partly)
            if not search.grid.whole:
                partly |= {s: partly.get(s, BENT) for s in ("M2", "M6")}
            return _Done(tuple(search.findings()), tried, partly)

        recipes = tuple((i, r) for i, r in enumerate(model.program.recipes) if r.kind == "differential_thrust")
        labels = tuple((x.label, x.failsafe, x.waits_for_idle) for x in model.leads)
        turning = ("S1",) if turns_by_motors(model) else ()
        yield _Task("motors", (*MOTORS, *turning), (_Same(model_slice), recipes, labels, model.receiver), work)

    def _surface_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        search = SurfaceSearch(model, self.most, stopped, self._reachable)

        def task(
            name: str, statement: str, parts: Sequence[str], find: Callable[[], Iterator[Finding]], *more: Any,
            in_time: bool | None = False, looked: bool = True,
        ) -> _Task:  # fmt: skip
            reachable = search.decide(parts)
            looks = () if not looked else (False, True) if in_time is None else (in_time,)
            key = (_Same(reachable), *(_Same(reachable.sampler(parts, t).source) for t in looks), *more)

            def work() -> _Done:
                search.decide(parts)
                search.tried, search.partly = {}, {}
                found = tuple(find())
                left = {} if search.complete else {statement: search.reachable.partly}
                return _Done(found, dict(search.tried), left | search.partly)

            return _Task(name, (statement,), key, work)

        yield from self._standing_tasks(search, task)
        yield from self._moving_tasks(search, task)

    def _standing_tasks(self, search: SurfaceSearch, task: Callable[..., _Task]) -> Iterator[_Task]:
        """What is asked of surfaces where they have come to rest."""
        model, giving = search.model, BehaviourRules(search)
        for command in search.steered:
            if ways := tuple(search.ways(command)):
                yield task(f"{command} everywhere", "S1", ways, partial(_steering, search, command))
        for name in search.leads:
            yield task(f"the travel of {name}", "S2", (name,), partial(search.lost, name), in_time=None)
        for a, b in search.pairs():
            both = tuple(x.changed({"seen_right": None}) for x in model.leads if x.target in (a, b))
            yield task(f"{a} and {b}", "S3", (a, b), partial(Symmetry(search).alike, a, b), both)
        for i, group in enumerate(giving.groups()):
            moved = tuple(sorted({x.target for x in group.lines} & search.leads.keys()))
            if moved:
                alone = giving.hangs_on(group)
                yield task(f"behaviour {i + 1} off", "S5", moved, partial(giving.off, group), *alone, looked=False)
        for name in search.leads:
            yield task(f"what moves {name}", "S7", (name,), partial(giving.fought, name))
        wing = WingEdge(search)
        for a, b in wing.rolling():
            yield task(f"{a} and {b} in a roll", "S9", (a, b), partial(wing.rolled, a, b))
        for name in wing.flaps():
            yield task(f"{name} with a pull", "S9", (name,), partial(wing.pulled, name))
        more = (model.program.recipes, model.program.shared_values(), model.leads, model.airframe)
        if search.leads:
            yield task("one trailing edge", "S9", tuple(search.leads), wing.parted, *more, looked=False)

    def _moving_tasks(self, search: SurfaceSearch, task: Callable[..., _Task]) -> Iterator[_Task]:
        """What is asked of surfaces on their way."""
        program, moving = search.model.program, MotionRules(search)
        for command in search.steered:
            if ways := tuple(search.ways(command)):
                yield task(f"{command} on the way", "S8", ways, partial(moving.passages, command), in_time=True)
        for names in filter(None, search.groups()):
            yield task(f"jumps of {names[0]}", "S4", names, partial(moving.jumps, names), in_time=True)
            more = (program.logic, program.guard)
            yield task(f"flicker of {names[0]}", "L4", names, partial(moving.flickers, names), *more, in_time=True)

    def _condition_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        search = ConditionSearch(model, self.most // 4, stopped)

        def task(name: str, statement: str, find: Callable[[], Iterator[Finding]]) -> _Task:
            def work() -> _Done:
                search.tried, search.partly = {}, {}
                return _Done(tuple(find()), dict(search.tried), dict(search.partly))

            program, hands = model.program, model.transmitter
            whens = tuple(m.when for m in program.modes)
            asked = tuple((r.when, tuple(r.conditions())) for r in program.recipes)
            key = (program.logic, whens, program.announcements, program.timers, program.guard, asked, hands,
                   tuple(m.when for m in program.mixes), program.tunables, program.axes)  # fmt: skip
            return _Task(name, (statement,), key, work)

        yield task("switch positions", "L1", search.positions)
        yield task("shared values", "L3", search.shared)
        yield task("conditions", "L2", search.conditions)
        yield task("what is said and timed", "L5", search.voice)

    def _paper_tasks(self, ask: Ask) -> Iterator[_Task]:
        model = ask.model
        for name, statement, find, count in (
            ("failsafes", "S6", lambda: papers.failsafes(model), len(model.leads)),
            ("plugs", "W1", lambda: papers.plugs(model), len(model.leads)),
            ("channels", "W2", lambda: papers.defaults(model), len(model.leads)),
            ("idle sticks", "S1", lambda: papers.sticks(model), len(model.program.axes)),
            ("receiver numbers", "W3", lambda: papers.numbers(ask), len(ask.others) + 1),
            ("the transmitter", "W4", lambda: papers.room(ask), 6),
            ("linkages", "G1", lambda: papers.linkages(model), sum(x.linkage is not None for x in model.leads)),
        ):

            def work(find: Callable[[], Iterator[Finding]] = find, s: str = statement, n: int = count) -> _Done:
                return _Done(tuple(find()), {s: n}, {})

            yield _Task(name, (statement,), (object(),), work)


class _Same:
    """A thing that is the same only as itself."""

    def __init__(self, thing: object) -> None:
        self.thing = thing

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.thing is self.thing

    __hash__ = None  # type: ignore[assignment]


def _steering(search: SurfaceSearch, command: str) -> Iterator[Finding]:
    return Steering(search, command).found()


def shake(ask: Ask, only: Collection[str] = (), progress: Progress | None = None) -> Shakedown:
    """Search a model once."""
    return ShakedownSearch().run(ask, only, progress)


def foreseen_words(model: Model, most: int = MOST) -> str:
    """What is to be known before a search that cannot be finished begins; nothing where it can."""
    foreseen = estimate(model, most)
    if not foreseen.too_much:
        return ""
    return (
        f"{model.name} has more situations than can be searched (about {foreseen.situations:,.0f}). What is most dangerous comes "
        "first; what was left is said."
    )


def estimate(model: Model, most: int = MOST) -> Estimate:
    """What the search would take, told before it begins."""
    sizes = [grid_of(slice_of(model, guard=True)).size * MEMORIES] if model.airframe.motors else []
    parts = [x.target for x in model.leads if all(x.target != m.name for m in model.airframe.motors)]
    from hypsos.core.review.search.reachable_cases import decided

    _, model_slice = decided(model, parts)
    sizes.append(grid_of(model_slice, bends=False, ends=False).size * MEMORIES / 4)
    return Estimate(float(sum(sizes)), max(sizes) > 2 * most)


def _ordered(findings: list[Finding]) -> list[Finding]:
    order = list(STATEMENTS)
    place = {id(f): i for i, f in enumerate(findings)}

    def rank(f: Finding) -> tuple[object, ...]:
        return LEVELS.index(f.level), not f.confirmed, order.index(f.statement), place[id(f)]

    return _by_cause(sorted(findings, key=rank))


def _as_another(finding: Finding, first: Finding) -> str:
    """A finding as it is named in another of the same cause."""
    said = finding.brief or finding.text
    return said if finding.statement == first.statement else f"{finding.statement}: {said}"


def _by_cause(findings: list[Finding]) -> list[Finding]:
    """One finding for each cause: the gravest of them, one with a way before one without; the others are named in it."""
    groups: dict[tuple[str, ...], list[Finding]] = {}
    for i, f in enumerate(findings):
        groups.setdefault((f.cause, f.level) if f.cause else (str(i),), []).append(f)
    out = []
    for found in groups.values():
        first = next((f for f in found if f.moves), found[0])
        others = tuple(_as_another(f, first) for f in found if f is not first)
        out.append(replace(first, also=others) if others else first)
    return out
