"""The whole trailing edge moves together, in camber and in roll; and camber by flight mode."""

from collections.abc import Iterator, Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.ground.values import Label, Name, Percent, Share, Travel, Value
from hypsos.core.parts.airframe import PITCH_ROLES
from hypsos.core.parts.logic import Tunable
from hypsos.core.parts.shapes import MixLine
from hypsos.core.recipes.base import Controls, Ground, MadeLine, Parameter, Parts, RecipeBase


class CamberFollow(RecipeBase):
    """Camber = amount * control; flaps += camber, ailerons += ``to_ailerons`` percent of it, elevator += ``elevator`` percent.
    Flaps += ``to_flaps`` percent of roll at the left and minus that at the right, with a differential of their own.
    ``amount_from`` and ``to_flaps_from`` are shared values that multiply."""

    title: ClassVar[str] = "Camber follow"
    about: ClassVar[str] = "Flaps and ailerons move as one trailing edge: in camber with a slider, and in roll."
    missing: ClassVar[str] = "it takes flaps and ailerons on the wing"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("control", "Camber by", "A slider or a knob; without one there is roll only.", kind="control"),
        Parameter("amount", "Flaps go down by", "With the control at its upper end; up by as much at the lower."),
        Parameter("amount_from", "Times the shared value", kind="shared", of="amount"),
        Parameter("to_ailerons", "Ailerons follow the flaps by"),
        Parameter("to_flaps", "Flaps follow the ailerons by", "Of the roll command."),
        Parameter("to_flaps_from", "Times the shared value ", kind="shared", of="to_flaps"),
        Parameter("differential", "Differential: less going down", "Of the flaps, in roll."),
        Parameter("differential_off", "Less of it with", kind="signal"),
        Parameter("elevator", "Elevator with camber", "At a camber of 100 %.", kind="surface", of="elevators"),
        Parameter("left_flaps", "Flaps, left", kind="parts", roles=("flap",), side="left"),
        Parameter("right_flaps", "Flaps, right", kind="parts", roles=("flap",), side="right"),
        Parameter("ailerons", "Ailerons", kind="parts", roles=("aileron", "flaperon")),
        Parameter("elevators", "Elevator with it", kind="parts", roles=PITCH_ROLES, later=True),
    )
    kind: Literal["camber_follow"] = "camber_follow"
    label: Label = "Camber follow"
    signal: Name = "camber"
    control: Name | None = None
    amount: Share = 20.0
    amount_from: Name | None = None
    to_ailerons: Share = 80.0
    to_flaps: Share = 40.0
    to_flaps_from: Name | None = None
    differential: Annotated[float, Field(ge=-100, le=100)] = 20.0
    differential_off: Name | None = None
    elevator: Travel = 0.0
    left_flaps: Parts
    right_flaps: Parts
    ailerons: Parts
    elevators: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("control", "roll")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("flap")
        ailerons = sum(ground.sides("aileron", "flaperon"), ())
        if not left or not right or not ailerons:
            return None
        return cls(
            control=ground.slider or None, left_flaps=left, right_flaps=right, ailerons=ailerons,
            elevators=ground.pitching((*left, *right, *ailerons)), signal=ground.signal("camber"),
        )  # fmt: skip

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        if self.control:
            line = MixLine(
                name=self.label, target=self.signal, source=self.control, gain=self.amount, gain_from=self.amount_from,
                when=self.when,
            )  # fmt: skip
            yield MadeLine(line, "amount")
        for name in (*self.left_flaps, *self.right_flaps):
            yield MadeLine(MixLine(name=self.label, target=name, source=self.signal), "amount")
        for name in self.ailerons if self.to_ailerons else ():
            line = MixLine(name=self.named("ailerons"), target=name, source=self.signal, gain=self.to_ailerons)
            yield MadeLine(line, "to_ailerons")
        for name in self.elevators if self.elevator else ():
            line = MixLine(name=self.named("elevator"), target=name, source=self.signal, gain=self.elevator)
            yield MadeLine(line, "elevator")
        for sign, names in ((1.0, self.left_flaps), (-1.0, self.right_flaps)):
            for name in names if self.to_flaps else ():
                line = MixLine(
                    name=self.named("roll"), target=name, source="roll", gain=sign * self.to_flaps,
                    gain_from=self.to_flaps_from, differential=self.differential,
                    differential_off=self.differential_off, when=self.when,
                )  # fmt: skip
                yield MadeLine(line, "to_flaps")

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        if self.control:
            amount = self.amount * shared.get(self.amount_from or "", 100.0) / 100.0
            flaps = dict.fromkeys((*self.left_flaps, *self.right_flaps), amount)
            yield "", flaps | dict.fromkeys(self.ailerons, amount * self.to_ailerons / 100.0)


