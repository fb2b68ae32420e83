# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions in the window: every kind of sentence by keyboard alone, in its own step and where it
is asked."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.rundown import STEPS
from hypsos.core.wording.describe_condition import named, node_phrase, phrase
from hypsos.desk.widgets.act_menu import MenuRows
from hypsos.desk.widgets.focus_order import called
from hypsos.desk.widgets.run_down_list import STEP_KEYS

KEY, ALT = Qt.Key, Qt.KeyboardModifier.AltModifier
LEFT = Qt.MouseButton.LeftButton


def focused() -> Any:
    return QApplication.focusWidget()


def tab_to(qtbot: QtBot, words: Any) -> None:
    for _ in range(200):
        if called(focused()).startswith(words):
            return
        qtbot.keyClick(focused(), KEY.Key_Tab)
    raise AssertionError(f"Tab does not reach {words}")


def row_at_hand(rows: MenuRows) -> str:
    """The words of the row at which a menu stands."""
    item = rows.currentItem()
    return "" if item is None else str(item.data(Qt.ItemDataRole.UserRole))


def pick(qtbot: QtBot, *words: Any) -> None:
    """Choose in the menu that is open, by the arrow keys: a group, and a word in it."""
    for k, word in enumerate(words):
        rows = focused()
        assert isinstance(rows, MenuRows)
        for _ in range(60):
            if row_at_hand(rows) == word:
                break
            qtbot.keyClick(rows, KEY.Key_Down)
        assert row_at_hand(rows) == word
        qtbot.keyClick(rows, KEY.Key_Return if k == len(words) - 1 else KEY.Key_Right)
    QApplication.processEvents()


def word(qtbot: QtBot, about: Any, *words: Any) -> None:
    """Go to a word of the sentence by Tab, open it with Enter, choose."""
    tab_to(qtbot, about)
    qtbot.keyClick(focused(), KEY.Key_Return)
    pick(qtbot, *words)
    QApplication.processEvents()


LONGER = "Make a longer sentence of it"
SENTENCES = {
    "Slider is above 0 %, off again 2 % further back": [
        ("what it hangs on", "A stick or slider", "SLIDER")
    ],
    "not mode Landing": [
        ("what it hangs on", "the flight mode"),
        ("whether it is so", "is not"),
        ("which mode", "Landing"),
    ],
    "link lost": [("what it hangs on", "the link"), ("whether it is so", "is lost")],
    "not receiver powered": [
        ("what it hangs on", "the receiver's power"),
        ("whether it is so", "has no power"),
    ],
    "Brakes out": [("what it hangs on", "A condition with a name", "Brakes out")],
    "the motor is not locked": [
        ("what it hangs on", "the motor's state"),
        ("whether it is so", "is not"),
        ("in which state", "locked"),
    ],
    "Flight timer has run out": [("what it hangs on", "a timer")],
    "Crow brakes is above 0 %, off again 2 % further back": [
        ("what it hangs on", "Where something stands", "Crow brakes")
    ],
    "FIRST or FIRST": [("what it hangs on", LONGER, "any of these holds")],
    "exactly one of (FIRST; FIRST)": [("what it hangs on", LONGER, "exactly one of these holds")],
    "not (FIRST)": [("what it hangs on", LONGER, "not this")],
    "FIRST, once it has lasted 0.3 s": [("what it hangs on", LONGER, "once it has lasted")],
    "FIRST, and 1 s longer": [("what it hangs on", LONGER, "and a while longer")],
    "1 s from the moment when FIRST": [("what it hangs on", LONGER, "a while from when it begins")],
    "from FIRST until FIRST": [("what it hangs on", LONGER, "from it until something else")],
    "step 1 of 3, one further each time FIRST": [
        ("what it hangs on", LONGER, "counting how often")
    ],
}


