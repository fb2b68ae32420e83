# SPDX-License-Identifier: GPL-3.0-or-later
"""What mends a part that does the wrong thing without the link: its usual failsafe, or one of its
two ends."""

from __future__ import annotations

from functools import partial

from hypsos.core.dependencies.failsafe_defaults import two_ended, usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.leads import Failsafe
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import Repairs, lead_place
from hypsos.core.wording.words import sense_words


def failsafe_repairs(model: Model, finding: Finding) -> Repairs:
    """Another failsafe for the lead that a finding names."""
    i = lead_place(finding)
    if i is None:
        return
    part = next(p for p in model.airframe.moved() if p.name == model.leads[i].target)
    if two_ended(part):
        for words, value in zip(sense_words(part), (-100.0, 100.0), strict=True):
            made = Failsafe(value=value, meant=True)
            yield (
                f"{words.capitalize()} without the link",
                partial(with_at, model, f"leads[{i}].failsafe", made),
            )
        return
    safe = usual_failsafe(part)
    words = "Stop it without the link" if safe.value <= -100 else "Neutral without the link"
    yield words, lambda: with_at(model, f"leads[{i}].failsafe", safe)
