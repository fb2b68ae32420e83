"""A model compiled into array operations, and the run of them in the order of a frame."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.document import Model
from hypsos.core.engine.axes import AxisPlan
from hypsos.core.engine.guard import guard_state
from hypsos.core.engine.logic import Conditions, LogicPlan
from hypsos.core.engine.memory import Memory, on_delay
from hypsos.core.engine.mixing import FadeInput, MixInput, MixPlan
from hypsos.core.engine.modes import ModeTrack, TunablePlan, mode_track
from hypsos.core.engine.outputs import OutputBank
from hypsos.core.engine.result import Contribution, GuardState, Result
from hypsos.core.engine.situation import Situation, resting
from hypsos.core.transmitter import switch_value

Array = NDArray[np.float64]


class Plan:
    """A compiled model. It holds no state: the state goes in and comes out with each run.

    Raises HypsosError naming the members of a circle of mix lines or of logical switches.
    """

    def __init__(self, model: Model) -> None:
        self.model = model
        self.frame_s = model.program.frame_s
        self.rest = resting(model)
        self._counts = {c.name: len(c.positions) for c in model.transmitter.controls if c.is_switch}
        self._values = {n: np.array([switch_value(i, c) for i in range(c)]) for n, c in self._counts.items()}
        self._axes = AxisPlan(model, self._counts)
        self._logic = LogicPlan(model)
        self._tunables = TunablePlan(model)
        self._mixes = MixPlan(model)
        self._bank = OutputBank(model)

    def run(
        self, situation: Situation, memory: Memory | None = None, why: Collection[str] = (), instant: bool = False
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
        mem = Memory(before=dict(memory.after) if memory is not None else {}, instant=instant)
        world, power, connected = self._world(situation)
        shape = connected.shape
        self._logic.run(world, mem)
        state = guard_state(self.model, world.signals, world.positions, connected, world.t_s, mem)
        modes = self.model.program.modes
        track = mode_track(modes, world, mem) if modes else ModeTrack(np.zeros(shape, np.intp), None)
        shared = self._tunables.values(track.index, world)
        commands, untrimmed = self._axes.run(world.signals, world.positions, track.index, shared)
        world.signals.update(commands)
        given = MixInput(world, shared, untrimmed, track)
        if track.weights is not None:
            self._fade(given, commands, track)
        contributions: dict[str, list[Contribution]] = {name: [] for name in why}
        moving = self._mixes.run(given, mem, contributions, self.frame_s)
        sums = {t: world.signals[t] for t in self._mixes.targets}
        lost = on_delay(~connected, world.t_s, self.model.receiver.failsafe_after_s, mem, "failsafe")
        outputs = self._bank.run(
            sums, state == GuardState.RELEASED, connected, lost, power, self.frame_s, mem, contributions, moving
        )
        flags = {n: world.flags[n] for n in self._logic.nodes if n in world.flags and ":" not in n}
        shown: dict[str, Array] = {c: world.signals[c] for c in self._axes.commands}
        return Result(world.t_s, shown, sums, state, outputs, contributions, mem, track.index, flags)

    def _world(self, situation: Situation) -> tuple[Conditions, NDArray[np.bool_], NDArray[np.bool_]]:
        """The inputs, all in one shape."""
        t = np.asarray(situation.t_s, float)
        given = {n: np.asarray(v, float) for n, v in situation.controls.items()}
        link, power = np.asarray(situation.link, float), np.asarray(situation.power, float)
        quality = np.asarray(situation.link_quality, float)
        shape = t.shape
        if any(v.ndim > 1 or v.size > 1 for v in (link, power, quality, *given.values())):
            shape = np.broadcast_shapes(
                t.shape, link.shape, power.shape, quality.shape, *(v.shape for v in given.values())
            )
        signals: dict[str, Array] = {"full": np.full(shape, 100.0)}
        positions: dict[str, NDArray[np.intp]] = {}
        for name, rest in self.rest.items():
            raw = _in_shape(given.get(name, rest), shape)
            if name in self._counts:
                positions[name] = raw.astype(np.intp)
                raw = self._values[name][positions[name]]
            signals[name] = raw
        up, on = _in_shape(link, shape) > 0.5, _in_shape(power, shape) > 0.5
        connected = up & on
        signals["link_quality"] = np.where(connected, _in_shape(quality, shape), 0.0)
        return Conditions(t, signals, positions, connected), on, connected

    def _fade(self, given: MixInput, commands: dict[str, Array], track: ModeTrack) -> None:
        """Where a fade is under way, evaluate every mode that has a share in it; commands become their blend."""
        weights = track.weights
        assert weights is not None
        between = (weights > 0) & (weights < 1)
        frames = np.asarray(between.reshape(-1, between.shape[-1]).any(axis=0))
        world = given.world
        signals = {n: np.asarray(x[..., frames]) for n, x in world.signals.items()}
        places = {n: np.asarray(x[..., frames]) for n, x in world.positions.items()}
        for i, mode in enumerate(self.model.program.modes):
            share = weights[i][..., frames]
            if not np.any(share):
                continue
            shared = {n: np.asarray(v) for n, v in self._tunables.values(np.full(world.link.shape, i), world).items()}
            shared = {n: v[..., frames] for n, v in shared.items()}
            own, plain = self._axes.run(signals, places, i, shared)
            given.fades.append(FadeInput(mode.name, frames, share, own, plain, shared))
        for command, whole in commands.items():
            blend = whole.copy()
            blend[..., frames] = sum(f.weight * f.commands[command] for f in given.fades)
            world.signals[command] = blend
        for command, whole in given.untrimmed.items():
            blend = whole.copy()
            blend[..., frames] = sum(f.weight * f.untrimmed[command] for f in given.fades)
            given.untrimmed[command] = blend


def compile_plan(model: Model) -> Plan:
    """Compile a model. Raises HypsosError naming the members of a circle."""
    return Plan(model)


def _in_shape(value: ArrayLike, shape: tuple[int, ...]) -> Array:
    out = np.asarray(value, float)
    if out.ndim == 0:
        return np.full(shape, float(out))
    return out if out.shape == shape else np.broadcast_to(out, shape)
