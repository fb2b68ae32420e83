"""The aeroplane as a solid: faces in millimetres made from the airframe's own dimensions, surfaces on their hinges.

Axes as in the airframe: x aft, y right, z up. A face is four corners (a triangle repeats one), seen from outside.
"""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np

from hypsos.core.parts.airframe import PLATES, Airframe, Surface
from hypsos.core.shape.faces import Array, Faces, Hinged, of_quads
from hypsos.core.shape.panel_frame import PanelFrame
from hypsos.core.shape.solid_body import device_parts, fuselage, fuselage_outline, nacelle, struts, undercarriage

STATIONS = np.array([0.0, 0.025, 0.09, 0.22, 0.4, 0.6, 0.8, 1.0])
STRIP_MM = 130.0
AROUND = 14
AFT = np.array([1.0, 0.0, 0.0])


class Solid(NamedTuple):
    """Everything to draw: what stays, what hinges, and outlines for the shadow."""

    fixed: tuple[Faces, ...]
    hinged: tuple[Hinged, ...]
    outlines: tuple[Array, ...]
    reach_mm: float
    centre: Array


def solid(airframe: Airframe) -> Solid:
    """The solid of an airframe."""
    fixed: list[Faces] = [*fuselage(airframe.fuselage)]
    hinged: list[Hinged] = []
    outlines: list[Array] = [fuselage_outline(airframe.fuselage)]
    for panel in airframe.panels:
        for side in (0.0,) if panel.arrangement == "single" else (-1.0, 1.0):
            frame = PanelFrame(panel, side)
            mine = [s for s in airframe.surfaces if s.panel == panel.name and _on_side(s, side)]
            fixed += _panel(frame, [s for s in mine if s.role not in PLATES])
            hinged += [_plate(frame, s) if s.role in PLATES else _hinged(frame, s) for s in mine]
            outlines.append(frame.outline())
    fixed += undercarriage(airframe.fuselage) + struts(airframe)
    fixed += [f for m in airframe.motors if m.y_mm for f in nacelle(m)]
    for device in airframe.devices:
        hinged += device_parts(device, airframe.fuselage)
    points = np.concatenate([f.corners.reshape(-1, 3) for f in fixed])
    low, high = points.min(axis=0), points.max(axis=0)
    return Solid(tuple(fixed), tuple(hinged), tuple(outlines), float((high - low).max()), (low + high) / 2)


def _on_side(surface: Surface, side: float) -> bool:
    return surface.side == "centre" or side == 0.0 or (surface.side == "left") == (side < 0)


def _panel(frame: PanelFrame, surfaces: list[Surface]) -> list[Faces]:
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
        faces.append(of_quads(cut, cut_out, "dark"))
    return faces


def _with_tip(frame: PanelFrame, skin: list[Array], out: list[Array]) -> list[Faces]:
    """The skin, the outer part of a wide pair in the colour of its side, so that left and right are told apart."""
    limit = frame.half * 2 if frame.vertical else 0.86 * frame.half
    along = (np.array(skin) - frame.point(0, 0)) @ frame.span
    outer = (along.min(axis=1) > limit).tolist()
    groups = []
    for wanted, material in ((False, "wing"), (True, "left tip" if frame.side < 0 else "right tip")):
        chosen = [i for i, o in enumerate(outer) if o == wanted]
        if chosen:
            groups.append(of_quads([skin[i] for i in chosen], [out[i] for i in chosen], material))
    return groups


def _hinged(frame: PanelFrame, surface: Surface) -> Hinged:
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
    faces = of_quads(quads, out, "surface", surface.name)
    return Hinged(surface.name, faces, start, axis, trailing, np.array([start, end]))


# share of length, half-width, top, bottom (shares of half the width and of half the height),
# glass from here to the next: 1 over the top as well, 2 at the sides only
def _plate(frame: PanelFrame, surface: Surface) -> Hinged:
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
    faces = of_quads([quad, quad], [frame.normal, -frame.normal], "surface", surface.name)
    return Hinged(surface.name, faces, u0, axis, np.array([t0, t1]), np.array([u0, u1]))