@pytest.mark.parametrize("said", SENTENCES)
def test_every_kind_of_sentence_by_keyboard_alone(qtbot: QtBot, window: Any, said: Any) -> None:
    choose(window, "Marram")
    bench = window.workbench
    QApplication.processEvents()
    window.rundown.setFocus()
    qtbot.keyClick(window.rundown, STEP_KEYS[[s.key for s in STEPS].index("say")], ALT)
    tab_to(qtbot, "New condition")
    qtbot.keyClick(focused(), KEY.Key_Return)
    assert called(focused()).startswith("Name of the condition")
    qtbot.keyClicks(focused(), "Trial")
    qtbot.keyClick(focused(), KEY.Key_Return)
    slider = next(c for c in bench.model.transmitter.controls if not c.is_switch).label
    first = phrase(
        bench.model, next(x for x in bench.model.program.logic if x.label == "Trial").of[0]
    )
    for about, *words in SENTENCES[said]:  # type: ignore[attr-defined]
        word(qtbot, about, *(slider if w == "SLIDER" else w for w in words))
    made = next(x for x in named(bench.model) if x.label == "Trial")
    assert node_phrase(bench.model, made) == said.replace("FIRST", first).replace("Slider", slider)
    card = next(c for c in window.page("say").cards if c.label == "Trial")
    assert bool(card.editor.lines) and card.why.text().startswith(
        ("✓ Holds now", "– Does not hold now")
    )


def test_a_condition_in_use_stays_and_says_who_asks_it(qtbot: QtBot, window: Any) -> None:
    choose(window, "Marram")
    window.go("say")
    bench, page = window.workbench, window.page("say")
    card = next(c for c in page.cards if c.label == "Brakes armed")
    assert "Crow brakes" in card.users.text()
    card.remove()
    assert "Brakes armed stays: " in window.notice.text.text() and any(
        x.label == "Brakes armed" for x in named(bench.model)
    )
    editor = card.open_sentence()
    QApplication.processEvents()
    (line, truth), *_ = [(x, t) for x, t in editor._truths if bench.state.moment.holds(x.text)]
    assert (truth.text(), truth.accessibleName()) == ("✓", "holds now")
    for control in bench.model.transmitter.controls:  # until the hands let it hold no more
        for place in range(len(control.positions)):
            if bench.state.moment.holds(line.text):
                bench.simulation.set_control(control.name, float(place))
    assert (truth.text(), truth.accessibleName()) == ("–", "does not hold now")
    loose = next(c for c in page.cards if c.users.text().startswith("Nothing"))
    gone = loose.label
    loose.remove()
    assert all(x.label != gone for x in named(bench.model)) and all(
        c.label != gone for c in page.cards
    )
    bench.document.undo()
    assert any(c.label == gone for c in page.cards)


def test_a_sentence_is_built_where_it_is_asked_and_goes_with_what_asked_it(
    qtbot: QtBot, window: Any
) -> None:
    window.go("guard")
    bench, asks = window.workbench, window.page("guard").asks
    before = {x.name for x in bench.model.program.logic}
    qtbot.mouseClick(asks.add_hold, LEFT)
    hold = asks.holds[0]
    hold.choose(hold.words[0], "signal:throttle_stick")
    hold = asks.holds[0]
    hold.choose(hold.words[0], "wrap:on_delay")
    model = bench.model
    assert phrase(model, model.program.guard.holds[0]) == (
        "throttle stick is above 50 %, off again 1 % further back, once it has lasted 0.3 s"
    )
    assert (
        asks.holds[0].words[0].text() == "once for"
        and len({x.name for x in model.program.logic} - before) == 2
    )
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.set_control("throttle_stick", 40.0)
    bench.simulation.advance(1.0)
    assert bench.state.guard_words.startswith("Motor held while throttle stick is above 50 %")
    next(
        b
        for b in asks.findChildren(QPushButton)
        if b.accessibleName().startswith("Remove condition 1")
    ).click()
    assert bench.model.program.guard.holds == ()
    assert {x.name for x in bench.model.program.logic} == before
    bench.document.undo()
    assert len(bench.model.program.logic) == len(before) + 2 and len(asks.holds) == 1


def test_the_second_condition_and_the_start_check_are_set_in_the_window(
    qtbot: QtBot, window: Any
) -> None:
    window.go("guard")
    bench, asks = window.workbench, window.page("guard").asks
    assert asks.also.words[0].text() == "always"
    asks.also.choose(asks.also.words[0], "switch:flap_switch")
    assert bench.model.program.guard.also == "flap_switch@2"
    asks.also.choose(asks.also.words[0], "always")
    assert bench.model.program.guard.also is None
    qtbot.mouseClick(asks.add_check, LEFT)
    qtbot.mouseClick(asks.add_check, LEFT)
    checks = bench.model.program.guard.start_check
    assert (checks[0].control, checks[0].low, checks[0].high) == (
        "throttle_stick",
        -100,
        -95,
    ) and checks[1].position == 0
    switch = checks[1].control
    place = asks.checks[1].findChildren(type(window.models), "position")[0]
    place.setCurrentIndex(1)
    place.activated.emit(1)
    assert bench.model.program.guard.start_check[1].position == 1
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(1.0)
    assert "start check" in bench.state.guard_words or "locked" in bench.state.guard_words
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(1.0)
    bench.simulation.set_control(switch, 1.0)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard_words == "Motor armed"


