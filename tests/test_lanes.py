"""One set of rules, two kinds of number: a single frame in plain numbers gives what the arrays give."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hypsos.core.engine import memory as m
from hypsos.core.engine.memory import Memory
from hypsos.core.engine.motion import Motion
from hypsos.core.engine.outputs import servo_percent
from hypsos.core.engine.shaping import Curve, expo, ruler_mm, shaped
from hypsos.core.lanes import ARRAYS, FRAME, Table
from hypsos.core.linkage import Linkage, solvers
from hypsos.core.shapes import Response
from hypsos.core.templates import TEMPLATES

PERCENT = st.floats(-150, 150)
FLAGS = st.lists(st.booleans(), min_size=1, max_size=40)
T = 0.02 * np.arange(40)

OPERATIONS = {
    "rising": lambda x, t, mem: m.rising(x, mem, "k"),
    "latch": lambda x, t, mem: m.latch(x, _other(x, mem), mem, "k"),
    "edge_latch": lambda x, t, mem: m.edge_latch(x, _other(x, mem), mem, "k"),
    "on_delay": lambda x, t, mem: m.on_delay(x, t, 0.07, mem, "k"),
    "off_delay": lambda x, t, mem: m.off_delay(x, t, 0.07, mem, "k"),
    "pulse": lambda x, t, mem: m.pulse(x, t, 0.05, mem, "k"),
    "counter": lambda x, t, mem: m.counter(x, 3, mem, "k"),
    "slow": lambda x, t, mem: m.slow(mem.lane.where(x, 80.0, -30.0), 0.4, 0.9, 0.02, mem, "k"),
    "held": lambda x, t, mem: _both(m.held(t * 10.0, x, _other(x, mem), -3.0, mem, "k"), mem),
    "slow_stopped": lambda x, t, mem: m.slow(
        mem.lane.where(x, 80.0, -30.0), 0.4, 0.9, 0.02, mem, "k", _other(x, mem), 7.0
    ),
    "machine": lambda x, t, mem: m.machine(_flip(mem.lane), (x, m.rising(x, mem, "e")), 2, mem, "k")[1],
}


def _both(found, mem):
    """A value, and what is said about it."""
    return mem.lane.where(found[1], found[0], found[0] - 1000.0)


def _flip(lane):
    """A machine that turns its second flag round when it hears an edge, and remembers the first."""
    return lambda was, heard: (heard[0], (was[1] & lane.not_(heard[1])) | (heard[1] & lane.not_(was[1])))


def _other(x, mem):
    """A second input that is the first one, a frame later turned round."""
    return mem.lane.not_(m.rising(x, mem, "other"))


@pytest.mark.parametrize("name", list(OPERATIONS))
@settings(max_examples=40, deadline=None)
@given(FLAGS, st.integers(0, 39))
def test_what_remembers_steps_as_it_scans(name, flags, cut):
    """All frames as one array; each by itself in plain numbers; a piece as an array, the rest in plain numbers."""
    operation, x, t = OPERATIONS[name], np.array(flags), T[: len(flags)]
    whole = Memory(lane=ARRAYS)
    expected = operation(x, t, whole)
    single, out = {}, []
    for flag, now in zip(flags, t.tolist(), strict=True):
        piece = Memory(before=single, lane=FRAME)
        out.append(operation(flag, now, piece))
        single = piece.after
    assert np.array(out, float) == pytest.approx(np.asarray(expected, float), abs=1e-9)
    cut = min(cut, len(flags))
    first = Memory(lane=ARRAYS)
    out = list(operation(x[:cut], t[:cut], first)) if cut else []
    state = first.after
    for flag, now in zip(flags[cut:], t[cut:].tolist(), strict=True):
        piece = Memory(before=state, lane=FRAME)
        out.append(operation(flag, now, piece))
        state = piece.after
    assert np.array(out, float) == pytest.approx(np.asarray(expected, float), abs=1e-9)


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
