"""The aeroplane as a solid: faces in millimetres made from the airframe's own dimensions, surfaces on their hinges.

Axes as in the airframe: x aft, y right, z up. A face is four corners (a triangle repeats one), seen from outside.
"""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.parts.airframe import PLATES, STEERED, Airframe, Device, Fuselage, Motor, Panel, Surface

Array = NDArray[np.float64]
STATIONS = np.array([0.0, 0.025, 0.09, 0.22, 0.4, 0.6, 0.8, 1.0])
STRIP_MM = 130.0
AROUND = 14
AFT = np.array([1.0, 0.0, 0.0])


class Faces(NamedTuple):
    """``corners`` (N, 4, 3) in millimetres, ``normals`` (N, 3) outward, ``material`` one name for all."""

    corners: Array
    normals: Array
    material: str
    part: str = ""


class Hinged(NamedTuple):
    """A moved part at neutral with its hinge: a point, and a unit axis about which + turns down (or right).

    ``trailing_edge`` and ``hinge`` are the two ends of each, shape (2, 3); ``panel`` the panel's direction outward.
    """

    name: str
    faces: Faces
    pivot: Array
    axis: Array
    trailing_edge: Array
    hinge: Array

    def turned(self, degrees: float) -> Faces:
        """The faces at a deflection in degrees."""
        angle = np.radians(degrees)
        return Faces(
            rotated(self.faces.corners - self.pivot, self.axis, angle) + self.pivot,
            rotated(self.faces.normals, self.axis, angle),
            self.faces.material,
            self.faces.part,
        )

    def edge_at(self, degrees: float) -> Array:
        """The trailing edge's two ends at a deflection, shape (2, 3)."""
        return rotated(self.trailing_edge - self.pivot, self.axis, np.radians(degrees)) + self.pivot


class Solid(NamedTuple):
    """Everything to draw: what stays, what hinges, and outlines for the shadow."""

    fixed: tuple[Faces, ...]
    hinged: tuple[Hinged, ...]
    outlines: tuple[Array, ...]
    reach_mm: float
    centre: Array


def rotated(v: Array, axis: Array, angle: float) -> Array:
    """Vectors (..., 3) turned about a unit axis by an angle in radians (Rodrigues' formula)."""
    cos, sin = np.cos(angle), np.sin(angle)
    x, y, z = axis
    skew = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    matrix = cos * np.eye(3) + sin * skew + (1 - cos) * np.outer(axis, axis)
    return np.asarray(v @ matrix.T)


def solid(airframe: Airframe) -> Solid:
    """The solid of an airframe."""
    fixed: list[Faces] = [*_fuselage(airframe.fuselage)]
    hinged: list[Hinged] = []
    outlines: list[Array] = [_fuselage_outline(airframe.fuselage)]
    for panel in airframe.panels:
        for side in (0.0,) if panel.arrangement == "single" else (-1.0, 1.0):
            frame = _PanelFrame(panel, side)
            mine = [s for s in airframe.surfaces if s.panel == panel.name and _on_side(s, side)]
            fixed += _panel(frame, [s for s in mine if s.role not in PLATES])
            hinged += [_plate(frame, s) if s.role in PLATES else _hinged(frame, s) for s in mine]
            outlines.append(frame.outline())
    fixed += _undercarriage(airframe.fuselage) + _struts(airframe)
    fixed += [f for m in airframe.motors if m.y_mm for f in _nacelle(m)]
    for device in airframe.devices:
        hinged += _device(device, airframe.fuselage)
    points = np.concatenate([f.corners.reshape(-1, 3) for f in fixed])
    low, high = points.min(axis=0), points.max(axis=0)
    return Solid(tuple(fixed), tuple(hinged), tuple(outlines), float((high - low).max()), (low + high) / 2)


def _on_side(surface: Surface, side: float) -> bool:
    return surface.side == "centre" or side == 0.0 or (surface.side == "left") == (side < 0)


