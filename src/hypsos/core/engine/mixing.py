"""Mix lines summed per target, in dependency order, with every contribution kept by name where it is asked for."""

from __future__ import annotations

from dataclasses import dataclass, field

from hypsos.core.document import Model
from hypsos.core.engine.lines import PlacedLine, all_lines, line_order
from hypsos.core.engine.logic import Conditions
from hypsos.core.engine.memory import Memory, slow
from hypsos.core.engine.modes import ModeTrack
from hypsos.core.engine.result import Contribution
from hypsos.core.engine.shaping import Curve, response_curve
from hypsos.core.errors import HypsosError
from hypsos.core.lanes import Lane, Signal, Table
from hypsos.core.logic import condition_parts
from hypsos.core.shapes import MixLine


@dataclass(frozen=True)
class LineStep:
    """A line made ready. ``has_trim``: its source is an axis with a trim; ``plain``: it reads that axis without it."""

    line: MixLine
    path: str
    curve: Curve | None
    key: str
    from_axis: bool
    has_trim: bool
    plain: bool
    gain: float
    less: float


@dataclass(frozen=True)
class FadeInput:
    """One mode's share while a fade is under way: its weight in those frames, its own commands and shared values."""

    mode: str
    weight: Signal
    commands: dict[str, Signal]
    untrimmed: dict[str, Signal]
    shared: dict[str, Signal]


@dataclass
class MixInput:
    """What the lines read. ``untrimmed`` holds axis commands without trim; ``fades`` the same per mode while fading."""

    world: Conditions
    shared: dict[str, Signal]
    untrimmed: dict[str, Signal]
    track: ModeTrack
    memory: Memory
    frame_s: float
    fades: list[FadeInput] = field(default_factory=list)
    moving: set[str] = field(default_factory=set)
    """Targets that a slow still moves at the end of the run."""


class MixPlan:
    """The lines of a model by target. Raises HypsosError naming the members of a circle."""

    def __init__(self, model: Model) -> None:
        lines = all_lines(model)
        order = line_order(lines)
        if order.cycle:
            raise HypsosError(f"these feed each other in a circle: {', '.join(order.cycle)}", "program.mixes")
        trimmed: set[str] = {a.command for a in model.program.axes if a.trim is not None}
        axes: dict[str, str] = {a.command: f"program.axes[{i}]" for i, a in enumerate(model.program.axes)}
        self._axis_paths = axes
        self.targets: dict[str, list[LineStep]] = {t: [] for t in order.targets}
        for placed in lines:
            self.targets[placed.line.target].append(_step(placed, axes, trimmed))
        modes = model.program.modes
        self._presets = {
            t: Table([m.presets.get(t, 0.0) for m in modes]) for t in sorted({t for m in modes for t in m.presets})
        }
        for target in self._presets:
            self.targets.setdefault(target, [])

    def run(self, given: MixInput, why: dict[str, list[Contribution]]) -> None:
        """Put every target's sum into the signals; contributions into ``why`` for the targets it names."""
        lane, signals = given.world.lane, given.world.signals
        for target, steps in self.targets.items():
            parts = why.get(target)
            total: Signal = lane.full(given.world.shape, 0.0)
            for step in steps:
                total = self._add(step, total, given, parts)
            if target in self._presets:
                preset = given.track.blend(lane, self._presets[target])
                total = total + preset
                if parts is not None and not lane.never(preset != 0):
                    parts.append(Contribution("Mode preset", "preset", preset, "program.modes"))
            signals[target] = total

    def _add(self, step: LineStep, total: Signal, given: MixInput, parts: list[Contribution] | None) -> Signal:
        line, lane = step.line, given.world.lane
        full = _value(step, given, step.plain)
        value = slow(full, line.slow_up_s, line.slow_down_s, given.frame_s, given.memory, step.key)
        if line.source in given.moving or (value is not full and not lane.never(lane.differs(value, full))):
            given.moving.add(line.target)
        if parts is None and line.combine == "add":
            return total + value
        active = True if line.when is None else given.world.flag(line.when)
        if line.combine == "scale":
            change = lane.where(active, total * (value / 100.0 - 1.0), 0.0)
            if parts is not None:
                parts.append(Contribution(line.name, "mix", change, step.path))
            return total + change
        if line.combine == "replace":
            total, full = lane.where(active, 0.0, total), lane.where(active, full, 0.0)
            value = lane.where(active, value, 0.0)
            if parts is not None:
                parts[:] = [Contribution(p.label, p.kind, lane.where(active, 0.0, p.amount), p.path) for p in parts]
        if parts is not None:
            parts += self._parts(step, given, full, value)
        return total + value

    def _parts(self, step: LineStep, given: MixInput, full: Signal, value: Signal) -> list[Contribution]:
        """What one line gives, with the trim's share apart and what its own slow still holds back."""
        line, path, lane = step.line, step.path, given.world.lane
        parts: list[Contribution] = []
        if step.has_trim and line.with_trim and line.combine == "add":
            stick = _value(step, given, plain=True)
            parts.append(Contribution(line.name, "stick", stick, path))
            trim_path = f"{self._axis_paths[line.source]}.trim.clicks"
            parts.append(Contribution(f"{line.source.capitalize()} trim", "trim", full - stick, trim_path))
        else:
            parts.append(Contribution(line.name, "stick" if step.from_axis else "mix", full, path))
        if value is not full and not lane.never(value != full):
            slow_path = path.rsplit(".", 1)[0] + ".slow_up_s"
            parts.append(Contribution(f"{line.name} still on its way", "slow", value - full, slow_path))
        return parts


