# SPDX-License-Identifier: GPL-3.0-or-later
"""A stretch of the timeline becomes a scenario of the model."""

from __future__ import annotations

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import first_free
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState
from hypsos.core.scenarios.scenario_from_recording import kept
from hypsos.desk.services.workbench import Workbench


def free_label(model: Model, stem: str = "Scenario") -> str:
    """A name that no scenario has yet."""
    return first_free(stem, {x.label for x in model.scenarios})


def keep_stretch(workbench: Workbench, start_s: float, end_s: float) -> None:
    """Add what happened between two times to the scenarios, as one named step. Raises HypsosError
    where that cannot be."""
    recorder, plan, model = workbench.companions.recorder, workbench.state.plan, workbench.loaded
    if plan is None:
        raise HypsosError("nothing is recorded yet", "", "Move a stick or a switch first.")
    a, b = max(0, recorder.index_at(start_s)), recorder.index_at(end_s) + 1
    if b - a < 2:
        raise HypsosError(
            "there is nothing to keep in that time",
            "",
            "Mark a stretch in which something happened.",
        )
    stretch, shown = recorder.replayed(a, b)
    guard = recorder.value(a, "guard:")
    state = GuardState(int(guard)) if guard is not None else GuardState.ARMED
    label = free_label(model)
    made = kept(model, plan, stretch, state, label, shown)
    workbench.document.apply(
        model.changed({"scenarios": (*model.scenarios, made.scenario)}), f"scenario {label}"
    )
    if made.said:
        workbench.notices.noticed.emit(made.said)