class _PanelFrame:
    """A half of a panel as a coordinate frame: eta along the span, xi along the chord, w along the thickness."""

    def __init__(self, panel: Panel, side: float) -> None:
        self.panel = panel
        self.side = side
        self.half = panel.half_span_mm
        tilt = np.radians(panel.dihedral_deg)
        self.root = np.array([panel.x_mm, side * panel.y_mm, panel.z_mm])
        if panel.arrangement != "pair":
            self.span, self.normal = np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0])
            self.vertical = True
        else:
            self.span = np.array([0.0, side * np.cos(tilt), np.sin(tilt)])
            self.normal = np.array([0.0, -side * np.sin(tilt), np.cos(tilt)])
            self.vertical = False

    def chord(self, eta: float) -> float:
        p = self.panel
        return p.root_chord_mm + (p.tip_chord_mm - p.root_chord_mm) * eta / self.half

    def point(self, eta: float, xi: float | Array, w: float | Array = 0.0) -> Array:
        """One point, or as many as ``xi`` and ``w`` have; ``w`` as a share of the chord."""
        p, chord = self.panel, self.chord(eta)
        lead = self.root + p.sweep_mm * eta / self.half * AFT
        along, across = np.asarray(xi, float)[..., None] * chord, np.asarray(w, float)[..., None] * chord
        return np.asarray(lead + eta * self.span + along * AFT + across * self.normal)

    def thickness(self, xi: Array | float) -> tuple[Array, Array]:
        """Upper and lower outline at shares of the chord (a symmetric thickness law, flattened below on a wing)."""
        x = np.asarray(xi, float)
        t = self.panel.thickness
        half = 5 * t * (0.2969 * np.sqrt(x) - 0.126 * x - 0.3516 * x**2 + 0.2843 * x**3 - 0.1036 * x**4)
        camber = 0.0 if self.vertical else 0.35 * t * x * (1 - x)
        return half + camber, -half + camber

    def outline(self) -> Array:
        corners = ((0.0, 0.0), (self.half, 0.0), (self.half, 1.0), (0.0, 1.0))
        return np.array([self.point(eta, xi) for eta, xi in corners])


def _faces(quads: list[Array], outward: list[Array], material: str, part: str = "") -> Faces:
    corners = np.array(quads)
    a, b = corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1]
    normals = np.cross(a, b)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = normals / np.where(length > 0, length, 1)
    flip = np.einsum("ij,ij->i", normals, np.array(outward)) < 0
    normals[flip] *= -1
    return Faces(corners, normals, material, part)


def _panel(frame: _PanelFrame, surfaces: list[Surface]) -> list[Faces]:
    breaks = {0.0, frame.half, *(s.start_mm for s in surfaces), *(s.end_mm for s in surfaces)}
    marks = sorted(breaks)
    etas = [marks[0]]
    for left, right in itertools.pairwise(marks):
        pieces = max(1, int(np.ceil((right - left) / STRIP_MM)))
        etas += [left + (right - left) * (i + 1) / pieces for i in range(pieces)]
    skin: list[Array] = []
    out: list[Array] = []
    cut: list[Array] = []
    cut_out: list[Array] = []
    aft = np.array([1.0, 0.0, 0.0])
    for a, b in itertools.pairwise(etas):
        middle = (a + b) / 2
        surface = next((s for s in surfaces if s.start_mm < middle < s.end_mm), None)
        ends = [1 - surface.chord_mm / frame.chord(e) if surface else 1.0 for e in (a, b)]
        for upper in (True, False):
            rows = []
            for eta, end in zip((a, b), ends, strict=True):
                xis = np.append(STATIONS[end - 0.02 > STATIONS], end)
                ws = frame.thickness(xis)[0 if upper else 1]
                rows.append(frame.point(eta, xis, ws))
            n = min(len(rows[0]), len(rows[1]))
            for i in range(n - 1):
                skin.append(np.array([rows[0][i], rows[0][i + 1], rows[1][i + 1], rows[1][i]]))
                out.append(frame.normal if upper else -frame.normal)
        if surface:
            corners = [
                frame.point(eta, end, float(frame.thickness(end)[k]))
                for eta, end, k in ((a, ends[0], 0), (a, ends[0], 1), (b, ends[1], 1), (b, ends[1], 0))
            ]
            cut.append(np.array(corners))
            cut_out.append(aft)
    tip = STATIONS if not any(s.end_mm >= frame.half - 1 for s in surfaces) else STATIONS[:-2]
    high, low = (frame.point(frame.half, tip, w) for w in frame.thickness(tip))
    for i in range(len(tip) - 1):
        skin.append(np.array([high[i], high[i + 1], low[i + 1], low[i]]))
        out.append(frame.span)
    faces = _with_tip(frame, skin, out)
    if cut:
        faces.append(_faces(cut, cut_out, "dark"))
    return faces


