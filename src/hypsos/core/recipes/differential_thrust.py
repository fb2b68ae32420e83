# SPDX-License-Identifier: GPL-3.0-or-later
"""Yaw with the motors of both sides."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.airframe import Airframe
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, RecipeBase

GAIN_ONLY = Response(points=((-100.0, 0.0), (0.0, 0.0), (100.0, 100.0)))
LOSS_ONLY = Response(points=((-100.0, 100.0), (0.0, 0.0), (100.0, 0.0)))
FADES_IN = Response(points=((-100.0, 0.0), (-80.0, 100.0), (100.0, 100.0)))
"""Nothing at idle, all of it from a tenth of full power on."""


class DifferentialThrust(RecipeBase):
    """Left motors += share * yaw * lever, right motors -= share * yaw * lever. Motors are named
    from the outside in; each further one has ``inner`` percent of the lever before it, or what
    ``levers`` says. ``speed_up_only`` leaves the slower side as it is. ``at_idle`` *none*: rudder
    alone never starts a motor, the difference fades in over the first tenth of power; *full*: it
    acts at idle too."""

    title: ClassVar[str] = "Differential thrust"
    about: ClassVar[str] = (
        "The motors of one side turn faster than those of the other with the rudder."
    )
    comes: ClassVar[bool] = False
    missing: ClassVar[str] = "there is no motor on each side"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("share", "Rudder speeds up one side by", "Left rudder speeds up the right side."),
        Parameter("inner", "Each motor further in gets", "Of the one outside it."),
        Parameter("levers", "Or a share per motor", "Of the outer one; typed, it stands for the share by place.", kind="levers"),
        Parameter("speed_up_only", "Leave the slower side as it is", kind="yes or no"),
        Parameter(
            "at_idle", "At idle", "None: rudder alone never starts a motor. In full: it may.", kind="choice",
            choices=(("none", "none, it fades in"), ("full", "in full (danger)")),
        ),
        Parameter("left", "Left", kind="parts", roles=("motor",), side="left"),
        Parameter("right", "Right", kind="parts", roles=("motor",), side="right"),
    )  # fmt: skip
    kind: Literal["differential_thrust"] = "differential_thrust"
    label: Label = "Differential thrust"
    signal: Name = "turn_power"
    left: Parts
    right: Parts
    share: Share = 15.0
    inner: Annotated[float, Field(ge=0, le=100)] = 60.0
    levers: Annotated[dict[Name, Share], Field(max_length=40)] = {}
    moved_by: ClassVar[tuple[str, ...]] = ("yaw",)
    speed_up_only: bool = False
    at_idle: Literal["none", "full"] = "none"

    @property
    def given_at_idle(self) -> str:
        return self.at_idle

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.body.side_motors()
        if not left or not right:
            return None
        return cls(left=left, right=right, signal=ground.signal("turn_power"))

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """It goes on with the motors that stand to the sides now."""
        motors = {m.name for m in body.motors}
        if not {*self.left, *self.right} & gone and not motors & new:
            return self
        left, right = body.side_motors()
        kept = {n: x for n, x in self.levers.items() if n in motors}
        return (
            self.changed({"left": left, "right": right, "levers": kept}) if left and right else None
        )

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        yaw = MixLine(
            name=self.label, target=self.signal, source="yaw", when=self.when, with_trim=False
        )
        yield MadeLine(yaw, "share")
        if self.at_idle == "none":
            fade = MixLine(
                name=self.named("none at idle"),
                target=self.signal,
                source="thrust",
                response=FADES_IN,
                combine="scale",
            )
            yield MadeLine(fade, "at_idle")
        for sign, names, response in ((1.0, self.left, GAIN_ONLY), (-1.0, self.right, LOSS_ONLY)):
            for i, name in enumerate(names):
                gain = self.share * (
                    self.levers[name] / 100.0 if name in self.levers else (self.inner / 100.0) ** i
                )
                line = MixLine(
                    name=self.label,
                    target=name,
                    source=self.signal,
                    gain=gain if self.speed_up_only else sign * gain,
                    response=response if self.speed_up_only else None,
                )
                yield MadeLine(line, "share")
