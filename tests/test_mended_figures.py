# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that were wrong once, each with what it must be."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from parts import from_parts

from hypsos.core.checking.checks import first_problem, problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Trim
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import Flaps, KnifeEdge, StickScaling
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.rundown import attentions
from hypsos.core.shape.templates import TEMPLATES

DT = 0.02


@pytest.mark.parametrize("shares", [(120, 0), (0, 120), (60, 60), (90, 80)])
@pytest.mark.parametrize("rule", ["pitch first", "roll first"])
@pytest.mark.parametrize("shared", [(None, None), ("a", None), ("a", "b")])
def test_elevons_that_share_never_ask_for_more_than_the_first_alone(
    shares: Any, rule: Any, shared: Any
) -> None:
    model = TEMPLATES["elevon_wing"].make("Trial")
    i = next(k for k, r in enumerate(model.program.recipes) if r.kind == "elevons")
    fields = {
        "roll_share": shares[0],
        "pitch_share": shares[1],
        "sharing": rule,
        "roll_from": shared[0],
        "pitch_from": shared[1],
    }
    elevons = model.program.recipes[i].changed(fields)
    values = tuple(Tunable(name=n, value=v, low=0, high=200) for n, v in (("a", 120), ("b", 110)))
    model = with_at(with_at(model, "program.tunables", values), f"program.recipes[{i}]", elevons)
    assert list(problems(model)) == []
    plan = compile_plan(model)
    first = 1 if rule == "pitch first" else 0
    by = {None: 1.0, "a": 1.2, "b": 1.1}[shared[first]]
    most = max(100.0, shares[first] * by)
    for roll, pitch in itertools.product((-100, -40, 0, 70, 100), repeat=2):
        found = settled(plan, {"aileron_stick": roll, "elevator_stick": pitch}).sums
        assert max(abs(found[n][-1]) for n in (elevons.left, elevons.right)) <= most + 1e-6, (  # type: ignore[attr-defined]
            roll,
            pitch,
        )  # type: ignore[attr-defined]


def test_flaps_switched_off_leave_nothing_of_their_elevator() -> None:
    flaps = Flaps(
        surfaces=("left_flap", "right_flap"),
        elevators=("elevator",),
        control="switch_c",
        in_s=1.0,
        out_s=1.0,
        when="switch_b@1",
        positions=(
            FlapPosition(flap=0, elevator=4),
            FlapPosition(flap=40, elevator=9),
            FlapPosition(flap=80, elevator=12),
        ),
    )
    model = with_at(from_parts(), "program.recipes", (flaps,))
    plan = compile_plan(model)
    for place, elevator in enumerate((4, 9, 12)):
        assert settled(plan, {"switch_b": 1, "switch_c": place}).sums["elevator"][
            -1
        ] == pytest.approx(elevator)
        assert settled(plan, {"switch_b": 0, "switch_c": place}).sums["elevator"][-1] == 0
    t = DT * np.arange(150)
    off = plan.run(Situation(t, {"switch_c": 2.0, "switch_b": np.where(t < 1, 1.0, 0.0)})).sums[
        "elevator"
    ]
    assert np.abs(np.diff(off)).max() < 1.0  # on its way with the flaps, no jump


def fading(adjuster: Any, **fields: Any) -> Any:
    """A shared value moved while one mode is flown, into which there is a fade of a second."""
    value = Tunable(name="bite", value=10.0, low=0.0, high=100.0, adjuster=adjuster, **fields)
    modes = (
        FlightMode(name="on", when="switch_b@1", fade_s=1.0),
        FlightMode(name="base", fade_s=1.0),
    )
    line = MixLine(name="f", target="left_flap", source="full", gain_from="bite")
    return with_at(from_parts(mixes=(line,), tunables=(value,)), "program.modes", modes)


@pytest.mark.parametrize(
    "adjuster",
    [
        Adjuster(kind="set", control="slider", when="mode:on", keep=True),
        Adjuster(kind="set", control="slider", when="mode:on"),
        Adjuster(kind="step", up="switch_c@2", amount=60.0, when="mode:on"),
        Adjuster(kind="step", up="switch_c@2", amount=60.0, when="mode:on", keep=True),
    ],
)
def test_a_shared_value_moved_in_one_mode_goes_with_its_fade(adjuster: Any) -> None:
    """Into the mode, out of it and back: no change in a frame beyond what the fade itself makes,
    but for the press."""
    model = fading(adjuster)
    assert first_problem(model) is None
    t = DT * np.arange(500)
    hands = {
        "slider": 60.0,
        "switch_b": np.where((t >= 1) & (t < 4) | (t >= 7), 1.0, 0.0),
        "switch_c": np.where((t >= 2.5) & (t < 2.7), 2.0, 0.0),
    }
    out = compile_plan(model).run(Situation(t, hands)).sums["left_flap"]
    change = np.abs(np.diff(out))
    press = 125 - 1 if adjuster.kind == "step" else -1
    assert np.delete(change, press).max() < 3.0 if press >= 0 else change.max() < 3.0
    assert out.max() > 60.0


