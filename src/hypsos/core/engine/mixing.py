"""Mix lines summed per target, in dependency order, with every contribution kept by name where it is asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from hypsos.core.document import Model
from hypsos.core.engine.lines import PlacedLine, all_lines, line_order
from hypsos.core.engine.logic import Conditions
from hypsos.core.engine.memory import Memory, slow
from hypsos.core.engine.modes import ModeTrack
from hypsos.core.engine.result import Contribution
from hypsos.core.engine.shaping import Curve, response_curve
from hypsos.core.errors import HypsosError
from hypsos.core.lanes import Lane, Places, Signal, Table
from hypsos.core.logic import condition_parts
from hypsos.core.shapes import MixLine


class LineStep(NamedTuple):
    """A line made ready. ``has_trim``: its source is an axis with a trim; ``plain``: it reads that axis without it.

    Lines that give the same value, to whatever target, have the same number ``same`` and are computed once.
    """

    line: MixLine
    path: str
    curve: Curve | None
    key: str
    from_axis: bool
    has_trim: bool
    plain: bool
    slow: bool
    gain: float
    less: float
    same: int


@dataclass(frozen=True)
class View:
    """What the lines read: all frames in the mode flown, or the frames of a fade seen from one of its modes.

    ``untrimmed`` holds axis commands without trim. ``mode`` is the
    mode of a fade and ``weight`` its share.
    """

    signals: dict[str, Signal]
    untrimmed: Mapping[str, Signal]
    shared: Mapping[str, Signal]
    flag: Callable[[str], Signal]
    mode: int = -1
    weight: Signal = 1.0
    made: dict[int, Signal] = field(default_factory=dict)
    """Line values already computed, by :attr:`LineStep.same`."""


@dataclass
class MixInput:
    """The main view of a run, and one view per mode while a fade is under way."""

    world: Conditions
    track: ModeTrack
    memory: Memory
    frame_s: float
    main: View
    fades: list[View] = field(default_factory=list)
    moving: set[str] = field(default_factory=set)
    """Targets that a slow still moves at the end of the run."""

    def blend(self, main: Signal, parts: Iterable[Signal]) -> Signal:
        """A signal with its frames of a fade replaced by what its modes give, by their weights."""
        if self.track.frames is None:
            return main
        whole: Signal = 0.0
        for view, part in zip(self.fades, parts, strict=True):
            whole = whole + view.weight * part
        return self.world.lane.put(main, self.track.frames, whole)


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
        seen: dict[tuple[object, ...], int] = {}
        for placed in lines:
            self.targets[placed.line.target].append(_step(placed, axes, trimmed, seen))
        modes = model.program.modes
        self._presets = {
            t: Table([m.presets.get(t, 0.0) for m in modes]) for t in sorted({t for m in modes for t in m.presets})
        }
        for target in self._presets:
            self.targets.setdefault(target, [])

    def run(self, given: MixInput, why: dict[str, list[Contribution]]) -> None:
        """Put every target's sum into the signals; contributions into ``why`` for the targets it names."""
        world, frames, lane = given.world, given.track.frames, given.world.lane
        for target, steps in self.targets.items():
            slowed = self._slowed(target, steps, given)
            wanted, presets = target in why, self._presets.get(target)
            total, parts = self._sum(steps, given.main, slowed, given, wanted)
            if frames is not None:
                cut = {key: (lane.cut(full, frames), lane.cut(value, frames)) for key, (full, value) in slowed.items()}
                faded = [self._sum(steps, view, cut, given, wanted) for view in given.fades]
                total = given.blend(total, (x for x, _ in faded))
                for i, part in enumerate(parts):
                    amount = given.blend(part.amount, (mine[i].amount for _, mine in faded))
                    parts[i] = part._replace(amount=amount)
                for view, (mine, _) in zip(given.fades, faded, strict=True):
                    view.signals[target] = mine + (presets.values[view.mode] if presets is not None else 0.0)
            if presets is not None:
                preset = given.track.blend(lane, presets)
                total = total + preset
                parts.append(Contribution("Mode preset", "preset", preset, "program.modes"))
            if wanted:
                why[target] += [p for p in parts if p.kind not in ("slow", "preset") or not lane.never(p.amount != 0)]
            world.signals[target] = total

    def _slowed(self, target: str, steps: list[LineStep], given: MixInput) -> dict[str, tuple[Signal, Signal]]:
        """Lines with a slow of their own, which works on the blend of the modes: before and after it, by line."""
        out = {}
        lane = given.world.lane
        for step in steps:
            line = step.line
            if line.source in given.moving:
                given.moving.add(target)
            if step.slow:
                full = given.blend(_value(step, given.main, lane), (_value(step, v, lane) for v in given.fades))
                value = slow(full, line.slow_up_s, line.slow_down_s, given.frame_s, given.memory, step.key)
                out[step.key] = (full, value)
                if not lane.never(lane.differs(value, full)):
                    given.moving.add(target)
        return out

    def _sum(
        self, steps: list[LineStep], view: View, slowed: dict[str, tuple[Signal, Signal]], given: MixInput, wanted: bool
    ) -> tuple[Signal, list[Contribution]]:  # fmt: skip
        """One target line by line in one view, with its contributions where they are wanted."""
        lane = given.world.lane
        total: Signal = 0.0 if steps else view.signals["full"] * 0.0
        parts: list[Contribution] = []
        for step in steps:
            line = step.line
            full, value = slowed[step.key] if step.slow else (None, _value(step, view, lane))
            if line.combine == "add":
                total = total + value
                if wanted:
                    parts += self._parts(step, view, full, value, lane)
                continue
            active = True if line.when is None else view.flag(line.when)
            if line.combine == "scale":
                value = lane.where(active, total * (value / 100.0 - 1.0), 0.0)
                parts.append(Contribution(line.name, "mix", value, step.path))
            else:
                parts = [Contribution(p.label, p.kind, lane.where(active, 0.0, p.amount), p.path) for p in parts]
                total, value = lane.where(active, 0.0, total), lane.where(active, value, 0.0)
                parts += self._parts(step, view, None if full is None else lane.where(active, full, 0.0), value, lane)
            total = total + value
        return total, parts

    def _parts(self, step: LineStep, view: View, full: Signal, value: Signal, lane: Lane) -> list[Contribution]:
        """What one line gives, with the trim's share apart and what its own slow still holds back."""
        line, path = step.line, step.path
        whole = value if full is None else full
        parts: list[Contribution] = []
        if step.has_trim and line.with_trim and line.combine == "add":
            stick = _computed(step, view, True, lane)
            trim_path = f"{self._axis_paths[line.source]}.trim.clicks"
            parts.append(Contribution(line.name, "stick", stick, path))
            parts.append(Contribution(f"{line.source.capitalize()} trim", "trim", whole - stick, trim_path))
        else:
            parts.append(Contribution(line.name, "stick" if step.from_axis else "mix", whole, path))
        if full is not None:
            slow_path = path.rsplit(".", 1)[0] + ".slow_up_s"
            parts.append(Contribution(f"{line.name} still on its way", "slow", value - full, slow_path))
        return parts


