# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes of the hands as they stand once delays, off-delays and pulses have run out.

Sought: everything a motor could be told later, though nobody moves a hand any more. The guard asks
for it before it releases a motor, so that nothing that was on its way before it is armed starts a
motor after it.

What must stay true: nothing is remembered here. A frame is looked at from the frame that really is:
a latch goes on from where it is, an edge is one against the real input, a delay has either run out
or stands as it does. So it works on one frame as on many at once, and no state of the run is
touched.

Why it is right: with the hands still, only time changes anything, and time changes only delays,
off-delays and pulses (slows and fades are taken at their ends by whoever asks). Which of them has
run out first depends on their times; so every choice of them is tried where there are few, and else
all of them, each alone, and all but each.

An example: a motor runs while *late* holds, an on-delay of 20 s from power-up. After 5 s everything
reads idle and the switch goes to run. Here *late* is true in the one choice there is, the motor
would be commanded 30 %, and it is not armed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from hypsos.core.base.backends import Flag
from hypsos.core.base.memory import Memory
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.engine.conditions import LogicPlan

FEW = 3
"""So many delays or fewer are tried in every choice."""


def choices(names: tuple[str, ...]) -> Iterator[frozenset[str]]:
    """The sets of delays that are looked at as run out."""
    every = frozenset(names)
    if len(names) <= FEW:
        for count in range(1, len(names) + 1):
            yield from (frozenset(x) for x in combinations(names, count))
        return
    yield every
    for name in names:
        yield frozenset((name,))
        yield every - {name}


class RunOut:
    """The logical switches and modes of a plan as they are once some delays have run out."""

    def __init__(self, logic: LogicPlan, delays: tuple[str, ...]) -> None:
        self._logic = logic
        self._delays = tuple(n for n in delays if n in logic.nodes)
        self.choices = tuple(choices(self._delays))

    def pending(self, world: ConditionWorld) -> Flag:
        """The frames in which any of these delays is on its way."""
        found: Flag = False
        for name in self._delays:
            found = found | self._logic.conditions[name].on_its_way(world)
        return found

    def look(self, world: ConditionWorld, ended: frozenset[str]) -> ConditionWorld:
        """The conditions, gates and modes once the delays ``ended`` have run out; ``world`` is not
        changed."""
        then = world.copied()
        for members in self._logic.early_groups:
            held_back = {}
            for name in members:
                if (
                    name in self._logic.breaks_circles
                ):  # latches of a circle see each other as they were
                    seen = replace(then, flags=dict(then.flags))
                    self._member(name, world, seen, ended)
                    held_back[name] = seen.flags[name]
                else:
                    self._member(name, world, then, ended)
            then.flags.update(held_back)
        return then

    def _member(
        self, name: str, world: ConditionWorld, then: ConditionWorld, ended: frozenset[str]
    ) -> None:
        condition = self._logic.conditions.get(name)
        if condition is None:
            self._logic.evaluate(name, then, Memory(backend=world.backend))
        else:
            condition.later(world, then, name in ended)
