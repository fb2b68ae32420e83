"""From sticks to commands: curve, expo, rate by switch position or shared value, trim by flight mode."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine.shaping import Curve, response_curve, setting_at, shaped
from hypsos.core.program import Axis, Setting, Trim

Array = NDArray[np.float64]
Places = NDArray[np.intp]
PITCH_SENSE = -1.0
"""The elevator command is nose up, the stick's + is away from the pilot."""


@dataclass(frozen=True)
class _AxisStep:
    axis: Axis
    sense: float
    curve: Curve | None
    settings: tuple[Setting, ...]
    tables: tuple[Array, Array, Array]
    trims: Array | None
    listed: NDArray[np.bool_] | None


class AxisPlan:
    """All axes of a model, computed together."""

    def __init__(self, model: Model, counts: dict[str, int]) -> None:
        modes = [m.name for m in model.program.modes] or ["base"]
        self._steps = [_step(a, counts, modes) for a in model.program.axes]
        self.commands: tuple[str, ...] = tuple(a.command for a in model.program.axes)
        self.trimmed: frozenset[str] = frozenset(a.command for a in model.program.axes if a.trim is not None)
        self.paths: dict[str, str] = {a.command: f"program.axes[{i}]" for i, a in enumerate(model.program.axes)}

    def run(
        self, signals: dict[str, Array], positions: dict[str, Places], modes: Places | int, shared: dict[str, Array]
    ) -> tuple[dict[str, Array], dict[str, Array]]:
        """Commands with their trims, and without.

        ``signals`` and ``positions`` have the run's shape; ``modes`` is the mode over time, or one for all of it;
        ``shared`` holds the shared values.
        """
        if not self._steps:
            return {}, {}
        sticks: list[Array] = []
        low: list[Array] = []
        high: list[Array] = []
        k: list[Array] = []
        for step in self._steps:
            x = step.sense * signals[step.axis.control]
            sticks.append(x if step.curve is None else step.curve(x))
            feel = _feel(step, positions, shared)
            for out, value in zip((low, high, k), feel, strict=True):
                out.append(np.broadcast_to(value, x.shape))
        made = shaped(np.stack(sticks), None, (np.stack(low), np.stack(high), np.stack(k)))
        plain: dict[str, Array] = {c: made[i] for i, c in enumerate(self.commands)}
        full = dict(plain)
        for step in self._steps:
            if step.axis.trim is not None:
                command = step.axis.command
                full[command] = plain[command] + _trim(step, signals[f"{command}_trim"], modes)
        return full, {c: plain[c] for c in self.trimmed}


def _step(axis: Axis, counts: dict[str, int], modes: list[str]) -> _AxisStep:
    count = counts.get(axis.switch, 1) if axis.switch else 1
    settings = tuple(setting_at(axis, i) for i in range(count))
    tables = (
        np.array([s.rate_neg for s in settings]),
        np.array([s.rate_pos for s in settings]),
        np.array([s.expo for s in settings]),
    )
    trims = listed = None
    trim = axis.trim
    if trim is not None and trim.scope != "common":
        trims = np.array([trim.by_mode.get(m, 0) * trim.step for m in modes], float)
        listed = np.array([m in trim.by_mode for m in modes])
    sense = PITCH_SENSE if axis.command == "pitch" else 1.0
    return _AxisStep(axis, sense, response_curve(axis.curve), settings, tables, trims, listed)


def _feel(step: _AxisStep, positions: dict[str, Places], shared: dict[str, Array]) -> tuple[Array, Array, Array]:
    place = positions.get(step.axis.switch) if step.axis.switch else None
    at: Places | int = 0 if place is None else place
    low, high, k = (np.asarray(table[at]) for table in step.tables)
    for i, s in enumerate(step.settings):
        here = True if place is None else place == i
        if s.rate_from is not None:
            low = np.where(here, shared[s.rate_from], low)
            high = np.where(here, shared[s.rate_from], high)
        if s.expo_from is not None:
            k = np.where(here, shared[s.expo_from], k)
    return low, high, k


def _trim(step: _AxisStep, common: Array, modes: Places | int) -> Array:
    trim: Trim | None = step.axis.trim
    assert trim is not None
    if step.trims is None or step.listed is None:
        return common
    own = step.trims[modes]
    value = common + own if trim.scope == "offset" else np.where(step.listed[modes], own, common)
    return np.asarray(np.clip(value, -trim.range, trim.range))
