# SPDX-License-Identifier: GPL-3.0-or-later
"""L3: no shared value takes a main control away."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.figure_words import said_name
from hypsos.core.document.program import EXPO_BOUNDS, RATE_BOUNDS
from hypsos.core.edits.shared_values import dead_axes, tunable_users
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import ReviewQuestion, Statement
from hypsos.core.review.search.condition_search import ConditionSearch


class SharedBounds:
    """Shared values that reach too far."""

    def __init__(self, search: ConditionSearch) -> None:
        self.search, self.model = search, search.model

    def shared(self) -> Iterator[Finding]:
        """Shared values that take a main control away, or leave what they stand in for."""
        for name, text in dead_axes(self.model):
            x = next(t for t in self.model.program.shared_values() if t.name == name)
            yield Finding(
                "L3",
                "danger",
                self._tunable_path(name),
                f"{said_name(x.label, 'Shared value', x.name)}: {text}.",
            )
        for i, axis in enumerate(self.model.program.axes):
            for k, setting in enumerate(axis.settings):
                for by, what, (low, high) in (
                    (setting.rate_from if setting else None, "a rate", RATE_BOUNDS),
                    (setting.expo_from if setting else None, "an expo", EXPO_BOUNDS),
                ):
                    found = next(
                        (t for t in self.model.program.shared_values() if t.name == by), None
                    )
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


def of_conditions(search: ConditionSearch) -> Iterator[ReviewQuestion]:
    """Shared values that reach too far."""
    yield ReviewQuestion("shared values", SharedBounds(search).shared)


STATEMENT = Statement(
    "L3", "No shared value takes a main control away.", "danger", "conditions",
    on_paper=True, conditions=of_conditions,
)  # fmt: skip
