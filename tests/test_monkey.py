# SPDX-License-Identifier: GPL-3.0-or-later
"""Wild orders of acts at the window: nothing breaks, what is stored is what is shown, no motor is
off idle unarmed."""

from __future__ import annotations

import os
import random
import sys
import traceback
from typing import Any

import numpy as np
import pytest
from hands import choose
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot

from hypsos.core.dependencies.motor_dependencies import motor_controls
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState
from hypsos.core.explain.motor_words import motor_powers
from hypsos.core.rundown import STEPS

K, M = Qt.Key, Qt.KeyboardModifier
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

    def __init__(self, window: Any, seed: int) -> None:
        self.window, self.bench, self.dice = window, window.workbench, random.Random(seed)
        self.acts = [
            self.go,
            self.press,
            self.press,
            self.pick,
            self.type,
            self.type,
            self.move,
            self.move,
            self.wait,
            self.undo,
            self.redo,
            self.cut_link,
            self.open,
            self.trim,
            self.back,
            self.back,
            self.radio,
            self.key,
            self.key,
            self.key,
            self.switch,
            self.switch,
            self.pointer,
            self.focus,
        ]
        self.down: list[int] = []
        self.bench.simulation.followers.append(self.every_frame)

    def here(self, kind: Any) -> Any:
        welcome = self.window.welcome
        page = (
            welcome
            if welcome is not None and welcome.isVisible()
            else self.window.pages.currentWidget()
        )
        return [w for w in page.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def every_frame(self, result: Any, situation: Any) -> None:
        """No motor is off idle while it is not armed and the link is there, in any frame of any
        stretch of time."""
        model = self.bench.model
        if model is None:
            return
        shape = result.guard.shape
        linked = np.broadcast_to(
            (np.asarray(situation.link) > 0.5) & (np.asarray(situation.power) > 0.5), shape
        )
        held = linked & (result.guard != GuardState.ARMED)
        motors = {m.name for m in model.airframe.motors}
        for lead in (x for x in model.leads if x.target in motors and x.name in result.outputs):
            us = np.broadcast_to(result.outputs[lead.name].us, shape)[held]
            assert np.all((us == 0.0) | (np.abs(us - lead.idle_us) < 1e-6)), lead.name

    def key(self) -> None:
        """A key as the desktop sends it, with modifiers, repeats and releases that never come, to
        whatever part of the hands."""
        hands = self.window.bench.hands
        widget = self.dice.choice(
            [*hands.sticks.values(), *hands.toggles.values(), *hands.faders.values()]
        )
        codes = (
            K.Key_W,
            K.Key_S,
            K.Key_A,
            K.Key_D,
            K.Key_Up,
            K.Key_Down,
            K.Key_Left,
            K.Key_Right,
            K.Key_Space,
            K.Key_1,
            K.Key_2,
            K.Key_Shift,
            K.Key_Escape,
            K.Key_PageUp,
        )
        code = (
            self.dice.choice(self.down)
            if self.down and self.dice.random() < 0.4
            else self.dice.choice(codes)
        )
        kind = QEvent.Type.KeyPress if self.dice.random() < 0.55 else QEvent.Type.KeyRelease
        mods = self.dice.choice(
            (M.NoModifier, M.NoModifier, M.ShiftModifier, M.ControlModifier, M.AltModifier)
        )
        before = dict(self.bench.state.live.controls)
        QApplication.sendEvent(
            widget, QKeyEvent(kind, code, mods, 0, 0, 0, "", self.dice.random() < 0.2)
        )
        self.down = [x for x in self.down if x != code] + (
            [code] if kind == QEvent.Type.KeyPress else []
        )
        guard = self.bench.loaded.program.guard
        button = (
            guard is not None
            and self.bench.loaded.transmitter.control(guard.switch).kind == "momentary"
        )
        meant = (K.Key_Space,) if button else (K.Key_1, K.Key_2)
        if guard is not None and code not in meant:
            was, now = (
                int(c.get(guard.switch, 0)) for c in (before, self.bench.state.live.controls)
            )
            assert not (was in guard.cut and now not in guard.cut), (code, widget.accessibleName())

    def switch(self) -> None:
        """A real click on a position of a switch, a press without a release, or a stick dragged."""
        toggles = list(self.window.bench.hands.toggles.values())
        if not toggles:
            return
        toggle = self.dice.choice(toggles)
        place = toggle.slot(self.dice.randrange(len(toggle.control.positions))).center().toPoint()
        QTest.mousePress(toggle, Qt.MouseButton.LeftButton, M.NoModifier, place)
        if self.dice.random() < 0.8:
            QTest.mouseRelease(toggle, Qt.MouseButton.LeftButton, M.NoModifier, place)

    def pointer(self) -> None:
        """Any button, anywhere on a stick or a slider, with a drag or without: a press alone moves
        no throttle."""
        hands = self.window.bench.hands
        widget = self.dice.choice([*hands.sticks.values(), *hands.faders.values()])
        button = self.dice.choice(
            (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton)
        )
        at, to = (
            QPoint(self.dice.randrange(widget.width()), self.dice.randrange(widget.height()))
            for _ in range(2)
        )
        motor = motor_controls(self.bench.loaded) | {"throttle_stick"}
        before = {
            n: round(self.bench.state.live.controls[n])
            for n in motor & {"throttle_stick", *hands.faders}
        }
        self.dice.choice((QTest.mousePress, QTest.mouseDClick))(widget, button, M.NoModifier, at)
        if before:
            assert {n: round(self.bench.state.live.controls[n]) for n in before} == before
        if self.dice.random() < 0.5:
            place = QPointF(to)
            moved = QMouseEvent(
                QEvent.Type.MouseMove, place, place, Qt.MouseButton.NoButton, button, M.NoModifier
            )
            QApplication.sendEvent(widget, moved)
        if self.dice.random() < 0.9:
            QTest.mouseRelease(widget, button, M.NoModifier, to)

    def focus(self) -> None:
        """The focus goes: to another part, to another window, with the page."""
        hands = self.window.bench.hands
        widget = self.dice.choice([*hands.sticks.values(), *hands.toggles.values()])
        if self.dice.random() < 0.5:
            widget.setFocus()
        else:
            QApplication.sendEvent(
                widget, QFocusEvent(QEvent.Type.FocusOut, Qt.FocusReason.ActiveWindowFocusReason)
            )

    def go(self) -> None:
        self.window.go(self.dice.choice(STEPS).key)

    def press(self) -> None:
        for button in self.dice.sample(found, 1) if (found := self.here(QAbstractButton)) else ():
            button.click()

    def pick(self) -> None:
        for box in (
            self.dice.sample(found, 1)
            if (found := [b for b in self.here(QComboBox) if b.count()])
            else ()
        ):
            box.setCurrentIndex(self.dice.randrange(box.count()))
            box.activated.emit(box.currentIndex())

    def type(self) -> None:
        for line in self.dice.sample(found, 1) if (found := self.here(QLineEdit)) else ():
            line.setFocus()
            line.setText(self.dice.choice(TYPED))
            line.editingFinished.emit()

    def move(self) -> None:
        names = [n for n in self.bench.state.live.controls if not n.endswith("_trim")]
        name = self.dice.choice(names)
        control = self.bench.model.transmitter.control(name)
        places = (
            range(len(control.positions))
            if control is not None and control.is_switch
            else (-100, 0, 37, 100)
        )
        self.bench.simulation.set_control(name, float(self.dice.choice(places)))

    def wait(self) -> None:
        self.bench.simulation.advance(self.dice.choice((0.02, 0.3, 1.0)))

    def undo(self) -> None:
        self.bench.notices.attempt(self.bench.document.undo)

    def redo(self) -> None:
        self.bench.notices.attempt(self.bench.document.redo)

    def cut_link(self) -> None:
        self.bench.simulation.set_link(self.dice.random() < 0.7)

    def back(self) -> None:
        """The timeline: to a moment, on from it, back to now, a stretch kept."""
        panel, recorder = self.window.bench.timeline, self.bench.companions.recorder
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

    def radio(self) -> None:
        moving = self.bench.simulation
        self.dice.choice(
            (
                lambda: moving.set_power(self.dice.random() < 0.6),
                moving.switch_off_and_on,
                lambda: moving.drop_out(0.3),
                lambda: moving.set_flight_battery(self.dice.random() < 0.6),
            )
        )()

    def open(self) -> None:
        choose(
            self.window,
            self.window.models.itemText(self.dice.randrange(self.window.models.count())),
        )

    def trim(self) -> None:
        self.bench.document.trim(
            self.dice.choice(("roll", "pitch", "yaw", "thrust")), self.dice.choice((-1, 1, 3))
        )

    def said(self) -> None:
        """What is said of the motors is what their leads send."""
        bench = self.bench
        if (
            bench.model is None
            or not bench.model.airframe.motors
            or bench.state.live.result is None
        ):
            return
        lamp, turning = self.window.bench.lamp, bench.state.turning
        reached = bench.state.guard == GuardState.ARMED and bench.state.connected
        told = any(p > 0.05 for p in motor_powers(bench.model, bench.state.shown).values())
        wired = bench.state.practice is None
        if turning and wired:
            assert (lamp.words == "Motor RUNS") == (not reached), (lamp.words, bench.state.guard)
        assert turning <= (told and bench.state.flight_battery)
        assert ("stands still, commanded to run" in bench.state.guard_words) == (
            told and not turning
        ), bench.state.guard_words
        if not turning:
            assert "RUNS" not in bench.state.guard_words
        if bench.state.guard_words.startswith(("Motor cut", "Motor locked", "Motor held")):
            assert not told, bench.state.guard_words
        assert lamp.text() == lamp.words and (
            not lamp.isVisible() or lamp.accessibleName() == bench.state.guard_words
        )

    def look(self) -> None:
        """What must hold whatever was done."""
        bench, result = self.bench, self.bench.state.live.result
        assert bench.document.hangar.load(bench.model.name) == bench.model
        motors = {m.name for m in bench.model.airframe.motors}
        if (
            bench.state.live.link > 0.5
            and bench.state.live.power > 0.5
            and bench.state.guard != GuardState.ARMED
        ):
            for lead in bench.model.leads:
                if lead.target in motors:
                    assert float(np.ravel(result.outputs[lead.name].us)[-1]) in (0.0, lead.idle_us)


SEEDS = [int(x) for x in os.environ.get("HYPSOS_WILD_SEEDS", "3 8").split()]
ACTS = int(os.environ.get("HYPSOS_WILD_ACTS", "180"))


@pytest.mark.parametrize("seed", SEEDS)
def test_wild_orders_of_acts(
    qtbot: QtBot, window: Any, monkeypatch: pytest.MonkeyPatch, seed: int, samphire: Model
) -> None:
    errors: list[str] = []
    monkeypatch.setattr(
        sys, "excepthook", lambda *e: errors.append("".join(traceback.format_exception(*e)))
    )
    monkeypatch.setattr(QPrintDialog, "exec", lambda self: QPrintDialog.DialogCode.Rejected)
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *a, **k: ("", "")))
    window.finish()
    window.workbench.companions.voice.muted = True
    window.go("model")
    monkey, done = Monkey(window, seed), []
    for i in range(ACTS):
        act = monkey.dice.choice(monkey.acts)
        done.append(act.__name__)
        act()
        QApplication.processEvents()
        assert not errors, (done[-8:], errors[0])
        monkey.said()
        if window.workbench.model is None:  # the last one was taken out of the hangar
            window.workbench.document.add(samphire)
        if i % 10 == 0:
            monkey.look()
