# SPDX-License-Identifier: GPL-3.0-or-later
"""What mouse and keys do to what is painted, and what buttons do that no field stands for: read
back from the document."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from pytestqt.qtbot import QtBot

if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench

import pytest
from hands import choose, press, stand_still, type_into
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QFileDialog

from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS
from hypsos.core.scenarios.scenario_from_recording import trimmed
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.bench.aeroplane_view import EXAGGERATIONS
from hypsos.desk.bench.output_strips import HEAD, ROW
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox

LEFT, KEY, SHIFT = Qt.MouseButton.LeftButton, Qt.Key, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def bench(window: Any) -> Any:
    window.finish()
    return stand_still(window.workbench)


def drag(qtbot: QtBot, widget: Any, start: QPointF, *places: QPointF) -> None:
    """Press the left button, move through the places, let go at the last."""
    qtbot.mousePress(widget, LEFT, pos=start.toPoint())
    for place in places:
        qtbot.mouseMove(widget, place.toPoint())
    qtbot.mouseRelease(widget, LEFT, pos=places[-1].toPoint())


def take_off(window: Any, kind: str, name: str) -> Any:
    """Take a part off the aeroplane; the page, and the place the part had."""
    window.go("airframe")
    page = window.page("airframe")
    place = [x.name for x in getattr(window.workbench.loaded.airframe, kind)].index(name)
    page.choose(f"{kind}[{place}]")
    page.remove()
    return page, place


def test_the_aeroplane_is_turned_by_the_mouse_and_looked_at_by_keys(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    picture = window.bench.aeroplane
    turn, rise = picture._turn, picture._rise
    middle = QPointF(picture.rect().center())
    drag(qtbot, picture, middle, middle + QPointF(40, 20))
    assert ((turn - picture._turn) % 360, picture._rise - rise) == pytest.approx(
        (20, 8)
    ) and bench.simulation.chosen is None
    drag(qtbot, picture, middle, middle + QPointF(0, 4000))
    assert picture._rise == 89
    views = []
    for key in (KEY.Key_1, KEY.Key_2, KEY.Key_3):
        qtbot.keyClick(picture, key)
        views.append((picture._turn, picture._rise))
    assert len(set(views)) == 3 and views[1][1] > max(
        views[0][1], views[2][1]
    )  # from above one looks down
    assert picture.exaggeration == 1
    for factor in (*EXAGGERATIONS[1:], 1):
        qtbot.keyClick(picture, KEY.Key_E)
        said = window.bench.sky.labels["size"].text()
        assert picture.exaggeration == factor and (f"{factor:.0f} times" in said) == (factor != 1)
    names = [p.name for p in bench.loaded.airframe.moved()]
    for key, name in (
        (KEY.Key_Period, names[0]), (KEY.Key_Period, names[1]), (KEY.Key_Comma, names[0]), (KEY.Key_Comma, names[-1]),
    ):  # fmt: skip
        qtbot.keyClick(picture, key)
        assert bench.simulation.chosen == name
    qtbot.keyClick(picture, KEY.Key_Escape)
    assert bench.simulation.chosen is None
    qtbot.keyClick(picture, KEY.Key_Comma)
    assert bench.simulation.chosen == names[-1]


def test_an_aeroplane_that_is_only_begun_has_nothing_to_choose(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    bench.document.add(TEMPLATES["bare"].begin("Begun"))
    assert not list(bench.loaded.airframe.moved())
    for widget in (window.bench.aeroplane, window.bench.strips, window.bench.why):
        for key in (KEY.Key_Period, KEY.Key_Comma, KEY.Key_Down, KEY.Key_Up, KEY.Key_Return):
            qtbot.keyClick(widget, key)
    assert bench.simulation.chosen is None


def test_channels_and_bars_are_chosen_by_mouse_and_keys(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    strips, why = window.bench.strips, window.bench.why
    targets = [x.target for x in strips.leads()]
    qtbot.mouseClick(strips, LEFT, pos=QPoint(60, round(look.px(HEAD) + 2.5 * look.px(ROW))))
    assert bench.simulation.chosen == targets[2] and window.bench.below.currentIndex() == 1
    bench.simulation.choose(None)
    for key, name in (
        (KEY.Key_Down, targets[0]),
        (KEY.Key_Down, targets[1]),
        (KEY.Key_Up, targets[0]),
        (KEY.Key_Up, targets[-1]),
    ):
        qtbot.keyClick(strips, key)
        assert bench.simulation.chosen == name
    qtbot.mouseClick(strips, LEFT, pos=QPoint(60, 2))  # beside all of them
    assert bench.simulation.chosen == targets[-1]
    bench.simulation.choose("elevator")
    bench.simulation.set_control("elevator_stick", -50.0)
    bars, led = why.bars(), []  # type: ignore[var-annotated]
    why.place_wanted.connect(led.append)
    qtbot.keyClick(why, KEY.Key_Up)
    assert why.value() == len(bars) - 1
    qtbot.keyClick(why, KEY.Key_Down)
    assert why.value() == 0
    qtbot.keyClick(why, KEY.Key_Return)
    assert led == [bars[0].path]
    qtbot.mouseClick(why, LEFT, pos=QPoint(60, round(look.px(22) + 1.5 * why.row_height())))
    assert led[1:] == [bars[1].path] and why.value() == 1
    qtbot.keyClick(why, KEY.Key_Escape)
    assert bench.simulation.chosen is None


def test_the_run_down_and_the_window_go_by_clicks(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    steps = window.rundown
    from hypsos.desk.widgets import run_down_list as rundown

    qtbot.mouseClick(steps, LEFT, pos=QPoint(30, round(8 + 3.5 * look.px(rundown.ROW))))
    assert window.rundown.current == rundown.STEPS[3].key  # type: ignore[attr-defined]
    window._swap_theme()
    assert look.palette.name == "dark"
    window._swap_theme()
    assert look.palette.name == "light"
    window.wide.click()
    assert not window.pages.isVisible() and window.bench.isVisible()
    window.wide.click()
    assert window.pages.isVisible()


def test_a_point_and_a_stretch_of_the_timeline_are_dragged(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    for k in range(6):
        bench.simulation.set_control("aileron_stick", 20.0 * k)
        bench.simulation.advance(0.5)
    press(window.bench, "Timeline")
    QApplication.processEvents()
    lanes = window.bench.timeline.lanes
    box, row = lanes.plot(), lanes.plot().center().y()
    a, b, c = (QPointF(box.left() + share * box.width(), row) for share in (0.9, 0.95, 0.93))
    drag(qtbot, lanes, a, b, c)
    assert lanes.cursor_s == pytest.approx(lanes.at(c.x()), abs=0.05) and lanes.stretch is None
    qtbot.mousePress(lanes, LEFT, SHIFT, a.toPoint())
    qtbot.mouseMove(lanes, b.toPoint())
    qtbot.mouseRelease(lanes, LEFT, SHIFT, b.toPoint())
    assert lanes.stretch == pytest.approx((lanes.at(a.x()), lanes.at(b.x())), abs=0.05)


def test_the_feel_has_a_curve_figures_from_shared_values_and_positions_nobody_set(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    choose(window, "Marram")
    window.go("feel")
    page = window.page("feel")
    press(page, "Its curve before expo")
    edit = page.curve
    edit.shape.setCurrentIndex(edit.shape.findText("points by hand"))
    edit.shape.activated.emit(edit.shape.currentIndex())
    assert bench.loaded.program.axes[0].curve is not None and bench.document.undo_label.startswith(
        "roll: "
    )
    press(page, "Its curve before expo")
    assert edit.isHidden()
    box = page.from_[(0, "rate")]
    box.activated.emit(box.findData("snap_share"))
    assert (
        bench.loaded.program.axes[0].settings[0].rate_from == "snap_share"
        and "roll rate from" in bench.document.undo_label
    )
    page.from_[(0, "rate")].activated.emit(0)
    assert bench.loaded.program.axes[0].settings[0].rate_from is None
    led: list[str] = []
    page.place_wanted.connect(led.append)
    press(page, "Trims")
    assert led == ["program.axes[0].trim"]
    choose(window, "Samphire")
    window.go("feel")
    axis = bench.loaded.program.axes[0]
    bench.document.edit(
        "program.axes[0].settings", (axis.settings[0], None, axis.settings[2]), "a gap"
    )
    press(page, "Nobody has set it: full rate, no expo. Set it")
    made = bench.loaded.program.axes[0].settings
    assert (made[1].rate_pos, made[1].rate_neg, made[1].expo) == (100, 100, 0) and made[
        ::2
    ] == axis.settings[::2]
    type_into(qtbot, page.fields[(0, "rate_pos")], "12 mm")
    assert "Choose the surface first" in page.fields[(0, "rate_pos")].complaint.text()
    page.measure.setCurrentIndex(page.measure.findData("left_flaperon"))
    page.measure.activated.emit(page.measure.currentIndex())
    type_into(qtbot, page.fields[(0, "rate_pos")], "10 mm")
    assert 0 < bench.loaded.program.axes[0].settings[0].rate_pos != axis.settings[0].rate_pos


def test_throws_are_set_made_flush_and_stopped_by_buttons(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    window.go("throws")
    page = window.page("throws")
    page.choose("left_flaperon")
    type_into(qtbot, page.wanted_fields["up"], "20")
    type_into(qtbot, page.wanted_fields["down"], "15")
    page.set_travel.click()
    lead = bench.state.lead("left_flaperon")
    assert lead.travel_neg == pytest.approx(55, abs=1.5) and lead.travel_pos == pytest.approx(
        41, abs=1.5
    )
    type_into(qtbot, page.wanted_fields["ruler"], "0")
    assert "behind the hinge" in page.wanted_fields["ruler"].complaint.text()
    bench.document.edit(
        f"leads[{bench.state.lead_index('left_flaperon')}].linkage.flush", 6.0, "it leans"
    )
    page.ends.flush.click()
    assert bench.state.lead("left_flaperon").centre == 6
    place = f"leads[{bench.state.lead_index('left_flaperon')}]"
    near = bench.state.lead("left_flaperon").changed({"stop_neg": -60.0, "stop_pos": 60.0})
    bench.document.edit(
        place,
        near.changed({"linkage": near.linkage.changed({"arm_mm": 20.0})}),
        "a longer arm that binds at 39°",
    )
    page.ends.stops.click()
    lead = bench.state.lead("left_flaperon")
    assert -93 < lead.stop_neg < -88 and 116 < lead.stop_pos < 122
    page.copy.click()
    other = bench.state.lead("right_flaperon")
    assert (other.travel_neg, other.travel_pos) in {
        (lead.travel_neg, lead.travel_pos),
        (lead.travel_pos, lead.travel_neg),
    }
    assert other.linkage.arm_mm == 20
    page.linkage.remove.click()
    assert bench.state.lead("left_flaperon").linkage is None
    page.show_place(f"leads[{bench.state.lead_index('rudder')}].travel_pos")
    assert page.chosen == "rudder"


def test_the_wing_of_a_mode_is_mirrored_copied_and_dragged(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    choose(window, "Marram")
    bench.document.edit(
        "program.modes[3].presets", {"left_aileron": 9.0, "right_aileron": 2.0}, "one side"
    )
    window.go("modes")
    page = window.page("modes")
    page.show_view("presets")
    QApplication.processEvents()
    view = page.presets
    view.mode.setCurrentIndex(view.mode.findData("thermal"))
    press(view, "Right as left")
    assert bench.loaded.program.modes[3].presets == {"left_aileron": 9.0, "right_aileron": 9.0}
    view.compare.setCurrentIndex(view.compare.findData("speed"))
    view.compare.activated.emit(view.compare.currentIndex())
    press(view, "As in the compared mode")
    assert bench.loaded.program.modes[3].presets == bench.loaded.program.modes[4].presets
    section = view.sections[("thermal", "left_aileron")]
    hinge = section._hinge()
    drag(qtbot, section, hinge + QPointF(20, 0), hinge + QPointF(30, 30 * 0.1763))  # 10° down
    preset = bench.loaded.program.modes[3].presets["left_aileron"]
    surface = next(s for s in bench.loaded.airframe.surfaces if s.name == "left_aileron")
    assert preset == pytest.approx(100 * 10 / surface.throw_down_deg, rel=0.15)
    row = next(r for r in page.grid.rows if r.name == "thermal")
    row._move(-1)
    assert [m.name for m in bench.loaded.program.modes][2:4] == ["thermal", "climb"]


def test_guards_controllers_parts_and_mixes_by_their_buttons(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    window.go("guard")
    proposal = next(p for p in GUARD_PROPOSALS if p.title == "An engine")
    press(window.page("guard"), "An engine")
    guard = bench.loaded.program.guard
    assert {k: getattr(guard, k) for k in proposal.fields} == dict(proposal.fields)
    window.go("wiring")
    card = window.page("wiring").output
    card.choose("motor")
    waits = next(
        b for b in card.findChildren(type(window.page("feel").alike)) if "waits" in b.text()
    )
    was = bench.state.lead("motor").waits_for_idle
    waits.click()
    assert bench.state.lead("motor").waits_for_idle is not was
    take_off(window, "devices", "tail_wheel")
    assert all(d.name != "tail_wheel" for d in bench.loaded.airframe.devices)
    choose(window, "Marram")
    window.go("flaps")
    window.page("flaps").show_view("streams")
    names = [m.name for m in bench.loaded.program.mixes]
    editor = window.page("flaps").streams
    editor.show_place("program.mixes[1]")
    press(editor, "Later")
    assert [m.name for m in bench.loaded.program.mixes][1:3] == names[1:3][::-1]


def test_a_scenario_is_cut_to_length_and_its_figures_are_typed(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    window.go("shake")
    page = window.page("shake")
    page.show_view("scenarios")
    card, before = page.cards[0], bench.loaded.scenarios[0]
    card.change.click()
    QApplication.processEvents()
    card = page.cards[0]
    fields = {f.line.accessibleName(): f for f in card.numbers}
    assert fields
    length = next(f for n, f in fields.items() if "length" in n.lower() or "lasts" in n.lower())
    type_into(qtbot, length, str(before.length_s + 1))
    assert bench.loaded.scenarios[0].length_s == before.length_s + 1
    card._set_from(0.5)
    card._set_to(3.0)
    wanted = trimmed(bench.loaded, bench.loaded.scenarios[0], 0.5, 3.0)
    card.trim.click()
    assert bench.loaded.scenarios[0] == wanted


def test_files_are_asked_for_and_written_where_they_were_chosen(
    window: Any, bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The dialogs of the desktop are stood in for; what they give is what is read and written."""
    chosen: list[str] = []

    def give(owner: Any, title: Any, *rest: Any) -> Any:
        chosen.append(title)
        return tmp_path / f"{len(chosen)}.{next(iter(rest[-1])).lstrip('.')}"

    asking = (
        "window",
        "pages.model_page",
        "pages.throws_page",
        "pages.wiring_page",
        "cards.scenario_card",
        "cards.hand_view",
    )
    for module in asking:
        for name in ("ask_where", "ask_which"):
            monkeypatch.setattr(f"hypsos.desk.{module}.{name}", give, raising=False)
    window.go("model")
    window.page("model")._choose_export()
    made = tmp_path / "1.json"
    assert made.read_text().startswith("{") and '"Samphire"' in made.read_text()
    (tmp_path / "2.json").write_text(made.read_text().replace('"Samphire"', '"Dunlin"', 1))
    window._import()
    assert bench.loaded.name == "Dunlin"
    (tmp_path / "3.csv").write_text("t_s,aileron_stick\n0,0\n1,50\n2,50\n")
    window.choose_moves()
    assert bench.simulation.playing
    window.bench._play_clicked()
    assert not bench.simulation.playing
    choose(window, "Samphire")
    window.go("throws")
    window.page("throws")._choose_cards()
    window.go("wiring")
    window.page("wiring")._choose_card()
    assert all((tmp_path / f"{n}.pdf").read_bytes().startswith(b"%PDF") for n in (4, 5))
    window.go("shake")
    page = window.page("shake")
    page.show_view("scenarios")
    page.cards[0].save.click()
    assert (tmp_path / "6.csv").read_text().startswith("t_s,")
    window.go("flaps")
    window.page("flaps").show_view("hands")
    press(window.page("flaps").hands, "Keep as a table or picture…")
    assert (tmp_path / "7.csv").read_text().startswith("aileron stick,")
    assert len(chosen) == 7 and chosen[2] == "Recorded moves"


