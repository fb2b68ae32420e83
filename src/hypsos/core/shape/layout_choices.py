# SPDX-License-Identifier: GPL-3.0-or-later
"""The airframe's layout as a few choices: what is on the wing, which tail, how many motors, which
small devices.

A choice makes the parts it needs in proportion to the wing and the fuselage, ready to be measured
and corrected; parts that stay keep their own figures. The choices can be mixed freely."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any, NamedTuple, get_args

from hypsos.core.base.errors import HypsosError
from hypsos.core.parts.airframe import (
    PLATES,
    SLENDER,
    SPLIT,
    Airframe,
    Device,
    DeviceKind,
    Fuselage,
    Motor,
    Panel,
    Side,
    Surface,
    SurfaceRole,
)

Band = tuple[str, SurfaceRole, float, float, float, float, float]
"""A pair of surfaces on a wing: name, role, start and end as shares of the half span, depth as a
share of the chord, throws up and down in degrees."""

WINGS: dict[str, tuple[str, tuple[Band, ...]]] = {
    "none": ("no surfaces", ()),
    "one": ("ailerons on one servo", (("aileron", "aileron", 0.5, 0.94, 0.24, 20, 20),)),
    "two": ("two ailerons", (("aileron", "aileron", 0.5, 0.94, 0.24, 20, 20),)),
    "flaperons": ("two flaperons", (("flaperon", "flaperon", 0.16, 0.95, 0.24, 28, 28),)),
    "elevons": ("two elevons", (("elevon", "elevon", 0.2, 0.94, 0.24, 28, 28),)),
    "four": (
        "ailerons and flaps, four servos",
        (("flap", "flap", 0.1, 0.52, 0.24, 12, 70), ("aileron", "aileron", 0.54, 0.95, 0.24, 25, 25)),
    ),
    "six": (
        "ailerons, flaps and mid flaps, six servos",
        (
            ("flap", "flap", 0.08, 0.36, 0.24, 12, 70), ("mid_flap", "flap", 0.37, 0.62, 0.24, 15, 60),
            ("aileron", "aileron", 0.63, 0.95, 0.24, 25, 25),
        ),
    ),
}  # fmt: skip
TAILS = {
    "conventional": "tailplane and fin",
    "T-tail": "tailplane on top of the fin",
    "V-tail": "V-tail",
    "none": "no tailplane",
}
MOTOR_COUNTS = (0, 1, 2, 4, 6)
DEVICES: tuple[DeviceKind, ...] = get_args(DeviceKind)
SIDES = ("left", "right")
WING_ROLES = ("aileron", "flaperon", "flap", "elevon")
TAIL_ROLES = ("elevator", "rudder", "ruddervator")
TAIL_PANELS = ("tailplane", "v_tail", "fin")


def main_wing(body: Airframe) -> Panel:
    """The panel that carries it: the one called wing, else the first."""
    return body.panel("wing") or body.panels[0]


def wing_choice(body: Airframe) -> str:
    """Which of ``WINGS`` the wing is; ``own`` when it was composed by hand."""
    mine = [s for s in body.surfaces if s.panel == main_wing(body).name and s.role in WING_ROLES]
    names = {s.name.split("_", 1)[1] for s in mine if s.side == "left"}
    if any(s.follows for s in mine):
        return "one"
    for key, (_, bands) in WINGS.items():
        if key != "one" and names == {b[0] for b in bands} and len(mine) == 2 * len(bands):
            return key
    return "own"


def tail_choice(body: Airframe) -> str:
    """Which of ``TAILS`` the tail is."""
    tailplane, fin = body.panel("tailplane"), body.panel("fin")
    if body.panel("v_tail") is not None:
        return "V-tail"
    if tailplane is None:
        return "none"
    high_on_the_fin = fin is not None and tailplane.z_mm > fin.z_mm + 0.6 * fin.span_mm
    return "T-tail" if high_on_the_fin else "conventional"


def count_of(body: Airframe, role: str) -> int:
    """How many surfaces have a role."""
    return sum(s.role == role for s in body.surfaces)


def is_all_moving(body: Airframe) -> bool:
    """Whether all of the tailplane moves."""
    return any(s.all_moving for s in body.surfaces if s.role == "elevator")


class _Proportions(NamedTuple):
    """How an aeroplane without measurements begins; lengths as shares of the span or, for the wing's
    place, of the fuselage."""

    kind: str
    outline: str
    undercarriage: str
    length: float
    root: float
    tip: float
    sweep: float
    """Of the difference of root and tip chord: 1 is a straight trailing edge."""
    dihedral_deg: float
    wing_at: float
    wing_height: float
    thickness: float


_CABIN = _Proportions(
    kind="aeroplane",
    outline="cabin",
    undercarriage="two wheels",
    length=0.74,
    root=0.17,
    tip=0.135,
    sweep=0.3,
    dihedral_deg=3.0,
    wing_at=0.27,
    wing_height=0.03,
    thickness=0.1,
)
_POD = _CABIN._replace(
    kind="sailplane", outline="pod", undercarriage="none", length=0.5, root=0.08, tip=0.05
)
_DELTA = _POD._replace(
    kind="delta",
    length=0.95,
    root=0.62,
    tip=0.16,
    sweep=1.0,
    dihedral_deg=0.0,
    wing_at=0.33,
    wing_height=0.01,
    thickness=0.07,
)


def blank(span_mm: float = 1400.0, delta: bool = False, pod: bool = False) -> Airframe:
    """A fuselage and a wing without any surface, to begin with."""
    shares = _CABIN
    if delta:
        shares = _DELTA
    elif pod:
        shares = _POD
    length, root, tip = (x * span_mm for x in (shares.length, shares.root, shares.tip))
    fuselage = Fuselage(
        length_mm=_mm(length),
        width_mm=_mm(0.07 * length),
        height_mm=_mm(0.085 * length),
        outline=shares.outline,
        undercarriage=shares.undercarriage,
    )
    wing = Panel(
        name="wing",
        label="Wing",
        span_mm=span_mm,
        root_chord_mm=_mm(root),
        tip_chord_mm=_mm(tip),
        sweep_mm=round(shares.sweep * (root - tip)),
        dihedral_deg=shares.dihedral_deg,
        x_mm=round(length * shares.wing_at),
        z_mm=round(shares.wing_height * length),
        thickness=shares.thickness,
    )
    return Airframe(kind=shares.kind, fuselage=fuselage, panels=(wing,))


def with_wing(body: Airframe, choice: str, panel: str = "", prefix: str = "") -> Airframe:
    """The wing (or another panel) with another set of surfaces. Those that stay keep chord and
    throws."""
    wing = body.panel(panel) or main_wing(body)
    panel = wing.name
    old = {s.name: s for s in body.surfaces}
    made: list[Surface] = []
    for name, role, start, end, share, up, down in WINGS[choice][1]:
        half = wing.half_span_mm
        # a share of the panel where it is least deep, so that it fits all along
        deep = min(wing.chord_at(start * half), wing.chord_at(end * half))
        for side in SIDES:
            full = f"{side}_{prefix}{name}"
            kept = old.get(full)
            follows = f"left_{prefix}{name}" if choice == "one" and side == "right" else None
            if (
                kept is not None
                and kept.role == role
                and (kept.start_mm, kept.end_mm) == (start * half, end * half)
            ):
                # it stays where it was, with all its figures
                made.append(kept.changed({"follows": follows}))
                continue
            made.append(
                Surface(
                    name=full,
                    label=_label(full),
                    role=role,
                    panel=panel,
                    side=side,
                    start_mm=_mm(start * half),
                    end_mm=_mm(end * half),
                    follows=follows,
                    chord_mm=kept.chord_mm if kept else _mm(share * deep),
                    throw_up_deg=kept.throw_up_deg if kept else up,
                    throw_down_deg=kept.throw_down_deg if kept else down,
                )
            )
    return _replace(body, lambda s: s.panel == panel and s.role in WING_ROLES, made)


def with_second_wing(body: Airframe, choice: str | None) -> Airframe:
    """A biplane's lower wing with this set of surfaces, or none (``choice`` None)."""
    if choice is None:
        return _without(body, {"lower_wing"})
    if body.panel("lower_wing") is None:
        wing = main_wing(body)
        gap = 0.9 * wing.root_chord_mm
        lower = wing.changed(
            {
                "name": "lower_wing",
                "label": "Lower wing",
                "x_mm": wing.x_mm + 0.25 * wing.root_chord_mm,
                "z_mm": round(wing.z_mm - gap),
            }
        )
        body = body.changed({"panels": (*body.panels, lower)})
    return with_wing(body, choice, "lower_wing", "lower_")


