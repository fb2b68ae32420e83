# SPDX-License-Identifier: GPL-3.0-or-later
"""The figures of an airframe that people read off with a tape, part by part, and how they are
changed."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from hypsos.core.base.errors import DocumentError
from hypsos.core.document.paths import with_at
from hypsos.core.parts.airframe import SPLIT, Airframe, Device, Fuselage, Motor, Panel, Surface
from hypsos.core.shape.layout_choices import lift_of, usual_volumes

Piece = Fuselage | Panel | Surface | Motor | Device


@dataclass(frozen=True)
class Measure:
    """One figure: the field, what people call it, its unit, the least and greatest value, and what
    - and + mean."""

    field: str
    words: str
    unit: str
    bounds: tuple[float, float]
    sides: tuple[str, str] | None = None


ALONG, ACROSS, HIGH = ("ahead", "behind"), ("left", "right"), ("below", "above")
LENGTH = (1.0, 20000.0)
PLACE = (-20000.0, 20000.0)
MEASURES: dict[type, tuple[Measure, ...]] = {
    Fuselage: (
        Measure("length_mm", "Length", "mm", LENGTH), Measure("width_mm", "Width", "mm", LENGTH),
        Measure("height_mm", "Height", "mm", LENGTH),
    ),
    Panel: (
        Measure("span_mm", "Span, tip to tip", "mm", LENGTH), Measure("root_chord_mm", "Chord at the root", "mm", LENGTH),
        Measure("tip_chord_mm", "Chord at the tip", "mm", LENGTH), Measure("sweep_mm", "Tip set back by", "mm", PLACE),
        Measure("dihedral_deg", "Tips lean", "°", (-90, 90), ("down", "up")),
        Measure("x_mm", "Root, from the nose", "mm", PLACE, ALONG),
        Measure("y_mm", "To each side", "mm", (0, 10000)), Measure("z_mm", "Root, from the middle", "mm", PLACE, HIGH),
    ),
    Surface: (
        Measure("start_mm", "Begins from the root at", "mm", (0, 20000)), Measure("end_mm", "Ends at", "mm", LENGTH),
        Measure("chord_mm", "Depth behind the hinge", "mm", LENGTH), Measure("throw_up_deg", "Throw up", "°", (0.1, 90)),
        Measure("throw_down_deg", "Throw down", "°", (0.1, 90)),
    ),
    Motor: (
        Measure("x_mm", "From the nose", "mm", PLACE, ALONG), Measure("y_mm", "Side, from the middle", "mm", PLACE, ACROSS),
        Measure("z_mm", "Height, from the middle", "mm", PLACE, HIGH), Measure("propeller_mm", "Propeller", "mm", LENGTH),
    ),
    Device: (
        Measure("x_mm", "From the nose", "mm", PLACE, ALONG), Measure("z_mm", "Height, from the middle", "mm", PLACE, HIGH),
        Measure("throw_deg", "Throw", "°", (0.1, 90)),
    ),
}  # fmt: skip


def pieces(body: Airframe) -> Iterator[tuple[str, str, Piece]]:
    """Path, label and part of everything that can be measured; of a pair only the left one, it
    stands for both."""
    yield "fuselage", "Fuselage", body.fuselage
    for group in ("panels", "surfaces", "motors", "devices"):
        for i, part in enumerate(getattr(body, group)):
            if not part.name.startswith("right_") or twin(body, part) is None:
                label = part.label
                if part.name.startswith("left_"):  # both sides are measured as one
                    label = label.removeprefix("Left ")
                yield f"{group}[{i}]", label[:1].upper() + label[1:], part


def measures_of(piece: Piece) -> tuple[Measure, ...]:
    """The figures of one part; a fin has no dihedral, and only a twin stands to the sides."""
    all_of = MEASURES[type(piece)]
    if isinstance(piece, Panel):
        out = []
        for m in all_of:
            if m.field == "span_mm" and piece.arrangement != "pair":
                m = Measure("span_mm", "Height from root to tip", "mm", m.bounds)
            if (m.field == "dihedral_deg" and piece.arrangement != "pair") or (
                m.field == "y_mm" and piece.arrangement != "twin"
            ):
                continue
            out.append(m)
        return tuple(out)
    if isinstance(piece, Surface):
        words: dict[str, str] = {}
        if piece.vertical:
            words = {"throw_up_deg": "Throw left", "throw_down_deg": "Throw right"}
        if piece.role in SPLIT:
            words |= {"throw_up_deg": "Opens by", "throw_down_deg": "Shuts further by"}
        if piece.all_moving:
            words["chord_mm"] = "Depth behind the axis"
        return tuple(
            Measure(m.field, words.get(m.field, m.words), m.unit, m.bounds) for m in all_of
        )
    return all_of


def twin(body: Airframe, part: Any) -> str | None:
    """The path of the part on the other side, or None."""
    other = body.other_side(part.name)
    for group in ("surfaces", "motors"):
        for i, x in enumerate(getattr(body, group)):
            if x.name == other:
                return f"{group}[{i}]"
    return None


def measured(body: Airframe, path: str, field: str, value: float) -> Airframe:
    """The airframe with one figure changed; on both sides of a pair. With a panel's span its
    surfaces grow and shrink.

    Raises DocumentError with the path and the reason when the value is not allowed.
    """
    piece: Any = body.fuselage if path == "fuselage" else None
    if piece is None:
        group, _, index = path.partition("[")
        items = getattr(body, group)
        if int(index[:-1]) >= len(items):
            raise DocumentError("there is nothing at this place", f"airframe.{path}")
        piece = items[int(index[:-1])]
    out = with_at(body, f"{path}.{field}", value)
    if isinstance(piece, Panel) and field == "span_mm":
        share = value / piece.span_mm
        for i, s in enumerate(body.surfaces):
            if s.panel == piece.name:
                end = min(round(s.end_mm * share, 1), out.panels[int(path[7:-1])].half_span_mm)
                out = with_at(out, f"surfaces[{i}].start_mm", round(s.start_mm * share, 1))
                out = with_at(out, f"surfaces[{i}].end_mm", end)
    if isinstance(piece, Surface | Motor) and (other := twin(body, piece)) is not None:
        mirrored = -value if isinstance(piece, Motor) and field == "y_mm" else value
        out = with_at(out, f"{other}.{field}", mirrored)
    return out


def tail_volumes(body: Airframe) -> dict[str, float]:
    """The tail's volume coefficients ``V = A l / (A_wing c)`` (``/ (A_wing b)`` for the fin), l
    from quarter to quarter chord: how much a tail steadies the aeroplane. All wings count with
    their area and the means of their quarter points and chords by area. A V-tail counts with the
    squares of cosine and sine of its dihedral."""
    lift = lift_of(body)
    out: dict[str, float] = {}
    for panel in body.panels:
        arm = panel.quarter_mm - lift.quarter_mm
        flat = panel.area_dm2 * arm / (lift.area_dm2 * lift.chord_mm)
        high = panel.area_dm2 * arm / (lift.area_dm2 * lift.span_mm)
        if panel.name == "v_tail":
            tilt = math.radians(panel.dihedral_deg)
            out["Tailplane"], out["Fin"] = flat * math.cos(tilt) ** 2, high * math.sin(tilt) ** 2
        elif panel.name == "tailplane":
            out["Tailplane"] = flat
        elif panel.name == "fin":
            out["Fin"] = high
        elif panel.name == "canard":
            out["Canard"] = -flat
    return out


def volume_words(body: Airframe) -> str:
    """The tail volumes in words, each with what is usual beside it; nothing without a tail."""
    usual = usual_volumes(body)
    said = []
    for name, value in tail_volumes(body).items():
        digits = 3 if name == "Fin" else 2
        beside = f" (usual {usual[name][0]:g} to {usual[name][1]:g})" if name in usual else ""
        said.append(f"{name.lower()} {value:.{digits}f}{beside}")
    return f"Tail volumes: {', '.join(said)}." if said else ""
