"""The live state of the bench: where the hands are, and what they brought about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hypsos.core.engine import Result
from hypsos.core.engine.memory import Memory


@dataclass
class Live:
    """The hands and what they brought about. ``controls`` in percent or position numbers."""

    controls: dict[str, float]
    link: float = 1.0
    power: float = 1.0
    link_quality: float = 100.0
    frame: int = 0
    memory: Memory | None = None
    result: Result | None = None


def same_outputs(a: Result | None, b: Result | None) -> bool:
    """Whether two results end with the same pulses, the same standing parts, the same guard and the same reason for it."""
    if a is None or b is None or a.outputs.keys() != b.outputs.keys():
        return a is b
    if a.guard[-1] != b.guard[-1] or a.told.keys() != b.told.keys():
        return False
    if any(np.ravel(a.told[n])[-1] != np.ravel(b.told[n])[-1] for n in a.told):  # what holds a motor back is said
        return False
    return all(
        a.outputs[n].us[-1] == b.outputs[n].us[-1] and a.outputs[n].stand[-1] == b.outputs[n].stand[-1]
        for n in a.outputs
    )
