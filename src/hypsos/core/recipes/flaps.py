"""Flap positions on a switch, with the elevator that goes with each.

The positions feed a signal of the recipe's own, slowed there once; surfaces and elevator follow that one signal, so the
elevator stays in step with the flap on its way, and two such recipes never feed each other.
"""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field, field_validator

from hypsos.core.ground.values import Label, Name, Seconds, Travel, Value
from hypsos.core.parts.shapes import MixLine, Response
from hypsos.core.parts.transmitter import switch_value
from hypsos.core.recipes.base import Controls, MadeLine, Parts, RecipeBase


class FlapPosition(Value):
    """One position: flap and elevator in percent, + is trailing edge down."""

    flap: Travel = 0.0
    elevator: Travel = 0.0


class _Positions(RecipeBase):
    surfaces: Parts
    elevators: Parts = ()
    control: Name
    positions: Annotated[tuple[FlapPosition, ...], Field(max_length=6)]
    signal: Name = "flap"
    in_s: Seconds = 0.0
    out_s: Seconds = 0.0
    part_fields: ClassVar[tuple[str, ...]] = ("surfaces", "elevators")
    control_fields: ClassVar[tuple[str, ...]] = ("control",)

    @field_validator("positions")
    @classmethod
    def _two_at_least(cls, value: tuple[FlapPosition, ...]) -> tuple[FlapPosition, ...]:
        if not 2 <= len(value) <= 6:
            raise ValueError("flaps have from two to six positions, one for each position of the switch")
        return value

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        control = controls(self.control)
        count = max(len(control.positions) if control else 0, len(self.positions))
        points = tuple((switch_value(i, count), p.flap) for i, p in enumerate(self.positions))
        yield MadeLine(
            MixLine(
                name=self.label,
                target=self.signal,
                source=self.control,
                response=Response(points=points),
                in_s=self.in_s,
                out_s=self.out_s,
                when=self.when,
            ),
            "positions",
        )
        for name in self.surfaces:
            yield MadeLine(MixLine(name=self.label, target=name, source=self.signal), "positions")
        by_flap = {p.flap: p.elevator for p in self.positions}
        if self.elevators and any(by_flap.values()):
            steps = sorted(by_flap.items())
            if len(steps) == 1:
                steps = [(-100.0, steps[0][1]), (100.0, steps[0][1])]
            response = Response(points=tuple(steps))
            for name in self.elevators:
                line = MixLine(name=self.named("elevator"), target=name, source=self.signal, response=response)
                yield MadeLine(line, "positions")

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        seen: dict[float, float] = {}
        for i, p in enumerate(self.positions):
            if seen.setdefault(p.flap, p.elevator) != p.elevator:
                yield (f"positions[{i}].elevator", f"two positions with {p.flap:g} % flap need the same elevator")
        control = controls(self.control)
        if control is not None and control.is_switch and len(control.positions) < len(self.positions):
            yield ("positions", f"there are more flap positions than {control.label} has")


class Flaperons(_Positions):
    """Both ailerons droop together; the ailerons recipe on the same surfaces goes on working."""

    title: ClassVar[str] = "Flaperons"
    kind: Literal["flaperons"] = "flaperons"
    label: Label = "Flaperons"


class Flaps(_Positions):
    """Flaps of their own, moved to the positions of a switch."""

    title: ClassVar[str] = "Flaps on a switch"
    kind: Literal["flaps"] = "flaps"
    label: Label = "Flaps"
