"""Roll and pitch with two elevons."""

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.ground.values import Label, Name, Share
from hypsos.core.parts.shapes import MixLine
from hypsos.core.recipes.base import Controls, Ground, MadeLine, Parameter, RecipeBase


class Elevons(RecipeBase):
    """Left = roll share - pitch share, right = -roll share - pitch share. At 50 and 50 nothing is lost at the corners."""

    title: ClassVar[str] = "Elevons"
    about: ClassVar[str] = "Two surfaces do roll and pitch together."
    missing: ClassVar[str] = "there are no two elevons"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("roll_share", "Roll", "At 50 and 50 nothing is lost at the corners."),
        Parameter("pitch_share", "Pitch", "Share of the elevator command."),
        Parameter("left", "Left", kind="part", roles=("elevon",), side="left"),
        Parameter("right", "Right", kind="part", roles=("elevon",), side="right"),
    )
    kind: Literal["elevons"] = "elevons"
    label: Label = "Elevons"
    left: Name
    right: Name
    roll_share: Share = 50.0
    pitch_share: Share = 50.0

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("elevon")
        return cls(left=left[0], right=right[0]) if left and right else None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            for source, gain in (("roll", sign * self.roll_share), ("pitch", -self.pitch_share)):
                line = MixLine(name=self.named(source), target=target, source=source, gain=gain, when=self.when)
                yield MadeLine(line, f"{source}_share")
