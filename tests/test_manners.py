# SPDX-License-Identifier: GPL-3.0-or-later
"""How the window answers hands: wheel, keys, focus; a whole model by keyboard alone."""

from __future__ import annotations

import sys
from contextlib import ExitStack
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from hands import choose, every_view, type_into
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, Qt
from PyQt6.QtGui import QKeyEvent, QWheelEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)
from pytestqt.qtbot import QtBot

from hypsos.core.rundown import STEPS
from hypsos.core.wording.words import part_named, sense_words
from hypsos.desk.app import Desk, open_workbench
from hypsos.desk.bench.motor_lamp import Lamp
from hypsos.desk.services import settings as remembered
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.focus_order import called, focusables
from hypsos.desk.widgets.hand_control import SpokenControl
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.run_down_list import STEP_KEYS
from hypsos.desk.window import Window
from hypsos.hangar import Hangar

KEY, CTRL, ALT = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


def focused() -> QWidget:
    found = QApplication.focusWidget()
    assert found is not None
    return found


@pytest.fixture(autouse=True)
def _painted(qtbot: QtBot, window: Any) -> None:
    qtbot.waitUntil(lambda: window.pages.currentWidget() is not None)


@pytest.mark.parametrize("name", ["Marram", "Skerry"])
def test_nothing_changes_by_scrolling(window: Any, name: Any) -> None:
    bench = window.workbench
    choose(window, name)
    before, hands = bench.model, dict(bench.state.live.controls)
    for _, place in every_view(window):
        for child in window.findChildren(QWidget):
            if not child.isVisible():
                continue
            child.setFocus()
            for turn in (120, -120):
                at = QPointF(child.rect().center())
                event = QWheelEvent(
                    at,
                    child.mapToGlobal(at),
                    QPoint(),
                    QPoint(0, turn),
                    Qt.MouseButton.NoButton,
                    Qt.KeyboardModifier.NoModifier,
                    Qt.ScrollPhase.NoScrollPhase,
                    False,
                )
                QApplication.sendEvent(child, event)
        assert bench.model == before and bench.state.live.controls == hands, place


