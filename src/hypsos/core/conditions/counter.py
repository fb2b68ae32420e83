# SPDX-License-Identifier: GPL-3.0-or-later
"""A count of how often a condition has begun, round and round."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from hypsos.core.base.memory import Memory, counter
from hypsos.core.conditions.condition_base import (
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    SentenceWriter,
)
from hypsos.core.conditions.world import ConditionWorld, Work, reader
from hypsos.core.parts.condition_text import Condition

FIRST_COUNT = 3
MOST = 32


class Counter(ConditionBase):
    """Steps through ``count`` positions on each rising edge; a position is the condition
    ``name@position``."""

    kind: Literal["counter"] = "counter"
    of: Condition
    count: Annotated[int, Field(ge=2, le=MOST)]

    WRAPS: ClassVar[Mapping[str, str]] = {"counter": "counting how often"}

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("of", self.of),)

    @property
    def positions(self) -> int:
        return self.count

    @property
    def text(self) -> str:
        return f"{self.name}@0"

    def work(self) -> Work:
        name, key, read, count = self.name, self.memory_key, reader(self.of), self.count

        def work(world: ConditionWorld, memory: Memory) -> None:
            place = world.counts[name] = counter(read(world), count, memory, key)
            world.flags[name] = place > 0

        return work

    def later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> None:
        begins = reader(self.of)(then) & world.backend.not_(reader(self.of)(world))
        place = (world.counts[self.name] + world.backend.where(begins, 1, 0)) % self.count
        then.counts[self.name] = place
        then.flags[self.name] = place > 0

    def said(self, words: ConditionWords, position: int | None) -> str:
        at = f"step {position + 1} of" if position is not None else "steps through"
        return f"{at} {self.count}, one further each time {words.phrase(self.of)}"

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        return f"it stands at step {moment.step(self.name) + 1} of {self.count}"

    def write(self, writer: SentenceWriter) -> None:
        writer.kind("counting")
        writer.step_asked()
        writer.plain("of")
        writer.steps("count", "how many steps", MOST)
        writer.plain("one further each time:")
        writer.below("of")

    @classmethod
    def around(cls, kind: str, name: str, inner: str, other: str) -> Counter:
        return cls(name=name, of=inner, count=FIRST_COUNT)
