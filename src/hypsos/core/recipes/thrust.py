"""Yaw with the motors of both sides."""

from collections.abc import Iterator
from typing import ClassVar, Literal

from hypsos.core.logic import Condition
from hypsos.core.recipes.base import Controls, MadeLine, RecipeBase
from hypsos.core.shapes import MixLine, Response
from hypsos.core.values import Name, Share

GAIN_ONLY = Response(points=((-100.0, 0.0), (0.0, 0.0), (100.0, 100.0)))
LOSS_ONLY = Response(points=((-100.0, 100.0), (0.0, 0.0), (100.0, 0.0)))


class DifferentialThrust(RecipeBase):
    """Left motors += share * yaw * lever, right motors -= share * yaw * lever. Motors are named from the outside in; each
    further one has ``inner`` percent of the lever before it. ``speed_up_only`` leaves the slower side as it is."""

    title: ClassVar[str] = "Differential thrust"
    kind: Literal["differential_thrust"] = "differential_thrust"
    label: str = "Differential thrust"
    left: tuple[Name, ...]
    right: tuple[Name, ...]
    share: Share = 15.0
    inner: Share = 60.0
    speed_up_only: bool = False
    when: Condition | None = None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for sign, names, response in ((1.0, self.left, GAIN_ONLY), (-1.0, self.right, LOSS_ONLY)):
            for i, name in enumerate(names):
                gain = self.share * (self.inner / 100.0) ** i
                line = MixLine(
                    name=self.label, target=name, source="yaw", gain=gain if self.speed_up_only else sign * gain,
                    response=response if self.speed_up_only else None, when=self.when, with_trim=False,
                )  # fmt: skip
                yield MadeLine(line, "share")
