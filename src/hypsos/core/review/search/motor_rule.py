# SPDX-License-Identifier: GPL-3.0-or-later
"""What a statement about motors looks for in the search of everything that can happen to them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, NamedTuple, Protocol

import numpy as np

from hypsos.core.base.backends import Array, Flags, Places
from hypsos.core.base.figure_words import power_percent
from hypsos.core.document.document import Model
from hypsos.core.parts.leads import Lead
from hypsos.core.review.findings import Finding, Level
from hypsos.core.review.search.input_grid import InputGrid
from hypsos.core.review.search.motor_replay import ARMED, MotorReplay
from hypsos.core.review.search.replay import Check, Played, Proof, Replay
from hypsos.core.review.search.state_search import Edges, SearchStep, StateSearch

STANDS, PULSES, FAILSAFE = 1, 2, 3
"""What is looked at of each motor's lead: where the motor stands in percent, whether there are
pulses, whether the failsafe acts. Column 0 of the table is the guard's state."""


def column(lead: int, what: int) -> int:
    """The column of what is looked at, for a motor's lead by its number."""
    return what + 3 * lead


class SearchedMotors(Protocol):
    """The search of everything that can happen to the motors of a model, as its rules see it."""

    model: Model
    stage: Replay
    grid: InputGrid
    reach: StateSearch
    motors: MotorReplay
    leads: list[Lead]
    """The motors' leads; motors are numbered as these are."""
    index: list[int]
    """The place of each of these leads in the document."""
    throttles: frozenset[str]
    """The controls that are there to give power."""
    let_by: float
    """What a motor may be told as it is armed: what the guard calls low."""
    restarts: set[int]
    """The motors of which it is told that they start after a change of the flight battery."""
    stopped: Callable[[], bool]
    """Whether nobody waits for it any more."""

    def stand(self, table: Array, lead: int) -> Array:
        """Where a motor stands, in percent of its pulse; idle where there are no pulses."""

    def risen(self, table: Array, lead: int) -> Array:
        """The same counted from where it stands with nothing asked of it."""

    def connected(self, hands: Places) -> Flags:
        """Where the receiver hears the transmitter."""

    def shortest(self, nodes: Places, stands: Array, count: int) -> list[int]:
        """The situations with the shortest ways."""

    def way(self, node: int) -> list[SearchStep]:
        """The acts of the hands that lead to a situation."""

    def knob(self, broken: BrokenWay) -> str:
        """The name of what is moved last."""


@dataclass
class BrokenWay:
    """The first way by which a kind of act breaks a rule at a motor, numbered as its lead is."""

    rule: MotorRule
    lead: int
    knob: int
    node: int
    step: SearchStep | None
    depth: int = 0
    more: float = 0.0


class MotorAct:
    """One kind of act, from many situations: what was seen ``before`` and ``after`` it, and where
    the motors were and are armed.

    ``knob``: the name of what is moved, nothing where time alone passes.
    """

    def __init__(self, search: SearchedMotors, edges: Edges, before: Array, after: Array) -> None:
        self._search, self.edges, self.before, self.after = search, edges, before, after
        self.knob = search.grid.knobs[edges.knob].name if edges.knob >= 0 else ""
        self.was_armed: Flags = before[:, 0] == ARMED
        self.armed: Flags = after[:, 0] == ARMED
        self._more: dict[int, Array] = {}

    @property
    def brings_back(self) -> bool:
        """Whether it is the link or the receiver's power that comes or goes."""
        return self.knob in ("link", "power")

    @cached_property
    def linked(self) -> Flags:
        """Where the receiver hears the transmitter after it."""
        return self._search.connected(self.edges.to)

    def more(self, n: int) -> Array:
        """By how much a motor gets more, in percent of the pulse."""
        if n not in self._more:
            self._more[n] = self._search.risen(self.after, n) - self._search.risen(self.before, n)
        return self._more[n]

    def turned(self, n: int) -> Array:
        """By how much its pulse goes up, an engine's idle included."""
        return self._search.stand(self.after, n) - self._search.stand(self.before, n)

    def failsafe_acted(self, n: int) -> Flags:
        """Where the failsafe acted on a motor before it."""
        return np.asarray(self.before[:, column(n, FAILSAFE)] > 0)

    def moved(self, control: str) -> Array:
        """By how much it moves a control."""
        grid, nodes = self._search.grid, self._search.reach.nodes
        return np.asarray(
            grid.values(self.edges.to)[control]
            - grid.values(nodes.hands[self.edges.source])[control]
        )


