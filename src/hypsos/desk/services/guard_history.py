# SPDX-License-Identifier: GPL-3.0-or-later
"""What the guard on the bench did last, and why."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from hypsos.core.explain.explain_condition import Moment
from hypsos.core.explain.guard_ways import GuardChange, change
from hypsos.desk.session.simulation import Simulation

KEPT = 10


class GuardHistory(QObject):
    """The last changes of state, the latest first."""

    changed = pyqtSignal()

    def __init__(self, bench: Simulation) -> None:
        super().__init__(bench)
        self.bench = bench
        self.changes: list[GuardChange] = []
        self._before: Moment | None = None
        self._name = ""
        bench.live_changed.connect(self._look)
        self._look()

    def ago(self, made: GuardChange) -> float:
        """Seconds since a change."""
        model = self.bench.state.model
        return (
            0.0 if model is None else self.bench.state.live.frame * model.program.frame_s - made.t_s
        )

    def _look(self) -> None:
        live, model, now = self.bench.state.live, self.bench.state.model, self.bench.state.moment
        if model is None or now is None:
            self._before = None
            return
        before, self._before = self._before, now
        if self.bench.held_still:  # it was put back there; nothing has happened
            return
        if before is None or before.model.name != model.name:
            self.changes.clear()
            self.changed.emit()
            return
        made = change(before, now, live.frame * model.program.frame_s)
        if made is not None:
            self.changes = [made, *self.changes][:KEPT]
            self.changed.emit()
