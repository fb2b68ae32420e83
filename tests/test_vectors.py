# SPDX-License-Identifier: GPL-3.0-or-later
"""The engine against values computed independently."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from conftest import vectors

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.memory import Memory, edge_latch, latch, on_delay, slow
from hypsos.core.conditions import Compare
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.document.program import Setting
from hypsos.core.engine.shaping import expo, response_curve, shaped
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.pulses import servo_percent


@pytest.mark.parametrize("row", vectors("expo"))
def test_expo(row: Any) -> None:
    assert expo(row["x"], row["k"]) == pytest.approx(row["y"], abs=1e-6)


@pytest.mark.parametrize("row", vectors("straight"))
def test_straight_response(row: Any) -> None:
    curve = response_curve(Response(points=row["points"]))
    assert curve(np.array([row["x"]]))[0] == pytest.approx(row["y"], abs=1e-6)  # type: ignore[misc]


@pytest.mark.parametrize("row", vectors("shaped"))
def test_shaped_axis(row: Any) -> None:
    setting = Setting(rate_neg=row["rate_neg"], rate_pos=row["rate_pos"], expo=row["k"])
    curve = response_curve(Response(points=row["curve"]))
    assert shaped(np.array([row["x"]]), curve, setting)[0] == pytest.approx(row["y"], abs=1e-6)


@pytest.mark.parametrize("row", vectors("output"))
def test_output_stage(row: Any) -> None:
    fields = {
        k: row[k]
        for k in ("direction", "centre", "travel_neg", "travel_pos", "stop_neg", "stop_pos")
    }
    lead = Lead(name="a", label="A", target="a", **fields)
    q = servo_percent(np.clip(np.array([row["v"]]), -150, 150), lead)[2][0]
    assert q == pytest.approx(row["q"], abs=1e-6)
    assert 1500 + 5 * q == pytest.approx(row["us"], abs=1e-6)


@pytest.mark.parametrize("row", vectors("ruler_mm"))
def test_ruler(row: Any) -> None:
    assert abs(ruler_mm(row["degrees"], row["chord"])) == pytest.approx(row["mm"], abs=1e-6)


def pieces(length: int) -> Iterator[Any]:
    """A whole run, and the same cut at every place."""
    yield [(0, length)]
    for cut in range(1, length):
        yield [(0, cut), (cut, length)]


def in_pieces(operation: Any, length: int) -> Iterator[Any]:
    """Run an operation over slices with the state carried along; every cutting gives one result."""
    for cuts in pieces(length):
        memory, out = Memory(), []
        for a, b in cuts:
            memory = Memory(before=memory.after)
            out.append(operation(slice(a, b), memory))
        yield np.concatenate(out)


@pytest.mark.parametrize("row", vectors("latch"))
def test_latch(row: Any) -> None:
    kind = edge_latch if row["edges"] else latch
    on, off = np.array(row["set"]), np.array(row["reset"])
    for out in in_pieces(lambda s, m: kind(on[s], off[s], m, "k"), len(on)):
        assert out.tolist() == row["out"]


@pytest.mark.parametrize("row", vectors("on_delay"))
def test_on_delay(row: Any) -> None:
    x = np.array(row["input"])
    t = row["dt"] * np.arange(len(x))
    for out in in_pieces(lambda s, m: on_delay(x[s], t[s], row["d"], m, "k"), len(x)):
        assert out.tolist() == row["out"]


@pytest.mark.parametrize("row", vectors("slow"))
def test_slow(row: Any) -> None:
    x = np.array(row["values"], float)
    for out in in_pieces(
        lambda s, m: slow(x[s], row["up"], row["down"], row["dt"], m, "k"), len(x)
    ):
        assert out == pytest.approx(row["out"], abs=1e-6)


@pytest.mark.parametrize("row", vectors("greater"))
def test_hysteresis(row: Any) -> None:
    x = np.array(row["values"], float)
    edges = Compare(name="deep", kind="above", a="stick", x=row["x"], hysteresis=row["h"]).edges()

    def above(s: Any, memory: Any) -> Any:
        none = np.zeros(len(x[s]), bool)
        return latch(
            *edges(ConditionWorld(ARRAYS, none.shape, x[s], {"stick": x[s]}, {}, none, none)),
            memory,
            "k",
        )

    for out in in_pieces(above, len(x)):
        assert out.tolist() == row["out"]
