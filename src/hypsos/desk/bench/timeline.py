"""The last two minutes as lanes: hands, mode, guard, conditions, motors, surfaces, with a cursor that puts the bench back."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from hypsos.desk.bench.handle import Spoken
from hypsos.desk.bench.timeraster import lanes_image
from hypsos.desk.recorder import KEPT_S, Recorder
from hypsos.desk.theme.look import look
from hypsos.desk.workbench import Workbench

ORDER = ("guard", "mode", "hands", "motors", "conditions", "timers", "surfaces")
"""From the top: what decides, what the hands do, what comes of it."""
SPANS = (5.0, 10.0, 20.0, 30.0, 60.0, 120.0)
"""Seconds seen at once."""
TICKS = {5.0: 1, 10.0: 2, 20.0: 5, 30.0: 5, 60.0: 10, 120.0: 20}
FRAMES_MS = 40
LANE, AXIS = 19, 20


class Timeline(Spoken):
    """Lanes over time; the cursor by mouse or arrow keys. ``moving_only`` leaves out what did not change."""

    moved = pyqtSignal()
    """The cursor, the stretch, the zoom or the pause is another one."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__("Timeline", 0, 0, parent)
        self.workbench = workbench
        self.span = 30.0
        self.end_s: float | None = None
        """The right edge while it is paused; it follows the bench where this is None."""
        self.cursor_s: float | None = None
        self.stretch: tuple[float, float] | None = None
        self.moving_only = True
        self._lanes: list[int] = []
        self._drag = ""
        self._away = False
        """Whether the cursor has put the bench back; else it only shows what was."""
        self._clock = QTimer(self)
        self._clock.setInterval(FRAMES_MS)
        self._clock.timeout.connect(self._tick)
        self._drawn: tuple[object, ...] = ()
        workbench.model_changed.connect(self._again)
        look.follow(self, self._again)

    # -- room ---------------------------------------------------------------------------------------------------------------

    @property
    def recorder(self) -> Recorder | None:
        """What was recorded."""
        return self.workbench.recorder

    def sizeHint(self) -> QSize:
        return QSize(look.px(560), look.px(AXIS) + look.px(LANE) * max(4, len(self._lanes)) + 4)

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(236), look.px(AXIS) + look.px(LANE) * max(4, len(self._lanes)) + 4)

    def plot(self) -> QRect:
        """Where the lanes are, between their names and their values."""
        names, values = (look.px(138), look.px(104)) if self.width() > look.px(430) else (look.px(92), look.px(70))
        return QRect(names, look.px(AXIS), max(20, self.width() - names - values), look.px(LANE) * len(self._lanes))

    def times(self) -> tuple[float, float]:
        """The seconds at the left and the right edge."""
        end = self.end_s
        if end is None:
            end = self.recorder.now_s() if self.recorder is not None else 0.0
        return end - self.span, end

    def at(self, x: float) -> float:
        """The time at a place."""
        start, end = self.times()
        plot = self.plot()
        return start + (end - start) * (x - plot.left()) / plot.width()

    def place(self, t_s: float) -> float:
        """The place of a time."""
        start, end = self.times()
        plot = self.plot()
        return plot.left() + plot.width() * (t_s - start) / (end - start)

    # -- following ------------------------------------------------------------------------------------------------------------

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

    def _tick(self) -> None:
        """Paint what is new; nothing where nothing is."""
        recorder = self.recorder
        if recorder is None or not self.isVisible():
            return
        if self._away and not recorder.away and self._drag == "":
            self._away = False
            self.cursor_s = self.end_s = None  # a hand has moved, and time goes on from there
            self.moved.emit()
        start, end = self.times()
        state = (recorder.end, recorder.first, start, end, self.cursor_s, self.stretch, self.moving_only, self.size())
        if state == self._drawn:
            return
        self._drawn = state
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
        if recorder is None or place < 0:
            self.speak(0, "Nothing has moved yet.")
            return
        start, end = self.times()
        at = end if self.cursor_s is None else self.cursor_s
        self.setRange(0, max(1, round(self.span * 10)))
        rows = recorder.rows[place]
        told = ", ".join(
            f"{x.label} {x.words(float(rows[k]))}" for k in self._lanes[:12] for x in (recorder.tracks[k],)
        )
        self.speak(round((at - start) * 10), f"{recorder.now_s() - at:.1f} s ago: {told}")

    def _row(self) -> int:
        recorder = self.recorder
        if recorder is None or not len(recorder.t_s):
            return -1
        at = self.times()[1] if self.cursor_s is None else self.cursor_s
        return max(0, recorder.index_at(at))

    # -- painting -------------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        recorder = self.recorder
        painter.fillRect(self.rect(), look.colour("paper"))
        if recorder is None or not len(recorder.t_s):
            painter.setPen(look.colour("faint"))
            painter.setFont(look.font(1.0))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "Move a stick or a switch: it is recorded here."
            )
            return
        plot = self.plot()
        seen = event.rect() if event is not None else self.rect()
        lane = look.px(LANE)
        first = max(0, (seen.top() - plot.top()) // lane)
        lanes = list(enumerate(self._lanes))[first : max(first, (seen.bottom() - plot.top()) // lane + 1)]
        if lanes:
            image = lanes_image(recorder, [k for _, k in lanes], self.times(), plot.width(), lane)
            painter.drawImage(plot.left(), plot.top() + first * lane, image)
        self._paint_dimmed(painter, recorder, plot)
        self._paint_places(painter, recorder, plot, lanes)
        self._paint_names(painter, recorder, plot, lanes)
        self._paint_time(painter, recorder, plot)

    def _paint_dimmed(self, painter: QPainter, recorder: Recorder, plot: QRect) -> None:
        """What was before the last edit can be seen, and not gone back to."""
        place = recorder.edited - recorder.first
        if 0 < place <= len(recorder.t_s) and recorder.edited:
            t = recorder.t_s[min(place, len(recorder.t_s) - 1)]
            x = min(self.place(float(t)), plot.right() + 1.0)
            if x > plot.left():
                veil = QColor(look.colour("paper"))
                veil.setAlpha(150)
                painter.fillRect(QRectF(plot.left(), plot.top(), x - plot.left(), plot.height()), veil)
        if self.stretch is not None:
            a, b = (min(max(self.place(x), plot.left()), plot.right() + 1.0) for x in self.stretch)
            tint = QColor(look.colour("ochre"))
            tint.setAlpha(50)
            painter.fillRect(QRectF(a, plot.top() - look.px(5), b - a, plot.height() + look.px(5)), tint)

    def _paint_places(self, painter: QPainter, recorder: Recorder, plot: QRect, lanes: list[tuple[int, int]]) -> None:
        """The names of modes, states and positions, where there is room for them."""
        painter.setFont(look.font(0.78))
        start, end = self.times()
        a, b = max(0, recorder.index_at(start)), recorder.index_at(end) + 1
        lane = look.px(LANE)
        for row, k in lanes:
            track = recorder.tracks[k]
            if track.kind != "place":
                continue
            held = recorder.rows[a:b, k]
            changes = [0, *(np.flatnonzero(np.diff(held)) + 1).tolist(), len(held)]
            if len(changes) > 40:
                continue
            for i, j in pairwise(changes):
                if i >= len(held):
                    continue
                left = max(self.place(float(recorder.t_s[a + i])), float(plot.left()))
                right = self.place(float(recorder.t_s[a + j])) if a + j < len(recorder.t_s) else plot.right() + 1.0
                right = min(right, plot.right() + 1.0)
                words = track.words(float(held[i]))
                box = QRectF(left + 4, plot.top() + row * lane, right - left - 6, lane - 1)
                if painter.fontMetrics().horizontalAdvance(words) < box.width():
                    painter.setPen(look.colour("ink"))
                    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_names(self, painter: QPainter, recorder: Recorder, plot: QRect, lanes: list[tuple[int, int]]) -> None:
        painter.setFont(look.font(0.86))
        metrics = painter.fontMetrics()
        lane, place = look.px(LANE), self._row()
        for row, k in lanes:
            top = plot.top() + row * lane
            track = recorder.tracks[k]
            painter.setPen(look.colour("ink"))
            room = plot.left() - 10
            name = metrics.elidedText(track.label, Qt.TextElideMode.ElideRight, room)
            painter.drawText(QRectF(6, top, room, lane), Qt.AlignmentFlag.AlignVCenter, name)
            room = self.width() - plot.right() - 10
            said = metrics.elidedText(track.words(float(recorder.rows[place, k])), Qt.TextElideMode.ElideRight, room)
            painter.drawText(QRectF(plot.right() + 6, top, room, lane), Qt.AlignmentFlag.AlignVCenter, said)

    def _paint_time(self, painter: QPainter, recorder: Recorder, plot: QRect) -> None:
        """The seconds along the top, what was said, the cursor."""
        painter.setFont(look.font(0.78))
        start, end = self.times()
        now, step = recorder.now_s(), TICKS[self.span]
        while step * plot.width() / self.span < look.px(44):
            step *= 2
        painter.setPen(look.colour("faint"))
        first = int(np.ceil((now - end) / step))
        for k in range(first, int((now - start) / step) + 1):
            x = self.place(now - k * step)
            painter.drawLine(QPointF(x, plot.top() - 3), QPointF(x, plot.top()))
            words = "now" if k == 0 else f"−{k * step} s"
            painter.drawText(QRectF(x - 30, 0, 60, plot.top() - 4), Qt.AlignmentFlag.AlignCenter, words)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for frame, _, rank in recorder.captions:
            place = frame - recorder.first
            if not 0 <= place < len(recorder.t_s) or not start <= recorder.t_s[place] <= end:
                continue
            x, r = self.place(float(recorder.t_s[place])), look.px(4)
            painter.setBrush(look.colour({"danger": "rust", "state": "sea", "remark": "edge"}[rank]))
            top = plot.top() - 1.0
            painter.drawPolygon(QPolygonF([QPointF(x - r, top - 2 * r), QPointF(x + r, top - 2 * r), QPointF(x, top)]))
        if self.cursor_s is not None and start <= self.cursor_s <= end:
            x = self.place(self.cursor_s)
            painter.setPen(QPen(look.colour("ink"), 1.6))
            painter.drawLine(QPointF(x, plot.top() - 4), QPointF(x, plot.bottom()))
        if self.hasFocus():
            painter.setPen(QPen(look.colour("sea"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    # -- hands on it ------------------------------------------------------------------------------------------------------------

    def look_at(self, t_s: float) -> bool:
        """Put the cursor, and the bench, to a moment. False where the bench cannot go back there."""
        recorder = self.recorder
        if recorder is None or not len(recorder.t_s):
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
            self.end_s = min(max(float(recorder.now_s()), t_s), t_s + self.span * (0.9 if t_s < start else 0.1))
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
            if recorder is not None and recorder.away:
                recorder.back_to_now()
        self.moved.emit()
        self._again()

    def go_on(self) -> None:
        """Time goes on from the moment at the cursor; what came after it then is gone."""
        self.cursor_s = self.end_s = None
        self._away = False
        self.workbench.let_go()
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
        if recorder is None:
            return
        now = recorder.now_s()
        end = (self.times()[1] if self.end_s is None else self.end_s) + seconds
        self.end_s = None if end >= now and self.cursor_s is None else min(max(end, now - KEPT_S + self.span), now)
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
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.position().y() < self.plot().top():
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
            Qt.Key.Key_Left: lambda: self.look_at(here - step), Qt.Key.Key_Right: lambda: self.look_at(here + step),
            Qt.Key.Key_Home: lambda: self.look_at(here - KEPT_S), Qt.Key.Key_End: lambda: self.pause(False),
            Qt.Key.Key_PageUp: lambda: self.go_by(-self.span / 2), Qt.Key.Key_PageDown: lambda: self.go_by(self.span / 2),
            Qt.Key.Key_Plus: lambda: self.zoom(-1, here), Qt.Key.Key_Equal: lambda: self.zoom(-1, here),
            Qt.Key.Key_Minus: lambda: self.zoom(1, here), Qt.Key.Key_Space: lambda: self.pause(self.end_s is None),
            Qt.Key.Key_BracketLeft: lambda: self.mark(0), Qt.Key.Key_BracketRight: lambda: self.mark(1),
        }  # fmt: skip
        if key == Qt.Key.Key_Escape and self.end_s is not None:
            self.pause(False)
        elif (act := acts.get(Qt.Key(key))) is not None:
            act()
        else:
            super().keyPressEvent(event)
