# SPDX-License-Identifier: GPL-3.0-or-later
"""A small aeroplane put together by hand for tests of the engine."""

from __future__ import annotations

from typing import Any

from hypsos.core.conditions import LogicSwitch
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Guard, Program, Setting, Trim
from hypsos.core.parts.airframe import Airframe, Fuselage, Motor, Panel, Surface
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control, Transmitter
from hypsos.core.parts.tunables import Tunable
from hypsos.core.shape.templates import TEMPLATES


def from_parts(
    logic: tuple[LogicSwitch, ...] = (),
    modes: tuple[FlightMode, ...] = (),
    tunables: tuple[Tunable, ...] = (),
    mixes: tuple[MixLine, ...] = (),
    settings: dict[str, Setting] | None = None,
    trims: dict[str, Trim] | None = None,
    leads: dict[str, dict[str, Any]] | None = None,
    motors: bool = False,
) -> Model:
    """Ailerons, flaps, elevator and rudder on plain mixes (the first four), a two- and a
    three-position switch, a slider."""
    wing = Panel(
        name="wing", label="Wing", span_mm=1000, root_chord_mm=200, tip_chord_mm=200, x_mm=200
    )
    tail = Panel(
        name="tail", label="Tail", span_mm=400, root_chord_mm=100, tip_chord_mm=100, x_mm=800
    )
    fin = Panel(
        name="fin",
        label="Fin",
        arrangement="single",
        span_mm=200,
        root_chord_mm=100,
        tip_chord_mm=100,
        x_mm=800,
    )
    surfaces = tuple(
        Surface(
            name=name,
            label=name.replace("_", " ").capitalize(),
            role=role,
            panel={"elevator": "tail", "rudder": "fin"}.get(role, "wing"),
            side="left"
            if name.startswith("left")
            else "right"
            if name.startswith("right")
            else "centre",
            start_mm=200 if role == "aileron" else 0,
            end_mm=400 if role == "aileron" else 190,
            chord_mm=40,
            throw_up_deg=30,
            throw_down_deg=30,
        )
        for name, role in (
            ("left_aileron", "aileron"),
            ("right_aileron", "aileron"),
            ("left_flap", "flap"),
            ("right_flap", "flap"),
            ("elevator", "elevator"),
            ("rudder", "rudder"),
        )
    )
    engines = tuple(
        Motor(name=f"{s}_motor", label=f"{s} motor", x_mm=0, propeller_mm=200)
        for s in ("left", "right")
    )
    body = Airframe(
        kind="trial",
        fuselage=Fuselage(length_mm=900, width_mm=80, height_mm=80),
        panels=(wing, tail, fin),
        surfaces=surfaces,
        motors=engines if motors else (),
    )
    sticks = {
        "roll": "aileron_stick",
        "pitch": "elevator_stick",
        "yaw": "rudder_stick",
        "thrust": "throttle_stick",
    }
    axes = tuple(
        Axis(
            command=c,
            control=s,
            settings=((settings or {}).get(c, Setting()),),
            trim=(trims or {}).get(c),
        )
        for c, s in sticks.items()
    )
    plain = (
        MixLine(name="left", target="left_aileron", source="roll"),
        MixLine(name="right", target="right_aileron", source="roll", gain=-100),
        MixLine(name="elevator", target="elevator", source="pitch", gain=-100),
        MixLine(name="rudder", target="rudder", source="yaw"),
    )
    used = {m.target for m in mixes if m.name != "a" and m.name != "b"}
    controls = (
        Control(
            name="motor_switch", label="Motor", kind="switch", hand="left", positions=("cut", "run")
        ),
        Control(name="switch_b", label="B", kind="switch", hand="left", positions=("off", "on")),
        Control(name="switch_c", label="C", kind="switch", hand="left", positions=("a", "b", "c")),
        Control(name="slider", label="Slider", kind="slider", hand="left"),
    )
    keep = tuple(
        m
        for m in plain
        if m.target not in used or any(x.when == "gone" or x.gain_from for x in mixes)
    )
    return Model(
        name="Trial",
        airframe=body,
        transmitter=Transmitter(controls=controls),
        leads=tuple(
            Lead(
                **(
                    {"name": p.name, "label": p.label, "target": p.name, "port": i + 1}
                    | (leads or {}).get(p.name, {})
                )
            )
            for i, p in enumerate(body.moved())
        ),
        program=Program(
            axes=axes,
            mixes=keep + mixes,
            logic=logic,
            modes=modes,
            tunables=tunables,
            guard=Guard(level=2, switch="motor_switch") if motors else None,
        ),
    )


def wired(key: str, **directions: int) -> Model:
    """A template with every lead plugged in, in order."""
    model = TEMPLATES[key].make("Trial")
    leads = tuple(
        x.model_copy(update={"port": i + 1, "direction": directions.get(x.name, 1)})
        for i, x in enumerate(model.leads)
    )
    return model.model_copy(update={"leads": leads})
