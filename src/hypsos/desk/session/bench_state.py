# SPDX-License-Identifier: GPL-3.0-or-later
"""The bench as it is now: the model on it, and what is known of its motors, its flight mode and its
shared values."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hypsos.core.base.lookup import the_place
from hypsos.core.base.memory import Memory
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Plan, Result
from hypsos.core.engine.situation import fed
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Lead
from hypsos.desk.session.live_state import Live

if TYPE_CHECKING:
    from hypsos.core.explain.explain_condition import Moment
    from hypsos.core.explain.motor_words import MotorSaid
    from hypsos.core.fitting.practice_faults import Practice


class BenchState:
    """A model, its plan and its live state. The simulation writes them; everybody else reads and
    asks.

    ``practice``: an aeroplane with hidden wiring that stands on the bench in the place of the
    model's own."""

    def __init__(self) -> None:
        self.model: Model | None = None
        self.plan: Plan | None = None
        self.live = Live({})
        self.changing = False
        """In the middle of an edit: what is shown is still the model's before."""
        self.practice: Practice | None = None
        self._said: tuple[tuple[object, ...], MotorSaid] | None = None

    @property
    def loaded(self) -> Model:
        """The model on the bench, for a page that is only shown while there is one."""
        assert self.model is not None
        return self.model

    def lead_index(self, name: str) -> int:
        """The place of a lead in the list."""
        return the_place([x.name for x in self.loaded.leads], name)

    def lead(self, name: str) -> Lead:
        """A lead of the model on the bench."""
        return self.loaded.leads[self.lead_index(name)]

    def is_switch(self, name: str | None) -> bool:
        """Whether a control is a switch of the model on the bench."""
        control = (
            self.model.transmitter.control(name)
            if self.model is not None and name is not None
            else None
        )
        return control is not None and control.is_switch

    def shared_now(self) -> dict[str, float]:
        """Every shared value as it is on the bench now, adjusted in flight."""
        result = self.live.result
        return (
            {} if result is None else {n: float(np.ravel(x)[-1]) for n, x in result.shared.items()}
        )

    @property
    def shown(self) -> Result | None:
        """What the aeroplane on the bench does: the model's, or that of the one to practise on."""
        result = self.live.result
        if result is None or self.practice is None or self.plan is None:
            return result
        from hypsos.core.fitting.practice_faults import really

        return really(self.plan, result, self.practice, self.flight_battery)

    @property
    def receiver_fed(self) -> bool:
        """Whether the receiver has power now: of its own battery, or of the flight battery."""
        return self._fed[0]

    @property
    def flight_battery(self) -> bool:
        """Whether the motors' battery is in."""
        return self._fed[1]

    @property
    def _fed(self) -> tuple[bool, bool]:
        power, battery = self.live.power >= 0.5, self.live.flight_battery >= 0.5
        if self.model is None:
            return power, battery
        receiver, motors = fed(self.model, power, battery)
        return bool(receiver), bool(motors)

    @property
    def connected(self) -> bool:
        """Whether the link carries the hands to the receiver now."""
        return self.live.link >= 0.5 and self.receiver_fed

    @property
    def guard(self) -> GuardState:
        """Whether the motors are armed, now."""
        result = self.live.result
        return GuardState.CUT if result is None else GuardState(int(result.guard[-1]))

    @property
    def moment(self) -> Moment | None:
        """The model, what it does now, and the hands as they stand."""
        from hypsos.core.explain.explain_condition import Moment

        live = self.live
        if self.model is None or live.result is None:
            return None
        return Moment(
            self.model,
            live.result,
            dict(live.controls),
            live.link >= 0.5,
            self.receiver_fed,
            self.flight_battery,
        )

    @property
    def settled_moment(self) -> Moment | None:
        """The same once the model at hand has been computed; None in the middle of an edit, when
        what is shown is still the model's before."""
        return None if self.changing else self.moment

    @property
    def motor_said(self) -> MotorSaid:
        """What is said of the motors now: by what their leads send, and by the guard."""
        from hypsos.core.explain.motor_words import NOTHING_SAID, motor_said

        now = self.moment
        if now is None:
            return NOTHING_SAID
        key = (now.result, self.practice, now.link, now.power, now.flight_battery)
        if self._said is None or any(a is not b for a, b in zip(self._said[0], key, strict=True)):
            sent = None if self.practice is None else self.shown
            self._said = (key, motor_said(now, sent))
        return self._said[1]

    @property
    def guard_words(self) -> str:
        """What is said of the motors now, in a sentence; empty without a motor."""
        return self.motor_said.sentence

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
        """Motor -> power in percent with which it turns now, 0...100."""
        shown = self.shown
        if self.model is None or shown is None:
            return {}
        from hypsos.core.explain.motor_words import turning_powers

        return turning_powers(self.model, shown)

    def trim_clicks(self, command: str) -> int:
        """Where a trim stands on the bench now, in clicks, in the flight mode flown."""
        axis = self.model.program.axis(command) if self.model is not None else None
        if self.model is None or axis is None or axis.trim is None:
            return 0
        from hypsos.core.engine.axes import trim_in_force

        lever = self.live.controls.get(f"{command}_trim", 0.0)
        stands = trim_in_force(self.model, command, self.mode_name, lever, self._memory_now())
        return round(stands / axis.trim.step)

    def _memory_now(self) -> Memory | None:
        """The memory behind what the bench shows: that of the frame computed ahead, where there is
        one."""
        return self.live.result.memory if self.live.result is not None else self.live.memory
