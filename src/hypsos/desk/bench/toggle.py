"""A switch as the hand finds it: a lever with named positions."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.core.parts.transmitter import Control
from hypsos.desk.bench.handle import Handle
from hypsos.desk.theme.look import look
from hypsos.desk.workbench import Workbench


class Toggle(Handle):
    """A switch or momentary button; its first position is at the bottom, nearest to the pilot."""

    def __init__(self, workbench: Workbench, control: Control, parent: QWidget | None = None) -> None:
        super().__init__(
            workbench, control, f"{', '.join(control.positions)}. Click a position, or the up and down keys.", parent
        )

    def sizeHint(self) -> QSize:
        return QSize(look.px(92), look.px(17 + 16 * len(self.control.positions)))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(74), self.sizeHint().height())

    @property
    def position(self) -> int:
        """The position it stands at, from 0."""
        return int(self.stands)

    def words(self) -> str:
        """The position it stands at."""
        return f"at {self.control.positions[self.position]}"

    def _label(self) -> str:
        return self.control.label if self.used else f"{self.control.label} · idle"

    def slot(self, i: int) -> QRectF:
        n, h = len(self.control.positions), look.px(16)
        return QRectF(0, look.px(16) + (n - 1 - i) * h, self.width(), h)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = self.painter()
        at = self.position
        n = len(self.control.positions)
        painter.setFont(look.font(0.78))
        painter.setPen(look.colour("faint"))
        painter.drawText(QRectF(2, 0, self.width(), look.px(15)), Qt.AlignmentFlag.AlignVCenter, self._label())
        if self.hasFocus():
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRoundedRect(QRectF(1, look.px(15), self.width() - 2, self.height() - look.px(16)), 4, 4)
        groove = QRectF(look.px(6), look.px(18), look.px(8), n * look.px(16) - look.px(4))
        painter.setPen(QPen(look.colour("edge"), 1))
        painter.setBrush(look.colour("field"))
        painter.drawRoundedRect(groove, 4, 4)
        centre = QPointF(groove.center().x(), self.slot(at).center().y())
        painter.setBrush(look.colour("surface"))
        painter.setPen(QPen(look.colour("ink"), 1.2))
        painter.drawEllipse(centre, look.px(6), look.px(6))
        for i, words in enumerate(self.control.positions):
            painter.setFont(look.font(0.86, bold=i == at))
            painter.setPen(look.colour("ink" if i == at else "faint"))
            painter.drawText(self.slot(i).adjusted(look.px(22), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _set(self, position: int) -> None:
        position = max(0, min(len(self.control.positions) - 1, position))
        self.workbench.set_control(self.control.name, float(position))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.control.kind == "momentary":
            self._set(1)
            return
        for i in range(len(self.control.positions)):
            if self.slot(i).contains(event.position()):
                self._set(i)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self.control.kind == "momentary":
            self._set(0)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.control.kind == "momentary" and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Up):
            self._set(1)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Space):
            top = self.position == len(self.control.positions) - 1
            self._set(0 if top and event.key() == Qt.Key.Key_Space else self.position + 1)
        elif event.key() == Qt.Key.Key_Down:
            self._set(self.position - 1)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.control.kind == "momentary" and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Up):
            if not event.isAutoRepeat():
                self._set(0)
        else:
            super().keyReleaseEvent(event)
