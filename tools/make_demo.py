"""Gives the demo hangar's models their behaviours, modes and shared values, and makes Sandpiper from a template; what else
they hold (leads, linkages, voice, scenarios) stays as it is in their files.

.venv/bin/python tools/make_demo.py
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hypsos.core.checking.checks import problems
from hypsos.core.checking.reader import from_json
from hypsos.core.fitting.throws import arm_for
from hypsos.core.flight.ready_scenarios import ready_scenarios
from hypsos.core.model.document import Model, digest, to_json
from hypsos.core.model.hands import with_positions
from hypsos.core.model.program import Setting
from hypsos.core.model.ready_voice import with_ready_set
from hypsos.core.parts.linkage import Linkage
from hypsos.core.parts.logic import Adjuster, Combine, FlightMode, Tunable
from hypsos.core.parts.shapes import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import (
    Amount,
    CamberFollow,
    Canards,
    CoordinatedTurn,
    Crow,
    DifferentialThrust,
    KnifeEdge,
    SnapFlap,
    StickFlaps,
    StickScaling,
    ThrustLine,
)
from hypsos.core.recipes.corrections import TurnShare
from hypsos.core.recipes.scaling import ModeFeel
from hypsos.core.shape.layout import blank, with_motors, with_tail, with_wing
from hypsos.core.shape.templates.common import usual
from hypsos.hangar.files import write_whole

FOLDER = Path(__file__).parents[1] / "src" / "hypsos" / "demo"
FEEL = {
    "roll": ((50, 25), (75, 30), (100, 35)),
    "pitch": ((50, 20), (70, 25), (100, 30)),
    "yaw": ((60, 10), (80, 15), (100, 15)),
}


def with_program(model: Model, **fields: Any) -> Model:
    return model.changed({"program": model.program.changed(fields)})


def with_controls(model: Model, *controls: Control, without: tuple[str, ...] = ()) -> Model:
    new = {c.name for c in controls}
    kept = tuple(c for c in model.transmitter.controls if c.name not in new | set(without))
    return model.changed({"transmitter": model.transmitter.changed({"controls": (*kept, *controls)})})


def switch(name: str, label: str, hand: str, *positions: str) -> Control:
    return Control(name=name, label=label, kind="switch", hand=hand, positions=positions)


def kept(model: Model, *kinds: str) -> tuple[Any, ...]:
    return tuple(r for r in model.program.recipes if r.kind in kinds)


def marram(model: Model) -> Model:
    """All of it in behaviours; four plain mixes are left."""
    inner, mid = ("left_inner_flap", "right_inner_flap"), ("left_mid_flap", "right_mid_flap")
    ailerons, tail = ("left_aileron", "right_aileron"), ("left_ruddervator", "right_ruddervator")
    crow = Crow(
        label="Crow brakes", control="throttle_stick", closed=-10, opened=-80, in_s=0.4, out_s=0.4, master="brakes_armed",
        amounts=(Amount(parts=inner, travel=86), Amount(parts=mid, travel=60), Amount(parts=ailerons, travel=-42)),
        elevators=tail, elevator=Response(points=((0.0, 0.0), (50.0, 5.0), (100.0, 7.0)), shape="smooth"),
    )  # fmt: skip
    camber = CamberFollow(
        label="Camber", control="camber_gate", amount=100, amount_from="camber_share", to_ailerons=80, to_flaps=100,
        to_flaps_from="roll_to_flaps", differential=20, differential_off="brake", elevator=-6,
        left_flaps=(inner[0], mid[0]), right_flaps=(inner[1], mid[1]), ailerons=ailerons, elevators=tail,
    )  # fmt: skip
    snap = SnapFlap(
        share=100,
        share_from="snap_share",
        aileron_share=12,
        dead=10,
        flaps=(*inner, *mid),
        ailerons=ailerons,
        when="snap_on",
    )
    turn = CoordinatedTurn(
        label="Turn help", control="turn_switch", helps=tuple(TurnShare(left=x, right=x) for x in (0, 12, 18)),
        rudders=tail[1:], against=tail[:1],
    )  # fmt: skip
    thrust = ThrustLine(elevators=tail, pivot=0, share=6, when="climb_on")
    flat = Response(points=((-100.0, 0.0), (100.0, 0.0)))
    yaw = KnifeEdge(
        label="Rudder to aileron", signal="rudder_help", pitch=flat, roll=Response(points=((-100.0, -8.0), (100.0, 8.0))),
        elevators=(), left=ailerons[:1], right=ailerons[1:], when="!brakes_out",
    )  # fmt: skip
    modes = {"landing": (100, 35), "launch": (70, 30), "thermal": (85, 30), "speed": (55, 45)}
    roll = StickScaling(
        label="Roll by mode", signal="roll_scaling", axes=("roll",), base=ModeFeel(rate=80, expo=30),
        by_mode={n: ModeFeel(rate=r, expo=e) for n, (r, e) in modes.items()},
    )  # fmt: skip
    pitch = StickScaling(
        label="Pitch by mode", signal="pitch_scaling", axes=("pitch",), base=ModeFeel(rate=70, expo=25),
        by_mode={"landing": ModeFeel(rate=100, expo=25), "speed": ModeFeel(rate=50, expo=25)},
    )  # fmt: skip
    mixes = (
        MixLine(name="Throttle", target="motor", source="thrust"),
        MixLine(name="Less camber while circling", target="camber", source="full", gain=80, when="circling_long",
                combine="scale"),
        MixLine(name="Camber at climb start", target="camber", source="full", gain=3, in_s=0.03, out_s=0.03,
                when="climb_start"),
        MixLine(name="Tow release", target="tow_release", source="tow_button"),
    )  # fmt: skip
    plain = {"roll": Setting(), "pitch": Setting()}
    axes = tuple(a.changed({"settings": (plain[a.command],)}) if a.command in plain else a for a in model.program.axes)
    wing = tuple(
        r.changed({"differential_off": "brake"}) if r.kind == "ailerons" else r
        for r in kept(model, "ailerons", "v_tail")
    )
    tunables = tuple(x for x in model.program.tunables if x.name in ("roll_to_flaps", "snap_share", "camber_share"))
    return with_program(
        model,
        recipes=(*wing, crow, camber, snap, turn, thrust, yaw, roll, pitch),
        mixes=mixes,
        axes=axes,
        tunables=tunables,
    )


def skerry(model: Model) -> Model:
    """One switch for cut, normal and differential."""
    if len(model.transmitter.control("motor_switch").positions) == 2:  # type: ignore[union-attr]
        model = with_positions(model, "motor_switch", 3)
    model = with_program(
        model,
        recipes=tuple(
            r.changed({"when": "motor_switch@2"}) if isinstance(r, DifferentialThrust) else r
            for r in model.program.recipes
        ),
        guard=model.program.guard.changed({"cut": (0,)}),  # type: ignore[union-attr]
    )
    three = switch("motor_switch", "Motor switch", "left", "cut", "normal", "differential")
    controls = tuple(
        three.changed({"place": c.place}) if c.name == "motor_switch" else c
        for c in model.transmitter.controls
        if c.name != "steer_switch"
    )
    return model.changed({"transmitter": model.transmitter.changed({"controls": controls})})


def whinlark(model: Model) -> Model:
    """Three flight modes and a base mode that scale rates and expo through shared values, one set by a slider."""
    model = with_controls(
        model, switch("mode_switch", "Mode switch", "left", "calm", "ridge", "race"),
        switch("bold_switch", "Bold switch", "right", "off", "on"),
        Control(name="rate_slider", label="Rate slider", kind="slider", hand="left"), without=("rates_switch",),
    )  # fmt: skip
    modes = (
        FlightMode(name="calm", label="Calm", when="mode_switch@0", fade_s=0.3),
        FlightMode(name="ridge", label="Ridge", when="mode_switch@1", fade_s=0.3),
        FlightMode(
            name="race",
            label="Race",
            when="race_wanted",
            fade_s=0.3,
            presets={"left_elevon": -1.0, "right_elevon": -1.0},
        ),
        FlightMode(name="base", label="Base"),
    )
    race = Combine(name="race_wanted", label="Race wanted", kind="all", of=("mode_switch@2", "bold_switch@1"))
    feel = StickScaling(
        label="Rates by mode", axes=("roll", "pitch", "yaw"), base=ModeFeel(rate=50, expo=10), least=25, most=100,
        by_mode={"calm": ModeFeel(rate=35, expo=15), "ridge": ModeFeel(rate=85, expo=35), "race": ModeFeel(rate=100, expo=60)},
    )  # fmt: skip
    share = Tunable(
        name="pitch_share", label="Pitch share", low=35, high=65, value=50,
        adjuster=Adjuster(kind="add", control="rate_slider", amount=15, modes=("ridge", "race")),
    )  # fmt: skip
    axes = tuple(
        a.changed({"switch": None, "settings": (Setting(),)}) if a.command in FEEL else a for a in model.program.axes
    )
    elevons = tuple(r.changed({"pitch_from": "pitch_share", "pitch_share": 100.0}) for r in kept(model, "elevons"))
    return with_program(model, modes=modes, logic=(race,), recipes=(*elevons, feel), tunables=(share,), axes=axes)


def sorrel(model: Model) -> Model:
    """Canards that follow pitch, roll or both by a switch."""
    model = with_controls(model, switch("canard_switch", "Canard switch", "left", "pitch", "both", "roll"))
    ends = {"left": "left_canard", "right": "right_canard"}
    canards = (
        Canards(label="Canards with pitch", **ends, pitch_share=70, roll_share=0, when="!canard_switch@2"),
        Canards(label="Canards with roll", **ends, pitch_share=0, roll_share=40, when="!canard_switch@0"),
    )
    return with_program(model, recipes=(*kept(model, "elevons"), *canards))


def tidewrack(model: Model) -> Model:
    """Crow of four ailerons on a slider, and knife-edge curves trimmed by two knobs."""
    model = with_controls(
        model, Control(name="brake_slider", label="Brake slider", kind="slider", hand="left"),
        Control(name="edge_knob", label="Knife-edge knob", kind="knob", hand="right"),
        Control(name="roll_knob", label="Aileron knob", kind="knob", hand="left"),
    )  # fmt: skip
    left, right = ("left_aileron", "left_lower_aileron"), ("right_aileron", "right_lower_aileron")
    tail = ("left_elevator", "right_elevator")
    crow = Crow(
        label="Four-aileron brakes", control="brake_slider", closed=-85, opened=100, elevators=tail,
        amounts=(Amount(parts=(left[0], right[0]), travel=-45), Amount(parts=(left[1], right[1]), travel=45)),
        elevator=Response(points=((0.0, 0.0), (100.0, 3.0))), in_s=0.6, out_s=0.6,
    )  # fmt: skip
    edge = KnifeEdge(
        elevators=tail, left=left, right=right, pitch_lever="edge_knob", roll_lever="roll_knob", reach=8,
        pitch=Response(points=((-100.0, 4.0), (-50.0, 1.5), (0.0, 0.0), (50.0, 1.5), (100.0, 4.0))),
        roll=Response(points=((-100.0, -3.0), (0.0, 0.0), (100.0, 3.0))),
    )  # fmt: skip
    mixes = tuple(m for m in model.program.mixes if not m.name.startswith("Knife edge"))
    return with_program(model, recipes=(*kept(model, "ailerons"), crow, edge), mixes=mixes)


def sandpiper(found: Model | None) -> Model:
    """A hand-launched glider: flaps or spoilers on the stick, its motor on a slider."""
    body = with_motors(with_tail(with_wing(blank(1500, pod=True), "flaperons"), "conventional"), 1)
    model = usual("Sandpiper", body.changed({"kind": "Hand-launched glider"}), ports=6)
    model = with_controls(
        model, Control(name="motor_slider", label="Motor slider", kind="slider", hand="left"),
        switch("spoiler_switch", "Flap or spoiler", "right", "flaps", "spoilers"), without=("flap_switch",),
    )  # fmt: skip
    wings = ("left_flaperon", "right_flaperon")
    stick = StickFlaps(
        control="throttle_stick", rest=-60, flaps=40, spoilers=35, chosen="spoiler_switch@1", surfaces=wings,
        elevators=("elevator",), flap_elevator=4, spoiler_elevator=-3, in_s=0.3, out_s=0.3,
    )  # fmt: skip
    axes = tuple(
        a.changed({"control": "motor_slider"}) if a.command == "thrust"
        else a.changed(
            {"switch": "rates_switch", "settings": tuple(Setting(rate_neg=r, rate_pos=r, expo=e) for r, e in FEEL[a.command])}
        )
        for a in model.program.axes
    )  # fmt: skip
    model = with_program(model, recipes=(*kept(model, "ailerons"), stick), axes=axes)
    leads = tuple(
        x.changed({"port": i + 1, "direction": -1 if x.name == "right_flaperon" else 1})
        for i, x in enumerate(model.leads)
    )
    leads = tuple(x.changed({"seen_right": (x.port, x.direction)}) for x in leads)
    note = "Hand-launched glider for the dune slack. Left stick: flaps or spoilers. The motor is on the slider; cut it first."
    base = Linkage(arm_mm=8, horn_mm=14, distance_mm=55, offset_mm=1, servo_deg=42)
    throws = {s.name: (s.throw_up_deg, min(s.throw_down_deg, 60.0)) for s in model.airframe.surfaces}
    leads = tuple(
        x.changed({"linkage": arm_for(base, *throws[x.target]) or base, "servo_s": 0.1}) if x.target in throws else x
        for x in leads
    )
    made = model.changed(
        {"leads": leads, "note": note, "receiver": model.receiver.changed({"number": 17}), "proposed": ()}
    )
    leads = tuple(x.changed({"waits_for_idle": True}) if x.target == "motor" else x for x in made.leads)
    made = with_ready_set(with_ready_set(made.changed({"leads": leads}), "motor"), "flight")
    made = made.changed({"scenarios": ready_scenarios(made)[:3]})
    return made.changed({"sheet_of": digest(made)})


ENOUGH = 150.0
SHARED = "Brakes, full roll and full trim at once ask for more than a sum can be. They share the travel here, and are flown so."


def shaken(model: Model) -> Model:
    """What the shakedown of the demo found, mended, or left with a reason: stops that took command away where the sum still
    had room, a stop on the wrong side of the right inner flap, a wanted throw that its linkage never reached."""
    surfaces = {s.name for s in model.airframe.surfaces}
    leads = tuple(
        x.changed({"stop_neg": -ENOUGH, "stop_pos": ENOUGH}) if x.target in surfaces and x.stop_pos == 125.0 else x
        for x in model.leads
    )
    if model.name == "Marram":
        leads = tuple(
            x.changed({"stop_neg": -110.0, "stop_pos": 100.0}) if x.name == "right_inner_flap" else x for x in leads
        )
        inner = ("left_inner_flap", "right_inner_flap")
        made = tuple(s.changed({"throw_down_deg": 55.0}) if s.name in inner else s for s in model.airframe.surfaces)
        model = model.changed({"airframe": model.airframe.changed({"surfaces": made})})
    reasons = {"S2": SHARED} if model.name in ("Marram", "Tidewrack") else {}
    return model.changed({"leads": leads, "not_asked": reasons})


CHANGES = {"marram": marram, "skerry": skerry, "whinlark": whinlark, "sorrel": sorrel, "tidewrack": tidewrack}


def main() -> None:
    models = {}
    for name, change in CHANGES.items():
        old = from_json((FOLDER / f"{name}.model.json").read_text(encoding="utf-8"))
        made = change(old)
        models[name] = made.changed({"sheet_of": digest(made)}) if old.sheet_of else made
    models["sandpiper"] = sandpiper(None)
    models["samphire"] = from_json((FOLDER / "samphire.model.json").read_text(encoding="utf-8"))
    models = {n: shaken(m) for n, m in models.items()}
    models = {n: m.changed({"sheet_of": digest(m)}) if m.sheet_of else m for n, m in models.items()}
    for name, model in models.items():
        found = list(problems(model))
        if found:
            raise SystemExit(f"{model.name}: {found[0].path}: {found[0].text}")
        write_whole(FOLDER / f"{name}.model.json", to_json(model))


if __name__ == "__main__":
    main()
