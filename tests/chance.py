# SPDX-License-Identifier: GPL-3.0-or-later
"""Random hands against what a shakedown has called clean: nothing they do may break it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.base.cache import kept
from hypsos.core.conditions import Compare, Gate
from hypsos.core.conditions.condition_base import NEAR
from hypsos.core.document.document import Model
from hypsos.core.engine import GuardState, Result, Situation
from hypsos.core.engine.situation import control_bounds
from hypsos.core.parts.airframe import Device
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.review.findings import Shakedown
from hypsos.core.review.rules.steering import ENDS, SHARE, Steering
from hypsos.core.review.rules.switch_jumps import JUMP
from hypsos.core.review.search.motor_replay import MORE, TURNS
from hypsos.core.review.search.replay import Replay
from hypsos.core.review.search.surface_search import LOST, SurfaceSearch

ARMED = int(GuardState.ARMED)
ASKED = ("M1", "M2", "M3", "M6", "S1", "S2", "S4", "S8", "L4")
LONGEST = 15


class Walk(NamedTuple):
    """Rows of random acts: the situation, the frame of each act, and per row and act the number of
    the control moved."""

    situation: Situation
    frames: np.ndarray
    moved: np.ndarray
    names: list[str]
    settled: np.ndarray
    """Acts before which everything had come to rest."""


def walk(model: Model, seed: int, rows: int, acts: int) -> Walk:
    rng = np.random.default_rng(seed)
    stage = Replay(model)
    names = [
        *sorted(n for n in stage.plan.rest if not n.endswith("_trim") or rng.random() < 0.5),
        "link",
        "power",
    ]
    rest = settling(stage)
    lasts = rng.integers(1, LONGEST, acts)
    lasts[rng.random(acts) < 0.05] = rest
    frames = np.cumsum(lasts)
    guard, axis = model.program.guard, model.program.axis("thrust")
    weights = np.ones(len(names))
    for name in [guard.switch if guard else "", axis.control if axis else "", "link", "power"]:
        if name in names:
            weights[names.index(name)] = 4.0
    moved = rng.choice(len(names), (rows, acts), p=weights / weights.sum())
    whole = int(frames[-1]) + rest
    tracks = {}
    for k, name in enumerate(names):
        control = model.transmitter.control(name)
        low, high = (0.0, 1.0) if name in AROUND else control_bounds(model, name)
        switch = control is not None and control.is_switch
        start = np.full(rows, (stage.plan.rest | AROUND)[name])
        now = rng.integers(low, high + 1, rows).astype(float) if switch else start
        values = np.empty((rows, acts + 1))
        values[:, 0] = now
        for i in range(acts):
            here = moved[:, i] == k
            if name in AROUND:
                new = 1.0 - now
            elif switch:
                way = np.where(rng.random(rows) < 0.5, -1, 1)
                new = np.where((now + way < low) | (now + way > high), now - way, now + way)
            else:
                sharp = rng.choice([low, low, high, -96.0, -94.0, 0.0], rows)
                new = np.clip(
                    np.where(rng.random(rows) < 0.6, sharp, rng.uniform(low, high, rows)), low, high
                )
            now = np.where(here, new, now)
            values[:, i + 1] = now
        tracks[name] = np.repeat(values, np.diff([0, *frames, whole]), axis=1)
    t = stage.frame * np.arange(whole, dtype=float)
    return Walk(Situation.of(t, tracks), frames, moved, names, lasts == rest)


def settling(stage: Replay) -> int:
    """Frames after which everything has come to rest."""
    return (
        round(min(20.0, stage.settle_s + max(stage.waits.values(), default=0.0)) / stage.frame) + 3
    )


def going_on(
    stage: Replay, w: Walk, stretches: list[tuple[int, dict[str, np.ndarray]]]
) -> Situation:
    """The walk, and behind it stretches of frames in which the link is up and controls have gone
    elsewhere, per row."""
    controls = {n: np.asarray(x) for n, x in w.situation.controls.items()}
    rows, before = np.asarray(w.situation.link).shape
    tracks = {}
    for name in controls.keys() | {n for _, moved in stretches for n in moved}:
        x = controls.get(name, np.full((rows, before), stage.plan.rest[name]))
        for frames, moved in stretches:
            x = np.concatenate(
                [x, np.repeat(moved.get(name, x[:, -1])[:, None], frames, axis=1)], axis=1
            )
        tracks[name] = x
    more = sum(frames for frames, _ in stretches)
    link, power = (
        np.pad(np.asarray(x), ((0, 0), (0, more)), constant_values=1.0)
        for x in (w.situation.link, w.situation.power)
    )
    return Situation(stage.frame * np.arange(before + more, dtype=float), tracks, link, power)


def steered(model: Model, w: Walk, seed: int) -> list[str]:
    """Where the hands have come to, the link up, the sticks and trims are let go; then one stick
    goes to an end. Commands of which less is left than the shakedown lets pass, in words."""
    search = _searched(model)
    commands = [Steering(search, c) for c in search.steered]
    commands = [(x, x._clean(x.cases[:1])) for x in commands if x.ways and len(x.cases)]  # type: ignore[misc]
    if not commands:
        return []
    rng, rows, frames = (
        np.random.default_rng(seed),
        len(np.asarray(w.situation.link)),
        settling(search.stage),
    )
    chosen, ends = rng.integers(0, len(commands), rows), rng.choice(ENDS, rows)
    still = {n: np.full(rows, v) for n, v in search.still().items()}
    there = {x.stick: np.where(chosen == i, ends, 0.0) for i, (x, _) in enumerate(commands)}  # type: ignore[has-type, misc]
    situation = going_on(search.stage, w, [(frames, still), (frames, there)])
    whole, result = len(situation.t_s), search.stage.plan.run(situation)
    out = []
    for i, (x, given) in enumerate(commands):  # type: ignore[misc]
        mine = np.flatnonzero(chosen == i)
        got = np.zeros(len(mine))
        for name, way in x.ways.items():  # type: ignore[has-type]
            stand = np.broadcast_to(result.outputs[search.leads[name].name].stand, (rows, whole))[
                mine
            ]
            got += way * (stand[:, -1] - stand[:, -frames - 1]) / len(x.ways)  # type: ignore[has-type]
        for k, row in enumerate(mine.tolist()):
            full = float(np.max(given[float(ends[row])]))  # type: ignore[has-type]
            if x.sense(float(ends[row])) * got[k] < (SHARE - 0.005) * full:  # type: ignore[has-type]
                out.append(
                    f"S1 {x.command} {100 * x.sense(float(ends[row])) * got[k] / full:.0f} % in row {row}"  # type: ignore[has-type]
                )  # type: ignore[has-type]
    return out


class Onward(NamedTuple):
    """Where the hands have come to all but the switches is let go; then one switch goes on by one
    position, per row."""

    still: dict[str, np.ndarray]
    moved: dict[str, np.ndarray]
    switch: list[str]


def onward(model: Model, search: SurfaceSearch, w: Walk, rng: np.random.Generator) -> Onward | None:
    switches = [
        c
        for c in model.transmitter.controls
        if c.kind == "switch" and c.name in w.situation.controls
    ]
    if not switches:
        return None
    rows, kinds = (
        len(np.asarray(w.situation.link)),
        {c.name for c in model.transmitter.controls if c.is_switch},
    )
    chosen, step = rng.integers(0, len(switches), rows), rng.choice([-1.0, 1.0], rows)
    moved = {}
    for i, c in enumerate(switches):
        here, last = np.asarray(w.situation.controls[c.name])[:, -1], len(c.positions) - 1
        on = np.where((here + step < 0) | (here + step > last), here - step, here + step)
        moved[c.name] = np.where(chosen == i, on, here)
    still = {n: np.full(rows, v) for n, v in search.stage.plan.rest.items() if n not in kinds}
    return Onward(still, moved, [switches[i].name for i in chosen])


def stands(search: SurfaceSearch, situation: Situation) -> dict[str, np.ndarray]:
    """Where each plugged-in part stands, of shape (rows, frames)."""
    result = search.stage.plan.run(situation)
    shape = np.asarray(situation.link).shape
    return {
        n: np.broadcast_to(result.outputs[x.name].stand, shape) for n, x in search.leads.items()
    }


def sent(search: SurfaceSearch, situation: Situation) -> dict[str, np.ndarray]:
    """Where each plugged-in part is sent, before its servo's own speed, of shape (rows, frames)."""
    result = search.stage.plan.run(situation)
    shape = np.asarray(situation.link).shape
    return {
        n: np.broadcast_to(x.direction * result.outputs[x.name].pct, shape)
        for n, x in search.leads.items()
    }


