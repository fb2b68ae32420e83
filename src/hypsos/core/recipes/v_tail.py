"""Pitch and yaw with two ruddervators."""

from collections.abc import Iterator
from typing import ClassVar, Literal

from hypsos.core.ground.values import Label, Name, Share
from hypsos.core.parts.shapes import MixLine
from hypsos.core.recipes.base import Controls, MadeLine, RecipeBase


class VTail(RecipeBase):
    """Left = -pitch share - yaw share, right = -pitch share + yaw share."""

    title: ClassVar[str] = "V-tail"
    kind: Literal["v_tail"] = "v_tail"
    label: Label = "V-tail"
    left: Name
    right: Name
    pitch_share: Share = 55.0
    yaw_share: Share = 45.0

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, yaw_sign in ((self.left, -1.0), (self.right, 1.0)):
            for source, gain in (("pitch", -self.pitch_share), ("yaw", yaw_sign * self.yaw_share)):
                line = MixLine(name=self.named(source), target=target, source=source, gain=gain, when=self.when)
                yield MadeLine(line, f"{source}_share")
