# SPDX-License-Identifier: GPL-3.0-or-later
"""Brute force: every sequence of up to three acts on small random models, played by the engine,
against what a search says."""

from __future__ import annotations

import itertools
import os
from typing import Any, NamedTuple

import numpy as np
import pytest
from parts import from_parts
from random_models import Dice

from hypsos.core.conditions import Combine, Compare, Delay, Latch
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Result, Situation, compile_plan
from hypsos.core.parts.leads import Failsafe
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.shakedown import shake

FRAME = 0.1
SHORT, LONG = 2, 16
"""Frames from one act to the next: at once, or after everything that waits has waited."""
ASKED = ("M1", "M2", "M3", "M6", "S2", "S4", "L2")
ARMED = int(GuardState.ARMED)
MOTOR = "left_motor"
SURFACES = ("left_aileron", "right_aileron")


def small(seed: int) -> Model:
    """A model with few controls, one motor that runs, two ailerons, up to two conditions and a
    guard of any level."""
    d = Dice(seed)
    nodes: list[Any] = []

    def ask() -> str:
        named = [lambda: d.of(*nodes).name] * len(nodes)
        text = d.of(lambda: f"switch_b@{d.whole(0, 1)}", lambda: "switch_c@2", *named)()
        return f"!{text}" if d.chance(0.2) else text

    for i in range(d.whole(0, 2)):
        made = d.of(
            lambda n: Compare(
                name=n,
                kind=d.of("above", "below", "beyond"),
                a=d.of("rudder_stick", "throttle_stick"),
                x=d.of(-50.0, 50.0),
                hysteresis=d.of(0.0, 20.0),
            ),
            lambda n: Delay(
                name=n, kind=d.of("on_delay", "off_delay", "pulse"), of=ask(), seconds=0.3
            ),
            lambda n: Latch(name=n, set=ask(), reset=ask(), edges=d.chance(0.5)),
            lambda n: Combine(name=n, kind=d.of("all", "any", "one"), of=(ask(), ask())),
        )(f"n{i}")
        nodes.append(made)
    mixes = [MixLine(name="throttle", target=MOTOR, source="thrust")] if d.chance(0.9) else []
    for i in range(d.whole(0, 2)):
        source, gain = d.of("full", "yaw", "thrust"), d.of(-60.0, 3.0, 20.0, 80.0)
        mixes.append(
            MixLine(
                name=f"m{i}",
                target=MOTOR,
                source=source,
                gain=gain,
                when=ask() if d.chance(0.6) else None,
            )
        )
    for i, (name, sense) in enumerate(zip(SURFACES, (1, -1), strict=True)):
        mixes.append(
            MixLine(name=f"r{i}", target=name, source="roll", gain=sense * d.of(80.0, 120.0))
        )
        if d.chance(0.6):
            mixes.append(
                MixLine(
                    name=f"f{i}",
                    target=name,
                    source="full",
                    gain=d.of(25.0, 45.0, 70.0),
                    when=ask(),
                )
            )
    made = from_parts(tuple(nodes), mixes=tuple(mixes), motors=True)
    guard = made.program.guard.changed(
        {
            "level": d.whole(1, 4),
            "rest_s": d.of(0.1, 0.2),
            "relock_s": d.of(0.3, 0.8),
            "wakes_when_low": d.chance(0.2),
            "holds": (ask(),) if d.chance(0.25) else (),
        }
    )
    safe = d.of(
        None,
        Failsafe(value=-100.0),
        Failsafe(value=-100.0),
        Failsafe(value=-40.0),
        Failsafe(action="hold"),
    )
    leads = tuple(
        x.changed(
            {"failsafe": safe, "stop_pos": 150.0, "stop_neg": -150.0}
            if x.target == MOTOR
            else {"stop_pos": 120.0 if x.target in SURFACES else 100.0, "stop_neg": -130.0}
        )
        for x in made.leads
    )
    program = made.program.changed({"guard": guard, "frame_s": FRAME})
    return made.changed(
        {
            "program": program,
            "leads": leads,
            "receiver": made.receiver.changed({"failsafe_after_s": 0.4}),
        }
    )


class Played(NamedTuple):
    """Every sequence of one length: what came of it, the frame of each act, and which act it
    was."""

    result: Result
    frames: np.ndarray
    acts: list[tuple[tuple[str, float], ...]]
    tracks: dict[str, np.ndarray]


