# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard against a table of events, written from what a guard is to do and not from what ours
does.

``tests/data/guard_sequences.csv``: each row sets some things (m the motor switch's position, s the
throttle stick, link, pow the receiver's power, hold, also, sl a slider, c another switch, rud the
rudder stick), waits w seconds, and says the state that must then be. A row without a case's first
event goes on from the one before."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from itertools import groupby
from typing import Any

import numpy as np
import pytest
from conftest import DATA
from motors import THROTTLE, play
from parts import from_parts

from hypsos.core.checking.checks import first_problem
from hypsos.core.document.program import Guard, StartCheck
from hypsos.core.parts.mix_lines import MixLine

NAMES = {"m": "motor_switch", "s": "throttle_stick", "link": "link", "pow": "power", "hold": "switch_b", "also": "switch_c",
         "sl": "slider", "c": "switch_c", "rud": "rudder_stick"}  # fmt: skip
STATES = ("cut", "locked", "armed")
ROWS = list(csv.DictReader((DATA / "guard_sequences.csv").open()))
CASES = {k: list(rows) for k, rows in groupby(ROWS, key=lambda r: int(r["case"]))}


def model_of(options: Any) -> Any:
    told = dict(x.split("=") for x in options.split())
    share = float(told.get("differential", 0))
    mixes = THROTTLE + (
        (MixLine(name="d", target="left_motor", source="yaw", gain=share),) if share else ()
    )
    leads = {"left_motor": {"centre": 5.0}} if told.get("idle") else {}
    model = from_parts(motors=True, mixes=mixes, leads=leads)
    if told.get("switch") == "3":
        held = model.transmitter.controls[0].changed({"positions": ("first", "middle", "last")})
        controls = (held, *model.transmitter.controls[1:])
        model = model.changed({"transmitter": model.transmitter.changed({"controls": controls})})
    checks = {
        "slider": (StartCheck(control="slider", low=-100, high=-50),),
        "position": (StartCheck(control="switch_c", position=0),),
    }
    guard = Guard(
        level=int(told["level"]),
        switch="motor_switch",
        cut=tuple(int(x) for x in told.get("cut", "0")),
        threshold=float(told.get("threshold", -95)),
        relock_s=float(told.get("relock_s", 0.5)),
        holds=("switch_b@1",) if told.get("holds") else (),
        also="switch_c@1" if told.get("also") else None,
        wakes_when_low=bool(told.get("wakes")),
        start_check=checks.get(told.get("check"), ()),
    )
    return model.changed({"program": model.program.changed({"guard": guard})})


@pytest.mark.parametrize("case", CASES)
def test_the_guard_is_in_the_state_in_which_it_must_be(case: Any) -> None:
    rows = CASES[case]
    model = model_of(rows[0]["options"])
    assert first_problem(model) is None
    steps, ends, t = [], [], 0.0
    for row in rows:
        told = {k: float(v) for k, v in (x.split("=") for x in row["event"].split())}
        wait = told.pop("w")
        steps.append((wait, {NAMES[k]: v for k, v in told.items()}))
        t += wait
        ends.append(round(t / 0.02) - 1)
    result = play(model, *steps)
    found = [STATES[result.guard[i]] for i in ends]
    expected = [row["expect"] for row in rows]
    assert found == expected, [
        f"{r['event']}: {f}, wanted {r['expect']}" for r, f in zip(rows, found, strict=True)
    ]
    up = np.concatenate([np.full(round(w / 0.02), n) for w, n in links_of(steps)])
    still = (
        result.guard != 2
    ) & up  # without the link a receiver keeps the last it has heard, until its failsafe acts
    for motor in ("left_motor", "right_motor"):
        if motor == "right_motor" or "idle" not in rows[0]["options"]:
            assert (result.outputs[motor].us[still] == 1000.0).all()


def links_of(steps: Any) -> Iterator[Any]:
    """How long, and whether the receiver hears the transmitter meanwhile."""
    now = {"link": 1.0, "power": 1.0}
    for wait, change in steps:
        now |= {k: v for k, v in change.items() if k in now}
        yield wait, bool(now["link"] and now["power"])


def test_the_table_is_large_enough() -> None:
    assert len(CASES) >= 120 and {r["expect"] for r in ROWS} == set(STATES)
