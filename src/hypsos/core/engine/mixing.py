# SPDX-License-Identifier: GPL-3.0-or-later
"""Mix lines summed per target, in dependency order, with every contribution kept by name where it
is asked for."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from hypsos.core.base.backends import Backend, Flag, Places, Signal, Table
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.memory import Memory, slow
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.document.document import Model
from hypsos.core.document.lines import PlacedLine, all_lines, line_order
from hypsos.core.engine.modes import ModeTrack
from hypsos.core.engine.result import Contribution, Kind
from hypsos.core.engine.shaping import Shape, response_curve
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.pulses import IDLE


class LineStep(NamedTuple):
    """A line made ready. ``has_trim``: its source is an axis with a trim; ``plain``: it reads that
    axis without it. ``above_idle``: it brings the thrust command to a motor, counted from idle.

    Lines that give the same value, to whatever target, have the same number ``same`` and are
    computed once."""

    line: MixLine
    path: str
    curve: Shape | None
    key: str
    from_axis: bool
    has_trim: bool
    plain: bool
    above_idle: bool
    slow: bool
    gain: float
    less: float
    same: int


@dataclass(frozen=True)
class View:
    """What the lines read: all frames in the mode flown, or the frames of a fade seen from one of
    its modes.

    ``untrimmed`` holds axis commands without trim. ``mode`` is the
    mode of a fade and ``weight`` its share.
    """

    signals: dict[str, Signal]
    untrimmed: Mapping[str, Signal]
    shared: Mapping[str, Signal]
    flag: Callable[[str], Flag]
    mode: int = -1
    weight: Signal = 1.0
    made: dict[int, Signal] = field(default_factory=dict)
    """Line values already computed, by :attr:`LineStep.same`."""


@dataclass
class MixInput:
    """The main view of a run, and one view per mode while a fade is under way.

    ``entered`` is the main view with no fade in it; ``stopped`` the frames in which motors are not
    armed."""

    world: ConditionWorld
    track: ModeTrack
    memory: Memory
    frame_s: float
    main: View
    entered: View
    fades: list[View] = field(default_factory=list)
    moving: set[str] = field(default_factory=set)
    """Targets that a slow still moves at the end of the run."""
    stopped: Flag = False

    def blend(self, main: Signal, parts: Iterable[Signal]) -> Signal:
        """A signal with its frames of a fade replaced by what its modes give, by their weights."""
        if self.track.frames is None:
            return main
        whole: Signal = 0.0
        for view, part in zip(self.fades, parts, strict=True):
            whole = whole + view.weight * part
        return self.world.backend.put(main, self.track.frames, whole)


class MixPlan:
    """The lines of a model by target. Raises HypsosError naming the members of a circle.

    ``early`` are the targets summed before the guard has spoken, ``late`` the motors with a slow on
    their lines, and what reads those: such a slow is held at idle while the guard has not armed
    them. ``after`` are those that hang on a timer or on the state of the guard, among which is no
    motor."""

    def __init__(self, model: Model, later: Collection[str] = ()) -> None:
        lines = all_lines(model)
        order = line_order(lines)
        if order.cycle:
            raise HypsosError(
                f"these feed each other in a circle: {', '.join(order.cycle)}", "program.mixes"
            )
        self._axis_paths: dict[str, str] = {
            a.command: f"program.axes[{i}]" for i, a in enumerate(model.program.axes)
        }
        self.motors = tuple(m.name for m in model.airframe.motors)
        self._presets = _preset_tables(model)
        self.targets = self._steps_of(model, lines, order.targets)
        signals = (*model.program.signal_labels(), *(p.name for p in model.airframe.moved()))
        self.unfed = tuple(n for n in signals if n not in self.targets)
        self.after = self._hanging_on(later)
        self.late = tuple(t for t in self._late() if t not in self.after)
        self.early = tuple(t for t in self.targets if t not in self.late and t not in self.after)
        self.cone = self._cone()
        self._turned = _by_angle(model, self.targets)
        in_cone = itertools.chain.from_iterable(self.targets[target] for target in self.cone)
        self._slow_in_cone = any(step.slow for step in in_cone)

    def _steps_of(
        self, model: Model, lines: Sequence[PlacedLine], order: Sequence[str]
    ) -> dict[str, list[LineStep]]:
        """Target -> its lines, ready to be summed, in the order in which targets are summed."""
        # what only presets or nothing at all feeds may be read by any line, so it comes first
        first = [t for t in (*self._presets, *self.motors) if t not in order]
        targets: dict[str, list[LineStep]] = {t: [] for t in (*first, *order)}
        trimmed: set[str] = {
            a.command for a in model.program.axes if a.trim is not None and a.trim.scope != "lever"
        }
        seen: dict[tuple[object, ...], int] = {}
        keys: Counter[str] = Counter()
        for placed in lines:
            target = placed.line.target
            targets[target].append(
                _step(placed, self._axis_paths, trimmed, seen, keys, target in self.motors)
            )
        return targets

    def _late(self) -> tuple[str, ...]:
        late: set[str] = set()
        for target, steps in self.targets.items():
            # the targets stand in the order in which they are summed, so what reads a late one
            # is met after it
            slowed = target in self.motors and any(s.slow for s in steps)
            if slowed or any(s.line.signals() & late for s in steps):
                late.add(target)
        return tuple(t for t in self.targets if t in late)

    def _hanging_on(self, later: Collection[str]) -> tuple[str, ...]:
        """The targets with a line that reads or asks something that is known after the guard, or
        what hangs on that."""
        found: set[str] = set()
        for target, steps in self.targets.items():
            for step in steps:
                asks = asked(step.line.when) if step.line.when is not None else None
                # it asks for something that is known only after the guard has spoken
                if asks is not None and (asks.realm in ("guard", "timer") or asks.key in later):
                    found.add(target)
                if step.line.signals() & (found | set(later)):
                    found.add(target)
        return tuple(t for t in self.targets if t in found)

    def _cone(self) -> tuple[str, ...]:
        """The motors and every target that reaches one, in the order in which they are summed."""
        wanted = set(self.motors)
        # backwards: what feeds a target stands before it
        for target in reversed(self.targets):
            if target in wanted:
                for step in self.targets[target]:
                    wanted.update(step.line.signals())
        return tuple(t for t in self.targets if t in wanted)

    def begin(self, world: ConditionWorld) -> None:
        """Sums that nothing feeds: 0."""
        if self.unfed:
            # in the shape of all signals, whatever backend it is
            zero = world.signals["full"] * 0.0
            world.signals.update(dict.fromkeys(self.unfed, zero))

    def run(
        self, given: MixInput, targets: Iterable[str], why: dict[str, list[Contribution]]
    ) -> None:
        """Put the sums of these targets into the signals; contributions into ``why`` for the
        targets it names."""
        world, frames, backend = given.world, given.track.frames, given.world.backend
        for target in targets:
            steps = self.targets[target]
            slowed = self._slowed(target, steps, given)
            wanted, presets = target in why, self._presets.get(target)
            total, parts = self._sum(target, given.main, slowed, backend, wanted)
            # while modes fade, each of them sums the frames of the fade by itself, and the sums
            # are blended: a response that bends would make something else of blended sources
            if frames is not None:
                cut = {}
                for key, (full, value) in slowed.items():
                    cut[key] = (backend.cut(full, frames), backend.cut(value, frames))
                faded = [self._sum(target, view, cut, backend, wanted) for view in given.fades]
                total = given.blend(total, (x for x, _ in faded))
                for i, part in enumerate(parts):
                    amount = given.blend(part.amount, (mine[i].amount for _, mine in faded))
                    parts[i] = part._replace(amount=amount)
                # lines further on read, in each mode's view, what that mode alone makes of this
                # sum
                for view, (mine, _) in zip(given.fades, faded, strict=True):
                    view.signals[target] = mine + _preset_of(presets, view)
            if presets is not None:
                preset = given.track.blend(backend, presets)
                total = total + preset
                parts.append(Contribution("Mode preset", "preset", preset, "program.modes"))
            if wanted:
                for part in parts:
                    # a slow that has arrived and a preset of 0 explain nothing
                    told = part.kind not in ("slow", "preset")
                    if told or not backend.never(part.amount != 0):
                        why[target].append(part)
            world.signals[target] = total

    def asked(self, given: MixInput) -> dict[str, Signal]:
        """What every motor would be told if it were armed: with every slow and every fade at its
        end, with those on their way where they are now, and with the slows of its own lines at
        idle, from where they begin, whichever is most. Needs the early sums."""
        world, backend = given.world, given.world.backend
        # these sums are there already: the guard does not change them
        now = {t: world.signals[t] for t in self.motors if t not in self.late}
        if self.late:
            # a slow of a motor's own line is held at idle until the guard arms it and sets out
            # from there: so where it begins counts as well as where it ends
            late = self._unslowed(given, given.main, given.fades, self.late)
            begin = self._unslowed(given, given.main, given.fades, self.late, True)
            now |= {t: backend.maximum(late[t], begin[t]) for t in late}
        if not self._slow_in_cone and given.track.frames is None:
            return now
        # the mode that is being entered, with nothing under way: what would come out although
        # nobody moves a hand
        end = self._unslowed(given, given.entered, [], self.cone)
        return {t: backend.maximum(now[t], end[t]) for t in now}

    def settled(self, given: MixInput) -> dict[str, Signal]:
        """What every motor would be told in the main view with every slow and fade at its end, and
        with those of its own lines at idle, where they begin; whichever is more."""
        end = self._unslowed(given, given.main, [], self.cone)
        if not self.late:
            return end
        begin = self._unslowed(given, given.main, [], self.cone, True)
        return {t: given.world.backend.maximum(end[t], begin[t]) for t in end}

    def _unslowed(
        self,
        given: MixInput,
        main: View,
        fades: list[View],
        targets: Collection[str],
        held: bool = False,
    ) -> dict[str, Signal]:
        """The sums of these targets with every slow of their own lines at its end, those of motors
        (``held``) at idle; without ``fades`` as the mode entered makes them."""
        backend = given.world.backend
        # copies: what is asked here is never sent, and must not be read by what is
        own, *views = (replace(v, signals=dict(v.signals), made={}) for v in (main, *fades))
        for target in targets:
            slowed, cut = self._slows_ended(given, own, views, target, held)
            total, _ = self._sum(target, own, slowed, backend, False)
            presets = self._presets.get(target)
            if views:
                parts = [self._sum(target, v, cut, backend, False)[0] for v in views]
                total = given.blend(total, parts)
                for view, part in zip(views, parts, strict=True):
                    view.signals[target] = part + _preset_of(presets, view)
            if presets is not None and views:
                total = total + given.track.blend(backend, presets)
            elif presets is not None:
                total = total + backend.take(presets, given.track.index)
            own.signals[target] = total
        return {t: own.signals[t] for t in targets if t in self.motors}

    def _slows_ended(
        self, given: MixInput, own: View, views: list[View], target: str, held: bool
    ) -> tuple[dict[str, tuple[Signal, Signal]], dict[str, tuple[Signal, Signal]]]:
        """What the slow lines of a target give at their end: in every frame, and in the frames of a
        fade."""
        backend, frames = given.world.backend, given.track.frames
        slowed: dict[str, tuple[Signal, Signal]] = {}
        cut: dict[str, tuple[Signal, Signal]] = {}
        for step in self.targets[target]:
            if not step.slow:
                continue
            x = _shape(step, own, step.plain, backend)
            fading = frames is not None and bool(views)
            if fading:
                x = given.blend(x, (_shape(step, v, step.plain, backend) for v in views))
            # held at idle, the slow begins from nothing
            if held and target in self.motors:
                x = x * 0.0
            if frames is not None and fading:
                part = backend.cut(x, frames)
                cut[step.key] = (part, part)
            slowed[step.key] = (x, x)
        return slowed, cut

    def _slowed(
        self, target: str, steps: list[LineStep], given: MixInput
    ) -> dict[str, tuple[Signal, Signal]]:
        """Lines with a slow of their own, which works on the blend of the modes: their response
        before and after it."""
        out = {}
        backend = given.world.backend
        stopped = given.stopped if target in self.motors else False
        for step in steps:
            line = step.line
            # what reads something that is on its way is on its way itself
            if line.source in given.moving:
                given.moving.add(target)
            if step.slow:
                shapes = (_shape(step, v, step.plain, backend) for v in given.fades)
                full = given.blend(_shape(step, given.main, step.plain, backend), shapes)
                value = slow(
                    full, line.in_s, line.out_s, given.frame_s, given.memory, step.key, stopped
                )
                out[step.key] = (full, value)
                # "+ full * 0.0" gives both the same shape
                arrived = backend.never(backend.differs(value + full * 0.0, full))
                # while the guard stops them, motors are held: nothing of theirs is on its way
                if not arrived and not backend.always(stopped):
                    given.moving.add(target)
        return out

    def _sum(
        self,
        target: str,
        view: View,
        slowed: dict[str, tuple[Signal, Signal]],
        backend: Backend,
        wanted: bool,
    ) -> tuple[Signal, list[Contribution]]:
        """One target line by line in one view, with its contributions where they are wanted. A
        motor begins at idle.

        Lines by angle are summed apart, in degrees, and their sum becomes percent at the end.
        """
        steps = self.targets[target]
        curve = self._turned.get(target)
        # percent first; what is by angle is added when its degrees have become percent
        total, parts = self._lines(steps, view, slowed, backend, wanted, False)
        if curve is not None:
            angle, turning = self._lines(steps, view, slowed, backend, wanted, True)
            value = curve(angle)
            total = total + value
            parts += _as_percent(turning, angle, value, backend)
        if target in self.motors:
            total = total + IDLE
            if wanted:
                parts.insert(0, Contribution("Idle", "idle", view.signals["full"] * 0.0 + IDLE, ""))
        return total, parts

    def _lines(
        self,
        steps: list[LineStep],
        view: View,
        slowed: dict[str, tuple[Signal, Signal]],
        backend: Backend,
        wanted: bool,
        turned: bool,
    ) -> tuple[Signal, list[Contribution]]:
        """The sum of a target's lines by percent, or (``turned``) of those by angle. What scales or
        replaces acts on both."""
        total: Signal = 0.0 if steps else view.signals["full"] * 0.0
        parts: list[Contribution] = []
        for step in steps:
            # a line that adds belongs to one of the two sums
            if step.line.by_angle != turned and step.line.combine == "add":
                continue
            line = step.line
            full: Signal | None = None
            if step.slow:
                full, value = (_gained(step, x, view, backend) for x in slowed[step.key])
            else:
                value = _value(step, view, backend)
            if line.combine == "add":
                total = total + value
                if wanted:
                    parts += self._parts(step, view, full, value, backend)
                continue
            active: Flag = True if line.when is None else view.flag(line.when)
            if line.combine == "scale":
                # what it takes away or adds, so that it can be told as a contribution of its own
                value = backend.where(active, total * (value / 100.0 - 1.0), 0.0)
                parts.append(Contribution(line.name, "mix", value, step.path))
            else:  # it replaces: of what came before it nothing is left while it acts
                parts = [p._replace(amount=backend.where(active, 0.0, p.amount)) for p in parts]
                total = backend.where(active, 0.0, total)
                if line.by_angle == turned:
                    value = backend.where(active, value, 0.0)
                    if full is not None:
                        full = backend.where(active, full, 0.0)
                    parts += self._parts(step, view, full, value, backend)
                else:  # what it gives goes into the other of the two sums
                    value = 0.0
            total = total + value
        return total, parts

    def _parts(
        self, step: LineStep, view: View, full: Signal | None, value: Signal, backend: Backend
    ) -> list[Contribution]:
        """What one line gives, with the trim's share apart and what its own slow still holds
        back."""
        line, path = step.line, step.path
        whole = value if full is None else full
        parts: list[Contribution] = []
        if step.has_trim and line.with_trim and line.combine == "add":
            stick = _gained(step, _shape(step, view, True, backend), view, backend)
            trim_path = f"{self._axis_paths[line.source]}.trim.clicks"
            parts.append(Contribution(line.name, "stick", stick, path))
            parts.append(
                Contribution(f"{line.source.capitalize()} trim", "trim", whole - stick, trim_path)
            )
        else:
            kind: Kind = "stick" if step.from_axis else "mix"
            parts.append(Contribution(line.name, kind, whole, path))
        if full is not None:
            held_back = f"{line.name} still on its way"
            seconds = f"{path.rsplit('.', 1)[0]}.in_s"
            parts.append(Contribution(held_back, "slow", value - full, seconds))
        return parts


def _by_angle(model: Model, targets: Mapping[str, list[LineStep]]) -> dict[str, Curve]:
    """Surface -> what makes percent of the degrees of its lines by angle; of those that have such
    lines."""
    surfaces = {s.name: s for s in model.airframe.surfaces}
    leads = {x.target: x for x in reversed(model.leads)}
    curves = {}
    for target, steps in targets.items():
        if target in surfaces and any(step.line.by_angle for step in steps):
            # a surface without a lead has one as it would be at first
            lead = leads.get(target, Lead(name=target, label=target, target=target))
            curves[target] = Motion(lead, surfaces[target]).by_angle()
    return curves


def _as_percent(
    parts: list[Contribution], angle: Signal, value: Signal, backend: Backend
) -> list[Contribution]:
    """Contributions in degrees as shares of the percent that their sum has become. Where they
    cancel, nothing is left to be shared out but what a fade between modes makes of it; it is kept
    as one of its own."""
    if not parts:
        return []
    # where the degrees are nothing there is nothing to share out
    there = backend.abs(angle) > 1e-9
    share = backend.where(there, value / backend.where(there, angle, 1.0), 0.0)
    return [p._replace(amount=p.amount * share) for p in parts]


def _preset_of(presets: Table | None, view: View) -> float:
    """What the mode of a view presets for a target."""
    return 0.0 if presets is None else presets.values[view.mode]


def _preset_tables(model: Model) -> dict[str, Table]:
    """Target -> its presets by flight mode."""
    modes = model.program.modes
    targets = set(itertools.chain.from_iterable(mode.presets for mode in modes))
    tables = {}
    for target in sorted(targets):
        tables[target] = Table([mode.presets.get(target, 0.0) for mode in modes])
    return tables


def _step(
    placed: PlacedLine,
    axes: dict[str, str],
    trimmed: set[str],
    seen: dict[tuple[object, ...], int],
    keys: Counter[str],
    motor: bool,
) -> LineStep:
    line = placed.line
    # thrust goes from -100 (idle) up; a motor gets what is above idle
    above = motor and line.source == "thrust"
    # two lines that do the same to the same source are computed once; their names and targets do
    # not matter
    alike = (
        line.source,
        line.with_trim,
        line.response,
        line.gain,
        line.gain_from,
        line.when,
        line.differential,
        line.differential_off,
        line.differential_from,
        above,
    )
    named = f"line.{line.target}.{line.source}.{placed.origin}.{line.name}"
    # by names and not by places: a slow goes on through an edit of another line
    keys[named] += 1
    return LineStep(
        line=line,
        path=placed.path,
        curve=response_curve(line.response),
        key=f"{named}.{keys[named]}",
        from_axis=line.source in axes,
        has_trim=line.source in trimmed,
        plain=line.source in trimmed and not line.with_trim,
        above_idle=above,
        slow=bool(line.in_s or line.out_s),
        gain=line.gain / 100.0,
        less=abs(line.differential) / 100.0,
        same=seen.setdefault(alike, len(seen)),
    )


def mode_flag(
    world: ConditionWorld, mode: str, frames: Places | None = None
) -> Callable[[str], Flag]:
    """Conditions as one mode of a fade sees them: that mode is on, no other is. In some frames, or
    in all of them."""

    def flag(text: str) -> Flag:
        negated, realm, name, _ = asked(text)
        if realm == "mode":
            return (name == mode) != negated
        return world.flag(text) if frames is None else world.backend.cut(world.flag(text), frames)

    return flag


def _value(step: LineStep, view: View, backend: Backend) -> Signal:
    """A line's contribution in one view, without a slow."""
    found = view.made.get(step.same)
    if found is None:
        found = view.made[step.same] = _gained(
            step, _shape(step, view, step.plain, backend), view, backend
        )
    return found


