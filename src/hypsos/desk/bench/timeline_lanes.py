# SPDX-License-Identifier: GPL-3.0-or-later
"""The lanes of the timeline as they are painted: places, states and figures over time, what was
said, the cursor."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hypsos.desk.bench.timeline_raster import lanes_image
from hypsos.desk.services.recorder import Recorder
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl

TICKS = {5.0: 1, 10.0: 2, 20.0: 5, 30.0: 5, 60.0: 10, 120.0: 20}
LANE, AXIS = 19, 20


class Lanes(SpokenControl):
    """What was recorded in the time that is seen, one lane below the other."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__("Timeline", 0, 0, parent)
        self.workbench = workbench
        self.span = 30.0
        """Seconds seen at once."""
        self.end_s: float | None = None
        """The right edge while it is paused; it follows the bench where this is None."""
        self.cursor_s: float | None = None
        self.stretch: tuple[float, float] | None = None
        self._lanes: list[int] = []

    # -- room ------------------------------------------------------------------------------------

    @property
    def recorder(self) -> Recorder:
        """What was recorded."""
        return self.workbench.companions.recorder

    def sizeHint(self) -> QSize:
        return QSize(look.px(560), look.px(AXIS) + look.px(LANE) * max(4, len(self._lanes)) + 4)

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(236), look.px(AXIS) + look.px(LANE) * max(4, len(self._lanes)) + 4)

    def plot(self) -> QRect:
        """Where the lanes are, between their names and their values."""
        names, values = (
            (look.px(138), look.px(104))
            if self.width() > look.px(430)
            else (look.px(92), look.px(70))
        )
        return QRect(
            names,
            look.px(AXIS),
            max(20, self.width() - names - values),
            look.px(LANE) * len(self._lanes),
        )

    def times(self) -> tuple[float, float]:
        """The seconds at the left and the right edge."""
        end = self.end_s
        if end is None:
            end = self.recorder.now_s()
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

    def _row(self) -> int:
        recorder = self.recorder
        if not len(recorder.t_s):
            return -1
        at = self.times()[1] if self.cursor_s is None else self.cursor_s
        return max(0, recorder.index_at(at))

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        recorder = self.recorder
        painter.fillRect(self.rect(), look.colour("paper"))
        if not len(recorder.t_s):
            painter.setPen(look.colour("faint"))
            painter.setFont(look.font(1.0))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Move a stick or a switch: it is recorded here.",
            )
            return
        plot = self.plot()
        seen = event.rect() if event is not None else self.rect()
        lane = look.px(LANE)
        first = max(0, (seen.top() - plot.top()) // lane)
        lanes = list(enumerate(self._lanes))[
            first : max(first, (seen.bottom() - plot.top()) // lane + 1)
        ]
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
                painter.fillRect(
                    QRectF(plot.left(), plot.top(), x - plot.left(), plot.height()), veil
                )
        if self.stretch is not None:
            a, b = (min(max(self.place(x), plot.left()), plot.right() + 1.0) for x in self.stretch)
            tint = QColor(look.colour("ochre"))
            tint.setAlpha(50)
            painter.fillRect(
                QRectF(a, plot.top() - look.px(5), b - a, plot.height() + look.px(5)), tint
            )

    def _paint_places(
        self, painter: QPainter, recorder: Recorder, plot: QRect, lanes: list[tuple[int, int]]
    ) -> None:
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
                right = (
                    self.place(float(recorder.t_s[a + j]))
                    if a + j < len(recorder.t_s)
                    else plot.right() + 1.0
                )
                right = min(right, plot.right() + 1.0)
                words = track.words(float(held[i]))
                box = QRectF(left + 4, plot.top() + row * lane, right - left - 6, lane - 1)
                if painter.fontMetrics().horizontalAdvance(words) < box.width():
                    painter.setPen(look.colour("ink"))
                    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_names(
        self, painter: QPainter, recorder: Recorder, plot: QRect, lanes: list[tuple[int, int]]
    ) -> None:
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
            said = metrics.elidedText(
                track.words(float(recorder.rows[place, k])), Qt.TextElideMode.ElideRight, room
            )
            painter.drawText(
                QRectF(plot.right() + 6, top, room, lane), Qt.AlignmentFlag.AlignVCenter, said
            )

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
            painter.drawText(
                QRectF(x - 30, 0, 60, plot.top() - 4), Qt.AlignmentFlag.AlignCenter, words
            )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for frame, _, rank in recorder.captions:
            place = frame - recorder.first
            if not 0 <= place < len(recorder.t_s) or not start <= recorder.t_s[place] <= end:
                continue
            x, r = self.place(float(recorder.t_s[place])), look.px(4)
            painter.setBrush(
                look.colour({"danger": "rust", "state": "sea", "remark": "edge"}[rank])
            )
            top = plot.top() - 1.0
            painter.drawPolygon(
                QPolygonF(
                    [QPointF(x - r, top - 2 * r), QPointF(x + r, top - 2 * r), QPointF(x, top)]
                )
            )
        if self.cursor_s is not None and start <= self.cursor_s <= end:
            x = self.place(self.cursor_s)
            painter.setPen(QPen(look.colour("ink"), 1.6))
            painter.drawLine(QPointF(x, plot.top() - 4), QPointF(x, plot.bottom()))
        if self.hasFocus():
            painter.setPen(QPen(look.colour("sea"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
