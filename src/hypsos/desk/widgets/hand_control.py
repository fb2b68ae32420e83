# SPDX-License-Identifier: GPL-3.0-or-later
"""What every control under a hand has in common."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QAbstractSlider, QSizePolicy, QWidget

from hypsos.core.parts.transmitter import Control
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import plain_tip

IDLE = 0.85
"""How strong a control is drawn on which nothing hangs: fainter, and still told from its ground."""


class SpokenControl(QAbstractSlider):
    """Something painted that stands at a value: the screen reader hears its name, where it stands,
    and that in words."""

    def __init__(self, name: str, low: int, high: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setRange(low, high)
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._speaking = False
        self._stood = self.value()
        self.valueChanged.connect(self._moved_from_outside)

    def reach(self, low: int, high: int) -> None:
        """Between what it can stand now."""
        self._speaking = True
        self.setRange(low, high)
        self._speaking = False

    def speak(self, value: float, words: str) -> None:
        """Where it stands now."""
        self._stood = round(value)
        self._speaking = True
        self.setValue(self._stood)
        self._speaking = False
        if self.accessibleDescription() != words:
            self.setAccessibleDescription(words)

    def _moved_from_outside(self, value: int) -> None:
        """A screen reader's *increase* or *decrease* has moved it: what it shows moves with it, or
        it goes back."""
        if self._speaking:
            return
        self.asked_for(value)
        self._speaking = True
        self.setValue(self._stood)
        self._speaking = False

    def asked_for(self, value: int) -> None:
        """A screen reader wants it to stand there. Nothing does so of itself."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """What is painted says what the bench does: a key that nothing here takes moves no value of
        its own."""
        if event is not None:
            event.ignore()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Nothing changes by scrolling."""
        if event is not None:
            event.ignore()


class Handle(SpokenControl):
    """Shows one control of the transmitter and repaints when it stands elsewhere. What nothing
    hangs on is drawn idle."""

    def __init__(
        self, workbench: Workbench, control: Control, parent: QWidget | None = None
    ) -> None:
        low, high = (0, len(control.positions) - 1) if control.is_switch else (-100, 100)
        super().__init__(control.label, low, high, parent)
        self.workbench = workbench
        self.control = control
        self.used = True
        self._drawn: float | None = None
        self._told: float | None = None
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        workbench.simulation.live_changed.connect(self._refresh)
        look.follow(self, self.updateGeometry)

    @property
    def stands(self) -> float:
        """Where it stands: percent, or a switch's position from 0."""
        return self.workbench.state.live.controls.get(self.control.name, 0.0)

    def let_go(self) -> None:
        """It is no longer on the transmitter: it follows nothing any more, and goes."""
        self.workbench.simulation.live_changed.disconnect(self._refresh)
        self.hide()
        self.deleteLater()

    def tip(self) -> str:
        """How mouse and keys move it."""
        return ""

    def words(self) -> str:
        """Where it stands, as one would say it."""
        return ""

    def show_uses(self, what: tuple[str, ...]) -> None:
        """Show what hangs on it."""
        said = ", ".join(what) if what else "nothing in this model"
        self.setToolTip(plain_tip(f"{self.control.label}: {self.tip()}\nIt moves: {said}."))
        if self.used != bool(what):
            self.used = bool(what)
            self.update()
        self._say()

    def _refresh(self) -> None:
        if self.stands != self._drawn:
            self.update()
        if self.stands != self._told:  # it may have come back before it was painted
            self._say()

    def _say(self) -> None:
        self._told = self.stands
        self.speak(
            self.stands, self.words() if self.used else f"{self.words()}, idle: nothing hangs on it"
        )

    def painter(self) -> QPainter:
        """A painter, faint where nothing hangs on the control."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.used:
            painter.setOpacity(IDLE)
        self._drawn = self.stands
        return painter
