# SPDX-License-Identifier: GPL-3.0-or-later
"""Responses and mix lines: the two building blocks everything else is made of."""

import itertools
from collections.abc import Iterator
from typing import Annotated, Literal, Self, TypeVar

from pydantic import Field, field_validator, model_validator

from hypsos.core.base.backends import Array
from hypsos.core.base.values import Label, Name, Percent, Seconds, Travel, Value
from hypsos.core.parts.condition_text import Condition

Points = tuple[tuple[Travel, Percent], ...]


class Response(Value):
    """A curve through points ``[x, y]``, x strictly rising within -100...100, y within -150...150.

    ``straight`` is linear between the points, ``smooth`` a monotone piecewise cubic that never
    overshoots. Beyond the first and last point the end value holds.

    The points of the numbers ``live`` (from 0) are moved while flying: the shared value
    ``live_from`` is added to their y, which stays within -150...150; ``live_odd``: from that of
    points left of the middle it is taken."""

    points: Annotated[Points, Field(max_length=33)]
    shape: Literal["straight", "smooth"] = "straight"
    live: Annotated[tuple[Annotated[int, Field(ge=0, le=32)], ...], Field(max_length=33)] = ()
    live_from: Name | None = None
    live_odd: bool = False

    def lifted(self, by: float) -> Points:
        """The points with ``by`` added to those that move in flight."""
        points = list(self.points)
        for place in set(self.live):
            x, y = points[place]
            # of an odd response the left half moves the other way
            more = -by if self.live_odd and x < 0 else by
            points[place] = (x, min(150.0, max(-150.0, y + more)))
        return tuple(points)

    @field_validator("points")
    @classmethod
    def _rising(cls, value: Points) -> Points:
        if not 2 <= len(value) <= 33:
            raise ValueError("a response has from 2 to 33 points")
        for i, (left, right) in enumerate(itertools.pairwise(value)):
            if not left[0] < right[0]:
                raise ValueError(
                    f"point {i + 2} at x = {right[0]:g} does not lie to the right of point {i + 1} at x = {left[0]:g}"
                )
        return value

    @model_validator(mode="after")
    def _live_ones_exist(self) -> Self:
        if bool(self.live) != (self.live_from is not None):
            raise ValueError(
                "points that move in flight need a shared value that moves them, and it needs points"
            )
        if any(i >= len(self.points) for i in self.live) or len(set(self.live)) < len(self.live):
            raise ValueError(
                f"a point that moves in flight is one of the {len(self.points)} there are, each once"
            )
        return self


def held_differential(differential: float, percent: float) -> float:
    """A differential times ``percent`` of a shared value, as a line holds it: it never takes more
    than all there is, and never gives anything."""
    taken = min(100.0, max(0.0, abs(differential) * percent / 100.0))
    return taken if differential >= 0 else -taken


Amount = TypeVar("Amount", float, Array)


def combined(total: Amount, value: Amount, combine: str) -> Amount:
    """A sum after one more line, both in percent: a line adds, takes the place of what comes before
    it, or scales it."""
    if combine == "replace":
        return value
    if combine == "scale":
        return total * value / 100.0
    return total + value


class MixLine(Value):
    """One line: ``gain/100 * response(source)``, added to ``target``.

    ``source`` is a command, a control, another target, a signal or ``full`` (a constant 100).
    Without a response the source passes unchanged, beyond 100 % too. ``differential`` d takes from
    the down-going side (d > 0) or from the up-going side (d < 0) of this line, in percent;
    ``differential_off`` names a signal (brake) that suppresses it in proportion,
    ``differential_from`` a shared value that multiplies it; what comes out is held between nothing
    and 100 %. ``in_s`` and ``out_s`` are the seconds in which the response may rise or fall by 100
    %, before the gain: *in* means more of the behaviour, whatever the sign of the gain.
    ``gain_from`` names a shared value that multiplies: contribution = gain/100 * value/100 *
    response. While ``when`` does not hold the line gives 0 (a line that replaces or scales then
    leaves the sum alone). ``origin`` tells from which behaviour it was detached. ``combine``: add
    to the sum so far, replace it, or scale it by contribution/100.

    ``by_angle``, for a hinged surface: what the line gives is degrees, one for one percent. All
    such lines of a surface are summed as an angle, and the angle becomes the percent with which the
    surface stands at it: what goes to several sections of a wing turns them all alike, whatever
    their throws.

    A motor is counted from idle: its sum starts at -100, a line that reads the thrust command gives
    ``gain/100 * (response(thrust) + 100)``, and replace and scale act on the amount above idle.
    """

    name: Label
    target: Name
    source: Name
    gain: Annotated[float, Field(ge=-500, le=500)] = 100.0
    response: Response | None = None
    differential: Annotated[float, Field(ge=-100, le=100)] = 0.0
    with_trim: bool = True
    in_s: Seconds = 0.0
    out_s: Seconds = 0.0
    when: Condition | None = None
    combine: Literal["add", "replace", "scale"] = "add"
    gain_from: Name | None = None
    differential_off: Name | None = None
    differential_from: Name | None = None
    origin: Name | None = None
    by_angle: bool = False

    def asks(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, condition)."""
        return () if self.when is None else (("when", self.when),)

    def reads(self) -> tuple[tuple[str, str], ...]:
        """Pairs of (field, signal)."""
        if self.differential_off is None:
            return (("source", self.source),)
        return ("source", self.source), ("differential_off", self.differential_off)

    def signals(self) -> set[str]:
        """The signals that it reads."""
        return {name for _, name in self.reads()}

    def shares(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, shared value)."""
        if self.gain_from is not None:
            yield "gain_from", self.gain_from
        if self.differential_from is not None:
            yield "differential_from", self.differential_from
        if self.response is not None and self.response.live_from is not None:
            yield "response.live_from", self.response.live_from

    def reads_shared(self) -> tuple[str, ...]:
        """The shared values that it reads; one that acts in two places stands twice."""
        return tuple(name for _, name in self.shares())
