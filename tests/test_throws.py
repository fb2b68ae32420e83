# SPDX-License-Identifier: GPL-3.0-or-later
"""Throws: millimetres, degrees and percent as one thing, linkages, measured tables, and the card to
print."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.fitting.throw_settings import (
    angle_of,
    arm_for,
    arm_set_off,
    copied,
    demand_for,
    motion_of,
    reach,
    stops_within,
    wanted,
    with_arm_set_off,
)
from hypsos.core.parts.four_bar import Linkage, deflection
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.shape.measures import measured

LINK = Linkage(
    arm_mm=9, horn_mm=13, distance_mm=60, offset_mm=2, arm_deg=-5, horn_deg=8, servo_deg=42
)


@pytest.fixture
def part(samphire: Model) -> Any:
    """The right flaperon with a linkage, its output reversed."""
    lead = next(x for x in samphire.leads if x.target == "right_flaperon")
    lead = lead.model_copy(update={"linkage": LINK, "direction": -1})
    surface = next(s for s in samphire.airframe.surfaces if s.name == "right_flaperon")
    return lead, surface


def placed(model: Model, lead: Any) -> Any:
    index = [x.name for x in model.leads].index(lead.name)
    return with_at(model, f"leads[{index}]", lead)


@pytest.mark.parametrize(
    ("direction", "stops", "good"),
    [
        (1, (-88.0, 117.0), True),
        (1, (-117.0, 88.0), False),
        (-1, (-117.0, 88.0), True),
        (-1, (-88.0, 117.0), False),
    ],
)
def test_a_reversed_output_turns_its_linkage_the_other_way(
    samphire: Model, part: Any, direction: Any, stops: Any, good: Any
) -> None:
    """This one binds at 39° to one side, 93 % of the way, and further to the other: what may be
    typed is what the engine moves."""
    link = Linkage(arm_mm=20, horn_mm=14, distance_mm=62, offset_mm=1, servo_deg=42)
    update = {"linkage": link, "direction": direction, "stop_neg": stops[0], "stop_pos": stops[1]}
    lead = part[0].model_copy(update=update)
    model = placed(samphire, lead)
    assert [x.text for x in problems(model)] == (
        [] if good else ["the linkage of Right flaperon binds when the servo has turned 39°"]
    )
    ends = Motion(lead, part[1]).degrees(direction * np.array(stops), ARRAYS)
    assert np.isfinite(ends).all() == good


@pytest.mark.parametrize(("value", "unit"), [(12.0, "mm"), (-17.5, "mm"), (9.0, "°"), (-21.0, "°")])
def test_millimetres_degrees_and_percent_lead_there_and_back(
    samphire: Model, part: Any, value: Any, unit: Any
) -> None:
    lead = part[0].model_copy(update={"travel_neg": 80.0, "travel_pos": 120.0, "centre": 6.0})
    model = placed(samphire, lead)
    demand = demand_for(model, "right_flaperon", value, unit)
    motion = motion_of(model, "right_flaperon")
    sent = lead.direction * demand
    stand = lead.direction * (
        lead.centre + sent * (lead.travel_neg if sent < 0 else lead.travel_pos) / 100
    )
    deg, mm = motion.angles(stand)
    assert (mm if unit == "mm" else deg) == pytest.approx(value, abs=1e-6)


def test_wanted_throws_are_what_the_engine_then_gives(samphire: Model, part: Any) -> None:
    lead, surface = part
    made = wanted(Motion(lead, surface), 18.0, 11.0, "mm")
    assert made.lost == ()
    model = placed(
        samphire,
        lead.model_copy(update={"travel_neg": made.travel_neg, "travel_pos": made.travel_pos}),
    )
    model = with_at(model, "program.recipes", ())
    full = [x for x in model.program.mixes if x.target != "right_flaperon"]
    from hypsos.core.parts.mix_lines import MixLine

    for gain, mm in ((-100, -18.0), (100, 11.0)):
        line = MixLine(name="trial", target="right_flaperon", source="full", gain=gain)
        result = settled(compile_plan(with_at(model, "program.mixes", (*full, line))), {})
        assert result.outputs[lead.name].mm[-1] == pytest.approx(
            mm, abs=0.15
        )  # travel is keyed in whole percent
    at_half = wanted(Motion(lead, surface), 9.0, 5.5, "mm", ruler_at_mm=surface.chord_mm / 2)
    assert at_half.travel_neg == pytest.approx(made.travel_neg, abs=1) and made.travel_neg % 1 == 0


def test_what_cannot_be_had_is_said(part: Any) -> None:
    lead, surface = part
    short = lead.model_copy(update={"stop_neg": -40.0, "stop_pos": 40.0})
    made = wanted(Motion(short, surface), 25.0, 3.0, "°")
    assert len(made.lost) == 1 and "of the 25.0° up cannot be had" in made.lost[0]
    assert reach(Motion(short, surface)).lost == pytest.approx((60, 60))
    far = Motion(
        lead.model_copy(
            update={"linkage": LINK.model_copy(update={"arm_mm": 13.5, "servo_deg": 60.0})}
        ),
        surface,
    )
    made = wanted(far, 85.0, 9.0, "°")
    up = made.travel_neg if lead.direction > 0 else made.travel_pos
    assert len(made.lost) == 1 and up == 150  # as far as the stop lets it
    near = lead.model_copy(update={"stop_neg": -100.0, "stop_pos": 100.0})
    most = float(Motion(near, surface).degrees(-100.0 * 1.0))
    assert len(wanted(Motion(near, surface), abs(most) + 0.6, 3.0, "°").lost) == 1
    assert angle_of(80.0, 40.0) == pytest.approx(
        180
    )  # straight back over the wing: as far as a ruler reads
    with pytest.raises(HypsosError, match="more than a ruler"):
        wanted(Motion(lead, surface), 400.0, 10.0, "mm")


def test_the_shortest_arm_that_reaches_is_chosen(part: Any) -> None:
    found = arm_for(LINK, 20.0, 24.0)
    ends = deflection(found, np.array([-42.0, 42.0]))
    shorter = deflection(
        found.model_copy(update={"arm_mm": found.arm_mm - 1}), np.array([-42.0, 42.0])
    )
    assert -ends[0] >= 20 and ends[1] >= 24 and (-shorter[0] < 20 or shorter[1] < 24)
    assert arm_for(LINK, 80.0, 80.0) is None and arm_for(LINK, 1.0, 1.0).arm_mm == 4


def test_an_arm_set_off_uses_the_whole_servo_for_a_flap(samphire: Model, part: Any) -> None:
    lead, surface = part
    set_off = with_arm_set_off(
        Motion(lead.model_copy(update={"direction": 1, "linkage": LINK}), surface), 5.0, 70.0
    )
    made = set_off.linkage
    assert made == arm_set_off(LINK, 5.0, 70.0) and (set_off.travel_pos, set_off.travel_neg) == (
        150.0,
        50.0,
    )
    assert (
        made.horn_deg == pytest.approx(-70 / 6)
        and -100 <= set_off.stop_neg < set_off.stop_pos <= 100
    )
    motion = Motion(set_off, surface)
    assert motion.degrees(made.flush) == pytest.approx(0, abs=1e-9)
    low, high = stops_within(motion)
    assert (
        motion.degrees(100.0) == pytest.approx(70, abs=1e-6)
        and high >= 100
        and motion.degrees(max(low, -100.0)) <= -5
    )
    assert motion.percent(0.0) == pytest.approx(made.flush, abs=1e-6)
    flat = settled(
        compile_plan(with_at(placed(samphire, set_off), "program.axes[0].trim.clicks", 0)), {}
    )
    assert flat.outputs[lead.name].deg[-1] == pytest.approx(0, abs=1e-6)
    other_way = with_arm_set_off(
        Motion(lead.model_copy(update={"linkage": LINK}), surface), 5.0, 70.0
    )
    assert other_way.direction == -1 and other_way.centre == 50.0
    assert (other_way.travel_neg, other_way.travel_pos) == (150.0, 50.0)
    with pytest.raises(HypsosError, match="has no linkage yet"):
        with_arm_set_off(Motion(lead.model_copy(update={"linkage": None}), surface), 5.0, 70.0)
    with pytest.raises(HypsosError, match="no servo arm"):
        arm_set_off(LINK.model_copy(update={"horn_mm": 90.0}), 5.0, 70.0)


def test_stops_are_set_inside_of_where_it_binds(samphire: Model, part: Any) -> None:
    lead, surface = part
    long_arm = lead.model_copy(
        update={"linkage": LINK.model_copy(update={"arm_mm": 13.5, "servo_deg": 60.0})}
    )
    motion = Motion(long_arm, surface)
    low, high = stops_within(motion)
    assert all(x == round(x, 1) for x in (low, high))
    wheel = next(d for d in samphire.airframe.devices if d.kind == "tail wheel")
    assert reach(motion_of(samphire, wheel.name)).mm == (0, 0)
    edges = motion.limits()
    assert edges[0] > -150 or edges[1] < 150
    mended = long_arm.model_copy(update={"stop_neg": low, "stop_pos": high})
    assert (
        placed(samphire, mended).leads
        and np.isfinite([motion.degrees(-low), motion.degrees(-high)]).all()
    )


def test_the_other_side_gets_the_same_throws_whichever_way_its_servo_sits(part: Any) -> None:
    lead, surface = part
    lead = lead.model_copy(
        update={"travel_neg": 70.0, "travel_pos": 110.0, "centre": 4.0, "stop_neg": -90.0}
    )
    for direction in (1, -1):
        other = lead.model_copy(update={"name": "other", "direction": direction})
        assert reach(Motion(copied(lead, other), surface)) == reach(Motion(lead, surface))


def test_what_was_measured_stands_in_for_what_is_computed(samphire: Model, part: Any) -> None:
    lead, surface = part
    rows = ((-100.0, -20.0), (0.0, 0.5), (100.0, 14.0))
    motion = Motion(lead.model_copy(update={"measured": rows}), surface)
    assert motion.source == "measured" and motion.angles(50.0)[1] == pytest.approx(7.25)
    assert motion.percent_at(7.25, "mm") == pytest.approx(50.0)
    with pytest.raises(HypsosError, match="never measured at"):
        motion.percent_at(19.0, "mm")
    whole = settled(compile_plan(placed(samphire, motion.lead)), {"aileron_stick": 40})
    by_hand = np.interp(whole.outputs[lead.name].stand[-1], *np.array(rows).T)
    assert whole.outputs[lead.name].mm[-1] == pytest.approx(by_hand)
    index = [x.name for x in samphire.leads].index(lead.name)
    for bad in (((-100.0, -20.0), (0.0, -21.0), (100.0, 14.0)), ((0.0, 0.0),)):
        with pytest.raises(DocumentError) as caught:
            with_at(samphire, f"leads[{index}].measured", bad)
        assert caught.value.where == f"leads[{index}].measured"


def test_no_table_and_no_wrong_plug_makes_an_angle_that_is_none(samphire: Model, part: Any) -> None:
    """More millimetres than a ruler can read are refused, also when the chord shrinks; a swapped
    plug stops where it binds."""
    lead, surface = part
    model = placed(
        samphire, lead.model_copy(update={"measured": ((-100.0, -100.0), (100.0, 130.0))})
    )
    assert list(problems(model)) == []
    smaller = measured(model.airframe, "surfaces[0]", "chord_mm", 60.0)
    index = [x.name for x in model.leads].index(lead.name)
    found = list(problems(model.model_copy(update={"airframe": smaller})))
    assert [p.path for p in found] == [f"leads[{index}].measured"] and "can read" in found[0].text
    tight = lead.model_copy(
        update={
            "linkage": LINK.model_copy(update={"arm_mm": 12.8, "servo_deg": 60.0}),
            "stop_neg": -50.0,
            "stop_pos": 50.0,
        }
    )
    low, high = Motion(tight, surface).limits()
    assert high < 150 or low > -150
    plan = compile_plan(placed(samphire, tight))
    assert all(np.isfinite(plan.angles(index, stand)).all() for stand in (-150.0, 0.0, 150.0))


def test_the_ruler_card_is_true_to_scale(qtbot: QtBot, samphire: Model) -> None:
    from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize
    from PyQt6.QtPdf import QPdfDocument

    from hypsos.desk.services.sheet_pdf import ruler_cards_pdf

    data = QByteArray(ruler_cards_pdf("Trial", samphire.airframe.surfaces[:2]))
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    paper = QPdfDocument(None)
    paper.load(buffer)
    assert paper.pageCount() == 2
    points = paper.pagePointSize(0)
    per_mm = 8
    image = paper.render(
        0,
        QSize(
            round(points.width() / 72 * 25.4 * per_mm), round(points.height() / 72 * 25.4 * per_mm)
        ),
    )
    y = 284 * per_mm
    dark = [
        x
        for x in range(image.width())
        if image.pixelColor(x, y).alpha() > 128 and image.pixelColor(x, y).lightness() < 128
    ]
    assert (dark[-1] - dark[0] + 1) / per_mm == pytest.approx(100.0, abs=0.3)
    paper.close()


def test_reach_says_each_side_its_step_and_the_mechanical_differential(part: Any) -> None:
    """Against the linkage itself: what full command does, how fine a step is, how much less goes
    down."""
    lead, surface = part
    link = Linkage(
        arm_mm=11, horn_mm=14, distance_mm=60, offset_mm=2, arm_deg=-18, horn_deg=6, servo_deg=45
    )
    for direction, centre in ((1, 0.0), (-1, 0.0), (1, 10.0)):
        made = lead.model_copy(
            update={
                "linkage": link,
                "direction": direction,
                "centre": centre,
                "travel_neg": 90.0,
                "travel_pos": 80.0,
                "stop_neg": -120.0,
                "stop_pos": 120.0,
            }
        )
        found = reach(Motion(made, surface))
        stands = sorted(direction * (centre + x) for x in (-90.0, 80.0))
        angles = [float(deflection(link, 0.45 * s)) for s in stands]
        assert found.deg == pytest.approx(angles)
        assert found.mm == pytest.approx(
            [2 * surface.chord_mm * np.sin(np.radians(a) / 2) for a in angles]
        )
        rest = float(deflection(link, 0.45 * direction * centre))
        half = [
            abs(float(deflection(link, 0.45 * (direction * centre + d))) - rest)
            for d in (-50.0, 50.0)
        ]
        assert (
            found.differential == pytest.approx(100 * (1 - half[1] / half[0]))
            and abs(found.differential) > 5
        )
        rest_mm = 2 * surface.chord_mm * np.sin(np.radians(rest) / 2)
        assert found.step_mm == pytest.approx(max(abs(m - rest_mm) for m in found.mm) * 2 / 1024)
        assert found.lost == (0, 0)


def test_stops_lie_inside_of_where_the_linkage_binds_on_both_sides(part: Any) -> None:
    lead, surface = part
    link = Linkage(arm_mm=19, horn_mm=12, distance_mm=60, arm_deg=-12, servo_deg=60)
    for direction in (1, -1):
        motion = Motion(lead.model_copy(update={"linkage": link, "direction": direction}), surface)
        low, high = motion.limits()
        assert -150 < low < 0 < high < 150
        assert (
            np.isnan(motion.degrees(low - 1.0))
            and np.isnan(motion.degrees(high + 1.0))
            and np.isfinite(motion.degrees(low))
        )
        stops = sorted(direction * s for s in stops_within(motion))
        assert stops == pytest.approx([low + 2, high - 2], abs=0.06)
    free = Motion(
        lead.model_copy(
            update={"linkage": Linkage(arm_mm=8, horn_mm=14, distance_mm=60, servo_deg=30)}
        ),
        surface,
    )
    assert free.limits() == (-150, 150) and stops_within(free) == (-150, 150)


def test_wanted_throws_through_centre_direction_shares_and_ends(part: Any) -> None:
    lead, surface = part
    straight = lead.model_copy(
        update={"linkage": None, "direction": 1, "stop_neg": -100.0, "stop_pos": 90.0}
    )
    up, down = surface.throw_up_deg, surface.throw_down_deg
    for direction, expected in ((1, (50, 25)), (-1, (25, 50))):
        made = wanted(
            Motion(straight.model_copy(update={"direction": direction}), surface),
            up / 2,
            down / 4,
            "°",
        )
        assert (made.travel_neg, made.travel_pos, made.lost) == (*expected, ())
    centred = wanted(
        Motion(straight.model_copy(update={"centre": 20.0}), surface), up / 2, down / 2, "°"
    )
    assert (centred.travel_neg, centred.travel_pos) == (70, 30)
    shared = wanted(Motion(straight, surface), up / 2, down / 4, "°", shares=(0.5, 0.25))
    assert (shared.travel_neg, shared.travel_pos, shared.lost) == (100, 100, ())
    lost = wanted(Motion(straight, surface), up, down, "°")
    assert (
        lost.travel_pos == 90
        and len(lost.lost) == 1
        and f"of the {down:.1f}° down cannot be had" in lost.lost[0]
    )
    too_much = wanted(Motion(straight, surface), up, down / 4, "°", shares=(0.5, 1.0))
    assert too_much.travel_neg == 150 and "up cannot be had" in too_much.lost[0]