class Lift(NamedTuple):
    """What carries an aeroplane, all its wings together: area, span of the widest, mean chord, and
    its quarter point."""

    area_dm2: float
    span_mm: float
    chord_mm: float
    quarter_mm: float


def lift_of(body: Airframe) -> Lift:
    """The wings of an aeroplane as one: chords and quarter points are means by area."""
    # a canard and a tailplane carry little; they are the tail's business
    wings = [main_wing(body), *(p for p in body.panels if p.name == "lower_wing")]
    area = sum(p.area_dm2 for p in wings)

    def mean(of: Callable[[Panel], float]) -> float:
        return sum(p.area_dm2 * of(p) for p in wings) / area

    return Lift(
        area,
        max(p.span_mm for p in wings),
        mean(lambda p: p.mean_chord_mm),
        mean(lambda p: p.quarter_mm),
    )


VOLUMES = {
    False: {"Tailplane": (0.5, 0.7), "Fin": (0.03, 0.05)},
    True: {"Tailplane": (0.45, 0.6), "Fin": (0.02, 0.025)},
}
"""Usual tail volumes of powered aeroplanes, and of sailplanes: from, to."""


def usual_volumes(body: Airframe) -> dict[str, tuple[float, float]]:
    """The usual tail volumes of an aeroplane of these proportions; those of a fin alone where there
    is no tailplane."""
    found = VOLUMES[lift_of(body).span_mm > SLENDER * body.fuselage.length_mm]
    return found if tail_choice(body) != "none" else {"Fin": found["Fin"]}


