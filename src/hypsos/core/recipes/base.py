"""What all recipes share, and how a recipe describes itself: the window, adapting and the sheet read nothing else of it."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, NamedTuple, Self

from pydantic import Field

from hypsos.core.ground.values import Label, Name, Value
from hypsos.core.parts.airframe import Airframe, Surface
from hypsos.core.parts.logic import Condition
from hypsos.core.parts.shapes import MixLine
from hypsos.core.parts.transmitter import Control


class MadeLine(NamedTuple):
    """A mix line that a recipe made; ``field`` is the recipe's own field where its number is set."""

    line: MixLine
    field: str


Parts = Annotated[tuple[Name, ...], Field(max_length=60)]
"""Names of surfaces or motors."""
Controls = Callable[[str], Control | None]
Kind = Literal["percent", "seconds", "switch", "yes or no", "choice", "positions", "part", "parts"]


class Parameter(NamedTuple):
    """A field of a recipe in the pilot's words.

    ``choices``: for a choice the values with their words. ``roles``: for parts the surfaces that may be named, ``motor`` for
    motors; ``side`` where only those of one side may. ``later``: parts of these roles that come after the recipe was made are
    put in where there are none. Bounds are those of the field itself.
    """

    key: str
    label: str
    tip: str = ""
    kind: Kind = "percent"
    choices: tuple[tuple[str, str], ...] = ()
    roles: tuple[str, ...] = ()
    side: str = ""
    later: bool = False


@dataclass(frozen=True)
class Ground:
    """The aeroplane for which a recipe is made: its airframe, the parts that are to be looked at (those that have just come,
    or all), a switch for flaps, and a signal that is free."""

    body: Airframe
    among: frozenset[str]
    switch: Callable[[], str]
    signal: Callable[[str], str]

    def sides(self, *roles: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The surfaces of these roles at the left and at the right."""
        mine = [s for s in self.body.with_roles(*roles) if s.name in self.among]
        left, right = (tuple(s.name for s in mine if s.side == side) for side in ("left", "right"))
        return left, right

    def pitching(self, but: Iterable[str] = ()) -> tuple[str, ...]:
        """All surfaces that do the elevator's work, but these."""
        left_out = set(but)
        return tuple(s.name for s in self.body.pitching() if s.name not in left_out)

    def followers(self, names: Iterable[str]) -> tuple[Surface, ...]:
        """The surfaces that hang on the servo of one of these."""
        masters = set(names)
        return tuple(s for s in self.body.surfaces if s.follows in masters)


class RecipeBase(Value):
    """A parameter set that always expands the same way into mix lines.

    While ``when`` does not hold it gives nothing. ``signal`` is the signal of its own that it feeds, where it has one.
    ``title`` and ``about`` say what it is for, ``missing`` what an aeroplane lacks that cannot have it, ``parameters`` what can
    be set, besides its label and ``when``.
    """

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

    @classmethod
    def of(cls, *kinds: str) -> tuple[Parameter, ...]:
        """The parameters of these kinds."""
        return tuple(p for p in cls.parameters if p.kind in kinds)

    @classmethod
    def bounds(cls, key: str) -> tuple[float, float]:
        """Between which values a number may lie; every number of a recipe has both bounds."""
        rules = cls.model_fields[key].metadata
        low, high = (next(getattr(r, end) for r in rules if hasattr(r, end)) for end in ("ge", "le"))
        return float(low), float(high)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        """The recipe with sensible first values for an aeroplane; None where it lacks the parts."""
        raise NotImplementedError

    def named(self, tail: str = "") -> str:
        """The recipe's label with a word behind it, short enough for a line."""
        return f"{self.label[: 58 - len(tail)]}, {tail}" if tail else self.label

    def parts(self) -> Iterator[tuple[str, str]]:
        """Pairs of (path within the recipe, name of a part)."""
        for parameter in self.of("part", "parts"):
            value = getattr(self, parameter.key)
            if isinstance(value, str):
                yield parameter.key, value
            else:
                yield from ((f"{parameter.key}[{i}]", name) for i, name in enumerate(value))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        """The mix lines it stands for, in order. ``controls`` finds a switch by its name."""
        raise NotImplementedError

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong) that a single field's check cannot see."""
        return iter(())

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what asks for a second look)."""
        return iter(())

    def on_switch(self, key: str, control: Control) -> Self:
        """The recipe on another switch."""
        return self.changed({key: control.name})

    def joined(self, other: Self) -> Self:
        """This recipe with the parts of another of its kind besides its own."""
        more = {
            p.key: tuple(dict.fromkeys((*getattr(self, p.key), *getattr(other, p.key))))
            for p in self.of("parts")
            if not p.later
        }
        return self.changed(more)

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """The recipe on another airframe, where parts have ``gone`` and ``new`` ones come; None where it must be let go."""
        heirs = tuple(s.name for s in body.pitching())
        fields: dict[str, Any] = {}
        for parameter in self.of("part", "parts"):
            value = getattr(self, parameter.key)
            names = (value,) if isinstance(value, str) else value
            kept = tuple(n for n in names if n not in gone)
            if len(kept) == len(names):
                continue
            if parameter.later:  # what helps: another tail takes over from the old one
                fields[parameter.key] = tuple(dict.fromkeys((*kept, *heirs)))
            elif not kept or isinstance(value, str):
                return None
            else:
                fields[parameter.key] = kept
        return self.changed(fields) if fields else self
