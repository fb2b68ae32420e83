# SPDX-License-Identifier: GPL-3.0-or-later
"""Aeroplanes put together from the layout's choices, with figures of their own where the
proportions ask for it."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import Airframe
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.shape.layout_choices import (
    blank,
    with_canards,
    with_device,
    with_motors,
    with_plates,
    with_second_wing,
    with_tail,
    with_wing,
)
from hypsos.core.shape.templates.common import usual


def bare(name: str) -> Model:
    """A fuselage and a wing without any surface: everything else is chosen."""
    return usual(name, _called(blank(1400), "own design"))


def trainer(name: str) -> Model:
    """A plain aeroplane with two aileron servos and a nose wheel."""
    body = with_motors(with_tail(with_wing(blank(1500), "two"), "conventional"), 1)
    return usual(name, _called(with_device(body, "nose wheel", True), "Trainer"))


def elevon_wing(name: str) -> Model:
    """A flying wing for the slope: two elevons and nothing else."""
    body = blank(1500, delta=True)
    wing = body.panels[0].changed(
        {
            "root_chord_mm": 330.0,
            "tip_chord_mm": 190.0,
            "sweep_mm": 330.0,
            "x_mm": 90.0,
            "z_mm": 8.0,
            "dihedral_deg": 1.0,
        }
    )
    pod = body.fuselage.changed({"length_mm": 520.0, "width_mm": 70.0, "height_mm": 72.0})
    body = with_wing(body.changed({"panels": (wing,), "fuselage": pod}), "elevons")
    body = with_tail(body, "none", rudders=2)
    at_the_tips = {
        "x_mm": 400.0,
        "y_mm": 735.0,
        "z_mm": 18.0,
        "span_mm": 150.0,
        "root_chord_mm": 170.0,
        "tip_chord_mm": 105.0,
        "sweep_mm": 60.0,
    }
    fins = [panel.changed(at_the_tips) for panel in body.panels if panel.name == "fin"]
    surfaces = tuple(s for s in body.surfaces if s.role != "rudder")
    body = body.changed({"panels": (body.panels[0], *fins), "surfaces": surfaces})
    return usual(name, _called(body, "Elevon wing"), ports=6)


def canard_delta(name: str) -> Model:
    """A delta with elevons, canards and one rudder, pushed by a motor in the tail."""
    body = with_wing(blank(980, delta=True), "elevons")
    body = with_canards(with_tail(body, "none", rudders=1), True)
    return usual(name, _called(with_motors(body, 1), "Delta with canards"))


def twin(name: str) -> Model:
    """A survey aeroplane with two motors, flaperons and differential thrust on a switch."""
    body = with_tail(with_wing(blank(2100), "flaperons"), "conventional")
    model = usual(name, _called(with_motors(body, 2), "Twin"))
    thrust = DifferentialThrust(left=("left_motor",), right=("right_motor",), share=15)
    program = model.program.changed({"recipes": (*model.program.recipes, thrust)})
    return model.changed({"program": program})


def biplane(name: str) -> Model:
    """An aerobatic biplane: four ailerons on two wings, two elevators."""
    body = blank(1250)
    fuselage = body.fuselage.changed({"height_mm": 150.0, "width_mm": 120.0})
    wing = body.panels[0].changed(
        {"z_mm": 135.0, "root_chord_mm": 215.0, "tip_chord_mm": 190.0, "dihedral_deg": 0.0}
    )
    body = body.changed({"fuselage": fuselage, "panels": (wing,)})
    body = with_second_wing(with_wing(body, "two"), "two")
    body = with_motors(with_tail(body, "conventional", elevators=2), 1)
    model = usual(
        name, _called(with_device(_aerobatic(body), "tail wheel", True), "Biplane"), ports=9
    )
    recipes = []
    for recipe in model.program.recipes:
        if recipe.kind == "ailerons":
            recipe = recipe.changed({"differential": 10.0})
        recipes.append(recipe)
    return model.changed({"program": model.program.changed({"recipes": tuple(recipes)})})


def _aerobatic(body: Airframe) -> Airframe:
    """The same with the throws of an aerobatic aeroplane."""
    throws = {"aileron": 25.0, "elevator": 25.0, "rudder": 30.0}
    surfaces = []
    for surface in body.surfaces:
        if surface.role in throws:
            deg = throws[surface.role]
            surface = surface.changed({"throw_up_deg": deg, "throw_down_deg": deg})
        surfaces.append(surface)
    return body.changed({"surfaces": tuple(surfaces)})


def t_tail_sailplane(name: str) -> Model:
    """A sailplane with a T-tail, four wing servos, airbrakes and a tow release."""
    body = with_tail(with_wing(blank(3400, pod=True), "four"), "T-tail")
    body = with_device(with_plates(body, "airbrake", True), "tow release", True)
    return usual(name, _called(body, "T-tail sailplane"), ports=10)


def _called(body: Airframe, kind: str) -> Airframe:
    return body.changed({"kind": kind})