def with_tail(
    body: Airframe, choice: str, elevators: int = 1, rudders: int = 1, all_moving: bool = False
) -> Airframe:
    """Another tail. ``elevators`` 1 or 2 on a tailplane, which is ``all_moving`` or has them hinged
    to it; ``rudders`` 0, 1 or 2 (two stand on two fins)."""
    panels, surfaces = _tail_parts(body, choice, elevators, rudders)
    panels = [_kept_panel(body, choice, p) for p in panels]
    body = _without(body, set(TAIL_PANELS) - {p.name for p in panels})
    others = tuple(p for p in body.panels if p.name not in TAIL_PANELS)
    body = body.changed({"panels": (*others, *panels)})
    there = {p.name: p for p in panels}
    made = [
        _kept_surface(body, there[s.panel], s, all_moving and s.role == "elevator")
        for s in surfaces
    ]
    return _replace(body, lambda s: s.role in TAIL_ROLES, made)


def _kept_panel(body: Airframe, choice: str, fresh: Panel) -> Panel:
    """A panel of another tail: the one that was there, with its figures, where it is of the same
    arrangement. A tailplane is always kept, and goes where it belongs on another tail."""
    kept = next((p for p in body.panels if p.name == fresh.name), None)
    if kept is None:
        return fresh
    if fresh.name == "tailplane":
        if tail_choice(body) == choice:
            return kept
        return kept.changed({"x_mm": fresh.x_mm, "z_mm": fresh.z_mm})
    return kept if kept.arrangement == fresh.arrangement else fresh


def _kept_surface(body: Airframe, panel: Panel, fresh: Surface, whole: bool) -> Surface:
    """A surface of another tail: the one that was there where it sits on the same panel and side;
    ``whole``: the panel turns as a whole."""
    kept = next((s for s in body.surfaces if s.name == fresh.name), None)
    if kept is not None and (kept.side, kept.panel, kept.all_moving) == (
        fresh.side,
        fresh.panel,
        whole,
    ):
        return kept
    if whole:
        return _whole_on(panel, fresh.name, fresh.side)
    return _on(panel, fresh.name, fresh.role, fresh.side, fresh.throw_up_deg)


ELEVATOR_DEG, RUDDER_DEG = 15.0, 25.0
"""Throws of a tail's surfaces at high rates: usual first values."""
TAPER = {"V-tail": 0.7, "tailplane": 0.75, "fin": 0.62, "fins": 0.65}
ASPECT = {"V-tail": 4.4, "tailplane": 3.6, "fin": 1.25, "fins": 1.1}
"""Span by the chord at the root, of a fin its height."""
V_TILT = 38.0
"""Degrees by which the panels of a V-tail lean."""
LEAST_CHORD_MM = 8.0
"""A tail is at least so deep, however small the wing is."""


