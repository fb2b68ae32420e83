# SPDX-License-Identifier: GPL-3.0-or-later
"""Brakes: the wing's trailing edge, ailerons up and flaps down, or plates; the elevator with
them."""

import itertools
from collections.abc import Iterable, Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.base.values import Label, Name, Seconds, Travel
from hypsos.core.parts.airframe import PITCH_ROLES, PLATES, Airframe, Surface
from hypsos.core.parts.condition_text import Condition
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.flap_positions import MOST_ELEVATOR
from hypsos.core.recipes.one_edge import angle_at, named, travel_of
from hypsos.core.recipes.recipe_base import (
    Amount,
    Amounts,
    Controls,
    Ground,
    MadeLine,
    Parameter,
    Parts,
    RecipeBase,
)

PITCH = Response(points=((0.0, 0.0), (50.0, 4.0), (100.0, 6.0)))
"""Elevator down with the brakes, more of it at first."""
NOTHING = Response(points=((0.0, 0.0), (100.0, 0.0)))
TRAILING = ("aileron", "flaperon", "flap", "elevon")
BRAKING = ("crow", "airbrakes")
"""Kinds of recipes that slow the aeroplane."""


def _parameters(roles: tuple[str, ...], elevator: str) -> tuple[Parameter, ...]:
    """What can be set of brakes that move surfaces of these roles."""
    return (
        Parameter("control", "Opened by", "A slider, a knob, a switch or a stick.", kind="control"),
        Parameter(
            "closed", "Closed at", "A bump of the control up to here opens nothing.", kind="place"
        ),
        Parameter(
            "opened", "Fully open at", "From here on they are all the way out.", kind="place"
        ),
        Parameter("amounts", "Goes", "All the way out.", kind="amounts", roles=roles),
        Parameter("elevator", "Elevator", elevator, kind="response"),
        Parameter("in_s", "Comes out over", "Seconds for the whole way.", kind="seconds"),
        Parameter("out_s", "Goes in over", "Seconds for the whole way.", kind="seconds"),
        Parameter(
            "master", "Only while", "Off means closed, never half.", kind="condition", limit=True
        ),
        Parameter(
            "gate", "And only while", "Such as the throttle low.", kind="condition", limit=True
        ),
        Parameter(
            "elevators", "Elevator compensation", kind="parts", roles=PITCH_ROLES, later=True
        ),
    )


def _names(surfaces: Iterable[Surface]) -> tuple[str, ...]:
    return tuple(surface.name for surface in surfaces)


