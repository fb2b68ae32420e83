# SPDX-License-Identifier: GPL-3.0-or-later
"""A switch as the hand finds it: a lever with named positions."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFocusEvent, QHideEvent, QKeyEvent, QMouseEvent, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.core.document.program import Guard
from hypsos.core.parts.transmitter import Control
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import Handle


class Toggle(Handle):
    """A switch or momentary button. What is drawn lowest is nearest to the pilot; which end is the
    first is the transmitter's."""

    def __init__(
        self, workbench: Workbench, control: Control, parent: QWidget | None = None
    ) -> None:
        super().__init__(workbench, control, parent)
        self._pressed = False

    def tip(self) -> str:
        """How mouse and keys move it."""
        return f"{', '.join(self.control.positions)}. {self._keys()}"

    def _keys(self) -> str:
        if self.control.kind == "momentary":
            return "Hold it with the mouse, or with Space."
        last = len(self.control.positions)
        if self._cuts_motor() is not None:
            return f"Click a position, or the keys 1 to {last}; arrows and Space only cut."
        return f"Click a position, or the keys 1 to {last}, up and down."

    def _cuts_motor(self) -> Guard | None:
        """The guard, where this is its switch."""
        model = self.workbench.model
        guard = model.program.guard if model is not None else None
        return guard if guard is not None and guard.switch == self.control.name else None

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
        h = look.px(16)
        return QRectF(0, look.px(16) + self._row(i) * h, self.width(), h)

    def _row(self, position: int) -> int:
        """Where a position is drawn, counted from the top."""
        count, model = len(self.control.positions), self.workbench.model
        if self.control.kind == "momentary" or model is None:
            return count - 1 - position
        return model.transmitter.row_from_far(position, count)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = self.painter()
        at = self.position
        n = len(self.control.positions)
        painter.setFont(look.font(0.78))
        painter.setPen(look.colour("faint"))
        painter.drawText(
            QRectF(2, 0, self.width(), look.px(15)), Qt.AlignmentFlag.AlignVCenter, self._label()
        )
        if self.hasFocus():
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRoundedRect(
                QRectF(1, look.px(15), self.width() - 2, self.height() - look.px(16)), 4, 4
            )
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
            painter.drawText(
                self.slot(i).adjusted(look.px(22), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words
            )

    def _set(self, position: int) -> None:
        position = max(0, min(len(self.control.positions) - 1, position))
        self.workbench.simulation.set_control(self.control.name, float(position))

    def asked_for(self, value: int) -> None:
        """A screen reader moves a switch as the arrows do: the motor's goes to cut only, and a
        button is not pressed by that."""
        guard = self._cuts_motor()
        if self.control.kind == "momentary":
            return
        if guard is not None and self.position in guard.cut and value not in guard.cut:
            last = len(self.control.positions)
            said = f"{self.control.label} leaves cut only by the number of its position: the keys 1 to {last}."
            self.workbench.notices.noticed.emit(said)
            return
        self._set(value)

    # -- mouse -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.control.kind == "momentary":
            self._press()
            return
        for i in range(len(self.control.positions)):
            if self.slot(i).contains(event.position()):
                self._set(i)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.let_button_go()

    # -- keys ------------------------------------------------------------------------------------
    #
    # Nothing but a key meant for it may move the motor's switch from cut to run: the arrows are the
    # elevator's keys, and whoever has just clicked *cut* still has the switch under his fingers. So
    # there arrows and Space only lead to cut; the number of a position is the key that is meant for
    # it. A button has one key, Space, whatever it does; an arrow presses none. A key that is held
    # and repeats moves no switch.

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        number = key - Qt.Key.Key_1
        others = (
            Qt.KeyboardModifier.ControlModifier
            | Qt.KeyboardModifier.AltModifier
            | Qt.KeyboardModifier.MetaModifier
        )
        if event.modifiers() & others:
            event.ignore()
        elif self.control.kind == "momentary":
            if key != Qt.Key.Key_Space:
                super().keyPressEvent(event)
            elif not event.isAutoRepeat():
                self._press()
        elif 0 <= number < len(self.control.positions):
            if not event.isAutoRepeat():
                self._set(number)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Space):
            if not event.isAutoRepeat():
                self._step(key)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.control.kind == "momentary" and event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self.let_button_go()
        else:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.let_button_go()
        super().focusOutEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.let_button_go()
        super().hideEvent(event)

    def _press(self) -> None:
        self._pressed = True
        self._set(1)

    def let_button_go(self) -> None:
        """A button that a finger or a key holds goes back; a switch stays."""
        if self._pressed:
            self._pressed = False
            if self.control.name in self.workbench.state.live.controls:
                self._set(0)

    def _step(self, key: int) -> None:
        """One position on or back; Space goes round. The motor's switch goes to cut only."""
        last = len(self.control.positions) - 1
        far = self._row(0) > self._row(last)  # whether a higher position lies further away
        on = key == Qt.Key.Key_Space or (key == Qt.Key.Key_Up) == far
        to = self.position + (1 if on else -1)
        if key == Qt.Key.Key_Space and to > last:
            to = 0
        to = max(0, min(last, to))
        guard = self._cuts_motor()
        if guard is not None:
            at_cut = self.position in guard.cut
            if key == Qt.Key.Key_Space and not at_cut:
                to = guard.cut[0]
            elif at_cut and to not in guard.cut:
                return
        self._set(to)
