# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane as a thing of wood: panels, hinged surfaces, motors and small devices, in
millimetres.

Axes: x runs aft from the nose, y to the right, z up. All places are read off with a tape.
"""

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.base.cache import kept
from hypsos.core.base.values import Degrees, Label, Length, Millimetres, Name, Value

Side = Literal["left", "right", "centre"]
SurfaceRole = Literal[
    "aileron",
    "flaperon",
    "flap",
    "elevon",
    "elevator",
    "rudder",
    "ruddervator",
    "canard",
    "airbrake",
    "spoiler",
    "drag rudder",
]
PLATES = ("airbrake", "spoiler")
"""Roles of plates that open out of a wing's upper side, and cut nothing off its trailing edge."""
SPLIT = ("drag rudder",)
"""Roles of surfaces that split open, one half up and one half down."""
OPENING = (*PLATES, *SPLIT)
"""Roles of what is shut in level flight."""
PITCH_ROLES = ("elevator", "ruddervator", "elevon")
DeviceKind = Literal["tow release", "tail wheel", "nose wheel", "retracts", "gear doors"]
STEERED = ("tail wheel", "nose wheel")
SLENDER = 1.6
"""A wing so many times as wide as the body is long is a sailplane's."""
Throw = Annotated[float, Field(gt=0, le=90)]


class Fuselage(Value):
    """The body: outer dimensions and the family of its outline."""

    length_mm: Length
    width_mm: Length
    height_mm: Length
    outline: Literal["cabin", "pod"] = "cabin"
    undercarriage: Literal["none", "two wheels"] = "none"


class Panel(Value):
    """A lifting or steering panel. A ``pair`` is mirrored to both sides; a ``single`` stands up in
    the middle; a ``twin`` is two that stand up, ``y_mm`` to each side.

    ``span_mm`` is from tip to tip for a pair, from root to tip for one that stands. ``sweep_mm`` is
    how far the tip's leading edge lies behind the root's. ``x_mm`` and ``z_mm`` place the root's
    leading edge."""

    name: Name
    label: Label
    arrangement: Literal["pair", "single", "twin"] = "pair"
    span_mm: Length
    root_chord_mm: Length
    tip_chord_mm: Length
    sweep_mm: Millimetres = 0.0
    dihedral_deg: Degrees = 0.0
    x_mm: Millimetres
    y_mm: Annotated[float, Field(ge=0, le=10000)] = 0.0
    z_mm: Millimetres = 0.0
    thickness: Annotated[float, Field(gt=0.01, le=0.25)] = 0.11

    @property
    def half_span_mm(self) -> float:
        """Root to tip along the panel, in millimetres."""
        return self.span_mm / 2 if self.arrangement == "pair" else self.span_mm

    @property
    def area_dm2(self) -> float:
        """The area in square decimetres, of both halves or of both fins of a twin."""
        one = (self.root_chord_mm + self.tip_chord_mm) / 2 * self.half_span_mm / 1e4
        return one if self.arrangement == "single" else 2 * one

    @property
    def mean_chord_mm(self) -> float:
        """The mean aerodynamic chord of a straight-tapered panel: ``2/3 c (1 + t + t^2) / (1 +
        t)``, t the taper."""
        taper = self.tip_chord_mm / self.root_chord_mm
        return 2 / 3 * self.root_chord_mm * (1 + taper + taper * taper) / (1 + taper)

    @property
    def quarter_mm(self) -> float:
        """Where the quarter point of the mean aerodynamic chord lies behind the nose."""
        taper = self.tip_chord_mm / self.root_chord_mm
        return (
            self.x_mm + self.sweep_mm * (1 + 2 * taper) / (3 * (1 + taper)) + self.mean_chord_mm / 4
        )

    def chord_at(self, eta_mm: float) -> float:
        """The chord at a distance from the root along the panel."""
        return (
            self.root_chord_mm
            + (self.tip_chord_mm - self.root_chord_mm) * eta_mm / self.half_span_mm
        )


class Surface(Value):
    """A hinged surface: from ``start_mm`` to ``end_mm`` along its panel from the root, ``chord_mm``
    deep.

    ``throw_up_deg`` and ``throw_down_deg`` are its angles at 100 % output (left and right for a
    vertical surface). A surface that ``follows`` another has no servo of its own: it hangs on that
    one's, and moves the opposite way. An ``all_moving`` one is its whole part of the panel, on an
    axis ``chord_mm`` ahead of the trailing edge."""

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
    follows: Name | None = None
    all_moving: bool = False

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
    kind: DeviceKind
    x_mm: Millimetres
    z_mm: Millimetres = 0.0
    throw_deg: Throw = 30.0


class Airframe(Value):
    """Everything that is drawn and everything that can be moved.

    ``balance_mm`` is where it balances ready to fly, behind the leading edge at the wing's root;
    ``mass_g`` what it weighs then. None of either where nobody has said it."""

    kind: Label
    fuselage: Fuselage
    panels: Annotated[tuple[Panel, ...], Field(max_length=20)]
    surfaces: Annotated[tuple[Surface, ...], Field(max_length=120)] = ()
    motors: Annotated[tuple[Motor, ...], Field(max_length=40)] = ()
    devices: Annotated[tuple[Device, ...], Field(max_length=40)] = ()
    balance_mm: Annotated[float, Field(ge=-2000, le=5000)] | None = None
    mass_g: Annotated[float, Field(gt=0, le=200000)] | None = None

    def moved(self) -> tuple[Surface | Motor | Device, ...]:
        """All parts that take a demand, in the order in which they are listed."""
        return _moved(self)

    def pitching(self) -> tuple[Surface, ...]:
        """The surfaces that do the elevator's work."""
        return self.with_roles(*PITCH_ROLES)

    def other_side(self, name: str) -> str | None:
        """The part that does on the other side what this one does on its own; None for one in the
        middle."""
        left, right = self.side_motors()
        pairs = list(zip(left, right, strict=False))
        for role, panel in dict.fromkeys((s.role, s.panel) for s in self.surfaces):
            mine = [s for s in self.surfaces if (s.role, s.panel) == (role, panel)]
            at_left = [s.name for s in mine if s.side == "left"]
            at_right = [s.name for s in mine if s.side == "right"]
            pairs += zip(at_left, at_right, strict=False)
        for one, other in pairs:
            if name == one:
                return other
            if name == other:
                return one
        return None

    def side_motors(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The motors to the left and to the right of the middle, from the outside in."""
        outer = sorted(self.motors, key=lambda m: -abs(m.y_mm))
        left = tuple(m.name for m in outer if m.y_mm < -1)
        right = tuple(m.name for m in outer if m.y_mm > 1)
        return left, right

    def panel(self, name: str) -> Panel | None:
        """The panel of that name, or None."""
        return next((p for p in self.panels if p.name == name), None)

    def with_roles(self, *roles: str) -> tuple[Surface, ...]:
        """The surfaces of these roles that take a demand."""
        return tuple(s for s in self.surfaces if s.role in roles and s.follows is None)


@kept
def _moved(body: Airframe) -> tuple[Surface | Motor | Device, ...]:
    led = (surface for surface in body.surfaces if surface.follows is None)
    return (*led, *body.motors, *body.devices)
