# SPDX-License-Identifier: GPL-3.0-or-later
"""Y-leads: whether two servos always do the same, so that they may share a port."""

from __future__ import annotations

from typing import Any

from hypsos.core.base.lookup import replaced, the_named
from hypsos.core.dependencies.failsafe_defaults import usual_failsafe
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.parts.leads import Failsafe, Lead, YLead
from hypsos.core.parts.mix_lines import MixLine, Response


def joined(model: Model, first: str, second: str, reversing: bool) -> Model:
    """The model with two leads, by name, joined by a Y-lead on the first one's port."""
    leads = {x.name: x for x in model.leads}
    both = replaced(model.leads, leads[second].changed({"port": leads[first].port}))
    made = YLead(first=first, second=second, reversing=reversing)
    return model.changed({"leads": both, "y_leads": (*model.y_leads, made)})


def parted(model: Model, index: int) -> Model:
    """The model with a Y-lead taken apart; its second lead is then not plugged in."""
    gone = model.y_leads[index]
    second = the_named(model.leads, gone.second)
    leads = replaced(model.leads, second.changed({"port": None}))
    kept = tuple(y for i, y in enumerate(model.y_leads) if i != index)
    return model.changed({"leads": leads, "y_leads": kept})


def partner(model: Model, lead: str) -> str | None:
    """The lead that shares a port with this one, or None."""
    for y in model.y_leads:
        if lead in (y.first, y.second):
            return y.second if lead == y.first else y.first
    return None


def followed(before: Model, after: Model) -> Model:
    """After an edit: where one of two leads on a port was given another output or failsafe, the
    other gets it too, as its own servo needs it; one channel serves both."""
    old = {x.name: x for x in before.leads}
    leads = {x.name: x for x in after.leads}
    for y in after.y_leads:
        # a Y-lead that has only now come joins what is there: nothing follows anything yet
        if y not in before.y_leads or not {y.first, y.second} <= old.keys() & leads.keys():
            continue
        changed = [n for n in (y.first, y.second) if _stage(leads[n]) != _stage(old[n])]
        # neither changed, or both were set: nobody has to follow
        if len(changed) != 1:
            continue
        sense = _sense(after, leads[y.first].target, leads[y.second].target, lines_by_target(after))
        if sense:
            other = y.second if changed[0] == y.first else y.first
            leads[other] = _following(after, leads[changed[0]], leads[other], sense, y.reversing)
    made = tuple(leads[x.name] for x in after.leads)
    return after if made == after.leads else after.changed({"leads": made})


def _stage(lead: Lead) -> tuple[Any, ...]:
    return (
        lead.direction,
        lead.curve,
        lead.centre,
        lead.travel_neg,
        lead.travel_pos,
        lead.stop_neg,
        lead.stop_pos,
        lead.slow_up_s,
        lead.slow_down_s,
        lead.failsafe,
        lead.idle_us,
    )


def _following(model: Model, first: Lead, second: Lead, sense: int, reversing: bool) -> Lead:
    """``second`` with the output and the failsafe of ``first``; the mirror of them behind a
    reversing lead."""
    turned = -1 if reversing else 1
    ends = (first.travel_neg, first.travel_pos), (first.stop_neg, first.stop_pos)
    travel, stops = ends if turned > 0 else (ends[0][::-1], (-first.stop_pos, -first.stop_neg))
    # with opposite demands the one's up is the other's down
    slow = (first.slow_up_s, first.slow_down_s)[::sense]
    part = next(p for p in model.airframe.moved() if p.name == first.target)
    safe = first.failsafe or usual_failsafe(part)
    fields = {
        "direction": first.direction * sense * turned,
        "centre": turned * first.centre,
        "travel_neg": travel[0],
        "travel_pos": travel[1],
        "stop_neg": stops[0],
        "stop_pos": stops[1],
        "slow_up_s": slow[0],
        "slow_down_s": slow[1],
        "failsafe": Failsafe(action=safe.action, value=sense * safe.value),
        "idle_us": first.idle_us,
        "curve": _seen_from(first.curve, sense),
    }
    return second.changed({**fields})


ByTarget = dict[str, list[MixLine]]


def lines_by_target(model: Model) -> ByTarget:
    """Every line of a model by what it feeds."""
    out: ByTarget = {}
    for placed in all_lines(model):
        out.setdefault(placed.line.target, []).append(placed.line)
    return out


def y_lead_problem(model: Model, y: YLead, by_target: ByTarget) -> tuple[str, str] | None:
    """Why two servos cannot share a port, and what to do; None where they can. ``by_target``: the
    model's lines."""
    leads = {x.name: x for x in model.leads}
    if y.first not in leads or y.second not in leads or y.first == y.second:
        return "a Y-lead joins two different leads of this model", "Choose two leads."
    first, second = leads[y.first], leads[y.second]
    in_the_way = _port_problem(model, y, first, second)
    if in_the_way is not None:
        return in_the_way
    sense = _sense(model, first.target, second.target, by_target)
    if sense == 0:
        differ = _difference(model, first.target, second.target, by_target)
        return (
            f"{_both(first, second)} must differ{differ}; on a Y-lead they always do the same",
            "Give each a port of its own.",
        )
    return _pulse_problem(model, y, first, second, sense)


def _both(first: Lead, second: Lead) -> str:
    return f"{first.label.lower()} and {second.label.lower()}"


