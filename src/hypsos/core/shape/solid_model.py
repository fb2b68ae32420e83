# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane as a solid: faces in millimetres made from the airframe's own dimensions, surfaces
on their hinges.

Axes as in the airframe: x aft, y right, z up. A face is four corners (a triangle repeats one), seen
from outside."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np

from hypsos.core.base.cache import kept
from hypsos.core.parts.airframe import PLATES, SPLIT, Airframe, Surface
from hypsos.core.shape.panel_frame import AFT, PanelFrame
from hypsos.core.shape.solid_body import (
    device_parts,
    fuselage,
    fuselage_outline,
    nacelle,
    struts,
    undercarriage,
)
from hypsos.core.shape.solid_faces import Array, Faces, Hinged, of_quads

STATIONS = np.array([0.0, 0.025, 0.09, 0.22, 0.4, 0.6, 0.8, 1.0])
STRIP_MM = 130.0


class Solid(NamedTuple):
    """Everything to draw: what stays, what hinges, and outlines for the shadow."""

    fixed: tuple[Faces, ...]
    hinged: tuple[Hinged, ...]
    outlines: tuple[Array, ...]
    reach_mm: float
    centre: Array


@kept
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
            for surface in mine:
                hinged += _moving(frame, surface)
            outlines.append(frame.outline())
    fixed += undercarriage(airframe.fuselage) + struts(airframe)
    for motor in airframe.motors:
        if motor.y_mm:  # one in the middle sits in the fuselage
            fixed += nacelle(motor)
    for device in airframe.devices:
        hinged += device_parts(device, airframe.fuselage)
    points = np.concatenate([f.corners.reshape(-1, 3) for f in fixed])
    low, high = points.min(axis=0), points.max(axis=0)
    return Solid(
        tuple(fixed), tuple(hinged), tuple(outlines), float((high - low).max()), (low + high) / 2
    )


def _on_side(surface: Surface, side: float) -> bool:
    return surface.side == "centre" or side == 0.0 or (surface.side == "left") == (side < 0)


def _panel(frame: PanelFrame, surfaces: list[Surface]) -> list[Faces]:
    marks = sorted(
        {0.0, frame.half, *(s.start_mm for s in surfaces), *(s.end_mm for s in surfaces)}
    )
    etas = np.concatenate(
        [[marks[0]], *(_cut(left, right)[1:] for left, right in itertools.pairwise(marks))]
    )
    # (strips, 2): where each begins and ends along the span
    strips = np.stack([etas[:-1], etas[1:]], axis=1)
    deep = np.zeros(len(strips))  # the chord of the surface behind each
    # where surfaces overlap the first one in the list is cut out
    for s in reversed(surfaces):
        deep[(strips.mean(axis=1) > s.start_mm) & (strips.mean(axis=1) < s.end_mm)] = s.chord_mm
    gone = np.zeros(len(strips), bool)  # where all of the panel turns with a surface
    for s in surfaces:
        gone |= s.all_moving & (strips.mean(axis=1) > s.start_mm) & (strips.mean(axis=1) < s.end_mm)
    if gone.all():
        return []
    deep, strips = np.where(gone, 0.0, deep)[~gone], strips[~gone]
    ends = 1 - deep[:, None] / frame.chord(strips)
    # stations in front of each strip's end
    before = (ends[..., None] - 0.02 > STATIONS).sum(axis=2).min(axis=1)
    skin: list[Array] = []
    out: list[Array] = []
    # strips with equally many stations go together: their faces have equally many corners
    for count in sorted(set(before.tolist())):
        mine = before == count
        at = np.broadcast_to(STATIONS[:count], (mine.sum(), 2, count))
        xis = np.concatenate([at, ends[mine][..., None]], axis=2)
        for ws, normal in zip(frame.thickness(xis), (frame.normal, -frame.normal), strict=True):
            skin.append(_between(frame.point(strips[mine][..., None], xis, ws)))
            out.append(np.broadcast_to(normal, (len(skin[-1]), 3)))
    tip = STATIONS if not any(s.end_mm >= frame.half - 1 for s in surfaces) else STATIONS[:-2]
    if not gone[-1]:
        skin.append(_between(frame.point(frame.half, tip, np.stack(frame.thickness(tip)))[None]))
        out.append(np.broadcast_to(frame.span, (len(skin[-1]), 3)))
    faces = _with_tip(frame, np.concatenate(skin), np.concatenate(out))
    hollow = deep > 0
    if hollow.any():
        up, low = (frame.point(strips, ends, w)[hollow] for w in frame.thickness(ends))
        edge = np.stack([up[:, 0], low[:, 0], low[:, 1], up[:, 1]], axis=1)
        faces.append(of_quads(edge, np.broadcast_to(AFT, (len(edge), 3)), "dark"))
    return faces


def _cut(start: float, end: float) -> Array:
    """Where a length along the span is cut into strips, both ends included."""
    return np.linspace(start, end, max(1, int(np.ceil((end - start) / STRIP_MM))) + 1)


def _between(rows: Array) -> Array:
    """The quads (..., 4, 3) between two rows of points each, (strips, 2, points, 3)."""
    one, other = rows[:, 0], rows[:, 1]
    return np.stack([one[:, :-1], one[:, 1:], other[:, 1:], other[:, :-1]], axis=2).reshape(
        -1, 4, 3
    )


