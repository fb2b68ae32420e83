# SPDX-License-Identifier: GPL-3.0-or-later
"""L1: every position of every switch in use has been given something to do."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from hypsos.core.dependencies.graph import graph
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.mode_grid import asked_switches
from hypsos.core.parts.condition_text import asked
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, ReviewQuestion, Statement
from hypsos.core.review.search.condition_search import ConditionSearch
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import control_label


class _Acting(NamedTuple):
    """A mix or a behaviour: what it is called, the place of its condition, the condition, and which
    way it goes."""

    name: str
    path: str
    when: str | None
    sense: int = 1


class SwitchPositions:
    """Switch positions that fall back to full rate, to the default mode or to nothing."""

    def __init__(self, search: ConditionSearch) -> None:
        self.search, self.model = search, search.model

    def positions(self) -> Iterator[Finding]:
        """Switch positions that fall back to full rate, to the default mode or to nothing without a
        word."""
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
        """Positions between two at which mixes or behaviours do the same work, and at which none of
        them does."""
        program = self.model.program
        acting: dict[object, list[_Acting]] = {}
        for i, mix in enumerate(program.mixes):
            sense = 1 if mix.gain > 0 else -1
            one = _Acting(mix.name, f"program.mixes[{i}].when", mix.when, sense)
            acting.setdefault((mix.target, mix.source), []).append(one)
        for i, recipe in enumerate(program.recipes):
            key = (recipe.kind, tuple(n for _, n in recipe.parts()))
            acting.setdefault(key, []).append(
                _Acting(recipe.label, f"program.recipes[{i}].when", recipe.when)
            )
        for found in acting.values():
            yield from self._gaps(found)

    def _gaps(self, acting: Sequence[_Acting]) -> Iterator[Finding]:
        """The positions left out by things that do the same work at different positions of one
        switch.

        Where one of them goes one way and the other the other way, nothing between is the middle,
        and nobody is asked."""
        places: dict[str, dict[int, _Acting]] = {}
        for one in acting:
            if one.when is None:
                return
            asks = asked(one.when)
            control = self.model.transmitter.control(asks.name)
            of_switch = not asks.realm and control is not None and control.is_switch
            if not of_switch or asks.negated or asks.position is None:
                return  # it goes by something else
            places.setdefault(asks.name, {})[asks.position] = one
        for switch, at in places.items():
            control = self.model.transmitter.control(switch)
            for between in sorted(set(range(min(at), max(at))) - at.keys()):
                below = at[max(p for p in at if p < between)]
                above = at[min(p for p in at if p > between)]
                if below.sense != above.sense or control is None:
                    continue
                text = (
                    f"{control_label(self.model, switch)} at {control.positions[between]}: “{below.name}” acts on one side of "
                    f"it and “{above.name}” on the other, and nothing is given there. Is that meant?"
                )
                yield Finding("L1", "advice", above.path, text)

    def _base(self) -> Iterator[Finding]:
        """Positions of a switch that picks flight modes, of which more than one falls to the
        default mode."""
        model = self.model
        texts = [m.when for m in model.program.modes if m.when is not None]
        asked_for = self._positions_asked(texts)
        for control in asked_switches(model, texts):
            rest = [
                i
                for i in range(len(control.positions))
                if i not in asked_for.get(control.name, set())
            ]
            if len(rest) > 1 and len(control.positions) > 2:
                names = " and ".join(control.positions[i] for i in rest)
                base = mode_label(model, model.program.modes[-1].name)
                text = f"{control.label} at {names}: no rule says which flight mode, so all of them fall to {base}."
                yield Finding("L1", "fault", "program.modes", text)

    def _positions_asked(self, texts: Sequence[str]) -> dict[str, set[int]]:
        """Switch -> the positions that these conditions ask for, and those that they ask. *Not at
        the middle* speaks of the others too, where there are more than two."""
        behind = graph(self.model).conditions_behind(asked(text).key for text in texts)
        inner: list[str] = []
        for node in self.model.program.logic:
            if node.name in behind:
                inner += node.conditions()
        found: dict[str, set[int]] = {}
        for asks in map(asked, (*texts, *inner)):
            if asks.position is None:
                continue
            positions = found.setdefault(asks.name, set())
            positions.add(asks.position)
            control = self.model.transmitter.control(asks.name)
            if asks.negated and control is not None and len(control.positions) > 2:
                positions |= set(range(len(control.positions)))
        return found


def of_conditions(search: ConditionSearch) -> Iterator[ReviewQuestion]:
    """Switch positions that fall back to full rate, to the default mode or to nothing."""
    yield ReviewQuestion("switch positions", SwitchPositions(search).positions)


def repairs(model: Model, finding: Finding) -> Repairs:
    """The position as the one before it."""
    found = re.match(r"program\.axes\[(\d+)\]\.settings\[(\d+)\]", finding.part)
    if found:
        axis, k = model.program.axes[int(found[1])], int(found[2])
        near = next(
            (s for s in (*reversed(axis.settings[:k]), *axis.settings) if s is not None), None
        )
        if near is None:
            return
        settings = [*axis.settings, *(None,) * (k + 1 - len(axis.settings))]
        settings[k] = near
        yield (
            "As the position before it",
            lambda: with_at(model, f"program.axes[{int(found[1])}].settings", tuple(settings)),
        )


STATEMENT = Statement(
    "L1", "Every position of every switch in use has been given something to do.", "fault", "conditions",
    on_paper=True, conditions=of_conditions, repairs=repairs,
)  # fmt: skip
