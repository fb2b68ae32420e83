"""Proposals for a lost link: what each gives to whom."""

from __future__ import annotations

import pytest
from PyQt6.QtWidgets import QApplication

from hypsos.core.engine import Situation, compile_plan
from hypsos.core.model.failsafe import PROPOSALS, proposed, usual_failsafe
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import make_sheet, sheet_markdown
from hypsos.desk.steps.failsafepicture import without_link


def given(key, title):
    model = TEMPLATES[key].make("Trial")
    made = proposed(model, next(p for p in PROPOSALS if p.title == title))
    assert [x.failsafe.action for x in made.leads] == ["preset"] * len(made.leads)
    return {x.target: x.failsafe.value for x in made.leads}


@pytest.mark.parametrize(
    ("key", "title", "expected"),
    [
        ("tug", "Stopped and neutral", {"motor": -100, "tow_release": 100}),
        ("tug", "Stopped, flaps part down", {"motor": -100, "tow_release": 100, "left_flaperon": 35, "right_flaperon": 35}),
        ("tug", "Stopped, flaps, a gentle turn",
         {"motor": -100, "tow_release": 100, "left_flaperon": 35, "right_flaperon": 35, "rudder": 12}),
        ("v_tail_sailplane", "Stopped, flaps, a gentle turn",
         {"motor": -100, "left_flap": 35, "right_flap": 35, "left_ruddervator": -12, "right_ruddervator": 12}),
        ("twin", "Stopped and neutral", {"left_motor": -100, "right_motor": -100}),
    ],
)  # fmt: skip
def test_what_a_proposal_gives(key, title, expected):
    found = given(key, title)
    assert {n: v for n, v in found.items() if v} == expected


def test_where_nobody_has_said_anything_motors_stop_and_the_rest_is_neutral():
    model = TEMPLATES["twin"].make("Trial")
    leads = tuple(x.model_copy(update={"failsafe": None, "port": i + 1}) for i, x in enumerate(model.leads))
    parts = {p.name: p for p in model.airframe.moved()}
    result = compile_plan(model.model_copy(update={"leads": leads})).run(
        Situation([0.0, 0.02, 2.0], {}, [1.0, 1.0, 0.0])
    )
    later = compile_plan(model.model_copy(update={"leads": leads})).run(
        Situation([2.02, 4.0], {"rudder_stick": 100.0}, 0.0), result.memory
    )
    for lead in leads:
        safe = usual_failsafe(parts[lead.target])
        assert later.outputs[lead.name].stand[-1] == safe.value == (-100 if lead.target.endswith("motor") else 0)


def test_the_aeroplane_as_its_failsafe_leaves_it_stands_beside_the_page(window, qtbot):
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    QApplication.processEvents()
    assert page.picture.isVisible() and not page.picture._still.pixmap().isNull()
    page.propose("Stopped, flaps part down")
    assert "Left flaperon 12.7 mm down" in page.picture.says.text() and "Motor stopped" in page.picture.says.text()
    before = page.picture._still.pixmap().toImage()
    page._set_action("motor", "no pulses")
    assert "Motor gets no pulses" in page.picture.says.text()
    page._set_value("left_flaperon", -80.0)
    assert "mm up" in page.picture.says.text() and page.picture._still.pixmap().toImage() != before
    result = without_link(bench.loaded)
    assert result.outputs["left_flaperon"].failsafe[-1] and result.outputs["motor"].us[-1] == 0


def test_spare_ports_are_said_on_the_page_and_on_the_sheet(window, samphire):
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    assert page._spare_ports.text() == "Spare port 8" and page.spare.currentText() == "get no pulses"
    page.spare.activated.emit(1)
    assert bench.loaded.receiver.spare == "hold"
    text = sheet_markdown(make_sheet(bench.loaded, "plain"))
    assert "Spare port 8 | stay where they were" in text
    bench.edit("receiver.ports", 7, "fewer")
    assert page.spare.isHidden() and "Spare port" not in sheet_markdown(make_sheet(bench.loaded, "plain"))
