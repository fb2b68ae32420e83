"""The hands: two sticks in the pilot's own mode, and the switches where each hand finds them."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from hypsos.core.transmitter import Control
from hypsos.core.uses import uses
from hypsos.desk.bench.fader import Fader
from hypsos.desk.bench.stick import Stick
from hypsos.desk.bench.toggle import Toggle
from hypsos.desk.widgets.layout import clear
from hypsos.desk.workbench import Workbench


class Hands(QWidget):
    """Sticks and switches of the model on the bench."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 0, 6, 0)
        row.setSpacing(4)
        self.sticks = {hand: Stick(workbench, hand, self) for hand in ("left", "right")}
        self._columns: dict[str, QVBoxLayout] = {}
        self.toggles: dict[str, Toggle] = {}
        self.faders: dict[str, Fader] = {}
        self._built: tuple[Control, ...] = ()
        for hand in ("left", "right"):
            column = QVBoxLayout()
            column.setSpacing(5)
            column.setAlignment(Qt.AlignmentFlag.AlignVCenter)
            self._columns[hand] = column
        row.addLayout(self._columns["left"], 1)
        row.addWidget(self.sticks["left"], 2)
        row.addWidget(self.sticks["right"], 2)
        row.addLayout(self._columns["right"], 1)
        workbench.model_changed.connect(self._build)
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
        self.toggles.clear()
        self.faders.clear()
        for hand, column in self._columns.items():
            clear(column)
            for control in controls:
                if control.hand != hand:
                    continue
                if not control.is_switch:
                    self.faders[control.name] = Fader(self.workbench, control, self)
                    column.addWidget(self.faders[control.name])
                else:
                    toggle = Toggle(self.workbench, control, self)
                    self.toggles[control.name] = toggle
                    column.addWidget(toggle)
