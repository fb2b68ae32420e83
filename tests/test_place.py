# SPDX-License-Identifier: GPL-3.0-or-later
"""The pilot's place: what was just made is in sight and has the focus, and nothing moves under the
hand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from hands import choose, take
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, QRect, Qt, QUrl
from PyQt6.QtGui import (
    QDropEvent,
    QEventPoint,
    QKeyEvent,
    QMouseEvent,
    QPointingDevice,
    QTouchEvent,
)
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QLineEdit,
    QPushButton,
    QToolTip,
    QWidget,
)
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import to_json
from hypsos.desk.services import settings as remembered
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import ActMenu
from hypsos.desk.widgets.long_press import LongPress
from hypsos.desk.window import Window


def in_view(page: Any, widget: QWidget) -> QRect:
    """Where a widget is in the view of its page."""
    return QRect(widget.mapTo(page.area.viewport(), QPoint(0, 0)), widget.size())


def is_seen(page: Any, widget: QWidget) -> bool:
    """Whether a widget is in sight, or fills the view where it is taller."""
    seen, place = page.area.viewport().rect(), in_view(page, widget)
    return bool(seen.contains(place)) or (
        0 <= place.top() < seen.height() // 3 and place.height() > seen.height()
    )


def shown(window: Any, model: str, step: str, view: str = "") -> Any:
    choose(window, model)
    window.go(step)
    page = window.page(step)
    if view:
        page.show_view(view)
    QApplication.processEvents()
    return page


def button(page: Any, words: str) -> QPushButton:
    found: list[QPushButton] = page.findChildren(QPushButton)
    return next(b for b in found if b.text() == words and b.isVisibleTo(page))


def click(qtbot: QtBot, page: Any, widget: QWidget) -> None:
    """Bring a widget into sight as a wheel does, and click it."""
    page.area.into_view(widget)
    QApplication.processEvents()
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)
    QApplication.processEvents()


MADE: dict[str, tuple[str, str, str, Callable[[Any], Any]]] = {
    "New condition": ("Marram", "say", "", lambda p: p.cards[-1]),
    "New announcement": ("Marram", "say", "", lambda p: p.said[-1]),
    "New timer": ("Marram", "say", "", lambda p: p.timed[-1]),
    "Add a flight mode": ("Marram", "modes", "", lambda p: p.grid.rows[-2]),
    "Add a shared value": ("Marram", "modes", "shared", lambda p: p.shared.cards[-1]),
}


@pytest.mark.parametrize("words", MADE)
def test_what_was_just_made_is_in_sight_and_has_the_focus(
    window: Any, qtbot: QtBot, words: str
) -> None:
    model, step, view, made = MADE[words]
    page = shown(window, model, step, view)
    for _ in range(3):
        pressed = button(page, words)
        click(qtbot, page, pressed)
        row, focus = made(page), QApplication.focusWidget()
        assert is_seen(page, row), words
        assert focus is row.title and row.title.selectedText() == row.title.text()


def test_a_control_that_was_added_is_in_sight_and_has_the_focus(window: Any) -> None:
    page = shown(window, "Marram", "hands")
    before = set(page.cards)
    for hand in ("left", "right"):
        take(page.add[hand], "Slider")
        (name,) = set(page.cards) - before
        before = set(page.cards)
        assert is_seen(page, page.cards[name]) and page.cards[name].title.hasFocus()


def test_what_did_not_change_is_not_made_anew(window: Any, qtbot: QtBot) -> None:
    page = shown(window, "Marram", "say")
    page.cards[2].open_sentence()
    page.said[1].open()
    kept, caption = page.cards[2], page.said[1]
    bench = window.workbench
    page.cards[0].remove() if not page.cards[0].users.text().startswith("Asked") else None
    page.said[0].remove()
    click(qtbot, page, button(page, "New condition"))
    assert kept in page.cards and kept.editor.isVisible()
    assert page.said[0] is caption and caption.path == "program.announcements[0]"
    caption.set("caption", "Read it here", "read")
    assert bench.loaded.program.announcements[0].caption == "Read it here"
    assert [e.place.path for e in caption.editors] == ["program.announcements[0].when"]


def test_a_row_that_is_moved_stays_under_the_hand(window: Any, qtbot: QtBot) -> None:
    page = shown(window, "Marram", "modes")
    row = page.grid.rows[2]
    earlier = row.buttons["earlier"]
    page.area.into_view(earlier)
    y = in_view(page, earlier).top()
    click(qtbot, page, earlier)
    assert page.grid.rows[1] is row and earlier.hasFocus()
    assert abs(in_view(page, earlier).top() - y) <= 1


def test_a_behaviour_switched_on_or_unfolded_stays_where_it_is(window: Any, qtbot: QtBot) -> None:
    page = shown(window, "Marram", "flaps")
    for row in (page.rows[-1], page.rows[4]):
        page.area.into_view(row.on)
        for widget in (row.on, row.on, row.title, row.title):
            y = in_view(page, widget).top()
            click(qtbot, page, widget)
            assert abs(in_view(page, widget).top() - y) <= 1
            assert row is page.rows[row.index] and QApplication.focusWidget() is widget


def test_a_behaviour_that_goes_leaves_the_others_as_open_as_they_were(window: Any) -> None:
    page = shown(window, "Marram", "flaps")
    last = page.rows[-1]
    last.unfold(True)
    last.card.open()
    page.rows[0].unfold(True)
    page.rows[0].card.remove()
    assert page.rows[-1] is last and last.unfolded and last.card.opened
    label = last.recipe().label
    assert last.card.when.place.path == f"program.recipes[{last.index}].when"
    last.findChild(QCheckBox).click()
    assert window.workbench.loaded.program.recipes[last.index].label == label
    assert not window.workbench.loaded.program.recipes[last.index].on


def test_a_notice_pushes_nothing_and_hides_nothing_at_hand(window: Any, qtbot: QtBot) -> None:
    page = shown(window, "Samphire", "feel")
    before = page.mapTo(window, QPoint(0, 0))
    window.notice.say("Something to read.")
    QApplication.processEvents()
    assert page.mapTo(window, QPoint(0, 0)) == before
    first = page.axes.buttons()[0]
    first.setFocus()
    window.notice.say("Something else to read.")
    place = QRect(first.mapTo(window.centralWidget(), QPoint(0, 0)), first.size())
    assert not window.notice.geometry().intersects(place)
    qtbot.keyClick(first, Qt.Key.Key_Escape)
    assert window.notice.isHidden()


def test_room_given_to_hold_a_page_goes_again_as_it_is_scrolled(window: Any) -> None:
    page = shown(window, "Samphire", "wiring")
    bar, title = page.area.verticalScrollBar(), page.output
    bar.setValue(0)
    y = in_view(page, title).top()
    page.area.slide(-90)
    assert in_view(page, title).top() == y + 90
    bar.setValue(120)
    assert in_view(page, title).top() == y + 90 - 120
    bar.setValue(0)
    assert in_view(page, title).top() == y
    page.area.slide(bar.maximum() + 70)
    assert bar.maximum() >= bar.value() > 0
    longest = bar.maximum()
    bar.setValue(bar.value() - 100)
    page.area.settle()
    assert bar.maximum() <= longest - 70


def touched(kind: QEvent.Type, widget: QWidget, at: QPointF, state: QEventPoint.State) -> None:
    """A finger on a widget, as Qt hands it on: each widget gets the fingers that began on it."""
    device = QPointingDevice.primaryPointingDevice()
    place = widget.mapToGlobal(at)
    point = QEventPoint(0, state, at, place)
    QApplication.sendEvent(widget, QTouchEvent(kind, device, NONE, [point]))


NONE = Qt.KeyboardModifier.NoModifier
BEGIN, UPDATE, END = QEvent.Type.TouchBegin, QEvent.Type.TouchUpdate, QEvent.Type.TouchEnd
PRESSED, MOVED, UP = (
    QEventPoint.State.Pressed, QEventPoint.State.Updated, QEventPoint.State.Released
)  # fmt: skip


def test_two_fingers_move_two_sticks_at_once(window: Any) -> None:
    choose(window, "Samphire")
    bench = window.workbench
    left, right = (window.bench.hands.sticks[hand] for hand in ("left", "right"))
    middles = {stick: stick.field().center() for stick in (left, right)}
    for stick in (left, right):
        touched(BEGIN, stick, middles[stick], PRESSED)
    held = bench.state.live.controls
    assert held["throttle_stick"] == -100.0  # a finger beside the knob gives no power
    for stick in (left, right):
        touched(UPDATE, stick, middles[stick] + QPointF(20, 0), MOVED)
    held = bench.state.live.controls
    assert held["rudder_stick"] > 20 and held["aileron_stick"] > 20
    touched(END, right, middles[right], UP)
    held = bench.state.live.controls
    assert held["aileron_stick"] == 0.0 and held["rudder_stick"] > 20
    left.hide()  # what takes the stick away lets it go
    assert bench.state.live.controls["rudder_stick"] == 0.0


LEFT_HELD = Qt.MouseButton.LeftButton


def test_a_finger_that_rests_reads_the_tip_and_presses_nothing(window: Any, qtbot: QtBot) -> None:
    choose(window, "Samphire")
    handle, button = window.windowHandle(), window.bench.link
    watched = LongPress(handle)
    device = QPointingDevice.primaryPointingDevice()
    middle = QPointF(button.rect().center())

    def finger(kind: QEvent.Type, state: QEventPoint.State) -> None:
        place = button.mapToGlobal(middle)
        point = QEventPoint(0, state, QPointF(window.mapFromGlobal(place)), place)
        QApplication.sendEvent(handle, QTouchEvent(kind, device, NONE, [point]))

    for rests, cut in ((False, True), (True, True)):
        qtbot.mousePress(button, Qt.MouseButton.LeftButton)
        finger(BEGIN, PRESSED)
        if rests:
            qtbot.waitUntil(lambda: bool(QToolTip.text()))
            assert QToolTip.text() == button.toolTip()
        finger(END, UP)
        qtbot.mouseRelease(button, Qt.MouseButton.LeftButton)
        assert button.isChecked() == cut  # the long one left it as it was
    move = QMouseEvent(
        QEvent.Type.MouseMove, middle, middle, Qt.MouseButton.NoButton, LEFT_HELD, NONE
    )
    for widget, kept_back in ((button, True), (window.bench.hands.sticks["left"], False)):
        watched._at = widget.mapToGlobal(widget.rect().center())
        watched._asked = False
        watched.ask()
        assert watched.eventFilter(handle, move) == kept_back  # a stick that is held still moves
    QToolTip.hideText()
    handle.removeEventFilter(watched)


def test_the_look_is_in_one_place_and_large_targets_are_large(window: Any) -> None:
    def heights() -> list[int]:
        page = shown(window, "Samphire", "guard")
        kinds = (QPushButton, QCheckBox, QLineEdit, QComboBox)
        return [w.height() for k in kinds for w in page.findChildren(k) if w.isVisibleTo(page)]

    try:
        assert min(heights()) >= 24 and sorted(heights())[len(heights()) // 2] >= 32
        window.header.look.click()
        card = window.looks
        assert card.isVisible() and card.themes.checkedId() == 0
        card.large.click()
        assert sorted(heights())[len(heights()) // 2] >= 40
        card.sizes.buttons()[1].click()
        assert look.scale == 1.25
        remembered.keep(window, with_model=False)
        look.large = False
        remembered.take_look()
        assert look.large
    finally:
        look.large = False
        look.set_scale(1.0)


def test_keys_cut_the_link_each_time_and_say_so(window: Any, qtbot: QtBot) -> None:
    choose(window, "Samphire")
    window.finish()
    window.activateWindow()
    bench, ctrl = window.workbench, Qt.KeyboardModifier.ControlModifier
    for _ in range(3):
        for cut in (True, False):
            qtbot.keyClick(window, Qt.Key.Key_L, ctrl)
            assert (bench.state.live.link < 0.5) is cut
            said = "The link is cut" if cut else "The link is up"
            assert window.notice.text.text().startswith(said)


def test_what_is_looked_for_is_found_by_its_words_and_gone_to(window: Any, qtbot: QtBot) -> None:
    choose(window, "Marram")
    window.finish()
    bench = window.workbench
    at_hand = window.rundown
    at_hand.setFocus()
    window.activateWindow()
    qtbot.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    finder = window.finder
    for asked, wanted, step in (
        ("timers", "Say when", "say"),
        ("thermal", "Thermal", "modes"),
        ("crow fully", "Crow brakes: fully open at", "flaps"),
        ("circling for", "Circling for a while", "say"),
        ("left aileron lost", "Left aileron", "failsafe"),
    ):
        finder.open()
        qtbot.keyClicks(finder.line, asked)
        assert finder.found and wanted in finder.found[0].words, (asked, finder.found[:3])
        qtbot.keyClick(finder.line, Qt.Key.Key_Return)
        assert window.rundown.current == step and not finder.isVisible()
    at_hand.setFocus()
    finder.open()
    qtbot.keyClicks(finder.line, "nothing has this")
    assert finder.found == [] and finder.none.isVisible()
    qtbot.keyClick(finder.line, Qt.Key.Key_Escape)
    assert not finder.isVisible() and at_hand.hasFocus()
    assert bench.loaded.name == "Marram"


def test_focus_goes_on_behind_what_has_gone(window: Any, qtbot: QtBot) -> None:
    page = shown(window, "Marram", "say")
    shown(window, "Marram", "say")
    keep = page.cards[3]
    keep.change.setFocus()
    keep.change.hide()
    focus = QApplication.focusWidget()
    assert page.isAncestorOf(focus) and focus is not window.models
    assert in_view(page, focus).top() >= in_view(page, keep).top() - 2
    window.activateWindow()
    window.finish()
    before = window.rundown.current
    qtbot.keyClick(window, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
    assert window.rundown.current != before


def test_a_wide_page_leaves_the_aeroplane_and_the_lamp(window: Any) -> None:
    page = shown(window, "Marram", "modes")
    usual = page.width()
    window.wide_page.click()
    QApplication.processEvents()
    bench = window.bench
    assert page.width() > 1.4 * usual
    assert bench.aeroplane.isVisible() and bench.lamp.isVisible() and bench.link.isVisible()
    assert not bench.hands.isVisible() and not bench.below.isVisible()
    remembered.keep(window, with_model=True)
    again = Window(window.workbench)
    assert again.wide_page.isChecked()
    again.deleteLater()
    bench.show_hands()
    QApplication.processEvents()
    assert bench.hands.isVisible() and not window.wide_page.isChecked()
    remembered.keep(window, with_model=True)
    assert remembered.text("wide page") == "false"


def test_a_model_file_that_is_dropped_comes_onto_the_bench(
    window: Any, tmp_path: Any, marram: Any
) -> None:
    path = tmp_path / "Dropped.json"
    path.write_text(to_json(marram.changed({"name": "Dropped"})))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)), QUrl("https://example.org/no.json")])
    left, copy = Qt.MouseButton.LeftButton, Qt.DropAction.CopyAction
    window.dropEvent(QDropEvent(QPointF(5, 5), copy, data, left, NONE))
    assert window.workbench.loaded.name == "Dropped"


def test_a_menu_lies_in_its_window_and_gives_the_focus_back(window: Any, qtbot: QtBot) -> None:
    window.go("hands")
    QApplication.processEvents()
    button = window.page("hands").add["right"]
    button.setFocus()
    button.click()
    menu = button.open_
    assert menu in window.findChildren(ActMenu) and not menu.isWindow()
    assert QApplication.focusWidget() is menu.list
    inside = window.rect().contains(menu.geometry())
    last = menu.list.visualItemRect(menu.list.item(menu.list.count() - 1))
    assert inside, (window.rect(), menu.geometry())
    assert menu.list.viewport().rect().contains(last)  # open whole
    controls = len(window.workbench.loaded.transmitter.controls)
    qtbot.keyClick(menu.list, Qt.Key.Key_Escape)
    assert (QApplication.focusWidget() is button and button.open_ is None) or not menu.isVisible()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert button.open_.isVisible()
    qtbot.mouseClick(window.bench.tabs.button(0), Qt.MouseButton.LeftButton)  # a touch elsewhere
    assert not any(menu.isVisible() for menu in window.findChildren(ActMenu))
    button.click()
    window.go("feel")  # what opened it is out of sight
    assert not any(menu.isVisible() for menu in window.findChildren(ActMenu))
    assert len(window.workbench.loaded.transmitter.controls) == controls


def test_a_part_leads_to_where_its_figures_are_set(window: Any) -> None:
    choose(window, "Marram")
    acts = {a.words: a for a in window.bench.part_acts("right_aileron")}
    acts["Its throws, with a ruler"].do()
    assert window.rundown.current == "throws" and window.page("throws").chosen == "right_aileron"
    acts["When the link is lost"].do()
    assert window.rundown.current == "failsafe"
    acts["Why it stands there"].do()
    why = window.bench.why
    why.keyPressEvent(
        QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    )
    assert QApplication.clipboard().text().startswith("Right aileron")


def test_the_step_at_hand_is_in_sight_in_a_low_window(window: Any) -> None:
    choose(window, "Samphire")
    try:
        look.set_scale(1.5)
        window.resize(1024, 768)
        for key in ("log", "model", "failsafe"):
            window.go(key)
            QApplication.processEvents()
            middle = QPoint(10, window.rundown.middle_of(key))
            seen = window.rundown.mapTo(window._side.viewport(), middle)
            assert window._side.viewport().rect().contains(seen), key
    finally:
        look.set_scale(1.0)


def test_a_strip_that_comes_late_squeezes_nothing(window: Any) -> None:
    page = shown(window, "Marram", "flaps")
    row = page.rows[2]
    row.unfold(True)
    QApplication.processEvents()
    low = row.height()
    row.card._show_edges()  # what its timer does a moment later
    assert row.card.edges.height() > 150 and row.height() > low
    assert row.height() >= row.layout().totalHeightForWidth(row.width())  # at once
