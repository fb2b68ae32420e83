# SPDX-License-Identifier: GPL-3.0-or-later
"""The two halves of a tailplane, or two elevators, that roll with the ailerons besides their
pitch."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, RecipeBase


class DifferentialTailplane(RecipeBase):
    """Left += roll share * roll, right -= roll share * roll, besides what they do as elevators.
    ``differential`` takes from the half that goes down."""

    title: ClassVar[str] = "Differential tailplane"
    about: ClassVar[str] = (
        "Both halves of the tailplane do pitch together, and roll one against the other."
    )
    missing: ClassVar[str] = "it takes two elevators or two halves of an all-moving tailplane"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "roll_share",
            "Roll",
            "Of the roll command. A usual first value: if the tail sways as it rolls, less. Pitch must keep travel of its own.",
        ),
        Parameter(
            "roll_from", "Roll times the shared value", "So it can be set by flight mode, or in flight.", kind="shared",
            of="roll_share",
        ),
        Parameter("differential", "Differential: less going down", "In roll."),
        Parameter("with_trim", "The roll trim moves them too", kind="yes or no"),
        Parameter("left", "Left", kind="part", roles=("elevator",), side="left"),
        Parameter("right", "Right", kind="part", roles=("elevator",), side="right"),
    )  # fmt: skip
    kind: Literal["differential_tailplane"] = "differential_tailplane"
    label: Label = "Differential tailplane"
    left: Name
    right: Name
    roll_share: Share = 20.0
    roll_from: Name | None = None
    differential: Annotated[float, Field(ge=-100, le=100)] = 0.0
    with_trim: bool = False
    moved_by: ClassVar[tuple[str, ...]] = ("roll",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("elevator")
        if not left or not right or "roll" not in ground.steers:
            return None
        return cls(left=left[0], right=right[0])

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            line = MixLine(
                name=self.named("roll"),
                target=target,
                source="roll",
                gain=sign * self.roll_share,
                gain_from=self.roll_from,
                differential=self.differential,
                with_trim=self.with_trim,
                when=self.when,
            )
            yield MadeLine(line, "roll_share")
