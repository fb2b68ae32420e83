# SPDX-License-Identifier: GPL-3.0-or-later
"""The whole trailing edge moves together, in camber and in roll; and camber by flight mode."""

from collections.abc import Iterator, Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Percent, Share, Travel, Value
from hypsos.core.parts.airframe import PITCH_ROLES
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes.one_edge import EDGE, OneEdge, edge_of, share_of
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts

DOWN_DEG, UP_DEG, ROLL_DEG = 5.0, 2.0, 5.0
"""How far the edge goes down and up with the control, and the flaps up with the ailerons: usual
first values."""


class CamberFollow(OneEdge):
    """Camber = amount * control, at its lower half ``up`` percent of that; flaps += camber,
    ailerons += ``to_ailerons`` percent of it, elevator += ``elevator`` percent. Flaps +=
    ``to_flaps`` percent of roll at the left and minus that at the right, with a differential of
    their own. ``amount_from``, ``to_ailerons_from``, ``to_flaps_from`` and ``differential_from``
    are shared values that multiply."""

    title: ClassVar[str] = "Camber follow"
    about: ClassVar[str] = (
        "Flaps and ailerons move as one trailing edge: in camber with a slider, and in roll."
    )
    missing: ClassVar[str] = "it takes flaps and ailerons on the wing"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "control",
            "Camber by",
            "A slider or a knob; without one there is roll only.",
            kind="control",
        ),
        Parameter(
            "amount", "Flaps go down by", "With the control at its upper end.", of="edge_deg"
        ),
        Parameter(
            "up", "Up, of that", "With the control at its lower end, in percent of the way down."
        ),
        Parameter("amount_from", "Camber times the shared value", kind="shared", of="amount"),
        Parameter("to_ailerons", "Ailerons follow the flaps by"),
        Parameter(
            "to_ailerons_from",
            "Ailerons' share times the shared value",
            kind="shared",
            of="to_ailerons",
        ),
        Parameter("to_flaps", "Flaps with ailerons", "Of the roll command.", of="edge_deg"),
        Parameter("to_flaps_from", "Roll times the shared value", kind="shared", of="to_flaps"),
        Parameter("differential", "Differential: less going down", "Of the flaps, in roll."),
        Parameter(
            "differential_from",
            "Differential times the shared value",
            kind="shared",
            of="differential",
        ),
        Parameter("differential_off", "Less of it with", kind="signal"),
        EDGE,
        Parameter(
            "elevator",
            "Elevator compensation",
            "At a camber of 100 %.",
            kind="surface",
            of="elevators",
        ),
        Parameter("left_flaps", "Flaps, left", kind="parts", roles=("flap",), side="left"),
        Parameter("right_flaps", "Flaps, right", kind="parts", roles=("flap",), side="right"),
        Parameter("ailerons", "Ailerons", kind="parts", roles=("aileron", "flaperon")),
        Parameter(
            "elevators", "Elevator compensation", kind="parts", roles=PITCH_ROLES, later=True
        ),
    )
    kind: Literal["camber_follow"] = "camber_follow"
    label: Label = "Camber follow"
    signal: Name = "camber"
    control: Name | None = None
    amount: Share = 20.0
    up: Share = 100.0
    amount_from: Name | None = None
    to_ailerons: Share = 80.0
    to_ailerons_from: Name | None = None
    to_flaps: Share = 40.0
    to_flaps_from: Name | None = None
    differential: Annotated[float, Field(ge=-100, le=100)] = 20.0
    differential_from: Name | None = None
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
        moved = (*left, *right, *ailerons)
        down, rolled = (share_of(ground.body, moved, x) for x in (DOWN_DEG, ROLL_DEG))
        return cls(
            control=ground.slider or None,
            left_flaps=left,
            right_flaps=right,
            ailerons=ailerons,
            amount=down,
            up=100 * UP_DEG / DOWN_DEG,
            to_ailerons=100,
            to_flaps=rolled,
            differential=40,
            edge_deg=edge_of(ground.body, moved),
            elevators=ground.pitching((*left, *right, *ailerons)),
            signal=ground.signal("camber"),
        )

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        if self.control:
            response = None
            if self.up != 100:  # less camber up than down: a bend in the middle of the slider
                response = Response(points=((-100.0, -self.up), (0.0, 0.0), (100.0, 100.0)))
            line = MixLine(
                name=self.label,
                target=self.signal,
                source=self.control,
                gain=self.amount,
                gain_from=self.amount_from,
                response=response,
                when=self.when,
            )
            yield MadeLine(line, "amount")
        for name in (*self.left_flaps, *self.right_flaps):
            yield MadeLine(
                self.edge_line(name=self.label, target=name, source=self.signal), "amount"
            )
        for name in self.ailerons if self.to_ailerons else ():
            line = self.edge_line(
                self.to_ailerons,
                name=self.named("ailerons"),
                target=name,
                source=self.signal,
                gain_from=self.to_ailerons_from,
            )
            yield MadeLine(line, "to_ailerons")
        for name in self.elevators if self.elevator else ():
            line = MixLine(
                name=self.named("elevator"), target=name, source=self.signal, gain=self.elevator
            )
            yield MadeLine(line, "elevator")
        for sign, names in ((1.0, self.left_flaps), (-1.0, self.right_flaps)):
            for name in names if self.to_flaps else ():
                line = self.edge_line(
                    sign * self.to_flaps,
                    name=self.named("roll"),
                    target=name,
                    source="roll",
                    gain_from=self.to_flaps_from,
                    differential=self.differential,
                    differential_from=self.differential_from,
                    differential_off=self.differential_off,
                    when=self.when,
                )
                yield MadeLine(line, "to_flaps")

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        if self.control:
            amount = self.amount * shared.get(self.amount_from or "", 100.0) / 100.0
            flaps = dict.fromkeys((*self.left_flaps, *self.right_flaps), amount)
            followed = self.to_ailerons * shared.get(self.to_ailerons_from or "", 100.0) / 100.0
            yield "", flaps | dict.fromkeys(self.ailerons, amount * followed / 100.0)


