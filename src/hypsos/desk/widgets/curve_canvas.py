# SPDX-License-Identifier: GPL-3.0-or-later
"""A response to be seen and changed: drag its points, nudge them with the arrow keys; the present
input rides on it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF

from hypsos.core.base.figure_words import number
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.mix_lines import Response
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl

GRAB = 12.0


class CurveCanvas(SpokenControl):
    """Signals the point chosen, a point as it is moved (its number, x, y), a place where a new
    point is wanted, and a point to take away."""

    chosen_changed = pyqtSignal(int)
    moved = pyqtSignal(int, float, float)
    wanted = pyqtSignal(float, float)
    unwanted = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__(name, 1, 33)
        self.response: Response | None = None
        self.chosen = 0
        self.present: float | None = None
        self.lift = 0.0
        """What moves the live points now."""
        self._held = -1
        self._top = 100.0
        self.setMouseTracking(True)
        self.setToolTip(
            "Drag a point; double-click for a new one; Delete takes it away; arrow keys nudge, Tab goes on."
        )
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(330), look.px(190))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(180), look.px(150))

    def show_response(self, response: Response, present: float | None, lift: float = 0.0) -> None:
        """Show a response, with the input as it is now."""
        if (response, present, lift) == (self.response, self.present, self.lift):
            return
        self.response, self.present, self.lift = response, present, lift
        if self._held < 0:
            self._top = self._fitting()
        self.chosen = min(self.chosen, len(response.points) - 1)
        self._say()
        self.update()

    def choose(self, index: int) -> None:
        """Take a point at hand."""
        self.chosen = index
        self._say()
        self.update()
        self.chosen_changed.emit(index)

    def _say(self) -> None:
        if self.response is not None:
            x, y = self.response.points[self.chosen]
            count = len(self.response.points)
            self.reach(1, count)
            self.speak(
                self.chosen + 1,
                f"point {self.chosen + 1} of {count}, at {number(x)} it gives {number(y)} %",
            )

    # -- places ----------------------------------------------------------------------------------

    def _fitting(self) -> float:
        """How far the plot reaches up and down, in percent: as far as its points ask for, with some
        room."""
        ys = [abs(y) for _, y in self.response.points] if self.response is not None else []
        most = max(ys, default=0.0) + abs(self.lift)
        return next(
            (t for t in (10.0, 25.0, 50.0, 100.0) if most <= (t if t == 100 else 0.8 * t)), 150.0
        )

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(look.px(34), look.px(8), -look.px(10), -look.px(20))

    def point(self, x: float, y: float) -> QPointF:
        """Where a place of the response lies on the widget."""
        box, top = self._box(), self._top
        return QPointF(
            box.left() + (x + 100) / 200 * box.width(),
            box.center().y() - y / top * box.height() / 2,
        )

    def place(self, at: QPointF) -> tuple[float, float]:
        """The x and y under a point of the widget."""
        box, top = self._box(), self._top
        return (at.x() - box.left()) / box.width() * 200 - 100, (
            box.center().y() - at.y()
        ) / box.height() * 2 * top

    def _near(self, at: QPointF) -> int:
        if self.response is None:
            return -1
        found = [
            (QPointF(at - self.point(*p)).manhattanLength(), i)
            for i, p in enumerate(self.response.points)
        ]
        distance, index = min(found)
        return index if distance < 2 * GRAB else -1

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        response = self.response
        if response is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box, top = self._box(), self._top
        painter.fillRect(box, look.colour("field"))
        painter.setFont(look.font(0.76))
        step = top / 2 if top != 150 else 50.0
        for value in (-100, -50, 0, 50, 100):
            painter.setPen(QPen(look.colour("edge" if value == 0 else "line"), 1))
            a, b = self.point(value, -top), self.point(value, top)
            painter.drawLine(a, b)
            up = value / 50 * step
            painter.drawLine(self.point(-100, up), self.point(100, up))
            painter.setPen(look.colour("faint"))
            # the lowest stays clear of the figures below the plot
            beside = min(self.point(0, up).y() - 8, box.bottom() - 15)
            spot = QRectF(0, beside, box.left() - 8, 16)
            painter.drawText(
                spot,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                number(up, 0 if step >= 10 else 1),
            )
            painter.drawText(
                QRectF(a.x() - 24, box.bottom() + 2, 48, 16),
                Qt.AlignmentFlag.AlignHCenter,
                number(value),
            )
        if response.live:
            still = QPen(look.colour("faint"), 1.4, Qt.PenStyle.DotLine)
            self._line(painter, response.points, response.shape, still)
        moved = response.lifted(self.lift)
        self._line(painter, moved, response.shape, QPen(look.colour("sea"), 2.4))
        if self.present is not None:
            x = min(100.0, max(-100.0, self.present))
            at = self.point(x, float(Curve(moved, response.shape)(x)))
            painter.setPen(QPen(look.colour("edge"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()))
            painter.setPen(QPen(look.colour("ink"), 1.4))
            painter.setBrush(look.colour("surface"))
            painter.drawEllipse(at, 6, 6)
        for i, p in enumerate(moved):
            mine = i == self.chosen and self.hasFocus()
            painter.setPen(QPen(look.colour("ink" if mine else "sea"), 2.4 if mine else 1.6))
            painter.setBrush(look.colour("sea" if i == self.chosen else "field"))
            at = self.point(*p)
            if i in response.live:  # what moves in flight is a lozenge
                corners = (QPointF(0, -7), QPointF(7, 0), QPointF(0, 7), QPointF(-7, 0))
                painter.drawPolygon(QPolygonF([at + c for c in corners]))
            else:
                painter.drawEllipse(at, 5.5, 5.5)

    def _line(
        self, painter: QPainter, points: tuple[tuple[float, float], ...], shape: str, pen: QPen
    ) -> None:
        curve, path = Curve(points, shape), QPainterPath()
        steps = [float(x) for x in range(-100, 101, 2 if shape == "smooth" else 100)]
        for k, x in enumerate(sorted({*steps, *(p[0] for p in points)})):
            at = self.point(x, float(curve(x)))
            path.moveTo(at) if k == 0 else path.lineTo(at)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    # -- hands -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._held = self._near(event.position())
        if self._held >= 0:
            self.choose(self._held)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._near(event.position()) < 0:
            x, y = self.place(event.position())
            if abs(x) <= 100:
                self.wanted.emit(float(round(x)), float(round(y)))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._held < 0:
            near = self._near(event.position()) >= 0
            self.setCursor(Qt.CursorShape.OpenHandCursor if near else Qt.CursorShape.ArrowCursor)
            return
        x, y = self.place(event.position())
        self.moved.emit(self._held, float(round(x)), float(round(y)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held, self._top = -1, self._fitting()
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        response = self.response
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = steps.get(Qt.Key(event.key()))
        if response is None:
            return
        if way is not None:
            far = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            far = 0.1 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else far
            x, y = response.points[self.chosen]
            self.moved.emit(self.chosen, round(x + far * way[0], 3), round(y + far * way[1], 3))
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            by = 1 if event.key() == Qt.Key.Key_PageUp else -1
            self.choose((self.chosen + by) % len(response.points))
        elif event.key() == Qt.Key.Key_Delete:
            self.unwanted.emit(self.chosen)
        else:
            super().keyPressEvent(event)
