# SPDX-License-Identifier: GPL-3.0-or-later
"""Scenarios that every model should pass, made of its own switches: what has hurt people, with what
must come of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Literal

from hypsos.core.base.values import with_tail
from hypsos.core.document.document import Model
from hypsos.core.engine.sweep import ready_to_arm
from hypsos.core.explain.throttle_hands import throttle
from hypsos.core.parts.scenario import Expectation, Move, Scenario
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.words import run_positions

MARGIN_S = 0.1
"""Seconds after an act before something is expected of it."""
NEAR = 3.0
"""Percent by which a flap may stand beside its position."""
DROP_S = 0.3
NONE: Mapping[str, float] = {}


class _Builder:
    """A scenario act by act: what is moved, how long it is left so, what is expected meanwhile."""

    def __init__(self, model: Model) -> None:
        self.t = 0.0
        self.moves: list[Move] = []
        self.expected: list[Expectation] = []
        mine = {m.name for m in model.airframe.motors}
        guard = model.program.guard
        self.engines = {x.motor for x in guard.engines} if guard is not None else set()
        self.motors = [x.target for x in model.leads if x.target in mine]

    def act(
        self,
        seconds: float,
        motors: Literal["", "stopped", "runs", "low"] = "",
        controls: Mapping[str, float] = NONE,
    ) -> None:
        """Move controls and leave them; ``motors`` are *stopped* all the while, or *run* at its
        end. *low*: a motor is stopped, an engine runs."""
        self.moves += [Move(t_s=self.t, control=name, to=value) for name, value in controls.items()]
        start, self.t = self.t + MARGIN_S, round(self.t + seconds, 3)
        end = round(self.t - MARGIN_S / 2, 3)
        for motor in self.motors:
            if not motors:
                break
            runs = motors == "runs" or (motors == "low" and motor in self.engines)
            begin = end if runs else min(start, end)
            kind: Literal["runs", "stopped"] = "runs" if runs else "stopped"
            self.expected.append(
                Expectation(kind=kind, what=motor, from_s=round(begin, 3), to_s=end)
            )

    def stands(self, surface: str, percent: float) -> None:
        """A surface is expected near a place at the end."""
        at = round(self.t - MARGIN_S / 2, 3)
        low, high = percent - NEAR, percent + NEAR
        self.expected.append(
            Expectation(kind="stands", what=surface, from_s=at, to_s=at, low=low, high=high)
        )

    def scenario(self, label: str) -> Scenario:
        """What has been put together."""
        return Scenario(
            label=label, moves=tuple(self.moves), length_s=self.t, expectations=tuple(self.expected)
        )


def ready_scenarios(model: Model) -> tuple[Scenario, ...]:
    """The scenarios for a model: those of its guard or else a drop-out, and its flaps coming out
    for a landing."""
    guarded = model.program.guard is not None and bool(_Builder(model).motors)
    return (*(_of_guard(model) if guarded else [_drop_out(model)]), *_landing(model))


def _of_guard(model: Model) -> Iterator[Scenario]:
    """What this level of the guard promises."""
    guard = model.program.guard
    assert guard is not None
    safe = {n: float(v) for n, v in ready_to_arm(model).items()}
    power = throttle(model)
    safe |= {guard.switch: float(guard.cut[0]), **power.low}
    run, cut = {guard.switch: float(run_positions(model)[0])}, {guard.switch: float(guard.cut[0])}
    up, low = dict(power.up), dict(power.low)

    def flying() -> _Builder:
        made = _Builder(model)
        made.act(2.0, "stopped", safe)
        made.act(1.0, "low", run)
        made.act(2.0, "runs", up)
        return made

    if guard.level > 1:
        made = _Builder(model)
        made.act(2.0, "stopped", safe | up)
        made.act(2.0, "stopped", run)
        yield made.scenario("Arm with the stick up")
    made = flying()
    relocks = guard.level >= 4 and model.receiver.power != "own battery"
    if (
        not relocks
    ):  # only a guard that sees the change and locks again takes the switch off one's hands
        made.act(0.5, "stopped", cut)
    made.act(4.0, "stopped", {"flight_battery": 0.0})
    made.act(2.0, "stopped", {"flight_battery": 1.0})
    left = "everything left on" if relocks else "the switch at cut"
    yield made.scenario(f"Change the battery with {left}")
    made = flying()
    made.act(DROP_S, "", {"link": 0.0})
    stays = guard.level < 4 or guard.relock_s > DROP_S
    made.act(2.0, "runs" if stays else "stopped", {"link": 1.0})
    yield made.scenario("A short drop-out in flight")
    made = _Builder(model)
    made.act(2.0, "stopped", safe | run | low)
    if not guard.wakes_when_low:
        made.act(1.5, "stopped", up)
    yield made.scenario("Switch left on at power-up")


def _drop_out(model: Model) -> Scenario:
    """A short loss of the link with the stick over: it comes back by itself."""
    made = _Builder(model)
    made.act(1.0, "", {STICKS[0]: 60.0})
    made.act(DROP_S, "", {"link": 0.0})
    made.expected.append(Expectation(kind="holds", what="!link", from_s=1.1, to_s=1.2))
    made.act(2.0, "", {"link": 1.0})
    made.expected.append(Expectation(kind="holds", what="link", from_s=1.5, to_s=3.2))
    return made.scenario("A short drop-out in flight")


def _landing(model: Model) -> Iterator[Scenario]:
    """Flaps on a switch come out whole, and go in again."""
    for recipe in model.program.recipes:
        for parameter in recipe.of("positions"):
            switch = next((getattr(recipe, p.key) for p in recipe.of("switch", "control")), "")
            places, surfaces = getattr(recipe, parameter.key), [n for _, n in recipe.parts()]
            leads = {x.target for x in model.leads}
            mine = [n for n in surfaces if n in leads and n in getattr(recipe, "surfaces", ())]
            control = model.transmitter.control(switch)
            if recipe.when is not None or not mine or control is None or not control.is_switch:
                continue
            made = _Builder(model)
            for place in (len(places) - 1, 0):
                made.act(1.0 + _seconds(recipe), "", {switch: float(place)})
                for name in mine:
                    made.stands(name, places[place].flap)
            yield made.scenario(with_tail(recipe.label, "out and in"))


def _seconds(recipe: object) -> float:
    """How long a behaviour takes from one end to the other, in seconds."""
    return float(2 * max(getattr(recipe, "in_s", 0.0), getattr(recipe, "out_s", 0.0)))
