# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes along with the bench: the guard's history, the recorder, the scenarios, the search, the
voice."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hypsos.core.rundown import Attention
from hypsos.desk.session.document_session import DocumentSession

if TYPE_CHECKING:
    from hypsos.desk.services.guard_history import GuardHistory
    from hypsos.desk.services.keying_client import KeyingClient
    from hypsos.desk.services.recorder import Recorder
    from hypsos.desk.services.scenario_runner import ScenarioRunner
    from hypsos.desk.services.search_client import SearchClient
    from hypsos.desk.services.speaker import Speaker


class Companions(QObject):
    """Each is made when it is first asked for, and all of them once the bench is on the screen
    (:meth:`begin`): a start does not wait for them."""

    findings_changed = pyqtSignal()
    """What came of the scenarios or of the search is known, or known anew."""
    searching = pyqtSignal()
    """A search has begun, come further, or ended."""

    def __init__(self, document: DocumentSession) -> None:
        super().__init__()
        self._document, self._simulation = document, document.simulation
        self.begun = False
        """Whether all of them are there."""

    def begin(self) -> None:
        """Make all of them."""
        self.begun = True
        for made in (self.guard_history, self.recorder, self.scenarios, self.search, self.voice):
            assert made is not None

    def end(self) -> None:
        """The window goes: nothing is said or searched any more."""
        if self.begun:
            self.voice.stop()
            self.search.end()
        if "keying" in self.__dict__:  # only where a sheet was looked at
            self.keying.end()

    @cached_property
    def guard_history(self) -> GuardHistory:
        """What the guard did last."""
        from hypsos.desk.services.guard_history import GuardHistory

        return GuardHistory(self._simulation)

    @cached_property
    def recorder(self) -> Recorder:
        """The last two minutes."""
        from hypsos.desk.services.recorder import Recorder

        return Recorder(self._simulation)

    @cached_property
    def scenarios(self) -> ScenarioRunner:
        """What comes of the scenarios."""
        from hypsos.desk.services.scenario_runner import ScenarioRunner

        made = ScenarioRunner(self._simulation)
        made.changed.connect(self.findings_changed)
        return made

    @cached_property
    def keying(self) -> KeyingClient:
        """What takes its time of a sheet."""
        from hypsos.desk.services.keying_client import KeyingClient

        return KeyingClient(self._document)

    @cached_property
    def search(self) -> SearchClient:
        """What the search for what goes wrong has found."""
        from hypsos.desk.services.search_client import SearchClient

        made = SearchClient(self._document)
        made.changed.connect(self.findings_changed)
        made.went_on.connect(self.searching)
        return made

    @cached_property
    def voice(self) -> Speaker:
        """What the model says."""
        from hypsos.desk.services.speaker import Speaker

        return Speaker(self._simulation)

    def broken(self) -> list[Attention]:
        """What of the scenarios is not met, as far as it is known."""
        return self.scenarios.attentions() if self.begun else []

    def attentions(self) -> list[Attention]:
        """What the search and the scenarios found that asks for a second look, as far as it is
        known."""
        return [*self.search.attentions(), *self.broken()] if self.begun else []