def test_undo_is_the_windows_wherever_the_focus_is(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    window.go("feel")
    field = window.page("feel").fields[(0, "expo")]
    before = bench.model
    type_into(qtbot, field, "44")
    assert bench.model != before
    qtbot.keyClick(field.line, KEY.Key_Z, CTRL)
    assert bench.model == before and field.line.text() == field.text_of(
        before.program.axes[0].settings[0].expo
    )
    qtbot.keyClicks(field.line, "7")
    qtbot.keyClick(field.line, KEY.Key_Z, CTRL)  # what is typed and not handed in goes first
    qtbot.keyClick(field.line, KEY.Key_Return)
    assert bench.model == before
    window.go("model")
    note = window.page("model").note
    note.setFocus()
    qtbot.keyClicks(note, "and more")
    qtbot.keyClick(note, KEY.Key_Z, CTRL)
    assert bench.model == before and note.toPlainText() == before.note


def test_escape_brings_a_text_back_and_puts_a_notice_away(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    field = window.page("model").name
    field.setFocus()
    qtbot.keyClicks(field, "x")
    bench.notices.noticed.emit("Something to read.")
    qtbot.keyClick(field, KEY.Key_Escape)
    assert field.text() == "Samphire" and window.notice.isVisible()
    qtbot.keyClick(field, KEY.Key_Escape)
    assert not window.notice.isVisible() and bench.model.name == "Samphire"


def test_enter_presses_the_button_that_has_the_focus(qtbot: QtBot, window: Any) -> None:
    window.bench.link.setFocus()
    qtbot.keyClick(window.bench.link, KEY.Key_Return)
    assert window.workbench.state.live.link == 0


@pytest.mark.parametrize("step", STEPS)
def test_alt_and_a_key_reach_the_first_field_and_tab_follows_the_page_then_the_bench(
    qtbot: QtBot, window: Any, step: Any
) -> None:
    choose(window, "Marram")
    key = STEP_KEYS[STEPS.index(step)]
    qtbot.keyClick(window, key, ALT)
    QApplication.processEvents()
    page = window.pages.currentWidget()
    assert (
        page.key == step.key
        and page.isAncestorOf(focused())
        and focused() is next(focusables(page))
    )
    seen: list[QWidget] = []
    while page.isAncestorOf(focused()) and len(seen) < 400:
        seen.append(focused())
        qtbot.keyClick(focused(), KEY.Key_Tab)
    scrolled = page.area.verticalScrollBar().value()
    tops = [
        w.mapTo(page, QPoint(0, 0)).y() + (scrolled if page.area.isAncestorOf(w) else 0)
        for w in seen
    ]
    assert seen == list(focusables(page)) and window.bench.isAncestorOf(focused())
    assert all(b > a - 40 for a, b in pairwise(tops)), tops


def test_an_answer_keeps_the_focus_among_the_answers(qtbot: QtBot, window: Any) -> None:
    window.go("directions")
    QApplication.processEvents()
    page = window.page("directions")
    button = next(b for b in focusables(page) if b.accessibleName() == "Left flaperon: up")
    button.setFocus()
    qtbot.keyClick(button, KEY.Key_Return)
    assert page.answers and page.isAncestorOf(focused()) and focused() is not window.models


def test_the_first_window_stands_in_the_middle_of_the_screen(window: Any) -> None:
    room = window.screen().availableGeometry()
    window.move(room.topLeft())
    remembered.place(window)
    middle = window.pos() + QPoint(window.width(), window.height()) / 2
    assert (middle - room.center()).manhattanLength() <= 2


def test_the_look_the_step_and_the_place_are_remembered_and_fit_the_screen(
    window: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    choose(window, "Marram")
    window.go("feel")
    look.set_theme("dark")
    look.set_scale(1.25)
    window.resize(5000, 4000)
    remembered.keep(window, with_model=True)
    look.set_theme("light")
    look.set_scale(1.0)
    remembered.take_look()
    assert (look.palette.name, look.scale) == ("dark", 1.25)
    assert remembered.step() == "feel" and remembered.text("model") == "Marram"
    remembered.place(window)
    room = window.screen().availableGeometry()
    assert (
        window.width() <= room.width()
        and window.height() <= room.height()
        and room.contains(window.geometry().center())
    )
    monkeypatch.setattr(
        Window, "frameGeometry", lambda w: w.geometry().adjusted(-1, -20, 1, 5)
    )  # as a desktop frames it
    remembered.frame_in_sight(window)
    assert window.height() <= room.height() - 25
    placed = window.geometry()
    remembered.frame_in_sight(window)
    assert window.size() == placed.size()
    monkeypatch.undo()
    window.setGeometry(0, 100, 800, 600)
    placed = window.geometry()
    window.splitter.setSizes([500, window.splitter.width() - 500])
    window._edge_drawn(500, 1)
    for _ in range(3):  # it neither sinks nor shrinks from start to start
        remembered.keep(window, with_model=True)
        window.setGeometry(60, 60, 900, 600)
        remembered.place(window)
        assert window.geometry() == placed
    assert remembered.page_share() == window.page_share
    look.set_theme("light")
    look.set_scale(1.0)


def test_a_model_is_taken_out_and_brought_back_with_all_that_is_its_own(window: Any) -> None:
    bench = window.workbench
    hangar, names = bench.document.hangar, bench.document.hangar.names()
    flights, model = hangar.flights("Samphire"), bench.model
    bench.document.keep("before")
    kept = hangar.snapshots("Samphire")
    window.page("model").remove.click()
    assert (
        "Samphire" not in hangar.names()
        and bench.model.name in names
        and "out of the hangar" in window.notice.text.text()
    )
    window.notice.acts[0].click()
    assert bench.model == model and hangar.names() == names
    assert hangar.flights("Samphire") == flights and hangar.snapshots("Samphire") == kept
    window.go("feel")
    for _ in names:
        window.page("model").remove.click()
    assert bench.model is None and hangar.names() == [] and window.welcome.isVisible()
    window.bench.grab()
    window.notice.acts[0].click()
    assert bench.model is not None and bench.document.undo_label is None


def test_the_list_of_keys_lies_in_the_middle_of_the_window_as_wide_as_it_needs(window: Any) -> None:
    window._toggle_help()
    QApplication.processEvents()
    panel, around = window.help, window.help.parentWidget()
    assert panel.isVisible() and panel.width() > panel._scroll.widget().sizeHint().width()
    assert abs(panel.geometry().center().x() - around.rect().center().x()) <= 1
    assert around.rect().contains(panel.geometry())


def test_a_key_that_means_nothing_to_what_is_painted_goes_on_to_the_window(qapp: Any) -> None:
    widget = SpokenControl("Strip", 0, 10)
    widget.speak(4, "four")
    event = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier)
    widget.keyPressEvent(event)
    assert (event.isAccepted(), widget.value()) == (False, 4)


def test_the_screen_reader_hears_a_name_a_role_and_where_it_stands(window: Any) -> None:
    bench = window.workbench
    choose(window, "Marram")
    for _, place in every_view(window):
        for widget in focusables(window.centralWidget()):
            assert called(widget), (place, widget)
            assert isinstance(
                widget,
                QAbstractButton
                | QAbstractSlider
                | QComboBox
                | QLineEdit
                | QAbstractSpinBox
                | QTextEdit
                | QPlainTextEdit
                | QAbstractItemView
                | Lamp,
            ), (place, widget)
    hands, strips = window.bench.hands, window.bench.strips
    handles = [
        *hands.sticks.values(),
        *hands.toggles.values(),
        *hands.faders.values(),
        strips,
        window.rundown,
    ]
    before = [(w.value(), w.accessibleDescription()) for w in handles]
    assert all(words for _, words in before)
    switches = {c.name for c in bench.model.transmitter.controls if c.is_switch}
    for name, value in bench.state.live.controls.items():
        bench.simulation.set_control(
            name, -60.0 if value == 0 and name not in switches else 1.0 if value == 0 else 0.0
        )
    flap = next(x for x in bench.model.airframe.surfaces if x.role == "flap")
    bench.simulation.choose(flap.name)
    window.go("wiring")
    assert window.rundown.value() == 4 and "step 4 of 15" in window.rundown.accessibleDescription()
    after = [(w.value(), w.accessibleDescription()) for w in handles]
    assert all(a != b for a, b in zip(before, after, strict=True)), [
        w.accessibleName() for w in handles
    ]
    leads = window.bench.strips.leads()
    assert (strips.maximum(), strips.value()) == (
        len(leads) - 1,
        [x.target for x in leads].index(flap.name),
    )
    why = window.bench.why
    assert why.accessibleDescription().startswith(flap.label)
    choose(window, "Samphire")
    aeroplane = window.bench.aeroplane
    aeroplane.setFocus()
    aeroplane.repaint()
    bench.simulation.set_control("rudder_stick", 100.0)
    assert (
        "Rudder" in aeroplane.accessibleDescription()
    )  # with the focus on it, it says what moves as it moves
    bench.simulation.set_control("throttle_stick", 0.0)
    for at, said in ((0.0, "Motor cut"), (1.0, "Motor locked")):
        bench.simulation.set_control("motor_switch", at)
        bench.simulation.advance(0.5)
        assert window.bench.lamp.text() == said


def test_a_switch_that_nothing_uses_is_idle(window: Any) -> None:
    bench = window.workbench
    toggle = window.bench.hands.toggles["rates_switch"]
    assert toggle.used and "rates of roll" in toggle.toolTip()
    axes = tuple(
        a.model_copy(update={"switch": None, "settings": a.settings[:1]})
        for a in bench.model.program.axes
    )
    bench.document.edit("program.axes", axes, "no rates")
    assert not toggle.used and "idle" in toggle.accessibleDescription()


def keys(qtbot: QtBot, *texts: Any) -> None:
    """Type into what has the focus; a key or a text."""
    for text in texts:
        if isinstance(text, str):
            qtbot.keyClicks(focused(), text)
        else:
            qtbot.keyClick(focused(), text)
        QApplication.processEvents()


def tab_to(qtbot: QtBot, words: str) -> None:
    """Press Tab until the thing of that name has the focus."""
    seen = []
    for _ in range(120):
        seen.append(called(focused()))
        if called(focused()) == words:
            return
        keys(qtbot, KEY.Key_Tab)
    raise AssertionError(f"Tab does not reach {words}: {seen}")


def test_a_trainer_from_nothing_to_the_sheet_by_keyboard_alone(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = Window(open_workbench(Hangar(tmp_path / "hangar.sqlite3")))
    window.show()
    qtbot.waitExposed(window)
    qtbot.waitUntil(lambda: window.welcome is not None and window.welcome.tiles[0].hasFocus())
    bench, enter = window.workbench, KEY.Key_Return

    def step(name: str) -> None:
        qtbot.keyClick(focused(), STEP_KEYS[[s.key for s in STEPS].index(name)], ALT)
        QApplication.processEvents()

    keys(qtbot, enter)  # the trainer is the first of the aeroplanes
    assert called(focused()) == "Model name" and bench.model.name == "Trainer"
    keys(qtbot, "Dunlin", enter)
    tab_to(qtbot, "Note")
    keys(qtbot, "For the winter.")
    for name in ("airframe", "hands"):
        step(name)
        tab_to(qtbot, "Keep it so")
        keys(qtbot, enter)
    step("wiring")
    tab_to(qtbot, "Plug in the rest in order")
    keys(qtbot, enter)
    step("guard")
    tab_to(qtbot, "… and re-locked by a lost link")
    keys(qtbot, KEY.Key_Up)
    assert bench.model.program.guard.level == 3
    step("directions")
    tab_to(qtbot, "All as it should")
    for _ in window.page("directions").check.steps:  # type: ignore[attr-defined]
        keys(qtbot, enter)
    tab_to(qtbot, "Rudder")  # two move alike on one command: which plug is the rudder's is asked
    keys(qtbot, enter)
    tab_to(qtbot, "Note it: all seen right")
    keys(qtbot, enter)
    step("throws")
    page = window.page("throws")
    for surface in [page.surface.itemData(i) for i in range(page.surface.count())]:  # type: ignore[attr-defined]
        step("throws")
        while page.chosen != surface:  # type: ignore[attr-defined]
            choice = focused()
            keys(qtbot, KEY.Key_Down)  # opens the list
            for key in (KEY.Key_Down, enter):
                qtbot.keyClick(choice.view(), key)  # type: ignore[attr-defined]
        tab_to(qtbot, "Wanted: " + sense_words(part_named(bench.model, surface))[0])
        keys(qtbot, "12", enter)
    for name in ("feel", "flaps", "failsafe"):
        step(name)
        tab_to(qtbot, "Keep it so")
        keys(qtbot, enter)
    step("sheet")
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "sheet"), "PDF (*.pdf)")
    )
    tab_to(qtbot, "Save as PDF…")
    keys(qtbot, enter)
    qtbot.waitUntil((tmp_path / "sheet.pdf").exists, timeout=60_000)  # paper waits for the search
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    states = {s.key: window.rundown.state(s.key).name for s in STEPS}
    assert states == dict.fromkeys(states, "settled") | dict.fromkeys(
        ("modes", "say", "shake", "log"), "not begun"
    )
    window.close()


