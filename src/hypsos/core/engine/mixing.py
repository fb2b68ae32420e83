"""Mix lines summed per target, in dependency order, with every contribution kept by name where it is asked for."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine.lines import PlacedLine, all_lines, line_order
from hypsos.core.engine.logic import Conditions
from hypsos.core.engine.memory import Memory, slow
from hypsos.core.engine.modes import ModeTrack
from hypsos.core.engine.result import Contribution
from hypsos.core.engine.shaping import Curve, response_curve
from hypsos.core.errors import HypsosError
from hypsos.core.logic import condition_parts

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class LineStep:
    """A line made ready. ``plain`` lines are a gain times a signal and nothing else: they are summed as one product."""

    placed: PlacedLine
    curve: Curve | None
    key: str
    from_axis: bool
    trimmed: bool
    plain: bool


@dataclass
class MixInput:
    """What the lines read. ``untrimmed`` holds axis commands without trim; ``fades`` the same per mode while fading."""

    world: Conditions
    shared: dict[str, Array]
    untrimmed: dict[str, Array]
    track: ModeTrack
    fades: list[FadeInput] = field(default_factory=list)


@dataclass(frozen=True)
class FadeInput:
    """One mode's share while a fade is under way: which frames, its weight there, and its own commands and values."""

    mode: str
    frames: Flags
    weight: Array
    commands: dict[str, Array]
    untrimmed: dict[str, Array]
    shared: dict[str, Array]


class MixPlan:
    """The lines of a model by target. Raises HypsosError naming the members of a circle."""

    def __init__(self, model: Model) -> None:
        lines = all_lines(model)
        order = line_order(lines)
        if order.cycle:
            raise HypsosError(f"these feed each other in a circle: {', '.join(order.cycle)}", "program.mixes")
        trimmed = {a.command for a in model.program.axes if a.trim is not None}
        axes: dict[str, str] = {a.command: f"program.axes[{i}]" for i, a in enumerate(model.program.axes)}
        self._axis_paths = axes
        self.targets: dict[str, list[LineStep]] = {t: [] for t in order.targets}
        for placed in lines:
            line = placed.line
            self.targets[line.target].append(
                LineStep(
                    placed,
                    response_curve(line.response),
                    f"{placed.path}>{line.target}>{line.source}",
                    line.source in axes,
                    line.source in trimmed,
                    _is_plain(placed) and not (line.source in trimmed and not line.with_trim),
                )
            )
        self._presets = _presets(model)
        for target in self._presets:
            self.targets.setdefault(target, [])
        self._block = [
            t for t, steps in self.targets.items()
            if steps and all(s.plain and s.placed.line.source not in self.targets for s in steps)
        ]  # fmt: skip
        self._sources = sorted({s.placed.line.source for t in self._block for s in self.targets[t]})
        self._gains = np.zeros((len(self._block), len(self._sources)))
        for i, target in enumerate(self._block):
            for s in self.targets[target]:
                self._gains[i, self._sources.index(s.placed.line.source)] += s.placed.line.gain / 100.0

    def run(self, given: MixInput, memory: Memory, why: dict[str, list[Contribution]], frame_s: float) -> set[str]:
        """Put every target's sum into the signals; returns those that a slow still moves at the end of the run."""
        signals = given.world.signals
        moving: set[str] = set()
        if self._block:
            stacked = np.stack([signals[s] for s in self._sources])
            sums = np.tensordot(self._gains, stacked, axes=1)
            for i, target in enumerate(self._block):
                signals[target] = sums[i]
        for target, steps in self.targets.items():
            parts = why.get(target)
            if parts is None and target in self._block and target not in self._presets:
                continue
            total = np.zeros(given.world.link.shape)
            for step in steps:
                total = self._add(step, total, given, memory, parts, frame_s, moving)
            if target in self._presets:
                preset = given.track.blend(self._presets[target])
                total = total + preset
                if parts is not None and np.any(preset):
                    parts.append(Contribution("Mode preset", "preset", preset, "program.modes"))
            signals[target] = total
        return moving

    def _add(
        self, step: LineStep, total: Array, given: MixInput, memory: Memory, parts: list[Contribution] | None,
        frame_s: float, moving: set[str],
    ) -> Array:  # fmt: skip
        line = step.placed.line
        full = _value(step, given, trimmed=True)
        value = slow(full, line.slow_up_s, line.slow_down_s, frame_s, memory, step.key)
        if line.source in moving or (value is not full and np.any(np.abs(value - full)[..., -1] > 1e-9)):
            moving.add(line.target)
        active = True if line.when is None else given.world.flag(line.when)
        if parts is None:
            if line.combine == "add":
                return total + value
            return np.asarray(np.where(active, value if line.combine == "replace" else total * value / 100.0, total))
        if line.combine == "scale":
            change = np.where(active, total * (value / 100.0 - 1.0), 0.0)
            parts.append(Contribution(line.name, "mix", change, step.placed.path))
            return np.asarray(total + change)
        if line.combine == "replace":
            parts[:] = [Contribution(p.label, p.kind, np.where(active, 0.0, p.amount), p.path) for p in parts]
            total = np.where(active, 0.0, total)
            value, full = np.where(active, value, 0.0), np.where(active, full, 0.0)
        parts += self._parts(step, given, full, value)
        return np.asarray(total + value)

    def _parts(self, step: LineStep, given: MixInput, full: Array, value: Array) -> list[Contribution]:
        """What one line gives, with the trim's share apart and what its own slow still holds back."""
        line, path = step.placed.line, step.placed.path
        parts: list[Contribution] = []
        if step.trimmed and line.with_trim and line.combine == "add":
            stick = _value(step, given, trimmed=False)
            parts.append(Contribution(line.name, "stick", stick, path))
            trim_path = f"{self._axis_paths[line.source]}.trim.clicks"
            parts.append(Contribution(f"{line.source.capitalize()} trim", "trim", full - stick, trim_path))
        else:
            parts.append(Contribution(line.name, "stick" if step.from_axis else "mix", full, path))
        if value is not full and np.any(value != full):
            slow_path = path.rsplit(".", 1)[0] + ".slow_up_s"
            parts.append(Contribution(f"{line.name} still on its way", "slow", value - full, slow_path))
        return parts


