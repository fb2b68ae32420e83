# SPDX-License-Identifier: GPL-3.0-or-later
"""Several conditions in one: all, any, exactly one of them; or the contrary of one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.backends import Flag
from hypsos.core.base.memory import Memory
from hypsos.core.conditions.condition_base import (
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    SentenceWriter,
    joined_reasons,
)
from hypsos.core.conditions.world import ConditionWorld, ReadFlag, Work, reader
from hypsos.core.parts.condition_text import Condition, asked

JOINED: Mapping[str, str] = {
    "all": "all of these hold:", "any": "any of these holds:", "one": "exactly one of these holds:",
}  # fmt: skip
ONE_AT_A_TIME = {
    "mode": "one flight mode is flown at a time",
    "guard": "the motors are in one state at a time",
}


class Combine(ConditionBase):
    """``all``, ``any``, exactly ``one`` of, or ``not`` the first of these conditions."""

    kind: Literal["all", "any", "one", "not"]
    of: Annotated[tuple[Condition, ...], Field(min_length=1, max_length=16)]

    WRAPS: ClassVar[Mapping[str, str]] = {
        **{kind: words.removesuffix(":") for kind, words in JOINED.items()}, "not": "not this",
    }  # fmt: skip

    def asks(self) -> tuple[tuple[str, str], ...]:
        return tuple((f"of[{k}]", text) for k, text in enumerate(self.of))

    @property
    def passes_on(self) -> str | None:
        return self.of[0] if len(self.of) == 1 and self.kind != "not" else None

    @property
    def holds_with_all(self) -> bool:
        return self.kind == "all"

    # -- when it holds ---------------------------------------------------------------------------

    def work(self) -> Work:
        name, truth = self.name, self._truth()

        def work(world: ConditionWorld, _memory: Memory) -> None:
            world.flags[name] = truth(world)

        return work

    def _truth(self) -> ReadFlag:
        readers = [reader(text) for text in self.of]
        first, rest = readers[0], readers[1:]
        if self.kind == "not":
            return lambda world: world.backend.not_(first(world))
        if self.kind == "one":
            return lambda world: (
                sum(world.backend.where(read(world), 1, 0) for read in readers) == 1
            )

        def every(world: ConditionWorld) -> Flag:
            out = first(world)
            for read in rest:
                out = out & read(world)
            return out

        def some(world: ConditionWorld) -> Flag:
            out = first(world)
            for read in rest:
                out = out | read(world)
            return out

        return every if self.kind == "all" else some

    def settled(self, parts: Sequence[bool | None]) -> bool | None:
        if self.kind == "not":
            return None if parts[0] is None else not parts[0]
        if self.kind == "one":
            return None if None in parts else sum(map(bool, parts)) == 1
        # one that holds settles *any*, one that does not settles *all*
        settles = self.kind == "any"
        if any(p is settles for p in parts):
            return settles
        return None if None in parts else not settles

    def contradiction(self, label: Callable[[str], str]) -> str:
        if self.kind != "all":
            return ""
        places: dict[str, int | str] = {}
        for text in self.of:
            negated, realm, name, position = asked(text)
            if negated:
                continue
            if position is not None and places.setdefault(name, position) != position:
                return f"It never holds: {label(name)} stands at one position at a time."
            if realm in ONE_AT_A_TIME and places.setdefault(f"{realm}:", name) != name:
                return f"It never holds: {ONE_AT_A_TIME[realm]}."
        if any(f"!{text}" in self.of for text in self.of):
            return "It never holds: it asks for something and for its contrary."
        return ""

    # -- how it is said --------------------------------------------------------------------------

    def said(self, words: ConditionWords, position: int | None) -> str:
        parts = [words.phrase(text) for text in self.of]
        if self.kind == "not":
            return f"not ({parts[0]})"
        if self.kind == "one":
            return f"exactly one of ({'; '.join(parts)})"
        joined = (" and " if self.kind == "all" else " or ").join(parts)
        return joined if words.outermost else f"({joined})"

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        if self.kind == "not":
            return moment.because(self.of[0])
        held = {text: moment.holds(text) for text in self.of}
        if self.kind == "one":
            on = [moment.phrase(text) for text in self.of if held[text]]
            return f"{len(on)} of {len(self.of)} hold" + (f": {'; '.join(on)}" if on else "")
        any_of = self.kind == "any"
        # one that holds decides *any*, one that does not decides *all*
        one_decides = now if any_of else not now
        deciding = [text for text in self.of if held[text] == any_of] if one_decides else self.of
        return joined_reasons(moment.because(text) for text in deciding)

    def write(self, writer: SentenceWriter) -> None:
        writer.kind("not:" if self.kind == "not" else JOINED[self.kind])
        for field, _ in self.asks():
            writer.below(field)
        if self.kind != "not":
            writer.more("of")

    # -- what it can become ----------------------------------------------------------------------

    @classmethod
    def around(cls, kind: str, name: str, inner: str, other: str) -> Combine:
        return cls(kind=kind, name=name, of=(inner,) if kind == "not" else (inner, other))

    def as_kind(self, kind: str) -> Self | None:
        return self.changed({"kind": kind}) if self.kind in JOINED and kind in JOINED else None

    def passing(self, text: str) -> Self | None:
        return None if self.passes_on is None else self.changed({"of": (text,)})
