# SPDX-License-Identifier: GPL-3.0-or-later
"""The part of a model on which a question hangs, in the form in which it is searched.

Sought: a small document that answers a question as the whole model does. Each control and each
latch that is left in multiplies what has to be searched.

What must stay true: as far as the question goes, the slice can do everything that the model can. It
may do a little more, for whatever is found is played by the whole model before it is said. If it
could do less, a danger would be missed.

How it is made: only the lines, axes, conditions, modes and controls that reach the question are
kept, and what those ask for in their turn. Whatever only takes time (slows, fades, a servo's speed)
has ended at once, unless time itself is asked about. Trims are common to all modes, from end to
end. A shared value that is stepped or kept in flight goes by a control of its own, which may stand
anywhere within its bounds.

Why it is right: the slice is run by the engine like any document, and what is left out is read by
nothing that is left in.

What it costs: one walk along the lines for each question. The last slice of a question is kept:
after an edit that does not touch it the very same object comes back, and what was found in it stays
good.

An example: of a tug with flaps, rates and a tow release, "does the motor leave its idle?" keeps the
thrust axis, the motor's lines, the guard and the conditions that these ask for. The rates of roll
are not in it; an edit of a rate searches no motor again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.memory import Waiting
from hypsos.core.conditions import LogicSwitch, conditions_of, signals_of
from hypsos.core.dependencies.graph import Reader, conditions_asked, graph
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Axis, Program
from hypsos.core.parts.airframe import Airframe
from hypsos.core.parts.announcement_values import Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable

FREE = "free_value_"
"""What the control of a shared value that is free within its bounds begins with."""


@dataclass(frozen=True)
class ModelSlice:
    """A model cut down to what reaches some parts and conditions.

    ``model`` is the document that is searched; ``paths`` the place of each of its mixes in the
    whole one; ``free`` the controls that stand for shared values that are stepped or kept in
    flight, with the shared value's name."""

    model: Model
    paths: tuple[str, ...]
    free: dict[str, str] = field(default_factory=dict)
    asks: tuple[str, ...] = ()
    """The conditions it was made for."""


