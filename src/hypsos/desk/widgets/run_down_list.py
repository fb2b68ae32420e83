# SPDX-License-Identifier: GPL-3.0-or-later
"""The run-down: the steps of the work with their states. Anyone may jump."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.rundown import STEPS, StepState, step_states
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl

ROW = 48


STEP_KEYS = "1234567890-=[];'"
"""With Alt, the key of each step, as far as keys go."""


class RunDownList(SpokenControl):
    """Shows the steps; touching one, or Enter on it, jumps there."""

    wanted = pyqtSignal(str)

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__("Steps of the work", 1, len(STEPS), parent)
        self.workbench = workbench
        self.current = STEPS[0].key
        self._states: dict[str, StepState] = {}
        self._shown: list[tuple[StepState, str]] = []
        self.narrow = False
        self.setToolTip(
            "Touch a step, or use the up and down keys. Alt+1 to Alt+9, Alt+0 and Alt+- from anywhere."
        )
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        workbench.simulation.model_changed.connect(self._read)
        workbench.document.log_changed.connect(self._read)
        workbench.companions.findings_changed.connect(self._read)
        workbench.companions.searching.connect(self.update)
        look.follow(self, self.updateGeometry)
        self._read()

    def sizeHint(self) -> QSize:
        return QSize(look.px(46 if self.narrow else 176), look.px(ROW * len(STEPS) + 16))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(46 if self.narrow else 164), look.px(ROW * len(STEPS)))

    def set_narrow(self, narrow: bool) -> None:
        """With little room only the marks are shown; the page's title says the rest."""
        self.narrow = narrow
        self.updateGeometry()
        self.update()

    def event(self, event: QEvent | None) -> bool:
        """The tip names the step under the pointer."""
        if isinstance(event, QHelpEvent):
            index = int((event.pos().y() - 8) // look.px(ROW))
            if 0 <= index < len(STEPS):
                key = f" (Alt+{STEP_KEYS[index]})" if index < len(STEP_KEYS) else ""
                step = STEPS[index]
                said = f"{step.verb}: {self.words(step.key)}.{key}\nHere: {step.holds}."
                self.setToolTip(said)
        return super().event(event)

    def _read(self) -> None:
        model = self.workbench.model
        self._states = {}
        if model is not None:
            try:
                flights = self.workbench.document.hangar.flight_count(self.workbench.document.held)
            except HypsosError as error:
                flights = 0
                self.workbench.notices.noticed.emit(error.plain)
            self._states = step_states(model, flights, self.workbench.attentions())
        self._say()
        shown = [(self.state(s.key), self.words(s.key, short=True)) for s in STEPS]
        if shown != self._shown:
            self._shown = shown
            self.update()

    def state(self, key: str) -> StepState:
        """The state of a step."""
        return self._states.get(key, StepState("not begun"))

    def go(self, key: str) -> None:
        """Mark a step as the one at hand."""
        self.current = key
        self._say()
        self.update()

    def middle_of(self, key: str) -> int:
        """How far down the row of a step stands."""
        at = [s.key for s in STEPS].index(key)
        return 8 + round((at + 0.5) * look.px(ROW))

    def _say(self) -> None:
        at = [s.key for s in STEPS].index(self.current)
        self.speak(
            at + 1, f"{STEPS[at].verb}: {self.words(self.current)}; step {at + 1} of {len(STEPS)}"
        )

    def words(self, key: str, short: bool = False) -> str:
        """How far a step has come; of the shakedown what it has found, ``short`` in the marks of
        its page."""
        state, companions = self.state(key), self.workbench.companions
        if key == "shake" and companions.begun and companions.search.words():
            return companions.search.words(short)
        return f"{state.count} to look at" if state.count else state.name

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        row = look.px(ROW)
        x = look.px(23)
        painter.setPen(QPen(look.colour("line"), 2))
        painter.drawLine(QPointF(x, row * 0.5 + 8), QPointF(x, row * (len(STEPS) - 0.5) + 8))
        for i, step in enumerate(STEPS):
            box = QRectF(look.px(5), 8 + i * row, self.width() - look.px(9), row - 4)
            state = self.state(step.key)
            if step.key == self.current:
                painter.setPen(
                    QPen(look.colour("sea"), 2) if self.hasFocus() else Qt.PenStyle.NoPen
                )
                painter.setBrush(look.colour("card"))
                painter.drawRoundedRect(box, 6, 6)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.colour("sea"))
                painter.drawRoundedRect(
                    QRectF(box.left(), box.top() + 6, 4, box.height() - 12), 2, 2
                )
            self._paint_mark(painter, QPointF(x, box.center().y()), state)
            if self.narrow:
                continue
            text = QRectF(
                look.px(42), box.top() + look.px(6), self.width() - look.px(46), look.px(20)
            )
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(0.98, bold=step.key == self.current))
            painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, step.verb)
            painter.setFont(look.font(0.8))
            painter.setPen(look.colour("rust" if state.count else "faint"))
            words = self.words(step.key, short=True)
            painter.drawText(text.translated(0, look.px(17)), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_mark(self, painter: QPainter, c: QPointF, state: StepState) -> None:
        r = look.px(8)
        painter.setBrush(look.colour("paper"))
        painter.setPen(QPen(look.colour("edge"), 1.6))
        if state.name == "needs attention":
            painter.setPen(QPen(look.colour("rust"), 1.6))
            painter.setBrush(look.colour("rust"))
            corners = [
                QPointF(0, -r * 1.15),
                QPointF(r * 1.15, r * 0.85),
                QPointF(-r * 1.15, r * 0.85),
            ]
            painter.drawPolygon(QPolygonF([c + p for p in corners]))
            painter.setPen(QPen(look.colour("on_rust"), 2, cap=Qt.PenCapStyle.RoundCap))
            painter.drawLine(c + QPointF(0, -r * 0.4), c + QPointF(0, r * 0.2))
            painter.drawPoint(c + QPointF(0, r * 0.58))
            return
        if state.name == "settled":
            painter.setPen(QPen(look.colour("sea"), 1.6))
            painter.setBrush(look.colour("sea"))
        painter.drawEllipse(c, r, r)
        if state.name == "settled":
            painter.setPen(
                QPen(
                    look.colour("on_sea"),
                    2,
                    cap=Qt.PenCapStyle.RoundCap,
                    join=Qt.PenJoinStyle.RoundJoin,
                )
            )
            tick = [
                c + QPointF(-r * 0.45, 0),
                c + QPointF(-r * 0.1, r * 0.4),
                c + QPointF(r * 0.5, -r * 0.4),
            ]
            painter.drawPolyline(QPolygonF(tick))
        elif state.name == "proposed":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("sea"))
            painter.drawEllipse(c, r * 0.38, r * 0.38)
        elif state.name == "in hand":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("sea"))
            painter.drawPie(QRectF(c.x() - r, c.y() - r, 2 * r, 2 * r), 90 * 16, -180 * 16)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = int((event.position().y() - 8) // look.px(ROW))
        if 0 <= index < len(STEPS):
            self.wanted.emit(STEPS[index].key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        keys = [s.key for s in STEPS]
        at = keys.index(self.current)
        if event.key() == Qt.Key.Key_Down:
            self.wanted.emit(keys[min(at + 1, len(keys) - 1)])
        elif event.key() == Qt.Key.Key_Up:
            self.wanted.emit(keys[max(at - 1, 0)])
        else:
            super().keyPressEvent(event)
