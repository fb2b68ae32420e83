# SPDX-License-Identifier: GPL-3.0-or-later
"""Flight modes: when each is flown, how long the fade into it takes, and its presets."""

from typing import Annotated

from pydantic import Field

from hypsos.core.base.values import Label, Name, Percent, Seconds, Value
from hypsos.core.parts.condition_text import Condition


class FlightMode(Value):
    """A flight mode. The first whose ``when`` holds is flown; the last one has none and is the
    default mode.

    ``presets`` are added to surfaces and motors, in percent; ``fade_s`` is the time to fade into
    this mode."""

    name: Name
    label: Label = "Flight mode"
    when: Condition | None = None
    fade_s: Seconds = 0.0
    presets: Annotated[dict[Name, Percent], Field(max_length=300)] = {}

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        return () if self.when is None else (("when", self.when),)

    def reads(self) -> tuple[tuple[str, str], ...]:
        """It reads no signal."""
        return ()

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no shared value."""
        return ()
