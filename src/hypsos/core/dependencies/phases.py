# SPDX-License-Identifier: GPL-3.0-or-later
"""In which order conditions become known: before the guard speaks, after it, or once everything has
been summed."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from hypsos.core.dependencies.evaluation_order import LogicOrder, logic_order
from hypsos.core.dependencies.graph import graph
from hypsos.core.document.document import Model
from hypsos.core.document.lines import PlacedLine, all_lines
from hypsos.core.parts.condition_text import asked

EARLY = ("program.guard", "program.modes", "program.tunables", "program.axes")
"""Where conditions stand that are always asked before the guard speaks."""
SAID = ("program.announcements", "program.timers")
"""Where conditions stand that are asked last."""
Asking = tuple[tuple[str, str], ...]
"""(path, condition) of places that ask."""


class Phase:
    """Who may ask what. ``asking``: every place in the document that asks a condition, other than
    conditions themselves."""

    def __init__(self, model: Model, asking: Asking, order: LogicOrder | None = None) -> None:
        self.model, self.asking = model, asking
        self.order = logic_order(model) if order is None else order

    @cached_property
    def _lines(self) -> tuple[PlacedLine, ...]:
        return all_lines(self.model)

    @cached_property
    def _moving(self) -> set[str]:
        """The mixes and behaviours that a motor follows."""
        cone = graph(self.model).sums_behind(m.name for m in self.model.airframe.motors)
        return {_owner(p.path) for p in self._lines if p.line.target in cone}

    @cached_property
    def gates(self) -> dict[str, list[str]]:
        """Gate -> the paths of the lines that read it."""
        paths = {}
        for gate in self.model.program.gates():
            paths[gate.name] = [p.path for p in self._lines if gate.name in p.line.signals()]
        return paths

    def before_guard(self, path: str) -> bool:
        """Whether what stands at a path is asked before the guard speaks: a motor or its release
        may hang on it."""
        return path.startswith(EARLY) or _owner(path) in self._moving

    def askers(self, names: set[str]) -> Iterator[str]:
        """The paths of the places that go by any of these conditions themselves."""
        yield from (path for path, text in self.asking if asked(text).key in names)
        for name in names:
            yield from self.gates.get(name, ())

    def too_late(self) -> Iterator[tuple[str, str]]:
        """(path, kind) of the places that ask something that is not known yet; ``kind`` is *guard*
        or *sum*."""
        late = self.order.late | self.order.last
        places = list(self.asking)
        # lines that read gates are asked for only where a gate is late at all
        if any(gate.name in late for gate in self.model.program.gates()):
            for name, paths in self.gates.items():
                places += [(path, name) for path in paths]
        for path, text in places:
            asks = asked(text)
            knows_motors = asks.realm in ("guard", "timer") or asks.key in self.order.late
            if asks.key in self.order.last and not path.startswith(SAID):
                yield path, "sum"
            elif knows_motors and self.before_guard(path):
                yield path, "guard"


def _owner(path: str) -> str:
    """The mix or behaviour at which a path begins: ``program.mixes[3]``."""
    return path.split("]", 1)[0] + "]"
