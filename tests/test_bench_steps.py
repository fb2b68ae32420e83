# SPDX-License-Identifier: GPL-3.0-or-later
"""The real window, driven through shaping an aeroplane, finding its hidden faults, its wiring and
its throws."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hands import choose, press, say_seen, type_into
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot
from test_window import LEFT, new_model

from hypsos.core.checking.checks import problems
from hypsos.core.edits.behaviours import without
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.direction_finder import check_of
from hypsos.core.fitting.practice_faults import practice, practice_with, single_faults


def pick(box: Any, words: str) -> None:
    """Choose an item of a list as a hand would."""
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())


def test_a_delta_with_canards_from_nothing_and_its_two_hidden_faults(
    qtbot: QtBot, window: Any
) -> None:
    bench = window.workbench
    new_model(qtbot, window, "Dunlin", "template:bare")
    window.go("airframe")
    page = window.page("airframe")
    pick(page.boxes["wing"], "two elevons")
    pick(page.boxes["rudders"], "one")
    page.ticks["canards"].click()
    pick(page.boxes["motors"], "1")
    assert [x.target for x in bench.model.leads] == [
        "left_elevon",
        "right_elevon",
        "rudder",
        "left_canard",
        "right_canard",
        "motor",
    ]
    assert bench.model.program.guard is not None and list(problems(bench.model)) == []
    type_into(qtbot, page.fields["root_chord_mm"], "600")
    type_into(qtbot, page.fields["tip_chord_mm"], "160")
    type_into(qtbot, page.fields["sweep_mm"], "440")
    assert (
        bench.model.airframe.panels[0].sweep_mm == 440
        and bench.document.undo_label == "wing: tip set back by 440"
    )
    window.go("wiring")
    press(window.page("wiring"), "Plug in the rest in order")
    window.go("directions")
    page = window.page("directions")
    model = bench.model
    seed = next(
        s
        for s in range(99)
        if practice(model, s).truth(model).faults == 2 and practice(model, s).truth(model).on
    )
    page.practise(seed)
    parts = {p.name: p for p in model.airframe.moved()}
    mended = False
    for _ in range(2):
        for i, step in enumerate(page.check.steps):
            page.go_to(i)
            press(page, "Move it for me")
            say_seen(page, parts, page.check.seen(bench.state.practice.truth(model))[step.key])
        while page.finding.question is not None:
            lead = page.finding.question.lead
            port = next(x.port for x in model.leads if x.target == lead)
            page.replies[bench.state.practice.ports[port]].click()
        if page.finding.settled.faults:
            press(page, "Mend it on this aeroplane")
            mended = True
    assert mended and bench.state.practice.truth(model).faults == 0 and bench.model == model
    assert (
        page.finding.settled.faults == 0 and window.rundown.state("directions").name == "not begun"
    )
    window.bench.grab()
    press(page, "My aeroplane")
    assert bench.state.practice is None


def test_the_bench_shows_the_aeroplane_to_practise_on(window: Any) -> None:
    bench = window.workbench
    model = bench.model
    reversed_rudder = [f for f in single_faults(check_of(model)) if f.reversed_ == {"rudder"}]
    bench.simulation.practise(practice_with(model, reversed_rudder))
    bench.simulation.set_control("rudder_stick", 100.0)
    rudder = next(x.name for x in model.leads if x.target == "rudder")
    sent, shown = bench.state.live.result.outputs[rudder], bench.state.shown.outputs[rudder]
    assert shown.stand[-1] == pytest.approx(-sent.stand[-1]) and abs(sent.stand[-1]) > 40
    window.bench.aeroplane.grab()
    assert window.bench.aeroplane.stands["rudder"].deg == pytest.approx(shown.deg[-1])


@pytest.mark.parametrize("name", ["Samphire", "Tidewrack"])
def test_every_movement_is_made_to_its_end_slow_as_it_may_be(window: Any, name: Any) -> None:
    """The practised eye compares what it sees with the whole movement, not with where a slow flap
    is halfway."""
    choose(window, name)
    window.go("directions")
    page, bench = window.page("directions"), window.workbench
    leads = {x.target: x.name for x in bench.model.leads}
    for i, step in enumerate(page.check.steps):
        page.go_to(i)
        press(page, "Move it for me")
        reached = settled(bench.state.plan, dict(bench.state.live.controls))
        for part in page.check.parts:
            stand = bench.state.live.result.outputs[leads[part]].stand[-1]
            assert stand == pytest.approx(reached.outputs[leads[part]].stand[-1], abs=0.01), (
                step.key,
                part,
            )


def test_ones_own_aeroplane_is_mended_and_noted(window: Any) -> None:
    bench = window.workbench
    window.go("directions")
    page = window.page("directions")
    check, model = page.check, bench.model
    wrong = practice_with(model, [f for f in single_faults(check) if f.reversed_ == {"elevator"}])
    seen = check.seen(wrong.truth(model))
    for i, step in enumerate(check.steps):
        page.go_to(i)
        page.answers[step.key] = dict(seen[step.key])
    page.show_answers()
    while page.finding.question is not None:
        lead = page.finding.question.lead
        page.replies[lead].click()  # the plugs are right: the lead that is pulled stands still
    press(page, "Mend it in the model")
    elevator = next(x for x in bench.model.leads if x.target == "elevator")
    assert elevator.direction == -next(x for x in model.leads if x.target == "elevator").direction
    assert bench.document.undo_label == "directions mended" and not elevator.checked
    asked_again = {s.key for s in page.check.steps if "elevator" in s.moves}
    assert (
        asked_again
        and asked_again.isdisjoint(page.answers)
        and set(page.answers) | asked_again == {s.key for s in check.steps}
    )
    assert "Mended" in [x.text() for x in page.findChildren(QLabel) if not x.isHidden()]
    while not all(page.answers.get(s.key) for s in page.check.steps):
        press(page, "All as it should")  # it goes on by itself
    assert page.finding.question is None  # which plug moves what is known by now
    press(page, "Note it: all seen right")
    assert (
        all(x.checked for x in bench.model.leads)
        and window.rundown.state("directions").name == "settled"
    )


def test_answers_move_on_and_the_rest_overwrites_no_fault(window: Any) -> None:
    bench = window.workbench
    window.go("directions")
    page = window.page("directions")
    first = page.check.steps[0]
    for name in first.moves:
        assert page.at == 0
        page.answer(name, -first.expected(name))
    assert page.at == 1
    page.go_to(0)
    press(page, "Go on")
    wrong = next(iter(page.check.steps[1].moves))
    page.answers[page.check.steps[1].key] = {wrong: 0}
    page.answer_all()
    assert page.answers[page.check.steps[1].key][wrong] == 0 and page.at == 2
    page.practise(3)
    made = bench.state.practice
    window.go("feel")
    assert bench.state.practice is None
    window.go("directions")
    assert bench.state.practice is made is not None


def test_the_sketch_is_dragged_and_refuses_what_cannot_be(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("airframe")
    page = window.page("airframe")
    QApplication.processEvents()
    sketch = page.sketch
    tip, _ = sketch.handles()["tip"]
    qtbot.mousePress(sketch, LEFT, pos=tip.toPoint())
    qtbot.mouseMove(sketch, (tip + QPointF(-20, 0)).toPoint())
    qtbot.mouseRelease(sketch, LEFT, pos=(tip + QPointF(-20, 0)).toPoint())
    assert 1500 < bench.model.airframe.panels[0].span_mm < 1790
    middle = (
        sketch.surface_shape(bench.model.airframe.surfaces[1], bench.model.airframe.panels[0], 1.0)
        .boundingRect()
        .center()
    )
    qtbot.mouseClick(sketch, LEFT, pos=middle.toPoint())
    assert page.path == "surfaces[0]"  # the left one stands for both
    before = bench.model
    type_into(qtbot, page.fields["end_mm"], "2000")
    assert (
        "must begin before it ends" in page.fields["end_mm"].complaint.text()
        and bench.model == before
    )
    window.show_place("airframe.motors[0].x_mm")
    assert page.path == "motors[0]" and "propeller_mm" in page.fields


def test_a_y_lead_is_refused_where_servos_must_differ(window: Any) -> None:
    bench = window.workbench
    window.go("wiring")
    page = window.page("wiring")
    page.first.setCurrentIndex(page.first.findData("left_flaperon"))
    page.second.setCurrentIndex(page.second.findData("right_flaperon"))
    press(page, "Join")
    assert "must differ" in page.join_complaint.text() and not bench.model.y_leads
    bench.document.open("Tidewrack")
    bench.document.apply(
        without(bench.model, 1), "without the brakes, for which the two must differ"
    )
    for second, kind, words in (
        ("left_lower_aileron", "plain", "would move the wrong way"), ("left_lower_aileron", "reversing", ""),
    ):  # fmt: skip
        page.first.setCurrentIndex(page.first.findData("left_aileron"))
        page.second.setCurrentIndex(page.second.findData(second))
        page.kind.setCurrentText(kind)
        press(page, "Join")
        assert words in page.join_complaint.text()
    leads = {x.name: x for x in bench.model.leads}
    assert (
        leads["left_lower_aileron"].port == leads["left_aileron"].port == 1
        and len(bench.model.y_leads) == 1
    )
    page.plug("left_aileron", 3)
    assert {x.port for x in bench.model.leads if "left_" in x.name and "aileron" in x.name} == {3}
    assert "left_lower_aileron" not in check_of(bench.model).parts
    press(page, "Take apart")
    assert not bench.model.y_leads and sum(x.port is None for x in bench.model.leads) == 1


def test_ports_numbers_power_and_the_card(qtbot: QtBot, window: Any, tmp_path: Path) -> None:
    bench = window.workbench
    window.go("wiring")
    page = window.page("wiring")
    first, second = (next(x.name for x in bench.model.leads if x.port == n) for n in (1, 2))
    page.choose(first)
    page.output.written.clear()
    qtbot.keyClicks(page.output.written, "L flap, blue")
    qtbot.keyClick(page.output.written, Qt.Key.Key_Return)
    assert (
        bench.model.leads[0].label == "L flap, blue"
        and bench.model.airframe.surfaces[0].label == "Left flaperon"
    )
    QApplication.processEvents()
    wide = page.picture.width() / bench.model.receiver.ports
    qtbot.mousePress(page.picture, LEFT, pos=QPoint(int(wide / 2), 50))
    qtbot.mouseRelease(page.picture, LEFT, pos=QPoint(int(1.5 * wide), 50))
    ports = {x.name: x.port for x in bench.model.leads}
    assert (ports[first], ports[second]) == (2, 1)
    type_into(qtbot, page.number, "7")
    assert "receiver number 7 is Marram's" in page.number.complaint.text().replace(
        "Receiver", "receiver"
    )
    assert bench.model.receiver.number != 7
    page.set_power(2)
    page.set_power_port(1)
    assert "already holds" in window.notice.text.text() and bench.model.receiver.power_port is None
    page.set_power_port(8)
    assert bench.model.receiver.power_port == 8 and "port 8" in page.power_said.text()
    page.save_card(tmp_path / "card.pdf")
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")
    window.grab()


def test_throws_are_set_by_the_millimetre(qtbot: QtBot, window: Any, tmp_path: Path) -> None:
    bench = window.workbench
    window.go("throws")
    page = window.page("throws")
    assert page.linkage.view.linkage is not None and page.linkage.plot.lines
    page.linkage.show_lead(page.lead(), "")
    assert page.linkage.said.isHidden()
    page.linkage.show_lead(page.lead(), "It binds.")
    assert page.linkage.said.isVisible() and page.linkage.said.text() == "It binds."
    page.choose("elevator")
    type_into(qtbot, page.wanted_fields["up"], "20")
    type_into(qtbot, page.wanted_fields["down"], "15")
    assert "20.2 mm up" in page.now.text() and "15.2 mm down" in page.now.text()
    type_into(qtbot, page.wanted_fields["up"], "18°")  # what is typed is set at once
    assert "(18.1°)" in page.now.text() and "15.2 mm down" in page.now.text()
    type_into(qtbot, page.linkage.fields["arm_mm"], "300")
    assert "binds" in page.linkage.fields["arm_mm"].complaint.text()
    press(page, "Use the hole that fits")
    assert page.lead().linkage.arm_mm < 12
    before, surface = (
        bench.model,
        next(s for s in bench.model.airframe.surfaces if s.name == "elevator"),
    )
    type_into(qtbot, page.wanted_fields["up"], "400")
    assert (
        "more than a ruler" in page.wanted_fields["up"].complaint.text() and bench.model == before
    )
    type_into(qtbot, page.wanted_fields["up"], f"{2 * surface.chord_mm - 2:.0f}")
    assert "cannot be had" in page.lost.text()
    before = bench.model
    for words, why in (
        ("Use the hole that fits", "No servo arm"),
        ("Set the arm off for flaps", "out of reach"),
    ):
        press(page, words)
        assert why in window.notice.text.text() and bench.model == before
        window.notice.say("")
    press(page, "Enter what the ruler says")
    assert len(page.measured.fields) == 5 and "as measured" in page.now.text()
    type_into(qtbot, page.measured.fields[0], "18 mm up")
    assert page.lead().measured[0][1] == -18
    type_into(qtbot, page.measured.fields[0], "1 mm down")
    assert (
        "must both rise" in page.measured.fields[0].complaint.text()
        and page.lead().measured[0][1] == -18
    )
    press(page, "Forget what was measured")
    assert page.lead().measured == ()
    page.choose("left_flaperon")
    bench.document.edit("leads[0].travel_pos", 77.0, "trial")
    press(page, "Copy to the other side")
    assert 77.0 in (page.other_side().travel_pos, page.other_side().travel_neg)
    page.save_cards(tmp_path / "ruler.pdf")
    assert (tmp_path / "ruler.pdf").read_bytes().startswith(b"%PDF")
    bench.simulation.set_control("elevator_stick", -100.0)
    page.choose("elevator")
    QApplication.processEvents()
    assert page.linkage.view.turn != 0
    page.linkage.view.grab()