class MotorStates(NamedTuple):
    """Every frame that was seen: where a motor turns, where the failsafe acts on it, where it is
    not armed, where the receiver hears the transmitter."""

    turns: Flags
    failsafe: Flags
    held: Flags
    link: Flags


class MotorWords(NamedTuple):
    """The place of what breaks a rule, the sentence that says so (nothing: it is left out), and how
    bad it is."""

    part: str
    text: str
    level: Level


class MotorRule:
    """A statement's part in one search of the motors."""

    code: ClassVar[str]
    searches: ClassVar[bool] = True
    """Whether it hangs on everything that can happen; else on the document alone."""
    straight: ClassVar[bool] = False
    """Whether responses that bend between the places of the grid leave something of it unseen."""
    as_lived: ClassVar[bool] = False
    """Whether a way is first shown in the order in which a pilot lives it."""
    names_worst: ClassVar[bool] = True
    """Whether a longer way that leads to more is named, too."""
    by: ClassVar[str] = ""
    """The word before that figure."""
    cause: ClassVar[str] = ""
    """What joins its findings with others of the same reason; the lead's name is put behind it."""

    def __init__(self, search: SearchedMotors) -> None:
        self.search, self.model, self.motors = search, search.model, search.motors

    @classmethod
    def asked_of(cls, model: Model) -> bool:
        """Whether a model can break it."""
        return True

    def tried(self) -> int:
        """How many situations were looked at for it."""
        return self.search.reach.situations if self.searches else len(self.search.leads)

    # -- looking ---------------------------------------------------------------------------------

    def by_act(self, act: MotorAct, n: int) -> tuple[Flags, Array] | None:
        """Where an act breaks it at a motor, and how badly; None where it does nowhere."""
        return None

    def in_states(self, states: MotorStates) -> Flags | None:
        """In which frames it is broken; None where a frame alone does not tell."""
        return None

    def after_all_acts(self) -> None:
        """What is to be found out once all acts were searched."""

    def beside(self) -> Iterator[Finding]:
        """What breaks it beside the acts that were searched."""
        return iter(())

    # -- telling ---------------------------------------------------------------------------------

    def left_out(self, broken: BrokenWay) -> bool:
        """Whether another statement says it already."""
        return False

    def way(
        self, broken: BrokenWay, way: list[SearchStep], acts: list[SearchStep]
    ) -> list[SearchStep] | None:
        """The whole way to be played, with the last acts; None where it is nothing that breaks this
        rule."""
        return [*way, *acts]

    def check(self, n: int, later: bool) -> Check:
        """What tells whether a way that was played breaks it; ``later``: time has to pass after the
        last act."""
        raise NotImplementedError

    def better(self, broken: BrokenWay, way: list[SearchStep], proof: Proof) -> Proof:
        """A proof that shows more of it, where there is one."""
        return proof

    def stands(self, n: int, played: Played) -> Array:
        """Where a motor stands in the frames that matter."""
        return np.asarray(self.motors.standing(played, n)[played.last :])

    def figure(self, n: int, proof: Proof, played: Played) -> float:
        """The most power that a motor gets on a way that breaks it, in percent."""
        return power_percent(float(self.stands(n, played).max(initial=-100.0)))

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        """What is said of a way that was played."""
        raise NotImplementedError
