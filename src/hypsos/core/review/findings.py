# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said where a statement does not hold, and how far a model was searched."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from hypsos.core.document.document import Model

Level = Literal["danger", "fault", "advice"]
LEVELS: tuple[Level, ...] = ("danger", "fault", "advice")
Progress = Callable[[float, str], None]
"""How far long work is: a share from 0 to 1, and in words what is being done."""


MORE_THAN_SEARCHED = "more situations than are searched"
STOPPED = "not searched: stopped"


class Stopped(Exception):
    """The search was stopped in the middle of a piece of work: what it would have found is not
    known."""


class FindingMove(NamedTuple):
    """A control that goes somewhere, at a second from power-up."""

    t_s: float
    control: str
    to: float


@dataclass(frozen=True)
class Finding:
    """A statement that is broken: how, by which part of the document, and the moves from power-up
    that show it.

    ``confirmed``: the engine, playing the moves in real time, came to it. ``captions`` say what is
    done, move by move. ``seen`` are parts of the aeroplane to look at, ``length_s`` how long to
    look; ``waits_s`` seconds have to pass after the last move before it comes. ``variant`` tells
    findings of one statement apart that are mended differently. Findings with the same ``cause``
    are told as one; ``also`` says what else comes of it, in the words of ``brief`` where there are
    some."""

    statement: str
    level: Level
    part: str
    text: str
    confirmed: bool = True
    moves: tuple[FindingMove, ...] = ()
    captions: tuple[str, ...] = ()
    length_s: float = 0.0
    seen: tuple[str, ...] = ()
    waits_s: float = 0.0
    cause: str = ""
    brief: str = ""
    also: tuple[str, ...] = ()
    variant: str = ""


@dataclass(frozen=True)
class Searched:
    """How far a statement was searched: situations, whether all of them, how long it took, and why
    not all where it was so.

    ``possible``: how many findings the engine did not confirm.
    """

    statement: str
    situations: int
    complete: bool
    seconds: float = 0.0
    note: str = ""
    possible: int = 0


@dataclass(frozen=True)
class Shakedown:
    """What a search found. ``reasons`` are the statements this model is not asked about, each with
    its reason.

    ``plugged``: whether any lead is plugged in. Without one no servo and no controller is told
    anything, so nothing that was searched says anything of the aeroplane."""

    model: str
    digest: str
    findings: tuple[Finding, ...]
    searched: tuple[Searched, ...]
    reasons: Mapping[str, str] = field(default_factory=dict)
    plugged: bool = True

    def of_level(self, level: Level) -> tuple[Finding, ...]:
        """The findings of a level."""
        return tuple(f for f in self.findings if f.level == level)

    @property
    def situations(self) -> int:
        """Everything that was tried."""
        return sum(s.situations for s in self.searched)

    @property
    def whole(self) -> bool:
        """Whether everything was searched completely."""
        return all(s.complete for s in self.searched)


@dataclass(frozen=True)
class Ask:
    """What is asked, and what is known besides the model: how many of each thing its transmitter
    has, and the numbers of the other models' receivers."""

    model: Model
    profile: object = None
    others: Mapping[str, int] = field(default_factory=dict)
