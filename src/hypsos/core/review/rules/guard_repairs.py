# SPDX-License-Identifier: GPL-3.0-or-later
"""What mends a motor that starts again by itself: the whole guard."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs

WHOLE_GUARD = 4


def lock_after_lost_link(model: Model, finding: Finding) -> Repairs:
    """The guard raised to the level that locks the motor after a lost link, where the finding names
    its level."""
    guard = model.program.guard
    if guard is not None and finding.part == "program.guard.level" and guard.level < WHOLE_GUARD:
        yield (
            "Lock the motor after a lost link",
            lambda: with_at(model, "program.guard.level", WHOLE_GUARD),
        )
