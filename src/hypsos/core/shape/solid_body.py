# SPDX-License-Identifier: GPL-3.0-or-later
"""The fuselage with all that stands on it or hangs under it: wheels, struts, nacelles, devices."""

from __future__ import annotations

import itertools

import numpy as np

from hypsos.core.parts.airframe import STEERED, Airframe, Device, Fuselage, Motor
from hypsos.core.shape.panel_frame import AFT, PanelFrame
from hypsos.core.shape.solid_faces import Array, Faces, Hinged, of_quads, rotated

AROUND = 14
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
        rings.append(
            np.stack(
                [x, y * wide * body.width_mm / 2, (middle + z * tall) * body.height_mm / 2], axis=1
            )
        )
    return np.array(rings), [r[4] for r in rows]


def fuselage(body: Fuselage) -> list[Faces]:
    """The faces of the fuselage, its glass among them."""
    rings, glass = _rings(body)
    middle = np.linspace(0, 2 * np.pi, AROUND, endpoint=False) + 2 * np.pi / AROUND
    across, up = np.sin(middle), np.cos(middle)
    onward = np.roll(rings, -1, axis=1)
    # (rings, around, 4, 3)
    quads = np.stack([rings[:-1], rings[1:], onward[1:], onward[:-1]], axis=2)
    out = np.broadcast_to(np.stack([np.zeros(AROUND), across, up], axis=1), (*quads.shape[:2], 3))
    kind = np.array(glass[:-1])[:, None]
    clear = (up > 0.25) & ((kind == 1) | ((kind == 2) & (np.abs(across) > 0.5)))
    below = ~clear & (up < -0.35)
    faces = [("body", ~clear & ~below), ("belly", below), ("glass", clear)]
    shell = [of_quads(quads[among], out[among], name) for name, among in faces if among.any()]
    ends = rings[[0, -1]]
    hubs = np.broadcast_to(ends.mean(axis=1, keepdims=True), ends.shape)
    caps = np.stack([hubs, ends, np.roll(ends, -1, axis=1), hubs], axis=2)
    return [
        *shell,
        of_quads(caps.reshape(-1, 4, 3), np.repeat([-AFT, AFT], AROUND, axis=0), "dark"),
    ]


def fuselage_outline(body: Fuselage) -> Array:
    """The outline seen from above, in millimetres: the right side from nose to tail, then the left
    side back."""
    rows = _OUTLINES[body.outline]
    right = [(s * body.length_mm, w * body.width_mm / 2, 0.0) for s, w, *_ in rows]
    return np.array(right + [(x, -y, z) for x, y, z in reversed(right)])


def _disc(centre: Array, radius: float, thick: float, material: str) -> Faces:
    """A wheel standing along x: two faces and a tread."""
    angle = np.linspace(0, 2 * np.pi, 17)
    rim = np.stack([np.cos(angle) * radius, np.zeros(17), np.sin(angle) * radius], axis=1) + centre
    side = np.array([0.0, thick / 2, 0.0])
    hub = np.broadcast_to(centre, (8, 3))
    half = np.stack([hub, rim[:-1:2], rim[1::2], rim[2::2]], axis=1)
    tread = np.stack([rim[:-1] - side, rim[1:] - side, rim[1:] + side, rim[:-1] + side], axis=1)
    out = np.concatenate([np.repeat([-side, side], 8, axis=0), (rim[:-1] + rim[1:]) / 2 - centre])
    return of_quads(np.concatenate([half - side, half + side, tread]), out, material)


def undercarriage(body: Fuselage) -> list[Faces]:
    """The fixed wheels under the fuselage with their struts; nothing where it has none."""
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
        faces.append(of_quads([leg, leg], [across, -across], "metal"))
        faces.append(_disc(foot + np.array([0, sense * 12, 0]), radius, 22.0, "wheel"))
    return faces


def struts(airframe: Airframe) -> list[Faces]:
    """Between the wings of a biplane: two pairs to each side."""
    upper, lower = airframe.panel("wing"), airframe.panel("lower_wing")
    if upper is None or lower is None:
        return []
    faces = []
    for side in (-1.0, 1.0):
        above, below = PanelFrame(upper, side), PanelFrame(lower, side)
        for share in (0.12, 0.68):
            for xi in (0.15, 0.6):
                top, foot = above.point(share * above.half, xi), below.point(share * below.half, xi)
                deep = 0.03 * upper.root_chord_mm * AFT
                quad = np.array([top - deep, top + deep, foot + deep, foot - deep])
                across = np.array([0.0, 1.0, 0.0])
                faces.append(of_quads([quad, quad], [across, -across], "metal"))
    return faces


