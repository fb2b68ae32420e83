# SPDX-License-Identifier: GPL-3.0-or-later
"""W4: the transmitter has all that the model needs."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.edits.capacity import needs
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.statement import DocumentQuestion, Statement


def room(ask: Ask) -> Iterator[Finding]:
    """What the transmitter that was taken does not have."""
    if not isinstance(ask.profile, Profile):
        return
    for need in needs(ask.model, ask.profile):
        if not need.fits:
            text = f"{ask.profile.name} has {need.has} {need.words}, and this model needs {need.needed}."
            yield Finding("W4", "fault", "transmitter.taken", text)
    for i, axis in enumerate(ask.model.program.axes):
        if axis.trim is not None and axis.command not in ask.profile.trim_levers:
            text = (
                f"{ask.profile.name} has no trim lever for {axis.command}, and this model trims it."
            )
            yield Finding("W4", "fault", f"program.axes[{i}].trim", text)


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """What the transmitter has of each thing."""
    yield DocumentQuestion("the transmitter", lambda: room(ask), 6)


STATEMENT = Statement(
    "W4", "The transmitter has all that the model needs.", "fault", "plugs",
    on_paper=True, document=on_paper,
)  # fmt: skip
