# SPDX-License-Identifier: GPL-3.0-or-later
"""Streams, sweeps, named shapes, the gallery and the cards of wing and tail: in the core, and in
the window."""

from __future__ import annotations

import csv
import io
from itertools import product
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hands import choose, press, type_into
from hypothesis import given
from hypothesis import strategies as st
from parts import from_parts
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication
from pytestqt.exceptions import capture_exceptions
from pytestqt.qtbot import QtBot

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.named_shapes import (
    SHAPES,
    made,
    named_shape,
    with_new_point,
    with_point,
    without_point,
)
from hypsos.core.edits.plain_mixes import moved, order_matters, other_side, with_mix
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.mix_streams import across, carried, effects, net, targets
from hypsos.core.explain.response_sweeps import as_csv, swept
from hypsos.core.fitting.rate_throws import at_full, rate_for
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Tunable
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.widgets.stream_canvas import GRAB


def now(model: Model, **hands: Any) -> Any:
    """One settled frame with what flows into every target."""
    return settled(compile_plan(model), hands, why=targets(model))


# -- the core -----------------------------------------------------------------------------------


def test_streams_carry_what_the_engine_sums(marram: Model) -> None:
    hands = {
        "task_switch": 2.0,
        "throttle_stick": -45.0,
        "aileron_stick": 40.0,
        "camber_slider": 30.0,
        "snap_switch": 1.0,
    }
    plan = compile_plan(marram)
    t = 0.02 * np.arange(300)
    wide = {n: np.full(300, x) for n, x in hands.items()} | {
        "task_switch": np.where(t < 1, 0.0, 2.0)
    }
    result = plan.run(Situation(t, wide), None, targets(marram))
    flow, found = carried(result), net(marram)
    presets = {
        n: x for m in marram.program.modes if m.name == "landing" for n, x in m.presets.items()
    }
    for part in across(marram):
        into = sum(flow.get(s.key, 0.0) for s in found.streams if s.target == part.name)
        trim = sum(float(c.amount[-1]) for c in result.why[part.name] if c.kind in ("trim", "slow"))  # type: ignore[misc]
        assert into + trim + presets.get(part.name, 0.0) == pytest.approx(
            float(result.sums[part.name][-1])
        )
    up = {s.name for s in found.streams if s.key in found.upstream("left_inner_flap")}
    assert {"Crow brakes", "Camber", "Snap flap", "Camber, roll"} <= up and "Turn help" not in up
    down = {s.target for s in found.streams if s.key in found.downstream("throttle_stick")}
    assert {
        "brake",
        "left_aileron",
        "left_inner_flap",
        "left_ruddervator",
    } <= down and "motor" not in down


def test_what_a_hand_moves_is_what_the_bench_shows(samphire: Model) -> None:
    plan = compile_plan(samphire)
    found = {e.part: e for e in effects(samphire, plan, "aileron_stick")}
    assert set(found) == {"left_flaperon", "right_flaperon"}
    rest, full = (settled(plan, h).outputs["left_flaperon"] for h in ({}, {"aileron_stick": 100.0}))
    assert found["left_flaperon"].high[2] == pytest.approx(float(full.mm[-1] - rest.mm[-1]))
    assert effects(samphire, plan, "tow_button")[0].part == "tow_release"


def test_sweeps_by_switch_and_by_mode_and_their_table(samphire: Model, marram: Model) -> None:
    lines = swept(compile_plan(samphire), "aileron_stick", "left_flaperon", "rates_switch")
    assert [x.name for x in lines] == ["low", "mid", "high"] and len(lines[0].x) == 81
    plan = compile_plan(samphire)
    for i, line in enumerate(lines):
        at = settled(plan, {"aileron_stick": 100.0, "rates_switch": float(i)}).outputs[
            "left_flaperon"
        ]
        assert line.mm[-1] == pytest.approx(float(at.mm[-1])) and line.percent[-1] == pytest.approx(
            float(at.stand[-1])
        )
    table = list(csv.reader(io.StringIO(as_csv("Aileron stick", "Left flaperon", "mm", lines))))
    assert table[0] == [
        "Aileron stick",
        *(f"Left flaperon ({n}) mm" for n in ("low", "mid", "high")),
    ]
    assert len(table) == 82 and float(table[81][3]) == pytest.approx(lines[2].mm[-1], rel=1e-5)
    modes = swept(compile_plan(marram), "elevator_stick", "left_inner_flap", "modes")
    assert [x.name for x in modes] == [m.label for m in marram.program.modes]
    with pytest.raises(HypsosError, match="has no lead"):
        swept(compile_plan(samphire), "aileron_stick", "nothing")


