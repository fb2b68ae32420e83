# SPDX-License-Identifier: GPL-3.0-or-later
"""W1: every servo that needs a port of its own has one."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.dependencies.y_leads import lines_by_target, parted, y_lead_problem
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.statement import (
    DocumentQuestion,
    Repairs,
    Statement,
    lead_place,
    place_in,
)


def plugs(model: Model) -> Iterator[Finding]:
    """Servos that do not get what they need from a port of their own."""
    any_plugged = any(x.port is not None for x in model.leads)
    for i, lead in enumerate(model.leads):
        if lead.port is None and any_plugged:
            yield Finding(
                "W1",
                "fault",
                f"leads[{i}].port",
                f"{lead.label} is not plugged in.",
                seen=(lead.target,),
            )
        elif lead.port is not None and lead.port > model.receiver.ports:
            text = f"{lead.label} sits in port {lead.port}, and the receiver has {model.receiver.ports}."
            yield Finding("W1", "fault", f"leads[{i}].port", text, seen=(lead.target,))
    joined = {frozenset((y.first, y.second)) for y in model.y_leads}
    ports: dict[int, str] = {}
    for i, lead in enumerate(model.leads):
        if lead.port is None:
            continue
        first = ports.setdefault(lead.port, lead.name)
        if first != lead.name and frozenset((first, lead.name)) not in joined:
            text = f"{lead.label} and another lead both sit in port {lead.port}."
            yield Finding("W1", "fault", f"leads[{i}].port", text, seen=(lead.target,))
    for i, y in enumerate(model.y_leads):
        problem = y_lead_problem(model, y, lines_by_target(model))
        if problem is not None:
            text = f"{problem[0][:1].upper()}{problem[0][1:]}. {problem[1]}"
            yield Finding("W1", "fault", f"y_leads[{i}]", text)


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """What sits in which port."""
    yield DocumentQuestion("plugs", lambda: plugs(ask.model), len(ask.model.leads))


def repairs(model: Model, finding: Finding) -> Repairs:
    """A free port, or a port for each of two leads that can't share one."""
    i = lead_place(finding)
    used = {x.port for x in model.leads} | {model.receiver.power_port}
    free = next((n for n in range(1, model.receiver.ports + 1) if n not in used), None)
    if i is not None and free is not None:
        yield f"Plug it into port {free}", lambda: with_at(model, f"leads[{i}].port", free)
    y = place_in(finding.part, "y_leads")
    if y is not None:
        second = next(k for k, x in enumerate(model.leads) if x.name == model.y_leads[y].second)

        def split() -> Model:
            return with_at(parted(model, y), f"leads[{second}].port", free)

        yield "Give each a port of its own", split


STATEMENT = Statement(
    "W1", "Every servo that needs a port of its own has one.", "fault", "plugs",
    on_paper=True, document=on_paper, repairs=repairs,
)  # fmt: skip
