# SPDX-License-Identifier: GPL-3.0-or-later
"""The output curve of a lead: before direction, travel and centre; and the one that makes two
surfaces agree."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import press, type_into
from keyed import sheet_text
from parts import from_parts
from pytestqt.qtbot import QtBot

from hypsos.core.base.backends import ARRAYS, FRAME
from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import problems
from hypsos.core.document.paths import with_at
from hypsos.core.edits.capacity import needs
from hypsos.core.fitting.matching_curve import agreed_words, agreeing
from hypsos.core.fitting.throw_settings import demand_for, motion_of, place_of, reach, wanted
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.pulses import demand_of, servo_percent
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.scenarios.failsafe_capture import captured
from hypsos.core.shape.templates import TEMPLATES

BENT = Response(points=((-100.0, -80.0), (0.0, 10.0), (50.0, 70.0), (100.0, 110.0)))
LINK = Linkage(arm_mm=12.0, horn_mm=14.0, distance_mm=90.0)
FLAPS = ("left_flap", "right_flap")


def flaps(**right: Any) -> Any:
    """A sailplane whose flaps hang on linkages that are alike, but for what is said of the right
    one."""
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    leads = []
    for i, x in enumerate(model.leads):
        fields = {"port": i + 1}
        if x.target in FLAPS:
            fields |= {"linkage": LINK, **(right if x.target == FLAPS[1] else {})}  # type: ignore[dict-item]
        leads.append(x.changed(fields))
    return model.changed({"leads": tuple(leads)})


@pytest.mark.parametrize(
    ("demand", "sent"),
    [
        (0.0, -10.0), (50.0, -70.0), (100.0, -110.0), (-100.0, 40.0), (-50.0, 17.5), (75.0, -90.0),
        (125.0, -135.0), (-150.0, 65.0),
    ],
)  # fmt: skip
def test_it_bends_the_demand_before_direction_and_travel(demand: float, sent: float) -> None:
    """Reversed, half of the travel to the long side: worked by hand; beyond its ends percent for
    percent."""
    lead = Lead(
        name="a",
        label="A",
        target="a",
        direction=-1,
        travel_pos=50.0,
        centre=3.0,
        stop_neg=-150.0,
        stop_pos=150.0,
        curve=BENT,
    )
    for backend, given in ((FRAME, demand), (ARRAYS, np.array([demand]))):
        moved, centred, stopped = servo_percent(given, lead, backend)
        assert float(np.ravel(moved)[0]) == pytest.approx(sent)
        assert (
            float(np.ravel(centred)[0]) == float(np.ravel(stopped)[0]) == pytest.approx(sent + 3.0)
        )
    assert demand_of(sent + 3.0, lead) == pytest.approx(demand)


@pytest.mark.parametrize("shape", ["straight", "smooth"])
def test_its_way_back(shape: str) -> None:
    lead = Lead(name="a", label="A", target="a", centre=-4.0, curve=BENT.changed({"shape": shape}))
    for demand in np.linspace(-140, 140, 57).tolist():
        assert demand_of(float(servo_percent(demand, lead, FRAME)[1]), lead) == pytest.approx(
            demand, abs=1e-6
        )


@pytest.mark.parametrize(
    ("points", "said"),
    [
        (
            ((-100.0, -100.0), (0.0, 5.0), (100.0, 5.0)),
            "point 3 of the output curve does not lie above point 2",
        ),
        (((-100.0, 100.0), (100.0, -100.0)), "it must rise all the way"),
        (tuple((10.0 * i, 10.0 * i) for i in range(10)), "at most 9 points"),
    ],
)
def test_what_it_may_not_be(points: Any, said: str) -> None:
    model = TEMPLATES["trainer"].make("Trial")
    with pytest.raises(HypsosError, match=said):
        with_at(model, "leads[0].curve", Response(points=points))


def test_a_motor_has_none() -> None:
    model = TEMPLATES["trainer"].make("Trial")
    i = next(i for i, x in enumerate(model.leads) if x.target == "motor")
    found = list(problems(with_at(model, f"leads[{i}].curve", BENT)))
    assert [p.path for p in found] == [f"leads[{i}].curve"] and "throttle curve" in found[0].remedy


def test_throws_go_through_it() -> None:
    """What is asked for in millimetres is what the surface then does, curve or not."""
    model = from_parts(leads={"elevator": {"curve": BENT, "direction": -1, "centre": 2.0}})
    demand = demand_for(model, "elevator", 4.0, "mm")
    assert place_of(model, "elevator", demand)[1] == pytest.approx(4.0, abs=1e-6)
    motion = motion_of(model, "elevator")
    made = wanted(motion, 6.0, 5.0, "mm")
    i = next(i for i, x in enumerate(model.leads) if x.target == "elevator")
    travels = {"travel_neg": made.travel_neg, "travel_pos": made.travel_pos}
    model = with_at(model, f"leads[{i}]", model.leads[i].changed(travels))
    assert [abs(x) for x in reach(motion_of(model, "elevator")).mm] == pytest.approx(
        [6.0, 5.0], abs=0.15
    )


def test_two_flaps_on_unlike_linkages_are_made_to_agree() -> None:
    model = flaps(linkage=LINK.changed({"arm_mm": 13.0, "arm_deg": 18.0, "horn_deg": 6.0}))
    before = shake(Ask(model), ("S3",)).findings
    assert any("flap" in f.text.lower() for f in before)
    found = agreeing(model, "right_flap", "left_flap")
    assert found.before_deg > 5 and found.after_deg < 0.4 and len(found.lead.curve.points) >= 8
    i = [x.name for x in model.leads].index(found.lead.name)
    made = with_at(model, f"leads[{i}]", found.lead)
    for demand in (
        -75.0,
        25.0,
        50.0,
        100.0,
    ):  # at its points it is exact, but for the tenth of a percent kept
        one, other = (place_of(made, n, demand)[0] for n in FLAPS)
        assert one == pytest.approx(other, abs=0.06)
    assert not any("flap" in f.text.lower() for f in shake(Ask(made), ("S3",)).findings)
    assert "| reversed, curve A |" in sheet_text(made) or "| normal, curve A |" in sheet_text(made)


def test_a_curve_by_eye_is_no_difference_between_halves() -> None:
    """Where nothing is known of the servo and its linkage, the curve straightens them out: no
    statement accuses it."""
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    leads = [x.changed({"port": i + 1}) for i, x in enumerate(model.leads)]
    i = next(i for i, x in enumerate(leads) if x.target == "right_flap")
    leads[i] = leads[i].changed({"curve": BENT})
    assert shake(Ask(model.changed({"leads": tuple(leads)})), ("S3",)).findings == ()


def test_where_a_linkage_ends_it_is_said() -> None:
    """The left flap goes 70 degrees down, the right one's short arm can't."""
    model = flaps(linkage=LINK.changed({"arm_mm": 5.0}))
    found = agreeing(model, "right_flap", "left_flap")
    assert found.lost and max(x for x, _ in found.lead.curve.points) < 100
    said = agreed_words(found, "Right flap")
    assert (
        "Right flap can't follow at " in said
        and f"{found.lost[-1]:.0f} %" in said
        and "its linkage ends there." in said
    )
    alone = model.changed({"leads": tuple(x for x in model.leads if x.target != "left_flap")})
    with pytest.raises(HypsosError, match="both surfaces need a lead"):
        agreeing(alone, "right_flap", "left_flap")


def test_what_can_not_be_made_to_agree() -> None:
    with pytest.raises(HypsosError, match="moves between its ends is not known"):
        agreeing(TEMPLATES["v_tail_sailplane"].make("Trial"), "right_flap", "left_flap")


def test_a_pose_taken_for_the_failsafe_goes_back_through_it() -> None:
    from motors import play

    model = from_parts(leads={"elevator": {"curve": BENT, "direction": -1, "centre": 2.0}})
    result = play(model, (0.1, {"elevator_stick": -60.0}))
    lead = next(x for x in captured(model, result).leads if x.target == "elevator")
    assert lead.failsafe.value == pytest.approx(float(result.sums["elevator"][-1]), abs=0.01)


def test_its_card_stores_what_is_typed(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    bench.document.apply(flaps(linkage=LINK.changed({"arm_deg": 18.0})), "trial")
    window.go("throws")
    page = window.page("throws")
    page.choose("right_flap")
    lead = lambda: next(x for x in bench.loaded.leads if x.target == "right_flap")  # noqa: E731
    press(page.curve, "New point")
    assert len(lead().curve.points) == 3  # type: ignore[no-untyped-call]
    page.curve.response.canvas.chosen = 1
    page.curve.response.refresh()
    type_into(qtbot, page.curve.response.gives, "12")
    assert lead().curve.points[1] == (0.0, 12.0)  # type: ignore[no-untyped-call]
    press(page.curve, "Straight again")
    assert (
        lead().curve is None and not page.curve.straight.isEnabled() and page.curve.said.isHidden()  # type: ignore[no-untyped-call]
    )  # type: ignore[no-untyped-call]
    press(page.curve, "Make it agree with Left flap")
    assert lead().curve is not None and "apart for the same command; now" in page.curve.said.text()  # type: ignore[no-untyped-call]
    assert page.curve.straight.isEnabled() and not page.curve.said.isHidden()
    bench.document.undo()
    assert lead().curve is None and page.curve.said.isHidden()  # type: ignore[no-untyped-call]
    press(page.curve, "Make it agree with Left flap")
    page.choose("left_flap")
    assert page.curve.said.isHidden() and page.curve.agree.text() == "Make it agree with Right flap"


def test_surfaces_that_agree_already_get_no_curve(window: Any) -> None:
    bench = window.workbench
    bench.document.apply(flaps(), "trial")
    window.go("throws")
    page = window.page("throws")
    page.choose("right_flap")
    undo = bench.document.undo_label
    press(page.curve, "Make it agree with Left flap")
    assert (
        page.curve.said.text()
        == "They stand no further than 0.0° apart as it is: a curve would bring nothing."
    )
    assert (
        all(x.curve is None for x in bench.loaded.leads)
        and bench.document.undo_label == undo
        and not page.curve.said.isHidden()
    )


def test_without_a_surface_there_is_no_curve_to_set(window: Any) -> None:
    bench = window.workbench
    window.go("throws")
    page = window.page("throws")
    assert page.curve.isEnabled() and page.curve.response.smooth.isEnabled()
    bench.document.apply(TEMPLATES["bare"].make("Bare"), "nothing on it")
    page.curve.response.smooth.click()
    press(page.curve, "Straight again")
    assert (
        not page.curve.isEnabled()
        and not page.curve.response.smooth.isEnabled()
        and bench.document.undo_label == "nothing on it"
    )


def test_a_surface_in_the_middle_has_none_to_agree_with(window: Any) -> None:
    window.go("throws")
    page = window.page("throws")
    page.choose("elevator")
    assert page.curve.agree.isHidden()
    page.choose("left_flaperon")
    assert not page.curve.agree.isHidden()


def test_its_points_count_among_what_a_transmitter_must_have() -> None:
    model = TEMPLATES["trainer"].make("Trial")
    curve = Response(points=tuple((25.0 * i, 25.0 * i) for i in range(-4, 5)))
    before, after = (
        {n.what: n.needed for n in needs(m, None)}
        for m in (model, with_at(model, "leads[0].curve", curve))
    )
    assert after == before | {"points": 9} and before["points"] < 9
