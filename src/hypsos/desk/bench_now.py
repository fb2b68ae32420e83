"""The bench as it is now: the model on it, and what is known of its motors, its flight mode and its shared values."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject

from hypsos.core.engine import GuardState, Plan, Result
from hypsos.core.model.document import Model
from hypsos.core.model.words import power_percent
from hypsos.core.parts.logic import FlightMode
from hypsos.core.parts.wiring import Lead
from hypsos.desk.live import Live

if TYPE_CHECKING:
    from hypsos.core.fitting.practice import Practice


class Bench(QObject):
    """A model, its plan and its live state; nothing changes here."""

    def __init__(self) -> None:
        super().__init__()
        self.model: Model | None = None
        self.plan: Plan | None = None
        self.live = Live({})
        self.practice: Practice | None = None

    @property
    def loaded(self) -> Model:
        """The model on the bench, for a page that is only shown while there is one."""
        assert self.model is not None
        return self.model

    def lead_index(self, name: str) -> int:
        """The place of a lead in the list."""
        return [x.name for x in self.loaded.leads].index(name)

    def lead(self, name: str) -> Lead:
        """A lead of the model on the bench."""
        return self.loaded.leads[self.lead_index(name)]

    def _is_switch(self, name: str | None) -> bool:
        control = self.model.transmitter.control(name) if self.model is not None and name is not None else None
        return control is not None and control.is_switch

    def shared_now(self) -> dict[str, float]:
        """Every shared value as it is on the bench now, adjusted in flight."""
        result = self.live.result
        return {} if result is None else {n: float(np.ravel(x)[-1]) for n, x in result.shared.items()}

    @property
    def shown(self) -> Result | None:
        """What the aeroplane on the bench does: the model's, or that of the one to practise on."""
        result = self.live.result
        if result is None or self.practice is None or self.plan is None:
            return result
        from hypsos.core.fitting.practice import really

        return really(self.plan, result, self.practice)

    @property
    def guard(self) -> GuardState:
        """The motors' release, now."""
        result = self.live.result
        return GuardState.STOPPED if result is None else GuardState(int(result.guard[-1]))

    @property
    def guard_words(self) -> str:
        """The motors' release, now, and why not where a motor stands in its way."""
        from hypsos.core.flight.release import release_words

        if self.model is None or self.live.result is None:
            return ""
        return release_words(self.model, self.live.result, self.live.link >= 0.5 and self.live.power >= 0.5)

    @property
    def mode(self) -> FlightMode | None:
        """The flight mode flown now; None for a model without modes."""
        result = self.live.result
        if self.model is None or result is None or not self.model.program.modes:
            return None
        return self.model.program.modes[int(np.ravel(result.modes)[-1])]

    @property
    def mode_label(self) -> str:
        """What people call the flight mode flown now; empty for a model without modes."""
        return self.mode.label if self.mode is not None else ""

    @property
    def mode_name(self) -> str:
        """The name of the flight mode flown now; ``base`` for a model without modes."""
        return self.mode.name if self.mode is not None else "base"

    @property
    def turning(self) -> bool:
        """True while a propeller turns."""
        return any(p > 0.05 for p in self.powers().values())

    def powers(self) -> dict[str, float]:
        """Motor -> power in percent, 0...100, now."""
        shown = self.shown
        if self.model is None or shown is None:
            return {}
        motors = {m.name for m in self.model.airframe.motors}
        outputs = shown.outputs
        return {
            x.target: power_percent(float(outputs[x.name].stand[-1])) for x in self.model.leads if x.target in motors
        }