def _tail_parts(
    body: Airframe, choice: str, elevators: int, rudders: int
) -> tuple[list[Panel], list[Surface]]:
    """The tail of a choice, as large as is usual for such an aeroplane where it stands."""
    length = body.fuselage.length_mm
    slender = lift_of(body).span_mm > SLENDER * length
    # the middle of what is usual: of the tailplane, of the fin
    flat, high = ((low + most) / 2 for low, most in VOLUMES[slender].values())
    surfaces: list[Surface] = []
    if choice == "V-tail":
        # a leaning panel works as both; by the square of the cosine as a tailplane, by that of
        # the sine as a fin
        tilt = math.radians(V_TILT)
        chord = max(
            _chord(body, "V-tail", flat / math.cos(tilt) ** 2, lift_of(body).chord_mm),
            _chord(body, "V-tail", high / math.sin(tilt) ** 2, lift_of(body).span_mm),
        )
        panel = _panel(
            "v_tail",
            "V-tail",
            ASPECT["V-tail"] * chord,
            chord,
            TAPER["V-tail"],
            length - chord,
            0.012 * length,
            dihedral=V_TILT,
        )
        return [panel], [
            _on(panel, f"{side}_ruddervator", "ruddervator", side, 22.0) for side in SIDES
        ]
    if rudders == 2:
        chord = _chord(body, "fins", high / 2, lift_of(body).span_mm)
        # on a tailplane they stand near its ends, on a wing without one far out
        y = 0.085 * lift_of(body).span_mm if choice != "none" else 0.24 * main_wing(body).span_mm
        fin = _panel(
            "fin",
            "Fins",
            ASPECT["fins"] * chord,
            chord,
            TAPER["fins"],
            length - chord,
            0.02 * length,
            "twin",
            y=y,
        )
    else:
        chord = _chord(body, "fin", high, lift_of(body).span_mm)
        fin = _panel(
            "fin",
            "Fin",
            ASPECT["fin"] * chord,
            chord,
            TAPER["fin"],
            length - chord,
            0.022 * length,
            "single",
        )
    panels = [fin]
    if choice != "none":
        on_top = choice == "T-tail"
        # on top of a swept fin it stands further back
        back = fin.sweep_mm if on_top else 0.0
        chord = _chord(body, "tailplane", flat, lift_of(body).chord_mm, back)
        z = fin.z_mm + fin.span_mm * 0.98 if on_top else 0.018 * length
        tailplane = _panel(
            "tailplane",
            "Tailplane",
            ASPECT["tailplane"] * chord,
            chord,
            TAPER["tailplane"],
            length - chord + back,
            z,
        )
        panels.append(tailplane)
        if elevators == 2:
            surfaces += [
                _on(tailplane, f"{side}_elevator", "elevator", side, ELEVATOR_DEG) for side in SIDES
            ]
        else:
            surfaces.append(_on(tailplane, "elevator", "elevator", "centre", ELEVATOR_DEG))
    if rudders == 2:
        surfaces += [_on(fin, f"{side}_rudder", "rudder", side, RUDDER_DEG) for side in SIDES]
    elif rudders == 1:
        surfaces.append(_on(fin, "rudder", "rudder", "centre", RUDDER_DEG))
    return panels, surfaces


def _chord(body: Airframe, kind: str, volume: float, by_mm: float, back_mm: float = 0.0) -> float:
    """The chord at the root of one panel of a tail whose trailing edge ends the body, for a tail
    volume.

    ``volume * A_wing * by = A * arm``: the area A goes with the square of the chord, and the arm is
    shorter the deeper the panel is. So the chord is found by going on with the arm that the last
    one left. ``back_mm``: so far behind it stands."""
    lift, length = lift_of(body), body.fuselage.length_mm
    taper, aspect = TAPER[kind], ASPECT[kind]
    arm = max(0.2 * length, 0.9 * length - lift.quarter_mm)
    chord = 0.0
    # twenty rounds are far more than it takes to come to rest
    for _ in range(20):
        chord = math.sqrt(volume * lift.area_dm2 * 1e4 * by_mm / (arm * aspect * (1 + taper) / 2))
        chord = min(max(chord, LEAST_CHORD_MM), 0.45 * length)
        arm = max(0.2 * length, length - 0.7 * chord + back_mm - lift.quarter_mm)
    return chord


