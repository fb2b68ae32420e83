"""Roll and pitch with two elevons."""

from collections.abc import Iterator
from typing import ClassVar, Literal

from hypsos.core.ground.values import Label, Name, Share
from hypsos.core.parts.shapes import MixLine
from hypsos.core.recipes.base import Controls, MadeLine, RecipeBase


class Elevons(RecipeBase):
    """Left = roll share - pitch share, right = -roll share - pitch share. At 50 and 50 nothing is lost at the corners."""

    title: ClassVar[str] = "Elevons"
    kind: Literal["elevons"] = "elevons"
    label: Label = "Elevons"
    left: Name
    right: Name
    roll_share: Share = 50.0
    pitch_share: Share = 50.0

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            for source, gain in (("roll", sign * self.roll_share), ("pitch", -self.pitch_share)):
                line = MixLine(name=self.named(source), target=target, source=source, gain=gain, when=self.when)
                yield MadeLine(line, f"{source}_share")
