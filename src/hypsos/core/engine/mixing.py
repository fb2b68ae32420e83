"""Mix lines summed per target, in dependency order, with every contribution kept by name where it is asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine.lines import PlacedLine, all_lines, line_order, reads
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
    """A line made ready."""

    placed: PlacedLine
    curve: Curve | None
    key: str
    from_axis: bool
    trimmed: bool


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
                )
            )
        self._presets = _presets(model)
        for target in self._presets:
            self.targets.setdefault(target, [])
        self._order = list(self._steps())

    def _steps(self) -> Iterator[Block | str]:
        """What can be summed at once, level by level, and the targets that need a line-by-line sum."""
        levels: dict[str, int] = {}
        for target, steps in self.targets.items():
            inner = [levels[n] for s in steps for n in reads(s.placed.line) if n in levels]
            levels[target] = 1 + max(inner, default=-1)
        for level in range(1 + max(levels.values(), default=-1)):
            here = [t for t in self.targets if levels[t] == level]
            together = [t for t in here if self.targets[t] and all(_adds(s) for s in self.targets[t])]
            yield from (t for t in here if t not in together)
            if together:
                yield Block([(t, self.targets[t]) for t in together])

    def run(self, given: MixInput, memory: Memory, why: dict[str, list[Contribution]], frame_s: float) -> set[str]:
        """Put every target's sum into the signals; returns those that a slow still moves at the end of the run."""
        moving: set[str] = set()
        for step in self._order:
            if isinstance(step, str):
                self._single(step, given, memory, why.get(step), frame_s, moving)
                continue
            for target, total in step.sums(given, memory, frame_s, moving).items():
                if target in why:
                    self._single(target, given, memory, why[target], frame_s, moving)
                    continue
                preset = self._presets.get(target)
                given.world.signals[target] = total if preset is None else total + given.track.blend(preset)
                if moving and not moving.isdisjoint(step.sources[target]):
                    moving.add(target)
        return moving

    def _single(
        self, target: str, given: MixInput, memory: Memory, parts: list[Contribution] | None, frame_s: float,
        moving: set[str],
    ) -> None:  # fmt: skip
        """One target line by line, with its contributions where they are asked for."""
        total = np.zeros(given.world.link.shape)
        for step in self.targets[target]:
            total = self._add(step, total, given, memory, parts, frame_s, moving)
        if target in self._presets:
            preset = given.track.blend(self._presets[target])
            total = total + preset
            if parts is not None and np.any(preset):
                parts.append(Contribution("Mode preset", "preset", preset, "program.modes"))
        given.world.signals[target] = total

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


class Block:
    """Targets whose lines only add: all their lines are computed as one array, lines first."""

    def __init__(self, targets: list[tuple[str, list[LineStep]]]) -> None:
        steps = [s for _, mine in targets for s in mine]
        self.names = [t for t, _ in targets]
        self.sources = {t: {s.placed.line.source for s in mine} for t, mine in targets}
        self._starts = np.cumsum([0, *(len(mine) for _, mine in targets)])[:-1]
        keys: list[tuple[str, bool, object]] = []
        self._curves: list[Curve | None] = []
        self._rows = []
        for s in steps:
            line = s.placed.line
            key = (line.source, s.trimmed and not line.with_trim, line.response)
            if key not in keys:
                keys.append(key)
                self._curves.append(s.curve)
            self._rows.append(keys.index(key))
        self._keys = [(source, plain) for source, plain, _ in keys]
        lines = [s.placed.line for s in steps]
        self._gains = np.array([np.sign(x.gain or 1.0) if x.gain_from else x.gain for x in lines]) / 100.0
        self._shared = [(i, x.gain_from) for i, x in enumerate(lines) if x.gain_from]
        self._bent = [(i, x) for i, x in enumerate(lines) if x.differential]
        self._slow = [
            (i, s.key, x) for i, (s, x) in enumerate(zip(steps, lines, strict=True)) if x.slow_up_s or x.slow_down_s
        ]
        conditions = sorted({x.when for x in lines if x.when})
        self._when = [(c, [i for i, x in enumerate(lines) if x.when == c]) for c in conditions]

    def sums(self, given: MixInput, memory: Memory, frame_s: float, moving: set[str]) -> dict[str, Array]:
        """The sum of every target over time; between modes both are evaluated and faded. Slow targets go into ``moving``."""
        world = given.world
        lines = self._lines(world.signals, given.untrimmed, given.shared, world.flag)
        if given.fades:
            frames = given.fades[0].frames
            cut = {n: world.signals[n][..., frames] for n, _ in self._keys}
            cut |= {
                x.differential_off: world.signals[x.differential_off][..., frames]
                for _, x in self._bent
                if x.differential_off
            }
            blend = np.zeros_like(lines[..., frames])
            for fade in given.fades:

                def flag(text: str, fade: FadeInput = fade) -> Flags:
                    return _flag_in(text, fade, world)

                blend += fade.weight * self._lines(cut | fade.commands, fade.untrimmed, fade.shared, flag)
            lines[..., frames] = blend
        for i, key, line in self._slow:
            value = slow(lines[i], line.slow_up_s, line.slow_down_s, frame_s, memory, key)
            if value is not lines[i]:
                if (np.abs(value - lines[i])[..., -1] > 1e-9).any():
                    moving.add(line.target)
                lines[i] = value
        out = np.add.reduceat(lines, self._starts, axis=0)
        return {name: out[i] for i, name in enumerate(self.names)}

    def _lines(
        self,
        signals: dict[str, Array],
        untrimmed: dict[str, Array],
        shared: dict[str, Array],
        flag: Callable[[str], Flags],
    ) -> Array:
        stacked = []
        for (source, plain), curve in zip(self._keys, self._curves, strict=True):
            x = untrimmed[source] if plain else signals[source]
            stacked.append(x if curve is None else curve(x))
        lines = np.stack(stacked)[self._rows]
        lines *= self._gains.reshape(-1, *(1,) * (lines.ndim - 1))
        for i, name in self._shared:
            lines[i] *= shared[name]
        for i, line in self._bent:
            share: Array | float = abs(line.differential) / 100.0
            if line.differential_off:
                share = share * (1.0 - np.clip(signals[line.differential_off], 0.0, 100.0) / 100.0)
            less = lines[i] > 0 if line.differential > 0 else lines[i] < 0
            lines[i] = np.where(less, lines[i] * (1.0 - share), lines[i])
        for text, rows in self._when:
            lines[rows] = np.where(flag(text), lines[rows], 0.0)
        return lines


def _adds(step: LineStep) -> bool:
    return step.placed.line.combine == "add"


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
