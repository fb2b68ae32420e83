# SPDX-License-Identifier: GPL-3.0-or-later
"""What is claimed of conditions, of what is said and timed, and of shared values."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import LogicSwitch, conditions_of, signals_of
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.evaluation_order import measured_signals
from hypsos.core.dependencies.references import condition_users
from hypsos.core.document.document import Model
from hypsos.core.document.program import EXPO_BOUNDS, RATE_BOUNDS
from hypsos.core.edits.condition_doubts import always_or_never, never_changes
from hypsos.core.edits.mode_grid import asked_switches, never_flown
from hypsos.core.edits.shared_values import dead_axes, tunable_users
from hypsos.core.engine import Result
from hypsos.core.parts.condition_text import asked
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import ModelSlice, conditions_asked, has_run_out, slice_of
from hypsos.core.review.search.state_search import Edges, StateSearch
from hypsos.core.review.statements import Finding
from hypsos.core.wording.describe_condition import mode_label, node_named, node_phrase, phrase
from hypsos.core.wording.time_words import timer_label
from hypsos.core.wording.words import control_label

SUMS = "what compares where a surface stands is searched at the ends of the hands' travel only"


class Seen(NamedTuple):
    """What was seen of a condition: that it does not hold, that it holds, that it begins to, that it ends."""

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
            self.false or bool((flags == 0).any()), self.true or bool((flags == 1).any()), self.begins or bool(begins),
            self.ends or bool(ends),
        )  # fmt: skip


class _Acting(NamedTuple):
    """A mix or a behaviour: what it is called, the place of its condition, the condition, and which way it goes."""

    name: str
    path: str
    when: str | None
    sense: int = 1


class ConditionSearch:
    """Whether every condition can come about and end, found by looking for one way to each."""

    def __init__(self, model: Model, most: int, stopped: Callable[[], bool]) -> None:
        self.model, self._most, self._stopped = model, most, stopped
        self.tried: dict[str, int] = {}
        self.partly: dict[str, str] = {}

    def _seen(self, statement: str, texts: Sequence[str], changes: bool = False) -> dict[str, Seen] | None:
        """What was seen of conditions, by a search that ends once all of it was seen of all of them; None where not everything
        could be searched and something was not seen. With ``changes`` it is asked whether they begin and end, too."""
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
                    seen[t] = seen[t].with_(flags, bool((before < after).any()), bool((before > after).any()))

        measures = any(self._compares_sums(x) for x in model_slice.model.program.logic)
        reach = StateSearch(
            model_slice, grid_of(model_slice, bends=measures, ends=measures), watch, judge, self._most, done
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

    # -- L2 ---------------------------------------------------------------------------------------------------------------

    def conditions(self) -> Iterator[Finding]:
        """L2: conditions that are always so, never so, or asked by nobody."""
        modes = {m.label for m in never_flown(self.model)}
        for i, mode in enumerate(self.model.program.modes):
            if mode.label in modes:
                text = f"{mode.label} is never flown: modes before it hold wherever its rule does."
                yield Finding("L2", "advice", f"program.modes[{i}].when", text)
        asked_for = conditions_asked(self.model)
        for i, node in enumerate(self.model.program.logic):
            if node.gives_signal:
                continue
            name = said_name(node.label, UNNAMED, node.name)
            path = f"program.logic[{i}]"
            if node.name not in asked_for:
                if node.label != UNNAMED or not condition_users(self.model, node.name):
                    text = f"Nothing goes by “{self._called(node)}”."
                    yield Finding("L2", "advice", path, text, cause="conditions nothing goes by")
                continue
            doubt = never_changes(self.model, node)
            if doubt:
                yield Finding("L2", "advice", path, f"“{name}” {doubt.removeprefix('It ')}")
                continue
            text = node.on_text
            seen = self._seen("L2", (text,))
            if seen is not None and not seen[text].both:
                always = "always" if not seen[text].false else "never"
                yield Finding("L2", "advice", path, f"“{self._called(node)}” {always} holds, whatever the hands do.")

    def _called(self, node: LogicSwitch) -> str:
        return node.label if node.label != UNNAMED else node_phrase(self.model, node)

    def _compares_sums(self, node: LogicSwitch) -> bool:
        return node.reads_sums and bool(measured_signals(self.model) & set(signals_of(node)))

    # -- L5 ---------------------------------------------------------------------------------------------------------------

    def voice(self) -> Iterator[Finding]:
        """L5: announcements that are never said, timers that never start or never stop."""
        for i, said in enumerate(self.model.program.announcements):
            seen = self._when(said.when)
            if seen is None:
                continue
            comes = {"begins": seen.begins, "ends": seen.ends, "while": seen.true}[said.moment]
            if not comes:
                text = f"“{said.caption}” is never said: {self._why_not(said.when, seen, said.moment)}."
                yield Finding("L5", "advice", f"program.announcements[{i}].when", text)
        for i, timer in enumerate(self.model.program.timers):
            seen, name = self._when(timer.when), timer_label(timer)
            if seen is not None and not seen.true:
                text = f"{name} never starts: {self._why_not(timer.when, seen, 'while')}."
                yield Finding("L5", "advice", f"program.timers[{i}].when", text)
            elif seen is not None and not seen.ends:
                text = f"{name} never stops: {self._why_not(timer.when, seen, 'ends')}."
                yield Finding("L5", "advice", f"program.timers[{i}].when", text)
            reset = self._when(timer.reset) if timer.reset is not None else None
            if reset is not None and not reset.begins:
                text = f"{name} is never set back: {self._why_not(timer.reset or '', reset, 'begins')}."
                yield Finding("L5", "advice", f"program.timers[{i}].reset", text)

    def _why_not(self, text: str, seen: Seen, moment: str) -> str:
        """Why a moment of a condition never comes."""
        said = phrase(self.model, text)
        if not seen.true:
            return f"{said} never holds"
        if not seen.false:
            return f"{said} always holds"
        return (
            f"{said} never ends once it holds"
            if moment == "ends"
            else f"{said} holds from power-up and never begins later"
        )

    def _when(self, text: str) -> Seen | None:
        node = node_named(self.model, asked(text).name)
        word = "" if node is None else always_or_never(self.model, node)
        if word:
            holds = (word == "always") != asked(text).negated
            return Seen(false=not holds, true=holds)
        found = self._seen("L5", (text,), changes=True)
        return None if found is None else found[text]

    # -- L1, L3 -----------------------------------------------------------------------------------------------------------

    def positions(self) -> Iterator[Finding]:
        """L1: switch positions that fall back to full rate, to the default mode or to nothing without a word."""
        model = self.model
        for i, axis in enumerate(model.program.axes):
            control = model.transmitter.control(axis.switch) if axis.switch else None
            for k, position in enumerate(control.positions if control is not None else ()):
                if k >= len(axis.settings) or axis.settings[k] is None:
                    text = (
                        f"{axis.command.capitalize()} has nothing set at {position} of {control_label(model, axis.switch or '')}: "
                        "it falls back to full rate without expo."
                    )
                    yield Finding("L1", "fault", f"program.axes[{i}].settings[{k}]", text)
        yield from self._base()
        yield from self._between()
        for i, recipe in enumerate(model.program.recipes):
            for field, text in recipe.doubts(model.transmitter.control):
                yield Finding("L1", "fault", f"program.recipes[{i}].{field}", text)

    def _between(self) -> Iterator[Finding]:
        """Positions between two at which mixes or behaviours do the same work, and at which none of them does."""
        program = self.model.program
        acting: dict[object, list[_Acting]] = {}
        for i, mix in enumerate(program.mixes):
            sense = 1 if mix.gain > 0 else -1
            one = _Acting(mix.name, f"program.mixes[{i}].when", mix.when, sense)
            acting.setdefault((mix.target, mix.source), []).append(one)
        for i, recipe in enumerate(program.recipes):
            key = (recipe.kind, tuple(n for _, n in recipe.parts()))
            acting.setdefault(key, []).append(_Acting(recipe.label, f"program.recipes[{i}].when", recipe.when))
        for found in acting.values():
            yield from self._gaps(found)

    def _gaps(self, acting: Sequence[_Acting]) -> Iterator[Finding]:
        """The positions left out by things that do the same work at different positions of one switch.

        Where one of them goes one way and the other the other way, nothing between is the middle, and nobody is asked.
        """
        places: dict[str, dict[int, _Acting]] = {}
        for one in acting:
            if one.when is None:
                return
            asks = asked(one.when)
            control = self.model.transmitter.control(asks.name)
            if asks.realm or asks.negated or asks.position is None or control is None or not control.is_switch:
                return  # it goes by something else
            places.setdefault(asks.name, {})[asks.position] = one
        for switch, at in places.items():
            control = self.model.transmitter.control(switch)
            for between in sorted(set(range(min(at), max(at))) - at.keys()):
                below, above = at[max(p for p in at if p < between)], at[min(p for p in at if p > between)]
                if below.sense != above.sense or control is None:
                    continue
                text = (
                    f"{control_label(self.model, switch)} at {control.positions[between]}: “{below.name}” acts on one side of "
                    f"it and “{above.name}” on the other, and nothing is given there. Is that meant?"
                )
                yield Finding("L1", "advice", above.path, text)

    def _base(self) -> Iterator[Finding]:
        """Positions of a switch that picks flight modes, of which more than one falls to the default mode."""
        model = self.model
        texts = [m.when for m in model.program.modes if m.when is not None]
        if not texts:
            return
        nodes = {x.name: x for x in model.program.logic}
        open_, found = list(texts), dict[str, set[int]]()
        seen: set[str] = set()
        while open_:
            asks = asked(open_.pop())
            if asks.position is not None:
                control = model.transmitter.control(asks.name)
                if control is not None and asks.negated and len(control.positions) > 2:
                    found.setdefault(asks.name, set()).update(set(range(len(control.positions))) - {asks.position})
                found.setdefault(asks.name, set()).add(asks.position)
            elif asks.name in nodes and asks.name not in seen:
                seen.add(asks.name)
                open_ += list(conditions_of(nodes[asks.name]))
        for control in asked_switches(model, texts):
            rest = [i for i in range(len(control.positions)) if i not in found.get(control.name, set())]
            if len(rest) > 1 and len(control.positions) > 2:
                names = " and ".join(control.positions[i] for i in rest)
                base = mode_label(model, model.program.modes[-1].name)
                text = f"{control.label} at {names}: no rule says which flight mode, so all of them fall to {base}."
                yield Finding("L1", "fault", "program.modes", text)

    def shared(self) -> Iterator[Finding]:
        """L3: shared values that take a main control away, or leave what they stand in for."""
        for name, text in dead_axes(self.model):
            x = next(t for t in self.model.program.shared_values() if t.name == name)
            yield Finding(
                "L3", "danger", self._tunable_path(name), f"{said_name(x.label, 'Shared value', x.name)}: {text}."
            )
        for i, axis in enumerate(self.model.program.axes):
            for k, setting in enumerate(axis.settings):
                for by, what, (low, high) in (
                    (setting.rate_from if setting else None, "a rate", RATE_BOUNDS),
                    (setting.expo_from if setting else None, "an expo", EXPO_BOUNDS),
                ):
                    found = next((t for t in self.model.program.shared_values() if t.name == by), None)
                    if found is not None and (found.low < low or found.high > high):
                        said = said_name(found.label, "Shared value", found.name)
                        text = f"{said} could leave what {what} can be ({low:g} to {high:g} %); it is held there."
                        yield Finding("L3", "advice", f"program.axes[{i}].settings[{k}]", text)

    def _tunable_path(self, name: str) -> str:
        for i, x in enumerate(self.model.program.tunables):
            if x.name == name:
                return f"program.tunables[{i}]"
        users = tunable_users(self.model, name)
        index = next((i for i, r in enumerate(self.model.program.recipes) if r.label in users), 0)
        return f"program.recipes[{index}]"


class _Rows:
    """Conditions read from results and from the hands."""

    def __init__(self, model_slice: ModelSlice, texts: Sequence[str]) -> None:
        self.model_slice, self.texts = model_slice, texts
        self._modes = [m.name for m in model_slice.model.program.modes]

    def of(self, result: Result) -> Array:
        columns = [self._column(result, t) for t in self.texts]
        rows = max((len(c) for c in columns if c.ndim > 1), default=1)
        rows = max(rows, len(result.modes) if result.modes.ndim > 1 else 1)
        return np.stack([np.broadcast_to(c, (rows, 1))[:, -1].astype(float) for c in columns], axis=-1)

    def _column(self, result: Result, text: str) -> NDArray[Any]:
        asks = asked(text)
        if asks.realm == "mode":
            return np.asarray(result.modes == (self._modes.index(asks.name) if asks.name in self._modes else -1))
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
        if asks.position is not None and self.model_slice.model.transmitter.control(asks.name) is not None:
            found = reach.grid.values(hands).get(asks.name, np.zeros(len(table))) == asks.position
        elif not asks.realm and asks.name in ("link", "power"):
            values, one = reach.grid.values(hands), np.ones(len(table))
            found = values.get("power", one) * (values.get("link", one) if asks.name == "link" else 1.0) > 0.5
        else:
            found = table[:, i] > 0.5
        return np.asarray(found != asks.negated, int)