def nacelle(motor: Motor) -> list[Faces]:
    """A motor's housing on a wing: a slim box that tapers aft."""
    radius = 0.09 * motor.propeller_mm
    place = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
    rings = []
    for back, size in (
        (6.0, 0.7),
        (0.35 * motor.propeller_mm, 1.0),
        (0.9 * motor.propeller_mm, 0.25),
    ):
        angle = np.linspace(0, 2 * np.pi, 9)[:-1] + np.pi / 8
        ring = np.stack(
            [np.full(8, back), size * radius * np.sin(angle), size * radius * np.cos(angle)], axis=1
        )
        rings.append(place + ring)
    quads, out = [], []
    for front, rear in itertools.pairwise(rings):
        for j in range(8):
            k = (j + 1) % 8
            quads.append(np.array([front[j], rear[j], rear[k], front[k]]))
            out.append((front[j] + front[k]) / 2 - np.array([front[j][0], place[1], place[2]]))
    return [of_quads(quads, out, "body")]


def _wheel(device: Device, place: Array, drop: float) -> Hinged:
    axle = place + np.array([14.0, 0.0, -drop])
    wheel = _disc(axle, 22.0, 10.0, "wheel")
    leg = np.array([place - 3.0 * AFT, place + 3.0 * AFT, axle + 3.0 * AFT, axle - 3.0 * AFT])
    across = np.array([0.0, 1.0, 0.0])
    legs = of_quads([leg, leg], [across, -across], "metal", device.name)
    corners, normals = (
        np.concatenate([wheel.corners, legs.corners]),
        np.concatenate([wheel.normals, legs.normals]),
    )
    faces = Faces(corners, normals, "wheel", device.name)
    edge = np.array([axle, axle + np.array([22.0, 0.0, 0.0])])
    return Hinged(
        device.name, faces, place, np.array([0.0, 0.0, 1.0]), edge, np.array([place, axle])
    )


def _folding(device: Device, foot: Array, hip: Array) -> Hinged:
    """A leg that folds aft about a crosswise axis; drawn half way, for its stand runs from -100
    (down) to 100 (up)."""
    down = _wheel(device, hip, float(hip[2] - foot[2]))
    across = np.array([0.0, 1.0, 0.0])
    middle = down.faces.corners - hip
    faces = Faces(
        rotated(middle, across, np.radians(-45.0)) + hip,
        rotated(down.faces.normals, across, np.radians(-45.0)),
        "wheel",
        device.name,
    )
    edge = rotated(down.trailing_edge - hip, across, np.radians(-45.0)) + hip
    return Hinged(device.name, faces, hip, -across, edge, np.array([hip, hip + across]))


def device_parts(device: Device, body: Fuselage) -> list[Hinged]:
    """The parts of a small device that stand out of the fuselage: wheels, hooks, doors, each on its
    hinge."""
    place = np.array([device.x_mm, 0.0, device.z_mm])
    up = np.array([0.0, 0.0, 1.0])
    if device.kind in STEERED:
        return [
            _wheel(device, place, 32.0 if device.kind == "tail wheel" else 0.55 * body.height_mm)
        ]
    if device.kind == "retracts":
        legs = [place + sense * np.array([0.0, 0.7 * body.width_mm, 0.0]) for sense in (-1.0, 1.0)]
        return [_folding(device, hip - 0.75 * body.height_mm * up, hip) for hip in legs]
    if device.kind == "gear doors":
        doors = []
        for sense in (-1.0, 1.0):
            y = sense * 0.3 * body.width_mm
            quad = place + np.array([[-45, y, 0], [45, y, 0], [45, y * 0.2, 0], [-45, y * 0.2, 0]])
            faces = of_quads([quad, quad], [up, -up], "metal", device.name)
            axis = np.array([sense, 0.0, 0.0])
            doors.append(Hinged(device.name, faces, quad[0], axis, quad[2:], quad[:2]))
        return doors
    arm = np.array([[0, -7, 0], [46, -7, 6], [46, 7, 6], [0, 7, 0]], float) + place
    post = np.array([[-4, -9, -14], [6, -9, -14], [6, -9, 6], [-4, -9, 6]], float) + place
    out = np.array([0.0, -1.0, 0.0])
    other = post + np.array([0.0, 18.0, 0.0])
    faces = of_quads([arm, arm, post, other], [up, -up, out, -out], "metal", device.name)
    return [Hinged(device.name, faces, place, np.array([0.0, -1.0, 0.0]), arm[1:3], arm[[0, 3]])]