def _with_tip(frame: _PanelFrame, skin: list[Array], out: list[Array]) -> list[Faces]:
    """The skin, the outer part of a wide pair in the colour of its side, so that left and right are told apart."""
    limit = frame.half * 2 if frame.vertical else 0.86 * frame.half
    along = (np.array(skin) - frame.point(0, 0)) @ frame.span
    outer = (along.min(axis=1) > limit).tolist()
    groups = []
    for wanted, material in ((False, "wing"), (True, "left tip" if frame.side < 0 else "right tip")):
        chosen = [i for i, o in enumerate(outer) if o == wanted]
        if chosen:
            groups.append(_faces([skin[i] for i in chosen], [out[i] for i in chosen], material))
    return groups


def _hinged(frame: _PanelFrame, surface: Surface) -> Hinged:
    gap = min(3.0, (surface.end_mm - surface.start_mm) / 20)
    a, b = surface.start_mm + gap, surface.end_mm - gap
    pieces = max(1, int(np.ceil((b - a) / STRIP_MM)))
    etas = [a + (b - a) * i / pieces for i in range(pieces + 1)]
    quads: list[Array] = []
    out: list[Array] = []

    def edge(eta: float) -> tuple[Array, Array, Array]:
        xi = 1 - (surface.chord_mm - 1.5) / frame.chord(eta)
        up, low = frame.thickness(xi)
        return frame.point(eta, xi, float(up)), frame.point(eta, xi, float(low)), frame.point(eta, 1.0)

    for e0, e1 in itertools.pairwise(etas):
        (u0, l0, t0), (u1, l1, t1) = edge(e0), edge(e1)
        quads += [np.array([u0, t0, t1, u1]), np.array([l0, t0, t1, l1]), np.array([u0, u1, l1, l0])]
        out += [frame.normal, -frame.normal, np.array([-1.0, 0.0, 0.0])]
    for eta, sense in ((etas[0], -1.0), (etas[-1], 1.0)):
        u, low, t = edge(eta)
        quads.append(np.array([u, t, t, low]))
        out.append(sense * frame.span)
    start, end = (frame.point(e, 1 - surface.chord_mm / frame.chord(e)) for e in (a, b))
    axis = (end - start) / np.linalg.norm(end - start)
    wanted = frame.normal if frame.vertical else -frame.normal
    if np.dot(np.cross(axis, np.array([1.0, 0.0, 0.0])), wanted) < 0:
        axis = -axis
    trailing = np.array([frame.point(a, 1.0), frame.point(b, 1.0)])
    faces = _faces(quads, out, "surface", surface.name)
    return Hinged(surface.name, faces, start, axis, trailing, np.array([start, end]))