def _step(placed: PlacedLine, axes: dict[str, str], trimmed: set[str]) -> LineStep:
    line = placed.line
    sign = -1.0 if line.gain < 0 else 1.0
    return LineStep(
        line,
        placed.path,
        response_curve(line.response),
        f"{placed.path}>{line.target}>{line.source}",
        line.source in axes,
        line.source in trimmed,
        line.source in trimmed and not line.with_trim,
        (sign if line.gain_from else line.gain) / 100.0,
        abs(line.differential) / 100.0,
    )


def _value(step: LineStep, given: MixInput, plain: bool) -> Signal:
    """A line's contribution before its slow; between modes each is evaluated and they are faded."""
    line, world = step.line, given.world
    source = given.untrimmed[line.source] if plain else world.signals[line.source]
    brake = world.signals[line.differential_off] if line.differential_off else None
    active = None if line.when is None else world.flag(line.when)
    out = _shaped_line(step, source, given.shared, brake, active, world)
    frames = given.track.frames
    if frames is None:
        return out
    lane = world.lane
    brake = None if brake is None else lane.cut(brake, frames)
    blend: Signal = 0.0
    for fade in given.fades:
        part = (fade.untrimmed if plain else fade.commands).get(line.source)
        if part is None:
            part = lane.cut(source, frames)
        flags = None if line.when is None else _flag_in(line.when, fade, given)
        blend = blend + fade.weight * _shaped_line(step, part, fade.shared, brake, flags, world)
    return lane.put(out, frames, blend)


def _flag_in(text: str, fade: FadeInput, given: MixInput) -> Signal:
    negated, is_mode, name, _ = condition_parts(text)
    if is_mode:
        return (name == fade.mode) != negated
    return given.world.lane.cut(given.world.flag(text), given.track.frames)


def _shaped_line(
    step: LineStep, source: Signal, shared: dict[str, Signal], brake: Signal, active: Signal, world: Conditions
) -> Signal:
    lane: Lane = world.lane
    line = step.line
    if active is not None and lane.never(active):
        return source * 0.0
    gain: Signal = step.gain if line.gain_from is None else shared[line.gain_from] * step.gain
    value = gain * (source if step.curve is None else step.curve(source))
    if step.less:
        share: Signal = step.less
        if brake is not None:
            share = share * (1.0 - lane.clip(brake, 0.0, 100.0) / 100.0)
        bent = value > 0 if line.differential > 0 else value < 0
        value = lane.where(bent, value * (1.0 - share), value)
    return value if active is None else lane.where(active, value, 0.0)
