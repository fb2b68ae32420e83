# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes along with a workbench in a window: the guard's history, the recorder, the trials, the search, the voice."""

from __future__ import annotations

from hypsos.desk.services.guard_history import GuardHistory
from hypsos.desk.services.recorder import Recorder
from hypsos.desk.services.scenario_runner import ScenarioRunner
from hypsos.desk.services.search_client import SearchClient
from hypsos.desk.services.speaker import Speaker
from hypsos.desk.session.document_session import DocumentSession


def accompany(workbench: DocumentSession) -> None:
    """Give the workbench its companions, once the bench is on the screen."""
    workbench.guard_log = GuardHistory(workbench)
    workbench.recorder = Recorder(workbench)
    workbench.trials = ScenarioRunner(workbench)
    workbench.trials.changed.connect(workbench.trials_changed)
    workbench.shaking = SearchClient(workbench)
    workbench.shaking.changed.connect(workbench.trials_changed)
    workbench.shaking.went_on.connect(workbench.searching)
    workbench.voice = Speaker(workbench)
