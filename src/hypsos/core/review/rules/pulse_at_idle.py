# SPDX-License-Identifier: GPL-3.0-or-later
"""M5: at idle every motor's lead gives the pulse at which its controller is off."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.document.document import Model
from hypsos.core.explain.idle_pulse import idle_dangers, idle_mended
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, Statement, lead_place
from hypsos.core.review.search.motor_rule import MotorRule


class PulseAtIdle(MotorRule):
    """A controller that is told something else than *off* at idle."""

    code = "M5"
    searches = False

    def beside(self) -> Iterator[Finding]:
        for i, text in idle_dangers(self.model):
            target = self.model.leads[i].target
            yield Finding("M5", "danger", f"leads[{i}].idle_us", text, seen=(target,))


def repairs(model: Model, finding: Finding) -> Repairs:
    """Its idle pulse set."""
    i = lead_place(finding)
    if i is not None:
        yield "Set its idle pulse", lambda: idle_mended(model, i)


STATEMENT = Statement(
    "M5", "At idle every motor's lead gives the pulse at which its controller is off.", "danger", "motors",
    motors=PulseAtIdle, repairs=repairs,
)  # fmt: skip
