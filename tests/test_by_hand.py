"""The engine against straight NumPy written by hand for the demo sailplane: the recorded flight, every pulse and angle."""

from __future__ import annotations

import sys
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest

from hypsos.core.engine import Situation, compile_plan
from hypsos.core.moves import read_moves

sys.path.insert(0, str(Path(__file__).parents[1] / "bench"))
import yardstick


@pytest.fixture
def by_hand(marram):
    for surface in marram.airframe.surfaces:
        yardstick.THROWS[surface.name] = (surface.throw_up_deg, surface.throw_down_deg)

    def compare(t, controls) -> float:
        plan = compile_plan(marram)
        whole = {n: np.broadcast_to(np.asarray(controls.get(n, v), float), t.shape) for n, v in plan.rest.items()}
        us, deg = yardstick.marram(t, whole)
        result = plan.run(Situation(t, controls))
        worst = max(float(np.abs(us[n] - o.us).max()) for n, o in result.outputs.items())
        off = max(float(np.abs(deg[n] - result.outputs[n].deg).max()) for n in deg)
        return max(worst, off)

    return compare


def test_the_recorded_flight(marram, by_hand):
    moves = read_moves((files("hypsos.demo") / "marram-ridge.csv").read_text(), marram)
    assert len(moves.t_s) == 6 * 60 * 50 + 1
    assert by_hand(moves.t_s, moves.controls) < 1e-9


@pytest.mark.parametrize("seed", range(4))
def test_wild_hands(by_hand, seed):
    """Sticks thrown about and switches changed in the middle of fades, delays and slow movements."""
    rng = np.random.default_rng(seed)
    t = 0.02 * np.arange(3000)
    controls = {
        n: np.repeat(rng.integers(-100, 101, 300), 10).astype(float)
        for n in ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick", "camber_slider", "snap_knob")
    }
    controls |= {
        n: np.repeat(rng.integers(0, 3, 150), 20).astype(float) for n in ("task_switch", "flight_switch", "turn_switch")
    }
    controls |= {
        n: np.repeat(rng.integers(0, 2, 100), 30).astype(float) for n in ("motor_switch", "snap_switch", "tow_button")
    }
    controls["throttle_stick"][rng.random(3000) < 0.3] = -100.0
    assert by_hand(t, controls) < 1e-9