class ModeCamber(Value):
    """The trailing edge in one flight mode, percent, + is down."""

    flap: Percent = 0.0
    aileron: Percent = 0.0
    elevator: Percent = 0.0


USUAL = {"launch": 14.0, "thermal": 4.0, "speed": -2.0, "landing": 4.0}
"""How many degrees down the whole edge stands in modes of these names: usual first values. The
elevator begins with nothing: which way it wants to go shows in the air."""
FIELDS = (("flap", "flaps"), ("aileron", "ailerons"), ("elevator", "elevators"))


class CamberPresets(OneEdge):
    """For every flight mode the flaps, ailerons and elevator by the figures of ``by_mode``, faded
    as the modes are; 0 in a mode that has none."""

    title: ClassVar[str] = "Camber presets"
    about: ClassVar[str] = "Every flight mode has a trailing edge of its own."
    missing: ClassVar[str] = "it takes flight modes, and flaps, ailerons or elevons on the wing"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("by_mode", "In each flight mode", "They fade as the modes do.", kind="by mode"),
        EDGE,
        Parameter("flaps", "Flaps, elevons", kind="parts", roles=("flap", "flaperon", "elevon")),
        Parameter("ailerons", "Ailerons", kind="parts", roles=("aileron",)),
        Parameter(
            "elevators", "Elevator compensation", kind="parts", roles=PITCH_ROLES, later=True
        ),
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
        elevons = sum(ground.sides("elevon"), ())
        if len(ground.modes) < 2 or (not flaps and not ailerons and not elevons):
            return None
        if (
            not flaps and not ailerons
        ):  # on a flying wing camber is elevator, too: what it wants is found in the air
            return cls(flaps=elevons, signal=ground.signal("preset"))
        moved, figures = (*flaps, *ailerons), {}
        for mode in ground.modes:
            for known, angle in USUAL.items():
                if known in mode:
                    share = share_of(ground.body, moved, abs(angle)) * (-1 if angle < 0 else 1)
                    figures[mode] = ModeCamber(flap=share, aileron=share)
        return cls(
            edge_deg=edge_of(ground.body, moved),
            by_mode=figures,
            flaps=flaps,
            ailerons=ailerons,
            elevators=ground.pitching((*flaps, *ailerons)),
            signal=ground.signal("preset"),
        )

    def signals(self) -> tuple[tuple[str, str], ...]:
        return ()

    def own_values(self) -> tuple[Tunable, ...]:
        values = []
        for field, words in FIELDS:
            figures = {mode: getattr(shape, field) for mode, shape in self.by_mode.items()}
            values.append(
                Tunable(
                    name=f"{self.signal[:30]}_{field}",
                    label=self.named(words),
                    low=-150,
                    high=150,
                    value=0,
                    by_mode={mode: figure for mode, figure in figures.items() if figure},
                )
            )
        return tuple(values)

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for field, parts in FIELDS:
            if not any(getattr(shape, field) for shape in self.by_mode.values()):
                continue
            for name in getattr(self, parts):
                fields = {
                    "name": self.label,
                    "target": name,
                    "source": "full",
                    "when": self.when,
                    "gain_from": f"{self.signal[:30]}_{field}",
                }
                line = MixLine(**fields) if field == "elevator" else self.edge_line(**fields)
                yield MadeLine(line, "by_mode")

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        for mode, figures in self.by_mode.items():
            yield (
                mode,
                dict.fromkeys(self.flaps, figures.flap)
                | dict.fromkeys(self.ailerons, figures.aileron),
            )
