# SPDX-License-Identifier: GPL-3.0-or-later
"""The engine against an evaluator written anew from the semantics, over random models and random
hands."""

from __future__ import annotations

import os
import sys
from collections import Counter
from importlib.resources import files
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from random_models import FRAME, made, moves
from reference import Reference

from hypsos.core.engine import Situation, compile_plan
from hypsos.core.scenarios.moves_csv import read_moves
from hypsos.core.wording.words import GUARD_WORDS

sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks"))
import yardstick

FRAMES = 60
MODELS = int(os.environ.get("HYPSOS_RANDOM_MODELS", "250"))
SEEN: Counter[str] = Counter()


def near(a: float, b: float) -> bool:
    return abs(a - b) <= 1e-6


def compare(seed: int) -> None:
    model = made(seed, young=seed % 2 == 1)
    controls, *around = moves(model, seed, FRAMES)
    parts = [p.name for p in model.airframe.moved()]
    result = compile_plan(model).run(
        Situation(FRAME * np.arange(FRAMES), controls, *around), None, parts
    )
    stands = {x.target: result.outputs[x.name].stand for x in model.leads}
    for name in parts:  # every contribution is named, and they add up
        total = np.broadcast_to(sum(c.amount for c in result.why[name]), (FRAMES,))
        np.testing.assert_allclose(
            total, np.broadcast_to(stands[name], (FRAMES,)), 0, 1e-9, err_msg=f"seed {seed}, {name}"
        )
    reference = Reference(model)
    names = [m.name for m in model.program.modes] or ["base"]
    for i in range(FRAMES):
        now = {n: float(x[i]) for n, x in controls.items()}
        link, power, quality, battery = (x[i] for x in around)
        wanted = reference.step(now, bool(link), bool(power), float(quality), bool(battery))
        place = f"seed {seed}, frame {i}"
        assert names[int(result.modes[i])] == wanted["mode"], place
        found = {n: bool(x[i]) for n, x in result.logic.items()}
        assert found == {n: bool(v) for n, v in wanted["logic"].items()}, place
        assert GUARD_WORDS[int(result.guard[i])] == wanted["guard"], place
        SEEN[wanted["guard"]] += 1
        told = {n: float(np.broadcast_to(x, FRAMES)[i]) for n, x in result.told.items()}
        assert told.keys() == wanted["told"].keys(), place
        assert all(near(x, wanted["told"][n]) for n, x in told.items()), place
        for name, (us, stand, at_stop, ready) in wanted["out"].items():
            trace = result.outputs[name]
            assert near(float(trace.us[i]), us) and near(float(trace.stand[i]), stand), (
                f"{place}, {name}"
            )
            assert bool(trace.at_stop[i]) == at_stop, f"{place}, {name}"
            if ready is not None:
                assert bool(trace.ready[i]) == ready, f"{place}, {name}"
                SEEN[f"ready {ready}"] += 1


@pytest.mark.parametrize("block", range(10))
def test_random_models_do_what_the_semantics_say(block: Any) -> None:
    for seed in range(block * MODELS // 10, (block + 1) * MODELS // 10):
        compare(seed)


def test_the_random_hands_release_motors_too() -> None:
    """Else the comparison of armed motors would compare nothing."""
    for seed in range(25):
        compare(seed)
    assert min(SEEN[x] for x in ("cut", "locked", "armed", "ready True", "ready False")) > 40


@pytest.mark.parametrize("seed", range(0, 500, 12))
def test_pieces_single_frames_and_situations_side_by_side_are_the_whole(seed: int) -> None:
    model = made(seed, young=seed % 24 == 0)
    plan = compile_plan(model)
    t = FRAME * np.arange(FRAMES)
    hands = [moves(model, seed + 7000 * k, FRAMES) for k in range(3)]
    wholes = [plan.run(Situation(t, *h)) for h in hands]
    rows = {n: np.stack([h[0][n] for h in hands]) for n in hands[0][0]}
    together = plan.run(
        Situation(t, rows, *(np.stack([h[k] for h in hands]) for k in (1, 2, 3, 4)))
    )
    for edges in (range(FRAMES + 1), (0, 1, 17, 18, 40, FRAMES)):
        memory, parts = None, []
        for a, b in pairwise(edges):
            parts.append(plan.run(Situation(t, *hands[0]).piece(a, b), memory))
            memory = parts[-1].memory
        for name, trace in wholes[0].outputs.items():
            for what in (
                ("us", "stand", "deg", "mm") if trace.deg is not None else ("us", "stand", "ready")
            ):
                found = np.concatenate([getattr(p.outputs[name], what) for p in parts])
                np.testing.assert_allclose(
                    found, getattr(trace, what), 0, 1e-9, err_msg=f"{name}, {what}"
                )
    for k, whole in enumerate(wholes):
        for name, trace in whole.outputs.items():
            found = np.broadcast_to(together.outputs[name].us, (3, FRAMES))[k]
            np.testing.assert_allclose(
                found, np.broadcast_to(trace.us, (FRAMES,)), 0, 1e-9, err_msg=name
            )


def test_the_recorded_flight_against_straight_arithmetic() -> None:
    """The yardstick of the bench, written by hand for this one model: every pulse and angle of six
    minutes."""
    marram = yardstick.by_travel()
    moves = read_moves((files("hypsos.demo") / "marram-ridge.csv").read_text(), marram)
    yardstick.THROWS |= {
        s.name: (s.throw_up_deg, s.throw_down_deg) for s in marram.airframe.surfaces
    }
    plan = compile_plan(marram)
    whole = {
        n: np.broadcast_to(np.asarray(moves.controls.get(n, v), float), moves.t_s.shape)
        for n, v in plan.rest.items()
    }
    us, deg = yardstick.marram(moves.t_s, whole)
    result = plan.run(Situation(moves.t_s, moves.controls))
    assert max(float(np.abs(us[n] - o.us).max()) for n, o in result.outputs.items()) < 1e-9
    assert max(float(np.abs(deg[n] - result.outputs[n].deg).max()) for n in deg) < 1e-9
    assert len(moves.t_s) == 6 * 60 * 50 + 1
