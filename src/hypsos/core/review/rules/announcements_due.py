# SPDX-License-Identifier: GPL-3.0-or-later
"""L5: everything that is to be said can be said; every timer can start and stop."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.edits.condition_doubts import always_or_never
from hypsos.core.parts.condition_text import asked
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import ReviewQuestion, Statement
from hypsos.core.review.search.condition_search import ConditionSearch, Seen
from hypsos.core.wording.describe_condition import node_named, phrase
from hypsos.core.wording.time_words import timer_label


class AnnouncementsDue:
    """What is said and timed."""

    def __init__(self, search: ConditionSearch) -> None:
        self.search, self.model = search, search.model

    def voice(self) -> Iterator[Finding]:
        """Announcements that are never said, timers that never start or never stop."""
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
        if moment == "ends":
            return f"{said} never ends once it holds"
        return f"{said} holds from power-up and never begins later"

    def _when(self, text: str) -> Seen | None:
        node = node_named(self.model, asked(text).name)
        word = "" if node is None else always_or_never(self.model, node)
        if word:
            holds = (word == "always") != asked(text).negated
            return Seen(false=not holds, true=holds)
        found = self.search.seen("L5", (text,), changes=True)
        return None if found is None else found[text]


def of_conditions(search: ConditionSearch) -> Iterator[ReviewQuestion]:
    """What is said and timed."""
    yield ReviewQuestion("what is said and timed", AnnouncementsDue(search).voice)


STATEMENT = Statement(
    "L5", "Everything that is to be said can be said; every timer can start and stop.", "advice", "conditions",
    conditions=of_conditions,
)  # fmt: skip
