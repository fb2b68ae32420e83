# SPDX-License-Identifier: GPL-3.0-or-later
"""A model compiled into array operations, and the run of them in the order of a frame."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np

from hypsos.core.base.backends import ARRAYS, EPS, FRAME, Backend, Flag, Flags, Place, Signal, Table
from hypsos.core.base.cache import kept
from hypsos.core.base.memory import Memory, on_delay
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.dependencies.motor_dependencies import motor_delays
from hypsos.core.document.document import Model
from hypsos.core.engine.announcements import VoicePlan
from hypsos.core.engine.axes import AxisPlan, Trims
from hypsos.core.engine.conditions import LogicPlan
from hypsos.core.engine.engine_idle import EnginePlan, Idling
from hypsos.core.engine.guard import ARMED, Told, guard_state
from hypsos.core.engine.mixing import MixInput, MixPlan, View, mode_flag
from hypsos.core.engine.modes import ModeTrack, Moved, TunablePlan, mode_index, mode_track
from hypsos.core.engine.outputs import Demands, OutputBank, Reception
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.result import Channel, Contribution, Figures, Result
from hypsos.core.engine.run_out import RunOut
from hypsos.core.engine.situation import Situation, fed
from hypsos.core.parts.pulses import IDLE
from hypsos.core.parts.transmitter import switch_value


class Plan:
    """A compiled model. It holds no state: the state goes in and comes out with each run.

    Raises HypsosError naming the members of a circle of mix lines or of logical switches.
    """

    def __init__(self, model: Model) -> None:
        self.model = model
        self.frame_s = model.program.frame_s
        self.rest = resting(model)
        self._counts = {c.name: len(c.positions) for c in model.transmitter.controls if c.is_switch}
        self._values: dict[str, Table] = {}
        for name, count in self._counts.items():
            self._values[name] = Table([switch_value(place, count) for place in range(count)])
        self._axes = AxisPlan(model, self._counts)
        self._logic = LogicPlan(model)
        self._run_out = RunOut(self._logic, motor_delays(model))
        self._tunables = TunablePlan(model)
        self._mixes = MixPlan(model, self._logic.late)
        self._voice = VoicePlan(model)
        self._bank = OutputBank(model)
        self._engines = EnginePlan(model)
        # a motor whose idle pulse cannot be sent is never armed; of several leads each has to
        # fit
        self._fits = {m.name: True for m in model.airframe.motors}
        for output in self._bank.outputs:
            if output.motor and not output.idle_fits:
                self._fits[output.lead.target] = False

    def run(
        self,
        situation: Situation,
        memory: Memory | None = None,
        why: Collection[str] = (),
        instant: bool = False,
    ) -> Result:
        """Compute every frame of a situation.

        Parameters
        ----------
        situation : the inputs; last axis time, leading axes independent situations.
        memory : the state of an earlier run to go on from; None starts at power-up. It is not changed.
        why : names of parts whose contributions are wanted as well.
        instant : every delay, slow movement and fade has ended: the frame as it settles.

        Returns
        -------
        Result; its ``memory`` goes on from here.
        """
        # one frame of one situation is what the bench asks for sixty times a second; it is
        # reckoned with plain numbers
        single = _single(situation, memory)
        backend = FRAME if single is not None else ARRAYS
        # what came before goes in, what comes after is written beside it: the caller's memory
        # stays as it was
        mem = Memory(
            before=dict(memory.after) if memory is not None else {},
            instant=instant,
            backend=backend,
        )
        world, *heard = self._world(situation, backend) if single is None else self._frame(*single)
        mem.many = len(world.shape) > 1
        # 1. what hands and conditions give: the mode, shared values, trims, commands
        given, trims, moved = self._flown(world, mem)
        why_parts: dict[str, list[Contribution]] = {name: [] for name in why}
        # 2. the sums that do not hang on whether the motors are armed
        self._mixes.run(given, self._mixes.early, why_parts)
        idling = self._engines.idling(world, given.main.untrimmed)
        # 3. what each motor would be told, and from it whether the guard lets it
        told = self._told(given, idling, trims, moved)
        state = guard_state(
            self.model, world, {n: Told(x, self._fits[n]) for n, x in told.items()}, mem
        )
        # 4. what goes by the guard's state comes after the guard
        self._finish_sums(given, state, why_parts)
        # 5. behind the sums: pulses, the receiver, servos and linkages
        reception = self._reception(world, mem, *heard)
        asked = Demands(world.signals, state == ARMED, idling)
        channels = self._bank.run(asked, reception, self.frame_s, mem, why_parts)
        leads = zip(self.model.leads, channels, strict=True)
        outputs = {x.name: (c, c.moving or x.target in given.moving) for x, c in leads}
        # 6. what is said, at last, for it speaks of all of this
        spoken = self._voice.run(world, self._idle(backend, channels), mem)
        return Figures(
            t_s=situation.t_s,
            commands={c: world.signals[c] for c in self._axes.commands},
            sums={t: world.signals[t] for t in self._mixes.targets},
            guard=state,
            outputs=outputs,
            why=why_parts,
            memory=mem,
            modes=given.track.index,
            logic={n: world.flags[n] for n in self._logic.shown},
            steps={n: x for n, x in world.counts.items() if ":" not in n},
            told=told,
            timers=self._voice.readings(world),
            said=spoken,
            shared=dict(given.main.shared),
        ).result()

    def _flown(self, world: ConditionWorld, mem: Memory) -> tuple[MixInput, Trims, Moved]:
        """What the lines are given: conditions, the flight mode with its fade, shared values, trims
        and commands; with where trims and what moves shared values stand."""
        backend = world.backend
        self._logic.run(world, mem)
        modes = self.model.program.modes
        # without modes there is one, and nothing ever fades
        track = mode_track(modes, world, mem) if modes else ModeTrack(backend.full(world.shape, 0))
        moved = self._tunables.moved(track.index, world, mem)
        shared = self._tunables.values(track.index, world, world.flag, moved)
        trims = self._axes.trims(backend, world.signals, track.index, self.rest, mem)
        commands, untrimmed = self._axes.run(
            backend, world.signals, world.positions, track.index, shared, trims, world.flag
        )
        world.signals.update(commands)
        self._mixes.begin(world)
        # while nothing fades, the mode entered sees what all see
        main = entered = View(world.signals, untrimmed, shared, world.flag)
        if track.frames is not None:
            # in a fade the commands of the whole become a blend below; the mode entered keeps
            # its own
            entered = View(dict(world.signals), dict(untrimmed), shared, world.flag)
        given = MixInput(world, track, mem, self.frame_s, main, entered)
        if track.frames is not None:
            self._fade(given, commands, untrimmed, trims, moved)
        return given, trims, moved

    def _told(
        self, given: MixInput, idling: Mapping[str, Idling], trims: Trims, moved: Moved
    ) -> dict[str, Signal]:
        """What every motor would be told now, or once what is on its way has run out; an engine is
        low at its idle, and the trim is about that."""
        world = given.world
        told = self._mixes.asked(given)
        if self._run_out.choices and not given.memory.instant:
            # a delay or a slow signal may still raise a motor after the hands are still: the
            # guard asks for the most of what is still to come
            pending = self._run_out.pending(world)
            if not world.backend.never(pending):
                later = self._told_later(told, given, trims, moved)
                told = {t: world.backend.where(pending, later[t], x) for t, x in told.items()}
        for name, idle in idling.items():
            # the idle trim raises an engine, and is no power that somebody asks for
            told[name] = told[name] - world.backend.maximum(idle.trim, 0.0)
        return told

    def _finish_sums(
        self, given: MixInput, state: Place, why_parts: dict[str, list[Contribution]]
    ) -> None:
        """The sums that go by the guard's state, and what is known only after them."""
        # lines may say what they give while the motors are stopped
        given.stopped = state != ARMED
        self._mixes.run(given, self._mixes.late, why_parts)
        self._logic.run_late(given.world, state, given.memory)
        # gates that go by the guard, too, are seen by each mode of a fade in its own way
        for view in given.fades:
            self._logic.gates(view.signals, view.flag, given.world.backend, late=True)
        self._mixes.run(given, self._mixes.after, why_parts)
        self._logic.run_last(given.world, given.memory)

    def _reception(
        self, world: ConditionWorld, mem: Memory, connected: Flag, power: Flag, flight_battery: Flag
    ) -> Reception:
        """What the receiver hears, and whether it has been silent for so long that its failsafe
        acts."""
        # a receiver without power waits for nothing: its silence begins when it has power
        unheard = power & world.backend.not_(connected)
        silent = on_delay(unheard, world.t_s, self.model.receiver.failsafe_after_s, mem, "failsafe")
        return Reception(
            world.t_s, connected, silent, power, flight_battery, world.backend.always(connected)
        )

    def _told_later(
        self, told: dict[str, Signal], given: MixInput, trims: Trims, moved: Moved
    ) -> dict[str, Signal]:
        """What every motor would be told now or once delays have run out, hands as they stand,
        whichever is most."""
        world, backend = given.world, given.world.backend
        most = dict(told)
        # every set of delays that may end together is one way it may go on; of each motor the
        # most of all ways counts
        for ended in self._run_out.choices:
            then = self._run_out.look(world, ended)
            mode = mode_index(self.model.program.modes, then)
            shared = self._tunables.values(mode, then, then.flag, moved)
            commands, untrimmed = self._axes.run(
                backend, then.signals, then.positions, mode, shared, trims, then.flag
            )
            then.signals.update(commands)
            view = View(then.signals, untrimmed, shared, then.flag)
            later = self._mixes.settled(
                MixInput(then, ModeTrack(mode), given.memory, self.frame_s, view, view)
            )
            most = {t: backend.maximum(x, later[t]) for t, x in most.items()}
        return most

    def _idle(self, backend: Backend, channels: list[Channel]) -> Flag:
        """Where no motor's lead sends more than its idle."""
        # a model without motors is always idle
        idle: Flag = True
        for output, channel in zip(self._bank.outputs, channels, strict=True):
            if output.motor:
                idle = idle & (channel.stand <= IDLE + EPS)
        return idle

    def angles(self, lead: int, stand: float) -> tuple[float | None, float | None]:
        """Degrees and millimetres of the part of a lead (by its place in the list) where it stands
        at so many percent.

        Beyond where its linkage binds it stays where it binds.
        """
        motion = self._bank.outputs[lead].motion
        # beyond its limits the linkage binds, and the part stays
        low, high = motion.limits()
        return motion.at(min(max(stand, low), high))

    def _frame(
        self, t_s: float, given: dict[str, float]
    ) -> tuple[ConditionWorld, bool, bool, bool]:
        """The inputs of a single frame of a single situation; whether the link holds, whether
        receiver and motors are fed."""
        signals: dict[str, Signal] = {"full": 100.0}
        positions: dict[str, Place] = {}
        for name, rest in self.rest.items():
            raw = given.get(name, rest)
            table = self._values.get(name)
            if table is not None:
                positions[name] = int(raw)
                raw = table.values[int(raw)]
            signals[name] = raw
        power, flight_battery = fed(self.model, given["power"] > 0.5, given["flight_battery"] > 0.5)
        connected = power and given["link"] > 0.5
        signals["link_quality"] = given["link_quality"] if connected else 0.0
        return (
            ConditionWorld(FRAME, (1,), t_s, signals, positions, connected, power),
            connected,
            power,
            flight_battery,
        )

    def _world(
        self, situation: Situation, backend: Backend
    ) -> tuple[ConditionWorld, Flags, Flags, Flags]:
        """The inputs, all in one shape; where the link holds, where receiver and motors are fed."""
        t = np.asarray(situation.t_s, float)
        given = {n: np.asarray(v, float) for n, v in situation.controls.items()}
        around = {n: np.asarray(v, float) for n, v in situation.around.items()}
        # a control that stands still may be given as one number; here everything gets the shape
        # of the whole
        shape = np.broadcast_shapes(
            t.shape,
            *(v.shape for v in around.values()),
            *(v.shape for v in given.values() if v.ndim),
        )
        signals: dict[str, Signal] = {"full": np.full(shape, 100.0)}
        positions: dict[str, Place] = {}
        for name, rest in self.rest.items():
            raw = np.broadcast_to(given.get(name, rest), shape)
            table = self._values.get(name)
            if table is not None:
                positions[name] = raw.astype(np.intp)
            signals[name] = raw if table is None else backend.take(table, positions[name])
        up, on, battery = (
            np.broadcast_to(around[n], shape) > 0.5 for n in ("link", "power", "flight_battery")
        )
        power, flight_battery = fed(self.model, on, battery)
        connected = up & power
        # what is not heard has no quality
        signals["link_quality"] = np.where(connected, around["link_quality"], 0.0)
        return (
            ConditionWorld(backend, shape, t, signals, positions, connected, power),
            connected,
            power,
            flight_battery,
        )

    def _fade(
        self,
        given: MixInput,
        commands: dict[str, Signal],
        untrimmed: dict[str, Signal],
        trims: Trims,
        moved: Moved,
    ) -> None:
        """Where a fade is under way, see it from every mode that has a share in it; commands become
        their blend."""
        world, frames, backend = given.world, given.track.frames, given.world.backend
        assert frames is not None
        signals = {n: backend.cut(x, frames) for n, x in world.signals.items()}
        places = {n: backend.cut(x, frames) for n, x in world.positions.items()}
        clicks = {}
        for command, by_mode in trims.items():
            clicks[command] = {mode: backend.cut(x, frames) for mode, x in by_mode.items()}
        for i, (mode, share) in enumerate(
            zip(self.model.program.modes, given.track.weights, strict=True)
        ):
            # a mode without a share in these frames need not be reckoned
            if backend.never(share != 0):
                continue
            # shared values, gates and commands are those that this mode alone would have
            live = self._tunables.values(i, world, mode_flag(world, mode.name), moved)
            shared = {n: backend.cut(v, frames) for n, v in live.items()}
            flag, gated = mode_flag(world, mode.name, frames), dict(signals)
            self._logic.gates(gated, flag, backend)
            own, plain = self._axes.run(backend, gated, places, i, shared, clicks, flag)
            given.fades.append(View(gated | own, plain, shared, flag, i, share))
        for command, whole in commands.items():
            world.signals[command] = given.blend(whole, (v.signals[command] for v in given.fades))
        for command, whole in untrimmed.items():
            untrimmed[command] = given.blend(whole, [v.untrimmed[command] for v in given.fades])


def _single(situation: Situation, memory: Memory | None) -> tuple[float, dict[str, float]] | None:
    """Time and inputs as plain numbers where it is one frame of one situation, else None."""
    if len(situation.t_s) != 1 or (memory is not None and memory.many):
        return None
    given: dict[str, float] = {}
    for name, value in (*situation.controls.items(), *situation.around.items()):
        if value.__class__ is float:
            given[name] = value
            continue
        found = np.asarray(value)
        if found.ndim > 1 or found.size != 1:
            return None
        given[name] = float(found.item())
    return float(situation.t_s[0]), given


@kept
def compile_plan(model: Model) -> Plan:
    """Compile a model. Raises HypsosError naming the members of a circle."""
    return Plan(model)
