# SPDX-License-Identifier: GPL-3.0-or-later
"""The last two minutes as lanes: hands, mode, guard, conditions, motors, surfaces, with a cursor
that puts the bench back."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent, QMouseEvent, QShowEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.backends import Array
from hypsos.desk.bench.timeline_lanes import Lanes
from hypsos.desk.services.recorder import KEPT_S, Recorder
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look

ORDER = ("guard", "mode", "hands", "motors", "conditions", "timers", "surfaces")
"""From the top: what decides, what the hands do, what comes of it."""
SPANS = (5.0, 10.0, 20.0, 30.0, 60.0, 120.0)
"""Seconds seen at once."""
FRAMES_MS = 40
PATIENT = 5
REST_MS = 500
"""While nothing but the time moves it goes on in such steps."""


class Timeline(Lanes):
    """Lanes over time; the cursor by mouse or arrow keys. ``moving_only`` leaves out what did not
    change."""

    moved = pyqtSignal()
    """The cursor, the stretch, the zoom or the pause is another one."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(workbench, parent)
        self.moving_only = True
        self._drag = ""
        self._away = False
        """Whether the cursor has put the bench back; else it only shows what was."""
        self._clock = QTimer(self)
        self._clock.setInterval(FRAMES_MS)
        self._clock.timeout.connect(self._tick)
        self._drawn: tuple[object, ...] = ()
        self._row_drawn: Array | None = None
        self._still = 0
        """How many looks there was nothing new."""
        workbench.simulation.live_changed.connect(self._wake)
        workbench.simulation.model_changed.connect(self._again)
        look.follow(self, self._again)

    # -- following -------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._clock.start()
        self._again()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self._clock.stop()

    def _again(self) -> None:
        self._drawn = ()
        self._tick()

    def _wake(self) -> None:
        """Something moves: it is followed frame by frame."""
        if self._clock.isActive() and self._clock.interval() != FRAMES_MS:
            self._clock.setInterval(FRAMES_MS)
            self._still = 0
            self._tick()

    def _rests(self, recorder: Recorder) -> bool:
        """Whether nothing but the time itself has moved since it was painted last."""
        # those only count
        moving = [k for k, x in enumerate(recorder.tracks) if x.group != "timers"]
        row = recorder.rows[-1][moving] if len(recorder.rows) else None
        before, self._row_drawn = self._row_drawn, row
        if row is None or before is None:
            return row is None and before is None
        return before.shape == row.shape and not bool(np.any(np.abs(row - before) > 0.05))

    def _tick(self) -> None:
        """Paint what is new; nothing where nothing is."""
        recorder = self.recorder
        if not self.isVisible():
            return
        if self._away and not recorder.away and self._drag == "":
            self._away = False
            self.cursor_s = self.end_s = None  # a hand has moved, and time goes on from there
            self.moved.emit()
        start, end = self.times()
        state = (
            recorder.end,
            recorder.first,
            start,
            end,
            self.cursor_s,
            self.stretch,
            self.moving_only,
            self.size(),
        )
        if state == self._drawn:
            return
        self._drawn = state
        self._still = self._still + 1 if self._rests(recorder) else 0
        self._clock.setInterval(REST_MS if self._still > PATIENT else FRAMES_MS)
        lanes = self._wanted(recorder, start, end)
        if lanes != self._lanes:
            self._lanes = lanes
            self.updateGeometry()
            self.setMinimumHeight(self.minimumSizeHint().height())
        self.update()
        self._tell()

    def _wanted(self, recorder: Recorder, start: float, end: float) -> list[int]:
        shown = [k for k, x in enumerate(recorder.tracks) if x.shown]
        shown.sort(key=lambda k: ORDER.index(recorder.tracks[k].group))
        if not self.moving_only or not len(recorder.t_s):
            return shown
        a, b = max(0, recorder.index_at(start)), recorder.index_at(end) + 1
        rows = recorder.rows[a:b]
        if not len(rows):
            return [k for k in shown if recorder.tracks[k].group in ("guard", "mode")]
        moves = np.ptp(rows, axis=0) > 0.05
        return [k for k in shown if moves[k] or recorder.tracks[k].group in ("guard", "mode")]

    def _tell(self) -> None:
        """The same in words: the time of the cursor and what stands there."""
        recorder = self.recorder
        place = self._row()
        if place < 0:
            self.speak(0, "Nothing has moved yet.")
            return
        start, end = self.times()
        at = end if self.cursor_s is None else self.cursor_s
        self.reach(0, max(1, round(self.span * 10)))
        rows = recorder.rows[place]
        told = ", ".join(
            f"{x.label} {x.words(float(rows[k]))}"
            for k in self._lanes[:12]
            for x in (recorder.tracks[k],)
        )
        self.speak(round((at - start) * 10), f"{max(0.0, recorder.now_s() - at):.1f} s ago: {told}")

    # -- hands on it -----------------------------------------------------------------------------

    def look_at(self, t_s: float) -> bool:
        """Put the cursor, and the bench, to a moment. False where the bench cannot go back
        there."""
        recorder = self.recorder
        if not len(recorder.t_s):
            return False
        if self.end_s is None:
            self.end_s = self.times()[1]
        kept = recorder.t_s
        t_s = min(max(t_s, float(kept[0])), self.end_s)
        at = recorder.index_at(t_s)
        self.cursor_s = t_s
        done = self._away = recorder.go_back(at)
        start, end = self.times()
        if not start <= t_s <= end:
            self.end_s = min(
                max(float(recorder.now_s()), t_s), t_s + self.span * (0.9 if t_s < start else 0.1)
            )
        self.moved.emit()
        self._again()
        return done

    def pause(self, paused: bool) -> None:
        """Let the picture stand, or follow the bench again: back where it was."""
        recorder = self.recorder
        if paused and self.end_s is None:
            self.end_s = self.times()[1]
        elif not paused:
            self.end_s = self.cursor_s = None
            self._away = False
            if recorder.away:
                recorder.back_to_now()
        self.moved.emit()
        self._again()

    def go_on(self) -> None:
        """Time goes on from the moment at the cursor; what came after it then is gone."""
        self.cursor_s = self.end_s = None
        self._away = False
        self.workbench.simulation.let_go()
        self.moved.emit()
        self._again()

    def zoom(self, by: int, about: float | None = None) -> None:
        """See more seconds at once, or fewer."""
        at = min(max(SPANS.index(self.span) + by, 0), len(SPANS) - 1)
        if self.end_s is not None and about is not None:
            start, _ = self.times()
            share = (about - start) / self.span
            self.end_s = about + (1 - share) * SPANS[at]
        self.span = SPANS[at]
        self.moved.emit()
        self._again()

    def go_by(self, seconds: float) -> None:
        """Look further back, or forward; at the end it follows the bench again."""
        recorder = self.recorder
        now = recorder.now_s()
        end = (self.times()[1] if self.end_s is None else self.end_s) + seconds
        self.end_s = (
            None
            if end >= now and self.cursor_s is None
            else min(max(end, now - KEPT_S + self.span), now)
        )
        self.moved.emit()
        self._again()

    def set_moving_only(self, moving: bool) -> None:
        """Show what moved in the time seen, or everything."""
        self.moving_only = moving
        self._again()

    def mark(self, end: int) -> None:
        """Let a stretch begin (0) or end (1) at the cursor."""
        at = self.cursor_s if self.cursor_s is not None else self.times()[1]
        old = self.stretch or self.times()
        pair = (at, max(at, old[1])) if end == 0 else (min(at, old[0]), at)
        self.stretch = pair if pair[1] - pair[0] > 0.05 else None
        self.moved.emit()
        self._again()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        t = self.at(event.position().x())
        if (
            event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            or event.position().y() < self.plot().top()
        ):
            self._drag, self._from = "stretch", t
            self.stretch = None
        else:
            self._drag = "cursor"
            self.look_at(t)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        t = self.at(event.position().x())
        if self._drag == "cursor":
            self.look_at(t)
        elif self._drag == "stretch":
            if self.end_s is None:
                self.end_s = self.times()[1]
            a, b = sorted((self._from, t))
            self.stretch = (a, b) if b - a > 0.05 else None
            self.moved.emit()
            self._again()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = ""

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """With Ctrl it zooms; alone it scrolls the lanes, to the side it scrolls through time."""
        assert event is not None
        delta = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and delta.y():
            self.zoom(-1 if delta.y() > 0 else 1, self.at(event.position().x()))
        elif abs(delta.x()) > abs(delta.y()):
            self.go_by(-self.span / 10 * (1 if delta.x() > 0 else -1))
        else:
            event.ignore()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        here = self.cursor_s if self.cursor_s is not None else self.times()[1]
        step = 1.0 if shift else 0.1
        acts: dict[Qt.Key, Callable[[], object]] = {
            Qt.Key.Key_Left: lambda: self.look_at(here - step),
            Qt.Key.Key_Right: lambda: self.look_at(here + step),
            Qt.Key.Key_Home: lambda: self.look_at(here - KEPT_S),
            Qt.Key.Key_End: lambda: self.pause(False),
            Qt.Key.Key_PageUp: lambda: self.go_by(-self.span / 2),
            Qt.Key.Key_PageDown: lambda: self.go_by(self.span / 2),
            Qt.Key.Key_Plus: lambda: self.zoom(-1, here),
            Qt.Key.Key_Equal: lambda: self.zoom(-1, here),
            Qt.Key.Key_Minus: lambda: self.zoom(1, here),
            Qt.Key.Key_Space: lambda: self.pause(self.end_s is None),
            Qt.Key.Key_I: lambda: self.mark(0),
            Qt.Key.Key_O: lambda: self.mark(1),
            Qt.Key.Key_BracketLeft: lambda: self.mark(0),
            Qt.Key.Key_BracketRight: lambda: self.mark(1),
        }
        if key == Qt.Key.Key_Escape and self.end_s is not None:
            self.pause(False)
        elif (act := acts.get(Qt.Key(key))) is not None:
            act()
        else:
            super().keyPressEvent(event)
