# SPDX-License-Identifier: GPL-3.0-or-later
"""Flight modes in the window: the grid, presets, trims and shared values."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose, take, type_into
from PyQt6.QtCore import QMimeData, QPoint, Qt
from PyQt6.QtGui import QDragEnterEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from test_modes import sums

from hypsos.core.checking.checks import problems
from hypsos.core.edits.flight_modes import let_go
from hypsos.core.fitting.throw_settings import place_of
from hypsos.core.recipes import KnifeEdge
from hypsos.desk.cards.mode_row import DRAGGED

ACTION = Qt.DropAction.MoveAction


@pytest.fixture
def page(window: Any) -> Any:
    choose(window, "Marram")
    window.go("modes")
    return window.page("modes")


def test_modes_that_go_while_a_later_one_is_flown_leave_every_page_whole(window: Any) -> None:
    """The pages hear of the new model before its first frame is there: the old frame counts modes
    that are gone."""
    choose(window, "Whinlark")
    bench = window.workbench
    bench.simulation.set_control(
        "mode_switch", 2.0
    )  # without the bold switch that is no race: the default mode, the fourth
    bench.simulation.advance(1.0)
    assert bench.state.mode_name == "base"
    model = bench.loaded
    for page in ("feel", "modes", "say", "flaps", "model"):
        window.go(page)
        bench.document.apply(let_go(let_go(bench.loaded, "calm"), "ridge"), "two less")
        assert [m.name for m in bench.loaded.program.modes] == [
            "race",
            "base",
        ] and bench.state.mode_name == "base"
        bench.document.undo()
        assert bench.loaded == model


def test_the_grid_is_set_by_its_cells_and_shows_where_the_hands_are(page: Any, window: Any) -> None:
    bench, grid = window.workbench, page.grid
    assert grid._switches == ("task_switch", "flight_switch") and len(grid.cells) == 9
    assert grid.cells[(0, 1)].mode == "Thermal" and grid.cells[(0, 1)].other == "Climb"
    assert "No rule holds here" in grid.cells[(0, 0)].accessibleName()
    take(grid.cells[(0, 2)], "Thermal")
    assert sums(bench.model, flight_switch=2.0)[
        "mode"
    ] == "thermal" and bench.document.undo_label.startswith("Thermal at")
    bench.simulation.set_control("task_switch", 2.0)
    assert [p for p, b in grid.cells.items() if b.here] == [(2, 0)]
    bench.document.undo()
    grid.rows[3].fly()
    assert bench.state.mode_name == "thermal"
    for kind, taken in ((DRAGGED, True), ("text/plain", False)):
        data = QMimeData()
        data.setData(kind, b"speed")
        enters = QDragEnterEvent(
            QPoint(10, 10), ACTION, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        enters.setAccepted(False)
        grid.dragEnterEvent(enters)
        assert enters.isAccepted() == taken
    grid.drop("speed", QPoint(10, grid.rows[0].geometry().top()))
    assert [m.name for m in bench.model.program.modes][:2] == ["speed", "landing"]


def test_modes_are_named_faded_copied_and_removed(page: Any, window: Any, qtbot: QtBot) -> None:
    bench, grid = window.workbench, page.grid
    rows = list(grid.rows)
    rows[1].title.selectAll()
    qtbot.keyClicks(rows[1].title, "Winch")
    qtbot.keyClick(rows[1].title, Qt.Key.Key_Return)
    assert bench.model.program.modes[1].label == "Winch"
    assert grid.rows[1] is rows[1]  # the row that a hand may be on stays, and is heard anew
    assert grid.rows[1].fade.line.accessibleName().startswith("Winch")
    type_into(qtbot, grid.rows[1].fade, "1.5")
    assert bench.model.program.modes[1].fade_s == 1.5
    grid.rows[1].buttons["copy"].click()
    assert [m.label for m in bench.model.program.modes][-2:] == ["Winch 2", "Cruise"]
    page.grid.rows[0].buttons["remove"].click()
    assert (
        "Landing is asked for by motor" in window.notice.text.text()
        and bench.model.program.modes[0].name == "landing"
    )
    page.grid.rows[-2].buttons["remove"].click()
    assert [m.label for m in bench.model.program.modes][-2:] == ["Speed", "Cruise"]


def test_presets_are_typed_dragged_compared_and_taken(page: Any, window: Any, qtbot: QtBot) -> None:
    bench = window.workbench
    page.show_view("presets")
    view = page.presets
    field = view.fields[("thermal", "left_inner_flap")]
    type_into(qtbot, field, "6 up")
    value = next(m for m in bench.model.program.modes if m.name == "thermal").presets
    assert value["left_inner_flap"] == value["right_inner_flap"] < 0
    assert place_of(bench.model, "left_inner_flap", value["left_inner_flap"])[1] == pytest.approx(
        -6, abs=0.06
    )
    type_into(qtbot, field, "900 down")
    assert not field.complaint.isHidden() and field.text_of(field._get()) == "6 up"
    wing, flap = (
        next(x for x in found if x.name == name)
        for found, name in (
            (bench.model.airframe.panels, "wing"),
            (bench.model.airframe.surfaces, "left_inner_flap"),
        )
    )
    middle = wing.chord_at((flap.start_mm + flap.end_mm) / 2)
    assert view.sections[("thermal", "left_inner_flap")].share == pytest.approx(
        flap.chord_mm / middle
    )
    view.sections[("thermal", "left_inner_flap")].dragged.emit(4.0)
    value = next(m for m in bench.model.program.modes if m.name == "thermal").presets[
        "left_inner_flap"
    ]
    assert place_of(bench.model, "left_inner_flap", value)[0] == pytest.approx(4.0, abs=0.1)
    view.compare.choose("speed")
    view.compare.activated.emit(view.compare.currentIndex())
    assert bench.simulation.shadow is not None and bench.simulation.shadow["left_inner_flap"] < 0
    window.bench.aeroplane.grab()
    page.show_view("grid")
    assert bench.simulation.shadow is None
    page.grid.rows[3].fly()
    bench.simulation.advance(2.0)
    page.show_view("presets")
    view.mode.choose("thermal")
    view.mode.activated.emit(view.mode.currentIndex())
    bench.simulation.set_control("camber_slider", 80.0)
    view.take.click()
    assert "Put Camber slider back" in window.notice.text.text()
    assert bench.document.undo_label == "Thermal: as sliders and trims say"


def test_trims_and_their_carrying_over_in_the_window(window: Any, qtbot: QtBot) -> None:
    bench = window.workbench
    bench.document.edit("program.axes[1].trim.clicks", 6, "trim")
    window.go("modes")
    page = window.page("modes")
    page.show_view("trims")
    view = page.trims
    pulse = {n: float(x.us[-1]) for n, x in bench.state.live.result.outputs.items()}
    view.carry.click()
    assert (
        "turns of M2" in view.said.text()
        and "The trim of roll stays" in view.said.text()
        and view.do.isVisible()
    )
    view.do.click()
    assert bench.model.program.axes[1].trim.clicks == 0
    assert {
        n: float(x.us[-1]) for n, x in bench.state.live.result.outputs.items()
    } == pytest.approx(pulse, abs=0.5)
    view.carry.click()
    assert "right flaperon" in view.said.text().lower() and view.do.isHidden()
    view.together.click()
    view.scopes["roll"].setCurrentIndex(1)
    view.scopes["roll"].activated.emit(1)
    assert {a.trim.scope for a in bench.model.program.axes if a.trim is not None} == {"per mode"}
    assert list(view.ticks) == [
        "roll",
        "pitch",
        "yaw",
    ]  # a trim of the throttle is offered elsewhere
    for on in (False, True):
        view.ticks["roll"].click()
        assert (view.ticks["roll"].isChecked(), bench.model.program.axes[0].trim is not None) == (
            on,
            on,
        )
        assert (("roll", "step") in view.fields) == on


def test_a_trim_whose_lever_is_used_stays_ticked(window: Any, qtbot: QtBot) -> None:
    bench = window.workbench
    aileron = ("left_flaperon",), ("right_flaperon",)
    edge = KnifeEdge(
        elevators=("elevator",), left=aileron[0], right=aileron[1], pitch_lever="pitch_trim"
    )
    bench.document.edit("program.recipes", (*bench.loaded.program.recipes, edge), "knife edge")
    window.go("modes")
    page = window.page("modes")
    page.show_view("trims")
    kept = bench.loaded
    page.trims.ticks["pitch"].click()
    assert bench.loaded == kept and "pitch_trim" in window.notice.text.text()
    assert page.trims.ticks["pitch"].isChecked()


def test_shared_values_in_the_window(page: Any, window: Any, qtbot: QtBot) -> None:
    bench = window.workbench
    page.show_view("shared")
    view = page.shared
    snap = next(c for c in view.cards if c.name == "snap_share")
    QApplication.processEvents()
    assert snap.used.text() == "Used by Snap flap."
    type_into(qtbot, snap.fields["thermal"], "30")
    type_into(qtbot, snap.fields[None], "80")
    assert not snap.fields[None].complaint.isHidden()
    shared = next(x for x in bench.model.program.tunables if x.name == "snap_share")
    assert shared.by_mode == {"thermal": 30} and shared.value == 20
    bench.simulation.set_control("snap_switch", 1.0)
    bench.simulation.set_control("snap_knob", 100.0)
    assert snap.now.text() == "Now 32.0 %"
    snap.keep.click()
    assert next(x for x in bench.model.program.tunables if x.name == "snap_share").value == 32
    snap.remove.click()
    assert "Snap flap goes by" in window.notice.text.text()
    view.new.click()
    made = view.cards[-1]
    made.kind.choose("step")
    made.kind.activated.emit(made.kind.currentIndex())
    assert (
        bench.model.program.tunables[-1].adjuster.kind == "step"
        and list(problems(bench.model)) == []
    )
    assert made.free.isHidden() and not snap.free.isHidden()
    view.cards[-1].remove.click()
    assert len(bench.model.program.tunables) == 3
    next(c for c in view.cards if c.name == "snap_share").free.click()
    assert (
        "snap_share" not in {x.name for x in bench.model.program.tunables}
        and list(problems(bench.model)) == []
    )
    assert "32 % where it was used" in bench.document.undo_label


def test_no_motor_by_surprise(page: Any, window: Any, qtbot: QtBot) -> None:
    """Flying a mode never brings the motor switch to run; a new adjuster never takes a control that
    does something already."""
    bench = window.workbench
    climb = next(r for r in page.grid.rows if r.name == "climb")
    climb.fly()
    assert (
        "motor switch at run" in window.notice.text.text()
        and bench.state.live.controls["motor_switch"] == 0
    )
    page.show_view("shared")
    page.shared.new.click()
    made = page.shared.cards[-1]
    for kind in ("set", "add"):
        made.kind.choose(kind)
        made.kind.activated.emit(made.kind.currentIndex())
        assert (
            "does something already" in window.notice.text.text() and made.value().adjuster is None
        )
    choose(window, "Sandpiper")
    window.go("modes")
    page.show_view("shared")
    page.shared.new.click()
    made = page.shared.cards[-1]
    made.kind.choose("set")
    made.kind.activated.emit(made.kind.currentIndex())
    assert made.value().adjuster is None  # the one slider it has gives power


def test_a_grid_may_be_laid_over_a_condition(page: Any, window: Any) -> None:
    """Rows by whether a named condition holds: the rule is then that condition, or its contrary."""
    bench, grid = window.workbench, page.grid
    grid.down.choose("pulled")
    grid.down.activated.emit(grid.down.currentIndex())
    grid.across.choose("")
    grid.across.activated.emit(grid.across.currentIndex())
    assert grid._switches == ("pulled",) and set(grid.cells) == {(0,), (1,)}
    grid.put((1,), "speed")
    speed = next(m for m in bench.model.program.modes if m.name == "speed")
    assert speed.when == "pulled" and bench.document.undo_label == "Speed at Elevator pulled holds"
    bench.simulation.set_control("elevator_stick", -80.0)
    bench.simulation.advance(0.2)
    assert bench.state.mode_name == "speed" and [p for p, b in grid.cells.items() if b.here] == [
        (1,)
    ]
    written = bench.model
    for places, mode in (
        ((0, 1), "speed"),
        ((0,), "lost"),
    ):  # a menu that outlived its place, or its mode
        grid.put(places, mode)
        assert bench.model == written


def test_a_mode_that_is_asked_for_is_let_go_in_the_window(page: Any, window: Any) -> None:
    bench = window.workbench
    line = next(r for r in page.grid.rows if r.name == "landing")
    line.remove()
    assert "Landing is asked for by" in window.notice.text.text() and any(
        m.name == "landing" for m in bench.model.program.modes
    )
    window.notice.acts[0].click()
    assert (
        all(m.name != "landing" for m in bench.model.program.modes)
        and list(problems(bench.model)) == []
    )
    bench.document.undo()
    assert any(m.name == "landing" for m in bench.model.program.modes)


def test_a_mode_is_called_what_was_typed_or_keeps_its_name(page: Any, window: Any) -> None:
    bench, title = window.workbench, page.grid.rows[0].title

    def typed(text: str) -> tuple[str, str]:
        title.setText(text)
        title.setModified(True)
        title.editingFinished.emit()
        return bench.model.program.modes[0].label, page.grid.rows[0].title.text()

    assert typed("Ridge run") == ("Ridge run", "Ridge run")
    assert typed("Ridge\u202erun") == (
        "Ridge run",
        "Ridge run",
    )  # a sign that turns what follows round is refused