def _with_tip(frame: PanelFrame, skin: Array, out: Array) -> list[Faces]:
    """The skin, the outer part of a wide pair in the colour of its side, so that left and right are
    told apart."""
    limit = frame.half * 2 if frame.vertical else 0.86 * frame.half
    outer = ((skin - frame.point(0, 0)) @ frame.span).min(axis=1) > limit
    parts = (("wing", ~outer), ("left tip" if frame.side < 0 else "right tip", outer))
    return [of_quads(skin[among], out[among], material) for material, among in parts if among.any()]


def _moving(frame: PanelFrame, surface: Surface) -> list[Hinged]:
    """What of a panel turns with a surface; of one that splits both halves."""
    if surface.role in PLATES:
        return [_plate(frame, surface)]
    if surface.role in SPLIT:
        return [_leaf(frame, surface, 1.0), _leaf(frame, surface, -1.0)]
    return [_all_moving(frame, surface) if surface.all_moving else _hinged(frame, surface)]


def _leaf(frame: PanelFrame, surface: Surface, side: float) -> Hinged:
    """A half of a surface that splits: the upper one (``side`` 1) goes up as it opens, the lower
    one down."""
    ends = np.array([surface.start_mm, surface.end_mm])
    front = 1 - surface.chord_mm / frame.chord(ends)
    upper, lower = frame.thickness(front)
    f0, f1 = frame.point(ends, front, upper if side > 0 else lower)
    b0, b1 = frame.point(ends, 1.0)
    quad = np.array([f0, f1, b1, b0])
    faces = of_quads([quad, quad], [frame.normal, -frame.normal], "surface", surface.name)
    axis = side * _turning_down(frame, f0, f1)
    return Hinged(surface.name, faces, f0, axis, np.array([b0, b1]), np.array([f0, f1]))


def _all_moving(frame: PanelFrame, surface: Surface) -> Hinged:
    """All of a panel between two places of its span, with a tip at its outer end, on an axis ahead
    of the trailing edge."""
    gap = min(2.0, (surface.end_mm - surface.start_mm) / 20)
    etas = _cut(surface.start_mm + gap, surface.end_mm)
    strips = np.stack([etas[:-1], etas[1:]], axis=1)[..., None]
    skin = [_between(frame.point(strips, STATIONS, w)) for w in frame.thickness(STATIONS)]
    looks = [
        np.broadcast_to(n, (len(q), 3))
        for q, n in zip(skin, (frame.normal, -frame.normal), strict=True)
    ]
    for eta, out in ((etas[0], -frame.span), (etas[-1], frame.span)):
        skin.append(_between(frame.point(eta, STATIONS, np.stack(frame.thickness(STATIONS)))[None]))
        looks.append(np.broadcast_to(out, (len(skin[-1]), 3)))
    faces = of_quads(np.concatenate(skin), np.concatenate(looks), "surface", surface.name)
    ends = np.array([etas[0], etas[-1]])
    middle = float(frame.chord(ends).mean())
    start, end = frame.point(ends, 1 - surface.chord_mm / middle)
    axis = _turning_down(frame, start, end)
    return Hinged(surface.name, faces, start, axis, frame.point(ends, 1.0), np.array([start, end]))


def _hinged(frame: PanelFrame, surface: Surface) -> Hinged:
    gap = min(3.0, (surface.end_mm - surface.start_mm) / 20)
    a, b = surface.start_mm + gap, surface.end_mm - gap
    etas = _cut(a, b)
    xis = 1 - (surface.chord_mm - 1.5) / frame.chord(etas)
    up, low = (frame.point(etas, xis, w) for w in frame.thickness(xis))
    back = frame.point(etas, 1.0)
    sides = [
        _between(np.stack([x, y], axis=1)[None].swapaxes(1, 2))
        for x, y in ((up, back), (low, back), (up, low))
    ]
    ends = np.stack([up, back, back, low], axis=1)[[0, -1]]
    quads = np.concatenate([*sides, ends])
    looks = np.repeat([frame.normal, -frame.normal, -AFT], len(etas) - 1, axis=0)
    faces = of_quads(
        quads, np.concatenate([looks, [-frame.span, frame.span]]), "surface", surface.name
    )
    ends_mm = np.array([a, b])
    start, end = frame.point(ends_mm, 1 - surface.chord_mm / frame.chord(ends_mm))
    axis = _turning_down(frame, start, end)
    return Hinged(
        surface.name, faces, start, axis, frame.point(ends_mm, 1.0), np.array([start, end])
    )


def _turning_down(frame: PanelFrame, start: Array, end: Array) -> Array:
    """The unit axis through a hinge's ends about which + turns the rear edge down, or to the
    right."""
    axis: Array = (end - start) / np.linalg.norm(end - start)
    wanted = frame.normal if frame.vertical else -frame.normal
    return -axis if np.cross(axis, AFT) @ wanted < 0 else axis


def _plate(frame: PanelFrame, surface: Surface) -> Hinged:
    """A plate let into the upper side behind the middle of the chord, hinged at its front edge."""
    ends = np.array([[surface.start_mm], [surface.end_mm]])
    xis = 0.48 + np.array([0.0, surface.chord_mm / float(frame.chord(ends).mean())])
    lift = 0.004 * float(frame.chord(surface.start_mm)) * frame.normal
    (u0, t0), (u1, t1) = frame.point(ends, xis, frame.thickness(xis)[0]) + lift
    quad = np.array([u0, t0, t1, u1])
    faces = of_quads([quad, quad], [frame.normal, -frame.normal], "surface", surface.name)
    return Hinged(
        surface.name,
        faces,
        u0,
        _turning_down(frame, u0, u1),
        np.array([t0, t1]),
        np.array([u0, u1]),
    )
