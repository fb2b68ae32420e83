# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes the recorded moves that ship with the demo: six minutes on the dune ridge with Marram, 50
frames a second.

Motor climb, a few minutes of ridge lift in thermal and speed mode, brakes out for the landing.
Always the same."""

from __future__ import annotations

from pathlib import Path

import numpy as np

OUT = Path(__file__).parents[1] / "src/hypsos/demo/marram-ridge.csv"
FRAMES = 6 * 60 * 50 + 1


def hold(t: np.ndarray, *steps: tuple[float, float]) -> np.ndarray:
    """A value from each time on."""
    out = np.zeros_like(t)
    for start, value in steps:
        out[t >= start] = value
    return out


def wander(rng: np.random.Generator, t: np.ndarray, size: float, period: float) -> np.ndarray:
    """A thumb that is never quite still."""
    waves = sum(np.sin(2 * np.pi * (t / (period * k) + rng.random())) / k for k in (1.0, 1.7, 2.9))
    return size * np.asarray(waves)


def main() -> None:
    """Write the file."""
    rng = np.random.default_rng(1871)
    t = np.arange(FRAMES) / 50
    throttle = np.interp(
        t,
        (0, 3, 4.5, 38, 40, 318, 322, 345, 356, 360),
        (-100, -100, 70, 60, -100, -100, 20, -30, -85, -100),
    )
    turns = np.where((t > 60) & (t < 210), 45 * np.sign(np.sin(2 * np.pi * t / 46)), 0)
    turns = np.convolve(turns, np.ones(60) / 60, mode="same")
    columns = {
        "aileron_stick": turns + wander(rng, t, 9, 3.1),
        "elevator_stick": wander(rng, t, 8, 4.3)
        - 0.25 * np.abs(turns)
        - hold(t, (350, 25), (357, 45)),
        "throttle_stick": throttle,
        "rudder_stick": 0.4 * turns + wander(rng, t, 5, 3.7),
        "motor_switch": hold(t, (2, 1), (41, 0)),
        "task_switch": hold(t, (320, 2)),
        "snap_switch": hold(t, (45, 1)),
        "flight_switch": hold(t, (55, 1), (215, 2), (260, 0), (275, 1), (310, 0)),
        "turn_switch": hold(t, (50, 1), (120, 2), (215, 0)),
        "camber_slider": np.interp(t, (0, 70, 80, 200, 212), (0, 0, 55, 55, 0)),
        "link": 1 - hold(t, (230.0, 1), (230.4, 0), (281.0, 1), (283.0, 0)),
    }
    with OUT.open("w", encoding="utf-8") as file:
        file.write("t_s," + ",".join(columns) + "\n")
        shown = dict.fromkeys(columns, "")
        for i in range(FRAMES):
            cells = {n: f"{min(100, max(-100, round(float(v[i])))):d}" for n, v in columns.items()}
            row = [c if c != shown[n] else "" for n, c in cells.items()]
            shown = cells
            if any(row) or i == FRAMES - 1:
                file.write(f"{t[i]:.2f}," + ",".join(row) + "\n")


if __name__ == "__main__":
    main()
