# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions as text: what is asked, taken apart in one place.

A condition is written as text: a logical switch ``armed``, a switch position ``flap_switch@2``
(numbered from 0), a counter's position ``step@1``, a flight mode ``mode:thermal``, the guard's
state ``guard:armed``, a timer that has run out ``timer:flight``, the link ``link``, the receiver's
``power``; each negated by ``!`` in front."""

import re
from functools import cache
from typing import Annotated, NamedTuple

from pydantic import Field

CONDITION = r"^!?((mode:|guard:|timer:)?[a-z][a-z0-9_]{0,39}|[a-z][a-z0-9_]{0,39}@[0-9]{1,2})$"
Condition = Annotated[str, Field(pattern=CONDITION)]
_PARTS = re.compile(r"^(!?)(mode:|guard:|timer:)?([a-z][a-z0-9_]*)(?:@([0-9]+))?$")


class ConditionQuestion(NamedTuple):
    """What a condition asks: a switch's or a counter's position, a flag, link or power; or, in a
    ``realm`` of its own, a flight ``mode``, a state of the ``guard``, a ``timer``; perhaps its
    contrary."""

    negated: bool
    realm: str
    name: str
    position: int | None

    @property
    def key(self) -> str:
        """What it hangs on, with modes, states of the guard and timers told from flags."""
        return f"{self.realm}:{self.name}" if self.realm else self.name


def opposite(text: str) -> str:
    """The condition that holds where this one does not."""
    return text[1:] if text.startswith("!") else f"!{text}"


@cache
def asked(text: str) -> ConditionQuestion:
    """A condition's text as what it asks; it is taken apart here and nowhere else.

    >>> asked("!flap_switch@2")
    ConditionQuestion(negated=True, realm='', name='flap_switch', position=2)
    """
    match = _PARTS.match(text)
    if match is None:
        raise ValueError(f"{text!r} is not a condition")
    return ConditionQuestion(
        bool(match[1]),
        (match[2] or "").rstrip(":"),
        match[3],
        int(match[4]) if match[4] is not None else None,
    )
