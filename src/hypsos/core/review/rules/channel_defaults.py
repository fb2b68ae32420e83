# SPDX-License-Identifier: GPL-3.0-or-later
"""W2: no channel that carries a servo is left to a default."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.failsafe_repairs import failsafe_repairs
from hypsos.core.review.rules.statement import DocumentQuestion, Statement


def defaults(model: Model) -> Iterator[Finding]:
    """Servos that nothing moves, and channels for which nobody has said what they do without the
    link."""
    fed = {placed.line.target for placed in all_lines(model)}
    for mode in model.program.modes:
        fed.update(target for target, value in mode.presets.items() if value)
    for i, lead in enumerate(model.leads):
        if lead.port is None:
            continue
        if lead.target not in fed:
            text = f"Nothing moves {lead.label.lower()}: its servo goes by the transmitter's own default."
            yield Finding("W2", "fault", f"leads[{i}]", text, seen=(lead.target,))
        elif lead.failsafe is None and any(x.failsafe is not None for x in model.leads):
            text = f"Nobody has said what {lead.label.lower()} does without the link."
            yield Finding("W2", "fault", f"leads[{i}].failsafe", text, seen=(lead.target,))


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """What each plugged lead is told."""
    yield DocumentQuestion("channels", lambda: defaults(ask.model), len(ask.model.leads))


STATEMENT = Statement(
    "W2", "No channel that carries a servo is left to a default.", "fault", "plugs",
    on_paper=True, document=on_paper, repairs=failsafe_repairs,
)  # fmt: skip
