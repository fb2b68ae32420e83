# SPDX-License-Identifier: GPL-3.0-or-later
"""Flap positions on a switch or another control, with the elevator that goes with each.

The positions feed a signal of the recipe's own, slowed there once; surfaces and elevator follow
that one signal, so the elevator stays in step with the flap on its way, and two such recipes never
feed each other."""

from collections.abc import Iterable, Iterator
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, field_validator

from hypsos.core.base.values import Label, Name, Seconds, Travel, Value
from hypsos.core.parts.airframe import PITCH_ROLES, Airframe
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control, switch_value
from hypsos.core.recipes.one_edge import angle_at, high_wing, named, travel_of
from hypsos.core.recipes.recipe_base import (
    Controls,
    Ground,
    MadeLine,
    Parameter,
    Parts,
    RecipeBase,
    slender,
)


class FlapPosition(Value):
    """One position: flap and elevator in percent, + is trailing edge down."""

    flap: Travel = 0.0
    elevator: Travel = 0.0


ANGLES = {"sailplane": (12.0, 70.0), "flap": (15.0, 35.0), "flaperon": (8.0, 16.0)}
"""How far down flaps stand at half and at landing, in degrees: usual first values."""
ELEVATOR_MM = {"sailplane": (1.0, 4.0), "flap": (1.0, 2.0), "flaperon": (1.0, 2.0)}
"""The elevator with them, down, at its trailing edge; a stated guess, and nothing on a low wing."""


MOST_ELEVATOR = 24.0
"""So many percent at the most: with them full stick still has its way within the stops."""


def usual_positions(
    body: Airframe, surfaces: Iterable[str], elevators: Iterable[str]
) -> tuple[FlapPosition, ...]:
    """Up, half and landing for these surfaces, with the elevator that usually goes with each."""
    moved, pitch = named(body, surfaces), named(body, elevators)
    key = "sailplane" if slender(body) else "flap"
    if moved[0].role == "flaperon":
        key = "flaperon"
    # how much elevator a low wing wants nobody can say beforehand
    sure = bool(pitch) and (key == "sailplane" or high_wing(body))
    out = [FlapPosition()]
    for angle, mm in zip(ANGLES[key], ELEVATOR_MM[key], strict=True):
        elevator = min(MOST_ELEVATOR, travel_of(pitch, angle_at(pitch[0], mm))) if sure else 0.0
        out.append(FlapPosition(flap=travel_of(moved, angle), elevator=elevator))
    return tuple(out)


