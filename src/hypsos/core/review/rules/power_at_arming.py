# SPDX-License-Identifier: GPL-3.0-or-later
"""M6: nothing that was wound up before comes out as the motor is armed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, Statement
from hypsos.core.review.search.motor_replay import ARMED, MORE
from hypsos.core.review.search.motor_rule import MotorAct, MotorRule, MotorWords
from hypsos.core.review.search.replay import Check, Played
from hypsos.core.review.search.state_search import SearchStep


class PowerAtArming(MotorRule):
    """A motor that starts at once as it is armed, with more than the guard calls low."""

    code = "M6"
    straight = True

    def by_act(self, act: MotorAct, n: int) -> tuple[Flags, Array] | None:
        if act.brings_back:
            return None
        more = act.more(n)
        starts = (more > MORE) & act.armed & (more > self.search.let_by) & ~act.was_armed
        if not starts.any():
            return None
        return np.asarray(starts & act.linked), more

    def check(self, n: int, later: bool) -> Check:
        def check(played: Played) -> bool:
            return self._arming_frame(played, n) is not None

        return check

    def _arming_frame(self, played: Played, n: int) -> int | None:
        """A frame soon after arming in which the motor turns, and the hands have done nothing
        since."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands = self.motors.risen(played, n)
        too_much = -100.0 + self.search.let_by
        for at in (np.flatnonzero((guard[1:] == ARMED) & (guard[:-1] != ARMED)) + 1).tolist():
            if at < played.last:
                continue
            if stands[at:].max() > too_much:
                return int(at + np.argmax(stands[at:] > too_much))
        return None

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        power = power_percent(float(self.motors.standing(played, n)[-1]))
        part = self.motors.pushing(played, n) or "program.guard.level"
        text = f"As the motor is armed, {self.motors.label(n)} starts at once with {number(power)} % power."
        return MotorWords(part, text, "danger")


def repairs(model: Model, _finding: Finding) -> Repairs:
    """The stick asked for at low."""
    guard = model.program.guard
    if guard is not None and guard.level < 2:
        yield "Ask for the stick low to arm", lambda: with_at(model, "program.guard.level", 2)


STATEMENT = Statement(
    "M6", "Nothing that was wound up before comes out as the motor is armed.", "danger", "motors",
    motors=PowerAtArming, repairs=repairs,
)  # fmt: skip
