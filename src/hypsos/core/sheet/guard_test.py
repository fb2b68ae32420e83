# SPDX-License-Identifier: GPL-3.0-or-later
"""The test of the motor guard, once the motors' lines are keyed in: what to do, and what every motor
must then be told. The design as this transmitter has it is played; nothing here is known
beforehand."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.situation import Situation
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.parts.pulses import idle_percent
from hypsos.core.parts.transmitter import Control
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.from_model.hardware import keyed_leads
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.lacks import Reduced
from hypsos.core.schools.on_paper.blocks import Block, Row
from hypsos.core.wording.words import control_label, run_positions

WAIT_S = 3.0
"""So long each act is left to work, which is longer than any rest of a guard."""
LOW, HALF, FULL = -100.0, 0.0, 100.0
STICK_PLACES = {LOW: "low", HALF: "half", FULL: "full"}
CAUTION = (
    "Propeller off, or the motor's leads unplugged from it; nobody in its plane. Wait three seconds after each act. A motor "
    "that does anything else than stands here: stop, and look at its lines again."
)  # fmt: skip


class GuardAct(NamedTuple):
    """Hands put somewhere, and what that is called; ``link`` False: the transmitter is off."""

    words: str
    hands: dict[str, float]
    link: bool = True


def guard_test(made: Keying) -> Block | None:
    """The test of a design as a transmitter has it; None where no motor with a switch is plugged
    in."""
    model = with_guard(made.reduced)
    guard = model.program.guard
    switch = None if guard is None else model.transmitter.control(guard.switch)
    plugged = {lead.target for lead in model.leads if lead.port is not None}
    if guard is None or switch is None or not plugged & {m.name for m in model.airframe.motors}:
        return None
    acts = list(_acts(model, switch, guard.cut[0]))
    rows = []
    for place, (act, told) in enumerate(zip(acts, _told(made, acts), strict=True)):
        rows.append(
            Row(f"guard {place} {act.words}", (act.words, told), hands=tuple(act.hands.items()))
        )
    return Block(
        "guard test",
        "Test of the motor guard, now that its lines are in",
        caution=CAUTION,
        columns=("Do", "Motors, µs"),
        rows=tuple(rows),
    )


def with_guard(made: Reduced) -> Model:
    """The design with the guard that it had last: where the transmitter has none, its switch still
    is the one that stops the motors."""
    for model in (made.model, *(stage.before for stage in reversed(made.stages))):
        if model.program.guard is not None:
            return model
    return made.model


def _acts(model: Model, switch: Control, cut: int) -> Iterator[GuardAct]:
    """The acts, in their order, from switching on with the motor's switch at cut."""
    axis = model.program.axis("thrust")
    stick = "" if axis is None else axis.control
    name = switch.label
    runs = run_positions(model)

    def put(place: int, at: float, words: str, link: bool = True) -> GuardAct:
        hands: dict[str, float] = {switch.name: float(place)}
        if stick:
            hands[stick] = at
        return GuardAct(words, hands, link)

    cut_word = switch.positions[cut]
    if not stick:
        yield put(cut, LOW, f"{name} at {cut_word}")
        for run in runs:
            yield put(run, LOW, f"{name} to {switch.positions[run]}")
        return
    label = control_label(model, stick)
    for run in runs:
        word = switch.positions[run]
        yield put(cut, FULL, f"{name} at {cut_word}, {label} full")
        yield put(run, FULL, f"{label.capitalize()} still full: {name} to {word}")
        yield put(run, LOW, f"{label.capitalize()} low")
        yield put(run, HALF, f"{label.capitalize()} to half")
        yield put(cut, HALF, f"{name} to {cut_word}, {label} at half")
        yield put(cut, LOW, f"{label.capitalize()} low")
        yield put(run, LOW, f"{name} to {word}")
        yield put(run, HALF, f"{label.capitalize()} to half")
    last = switch.positions[runs[-1]] if runs else cut_word
    back = runs[-1] if runs else cut
    yield put(back, HALF, f"Transmitter off, {name} at {last}, {label} at half", False)
    yield put(back, HALF, "Transmitter on again, nothing else touched")
    yield put(cut, LOW, f"{name} to {cut_word}, {label} low")


def _told(made: Keying, acts: list[GuardAct]) -> Iterator[str]:
    """What the motors are told at the end of each act."""
    model = made.reduced.model
    frame_s = model.program.frame_s
    each = round(WAIT_S / frame_s)
    t = np.arange((len(acts) + 1) * each, dtype=np.float64) * frame_s
    # switched on as the first act has the switches, the stick low
    still = {**made.at_rest(), **acts[0].hands, **quiet_hands(model)}
    axis = model.program.axis("thrust")
    if axis is not None:
        still[axis.control] = LOW
    tracks: dict[str, Numbers] = {}
    for name, first in still.items():
        values = [act.hands.get(name, first) for act in acts]
        tracks[name] = np.repeat(np.array([first, *values]), each)
    link = np.repeat(np.array([1.0, *(float(act.link) for act in acts)]), each)
    result = compile_plan(model).run(Situation.of(t, {**tracks, "link": link}))
    motors = {motor.name for motor in model.airframe.motors}
    leads = [lead for lead in keyed_leads(model) if lead.target in motors]
    tx = model.transmitter
    off = {x.name: tx.centre_us + tx.us_per_percent * idle_percent(x, tx) for x in leads}
    for place in range(len(acts)):
        end = (place + 2) * each - 1
        said = {x.name: float(np.broadcast_to(result.outputs[x.name].us, t.shape)[end]) for x in leads}  # fmt: skip
        yield _motors_words({x.label: (said[x.name], off[x.name]) for x in leads})


def _motors_words(pulses: dict[str, tuple[float, float]]) -> str:
    """What motors do: together where they do the same."""
    words = {label: _pulse_words(us, off) for label, (us, off) in pulses.items()}
    if len(set(words.values())) == 1:
        return next(iter(words.values()))
    return "; ".join(f"{label} {said}" for label, said in words.items())


def _pulse_words(us: float, off: float) -> str:
    if us == 0:
        return "no pulses"
    if abs(us - off) < 0.5:
        return f"still, {number(us)}"
    return f"turning, {number(us)}"
