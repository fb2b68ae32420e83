# SPDX-License-Identifier: GPL-3.0-or-later
"""One control moved from end to end, everything else at rest or as set: the outputs against it."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.base.backends import Array
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.engine import Plan, Result, Situation
from hypsos.core.engine.situation import checked_value
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import AROUND, STICKS


def settled(plan: Plan, values: Mapping[str, object], why: Collection[str] = ()) -> Result:
    """The situation as it stands when a pilot has brought it about and every slow movement and
    delay has ended.

    From power-up with everything at rest and the control of the thrust low, the motor switch goes
    to run (if ``values`` puts it there), then the other controls move; so a motor that the guard
    would arm is armed. ``values`` holds percent or position numbers, scalars or arrays of shape (S,
    1); what surrounds the hands (``link``, ``power`` and the like) too."""
    controls = {k: np.asarray(v, float) for k, v in values.items() if k not in AROUND}
    around = {n: np.asarray(values.get(n, rest), float) for n, rest in AROUND.items()}
    arming = _Arming(plan, controls)
    if arming.alike:  # arming is the same in all situations: it is computed once
        armed_by = plan.run(Situation(arming.t_s[:4], arming.once())).memory
        ways = {n: _way(stands) for n, stands in arming.moved.items()}
        ways |= {n: _way([AROUND[n], value]) for n, value in around.items()}
        memory = plan.run(Situation.of(arming.t_s[4:], ways), armed_by).memory
    else:
        ways = {n: _way([*arming.held[n], *arming.moved[n]]) for n in arming.held}
        ways |= {n: _way([AROUND[n]] * 5 + [value]) for n, value in around.items()}
        memory = plan.run(Situation.of(arming.t_s, ways)).memory
    # and then all is let settle
    at_rest = Situation.of(np.array([arming.end_s]), {**controls, **around})
    return plan.run(at_rest, memory, why, instant=True)


class _Arming:
    """The hands from power-up to a situation, in six frames: low, low, armed, armed, and the
    situation with one more frame, so that edges caused by the controls have been seen. ``held`` are
    the first four, ``moved`` the last two, by control."""

    def __init__(self, plan: Plan, controls: Mapping[str, Array]) -> None:
        guard = plan.model.program.guard
        low = ready_to_arm(plan.model)
        armed = dict(low)
        if guard is not None and guard.switch in controls:
            armed[guard.switch] = controls[guard.switch]
        frame = plan.frame_s
        wait = 0.0 if guard is None else guard.rest_s + frame
        start = 2 * wait + 3 * frame
        self.t_s = np.array(
            [0.0, max(wait, frame), wait + frame, 2 * wait + 2 * frame, start, start + frame]
        )
        self.end_s = start + 2 * frame
        self.held: dict[str, list[Any]] = {}
        self.moved: dict[str, list[Any]] = {}
        for name in {**low, **armed, **controls}:
            rest = plan.rest.get(name, 0.0)
            # two frames low, two armed, two where the hands were to go
            self.held[name] = [low.get(name, rest)] * 2 + [armed.get(name, rest)] * 2
            self.moved[name] = [controls.get(name, rest)] * 2

    @property
    def alike(self) -> bool:
        """Whether the motors are armed in the same way in all situations."""
        places = itertools.chain.from_iterable(self.held.values())
        return all(np.size(place) == 1 for place in places)

    def once(self) -> dict[str, Array]:
        """The first four frames as a single situation."""
        return {
            name: np.concatenate([np.ravel(x)[:1] for x in stands])
            for name, stands in self.held.items()
        }


def _way(stands: Sequence[ArrayLike]) -> NDArray[np.float64]:
    """One value after the other along time; each is one number, or has a row for each situation."""
    wide = np.broadcast_shapes((1,), *(np.shape(x) for x in stands))
    return np.concatenate([np.broadcast_to(np.asarray(x, float), wide) for x in stands], axis=-1)


def settled_together(plan: Plan, situations: Sequence[Mapping[str, float]]) -> Result:
    """:func:`settled` for many situations at once; every trace has one row for each of them."""
    rows: dict[str, Array] = {}
    # in the order in which they are named, so that a run is the same every time
    for name in dict.fromkeys(itertools.chain.from_iterable(situations)):
        rest = plan.rest.get(name, 0.0)
        column = [situation.get(name, rest) for situation in situations]
        rows[name] = np.array(column, float)[:, None]
    return settled(plan, rows)


def ready_to_arm(model: Model) -> dict[str, np.ndarray]:
    """Where a careful pilot has the controls before the motor switch goes to run: the thrust low,
    the switch at cut, all that is checked or asked for besides where it should be."""
    guard, axis = model.program.guard, model.program.axis("thrust")
    if guard is None:
        return {}
    out = {guard.switch: float(guard.cut[0])}
    for check in guard.start_check:
        out[check.control] = float(check.position) if check.position is not None else check.low
    if guard.also is not None:
        negated, _, name, position = asked(guard.also)
        control = model.transmitter.control(name)
        if control is not None and position is not None:
            out[name] = float(position if not negated else (position + 1) % len(control.positions))
    if axis is not None:
        out[axis.control] = -100.0
    return {n: np.asarray(v) for n, v in out.items()}


def sweep_columns(
    plan: Plan, control: str, start: float, end: float, steps: int, values: Mapping[str, float]
) -> dict[str, np.ndarray | list[str]]:
    """Every output (percent, microseconds, degrees) and command at ``steps`` values of a control,
    each settled.

    Raises HypsosError when the control is unknown or cannot take the values.
    """
    model = plan.model
    checked_value(model, control, start)
    checked_value(model, control, end)
    places = np.linspace(start, end, steps)
    found = model.transmitter.control(control)
    if found is not None and found.is_switch:
        places = np.unique(np.round(places))
    if control in ("link", "power"):
        raise HypsosError(
            f"{control} cannot be swept",
            "--control",
            f"Choose one of {', '.join((*STICKS, 'a switch'))}.",
        )
    result = settled(plan, dict(values) | {control: places[:, None]})
    columns: dict[str, np.ndarray | list[str]] = {control: places}
    wide = (len(places),)

    def last(x: np.ndarray) -> np.ndarray:
        return np.broadcast_to(x[..., -1:] if x.ndim > 1 else x[-1:], (*wide, 1))[:, 0]

    columns |= {name: last(x) for name, x in result.commands.items()}
    for name, trace in result.outputs.items():
        columns[f"{name}_pct"], columns[f"{name}_us"] = last(trace.pct), last(trace.us)
        if trace.deg is not None:
            target = next(x.target for x in model.leads if x.name == name)
            columns[f"{target}_deg"] = last(trace.deg)
    return columns