# share of length, half-width, top, bottom (shares of half the width and of half the height),
# glass from here to the next: 1 over the top as well, 2 at the sides only
_OUTLINES = {
    "cabin": (
        (0.0, 0.34, 0.30, -0.34, 0), (0.02, 0.56, 0.50, -0.56, 0), (0.10, 0.80, 0.66, -0.82, 0),
        (0.205, 0.94, 0.74, -0.97, 1), (0.265, 0.98, 1.0, -1.0, 2), (0.34, 1.0, 1.04, -1.0, 2),
        (0.46, 0.96, 1.02, -0.94, 1), (0.54, 0.86, 0.78, -0.84, 0), (0.68, 0.62, 0.54, -0.58, 0),
        (0.85, 0.36, 0.36, -0.34, 0), (1.0, 0.12, 0.30, -0.20, 0),
    ),
    "pod": (
        (0.0, 0.36, 0.30, -0.36, 0), (0.03, 0.62, 0.52, -0.62, 0), (0.10, 0.90, 0.76, -0.90, 0),
        (0.16, 1.0, 0.98, -1.0, 1), (0.25, 1.0, 1.06, -1.0, 1), (0.34, 0.9, 0.92, -0.86, 0),
        (0.44, 0.62, 0.66, -0.50, 0), (0.52, 0.36, 0.42, -0.26, 0), (0.75, 0.26, 0.32, -0.16, 0),
        (1.0, 0.17, 0.26, -0.08, 0),
    ),
}  # fmt: skip


def _rings(body: Fuselage) -> tuple[Array, list[int]]:
    rows = _OUTLINES[body.outline]
    angle = np.linspace(0, 2 * np.pi, AROUND, endpoint=False) + np.pi / AROUND
    sides, ups = np.sin(angle), np.cos(angle)
    power = 0.72
    y = np.sign(sides) * np.abs(sides) ** power
    z = np.sign(ups) * np.abs(ups) ** power
    rings = []
    for share, wide, top, bottom, _ in rows:
        middle, tall = (top + bottom) / 2, (top - bottom) / 2
        x = np.full(AROUND, share * body.length_mm)
        rings.append(np.stack([x, y * wide * body.width_mm / 2, (middle + z * tall) * body.height_mm / 2], axis=1))
    return np.array(rings), [r[4] for r in rows]


def _fuselage(body: Fuselage) -> list[Faces]:
    rings, glass = _rings(body)
    angle = np.linspace(0, 2 * np.pi, AROUND, endpoint=False) + np.pi / AROUND
    groups: dict[str, tuple[list[Array], list[Array]]] = {name: ([], []) for name in ("body", "belly", "glass", "dark")}
    for i in range(len(rings) - 1):
        for j in range(AROUND):
            k = (j + 1) % AROUND
            quad = np.array([rings[i, j], rings[i + 1, j], rings[i + 1, k], rings[i, k]])
            middle = angle[j] + np.pi / AROUND
            high = np.cos(middle) > 0.25
            clear = high and (glass[i] == 1 or (glass[i] == 2 and abs(np.sin(middle)) > 0.5))
            low = np.cos(middle) < -0.35
            quads, out = groups["glass" if clear else "belly" if low else "body"]
            quads.append(quad)
            out.append(np.array([0.0, np.sin(middle), np.cos(middle)]))
    quads, out = groups["dark"]
    for end, sense in ((0, -1.0), (-1, 1.0)):
        hub = rings[end].mean(axis=0)
        for j in range(AROUND):
            a, b = rings[end, j], rings[end, (j + 1) % AROUND]
            quads.append(np.array([hub, a, b, hub]))
            out.append(np.array([sense, 0.0, 0.0]))
    return [_faces(q, o, name) for name, (q, o) in groups.items() if q]


def _fuselage_outline(body: Fuselage) -> Array:
    rows = _OUTLINES[body.outline]
    right = [(s * body.length_mm, w * body.width_mm / 2, 0.0) for s, w, *_ in rows]
    return np.array(right + [(x, -y, z) for x, y, z in reversed(right)])


