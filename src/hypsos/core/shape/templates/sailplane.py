# SPDX-License-Identifier: GPL-3.0-or-later
"""A V-tail sailplane with a folding propeller: ailerons and flaps on four servos."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.program import Program
from hypsos.core.parts.airframe import Airframe, Fuselage, Motor, Panel, Surface
from hypsos.core.parts.leads import Receiver
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes import Ailerons, Flaps, VTail
from hypsos.core.recipes.flap_positions import usual_positions
from hypsos.core.shape.adapt_model import fresh_leads, usual_axes
from hypsos.core.shape.templates.common import guard, transmitter


def airframe() -> Airframe:
    """3 m span, slender pod and boom."""
    wing = Panel(
        name="wing",
        label="Wing",
        span_mm=3000,
        root_chord_mm=235,
        tip_chord_mm=135,
        sweep_mm=60,
        dihedral_deg=4,
        x_mm=430,
        z_mm=38,
        thickness=0.09,
    )
    tail = Panel(
        name="v_tail",
        label="V-tail",
        span_mm=780,
        root_chord_mm=165,
        tip_chord_mm=112,
        sweep_mm=50,
        dihedral_deg=38,
        x_mm=1330,
        z_mm=18,
        thickness=0.07,
    )
    surfaces = []
    for side in ("left", "right"):
        for role, start, end, chord, up, down in (
            ("flap", 60, 760, 52, 12, 70),
            ("aileron", 770, 1450, 36, 25, 25),
        ):
            surfaces.append(
                Surface(
                    name=f"{side}_{role}",
                    label=f"{side.capitalize()} {role}",
                    role=role,
                    panel="wing",
                    side=side,
                    start_mm=start,
                    end_mm=end,
                    chord_mm=chord,
                    throw_up_deg=up,
                    throw_down_deg=down,
                )
            )
    for side in ("left", "right"):
        surfaces.append(
            Surface(
                name=f"{side}_ruddervator",
                label=f"{side.capitalize()} ruddervator",
                role="ruddervator",
                panel="v_tail",
                side=side,
                start_mm=15,
                end_mm=378,
                chord_mm=50,
                throw_up_deg=22,
                throw_down_deg=22,
            )
        )
    return Airframe(
        kind="V-tail sailplane",
        fuselage=Fuselage(length_mm=1500, width_mm=92, height_mm=105, outline="pod"),
        panels=(wing, tail),
        surfaces=tuple(surfaces),
        motors=(Motor(name="motor", label="Motor", x_mm=-12, z_mm=0, propeller_mm=350),),
    )


SOFT_START_S = 0.8
"""From stopped to full power, so that the blades unfold before they pull; the range of a motor's
line is 200 %, so each 100 % takes half of it. It stops at once."""


def v_tail_sailplane(name: str) -> Model:
    """A V-tail sailplane under this name, nothing plugged in yet."""
    body = airframe()
    flaps, tail = ("left_flap", "right_flap"), ("left_ruddervator", "right_ruddervator")
    recipes = (
        Ailerons(left=("left_aileron",), right=("right_aileron",), share=100, differential=50),
        VTail(left="left_ruddervator", right="right_ruddervator", pitch_share=55, yaw_share=45),
        Flaps(
            surfaces=flaps,
            elevators=tail,
            control="flap_switch",
            positions=usual_positions(body, flaps, tail),
            in_s=1.0,
            out_s=1.0,
        ),
    )
    return Model(
        name=name,
        airframe=body,
        transmitter=transmitter(),
        receiver=Receiver(ports=8),
        leads=fresh_leads(body.moved()),
        program=Program(
            axes=usual_axes(),
            mixes=(
                MixLine(name="Throttle", target="motor", source="thrust", in_s=SOFT_START_S / 2),
            ),
            recipes=recipes,
            guard=guard(),
        ),
    )
