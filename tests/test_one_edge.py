# SPDX-License-Identifier: GPL-3.0-or-later
"""What moves as one edge moves by one angle, in degrees on the aeroplane, whatever the throws of
its sections are."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from hands import choose, press, type_into
from keyed import keyed_on, sheet_text, transmitter
from pytestqt.qtbot import QtBot

from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.behaviours import added, offers
from hypsos.core.edits.detach import attached, detached
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import Ailerons
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.schools.keying import keying
from hypsos.core.schools.proof import Prover
from hypsos.core.shape.templates import TEMPLATES

SLIDER = Control(name="slider", label="Slider", kind="slider", hand="left")
LEFT, RIGHT = ("left_flap", "left_aileron"), ("right_flap", "right_aileron")


def sailplane(*kinds: str, **leads: Any) -> Model:
    """The V-tail sailplane, plugged in, with a slider: flaps 12 degrees up and 70 down, ailerons 25
    both ways."""
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    ports = (x.changed({"port": i + 1, **leads}) for i, x in enumerate(model.leads))
    model = model.changed({"leads": tuple(ports)})
    model = with_at(model, "transmitter.controls", (*model.transmitter.controls, SLIDER))
    for kind in kinds:
        model = added(
            model, next(o.made for o in offers(model) if o.made is not None and o.made.kind == kind)
        )
    return model


def degrees(model: Model, names: Any = (*LEFT, *RIGHT), **hands: float) -> list[float]:
    """Where surfaces stand once all has settled, in degrees, + is down."""
    t = 0.02 * np.arange(400)
    situation = Situation.of(
        t, {n: np.full(len(t), v) for n, v in {"rates_switch": 2.0, **hands}.items()}
    )
    result = compile_plan(model).run(situation)
    leads = {x.target: x.name for x in model.leads}
    return [round(float(np.ravel(result.outputs[leads[n]].deg)[-1]), 3) for n in names]


def near(*values: float) -> Any:
    return pytest.approx(values, abs=0.01)


@pytest.mark.parametrize(
    ("kinds", "hands", "seen"),
    [
        (["camber_follow"], {"slider": 100.0}, (5.0, 5.0, 5.0, 5.0)),
        (["camber_follow"], {"slider": -100.0}, (-2.0, -2.0, -2.0, -2.0)),
        (["camber_follow"], {"aileron_stick": 100.0}, (3.0, 12.5, -5.0, -25.0)),
        (["camber_follow"], {"slider": 100.0, "aileron_stick": 100.0}, (8.0, 17.5, 0.0, -20.0)),
        (
            ["camber_follow"],
            {"slider": -100.0, "aileron_stick": -50.0},
            (-4.206, -12.528, -0.676, 3.515),
        ),
        (["snap_flap"], {"elevator_stick": -100.0}, (6.0, 6.0, 6.0, 6.0)),
        (
            ["snap_flap", "camber_follow"],
            {"slider": -100.0, "elevator_stick": -100.0},
            (4.0, 4.0, 4.0, 4.0),
        ),
    ],
)
def test_behaviours_of_an_edge_add_up_in_degrees(kinds: Any, hands: Any, seen: Any) -> None:
    model = sailplane(*kinds)
    if hands.get("aileron_stick") == -50.0:  # 50 % of the stick at high rates, with its expo
        roll = float(
            compile_plan(model)
            .run(Situation.of(np.zeros(1), {"rates_switch": 2.0, **hands}))
            .commands["roll"][-1]
        )
        up, down = 5.0 * roll / 100.0, -3.0 * roll / 100.0
        seen = (-2.0 + up, 25.0 * roll / 100.0 - 2.0, -2.0 + down, -12.5 * roll / 100.0 - 2.0)
    assert degrees(model, **hands) == near(*seen)


@pytest.mark.parametrize("differential", [0.0, 40.0, 100.0, -30.0])
def test_differential_is_a_ratio_of_movements(differential: Any) -> None:
    """Ailerons that go 20 degrees up and 8 down."""
    model = sailplane()
    surfaces = tuple(
        s.changed({"throw_up_deg": 30.0, "throw_down_deg": 22.0}) if s.role == "aileron" else s
        for s in model.airframe.surfaces
    )
    model = model.changed({"airframe": model.airframe.changed({"surfaces": surfaces})})
    recipe = Ailerons(
        left=("left_aileron",), right=("right_aileron",), edge_deg=20.0, differential=differential
    )
    model = with_at(model, "program.recipes[0]", recipe)
    left, right = degrees(model, ("left_aileron", "right_aileron"), aileron_stick=100.0)
    down, up = 20.0 * (1 - max(differential, 0.0) / 100), 20.0 * (1 + min(differential, 0.0) / 100)
    assert (left, -right) == near(down, up)


@pytest.mark.parametrize(
    "lead",
    [
        {"travel_pos": 80.0, "travel_neg": 120.0},
        {"direction": -1, "centre": 9.0},
        {"direction": -1, "travel_neg": 70.0},
        {
            "linkage": Linkage(
                arm_mm=9, horn_mm=13, distance_mm=60, offset_mm=4, arm_deg=-15, flush=-20
            )
        },
        {"measured": ((-100.0, -22.0), (0.0, 1.0), (100.0, 17.0))},
    ],
)
def test_an_output_set_otherwise_turns_it_by_the_same_angle(lead: Any) -> None:
    model = sailplane("camber_follow", **lead)
    rest = degrees(model)
    for slider, angle in ((100.0, 5.0), (-100.0, -2.0), (50.0, 2.5)):
        moved = np.array(degrees(model, slider=slider)) - rest
        assert moved == pytest.approx([angle] * 4, abs=0.03)


def test_why_shares_the_percent_out_as_the_degrees_are() -> None:
    model = sailplane("camber_follow", "snap_flap")
    t = 0.02 * np.arange(100)
    hands = {"slider": 100.0, "aileron_stick": 60.0, "elevator_stick": -80.0, "rates_switch": 1.0}
    result = compile_plan(model).run(
        Situation.of(t, {n: np.full(100, v) for n, v in hands.items()}), why=("right_flap",)
    )
    parts = {c.label: float(np.ravel(c.amount)[-1]) for c in result.why["right_flap"]}
    assert sum(parts.values()) == pytest.approx(
        float(np.ravel(result.sums["right_flap"])[-1]), abs=1e-9
    )
    assert parts["Camber follow"] > 0 > parts["Camber follow, roll"] and parts["Snap flap"] > 0


def test_detached_and_attached_again_it_moves_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    model = sailplane("camber_follow", "snap_flap")
    hands = {"slider": 70.0, "aileron_stick": -60.0, "elevator_stick": -90.0}
    whole = degrees(model, **hands)
    for i in (3, 4):
        plain = detached(model, i)
        assert degrees(plain, **hands) == whole and any(x.by_angle for x in plain.program.mixes)
        assert degrees(attached(plain, plain.program.detached[0].name), **hands) == whole


def test_with_reversal_in_the_signs_the_same_pulses_are_sent() -> None:
    turned = sailplane("camber_follow", direction=-1)
    leads = [x.changed({"direction": 1}) if x.target == "motor" else x for x in turned.leads]
    models = {"Headland": turned.changed({"leads": tuple(leads)})}
    models |= {"Groyne": demo_model("skerry"), "Sill": demo_model("samphire")}
    for name, plain_one in models.items():
        made = keying(plain_one, transmitter(name).changed({"reversal": "signs"}))
        assert any(x.turned for x in keyed_on(plain_one, name).settings.outputs)
        motors = {motor.name for motor in plain_one.airframe.motors}
        assert not [x for x in made.settings.outputs if x.turned and x.sum not in motors]
        found = Prover(made.reduced.model, made.radio(made.exact), made.radio(made.settings)).run(0.2, False)  # fmt: skip
        assert found.fault is None and found.rounding.us < 3.0


def test_the_sheet_says_degrees_and_the_curve_that_makes_percent_of_them() -> None:
    said = sheet_text(sailplane("camber_follow"))
    # 12° up is -100 % and 70° down 100 %; beyond, to 150 % and to the end of what a curve can have
    assert "| C | −18: −150, 0: 0, 100: 142.9 | straight |" in said
    assert "| Left, right flap, degrees | Camber 25<br>" in said
    assert "| Left, right flap | Flap 100<br>own degrees 100, curve C |" in said


def test_only_what_is_hinged_has_an_angle() -> None:
    model = sailplane()
    mixes = (
        *model.program.mixes,
        MixLine(name="x", target="motor", source="full", gain=0.0, by_angle=True),
    )
    assert [p.path for p in problems(with_at(model, "program.mixes", mixes))] == [
        "program.mixes[1].by_angle"
    ]


def test_older_behaviours_go_by_travel_and_are_told_where_their_edge_parts() -> None:
    model = sailplane("camber_follow")
    assert not [f for f in shake(Ask(model), ("S9",)).findings if "as one edge" in f.text]
    travel = with_at(model, "program.recipes[3].edge_deg", None)
    assert [f.part for f in shake(Ask(travel), ("S9",)).findings if "as one edge" in f.text] == [
        "program.recipes[3]"
    ]
    short = with_at(
        model, "program.recipes[3].amount", 100.0
    )  # 25 degrees, up by 10: what flaps and ailerons can do
    assert degrees(short, slider=-100.0) == near(-10.0, -10.0, -10.0, -10.0)


def test_the_edge_in_the_window(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    bench.document.add(sailplane("camber_follow"))
    window.go("flaps")
    page = window.page("flaps")
    page.show_view("behaviours")
    row = page.rows[3]
    row.unfold(True)
    card = row.card
    assert "5.0° for all" in card._angles["amount"].text()
    type_into(qtbot, card.fields["amount"], "4 °")
    assert (
        bench.loaded.program.recipes[3].amount == pytest.approx(16.0)
        and "4.0° for all" in card._angles["amount"].text()
    )
    type_into(qtbot, card.fields["amount"], "3 mm")
    assert degrees(bench.loaded, slider=100.0) == pytest.approx([3.3058] * 4, abs=0.01)
    type_into(qtbot, card.fields["edge_deg"], "20")
    assert bench.loaded.program.recipes[3].edge_deg == 20.0
    card.ticks["edge_deg"][""].click()
    assert (
        bench.loaded.program.recipes[3].edge_deg is None and not card.fields["edge_deg"].isVisible()
    )
    card.ticks["edge_deg"][""].click()
    assert bench.loaded.program.recipes[3].edge_deg == 25.0
    choose(window, "Marram")
    page = window.page("flaps")
    row = next(r for r in page.rows if r.recipe().kind == "camber_follow")
    row.unfold(True)
    card = row.card
    said = "25.0° for all, times camber share: 5.0° with 20 %."
    assert card._angles["amount"].text().startswith(said)
    snap = next(r for r in page.rows if r.recipe().kind == "snap_flap")
    snap.unfold(True)
    snap.card.ticks["edge_deg"][""].click()
    assert (
        snap.card._angles["aileron_share"]
        .text()
        .startswith("5.1° for all, times snap flap share: 1.0° with 20 %")
    )
    press(card, "Its mixes")


def test_an_output_without_travel_to_a_side_asks_for_nothing_at_rest() -> None:
    for lead, hands, moves in (
        ({"travel_neg": 0.0}, 100.0, 5.0),
        ({"travel_pos": 0.0}, -100.0, -2.0),
    ):
        model = sailplane("camber_follow", **lead)
        result = compile_plan(model).run(Situation.of(np.zeros(1), {"slider": 0.0}))
        assert [float(np.ravel(result.sums[n])[-1]) for n in (*LEFT, *RIGHT)] == [0.0] * 4
        assert degrees(model, slider=hands) == near(*[moves] * 4)
        assert degrees(model, slider=-hands) == [0.0] * 4
    none = sailplane("camber_follow", travel_neg=0.0, travel_pos=0.0)
    assert degrees(none, slider=100.0) == [0.0] * 4
