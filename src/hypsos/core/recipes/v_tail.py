"""Pitch and yaw with two ruddervators."""

from collections.abc import Iterator
from typing import ClassVar, Literal

from hypsos.core.recipes.base import Controls, MadeLine, RecipeBase
from hypsos.core.shapes import MixLine
from hypsos.core.values import Name, Share


class VTail(RecipeBase):
    """Left = -pitch share - yaw share, right = -pitch share + yaw share."""

    title: ClassVar[str] = "V-tail"
    kind: Literal["v_tail"] = "v_tail"
    label: str = "V-tail"
    left: Name
    right: Name
    pitch_share: Share = 55.0
    yaw_share: Share = 45.0

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, yaw_sign in ((self.left, -1.0), (self.right, 1.0)):
            pitch = MixLine(name=f"{self.label}, pitch", target=target, source="pitch", gain=-self.pitch_share)
            yaw = MixLine(name=f"{self.label}, yaw", target=target, source="yaw", gain=yaw_sign * self.yaw_share)
            yield MadeLine(pitch, "pitch_share")
            yield MadeLine(yaw, "yaw_share")