@given(st.sampled_from(sorted(SHAPES)), st.data())
def test_a_named_shape_is_known_by_its_name(name: Any, data: Any) -> None:
    figures = tuple(data.draw(st.integers(int(f.low), int(f.high))) for f in SHAPES[name].figures)
    if name == "slope" and abs(figures[0]) + abs(figures[1]) > 150:
        return
    response = made(name, *figures) if figures else made(name)
    found, back = named_shape(response)
    same = SHAPES[found].make(*back)
    assert np.allclose(same.points, response.points)
    if found != name:  # some are the same curve by two names: the simpler one is said
        assert list(SHAPES).index(found) < list(SHAPES).index(name)


def test_both_schools_of_a_dead_end_are_the_same_above_it() -> None:
    """Nothing up to a place by points; or a slope and an offset whose lower end the other school
    cuts off."""
    by_points, by_slope = made("dead end", 0.0), made("slope", 100.0, 0.0)
    x = np.linspace(0, 100, 11)
    line = [np.interp(v, *zip(*by_points.points, strict=True)) for v in x]
    assert line == pytest.approx([np.interp(v, *zip(*by_slope.points, strict=True)) for v in x])


def test_points_stay_between_their_neighbours() -> None:
    five = Response(
        points=tuple((float(x), float(x)) for x in (-100, -50, 0, 50, 100)),
        live=(1, 3),
        live_from="a",
    )
    kept, held = with_point(five, 2, 80, 200)
    assert kept.points[2] == (49.0, 150.0) and held
    more, at = with_new_point(five, 20, 5)
    assert more.points[at] == (20, 5) and more.live == (1, 4) and len(more.points) == 6
    fewer = without_point(five, 1)
    assert fewer.points[1][0] == 0 and fewer.live == (2,)
    assert without_point(fewer, 2).live_from is None


def test_a_mix_for_the_other_side_has_the_sign_that_is_right_there() -> None:
    plain, twin = from_parts(), TEMPLATES["twin"].make("Twin")
    for source, target, sign in (
        ("roll", "left_aileron", -1), ("pitch", "left_flap", 1), ("yaw", "left_aileron", -1), ("full", "left_flap", 1),
        ("slider", "left_flap", 1), ("yaw", "left_motor", -1), ("slider", "left_motor", 1),
    ):  # fmt: skip
        model = twin if "motor" in target else plain
        source = "throttle_stick" if model is twin and source == "slider" else source
        one = with_mix(model, source, target)
        one = with_at(one, f"program.mixes[{len(one.program.mixes) - 1}].gain", 30.0)
        two = other_side(one, len(one.program.mixes) - 1)
        last = two.program.mixes[-1]
        assert last.target == target.replace("left", "right") and last.gain == sign * 30.0
    with pytest.raises(HypsosError, match="no like"):
        other_side(
            plain, next(i for i, m in enumerate(plain.program.mixes) if m.target == "elevator")
        )


def test_a_new_mix_on_a_motor_gives_nothing_until_someone_says_so() -> None:
    model = with_mix(from_parts(motors=True), "slider", "left_motor")
    assert model.program.mixes[-1].gain == 0
    assert float(settled(compile_plan(model), {"slider": 100.0}).sums["left_motor"][-1]) == -100


def test_order_is_only_said_where_it_matters(marram: Model) -> None:
    assert order_matters(marram, "camber") and not order_matters(marram, "left_inner_flap")
    pairs = (("a", 10, "add"), ("b", 50, "replace"))
    lines = tuple(
        MixLine(name=n, target="left_flap", source="full", gain=g, combine=c) for n, g, c in pairs
    )
    model = from_parts(mixes=lines)
    at = next(i for i, m in enumerate(model.program.mixes) if m.name == "b")
    first, then = (
        float(settled(compile_plan(m), {}).sums["left_flap"][-1])
        for m in (model, moved(model, at, -1))
    )
    assert (first, then) == (50, 60)


