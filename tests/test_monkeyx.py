"""Wild orders of acts at the window: nothing breaks, what is stored is what is shown, no motor is off idle unreleased."""

from __future__ import annotations

import random
import sys
import traceback

import numpy as np
import pytest
from hands import choose
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QFileDialog, QLineEdit

from hypsos.core.engine import GuardState
from hypsos.core.rundown import STEPS

TYPED = (
    "",
    "12",
    "-5",
    "1e9",
    "abc",
    "12 mm down",
    "8° up",
    "99999",
    "0",
    "100",
    "-100",
    "é",
    "x" * 70,
    "\ud83d",
    "a\x00b",
)


class Monkey:
    """Does something at random, again and again."""

    def __init__(self, window, seed: int) -> None:
        self.window, self.bench, self.dice = window, window.workbench, random.Random(seed)
        self.acts = [self.go, self.press, self.press, self.pick, self.type, self.type, self.move, self.move, self.wait, self.undo,
                     self.redo, self.cut_link, self.open, self.trim, self.back, self.back, self.radio]  # fmt: skip

    def here(self, kind):
        page = self.window.pages.currentWidget()
        return [w for w in page.findChildren(kind) if w.isVisibleTo(page) and w.isEnabled()]

    def go(self):
        self.window.go(self.dice.choice(STEPS).key)

    def press(self):
        for button in self.dice.sample(found, 1) if (found := self.here(QAbstractButton)) else ():
            button.click()

    def pick(self):
        for box in self.dice.sample(found, 1) if (found := [b for b in self.here(QComboBox) if b.count()]) else ():
            box.setCurrentIndex(self.dice.randrange(box.count()))
            box.activated.emit(box.currentIndex())

    def type(self):
        for line in self.dice.sample(found, 1) if (found := self.here(QLineEdit)) else ():
            line.setFocus()
            line.setText(self.dice.choice(TYPED))
            line.editingFinished.emit()

    def move(self):
        names = [n for n in self.bench.live.controls if not n.endswith("_trim")]
        name = self.dice.choice(names)
        control = self.bench.model.transmitter.control(name)
        places = range(len(control.positions)) if control is not None and control.is_switch else (-100, 0, 37, 100)
        self.bench.set_control(name, float(self.dice.choice(places)))

    def wait(self):
        self.bench.advance(self.dice.choice((0.02, 0.3, 1.0)))

    def undo(self):
        self.bench.attempt(self.bench.undo)

    def redo(self):
        self.bench.attempt(self.bench.redo)

    def cut_link(self):
        self.bench.set_link(self.dice.random() < 0.7)

    def back(self):
        """The timeline: to a moment, on from it, back to now, a stretch kept."""
        panel, recorder = self.window.bench.timeline, self.bench.recorder
        self.window.bench.show_timeline()
        act = self.dice.randrange(6)
        if act < 3:
            panel.lanes.look_at(recorder.now_s() - self.dice.choice((0.02, 0.5, 3.0, 30.0, 500.0)))
        elif act == 3:
            panel.lanes.go_on()
        elif act == 4:
            panel.lanes.pause(self.dice.random() < 0.5)
        elif len(self.bench.loaded.scenarios) < 8:
            panel.keep.click()

    def radio(self):
        self.dice.choice(
            (lambda: self.bench.set_power(self.dice.random() < 0.6), self.bench.switch_off_and_on,
             lambda: self.bench.drop_out(0.3))
        )()  # fmt: skip

    def open(self):
        choose(self.window, self.window.models.itemText(self.dice.randrange(self.window.models.count())))

    def trim(self):
        self.bench.trim(self.dice.choice(("roll", "pitch", "yaw", "thrust")), self.dice.choice((-1, 1, 3)))

    def look(self):
        """What must hold whatever was done."""
        bench, result = self.bench, self.bench.live.result
        assert bench.hangar.load(bench.model.name) == bench.model
        motors = {m.name for m in bench.model.airframe.motors}
        if bench.live.link > 0.5 and bench.live.power > 0.5 and bench.guard != GuardState.RELEASED:
            for lead in bench.model.leads:
                if lead.target in motors:
                    assert float(np.ravel(result.outputs[lead.name].us)[-1]) in (0.0, lead.idle_us)


@pytest.mark.parametrize("seed", [11,12,13,14,15,16])
def test_wild_orders_of_acts(qtbot, window, monkeypatch, seed):
    errors: list[str] = []
    monkeypatch.setattr(sys, "excepthook", lambda *e: errors.append("".join(traceback.format_exception(*e))))
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *a, **k: ("", "")))
    window.finish()
    window.workbench.voice.muted = True
    window.go("model")
    monkey, done = Monkey(window, seed), []
    for i in range(180):
        act = monkey.dice.choice(monkey.acts)
        done.append(act.__name__)
        act()
        QApplication.processEvents()
        assert not errors, (done[-8:], errors[0])
        if i % 10 == 0:
            monkey.look()