def test_the_name_of_what_has_none_is_taken_by_nobody_and_an_ampersand_is_a_letter(
    qtbot: QtBot, window: Any
) -> None:
    choose(window, "Marram")
    window.go("say")
    bench, page = window.workbench, window.page("say")
    card = page.cards[0]
    for text in ("Logical switch", "Low & quiet"):
        card.title.setText("")
        card.title.insert(text)
        card.title.editingFinished.emit()
        assert any(
            x.label == ("Low & quiet" if "&" in text else "Throttle stick low")
            for x in named(bench.model)
        )
    other = page.cards[1]
    other.open_sentence()
    other.editor.choose(other.editor.words[0], f"named:{card.name}")
    shown = other.editor.words[0]
    assert shown.text() == "Low && quiet" and called(shown).endswith("Low & quiet")
    offered = [act.words for act in other.editor.acts(shown) if act.group]
    assert "Low & quiet" in offered and bench.document.undo_label.endswith("Low & quiet")


def test_a_click_on_a_word_opens_its_words(qtbot: QtBot, window: Any) -> None:
    choose(window, "Marram")
    window.go("say")
    card = window.page("say").cards[0]
    card.change.click()
    QApplication.processEvents()
    button = card.editor.words[1]
    qtbot.mouseClick(button, LEFT, pos=QPoint(5, 5))
    menu = card.editor.menu
    rows = menu.list
    place = menu.rows().index("lies between")
    assert rows.viewport().rect().contains(rows.visualItemRect(rows.item(menu.list.count() - 1)))
    spot = rows.visualItemRect(rows.item(place)).center()
    qtbot.mouseClick(rows.viewport(), LEFT, pos=spot)
    model = window.workbench.model
    assert node_phrase(model, named(model)[0]).startswith(
        "throttle stick lies between 5 % and 75 %"
    )


def test_when_a_plain_mix_acts_is_said_and_built_beside_it(qtbot: QtBot, window: Any) -> None:
    choose(window, "Marram")
    window.go("flaps")
    bench, page = window.workbench, window.page("flaps")
    at = next(
        i for i, m in enumerate(bench.model.program.mixes) if m.name == "Less camber while circling"
    )
    when, before = page.whens[at], {x.name for x in bench.model.program.logic}
    assert when.button.text() == "acts while Circling for a while"
    when.button.click()
    when.editor.choose(when.editor.words[0], "wrap:on_delay")
    assert (
        phrase(bench.model, bench.model.program.mixes[at].when)
        == "Circling for a while, once it has lasted 0.3 s"
    )
    assert (
        called(when.button).endswith("acts while Circling for a while, once it has lasted 0.3 s")
        and len(when.button.text()) <= 36
    )
    page.whens[at].editor.choose(page.whens[at].editor.words[0], "always")
    assert (
        bench.model.program.mixes[at].when is None and page.whens[at].button.text() == "acts always"
    )
    assert {x.name for x in bench.model.program.logic} == before
    when.button.click()
    assert not when.editor.isVisible()


def test_what_a_mode_goes_by_is_built_in_its_place(qtbot: QtBot, window: Any) -> None:
    choose(window, "Marram")
    window.go("modes")
    bench, page = window.workbench, window.page("modes")
    whens = [r.when for r in page.grid.rows if r.when is not None]
    assert [w.about() for w in whens] == [
        f"Mode {m.label}" for m in bench.model.program.modes if m.when
    ]
    assert whens[0].button.text() == "flown while Task switch at landing"
    whens[0].button.click()
    landing = whens[0].editor
    assert all(
        c.key not in ("guard", "timer") for c in landing.words[0].word.choices
    )  # known before the guard speaks
    landing.choose(landing.words[2], "task_switch@1")
    assert bench.model.program.modes[0].when == "task_switch@1"
    bench.document.undo()
    window.show_place("program.modes[1].when")
    assert focused() is page.grid.rows[1].when.editor.words[0]