def _values(model: Model) -> dict[str, tuple[float, ...]]:
    """The controls that anything in a small model goes by, and where they are put."""
    text = model.program.model_dump_json()
    out: dict[str, tuple[float, ...]] = {"motor_switch": (0, 1), "throttle_stick": (-100, -60, 100)}
    for name, key, values in (
        ("rudder_stick", '"yaw"', (-100, 0, 100)), ("switch_b", "switch_b@", (0, 1)), ("switch_c", "switch_c@", (0, 1, 2)),
    ):  # fmt: skip
        if (
            name in text.replace('"control":"rudder_stick"', "")
            or f'"source":{key}' in text
            or key in text.replace('"yaw"', "")
        ):
            out[name] = values
    return out | {"aileron_stick": (-100, 0, 100), "link": (0, 1), "power": (0, 1)}


def played(model: Model, length: int) -> Played:
    """Every sequence of so many acts, the power coming on before any of them, with short and with
    long times between."""
    plan, values = compile_plan(model), _values(model)
    rest = plan.rest | {"link": 1.0, "power": 1.0}
    rows: list[tuple[tuple[tuple[str, float], ...], int, tuple[int, ...]]] = []
    for chosen in itertools.product(
        [(n, float(v)) for n, vs in values.items() for v in vs], repeat=length
    ):
        if not _possible(model, chosen, rest):
            continue
        for before in range(length + 1):
            for gaps in itertools.product((SHORT, LONG), repeat=max(0, length - before)):
                rows.append((chosen, before, gaps))
    whole = LONG * (length + 1) + 1
    tracks = {n: np.full((len(rows), whole), rest[n]) for n in values}
    frames = np.zeros((len(rows), length + 1), int)
    for r, (chosen, before, gaps) in enumerate(rows):
        at = 0
        for k, (name, value) in enumerate(chosen):
            at += gaps[k - before] if k >= before else 0
            frames[r, k] = at
            tracks[name][r, at:] = value
        frames[r, length] = at + LONG
    situation = Situation.of(FRAME * np.arange(whole), tracks)
    return Played(plan.run(situation), frames, [c for c, _, _ in rows], tracks)


def _possible(model: Model, chosen: Any, rest: Any) -> bool:
    """Whether hands can do this: each act changes something, and a switch goes one position on."""
    at = dict(rest)
    for name, value in chosen:
        control = model.transmitter.control(name)
        if at[name] == value or (
            control is not None and control.is_switch and abs(at[name] - value) > 1
        ):
            return False
        at[name] = value
    return True


def one_row(model: Model, finding: Finding) -> Played:
    """The way of a finding, played for a while longer than it says."""
    plan, values = compile_plan(model), _values(model)
    rest = plan.rest | {"link": 1.0, "power": 1.0}
    at = [round(m.t_s / FRAME) for m in finding.moves]
    whole = (at[-1] if at else 0) + LONG + 1
    tracks = {
        n: np.full((1, whole), rest[n]) for n in {*values, *(m.control for m in finding.moves)}
    }
    for move, frame in zip(finding.moves, at, strict=True):
        tracks[move.control][0, frame:] = move.to
    situation = Situation.of(FRAME * np.arange(whole), tracks)
    acts = [tuple((m.control, m.to) for m in finding.moves)]
    return Played(plan.run(situation), np.array([[*at, whole - 1]]), acts, tracks)


def broken(model: Model, p: Played) -> dict[str, object]:
    """The statements that some of the sequences break, by what each of them claims, with one such
    sequence."""
    length = p.frames.shape[1] - 1
    shape = p.tracks["link"].shape
    out: dict[str, object] = {}

    def note(statement: str, rows: Any) -> None:
        found = np.flatnonzero(rows)
        if found.size:
            r = int(found[0])
            out.setdefault(statement, (p.acts[r], (FRAME * p.frames[r]).round(2).tolist()))

    lead = next(x for x in model.leads if x.target == MOTOR)
    trace = p.result.outputs[lead.name]
    stand = np.broadcast_to(np.where(trace.us > 0, trace.stand, -100.0), shape)
    guard, failsafe = np.broadcast_to(p.result.guard, shape), np.broadcast_to(trace.failsafe, shape)
    power = p.tracks["power"] > 0.5
    link = (p.tracks["link"] > 0.5) & power
    within = (
        np.arange(shape[1]) < p.frames[:, -1:]
    )  # what comes after the last look belongs to no sequence
    turns = (stand > -99.8) & within
    note("M1", (turns & (guard != ARMED) & (link | (failsafe & power))).any(1))
    note("M3", (turns & failsafe & power & ~link).any(1))
    freed = (guard[:, 1:] == ARMED) & (guard[:, :-1] != ARMED) & link[:, 1:] & link[:, :-1]
    note("M6", (freed & (stand[:, 1:] - stand[:, :-1] > 5.001) & within[:, 1:]).any(1))
    wrong = np.zeros(len(p.acts), bool)
    level = model.program.guard.level
    for k in range(length):
        for r in np.flatnonzero(p.frames[:, k] > 0):
            at, end, name = int(p.frames[r, k]), int(p.frames[r, k + 1]), p.acts[r][k][0]
            if end == at or (guard[r, at - 1 : end] != ARMED).any():
                continue
            at_once = stand[r, at : min(at + 3, end)].max()
            given, later = at_once - stand[r, at - 1], stand[r, at:end].max() - at_once
            back = name in ("link", "power")
            wrong[r] |= later > 5.001 and end - at >= LONG and link[r, at:end].all()
            meant = name == "throttle_stick" or (
                back and not (failsafe[r, at - 1] and level < 4 and name == "link")
            )
            heard = back or link[r, at - 1 : end].all()  # what a lost link does to a motor is M3's
            wrong[r] |= given > 5.001 and heard and not meant
    note("M2", wrong)
    _surfaces(model, p, note)
    return out


