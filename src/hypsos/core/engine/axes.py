# SPDX-License-Identifier: GPL-3.0-or-later
"""From sticks to commands: curve, expo, rate by switch position or shared value, trim by flight
mode."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace
from typing import NamedTuple

from hypsos.core.base.backends import Backend, Flag, Place, Signal, Table
from hypsos.core.base.memory import Memory
from hypsos.core.document.document import Model
from hypsos.core.document.program import EXPO_BOUNDS, RATE_BOUNDS, Axis, Setting, Trim
from hypsos.core.engine.shaping import Shape, response_curve, setting_at, shaped

Trims = dict[str, dict[str, Signal]]
"""Command -> flight mode -> its trim over time, in percent."""
PITCH_SENSE = -1.0
"""The elevator command is nose up, the stick's + is away from the pilot."""


class _AxisStep(NamedTuple):
    axis: Axis
    sense: float
    curve: Shape | None
    settings: tuple[Setting, ...]
    feel: tuple[Table, Table, Table]
    named: tuple[tuple[int, Setting], ...]
    trims: dict[str, float]
    """Trim of its own by flight mode in percent, for the modes that have one."""


class AxisPlan:
    """All axes of a model."""

    def __init__(self, model: Model, counts: dict[str, int]) -> None:
        self._modes = [m.name for m in model.program.modes] or ["base"]
        self._steps = [
            _step(model.program.felt(a), counts, self._modes) for a in model.program.axes
        ]
        self.commands: tuple[str, ...] = tuple(a.command for a in model.program.axes)

    def trims(
        self,
        backend: Backend,
        signals: dict[str, Signal],
        modes: Place,
        rest: dict[str, float],
        memory: Memory,
    ) -> Trims:
        """The trim of every axis over time, by flight mode. A trim lever moves the trim of the mode
        that is flown: its own where the scope is *per mode* or *offset*, else the common one."""
        out: Trims = {}
        for step in self._steps:
            trim = step.axis.trim
            if trim is None:
                continue
            lever = signals[f"{step.axis.command}_trim"]
            # the lever is only a control then; it trims nothing
            if trim.scope == "lever":
                continue
            if trim.scope == "common":
                out[step.axis.command] = dict.fromkeys(
                    self._modes, backend.clip(lever, -trim.range, trim.range)
                )
            else:
                # where the lever stood at power-up: what it moves counts from there
                start = rest[f"{step.axis.command}_trim"]
                out[step.axis.command] = _by_mode(
                    backend, step, trim, lever, start, modes, self._modes, memory
                )
        return out

    def run(
        self,
        backend: Backend,
        signals: dict[str, Signal],
        positions: dict[str, Place],
        mode: Place,
        shared: dict[str, Signal],
        trims: Trims,
        flag: Callable[[str], Flag],
    ) -> tuple[dict[str, Signal], dict[str, Signal]]:
        """Commands with their trims, and without where there is a trim.

        ``mode`` is the mode over time, or one for all of it; ``shared`` holds the shared values,
        ``flag`` the truth of a condition, as that mode sees it."""
        full: dict[str, Signal] = {}
        plain: dict[str, Signal] = {}
        for step in self._steps:
            axis = step.axis
            value = shaped(
                # the command's own sense: pitch is up where the stick comes back
                step.sense * signals[axis.control],
                step.curve,
                _feel(backend, step, positions, shared, flag),
                backend,
                from_idle=axis.command == "thrust",
                shared=shared,
            )
            if axis.command in trims:
                plain[axis.command] = value
                value = value + self._trim(backend, trims[axis.command], mode)
            full[axis.command] = value
        return full, plain

    def _trim(self, backend: Backend, by_mode: dict[str, Signal], mode: Place) -> Signal:
        """The trim of the mode flown over time, or of one mode."""
        # one mode for the whole run, as a fade looks at it
        if isinstance(mode, int):
            return by_mode[self._modes[mode]]
        value = by_mode[self._modes[0]]
        for i, name in enumerate(self._modes[1:], 1):
            # modes that share one trim share one array, so most of this is skipped
            if by_mode[name] is not value:
                value = backend.where(mode == i, by_mode[name], value)
        return value


def _step(axis: Axis, counts: dict[str, int], modes: list[str]) -> _AxisStep:
    count = counts.get(axis.switch, 1) if axis.switch else 1
    settings = tuple(setting_at(axis, i) for i in range(count))
    feel = (
        Table([s.rate_neg for s in settings]),
        Table([s.rate_pos for s in settings]),
        Table([s.expo for s in settings]),
    )
    trims = {}
    if axis.trim is not None:
        reach = axis.trim.range
        trims = {
            m: min(reach, max(-reach, c * axis.trim.step))
            for m, c in axis.trim.by_mode.items()
            if m in modes
        }
    sense = PITCH_SENSE if axis.command == "pitch" else 1.0
    named = tuple((i, s) for i, s in enumerate(settings) if s.rate_from or s.expo_from)
    return _AxisStep(axis, sense, response_curve(axis.curve), settings, feel, named, trims)


