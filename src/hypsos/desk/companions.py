"""What goes along with a workbench in a window: the guard's history, the recorder, the trials, the search, the voice."""

from __future__ import annotations

from hypsos.desk.guardlog import GuardLog
from hypsos.desk.recorder import Recorder
from hypsos.desk.shaking import Shaking
from hypsos.desk.trials import Trials
from hypsos.desk.voice import Voice
from hypsos.desk.workbench import Workbench


def accompany(workbench: Workbench) -> None:
    """Give the workbench its companions, once the bench is on the screen."""
    workbench.guard_log = GuardLog(workbench)
    workbench.recorder = Recorder(workbench)
    workbench.trials = Trials(workbench)
    workbench.trials.changed.connect(workbench.trials_changed)
    workbench.shaking = Shaking(workbench)
    workbench.shaking.changed.connect(workbench.trials_changed)
    workbench.shaking.went_on.connect(workbench.searching)
    workbench.voice = Voice(workbench)
