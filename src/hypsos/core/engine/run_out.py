# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes of the hands as they stand once delays, off-delays and pulses have run out.

Sought: everything a motor could be told later, though nobody moves a hand any more. The guard asks for it before it
releases a motor, so that nothing that was on its way before it is armed starts a motor after it.

What must stay true: nothing is remembered here. A frame is looked at from the frame that really is: a latch goes on from
where it is, an edge is one against the real input, a delay has either run out or stands as it does. So it works on one
frame as on many at once, and no state of the run is touched.

Why it is right: with the hands still, only time changes anything, and time changes only delays, off-delays and pulses
(slows and fades are taken at their ends by whoever asks). Which of them has run out first depends on their times; so
every choice of them is tried where there are few, and else all of them, each alone, and all but each.

An example: a motor runs while *late* holds, an on-delay of 20 s from power-up. After 5 s everything reads idle and the
switch goes to run. Here *late* is true in the one choice there is, the motor would be commanded 30 %, and it is not armed.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from hypsos.core.base.backends import Flag
from hypsos.core.engine.conditions import Conditions, LogicPlan, compared, reader
from hypsos.core.engine.memory import Memory
from hypsos.core.parts.condition_values import Compare, Counter, Delay, Latch

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

    def pending(self, world: Conditions) -> Flag:
        """The frames in which any of these delays is on its way."""
        found: Flag = False
        for name in self._delays:
            found = found | self._on_its_way(name, world)
        return found

    def _on_its_way(self, name: str, world: Conditions) -> Flag:
        node = self._logic.nodes[name]
        assert isinstance(node, Delay)
        out = world.flags[name]
        if node.kind == "pulse":
            return out
        given = reader(node.of)(world)
        return given & world.lane.not_(out) if node.kind == "on_delay" else out & world.lane.not_(given)

    def look(self, world: Conditions, ended: frozenset[str]) -> Conditions:
        """The conditions, gates and modes once the delays ``ended`` have run out; ``world`` is not changed."""
        then = world.copied()
        for members in self._logic.early_groups:
            made = {}
            for name in members:
                if isinstance(self._logic.nodes[name], Latch):
                    made[name] = self._latch(name, world, then)  # latches of a circle see each other as they were
                else:
                    self._member(name, world, then, name in ended)
            then.flags.update(made)
        return then

    def _member(self, name: str, world: Conditions, then: Conditions, ended: bool) -> None:
        node = self._logic.nodes[name]
        if isinstance(node, Delay):
            then.flags[name] = _delayed(node, world, then, ended)
        elif isinstance(node, Counter):
            step = reader(node.of)(then) & world.lane.not_(reader(node.of)(world))
            count = (world.counts[name] + world.lane.where(step, 1, 0)) % node.count
            then.counts[name] = count
            then.flags[name] = count > 0
        elif isinstance(node, Compare) and node.hysteresis:
            on, off = compared(node)(then)
            then.flags[name] = (on | world.flags[name]) & world.lane.not_(off)
        else:
            self._logic.evaluate(name, then, Memory(lane=world.lane))

    def _latch(self, name: str, world: Conditions, then: Conditions) -> Flag:
        node, not_ = self._logic.nodes[name], world.lane.not_
        assert isinstance(node, Latch)
        on, off = reader(node.set)(then), reader(node.reset)(then)
        if node.edges:
            on = on & not_(reader(node.set)(world))
            off = off & not_(reader(node.reset)(world))
        return (on | world.flags[name]) & not_(off)


def _delayed(node: Delay, world: Conditions, then: Conditions, ended: bool) -> Flag:
    """A delay as it stands with the inputs of ``then``, or once it has run out."""
    given, now = reader(node.of)(then), world.flags[node.name]
    if node.kind == "pulse":
        if ended:
            return given & False
        return now | (given & world.lane.not_(reader(node.of)(world)))
    if ended:
        return given
    return given & now if node.kind == "on_delay" else given | now
