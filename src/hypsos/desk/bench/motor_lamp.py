# SPDX-License-Identifier: GPL-3.0-or-later
"""The motor lamp: cut, locked, armed, told apart by shape, word and colour."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF, QShowEvent
from PyQt6.QtWidgets import QLabel, QWidget

from hypsos.core.engine import GuardState
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.focus_ring import paint_focus_ring
from hypsos.desk.widgets.page_layout import set_tip

MEANING = (
    "Cut: the switch stops the motor. Locked: the switch is at run, but something was not low.\n"
    "Armed: the throttle commands the motor. Held: a condition stops it. RUNS: no switch reaches it now."
)


class Lamp(QLabel):
    """Shows the guard's state. Hidden while the aeroplane has no motor."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.short = False
        set_tip(self, MEANING)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        workbench.simulation.live_changed.connect(self._refresh)
        workbench.simulation.model_changed.connect(self._model)
        look.follow(self, self.updateGeometry)
        self._model()

    def sizeHint(self) -> QSize:
        return QSize(look.px(104 if self.short else 160), look.px(30))

    def set_short(self, short: bool) -> None:
        """With little room the word *motor* goes; the mark says that."""
        if short != self.short:
            self.short = short
            self.updateGeometry()
            self.update()

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    @property
    def words(self) -> str:
        """What the lamp says in two or three words; all of it is in :attr:`sentence`."""
        return self.workbench.state.motor_said.short

    @property
    def sentence(self) -> str:
        """What the motors' leads send, and what stands in the way of arming."""
        return self.workbench.state.guard_words

    def _model(self) -> None:
        model = self.workbench.model
        self.setVisible(model is not None and bool(model.airframe.motors))

    def _refresh(self) -> None:
        if self.words != self.text():
            self.setText(self.words)  # painted below; the text is for the screen reader
            self.update()
        if self.isVisible() and self.accessibleName() != (said := self.sentence):
            self.setAccessibleName(said)
            set_tip(self, f"{said}.\n{MEANING}")

    def showEvent(self, event: QShowEvent | None) -> None:
        """While it was hidden it told the screen reader nothing."""
        super().showEvent(event)
        self._refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        state = self.workbench.state.guard
        runs = self.workbench.state.motor_said.beyond_control
        hot = runs or (state == GuardState.ARMED and self.workbench.state.connected)
        painter.setPen(QPen(look.colour("rust" if hot else "edge"), 1.5))
        painter.setBrush(look.colour("rust" if hot else "card"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 2, -1, -2), 6, 6)
        ink = look.colour("on_rust" if hot else "ink")
        painter.setPen(QPen(ink, 1.8))
        painter.setBrush(ink)
        c = QPointF(look.px(17), self.height() / 2)
        r = look.px(6)
        if runs:
            _paint_propeller(painter, c, r)
        elif state == GuardState.CUT:
            painter.drawRect(QRectF(c.x() - r, c.y() - r, 2 * r, 2 * r))
        elif state == GuardState.LOCKED:
            painter.drawRect(QRectF(c.x() - r, c.y() - 1, 2 * r, r + 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawArc(QRectF(c.x() - r * 0.65, c.y() - r - 1, r * 1.3, r * 1.9), 0, 180 * 16)
        else:
            _paint_propeller(painter, c, r)
        painter.setFont(look.font(0.95, bold=True))
        painter.drawText(
            QRectF(look.px(32), 0, self.width() - look.px(34), self.height()),
            Qt.AlignmentFlag.AlignVCenter,
            self.workbench.state.motor_said.shortest if self.short else self.words,
        )
        painter.end()
        paint_focus_ring(self, 2, 1)


def _paint_propeller(painter: QPainter, c: QPointF, r: float) -> None:
    painter.drawEllipse(c, r * 0.3, r * 0.3)
    for way in (1, -1):
        blade = [QPointF(0, 0), QPointF(way * r * 1.3, -r * 0.5), QPointF(way * r * 1.4, r * 0.15)]
        painter.drawPolygon(QPolygonF([c + p for p in blade]))