class _Needs:
    """Everything that is asked for, followed to its end. ``as_flown``: what moves a shared value and
    the trims of every flight mode are asked for, too."""

    def __init__(self, model: Model, as_flown: bool = False) -> None:
        self.model, self.program, self.graph = model, model.program, graph(model)
        self.as_flown = as_flown
        self.nodes: dict[str, LogicSwitch] = {x.name: x for x in model.program.logic}
        self.shared: dict[str, Tunable] = {x.name: x for x in model.program.shared_values()}
        # as they are felt: rates and expos of behaviours stand in them
        self.axes: dict[str, Axis] = {a.command: model.program.felt(a) for a in model.program.axes}
        self.lines = [(p.line, p.path) for p in all_lines(model)]
        self.kept_nodes: set[str] = set()
        self.kept_shared: set[str] = set()
        self.kept_axes: set[str] = set()
        self.controls: set[str] = set()
        self.targets: set[str] = set()
        self.timers: set[str] = set()
        self.modes = 0
        """So many flight modes from the first one matter; all of them where figures hang on the
        mode flown."""
        self.guard = False

    def parts(self, names: Iterable[str]) -> None:
        """Surfaces, motors, devices or signals, with all that reaches their sums."""
        wanted = self.graph.sums_behind(names) - self.targets
        self.targets |= wanted
        # where a mode presets one of them, it hangs on which mode is flown
        for mode in self.program.modes:
            if any(mode.presets.get(target) for target in wanted):
                self.all_modes()
        for line, _ in self.lines:
            if line.target in wanted:
                self._line(line)
        for name in wanted:
            self.signal(name)

    def _line(self, line: MixLine) -> None:
        """A line, but for what it reads: that is wanted already."""
        self._asked(line)

    def signal(self, name: str) -> None:
        """A stick, control, gate, command or trim that is read."""
        if name in self.axes:
            self.axis(name)
        elif name in self.nodes:
            self.node(name)
        elif name.endswith("_trim") and name[:-5] in self.axes:
            self.axis(name[:-5])
        else:
            self.controls.add(name)

    def axis(self, command: str) -> None:
        # followed already; so a circle of shared values comes to its end
        if command in self.kept_axes or command not in self.axes:
            return
        self.kept_axes.add(command)
        axis = self.axes[command]
        for _, name in axis.reads():
            self.signal(name)
        self._asked(axis)
        if self.as_flown and axis.trim is not None and axis.trim.scope != "common":
            self.all_modes()

    def _asked(self, reader: Reader) -> None:
        """The shared values and the conditions that a part of the document goes by."""
        for _, name in reader.shares():
            self.value(name)
        for _, text in reader.asks():
            self.condition(text)

    def value(self, name: str) -> None:
        if name in self.kept_shared or name not in self.shared:
            return
        self.kept_shared.add(name)
        x = self.shared[name]
        # its figure hangs on which mode is flown
        if x.by_mode or (x.adjuster is not None and x.adjuster.modes):
            self.all_modes()
        # what is free within its bounds gets a control of its own: how it came to stand there is
        # not asked
        if x.adjuster is not None and (self.as_flown or not _is_free(x.adjuster)):
            for _, control in x.reads():
                self.signal(control)
            self._asked(x)

    def condition(self, text: str) -> None:
        asks = asked(text)
        if asks.realm == "mode":
            names = [m.name for m in self.program.modes]
            if self.as_flown:
                # a fade into any mode goes by all of them
                self.all_modes()
            # whether a mode is flown hangs on all modes before it, and on none behind it
            self.first_modes(names.index(asks.name) + 1)
        elif asks.realm == "guard":
            self.the_guard()
        elif asks.realm == "timer":
            timer = next((x for x in self.program.timers if x.name == asks.name), None)
            if timer is not None and timer.name not in self.timers:
                self.timers.add(timer.name)
                self._asked(timer)
        elif asks.name in self.nodes:
            self.node(asks.name)
        else:
            self.controls.add(asks.name)

    def node(self, name: str) -> None:
        if name in self.kept_nodes:
            return
        self.kept_nodes.add(name)
        node = self.nodes[name]
        for text in conditions_of(node):
            self.condition(text)
        sums = {line.target for line, _ in self.lines}
        for mode in self.program.modes:
            sums.update(mode.presets)
        for signal in signals_of(node):
            # some conditions read where sums stand; then all that feeds those is needed
            if node.reads_sums and signal not in self.nodes and signal in sums:
                self.parts({signal})
            else:
                self.signal(signal)

    def all_modes(self) -> None:
        self.first_modes(len(self.program.modes))

    def first_modes(self, count: int) -> None:
        """The modes that go before a mode, and that one."""
        had, self.modes = self.modes, max(count, self.modes)
        for mode in self.program.modes[had : self.modes]:
            self._asked(mode)

    def the_guard(self) -> None:
        """The guard, with what it watches: every motor, the control of the thrust, its
        conditions."""
        guard = self.program.guard
        if self.guard or guard is None:
            return
        self.guard = True
        self.controls |= {"link", *(name for _, name in guard.reads())}
        self._asked(guard)
        self.axis("thrust")
        # the guard watches what every motor would be told, so all that reaches a motor is needed
        self.parts({m.name for m in self.model.airframe.motors})

    def key(self, plugged: set[str]) -> tuple[Any, ...]:
        """All of the document that a slice is made of, and what is said of it: the same for the
        same slice."""
        model, program = self.model, self.program
        return (
            tuple((line, path) for line, path in self.lines if line.target in self.targets),
            tuple((a.command, self._axis_key(a.command)) for a in program.axes),
            tuple(x for x in program.logic if x.name in self.kept_nodes),
            self._modes_key(),
            len(program.modes),
            tuple(self.shared[n] for n in sorted(self.kept_shared)),
            self._guard_key(),
            self._leads_key(plugged),
            tuple(c for c in model.transmitter.controls if c.name in self.controls),
            (model.transmitter.centre_us, model.transmitter.us_per_percent, program.frame_s),
            tuple(x for x in program.timers if x.name in self.timers),
            tuple(s for s in model.airframe.moved() if s.name in self.targets),
        )

    def _modes_key(self) -> tuple[Any, ...]:
        """The flight modes that matter, each with the presets that do."""
        found = []
        for mode in self.program.modes[: self.modes]:
            presets = tuple(
                (target, value) for target, value in mode.presets.items() if target in self.targets
            )
            found.append((mode.name, mode.label, mode.when, mode.fade_s, presets))
        return tuple(found)

    def _guard_key(self) -> tuple[Any, ...]:
        """The guard and what the receiver does without a link, where the motors' release is asked
        about."""
        receiver = self.model.receiver
        return (
            (self.program.guard, receiver.failsafe_after_s, receiver.stored) if self.guard else ()
        )

    def _axis_key(self, command: str) -> Axis | None:
        """An axis that is read; of another one only its name counts."""
        return self.axes[command] if command in self.kept_axes else None

    def _leads_key(self, plugged: set[str]) -> tuple[Any, ...]:
        """The leads: whole where their pulses are asked about, or where they turn degrees into
        percent."""
        motors = {m.name for m in self.model.airframe.motors} if self.guard else set()
        by_angle = {line.target for line, _ in self.lines if line.by_angle} & self.targets
        whole = motors | plugged | by_angle
        key: list[Any] = []
        for lead in self.model.leads:
            key.append(lead if lead.target in whole else (lead.name, lead.target))
        return tuple(key)


