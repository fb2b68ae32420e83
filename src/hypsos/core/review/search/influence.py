# SPDX-License-Identifier: GPL-3.0-or-later
"""What acts on a sum: the controls behind it, put together where they act on each other; and what may make it go further than
the places that are looked at show."""

from __future__ import annotations

from collections.abc import Collection

from hypsos.core.document.document import Model
from hypsos.core.document.lines import reads
from hypsos.core.parts.condition_values import Gate
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import STICKS


def blocks_of(model: Model, target: str) -> list[frozenset[str]]:
    """The controls that feed a sum, put together where they act on each other: what one set of them adds to the sum is the
    same wherever the others stand. Lines by angle act on each other: what their sum is in percent hangs on all of them."""
    lines = [x for x in model.program.mixes if x.target == target]
    sets = [knobs_of(model, x) for x in lines if not x.by_angle]
    sets.append(frozenset().union(*(knobs_of(model, x) for x in lines if x.by_angle)))
    if any(x.combine != "add" for x in lines):
        sets = [frozenset().union(*sets)] if sets else []
    out: list[frozenset[str]] = []
    for found in sets:
        met = [b for b in out if b & found]
        out = [b for b in out if not b & found] + [frozenset(found).union(*met)]
    return sorted((b for b in out if b), key=sorted)


def lags(model: Model, target: str, reachable: Collection[str]) -> bool:
    """Whether something slow on the way to a sum can be out of step with the rest of it: then the sum may go further on the
    way than where it comes to rest. ``deciding``: the controls on which conditions hang."""
    lines = [x for x in model.program.mixes if x.target == target]
    slow = {x.target for x in model.program.mixes if x.in_s or x.out_s}
    for x in lines:
        above = upstream(model, reads(x) - {target})
        if not (x.in_s or x.out_s or slow & above):
            continue
        knobs = knobs_of(model, x)
        others = frozenset[str]().union(*(knobs_of(model, y) for y in lines if y is not x))
        bent = x.reads_shared() or x.differential_off
        if bent or x.when or x.combine != "add" or knobs & (others | set(reachable)):
            return True
        if any(lags(model, n, reachable) for n in slow & above):
            return True
    return False


def bent(model: Model, target: str) -> bool:
    """Whether a shared value that is moved in flight bends what comes to a sum: what it changes goes through a response that is
    not straight, or it acts twice in one line. Then the sum may go further with that value in between than at its ends."""
    moved = {x.name for x in model.program.tunables if x.adjuster is not None}
    return bool(moved) and _bent(model, target, moved)[0]


def crooked(model: Model, target: str) -> bool:
    """Whether a response that is not straight, a differential, or the way from degrees to percent lies behind a sum of several
    lines that goes with a stick or a slider: where it bends for the hands is then not known."""
    behind = upstream(model, {target})
    for name in behind:
        turned = [x for x in model.program.mixes if x.target == name and x.by_angle]
        if len(turned) > 1 and any(_goes(model, x) for x in turned):
            return True
    for x in model.program.mixes:
        if x.target in behind and (x.differential or (x.response is not None and len(x.response.points) > 2)):
            feeding = [y for y in model.program.mixes if y.target == x.source]
            if len(feeding) > 1 and any(_goes(model, y) for y in feeding):
                return True
            for y in feeding[:1]:
                if y.reads_shared() or y.differential_off:
                    return True
    return False


def _goes(model: Model, line: MixLine) -> bool:
    """Whether what a line gives goes with something that has more than positions."""
    for name in knobs_of(model, line):
        control = model.transmitter.control(name)
        if (
            name in (*STICKS, "link_quality")
            or name.endswith("_trim")
            or (control is not None and not control.is_switch)
        ):
            return True
    return False


def _bent(model: Model, target: str, moved: set[str], seen: frozenset[str] = frozenset()) -> tuple[bool, set[str]]:
    """Whether it is bent, and the moved values that act on a sum, an axis or a gate."""
    acting: set[str] = set()
    if target in seen:
        return False, acting
    axis = model.program.axis(target)
    if axis is not None:
        named = {x for s in axis.settings if s is not None for x in (s.rate_from, s.expo_from)}
        curve = {axis.curve.live_from} if axis.curve is not None else set()
        twice = bool(named & curve & moved) or any(
            s is not None and s.rate_from == s.expo_from and s.rate_from in moved for s in axis.settings
        )
        return twice, {n for n in named | curve if n in moved}
    for x in (x for x in model.program.mixes if x.target == target):
        before: set[str] = set()
        for name in reads(x):
            found, more = _bent(model, name, moved, seen | {target})
            if found:
                return True, before
            before |= more
        response = x.response
        asked_for = x.reads_shared()
        own = {n for n in asked_for if n in moved}
        curved = response is not None and (len(response.points) > 2 or response.live_from is not None)
        smooth = response is not None and response.shape == "smooth" and response.live_from in moved
        twice = any(asked_for.count(n) > 1 for n in own)
        if (before and (curved or x.differential)) or own & before or smooth or twice:
            return True, before
        acting |= before | own
        if x.combine == "scale" and acting and before | own:
            return True, acting
    return False, acting


def upstream(model: Model, names: set[str]) -> set[str]:
    """These sums and those that feed them."""
    found, open_ = set[str](), set(names)
    while open_:
        name = open_.pop()
        if name not in found:
            found.add(name)
            open_ |= {n for x in model.program.mixes if x.target == name for n in reads(x)}
    return found


def knobs_of(model: Model, line: MixLine, seen: frozenset[str] = frozenset()) -> frozenset[str]:
    """The controls on which what a line gives hangs, but for conditions."""
    out = frozenset[str]()
    for name in reads(line):
        out |= _behind(model, name, seen)
    return out | _shared_controls(model, {*line.reads_shared()})


def _shared_controls(model: Model, names: set[str | None]) -> frozenset[str]:
    found = (x.adjuster for x in model.program.tunables if x.name in names and x.adjuster is not None)
    return frozenset(a.control for a in found if a.control is not None)


def _behind(model: Model, name: str, seen: frozenset[str]) -> frozenset[str]:
    if name in seen:
        return frozenset()
    seen |= {name}
    axis = model.program.axis(name)
    if axis is not None:
        own = {
            axis.control,
            *([axis.switch] if axis.switch else []),
            *([f"{name}_trim"] if axis.trim is not None else []),
        }
        shared = {x for s in axis.settings if s is not None for x in (s.rate_from, s.expo_from)}
        shared |= {axis.curve.live_from} if axis.curve is not None else set()
        return frozenset(own) | _shared_controls(model, shared) | _behind(model, axis.control, seen)
    gate = next((x for x in model.program.logic if isinstance(x, Gate) and x.name == name), None)
    if gate is not None:
        return _behind(model, gate.source, seen)
    lines = [x for x in model.program.mixes if x.target == name]
    return frozenset({name}).union(*(knobs_of(model, x, seen) for x in lines))
