# SPDX-License-Identifier: GPL-3.0-or-later
"""Roll with a pair of surfaces."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.recipes.one_edge import EDGE, OneEdge, edge_of
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, RollShares

ROLES = ("aileron", "flaperon", "flap")


class Ailerons(OneEdge):
    """Left += share * roll, right -= share * roll; ``differential`` takes from the side going down
    (or up, if < 0), less of it as the signal ``differential_off`` comes in, that times the shared
    value ``differential_from``."""

    title: ClassVar[str] = "Ailerons"
    about: ClassVar[str] = "Left and right go opposite ways with the roll stick."
    missing: ClassVar[str] = "there are no ailerons and no flaperons"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("share", "Roll", "How much of the roll command each side gets.", of="edge_deg"),
        Parameter(
            "differential",
            "Differential: less going down",
            "Less drag on the rising wing, so the nose swings out less. Below zero the side going up goes less.",
        ),
        Parameter(
            "differential_from",
            "Differential times the shared value",
            "So it can be set by flight mode, or in flight.",
            kind="shared",
            of="differential",
        ),
        Parameter(
            "differential_off",
            "Less of it with",
            "As brakes come out the side going down gets its full way again.",
            kind="signal",
        ),
        EDGE,
        Parameter("left", "Left", kind="parts", roles=ROLES, side="left"),
        Parameter("right", "Right", kind="parts", roles=ROLES, side="right"),
    )
    kind: Literal["ailerons"] = "ailerons"
    label: Label = "Ailerons"
    left: Parts
    right: Parts
    share: Share = 100.0
    differential: Annotated[float, Field(ge=-100, le=100)] = 0.0
    differential_from: Name | None = None
    differential_off: Name | None = None
    moved_by: ClassVar[tuple[str, ...]] = ("roll",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("aileron")
        if left and (right or ground.followers(left)):
            edge = edge_of(ground.body, (*left, *right)) if right else None
            usual = 50 if ground.gliding else 35
            return cls(
                left=left, right=right, share=100, differential=usual if right else 0, edge_deg=edge
            )
        left, right = ground.sides("flaperon")
        edge = edge_of(ground.body, (*left, *right))
        return (
            cls(left=left, right=right, share=60, differential=40, edge_deg=edge) if left else None
        )

    def roll_shares(self) -> RollShares | None:
        by_itself = self.differential_from is None and bool(self.left) and self.share > 0
        if not by_itself or self.differential < 0:
            return None
        down = self.share * (1.0 - self.differential / 100.0)
        return RollShares(self.left[0], self.share, down)

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for sign, names in ((1.0, self.left), (-1.0, self.right)):
            for name in names:
                line = self.edge_line(
                    sign * self.share,
                    name=self.label,
                    target=name,
                    source="roll",
                    differential=self.differential,
                    differential_from=self.differential_from,
                    differential_off=self.differential_off,
                    when=self.when,
                )
                yield MadeLine(line, "share")
