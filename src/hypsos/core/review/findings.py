# SPDX-License-Identifier: GPL-3.0-or-later
"""What is claimed of every model, and what is said where it does not hold."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from hypsos.core.document.document import Model

Level = Literal["danger", "fault", "advice"]
LEVELS: tuple[Level, ...] = ("danger", "fault", "advice")
Progress = Callable[[float, str], None]
"""How far long work is: a share from 0 to 1, and in words what is being done."""


class Statement(NamedTuple):
    """A statement: what is claimed, how bad it is where it is broken, and in one word what it is about."""

    claim: str
    level: Level
    about: str


STATEMENTS: dict[str, Statement] = {
    "M1": Statement("While the motor is not armed, no motor leaves its idle pulse.", "danger", "motors"),
    "M2": Statement(
        "Nothing but the thrust control itself, or arming it, gives a motor more than 5 % at once.",
        "danger",
        "motors",
    ),
    "M3": Statement("With the link lost, every motor is at idle once the failsafe acts.", "danger", "motors"),
    "M4": Statement(
        "After a change of the flight battery with everything left as it was, no motor starts.", "danger", "motors"
    ),
    "M5": Statement("At idle every motor's lead gives the pulse at which its controller is off.", "danger", "motors"),
    "M6": Statement("Nothing that was wound up before comes out as the motor is armed.", "danger", "motors"),
    "F1": Statement("No motor runs on what it was told to do without the link.", "danger", "lost link"),
    "S1": Statement(
        "In each flight mode and position, roll, pitch and yaw still move the model the right way.", "fault", "surfaces"
    ),
    "S2": Statement("No surface loses command to a cut-off or a stop.", "fault", "surfaces"),
    "S3": Statement("Both halves of a pair answer alike.", "fault", "surfaces"),
    "S5": Statement("A behaviour that is switched off gives nothing.", "fault", "surfaces"),
    "S6": Statement(
        "Without the link no surface is held, or put over to one side, and nothing with two ends stops half way.",
        "fault",
        "lost link",
    ),
    "S8": Statement("A fade or a slow passes through nothing worse than both its ends.", "fault", "surfaces"),
    "L1": Statement("Every position of every switch in use has been given something to do.", "fault", "conditions"),
    "L3": Statement("No shared value takes a main control away.", "danger", "conditions"),
    "W1": Statement("Every servo that needs a port of its own has one.", "fault", "plugs"),
    "W2": Statement("No channel that carries a servo is left to a default.", "fault", "plugs"),
    "W3": Statement("The receiver's number is no other model's.", "fault", "plugs"),
    "W4": Statement("The transmitter has all that the model needs.", "fault", "plugs"),
    "G1": Statement("Every linkage reaches what is wanted of it, without binding, in fine steps.", "fault", "linkages"),
    "S4": Statement(
        "With the sticks at rest no surface jumps where a switch moves by one position, or a button is pressed or let go.",
        "advice",
        "surfaces",
    ),
    "S7": Statement("Nothing that moves a surface is cancelled by something else.", "advice", "surfaces"),
    "S9": Statement(
        "In a roll no side goes further down than up, no flap goes up with a pull, one trailing edge stays together.",
        "advice",
        "surfaces",
    ),
    "L2": Statement("Every condition can come about, can end, and is used.", "advice", "conditions"),
    "L4": Statement("No condition flickers at its level where much hangs on it.", "advice", "conditions"),
    "L5": Statement(
        "Everything that is to be said can be said; every timer can start and stop.", "advice", "conditions"
    ),
}
"""In the order of danger, in which they are searched."""


MORE_THAN_SEARCHED = "more situations than are searched"
STOPPED = "not searched: stopped"


class Stopped(Exception):
    """The search was stopped in the middle of a piece of work: what it would have found is not known."""


class FindingMove(NamedTuple):
    """A control that goes somewhere, at a second from power-up."""

    t_s: float
    control: str
    to: float


@dataclass(frozen=True)
class Finding:
    """A statement that is broken: how, by which part of the document, and the moves from power-up that show it.

    ``confirmed``: the engine, playing the moves in real time, came to it. ``captions`` say what is done, move by move.
    ``seen`` are parts of the aeroplane to look at, ``length_s`` how long to look; ``waits_s`` seconds have to pass after the
    last move before it comes. Findings with the same ``cause`` are told as one; ``also`` says what else comes of it, in the words
    of ``brief`` where there are some.
    """

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


@dataclass(frozen=True)
class Searched:
    """How far a statement was searched: situations, whether all of them, how long it took, and why not all where it was so.

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
    """What a search found. ``reasons`` are the statements this model is not asked about, each with its reason.

    ``plugged``: whether any lead is plugged in. Without one no servo and no controller is told anything, so nothing that was
    searched says anything of the aeroplane.
    """

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
    """What is asked, and what is known besides the model: how many of each thing its transmitter has, and the numbers of the
    other models' receivers."""

    model: Model
    profile: object = None
    others: Mapping[str, int] = field(default_factory=dict)