def _step(placed: PlacedLine, axes: dict[str, str], trimmed: set[str], seen: dict[tuple[object, ...], int]) -> LineStep:
    line = placed.line
    alike = (line.source, line.with_trim, line.response, line.gain, line.gain_from, line.when, line.differential,
             line.differential_off)  # fmt: skip
    sign = -1.0 if line.gain < 0 else 1.0
    return LineStep(
        line,
        placed.path,
        response_curve(line.response),
        f"{placed.path}>{line.target}>{line.source}",
        line.source in axes,
        line.source in trimmed,
        line.source in trimmed and not line.with_trim,
        bool(line.slow_up_s or line.slow_down_s),
        (sign if line.gain_from else line.gain) / 100.0,
        abs(line.differential) / 100.0,
        seen.setdefault(alike, len(seen)),
    )


def mode_flag(world: Conditions, mode: str, frames: Places | None) -> Callable[[str], Signal]:
    """Conditions in the frames of a fade as one of its modes sees them: that mode is on, no other is."""

    def flag(text: str) -> Signal:
        negated, is_mode, name, _ = condition_parts(text)
        return (name == mode) != negated if is_mode else world.lane.cut(world.flag(text), frames)

    return flag


def _value(step: LineStep, view: View, lane: Lane) -> Signal:
    """A line's contribution in one view, before its slow."""
    found = view.made.get(step.same)
    if found is None:
        found = view.made[step.same] = _computed(step, view, step.plain, lane)
    return found


def _computed(step: LineStep, view: View, plain: bool, lane: Lane) -> Signal:
    line = step.line
    source = (view.untrimmed if plain else view.signals)[line.source]
    active = None if line.when is None else view.flag(line.when)
    if active is not None and lane.never(active):
        return source * 0.0
    gain: Signal = step.gain if line.gain_from is None else view.shared[line.gain_from] * step.gain
    value = gain * (source if step.curve is None else step.curve(source))
    if step.less:
        share: Signal = step.less
        if line.differential_off is not None:
            share = share * (1.0 - lane.clip(view.signals[line.differential_off], 0.0, 100.0) / 100.0)
        bent = value > 0 if line.differential > 0 else value < 0
        value = lane.where(bent, value * (1.0 - share), value)
    return value if active is None else lane.where(active, value, 0.0)
