"""Random hands against what a shakedown has called clean: nothing they do may break it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.engine import GuardState, Situation
from hypsos.core.engine.situation import control_bounds
from hypsos.core.ground.kept import kept
from hypsos.core.model.document import Model
from hypsos.core.shakedown.motors import MORE, TURNS
from hypsos.core.shakedown.play import EXTRA, Stage
from hypsos.core.shakedown.statements import Shakedown
from hypsos.core.shakedown.steering import ENDS, SHARE, Steering
from hypsos.core.shakedown.surfaces import LOST, SurfaceSearch

RELEASED = int(GuardState.RELEASED)
ASKED = ("M1", "M2", "M3", "M6", "S1", "S2")
LONGEST = 15


class Walk(NamedTuple):
    """Rows of random acts: the situation, the frame of each act, and per row and act the number of the control moved."""

    situation: Situation
    frames: np.ndarray
    moved: np.ndarray
    names: list[str]
    settled: np.ndarray
    """Acts before which everything had come to rest."""


def walk(model: Model, seed: int, rows: int, acts: int) -> Walk:
    rng = np.random.default_rng(seed)
    stage = Stage(model)
    names = [*sorted(n for n in stage.plan.rest if not n.endswith("_trim") or rng.random() < 0.5), "link", "power"]
    rest = round(min(20.0, stage.settle_s + max(stage.waits.values(), default=0.0)) / stage.frame) + 3
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
        low, high = (0.0, 1.0) if name in EXTRA else control_bounds(model, name)
        switch = control is not None and control.is_switch
        start = np.full(rows, (stage.plan.rest | EXTRA)[name])
        now = rng.integers(low, high + 1, rows).astype(float) if switch else start
        values = np.empty((rows, acts + 1))
        values[:, 0] = now
        for i in range(acts):
            here = moved[:, i] == k
            if name in EXTRA:
                new = 1.0 - now
            elif switch:
                way = np.where(rng.random(rows) < 0.5, -1, 1)
                new = np.where((now + way < low) | (now + way > high), now - way, now + way)
            else:
                sharp = rng.choice([low, low, high, -96.0, -94.0, 0.0], rows)
                new = np.clip(np.where(rng.random(rows) < 0.6, sharp, rng.uniform(low, high, rows)), low, high)
            now = np.where(here, new, now)
            values[:, i + 1] = now
        tracks[name] = np.repeat(values, np.diff([0, *frames, whole]), axis=1)
    t = stage.frame * np.arange(whole, dtype=float)
    link, power = tracks.pop("link"), tracks.pop("power")
    return Walk(Situation(t, tracks, link, power), frames, moved, names, lasts == rest)


def steered(model: Model, w: Walk, seed: int) -> list[str]:
    """Where the hands have come to, the link up, the sticks and trims are let go; then one stick goes to an end. Commands of
    which less is left than the shakedown lets pass, in words."""
    search = _searched(model)
    commands = [Steering(search, c) for c in search.steered]
    commands = [(x, x._clean(x.cases[:1])) for x in commands if x.ways and len(x.cases)]
    if not commands:
        return []
    rng, rest = np.random.default_rng(seed), search.still()
    rows = len(np.asarray(w.situation.link))
    chosen, ends = rng.integers(0, len(commands), rows), rng.choice(ENDS, rows)
    frames = (
        round(min(20.0, search.stage.settle_s + max(search.stage.waits.values(), default=0.0)) / search.stage.frame) + 3
    )
    controls = {n: np.asarray(x) for n, x in w.situation.controls.items()}
    sticks = set(search.steered.values())
    tracks = {}
    for name in controls.keys() | sticks:
        last = controls[name][:, -1:] if name in controls else np.full((rows, 1), search.stage.plan.rest[name])
        still = np.full((rows, 1), rest[name]) if name in rest else last
        there = still.copy()
        for i, (x, _) in enumerate(commands):
            if x.stick == name:
                there[chosen == i, 0] = ends[chosen == i]
        before = controls.get(name, np.repeat(last, len(w.situation.t_s), axis=1))
        tracks[name] = np.concatenate(
            [before, np.repeat(still, frames, axis=1), np.repeat(there, frames, axis=1)], axis=1
        )
    t = search.stage.frame * np.arange(len(w.situation.t_s) + 2 * frames, dtype=float)
    up = np.ones((rows, 2 * frames))
    link, power = (np.concatenate([np.asarray(x), up], axis=1) for x in (w.situation.link, w.situation.power))
    result = search.stage.plan.run(Situation(t, tracks, link, power))
    out = []
    for i, (x, given) in enumerate(commands):
        mine = np.flatnonzero(chosen == i)
        got = np.zeros(len(mine))
        for name, way in x.ways.items():
            stand = np.broadcast_to(result.outputs[search.leads[name].name].stand, link.shape)[mine]
            got += way * (stand[:, -1] - stand[:, -frames - 1]) / len(x.ways)
        for k, row in enumerate(mine.tolist()):
            full = float(np.max(given[float(ends[row])]))
            if x.sense(float(ends[row])) * got[k] < (SHARE - 0.005) * full:
                out.append(f"S1 {x.command} {100 * x.sense(float(ends[row])) * got[k] / full:.0f} % in row {row}")
    return out


@kept
def _searched(model: Model) -> SurfaceSearch:
    return SurfaceSearch(model, 600_000, lambda: False)


def clean(found: Shakedown) -> set[str]:
    """What was searched completely and not found broken."""
    broken = {f.statement for f in found.findings}
    return {s.statement for s in found.searched if s.complete and s.statement not in broken} & set(ASKED)


def broken_by(model: Model, wanted: set[str], w: Walk) -> list[str]:
    """What these hands break of what is wanted, in words."""
    stage = Stage(model)
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
        acting = np.broadcast_to(trace.failsafe, shape) & (np.asarray(w.situation.power) > 0.5) & ~link
        turns = stand > -100.0 + TURNS
        if "M1" in wanted and (turns & (guard != RELEASED) & (link | acting)).any():
            out.append(f"M1 {lead.name}")
        if "M3" in wanted and (turns & acting).any():
            out.append(f"M3 {lead.name}")
        low = max(MORE, model.program.guard.threshold + 100.0) if model.program.guard is not None else MORE
        more = stand[:, 1:] - stand[:, :-1] > low + 1e-6
        freed = (guard[:, 1:] == RELEASED) & (guard[:, :-1] != RELEASED) & link[:, 1:] & link[:, :-1]
        if "M6" in wanted and (more & freed).any():
            out.append(f"M6 {lead.name}")
        for i, at in enumerate(w.frames[:-1]) if "M2" in wanted else ():
            end = w.frames[i + 1]
            if not w.settled[i] or end == at:
                continue
            held = (guard[:, at - 1 : end] == RELEASED).all(axis=1)
            raised = held & (stand[:, at:end].max(axis=1) - stand[:, at - 1] > MORE) & (w.moved[:, i] != thrust)
            raised &= ~np.isin(w.moved[:, i], back if level >= 4 else back[:1]) | acting[:, at - 1]
            if raised.any():
                row = int(np.argmax(raised))
                out.append(f"M2 {lead.name} by {w.names[w.moved[row, i]]} in row {row} at frame {at}")
    if "S2" in wanted:
        search = SurfaceSearch.__new__(SurfaceSearch)
        for lead in model.leads:
            if lead.target not in motors and lead.port is not None and lead.target in result.sums:
                lost = np.abs(search.cut(lead, result.sums[lead.target]))
                if (lost > LOST + 0.5).any():
                    out.append(f"S2 {lead.name} loses {lost.max():.2f}")
    if "S1" in wanted:
        out += steered(model, w, int(w.frames[-1]))
    return out
