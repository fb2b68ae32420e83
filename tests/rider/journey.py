# SPDX-License-Identifier: GPL-3.0-or-later
"""Every model of the hangar, every step, both sticks; then the window is closed."""

import os
import traceback

from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from hypsos.core.rundown import STEPS
from hypsos.desk.window import Window


def begin() -> None:
    """Once the window is there and painted."""
    window = next((w for w in QApplication.allWidgets() if isinstance(w, Window)), None)
    model = window.workbench.model if window is not None else None
    if (
        window is None
        or not window.isVisible()
        or (model is not None and not window.bench.aeroplane.painted)
    ):
        QTimer.singleShot(20, begin)
        return
    try:
        ride(window)
    except Exception:  # noqa: BLE001 - it goes to stderr, where the test looks
        traceback.print_exc()
    window.window().close()


def ride(window: Window) -> None:
    """Through all models and steps."""
    QTest.qWait(30)  # what the first picture set going
    seen = []
    for i in range(window.models.count()):
        window.models.setFocus()
        window.models.setCurrentIndex(i)
        window.models.activated.emit(i)
        assert window.workbench.model.name == window.models.itemText(i)
        for step in STEPS:
            QTest.mouseClick(
                window.rundown, Qt.MouseButton.LeftButton, pos=place_of(window, step.key)
            )
            QCoreApplication.processEvents()
            assert window.pages.currentWidget().key == step.key, (
                step.key,
                window.pages.currentWidget().key,
            )
        moved = set()
        for stick in window.bench.hands.sticks.values():
            moved |= drag(stick, window.workbench)
        assert moved == {"aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick"}, moved
        seen.append(window.workbench.model.name)
    with open(os.environ["HYPSOS_JOURNEY"], "w") as out:
        out.write("\n".join(seen))


def place_of(window: Window, key: str) -> QPoint:
    """The middle of a step's row in the run-down."""
    row = window.rundown.sizeHint().height() / len(STEPS)
    return QPoint(20, round(8 + ([s.key for s in STEPS].index(key) + 0.4) * row))


def drag(stick, workbench) -> set[str]:
    """From the middle to a corner with the button held, and let go; the controls that moved."""
    middle = QPointF(stick.width() / 2, stick.height() / 2)
    corner = QPointF(stick.width() * 0.7, stick.height() * 0.3)
    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    before, moved = dict(workbench.state.live.controls), set()
    for kind, at, button, held in (
        (QEvent.Type.MouseButtonPress, middle, left, left), (QEvent.Type.MouseMove, corner, none, left),
        (QEvent.Type.MouseButtonRelease, corner, left, none),
    ):  # fmt: skip
        event = QMouseEvent(
            kind, at, stick.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier
        )
        QCoreApplication.sendEvent(stick, event)
        QTest.qWait(30)
        moved |= {n for n, v in workbench.state.live.controls.items() if v != before[n]}
    return moved
