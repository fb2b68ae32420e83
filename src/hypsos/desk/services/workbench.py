# SPDX-License-Identifier: GPL-3.0-or-later
"""The workbench: what a window and its pages are given to work with, part by part."""

from __future__ import annotations

import time
from collections.abc import Callable

from hypsos.core.document.document import Model
from hypsos.core.rundown import Attention, attentions
from hypsos.desk.services.companions import Companions
from hypsos.desk.session.bench_state import BenchState
from hypsos.desk.session.document_session import DocumentSession
from hypsos.desk.session.notices import Notices
from hypsos.desk.session.simulation import Simulation
from hypsos.hangar import Hangar


class Workbench:
    """The parts that belong together in one window.

    ``state``: the model on the bench as it is now, to be read. ``simulation``: hands and time.
    ``document``: which model, edits, their history. ``notices``: what is to be said.
    ``companions``: the search, the scenarios, the recorder, the voice."""

    def __init__(
        self, hangar: Hangar, name: str | None = None, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.state = BenchState()
        self.simulation = Simulation(self.state, clock)
        self.notices = Notices()
        self.document = DocumentSession(hangar, self.simulation, self.notices)
        self.companions = Companions(self.document)
        self._looked_at: Model | None = None
        self._attentions: list[Attention] = []
        if name is not None:
            self.document.open(name)

    @property
    def model(self) -> Model | None:
        """The model on the bench."""
        return self.state.model

    @property
    def loaded(self) -> Model:
        """The model on the bench, for a page that is only shown while there is one."""
        return self.state.loaded

    def attentions(self) -> list[Attention]:
        """What asks for a second look in the model on the bench; what the document says is worked
        out once for each edit."""
        if self.model is None:
            return []
        if self._looked_at is not self.model:
            self._looked_at, self._attentions = self.model, list(attentions(self.model))
        return [*self._attentions, *self.companions.attentions()]
