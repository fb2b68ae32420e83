"""The aeroplane as a thing of wood: panels, hinged surfaces, motors and small devices, in millimetres.

Axes: x runs aft from the nose, y to the right, z up. All places are read off with a tape.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.values import Degrees, Label, Length, Millimetres, Name, Value

Side = Literal["left", "right", "centre"]
SurfaceRole = Literal["aileron", "flaperon", "flap", "elevator", "rudder", "ruddervator"]
Throw = Annotated[float, Field(gt=0, le=90)]


class Fuselage(Value):
    """The body: outer dimensions and the family of its outline."""

    length_mm: Length
    width_mm: Length
    height_mm: Length
    outline: Literal["cabin", "pod"] = "cabin"
    undercarriage: Literal["none", "two wheels"] = "none"


class Panel(Value):
    """A lifting or steering panel. A ``pair`` is mirrored to both sides; a ``single`` stands up in the middle.

    ``span_mm`` is from tip to tip for a pair, from root to tip for a single one. ``sweep_mm`` is how far the tip's
    leading edge lies behind the root's. ``x_mm`` and ``z_mm`` place the root's leading edge.
    """

    name: Name
    label: Label
    arrangement: Literal["pair", "single"] = "pair"
    span_mm: Length
    root_chord_mm: Length
    tip_chord_mm: Length
    sweep_mm: Millimetres = 0.0
    dihedral_deg: Degrees = 0.0
    x_mm: Millimetres
    z_mm: Millimetres = 0.0
    thickness: Annotated[float, Field(gt=0.01, le=0.25)] = 0.11

    @property
    def half_span_mm(self) -> float:
        """Root to tip along the panel, in millimetres."""
        return self.span_mm / 2 if self.arrangement == "pair" else self.span_mm


class Surface(Value):
    """A hinged surface: from ``start_mm`` to ``end_mm`` along its panel from the root, ``chord_mm`` deep.

    ``throw_up_deg`` and ``throw_down_deg`` are its angles at 100 % output (left and right for a vertical surface).
    """

    name: Name
    label: Label
    role: SurfaceRole
    panel: Name
    side: Side
    start_mm: Annotated[float, Field(ge=0, le=20000)]
    end_mm: Length
    chord_mm: Length
    throw_up_deg: Throw
    throw_down_deg: Throw

    @property
    def vertical(self) -> bool:
        """True where + means trailing edge right and not down."""
        return self.role == "rudder"


class Motor(Value):
    """A motor with its propeller's disc at the given place."""

    name: Name
    label: Label
    x_mm: Millimetres
    y_mm: Millimetres = 0.0
    z_mm: Millimetres = 0.0
    propeller_mm: Length


class Device(Value):
    """A small thing moved by a servo that is no control surface."""

    name: Name
    label: Label
    kind: Literal["tow release", "tail wheel"]
    x_mm: Millimetres
    z_mm: Millimetres = 0.0
    throw_deg: Throw = 30.0


class Airframe(Value):
    """Everything that is drawn and everything that can be moved."""

    kind: Label
    fuselage: Fuselage
    panels: tuple[Panel, ...]
    surfaces: tuple[Surface, ...] = ()
    motors: tuple[Motor, ...] = ()
    devices: tuple[Device, ...] = ()

    def moved(self) -> tuple[Surface | Motor | Device, ...]:
        """All parts that take a demand, in the order in which they are listed."""
        return (*self.surfaces, *self.motors, *self.devices)
