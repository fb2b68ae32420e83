# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane as its failsafe leaves it, beside the page that sets it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPixmap, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QLabel, QSizePolicy, QVBoxLayout, QWidget

from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation, compile_plan
from hypsos.core.wording.words import is_at_rest, standing
from hypsos.desk.bench.aeroplane_view import Aeroplane
from hypsos.desk.session.bench_state import BenchState
from hypsos.desk.session.live_state import Live
from hypsos.desk.session.simulation import Simulation
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import label

TALL = 150


def without_link(model: Model) -> Result:
    """Some seconds after the link was lost with everything at rest: the failsafe has acted and
    every servo has arrived."""
    plan = compile_plan(model)
    seconds = model.receiver.failsafe_after_s + 1.0
    frames = round(seconds / plan.frame_s)
    t = plan.frame_s * np.arange(frames + 2, dtype=np.float64)
    link = np.where(np.arange(frames + 2) < 2, 1.0, 0.0)
    return plan.run(Situation(t, {}, link), plan.run(Situation(t[:1] - plan.frame_s, {})).memory)


class FailsafePicture(QWidget):
    """A still of our own bench's aeroplane, and the same in a sentence."""

    def __init__(self) -> None:
        super().__init__()
        self._still = QLabel()
        self._still.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._still.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.says = label("", "faint")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self._still)
        column.addWidget(self.says)
        self._bench = Simulation(BenchState())
        self._bench.stop_clock()
        self._plane = Aeroplane(self._bench, self, bare=True)
        self._plane.hide()
        self._model: Model | None = None
        self._drawn: tuple[object, ...] = ()
        look.follow(self, self._draw)

    def show_model(self, model: Model) -> None:
        """Show how the failsafe of a model leaves it."""
        self._model = model
        self._draw()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._draw()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._draw()

    def _draw(self) -> None:
        model = self._model
        state = (model, self.width(), look.palette.name, look.scale)
        if model is None or not self.isVisible() or self.width() < 80:
            return
        if self._drawn and all(a is b or a == b for a, b in zip(self._drawn, state, strict=True)):
            return
        self._drawn = state
        result = without_link(model)
        size = QSize(self.width(), look.px(TALL))
        self._still.setFixedHeight(size.height())
        self._still.setPixmap(self._picture(model, result, size))
        self.says.setText(_words(model, result))
        self._still.setAccessibleName(self.says.text())

    def _picture(self, model: Model, result: Result, size: QSize) -> QPixmap:
        """The aeroplane as it stands then, on a bench of its own that stands still."""
        state, plan = self._bench.state, compile_plan(model)
        state.model, state.plan = model, plan
        state.live = Live(dict(plan.rest), memory=result.memory, result=result)
        self._plane.resize(size)
        self._bench.model_changed.emit()
        self._bench.live_changed.emit()
        return self._plane.grab()


def _words(model: Model, result: Result) -> str:
    """What stands where, but for what is neutral."""
    parts = {p.name: p for p in model.airframe.moved()}
    said = []
    for lead in model.leads:
        trace, part = result.outputs[lead.name], parts[lead.target]
        if lead.failsafe is not None and lead.failsafe.action == "no pulses":
            said.append(f"{part.label} gets no pulses")
            continue
        deg, mm = (None if x is None else float(np.ravel(x)[-1]) for x in (trace.deg, trace.mm))
        words = standing(part, float(np.ravel(trace.stand)[-1]), deg, mm)
        if not is_at_rest(part, deg, mm):
            said.append(f"{part.label} {words}")
    after = f"{model.receiver.failsafe_after_s:g} s after the link was lost"
    return f"{after[:1].upper()}{after[1:]}, from rest: {', '.join(said) if said else 'everything neutral'}."