def _is_free(adjuster: Adjuster) -> bool:
    """Whether what it moves may stand anywhere within its bounds, whatever its control says now."""
    return adjuster.kind == "step" or (adjuster.keep and adjuster.when is not None)


def slice_of(
    model: Model,
    parts: Iterable[str] = (),
    conditions: Iterable[str] = (),
    guard: bool = False,
    outputs: bool = False,
    in_time: bool = False,
) -> ModelSlice:
    """What reaches these parts and conditions, and with ``guard`` the motors and their release.
    ``outputs``: with the leads of these parts; ``in_time``: what is slow stays slow."""
    parts, conditions = tuple(parts), tuple(conditions)
    needs = _Needs(model)
    needs.parts(parts)
    for text in conditions:
        needs.condition(text)
    if guard:
        needs.the_guard()
    plugged = set(parts) if outputs else set()
    asked_for, key = (parts, conditions, guard, outputs, in_time), needs.key(plugged)
    # an edit elsewhere changes the model and not the key: then the same object is handed out,
    # and whatever hangs on it is still known
    made = _made.get(asked_for, [])
    for held, model_slice in made:
        if held == key:
            return model_slice
    found = replace(_cut(needs, plugged, in_time), asks=conditions)
    while len(_made) >= MOST_KEPT:
        _made.pop(next(iter(_made)))
    # the last three of a question: an edit that is undone finds its own again
    _made[asked_for] = [(key, found), *made[:2]]
    return found


MOST_KEPT = 300
_made: dict[tuple[Any, ...], list[tuple[tuple[Any, ...], ModelSlice]]] = {}
"""What was cut last for each question: an edit elsewhere leaves a slice the very same object, and
what was found in it good."""


def _cut(needs: _Needs, plugged: set[str], in_time: bool) -> ModelSlice:
    """The document with nothing in it but what was needed. ``plugged``: the parts whose leads are
    kept. Not ``in_time``: whatever only takes time has ended, so that a frame stands for all that
    come after it."""
    model = needs.model
    lines = _without_leads(model, _kept_lines(needs, in_time), plugged)
    free: dict[str, str] = {}
    tunables = tuple(_freed(needs.shared[n], free) for n in sorted(needs.kept_shared))
    axes = _kept_axes(needs, [x for x, _ in lines], tunables)
    # a motor that nobody asks about is no motor of the slice, and its guard none
    turning = tuple(m for m in model.airframe.motors if needs.guard or m.name in needs.targets)
    small = model.changed(
        {
            "program": _kept_program(needs, lines, axes, tunables, in_time),
            "leads": _kept_leads(needs, plugged, in_time),
            "y_leads": (),
            "scenarios": (),
            "airframe": model.airframe.changed({"motors": turning}),
            "transmitter": model.transmitter.changed({"controls": _kept_controls(needs, free)}),
        }
    )
    return ModelSlice(small, tuple(path for _, path in lines), free)


