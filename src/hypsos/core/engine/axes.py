"""From sticks to commands: curve, expo, rate by switch position or shared value, trim by flight mode."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.document import Model
from hypsos.core.engine.shaping import Curve, response_curve, setting_at, shaped
from hypsos.core.lanes import Lane, Signal, Table
from hypsos.core.program import Axis, Setting, Trim

PITCH_SENSE = -1.0
"""The elevator command is nose up, the stick's + is away from the pilot."""


class _AxisStep(NamedTuple):
    axis: Axis
    sense: float
    curve: Curve | None
    settings: tuple[Setting, ...]
    feel: tuple[Table, Table, Table]
    named: tuple[tuple[int, Setting], ...]
    trims: Table
    listed: Table


class AxisPlan:
    """All axes of a model."""

    def __init__(self, model: Model, counts: dict[str, int]) -> None:
        modes = [m.name for m in model.program.modes] or ["base"]
        self._steps = [_step(a, counts, modes) for a in model.program.axes]
        self.commands: tuple[str, ...] = tuple(a.command for a in model.program.axes)
        self.trimmed: frozenset[str] = frozenset(a.command for a in model.program.axes if a.trim is not None)
        self.paths: dict[str, str] = {a.command: f"program.axes[{i}]" for i, a in enumerate(model.program.axes)}

    def run(
        self,
        lane: Lane,
        signals: dict[str, Signal],
        positions: dict[str, Signal],
        modes: Signal,
        shared: dict[str, Signal],
    ) -> tuple[dict[str, Signal], dict[str, Signal]]:
        """Commands with their trims, and without where there is a trim.

        ``modes`` is the mode over time, or one for all of it; ``shared`` holds the shared values.
        """
        full: dict[str, Signal] = {}
        plain: dict[str, Signal] = {}
        for step in self._steps:
            axis = step.axis
            value = shaped(step.sense * signals[axis.control], step.curve, _feel(lane, step, positions, shared), lane)
            if axis.trim is not None:
                plain[axis.command] = value
                value = value + _trim(lane, step, axis.trim, signals[f"{axis.command}_trim"], modes)
            full[axis.command] = value
        return full, plain


def _step(axis: Axis, counts: dict[str, int], modes: list[str]) -> _AxisStep:
    count = counts.get(axis.switch, 1) if axis.switch else 1
    settings = tuple(setting_at(axis, i) for i in range(count))
    feel = (
        Table([s.rate_neg for s in settings]),
        Table([s.rate_pos for s in settings]),
        Table([s.expo for s in settings]),
    )
    by_mode = axis.trim.by_mode if axis.trim is not None else {}
    trims = Table([by_mode.get(m, 0) * (axis.trim.step if axis.trim is not None else 1.0) for m in modes])
    sense = PITCH_SENSE if axis.command == "pitch" else 1.0
    named = tuple((i, s) for i, s in enumerate(settings) if s.rate_from or s.expo_from)
    return _AxisStep(
        axis, sense, response_curve(axis.curve), settings, feel, named, trims, Table([m in by_mode for m in modes])
    )


def _feel(
    lane: Lane, step: _AxisStep, positions: dict[str, Signal], shared: dict[str, Signal]
) -> tuple[Signal, Signal, Signal]:
    """Rates to both sides and expo, in percent."""
    place = positions[step.axis.switch] if step.axis.switch else 0
    low, high, k = (lane.take(table, place) for table in step.feel)
    for i, setting in step.named:
        here = place == i
        if setting.rate_from is not None:
            rate = shared[setting.rate_from]
            low, high = lane.where(here, rate, low), lane.where(here, rate, high)
        if setting.expo_from is not None:
            k = lane.where(here, shared[setting.expo_from], k)
    return low, high, k


def _trim(lane: Lane, step: _AxisStep, trim: Trim, common: Signal, modes: Signal) -> Signal:
    if trim.scope == "common":
        return common
    own = lane.take(step.trims, modes)
    value = common + own if trim.scope == "offset" else lane.where(lane.take(step.listed, modes), own, common)
    return lane.clip(value, -trim.range, trim.range)
