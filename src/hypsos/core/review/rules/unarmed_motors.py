# SPDX-License-Identifier: GPL-3.0-or-later
"""M1: while the motor is not armed, no motor leaves its idle pulse."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.review.rules.failsafe_repairs import failsafe_repairs
from hypsos.core.review.rules.statement import Statement
from hypsos.core.review.search.motor_replay import ARMED, TURNS
from hypsos.core.review.search.motor_rule import MotorRule, MotorStates, MotorWords
from hypsos.core.review.search.replay import Check, Played
from hypsos.core.review.search.state_search import SearchStep


class UnarmedMotors(MotorRule):
    """A motor that is told to turn while it is not armed: by the transmitter, or by the receiver
    without one."""

    code = "M1"
    cause = "preset"

    def in_states(self, states: MotorStates) -> Flags:
        return np.asarray(states.turns & states.held & (states.link | states.failsafe))

    def check(self, n: int, later: bool) -> Check:
        def check(played: Played) -> bool:
            trace = played.result.outputs[self.search.leads[n].name]
            link = np.array(
                [played.at("link", i) * played.at("power", i) > 0.5 for i in range(len(played.t_s))]
            )
            held = played.result.guard != ARMED
            return bool(
                np.any(
                    (self.motors.standing(played, n) > -100.0 + TURNS)
                    & held
                    & (link | trace.failsafe)
                )
            )

        return check

    def stands(self, n: int, played: Played) -> Array:
        return np.asarray(self.motors.standing(played, n)[played.result.guard != ARMED])

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        power = power_percent(float(self.motors.standing(played, n).max()))
        text = f"{self.motors.label(n)} runs with {number(power)} % power though the motor is not armed."
        return MotorWords(f"leads[{self.search.index[n]}].failsafe", text, "danger")


STATEMENT = Statement(
    "M1", "While the motor is not armed, no motor leaves its idle pulse.", "danger", "motors",
    motors=UnarmedMotors, repairs=failsafe_repairs,
)  # fmt: skip
