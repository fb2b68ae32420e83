# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said to people: figures, sides, steps, sheets, failsafe proposals, throws in any unit."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from importlib.resources import files
from typing import Any

import pytest
from keyed import sheet_of, sheet_text

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.conditions import Gate
from hypsos.core.document.document import Model, digest
from hypsos.core.document.paths import get_at, join_path, split_path, with_at
from hypsos.core.document.program import Setting
from hypsos.core.edits.proposals import kept, settled_by
from hypsos.core.fitting.throw_settings import demand_for
from hypsos.core.parts.leads import Failsafe
from hypsos.core.rundown import STEPS, attentions, step_of_path, step_states
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import with_plates
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import sheet_html, sheet_markdown
from hypsos.core.wording.describe_condition import signal_label
from hypsos.core.wording.words import side_percent, standing

TUG = TEMPLATES["tug"].make("Trial & <Error>")
DEMO = files("hypsos.demo")
PARTS = {p.name: p for p in TUG.airframe.moved()}


@pytest.mark.parametrize(
    ("name", "stand", "deg", "mm", "said"),
    [
        ("elevator", -40.0, -10.4, -12.04, "12.0 mm up"),
        ("elevator", 0.1, 0.01, 0.02, "neutral"),
        ("rudder", 25.0, 8.0, 13.3, "13.3 mm right"),
        ("tail_wheel", -30.0, -9.0, None, "9.0° left"),
        ("tow_release", 100.0, 30.0, None, "open"),
        ("tow_release", -100.0, -30.0, None, "closed"),
        ("motor", -100.0, None, None, "stopped"),
        ("motor", -14.0, None, None, "43 % power"),
    ],
)
def test_where_a_part_stands_is_said_without_a_bare_sign(
    name: Any, stand: Any, deg: Any, mm: Any, said: Any
) -> None:
    assert standing(PARTS[name], stand, deg, mm) == said


def test_shares_have_a_side() -> None:
    assert (
        side_percent(PARTS["elevator"], -4.0) == "4 % up"
        and side_percent(PARTS["rudder"], -4.04, 1) == "4.0 % left"
    )
    assert side_percent(PARTS["rudder"], 0.001, 1) == "neutral"


def test_millimetres_and_degrees_become_percent_and_back() -> None:
    flap = PARTS["left_flaperon"]
    for percent in (-90.0, -12.5, 3.0, 71.0):
        deg = flap.throw_down_deg * percent / 100
        assert demand_for(TUG, flap.name, deg, "°") == pytest.approx(percent, abs=1e-6)
    assert demand_for(TUG, flap.name, 12.0, "mm") > 0 > demand_for(TUG, flap.name, -12.0, "mm")
    with pytest.raises(HypsosError, match="more than left flaperon can move"):
        demand_for(TUG, flap.name, 900.0, "mm")


def test_paths_lead_there_and_back() -> None:
    path = "program.axes[1].settings[0].expo"
    assert join_path(split_path(path)) == path and get_at(TUG, path) == 20
    changed = with_at(TUG, path, 40.0)
    assert get_at(changed, path) == 40 and get_at(TUG, path) == 20 and isinstance(changed, Model)
    assert join_path(("program", "recipes", 0, "ailerons", "share")) == "program.recipes[0].share"
    with pytest.raises(DocumentError, match="nothing at this place"):
        get_at(TUG, "program.axes[9].expo")


def test_the_steps_know_how_far_the_work_has_come(samphire: Model) -> None:
    states = step_states(TUG, 0)
    assert {k: s.name for k, s in states.items()}["wiring"] == "not begun" and states[
        "log"
    ].name == "not begun"
    part_wired = with_at(TUG, "leads[0].port", 3)
    assert step_states(part_wired, 0)["wiring"].name == "in hand"
    written = samphire
    assert written.sheet_of == digest(written)
    assert {k for k, s in step_states(written, 2).items() if s.name != "settled"} == {
        "modes"
    }  # it has none, and needs none
    silent = with_at(
        with_at(with_at(written, "program.announcements", ()), "program.timers", ()),
        "program.logic",
        (),
    )
    assert step_states(silent, 2)["say"].name == "not begun"
    assert step_states(with_at(written, "leads[0].travel_pos", 70.0), 2)["sheet"].name == "in hand"
    assert step_states(with_at(TUG, "leads[0].travel_pos", 70.0), 0)["throws"].name == "in hand"
    fresh = TEMPLATES["tug"].begin("Fresh")
    proposed = {k for k, s in step_states(fresh, 0).items() if s.name == "proposed"}
    assert proposed == {"airframe", "hands", "guard", "feel", "flaps"}
    assert (
        step_states(fresh, 0)["failsafe"].count == 1
    )  # nobody has said yet what its tow release does
    proposed |= {"failsafe"}
    for edit, settles in (
        (with_at(fresh, "program.guard.level", 3), "guard"), (with_at(fresh, "leads[1].failsafe", None), "failsafe"),
        (kept(fresh, "feel"), "feel"), (with_at(fresh, "airframe.panels[0].span_mm", 1555.0), "airframe"),
    ):  # fmt: skip
        assert proposed - set(settled_by(fresh, edit).proposed) == {settles}
    more = adapted(
        kept(kept(fresh, "failsafe"), "flaps"), with_plates(fresh.airframe, "airbrake", True)
    ).model
    assert {"failsafe", "flaps"} <= set(more.proposed)
    assert [s.key for s in STEPS] == list(states)


