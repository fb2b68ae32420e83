# SPDX-License-Identifier: GPL-3.0-or-later
"""What all recipes share, and how a recipe describes itself: the window, adapting and the sheet
read nothing else of it."""

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import Annotated, Any, ClassVar, Literal, NamedTuple, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Travel, Value
from hypsos.core.parts.airframe import SLENDER, Airframe, Surface
from hypsos.core.parts.condition_text import Condition, opposite
from hypsos.core.parts.mix_lines import MixLine, Response, held_differential
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Tunable


class MadeLine(NamedTuple):
    """A mix line that a recipe made; ``field`` is the recipe's own field where its number is
    set."""

    line: MixLine
    field: str


Parts = Annotated[tuple[Name, ...], Field(max_length=60)]
"""Names of surfaces or motors."""
Controls = Callable[[str], Control | None]
Kind = Literal[
    "percent", "surface", "place", "seconds", "switch", "control", "yes or no", "choice", "condition", "shared", "signal", "axes",
    "positions", "amounts", "by mode", "shares", "response", "levers", "part", "parts", "edge",
]  # fmt: skip
"""``surface`` is where surfaces go, those of the field ``of``; ``place`` is a place on a control's
travel; ``shared`` a shared value that stands in, or none; ``signal`` a signal that is read, or
none; ``amounts`` travel for groups of parts; ``by mode`` figures for every flight mode; ``shares``
one for each position of a switch; ``levers`` one for each motor; ``edge`` the angle that is 100 %,
or none."""
REFERS = ("switch", "control")
"""Kinds that name a control."""
PART_KINDS = ("part", "parts", "amounts")


class Amount(Value):
    """Parts that move together, and by how much: percent, + is trailing edge down."""

    parts: Parts
    travel: Travel = 0.0


Amounts = Annotated[tuple[Amount, ...], Field(max_length=20)]


class RollShares(NamedTuple):
    """What a behaviour asks of its sides at full roll: a surface of the left side, and the percent
    of its travel on the side that goes up and on the one that goes down."""

    surface: str
    up: float
    down: float


class Parameter(NamedTuple):
    """A field of a recipe in the pilot's words.

    ``choices``: for a choice the values with their words. ``roles``: for parts the surfaces that
    may be named, ``motor`` for motors, a kind of device for those; ``side`` where only those of one
    side may. ``later``: parts of these roles that come after the recipe was made are put in where
    there are none. ``of``: for an amount of a surface the field that names the surfaces, for a
    shared value the field it multiplies, for a share of an edge the field with its angle.
    ``levers``: a control may be a trim lever, too. ``limit``: a condition without which nothing of
    the behaviour acts. Bounds are those of the field itself."""

    key: str
    label: str
    tip: str = ""
    kind: Kind = "percent"
    choices: tuple[tuple[str, str], ...] = ()
    roles: tuple[str, ...] = ()
    side: str = ""
    later: bool = False
    of: str = ""
    levers: bool = False
    limit: bool = False