def _port_problem(model: Model, y: YLead, first: Lead, second: Lead) -> tuple[str, str] | None:
    """What speaks against one port for both, whatever they are told."""
    ends: list[str] = []
    for y_lead in model.y_leads:
        ends += [y_lead.first, y_lead.second]
    # once each: in this Y-lead itself
    if ends.count(y.first) + ends.count(y.second) > 2:
        return (
            f"{first.label} or {second.label} hangs on another Y-lead already",
            "Take that one apart first.",
        )
    if first.port != second.port:
        return (
            f"{first.label} and {second.label} are joined, so they sit in one port",
            "Plug both into the same port.",
        )
    motors = {m.name for m in model.airframe.motors}
    if (first.target in motors) != (second.target in motors):
        return "a motor and a servo can't share a port", "Give the motor a port of its own."
    return None


def _pulse_problem(
    model: Model, y: YLead, first: Lead, second: Lead, sense: int
) -> tuple[str, str] | None:
    """Why one pulse cannot serve both. ``sense``: 1 where both sums are equal, -1 where they are
    opposite."""
    words = _both(first, second)
    # the same pulse for both: each sign turns one of them round
    pulses = first.direction * sense * second.direction * (-1 if y.reversing else 1)
    if pulses < 0:
        other = "a plain one" if y.reversing else "a reversing one"
        return (
            f"on this Y-lead one of {words} would move the wrong way",
            f"Use {other}, or turn that servo round.",
        )
    turns_motors = any(m.name == first.target for m in model.airframe.motors)
    if turns_motors and (first.idle_us != second.idle_us or y.reversing):
        return (
            f"{words} are off at different pulses",
            "Give each a port of its own, or controllers that are off alike.",
        )
    if not _failsafe_alike(model, first, second, sense):
        return (
            f"{words} have different plans for a lost link; on one port there is one",
            "Give both the same failsafe.",
        )
    if not _alike(first, second, y.reversing, sense < 0):
        return (
            f"{words} have outputs set differently",
            "On one port there is one centre, travel, stop and slow: make them alike.",
        )
    return None


def _lines(model: Model, target: str, factor: float, by_target: ByTarget) -> list[tuple[Any, ...]]:
    turned = next(
        ((s.throw_up_deg, s.throw_down_deg) for s in model.airframe.surfaces if s.name == target),
        None,
    )
    if factor < 0 and turned is not None:
        # mirrored: what goes up on the one side goes down on the other
        turned = turned[::-1]

    def key(line: MixLine) -> tuple[Any, ...]:
        return (
            line.source,
            line.response,
            line.gain * factor,
            line.gain_from,
            line.differential,
            line.differential_off,
            line.differential_from,
            line.with_trim,
            line.in_s,
            line.out_s,
            line.when,
            line.combine,
            turned if line.by_angle else None,
        )

    presets = [("preset", m.name, m.presets.get(target, 0.0) * factor) for m in model.program.modes]
    lines = [key(line) for line in by_target.get(target, ())]
    return sorted([*lines, *presets], key=repr)


def _sense(model: Model, a: str, b: str, by_target: ByTarget) -> int:
    """1 where two parts always get the same demand, -1 where always the opposite one, 0 where they
    must differ."""
    mine = _lines(model, a, 1.0, by_target)
    if mine == _lines(model, b, 1.0, by_target):
        return 1
    # with differential the sides of a movement are unlike, so opposite is not the mirror
    bent = any(len(x) > 3 and x[4] for x in mine)
    return -1 if mine == _lines(model, b, -1.0, by_target) and not bent else 0


def _difference(model: Model, a: str, b: str, by_target: ByTarget) -> str:
    """What tells two parts apart: the first behaviour that one has and the other has not."""
    mine, other = _lines(model, a, 1.0, by_target), _lines(model, b, 1.0, by_target)
    found = next((x for x in mine if x not in other), None)
    names = [line.name for line in by_target.get(a, ()) if found and line.source == found[0]]
    return f" ({names[0].lower()})" if names else ""


def _failsafe_alike(model: Model, a: Lead, b: Lead, sense: int) -> bool:
    parts = {p.name: p for p in model.airframe.moved()}
    first, second = (x.failsafe or usual_failsafe(parts[x.target]) for x in (a, b))
    if first.action != second.action:
        return False
    return first.action != "preset" or first.value == sense * second.value


def _seen_from(curve: Response | None, sense: float) -> Response | None:
    """An output curve as another lead needs it for the same way of its servo: turned round where
    its demands are opposite."""
    if curve is None or sense > 0:
        return curve
    return curve.changed({"points": tuple((-x, -y) for x, y in reversed(curve.points))})


def _alike(a: Lead, b: Lead, mirrored: bool, opposite: bool) -> bool:
    """Whether one channel can do for both outputs: behind a reversing lead the second is the mirror
    of the first. A slow works on the demand, so it changes sides only where the demands are
    opposite."""
    slow, other = (a.slow_up_s, a.slow_down_s), (b.slow_up_s, b.slow_down_s)
    if slow != (other[::-1] if opposite else other):
        return False
    if a.curve != _seen_from(b.curve, -1 if opposite else 1):
        return False
    if mirrored:
        second = (-b.centre, b.travel_pos, b.travel_neg, -b.stop_pos, -b.stop_neg)
    else:
        second = (b.centre, b.travel_neg, b.travel_pos, b.stop_neg, b.stop_pos)
    return (a.centre, a.travel_neg, a.travel_pos, a.stop_neg, a.stop_pos) == second
