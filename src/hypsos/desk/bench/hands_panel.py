# SPDX-License-Identifier: GPL-3.0-or-later
"""The hands: two sticks in the pilot's own mode, and the switches where each hand finds them."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QWidget

from hypsos.core.dependencies.references import uses
from hypsos.core.parts.transmitter import Control
from hypsos.desk.bench.fader import Fader
from hypsos.desk.bench.stick_control import Stick
from hypsos.desk.bench.switch_control import Toggle
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import Handle

EDGE, GAP = 6, 5
SIDE = 74
"""The least width of a switch with its words."""
LEAST, BEST = 104, 168
"""A stick's side: the least one can be steered with, and the best."""


class Hands(QWidget):
    """Sticks and switches of the model on the bench: the switches outside of the sticks, or below
    them where it is narrow."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.sticks = {hand: Stick(workbench, hand, self) for hand in ("left", "right")}
        self.toggles: dict[str, Toggle] = {}
        self.faders: dict[str, Fader] = {}
        self._built: tuple[Control, ...] = ()
        self._handles: dict[str, list[Handle]] = {"left": [], "right": []}
        workbench.simulation.model_changed.connect(self._build)
        look.follow(self, self._arrange)
        self._build()

    def _build(self) -> None:
        model = self.workbench.model
        controls = model.transmitter.controls if model else ()
        if controls != self._built:
            self._make(controls)
        found = uses(model) if model is not None else {}
        for name, handle in (*self.toggles.items(), *self.faders.items()):
            handle.show_uses(found.get(name, ()))

    def _make(self, controls: tuple[Control, ...]) -> None:
        self._built = controls
        for handle in (*self._handles["left"], *self._handles["right"]):
            handle.let_go()
        self.toggles.clear()
        self.faders.clear()
        self._handles = {"left": [], "right": []}
        for control in controls:
            made: Handle
            if control.is_switch:
                made = self.toggles[control.name] = Toggle(self.workbench, control, self)
            else:
                made = self.faders[control.name] = Fader(self.workbench, control, self)
            made.show()
            self._handles[control.hand].append(made)
        self._arrange()

    # -- where everything is ---------------------------------------------------------------------

    def _tall(self, handles: list[Handle]) -> int:
        return sum(h.sizeHint().height() + GAP for h in handles) - GAP if handles else 0

    def _beside(self, width: int) -> bool:
        return width >= 2 * look.px(LEAST + SIDE) + 2 * EDGE + 3 * GAP

    def sizeHint(self) -> QSize:
        sides = max(self._tall(x) for x in self._handles.values())
        return QSize(look.px(560), max(look.px(BEST - 10), sides))

    def minimumSizeHint(self) -> QSize:
        return QSize(2 * look.px(LEAST) + 2 * EDGE + GAP, self.heightForWidth(max(self.width(), 1)))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if self._beside(width):
            return self.sizeHint().height()
        return self._stick_side(width) + GAP + self._flow(width, 0, move=False)

    def _stick_side(self, width: int) -> int:
        return max(look.px(LEAST), min(look.px(LEAST + 20), (width - 2 * EDGE - GAP) // 2))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        self.setMinimumHeight(self.heightForWidth(self.width()))
        if self._beside(self.width()):
            self._side_by_side()
        else:
            side = self._stick_side(self.width())
            left = (self.width() - 2 * side - GAP) // 2
            for i, stick in enumerate(self.sticks.values()):
                stick.setGeometry(left + i * (side + GAP), 0, side, side)
            self._flow(self.width(), side + GAP, move=True)
        self.updateGeometry()

    def _side_by_side(self) -> None:
        room = self.width() - 2 * EDGE - 3 * GAP
        stick = max(look.px(LEAST), min(look.px(BEST), self.height(), room // 2 - look.px(SIDE)))
        side = (room - 2 * stick) // 2
        wide = min(side, look.px(130))
        for hand, handles in self._handles.items():
            x = EDGE if hand == "left" else self.width() - EDGE - wide
            y = max(0, (self.height() - self._tall(handles)) // 2)
            for handle in handles:
                tall = handle.sizeHint().height()
                handle.setGeometry(x, y, wide, tall)
                y += tall + GAP
        middle = self.width() // 2
        apart = min(look.px(30), max(0, (side - wide)) // 2)
        top = max(0, (self.height() - stick) // 2)
        self.sticks["left"].setGeometry(QRect(middle - GAP // 2 - apart - stick, top, stick, stick))
        self.sticks["right"].setGeometry(QRect(middle + GAP // 2 + apart, top, stick, stick))

    def _flow(self, width: int, top: int, move: bool) -> int:
        """Lay the switches in rows from ``top``; the height that they take is returned."""
        wide, x, y, row = look.px(SIDE + 14), EDGE, top, 0
        for handle in (*self._handles["left"], *self._handles["right"]):
            tall = handle.sizeHint().height()
            if x > EDGE and x + wide > width - EDGE:
                x, y, row = EDGE, y + row + GAP, 0
            if move:
                handle.setGeometry(x, y, wide, tall)
            x, row = x + wide + GAP, max(row, tall)
        return y + row - top
