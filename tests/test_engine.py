# SPDX-License-Identifier: GPL-3.0-or-later
"""The worked cases and the properties that must hold for every model."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Setting
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.shape.templates import TEMPLATES


def wired(key: str) -> Any:
    model = TEMPLATES[key].make("Trial")
    leads = tuple(x.model_copy(update={"port": i + 1}) for i, x in enumerate(model.leads))
    axes = tuple(a.model_copy(update={"settings": (Setting(),)}) for a in model.program.axes)
    return with_at(with_at(model, "leads", leads), "program.axes", axes)


POSITIONS = (FlapPosition(), FlapPosition(flap=35, elevator=4), FlapPosition(flap=90, elevator=9))
TUG = with_at(wired("tug"), "program.recipes[1].positions", POSITIONS)
SAILPLANE = wired("v_tail_sailplane")


def stands(model: Model, **controls: Any) -> Any:
    result = settled(compile_plan(model), controls)
    return {x.target: float(np.ravel(result.outputs[x.name].stand)[-1]) for x in model.leads}


def test_flaperons_at_half_with_full_right() -> None:
    out = stands(TUG, flap_switch=1, aileron_stick=100)
    assert (out["left_flaperon"], out["right_flaperon"]) == pytest.approx((71, -25), abs=1e-9)


def test_v_tail_pulled_and_right() -> None:
    out = stands(SAILPLANE, elevator_stick=-100, rudder_stick=100)
    assert (out["left_ruddervator"], out["right_ruddervator"]) == pytest.approx(
        (-100, -10), abs=1e-9
    )


def test_elevator_stays_in_step_with_slow_flaps() -> None:
    plan = compile_plan(TUG)
    start = plan.run(Situation(np.array([0.0]))).memory
    t = 0.02 * np.arange(1, 120)
    result = plan.run(Situation(t, {"flap_switch": 2.0}), start)
    flap, elevator = result.sums["flap"], result.sums["elevator"]
    assert 0 < flap[10] < 35 and flap[-1] == 90
    below = flap <= 35
    assert elevator[below] == pytest.approx(flap[below] * 4 / 35)
    assert elevator[-1] == pytest.approx(9)


def test_mixes_that_feed_each_other_in_a_circle_are_named() -> None:
    circle = (
        MixLine(name="a", target="elevator", source="rudder"),
        MixLine(name="b", target="rudder", source="elevator"),
    )
    with pytest.raises(HypsosError, match=r"circle: (elevator, rudder|rudder, elevator)"):
        compile_plan(with_at(TUG, "program.mixes", (*TUG.program.mixes, *circle)))


def test_values_out_of_bounds_are_refused_and_the_document_is_untouched() -> None:
    for path, value in (
        ("program.axes[0].settings[0].expo", float("nan")),
        ("program.axes[0].settings[0].rate_pos", float("inf")),
        ("leads[0].slow_up_s", -1.0),
        ("leads[0].stop_pos", 151.0),
    ):
        with pytest.raises(DocumentError) as caught:
            with_at(TUG, path, value)
        assert caught.value.where == path
