# SPDX-License-Identifier: GPL-3.0-or-later
"""The model's scenarios, played again after every edit, beside the window; what is not met is said
on the run-down."""

from __future__ import annotations

import itertools
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hypsos.core.document.document import Model
from hypsos.core.rundown import Attention
from hypsos.desk.services.background import aside
from hypsos.desk.session.simulation import Simulation

if TYPE_CHECKING:
    from hypsos.core.scenarios.scenario_run import ScenarioOutcome

REST_MS = 350
"""An edit rests so long before they are played: a number that is being stepped starts nothing."""


class ScenarioRunner(QObject):
    """What came of the scenarios of the model on the bench, as soon as that is known."""

    changed = pyqtSignal()

    def __init__(self, bench: Simulation) -> None:
        super().__init__(bench)
        self.bench = bench
        self._found: tuple[Model, tuple[ScenarioOutcome, ...]] | None = None
        self._asked: Model | None = None
        self.fault = ""
        """Why they could not be played, where they could not."""
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(REST_MS)
        self._wait.timeout.connect(self._play)
        bench.model_changed.connect(self._model_changed)
        self._model_changed()

    @property
    def outcomes(self) -> tuple[ScenarioOutcome, ...] | None:
        """What came of each, in the order of the model; None while that is not known."""
        if self._found is None or self._found[0] is not self.bench.state.model:
            return None
        return self._found[1]

    def attentions(self) -> list[Attention]:
        """What is not met, for the run-down."""
        if self.fault and self._found is not None and self._found[0] is self.bench.state.model:
            return [
                Attention("shake", f"The scenarios could not be played. {self.fault}", "scenarios")
            ]
        return [
            Attention("shake", f"{x.label}: {b.text}", f"scenarios[{i}]")
            for i, x in enumerate(self.outcomes or ())
            for b in x.broken
        ]

    def _model_changed(self) -> None:
        model = self.bench.state.model
        before = self._found[0] if self._found is not None else None
        if model is None or model is before:
            return
        if before is not None and not before.scenarios and not model.scenarios:
            self._found = (model, ())
            return
        self._wait.start()

    def _play(self) -> None:
        model = self.bench.state.model
        if model is None or model is self._asked or self.outcomes is not None:
            return
        if not model.scenarios:
            self._take((model, ()))
            return
        self._asked = model

        def play() -> tuple[Model, tuple[ScenarioOutcome, ...]]:
            """One after the other; given up as soon as the model is another one."""
            from hypsos.core.scenarios.scenario_run import scenarios_run

            still_wanted = itertools.takewhile(
                lambda _: self.bench.state.model is model, scenarios_run(model)
            )
            return model, tuple(still_wanted)

        aside(self, play, self._take, self._failed)

    def _failed(self, sentence: str) -> None:
        """They could not be played: that is said, and the next edit plays them again."""
        model, self._asked = self._asked, None
        if model is self.bench.state.model and model is not None:
            self._found, self.fault = (model, ()), sentence
            self.changed.emit()
        else:
            self._wait.start()

    def _take(self, found: tuple[Model, tuple[ScenarioOutcome, ...]]) -> None:
        self._asked = None
        if found[0] is not self.bench.state.model:
            self._wait.start()
            return
        self._found, self.fault = found, ""
        self.changed.emit()