def _disc(centre: Array, radius: float, thick: float, material: str) -> Faces:
    """A wheel standing along x: two faces and a tread."""
    angle = np.linspace(0, 2 * np.pi, 17)
    rim = np.stack([np.cos(angle) * radius, np.zeros(17), np.sin(angle) * radius], axis=1) + centre
    side = np.array([0.0, thick / 2, 0.0])
    quads, out = [], []
    for i in range(0, 16, 2):
        for sense in (-1.0, 1.0):
            a, b, c = (rim[i + k] + sense * side for k in range(3))
            quads.append(np.array([centre + sense * side, a, b, c]))
            out.append(np.array([0.0, sense, 0.0]))
    for i in range(16):
        quads.append(np.array([rim[i] - side, rim[i + 1] - side, rim[i + 1] + side, rim[i] + side]))
        out.append((rim[i] + rim[i + 1]) / 2 - centre)
    return _faces(quads, out, material)


def _undercarriage(body: Fuselage) -> list[Faces]:
    if body.undercarriage == "none":
        return []
    faces = []
    x, radius = 0.255 * body.length_mm, 0.22 * body.height_mm
    for sense in (-1.0, 1.0):
        foot = np.array([x - 30, sense * 1.15 * body.width_mm, -1.02 * body.height_mm])
        hip = np.array([x, sense * 0.32 * body.width_mm, -0.44 * body.height_mm])
        deep = np.array([24.0, 0.0, 0.0])
        leg = np.array([hip - deep, hip + deep, foot + deep / 2, foot - deep / 2])
        across = np.array([0.0, 1.0, 0.4])
        faces.append(_faces([leg, leg], [across, -across], "metal"))
        faces.append(_disc(foot + np.array([0, sense * 12, 0]), radius, 22.0, "wheel"))
    return faces


def _struts(airframe: Airframe) -> list[Faces]:
    """Between the wings of a biplane: two pairs to each side."""
    upper, lower = airframe.panel("wing"), airframe.panel("lower_wing")
    if upper is None or lower is None:
        return []
    faces = []
    for side in (-1.0, 1.0):
        above, below = _PanelFrame(upper, side), _PanelFrame(lower, side)
        for share in (0.12, 0.68):
            for xi in (0.15, 0.6):
                top, foot = above.point(share * above.half, xi), below.point(share * below.half, xi)
                deep = 0.03 * upper.root_chord_mm * AFT
                quad = np.array([top - deep, top + deep, foot + deep, foot - deep])
                across = np.array([0.0, 1.0, 0.0])
                faces.append(_faces([quad, quad], [across, -across], "metal"))
    return faces


def _plate(frame: _PanelFrame, surface: Surface) -> Hinged:
    """A plate let into the upper side behind the middle of the chord, hinged at its front edge."""
    a, b = surface.start_mm, surface.end_mm
    xi = [0.48 + share for share in (0.0, surface.chord_mm / frame.chord((a + b) / 2))]
    lift = 0.004 * frame.chord(a)
    (u0, t0), (u1, t1) = (
        tuple(frame.point(e, x, float(frame.thickness(x)[0])) + lift * frame.normal for x in xi) for e in (a, b)
    )
    axis = (u1 - u0) / np.linalg.norm(u1 - u0)
    if np.dot(np.cross(axis, AFT), -frame.normal) < 0:
        axis = -axis
    quad = np.array([u0, t0, t1, u1])
    faces = _faces([quad, quad], [frame.normal, -frame.normal], "surface", surface.name)
    return Hinged(surface.name, faces, u0, axis, np.array([t0, t1]), np.array([u0, u1]))


