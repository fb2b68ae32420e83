"""Roll with a pair of surfaces."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from hypsos.core.ground.values import Label, Share
from hypsos.core.parts.shapes import MixLine
from hypsos.core.recipes.base import Controls, MadeLine, Parts, RecipeBase


class Ailerons(RecipeBase):
    """Left += share * roll, right -= share * roll; ``differential`` takes from the side going down (or up, if < 0)."""

    title: ClassVar[str] = "Ailerons"
    kind: Literal["ailerons"] = "ailerons"
    label: Label = "Ailerons"
    left: Parts
    right: Parts
    share: Share = 100.0
    differential: Annotated[float, Field(ge=-100, le=100)] = 0.0

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for sign, names in ((1.0, self.left), (-1.0, self.right)):
            for name in names:
                line = MixLine(
                    name=self.label, target=name, source="roll", gain=sign * self.share, differential=self.differential,
                    when=self.when,
                )  # fmt: skip
                yield MadeLine(line, "share")