def _shape(step: LineStep, view: View, plain: bool, backend: Backend) -> Signal:
    """A line's response before its gain, 0 where its condition does not hold."""
    line = step.line
    source = (view.untrimmed if plain else view.signals)[line.source]
    active = None if line.when is None else view.flag(line.when)
    # nowhere on: the response need not be looked up
    if active is not None and backend.never(active):
        return source * 0.0
    value: Signal = source if step.curve is None else step.curve.of(source, view.shared)
    if step.above_idle:
        value = value - IDLE
    return value if active is None else backend.where(active, value, 0.0)


def _gained(step: LineStep, shape: Signal, view: View, backend: Backend) -> Signal:
    """What a line contributes for its response."""
    line = step.line
    value = step.gain * shape
    if line.gain_from is not None:
        value = value * view.shared[line.gain_from] / 100.0
    if step.less:
        share: Signal = step.less
        if line.differential_from is not None:
            share = backend.clip(share * (view.shared[line.differential_from] / 100.0), 0.0, 1.0)
        if line.differential_off is not None:
            share = share * (
                1.0 - backend.clip(view.signals[line.differential_off], 0.0, 100.0) / 100.0
            )
        bent = value > 0 if line.differential > 0 else value < 0
        value = backend.where(bent, value * (1.0 - share), value)
    return value