class _Brakes(RecipeBase):
    """Brake b = 0 ... 100 from the control: 0 up to ``closed``, 100 from ``opened`` on, straight
    between, in either sense; 0 wherever ``when``, ``master`` or ``gate`` does not hold. Every group
    of ``amounts`` goes by its travel times b/100, the elevator by ``elevator(b)``. ``in_s``,
    ``out_s``: seconds for the whole way."""

    signal: Name = "brake"
    control: Name
    closed: Travel = -85.0
    opened: Travel = 100.0
    amounts: Amounts
    elevators: Parts = ()
    elevator: Response = PITCH
    in_s: Seconds = 0.5
    out_s: Seconds = 0.5
    master: Condition | None = None
    gate: Condition | None = None
    moved_by: ClassVar[tuple[str, ...]] = ("control",)
    switched_off_by: ClassVar[tuple[str, ...]] = ("when", "master", "gate")

    def _open(self) -> Response:
        """How far the brakes are out by the control: 0 ... 100."""
        low, high = sorted((self.closed, self.opened))
        at_low, at_high = (0.0, 100.0) if self.closed < self.opened else (100.0, 0.0)
        points = {-100.0: at_low, low: at_low, high: at_high, 100.0: at_high}
        return Response(points=tuple(sorted(points.items())))

    def signals(self) -> tuple[tuple[str, str], ...]:
        return self.ruled_signals()

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        line = MixLine(
            name=self.label,
            target=self.signal,
            source=self.control,
            response=self._open(),
            in_s=self.in_s,
            out_s=self.out_s,
        )
        yield from self.behind_rules(
            line, list(self.asks()), self.asked_signal, ("asked for", "closed"), "control"
        )
        for i, amount in enumerate(self.amounts):
            for name in amount.parts:
                line = MixLine(name=self.label, target=name, source=self.signal, gain=amount.travel)
                yield MadeLine(line, f"amounts[{i}].travel")
        for name in self.elevators if any(y for _, y in self.elevator.points) else ():
            line = MixLine(
                name=self.named("elevator"), target=name, source=self.signal, response=self.elevator
            )
            yield MadeLine(line, "elevator")

    def turned(self, key: str, count: int) -> Self | None:
        return self.changed({"closed": -self.closed, "opened": -self.opened})

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if self.closed == self.opened:
            yield "opened", "fully open must lie elsewhere than closed"

    def doubts(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if abs(self.closed - self.opened) < 10:
            yield (
                "opened",
                f"{self.label} go from closed to fully open within a tenth of the way of the control.",
            )


FLAPS_DEG, AILERONS_DEG, ELEVATOR_MM = 75.0, 18.0, 4.0
"""Flaps down, ailerons up, and the elevator down at its trailing edge, all the way out: usual first
values."""


def with_brakes(body: Airframe, elevators: Iterable[str]) -> Response:
    """The elevator with the brakes by how far they are out: about two thirds of it at the half."""
    moved = named(body, elevators)
    if not moved:
        return NOTHING
    full = min(MOST_ELEVATOR, travel_of(moved, angle_at(moved[0], ELEVATOR_MM)))
    return Response(points=((0.0, 0.0), (50.0, round(0.65 * full)), (100.0, full)))


class Crow(_Brakes):
    """Brakes of the trailing edge. Works with ailerons alone."""

    title: ClassVar[str] = "Crow brakes"
    about: ClassVar[str] = (
        "Ailerons go up and flaps down together to slow the aeroplane; the elevator keeps its nose level."
    )
    missing: ClassVar[str] = "there are no ailerons and no flaps on the wing"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = _parameters(
        TRAILING,
        "A usual first value, by how far they are out. If the nose rises as they come out, it wants more down; if it drops, less.",
    )
    kind: Literal["crow"] = "crow"
    label: Label = "Crow brakes"

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        up = [
            Amount(parts=_names(group), travel=travel_of(group, -AILERONS_DEG))
            for group in ground.groups("aileron", "flaperon")
        ]
        down = [
            Amount(parts=_names(group), travel=travel_of(group, FLAPS_DEG))
            for group in ground.groups("flap")
        ]
        control = ground.slider or ("throttle_stick" if ground.quiet else ground.spare)
        if (not up and not down) or not control:
            return None
        moved = set(itertools.chain.from_iterable(amount.parts for amount in (*up, *down)))
        stick = control == "throttle_stick"
        elevators = ground.pitching(moved)
        return cls(
            control=control,
            closed=-10 if stick else -85,
            opened=-80 if stick else 100,
            amounts=(*down, *up),
            elevators=elevators,
            elevator=with_brakes(ground.body, elevators),
            signal=ground.signal("brake"),
        )

    def beside(self, other: RecipeBase) -> RecipeBase:
        """Ailerons get back what differential takes as the brakes come out."""
        if isinstance(other, Ailerons) and other.differential and other.differential_off is None:
            return other.changed({"differential_off": self.signal})
        return other


class Airbrakes(_Brakes):
    """Plates that open out of the wing's upper side: all the way open their edge is all the way
    up."""

    title: ClassVar[str] = "Airbrakes"
    about: ClassVar[str] = (
        "Plates open out of the wing's upper side: the aeroplane comes down steeper."
    )
    missing: ClassVar[str] = "there are no airbrakes and no spoilers"
    parameters: ClassVar[tuple[Parameter, ...]] = _parameters(
        (*PLATES, "drag rudder"),
        "Which way the nose goes with them differs: try them high, half out first, and begin with nothing.",
    )
    kind: Literal["airbrakes"] = "airbrakes"
    label: Label = "Airbrakes"
    elevator: Response = NOTHING

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        plates = [Amount(parts=_names(group), travel=-100) for group in ground.groups(*PLATES)]
        control = (ground.brakes() or ground.slider or ground.spare) if plates else ""
        if not control:
            return None
        return cls(
            control=control,
            amounts=tuple(plates),
            elevators=ground.pitching(),
            signal=ground.signal("brake"),
        )
