"""What reaches a motor: an edit to any of it locks a running one."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from hypsos.core.ground.kept import kept
from hypsos.core.model.document import Model
from hypsos.core.model.lines import all_lines, reads
from hypsos.core.parts.logic import Gate, asked, conditions_of, signals_of
from hypsos.core.parts.shapes import MixLine


@kept
def motor_reach(model: Model) -> tuple[Any, ...]:
    """Everything in the document on which a motor's pulse and its release hang, to be compared; ``()`` without a motor.

    Where trims stand is left out: a trim lever is a hand's movement, not an edit.
    """
    motors = {m.name for m in model.airframe.motors}
    if not motors:
        return ()
    program = model.program
    lines = [p.line for p in all_lines(model)]
    cone = motor_cone(lines, motors)
    mine = [x for x in lines if x.target in cone]
    guard = program.guard
    presets = tuple(
        (m.name, m.when, m.fade_s, tuple((t, v) for t, v in m.presets.items() if t in cone)) for m in program.modes
    )
    axes = tuple(program.felt(a) for a in program.axes if a.command in cone or a.command == "thrust")
    shared = {x.gain_from for x in mine}
    shared |= {name for a in axes for s in a.settings if s is not None for name in (s.rate_from, s.expo_from)}
    shared |= {r.live_from for r in (*(x.response for x in mine), *(a.curve for a in axes)) if r is not None}
    tunables = tuple(x for x in program.shared_values() if x.name in shared)
    asked = [x.when for x in mine] + [m.when for m in program.modes]
    asked += [text for x in tunables if x.adjuster is not None for _, text in x.adjuster.conditions()]
    asked += [s.from_when for a in axes for s in a.settings if s is not None]
    asked += [*guard.holds, guard.also] if guard is not None else []
    return (
        tuple(sorted(motors)), tuple(mine), guard, presets, tuple(tuple(v for k, v in a if k != "trim") for a in axes),
        tunables, _logic(model, (t for t in asked if t is not None), cone),
        tuple(tuple(v for k, v in x if k not in ("label", "seen_right")) for x in model.leads if x.target in motors),
        tuple((c.name, c.kind, len(c.positions)) for c in model.transmitter.controls),
        (model.transmitter.centre_us, model.transmitter.us_per_percent, program.frame_s),
        (model.receiver.failsafe_after_s, model.receiver.stored),
    )  # fmt: skip


def motor_cone(lines: Iterable[MixLine], motors: set[str]) -> set[str]:
    """The motors and everything that their lines read, and what that reads."""
    feeds: dict[str, set[str]] = {}
    for line in lines:
        feeds.setdefault(line.target, set()).update(reads(line))
    cone, open_ = set(motors), list(motors)
    while open_:
        for source in feeds.get(open_.pop(), ()):
            if source not in cone:
                cone.add(source)
                open_.append(source)
    return cone


def _logic(model: Model, texts: Iterable[str], cone: set[str]) -> tuple[Any, ...]:
    """The logical switches and gates behind these conditions and signals."""
    nodes = {x.name: x for x in model.program.logic}
    open_ = [asked(t).key for t in texts] + [n for n, x in nodes.items() if isinstance(x, Gate) and n in cone]
    found: dict[str, Any] = {}
    while open_:
        name = open_.pop()
        if name in nodes and name not in found:
            node = found[name] = nodes[name]
            open_ += [asked(t).key for t in conditions_of(node)] + list(signals_of(node))
    return tuple(found[n] for n in sorted(found))
