# SPDX-License-Identifier: GPL-3.0-or-later
"""Proposals for a lost link: what each gives to whom."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from keyed import sheet_text
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hypsos.core.dependencies.failsafe_defaults import two_ended, usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.parts.airframe import Device
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes.flap_positions import FlapPosition
from hypsos.core.review.findings import Ask
from hypsos.core.review.repairs import repairs, tried
from hypsos.core.review.shakedown import shake
from hypsos.core.rundown import attentions
from hypsos.core.scenarios.failsafe_proposals import PROPOSALS, proposed
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.wording.words import part_named, sense_words
from hypsos.desk.cards.failsafe_picture import without_link
from hypsos.hangar import Hangar

DEMO = ("Marram", "Samphire", "Sandpiper", "Skerry", "Sorrel", "Tidewrack", "Whinlark")
RUDDERS, FLAPS, PLATES = ("rudder", "ruddervator"), ("flap", "flaperon"), ("airbrake", "spoiler")


def played(model: Model) -> tuple[dict[str, float], dict[str, float]]:
    """Where every surface stands in degrees, + is down or right: on the bench at rest, and long
    after the link was lost."""
    names = {x.target: x.name for x in model.leads}
    surfaces = [s.name for s in model.airframe.surfaces if s.follows is None]
    at_rest = settled(compile_plan(model), quiet_hands(model))
    lost = without_link(model)
    return tuple(
        {n: float(np.ravel(r.outputs[names[n]].deg)[-1]) for n in surfaces} for r in (at_rest, lost)
    )  # type: ignore[return-value]


def read(model: Model, title: str) -> None:
    """What a proposal says of the aeroplane, read off its surfaces in degrees."""
    made, because = proposed(model, next(p for p in PROPOSALS if p.title == title))
    rest, lost = played(made)
    moved = {n: lost[n] - x for n, x in rest.items()}
    surfaces = {s.name: s for s in model.airframe.surfaces if s.follows is None}
    of = {
        role: [n for n, s in surfaces.items() if s.role == role]
        for role in {s.role for s in surfaces.values()}
    }
    meant: set[str] = set()
    if "turn" in title:
        turning = dict(moved)
        if tail := of.get("ruddervator", ()):  # what both do alike is the elevator's
            half = (
                (moved[tail[1]] - moved[tail[0]])
                / 2
                * (1 if surfaces[tail[0]].side == "left" else -1)
            )
            turning |= dict.fromkeys(tail, half)
        rudders = [n for r in RUDDERS for n in of.get(r, ())]
        assert rudders and all(1.5 < turning[n] < 7 for n in rudders), (title, moved)
        meant |= set(rudders)
    if "flaps" in title:
        flaps = [n for r in FLAPS for n in of.get(r, ())]
        assert flaps and all(0.14 < moved[n] / surfaces[n].throw_down_deg < 0.5 for n in flaps), (
            title,
            moved,
        )
        meant |= set(flaps)
    if "brakes" in title:
        plates = [n for r in PLATES for n in of.get(r, ())]
        assert all(moved[n] < -0.6 * surfaces[n].throw_up_deg for n in plates), (title, moved)
        assert plates or all(moved[n] > 0.5 * surfaces[n].throw_down_deg for n in of["flap"]), (
            title,
            moved,
        )
        assert all(moved[n] < 1 for n in of.get("aileron", ())), (title, moved)  # never down
        meant |= {*plates, *of.get("flap", ()), *of.get("aileron", ())}
    if "a little up" in title:
        assert {round(moved[n], 1) for n in of["elevon"]} <= {-x / 10 for x in range(15, 40)}, (
            title,
            moved,
        )
        meant |= set(of["elevon"])
    follows = (
        {n for n, s in surfaces.items() if s.role in ("elevator", "ruddervator", "aileron")}
        if meant
        else set()
    )
    assert all(abs(x) < 0.1 for n, x in moved.items() if n not in meant | follows), (title, moved)
    assert all(abs(x) < 8 for n, x in moved.items() if n in follows - meant), (title, moved)
    assert ("No control" in because) <= ("brakes" in title or "flaps" in title)
    motors = {m.name for m in model.airframe.motors}
    for before, after in zip(model.leads, made.leads, strict=True):
        assert after.failsafe == Failsafe(value=-100) or after.target not in motors
        assert after.failsafe == before.failsafe or not two_ended(part_named(model, after.target))


@pytest.mark.parametrize("name", [*TEMPLATES, *DEMO])
def test_every_proposal_does_on_the_aeroplane_what_its_words_say(hangar: Hangar, name: Any) -> None:
    model = hangar.load(name) if name in DEMO else TEMPLATES[name].begin("Trial")
    plugged = tuple(x.changed({"port": i + 1}) for i, x in enumerate(model.leads))
    model = model.changed({"leads": plugged if name in TEMPLATES else model.leads})
    titles = {p.title for p in PROPOSALS if p.suits(model.airframe)}
    assert "Stopped and neutral" in titles
    for title in titles:
        read(model, title)


def test_proposals_suit_the_aeroplane() -> None:
    suiting = {
        k: {p.title for p in PROPOSALS if p.suits(t.make("T").airframe)}
        for k, t in TEMPLATES.items()
    }
    assert suiting["trainer"] == {"Stopped and neutral", "Stopped, a gentle turn"}
    assert suiting["elevon_wing"] == {"Stopped and neutral", "Stopped, a little up"}
    assert "Stopped, brakes out" in suiting["t_tail_sailplane"] & suiting["v_tail_sailplane"]
    assert "Stopped, brakes out" not in suiting["twin"]


@pytest.mark.parametrize(
    ("key", "title", "expected", "because"),
    [
        ("tug", "Stopped, flaps part down", {"left_flaperon": 29, "right_flaperon": 29, "elevator": 4},
         "Flaps and elevator as with Flap switch at half."),
        ("v_tail_sailplane", "Stopped, flaps part down",
         {"left_flap": 35, "right_flap": 35, "left_ruddervator": 7.3, "right_ruddervator": 7.3},
         "Flaps and elevator on their way to Flap switch at landing."),
        ("t_tail_sailplane", "Stopped, brakes out", {"left_airbrake": -100, "right_airbrake": -100},
         "Brakes and elevator as with Brake slider at 100."),
        ("twin", "Stopped and neutral", {}, ""),
    ],
)  # fmt: skip
def test_surfaces_go_where_the_model_itself_puts_them(
    key: Any, title: Any, expected: Any, because: Any
) -> None:
    model = TEMPLATES[key].make("Trial")
    made, said = proposed(model, next(p for p in PROPOSALS if p.title == title))
    surfaces = {s.name for s in model.airframe.surfaces}
    found = {
        x.target: x.failsafe.value for x in made.leads if x.target in surfaces and x.failsafe.value
    }
    assert (found, said) == (pytest.approx(expected), because)


def test_the_trims_in_force_and_the_elevator_of_a_slider_go_with_it() -> None:
    """Flaps by a slider alone: what lies a third of the way is taken, with as much of the elevator,
    on top of its trim."""
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    flaps = model.program.recipes[2].changed(
        {"positions": (FlapPosition(), FlapPosition(flap=100, elevator=10))}
    )
    switch = Control(
        name="flap_switch",
        label="Flap switch",
        kind="switch",
        hand="left",
        positions=("up", "down"),
    )
    controls = tuple(switch if c.name == switch.name else c for c in model.transmitter.controls)
    model = with_at(with_at(model, "program.recipes[2]", flaps), "transmitter.controls", controls)
    model = with_at(model, "program.axes[1].trim.clicks", 4)
    made, said = proposed(
        model, next(p for p in PROPOSALS if p.title == "Stopped, flaps part down")
    )
    found = {x.target: x.failsafe.value for x in made.leads}
    assert (found["left_flap"], found["left_ruddervator"]) == pytest.approx((35.0, -0.55 * 4 + 3.5))
    assert said == "Flaps and elevator on their way to Flap switch at down."


@pytest.mark.parametrize("kind", ["tow release", "retracts", "gear doors"])
def test_what_has_two_ends_is_asked_for_once_and_never_half_way(kind: Any) -> None:
    model = with_ends(kind)
    lead = next(i for i, x in enumerate(model.leads) if x.target == "thing")
    assert model.leads[lead].failsafe == Failsafe(action="hold")
    asked = [a.text for a in attentions(model) if a.path == f"leads[{lead}].failsafe"]
    assert len(asked) == 1 and "say what it does" in asked[0]
    for value in (0.0, 50.0):
        between = with_at(model, f"leads[{lead}].failsafe", Failsafe(value=value, meant=True))
        assert [a.text for a in attentions(between) if "half way" in a.text]
        (found,) = (f for f in shake(Ask(between), ("S6",)).findings if "half way" in f.text)
        mended = [
            tried(Ask(between), found, r, shake(Ask(between))) for r in repairs(between, found)
        ]
        assert all(x.gone for x in mended) and {
            r.repair.words.split()[0].lower() for r in mended
        } == set(sense_words(part_named(model, "thing")))
    for said in (
        Failsafe(value=100, meant=True),
        Failsafe(value=-100, meant=True),
        Failsafe(action="hold", meant=True),
    ):
        done = with_at(model, f"leads[{lead}].failsafe", said)
        assert not [a for a in attentions(done) if a.path == f"leads[{lead}].failsafe"]
        assert not shake(Ask(done), ("S6",)).findings


def with_ends(kind: str) -> Model:
    """A trainer with a thing that has two ends, everything plugged in."""
    model = TEMPLATES["trainer"].make("Trial")
    body = model.airframe.changed(
        {"devices": (Device(name="thing", label="Thing", kind=kind, x_mm=300.0),)}
    )
    made = adapted(model, body).model
    return made.changed(
        {"leads": tuple(x.changed({"port": i + 1}) for i, x in enumerate(made.leads))}
    )


def test_each_end_is_chosen_by_its_name_in_the_window(window: Any) -> None:
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    lead = bench.state.lead_index("tow_release")
    bench.document.edit(f"leads[{lead}].failsafe", Failsafe(action="hold"), "as before")
    box = page.choices["tow_release"]
    assert (box.currentIndex(), box.placeholderText()) == (-1, "say what it does")
    assert [box.itemText(k) for k in range(box.count())] == [
        "be closed",
        "be open",
        "stay where it was",
        "get no pulses",
    ]
    for at, stored in ((1, Failsafe(value=100, meant=True)), (0, Failsafe(value=-100, meant=True)),
                       (2, Failsafe(action="hold", meant=True))):  # fmt: skip
        box.setCurrentIndex(at)
        box.activated.emit(at)
        assert bench.loaded.leads[lead].failsafe == stored and box.currentIndex() == at
        assert page.values["tow_release"].isHidden() and page.meant["tow_release"].isHidden()
    bench.document.edit(f"leads[{lead}].failsafe", Failsafe(value=10, meant=True), "half way")
    assert (box.currentIndex(), box.placeholderText()) == (-1, "stop half way (fault)")


def test_where_nobody_has_said_anything_motors_stop_and_the_rest_is_neutral() -> None:
    model = TEMPLATES["twin"].make("Trial")
    leads = tuple(
        x.model_copy(update={"failsafe": None, "port": i + 1}) for i, x in enumerate(model.leads)
    )
    parts = {p.name: p for p in model.airframe.moved()}
    result = compile_plan(model.model_copy(update={"leads": leads})).run(
        Situation([0.0, 0.02, 2.0], {}, [1.0, 1.0, 0.0])
    )
    later = compile_plan(model.model_copy(update={"leads": leads})).run(
        Situation([2.02, 4.0], {"rudder_stick": 100.0}, 0.0), result.memory
    )
    for lead in leads:
        safe = usual_failsafe(parts[lead.target])
        assert (
            later.outputs[lead.name].stand[-1]
            == safe.value
            == (-100 if lead.target.endswith("motor") else 0)
        )


def test_the_aeroplane_as_its_failsafe_leaves_it_stands_beside_the_page(
    window: Any, qtbot: QtBot
) -> None:
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    QApplication.processEvents()
    assert page.picture.isVisible() and not page.picture._still.pixmap().isNull()
    page.propose("Stopped, flaps part down")
    assert (
        "Left flaperon 13.3 mm down, Right flaperon 12.6 mm down, Elevator 2.6 mm down"
        in page.picture.says.text()
        and "Motor stopped" in page.picture.says.text()
    )
    assert (
        page.because.isVisible()
        and page.because.text() == "Flaps and elevator as with Flap switch at half."
    )
    before = page.picture._still.pixmap().toImage()
    page._choose("motor", 2)
    assert "Motor gets no pulses" in page.picture.says.text() and page.because.isHidden()
    page._set_value("left_flaperon", -80.0)
    assert "mm up" in page.picture.says.text() and page.picture._still.pixmap().toImage() != before
    result = without_link(bench.loaded)
    assert result.outputs["left_flaperon"].failsafe[-1] and result.outputs["motor"].us[-1] == 0


def test_spare_ports_are_said_on_the_page_and_on_the_sheet(window: Any, samphire: Model) -> None:
    window.go("failsafe")
    bench, page = window.workbench, window.page("failsafe")
    assert (
        page._spare_ports.text() == "Spare port 8" and page.spare.currentText() == "get no pulses"
    )
    page.spare.activated.emit(1)
    assert bench.loaded.receiver.spare == "hold"
    assert "Spare port 8: stay where they were." in sheet_text(bench.loaded)
    bench.document.edit("receiver.ports", 7, "fewer")
    assert page.spare.isHidden() and "Spare port" not in sheet_text(bench.loaded)


def test_rudders_that_no_stick_moves_are_put_over_by_their_kind() -> None:
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    axes = tuple(a for a in model.program.axes if a.command != "yaw")
    recipes = tuple(r for r in model.program.recipes if r.kind != "v_tail")
    model = model.changed({"program": model.program.changed({"axes": axes, "recipes": recipes})})
    made, _ = proposed(model, next(p for p in PROPOSALS if p.title == "Stopped, a gentle turn"))
    found = {x.target: x.failsafe.value for x in made.leads}
    assert (found["left_ruddervator"], found["right_ruddervator"]) == (-12, 12)


def test_brakes_that_no_control_moves_go_out_all_the_same() -> None:
    """The edge of an airbrake goes up as it opens: 70° up, and not 1° down, which is shut. Flaps go
    down, ailerons up."""
    model = TEMPLATES["t_tail_sailplane"].make("Trial")
    bare = model.program.changed({"recipes": (), "mixes": ()})
    made, _ = proposed(
        model.changed({"program": bare}),
        next(p for p in PROPOSALS if p.title == "Stopped, brakes out"),
    )
    stands = {x.target: x.failsafe.value for x in made.leads if x.failsafe is not None}
    assert (stands["left_airbrake"], stands["right_airbrake"]) == (-100.0, -100.0)
    throws = next(s for s in made.airframe.surfaces if s.name == "left_airbrake")
    assert (throws.throw_up_deg, throws.throw_down_deg) == (70.0, 1.0)