def test_a_name_with_a_point_in_it_stays_whole_where_a_file_is_chosen(
    window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The dialog gives what was typed and the kind that was picked; the folder is remembered for
    the next one."""
    asked: list[str] = []

    def give(owner: Any, title: Any, name: Any, kinds: Any) -> Any:
        asked.append(name)
        return str(tmp_path / "sweep 1.5"), kinds.split(";;")[1]

    monkeypatch.setattr(QFileDialog, "getSaveFileName", give)
    window.go("flaps")
    window.page("flaps").show_view("hands")
    for _ in range(2):
        press(window.page("flaps").hands, "Keep as a table or picture…")
    assert (tmp_path / "sweep 1.5.png").exists() and str(tmp_path) in asked[1]


def test_a_mode_is_dropped_where_it_is_let_go(window: Any, bench: Workbench, qtbot: QtBot) -> None:
    from PyQt6.QtCore import QMimeData
    from PyQt6.QtGui import QDropEvent

    from hypsos.desk.cards.mode_row import DRAGGED

    choose(window, "Marram")
    window.go("modes")
    page = window.page("modes")
    page.show_view("grid")
    QApplication.processEvents()
    grid = page.grid
    first = grid.rows[0].geometry().center()
    data = QMimeData()
    data.setData(DRAGGED, b"speed")
    grid.dropEvent(
        QDropEvent(
            QPointF(first) - QPointF(0, 3),
            Qt.DropAction.MoveAction,
            data,
            LEFT,
            Qt.KeyboardModifier.NoModifier,
        )
    )
    assert [m.name for m in bench.loaded.program.modes][:2] == ["speed", "landing"]


def test_what_a_scenario_expects_is_chosen_and_typed(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    """Another thing to expect, where a part shall stand, that it is not so, earlier than it was: as
    it is stored."""
    window.go("shake")
    page = window.page("shake")
    page.show_view("scenarios")
    page.cards[0].change.click()
    QApplication.processEvents()
    scenario = bench.loaded.scenarios[0]
    page.cards[0].add_expected.click()
    last = len(scenario.expectations)

    def box(words: str) -> Any:
        QApplication.processEvents()
        name = f"Expectation {last + 1}: {words}"
        return next(
            w
            for w in page.cards[0].findChildren(ChoiceBox)
            if w.accessibleName() == name and w.isVisible()
        )

    def take(words: str, data: str) -> None:
        found = box(words)
        found.setCurrentIndex(found.findData(data))
        found.activated.emit(found.currentIndex())

    def stored() -> Any:
        return bench.loaded.scenarios[0].expectations[last]

    take("what it is about", "stands")
    take("which", "left_flaperon")
    QApplication.processEvents()
    fields = {f.line.accessibleName(): f for f in page.cards[0].numbers}
    type_into(qtbot, fields[f"Expectation {last + 1}: low"], "12 up")
    type_into(qtbot, fields[f"Expectation {last + 1}: high"], "30 down")
    assert (stored().kind, stored().what, stored().low, stored().high) == (
        "stands",
        "left_flaperon",
        -12,
        30,
    )
    take("what it is about", "holds")
    take("which", "link")
    found = box("whether it is so")
    found.setCurrentIndex(1)
    found.activated.emit(1)
    assert (stored().kind, stored().what) == ("holds", "!link")
    QApplication.processEvents()
    fields = {f.line.accessibleName(): f for f in page.cards[0].numbers}
    type_into(qtbot, fields[f"Expectation {last + 1}: to"], "2")
    type_into(qtbot, fields[f"Expectation {last + 1}: from"], "3")
    assert (stored().from_s, stored().to_s) == (3, 3)
    moves = bench.loaded.scenarios[0].moves
    page.cards[0].add_move.click()
    again = bench.loaded.scenarios[0].moves
    assert len(again) == len(moves) + 1 and again[-1].control == moves[-1].control
    press(page.cards[0], "Remove")


def test_the_gallery_turns_its_pictures_and_the_pages_go_to_a_place(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    choose(window, "Marram")
    window.go("flaps")
    page = window.page("flaps")
    page.open_gallery()
    gallery = page.gallery
    qtbot.waitUntil(lambda: not gallery._waiting, timeout=20_000)
    many = next(t for t in gallery.tiles if len(t.shown) > 1)
    seen = [many._above.moves]
    for _ in many.shown:
        gallery._turn_all()
        seen.append(many._above.moves)
    assert seen[0] == seen[-1] and seen[0] != seen[1]
    choose(window, "Samphire")
    window.go("hands")
    page = window.page("hands")
    place = next(
        i for i, c in enumerate(bench.loaded.transmitter.controls) if c.name == "flap_switch"
    )
    page.show_place(f"transmitter.controls[{place}]")
    assert page.cards["flap_switch"].title.hasFocus()
    page, fin = take_off(window, "panels", "tailplane")
    assert all(s.role != "elevator" for s in bench.loaded.airframe.surfaces)
    bench.document.undo()
    elevator = next(i for i, s in enumerate(bench.loaded.airframe.surfaces) if s.role == "elevator")
    page.choose(f"surfaces[{elevator}]")
    page.remove()
    for path, may_go in (("fuselage", False), ("panels[0]", False), (f"panels[{fin}]", True)):
        page.choose(path)
        assert page.take_off.isVisible() == may_go  # without body and wing there is no aeroplane
    page.role.setCurrentIndex(page.role.findData("elevator"))
    page.add_.click()
    made = [s for s in bench.loaded.airframe.surfaces if s.role == "elevator"]
    assert (
        made
        and all(s.panel == "tailplane" for s in made)
        and bench.document.undo_label == "elevator added"
    )


def test_a_movement_is_shown_with_the_brakes_shut(
    window: Any, bench: Workbench, qtbot: QtBot
) -> None:
    choose(window, "Tidewrack")
    bench.simulation.set_control("brake_slider", 100.0)
    window.go("directions")
    press(window.page("directions"), "Move it for me")
    assert (
        bench.state.live.controls["brake_slider"] == -100
        and bench.state.live.controls["aileron_stick"] == 100
    )
    assert (
        bench.state.live.result.outputs["left_aileron"].stand[-1]
        > 0
        > bench.state.live.result.outputs["right_aileron"].stand[-1]
    )
