# SPDX-License-Identifier: GPL-3.0-or-later
"""What a condition can ask about while a model runs, and how its text is read there."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any

from hypsos.core.base.backends import FRAME, Backend, Flag, Kind, Place, Signal
from hypsos.core.base.memory import Memory
from hypsos.core.parts.condition_text import asked


@dataclass
class ConditionWorld:
    """Everything a condition can ask about, in one piece of time of the given shape, time last.

    ``signals`` in percent; ``positions`` of switches and ``counts`` of counters and timers from 0;
    ``flags`` of conditions, and of modes, guard states and timers by ``realm:name``."""

    backend: Backend
    shape: tuple[int, ...]
    t_s: Signal
    signals: dict[str, Signal]
    positions: dict[str, Place]
    link: Flag
    power: Flag
    flags: dict[str, Flag] = field(default_factory=dict)
    counts: dict[str, Place] = field(default_factory=dict)

    def flag(self, text: str) -> Flag:
        """A condition's truth over time."""
        return reader(text)(self)

    def only(self, names: set[str]) -> ConditionWorld:
        """As much of it as these names stand for."""

        def named(table: Mapping[str, Kind]) -> dict[str, Kind]:
            return {k: v for k, v in table.items() if k in names}

        return replace(
            self,
            signals=named(self.signals),
            positions=named(self.positions),
            flags=named(self.flags),
            counts=named(self.counts),
        )

    def copied(self) -> ConditionWorld:
        """The same with tables of its own for what is written."""
        return replace(
            self, signals=dict(self.signals), flags=dict(self.flags), counts=dict(self.counts)
        )

    def frame(self, i: int) -> ConditionWorld:
        """One frame of it: of a single situation with the frame backend."""
        single = len(self.shape) == 1

        def cut(x: Any) -> Any:
            return x[i].item() if single else x[..., i : i + 1]

        def all_(table: Mapping[str, Kind]) -> dict[str, Kind]:
            return {k: cut(v) for k, v in table.items()}

        return ConditionWorld(
            FRAME if single else self.backend,
            (*self.shape[:-1], 1),
            cut(self.t_s),
            all_(self.signals),
            all_(self.positions),
            cut(self.link),
            cut(self.power),
            all_(self.flags),
            all_(self.counts),
        )


ReadFlag = Callable[[ConditionWorld], Flag]
"""What reads a condition's truth over time."""
Work = Callable[[ConditionWorld, Memory], None]
"""The evaluation of one condition: it writes its flag, count or signal."""


@cache
def reader(text: str) -> ReadFlag:
    """What reads a condition, its text taken apart once for all."""
    negated, realm, name, position = asked(text)
    if position is not None:
        read = _position_reader(name, position)
    else:
        read = _flag_reader(realm, name, asked(text).key)
    if not negated:
        return read
    return lambda world: world.backend.not_(read(world))


def _position_reader(name: str, position: int) -> ReadFlag:
    def read(world: ConditionWorld) -> Flag:
        place = world.positions[name] if name in world.positions else world.counts[name]
        return place == position

    return read


def _flag_reader(realm: str, name: str, key: str) -> ReadFlag:
    if not realm and name == "link":
        return lambda world: world.link
    if not realm and name == "power":
        return lambda world: world.power
    return lambda world: world.flags[key]