def test_that_a_stepping_adjuster_begins_to_act_is_no_press() -> None:
    model = fading(Adjuster(kind="step", up="switch_c@2", amount=5.0, when="switch_b@1"))
    t = DT * np.arange(200)
    hands = {"switch_c": 2.0, "switch_b": np.where((t > 1) & (t < 2) | (t > 3), 1.0, 0.0)}
    assert set(np.unique(compile_plan(model).run(Situation(t, hands)).shared["bite"])) == {10.0}
    pressed = {"switch_b": 1.0, "switch_c": np.where((t > 1) & (t < 1.2) | (t > 2), 2.0, 0.0)}
    assert compile_plan(model).run(Situation(t, pressed)).shared["bite"][-1] == 20.0


def test_a_trim_lever_reaches_the_bounds_of_what_it_adjusts() -> None:
    value = Tunable(
        name="bite",
        value=10.0,
        low=-20.0,
        high=60.0,
        adjuster=Adjuster(kind="set", control="yaw_trim"),
    )
    more = Tunable(
        name="more",
        value=10.0,
        low=-50.0,
        high=60.0,
        adjuster=Adjuster(kind="add", control="yaw_trim", amount=8.0),
    )
    model = from_parts(tunables=(value, more), trims={"yaw": Trim(range=25.0, scope="lever")})
    plan = compile_plan(model)
    for lever, bite, added in ((-25.0, -20.0, 2.0), (0.0, 20.0, 10.0), (25.0, 60.0, 18.0)):
        shared = plan.run(Situation(np.zeros(1), {"yaw_trim": lever})).shared
        found = {n: float(np.ravel(x)[-1]) for n, x in shared.items()}
        assert found["bite"] == pytest.approx(bite) and found["more"] == pytest.approx(added)


def test_knife_edge_is_trimmed_by_a_trim_lever() -> None:
    fields = {"elevators": ("elevator",), "left": ("left_aileron",), "right": ("right_aileron",)}
    model = from_parts(trims={"pitch": Trim(scope="lever"), "roll": Trim()})
    model = with_at(model, "program.recipes", (KnifeEdge(pitch_lever="pitch_trim", **fields),))
    assert list(problems(model)) == []
    plan, stick = compile_plan(model), {"rudder_stick": 100.0}
    plain, trimmed = (
        settled(plan, {**stick, "pitch_trim": x}).sums["elevator"][-1] for x in (0.0, 25.0)
    )
    assert trimmed - plain == pytest.approx(10.0)
    missing = with_at(model, "program.recipes[0].pitch_lever", "yaw_trim")
    assert [p.path for p in problems(missing)] == ["program.recipes[0].pitch_lever"]


def test_two_behaviours_that_scale_one_axis_are_said(marram: Model) -> None:
    scaling = next(
        (r for r in marram.program.recipes if isinstance(r, StickScaling)),
        StickScaling(axes=("roll",)),
    )
    marram = with_at(
        marram, "program.recipes", (*(r for r in marram.program.recipes if r != scaling), scaling)
    )
    twice = (*marram.program.recipes, scaling.changed({"label": "Another", "signal": "another"}))
    texts = [a.text for a in attentions(with_at(marram, "program.recipes", twice))]
    assert any("only one of them acts" in text for text in texts)
    assert not any("only one of them acts" in a.text for a in attentions(marram))


def test_hours_of_fine_frames_with_two_rows_take_little_room(marram: Model) -> None:
    import tracemalloc

    from hypsos.core.scenarios.moves_csv import read_moves

    fine = with_at(marram, "program.frame_s", 0.002)
    names = list(compile_plan(fine).rest)[:12]
    text = f"t_s,{','.join(names)}\n0,{','.join('0' for _ in names)}\n7200,{','.join('1' for _ in names)}\n"
    tracemalloc.start()
    moves = read_moves(text, fine)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert len(moves.t_s) == 3_600_001 and most < 120_000_000
    last = moves.piece(3_599_999, 3_600_001)
    assert [np.asarray(last.controls[n]).tolist() for n in names] == [[0.0, 1.0]] * len(names)
    assert np.asarray(moves.controls[names[0]]).sum() == 1.0


@pytest.mark.parametrize("sign", ["\u202e", "\u200b", "\u2066", "\ufeff"])
def test_a_name_that_would_be_shown_as_another_is_refused(samphire: Model, sign: Any) -> None:
    from hypsos.core.base.errors import DocumentError

    with pytest.raises(DocumentError, match="direction of reading"):
        samphire.changed({"name": f"Sam{sign}phire"})


def test_demo_folders_that_were_left_behind_are_swept_and_living_ones_stay(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    import os

    from hypsos.hangar.places import passing_folder

    monkeypatch.setenv("TMPDIR", str(tmp_path))
    dead, living, other = (
        tmp_path / n
        for n in ("hypsos-demo-999999999-1a", f"hypsos-demo-{os.getpid()}-2b", "hypsos-demo-x")
    )
    for folder in (dead, living, other):
        folder.mkdir()
        (folder / "demo-hangar.sqlite3").write_text("x")
    with passing_folder() as mine:
        assert mine.parent == tmp_path and not dead.exists() and living.exists() and other.exists()
        mine.rename(tmp_path / "moved away")  # who does that by hand sees no error at the end
