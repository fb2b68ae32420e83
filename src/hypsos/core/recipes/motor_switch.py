# SPDX-License-Identifier: GPL-3.0-or-later
"""A motor on a switch: a power for each position, with a soft start and a soft stop."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Seconds
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import switch_value
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, RecipeBase

FROM_IDLE_TO_FULL = 200.0
"""A motor's sum begins at idle, -100 %, and full power is 100 %: one percent of power is two of the
sum."""

POSITIONS = ("first", "second", "third")
"""The fields with the power at each position."""

PowerShare = Annotated[float, Field(ge=0, le=100)]


class MotorSwitch(RecipeBase):
    """Motors = a power for each position of a switch, 0 to 100 %, that changes no faster than
    ``in_s`` and ``out_s`` let it.

    The power is a signal of the recipe's own, slowed there once for all motors. The guard looks at
    what the motors are told, so nothing arms until the soft stop has come to its end."""

    title: ClassVar[str] = "Motor on a switch"
    about: ClassVar[str] = (
        "Each position of a switch gives the motor a power of its own, with a soft start and stop."
    )
    missing: ClassVar[str] = "there is no motor"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "control",
            "On",
            "In the throttle's place: that gives no power any more. The motor switch cuts it whatever this one says.",
            kind="switch",
        ),
        Parameter("first", "Power at the first position", "Nothing, as a rule: only from there can the motor be armed."),
        Parameter("second", "At the second"),
        Parameter("third", "At the third", "Of a switch with three positions."),
        Parameter(
            "in_s", "Soft start", "Seconds from nothing to full power. A folding propeller wants time to open.",
            kind="seconds",
        ),
        Parameter("out_s", "Soft stop", "Seconds from full power to nothing. Cut stops it at once all the same.", kind="seconds"),
        Parameter("motors", "Drives", kind="parts", roles=("motor",)),
    )  # fmt: skip
    kind: Literal["motor_switch"] = "motor_switch"
    label: Label = "Motor on a switch"
    signal: Name = "motor_power"
    control: Name
    first: PowerShare = 0.0
    second: PowerShare = 50.0
    third: PowerShare = 100.0
    in_s: Seconds = 1.0
    out_s: Seconds = 0.5
    motors: Parts
    moved_by: ClassVar[tuple[str, ...]] = ("control",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        motors = tuple(m.name for m in ground.body.motors)
        if not motors or not ground.spare:
            return None
        return cls(control=ground.spare, motors=motors, signal=ground.signal("motor_power"))

    def powers(self, positions: int) -> tuple[float, ...]:
        """The power at each position of a switch with so many, in percent."""
        return (self.first, self.second, self.third)[: max(2, min(positions, 3))]

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        powers = self._powers(controls)
        points = tuple((switch_value(i, len(powers)), power) for i, power in enumerate(powers))
        power = MixLine(
            name=self.label,
            target=self.signal,
            source=self.control,
            response=Response(points=points),
            in_s=self.in_s,
            out_s=self.out_s,
            when=self.when,
        )
        yield MadeLine(power, "second")
        for name in self.motors:
            yield MadeLine(
                MixLine(name=self.label, target=name, source=self.signal, gain=FROM_IDLE_TO_FULL),
                "motors",
            )

    def turned(self, key: str, count: int) -> Self | None:
        """Each position keeps its power: what gave nothing gives nothing."""
        return self.changed(dict(zip(POSITIONS, self.powers(count)[::-1], strict=False)))

    def recounted(self, key: str, old: int, count: int) -> Self:
        """A middle that comes gives what the last end gives, never more; where it goes again, the
        end keeps its power."""
        if old < 3 <= count:
            return self.changed({"third": self.second})
        return self.changed({"second": self.third}) if (old, count) == (3, 2) else self

    def throttles(self) -> tuple[str, ...]:
        return (self.control,)

    def replaces(self, line: MixLine) -> bool:
        """The throttle no longer drives these motors: both together would add up."""
        return line.target in self.motors and line.source in ("thrust", "throttle_stick")

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        control = controls(self.control)
        if control is not None and control.is_switch and len(control.positions) > 3:
            yield (
                "control",
                f"{control.label} has {len(control.positions)} positions; a motor's switch has two or three",
            )

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if min(self._powers(controls)) > 0:
            yield "first", "no position gives the motor nothing: it can never be armed"

    def _powers(self, controls: Controls) -> tuple[float, ...]:
        """The power at each position of its own switch."""
        control = controls(self.control)
        return self.powers(
            len(control.positions) if control is not None and control.is_switch else 3
        )
