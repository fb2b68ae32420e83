# SPDX-License-Identifier: GPL-3.0-or-later
"""Yaw without a fin: a surface near each wing tip that splits open and holds its side back."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, RecipeBase

ROLES = ("drag rudder", "airbrake", "spoiler")


class DragRudders(RecipeBase):
    """Right = -response(yaw), left = -response(-yaw), -100 is all the way open: only the side opens
    to which the nose is to go.

    ``resting``: both stand open by so much with the rudder stick in the middle. A little of it
    takes away the lag before the first opening bites; the side that is to close can then shut. Each
    is open by ``resting + share * yaw``, between shut and 100 %."""

    title: ClassVar[str] = "Drag rudders"
    about: ClassVar[str] = (
        "Near each wing tip a surface splits open: the side that opens is held back, and the nose goes there."
    )
    missing: ClassVar[str] = "there are no drag rudders"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("share", "Opens with full rudder", "On the side to which the nose is to go."),
        Parameter("share_from", "Times the shared value", "So it can be set by flight mode, or in flight.", kind="shared",
                  of="share"),
        Parameter("resting", "Both stand open by", "A little takes away the lag in the middle, and brakes a little always."),
        Parameter("with_trim", "Trims move them too", kind="yes or no"),
        Parameter("left", "Left", kind="parts", roles=ROLES, side="left"),
        Parameter("right", "Right", kind="parts", roles=ROLES, side="right"),
    )  # fmt: skip
    kind: Literal["drag_rudders"] = "drag_rudders"
    label: Label = "Drag rudders"
    signal: Name = "drag_rudder"
    left: Parts
    right: Parts
    share: Share = 100.0
    share_from: Name | None = None
    resting: Annotated[float, Field(ge=0, le=100)] = 0.0
    with_trim: bool = True
    moved_by: ClassVar[tuple[str, ...]] = ("yaw",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("drag rudder")
        if not left or not right or (ground.steers and "yaw" not in ground.steers):
            return None
        return cls(left=left, right=right, signal=ground.signal("drag_rudder"))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        asked = MixLine(
            name=self.named("asked for"),
            target=self.signal,
            source="yaw",
            gain=self.share,
            gain_from=self.share_from,
            with_trim=self.with_trim,
            when=self.when,
        )
        yield MadeLine(asked, "share")
        for sign, names in ((-1.0, self.left), (1.0, self.right)):
            for name in names:
                opens = MixLine(
                    name=self.label,
                    target=name,
                    source=self.signal,
                    response=self._opens(sign),
                    when=self.when,
                )
                yield MadeLine(opens, "resting")

    def _opens(self, sign: float) -> Response:
        """How a side goes by what is asked for, -100 all the way open: shut, then straight until
        all the way."""
        points = {-100.0: 0.0, -self.resting: 0.0, 100.0 - self.resting: -100.0, 100.0: -100.0}
        mirrored = ((sign * x, y) for x, y in points.items())
        return Response(points=tuple(sorted(mirrored)))
