# SPDX-License-Identifier: GPL-3.0-or-later
"""A signal that passes while a condition holds."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import ClassVar, Literal

from hypsos.core.base.backends import Backend, Flag, Signal
from hypsos.core.base.memory import Memory
from hypsos.core.base.values import Name, Percent
from hypsos.core.conditions.condition_base import (
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    SentenceWriter,
)
from hypsos.core.conditions.world import ConditionWorld, Work
from hypsos.core.parts.condition_text import Condition


class Gate(ConditionBase):
    """A signal of its own: the source while the condition holds, else the parked value, which must
    be stated."""

    kind: Literal["gate"] = "gate"
    source: Name
    when: Condition
    parked: Percent

    gives_signal: ClassVar[bool] = True

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("when", self.when),)

    def reads(self) -> tuple[tuple[str, str], ...]:
        return (("source", self.source),)

    def passed(
        self, signals: Mapping[str, Signal], flag: Callable[[str], Flag], backend: Backend
    ) -> Signal:
        return backend.where(flag(self.when), signals[self.source], self.parked)

    def work(self) -> Work:
        name = self.name

        def work(world: ConditionWorld, _memory: Memory) -> None:
            world.signals[name] = self.passed(world.signals, world.flag, world.backend)

        return work

    def value(self, moment: ConditionMoment) -> float:
        return moment.signal(self.source) if moment.holds(self.when) else self.parked

    def said(self, words: ConditionWords, position: int | None) -> str:
        return (
            f"{words.signal(self.source)} while {words.phrase(self.when)}, else {self.parked:g} %"
        )

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        return moment.because(self.when)

    def write(self, writer: SentenceWriter) -> None:
        writer.kind("the value of")
        writer.signal("source")
        writer.plain("passes, else")
        writer.number("parked", "its value else", "%", -150, 150)
        writer.plain("while:")
        writer.below("when")
