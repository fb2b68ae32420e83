# SPDX-License-Identifier: GPL-3.0-or-later
"""What acts on a sum: the controls behind it, put together where they act on each other; and what
may make it go further than the places that are looked at show."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from hypsos.core.dependencies.graph import graph
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import STICKS


def blocks_of(model: Model, target: str) -> list[frozenset[str]]:
    """The controls that feed a sum, put together where they act on each other: what one set of them
    adds to the sum is the same wherever the others stand.

    Lines by angle act on each other: what their sum is in percent hangs on all of them. A line that
    does not add acts on all others."""
    lines = [x for x in model.program.mixes if x.target == target]
    sets = [knobs_of(model, x) for x in lines if not x.by_angle]
    # all lines by angle are one set
    sets.append(frozenset().union(*(knobs_of(model, x) for x in lines if x.by_angle)))
    # what scales or replaces the sum acts on whatever is in it
    if any(x.combine != "add" for x in lines):
        sets = [frozenset().union(*sets)]
    return joined(sets)


def joined(sets: Iterable[frozenset[str]]) -> list[frozenset[str]]:
    """Sets that have a member in common as one, however long the chain; in the order of their
    members, without the empty one.

    >>> [sorted(x) for x in joined([frozenset("ab"), frozenset("d"), frozenset("bc")])]
    [['a', 'b', 'c'], ['d']]
    """
    blocks: list[frozenset[str]] = []
    for found in sets:
        # it joins every block with which it has a member in common, and these become one
        met = [b for b in blocks if b & found]
        blocks = [b for b in blocks if b not in met]
        blocks.append(found.union(*met))
    return sorted((b for b in blocks if b), key=sorted)


def lags(model: Model, target: str, reachable: Collection[str]) -> bool:
    """Whether something slow on the way to a sum can be out of step with the rest of it: then the
    sum may go further on the way than where it comes to rest. ``reachable``: the controls on which
    conditions hang."""
    lines = [x for x in model.program.mixes if x.target == target]
    slow = {x.target for x in model.program.mixes if x.in_s or x.out_s}
    for line in lines:
        slow_above = slow & graph(model).sums_behind(line.signals() - {target})
        if not line.in_s and not line.out_s and not slow_above:
            continue
        # a slow line by itself goes no further on its way than at its end; only out of step with
        # others it may
        others = [x for x in lines if x is not line]
        if _out_of_step(model, line, others, reachable) or any(
            lags(model, n, reachable) for n in slow_above
        ):
            return True
    return False


def _out_of_step(
    model: Model, line: MixLine, others: list[MixLine], reachable: Collection[str]
) -> bool:
    """Whether a slow line need not go the way of the others: bent in flight, on and off, or moved
    by what moves them, too."""
    if line.reads_shared() or line.differential_off or line.when or line.combine != "add":
        return True
    beside = set(reachable).union(*(knobs_of(model, x) for x in others))
    return bool(knobs_of(model, line) & beside)


def bent(model: Model, target: str) -> bool:
    """Whether a shared value that is moved in flight bends what comes to a sum: what it changes
    goes through a response that is not straight, or it acts twice in one line. Then the sum may go
    further with that value in between than at its ends."""
    moved = {x.name for x in model.program.tunables if x.adjuster is not None}
    return bool(moved) and _bent(model, target, moved)[0]


def crooked(model: Model, target: str) -> bool:
    """Whether a response that is not straight, a differential, or the way from degrees to percent
    lies behind a sum of several lines that goes with a stick or a slider: where it bends for the
    hands is then not known."""
    behind = graph(model).sums_behind({target})
    if any(_turned_together(model, name) for name in behind):
        return True
    return any(_bends_a_sum(model, line) for line in model.program.mixes if line.target in behind)


def _turned_together(model: Model, name: str) -> bool:
    """Whether several lines turn a surface by angle, one of them with something that has more than
    positions."""
    turned = [x for x in model.program.mixes if x.target == name and x.by_angle]
    return len(turned) > 1 and any(_goes(model, x) for x in turned)


def _bends_a_sum(model: Model, line: MixLine) -> bool:
    """Whether a line that is not straight reads a sum of which nobody knows where the hands bring
    it to a bend."""
    curved = line.response is not None and len(line.response.points) > 2
    if not line.differential and not curved:
        return False
    feeding = [x for x in model.program.mixes if x.target == line.source]
    if len(feeding) > 1 and any(_goes(model, x) for x in feeding):
        return True
    return any(x.reads_shared() or x.differential_off for x in feeding[:1])


def _goes(model: Model, line: MixLine) -> bool:
    """Whether what a line gives goes with something that has more than positions."""
    for name in knobs_of(model, line):
        control = model.transmitter.control(name)
        if name in (*STICKS, "link_quality") or name.endswith("_trim"):
            return True
        if control is not None and not control.is_switch:
            return True
    return False


def _bent(
    model: Model, target: str, moved: set[str], seen: frozenset[str] = frozenset()
) -> tuple[bool, set[str]]:
    """Whether it is bent, and the moved values that act on a sum, an axis or a gate."""
    if target in seen:
        return False, set()
    axis = model.program.axis(target)
    if axis is not None:
        return _axis_bent(axis, moved)
    acting: set[str] = set()
    for line in (x for x in model.program.mixes if x.target == target):
        before: set[str] = set()
        for name in line.signals():
            # the way to the sum is gone through from its far end: what acts there acts on all
            # that follows
            found, more = _bent(model, name, moved, seen | {target})
            if found:
                return True, before
            before |= more
        if _line_bends(line, before, moved):
            return True, before
        own = moved.intersection(line.reads_shared())
        acting |= before | own
        # a moved value times what moved values gave before
        scaled = line.combine == "scale" and bool(before | own)
        if scaled and acting:
            return True, acting
    return False, acting


def _axis_bent(axis: Axis, moved: set[str]) -> tuple[bool, set[str]]:
    """Whether a moved value acts twice on an axis (as rate and expo, or there and in the curve),
    and all that act on it."""
    settings = [s for s in axis.settings if s is not None]
    named = {s.rate_from for s in settings} | {s.expo_from for s in settings}
    curve = {axis.curve.live_from} if axis.curve is not None else set()
    in_both = bool(named & curve & moved)
    twice_in_one = any(s.rate_from == s.expo_from and s.rate_from in moved for s in settings)
    return in_both or twice_in_one, {name for name in named | curve if name in moved}


def _line_bends(line: MixLine, before: set[str], moved: set[str]) -> bool:
    """Whether moved values go through a line otherwise than straight. ``before``: those that act on
    what it reads."""
    response, asked_for = line.response, line.reads_shared()
    own = moved.intersection(asked_for)
    # two points are a straight line, and a straight line goes furthest at an end
    curved = response is not None and (len(response.points) > 2 or response.live_from is not None)
    if before and (curved or line.differential):
        return True
    if response is not None and response.shape == "smooth" and response.live_from in moved:
        return True
    return bool(own & before) or any(asked_for.count(name) > 1 for name in own)


def knobs_of(model: Model, line: MixLine, seen: frozenset[str] = frozenset()) -> frozenset[str]:
    """The controls on which what a line gives hangs, but for conditions."""
    out = frozenset[str]()
    for name in line.signals():
        out |= _behind(model, name, seen)
    return out | _shared_controls(model, set(line.reads_shared()))


def _shared_controls(model: Model, names: set[str]) -> frozenset[str]:
    """The controls that move these shared values."""
    controls: set[str] = set()
    for value in model.program.tunables:
        if value.name in names:
            controls.update(control for _, control in value.reads())
    return frozenset(controls)


def _behind(model: Model, name: str, seen: frozenset[str]) -> frozenset[str]:
    # a circle of shared values: what it would add has been counted already
    if name in seen:
        return frozenset()
    seen |= {name}
    axis = model.program.axis(name)
    if axis is not None:
        own = {control for _, control in axis.reads()}
        # a trim moves the command as its stick does
        own |= {f"{name}_trim"} if axis.trim is not None else set()
        shared = {value for _, value in axis.shares()}
        return frozenset(own) | _shared_controls(model, shared) | _behind(model, axis.control, seen)
    gate = next((x for x in model.program.gates() if x.name == name), None)
    if gate is not None:
        return frozenset[str]().union(*(_behind(model, signal, seen) for signal in gate.signals()))
    lines = [x for x in model.program.mixes if x.target == name]
    return frozenset({name}).union(*(knobs_of(model, x, seen) for x in lines))