@dataclass(frozen=True)
class Ground:
    """The aeroplane for which a recipe is made: its airframe, the parts that are to be looked at
    (those that have just come, or all), a switch for flaps, and a signal that is free. ``slider``
    and ``spare``: a slider or knob, and a switch with three positions or fewer, that do nothing
    yet; empty where there is none. ``modes``: the flight modes, the default mode last. ``steers``:
    the commands that have an axis. ``quiet``: the throttle stick drives no motor. ``brakes``: a
    slider for airbrakes, where one may be added. ``guarded``: the motors have a guard. ``lines``:
    the plain mixes there are; ``switches``: how many positions each switch has. ``yaws``: by how
    much of its travel the full rudder command moves a surface, in percent: 100 for a rudder, less
    for the halves of a V-tail."""

    body: Airframe
    among: frozenset[str]
    switch: Callable[[], str]
    signal: Callable[[str], str]
    slider: str = ""
    spare: str = ""
    modes: tuple[str, ...] = ()
    steers: tuple[str, ...] = ()
    quiet: bool = False
    brakes: Callable[[], str] = lambda: ""
    guarded: bool = False
    lines: tuple[MixLine, ...] = ()
    switches: Mapping[str, int] = field(default_factory=dict)
    yaws: Mapping[str, float] = field(default_factory=dict)

    @property
    def gliding(self) -> bool:
        """Whether it has the wing of a sailplane."""
        return slender(self.body)

    def sides(self, *roles: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The surfaces of these roles at the left and at the right."""
        mine = [s for s in self.body.with_roles(*roles) if s.name in self.among]
        left = tuple(s.name for s in mine if s.side == "left")
        right = tuple(s.name for s in mine if s.side == "right")
        return left, right

    def groups(self, *roles: str) -> list[tuple[Surface, ...]]:
        """The surfaces of these roles that are each other's likes at the left and the right, from
        the middle out."""
        return groups_of(
            self.body, [s for s in self.body.with_roles(*roles) if s.name in self.among]
        )

    def pitching(self, but: Iterable[str] = ()) -> tuple[str, ...]:
        """All surfaces that do the elevator's work, but these."""
        left_out = set(but)
        return tuple(s.name for s in self.body.pitching() if s.name not in left_out)

    def followers(self, names: Iterable[str]) -> tuple[Surface, ...]:
        """The surfaces that hang on the servo of one of these."""
        masters = set(names)
        return tuple(s for s in self.body.surfaces if s.follows in masters)


def slender(body: Airframe) -> bool:
    """Whether an aeroplane has the proportions of a sailplane."""
    wing = body.panel("wing")
    return wing is not None and wing.span_mm > SLENDER * body.fuselage.length_mm


def groups_of(body: Airframe, surfaces: Iterable[Surface]) -> list[tuple[Surface, ...]]:
    """Surfaces that are each other's likes at the left and the right put together, from the middle
    out."""
    found: dict[str, tuple[Surface, ...]] = {}
    panels = [p.name for p in body.panels]
    for s in sorted(surfaces, key=lambda s: (panels.index(s.panel), s.start_mm)):
        other = body.other_side(s.name)
        # a surface joins its likes on the other side, or begins a group
        key = next((k for k in found if other is not None and k == other), s.name)
        found[key] = (*found.get(key, ()), s)
    return [tuple(sorted(g, key=lambda s: s.side != "left")) for g in found.values()]


def left_of(parts: Iterable[str], gone: Collection[str]) -> tuple[str, ...]:
    """The parts that an aeroplane still has."""
    return tuple(n for n in parts if n not in gone)


class RecipeBase(Value):
    """A parameter set that always expands the same way into mix lines and shared values.

    While ``when`` does not hold, or it is not ``on``, it gives nothing. ``signal`` is the signal of
    its own that it feeds, where it has one; the names of whatever else it makes begin with it.
    ``title`` and ``about`` say what it is for, ``missing`` what an aeroplane lacks that cannot have
    it, ``parameters`` what can be set, besides its label and ``when``."""

    title: ClassVar[str] = ""
    about: ClassVar[str] = ""
    missing: ClassVar[str] = ""
    parameters: ClassVar[tuple[Parameter, ...]] = ()
    comes: ClassVar[bool] = True
    """Whether it comes by itself with the parts it moves."""
    kind: str
    label: Label
    when: Condition | None = None
    signal: Name | None = None
    on: bool = True
    switched_off_by: ClassVar[tuple[str, ...]] = ("when",)
    """Its fields with a condition without which it gives nothing."""
    moved_by: ClassVar[tuple[str, ...]] = ()
    """What moves it, for pictures of it: commands, ``control`` (the one its field of that name
    names), ``modes``, a field of its own with a condition."""

    @classmethod
    @cache
    def of(cls, *kinds: str) -> tuple[Parameter, ...]:
        """The parameters of these kinds."""
        return tuple(p for p in cls.parameters if p.kind in kinds)

    @classmethod
    def bounds(cls, key: str) -> tuple[float, float]:
        """Between which values a number may lie; every number of a recipe has both bounds."""
        rules = cls.model_fields[key].metadata
        low = next(rule.ge for rule in rules if hasattr(rule, "ge"))
        high = next(rule.le for rule in rules if hasattr(rule, "le"))
        return float(low), float(high)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        """The recipe with sensible first values for an aeroplane; None where it lacks the parts."""
        raise NotImplementedError

    def named(self, tail: str = "") -> str:
        """The recipe's label with a word behind it, short enough for a line."""
        return f"{self.label[: 58 - len(tail)]}, {tail}" if tail else self.label

    def signals(self) -> tuple[tuple[str, str], ...]:
        """The signals it feeds, each with what people call it."""
        return () if self.signal is None else ((self.signal, self.label),)

    def roll_shares(self) -> RollShares | None:
        """What it asks of the two sides of the wing at full roll, for a behaviour that rolls and
        says itself how much less the side going down gets."""
        return None

    def own_values(self) -> tuple[Tunable, ...]:
        """The shared values it makes."""
        return ()

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        """Where it moves several sections of a wing as one trailing edge: pairs of (flight mode, or
        nothing where it is the same in all, and how far it moves each of them, in percent of
        itself). ``shared``: what shared values are now."""
        return iter(())

    def multiplied(self, key: str, percent: float) -> Any:
        """The value of a field as a shared value makes it that stands at so many percent."""
        value = getattr(self, key)
        return (
            held_differential(value, percent) if key == "differential" else value * percent / 100.0
        )

    def feels(self) -> dict[str, tuple[str | None, str | None]]:
        """Command -> the shared values that it puts in the place of its axis' rate and expo."""
        return {}

    def made_response(self, key: str) -> Response:
        """The response of a field as its mixes have it."""
        response: Response = getattr(self, key)
        return response

    def asks(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, condition)."""
        for key in ("when", *(p.key for p in self.of("condition"))):
            text = getattr(self, key)
            if text is not None:
                yield key, text

    def reads(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, name of a control)."""
        for parameter in self.of(*REFERS):
            name = getattr(self, parameter.key)
            if name:
                yield parameter.key, name

    def shares(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, shared value)."""
        for parameter in self.of("shared"):
            name = getattr(self, parameter.key)
            if name is not None:
                yield parameter.key, name

    def without_mode(self, name: str) -> Self:
        """The recipe where a flight mode is gone."""
        fields = {}
        for parameter in self.of("by mode"):
            table = getattr(self, parameter.key)
            if name in table:
                fields[parameter.key] = {n: v for n, v in table.items() if n != name}
        return self.changed(fields) if fields else self

    def renamed(self, signal: str) -> Self:
        """A copy that feeds another signal."""
        return self.changed({"signal": signal}) if self.signal is not None else self

    def parts(self) -> Iterator[tuple[str, str]]:
        """Pairs of (path within the recipe, name of a part)."""
        for parameter in self.of(*PART_KINDS):
            value = getattr(self, parameter.key)
            if parameter.kind == "amounts":
                for i, amount in enumerate(value):
                    for k, name in enumerate(amount.parts):
                        yield f"{parameter.key}[{i}].parts[{k}]", name
            elif isinstance(value, str):
                yield parameter.key, value
            else:
                yield from ((f"{parameter.key}[{i}]", name) for i, name in enumerate(value))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        """The mix lines it stands for, in order. ``controls`` finds a switch by its name."""
        raise NotImplementedError

    @property
    def asked_signal(self) -> str:
        """The signal that takes what its control asks for, where several rules stand before it: see
        :meth:`behind_rules`."""
        return f"{(self.signal or '')[:34]}_asked"

    def ruled_signals(self) -> tuple[tuple[str, str], ...]:
        """Its own signal, and the one for what is asked for where it asks more than one
        condition."""
        own = RecipeBase.signals(self)
        if len(list(self.asks())) < 2:
            return own
        return (*own, (self.asked_signal, self.named("asked for")))

    def behind_rules(
        self,
        line: MixLine,
        rules: Sequence[tuple[str, str]],
        asked: str,
        words: tuple[str, str],
        field: str,
    ) -> Iterator[MadeLine]:
        """A line that gives something only while every rule holds, with its slow behind all of
        them.

        A line has one ``when``. With more rules than one, a signal ``asked`` takes what the control
        asks for: nothing of it while any rule does not hold. The line reads that signal, so that
        its slow sees each rule come and go. ``rules``: pairs of (field, condition). ``words``: how
        the lines of ``asked`` are called. ``field``: whose figure the line is."""
        if len(rules) < 2:
            yield MadeLine(line.changed({"when": rules[0][1] if rules else None}), field)
            return
        plain = {
            "target": asked,
            "in_s": 0.0,
            "out_s": 0.0,
            "when": rules[0][1],
            "name": self.named(words[0]),
        }
        yield MadeLine(line.changed(plain), field)
        for rule_field, text in rules[1:]:
            gone = MixLine(
                name=self.named(words[1]),
                target=asked,
                source="full",
                gain=0,
                when=opposite(text),
                combine="scale",
            )
            yield MadeLine(gone, rule_field)
        # the line itself, behind the rules: its slow sees the sum of all of them
        yield MadeLine(line.changed({"source": asked, "response": None}), "in_s")

    def beside(self, other: "RecipeBase") -> "RecipeBase":
        """Another recipe of the model as it should be once this one has come."""
        return other

    def throttles(self) -> tuple[str, ...]:
        """The controls with which it gives motors their power."""
        return ()

    def replaces(self, line: MixLine) -> bool:
        """Whether a plain line of the model has to go once this behaviour has come: it does the
        same work."""
        return False

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong) that a single field's check cannot see."""
        return iter(())

    @property
    def given_at_idle(self) -> str | None:
        """What it was said to give a motor at idle, ``"none"`` or ``"full"``; None where nobody is
        asked that."""
        return None

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what asks for a second look)."""
        return iter(())

    def on_switch(self, key: str, control: Control) -> Self:
        """The recipe on another switch."""
        return self.changed({key: control.name})

    def turned(self, key: str, count: int) -> Self | None:
        """The recipe where the switch that a field names begins at its other end: each position
        goes on doing what it did. None where it reads the switch as a number and can't follow."""
        by_position = self.of("positions", "shares")
        if not by_position:
            read_as_number = any(p.key == key for p in self.of("control"))
            return None if read_as_number else self
        old = getattr(self, by_position[0].key)
        # positions that were not set hold the last one's figure; written out, they can be turned
        # round
        whole = (*old, *old[-1:] * (count - len(old)))
        return self.changed({by_position[0].key: whole[::-1]})

    def recounted(self, key: str, old: int, count: int) -> Self:
        """The recipe where the switch that a field names has another number of positions: those
        that stay go on as they did. A middle that comes between two ends does what the last one
        does; where it goes again, the last one keeps its own."""
        by_position = self.of("positions", "shares")
        if not by_position or (old, count) != (3, 2):
            return self  # positions that are not set hold the last one's figure
        figures = getattr(self, by_position[0].key)
        return self.changed({by_position[0].key: (figures[0], *figures[1:][-1:])})

    def joined(self, other: Self) -> Self:
        """This recipe with the parts of another of its kind besides its own."""
        more = {
            p.key: tuple(dict.fromkeys((*getattr(self, p.key), *getattr(other, p.key))))
            for p in self.of("parts")
            if not p.later
        }
        # each part once, the own ones first
        return self.changed(more)

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """The recipe on another airframe, where parts have ``gone`` and ``new`` ones come; None
        where it must be let go."""
        heirs = tuple(s.name for s in body.pitching())
        fields: dict[str, Any] = {}
        for parameter in self.of("part", "parts"):
            value = getattr(self, parameter.key)
            names = (value,) if isinstance(value, str) else value
            # what is gone is left out; a recipe without the parts it is made for cannot go on
            kept = left_of(names, gone)
            if len(kept) == len(names):
                continue
            if parameter.later:  # what helps: another tail takes over from the old one
                fields[parameter.key] = tuple(dict.fromkeys((*kept, *heirs)))
            elif not kept or isinstance(value, str):
                return None
            else:
                fields[parameter.key] = kept
        if not self._fit_amounts(gone, fields):
            return None
        return self.changed(fields) if fields else self

    def _fit_amounts(self, gone: frozenset[str], fields: dict[str, Any]) -> bool:
        """Put what is left of every amount into ``fields``; False where there were some and all are
        gone."""
        had, left = 0, 0
        for parameter in self.of("amounts"):
            old = getattr(self, parameter.key)
            kept = [x.changed({"parts": left_of(x.parts, gone)}) for x in old]
            kept = [x for x in kept if x.parts]
            # counted over all amounts: one that is left is enough
            had, left = had + len(old), left + len(kept)
            if tuple(kept) != old:
                fields[parameter.key] = tuple(kept)
        return left > 0 or had == 0