def test_a_rate_typed_in_millimetres_gives_them(samphire: Model) -> None:
    for mm in (-8.0, 5.0):
        rate = rate_for(samphire, "roll", "left_flaperon", mm, "mm")
        path = "program.axes[0].settings[0]"
        feel = samphire.program.axes[0].settings[0].changed({"rate_neg": rate, "rate_pos": rate})
        changed = with_at(with_at(samphire, path, feel), "program.axes[0].trim.clicks", 0)
        ends = at_full(changed, "roll", 0, "left_flaperon")
        assert min(ends, key=lambda x: abs(x - mm)) == pytest.approx(mm, abs=0.15)
    with pytest.raises(HypsosError, match="does not move"):
        rate_for(samphire, "yaw", "left_flaperon", 5.0, "mm")


# -- in the window ------------------------------------------------------------------------------


@pytest.fixture
def view(window: Any) -> Any:
    choose(window, "Marram")
    window.go("flaps")
    page = window.page("flaps")
    page.show_view("streams")
    QApplication.processEvents()
    return page.streams


def test_streams_flow_with_the_hands_and_are_picked(view: Any, window: Any, qtbot: QtBot) -> None:
    bench, canvas = window.workbench, view.canvas
    bench.simulation.set_control("aileron_stick", 60.0)
    key = next(
        s.key for s in canvas.net.streams if s.name == "Ailerons" and s.target == "left_aileron"
    )
    before = canvas.carries[key]
    assert before > 10 and "down" in canvas.stands["left_aileron"]
    bench.simulation.set_control("aileron_stick", -60.0)
    assert canvas.carries[key] < 0
    path = canvas._paths[key]
    found = canvas.stream_at(path.pointAtPercent(0.5))
    assert found is not None
    at = canvas._places["left_inner_flap"].center().toPoint()
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    assert canvas.node == "left_inner_flap" and canvas.lit == canvas.net.upstream("left_inner_flap")
    assert bench.simulation.chosen == "left_inner_flap"
    other = view.canvas.net.streams[3].key
    view.pick(other)
    bench.document.edit(
        "program.mixes[0].gain", bench.loaded.program.mixes[0].gain - 1, "another edit"
    )  # the list is made anew
    assert view.list.currentItem().data(Qt.ItemDataRole.UserRole) == other
    view.search.setText("snap left_inner")
    view.search.setText("snap flap to left inner")
    shown = [
        view.list.item(i).text()
        for i in range(view.list.count())
        if not view.list.item(i).isHidden()
    ]
    assert len(shown) == 1 and "Snap flap" in shown[0]
    view.list.setCurrentRow(
        next(i for i in range(view.list.count()) if not view.list.item(i).isHidden())
    )
    press(view, "Set it in Snap flap")
    assert window.page("flaps").view == "behaviours" and window.page("flaps").rows[4].unfolded
    assert bench.simulation._explained == ()  # nobody looks: nothing is worked out for it


def test_the_stream_under_the_pointer_is_one_that_passes_there(view: Any, window: Any) -> None:
    window.workbench.simulation.set_control("aileron_stick", 60.0)
    canvas = view.canvas
    passing = {
        key: [path.pointAtPercent(k / 40) for k in range(41)] for key, path in canvas._paths.items()
    }
    picked, nothing = 0, 0
    for x, y in product(range(0, canvas.width(), 14), range(0, canvas.height(), 14)):
        at = QPointF(x, y)
        far = {
            key: min((p - at).manhattanLength() for p in places) for key, places in passing.items()
        }
        near = {key for key, length in far.items() if length < GRAB}
        reach = {key for key, length in far.items() if length < GRAB + canvas._width(key)}
        found = canvas.stream_at(at)
        assert found is not None or not near
        assert found is None or found.key in reach
        if found is not None:
            carried = abs(canvas.carries[found.key])
            assert all(abs(canvas.carries[key]) <= carried for key in near)
        picked, nothing = picked + bool(found), nothing + (found is None)
    assert picked > 50 and nothing > 50