def _kept_program(
    needs: _Needs,
    lines: list[tuple[MixLine, str]],
    axes: tuple[Axis, ...],
    tunables: tuple[Tunable, ...],
    in_time: bool,
) -> Program:
    """The program with nothing in it but these lines, axes and shared values, and the conditions,
    modes and timers that were asked for."""
    program, mixes = needs.program, [x for x, _ in lines]
    fields = {
        "axes": axes,
        "mixes": tuple(mixes),
        # behaviours are among the lines already, expanded
        "recipes": (),
        "detached": (),
        "announcements": (),
        "guard": program.guard if needs.guard else None,
        "logic": tuple(x for x in program.logic if x.name in needs.kept_nodes),
        "modes": _kept_modes(needs, in_time),
        "tunables": tunables,
        "timers": tuple(x for x in program.timers if x.name in needs.timers),
        "signals": _own_signals(program, mixes),
    }
    return program.changed(fields)


def _kept_lines(needs: _Needs, in_time: bool) -> list[tuple[MixLine, str]]:
    """The lines of the targets that are needed, each with its path; at once where time stands
    still."""
    mine = [(line, path) for line, path in needs.lines if line.target in needs.targets]
    if in_time:
        return mine
    # whoever asks where things come to rest needs no slow: one frame stands for all later ones
    return [(line.changed({"in_s": 0.0, "out_s": 0.0}), path) for line, path in mine]


def _kept_controls(needs: _Needs, free: Mapping[str, str]) -> tuple[Control, ...]:
    """The controls that are read, and a slider for each shared value that hands may leave
    anywhere."""
    mine = [c for c in needs.model.transmitter.controls if c.name in needs.controls]
    levers = [
        Control(name=name, label=value, kind="slider", hand="left") for name, value in free.items()
    ]
    # behind the controls of the model, so that those keep their order
    return (*mine, *levers)


def _kept_modes(needs: _Needs, in_time: bool) -> tuple[FlightMode, ...]:
    """The flight modes up to the last that matters, with the presets that are needed; the default
    mode stands for all others."""
    modes = []
    for mode in needs.program.modes[: needs.modes]:
        presets = {
            target: value for target, value in mode.presets.items() if target in needs.targets
        }
        modes.append(mode.changed({"fade_s": mode.fade_s if in_time else 0.0, "presets": presets}))
    # a document needs a last mode without a condition: the default mode, bare
    if modes and modes[-1].when is not None:
        modes.append(needs.program.modes[-1].changed({"fade_s": 0.0, "presets": {}}))
    return tuple(modes)


def _kept_axes(
    needs: _Needs, lines: list[MixLine], tunables: tuple[Tunable, ...]
) -> tuple[Axis, ...]:
    """The axes that are read; each with its trim where a line carries it, or a condition or an
    adjuster reads its lever."""
    trimmed = {line.source for line in lines if line.with_trim}
    read: set[str] = set()
    for name in needs.kept_nodes:
        read.update(signals_of(needs.nodes[name]))
    for shared in tunables:
        if shared.adjuster is not None and shared.adjuster.control is not None:
            read.add(shared.adjuster.control)
    kept = []
    for axis in needs.program.axes:
        if axis.command in needs.kept_axes:
            with_trim = axis.command in trimmed or f"{axis.command}_trim" in read
            kept.append(_trimmed(needs.axes[axis.command], with_trim))
    return tuple(kept)