def test_what_asks_for_a_second_look(samphire: Model) -> None:
    motor = next(i for i, x in enumerate(samphire.leads) if x.target == "motor")
    cases = {
        "would keep running": with_at(
            samphire, f"leads[{motor}].failsafe", Failsafe(action="hold")
        ),
        "at 25 % power": with_at(samphire, f"leads[{motor}].failsafe", Failsafe(value=-50)),
        "would stay where it was": with_at(samphire, "leads[0].failsafe", Failsafe(action="hold")),
        "starts the motor at once": with_at(samphire, "program.guard.level", 1),
        "full rate, no expo by default": with_at(
            samphire, "program.axes[0].settings", (Setting(), Setting())
        ),
        "rate of zero": with_at(samphire, "program.axes[2].settings[1].rate_pos", 0.0),
        "is not plugged in": with_at(samphire, "leads[3].port", None),
    }
    assert not list(attentions(samphire))
    for words, model in cases.items():
        found = list(attentions(model))
        assert len(found) == 1 and words in found[0].text, words
        assert step_of_path(found[0].path) == found[0].step


def test_the_sheet_has_a_box_for_every_step_and_escapes_what_people_type() -> None:
    leads = [x.changed({"port": i + 1}) for i, x in enumerate(TUG.leads)]
    sheet = sheet_of(TUG.changed({"leads": tuple(leads)}))
    steps = [(block.key, row.key) for block in sheet.blocks if block.ticked for row in block.rows]
    assert len(set(steps)) == len(steps) > 40
    page = sheet_html(sheet)
    assert "Trial &amp; &lt;Error&gt;" in page and "<Error>" not in page
    keys = [block.key for block in sheet.blocks]
    wanted = ["motors", "guard", "parts", "guard test", "failsafe"]
    assert [key for key in keys if key in wanted] == wanted
    assert all("ropeller" in x.caution for x in sheet.blocks if x.key in ("motors", "guard", "guard test", "failsafe"))  # fmt: skip
    assert sheet_markdown(sheet).count("[ ]") == len(steps) == page.count("<input")


def test_the_sheet_of_a_model_with_modes_says_its_conditions_in_words(marram: Model) -> None:
    text = sheet_text(marram)
    for words in (
        "times Fixed 80, while C13",
        "| Flown while | Task switch at landing | Task switch at launch |",
        "V4 Roll by mode, rate",
        "Snap share sets it from bound to bound, while Snap flap at on",
        "one for all, and on top: Thermal 1.5 %, Speed −2 %",
    ):
        assert words in text, words


def test_without_a_display_it_says_so_in_one_sentence() -> None:
    clean = {
        k: v
        for k, v in os.environ.items()
        if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    command = [
        sys.executable,
        "-m",
        "hypsos.desk.display",
        "--",
        sys.executable,
        "-c",
        "import os; print(os.environ['DISPLAY'])",
    ]
    nothing = subprocess.run(
        command, env=clean | {"PATH": "/nowhere"}, capture_output=True, text=True
    )
    assert (
        nothing.returncode == 2
        and "no display" in nothing.stderr
        and nothing.stderr.count("\n") == 1
    )
    virtual = subprocess.run(command, env=clean, capture_output=True, text=True)
    assert "no display" in virtual.stderr and virtual.stderr.count("\n") == 1
    assert virtual.returncode == 2 or virtual.stdout.startswith(":")


def test_everything_that_can_be_compared_has_its_name_in_a_condition(
    marram: Model, edited: Callable[..., Model]
) -> None:
    gate = {
        "kind": "gate",
        "name": "held",
        "label": "Held brake",
        "source": "throttle_stick",
        "when": "link",
        "parked": 0,
    }
    model = edited(marram, program__logic=(*marram.program.logic, Gate(**gate)))
    control, surface = model.transmitter.controls[0], model.airframe.surfaces[0]
    own = next(iter(x for r in model.program.recipes for x in r.signals()))
    named = {
        control.name: control.label,
        surface.name: surface.label,
        "held": "Held brake",
        own[0]: own[1],
    }
    named |= {
        "elevator_stick": "elevator stick",
        "link_quality": "link quality",
        "no_such": "no such",
    }
    assert {n: signal_label(model, n) for n in named} == named
