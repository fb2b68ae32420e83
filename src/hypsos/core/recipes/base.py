"""What all recipes share."""

from collections.abc import Callable, Iterator
from typing import ClassVar, NamedTuple

from hypsos.core.shapes import MixLine
from hypsos.core.transmitter import Control
from hypsos.core.values import Label, Value


class MadeLine(NamedTuple):
    """A mix line that a recipe made; ``field`` is the recipe's own field where its number is set."""

    line: MixLine
    field: str


Controls = Callable[[str], Control | None]


class RecipeBase(Value):
    """A parameter set that always expands the same way into mix lines."""

    title: ClassVar[str] = ""
    label: Label

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        """The mix lines it stands for, in order. ``controls`` finds a switch by its name."""
        raise NotImplementedError

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        """Pairs of (field, what is wrong) that a single field's check cannot see."""
        return iter(())
