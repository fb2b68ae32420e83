# SPDX-License-Identifier: GPL-3.0-or-later
"""The drawn aeroplane: dimensions, hinges that turn the right way, the eye, and which faces are
painted."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from hypsos.core.base.backends import Array
from hypsos.core.shape.solid_faces import Turning, rotated
from hypsos.core.shape.solid_model import solid
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.bench.camera import VIEWS, Camera
from hypsos.desk.bench.painted_faces import Batch

TUG = solid(TEMPLATES["tug"].make("T").airframe)
SAILPLANE = solid(TEMPLATES["v_tail_sailplane"].make("S").airframe)


def edge_at(hinged: Any, degrees: float) -> Array:
    """The two ends of a trailing edge at a deflection, shape (2, 3)."""
    from_hinge = rotated(hinged.trailing_edge - hinged.pivot, hinged.axis, np.radians(degrees))
    return from_hinge + hinged.pivot  # type: ignore[no-any-return]


def part(body: Any, name: Any, side: Any = 0) -> Any:
    """A hinged part; ``side`` picks the half of one that has two."""
    return [h for h in body.hinged if h.name == name][side]


@pytest.mark.parametrize(("body", "span"), [(TUG, 1800), (SAILPLANE, 3000 * np.cos(np.radians(4)))])
def test_the_solid_has_the_airframes_own_span(body: Any, span: Any) -> None:
    wing = np.concatenate(
        [
            f.corners.reshape(-1, 3)
            for f in body.fixed
            if f.material in ("wing", "left tip", "right tip")
        ]
    )
    # the skin is thick, so a tilted panel reaches a little beyond its chord line
    assert np.ptp(wing[:, 1]) == pytest.approx(span, abs=30 * np.sin(np.radians(5)) + 2)


@pytest.mark.parametrize("template", ["tug", "v_tail_sailplane"])
def test_a_wing_tapers_sweeps_rises_and_meets_its_surfaces_as_it_was_measured(
    template: Any,
) -> None:
    airframe = TEMPLATES[template].make("X").airframe
    body, wing = solid(airframe), airframe.panel("wing")
    half, tilt = wing.half_span_mm, np.radians(wing.dihedral_deg)
    outer = np.array([half * np.cos(tilt), half * np.sin(tilt)])

    def corner(eta: float, chord: float) -> tuple[float, float, float]:
        return (
            wing.x_mm + wing.sweep_mm * eta + chord,
            outer[0] * eta + wing.y_mm,
            wing.z_mm + outer[1] * eta,
        )

    ends = [corner(0, 0), corner(1, 0), corner(1, wing.tip_chord_mm), corner(0, wing.root_chord_mm)]
    assert any(o.shape == (4, 3) and np.allclose(o, ends) for o in body.outlines)
    for material, sense in (("left tip", -1), ("right tip", 1)):
        outside = np.concatenate(
            [sense * f.corners[..., 1].ravel() for f in body.fixed if f.material == material]
        )
        assert outside.min() > 0 and outside.max() > 0.99 * outer[0]
    skin = np.concatenate([f.corners for f in body.fixed if f.material in ("wing", "right tip")])
    looks = np.concatenate([f.normals for f in body.fixed if f.material in ("wing", "right tip")])
    mine = (
        (skin[..., 1].min(axis=1) > 0)
        & (skin[..., 2].max(axis=1) < wing.z_mm + outer[1] + 60)
        & (abs(looks[:, 2]) > 0.8)
    )
    mine &= (
        skin[..., 0].max(axis=1) < wing.x_mm + wing.root_chord_mm + 1
    )  # of the wing, not of the tail
    middle, up = skin[mine].mean(axis=1), looks[mine][:, 2] > 0
    chord_plane = wing.z_mm + (middle[:, 1] - wing.y_mm) * np.tan(tilt)
    assert np.all((middle[:, 2] > chord_plane) == up) and min(up.sum(), (~up).sum()) > 10
    height = (
        skin[mine][..., 2] - wing.z_mm - (skin[mine][..., 1] - wing.y_mm) * np.tan(tilt)
    ) * np.cos(tilt)
    assert np.ptp(height) == pytest.approx(wing.thickness * wing.root_chord_mm, rel=0.06)
    assert height.max() > -1.2 * height.min() > 0  # flatter below
    every = np.concatenate([f.corners.reshape(-1, 3) for f in body.fixed])
    assert np.allclose(body.centre, (every.min(axis=0) + every.max(axis=0)) / 2)
    for surface in (s for s in airframe.surfaces if s.panel == "wing" and s.side == "right"):
        moved = part(body, surface.name)
        shares = np.array([surface.start_mm, surface.end_mm]) / half
        chords = wing.root_chord_mm + (wing.tip_chord_mm - wing.root_chord_mm) * shares
        for points, behind in ((moved.hinge, surface.chord_mm), (moved.trailing_edge, 0.0)):
            wanted = [corner(e, c - behind) for e, c in zip(shares, chords, strict=True)]
            assert np.allclose(points, wanted, atol=3.5)  # a gap of up to 3 mm at each end
        (x0, y0, _), (x1, y1, _) = moved.hinge
        inside = skin[mine][(middle[:, 1] > y0) & (middle[:, 1] < y1)].reshape(-1, 3)
        behind = inside[:, 0] - (x0 + (inside[:, 1] - y0) / (y1 - y0) * (x1 - x0))
        assert behind.max() == pytest.approx(0, abs=1.5)  # the skin ends where the surface begins
        walls = np.concatenate(
            [f.corners[f.normals[:, 0] > 0.9] for f in body.fixed if f.material == "dark"]
        )
        walls = walls[(walls[..., 1].min(axis=1) > y0 - 4) & (walls[..., 1].max(axis=1) < y1 + 4)]
        closed = walls[..., 0] - (x0 + (walls[..., 1] - y0) / (y1 - y0) * (x1 - x0))
        assert (
            len(walls) and np.abs(closed[np.abs(closed).max(axis=1) < 20]).max() < 1.5
        )  # and is closed there
        assert moved.faces.corners[..., 0].min() > min(x0, x1) and moved.faces.corners[
            ..., 0
        ].max() <= max(moved.trailing_edge[:, 0])


@pytest.mark.parametrize("name", ["left_flaperon", "right_flaperon", "elevator"])
def test_down_is_down_for_horizontal_surfaces(name: Any) -> None:
    hinged = part(TUG, name)
    neutral, down, up = (edge_at(hinged, d)[:, 2].mean() for d in (0.0, 20.0, -20.0))
    assert down < neutral < up


def test_both_halves_of_an_elevator_turn_together() -> None:
    left, right = (edge_at(part(TUG, "elevator", s), 15.0)[:, 2].mean() for s in (0, 1))
    assert left == pytest.approx(right)


def test_right_is_right_for_a_rudder_and_a_tail_wheel() -> None:
    for name in ("rudder", "tail_wheel"):
        hinged = part(TUG, name)
        assert (
            edge_at(hinged, 20.0)[1, 1] > edge_at(hinged, 0.0)[1, 1] > edge_at(hinged, -20.0)[1, 1]
        )


def test_ruddervators_move_down_and_outward() -> None:
    for side, sense in (("left", 1), ("right", -1)):
        hinged = part(SAILPLANE, f"{side}_ruddervator")
        moved = edge_at(hinged, 20.0) - edge_at(hinged, 0.0)
        assert (moved[:, 2] < 0).all() and (moved[:, 1] * sense < 0).all()


def test_turning_about_the_hinge_keeps_its_distance() -> None:
    for hinged in (*TUG.hinged, *SAILPLANE.hinged):
        away = np.linalg.norm(hinged.faces.corners - hinged.pivot, axis=-1)
        turned = hinged.turned(33.0)
        assert np.linalg.norm(turned.corners - hinged.pivot, axis=-1) == pytest.approx(away)
        assert np.linalg.norm(turned.normals, axis=-1) == pytest.approx(
            np.linalg.norm(hinged.faces.normals, axis=-1)
        )


def test_a_fin_is_as_thick_to_both_sides() -> None:
    fin = next(p for p in TEMPLATES["tug"].make("T").airframe.panels if p.arrangement == "single")
    faces = [f.corners for f in TUG.fixed if f.material == "wing"]
    high = np.concatenate(
        [c for c in faces if c[..., 2].max() > fin.z_mm + 0.9 * fin.half_span_mm]
    ).reshape(-1, 3)
    assert high[:, 1].max() == pytest.approx(-high[:, 1].min()) and high[:, 1].max() > 1


def test_the_shadow_and_the_faces_are_finite() -> None:
    for body in (TUG, SAILPLANE):
        assert all(np.isfinite(o).all() for o in body.outlines)
        assert all(
            np.isfinite(f.corners).all() and np.isfinite(f.normals).all() for f in body.fixed
        )
        for faces in (*body.fixed, *(h.faces for h in body.hinged)):
            across = np.stack(
                [
                    faces.corners[:, 2] - faces.corners[:, 0],
                    faces.corners[:, 3] - faces.corners[:, 1],
                ],
                axis=1,
            )
            assert np.linalg.norm(faces.normals, axis=1) == pytest.approx(1)
            assert np.einsum("nkx,nx->nk", across, faces.normals) == pytest.approx(0, abs=1e-6)


def test_from_behind_the_nose_is_up_and_the_right_wing_right() -> None:
    behind = Camera(*VIEWS["behind"])
    nose, tail, right = (
        behind.pixels(np.array(p, float)) for p in ((0, 0, 0), (1200, 0, 0), (400, 900, 0))
    )
    assert nose[1] < tail[1] and right[0] > nose[0]
    above = Camera(*VIEWS["above"])
    assert above.pixels(np.array([0.0, 0, 500])) == pytest.approx(above.pixels(np.zeros(3)), abs=10)


def test_the_eye_comes_near_enough_to_fill_the_box() -> None:
    points = np.concatenate([f.corners.reshape(-1, 3) for f in TUG.fixed])
    for name in VIEWS:
        flat = Camera(*VIEWS[name]).fitted(points, 600, 300, 320, 160).pixels(points)
        size = np.ptp(flat, axis=0)
        assert (
            size[0] <= 600.001
            and size[1] <= 300.001
            and max(size[0] / 600, size[1] / 300) == pytest.approx(1)
        )
        assert (flat.max(axis=0) + flat.min(axis=0)) / 2 == pytest.approx([320, 160])


def test_only_faces_towards_the_eye_are_painted_and_found_by_area(qapp: Any) -> None:
    eye = Camera(*VIEWS["above"])
    faces = next(f for f in TUG.fixed if f.material == "wing")
    rows = np.arange(len(faces.corners))
    batch = Batch(["wing"] * len(rows), [""] * len(rows))
    batch.put(rows, eye, faces.corners, faces.normals)
    assert 0 < batch.seen.sum() < len(rows)
    everywhere = batch.within([batch.bounds(rows)])
    assert sorted(everywhere) == np.flatnonzero(batch.seen).tolist() and np.all(
        np.diff(batch.depth[everywhere]) >= 0
    )
    assert batch.within([batch.bounds(rows).translated(5000, 0)]) == []
    batch.put(rows, eye, faces.corners, -faces.normals)
    assert set(everywhere).isdisjoint(batch.within([batch.bounds(rows)])) and batch.seen.any()


def test_parts_turned_together_turn_as_each_alone() -> None:
    for body in (TUG, SAILPLANE):
        which, degrees = (
            list(range(0, len(body.hinged), 2)),
            [7.0 * i - 20 for i in range(0, len(body.hinged), 2)],
        )
        rows, corners, normals, edges = Turning(body.hinged).at(which, degrees)
        assert len(set(rows.tolist())) == len(rows) == len(corners)
        turned = [body.hinged[i].turned(d) for i, d in zip(which, degrees, strict=True)]
        assert corners == pytest.approx(np.concatenate([f.corners for f in turned]))
        assert normals == pytest.approx(np.concatenate([f.normals for f in turned]))
        assert edges == pytest.approx(
            np.array([edge_at(body.hinged[i], d) for i, d in zip(which, degrees, strict=True)])
        )