def jumped(model: Model, w: Walk, seed: int) -> list[str]:
    """Surfaces that are far away two frames after a switch has gone on, in words."""
    search = _searched(model)
    on = onward(model, search, w, np.random.default_rng(seed))
    if on is None:
        return []
    out = []
    found = sent(
        search, going_on(search.stage, w, [(settling(search.stage), on.still), (2, on.moved)])
    )
    for name, stand in found.items():
        far = np.abs(stand[:, -1] - stand[:, -3])
        if far.max() > JUMP + 0.5 and not isinstance(search.parts[name], Device):
            row = int(far.argmax())
            out.append(f"S4 {name} jumps by {far[row]:.1f} with {on.switch[row]} in row {row}")
    return out


def passed(model: Model, w: Walk, seed: int) -> list[str]:
    """Commands of which less is left while something fades or slows than at both its ends, in
    words."""
    search, rng = _searched(model), np.random.default_rng(seed)
    on = onward(model, search, w, rng)
    if on is None or not search.steered:
        return []
    out, frames = [], settling(search.stage)
    for command, stick in search.steered.items():
        ways = search.ways(command)
        if not ways:
            continue
        ends = rng.choice(ENDS, len(on.switch))
        looks = [
            stands(
                search,
                going_on(search.stage, w, [(frames, on.still | {stick: x}), (frames, on.moved)]),
            )
            for x in (ends, 0.0 * ends)
        ]
        sense = (-1.0 if command == "pitch" else 1.0) * np.sign(ends)
        got = sum(w * (looks[0][n] - looks[1][n])[:, -frames - 1 :] for n, w in ways.items()) / len(
            ways
        )
        got = sense[:, None] * np.asarray(got)
        both, worst = np.minimum(got[:, 0], got[:, -1]), got.min(axis=1)
        bad = np.flatnonzero((both - worst > 50.0 * SHARE + 0.5) & (worst < 0.6 * both - 0.5))
        out += [
            f"S8 {command} {worst[i]:.1f} of {both[i]:.1f} with {on.switch[i]} in row {i}"
            for i in bad[:1].tolist()
        ]
    return out


