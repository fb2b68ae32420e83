"""A model compiled into array operations, and the run of them in the order of a frame."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.document import Model
from hypsos.core.engine.guard import guard_state
from hypsos.core.engine.lines import PlacedLine, all_lines, line_order
from hypsos.core.engine.memory import Memory, on_delay, slow
from hypsos.core.engine.outputs import OutputStage, output_stages
from hypsos.core.engine.result import Contribution, GuardState, OutputTrace, Result
from hypsos.core.engine.shaping import Curve, response_curve, setting_at, shaped
from hypsos.core.engine.situation import Situation, resting
from hypsos.core.errors import HypsosError
from hypsos.core.program import Axis
from hypsos.core.transmitter import switch_value

Array = NDArray[np.float64]
Signals = dict[str, Array]
PITCH_SENSE = -1.0
"""The elevator command is nose up, the stick's + is away from the pilot."""


@dataclass(frozen=True)
class _AxisStep:
    axis: Axis
    path: str
    sense: float
    curve: Curve | None
    tables: tuple[Array, Array, Array]


@dataclass(frozen=True)
class _LineStep:
    placed: PlacedLine
    curve: Curve | None
    key: str
    from_axis: bool
    trimmed: bool


class Plan:
    """A compiled model. It holds no state: the state goes in and comes out with each run."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.frame_s = model.program.frame_s
        self.rest = resting(model)
        self._counts = {c.name: len(c.positions) for c in model.transmitter.controls if c.is_switch}
        self._inputs = tuple(self.rest)
        self._axes = [self._axis_step(i, a) for i, a in enumerate(model.program.axes)]
        lines = all_lines(model)
        order = line_order(lines)
        if order.cycle:
            raise HypsosError(f"these feed each other in a circle: {', '.join(order.cycle)}", "program.mixes")
        trimmed = {a.command for a in model.program.axes if a.trim is not None}
        axis_names = {a.command for a in model.program.axes}
        by_target: dict[str, list[_LineStep]] = {t: [] for t in order.targets}
        for placed in lines:
            curve = response_curve(placed.line.response)
            source = placed.line.source
            key = f"{placed.path}>{placed.line.target}>{source}"
            step = _LineStep(placed, curve, key, source in axis_names, source in trimmed)
            by_target[placed.line.target].append(step)
        self._targets = by_target
        self._stages: list[OutputStage] = output_stages(model)
        self._first_lead = {s.target: s.name for s in reversed(self._stages)}

    def _axis_step(self, index: int, axis: Axis) -> _AxisStep:
        count = self._counts.get(axis.switch, 1) if axis.switch else 1
        settings = [setting_at(axis, i) for i in range(count)]
        tables = (
            np.array([s.rate_neg for s in settings]),
            np.array([s.rate_pos for s in settings]),
            np.array([s.expo for s in settings]),
        )
        sense = PITCH_SENSE if axis.command == "pitch" else 1.0
        return _AxisStep(axis, f"program.axes[{index}]", sense, response_curve(axis.curve), tables)

    def run(self, situation: Situation, memory: Memory | None = None, why: Collection[str] = ()) -> Result:
        """Compute every frame of a situation.

        Parameters
        ----------
        situation : the inputs; last axis time, leading axes independent situations.
        memory : the state of an earlier run to go on from; None starts at power-up. It is not changed.
        why : names of parts whose contributions are wanted as well.

        Returns
        -------
        Result; its ``memory`` goes on from here.
        """
        mem = Memory(before=dict(memory.after)) if memory is not None else Memory()
        t = np.asarray(situation.t_s, float)
        signals, positions = self._controls(situation, t)
        link = np.broadcast_to(np.asarray(situation.link) > 0.5, _shape(situation.link, t))
        power = np.broadcast_to(np.asarray(situation.power) > 0.5, _shape(situation.power, t))
        connected = link & power
        state = guard_state(self.model, signals, positions, connected, t, mem)
        untrimmed = self._run_axes(signals, positions)
        contributions: dict[str, list[Contribution]] = {name: [] for name in why}
        sums, moving = self._run_lines(signals, untrimmed, contributions, mem)
        receiver = self.model.receiver
        lost = on_delay(~connected, t, receiver.failsafe_after_s, mem, "failsafe")
        outputs: dict[str, OutputTrace] = {}
        released = state == GuardState.RELEASED
        for stage in self._stages:
            total = sums.get(stage.target)
            if total is None:
                total = np.zeros_like(t)
            first = stage.name == self._first_lead[stage.target]
            parts = contributions.get(stage.target) if first else None
            outputs[stage.name] = stage.run(
                total, released, connected, lost, power, self.frame_s, mem, parts, stage.target in moving
            )
        commands: Signals = {a.axis.command: signals[a.axis.command] for a in self._axes}
        return Result(t, commands, sums, state, outputs, contributions, mem)

    def _controls(self, situation: Situation, t: Array) -> tuple[Signals, dict[str, NDArray[np.intp]]]:
        signals: Signals = {"full": np.full_like(t, 100.0)}
        positions: dict[str, NDArray[np.intp]] = {}
        for name, rest in self.rest.items():
            given = situation.controls.get(name)
            raw = np.full_like(t, rest) if given is None else np.asarray(given, float)
            if raw.shape != t.shape:
                raw = np.broadcast_to(raw, _shape(raw, t))
            count = self._counts.get(name)
            if count is not None:
                place = raw.astype(np.intp)
                positions[name] = place
                raw = np.array([switch_value(i, count) for i in range(count)])[place]
            signals[name] = raw
        return signals, positions

    def _run_axes(self, signals: Signals, positions: dict[str, NDArray[np.intp]]) -> Signals:
        """Fill in the axis commands; the same without their trims is returned."""
        untrimmed: Signals = {}
        for step in self._axes:
            axis = step.axis
            place = positions.get(axis.switch) if axis.switch else None
            at = 0 if place is None else place
            rate_neg, rate_pos, k = (table[at] for table in step.tables)
            plain = shaped(step.sense * signals[axis.control], step.curve, (rate_neg, rate_pos, k))
            signals[axis.command] = plain
            if axis.trim is not None:
                untrimmed[axis.command] = plain
                signals[axis.command] = plain + signals[f"{axis.command}_trim"]
        return untrimmed

    def _run_lines(
        self, signals: Signals, untrimmed: Signals, why: dict[str, list[Contribution]], mem: Memory
    ) -> tuple[Signals, set[str]]:
        """The sum of every target, and the targets that a slow is still moving at the end of the run."""
        sums: Signals = {}
        moving: set[str] = set()
        for target, steps in self._targets.items():
            total: Array | None = None
            for step in steps:
                line = step.placed.line
                use_trim = line.with_trim or not step.trimmed
                source = signals[line.source] if use_trim else untrimmed[line.source]
                full = _line_value(step, source)
                value = slow(full, line.slow_up_s, line.slow_down_s, self.frame_s, mem, step.key)
                total = value if total is None else total + value
                if line.source in moving or (value is not full and np.any(np.abs(value - full)[..., -1] > 1e-9)):
                    moving.add(target)
                if target in why:
                    why[target] += _line_parts(step, full, value, untrimmed if use_trim else {}, self._axis_path)
            assert total is not None
            sums[target] = total
            signals[target] = total
        return sums, moving

    def _axis_path(self, command: str) -> str:
        return next((a.path for a in self._axes if a.axis.command == command), "")


def compile_plan(model: Model) -> Plan:
    """Compile a model. Raises HypsosError naming the members of a circle of mix lines."""
    return Plan(model)


def _shape(value: ArrayLike, t: Array) -> tuple[int, ...]:
    return np.broadcast_shapes(np.shape(value), t.shape)


def _line_value(step: _LineStep, source: Array) -> Array:
    line = step.placed.line
    bent = source if step.curve is None else step.curve(source)
    value = line.gain / 100.0 * bent
    d = line.differential
    if d > 0:
        value = np.where(value > 0, value * (1.0 - d / 100.0), value)
    elif d < 0:
        value = np.where(value < 0, value * (1.0 + d / 100.0), value)
    return np.asarray(value)


def _line_parts(
    step: _LineStep, full: Array, value: Array, untrimmed: Signals, axis_path: object
) -> list[Contribution]:
    """What one line gives, with the trim's share apart and what its own slow still holds back."""
    line, path = step.placed.line, step.placed.path
    parts: list[Contribution] = []
    plain = untrimmed.get(line.source) if step.trimmed else None
    if plain is None:
        parts.append(Contribution(line.name, "stick" if step.from_axis else "mix", full, path))
    else:
        stick = _line_value(step, plain)
        parts.append(Contribution(line.name, "stick", stick, path))
        trim_path = f"{axis_path(line.source)}.trim.clicks" if callable(axis_path) else ""
        parts.append(Contribution(f"{line.source.capitalize()} trim", "trim", full - stick, trim_path))
    if value is not full:
        slow_path = path.rsplit(".", 1)[0] + ".slow_up_s"
        parts.append(Contribution(f"{line.name} still on its way", "slow", value - full, slow_path))
    return parts
