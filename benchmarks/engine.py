# SPDX-License-Identifier: GPL-3.0-or-later
"""The engine's speed: live frame, replay against straight NumPy, sweep, memory, growth with lines
and frames."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path
from typing import Any

import numpy as np
import yardstick

from hypsos.core.conditions import Combine, Compare, Delay, Latch, LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import Result, Situation, compile_plan
from hypsos.core.engine.sweep import sweep_columns
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.hangar.places import demo_hangar

HOUR = 180_000


def timed(action: Callable[[], Any], runs: int = 5) -> float:
    """Median seconds."""
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        action()
        times.append(time.perf_counter() - begin)
    return statistics.median(times)


def recorded(model: Model, frames: int) -> Situation:
    """The recorded ridge flight over and over until so many frames are full; the link stays up."""
    moves = read_moves((files("hypsos.demo") / "marram-ridge.csv").read_text(), model)
    at = np.arange(frames) % len(moves.t_s)
    return Situation(
        0.02 * np.arange(frames), {n: np.asarray(v)[at] for n, v in moves.controls.items()}
    )


def output_bytes(result: Result) -> int:
    """The size of what a replay is asked for: pulses, percent and angles of every channel."""
    arrays = [x for o in result.outputs.values() for x in (o.pct, o.us, o.deg) if x is not None]
    return sum(np.broadcast_to(x, result.t_s.shape).nbytes for x in arrays)


def live_frame() -> None:
    """One frame of the engine, as the bench asks for it."""
    with tempfile.TemporaryDirectory() as folder:
        hangar = demo_hangar(Path(folder))
        for name in hangar.names():
            plan = compile_plan(hangar.load(name))
            memory = plan.run(Situation(np.array([0.0]))).memory
            times = []
            for i in range(1000):
                begin = time.perf_counter()
                memory = plan.run(
                    Situation(np.array([0.02 * (i + 1)]), {"aileron_stick": 30.0}), memory
                ).memory
                times.append((time.perf_counter() - begin) * 1e3)
            print(
                f"live frame of the engine, {name}: median {statistics.median(times):.2f} ms (wanted under 0.5)"
            )


def conditions_outside() -> None:
    """The same with twenty more conditions that nothing hangs on, by turns."""
    with tempfile.TemporaryDirectory() as folder:
        hangar = demo_hangar(Path(folder))
        for name in ("Marram", "Samphire"):
            model = hangar.load(name)
            more: list[LogicSwitch] = []
            for k in range(5):
                a, label = f"more_a{k}", f"More {k}"
                more += [
                    Compare(
                        kind="above",
                        name=a,
                        label=f"{label} a",
                        a="aileron_stick",
                        x=10 + k,
                        hysteresis=2,
                    ),
                    Delay(
                        kind="on_delay", name=f"more_b{k}", label=f"{label} b", of=a, seconds=0.3
                    ),
                    Combine(kind="all", name=f"more_c{k}", label=f"{label} c", of=(a, "link")),
                    Latch(name=f"more_d{k}", label=f"{label} d", set=a, reset=f"!{a}"),
                ]
            other = with_at(model, "program.logic", (*model.program.logic, *more))
            plans, times = [compile_plan(m) for m in (model, other)], ([], [])  # type: ignore[var-annotated]
            memories = [None, None]
            for i in range(600):
                for j, plan in enumerate(plans):
                    moves = Situation(
                        np.array([0.02 * i]), {"aileron_stick": float(50 * np.sin(i * 0.1))}
                    )
                    begin = time.perf_counter()
                    memories[j] = plan.run(moves, memories[j]).memory  # type: ignore[call-overload]
                    times[j].append(time.perf_counter() - begin)
            a_s, b_s = (statistics.median(x) for x in times)
            print(
                f"live frame with 20 more conditions, {name}: {b_s / a_s:.2f} of without (wanted at most 1.1)"
            )


def replay(model: Model) -> None:
    """One hour of Marram against the same arithmetic by hand; the two must agree. By hand it goes
    by travel."""
    now = compile_plan(model)
    by_angle = timed(lambda: now.run(recorded(model, HOUR)), 3)
    model = yardstick.by_travel()
    plan, situation = compile_plan(model), recorded(model, HOUR)
    controls = {n: np.asarray(v) for n, v in situation.controls.items()}
    controls |= {n: np.full(HOUR, v) for n, v in plan.rest.items() if n not in controls}
    for surface in model.airframe.surfaces:
        yardstick.THROWS[surface.name] = (surface.throw_up_deg, surface.throw_down_deg)
    us, deg = yardstick.marram(situation.t_s, controls)
    result = plan.run(situation)
    worst = max(float(np.abs(us[n] - o.us).max()) for n, o in result.outputs.items())
    off = max(float(np.abs(deg[n] - result.outputs[n].deg).max()) for n in deg)
    pairs = [
        (
            timed(lambda: plan.run(situation), 1),
            timed(lambda: yardstick.marram(situation.t_s, controls), 1),
        )
        for _ in range(7)
    ]
    ours, by_hand = (statistics.median(x) for x in zip(*pairs, strict=True))
    print(
        f"replay of an hour, Marram with its wing by one angle: {by_angle:.2f} s (wanted at most 2)"
    )
    print(
        f"replay of an hour, Marram by travel: {ours:.2f} s (wanted at most 2), straight NumPy by hand {by_hand:.2f} s, ratio "
        f"{statistics.median(a / b for a, b in pairs):.2f} (wanted at most 3)"
    )
    print(f"they differ by at most {worst:.1e} us and {off:.1e} degrees")
    tracemalloc.start()
    held = plan.run(situation)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    print(
        f"memory of that replay: {peak / output_bytes(held):.1f} times its output (wanted under 20)"
    )


def sweep(model: Model) -> None:
    """Many situations at once."""
    plan = compile_plan(model)
    seconds = timed(lambda: sweep_columns(plan, "aileron_stick", -100, 100, 100_000, {}))
    print(f"sweep of 100,000 situations, Marram: {seconds:.2f} s (wanted under 1)")


def growth(model: Model) -> None:
    """Time at 1, 2, 4 and 8 times the mix lines, and the frames, per unit of size."""
    recipe_free = [m for m in model.program.mixes if m.combine == "add"]
    rest = [m for m in model.program.mixes if m.combine != "add"]
    for frames, what in ((1, "a live frame"), (20_000, "20,000 frames")):
        base = 0.0
        parts = []
        for times in (1, 2, 4, 8):
            lines = tuple(
                m.model_copy(
                    update={"gain": m.gain * (1 + k / 1000) / times, "name": f"{m.name} {k}"[:60]}
                )
                for m in recipe_free
                for k in range(times)
            )
            plan = compile_plan(with_at(model, "program.mixes", (*rest, *lines)))
            situation = recorded(model, frames)
            count = len(rest) + len(lines)
            took = timed(lambda p=plan, s=situation: p.run(s), 400 if frames == 1 else 7)  # type: ignore[misc]
            base = base or took / count
            parts.append(f"{count} lines {took * 1e3:.2f} ms ({took / count / base:.2f})")
        print(
            f"growth with mix lines, {what}: {', '.join(parts)}; in brackets time per line, 1 is straight"
        )
    plan, parts, base = compile_plan(model), [], 0.0
    for times in (1, 2, 4, 8):
        situation = recorded(model, times * HOUR // 8)
        took = timed(lambda s=situation: plan.run(s))  # type: ignore[misc]
        base = base or took
        parts.append(f"{times * HOUR // 8} {took:.2f} s ({took / times / base:.2f})")
    print(f"growth with frames: {', '.join(parts)}; in brackets time per frame, 1 is straight")


def main() -> None:
    """All of it."""
    text = json.loads((files("hypsos.demo") / "marram.model.json").read_text())
    model = Model.model_validate(text)
    live_frame()
    conditions_outside()
    replay(model)
    sweep(model)
    growth(model)


if __name__ == "__main__":
    main()