def flickered(model: Model, w: Walk, seed: int) -> list[str]:
    """Surfaces that jump to and fro as a stick or slider trembles at a condition's level, wherever
    the hands have come to."""
    search, rng, out = _searched(model), np.random.default_rng(seed), []
    gates = {x.name: x.source for x in model.program.logic if isinstance(x, Gate)}
    nodes = [
        x
        for x in model.program.logic
        if isinstance(x, Compare) and not x.hysteresis and x.kind != "difference"
    ]
    for node in nodes:
        control = gates.get(node.a, node.a)
        if control not in search.stage.plan.rest:
            continue
        low, high = control_bounds(model, control)
        level = float(
            rng.choice(
                [
                    v
                    for v in (node.x, node.y, -node.x if node.kind == "beyond" else None)
                    if v is not None
                ]
            )
        )
        if not low < level < high:
            continue
        rows = len(np.asarray(w.situation.link))
        under, over = ({control: np.full(rows, level + d)} for d in (-NEAR, NEAR))
        found = sent(
            search,
            going_on(search.stage, w, [(settling(search.stage), under), (2, over), (2, under)]),
        )
        for name, stand in found.items():
            to, fro = np.abs(stand[:, -3] - stand[:, -5]), np.abs(stand[:, -1] - stand[:, -3])
            far = np.minimum(to, fro)
            if far.max() > JUMP + 0.5:
                out.append(
                    f"L4 {name} jumps by {far.max():.1f} at {node.name} in row {int(far.argmax())}"
                )
    return out