def _kept_leads(needs: _Needs, plugged: set[str], in_time: bool) -> tuple[Lead, ...]:
    """The leads that are asked about; no pulse hangs on what a servo or a controller waits for."""
    motors = {m.name for m in needs.model.airframe.motors} if needs.guard else set()
    # the search follows pulses, not servos: what those do in their own time leads nowhere else
    quick: dict[str, object] = {"servo_s": 0.0, "waits_for_idle": False}
    if not in_time:
        quick |= {"slow_up_s": 0.0, "slow_down_s": 0.0}
    return tuple(x.changed(quick) for x in needs.model.leads if x.target in motors | plugged)


def _own_signals(program: Program, lines: list[MixLine]) -> tuple[dict[str, str], ...]:
    """The signals of the model's own, and those in which degrees are summed."""
    labels = {line.source: "Edge" for line in lines if line.source.startswith("edge_")}
    labels |= program.signal_labels()
    return tuple(_signal(name, label) for name, label in labels.items() if name not in USUAL)


def _without_leads(
    model: Model, lines: list[tuple[MixLine, str]], plugged: set[str]
) -> list[tuple[MixLine, str]]:
    """The lines, where those by angle feed a surface whose sum is read and whose lead is left out:
    it is the lead that makes percent of degrees. There the degrees are summed in a signal, and a
    response does what the lead would do."""
    leads = {x.target: x for x in reversed(model.leads)}
    surfaces = {s.name: s for s in model.airframe.surfaces}
    by_angle = {x.target: path for x, path in reversed(lines) if x.by_angle}
    first_met = dict.fromkeys(x.target for x, _ in lines if x.by_angle)
    turned = [n for n in first_met if n in leads and n not in plugged]
    out: list[tuple[MixLine, str]] = []
    for line, path in lines:
        parts = _parted(line) if line.target in turned else (line,)
        out += [(part, path) for part in parts]
    for name in turned:
        response = _percent_of_degrees(Motion(leads[name], surfaces[name]))
        turn = MixLine(name="by angle", target=name, source=edge_signal(name), response=response)
        out.append((turn, by_angle[name]))
    return out


def _percent_of_degrees(motion: Motion) -> Response:
    """What a lead makes of degrees, as a response of at most ``MOST_POINTS`` points."""
    curve = motion.by_angle()
    degrees: Sequence[float] = curve.xs
    if len(degrees) >= MOST_POINTS:
        # more points than a response may have: evenly spread ones stand for them
        degrees = np.linspace(degrees[0], degrees[-1], MOST_POINTS - 1).tolist()
    places = np.unique(np.clip([0.0, *degrees], -100.0, 100.0)).tolist()
    return Response(points=tuple((x, min(150.0, max(-150.0, float(curve(x))))) for x in places))


def _parted(line: MixLine) -> tuple[MixLine, ...]:
    """A line to a surface whose degrees are summed apart. What scales acts on both sums; what
    replaces gives to its own and leaves nothing of the other."""
    percent = line.changed({"by_angle": False})
    degrees = percent.changed({"target": edge_signal(line.target)})
    if line.combine == "scale":
        return degrees, percent
    # the sum into which it gives, and the one of which it leaves nothing
    mine, other = (degrees, percent) if line.by_angle else (percent, degrees)
    return (mine,) if line.combine == "add" else (mine, other.changed({"gain": 0.0}))


MOST_POINTS = 33


def edge_signal(name: str) -> str:
    """The signal in which a slice sums the degrees of a surface."""
    return f"edge_{name[:35]}"


USUAL = ("flap", "brake", "camber")


def _signal(name: str, label: str) -> dict[str, str]:
    return {"name": name, "label": label}


def _trimmed(axis: Axis, read: bool) -> Axis:
    """An axis with its trim common to all modes; without one where nothing reads it."""
    if axis.trim is None or axis.trim.scope == "lever":
        return axis
    # without anybody who reads it a trim would only multiply the situations; the thrust's is
    # watched by the guard
    if not read and axis.command != "thrust":
        return axis.changed({"trim": None})
    return axis.changed({"trim": axis.trim.changed({"scope": "common", "by_mode": {}})})


