# SPDX-License-Identifier: GPL-3.0-or-later
"""All that the core says of a model, as lines: of its rules, of a flight with wild hands, of its
proposals and its scenarios."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import Any

import numpy as np
from random_models import FRAME, moves

from hypsos.core.document.document import Model
from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS, with_proposal
from hypsos.core.edits.ready_announcements import ready_sets, with_ready_set
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.explain.behaviour_preview import trailing_edges
from hypsos.core.explain.explain_condition import Moment
from hypsos.core.explain.guard_ways import change, ways
from hypsos.core.explain.mix_streams import effects, net
from hypsos.core.explain.mode_ways import ways_to_modes
from hypsos.core.explain.motor_words import motor_said
from hypsos.core.fitting.effective_throw import full_stick
from hypsos.core.fitting.feel_words import feel_at_a_glance
from hypsos.core.review.findings import Shakedown
from hypsos.core.review.report import as_json
from hypsos.core.rundown import attentions
from hypsos.core.scenarios.failsafe_capture import capture_doubts
from hypsos.core.scenarios.failsafe_proposals import PROPOSALS, proposed
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.rehearsals import outcomes
from hypsos.core.scenarios.scenario_run import expectation_words, run_scenario
from hypsos.core.wording.describe_condition import phrase

FRAMES, PIECE = 240, 40


def figure(x: object) -> str:
    """A number to a thousandth, -0 as 0."""
    return f"{round(float(np.ravel(x)[-1]), 3) + 0.0:g}"  # type: ignore[arg-type]


def all_said(model: Model, seed: int) -> Iterator[str]:
    """Everything, in one row."""
    yield from (f"{x.step}: {x.text}" for x in attentions(model))
    yield from _of_rules(model)
    yield from _in_the_air(model, seed)
    yield from _of_hands(model)
    yield from _of_proposals(model)


def _conditions(model: Model) -> list[str]:
    own = [x.name for x in model.program.logic if x.kind != "gate"]
    modes = [f"mode:{m.name}" for m in model.program.modes]
    return [*own, *(f"!{n}" for n in own), *modes, "link", "!power"]


def _of_rules(model: Model) -> Iterator[str]:
    yield from (f"{n}: {phrase(model, n)}" for n in _conditions(model))
    yield from (f"{w.start} -> {w.end}: {w.words}" for w in ways(model))
    yield from (f"way to {n}: {sorted(hands.items())}" for n, hands in ways_to_modes(model).items())
    yield from (f"{title}: {x}" for title, x in outcomes(model).items())
    for scenario in ready_scenarios(model):
        yield f"{scenario.label}: {run_scenario(model, scenario)}"
        yield from (expectation_words(model, x) for x in scenario.expectations)
    for name in ("base", *(m.name for m in model.program.modes)):
        yield f"feel {name}: {feel_at_a_glance(model, name)}"


def _in_the_air(model: Model, seed: int) -> Iterator[str]:
    plan, parts = compile_plan(model), [p.name for p in model.airframe.moved()]
    controls, *around = moves(model, seed, FRAMES)
    memory, before = None, None
    for at in range(0, FRAMES, PIECE):
        piece = slice(at, at + PIECE)
        hands = {n: x[piece] for n, x in controls.items()}
        flown = plan.run(
            Situation(FRAME * np.arange(at, at + PIECE), hands, *(x[piece] for x in around)),
            memory,
            parts,
        )
        memory = flown.memory
        link, power, _, battery = (bool(x[piece][-1]) for x in around)
        now = Moment(
            model, flown, {n: float(x[-1]) for n, x in hands.items()}, link, power, battery
        )
        yield f"# {at + PIECE}: {motor_said(now).sentence}"
        made: Any = None if before is None else change(before, now, FRAME * at)
        yield f"{made}"
        yield from (f"{n} {now.holds(n)}: {now.because(n)}" for n in _conditions(model))
        for name, found in flown.why.items():
            yield f"{name}: " + ", ".join(f"{c.label} {figure(c.amount)} {c.path}" for c in found)
        yield from capture_doubts(model, flown)
        before = now


def _of_hands(model: Model) -> Iterator[str]:
    plan = compile_plan(model)
    for control in (
        *(c.name for c in model.transmitter.controls),
        "aileron_stick",
        "elevator_stick",
        "throttle_stick",
    ):
        yield from (f"{control}: {x}" for x in effects(model, plan, control))
    yield from (str(x) for x in net(model).streams)
    for surface in model.airframe.surfaces:
        yield f"{full_stick(model, surface.name)}"
    for i in range(len(model.program.recipes)):
        yield from (str(x) for x in trailing_edges(model, i))


def _of_proposals(model: Model) -> Iterator[str]:
    for x in PROPOSALS:
        if x.suits(model.airframe):
            made, because = proposed(model, x)
            yield f"{x.title}: {because} " + " ".join(f"{a.name} {a.failsafe}" for a in made.leads)
    for y in (g for g in GUARD_PROPOSALS if g.suits(model)):
        yield f"{y.title}: {with_proposal(model, y).program.guard}"
    for z in ready_sets(model):
        made = with_ready_set(model, z.key)
        yield from itertools.chain(
            (z.key,), map(str, made.program.announcements), map(str, made.program.timers)
        )


def found_lines(found: Shakedown, texts: bool = False) -> Iterator[str]:
    """All that a search says, but for how long it took: each finding with its way to the hundredth
    of a second."""
    told = as_json(found)
    for f in told["findings"]:
        way = " ".join(f"{m['t_s']:g}:{m['set']}={m['to']:g}" for m in f["sequence"])
        said = f" {f['text']} {f['also']}" if texts else ""
        yield f"{f['statement']} {f['level']} {f['part']} {f['confirmed']} [{way}] {f['waits_s']:g} {f['length_s']:g}{said}"
    for s in told["searched"]:
        yield f"{s['statement']} {s['situations']} {s['complete']} {s['possible']} {s.get('note', '')}"
