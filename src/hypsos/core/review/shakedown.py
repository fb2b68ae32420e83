# SPDX-License-Identifier: GPL-3.0-or-later
"""The whole search: every statement in the order of danger, what was found kept where an edit can't
have touched it."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, NamedTuple

from hypsos.core.document.document import Model, digest
from hypsos.core.review.findings import (
    LEVELS,
    MORE_THAN_SEARCHED,
    STOPPED,
    Ask,
    Finding,
    Progress,
    Searched,
    Shakedown,
    Stopped,
)
from hypsos.core.review.rules import STATEMENTS, motor_rules, motor_search
from hypsos.core.review.rules.statement import (
    DocumentQuestion,
    ReviewQuestion,
    Statement,
    SurfaceQuestion,
)
from hypsos.core.review.search.condition_search import ConditionSearch
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.motor_search import MotorSearch
from hypsos.core.review.search.reachable_cases import ReachableCases
from hypsos.core.review.search.surface_search import BENT, SurfaceSearch

PER_S = 250_000.0
"""Situations computed in a second, about."""
LONGEST_S = 10.0
"""Seconds that one search may compute, all its questions together. They are counted on the
processor, so that a model is answered alike whatever else the machine does."""
SHARES = {"motors": 0.5, "surfaces": 0.85, "conditions": 1.0}
"""Of those seconds, after which share each group of questions has to be done: what is left over
goes to the next."""
MOST = int(PER_S * LONGEST_S)
"""Situations computed for one question at the most: what is remembered of more needs too much
room."""
MEMORIES = 300.0
"""Memories for each combination of the hands, about."""
SURFACES_WEIGH = 40
"""How much of the progress the surfaces are, with each other piece of work as one."""


class _Done(NamedTuple):
    """What came of one piece of work: its findings, and situations by statement, and those not
    searched completely."""

    findings: tuple[Finding, ...]
    tried: dict[str, int]
    partly: dict[str, str]


@dataclass(frozen=True)
class _Task:
    """A piece of work: its name, the statements it answers, what it hangs on, and how it is
    done."""

    name: str
    statements: tuple[str, ...]
    key: tuple[Any, ...]
    work: Callable[[], _Done]

    def answers(self, wanted: Collection[str]) -> bool:
        """Whether it answers any of the statements that are wanted."""
        return any(s in wanted for s in self.statements)


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
        # a task may answer more than was wanted
        mine = [s for s in task.statements if s in self.seconds]
        self.open -= set(mine)
        for statement in mine:
            # nobody knows which of its statements took the time, so they share it
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
        """What the search found. Not ``stopped``: of what is still open there is nothing in this
        model."""
        # a statement that no task took up has nothing to ask of this model: it holds
        open_ = self.open if stopped else set[str]()
        searched = tuple(self._searched(s, stopped or s in open_) for s in self.wanted)
        reasons = {s: reason for s, reason in model.not_asked.items() if s in STATEMENTS}
        plugged = any(lead.port is not None for lead in model.leads)
        return Shakedown(
            model.name, digest(model), tuple(_ordered(self.findings)), searched, reasons, plugged
        )

    def _searched(self, statement: str, stopped: bool) -> Searched:
        possible = sum(f.statement == statement and not f.confirmed for f in self.findings)
        note = STOPPED if stopped else self.partly.get(statement, "")
        complete = not stopped and statement not in self.partly
        return Searched(
            statement,
            self.tried[statement],
            complete,
            round(self.seconds[statement], 3),
            note,
            possible,
        )


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
        """When this search began, and when the questions at hand have to be done, on this thread's
        clock."""

    def run(
        self,
        ask: Ask,
        only: Collection[str] = (),
        progress: Progress | None = None,
        stopped: Callable[[], bool] = lambda: False,
    ) -> Shakedown:
        """Search a model for all statements, or for some.

        ``progress`` is told a share from 0 to 1 and what is being searched; where ``stopped`` says
        so the rest is left, and what was found is kept."""
        model, self._begun = ask.model, time.thread_time()
        ended, self._given_up = partial(self._ended, stopped), stopped
        # in the order of danger: what is cut off by the time is the least
        wanted = [s for s in STATEMENTS if (not only or s in only) and s not in model.not_asked]
        tally = _Tally(wanted)
        for share, task in self._tasks(ask, wanted, ended):
            if stopped():
                tally.leave(task, STOPPED)
                continue
            if progress is not None:
                progress(share, task.name)
            # what is shown is the time that passed; what the search may use is counted on the
            # processor, elsewhere
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
        """What comes of a piece of work: as it was kept, or worked out now; None where it was
        stopped, or where the search has computed for as long as it may."""
        held = self._held.get(task.name)
        # nothing that it hangs on has been edited since
        if held is not None and held[0] == task.key:
            return held[1]
        begun = time.thread_time()
        # what is read off the document takes no time, so it is asked however late it is
        if begun >= self._until and not STATEMENTS[task.statements[0]].on_paper:
            return None
        try:
            done = task.work()
        except Stopped:
            return None
        # a task that takes half of all the time by itself would never end within it: what it
        # found is kept as it is
        alone_too_long = time.thread_time() - begun > LONGEST_S / 2
        if not stopped() and (not self._ended(stopped) or alone_too_long):
            # what was cut short by what went before is taken up the next time
            self._held[task.name] = (task.key, done)
        return done

    def _ended(self, stopped: Callable[[], bool]) -> bool:
        """Whether somebody has stopped the search, or it has computed for as long as it may."""
        return stopped() or time.thread_time() >= self._until

    # -- the work --------------------------------------------------------------------------------

    def _tasks(
        self, ask: Ask, wanted: list[str], stopped: Callable[[], bool]
    ) -> Iterator[tuple[float, _Task]]:
        """The pieces of work in their order, each with the share of all of it that is done before:
        motors and what is read off the document, then surfaces, then conditions.

        The surfaces' pieces are found only when their turn comes, for finding them is a search; so
        all of them together weigh as much as a fixed number of others."""
        model = ask.model
        self._may_go_on("motors")
        # motors first: a motor that starts is the worst of all
        first = [*self._motor_tasks(model, stopped), *self._document_tasks(ask)]
        first = [t for t in first if t.answers(wanted)]
        conditions = [t for t in self._condition_tasks(model, stopped) if t.answers(wanted)]
        about_surfaces = tuple(s for s in wanted if STATEMENTS[s].surfaces is not None)
        weight = SURFACES_WEIGH if about_surfaces else 0
        total = len(first) + len(conditions) + weight
        for i, task in enumerate(first):
            yield i / total, task
        self._may_go_on("surfaces")
        for share, task in self._about_surfaces(model, wanted, about_surfaces, stopped):
            yield (len(first) + weight * share) / total, task
        self._may_go_on("conditions")
        for i, task in enumerate(conditions):
            yield (len(first) + weight + i) / total, task

    def _may_go_on(self, part: str) -> None:
        """From here until the share of time of a part is used up."""
        self._until = self._begun + SHARES[part] * LONGEST_S

    def _about_surfaces(
        self,
        model: Model,
        wanted: list[str],
        statements: tuple[str, ...],
        stopped: Callable[[], bool],
    ) -> Iterator[tuple[float, _Task]]:
        """The pieces of work about surfaces, each with the share of them that is done before."""
        if not statements:
            return
        if stopped():
            # finding the pieces of work is a search by itself; where it is stopped, what is left
            # is told as one
            yield 0.0, _Task("surfaces", statements, (), _nothing)
            return
        found = [t for t in self._surface_tasks(model, stopped) if t.answers(wanted)]
        for i, task in enumerate(found):
            yield i / len(found), task

    def _motor_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        """One search answers every statement about motors."""
        if not model.airframe.motors:
            about_motors = tuple(
                s.code for s in STATEMENTS.values() if s.motors is not None and s.surfaces is None
            )
            yield _Task("motors", about_motors, (), _nothing)
            return

        def work() -> _Done:
            search = motor_search(model, self.most, stopped, self._given_up).run()
            tried = {rule.code: rule.tried() for rule in search.rules}
            return _Done(tuple(search.findings()), tried, _unsearched(search))

        recipes = tuple(
            (i, r) for i, r in enumerate(model.program.recipes) if r.given_at_idle is not None
        )
        labels = tuple((x.label, x.failsafe, x.waits_for_idle) for x in model.leads)
        # the part of the model that reaches the motors, and what the sentences about them name
        hangs_on = (_Same(slice_of(model, guard=True)), recipes, labels, model.receiver)
        codes = tuple(rule.code for rule in motor_rules(model))
        yield _Task("motors", codes, hangs_on, work)

    def _document_tasks(self, ask: Ask) -> Iterator[_Task]:
        for statement in STATEMENTS.values():
            for question in statement.document(ask) if statement.document is not None else ():
                yield _Task(
                    question.name,
                    (statement.code,),
                    (object(),),
                    partial(_read_off, statement, question),
                )

    def _surface_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        # what was searched for the model before is handed on: most of it still holds after an
        # edit
        search = SurfaceSearch(model, self.most, stopped, self._reachable)
        for statement in STATEMENTS.values():
            for question in statement.surfaces(search) if statement.surfaces is not None else ():
                yield _surface_task(search, statement, question)

    def _condition_tasks(self, model: Model, stopped: Callable[[], bool]) -> Iterator[_Task]:
        search = ConditionSearch(model, self.most // 4, stopped)
        program = model.program
        whens = tuple(m.when for m in program.modes)
        asked = tuple((r.when, tuple(r.asks())) for r in program.recipes)
        mixes = tuple(m.when for m in program.mixes)
        key = (
            program.logic,
            whens,
            program.announcements,
            program.timers,
            program.guard,
            asked,
            model.transmitter,
            mixes,
            program.tunables,
            program.axes,
        )
        for statement in STATEMENTS.values():
            for question in (
                statement.conditions(search) if statement.conditions is not None else ()
            ):
                yield _Task(
                    question.name,
                    (statement.code,),
                    key,
                    partial(_asked_of_conditions, search, question),
                )


def _unsearched(search: MotorSearch) -> dict[str, str]:
    """The statements about motors of which not everything was searched, each with the reason."""
    partly: dict[str, str] = {}
    if not search.grid.whole:
        # a rule that goes by sums needs every place at which they bend
        partly |= {rule.code: BENT for rule in search.rules if rule.straight}
    if not search.reach.complete:
        partly |= {rule.code: search.reach.partly for rule in search.rules if rule.searches}
    return partly


def _nothing() -> _Done:
    return _Done((), {}, {})


def _read_off(statement: Statement, question: DocumentQuestion) -> _Done:
    return _Done(tuple(question.find()), {statement.code: question.count}, {})


def _asked_of_conditions(search: ConditionSearch, question: ReviewQuestion) -> _Done:
    search.tried, search.partly = {}, {}
    return _Done(tuple(question.find()), dict(search.tried), dict(search.partly))


def _surface_task(search: SurfaceSearch, statement: Statement, question: SurfaceQuestion) -> _Task:
    """A question about surfaces; it hangs on what decides for them, and on how they are moved at
    rest and in time."""
    reachable = search.decide(question.parts)
    looks = (False, True) if question.in_time is None else (question.in_time,)
    samplers = [reachable.sampler(question.parts, in_time) for in_time in looks if question.looks]
    key = (_Same(reachable), *(_Same(sampler.source) for sampler in samplers), *question.hangs_on)

    def work() -> _Done:
        search.decide(question.parts)
        search.tried, search.partly = {}, {}
        found = tuple(question.find())
        left = {} if search.complete else {statement.code: search.reachable.partly}
        return _Done(found, dict(search.tried), left | search.partly)

    return _Task(question.name, (statement.code,), key, work)


class _Same:
    """A thing that is the same only as itself."""

    def __init__(self, thing: object) -> None:
        self.thing = thing

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.thing is self.thing

    __hash__ = None  # type: ignore[assignment]


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
    sizes: list[float] = []
    motors = {motor.name for motor in model.airframe.motors}
    if motors:
        sizes.append(grid_of(slice_of(model, guard=True)).size * MEMORIES)
    parts = [lead.target for lead in model.leads if lead.target not in motors]
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
    """One finding for each cause: the gravest of them, one with a way before one without; the
    others are named in it."""
    # findings without a cause stand alone, so each gets a group of its own
    groups: dict[tuple[str, ...], list[Finding]] = {}
    for i, f in enumerate(findings):
        groups.setdefault((f.cause, f.level) if f.cause else (str(i),), []).append(f)
    out = []
    for found in groups.values():
        # one with a way can be shown on the bench
        first = next((f for f in found if f.moves), found[0])
        others = tuple(_as_another(f, first) for f in found if f is not first)
        out.append(replace(first, also=others) if others else first)
    return out
