# SPDX-License-Identifier: GPL-3.0-or-later
"""Who reads whom in a model: the one graph that every walk goes by.

Each part of a document says itself what it asks (conditions), what it reads (signals) and which
shared values it goes by; see ``asks``, ``reads`` and ``shares`` of an axis, a mix line, a flight
mode, a shared value, an announcement, a timer, the guard, a behaviour, a condition. Nothing else
knows a field that names a signal. So a new field of that sort is written once, and every walk
follows it: the order of evaluation, what reaches a motor, what a search needs, what an edit leaves
behind, who is said to use a switch.

Two questions are asked of it. *Forwards*, over what is written in the document: who goes by this?
(:func:`readers`). *Backwards*, over what is computed, behaviours expanded into lines: on what does
this hang? (:class:`DependencyGraph`).

An example: the left flap is fed by a line that reads ``brake`` while ``mode:landing`` holds;
``brake`` is fed by a line that reads ``slider``. Behind the flap lie the signals ``left_flap,
brake, slider``, both lines, and the rule of the mode *Landing*."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple, Protocol

from hypsos.core.base.cache import kept
from hypsos.core.conditions import LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Axis
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Tunable

Named = Iterable[tuple[str, str]]
"""Pairs of (field, name)."""


class Reader(Protocol):
    """A part of a document that goes by others."""

    def asks(self) -> Named:
        """The conditions that it asks, as text."""

    def reads(self) -> Named:
        """The signals and controls that it reads."""

    def shares(self) -> Named:
        """The shared values that it goes by."""


class PlacedReader(NamedTuple):
    """A reader, what kind of part it is, and its path in the document."""

    kind: str
    path: str
    reader: Reader


@kept
def readers(model: Model) -> tuple[PlacedReader, ...]:
    """Every part of a document that goes by others, as it is written there."""
    program = model.program
    lists: tuple[tuple[str, Iterable[Reader]], ...] = (
        ("mixes", program.mixes),
        ("modes", program.modes),
        ("recipes", program.recipes),
        ("tunables", program.tunables),
        ("axes", program.axes),
        ("announcements", program.announcements),
        ("timers", program.timers),
    )
    found: list[PlacedReader] = []
    for kind, parts in lists:
        found += [PlacedReader(kind, f"program.{kind}[{i}]", x) for i, x in enumerate(parts)]
    if program.guard is not None:
        found.append(PlacedReader("guard", "program.guard", program.guard))
    found += [PlacedReader("logic", f"program.logic[{i}]", x) for i, x in enumerate(program.logic)]
    return tuple(found)


def asked_by(model: Model) -> Iterator[tuple[str, str]]:
    """(path, condition) of every place in the document that asks a condition, other than conditions
    themselves."""
    for kind, path, reader in readers(model):
        if kind != "logic":
            yield from ((f"{path}.{field}", text) for field, text in reader.asks())


class Behind:
    """What some signals and conditions hang on: the signals read on the way, and the parts of the
    document that are asked.

    Whatever is found is followed until nothing new is found, so circles end.
    """

    def __init__(self, graph: DependencyGraph) -> None:
        self._graph = graph
        self.signals: set[str] = set()
        self.axes: list[Axis] = []
        self.lines: list[MixLine] = []
        self.shared: list[Tunable] = []
        self.conditions: dict[str, LogicSwitch] = {}

    def read(self, names: Iterable[str]) -> None:
        """Follow signals: lines that feed them, the axis whose command they are, the gate that
        gives them."""
        for name in names:
            if name in self.signals:
                continue
            self.signals.add(name)
            axis, gate = self._graph.axes.get(name), self._graph.gates.get(name)
            if axis is not None:
                self.axes.append(axis)
                self.follow(axis)
            if gate is not None:
                self.ask((name,))
            for line in self._graph.feeds.get(name, ()):
                self.lines.append(line)
                self.follow(line)

    def ask(self, texts: Iterable[str]) -> None:
        """Follow conditions. Flight modes, timers and the guard's state are followed by nobody but
        who asks for them."""
        for text in texts:
            key = asked(text).key
            condition = self._graph.conditions.get(key)
            if condition is not None and key not in self.conditions:
                self.conditions[key] = condition
                self.follow(condition)

    def follow(self, reader: Reader) -> None:
        """Follow all that a part of the document goes by."""
        self.ask([text for _, text in reader.asks()])
        self._share([name for _, name in reader.shares()])
        self.read([name for _, name in reader.reads()])

    def _share(self, names: Iterable[str]) -> None:
        for name in names:
            value = self._graph.shared.get(name)
            if value is not None and value not in self.shared:
                self.shared.append(value)
                self.follow(value)


class DependencyGraph:
    """On what each sum, signal and condition of a model hangs, behaviours expanded."""

    def __init__(self, model: Model) -> None:
        program = model.program
        self.feeds: dict[str, list[MixLine]] = {}
        """Target -> the lines that feed it."""
        for placed in all_lines(model):
            self.feeds.setdefault(placed.line.target, []).append(placed.line)
        self.axes: dict[str, Axis] = {a.command: program.felt(a) for a in program.axes}
        self.conditions: dict[str, LogicSwitch] = {x.name: x for x in program.logic}
        self.gates: dict[str, LogicSwitch] = {x.name: x for x in program.gates()}
        self.shared: dict[str, Tunable] = {x.name: x for x in program.shared_values()}

    def behind(self, signals: Iterable[str] = (), conditions: Iterable[str] = ()) -> Behind:
        """What these signals and conditions hang on."""
        found = Behind(self)
        found.ask(conditions)
        found.read(signals)
        return found

    def sums_behind(self, names: Iterable[str]) -> set[str]:
        """These signals and all that lines feed into them, and into those; nothing of what axes,
        gates and conditions read."""
        found, open_ = set[str](), list(names)
        while open_:
            name = open_.pop()
            if name not in found:
                found.add(name)
                for line in self.feeds.get(name, ()):
                    open_ += line.signals()
        return found

    def conditions_behind(self, names: Iterable[str]) -> set[str]:
        """The conditions and gates among these names, and those that they ask or read."""
        found, open_ = set[str](), list(names)
        while open_:
            name = open_.pop()
            if name in self.conditions and name not in found:
                found.add(name)
                open_ += self.conditions[name].hangs_on()
        return found


@kept
def graph(model: Model) -> DependencyGraph:
    """The graph of a model."""
    return DependencyGraph(model)


def written_names(model: Model) -> set[str]:
    """The names of everything that a part of the document other than a condition asks or reads."""
    found: set[str] = set()
    for kind, _, reader in readers(model):
        if kind != "logic":
            found |= {asked(text).key for _, text in reader.asks()}
            found |= {name for _, name in reader.reads()}
    return found


def conditions_asked(model: Model) -> set[str]:
    """Every condition and gate on which something hangs."""
    found = written_names(model)
    for placed in all_lines(model):
        found.update(placed.line.signals())
    for value in model.program.shared_values():
        found.update(name for _, name in value.reads())
    return graph(model).conditions_behind(found)