def with_canards(body: Airframe, on: bool) -> Airframe:
    """A pair of canards ahead of the wing, or none."""
    if not on:
        return _without(body, {"canard"})
    if body.panel("canard") is not None:
        return body
    wing, length = main_wing(body), body.fuselage.length_mm
    # no deeper than the nose has room for
    chord = min(0.16 * wing.root_chord_mm + 40, 0.16 * length)
    panel = _panel(
        "canard", "Canard", 0.34 * wing.span_mm, chord, 0.6, 0.16 * length, 0.02 * length
    )
    surfaces = [_on(panel, f"{side}_canard", "canard", side, 25.0, 0.45) for side in SIDES]
    body = body.changed({"panels": (*body.panels, panel)})
    return _replace(body, lambda s: s.role == "canard", surfaces)


def with_plates(body: Airframe, role: SurfaceRole, on: bool) -> Airframe:
    """Airbrakes or spoilers out of the wing's upper side, or none."""
    assert role in PLATES
    if not on or count_of(body, role):
        return body if on else _replace(body, lambda s: s.role == role, [])
    wing = main_wing(body)
    half, deep = wing.half_span_mm, wing.chord_at(0.45 * wing.half_span_mm)
    start, end = (0.28, 0.46) if role == "airbrake" else (0.5, 0.7)
    plates = [
        Surface(
            name=f"{side}_{role}",
            label=_label(f"{side}_{role}"),
            role=role,
            panel=wing.name,
            side=side,
            start_mm=_mm(start * half),
            end_mm=_mm(end * half),
            chord_mm=_mm(0.16 * deep),
            throw_up_deg=PLATE[0],
            throw_down_deg=PLATE[1],
        )
        for side in SIDES
    ]
    return _replace(body, lambda s: s.role == role, plates)


PLATE = (70.0, 1.0)
"""An airbrake or spoiler opens by so much, and does no more than shut the other way: degrees up,
degrees down."""
SPLIT_THROWS = {"throw_up_deg": 60.0, "throw_down_deg": 1.0}
"""A drag rudder opens by so much to each side, and does no more than shut the other way."""
ADDED = {"flap": (12.0, 70.0), "aileron": (20.0, 20.0), "airbrake": PLATE, "spoiler": PLATE}
"""How far a surface goes that is added by itself, up and down, in degrees: usual first values, as
in the layouts."""
SPLIT_FROM, SPLIT_TO = 0.82, 0.97
"""Where drag rudders begin and end, as shares of the half span."""


def with_drag_rudders(body: Airframe, on: bool) -> Airframe:
    """A drag rudder near each wing tip, or none; what is hinged there ends before it."""
    if not on or count_of(body, "drag rudder"):
        return body if on else _replace(body, lambda s: s.role == "drag rudder", [])
    wing = main_wing(body)
    half = wing.half_span_mm
    room = _mm((SPLIT_FROM - 0.02) * half)
    shorter = []
    for s in body.surfaces:
        reaches = s.panel == wing.name and s.role not in PLATES and s.start_mm < room < s.end_mm
        shorter.append(s.changed({"end_mm": room}) if reaches else s)
    deep = 0.26 * float(wing.chord_at(0.9 * half))
    made = [
        Surface(
            name=f"{side}_drag_rudder",
            label=_label(f"{side}_drag_rudder"),
            role="drag rudder",
            panel=wing.name,
            side=side,
            start_mm=_mm(SPLIT_FROM * half),
            end_mm=_mm(SPLIT_TO * half),
            chord_mm=_mm(deep),
            **SPLIT_THROWS,
        )
        for side in SIDES
    ]
    return body.changed({"surfaces": (*shorter, *made)})


def with_motors(body: Airframe, count: int) -> Airframe:
    """So many motors; those that stay keep their places. One sits in the nose, the others on the
    wing, in pairs."""
    wing, old = main_wing(body), {m.name: m for m in body.motors}
    made: list[Motor] = []
    if count == 1:
        pusher = body.panel("canard") is not None or (
            tail_choice(body) == "none" and not count_of(body, "elevator")
        )
        x = body.fuselage.length_mm + 14 if pusher else -14.0
        made.append(
            Motor(
                name="motor", label="Motor", x_mm=x, propeller_mm=_mm(0.2 * min(wing.span_mm, 2000))
            )
        )
    names = {2: ("",), 4: ("outer_", "inner_"), 6: ("outer_", "middle_", "inner_")}.get(count, ())
    shares = {2: (0.36,), 4: (0.56, 0.27), 6: (0.66, 0.44, 0.22)}.get(count, ())
    for name, share in zip(names, shares, strict=True):
        for side, sign in (("left", -1.0), ("right", 1.0)):
            eta = share * wing.half_span_mm
            full = f"{side}_{name}motor"
            x = wing.x_mm + wing.sweep_mm * share - 0.25 * wing.chord_at(eta)
            size = _mm(0.8 * wing.half_span_mm * (0.36 if count == 2 else 0.22))
            made.append(
                Motor(
                    name=full,
                    label=_label(full),
                    x_mm=round(x),
                    y_mm=round(sign * eta),
                    z_mm=wing.z_mm,
                    propeller_mm=size,
                )
            )
    motors = tuple(old.get(m.name, m) for m in made)
    return body.changed({"motors": motors})


