# SPDX-License-Identifier: GPL-3.0-or-later
"""A condition that is set by one and cleared by another."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from hypsos.core.base.memory import Memory, edge_latch, latch
from hypsos.core.conditions.condition_base import (
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    SentenceWriter,
)
from hypsos.core.conditions.world import ConditionWorld, Work, reader
from hypsos.core.parts.condition_text import Condition

SET_BY = {"edges": "begins", "levels": "holds"}


class Latch(ConditionBase):
    """Set and cleared by rising edges, or by levels; clearing wins."""

    kind: Literal["latch"] = "latch"
    set: Condition
    reset: Condition
    edges: bool = True

    WRAPS: ClassVar[Mapping[str, str]] = {"latch": "from it until something else"}
    breaks_circles: ClassVar[bool] = True

    def asks(self) -> tuple[tuple[str, str], ...]:
        return ("set", self.set), ("reset", self.reset)

    def work(self) -> Work:
        remember = edge_latch if self.edges else latch
        name, key = self.name, self.memory_key
        on, off = reader(self.set), reader(self.reset)

        def work(world: ConditionWorld, memory: Memory) -> None:
            world.flags[name] = remember(on(world), off(world), memory, key)

        return work

    def later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> None:
        not_ = world.backend.not_
        set_, reset = reader(self.set), reader(self.reset)
        on, off = set_(then), reset(then)
        if self.edges:
            on = on & not_(set_(world))
            off = off & not_(reset(world))
        then.flags[self.name] = (on | world.flags[self.name]) & not_(off)

    def said(self, words: ConditionWords, position: int | None) -> str:
        how = "" if self.edges else " (by levels)"
        return f"from {words.phrase(self.set)} until {words.phrase(self.reset)}{how}"

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        if now:
            return f"it was set ({moment.phrase(self.set)}), and has not been cleared since"
        if not self.edges and moment.holds(self.reset):
            return moment.because(self.reset)
        return f"it has not been set ({moment.phrase(self.set)}) since it was last cleared"

    def write(self, writer: SentenceWriter) -> None:
        writer.kind("from when the first of these")
        writer.choice(
            "by what it is set",
            "begins" if self.edges else "holds",
            SET_BY,
            lambda key: self.changed({"edges": key == "edges"}),
        )
        writer.plain("until the second does:")
        writer.below("set")
        writer.below("reset")

    @classmethod
    def around(cls, kind: str, name: str, inner: str, other: str) -> Latch:
        return cls(name=name, set=inner, reset=other)
