# SPDX-License-Identifier: GPL-3.0-or-later
"""W3: the receiver's number is no other model's."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.statement import DocumentQuestion, Statement


def numbers(ask: Ask) -> Iterator[Finding]:
    """Receivers of the hangar with the same number."""
    own = ask.model.receiver.number
    for name in sorted(
        n for n, x in ask.others.items() if own and x == own and n != ask.model.name
    ):
        text = f"{name} has receiver number {own} too: the wrong model could be flown."
        yield Finding("W3", "fault", "receiver.number", text)


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """The numbers of the hangar's receivers."""
    yield DocumentQuestion("receiver numbers", lambda: numbers(ask), len(ask.others) + 1)


STATEMENT = Statement(
    "W3", "The receiver's number is no other model's.", "fault", "plugs",
    on_paper=True, document=on_paper,
)  # fmt: skip