def _surfaces(model: Model, p: Played, note: Any) -> None:
    for lead in model.leads:
        if lead.target not in SURFACES:
            continue
        total = np.broadcast_to(p.result.sums[lead.target], p.tracks["link"].shape)
        wanted = np.where(total < 0, lead.stop_neg, lead.stop_pos)
        note("S2", (np.abs(total) > np.abs(wanted) + 1.001).any(1))
        jumps = np.zeros(len(total), bool)
        stand = np.broadcast_to(p.result.outputs[lead.name].stand, total.shape)
        resting = np.ones(len(total), bool)
        for name in ("aileron_stick", "throttle_stick", "rudder_stick"):
            if name in p.tracks:
                resting &= (
                    p.tracks[name] == p.tracks[name][0, 0]
                    if name != "throttle_stick"
                    else p.tracks[name] == -100
                ).all(1)
        heard = ((p.tracks["link"] > 0.5) & (p.tracks["power"] > 0.5)).all(1)
        for r in np.flatnonzero(resting & heard & (p.frames[:, -2] > 0)):
            at, name = int(p.frames[r, -2]), p.acts[r][-1][0]
            control = model.transmitter.control(name)
            still = np.ptp(stand[r, max(0, at - LONG) : at]) < 0.1 or at >= LONG
            one_on = control is not None and control.kind == "switch"
            jumps[r] = one_on and still and abs(stand[r, at + 1] - stand[r, at - 1]) > 40.01
        note("S4", jumps)


def flags_seen(model: Model, length: int) -> dict[str, set[bool]]:
    """Which values every condition was seen to have."""
    p = played(model, length)
    return {
        x.name: {bool(v) for v in np.unique(p.result.logic[x.name])} for x in model.program.logic
    }


SEEDS = [int(x) for x in os.environ.get("HYPSOS_BRUTE_SEEDS", "45 58").split()]
"""One with a jump that an off-delay hid, and one with a loss that lasts as long as a pulse; more
where more is asked for."""


@pytest.mark.parametrize("seed", SEEDS)
def test_a_search_finds_what_every_short_sequence_shows(seed: int) -> None:
    """What any sequence breaks is found, by a way that is no longer; and what was called clean is
    broken by none."""
    model = small(seed)
    found = shake(Ask(model), ASKED)
    complete = {s.statement for s in found.searched if s.complete}
    assert complete == set(ASKED)
    first: dict[str, tuple[int, object]] = {}
    for length in (1, 2, 3):
        for statement, example in broken(model, played(model, length)).items():
            first.setdefault(statement, (length, example))
    for statement, (length, example) in sorted(first.items()):
        ways = [f for f in found.findings if f.statement == statement and f.confirmed]
        named = any(text.startswith(f"{statement}: ") for f in found.findings for text in f.also)
        assert ways or named, (statement, example)
        if statement[0] == "M" and ways:
            assert min(len(f.moves) for f in ways) <= length, (
                statement,
                example,
                [f.captions for f in ways],
            )
    for finding in found.findings:
        back = finding.moves and finding.moves[-1].control in ("link", "power")
        if (
            finding.confirmed
            and finding.statement != "L2"
            and finding.level != "advice"
            and not (back and finding.statement == "M2")
        ):
            assert finding.statement in broken(model, one_row(model, finding)), finding
    never = {
        f.part: f.text
        for f in found.findings
        if f.statement == "L2" and "whatever the hands do" in f.text
    }
    seen = flags_seen(model, 3)
    for i, node in enumerate(model.program.logic):
        if f"program.logic[{i}]" in never:
            assert seen[node.name] == {"always" in never[f"program.logic[{i}]"]}, node


def test_brute_force_breaks_every_statement_somewhere() -> None:
    """Otherwise it would show nothing."""
    rows = [(small(seed), 2) for seed in range(8)] + [(small(8), 3)]
    found = set().union(*(broken(model, played(model, length)) for model, length in rows))
    assert found >= {"M1", "M2", "M3", "M6", "S2", "S4"}
