"""One set of rules, two kinds of number: a single frame in plain numbers gives what the arrays give."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hypsos.core.engine.motion import Motion
from hypsos.core.engine.outputs import servo_percent
from hypsos.core.engine.shaping import Curve, expo, ruler_mm, shaped
from hypsos.core.lanes import ARRAYS, FRAME, Table
from hypsos.core.linkage import Linkage, solvers
from hypsos.core.shapes import Response
from hypsos.core.templates import TEMPLATES

PERCENT = st.floats(-150, 150)


def same(function, *values) -> None:
    single = function(*values, FRAME)
    many = np.asarray(function(*(np.array([v]) for v in values), ARRAYS))[0]
    assert (math.isnan(single) and math.isnan(many)) or single == pytest.approx(float(many), abs=1e-9)


@settings(max_examples=80, deadline=None)
@given(PERCENT, st.floats(-100, 100), st.floats(0, 150), st.floats(0, 150))
def test_shaping_is_one_rule(x, k, low, high):
    same(expo, max(-1.0, min(1.0, x / 100)), k)
    same(lambda v, lane: shaped(v, None, (low, high, k), lane), x)
    same(lambda v, lane: ruler_mm(v, 43.0, lane), x / 2)
    table = Table((low, high, k))
    assert FRAME.take(table, 1) == ARRAYS.take(table, 1) == high


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(-100, 100), st.integers(-150, 150)), min_size=2, max_size=8, unique_by=lambda p: p[0]
    ),
    st.sampled_from(("straight", "smooth")),
    PERCENT,
)
def test_a_response_is_one_rule(points, shape, x):
    curve = Curve(Response(points=sorted(points), shape=shape).points, shape)
    assert curve(x) == pytest.approx(float(curve(np.array([x]))[0]), abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(st.floats(3, 30), st.floats(5, 30), st.floats(-20, 20), st.floats(-30, 30), st.floats(-80, 80))
def test_a_linkage_is_one_rule_where_it_reaches_and_where_it_binds(arm, horn, offset, lean, turn):
    link = Linkage(arm_mm=arm, horn_mm=horn, distance_mm=70, offset_mm=offset, arm_deg=lean)
    with np.errstate(invalid="ignore"):
        same(solvers(link)[0].degrees, turn)


@settings(max_examples=40, deadline=None)
@given(PERCENT, st.sampled_from([1, -1]), st.floats(-50, 50), st.floats(20, 150))
def test_an_output_is_one_rule(x, direction, centre, travel):
    model = TEMPLATES["tug"].make("Trial")
    lead = model.leads[0].model_copy(
        update={"direction": direction, "centre": centre, "travel_pos": travel, "stop_neg": -95.0}
    )
    for stage in range(3):
        same(lambda v, lane, stage=stage: servo_percent(v, lead, lane)[stage], x)
    rows = ((-100.0, -22.0), (0.0, 1.0), (100.0, 17.0))
    for made in (
        lead,
        lead.model_copy(update={"measured": rows}),
        lead.model_copy(update={"linkage": Linkage(arm_mm=9, horn_mm=13, distance_mm=60, flush=-20)}),
    ):
        motion = Motion(made, model.airframe.surfaces[0])
        same(lambda v, lane, motion=motion: motion.degrees(v, lane), x)
        same(lambda v, lane, motion=motion: motion.angles(v, lane)[1], x)
