# SPDX-License-Identifier: GPL-3.0-or-later
"""Random sequences on every demo model: no motor off idle unless armed, none armed without what
it asks for."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Plan, Situation, compile_plan
from hypsos.core.parts.transmitter import STICKS
from hypsos.hangar.places import demo_hangar

SEQUENCES, MOVES, BATCH = 10_000, 200, 500
LONGEST = 12
"""Frames between two moves at the most; a long rest, once in eight, lasts longer than any time of
the guard."""
REST = 45


def hands(model: Model, rng: np.random.Generator) -> tuple[Situation, int]:
    """A batch of sequences side by side: one control moves at a time, the ones that matter to a
    motor more often."""
    lasts = rng.integers(1, LONGEST + 1, MOVES)
    lasts[rng.random(MOVES) < 0.125] = REST
    guard, axis = model.program.guard, model.program.axis("thrust")
    names = [*STICKS, *(c.name for c in model.transmitter.controls), "link", "power"]
    weights = np.ones(len(names))
    for name in [
        guard.switch if guard is not None else "",
        axis.control if axis is not None else "",
        "link",
    ]:
        if name in names:
            weights[names.index(name)] = 5.0
    which = rng.choice(len(names), (BATCH, MOVES), p=weights / weights.sum())
    tracks = {}
    for k, name in enumerate(names):
        control = model.transmitter.control(name)
        if name in ("link", "power"):
            values, start = rng.integers(0, 2, (BATCH, MOVES)).astype(float), np.ones(BATCH)
        elif control is not None and control.is_switch:
            values = rng.integers(0, len(control.positions), (BATCH, MOVES)).astype(float)
            start = rng.integers(0, len(control.positions), BATCH).astype(float)
        else:
            values = rng.choice([-100.0, -100.0, -96.0, -50.0, 0.0, 40.0, 100.0], (BATCH, MOVES))
            start = rng.choice([-100.0, 0.0, 50.0], BATCH)
        moved = which == k
        index = np.maximum.accumulate(np.where(moved, np.arange(MOVES), -1), axis=1)
        held = np.take_along_axis(values, np.maximum(index, 0), axis=1)
        tracks[name] = np.repeat(np.where(index >= 0, held, start[:, None]), lasts, axis=1)
    link, power = tracks.pop("link"), tracks.pop("power")
    frames = int(lasts.sum())
    return Situation(model.program.frame_s * np.arange(frames), tracks, link, power), frames


def broken(model: Model, plan: Plan, moves: Situation) -> tuple[int, int]:
    """How often motors were armed in a batch, and in how many frames they are; AssertionError for
    a motor that turns unarmed, or is armed without its conditions."""
    result = plan.run(moves)
    shape = (BATCH, len(moves.t_s))
    state = np.broadcast_to(result.guard, shape)
    armed = state == int(GuardState.ARMED)
    heard = np.broadcast_to((np.asarray(moves.link) > 0.5) & (np.asarray(moves.power) > 0.5), shape)
    motors = {m.name for m in model.airframe.motors}
    for lead in model.leads:
        if lead.target in motors:
            us = np.broadcast_to(result.outputs[lead.name].us, shape)
            assert (us[heard & ~armed] == lead.idle_us).all(), (
                f"{model.name}: {lead.label} turns unarmed"
            )
    came = armed[:, 1:] & ~armed[:, :-1]
    guard, axis = model.program.guard, model.program.axis("thrust")
    assert not armed[:, 0].any(), f"{model.name}: armed at power-up"
    if guard is not None:
        place = np.broadcast_to(moves.controls[guard.switch], shape)
        run = ~np.isin(place, guard.cut)
        assert run[armed].all(), f"{model.name}: armed at cut"
        switched = run[:, 1:] & ~run[:, :-1]
        low = np.ones(shape, bool)
        if axis is not None and guard.level > 1:
            low = np.broadcast_to(moves.controls[axis.control], shape) <= guard.threshold
            for told in result.told.values():
                low = low & (np.broadcast_to(told, shape) <= guard.threshold + 1e-9)
        assert low[:, 1:][came].all(), f"{model.name}: armed with something up"
        if not guard.holds and not guard.wakes_when_low:
            assert switched[came].all(), f"{model.name}: armed without the switch"
    return int(came.sum()), int(armed.sum())


def main() -> None:
    """Every demo model with a motor; prints what was played and how long it took."""
    with tempfile.TemporaryDirectory() as folder:
        hangar = demo_hangar(Path(folder))
        models = [hangar.load(n) for n in hangar.names()]
    for model in models:
        if not model.airframe.motors:
            continue
        plan, rng, begin = compile_plan(model), np.random.default_rng(2026), time.perf_counter()
        times_armed = frames = 0
        for _ in range(SEQUENCES // BATCH):
            moves, length = hands(model, rng)
            times_armed += broken(model, plan, moves)[0]
            frames += BATCH * length
        took = time.perf_counter() - begin
        print(
            f"random hands, {model.name}: {SEQUENCES:,} sequences of {MOVES} moves, {frames:,} frames, {times_armed:,} "
            f"times armed, each with its conditions, no motor off idle unarmed: {took:.0f} s"
        )


if __name__ == "__main__":
    main()
