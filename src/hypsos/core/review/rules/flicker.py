# SPDX-License-Identifier: GPL-3.0-or-later
"""L4: no condition flickers at its level where much hangs on it."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np

from hypsos.core.base.figure_words import number, plain
from hypsos.core.conditions import LogicSwitch, conditions_of
from hypsos.core.conditions.condition_base import NEAR, UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.condition_text import asked
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, Statement, SurfaceQuestion, place_in
from hypsos.core.review.rules.switch_jumps import JUMP
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.motion_looks import MotionLooks, MovedControl
from hypsos.core.review.search.reachable_cases import CaseSampler, ReachableCases
from hypsos.core.review.search.surface_search import SurfaceSearch
from hypsos.core.wording.describe_condition import condition_path, node_phrase

BACK = 5.0
"""Percent by which a condition is to go back before it ends."""


class Flicker:
    """Conditions without a way back, right at their levels."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model, self.looks = search, search.model, MotionLooks(search)

    @property
    def reachable(self) -> ReachableCases:
        """What decides for the surfaces at hand."""
        return self.search.reachable

    def flickers(self, names: Sequence[str]) -> Iterator[Finding]:
        """Conditions without a way back on which a motor or a large movement hangs."""
        holding: set[str] = set()
        if self.model.airframe.motors:
            of_motors = slice_of(self.model, guard=True).model
            holding = {x.name for x in of_motors.program.logic}
        sampler = self.reachable.sampler(names, in_time=True)
        asked_for = {x.name for x in sampler.model_slice.model.program.logic} | holding
        release = self._of_release()
        for i, node in enumerate(self.model.program.logic):
            if node.name not in asked_for or not node.flickers_at:
                continue
            # what was written into a place of the document is mended there
            path = condition_path(self.model, node.name)
            if node.label != UNNAMED:
                path = f"program.logic[{i}].hysteresis"
            said = node_phrase(self.model, node)
            if node.name in holding and not self._delayed(node.name):
                self.search.count("L4", 1)
                hangs = "what a motor is commanded hangs on it"
                if node.name in release:
                    hangs = "the motor's arming hangs on it"
                text = f"Right at its level “{said}” would switch to and fro, and {hangs}."
                yield Finding("L4", "advice", path, text)
                continue
            found = self._flickering(sampler, node, names)
            if found is not None:
                name, moved = found
                surface = self.search.parts[name].label.lower()
                text = (
                    f"Right at its level “{said}” would switch to and fro, and {surface} would "
                    f"jump by {number(abs(moved))} % each time."
                )
                yield Finding("L4", "advice", path, text, seen=(name,))

    def _of_release(self) -> set[str]:
        """The conditions on which the motors' release itself hangs."""
        guard = self.model.program.guard
        if guard is None:
            return set()
        texts = [text for field, text in guard.asks() if not field.startswith("engines")]
        return {x.name for x in slice_of(self.model, conditions=texts).model.program.logic}

    def _delayed(self, name: str) -> bool:
        """Whether everything that asks a condition waits a while."""
        users = []
        for node in self.model.program.logic:
            if any(asked(text).name == name for text in conditions_of(node)):
                users.append(node)
        return bool(users) and all(node.waits_out for node in users)

    def _flickering(
        self, sampler: CaseSampler, node: LogicSwitch, names: Sequence[str]
    ) -> tuple[str, float] | None:
        """The surface that jumps most as the signal crosses the level, where it jumps far."""
        signal = node.signals()[0]
        # of a gate it is looked at what it lets through
        for gate in self.model.program.gates():
            if gate.name == node.signals()[0]:
                (signal,) = gate.signals()
        cases = np.arange(len(self.reachable.nodes))[:400]
        best: tuple[str, float] | None = None
        levels = [self._across(signal, level) for level in node.flickers_at]
        for below, above in itertools.chain.from_iterable(levels):
            for start, to in ((below, above), (above, below)):
                act = MovedControl(signal, start, to, cases)
                ((before, after),) = self.looks.before_and_after(sampler, [act], 2)[0]
                self.search.count("L4", len(cases))
                for name in names:
                    lead = self.search.leads[name]
                    moved = after[lead.name][:, -1] - before[lead.name][:, -1]
                    i = int(np.argmax(np.abs(moved)))
                    if abs(moved[i]) > JUMP and (best is None or abs(moved[i]) > abs(best[1])):
                        best = (name, float(moved[i]))
        return best

    def _across(self, signal: str, level: float) -> Iterator[tuple[float, float]]:
        """The places just below and just above a level of a stick, a slider, a trim lever or the
        link's quality, where it can cross that level at all."""
        if signal == "link_quality":
            low, high = 0.0, 100.0
        elif signal in self.search.stage.plan.rest:
            low, high = control_bounds(self.model, signal)
        else:
            return
        if low < level < high:
            yield level - NEAR, level + NEAR


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """The conditions on which each group of surfaces hangs, and those of the motors."""
    program = search.model.program
    more = (program.logic, program.guard)
    for names in filter(None, search.groups()):
        find = partial(Flicker(search).flickers, names)
        yield SurfaceQuestion(f"flicker of {names[0]}", find, names, more, in_time=True)


def repairs(model: Model, finding: Finding) -> Repairs:
    """A way back for the condition."""
    i = place_in(finding.part, "program.logic")
    node = model.program.logic[i] if i is not None else None
    steadied = None if node is None else node.steadied(BACK)
    if steadied is not None:
        yield (
            f"Let it go off {plain(BACK)} % further back",
            lambda: with_at(model, f"program.logic[{i}]", steadied),
        )


STATEMENT = Statement(
    "L4", "No condition flickers at its level where much hangs on it.", "advice", "conditions",
    surfaces=of_surfaces, repairs=repairs,
)  # fmt: skip
