# SPDX-License-Identifier: GPL-3.0-or-later
"""A section of the wing at one station with its surface at its angle; the trailing edge can be
dragged."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTransform

from hypsos.core.base.figure_words import number
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture

STEEPEST = 50.0


class WingSection(Picture):
    """``share`` is the surface's part of the chord; signals degrees as the trailing edge is
    dragged, + is down."""

    dragged = pyqtSignal(float)

    def __init__(self, name: str, share: float) -> None:
        super().__init__(name)
        self.tell("neutral")
        self.share = min(0.6, max(0.12, share))
        self.degrees = 0.0
        self.other: float | None = None
        """Where another mode has it, as a broken line."""
        self._held = False
        self.setMouseTracking(True)
        self.setToolTip("Drag the trailing edge up or down.")
        look.hold(self, width=78, height=34)

    def sizeHint(self) -> QSize:
        return QSize(look.px(78), look.px(34))

    def show_angle(self, degrees: float, other: float | None = None) -> None:
        """Show the surface at an angle, and where another mode has it."""
        if (degrees, other) != (self.degrees, self.other):
            self.degrees, self.other = degrees, other
            side = "down" if degrees > 0 else "up"
            self.tell(f"{number(abs(degrees))}° {side}" if round(degrees) else "neutral")
            self.update()

    def _hinge(self) -> QPointF:
        return QPointF(self.width() - 6 - self.share * (self.width() - 12), self.height() / 2)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, middle, hinge = self.width() - 12.0, self.height() / 2, self._hinge()
        thick = 0.065 * wide
        front = QPainterPath(QPointF(hinge.x(), middle - thick * 0.75))
        front.cubicTo(
            QPointF(20, middle - thick * 1.5), QPointF(6, middle - thick), QPointF(6, middle)
        )
        front.cubicTo(
            QPointF(6, middle + thick * 0.7),
            QPointF(20, middle + thick * 0.8),
            QPointF(hinge.x(), middle + thick * 0.55),
        )
        front.closeSubpath()
        painter.setPen(QPen(look.colour("edge"), 1))
        painter.setBrush(look.colour("wing"))
        painter.drawPath(front)
        flap = QPainterPath(QPointF(0, -thick * 0.75))
        flap.lineTo(QPointF(self.share * wide, 0))
        flap.lineTo(QPointF(0, thick * 0.55))
        flap.closeSubpath()
        if self.other is not None:
            painter.setPen(QPen(look.colour("ink"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(self._turned(self.other).map(flap))
        painter.setPen(QPen(look.colour("edge"), 1))
        painter.setBrush(look.colour("surface"))
        painter.drawPath(self._turned(self.degrees).map(flap))

    def _turned(self, degrees: float) -> QTransform:
        at = self._hinge()
        return QTransform().translate(at.x(), at.y()).rotate(min(60.0, max(-60.0, degrees)))

    # -- hands -----------------------------------------------------------------------------------

    def _angle(self, at: QPointF) -> float:
        hinge = self._hinge()
        return math.degrees(math.atan2(at.y() - hinge.y(), max(4.0, at.x() - hinge.x())))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._held = event.position().x() > self._hinge().x() - 4

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._held:
            self.dragged.emit(
                round(min(STEEPEST, max(-STEEPEST, self._angle(event.position()))) * 2) / 2
            )
        else:
            over = QRectF(self._hinge().x(), 0, self.width(), self.height()).contains(
                event.position()
            )
            self.setCursor(Qt.CursorShape.SizeVerCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = False