@kept
def _searched(model: Model) -> SurfaceSearch:
    return SurfaceSearch(model, 600_000, lambda: False)


def clean(found: Shakedown) -> set[str]:
    """What was searched completely and not found broken."""
    broken = {f.statement for f in found.findings} | {
        also.split(":")[0] for f in found.findings for also in f.also
    }
    return {s.statement for s in found.searched if s.complete and s.statement not in broken} & set(
        ASKED
    )


def broken_by(model: Model, wanted: set[str], w: Walk) -> list[str]:
    """What these hands break of what is wanted, in words."""
    stage = Replay(model)
    result = stage.plan.run(w.situation)
    shape = np.asarray(w.situation.link).shape
    guard = np.broadcast_to(result.guard, shape)
    link = (np.asarray(w.situation.link) > 0.5) & (np.asarray(w.situation.power) > 0.5)
    motors = {m.name for m in model.airframe.motors}
    axis = model.program.axis("thrust")
    thrust = w.names.index(axis.control) if axis is not None and axis.control in w.names else -1
    level = model.program.guard.level if model.program.guard is not None else 0
    back = [w.names.index("link"), w.names.index("power")]
    out = []
    for lead in model.leads:
        trace = result.outputs[lead.name]
        if lead.target not in motors:
            continue
        stand = np.broadcast_to(np.where(trace.us > 0, trace.stand, -100.0), shape)
        acting = (
            np.broadcast_to(trace.failsafe, shape) & (np.asarray(w.situation.power) > 0.5) & ~link
        )
        turns = stand > -100.0 + TURNS
        if "M1" in wanted and (turns & (guard != ARMED) & (link | acting)).any():
            out.append(f"M1 {lead.name}")
        if "M3" in wanted and (turns & acting).any():
            out.append(f"M3 {lead.name}")
        low = (
            max(MORE, model.program.guard.threshold + 100.0)
            if model.program.guard is not None
            else MORE
        )
        more = stand[:, 1:] - stand[:, :-1] > low + 1e-6
        freed = (guard[:, 1:] == ARMED) & (guard[:, :-1] != ARMED) & link[:, 1:] & link[:, :-1]
        if "M6" in wanted and (more & freed).any():
            out.append(f"M6 {lead.name}")
        for i, at in enumerate(w.frames[:-1]) if "M2" in wanted else ():
            end = w.frames[i + 1]
            if not w.settled[i] or end == at:
                continue
            held = (guard[:, at - 1 : end] == ARMED).all(axis=1)
            raised = (
                held
                & (stand[:, at:end].max(axis=1) - stand[:, at - 1] > MORE)
                & (w.moved[:, i] != thrust)
            )
            raised &= ~np.isin(w.moved[:, i], back if level >= 4 else back[:1]) | acting[:, at - 1]
            if raised.any():
                row = int(np.argmax(raised))
                out.append(
                    f"M2 {lead.name} by {w.names[w.moved[row, i]]} in row {row} at frame {at}"
                )
    return out + surfaces_broken_by(model, wanted, w, result)


def surfaces_broken_by(model: Model, wanted: set[str], w: Walk, result: Result) -> list[str]:
    """The same for the statements about surfaces."""
    out, motors = [], {m.name for m in model.airframe.motors}
    if "S2" in wanted:
        search = SurfaceSearch.__new__(SurfaceSearch)
        for lead in model.leads:
            if lead.target not in motors and lead.port is not None and lead.target in result.sums:
                lost = np.abs(search.cut(lead, result.sums[lead.target]))
                if (lost > LOST + 0.5).any():
                    out.append(f"S2 {lead.name} loses {lost.max():.2f}")
    for statement, find in (("S1", steered), ("S4", jumped), ("S8", passed), ("L4", flickered)):
        if statement in wanted:
            out += find(model, w, int(w.frames[-1]))
    return out
