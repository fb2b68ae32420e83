# SPDX-License-Identifier: GPL-3.0-or-later
"""Every key and every part of the bench tried once by hand: what moved, and what was shown and
said. See recorded.py."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from hands import choose, stand_still
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget
from pytestqt.qtbot import QtBot
from recorded import as_it_is
from test_as_recorded import seen

KEY = Qt.Key
STICK_KEYS = {
    "A": KEY.Key_A, "D": KEY.Key_D, "W": KEY.Key_W, "S": KEY.Key_S,
    "left": KEY.Key_Left, "right": KEY.Key_Right, "up": KEY.Key_Up, "down": KEY.Key_Down,
}  # fmt: skip
SWITCH_KEYS = {
    "1": KEY.Key_1, "2": KEY.Key_2, "3": KEY.Key_3, "space": KEY.Key_Space,
    "up": KEY.Key_Up, "down": KEY.Key_Down, "page up": KEY.Key_PageUp, "page down": KEY.Key_PageDown,
}  # fmt: skip
TIME_KEYS = {
    "left": KEY.Key_Left, "right": KEY.Key_Right, "[": KEY.Key_BracketLeft, "home": KEY.Key_Home,
    "]": KEY.Key_BracketRight, "end": KEY.Key_End, "page up": KEY.Key_PageUp, "page down": KEY.Key_PageDown,
    "+": KEY.Key_Plus, "-": KEY.Key_Minus, "space": KEY.Key_Space, "escape": KEY.Key_Escape,
}  # fmt: skip
PICTURE_KEYS = {
    "1": KEY.Key_1, "2": KEY.Key_2, "3": KEY.Key_3, "E": KEY.Key_E,
    ".": KEY.Key_Period, ",": KEY.Key_Comma, "escape": KEY.Key_Escape,
}  # fmt: skip
LIST_KEYS = {
    "down": KEY.Key_Down,
    "up": KEY.Key_Up,
    "enter": KEY.Key_Return,
    "escape": KEY.Key_Escape,
}
NONE, SHIFT, CONTROL = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip
HELD_S, FRAME_S = 0.3, 0.1


class Told:
    """What comes of every act, line by line."""

    def __init__(self, window: Any) -> None:
        self.window, self.bench = window, window.workbench
        self.lines: list[str] = []
        self.shown = self._seen()
        self.stood = self._stands()
        self.bench.simulation.followers.append(self._hear)
        window.bench.place_wanted.connect(lambda path: self.lines.append(f"  leads to {path}"))
        window.bench.keep_wanted.connect(lambda a, b: self.lines.append(f"  keeps {b - a:.2f} s"))

    def _hear(self, result: Any, situation: Any) -> None:
        self.lines += [f"  says {x.caption}" for x in result.said]

    def _seen(self) -> list[str]:
        """What the bench shows once it is painted; captions go by themselves after a while, so they
        are heard instead."""
        self.window.bench.aeroplane.repaint()  # a window system may take its time
        timeline = self.window.bench._timeline
        if timeline is not None:
            timeline.lanes._tick()  # its own clock runs by the wall's
        return [x for x in seen(self.window.bench) if "Said:" not in x]

    def _stands(self) -> dict[str, str]:
        """Hands, trims and pulses, and what is chosen and played."""
        live, model = self.bench.state.live, self.bench.model
        stands = {n: f"{v:.4g}" for n, v in live.controls.items()}
        stands |= {
            f"{a.command} trim": f"{self.bench.state.trim_clicks(a.command)}"
            for a in model.program.axes
            if a.trim
        }
        stands |= {f"{n} pulse": f"{x.us[-1]:.0f}" for n, x in live.result.outputs.items()}
        camera = self.window.bench.aeroplane
        stands["chosen"] = str(self.bench.simulation.chosen)
        stands["seen from"] = f"{camera._turn:.0f}, {camera._rise:.0f}"
        stands["below"] = str(self.window.bench.below.currentIndex())
        return stands

    def after(self, act: str, passed: float = 0.1) -> None:
        """Let time pass as the bench's clock lets it, and note what is another now."""
        for _ in range(round(passed / FRAME_S)):
            self.bench.simulation.clock.t += FRAME_S
            self.bench.simulation.tick()
        stands, shown = self._stands(), self._seen()
        moved = ", ".join(f"{n} {v}" for n, v in stands.items() if self.stood.get(n) != v)
        fresh = [x for x in shown if x not in self.shown]
        self.lines.append(f"{act}: {moved or 'nothing moves'}")
        self.lines += [f"  + {x}" for x in fresh]
        self.stood, self.shown = stands, shown

    def keys(
        self, widget: QWidget, keys: dict[str, Qt.Key], modifier: Qt.KeyboardModifier, words: str
    ) -> None:
        """Each key held for a moment, then let go."""
        for name, key in keys.items():
            widget.setFocus()
            QTest.keyPress(widget, key, modifier)
            self.after(f"{words}{name}", HELD_S)
            QTest.keyRelease(widget, key, modifier)
            self.after("  let go")

    def drag(
        self, widget: QWidget, start: QPointF, end: QPointF, modifier: Qt.KeyboardModifier = NONE
    ) -> None:
        """The left button from one place of a widget to another."""
        mouse(widget, QEvent.Type.MouseButtonPress, start, modifier)
        self.after("  press")
        mouse(widget, QEvent.Type.MouseMove, end, modifier)
        self.after("  drag")
        mouse(widget, QEvent.Type.MouseButtonRelease, end, modifier)
        self.after("  let go")

    def wheel(self, widget: QWidget, turned: QPoint, modifier: Qt.KeyboardModifier) -> None:
        """The wheel over the middle of a widget."""
        middle = QPointF(widget.rect().center())
        QApplication.sendEvent(
            widget,
            QWheelEvent(
                middle,
                widget.mapToGlobal(middle),
                QPoint(),
                turned,
                Qt.MouseButton.NoButton,
                modifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
        self.after(f"  wheel {turned.x()} {turned.y()}")


def mouse(
    widget: QWidget, kind: QEvent.Type, place: QPointF, modifier: Qt.KeyboardModifier = NONE
) -> None:
    """One event of the left button."""
    left = Qt.MouseButton.LeftButton
    button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else left
    held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else left
    QApplication.sendEvent(
        widget, QMouseEvent(kind, place, widget.mapToGlobal(place), button, held, modifier)
    )


def part_of(widget: QWidget, x: float, y: float) -> QPointF:
    """A place by its share of the width and of the height."""
    return QPointF(round(widget.width() * x), round(widget.height() * y))


def hands_tried(told: Told) -> None:
    """Sticks, switches and sliders: keys, with and without Shift and Ctrl, and a drag."""
    hands = told.window.bench.hands
    for hand, stick in hands.sticks.items():
        stick._given_up.setInterval(1_000_000)  # it counts by the wall's clock, too
        told.lines.append(f"# {hand} stick")
        told.keys(stick, STICK_KEYS, NONE, "")
        told.keys(stick, STICK_KEYS, SHIFT, "shift ")
        told.keys(stick, {"W": KEY.Key_W, "up": KEY.Key_Up}, CONTROL, "ctrl ")
        told.drag(stick, part_of(stick, 0.5, 0.5), part_of(stick, 0.75, 0.3))
        for strip, _flat in stick._trim_places().values():
            told.drag(stick, strip.center() + QPointF(4, -4), strip.center())
    for name, handle in {**hands.toggles, **hands.faders}.items():
        told.lines.append(f"# {name}")
        told.keys(handle, SWITCH_KEYS, NONE, "")
        told.keys(handle, {"up": KEY.Key_Up, "down": KEY.Key_Down}, SHIFT, "shift ")
        told.keys(handle, {"1": KEY.Key_1}, CONTROL, "ctrl ")
        told.drag(handle, part_of(handle, 0.3, 0.5), part_of(handle, 0.7, 0.9))
        told.wheel(handle, QPoint(0, 120), NONE)


def picture_tried(told: Told) -> None:
    """The aeroplane: views, the next part, a drag, a click on each part and on nothing."""
    picture = told.window.bench.aeroplane
    told.lines.append("# aeroplane")
    told.keys(picture, PICTURE_KEYS, NONE, "")
    told.drag(picture, part_of(picture, 0.4, 0.4), part_of(picture, 0.6, 0.5))
    for name, box in tuple(picture._notes.boxes.items()):
        told.lines.append(f"the note of {name}")
        told.drag(picture, box.center(), box.center())
    told.drag(picture, QPointF(2, 2), QPointF(2, 2))


def lists_tried(told: Told) -> None:
    """Outputs and *why*: keys and clicks, with a stick held over so that there is something to
    explain."""
    bench, hands = told.window.bench, told.bench
    told.lines.append("# outputs")
    bench._show_lower(0)
    told.keys(bench.strips, LIST_KEYS, NONE, "")
    for y in (0.1, 0.3, 0.6):
        hands.simulation.set_control("aileron_stick", 40.0)
        bench._show_lower(0)
        told.after(f"a click on the outputs at {y}")
        told.drag(bench.strips, part_of(bench.strips, 0.3, y), part_of(bench.strips, 0.3, y))
        told.lines.append("# why")
        told.keys(bench.why, {n: k for n, k in LIST_KEYS.items() if n != "escape"}, NONE, "")
        told.drag(bench.why, part_of(bench.why, 0.2, 0.2), part_of(bench.why, 0.2, 0.2))
    told.keys(bench.why, {"escape": KEY.Key_Escape}, NONE, "")
    hands.simulation.set_control("aileron_stick", 0.0)
    told.after("the stick goes back")


def timeline_tried(told: Told) -> None:
    """The timeline: keys, buttons, a stretch, the wheel; then time goes on from a moment."""
    bench = told.window.bench
    bench.show_timeline()
    told.lines.append("# timeline")
    lanes = bench.timeline.lanes
    for stick in (60.0, -60.0, 0.0):
        told.bench.simulation.set_control("elevator_stick", stick)
        told.after("a second on", 1.0)
    told.keys(lanes, TIME_KEYS, NONE, "")
    told.keys(lanes, {"left": KEY.Key_Left, "right": KEY.Key_Right}, SHIFT, "shift ")
    told.drag(lanes, part_of(lanes, 0.7, 0.5), part_of(lanes, 0.9, 0.5), SHIFT)
    told.drag(lanes, part_of(lanes, 0.95, 0.5), part_of(lanes, 0.9, 0.5))
    for turned, modifier in (
        (QPoint(0, 120), CONTROL),
        (QPoint(0, -120), CONTROL),
        (QPoint(120, 0), NONE),
    ):
        told.wheel(lanes, turned, modifier)
    buttons_tried(told, bench.timeline)


def buttons_tried(told: Told, place: QWidget) -> None:
    """Every button in sight pressed, and pressed again."""
    for button in [
        b for b in place.findChildren(QAbstractButton) if b.isVisible() and "…" not in b.text()
    ]:
        for again in ("", "again "):
            if button.isVisible() and button.isEnabled():
                words = button.accessibleName() or button.text()
                button.click()
                told.after(f"press {again}{words}", HELD_S)


def band_tried(told: Told) -> None:
    """Lamp, link, battery, stick mode and what the menu offers."""
    bench = told.window.bench
    told.lines.append("# band")
    for button in (bench.link, bench.battery):
        for _ in range(2):
            button.click()
            told.after(f"press {button.text()}", 3.0)
    for k in range(bench.mode.count()):
        bench.mode.setCurrentIndex(k)
        bench.mode.activated.emit(k)
        told.after(f"choose {bench.mode.itemText(k)}")


TRIED: dict[str, Callable[[Told], None]] = {
    "hands": hands_tried, "picture": picture_tried, "lists": lists_tried, "timeline": timeline_tried, "band": band_tried,
}  # fmt: skip


def told_of(window: Any) -> Iterator[str]:
    """Everything tried once, one after the other."""
    told = Told(window)
    for tried in TRIED.values():
        tried(told)
        told.bench.simulation.choose(None)
    yield from told.lines


@pytest.mark.parametrize("name", ["Skerry"])
def test_the_bench_does_what_it_did_when_it_was_read(qtbot: QtBot, window: Any, name: Any) -> None:
    choose(window, name)
    bench = stand_still(window.workbench)
    qtbot.waitUntil(lambda: bench.companions.scenarios.outcomes is not None, timeout=60_000)
    window.bench.setFixedSize(620, 720)
    as_it_is(f"{name.lower()}-bench.txt", "\n".join(told_of(window)) + "\n")