def _nacelle(motor: Motor) -> list[Faces]:
    """A motor's housing on a wing: a slim box that tapers aft."""
    radius = 0.09 * motor.propeller_mm
    place = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
    rings = []
    for back, size in ((6.0, 0.7), (0.35 * motor.propeller_mm, 1.0), (0.9 * motor.propeller_mm, 0.25)):
        angle = np.linspace(0, 2 * np.pi, 9)[:-1] + np.pi / 8
        ring = np.stack([np.full(8, back), size * radius * np.sin(angle), size * radius * np.cos(angle)], axis=1)
        rings.append(place + ring)
    quads, out = [], []
    for front, rear in itertools.pairwise(rings):
        for j in range(8):
            k = (j + 1) % 8
            quads.append(np.array([front[j], rear[j], rear[k], front[k]]))
            out.append((front[j] + front[k]) / 2 - np.array([front[j][0], place[1], place[2]]))
    return [_faces(quads, out, "body")]


def _wheel(device: Device, place: Array, drop: float) -> Hinged:
    axle = place + np.array([14.0, 0.0, -drop])
    wheel = _disc(axle, 22.0, 10.0, "wheel")
    leg = np.array([place - 3.0 * AFT, place + 3.0 * AFT, axle + 3.0 * AFT, axle - 3.0 * AFT])
    across = np.array([0.0, 1.0, 0.0])
    legs = _faces([leg, leg], [across, -across], "metal", device.name)
    corners, normals = np.concatenate([wheel.corners, legs.corners]), np.concatenate([wheel.normals, legs.normals])
    faces = Faces(corners, normals, "wheel", device.name)
    edge = np.array([axle, axle + np.array([22.0, 0.0, 0.0])])
    return Hinged(device.name, faces, place, np.array([0.0, 0.0, 1.0]), edge, np.array([place, axle]))


def _folding(device: Device, foot: Array, hip: Array) -> Hinged:
    """A leg that folds aft about a crosswise axis; drawn half way, for its stand runs from -100 (down) to 100 (up)."""
    down = _wheel(device, hip, float(hip[2] - foot[2]))
    across = np.array([0.0, 1.0, 0.0])
    middle = down.faces.corners - hip
    faces = Faces(rotated(middle, across, np.radians(-45.0)) + hip, rotated(down.faces.normals, across, np.radians(-45.0)),
                  "wheel", device.name)  # fmt: skip
    edge = rotated(down.trailing_edge - hip, across, np.radians(-45.0)) + hip
    return Hinged(device.name, faces, hip, -across, edge, np.array([hip, hip + across]))


def _device(device: Device, body: Fuselage) -> list[Hinged]:
    place = np.array([device.x_mm, 0.0, device.z_mm])
    up = np.array([0.0, 0.0, 1.0])
    if device.kind in STEERED:
        return [_wheel(device, place, 32.0 if device.kind == "tail wheel" else 0.55 * body.height_mm)]
    if device.kind == "retracts":
        legs = [place + sense * np.array([0.0, 0.7 * body.width_mm, 0.0]) for sense in (-1.0, 1.0)]
        return [_folding(device, hip - 0.75 * body.height_mm * up, hip) for hip in legs]
    if device.kind == "gear doors":
        doors = []
        for sense in (-1.0, 1.0):
            y = sense * 0.3 * body.width_mm
            quad = place + np.array([[-45, y, 0], [45, y, 0], [45, y * 0.2, 0], [-45, y * 0.2, 0]])
            faces = _faces([quad, quad], [up, -up], "metal", device.name)
            axis = np.array([sense, 0.0, 0.0])
            doors.append(Hinged(device.name, faces, quad[0], axis, quad[2:], quad[:2]))
        return doors
    arm = np.array([[0, -7, 0], [46, -7, 6], [46, 7, 6], [0, 7, 0]], float) + place
    post = np.array([[-4, -9, -14], [6, -9, -14], [6, -9, 6], [-4, -9, 6]], float) + place
    out = np.array([0.0, -1.0, 0.0])
    other = post + np.array([0.0, 18.0, 0.0])
    faces = _faces([arm, arm, post, other], [up, -up, out, -out], "metal", device.name)
    return [Hinged(device.name, faces, place, np.array([0.0, -1.0, 0.0]), arm[1:3], arm[[0, 3]])]
