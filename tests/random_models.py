# SPDX-License-Identifier: GPL-3.0-or-later
"""Random models and moves for comparing: everything the program part can hold, mixed wildly but
soundly."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from parts import from_parts

from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine, Compare, Counter, Delay, Gate, Latch
from hypsos.core.document.document import Model
from hypsos.core.document.program import (
    Axis,
    Engine,
    Guard,
    Program,
    Setting,
    Signal,
    StartCheck,
    Trim,
)
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.leads import Failsafe, Lead, Receiver
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes import DifferentialThrust, Flaperons
from hypsos.core.recipes.flap_positions import FlapPosition

STICKS = ("aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick")
FRAME = 0.02
# How servos turn into angles: in proportion, by a linkage that binds at its end, as measured.
MOTIONS: Any = (
    {},
    {"linkage": Linkage(arm_mm=9, horn_mm=13, distance_mm=60, offset_mm=4, arm_deg=-15, flush=-20)},
    {"linkage": Linkage(arm_mm=16, horn_mm=14, distance_mm=70, horn_deg=20)},
    {"measured": ((-100.0, -22.0), (0.0, 1.0), (100.0, 17.0))},
)
# Outputs of motors: one that is not off at idle, and controllers that are off elsewhere than at
# 1000 µs.
IDLES = (
    {"centre": 5.0},
    {"idle_us": 2000.0, "direction": -1},
    {"idle_us": 1900.0, "direction": -1, "travel_pos": 80.0},
    {"idle_us": 1200.0, "travel_neg": 60.0},
)


class Dice:
    """Choices from one seed."""

    def __init__(self, seed: int, young: bool = False) -> None:
        self.rng = np.random.default_rng(seed)
        self.later = Dice(seed + 900_000_000) if young else None
        """For what documents have learnt since: engines, and lines by angle. Older seeds make the
        models they always made."""

    def of(self, *choices: Any) -> Any:
        return choices[int(self.rng.integers(len(choices)))]

    def chance(self, share: float) -> bool:
        return bool(self.rng.random() < share)

    def whole(self, low: int, high: int) -> int:
        return int(self.rng.integers(low, high + 1))

    def percent(self, low: int = -100, high: int = 100) -> float:
        return float(self.rng.integers(low, high + 1))


def condition(d: Dice, names: list[str], modes: list[str], counters: list[str]) -> str:
    text = d.of(
        lambda: f"switch_b@{d.whole(0, 1)}",
        lambda: f"switch_c@{d.whole(0, 2)}",
        lambda: d.of("link", "power"),
        lambda: d.of(*names) if names else "link",
        lambda: d.of(*names) if names else "power",
        lambda: f"mode:{d.of(*modes)}" if modes else "switch_b@1",
        lambda: f"{d.of(*counters)}@1" if counters else "switch_c@1",
    )()
    return f"!{text}" if d.chance(0.25) else text


def response(d: Dice) -> Response | None:
    if d.chance(0.6):
        return None
    xs = sorted(
        {float(x) for x in d.rng.integers(-100, 101, d.whole(2, 5))} | {d.of(-100.0, 0.0), 100.0}
    )
    live = tuple(i for i in range(len(xs)) if d.chance(0.4)) if d.chance(0.3) else ()
    moved = {"live": live, "live_from": d.of("t0", "t1"), "live_odd": d.chance(0.3)} if live else {}
    return Response(
        points=tuple((x, d.percent(-150, 150)) for x in xs),
        shape=d.of("straight", "smooth"),
        **moved,
    )


def adjuster(d: Dice, ask: Any, modes: list[str]) -> Adjuster:
    kind = d.of("set", "set", "add", "step")
    control = d.of("slider", "rudder_stick", "yaw_trim") if kind != "step" else None
    ways = {"up": ask(), "down": d.of(None, ask())} if kind == "step" else {}
    return Adjuster(
        kind=kind,
        control=control,
        amount=d.of(5.0, 20.0, 70.0),
        when=d.of(None, ask()),
        keep=d.chance(0.5),
        modes=tuple(m for m in modes if d.chance(0.6)) if d.chance(0.3) else (),
        **ways,
    )


def logic(d: Dice, modes: list[str]) -> Any:
    count = d.whole(0, 7)
    kinds = [
        d.of("compare", "combine", "latch", "latch", "delay", "counter", "gate")
        for _ in range(count)
    ]
    flags = [f"l{i}" for i, k in enumerate(kinds) if k != "gate"]
    counters = [f"l{i}" for i, k in enumerate(kinds) if k == "counter"]
    out: Any = []
    for i, kind in enumerate(kinds):
        name, gates = f"l{i}", [x.name for x in out if isinstance(x, Gate)]

        def ask() -> str:
            return condition(d, flags, modes if d.chance(0.3) else [], counters)

        sources = [*STICKS, "slider", "link_quality", "switch_c", *gates]
        if kind == "compare":
            what = d.of("above", "below", "beyond", "within", "difference")
            x = d.percent(-60, 60)
            out.append(
                Compare(
                    name=name,
                    kind=what,
                    a=d.of(*sources),
                    b=d.of(*sources),
                    x=x,
                    y=x + d.percent(0, 50),
                    hysteresis=d.of(0.0, 0.0, 15.0),
                )
            )
        elif kind == "combine":
            out.append(
                Combine(
                    name=name,
                    kind=d.of("all", "any", "one", "not"),
                    of=tuple(ask() for _ in range(d.whole(1, 3))),
                )
            )
        elif kind == "latch":
            out.append(Latch(name=name, set=ask(), reset=ask(), edges=d.chance(0.5)))
        elif kind == "delay":
            out.append(
                Delay(
                    name=name,
                    kind=d.of("on_delay", "off_delay", "pulse"),
                    of=ask(),
                    seconds=d.of(0.0, 0.06, 0.2),
                )
            )
        elif kind == "counter":
            out.append(Counter(name=name, of=ask(), count=d.whole(2, 4)))
        else:
            out.append(Gate(name=name, source=d.of(*sources), when=ask(), parked=d.percent()))
    return out, flags, counters


def guard(d: Dice, ask: Any, motors: tuple[str, ...]) -> Guard:
    position = d.whole(0, 2)
    checks = (
        (),
        (
            StartCheck(control="switch_b", position=d.whole(0, 1)),
            StartCheck(control="slider", low=-80, high=70),
        ),
    )
    switch, cut = d.of(
        ("motor_switch", (0,)), ("switch_c", (0,)), ("switch_c", (position,)), ("switch_c", (0, 2))
    )
    return Guard(
        level=d.whole(1, 4),
        switch=switch,
        cut=cut,
        threshold=d.of(-95.0, -90.0),
        rest_s=d.of(0.0, 0.06, 0.1),
        relock_s=d.of(0.06, 0.3),
        wakes_when_low=d.chance(0.2),
        also=ask() if d.chance(0.15) else None,
        holds=(ask(),) if d.chance(0.3) else (),
        start_check=d.of(*checks, ()),
        engines=tuple(engine(d.later, ask, n) for n in motors)
        if d.later and d.later.chance(0.4)
        else (),
    )


def engine(d: Dice, ask: Any, motor: str) -> Engine:
    second = d.chance(0.5)
    return Engine(
        motor=motor,
        idle=d.of(5.0, 15.0),
        high_idle=25.0 if second else None,
        high_when=ask() if second else None,
    )


def made(seed: int, young: bool = False) -> Model:
    """A sound random model: the first of a row of tries that holds together. ``young``: with what
    came later, too."""
    for attempt in range(200):
        model = tried(Dice(seed * 1000 + attempt, young))
        if next(problems(model), None) is None:
            return model
    raise AssertionError(f"no sound model for seed {seed}")


# fmt: off
def tried(d: Dice) -> Model:
    base = from_parts(motors=True)
    modes = [f"m{i}" for i in range(d.whole(0, 3))]
    nodes, flags, counters = logic(d, modes)
    gates = [x.name for x in nodes if isinstance(x, Gate)]

    def ask() -> str:
        return condition(d, flags, modes, counters)

    parts = [
        "left_aileron",
        "right_aileron",
        "left_flap",
        "right_flap",
        "elevator",
        "rudder",
        "left_motor",
        "right_motor",
    ]
    flown = tuple(
        FlightMode(name=m, when=None if m == modes[-1] else ask(), fade_s=d.of(0.0, 0.1, 0.3),
                   presets={p: d.percent(-40, 40) for p in parts if d.chance(0.15)})
        for m in modes
    )
    tunables = tuple(
        Tunable(name=f"t{i}", low=-50, high=120, value=d.percent(-40, 110), by_mode={m: d.percent(-50,
            120) for m in modes if d.chance(0.4)},
                adjuster=adjuster(d, ask, modes) if d.chance(0.6) else None)
        for i in range(2)
    )
    axes = []
    for command, stick in (("roll", "aileron_stick"), ("pitch", "elevator_stick"), ("yaw", "rudder_stick"),
                           ("thrust", d.of("throttle_stick", "throttle_stick", "slider"))):
        feels = tuple(
            d.of(None, Setting(rate_neg=d.percent(0, 150), rate_pos=d.percent(0, 150), expo=d.percent(),
                               rate_from=d.of(None, None, "t0"), expo_from=d.of(None, None, "t1"),
                               from_when=ask() if d.chance(0.2) else None))
            for _ in range(d.whole(1, 3))
        )
        trim = Trim(step=2, range=20, clicks=d.whole(-5, 5), scope=d.of("common", "per mode", "offset", "lever"),
                    by_mode={m: d.whole(-14, 14) for m in modes if d.chance(0.5)})
        plain = command == "thrust" and d.chance(0.6)  # else hardly any motor would ever be armed
        axes.append(Axis(command=command, control=stick, curve=None if plain else response(d), switch=d.of(None, "switch_c"),
                         settings=(Setting(),) if plain else feels, trim=trim if d.chance(0.6) and not plain else None))
    signals = ["flap", "brake", "camber", "own"]
    order = [*signals, *parts]
    hinged = {s.name for s in base.airframe.surfaces}
    sources = ["roll", "pitch", "yaw", "thrust", "full", "slider", "switch_c", "link_quality", *gates]
    mixes = [
        MixLine(name="power", target=m, source="thrust", in_s=d.of(0.0, 0.0, 0.2)) for m in parts[6:] if d.chance(0.8)
    ]
    for i in range(d.whole(3, 14)):
        target = d.whole(0, len(order) - 1)
        source = d.of(*sources, *order[:target])
        if target >= 10 and d.chance(0.7):
            continue
        off = d.of(None, None, "brake") if order[target] not in signals else None
        mixes.append(
            MixLine(name=f"x{i}", target=order[target], source=source, gain=d.percent(-150, 150), response=response(d),
                    by_angle=bool(d.later) and order[target] in hinged and d.later.chance(0.4),
                    differential=d.of(0.0, d.percent()), with_trim=d.chance(0.6), in_s=d.of(0.0, 0.0, 0.3),
                        out_s=d.of(0.0, 0.1),
                    when=ask() if d.chance(0.3) else None, combine=d.of("add", "add", "add", "replace", "scale"),
                    gain_from=d.of(None, None, "t0"), differential_off=off,
                    differential_from=d.later.of(None, "t0") if d.later else None)
        )
    recipes = []
    if d.chance(0.3):
        recipes.append(Flaperons(surfaces=("left_aileron", "right_aileron"), elevators=("elevator",),
            control="switch_c", in_s=0.2,
                                 positions=(FlapPosition(), FlapPosition(flap=40, elevator=5), FlapPosition(flap=90,
                                     elevator=9))))
    if d.chance(0.3):
        recipes.append(DifferentialThrust(left=("left_motor",), right=("right_motor",), at_idle=d.of("none", "full"),
                                          speed_up_only=d.chance(0.5), when=ask() if d.chance(0.5) else None))
    leads = []
    for lead in base.leads:
        motor = lead.target.endswith("motor")
        safe = d.of(
            None,
            Failsafe(value=d.of(-100.0, -100.0, -40.0) if motor else d.of(-100.0, d.percent(-60, 60))),
            Failsafe(action="no pulses"),
            Failsafe(action="hold"),
        )
        fields = dict(
            failsafe=safe,
            slow_up_s=d.of(0.0, 0.0, 0.4),
            slow_down_s=d.of(0.0, 0.2),
            port=d.of(lead.port, lead.port, None),
        )
        if not motor:
            fields |= dict(direction=d.of(1, -1), centre=d.percent(-20, 20), travel_neg=d.percent(50, 120),
                travel_pos=d.percent(50, 120),
                           stop_neg=d.percent(-120, -60), servo_s=d.of(0.0, 0.2), **d.of(*MOTIONS))
            if d.later and d.later.chance(0.4):
                places = sorted({d.later.whole(-100, 100) for _ in range(d.later.whole(3, 9))} | {-90, 95})[:9]
                heights = sorted({d.later.whole(-1400, 1400) / 10 for _ in range(3 * len(places))})
                fields["curve"] = Response(points=tuple(zip(map(float, places), heights, strict=False)))
        else:
            fields |= d.of({}, {}, *IDLES)
        leads.append(Lead(**{**dict(lead), **fields}))
    motors = tuple(m.name for m in base.airframe.motors)
    bent = {x.target for x in leads if x.linkage is not None or x.measured}
    mixes = [x.changed({"by_angle": False}) if x.target in bent else x for x in mixes]
    program = Program(
        axes=tuple(axes), mixes=tuple(mixes), recipes=tuple(recipes), guard=guard(d, ask, motors), logic=tuple(nodes), modes=flown,
        tunables=tunables, signals=(Signal(name="own", label="Own"),),
    )
    receiver = Receiver(
        failsafe_after_s=d.of(0.1, 0.3), stored=d.chance(0.5), power=d.of("not said", "speed controller", "own battery")
    )
    motors = {m.name for m in base.airframe.motors}  # type: ignore[assignment]
    leads = [x.changed({"waits_for_idle": d.chance(0.7)}) if x.target in motors else x for x in leads]
    return Model(**{**dict(base), "program": program, "leads": tuple(leads), "receiver": receiver})
# fmt: on


def _place(rng: np.random.Generator, count: int) -> float:
    return float(rng.integers(count))


def moves(model: Model, seed: int, frames: int) -> Any:
    """Hands that jump and rest; now and then the link or a battery goes. By control; then link,
    power, quality, flight battery."""
    rng = np.random.default_rng(seed)

    def held(values: Any, least: int, most: int) -> Any:
        out: Any = []
        while len(out) < frames:
            out += [values()] * int(rng.integers(least, most))
        return np.array(out[:frames], float)

    controls = {n: held(lambda: float(rng.integers(-100, 101)), 1, 12) for n in (*STICKS, "slider")}
    for name in ("throttle_stick", "slider"):
        controls[name] = np.where(
            held(lambda: rng.random() < 0.5, 5, 15) > 0, -100.0, controls[name]
        )
    for c in model.transmitter.controls:
        if c.is_switch:
            controls[c.name] = held(partial(_place, rng, len(c.positions)), 3, 12)
    for a in model.program.axes:
        if a.trim is not None:
            reach = a.trim.range
            controls[f"{a.command}_trim"] = held(
                lambda r=reach: float(rng.integers(-r, r + 1)), 5, 25
            )
    link = held(lambda: rng.random() > 0.15, 2, 20)
    power = held(lambda: rng.random() > 0.1, 5, 20)
    quality = held(lambda: float(rng.integers(0, 101)), 3, 9)
    return controls, link, power, quality, held(lambda: rng.random() > 0.1, 5, frames)