def test_a_stream_is_drawn_edited_mirrored_and_removed(
    view: Any, window: Any, qtbot: QtBot
) -> None:
    bench, canvas = window.workbench, view.canvas
    start, end = (canvas._places[n].center().toPoint() for n in ("yaw", "left_mid_flap"))
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(canvas, end)
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end)
    mix = bench.model.program.mixes[-1]
    assert (mix.source, mix.target, mix.gain) == ("yaw", "left_mid_flap", 20.0)
    view.editor.name.selectAll()
    qtbot.keyClicks(view.editor.name, "Rudder with flap")
    qtbot.keyClick(view.editor.name, Qt.Key.Key_Return)
    assert bench.model.program.mixes[-1].name == "Rudder with flap"
    editor = view.editor  # what was called otherwise stays at hand
    assert editor.index == len(bench.model.program.mixes) - 1
    type_into(qtbot, editor.gain, "-35")
    editor.response.shape.choose("v")
    editor.response.shape.activated.emit(editor.response.shape.currentIndex())
    editor.shared.choose("snap_share")
    editor.shared.activated.emit(editor.shared.currentIndex())
    type_into(qtbot, editor.in_s, "0.4")
    editor.over.click()
    left, right = bench.model.program.mixes[-2:]
    assert (
        right == left.changed({"target": "right_mid_flap", "gain": 35.0})
        and left.gain_from == "snap_share"
    )
    assert (
        named_shape(left.response)[0] == "v"
        and left.in_s == 0.4
        and list(problems(bench.model)) == []
    )
    press(editor, "Remove")
    assert bench.model.program.mixes[-1] == right and view.editor is None
    view.source.setEditText("Nowhere")
    press(view, "Add it")
    assert "nothing called Nowhere" in view.complaint.text()
    view.source.setEditText("thrust command")
    view.target.setEditText("Motor")
    press(view, "Add it")
    assert (
        bench.model.program.mixes[-1].gain == 0 and bench.model.program.mixes[-1].target == "motor"
    )


def test_a_curve_whose_mix_has_gone_rides_no_more(view: Any, window: Any) -> None:
    """The bench moves on before the page has put away the row of a mix that an undo took out."""
    view.pick(next(s.key for s in view.canvas.net.streams if s.mix >= 0))
    QApplication.processEvents()
    editor = view.editor
    assert editor.response.isVisible()
    with capture_exceptions() as errors:
        editor.index = len(window.workbench.loaded.program.mixes)
        window.workbench.simulation.live_changed.emit()
    assert not errors


def test_points_are_dragged_nudged_typed_and_kept_in_place(
    view: Any, window: Any, qtbot: QtBot
) -> None:
    bench = window.workbench
    view.add("roll", "camber")
    edit = view.editor.response

    edit.shape.choose(
        "points"
    )  # a straight line gets points of its own to drag, and stays where it was
    edit.shape.activated.emit(edit.shape.currentIndex())
    assert bench.model.program.mixes[-1].response.points == tuple(
        (x, x) for x in (-100, -50, 0, 50, 100)
    )
    edit.shape.choose("dead band")
    edit.shape.activated.emit(edit.shape.currentIndex())
    type_into(qtbot, edit.figures[0], "25")
    assert bench.model.program.mixes[-1].response.points[1] == (-25.0, 0.0)
    canvas = edit.canvas
    QApplication.processEvents()
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=canvas.point(-25, 0).toPoint())
    qtbot.mouseMove(canvas, canvas.point(-40, 30).toPoint())
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=canvas.point(-40, 30).toPoint())
    x, y = bench.model.program.mixes[-1].response.points[1]
    assert abs(x + 40) <= 2 and abs(y - 30) <= 3 and edit.shape.currentText() == "points by hand"
    label = bench.document.undo_label
    canvas.setFocus()
    qtbot.keyClick(canvas, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert (
        bench.model.program.mixes[-1].response.points[1][1] == y + 10
        and bench.document.undo_label == label
    )  # one step
    keys, plain = Qt.Key, Qt.KeyboardModifier.NoModifier
    finely = Qt.KeyboardModifier.ControlModifier
    for key, how, far in (
        (keys.Key_Left, plain, (-1, 0)), (keys.Key_Right, finely, (0.1, 0)), (keys.Key_Down, plain, (0, -1)),
        (keys.Key_Up, finely, (0, 0.1)),
    ):  # fmt: skip
        was = np.array(bench.model.program.mixes[-1].response.points[1])
        qtbot.keyClick(canvas, key, how)
        assert bench.model.program.mixes[-1].response.points[1] == pytest.approx(was + far)
    qtbot.keyClick(canvas, keys.Key_PageUp)
    assert canvas.chosen == 2
    qtbot.keyClick(canvas, keys.Key_PageDown)
    assert canvas.chosen == 1
    x = bench.model.program.mixes[-1].response.points[1][0]
    type_into(qtbot, edit.at, "90")
    assert (
        not edit.at.complaint.isHidden()
        and bench.model.program.mixes[-1].response.points[1][0] == x
    )
    qtbot.mouseDClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.point(70, 153).toPoint())
    assert (
        bench.model.program.mixes[-1].response.points[-2][1] == 150.0
    )  # above the highest line of the picture
    qtbot.keyClick(canvas, Qt.Key.Key_Delete)
    canvas.choose(1)
    canvas.moved.emit(1, 95.0, 0.0)
    assert "stays between its neighbours" in edit.complaint.text()
    assert bench.model.program.mixes[-1].response.points[1][0] == 24.0
    edit.more.click()
    assert len(bench.model.program.mixes[-1].response.points) == 5
    qtbot.keyClick(canvas, Qt.Key.Key_Delete)
    assert len(bench.model.program.mixes[-1].response.points) == 4
    edit.lever.choose("snap_share")
    canvas.choose(3)
    edit.live.click()
    made_ = bench.model.program.mixes[-1].response
    assert made_.live == (3,) and made_.live_from == "snap_share"
    edit.keep_now()  # what moves it now becomes the curve
    lifted = bench.model.program.mixes[-1].response.points[3][1]
    assert lifted == pytest.approx(made_.points[3][1] + bench.state.shared_now()["snap_share"])