def with_device(body: Airframe, kind: DeviceKind, on: bool) -> Airframe:
    """A small device, or not."""
    others = tuple(d for d in body.devices if d.kind != kind)
    if not on:
        return body.changed({"devices": others})
    if len(others) < len(body.devices):
        return body
    length, height = body.fuselage.length_mm, body.fuselage.height_mm
    # under a glider's nose
    hook = (0.17, -0.42, 30.0) if main_wing(body).span_mm > SLENDER * length else (0.5, 0.46, 30.0)
    x, z, throw = {
        "tow release": hook,
        "tail wheel": (0.94, -0.1, 30.0),
        "nose wheel": (0.12, -0.4, 30.0),
        "retracts": (0.36, -0.35, 45.0),
        "gear doors": (0.36, -0.5, 40.0),
    }[kind]
    name = kind.replace(" ", "_")
    device = Device(
        name=name,
        label=_label(name),
        kind=kind,
        x_mm=round(x * length),
        z_mm=round(z * height),
        throw_deg=throw,
    )
    body = body.changed({"devices": (*others, device)})
    if kind == "retracts" and body.fuselage.undercarriage != "none":
        body = body.changed({"fuselage": body.fuselage.changed({"undercarriage": "none"})})
    return body


def without_part(body: Airframe, name: str) -> Airframe:
    """Without a surface, motor, device or panel (with its surfaces), and without its twin on the
    other side.

    The main wing stays. What followed a surface that goes gets a servo of its own.
    """
    gone = {name, body.other_side(name) or name}
    if body.panel(name) is not None:
        return body if name == main_wing(body).name else _without(body, {name})
    surfaces = []
    for surface in body.surfaces:
        if surface.name in gone:
            continue
        if surface.follows in gone:
            surface = surface.changed({"follows": None})
        surfaces.append(surface)
    motors = tuple(motor for motor in body.motors if motor.name not in gone)
    devices = tuple(device for device in body.devices if device.name not in gone)
    return body.changed({"surfaces": tuple(surfaces), "motors": motors, "devices": devices})


ROLES_ON: dict[str, tuple[SurfaceRole, ...]] = {
    "wing": ("aileron", "flaperon", "flap", "elevon", "airbrake", "spoiler", "drag rudder"),
    "lower_wing": ("aileron", "flaperon", "flap"),
    "tailplane": ("elevator",), "v_tail": ("ruddervator",), "fin": ("rudder",), "canard": ("canard",),
}  # fmt: skip
"""What can be hinged to which panel."""


def with_surfaces(body: Airframe, panel: Panel, role: SurfaceRole) -> Airframe:
    """One more pair of surfaces (one surface in the middle on a single fin) in the widest gap of a
    panel.

    Raises HypsosError when there is no room left.
    """
    sides = ("centre",) if panel.arrangement == "single" else SIDES
    start, end = _widest_gap(body, panel, role, sides[0])
    up, down = ADDED.get(role, (25.0, 25.0))
    share = 0.16 if role in PLATES else 0.24
    made = []
    for side, name in zip(sides, _free_names(body, role, sides), strict=True):
        one = _on(panel, name, role, side, up, share).changed({"throw_down_deg": down})
        if role in SPLIT:
            one = one.changed(SPLIT_THROWS)
        made.append(one.changed({"start_mm": _mm(start), "end_mm": _mm(end)}))
    return body.changed({"surfaces": (*body.surfaces, *made)})


