"""The drawn aeroplane: dimensions, hinges that turn the right way, the eye, and which faces are painted."""

from __future__ import annotations

import numpy as np
import pytest

from hypsos.core.shape.faces import Turning
from hypsos.core.shape.solid import solid
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.bench.camera import VIEWS, Camera
from hypsos.desk.bench.faces import Batch

TUG = solid(TEMPLATES["tug"].make("T").airframe)
SAILPLANE = solid(TEMPLATES["v_tail_sailplane"].make("S").airframe)


def part(body, name, side=0):
    """A hinged part; ``side`` picks the half of one that has two."""
    return [h for h in body.hinged if h.name == name][side]


@pytest.mark.parametrize(("body", "span"), [(TUG, 1800), (SAILPLANE, 3000 * np.cos(np.radians(4)))])
def test_the_solid_has_the_airframes_own_span(body, span):
    wing = np.concatenate(
        [f.corners.reshape(-1, 3) for f in body.fixed if f.material in ("wing", "left tip", "right tip")]
    )
    # the skin is thick, so a tilted panel reaches a little beyond its chord line
    assert np.ptp(wing[:, 1]) == pytest.approx(span, abs=30 * np.sin(np.radians(5)) + 2)


@pytest.mark.parametrize("name", ["left_flaperon", "right_flaperon", "elevator"])
def test_down_is_down_for_horizontal_surfaces(name):
    hinged = part(TUG, name)
    neutral, down, up = (hinged.edge_at(d)[:, 2].mean() for d in (0.0, 20.0, -20.0))
    assert down < neutral < up


def test_both_halves_of_an_elevator_turn_together():
    left, right = (part(TUG, "elevator", s).edge_at(15.0)[:, 2].mean() for s in (0, 1))
    assert left == pytest.approx(right)


def test_right_is_right_for_a_rudder_and_a_tail_wheel():
    for name in ("rudder", "tail_wheel"):
        hinged = part(TUG, name)
        assert hinged.edge_at(20.0)[1, 1] > hinged.edge_at(0.0)[1, 1] > hinged.edge_at(-20.0)[1, 1]


def test_ruddervators_move_down_and_outward():
    for side, sense in (("left", 1), ("right", -1)):
        moved = part(SAILPLANE, f"{side}_ruddervator").edge_at(20.0) - part(SAILPLANE, f"{side}_ruddervator").edge_at(
            0.0
        )
        assert (moved[:, 2] < 0).all() and (moved[:, 1] * sense < 0).all()


def test_turning_about_the_hinge_keeps_its_distance():
    for hinged in (*TUG.hinged, *SAILPLANE.hinged):
        away = np.linalg.norm(hinged.faces.corners - hinged.pivot, axis=-1)
        turned = hinged.turned(33.0)
        assert np.linalg.norm(turned.corners - hinged.pivot, axis=-1) == pytest.approx(away)
        assert np.linalg.norm(turned.normals, axis=-1) == pytest.approx(np.linalg.norm(hinged.faces.normals, axis=-1))


def test_the_shadow_and_the_faces_are_finite():
    for body in (TUG, SAILPLANE):
        assert all(np.isfinite(o).all() for o in body.outlines)
        assert all(np.isfinite(f.corners).all() and np.isfinite(f.normals).all() for f in body.fixed)


def test_from_behind_the_nose_is_up_and_the_right_wing_right():
    behind = Camera(*VIEWS["behind"])
    nose, tail, right = (behind.pixels(np.array(p, float)) for p in ((0, 0, 0), (1200, 0, 0), (400, 900, 0)))
    assert nose[1] < tail[1] and right[0] > nose[0]
    above = Camera(*VIEWS["above"])
    assert above.pixels(np.array([0.0, 0, 500])) == pytest.approx(above.pixels(np.zeros(3)), abs=10)


def test_the_eye_comes_near_enough_to_fill_the_box():
    points = np.concatenate([f.corners.reshape(-1, 3) for f in TUG.fixed])
    for name in VIEWS:
        flat = Camera(*VIEWS[name]).fitted(points, 600, 300, 320, 160).pixels(points)
        size = np.ptp(flat, axis=0)
        assert size[0] <= 600.001 and size[1] <= 300.001 and max(size[0] / 600, size[1] / 300) == pytest.approx(1)
        assert (flat.max(axis=0) + flat.min(axis=0)) / 2 == pytest.approx([320, 160])


def test_only_faces_towards_the_eye_are_painted_and_found_by_area(qapp):
    eye = Camera(*VIEWS["above"])
    faces = next(f for f in TUG.fixed if f.material == "wing")
    rows = np.arange(len(faces.corners))
    batch = Batch(["wing"] * len(rows), [""] * len(rows))
    batch.put(rows, eye, faces.corners, faces.normals)
    assert 0 < batch.seen.sum() < len(rows)
    everywhere = batch.within([batch.bounds(rows)])
    assert sorted(everywhere) == np.flatnonzero(batch.seen).tolist() and np.all(np.diff(batch.depth[everywhere]) >= 0)
    assert batch.within([batch.bounds(rows).translated(5000, 0)]) == []
    batch.put(rows, eye, faces.corners, -faces.normals)
    assert set(everywhere).isdisjoint(batch.within([batch.bounds(rows)])) and batch.seen.any()


def test_parts_turned_together_turn_as_each_alone():
    for body in (TUG, SAILPLANE):
        which, degrees = list(range(0, len(body.hinged), 2)), [7.0 * i - 20 for i in range(0, len(body.hinged), 2)]
        rows, corners, normals, edges = Turning(body.hinged).at(which, degrees)
        assert len(set(rows.tolist())) == len(rows) == len(corners)
        turned = [body.hinged[i].turned(d) for i, d in zip(which, degrees, strict=True)]
        assert corners == pytest.approx(np.concatenate([f.corners for f in turned]))
        assert normals == pytest.approx(np.concatenate([f.normals for f in turned]))
        assert edges == pytest.approx(
            np.array([body.hinged[i].edge_at(d) for i, d in zip(which, degrees, strict=True)])
        )
