"""What every control under a hand has in common."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.transmitter import Control
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.layout import plain_tip
from hypsos.desk.workbench import Workbench


class Handle(QWidget):
    """Shows one control of the transmitter and repaints when it stands elsewhere."""

    def __init__(self, workbench: Workbench, control: Control, tip: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.control = control
        self._shown: float | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(control.label)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setToolTip(plain_tip(f"{control.label}: {tip}"))
        workbench.live_changed.connect(self._refresh)
        look.follow(self, self.updateGeometry)

    @property
    def value(self) -> float:
        """Where it stands: percent, or a switch's position from 0."""
        return self.workbench.live.controls.get(self.control.name, 0.0)

    def _refresh(self) -> None:
        if self.value != self._shown:
            self.update()