class ModeCamber(Value):
    """The trailing edge in one flight mode, percent, + is down."""

    flap: Percent = 0.0
    aileron: Percent = 0.0
    elevator: Percent = 0.0


USUAL = {
    "launch": (16.0, 12.0, -2.0),
    "thermal": (8.0, 7.0, -1.0),
    "speed": (-5.0, -4.0, 1.0),
    "landing": (4.0, 4.0, 1.0),
}
"""Where modes of these names usually begin."""
FIELDS = (("flap", "flaps"), ("aileron", "ailerons"), ("elevator", "elevators"))


class CamberPresets(RecipeBase):
    """For every flight mode the flaps, ailerons and elevator by the figures of ``by_mode``, faded as the modes are; 0 in a
    mode that has none."""

    title: ClassVar[str] = "Camber presets"
    about: ClassVar[str] = "Every flight mode has a trailing edge of its own."
    missing: ClassVar[str] = "it takes flight modes, and flaps or ailerons on the wing"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("by_mode", "In each flight mode", "They fade as the modes do.", kind="by mode"),
        Parameter("flaps", "Flaps", kind="parts", roles=("flap", "flaperon")),
        Parameter("ailerons", "Ailerons", kind="parts", roles=("aileron",)),
        Parameter("elevators", "Elevator with it", kind="parts", roles=PITCH_ROLES, later=True),
    )
    kind: Literal["camber_presets"] = "camber_presets"
    label: Label = "Camber presets"
    signal: Name = "preset"
    by_mode: Annotated[dict[Name, ModeCamber], Field(max_length=32)] = {}
    flaps: Parts = ()
    ailerons: Parts = ()
    elevators: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("modes",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        flaps = sum(ground.sides("flap", "flaperon"), ())
        ailerons = sum(ground.sides("aileron"), ())
        if len(ground.modes) < 2 or (not flaps and not ailerons):
            return None
        figures = {
            m: ModeCamber(flap=f, aileron=a, elevator=e)
            for m in ground.modes
            for n, (f, a, e) in USUAL.items()
            if n in m
        }
        return cls(
            by_mode=figures, flaps=flaps, ailerons=ailerons, elevators=ground.pitching((*flaps, *ailerons)),
            signal=ground.signal("preset"),
        )  # fmt: skip

    def signals(self) -> tuple[tuple[str, str], ...]:
        return ()

    def own_values(self) -> tuple[Tunable, ...]:
        return tuple(
            Tunable(
                name=f"{self.signal[:30]}_{field}", label=self.named(words), low=-150, high=150, value=0,
                by_mode={m: getattr(x, field) for m, x in self.by_mode.items() if getattr(x, field)},
            )
            for field, words in FIELDS
        )  # fmt: skip

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for field, parts in FIELDS:
            for name in getattr(self, parts) if any(getattr(x, field) for x in self.by_mode.values()) else ():
                line = MixLine(
                    name=self.label, target=name, source="full", gain_from=f"{self.signal[:30]}_{field}", when=self.when
                )
                yield MadeLine(line, "by_mode")

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        for mode, figures in self.by_mode.items():
            yield mode, dict.fromkeys(self.flaps, figures.flap) | dict.fromkeys(self.ailerons, figures.aileron)
