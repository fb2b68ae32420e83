# SPDX-License-Identifier: GPL-3.0-or-later
"""F1: no motor runs on what it was told to do without the link."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.failsafe_repairs import failsafe_repairs
from hypsos.core.review.rules.statement import Statement
from hypsos.core.review.search.motor_replay import TURNS
from hypsos.core.review.search.motor_rule import MotorRule


class PowerWithoutLink(MotorRule):
    """A motor's own plan for a lost link that leaves it turning."""

    code = "F1"
    searches = False

    def beside(self) -> Iterator[Finding]:
        for i in self.search.index:
            lead = self.model.leads[i]
            safe = lead.failsafe
            if safe is None or safe.action != "preset" or lead.port is None:
                continue
            power = power_percent(safe.value)
            if power > TURNS / 2:
                text = (
                    f"Without the link {lead.label} is commanded to run with {number(power)} % power, and no guard can stop it "
                    "then."
                )
                cause = f"preset of {lead.name}"
                yield Finding(
                    "F1", "danger", f"leads[{i}].failsafe", text, seen=(lead.target,), cause=cause
                )


STATEMENT = Statement(
    "F1", "No motor runs on what it was told to do without the link.", "danger", "lost link",
    motors=PowerWithoutLink, repairs=failsafe_repairs,
)  # fmt: skip