def test_what_a_hand_moves_and_its_files(window: Any, tmp_path: Path, qtbot: QtBot) -> None:
    window.go("flaps")
    page = window.page("flaps")
    page.show_view("hands")
    hands = page.hands
    assert [e.part for e in hands.effects] == ["left_flaperon", "right_flaperon"]
    hands.by.choose("rates_switch")
    hands.refresh()
    assert [x.name for x in hands.lines] == ["low", "mid", "high"]
    for name in ("sweep.csv", "sweep.png", "sweep.svg"):
        assert hands.save(tmp_path / name)
    assert (tmp_path / "sweep.csv").read_text().startswith("aileron stick,")
    picture = QImage(str(tmp_path / "sweep.png"))
    assert picture.width() == 1200 and len({picture.pixel(x, 350) for x in range(0, 1200, 7)}) > 3
    assert (tmp_path / "sweep.svg").read_text().count("<path") == 3
    assert not hands.save(tmp_path / "nowhere" / "sweep.csv")


def test_the_strip_shows_what_the_bench_would(window: Any, qtbot: QtBot) -> None:
    choose(window, "Marram")
    window.go("flaps")
    page = window.page("flaps")
    shown = []
    for _ in range(3):
        page.rows[2].title.click()
        shown.append(page.rows[2].unfolded)
    assert shown == [True, False, True]
    card = page.rows[2].card
    qtbot.waitUntil(lambda: len(card.edges.edges) == 3, timeout=10_000)
    shut, half, full = card.edges.edges
    assert (shut.middle["left_inner_flap"], full.middle["left_inner_flap"]) == pytest.approx(
        (0, 84)
    )
    assert half.middle["left_aileron"] == pytest.approx(-28) and full.left["left_aileron"] < -60
    assert "Inner" in card.edges.accessibleName() or "inner" in card.edges.accessibleName()
    card.edges.grab()


def test_a_click_beside_everything_picks_nothing(view: Any) -> None:
    assert (
        view.canvas.stream_at(QPointF(-50, -50)) is None
        and view.canvas.node_at(QPointF(-50, -50)) == ""
    )


def test_the_feel_of_a_rate_that_a_shared_value_leaves_is_shown_where_it_is_held(
    window: Any,
) -> None:
    bench = window.workbench
    shared = Tunable(name="wild", label="Wild", low=-50.0, high=300.0, value=-20.0)
    model = with_at(bench.model, "program.tunables", (*bench.model.program.tunables, shared))
    bench.document.apply(
        with_at(model, "program.axes[0].settings[0].rate_from", "wild"), "a wild rate"
    )
    window.go("feel")
    page = window.page("feel")
    assert page._value(0, "rate_pos") == 0.0
    bench.document.edit(
        "program.tunables[-1].value".replace("-1", str(len(model.program.tunables) - 1)),
        290.0,
        "wilder",
    )
    assert page._value(0, "rate_pos") == 150.0
