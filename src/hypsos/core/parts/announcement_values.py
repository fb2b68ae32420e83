# SPDX-License-Identifier: GPL-3.0-or-later
"""What the transmitter says by itself: announcements, and timers with their chosen moments."""

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.base.values import Label, Name, Value
from hypsos.core.parts.condition_text import Condition

RANKS = ("danger", "state", "remark")
"""How urgent a caption is, the most urgent first."""
Rank = Literal["danger", "state", "remark"]
MOMENTS = ("begins", "ends", "while")
LONGEST_S = 86_400


class Announcement(Value):
    """A caption said when ``when`` begins to hold, when it ends, or, ``while`` it holds, at once
    and every ``every_s``."""

    caption: Label
    when: Condition
    moment: Literal["begins", "ends", "while"] = "begins"
    every_s: Annotated[float, Field(ge=0.5, le=600)] = 5.0
    rank: Rank = "state"

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        return (("when", self.when),)

    def reads(self) -> tuple[tuple[str, str], ...]:
        """It reads no signal."""
        return ()

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no shared value."""
        return ()


class Timer(Value):
    """Counts while ``when`` holds, from the moment when it begins; ``reset`` starts it anew as it
    begins to hold.

    ``span_s``: *down* it counts from there to nothing and on; *up* it has run out there, where that
    is more than nothing. Said are the readings in ``moments`` (0: that it has run out), every
    ``every_s`` of the reading, and each of the ``last_s`` seconds before it runs out. ``keeps``:
    its reading is kept while the transmitter is off. All times in seconds."""

    name: Name
    label: Label = "Timer"
    counts: Literal["up", "down"] = "up"
    span_s: Annotated[float, Field(ge=0, le=LONGEST_S)] = 0.0
    when: Condition
    reset: Condition | None = None
    moments: Annotated[
        tuple[Annotated[float, Field(ge=0, le=LONGEST_S)], ...], Field(max_length=20)
    ] = ()
    every_s: Annotated[float, Field(ge=0, le=LONGEST_S)] = 0.0
    last_s: Annotated[int, Field(ge=0, le=60)] = 0
    keeps: bool = False

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        if self.reset is None:
            return (("when", self.when),)
        return (("when", self.when), ("reset", self.reset))

    def reads(self) -> tuple[tuple[str, str], ...]:
        """It reads no signal."""
        return ()

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no shared value."""
        return ()

    def reading(self, elapsed_s: float) -> float:
        """What it shows after so many seconds of counting, in seconds."""
        return self.span_s - elapsed_s if self.counts == "down" else elapsed_s

    def elapsed(self, reading_s: float) -> float:
        """After how many seconds of counting it shows this."""
        return self.span_s - reading_s if self.counts == "down" else reading_s