def test_the_demo_hangar_is_one_click_away_and_back(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("HYPSOS_HANGAR", str(tmp_path / "mine.sqlite3"))
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    hook = sys.excepthook
    with ExitStack() as folders:
        desk = Desk(QApplication.instance(), folders)
        first = desk.open(demo=False)
        qtbot.waitUntil(lambda: first.welcome is not None and first.welcome.isVisible())
        assert first.home.isHidden()
        desk.frame.setGeometry(40, 50, 1111, 777)
        first.welcome.demo.click()
        demo = desk.window
        assert demo.window() is desk.frame and desk.frame.geometry() == QRect(40, 50, 1111, 777)
        qtbot.waitUntil(lambda: demo.pages.currentWidget() is not None)
        assert (
            demo is not first
            and demo.workbench.model.name == "Samphire"
            and not demo.home.isHidden()
        )
        assert "vanishes" in demo.page("model").facts.text()
        demo.workbench.document.edit("note", "tried", "note")
        demo.home.click()
        back = desk.window
        qtbot.waitUntil(lambda: back.welcome is not None and back.welcome.isVisible())
        assert (
            back.workbench.document.hangar.names() == []
            and back.workbench.document.hangar.path == tmp_path / "mine.sqlite3"
        )
        back.welcome.tiles[0].click()
        assert back.workbench.model.name == "Trainer" and back.workbench.model.proposed
        remembered.remember("model", "Trainer")
        desk.end()
    assert [p.name for p in tmp_path.iterdir() if p.name.startswith("hypsos-demo")] == []
    sys.excepthook = hook


@pytest.mark.parametrize("step", ["model", "wiring", "guard", "feel"])
def test_a_list_opens_whole_where_its_box_has_the_focus(
    window: Any, qtbot: QtBot, step: str
) -> None:
    """A click gives it the focus; the border that shows it must not cut the list."""
    window.go(step)
    boxes = [b for b in window.findChildren(ChoiceBox) if b.isVisible() and b.isEnabled()]
    short = [b for b in boxes if b.count() <= 12]
    assert len(short) > 1
    for box in short:
        box.setFocus()
        assert box.hasFocus()
        qtbot.mouseClick(box, Qt.MouseButton.LeftButton)
        rows = box.view()
        last = rows.visualRect(rows.model().index(box.count() - 1, 0))
        assert last.bottom() < rows.viewport().height(), box.accessibleName()
        box.hidePopup()


def test_a_figure_after_enter_takes_the_place_of_the_one_before(window: Any, qtbot: QtBot) -> None:
    window.go("feel")
    field = next(f for f in window.findChildren(NumberField) if f.isVisible() and f.isEnabled())
    field.line.setFocus()
    for typed in ("41", "42"):
        qtbot.keyClicks(field.line, typed)
        qtbot.keyClick(field.line, KEY.Key_Return)
        assert field._get() == float(typed) and field.line.selectedText() == field.line.text()
    qtbot.keyClicks(field.line, "much")
    qtbot.keyClick(field.line, KEY.Key_Return)
    refused = field.complaint.text()
    assert field._get() == 42.0 and refused.count("%") == 1, refused


@pytest.mark.parametrize("step", ["guard", "failsafe", "sheet"])
def test_whatever_has_the_focus_shows_it(window: Any, step: str) -> None:
    """Its picture with the focus is another one than without."""
    window.go(step)
    QApplication.processEvents()
    page = window.page(step)
    for widget in focusables(page):
        if not widget.isVisible() or not widget.isEnabled():
            continue
        window.rundown.setFocus()
        without = widget.grab().toImage()
        widget.setFocus(Qt.FocusReason.TabFocusReason)
        assert widget.grab().toImage() != without, (called(widget), type(widget).__name__)


def test_arrows_browse_a_choice_and_enter_takes_what_is_marked(window: Any, qtbot: QtBot) -> None:
    bench, models = window.workbench, window.models
    first = bench.model.name
    rows = models.view()
    for opening, letters in ((KEY.Key_Down, ""), (KEY.Key_End, ""), (None, "m")):
        models.setFocus()
        if opening is not None:
            qtbot.keyClick(models, opening)
        else:
            qtbot.keyClicks(models, letters)
        assert rows.isVisible()
        qtbot.keyClick(rows, KEY.Key_Down)
        assert bench.model.name == first
        qtbot.keyClick(rows, KEY.Key_Escape)
        assert not rows.isVisible() and bench.model.name == first and models.currentText() == first
    qtbot.keyClicks(models, "t")
    marked = rows.currentIndex().data()
    qtbot.keyClick(rows, KEY.Key_Return)
    assert marked.startswith("T") and bench.model.name == marked
