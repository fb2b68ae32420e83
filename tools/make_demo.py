"""Makes the demo hangar's models Whinlark, Sorrel, Skerry and Tidewrack from the templates: wired, linked, checked, with a feel.

.venv/bin/python tools/make_demo.py
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hypsos.core.checking.checks import problems
from hypsos.core.fitting.throws import arm_for
from hypsos.core.model.document import Model, to_json
from hypsos.core.model.program import Setting
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.linkage import Linkage
from hypsos.core.parts.shapes import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import Canards, DifferentialThrust, Elevons
from hypsos.core.shape.templates import TEMPLATES
from hypsos.hangar.files import write_whole

FOLDER = Path(__file__).parents[1] / "src" / "hypsos" / "demo"
FEEL = {
    "roll": ((50, 25), (75, 30), (100, 35)),
    "pitch": ((50, 20), (70, 25), (100, 30)),
    "yaw": ((60, 10), (80, 15), (100, 15)),
}


def finished(model: Model, number: int, note: str, reversed_: tuple[str, ...], order: tuple[str, ...] = ()) -> Model:
    """Wired in order, outputs reversed where the servo sits so, linkages on all surfaces, three rates, directions seen."""
    parts = {p.name: p for p in model.airframe.moved()}
    names = list(order) + [x.name for x in model.leads if x.name not in order]
    leads = []
    for lead in model.leads:
        part = parts[lead.target]
        update: dict[str, Any] = {"port": names.index(lead.name) + 1, "direction": -1 if lead.name in reversed_ else 1}
        update["seen_right"] = (update["port"], update["direction"])
        if isinstance(part, Surface):
            base = Linkage(
                arm_mm=8, horn_mm=14 if part.throw_up_deg < 40 else 10, distance_mm=62, offset_mm=1, servo_deg=42
            )
            update["linkage"] = arm_for(base, part.throw_up_deg, min(part.throw_down_deg, 60.0)) or base
            update["servo_s"] = 0.12
        elif isinstance(part, Motor):
            update["failsafe"] = lead.failsafe
        leads.append(lead.model_copy(update=update))
    axes = tuple(
        a.model_copy(
            update={
                "switch": "rates_switch",
                "settings": tuple(Setting(rate_neg=r, rate_pos=r, expo=e) for r, e in FEEL[a.command]),
            }
        )
        if a.command in FEEL
        else a
        for a in model.program.axes
    )
    receiver = model.receiver.model_copy(update={"number": number})
    program = model.program.model_copy(update={"axes": axes})
    return model.model_copy(update={"leads": tuple(leads), "program": program, "receiver": receiver, "note": note})


def with_program(model: Model, **update: Any) -> Model:
    return model.model_copy(update={"program": model.program.model_copy(update=update)})


def whinlark() -> Model:
    model = TEMPLATES["elevon_wing"].make("Whinlark")
    model = with_program(
        model, recipes=(Elevons(left="left_elevon", right="right_elevon", roll_share=50, pitch_share=50),)
    )
    note = "Elevon wing for the dune ridge. No motor: ballast up to 400 g when it blows."
    return finished(model, 11, note, ("right_elevon",))


def sorrel() -> Model:
    model = TEMPLATES["canard_delta"].make("Sorrel")
    canards = Canards(left="left_canard", right="right_canard", pitch_share=70, roll_share=40)
    model = with_program(model, recipes=(model.program.recipes[0], canards))
    note = "Delta with canards, motor in the tail. Canards follow pitch and a little roll; trims follow."
    return finished(model, 12, note, ("right_elevon", "left_canard"))


def skerry() -> Model:
    model = TEMPLATES["twin"].make("Skerry")
    steer = Control(
        name="steer_switch", label="Steering switch", kind="switch", hand="right", positions=("rudder", "and motors")
    )
    hands = model.transmitter.model_copy(update={"controls": (*model.transmitter.controls, steer)})
    recipes = tuple(
        DifferentialThrust(**{**dict(r), "when": "steer_switch@1"}) if isinstance(r, DifferentialThrust) else r
        for r in model.program.recipes
    )
    model = with_program(model.model_copy(update={"transmitter": hands}), recipes=recipes)
    note = "Survey twin: flaperons, camera below the middle. Motors help to steer on the ground only."
    order = ("left_flaperon", "elevator", "left_motor", "rudder", "right_flaperon", "right_motor")
    return finished(model, 13, note, ("right_flaperon",), order)


def tidewrack() -> Model:
    model = TEMPLATES["biplane"].make("Tidewrack")
    knife = MixLine(
        name="Knife edge, elevator", target="left_elevator", source="yaw", gain=4, with_trim=False,
        response=Response(points=((-100, 100), (0, 0), (100, 100))),
    )  # fmt: skip
    other = knife.model_copy(update={"target": "right_elevator"})
    model = with_program(model, mixes=(*model.program.mixes, knife, other))
    note = "Aerobatic biplane: four ailerons, two elevators. Pulls to the canopy in knife edge, hence the correction."
    return finished(model, 14, note, ("right_elevator", "left_lower_aileron"))


def main() -> None:
    for model in (whinlark(), sorrel(), skerry(), tidewrack()):
        found = list(problems(model))
        if found:
            raise SystemExit(f"{model.name}: {found[0].path}: {found[0].text}")
        write_whole(FOLDER / f"{model.name.lower()}.model.json", to_json(model))


if __name__ == "__main__":
    main()
