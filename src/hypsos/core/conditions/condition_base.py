# SPDX-License-Identifier: GPL-3.0-or-later
"""What every kind of condition says of itself.

A kind of condition is one class in a file of its own, with a line in ``KINDS``. The rest of the
program asks it what it needs to know by the methods of :class:`ConditionBase` and never which kind
it is. What a method needs of the model around it is handed over: the words people use for signals
(:class:`ConditionWords`), the moment that is to be explained (:class:`ConditionMoment`), the
sentence that is being written (:class:`SentenceWriter`)."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import ClassVar, Literal, Protocol, Self

from hypsos.core.base.backends import Backend, Flag, Signal
from hypsos.core.base.memory import Memory, Waiting
from hypsos.core.base.values import Label, Name, Value
from hypsos.core.conditions.world import ConditionWorld, Work
from hypsos.core.parts.condition_text import asked

UNNAMED = "Logical switch"
"""The label of a condition that nobody has named."""
NEAR = 1e-3
"""Percent: so far beyond a level is beyond it."""
Cut = tuple[float, float]
"""Where a control is told apart: the last value below and the first above."""


class ConditionWords(Protocol):
    """How a model's people say what a condition hangs on. ``outermost``: nothing is said around
    this condition."""

    outermost: bool

    def phrase(self, text: str) -> str:
        """A condition in one breath."""

    def signal(self, name: str) -> str:
        """What people call a signal."""


class ConditionMoment(Protocol):
    """A model at the frame that is to be explained."""

    def holds(self, text: str) -> bool:
        """Whether a condition holds."""

    def because(self, text: str) -> str:
        """Why it holds or does not, as a clause."""

    def phrase(self, text: str) -> str:
        """A condition in one breath."""

    def signal(self, name: str) -> float:
        """Where a signal stands, in percent."""

    def signal_label(self, name: str) -> str:
        """What people call it."""

    def step(self, name: str) -> int:
        """At which step a counter stands, from 0."""


class SentenceWriter(Protocol):
    """Writes a condition as a sentence to be edited, word by word. Fields are those of the
    condition."""

    signals: tuple[str, ...]
    """What can be compared."""

    def kind(self, shown: str) -> None:
        """The word that says what it is about; another one makes another condition of it."""

    def kind_of_signal(self, name: str) -> None:
        """The same, where it is about a signal."""

    def plain(self, text: str) -> None:
        """A word that only stands there."""

    def number(
        self,
        field: str,
        about: str,
        unit: str,
        low: float,
        high: float,
        *,
        signal: str = "",
        sides: tuple[str, str] | None = None,
        show: Callable[[float], float] = float,
        store: Callable[[float], float] = float,
    ) -> None:
        """A number to set, shown by ``show`` and kept by ``store``; what it is compared with is
        called ``signal``, and ``sides`` are the words for less and more than nothing."""

    def signal(self, field: str) -> None:
        """A signal to choose."""

    def choice(
        self,
        about: str,
        shown: str,
        labels: Mapping[str, str],
        made: Callable[[str], ConditionBase],
    ) -> None:
        """A word to choose; another one makes the condition ``made`` of it."""

    def step_asked(self) -> None:
        """The step that is asked for, where one is."""

    def steps(self, field: str, about: str, most: int) -> None:
        """How many steps there are; who asks for a step that goes asks for the last one then."""

    def below(self, field: str) -> None:
        """A condition of its own line, further in."""

    def more(self, field: str) -> None:
        """A last line that takes one more condition in, or one out."""


class ConditionBase(Value):
    """A named condition: what it reads, when it holds, how it is said, and what it can become."""

    name: Name
    label: Label = UNNAMED
    kind: str

    WRAPS: ClassVar[Mapping[str, str]] = {}
    """The kinds into which a condition can be put with it, each with the words for that."""
    reads_sums: ClassVar[bool] = False
    """Whether it may read where signals and surfaces stand, once they have been summed."""
    gives_signal: ClassVar[bool] = False
    """Whether it is a signal of its own, and not a condition that holds or does not."""
    breaks_circles: ClassVar[bool] = False
    """Whether conditions may hang on each other in a circle through it: it goes by what was one
    frame ago."""

    # -- what it hangs on ------------------------------------------------------------------------

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition) that it asks."""
        return ()

    def reads(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, signal) that it reads."""
        return ()

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no shared value."""
        return ()

    def conditions(self) -> tuple[str, ...]:
        """The conditions that it asks."""
        return tuple(text for _, text in self.asks())

    def signals(self) -> tuple[str, ...]:
        """The signals that it reads."""
        return tuple(name for _, name in self.reads())

    def hangs_on(self) -> tuple[str, ...]:
        """The keys of the conditions and the signals on which it hangs."""
        return (*(asked(text).key for text in self.conditions()), *self.signals())

    def wrong(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong with it by itself)."""
        return iter(())

    @property
    def passes_on(self) -> str | None:
        """The one condition that it only gives a name to."""
        return None

    @property
    def holds_with_all(self) -> bool:
        """Whether it holds only where every condition that it asks does."""
        return False

    @property
    def positions(self) -> int:
        """How many positions it has, that are asked as ``name@position``; none where it holds or
        does not."""
        return 0

    @property
    def text(self) -> str:
        """The condition's text that asks for it first."""
        return self.name

    @property
    def on_text(self) -> str:
        """The condition's text for where it does not rest."""
        return f"{self.name}@1" if self.positions else self.name

    # -- when it holds ---------------------------------------------------------------------------

    @property
    def waits(self) -> bool:
        """Whether time alone changes it, the hands held still."""
        return self.timeout() is not None

    @property
    def memory_key(self) -> str:
        """Under which key it remembers."""
        return f"?{self.name}.{self.kind}"

    def work(self) -> Work:
        """Its evaluation over time, with what it reads and its figures at hand."""
        raise NotImplementedError

    def passed(
        self, signals: Mapping[str, Signal], flag: Callable[[str], Flag], backend: Backend
    ) -> Signal:
        """The signal that it gives; only asked of one that gives a signal."""
        raise NotImplementedError

    def on_its_way(self, world: ConditionWorld) -> Flag:
        """The frames in which time alone will still change it. Only asked of one that waits."""
        return False

    def later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> None:
        """Write into ``then`` how it stands with the inputs of ``then``, looked at from ``world``,
        with nothing remembered; ``ended``: its time has run out. Where it remembers nothing, that
        is its evaluation."""
        self.work()(then, Memory(backend=world.backend))

    @property
    def waits_out(self) -> bool:
        """Whether what it asks has to last a while before it changes, so that a flicker of that
        goes unnoticed."""
        return False

    def ends_with(self, other: ConditionBase) -> bool:
        """Whether it has surely run out whenever ``other`` has: it asks the same and waits no
        longer."""
        return False

    def settled(self, parts: Sequence[bool | None]) -> bool | None:
        """Whether it holds, where the conditions that it asks hold, do not, or are open (None);
        None where that is open."""
        return None

    def timeout(self) -> Waiting | None:
        """What waits in it for a time, and how that is kept under its key; None where nothing
        does."""
        return None

    # -- where it tells its signals apart --------------------------------------------------------

    def cuts(self) -> Iterator[tuple[str, tuple[Cut, ...]]]:
        """The signals that it tells apart, each with the cuts between one side and the other."""
        return iter(())

    @property
    def by_distance(self) -> bool:
        """Whether all that it asks of its signals is how far they are from the middle."""
        return False

    @property
    def relates_signals(self) -> bool:
        """Whether it hangs on two signals together, so that neither alone tells where it
        changes."""
        return False

    @property
    def has_way_back(self) -> bool:
        """Whether it goes off only some way further back than it comes on, or compares nothing."""
        return True

    @property
    def flickers_at(self) -> tuple[float, ...]:
        """The levels at which it would switch to and fro, for it has nothing to go back by."""
        return ()

    def steadied(self, back: float) -> Self | None:
        """The same, going off so many percent further back, where it compares a signal; else
        None."""
        return None

    # -- how it is said --------------------------------------------------------------------------

    def said(self, words: ConditionWords, position: int | None) -> str:
        """What it is made of, in one breath; at a ``position``, where it has some."""
        raise NotImplementedError

    def value(self, moment: ConditionMoment) -> float:
        """Where the signal stands that it gives, in percent."""
        raise NotImplementedError

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        """Why it holds (``now``) or does not, as a clause."""
        raise NotImplementedError

    def write(self, writer: SentenceWriter) -> None:
        """Its words, one after the other, as they can be edited."""
        raise NotImplementedError

    def never_changes(
        self, bounds: Callable[[str], tuple[float, float]]
    ) -> Literal["", "never", "always"]:
        """Whether its own figures say that it never holds or always does; ``bounds``: how far a
        signal goes."""
        return ""

    def contradiction(self, label: Callable[[str], str]) -> str:
        """Why the conditions that it asks can't hold together, as a sentence; ``label``: what
        people call a control."""
        return ""

    # -- what it can become ----------------------------------------------------------------------

    @classmethod
    def around(cls, kind: str, name: str, inner: str, other: str) -> ConditionBase:
        """A condition of this kind around another; ``other`` is a first one where it needs a
        second."""
        raise NotImplementedError

    def as_kind(self, kind: str) -> Self | None:
        """The same of another kind, where only the word between its parts is another; else None."""
        return None

    def reading(self, signal: str) -> Self | None:
        """The same of another signal, where it compares one; else None."""
        return None

    def passing(self, text: str) -> Self | None:
        """The same with another condition to pass on, where it passes one on; else None."""
        return None


def conditions_of(node: ConditionBase) -> tuple[str, ...]:
    """The conditions that a logical switch hangs on."""
    return node.conditions()


def signals_of(node: ConditionBase) -> tuple[str, ...]:
    """The signals that a logical switch reads."""
    return node.signals()


def joined_reasons(reasons: Iterable[str]) -> str:
    """Clauses in one, each said once."""
    return " and ".join(dict.fromkeys(x for x in reasons if x))
