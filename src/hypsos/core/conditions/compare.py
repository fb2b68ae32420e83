# SPDX-License-Identifier: GPL-3.0-or-later
"""A signal compared with numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.backends import Flag, Signal
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.base.memory import Memory, latch
from hypsos.core.base.values import Name
from hypsos.core.conditions.condition_base import (
    NEAR,
    ConditionBase,
    ConditionMoment,
    ConditionWords,
    Cut,
    SentenceWriter,
)
from hypsos.core.conditions.world import ConditionWorld, Work
from hypsos.core.parts.transmitter import STICK_SIDES

COMPARED: Mapping[str, str] = {
    "above": "is above", "below": "is below", "beyond": "is, to either side, beyond", "within": "lies between",
    "difference": "is more than",
}  # fmt: skip
FIRST_UPPER = 50.0
"""Percent, the upper end of a range that has none yet."""
BY_PLACE = ("above", "below", "within")
"""The comparisons that ask where a signal stands; the others ask how far it is from something."""
Edges = Callable[[ConditionWorld], tuple[Flag, Flag]]
"""Where a comparison comes on, and where it goes off again."""


class Compare(ConditionBase):
    """A signal against numbers. ``beyond``: abs(a) > x; ``within``: x <= a <= y; ``difference``: a
    - b > x.

    ``hysteresis`` h: on beyond x, off only beyond x by h the other way.
    """

    kind: Literal["above", "below", "beyond", "within", "difference"]
    a: Name
    b: Name | None = None
    x: Annotated[float, Field(ge=-300, le=300)]
    y: Annotated[float, Field(ge=-300, le=300)] | None = None
    hysteresis: Annotated[float, Field(ge=0, le=100)] = 0.0

    reads_sums: ClassVar[bool] = True

    def reads(self) -> tuple[tuple[str, str], ...]:
        return (("a", self.a),) if self.b is None else (("a", self.a), ("b", self.b))

    def wrong(self) -> Iterator[tuple[str, str]]:
        if self.kind == "difference" and self.b is None:
            yield "b", "a difference needs a second signal"
        if self.kind == "within" and (self.y is None or self.y < self.x):
            yield "y", "a range needs an upper end that is not below its lower end"

    @property
    def _upper(self) -> float:
        """The upper end of a range; of any other comparison its level."""
        return self.x if self.y is None else self.y

    @property
    def _by_power(self) -> bool:
        """Whether its level is said in % of the throttle stick's way, from low to full."""
        return self.a == "throttle_stick" and self.kind in BY_PLACE

    # -- when it holds ---------------------------------------------------------------------------

    def edges(self) -> Edges:
        """Where it comes on, and where it goes off again with its hysteresis; between the two it
        stays as it is."""
        if self.kind == "within":
            return self._range_edges()
        value, level = self._compared_value()
        back = level - self.hysteresis

        def beyond(world: ConditionWorld) -> tuple[Flag, Flag]:
            found = value(world)
            return found > level, found <= back

        return beyond

    def _range_edges(self) -> Edges:
        a, low, high, back = self.a, self.x, self._upper, self.hysteresis

        def within(world: ConditionWorld) -> tuple[Flag, Flag]:
            value = world.signals[a]
            return (value >= low) & (value <= high), (value < low - back) | (value > high + back)

        return within

    def _compared_value(self) -> tuple[Callable[[ConditionWorld], Signal], float]:
        """What has to lie above which level."""
        a, b = self.a, self.b or self.a
        if self.kind == "below":
            return (lambda world: -world.signals[a]), -self.x
        if self.kind == "beyond":
            return (lambda world: world.backend.abs(world.signals[a])), self.x
        if self.kind == "difference":
            return (lambda world: world.signals[a] - world.signals[b]), self.x
        return (lambda world: world.signals[a]), self.x

    def work(self) -> Work:
        name, key, edges = self.name, self.memory_key, self.edges()
        if self.hysteresis == 0:

            def plainly(world: ConditionWorld, _memory: Memory) -> None:
                world.flags[name] = edges(world)[0]

            return plainly

        def with_way_back(world: ConditionWorld, memory: Memory) -> None:
            world.flags[name] = latch(*edges(world), memory, key)

        return with_way_back

    def later(self, world: ConditionWorld, then: ConditionWorld, ended: bool) -> None:
        on, off = self.edges()(then)
        if self.hysteresis == 0:
            then.flags[self.name] = on
            return
        then.flags[self.name] = (on | world.flags[self.name]) & world.backend.not_(off)

    # -- where it tells its signals apart --------------------------------------------------------

    def cuts(self) -> Iterator[tuple[str, tuple[Cut, ...]]]:
        x, h = self.x, self.hysteresis
        if self.kind == "above":
            yield self.a, (over(x), over(x - h))
        elif self.kind == "below":
            yield self.a, (under(x), under(x + h))
        elif self.kind == "beyond":
            yield self.a, (over(x), over(x - h), under(-x), under(h - x))
        elif self.kind == "within":
            yield self.a, (under(x), under(x - h), over(self._upper), over(self._upper + h))
        else:
            for name, sign in ((self.a, 1.0), (self.b or self.a, -1.0)):
                yield name, tuple(over(sign * v) for v in (x, x - h, x / 2, (x - h) / 2, 0.0))

    @property
    def by_distance(self) -> bool:
        return self.kind == "beyond"

    @property
    def relates_signals(self) -> bool:
        return self.kind == "difference"

    @property
    def has_way_back(self) -> bool:
        return self.hysteresis > 0

    @property
    def flickers_at(self) -> tuple[float, ...]:
        if self.has_way_back or self.relates_signals:
            return ()
        levels = {self.x}
        if self.y is not None:
            levels.add(self.y)
        if self.kind == "beyond":
            levels.add(-self.x)
        return tuple(sorted(levels))

    def steadied(self, back: float) -> Self:
        return self.changed({"hysteresis": back})

    def never_changes(
        self, bounds: Callable[[str], tuple[float, float]]
    ) -> Literal["", "never", "always"]:
        low, high = bounds(self.a)
        if self.kind == "beyond":
            low = 0.0
        if self.kind == "difference":
            low, high = -2 * high, 2 * high
        if self.kind == "below":
            never, always = self.x <= low, self.x > high
        elif self.kind == "within":
            never, always = (
                self._upper < low or self.x > high,
                self.x <= low and self._upper >= high,
            )
        else:
            never, always = self.x >= high, self.x < low
        if never:
            return "never"
        return "always" if always else ""

    # -- how it is said --------------------------------------------------------------------------

    def said(self, words: ConditionWords, position: int | None) -> str:
        level = level_words(self.a, self.x, self.kind)
        if self.kind == "within":
            level = f"{level} and {level_words(self.a, self._upper, self.kind)}"
        elif self.kind == "difference":
            level = f"{level} above {words.signal(self.b or self.a)}"
        said = f"{words.signal(self.a)} {COMPARED[self.kind]} {level}"
        if not self.hysteresis:
            return said
        return f"{said}, off again {plain(self._shown_share * self.hysteresis)} % further back"

    @property
    def _shown_share(self) -> float:
        """How much of a percent of the signal is one of what is shown."""
        return 0.5 if self._by_power else 1.0

    def reason(self, moment: ConditionMoment, now: bool) -> str:
        """What is compared stands where; names how far it has yet to go back where a hysteresis
        holds it."""
        a = moment.signal(self.a)
        said = f"{moment.signal_label(self.a)} {self._standing(a)}"
        if self.kind == "difference" and self.b is not None:
            said += f", {moment.signal_label(self.b)} at {number(moment.signal(self.b))} %"
        past = {"above": a > self.x, "below": a < self.x, "beyond": abs(a) > self.x}.get(self.kind)
        if past is False and now:
            level = level_words(self.a, self.x, self.kind)
            said += f", which is no longer {COMPARED[self.kind].split(' ', 1)[1]} {level}, but it has not gone back far enough"
        return said

    def _standing(self, a: float) -> str:
        """Where what is compared stands."""
        if self.a in STICK_SIDES and abs(a) < 0.5:
            return "stands in the middle"
        if self.a == "throttle_stick" and abs(a) > 99.5:
            return "is full" if a > 0 else "is low"
        return f"stands at {level_words(self.a, round(a), self.kind)}"

    def write(self, writer: SentenceWriter) -> None:
        writer.kind_of_signal(self.a)
        writer.choice(
            "how it is compared",
            COMPARED[self.kind],
            COMPARED,
            lambda kind: self._compared_by(kind, writer.signals),
        )
        self._write_level(writer, "x", "with what it is compared", self.a)
        if self.kind == "within":
            writer.plain("and")
            self._write_level(writer, "y", "the upper end", "")
        if self.kind == "difference":
            writer.plain("above")
            writer.signal("b")
        writer.plain("and off again")
        share = self._shown_share
        writer.number(
            "hysteresis",
            "so much further back it ends",
            "%",
            0,
            100 * share,
            show=lambda value: value * share,
            store=lambda value: value / share,
        )
        writer.plain("further back")

    def _write_level(self, writer: SentenceWriter, field: str, about: str, signal: str) -> None:
        """A level as its signal is said: the throttle stick in % of its way, a sprung stick to its
        sides."""
        if self._by_power:
            writer.number(
                field,
                about,
                "%",
                0,
                100,
                signal=signal,
                show=power_percent,
                store=lambda value: 2 * value - 100,
            )
        elif self.kind in ("beyond", "difference"):
            writer.number(field, about, "%", 0, 150, signal=signal)
        else:
            writer.number(
                field, about, "%", -150, 150, signal=signal, sides=STICK_SIDES.get(self.a)
            )

    def _compared_by(self, kind: str, signals: tuple[str, ...]) -> Self:
        """The same compared in another way; with an upper end or a second signal where that needs
        one."""
        fields: dict[str, object] = {"kind": kind, "y": None, "b": None}
        if kind == "within":
            fields["y"] = max(self.x, FIRST_UPPER) if self.y is None else self.y
        if kind == "difference":
            others = [n for n in signals if n != self.a]
            fields["b"] = self.b or others[0]
        return self.changed(fields)

    def reading(self, signal: str) -> Self:
        return self.changed({"a": signal})


def over(level: float) -> Cut:
    """A cut just above a level."""
    return level, level + NEAR


def under(level: float) -> Cut:
    """A cut just below a level."""
    return level - NEAR, level


def level_words(signal: str, value: float, kind: str = "above") -> str:
    """A level as its signal is said: the throttle stick in % of its way, a sprung stick to its
    sides, all else in %.

    >>> level_words("throttle_stick", -90), level_words("elevator_stick", -50), level_words("slider", -10)
    ('5 %', '50 % back', '−10 %')
    """
    if kind in BY_PLACE and signal == "throttle_stick":
        return f"{plain(power_percent(value))} %"
    if kind in BY_PLACE and signal in STICK_SIDES and value:
        return f"{plain(abs(value))} % {STICK_SIDES[signal][value > 0]}"
    return f"{plain(value)} %"