def _widest_gap(body: Airframe, panel: Panel, role: SurfaceRole, side: str) -> tuple[float, float]:
    """Where the widest gap between surfaces of the same sort begins and ends, with some air to
    both. Raises HypsosError."""
    taken = []
    for s in body.surfaces:
        same_sort = (s.role in PLATES) == (role in PLATES)
        if s.panel == panel.name and s.side in (side, "centre") and same_sort:
            taken.append((s.start_mm, s.end_mm))
    half = panel.half_span_mm
    # from the end of each surface to the beginning of the next one; the panel's own ends are the
    # first and the last
    ends = [0.03 * half, *(end for _, end in sorted(taken))]
    starts = [*(start for start, _ in sorted(taken)), 0.97 * half]
    start, end = max(zip(ends, starts, strict=True), key=lambda gap: gap[1] - gap[0])
    if end - start < 0.08 * half:
        raise HypsosError(
            f"there is no room left on {panel.label.lower()}",
            "",
            "Make another surface shorter first.",
        )
    return start + 0.02 * half, end - 0.02 * half


def _free_names(body: Airframe, role: SurfaceRole, sides: Sequence[str]) -> list[str]:
    """Names for a surface on each side, with a number where they are taken."""
    taken = {s.name for s in body.surfaces}
    stem = role.replace(" ", "_")
    for number in itertools.count(1):
        numbered = stem if number == 1 else f"{stem}_{number}"
        names = [numbered if side == "centre" else f"{side}_{numbered}" for side in sides]
        if not taken.intersection(names):
            return names
    raise AssertionError("there is always a number that is free")


def _panel(
    name: str,
    label: str,
    span: float,
    chord: float,
    taper: float,
    x: float,
    z: float,
    arrangement: str = "pair",
    dihedral: float = 0.0,
    y: float = 0.0,
) -> Panel:
    sweep = (0.5 if arrangement == "pair" else 0.8) * chord * (1 - taper)
    return Panel(
        name=name,
        label=label,
        arrangement=arrangement,
        span_mm=_mm(span),
        root_chord_mm=_mm(chord),
        tip_chord_mm=_mm(taper * chord),
        sweep_mm=round(sweep),
        dihedral_deg=dihedral,
        x_mm=round(x),
        y_mm=round(y),
        z_mm=round(z),
        thickness=0.08,
    )


def _on(
    panel: Panel, name: str, role: SurfaceRole, side: str, throw: float, share: float = 0.36
) -> Surface:
    half = panel.half_span_mm
    deep = min(panel.chord_at(0.04 * half), panel.chord_at(0.96 * half))
    return Surface(
        name=name,
        label=_label(name),
        role=role,
        panel=panel.name,
        side=side,
        start_mm=_mm(0.04 * half),
        end_mm=_mm(0.96 * half),
        chord_mm=_mm(share * deep),
        throw_up_deg=throw,
        throw_down_deg=throw,
    )


AXIS = 0.3
"""The axis of an all-moving tailplane lies so far behind its leading edge, in parts of the mean
chord."""
WHOLE_DEG = 8.0
"""The throw of an all-moving tailplane: a usual first value; all of it moves, so it needs less than
an elevator."""


def _whole_on(panel: Panel, name: str, side: Side) -> Surface:
    """An elevator that is all of the tailplane, but for what holds it to the body."""
    half = panel.half_span_mm
    return Surface(
        name=name,
        label=_label(name),
        role="elevator",
        panel=panel.name,
        side=side,
        all_moving=True,
        start_mm=_mm(0.06 * half),
        end_mm=panel.half_span_mm,
        chord_mm=_mm((1 - AXIS) * panel.chord_at(0.5 * half)),
        throw_up_deg=WHOLE_DEG,
        throw_down_deg=WHOLE_DEG,
    )


def _mm(length: float) -> float:
    """A length as it is read off a tape: whole millimetres, tenths of small ones, and never
    nothing."""
    return float(round(length)) if length >= 10 else max(0.1, round(length, 1))


def _label(name: str) -> str:
    return name.replace("_", " ").capitalize()


def _replace(body: Airframe, gone: Callable[[Surface], bool], made: Iterable[Surface]) -> Airframe:
    made = list(made)
    names = {s.name for s in made}
    kept = [s for s in body.surfaces if not gone(s) and s.name not in names]
    return body.changed({"surfaces": (*kept, *made)})


def _without(body: Airframe, panels: set[str]) -> Airframe:
    update: dict[str, Any] = {
        "panels": tuple(p for p in body.panels if p.name not in panels),
        "surfaces": tuple(s for s in body.surfaces if s.panel not in panels),
    }
    return body.changed(update)
