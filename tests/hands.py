# SPDX-License-Identifier: GPL-3.0-or-later
"""What a person's hands do in the window, for the tests that drive it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.hangar import Hangar

if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench

import sqlite3

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QPushButton

from hypsos.core.rundown import STEPS
from hypsos.core.scenarios.scenario_run import run_scenarios
from hypsos.desk.pages.directions_page import movement_words
from hypsos.desk.widgets.act_menu import MenuButton


def play_scenarios(workbench: Workbench) -> None:
    """Play the scenarios of the model on the bench here and now, not beside the window."""
    model = workbench.loaded
    workbench.companions.scenarios._take((model, run_scenarios(model)))


def press(page: Any, words: str) -> None:
    """Press the button with these words on it."""
    QApplication.processEvents()
    next(
        b for b in page.findChildren(QPushButton) if b.text() == words and b.isVisibleTo(page)
    ).click()


def type_into(qtbot: QtBot, field: Any, text: str) -> None:
    """Type into a number field and leave it with Enter."""
    field.line.setFocus()
    field.line.selectAll()
    qtbot.keyClicks(field.line, text)
    qtbot.keyClick(field.line, Qt.Key.Key_Return)


def take(button: MenuButton, *words: str) -> None:
    """Click on what opens a menu, and on a row in it, perhaps on one in a group."""
    button.click()
    menu = button.open_
    assert menu is not None
    for word in words:
        menu.list.setCurrentRow(menu.rows().index(word))
        menu.take()
    QApplication.processEvents()


def choose(window: Any, name: str) -> None:
    """Choose another model above."""
    window.models.setCurrentText(name)
    window.models.activated.emit(window.models.currentIndex())


def behind_its_back(hangar: Hangar, *statements: str) -> None:
    """Change the hangar's file with another program."""
    db = sqlite3.connect(hangar.path)
    for statement in statements:
        db.execute(statement)
    db.commit()
    db.close()


class Clock:
    """A bench's clock that stands until the test moves it."""

    def __init__(self) -> None:
        self.t = 100.0

    def __call__(self) -> float:
        return self.t


def stand_still(bench: Workbench) -> Any:
    """A bench on which time passes only where the test says so, however busy the machine is."""
    bench.simulation.clock = Clock()
    bench.simulation._origin = (
        bench.simulation.clock.t - bench.state.live.frame * bench.state.plan.frame_s
    )
    return bench


def say_seen(page: Any, parts: Any, seen: Any) -> None:
    """Press, for each part, the button with what was seen; it stays down."""
    page.others = True
    page.show_answers()
    for name, way in seen.items():
        part = parts[name]
        low, high = movement_words(part)
        words = f"{part.label}: {(low, 'still', high)[way + 1]}"
        QApplication.processEvents()
        answers(page, words)[0].click()
        QApplication.processEvents()
        assert [b.isChecked() for b in answers(page, words)] == [True]


def answers(page: Any, words: str) -> list[QPushButton]:
    """The buttons in sight with these words for a screen reader."""
    return [
        b
        for b in page.findChildren(QPushButton)
        if b.accessibleName() == words and not b.isHidden()
    ]


def every_view(window: Any, only: Any = "") -> Iterator[Any]:
    """Every step, and of those with several views each one, with all that unfolds unfolded: its
    page, and its name. Or ``only`` the view of that name."""
    for step in (s for s in STEPS if only == "" or only.split()[0] == s.key):
        window.go(step.key)
        page = window.page(step.key)
        for key in (k for k in page.view_keys() if only in ("", f"{step.key} {k}")):
            page.show_view(key)
            for row in getattr(page, "rows", ()) if key == "behaviours" else ():
                row.unfold(True)
                row.card.open()
            if key == "behaviours":
                page.open_gallery()
            if key == "streams":
                page.streams.pick(
                    next((s.key for s in page.streams.canvas.net.streams if s.mix >= 0), None)
                )
            QApplication.processEvents()
            yield page, f"{step.key} {key}"
        if not page.view_keys():
            QApplication.processEvents()
            yield page, step.key


def wild_hands(
    model: Model, dice: Any, frames: int, control_held: int, stick_held: int
) -> dict[Any, Any]:
    """Hands that go through every position a model has, each control and each stick held for so
    many frames."""
    hands = {}
    for c in model.transmitter.controls:
        held = (
            dice.integers(0, len(c.positions), frames)
            if c.is_switch
            else dice.integers(-100, 101, frames)
        )
        hands[c.name] = np.repeat(held[::control_held], control_held)[:frames].astype(float)
    for stick in ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick"):
        held = dice.integers(-100, 101, frames)
        hands[stick] = np.repeat(held[::stick_held], stick_held)[:frames].astype(float)
    return hands