def _is_plain(placed: PlacedLine) -> bool:
    x = placed.line
    bent = x.response is not None or x.differential or x.slow_up_s or x.slow_down_s
    return not (bent or x.when is not None or x.gain_from is not None or x.combine != "add")


def _presets(model: Model) -> dict[str, Array]:
    modes = model.program.modes
    names = sorted({t for m in modes for t in m.presets})
    return {t: np.array([m.presets.get(t, 0.0) for m in modes]) for t in names}


def _value(step: LineStep, given: MixInput, trimmed: bool) -> Array:
    """A line's contribution before its slow; between modes both are evaluated and faded."""
    line, world = step.placed.line, given.world
    use_trim = trimmed and (line.with_trim or not step.trimmed)
    source = world.signals[line.source] if use_trim or not step.trimmed else given.untrimmed[line.source]
    brake = world.signals[line.differential_off] if line.differential_off else None
    active = None if line.when is None else world.flag(line.when)
    out = _shaped_line(step, source, given.shared, brake, active)
    if not given.fades:
        return out
    out = out.copy()
    frames = given.fades[0].frames
    out[..., frames] = 0.0
    for fade in given.fades:
        own = fade.commands if use_trim else fade.untrimmed
        part = own.get(line.source)
        if part is None:
            part = source[..., frames]
        flags = None if line.when is None else _flag_in(line.when, fade, world)
        cut = None if brake is None else brake[..., frames]
        out[..., frames] += fade.weight * _shaped_line(step, part, fade.shared, cut, flags)
    return out


def _flag_in(text: str, fade: FadeInput, world: Conditions) -> Flags:
    negated, is_mode, name, _ = condition_parts(text)
    if is_mode:
        return np.asarray((name == fade.mode) != negated)
    return np.asarray(world.flag(text)[..., fade.frames])


def _shaped_line(
    step: LineStep, source: Array, shared: dict[str, Array], brake: Array | None, active: Flags | None
) -> Array:
    line = step.placed.line
    gain = line.gain / 100.0 if line.gain_from is None else shared[line.gain_from] * np.sign(line.gain or 1.0) / 100.0
    value = gain * (source if step.curve is None else step.curve(source))
    d = line.differential
    if d:
        share: Array | float = abs(d) / 100.0
        if brake is not None:
            share = share * (1.0 - np.clip(brake, 0.0, 100.0) / 100.0)
        less = value > 0 if d > 0 else value < 0
        value = np.where(less, value * (1.0 - share), value)
    if active is not None:
        value = np.where(active, value, 0.0)
    return np.asarray(value)