class _Positions(RecipeBase):
    kind: str = "flaps"
    label: Label = "Flaps"
    surfaces: Parts
    elevators: Parts = ()
    control: Name
    positions: Annotated[tuple[FlapPosition, ...], Field(max_length=6)]
    signal: Name = "flap"
    in_s: Seconds = 0.0
    out_s: Seconds = 0.0
    role: ClassVar[str] = ""
    moved_by: ClassVar[tuple[str, ...]] = ("control",)
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "control",
            "On",
            "The switch whose positions these are, or a slider that goes through them.",
            kind="control",
        ),
        Parameter(
            "positions",
            "Positions",
            "The elevator keeps in step. A usual first value: if the nose rises with the flaps, more down; if it drops, less.",
            kind="positions",
        ),
        Parameter("in_s", "Comes in over", "Seconds for 100 %.", kind="seconds"),
        Parameter("out_s", "Goes out over", "Seconds for 100 %.", kind="seconds"),
        Parameter(
            "surfaces", "Moves", kind="parts", roles=("flap", "flaperon", "aileron", "elevon")
        ),
        Parameter(
            "elevators", "Elevator compensation", kind="parts", roles=PITCH_ROLES, later=True
        ),
    )

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides(cls.role)
        names = left + right
        if not names:
            return None
        elevators = ground.pitching(names)
        positions = usual_positions(ground.body, names, elevators)
        return cls(
            surfaces=names,
            elevators=elevators,
            control=ground.switch(),
            positions=positions,
            in_s=1.5,
            out_s=1.5,
            signal=ground.signal("flap"),
        )

    def on_switch(self, key: str, control: Control) -> Self:
        """On a switch with more positions the last one holds there; on one with fewer the last ones
        go."""
        if not control.is_switch:
            return self.changed({"control": control.name})
        count = len(control.positions)
        kept = (*self.positions, *(self.positions[-1:] * max(0, count - len(self.positions))))[
            :count
        ]
        return self.changed({"control": control.name, "positions": kept})

    @field_validator("positions")
    @classmethod
    def _two_at_least(cls, value: tuple[FlapPosition, ...]) -> tuple[FlapPosition, ...]:
        if not 2 <= len(value) <= 6:
            raise ValueError(
                "flaps have from two to six positions, one for each position of the switch"
            )
        return value

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        control = controls(self.control)
        count = max(
            len(control.positions) if control is not None and control.is_switch else 0,
            len(self.positions),
        )
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
        # the elevator goes by where the flap is, not by the switch: so it keeps in step on the
        # way
        by_flap = {p.flap: p.elevator for p in self.positions}
        if self.elevators and any(by_flap.values()):
            steps = sorted(by_flap.items())
            if len(steps) == 1:
                # one flap for all positions: the elevator is the same everywhere
                steps = [(-100.0, steps[0][1]), (100.0, steps[0][1])]
            # off is 0: what belongs to flap 0 goes with the condition, and the rest follows the
            # flaps on their way
            flaps, elevators = zip(*steps, strict=True)
            left = float(np.interp(0.0, flaps, elevators)) if self.when is not None else 0.0
            response = Response(points=tuple((flap, elevator - left) for flap, elevator in steps))
            for name in self.elevators:
                line = MixLine(
                    name=self.named("elevator"), target=name, source=self.signal, response=response
                )
                yield MadeLine(line, "positions")
                if left:
                    line = MixLine(
                        name=self.named("elevator while on"),
                        target=name,
                        source="full",
                        gain=left,
                        when=self.when,
                        in_s=self.in_s,
                        out_s=self.out_s,
                    )
                    yield MadeLine(line, "positions")

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        seen: dict[float, float] = {}
        for i, p in enumerate(self.positions):
            if seen.setdefault(p.flap, p.elevator) != p.elevator:
                yield (
                    f"positions[{i}].elevator",
                    f"two positions with {p.flap:g} % flap need the same elevator",
                )
        control = controls(self.control)
        if (
            control is not None
            and control.is_switch
            and len(control.positions) < len(self.positions)
        ):
            yield ("positions", f"there are more flap positions than {control.label} has")

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        control = controls(self.control)
        if (
            control is not None
            and control.is_switch
            and len(control.positions) > len(self.positions)
        ):
            yield (
                "positions",
                f"{control.label} has more positions than {self.label.lower()}; the last value holds there.",
            )


class Flaperons(_Positions):
    """Both ailerons droop together; the ailerons recipe on the same surfaces goes on working."""

    title: ClassVar[str] = "Flaperons"
    about: ClassVar[str] = (
        "Both ailerons droop together to the positions of a switch and go on working in roll."
    )
    missing: ClassVar[str] = "there are no flaperons"
    role: ClassVar[str] = "flaperon"
    kind: Literal["flaperons"] = "flaperons"
    label: Label = "Flaperons"


class Flaps(_Positions):
    """Flaps of their own, moved to the positions of a switch."""

    title: ClassVar[str] = "Flaps on a control"
    about: ClassVar[str] = (
        "Flaps of their own go to the positions of a switch or slider, with the elevator that each wants."
    )
    missing: ClassVar[str] = "there are no flaps"
    role: ClassVar[str] = "flap"
    kind: Literal["flaps"] = "flaps"
    label: Label = "Flaps"
