# SPDX-License-Identifier: GPL-3.0-or-later
"""A condition that comes later than another, ends later, or lasts a while from when it begins."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.backends import Flag, Signal
from hypsos.core.base.memory import Memory, Waiting, off_delay, on_delay, pulse
from hypsos.core.conditions.condition_base import (
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    SentenceWriter,
)
from hypsos.core.conditions.world import ConditionWorld, Work, reader
from hypsos.core.parts.condition_text import Condition

STARTS = {"on_delay": 0.3, "off_delay": 1.0, "pulse": 1.0}
"""Seconds with which a delay begins."""
LASTING = {"on_delay": "once for", "off_delay": "until", "pulse": "for"}
FOLLOWED_BY = {
    "on_delay": "this has held:",
    "off_delay": "after this has ended:",
    "pulse": "from the moment when:",
}
DELAYS: Mapping[str, Callable[[Flag, Signal, float, Memory, str], Flag]] = {
    "on_delay": on_delay, "off_delay": off_delay, "pulse": pulse,
}  # fmt: skip


class Delay(ConditionBase):
    """True once the input was true for ``seconds`` (on_delay), until it was false for so long
    (off_delay), or for so long from a rising edge (pulse)."""

    kind: Literal["on_delay", "off_delay", "pulse"]
    of: Condition
    seconds: Annotated[float, Field(ge=0, le=300)]

    WRAPS: ClassVar[Mapping[str, str]] = {
        "on_delay": "once it has lasted", "off_delay": "and a while longer", "pulse": "a while from when it begins",
    }  # fmt: skip

    def asks(self) -> tuple[tuple[str, str], ...]:
        return (("of", self.of),)

    # -- when it holds ---------------------------------------------------------------------------

    def work(self) -> Work:
        delayed, read, seconds = DELAYS[self.kind], reader(self.of), self.seconds
        name, key = self.name, self.memory_key

        def work(world: ConditionWorld, memory: Memory) -> None:
            world.flags[name] = delayed(read(world), world.t_s, seconds, memory, key)

        return work

    def on_its_way(self, world: ConditionWorld) -> Flag:
        out = world.flags[self.name]
        if self.kind == "pulse":
            return out
        given, not_ = reader(self.of)(world), world.backend.not_
        return given & not_(out) if self.kind == "on_delay" else out & not_(given)

    def later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> None:
        then.flags[self.name] = self._later(world, then, ended)

    def _later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> Flag:
        given, now = reader(self.of)(then), world.flags[self.name]
        if self.kind == "pulse":
            if ended:
                return given & False
            return now | (given & world.backend.not_(reader(self.of)(world)))
        if ended:
            return given
        return given & now if self.kind == "on_delay" else given | now

    def ends_with(self, other: ConditionBase) -> bool:
        if not isinstance(other, Delay) or (other.kind, other.of) != (self.kind, self.of):
            return False
        return (self.seconds, self.name) < (other.seconds, other.name)

    @property
    def waits_out(self) -> bool:
        return self.kind != "pulse"

    def timeout(self) -> Waiting:
        if self.kind == "off_delay":
            return Waiting(self.seconds, since="1", on="0", so=False)
        return Waiting(self.seconds)

    # -- how it is said --------------------------------------------------------------------------

    def said(self, words: ConditionWords, position: int | None) -> str:
        inner = words.phrase(self.of)
        if self.kind == "on_delay":
            return f"{inner}, once it has lasted {self.seconds:g} s"
        if self.kind == "off_delay":
            return f"{inner}, and {self.seconds:g} s longer"
        return f"{self.seconds:g} s from the moment when {inner}"

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        inner, why = moment.holds(self.of), moment.because(self.of)
        if self.kind == "on_delay":
            return why if now or not inner else f"{why}, but not yet for {self.seconds:g} s"
        if self.kind == "off_delay":
            return why if inner or not now else f"{why}, but for less than {self.seconds:g} s"
        began = "since less than" if now else "but it did not begin within the last"
        return f"{why}, {began} {self.seconds:g} s"

    def write(self, writer: SentenceWriter) -> None:
        writer.kind(LASTING[self.kind])
        writer.number("seconds", "for how long", "s", 0, 300)
        writer.plain(FOLLOWED_BY[self.kind])
        writer.below("of")

    # -- what it can become ----------------------------------------------------------------------

    @classmethod
    def around(cls, kind: str, name: str, inner: str, other: str) -> Delay:
        return cls(kind=kind, name=name, of=inner, seconds=STARTS[kind])

    def as_kind(self, kind: str) -> Self | None:
        return self.changed({"kind": kind}) if kind in STARTS else None
