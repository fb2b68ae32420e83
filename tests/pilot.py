"""A pilot at the window, by mouse or by keyboard alone: every act is counted."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QPushButton

from hypsos.core.engine import GuardState, compile_plan
from hypsos.core.flight.moves import read_moves
from hypsos.core.rundown import STEPS
from hypsos.desk.app import open_workbench
from hypsos.desk.widgets.rundown import STEP_KEYS
from hypsos.desk.window import Window
from hypsos.hangar import Hangar

LEFT, MOST = Qt.MouseButton.LeftButton, 25
REPORT: dict[str, int] = {}


class Pilot:
    """A pilot at the window: each click, each key pressed and each text typed is one action."""

    def __init__(self, qtbot, tmp_path, template):
        self.qtbot, self.actions = qtbot, 0
        self.window = Window(open_workbench(Hangar(tmp_path / "hangar.sqlite3")))
        self.window.show()
        qtbot.waitExposed(self.window)
        self.window.finish()
        next(t for t in self.window.welcome.tiles if t.key == template).click()
        self.bench = self.window.workbench
        self.settle()
        self.actions = 0  # what comes now is beyond the template

    def settle(self):
        for _ in range(4):
            QApplication.processEvents()

    def step(self, key):
        """Go to a step by its key."""
        keys = STEP_KEYS[[s.key for s in STEPS].index(key)]
        self.qtbot.keyClick(self.window, keys, Qt.KeyboardModifier.AltModifier)
        self.actions += 1
        self.settle()
        return self.window.page(key)

    def click(self, widget):
        """Press a button, a tick, a choice among others."""
        assert widget.isEnabled() and widget.isVisible(), widget
        widget.click()
        self.actions += 1
        self.settle()

    def press(self, page, words):
        found = [b for b in page.findChildren(QPushButton) if b.text() == words and b.isVisible()]
        self.click(found[-1])

    def choose(self, box, words):
        """Open a list, and take one of its words."""
        assert box.isEnabled() and box.isVisible()
        index = box.findText(words)
        assert index >= 0, [box.itemText(i) for i in range(box.count())]
        box.setCurrentIndex(index)
        box.activated.emit(index)
        self.actions += 2
        self.settle()

    def menu(self, button, *words):
        """Open a menu, and take a word, perhaps in a part of it."""
        menu = button.menu()
        if menu is not None:
            menu.aboutToShow.emit()
        self.actions += 1 + len(words)
        for word in words:
            action = next(a for a in menu.actions() if a.text() == word)
            menu = action.menu() or menu
        action.trigger()
        self.settle()

    def word(self, editor, place, *words):
        """Another word in a sentence: a click on it, then through the menu."""
        button = editor.words[place]
        choice = next(
            c for c in button.word.choices if c.label == words[-1] and (len(words) == 1 or c.group == words[0])
        )
        editor.choose(button, choice.key)
        self.actions += 1 + len(words)
        self.settle()

    def type(self, field, text):
        """Type into a field, and hand it in."""
        line = getattr(field, "line", field)
        assert line.isVisible() and line.isEnabled(), text
        line.setFocus()
        line.selectAll()
        self.qtbot.keyClicks(line, text)
        self.qtbot.keyClick(line, Qt.Key.Key_Return)
        self.actions += 1
        self.settle()

    def plug_in(self):
        """All leads, in their order."""
        self.press(self.step("wiring"), "Plug in the rest in order")

    def done(self, job):
        REPORT[job] = self.actions
        assert self.actions <= MOST, REPORT
        self.window.close()


def flown(model, text):
    """A model through moves written as CSV: result, and what was said with its second."""
    result = compile_plan(model).run(read_moves(text, model))
    return result, [(round(float(result.t_s[s.frame]), 1), s.caption) for s in result.said]


def states(result, *times):
    return [GuardState(int(result.guard[round(t / 0.02)])).name.lower() for t in times]
