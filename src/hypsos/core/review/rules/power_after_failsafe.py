# SPDX-License-Identifier: GPL-3.0-or-later
"""M3: with the link lost, every motor is at idle once the failsafe acts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.review.rules.failsafe_repairs import failsafe_repairs
from hypsos.core.review.rules.statement import Statement
from hypsos.core.review.search.motor_replay import TURNS
from hypsos.core.review.search.motor_rule import MotorRule, MotorStates, MotorWords
from hypsos.core.review.search.replay import Check, Played
from hypsos.core.review.search.state_search import SearchStep


class PowerAfterFailsafe(MotorRule):
    """A motor that turns on what its receiver tells it without the link."""

    code = "M3"
    cause = "preset"
    as_lived = True

    def in_states(self, states: MotorStates) -> Flags:
        return np.asarray(states.turns & states.failsafe)

    def check(self, n: int, later: bool) -> Check:
        def check(played: Played) -> bool:
            trace = played.result.outputs[self.search.leads[n].name]
            return bool(np.any((self.motors.standing(played, n) > -100.0 + TURNS) & trace.failsafe))

        return check

    def stands(self, n: int, played: Played) -> Array:
        stands = self.motors.standing(played, n)
        failsafe = played.result.outputs[self.search.leads[n].name].failsafe
        return np.asarray(stands[np.broadcast_to(failsafe, stands.shape)])

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        after = plain(self.model.receiver.failsafe_after_s)
        power = power_percent(float(self.stands(n, played).max(initial=-100.0)))
        text = f"{after} s after the link is lost {self.motors.label(n)} still runs with {number(power)} % power."
        return MotorWords(f"leads[{self.search.index[n]}].failsafe", text, "danger")


STATEMENT = Statement(
    "M3", "With the link lost, every motor is at idle once the failsafe acts.", "danger", "motors",
    motors=PowerAfterFailsafe, repairs=failsafe_repairs,
)  # fmt: skip
