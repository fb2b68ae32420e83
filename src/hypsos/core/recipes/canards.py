# SPDX-License-Identifier: GPL-3.0-or-later
"""Canards that follow pitch, roll or both."""

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, RecipeBase


class Canards(RecipeBase):
    """Left = pitch share + roll share, right = pitch share - roll share: ahead of the centre of
    gravity, trailing edge down is nose up. Trims follow unless ``with_trim`` is off."""

    title: ClassVar[str] = "Canards"
    about: ClassVar[str] = (
        "Surfaces ahead of the wing help with pitch, and with roll where that is wanted."
    )
    missing: ClassVar[str] = "there are no canards that move"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("pitch_share", "Pitch", "Ahead of the centre of gravity: down is nose up."),
        Parameter("roll_share", "Roll", "0 leaves them out of it."),
        Parameter("with_trim", "Trims move them too", kind="yes or no"),
        Parameter("left", "Left", kind="part", roles=("canard",), side="left"),
        Parameter("right", "Right", kind="part", roles=("canard",), side="right"),
    )
    kind: Literal["canards"] = "canards"
    label: Label = "Canards"
    left: Name
    right: Name
    pitch_share: Share = 70.0
    roll_share: Share = 0.0
    with_trim: bool = True
    moved_by: ClassVar[tuple[str, ...]] = ("pitch", "roll")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("canard")
        return cls(left=left[0], right=right[0]) if left and right else None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            for source, gain, field in (
                ("pitch", self.pitch_share, "pitch_share"),
                ("roll", sign * self.roll_share, "roll_share"),
            ):
                if gain:
                    line = MixLine(
                        name=self.named(source),
                        target=target,
                        source=source,
                        gain=gain,
                        with_trim=self.with_trim,
                        when=self.when,
                    )
                    yield MadeLine(line, field)
