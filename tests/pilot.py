# SPDX-License-Identifier: GPL-3.0-or-later
"""A pilot at the window, by mouse or by keyboard alone: every act is counted."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hands import take
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, compile_plan
from hypsos.core.rundown import STEPS
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.desk.app import open_workbench
from hypsos.desk.widgets.run_down_list import STEP_KEYS
from hypsos.desk.window import Window
from hypsos.hangar import Hangar

LEFT, MOST = Qt.MouseButton.LeftButton, 25
REPORT: dict[str, int] = {}


class Pilot:
    """A pilot at the window: each click, each key pressed and each text typed is one action."""

    def __init__(self, qtbot: QtBot, tmp_path: Path, template: Any, keys: Any = False) -> None:
        self.qtbot, self.actions, self.keys = qtbot, 0, keys
        self.window = Window(open_workbench(Hangar(tmp_path / "hangar.sqlite3")))
        self.window.show()
        qtbot.waitExposed(self.window)
        self.window.finish()
        next(t for t in self.window.welcome.tiles if t.key == template).click()
        self.bench = self.window.workbench
        self.settle()
        self.actions = 0  # what comes now is beyond the template

    def settle(self) -> None:
        for _ in range(4):
            QApplication.processEvents()

    def step(self, key: Any) -> Any:
        """Go to a step by its key."""
        keys = STEP_KEYS[[s.key for s in STEPS].index(key)]
        self.qtbot.keyClick(self.window, keys, Qt.KeyboardModifier.AltModifier)
        self.actions += 1
        self.settle()
        return self.window.page(key)

    def click(self, widget: Any) -> None:
        """Press a button, a tick, a choice among others."""
        assert widget.isEnabled() and widget.isVisible(), widget
        if self.keys:
            self.reach(widget)
            self.qtbot.keyClick(widget, Qt.Key.Key_Space)
        else:
            widget.click()
        self.actions += 1
        self.settle()

    def press(self, page: Any, words: Any) -> None:
        self.settle()
        found = [b for b in page.findChildren(QPushButton) if b.text() == words and b.isVisible()]
        self.click(found[-1])

    def choose(self, box: Any, words: Any) -> None:
        """Open a list, and take one of its words."""
        assert box.isEnabled() and box.isVisible()
        index = box.findText(words)
        assert index >= 0, [box.itemText(i) for i in range(box.count())]
        if self.keys:
            self.reach(box)
            self.qtbot.keyClick(box, Qt.Key.Key_Return)
            view = box.view()
            self.qtbot.keyClick(view, Qt.Key.Key_Home)
            for _ in range(index):
                self.qtbot.keyClick(view, Qt.Key.Key_Down)
            self.qtbot.keyClick(view, Qt.Key.Key_Return)
            self.window.activateWindow()  # a screen gives the focus back when a list shuts; there is none here
        else:
            box.setCurrentIndex(index)
            box.activated.emit(index)
        self.actions += 2
        self.settle()

    def word(self, editor: Any, place: Any, *words: Any) -> None:
        """Another word in a sentence: a click on it, then through the menu."""
        button = editor.words[place]
        choice = next(
            c
            for c in button.word.choices
            if c.label == words[-1] and (len(words) == 1 or c.group == words[0])
        )
        editor.choose(button, choice.key)
        self.actions += 1 + len(words)
        self.settle()

    def type(self, field: Any, text: Any) -> None:
        """Type into a field, and hand it in."""
        line = getattr(field, "line", field)
        assert line.isVisible() and line.isEnabled(), text
        if self.keys:
            self.reach(line)
        line.setFocus()
        line.selectAll()
        self.qtbot.keyClicks(line, text)
        self.qtbot.keyClick(line, Qt.Key.Key_Return)
        self.actions += 1
        self.settle()

    def reach(self, widget: Any) -> None:
        """Tab on until a widget has the focus, as one without a mouse does."""
        self.settle()
        for _ in range(600):
            here = QApplication.focusWidget()
            if here is widget or (here is not None and widget.focusProxy() is here):
                return
            self.qtbot.keyClick(here or self.window, Qt.Key.Key_Tab)
        raise AssertionError(f"no Tab leads to {widget.accessibleName()}")

    def control(self, page: Any, words: Any, hand: Any = "left") -> Any:
        """Another control under a hand; its name."""
        before = {c.name for c in self.bench.loaded.transmitter.controls}
        self.menu_of(page.add[hand], words)
        return next(c.name for c in self.bench.loaded.transmitter.controls if c.name not in before)

    def menu_of(self, menu: Any, *words: Any) -> None:
        """Open a menu, and take a word, perhaps in a part of it."""
        take(menu, *words)
        self.actions += 1 + len(words)
        self.settle()

    def behaviour(self, page: Any, title: Any) -> Any:
        """A behaviour out of the gallery; its card."""
        if page.add.isVisible():
            self.click(page.add)
        self.click(next(tile for tile in page.gallery.tiles if tile.text() == title))
        return page.rows[-1].card

    def when(self, line: Any, *words: Any) -> Any:
        """What a condition hangs on: its line unfolds, and the first word is chosen."""
        self.click(line.button)
        self.word(line.editor, 0, *words)
        return line.editor

    def plug_in(self) -> None:
        """All leads, in their order."""
        self.press(self.step("wiring"), "Plug in the rest in order")

    def done(self, job: Any) -> None:
        REPORT[job + (" by keys" if self.keys else "")] = self.actions
        assert self.actions <= MOST, REPORT
        self.window.close()


def flown(model: Model, text: Any) -> Any:
    """A model through moves written as CSV: result, and what was said with its second."""
    result = compile_plan(model).run(read_moves(text, model))
    return result, [(round(float(result.t_s[s.frame]), 1), s.caption) for s in result.said]


def states(result: Any, *times: Any) -> Any:
    return [GuardState(int(result.guard[round(t / 0.02)])).name.lower() for t in times]
