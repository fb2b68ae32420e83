# SPDX-License-Identifier: GPL-3.0-or-later
"""L2: every condition can come about, can end, and is used."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import LogicSwitch
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.graph import conditions_asked
from hypsos.core.dependencies.references import condition_users
from hypsos.core.document.document import Model
from hypsos.core.edits.condition_choices import without_named
from hypsos.core.edits.condition_doubts import always_or_never
from hypsos.core.edits.mode_grid import never_flown
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, ReviewQuestion, Statement, place_in
from hypsos.core.review.search.condition_search import ConditionSearch
from hypsos.core.wording.describe_condition import node_phrase

UNUSED = "unused"


class ConditionsInUse:
    """Conditions that are always so, never so, or asked by nobody."""

    def __init__(self, search: ConditionSearch) -> None:
        self.search, self.model = search, search.model

    def conditions(self) -> Iterator[Finding]:
        """Conditions that are always so, never so, or asked by nobody."""
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
                    yield Finding(
                        "L2",
                        "advice",
                        path,
                        text,
                        cause="conditions nothing goes by",
                        variant=UNUSED,
                    )
                continue
            word = always_or_never(self.model, node)
            if word:
                yield Finding(
                    "L2", "advice", path, f"“{name}” {word} holds: {node_phrase(self.model, node)}."
                )
                continue
            text = node.on_text
            seen = self.search.seen("L2", (text,))
            if seen is not None and not seen[text].both:
                always = "always" if not seen[text].false else "never"
                yield Finding(
                    "L2",
                    "advice",
                    path,
                    f"“{self._called(node)}” {always} holds, whatever the hands do.",
                )

    def _called(self, node: LogicSwitch) -> str:
        return node.label if node.label != UNNAMED else node_phrase(self.model, node)


def of_conditions(search: ConditionSearch) -> Iterator[ReviewQuestion]:
    """Conditions that are always so, never so, or asked by nobody."""
    yield ReviewQuestion("conditions", ConditionsInUse(search).conditions)


def repairs(model: Model, finding: Finding) -> Repairs:
    """What nothing goes by taken out."""
    i = place_in(finding.part, "program.logic")
    if i is not None and finding.variant == UNUSED:
        yield "Take it out", lambda: without_named(model, model.program.logic[i].name)
        if finding.also:
            yield "Take all of them out", lambda: _without_unused(model)


def _without_unused(model: Model) -> Model:
    """The model without the conditions that nothing goes by, and without those that only they
    asked."""
    used = conditions_asked(model)
    for node in model.program.logic:
        if node.name not in used and not node.gives_signal:
            model = without_named(model, node.name)
    return model


STATEMENT = Statement(
    "L2", "Every condition can come about, can end, and is used.", "advice", "conditions",
    conditions=of_conditions, repairs=repairs,
)  # fmt: skip