def _freed(x: Tunable, free: dict[str, str]) -> Tunable:
    if x.adjuster is None or not _is_free(x.adjuster):
        return x
    name = f"{FREE}{len(free)}"
    # the stand-in is a slider that sets the value anywhere within its bounds
    free[name] = x.name
    return x.changed({"adjuster": Adjuster(kind="set", control=name, modes=x.adjuster.modes)})


def part_flown(
    model: Model, parts: Iterable[str], controls: Iterable[str] = (), axes: Iterable[str] = ()
) -> Model:
    """The document with nothing in it but what reaches the pulses of these parts, everything in its
    own time: played, it sends them the same pulses as the whole. A motor brings the guard with it,
    and so all motors. ``controls`` and ``axes``: these are kept, too."""
    wanted = set(parts)
    needs = _Needs(model, as_flown=True)
    needs.parts(wanted)
    if wanted & {m.name for m in model.airframe.motors}:
        needs.the_guard()
    needs.controls.update(controls)
    for command in axes:
        needs.axis(command)
    plugged = wanted & needs.targets
    if needs.guard:
        plugged |= {m.name for m in model.airframe.motors}
    lines = _without_leads(model, _kept_lines(needs, True), plugged)
    program = model.program
    felt = tuple(needs.axes[a.command] for a in program.axes if a.command in needs.kept_axes)
    tunables = tuple(needs.shared[n] for n in sorted(needs.kept_shared))
    kept = tuple(c for c in model.transmitter.controls if c.name in needs.controls)
    return model.changed(
        {
            "program": _kept_program(needs, lines, felt, tunables, True),
            "leads": tuple(x for x in model.leads if x.target in plugged),
            "scenarios": (),
            "airframe": _kept_airframe(needs),
            "transmitter": model.transmitter.changed({"controls": kept}),
            **_SAID,
        }
    )


_SAID: dict[str, Any] = {"note": "", "proposed": (), "sheet_of": "", "typed": (), "not_asked": {}}
"""What is only said of a model: no pulse hangs on it."""


def _kept_airframe(needs: _Needs) -> Airframe:
    """The airframe with nothing but the parts that are asked about."""
    airframe = needs.model.airframe
    fields: dict[str, object] = {}
    for kind in ("surfaces", "motors", "devices"):
        fields[kind] = tuple(x for x in getattr(airframe, kind) if x.name in needs.targets)
    return airframe.changed(fields)


def bare(model: Model) -> Model:
    """The model without what is only said, and without the conditions on which nothing else hangs:
    it flies just the same."""
    quiet = model.changed({"program": model.program.changed({"announcements": ()})})
    # asked once the announcements are gone: what only they asked is gone with them
    kept = conditions_asked(quiet)
    logic = tuple(x for x in model.program.logic if x.name in kept)
    return quiet.changed({"program": quiet.program.changed({"logic": logic}), "scenarios": ()})


def timed(model: Model) -> Iterator[tuple[str, Waiting]]:
    """The keys in the engine's memory of what waits for a time, with how long it waits and how that
    is kept."""
    guard = model.program.guard
    if guard is not None:
        from hypsos.core.engine.guard import BACK_S

        yield "guard.rest", Waiting(guard.rest_s)
        if guard.level >= 4:
            yield "guard.back", Waiting(BACK_S)
            yield "guard.lost", Waiting(guard.relock_s)
    if model.leads:
        yield "failsafe", Waiting(model.receiver.failsafe_after_s)
    for x in model.program.logic:
        waiting = x.timeout()
        if waiting is not None:
            yield x.memory_key, waiting
    for timer in model.program.timers:
        yield f"timer:{timer.name}", Waiting(timer.span_s, since="0", on="1")


def has_run_out(timer: Timer, shown: Array) -> Flags:
    """Where a timer that shows this has run out."""
    elapsed = timer.span_s - shown if timer.counts == "down" else shown
    out: Flags = (elapsed >= timer.span_s - 1e-6) & (timer.span_s > 0)
    return out
