# SPDX-License-Identifier: GPL-3.0-or-later
"""A finger does not hover over a thing: what its tip says is reached by a long press."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPoint, QTimer
from PyQt6.QtGui import QHelpEvent, QTouchEvent, QWindow
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

LONG_MS = 600
STILL = 12
"""Pixels that a finger may wander and is still taken to rest."""


class LongPress(QObject):
    """Watches the fingers on a window. One that rests in a place asks for the tip of what lies
    there; a button on which it rested is not pressed when it is lifted.

    What is held, moved and let go, such as a stick, a slider or a button of the transmitter, is so
    as without it: nothing of that is kept back. A motor's slider under a finger that has rested
    must still go back."""

    def __init__(self, window: QWindow) -> None:
        super().__init__(window)
        self._window = window
        self._at = QPoint()
        self._asked = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(LONG_MS)
        self._timer.timeout.connect(self.ask)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None:
            return False
        if isinstance(event, QTouchEvent):
            self._follow(event)
        # a move within a button that only asked would take it to be pressed again
        return self._asked and event.type() == QEvent.Type.MouseMove

    def _follow(self, event: QTouchEvent) -> None:
        """Begin to wait with one finger; wait no longer with a second one, or once it moves or
        goes."""
        fingers, kind = event.points(), event.type()
        if kind == QEvent.Type.TouchBegin and len(fingers) == 1:
            self._at = fingers[0].globalPosition().toPoint()
            self._asked = False
            self._timer.start()
            return
        wandered = any(
            (finger.globalPosition().toPoint() - self._at).manhattanLength() > STILL
            for finger in fingers
        )
        if kind != QEvent.Type.TouchUpdate or len(fingers) > 1 or wandered:
            self._timer.stop()
        if kind != QEvent.Type.TouchUpdate:
            self._asked = False

    def ask(self) -> None:
        """Ask what lies there for its tip, as a pointer that hovers does."""
        whole = QWidget.find(self._window.winId())
        there = whole.childAt(whole.mapFromGlobal(self._at)) if whole is not None else None
        if there is None:
            return
        if isinstance(there, QAbstractButton):
            self._asked = True
            there.setDown(False)
        place = there.mapFromGlobal(self._at)
        QApplication.sendEvent(there, QHelpEvent(QEvent.Type.ToolTip, place, self._at))
