# SPDX-License-Identifier: GPL-3.0-or-later
"""Aeroplanes to begin with. A new one is a function in a file of this folder, and a line in
``TEMPLATES``.

The window shows their titles from the start on. So the files that make them are loaded only when
one is made."""

from __future__ import annotations

from importlib import import_module
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.edits.proposals import SLICES, with_proposed


class Template(NamedTuple):
    """An aeroplane to begin with: its title, one line about it, and the function that makes it
    under a name, with its file: ``"composed.trainer"``."""

    title: str
    about: str
    maker: str

    def make(self, name: str) -> Model:
        """The aeroplane as its function makes it."""
        file, _, function = self.maker.partition(".")
        made: Model = getattr(import_module(f"{__name__}.{file}"), function)(name)
        return made

    def begin(self, name: str) -> Model:
        """A new model from it: all it says is proposed until a person changes or keeps it."""
        made = self.make(name)
        # lever down is flap down, and gear down
        away = made.transmitter.changed({"first_end": "away"})
        made = made.changed({"transmitter": away})
        motors = {m.name for m in made.airframe.motors}
        leads = []
        for lead in made.leads:
            if lead.target in motors:  # as nearly every controller does; the page asks for it
                lead = lead.changed({"waits_for_idle": True})
            leads.append(lead)
        made = made.changed({"leads": tuple(leads)})
        proposed = [step for step, part in SLICES.items() if part(made) is not None]
        return with_proposed(made, *proposed)


TEMPLATES: dict[str, Template] = {
    "trainer": Template(
        "Trainer",
        "One motor, two aileron servos, elevator, rudder, steerable nose wheel.",
        "composed.trainer",
    ),
    "tug": Template(
        "Tug with flaperons",
        "One motor, two flaperon servos, elevator, rudder, tail wheel, tow release.",
        "tug.tug",
    ),
    "v_tail_sailplane": Template(
        "V-tail sailplane",
        "Four wing servos (two ailerons, two flaps) and two in the tail; one motor.",
        "sailplane.v_tail_sailplane",
    ),
    "t_tail_sailplane": Template(
        "T-tail sailplane",
        "Four wing servos, airbrakes on a slider, tow release, no motor.",
        "composed.t_tail_sailplane",
    ),
    "elevon_wing": Template(
        "Elevon wing", "Two elevons and nothing else, for the slope.", "composed.elevon_wing"
    ),
    "canard_delta": Template(
        "Delta with canards",
        "Two elevons, two canards, one rudder, a motor in the tail.",
        "composed.canard_delta",
    ),
    "twin": Template(
        "Twin", "Two motors with differential thrust, flaperons, elevator, rudder.", "composed.twin"
    ),
    "bare": Template(
        "From nothing", "A fuselage and a bare wing; you choose the rest.", "composed.bare"
    ),
    "biplane": Template(
        "Biplane",
        "Four ailerons on two wings, two elevators, rudder, tail wheel, one motor.",
        "composed.biplane",
    ),
}
