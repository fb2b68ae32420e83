# SPDX-License-Identifier: GPL-3.0-or-later
"""What is claimed of conditions, of what is said and timed, and of shared values."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array, of_each
from hypsos.core.conditions import LogicSwitch, signals_of
from hypsos.core.dependencies.evaluation_order import measured_signals
from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.parts.condition_text import asked
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import ModelSlice, has_run_out, slice_of
from hypsos.core.review.search.state_search import Edges, StateSearch

SUMS = "what compares where a surface stands is searched at the ends of the hands' travel only"


class Seen(NamedTuple):
    """What was seen of a condition: that it does not hold, that it holds, that it begins to, that
    it ends."""

    false: bool = False
    true: bool = False
    begins: bool = False
    ends: bool = False

    @property
    def both(self) -> bool:
        """Whether it changes at all."""
        return self.false and self.true

    def all(self, changes: bool) -> bool:
        """Whether there is nothing more to be seen of it."""
        return self.both and (not changes or (self.begins and self.ends))

    def with_(self, flags: NDArray[Any], begins: bool = False, ends: bool = False) -> Seen:
        """The same with what these flags, 0 and 1, show besides."""
        return Seen(
            self.false or bool((flags == 0).any()),
            self.true or bool((flags == 1).any()),
            self.begins or bool(begins),
            self.ends or bool(ends),
        )


class ConditionSearch:
    """Whether every condition can come about and end, found by looking for one way to each."""

    def __init__(self, model: Model, most: int, stopped: Callable[[], bool]) -> None:
        self.model, self._most, self._stopped = model, most, stopped
        self.tried: dict[str, int] = {}
        self.partly: dict[str, str] = {}

    def seen(
        self, statement: str, texts: Sequence[str], changes: bool = False
    ) -> dict[str, Seen] | None:
        """What was seen of conditions, by a search that ends once all of it was seen of all of
        them; None where not everything could be searched and something was not seen. With
        ``changes`` it is asked whether they begin and end, too."""
        model_slice = slice_of(self.model, conditions=texts)
        seen = {t: Seen() for t in texts}
        rows = _Rows(model_slice, texts)

        def done() -> bool:
            return self._stopped() or all(x.all(changes) for x in seen.values())

        def watch(result: Result) -> Array:
            return rows.of(result)

        def judge(edges: Edges) -> None:
            table = reach.table()
            for i, t in enumerate(texts):
                if not seen[t].all(changes):
                    flags = rows.flags(reach, table, i)
                    before, after = flags[edges.before], flags[edges.after]
                    seen[t] = seen[t].with_(
                        flags, bool((before < after).any()), bool((before > after).any())
                    )

        # where a sum is compared its bends and ends matter; else the places that tell conditions
        # apart are enough
        measures = any(self._compares_sums(x) for x in model_slice.model.program.logic)
        reach = StateSearch(
            model_slice,
            grid_of(model_slice, bends=measures, ends=measures),
            watch,
            judge,
            self._most,
            done,
        )
        reach.run()
        self.tried[statement] = self.tried.get(statement, 0) + reach.situations
        for i, t in enumerate(texts):
            if len(reach.seen):
                good = reach.found()
                seen[t] = seen[t].with_(rows.flags(reach, reach.seen, i)[good])
        if not (reach.complete and not measures) and not all(x.all(changes) for x in seen.values()):
            self.partly[statement] = reach.partly or SUMS
            return None
        return seen

    def _compares_sums(self, node: LogicSwitch) -> bool:
        return node.reads_sums and bool(measured_signals(self.model) & set(signals_of(node)))


class _Rows:
    """Conditions read from results and from the hands."""

    def __init__(self, model_slice: ModelSlice, texts: Sequence[str]) -> None:
        self.model_slice, self.texts = model_slice, texts
        self._modes = [m.name for m in model_slice.model.program.modes]

    def of(self, result: Result) -> Array:
        columns = [self._column(result, t) for t in self.texts]
        rows = max((len(c) for c in columns if c.ndim > 1), default=1)
        rows = max(rows, len(result.modes) if result.modes.ndim > 1 else 1)
        return np.stack([of_each(c, rows).astype(float) for c in columns], axis=-1)

    def _column(self, result: Result, text: str) -> NDArray[Any]:
        asks = asked(text)
        if asks.realm == "mode":
            return np.asarray(
                result.modes == (self._modes.index(asks.name) if asks.name in self._modes else -1)
            )
        if asks.realm == "guard":
            from hypsos.core.parts.guard_states import GuardState

            return np.asarray(result.guard == GuardState[asks.name.upper()])
        if asks.realm == "timer":
            timer = next(x for x in self.model_slice.model.program.timers if x.name == asks.name)
            return has_run_out(timer, result.timers[asks.name])
        if asks.position is not None and asks.name in result.steps:
            return np.asarray(result.steps[asks.name] == asks.position)
        if asks.name in result.logic:
            return result.logic[asks.name]
        return np.zeros((1, 1))

    def flags(self, reach: StateSearch, table: Array, i: int) -> NDArray[Any]:
        """Where a condition holds, in everything seen."""
        asks = asked(self.texts[i])
        hands = reach.hands_seen(len(table))
        if (
            asks.position is not None
            and self.model_slice.model.transmitter.control(asks.name) is not None
        ):
            found = reach.grid.values(hands).get(asks.name, np.zeros(len(table))) == asks.position
        elif not asks.realm and asks.name in ("link", "power"):
            values, one = reach.grid.values(hands), np.ones(len(table))
            found = (
                values.get("power", one) * (values.get("link", one) if asks.name == "link" else 1.0)
                > 0.5
            )
        else:
            found = table[:, i] > 0.5
        return np.asarray(found != asks.negated, int)
