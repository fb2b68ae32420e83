# SPDX-License-Identifier: GPL-3.0-or-later
"""The response of an axis as it is felt: a line for every position of its switch, and a dot where
the stick is."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from hypsos.core.base.backends import ARRAYS, FRAME, Backend, Signal
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Setting
from hypsos.core.engine.shaping import (
    response_curve,
    setting_at,
    shaped,
    stored_setting,
    stored_values,
)
from hypsos.core.fitting.feel_words import positions_of
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.response_plot import PlotLine, ResponsePlot

SIDES = {
    "roll": ("left", "right"),
    "pitch": ("nose down", "nose up"),
    "yaw": ("left", "right"),
    "thrust": ("less", "more"),
}
SENSE = {"roll": 1.0, "pitch": -1.0, "yaw": 1.0, "thrust": 1.0}


def setting_now(model: Model, axis: Axis, position: int, mode: str) -> Setting:
    """The setting at a position with its shared values as they are in a flight mode."""
    setting = setting_at(model.program.felt(axis), position)
    return (
        stored_setting(model, setting, mode) if setting.rate_from or setting.expo_from else setting
    )


class FeelPlot(QWidget):
    """Draws the axis that it is given."""

    stale = pyqtSignal()
    """The switch or the flight mode has changed: what is shown beside the plot may be another
    now."""

    def __init__(self, workbench: Workbench, axis: Callable[[], Axis]) -> None:
        super().__init__()
        self.workbench, self._axis = workbench, axis
        self.plot = ResponsePlot(("full one way", "the other"), ("−100 %", "100 %"))
        self.plot.setAccessibleName("Response of the axis")
        look.hold(self.plot, height=262)
        self._mode = ""
        self._felt: tuple[Model | None, str, dict[str, float], dict[tuple[str, int], Setting]] = (
            None,
            "",
            {},
            {},
        )
        """What was worked out for this model in this flight mode: shared values as stored, settings
        by axis and position."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.plot)
        workbench.simulation.live_changed.connect(self._move_dot)

    def draw(self) -> None:
        """Draw every position; the one at hand stands out."""
        self._mode = self.workbench.state.mode_name
        axis = self._axis()
        x = np.linspace(-100, 100, 101)
        lines = [
            PlotLine(name, x, np.asarray(self._shaped(x, axis, p)), p == self._present(axis))
            for p, name in enumerate(positions_of(self.workbench.loaded, axis))
        ]
        stick = {"pitch": ("push", "pull"), "thrust": ("low", "high")}.get(
            axis.command, ("stick left", "stick right")
        )
        self.plot.set_words(stick, SIDES[axis.command])
        self.plot.show_lines(lines, self._dot(axis))

    def _present(self, axis: Axis) -> int:
        return int(self.workbench.state.live.controls.get(axis.switch, 0.0)) if axis.switch else 0

    def _dot(self, axis: Axis) -> tuple[float, float]:
        stick = SENSE[axis.command] * self.workbench.state.live.controls.get(axis.control, 0.0)
        return stick, float(self._shaped(stick, axis, self._present(axis), FRAME))

    def _shaped(self, x: Signal, axis: Axis, position: int, lane: Backend = ARRAYS) -> Signal:
        """The command for an input, at a position of the switch, with the shared values as they are
        now."""
        model, mode = self.workbench.loaded, self.workbench.state.mode_name
        if self._felt[0] is not model or self._felt[1] != mode:
            self._felt = (model, mode, stored_values(model, mode), {})
        _, _, stored, settings = self._felt
        key = (axis.command, position)
        setting = settings[key] = settings.get(key) or setting_now(model, axis, position, mode)
        idle, shared = axis.command == "thrust", stored | self.workbench.state.shared_now()
        return shaped(x, response_curve(axis.curve), setting, lane, from_idle=idle, shared=shared)

    def _move_dot(self) -> None:
        if self.workbench.model is None:
            return  # the last model was taken out of the hangar
        if not self.isVisible():
            return
        axis = self._axis()
        if self.plot.present != self._present(axis) or self.workbench.state.mode_name != self._mode:
            self.stale.emit()
        else:
            self.plot.move_dot(self._dot(axis))
