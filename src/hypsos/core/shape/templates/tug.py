# SPDX-License-Identifier: GPL-3.0-or-later
"""A glider tug: a cabin fuselage, a straight wing with two flaperons, a strong motor and a tow
release."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.program import Program
from hypsos.core.parts.airframe import Airframe, Device, Fuselage, Motor, Panel, Surface
from hypsos.core.parts.leads import Receiver
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes import Ailerons, Flaperons
from hypsos.core.recipes.flap_positions import usual_positions
from hypsos.core.shape.adapt_model import TOW, fresh_leads, usual_axes
from hypsos.core.shape.templates.common import guard, transmitter


def airframe() -> Airframe:
    """1.8 m span, tail wheel."""
    wing = Panel(
        name="wing",
        label="Wing",
        span_mm=1800,
        root_chord_mm=300,
        tip_chord_mm=255,
        sweep_mm=22,
        dihedral_deg=2.5,
        x_mm=310,
        z_mm=94,
        thickness=0.13,
    )
    tail = Panel(
        name="tailplane",
        label="Tailplane",
        span_mm=640,
        root_chord_mm=205,
        tip_chord_mm=165,
        sweep_mm=30,
        x_mm=1085,
        z_mm=22,
        thickness=0.08,
    )
    fin = Panel(
        name="fin",
        label="Fin",
        arrangement="single",
        span_mm=265,
        root_chord_mm=235,
        tip_chord_mm=150,
        sweep_mm=75,
        x_mm=1055,
        z_mm=30,
        thickness=0.08,
    )
    flaperons = tuple(
        Surface(
            name=f"{side}_flaperon",
            label=f"{side.capitalize()} flaperon",
            role="flaperon",
            panel="wing",
            side=side,
            start_mm=150,
            end_mm=860,
            chord_mm=70,
            throw_up_deg=28,
            throw_down_deg=28,
        )
        for side in ("left", "right")
    )
    return Airframe(
        kind="Tug with flaperons",
        fuselage=Fuselage(
            length_mm=1290, width_mm=150, height_mm=190, outline="cabin", undercarriage="two wheels"
        ),
        panels=(wing, tail, fin),
        surfaces=(
            *flaperons,
            Surface(
                name="elevator",
                label="Elevator",
                role="elevator",
                panel="tailplane",
                side="centre",
                start_mm=25,
                end_mm=318,
                chord_mm=75,
                throw_up_deg=18,
                throw_down_deg=18,
            ),
            Surface(
                name="rudder",
                label="Rudder",
                role="rudder",
                panel="fin",
                side="centre",
                start_mm=8,
                end_mm=258,
                chord_mm=95,
                throw_up_deg=30,
                throw_down_deg=30,
            ),
        ),
        motors=(Motor(name="motor", label="Motor", x_mm=-18, z_mm=0, propeller_mm=380),),
        devices=(
            Device(name="tail_wheel", label="Tail wheel", kind="tail wheel", x_mm=1215, z_mm=-20),
            Device(name="tow_release", label="Tow release", kind="tow release", x_mm=640, z_mm=88),
        ),
    )


def tug(name: str) -> Model:
    """A tug under this name, nothing plugged in yet."""
    body = airframe()
    mixes = (
        MixLine(name="Elevator", target="elevator", source="pitch", gain=-100),
        MixLine(name="Rudder", target="rudder", source="yaw"),
        MixLine(name="Tail wheel", target="tail_wheel", source="yaw", gain=70),
        MixLine(name="Throttle", target="motor", source="thrust"),
        MixLine(name="Tow release", target="tow_release", source="tow_button"),
    )
    left, right = ("left_flaperon",), ("right_flaperon",)
    positions = usual_positions(body, left + right, ("elevator",))
    recipes = (
        Ailerons(left=left, right=right, share=60, differential=40),
        Flaperons(
            surfaces=left + right,
            elevators=("elevator",),
            control="flap_switch",
            positions=positions,
            in_s=1.5,
            out_s=1.5,
        ),
    )
    return Model(
        name=name,
        airframe=body,
        transmitter=transmitter(TOW),
        receiver=Receiver(ports=8),
        leads=fresh_leads(body.moved()),
        program=Program(axes=usual_axes(), mixes=mixes, recipes=recipes, guard=guard()),
    )
