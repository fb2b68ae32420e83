# SPDX-License-Identifier: GPL-3.0-or-later
"""How the hands bring about each flight mode, and what stands on the bench taken as a mode's
presets."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import of_each
from hypsos.core.base.memory import Memory
from hypsos.core.document.document import Model
from hypsos.core.edits.flight_modes import with_presets
from hypsos.core.edits.mode_grid import all_places, asked_switches
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.wording.words import control_label

MOST = 512


def ways_to_modes(model: Model) -> dict[str, dict[str, float]]:
    """Flight mode -> hands that fly it, as the engine says: the first positions of the switches,
    and a throttle stick high or low, that do. A mode that no such hands give is not among them."""
    modes = model.program.modes
    if not modes:
        return {}
    guard = model.program.guard
    switches = asked_switches(model, [m.when for m in modes if m.when is not None])
    cases: list[dict[str, float]] = []
    for places in all_places(switches):
        hands = {n: float(i) for n, i in places.items()}
        cases += [hands, hands | {"throttle_stick": 100.0}]
        if len(cases) >= MOST:
            break
    rests = {guard.switch: float(guard.cut[0])} if guard is not None else {}
    cases = [rests | c for c in cases]
    flown = of_each(settled_together(compile_plan(model), cases).modes, len(cases))
    out: dict[str, dict[str, float]] = {}
    for case, index in zip(cases, flown, strict=True):
        out.setdefault(modes[int(index)].name, case)
    return out


class TakenNow(NamedTuple):
    """The presets that hold what sliders and trims say, the model with them in its mode, and the
    controls to put back."""

    model: Model
    presets: dict[str, float]
    put_back: tuple[str, ...]


LEAST_TAKEN = 5e-3
"""Percent: what adds less to a surface is not taken into its preset."""


def taken_now(
    model: Model, hands: Mapping[str, float], memory: Memory | None, mode: str
) -> TakenNow:
    """What sliders, knobs and the mode's own trims add to the surfaces now, taken into the presets
    of the mode flown.

    With the sticks in the middle the surfaces stand afterwards as they do now once the sliders are
    back in their middle; trims of the mode's own are zero then. ``memory``: the state of the
    bench."""
    slides = _sliders_away_from_middle(model, hands)
    still = _with_sticks_in_middle(model, hands)
    at_rest = still | {n: 0.0 for n in slides if n in still}
    bare = _without_own_trims(model, mode)
    now, then = _sums(model, still, memory), _sums(bare, at_rest, memory)
    presets = _presets_with(model, mode, now, then)
    moved = tuple(control_label(model, n) for n in slides if _moves(model, still, n, memory, now))
    return TakenNow(
        with_presets(bare, mode, presets), {n: x for n, x in presets.items() if x}, moved
    )


def _sliders_away_from_middle(model: Model, hands: Mapping[str, float]) -> list[str]:
    sliding = [c.name for c in model.transmitter.controls if c.kind in ("slider", "knob")]
    return [name for name in sliding if hands.get(name)]


def _with_sticks_in_middle(model: Model, hands: Mapping[str, float]) -> dict[str, float]:
    """The hands as they are, but for the sticks of roll, pitch and yaw."""
    sticks = {a.control: 0.0 for a in model.program.axes if a.command != "thrust"}
    return {n: float(x) for n, x in hands.items() if n not in AROUND} | sticks


def _presets_with(
    model: Model, mode: str, now: Mapping[str, float], then: Mapping[str, float]
) -> dict[str, float]:
    """The presets of a mode, and on top of each by how much its surface stands elsewhere ``now``
    than ``then``; both in percent."""
    presets = dict(next(m.presets for m in model.program.modes if m.name == mode))
    for surface in model.airframe.surfaces:
        more = now.get(surface.name, 0.0) - then.get(surface.name, 0.0)
        if surface.follows is None and abs(more) > LEAST_TAKEN:
            total = presets.get(surface.name, 0.0) + more
            presets[surface.name] = round(min(150.0, max(-150.0, total)), 2)
    return presets


def _sums(model: Model, hands: Mapping[str, float], memory: Memory | None) -> dict[str, float]:
    # no time plays a part
    result = compile_plan(model).run(Situation(np.zeros(1), dict(hands)), memory, instant=True)
    return {n: float(np.ravel(x)[-1]) for n, x in result.sums.items()}


def _moves(
    model: Model,
    hands: Mapping[str, float],
    name: str,
    memory: Memory | None,
    now: Mapping[str, float],
) -> bool:
    there = _sums(model, {**hands, name: 0.0}, memory)
    return any(abs(there[n] - x) > 5e-3 for n, x in now.items())


def _without_own_trims(model: Model, mode: str) -> Model:
    """The model with the trims that are this mode's own at zero."""
    axes = []
    for axis in model.program.axes:
        trim = axis.trim
        if trim is not None and trim.scope in ("per mode", "offset") and trim.by_mode.get(mode):
            level = trim.changed({"by_mode": {**trim.by_mode, mode: 0}})
            axis = axis.changed({"trim": level})
        axes.append(axis)
    return model.changed({"program": model.program.changed({"axes": tuple(axes)})})
