"""What all recipes share."""

from collections.abc import Callable, Iterator
from typing import Annotated, ClassVar, NamedTuple

from pydantic import Field

from hypsos.core.ground.values import Label, Name, Value
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


class RecipeBase(Value):
    """A parameter set that always expands the same way into mix lines.

    While ``when`` does not hold it gives nothing. ``signal`` is the signal of its own that it feeds, where it has one.
    ``part_fields`` names the fields that hold parts of the aeroplane, ``control_fields`` those that hold switches.
    """

    title: ClassVar[str] = ""
    part_fields: ClassVar[tuple[str, ...]] = ("left", "right")
    control_fields: ClassVar[tuple[str, ...]] = ()
    label: Label
    when: Condition | None = None
    signal: Name | None = None

    def named(self, tail: str = "") -> str:
        """The recipe's label with a word behind it, short enough for a line."""
        return f"{self.label[: 58 - len(tail)]}, {tail}" if tail else self.label

    def parts(self) -> Iterator[tuple[str, str]]:
        """Pairs of (path within the recipe, name of a part)."""
        for field in self.part_fields:
            value = getattr(self, field)
            if isinstance(value, str):
                yield field, value
            else:
                yield from ((f"{field}[{i}]", name) for i, name in enumerate(value))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        """The mix lines it stands for, in order. ``controls`` finds a switch by its name."""
        raise NotImplementedError

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong) that a single field's check cannot see."""
        return iter(())
