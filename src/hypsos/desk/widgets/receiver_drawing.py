# SPDX-License-Identifier: GPL-3.0-or-later
"""The receiver from above, with what is plugged in."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen

from hypsos.core.dependencies.y_leads import partner
from hypsos.core.sheet.port_card import short_label
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture


class ReceiverPicture(Picture):
    """The receiver from above: its ports with what is plugged in. Drag a lead to another port;
    ``dropped`` says where."""

    dropped = pyqtSignal(int, int)

    def __init__(self, workbench: Workbench) -> None:
        super().__init__("Receiver")
        self._from = 0
        self.setMouseTracking(True)
        self.setToolTip("Drag a lead from port to port.")
        self.workbench = workbench
        workbench.simulation.model_changed.connect(self._model_changed)
        look.follow(self, self.updateGeometry)
        self._model_changed()

    def _model_changed(self) -> None:
        model = self.workbench.model
        if model is not None:
            labels = {x.port: x.label for x in reversed(model.leads) if x.port is not None}
            ports = range(1, model.receiver.ports + 1)
            self.tell(", ".join(f"port {port} {labels.get(port, 'free')}" for port in ports))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(108))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(108))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        model = self.workbench.model
        if model is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        case = QRectF(1, 1, self.width() - 2, self.height() - 2)
        painter.setPen(QPen(look.colour("edge"), 1.2))
        painter.setBrush(look.colour("field"))
        painter.drawRoundedRect(case, 8, 8)
        ports = model.receiver.ports
        wide = (self.width() - look.px(16)) / ports
        holds = {x.port: x for x in reversed(model.leads) if x.port is not None}
        joined_ports = {x.port for x in model.leads if partner(model, x.name) is not None}
        said = {
            port: short_label(x.label) + (" + Y" if port in joined_ports else "")
            for port, x in holds.items()
        }
        upright = self._longest_word(said.values()) <= wide - 6
        for port in range(1, ports + 1):
            box = QRectF(look.px(8) + (port - 1) * wide + 2, look.px(24), wide - 4, look.px(76))
            lead = holds.get(port)
            painter.setPen(QPen(look.colour("edge"), 1))
            painter.setBrush(look.colour("sea_soft" if lead else "paper"))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(look.colour("faint"))
            painter.setFont(look.font(0.8, bold=True))
            painter.drawText(
                QRectF(box.left(), look.px(5), box.width(), look.px(17)),
                Qt.AlignmentFlag.AlignCenter,
                str(port),
            )
            if lead is None:
                power = model.receiver.power_port == port
                words = "power" if power else "free"
                painter.drawText(
                    box, Qt.AlignmentFlag.AlignCenter, words if power or wide > look.px(36) else ""
                )
                continue
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(0.74))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.save()
            painter.translate(box.center())
            room = QRectF(-box.width() / 2, -box.height() / 2, box.width(), box.height())
            if not upright:
                painter.rotate(-90)
                room = QRectF(-box.height() / 2, -box.width() / 2, box.height(), box.width())
            painter.drawText(room.adjusted(1, 1, -1, -1), flags, said[port])
            painter.restore()

    @staticmethod
    def _longest_word(labels: Iterable[str]) -> int:
        """The width of the longest word on the ports: no line is broken inside one."""
        metrics = QFontMetrics(look.font(0.74))
        words = [word for label in labels for word in label.split()]
        return max((metrics.horizontalAdvance(word) for word in words), default=0)

    def port_at(self, x: float) -> int:
        """The port under a place of the widget, 0 beside them."""
        model = self.workbench.model
        if model is None:
            return 0
        port = int((x - look.px(8)) / ((self.width() - look.px(16)) / model.receiver.ports)) + 1
        return port if 1 <= port <= model.receiver.ports else 0

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._from = self.port_at(event.position().x())
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.unsetCursor()
        to = self.port_at(event.position().x())
        if self._from and to and to != self._from:
            self.dropped.emit(self._from, to)
        self._from = 0
