# SPDX-License-Identifier: GPL-3.0-or-later
"""A slider or knob as the hand finds it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number
from hypsos.core.dependencies.motor_dependencies import motor_controls
from hypsos.core.parts.transmitter import Control
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import Handle


class Fader(Handle):
    """Moves one slider or knob from -100 to 100 %.

    It goes to where it is clicked, and by a double click to the middle. One on which a motor hangs
    does neither: it goes as far as the pointer has gone since it took the handle, so that no click
    beside the handle starts a motor."""

    def __init__(
        self, workbench: Workbench, control: Control, parent: QWidget | None = None
    ) -> None:
        super().__init__(workbench, control, parent)
        self._taken: tuple[float, float] | None = None
        """Where the left button took the handle, and where it stood then; None while it is let
        alone."""

    def tip(self) -> str:
        """How mouse and keys move it."""
        if self._moves_motor:
            return "drag it, or Page Up and Page Down."
        return "drag it, or the arrow keys; a double click brings it to the middle."

    @property
    def _moves_motor(self) -> bool:
        model = self.workbench.model
        return model is not None and self.control.name in motor_controls(model)

    def sizeHint(self) -> QSize:
        return QSize(look.px(92), look.px(34))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(74), look.px(34))

    def words(self) -> str:
        """Where it stands."""
        return f"at {number(self.stands)} %"

    def track(self) -> QRectF:
        return QRectF(look.px(8), look.px(20), self.width() - look.px(16), look.px(8))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = self.painter()
        painter.setFont(look.font(0.78))
        painter.setPen(look.colour("faint"))
        words = (
            f"{self.control.label} {number(self.stands)} %"
            if self.used
            else f"{self.control.label} · idle"
        )
        if painter.fontMetrics().horizontalAdvance(words) > self.width() - 4:
            # the slider shows where it stands; a name cut short shows nothing
            words = self.control.label
        painter.drawText(
            QRectF(2, 0, self.width(), look.px(15)), Qt.AlignmentFlag.AlignVCenter, words
        )
        track = self.track()
        if self.hasFocus():
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRoundedRect(track.adjusted(-6, -4, 6, 4), 6, 6)
        painter.setPen(QPen(look.colour("edge"), 1))
        painter.setBrush(look.colour("field"))
        painter.drawRoundedRect(track, 4, 4)
        painter.drawLine(
            QPointF(track.center().x(), track.top() - 2),
            QPointF(track.center().x(), track.bottom() + 2),
        )
        at = QPointF(track.left() + (self.stands + 100) / 200 * track.width(), track.center().y())
        painter.setPen(QPen(look.colour("ink"), 1.2))
        painter.setBrush(look.colour("surface"))
        if self.control.kind == "knob":
            painter.drawEllipse(at, look.px(6), look.px(6))
        else:
            painter.drawRoundedRect(
                QRectF(at.x() - look.px(4), at.y() - look.px(7), look.px(8), look.px(14)), 2, 2
            )

    def _set(self, value: float) -> None:
        self.workbench.simulation.set_control(
            self.control.name, float(round(max(-100.0, min(100.0, value))))
        )

    def asked_for(self, value: int) -> None:
        """A screen reader moves it as the arrows do: never one that gives a motor power."""
        if self._moves_motor:
            said = f"{self.control.label} gives power. Page Up and Page Down move it."
            self.workbench.notices.noticed.emit(said)
            return
        self._set(value)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._taken = (event.position().x(), self.stands)
            self._follow(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._taken = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if (
            event is not None
            and event.button() == Qt.MouseButton.LeftButton
            and not self._moves_motor
        ):
            self._set(0.0)

    def _follow(self, x: float) -> None:
        if self._taken is None:
            return
        taken, stood = self._taken
        track = self.track()
        percent = 200.0 / track.width()
        if self._moves_motor:
            self._set(stood + percent * (x - taken))
        else:
            self._set(percent * (x - track.left()) - 100.0)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key
        if (
            self._moves_motor
        ):  # the arrows are the keys of elevator and aileron: none of them gives power
            steps = {key.Key_PageUp: 1.0, key.Key_PageDown: -1.0}
        else:
            steps = {key.Key_Up: 1.0, key.Key_Right: 1.0, key.Key_Down: -1.0, key.Key_Left: -1.0}
        step = steps.get(key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        coarse = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        self._set(self.stands + step * (20 if coarse else 5))
