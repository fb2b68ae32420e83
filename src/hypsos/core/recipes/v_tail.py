# SPDX-License-Identifier: GPL-3.0-or-later
"""Pitch and yaw with two ruddervators."""

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, RecipeBase


class VTail(RecipeBase):
    """Left = -pitch share - yaw share, right = -pitch share + yaw share."""

    title: ClassVar[str] = "V-tail"
    about: ClassVar[str] = "Two surfaces do pitch and yaw together."
    missing: ClassVar[str] = "there are no two surfaces of a V-tail"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("pitch_share", "Pitch", "Share of the elevator command."),
        Parameter("yaw_share", "Yaw", "Share of the rudder command."),
        Parameter("left", "Left", kind="part", roles=("ruddervator",), side="left"),
        Parameter("right", "Right", kind="part", roles=("ruddervator",), side="right"),
    )
    kind: Literal["v_tail"] = "v_tail"
    label: Label = "V-tail"
    left: Name
    right: Name
    pitch_share: Share = 55.0
    yaw_share: Share = 45.0
    moved_by: ClassVar[tuple[str, ...]] = ("pitch", "yaw")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("ruddervator")
        return cls(left=left[0], right=right[0]) if left and right else None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, yaw_sign in ((self.left, -1.0), (self.right, 1.0)):
            for source, gain in (("pitch", -self.pitch_share), ("yaw", yaw_sign * self.yaw_share)):
                line = MixLine(
                    name=self.named(source), target=target, source=source, gain=gain, when=self.when
                )
                yield MadeLine(line, f"{source}_share")
