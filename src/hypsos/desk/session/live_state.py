# SPDX-License-Identifier: GPL-3.0-or-later
"""The live state of the bench: where the hands are, and what they brought about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hypsos.core.base.memory import Memory
from hypsos.core.engine import Result, Situation
from hypsos.core.parts.transmitter import AROUND


def around(situation: Situation, place: int = -1) -> dict[str, float]:
    """What surrounds the hands in one frame of a situation, as the fields of :class:`Live`."""
    return {
        n: float(np.ravel(x)[place if np.size(x) > 1 else 0]) for n, x in situation.around.items()
    }


@dataclass
class Live:
    """The hands and what they brought about. ``controls`` in percent or position numbers; link and
    batteries as in a :class:`Situation`."""

    controls: dict[str, float]
    link: float = 1.0
    power: float = 1.0
    link_quality: float = 100.0
    flight_battery: float = 1.0
    frame: int = 0
    memory: Memory | None = None
    result: Result | None = None

    @property
    def around(self) -> dict[str, float]:
        """What surrounds the hands, by name."""
        return {n: getattr(self, n) for n in AROUND}


def same_outputs(a: Result | None, b: Result | None) -> bool:
    """Whether two results end with the same pulses, the same standing parts, the same guard and the
    same reason for it."""
    if a is None or b is None or a.outputs.keys() != b.outputs.keys():
        return a is b
    if a.guard[-1] != b.guard[-1] or a.told.keys() != b.told.keys():
        return False
    if any(
        np.ravel(a.told[n])[-1] != np.ravel(b.told[n])[-1] for n in a.told
    ):  # what holds a motor back is said
        return False
    return all(
        a.outputs[n].us[-1] == b.outputs[n].us[-1]
        and a.outputs[n].stand[-1] == b.outputs[n].stand[-1]
        and _ready(a, n) == _ready(b, n)
        for n in a.outputs
    )


def _ready(result: Result, name: str) -> bool | None:
    """Whether a motor's controller lets it turn; None for what is no motor."""
    ready = result.outputs[name].ready
    return None if ready is None else bool(ready[-1])
