# SPDX-License-Identifier: GPL-3.0-or-later
"""The sketch from above: places and pixels, every handle, every part found under the finger."""

from __future__ import annotations

from typing import Any

import pytest
from PyQt6.QtCore import QPointF
from pytestqt.qtbot import QtBot

from hypsos.core.shape import layout_choices as layout
from hypsos.core.shape.measures import measured, pieces
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.widgets.planform import Planform

BODIES = {key: TEMPLATES[key].make("Trial").airframe for key in TEMPLATES}


@pytest.fixture
def sketch(qtbot: QtBot) -> Any:
    made = Planform()
    qtbot.addWidget(made)
    made.resize(420, 260)
    return made


@pytest.mark.parametrize("key", list(BODIES))
def test_places_lead_there_and_back_and_all_of_it_is_in_the_picture(sketch: Any, key: Any) -> None:
    sketch.show_body(BODIES[key], "panels[0]")
    for x, y in ((0.0, 0.0), (300.0, -250.0), (12.5, 99.0)):
        assert sketch.place(sketch.point(x, y)) == pytest.approx((x, y))
    for panel in BODIES[key].panels:
        for side in (-1.0, 1.0):
            assert sketch.rect().contains(
                sketch.panel_shape(panel, side).boundingRect().toAlignedRect()
            )
    sketch.grab()


@pytest.mark.parametrize(
    ("path", "handle", "move", "fields"),
    [
        ("panels[0]", "tip", (30.0, 60.0), {"span_mm", "sweep_mm"}),
        ("panels[0]", "root", (25.0, 0.0), {"x_mm"}),
        ("panels[0]", "root chord", (20.0, 0.0), {"root_chord_mm"}),
        ("panels[0]", "tip chord", (20.0, 0.0), {"tip_chord_mm"}),
        ("surfaces[0]", "inner end", (0.0, -40.0), {"start_mm"}),
        ("surfaces[0]", "outer end", (0.0, 30.0), {"end_mm"}),
        ("surfaces[0]", "hinge", (-10.0, 0.0), {"chord_mm"}),
        ("motors[0]", "motor", (-15.0, -20.0), {"x_mm", "y_mm"}),
    ],
)
def test_a_handle_changes_its_own_figures_and_goes_where_it_was_dragged(
    sketch: Any, path: Any, handle: Any, move: Any, fields: Any
) -> None:
    body = BODIES["twin"]
    sketch.show_body(body, path)
    at, change = sketch.handles()[handle]
    x, y = sketch.place(at)
    wanted = change(x + move[0], y + move[1])
    assert set(wanted) == fields
    still = change(x, y)
    index = int(path.partition("[")[2][:-1])
    part = getattr(body, path.partition("[")[0])[index]
    assert all(
        value == pytest.approx(getattr(part, field), abs=1e-6) for field, value in still.items()
    )
    moved = body
    for field, value in wanted.items():
        moved = measured(moved, path, field, value)
    sketch.show_body(moved, path)
    scale = sketch.scale()[0]
    there = sketch.handles()[handle][0]
    fixed = sketch.point(x + move[0], y + move[1])
    if handle in ("inner end", "outer end"):
        assert there.x() == pytest.approx(fixed.x(), abs=0.5 + scale)
    else:
        assert there.y() == pytest.approx(fixed.y(), abs=0.5 + scale * 2)


def test_what_lies_under_the_finger(sketch: Any) -> None:
    body = layout.with_plates(BODIES["twin"], "airbrake", True)
    sketch.show_body(body, "fuselage")
    known = {path for path, _, _ in pieces(body)}
    for i, s in enumerate(body.surfaces):
        panel = body.panel(s.panel)
        side = {"left": -1.0, "right": 1.0}.get(s.side, 1.0 if panel.arrangement == "pair" else 0.0)
        centre = sketch.surface_shape(s, panel, side).boundingRect().center()
        found = sketch.part_at(centre)
        assert found in known
        if s.side != "right" and panel.arrangement == "pair":
            assert found == f"surfaces[{i}]"
    motor = body.motors[1]
    assert sketch.part_at(sketch.point(motor.x_mm, motor.y_mm)) == "motors[0]"
    assert sketch.part_at(sketch.point(body.fuselage.length_mm * 0.5, 0.0)) in (
        "fuselage",
        "panels[0]",
    )
    assert sketch.part_at(QPointF(-50, -50)) == ""
    sketch.show_body(body, "surfaces[99]")
    assert sketch.handles() == {}
