# SPDX-License-Identifier: GPL-3.0-or-later
"""Rates and expo by flight mode, through shared values."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Value
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, RecipeBase


class ModeFeel(Value):
    """Rate and expo in one flight mode, in percent."""

    rate: Annotated[float, Field(ge=0, le=150)] = 100.0
    expo: Annotated[float, Field(ge=-100, le=100)] = 0.0


class StickScaling(RecipeBase):
    """A shared rate and a shared expo that stand in for those of the axes ``axes``; each has a
    figure in every flight mode (in one without, that of the default mode ``base``), held from
    ``least`` to ``most``. ``slider`` sets the rate in flight."""

    title: ClassVar[str] = "Stick scaling by mode"
    about: ClassVar[str] = (
        "Every flight mode has rates and expo of its own, the same for several axes."
    )
    missing: ClassVar[str] = "it takes flight modes and sticks that steer"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("axes", "For", kind="axes"),
        Parameter("by_mode", "In each flight mode", "Rate and expo.", kind="by mode"),
        Parameter("least", "Rate at least", "Zero would mean: no control."),
        Parameter("most", "Rate at most"),
        Parameter(
            "slider",
            "Rate set in flight by",
            "Its ends are the least and the most.",
            kind="control",
        ),
    )
    kind: Literal["stick_scaling"] = "stick_scaling"
    label: Label = "Stick scaling"
    signal: Name = "scaling"
    axes: Annotated[tuple[Literal["roll", "pitch", "yaw"], ...], Field(max_length=3)] = (
        "roll",
        "pitch",
        "yaw",
    )
    base: ModeFeel = ModeFeel(rate=70, expo=25)
    by_mode: Annotated[dict[Name, ModeFeel], Field(max_length=32)] = {}
    least: Annotated[float, Field(ge=0, le=150)] = 25.0
    most: Annotated[float, Field(ge=0, le=150)] = 100.0
    slider: Name | None = None
    moved_by: ClassVar[tuple[str, ...]] = ("roll", "pitch")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        axes = tuple(c for c in ("roll", "pitch", "yaw") if c in ground.steers)
        if len(ground.modes) < 2 or not axes:
            return None
        return cls(axes=axes, signal=ground.signal("scaling"))

    def signals(self) -> tuple[tuple[str, str], ...]:
        return ()

    def _name(self, what: str) -> str:
        return f"{self.signal[:34]}_{what}"

    def own_values(self) -> tuple[Tunable, ...]:
        def held(x: float) -> float:
            return min(self.most, max(self.least, x))

        adjuster = Adjuster(kind="set", control=self.slider) if self.slider else None
        return (
            Tunable(
                name=self._name("rate"),
                label=self.named("rate"),
                low=self.least,
                high=max(self.most, self.least + 1e-6),
                value=held(self.base.rate),
                by_mode={m: held(x.rate) for m, x in self.by_mode.items()},
                adjuster=adjuster,
            ),
            Tunable(
                name=self._name("expo"),
                label=self.named("expo"),
                low=-100,
                high=100,
                value=self.base.expo,
                by_mode={m: x.expo for m, x in self.by_mode.items()},
            ),
        )

    def feels(self) -> dict[str, tuple[str | None, str | None]]:
        return dict.fromkeys(self.axes, (self._name("rate"), self._name("expo")))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        return iter(())

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if self.least >= self.most:
            yield "most", "the most must lie above the least"
        for mode, x in self.by_mode.items():
            if not self.least <= x.rate <= self.most:
                yield (
                    f"by_mode.{mode}.rate",
                    f"{x.rate:g} % lies outside {self.least:g} to {self.most:g} %",
                )
        if not self.least <= self.base.rate <= self.most:
            yield (
                "base.rate",
                f"{self.base.rate:g} % lies outside {self.least:g} to {self.most:g} %",
            )

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if self.least == 0:
            yield (
                "least",
                f"{self.label} may go down to a rate of zero: no control. Let the least be 20 or more.",
            )