def _by_mode(
    backend: Backend,
    step: _AxisStep,
    trim: Trim,
    lever: Signal,
    start: float,
    modes: Place,
    names: list[str],
    memory: Memory,
) -> dict[str, Signal]:
    """The trims of an axis that has some of its own by mode. What the lever has moved since
    power-up goes to the mode in which it was moved; a mode without a trim of its own gets one then,
    which sets out from what held there."""
    key = f"trim.{step.axis.command}"
    last, moved = memory.before.get(key, (start, {}))
    before = start if memory.first else last
    # by how much the lever moves from frame to frame
    change = backend.change(lever, before)
    out: dict[str, Signal] = {}
    kept: dict[str, Signal] = {}
    for i, name in enumerate(names):
        # what is moved while a mode is flown is that mode's
        way = backend.cumulate(backend.where(modes == i, change, 0.0), moved.get(name, 0.0))
        own, reach = step.trims.get(name), trim.range
        if trim.scope == "offset":
            value = start + backend.clip((own or 0.0) + way, -reach, reach)
        else:
            # the first move in a mode without a trim of its own sets out from the common one
            value = (start if own is None else own) + way
        out[name], kept[name] = backend.clip(value, -reach, reach), backend.end(way)
    memory.after[key] = (backend.end(lever), kept)
    return out


def trim_in_force(
    model: Model, command: str, mode: str, lever: float, memory: Memory | None
) -> float:
    """Where a trim stands in a flight mode, in percent: as the document has it, and moved since by
    its lever.

    ``lever`` is where the trim's control stands now; recorded moves may have put it elsewhere than
    the document."""
    axis = model.program.axis(command)
    trim = axis.trim if axis is not None else None
    if trim is None:
        return 0.0
    reach, own = trim.range, trim.by_mode.get(mode)
    if trim.scope not in ("per mode", "offset"):
        return min(reach, max(-reach, lever))
    start = min(reach, max(-reach, trim.clicks * trim.step))
    moved = 0.0
    if memory is not None:
        _, moved_by_mode = memory.after.get(f"trim.{command}", (lever, {}))
        moved = moved_by_mode.get(mode, 0.0)
    if trim.scope == "offset":
        value = start + min(reach, max(-reach, (own or 0) * trim.step + moved))
    else:
        value = (start if own is None else min(reach, max(-reach, own * trim.step))) + moved
    return float(min(reach, max(-reach, value)))


def without_trims(
    memory: Memory | None, kept: Collection[str] = (), clicked: tuple[str, str] | None = None
) -> Memory | None:
    """The memory without what trim levers have moved: the document says where those trims stand.

    The trims of the commands ``kept`` stay where their levers have moved them: an edit that touches
    no trim moves none. ``clicked`` is a command and a flight mode: what was moved in that mode is
    in the document now, what was moved in others stays."""
    if memory is None:
        return None
    after = {}
    for key, value in memory.after.items():
        if key.startswith("trim.") and key[5:] not in kept:
            # a trim that an edit has set stands as the document says, in every mode
            if clicked is None or key[5:] != clicked[0]:
                continue
            lever, moved = value
            value = (lever, {m: way for m, way in moved.items() if m != clicked[1]})
        after[key] = value
    return replace(memory, after=after)


def _feel(
    backend: Backend,
    step: _AxisStep,
    positions: dict[str, Place],
    shared: dict[str, Signal],
    flag: Callable[[str], Flag],
) -> tuple[Signal, Signal, Signal]:
    """Rates to both sides and expo, in percent; shared values held to the bounds of what they stand
    in for."""
    place = positions[step.axis.switch] if step.axis.switch else 0
    low, high, k = (backend.take(table, place) for table in step.feel)
    for i, setting in step.named:
        here: Flag = place == i
        if setting.from_when is not None:
            # the shared value counts only while its condition holds; else the setting's own
            # figure
            here = here & flag(setting.from_when)
        if setting.rate_from is not None:
            rate = backend.clip(shared[setting.rate_from], *RATE_BOUNDS)
            low, high = backend.where(here, rate, low), backend.where(here, rate, high)
        if setting.expo_from is not None:
            k = backend.where(here, backend.clip(shared[setting.expo_from], *EXPO_BOUNDS), k)
    return low, high, k
