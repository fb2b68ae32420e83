# SPDX-License-Identifier: GPL-3.0-or-later
"""What reaches each surface as streams: from the hands, through signals, to surfaces and motors,
each with what it carries."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.document.lines import PlacedLine, all_lines
from hypsos.core.document.program import AXIS_COMMANDS
from hypsos.core.engine import Plan, Result
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.wording.describe_condition import signal_labels

Key = tuple[str, str, str]
"""Target, path and name of a line."""


class Stream(NamedTuple):
    """One or more mix lines that are one thing to a pilot: from a source to a target, by a
    behaviour (``origin``) or by hand. ``paths``: where its numbers stand; ``mix`` its place among
    the plain mixes, -1 for a behaviour's."""

    key: Key
    source: str
    target: str
    name: str
    origin: str
    mix: int
    lines: tuple[PlacedLine, ...]


class Node(NamedTuple):
    """A place where streams begin, meet or end: its name, words, and column (0 hands, 1 signals, 2
    surfaces and motors)."""

    name: str
    words: str
    column: int


class Net(NamedTuple):
    """All nodes in their order from the top, and all streams."""

    nodes: tuple[Node, ...]
    streams: tuple[Stream, ...]

    def upstream(self, target: str) -> frozenset[Key]:
        """The streams that reach a target, through signals too."""
        return self._reached(target, back=True)

    def downstream(self, source: str) -> frozenset[Key]:
        """The streams that come from a source, through signals too."""
        return self._reached(source, back=False)

    def _reached(self, start: str, back: bool) -> frozenset[Key]:
        open_, seen, found = [start], {start}, set[Key]()
        while open_:
            here = open_.pop()
            for s in self.streams:
                mine, other = (s.target, s.source) if back else (s.source, s.target)
                if mine == here:
                    found.add(s.key)
                    if other not in seen:
                        seen.add(other)
                        open_.append(other)
        return frozenset(found)


def net(model: Model) -> Net:
    """The streams of a model."""
    groups: dict[Key, list[PlacedLine]] = {}
    for placed in all_lines(model):
        groups.setdefault((placed.line.target, placed.path, placed.line.name), []).append(placed)
    streams = []
    for key, lines in groups.items():
        first = lines[0]
        index = (
            int(first.path[14:].split("]")[0]) if first.path.startswith("program.mixes[") else -1
        )
        streams.append(
            Stream(key, first.line.source, key[0], key[2], first.origin or "", index, tuple(lines))
        )
    return Net(_nodes(model, streams), tuple(streams))


def _nodes(model: Model, streams: Iterable[Stream]) -> tuple[Node, ...]:
    labels = signal_labels(model)
    used = {s.source for s in streams} | {s.target for s in streams}
    parts = [s.name for s in across(model)] + [m.name for m in model.airframe.motors]
    parts += [d.name for d in model.airframe.devices]
    signals = [n for n in model.program.signal_labels() if n in used]
    hands = [n for n in AXIS_COMMANDS if n in used]
    hands += [c.name for c in model.transmitter.controls if c.name in used]
    hands += sorted(used - set(parts) - set(signals) - set(hands))
    words = {c: f"{c.capitalize()}" for c in AXIS_COMMANDS} | {"full": "always"}
    return (
        *(Node(n, words.get(n, labels.get(n, n.replace("_", " "))), 0) for n in hands),
        *(Node(n, labels.get(n, n), 1) for n in signals),
        *(Node(n, labels.get(n, n), 2) for n in parts),
    )


def across(model: Model) -> list[Surface]:
    """The surfaces with servos of their own as they lie from left to right, the wing's first, seen
    from behind."""
    order = {p.name: i for i, p in enumerate(model.airframe.panels)}
    sign = {"left": -1.0, "centre": 0.0, "right": 1.0}
    found = [s for s in model.airframe.surfaces if s.follows is None]
    return sorted(
        found, key=lambda s: (order.get(s.panel, 99), sign[s.side] * (s.start_mm + s.end_mm + 1))
    )


def targets(model: Model) -> tuple[str, ...]:
    """Everything that streams reach."""
    return tuple(dict.fromkeys(p.line.target for p in all_lines(model)))


def carried(result: Result) -> dict[Key, float]:
    """What each stream carries at the end of a run that was asked *why* of every target, in
    percent."""
    out: dict[Key, float] = {}
    for target, parts in result.why.items():
        for part in parts:
            if part.kind in ("stick", "mix"):
                key = (target, part.path, part.label)
                out[key] = out.get(key, 0.0) + float(np.ravel(part.amount)[-1])
    return out


class Effect(NamedTuple):
    """How far a part goes at a hand's full travel to each side: percent, degrees, millimetres from
    where it rests."""

    part: str
    label: str
    low: tuple[float, float | None, float | None]
    high: tuple[float, float | None, float | None]


def effects(
    model: Model, plan: Plan, control: str, hands: Mapping[str, float] | None = None
) -> list[Effect]:
    """What a hand moves, and by how much at full travel, everything else as ``hands`` have it (at
    rest without them)."""
    found = model.transmitter.control(control)
    ends = (-100.0, 100.0)
    if found is not None and found.is_switch:
        ends = (0.0, len(found.positions) - 1.0)
    held = {n: float(x) for n, x in (hands or {}).items() if n not in AROUND}
    rest = {
        **held,
        control: 0.0 if found is None or not found.is_switch else held.get(control, 0.0),
    }
    if control == "throttle_stick":
        rest[control] = -100.0
    outputs = settled_together(
        plan, [rest, {**rest, control: ends[0]}, {**rest, control: ends[1]}]
    ).outputs
    out = []
    for lead in {x.target: x for x in reversed(model.leads)}.values():
        trace = outputs[lead.name]
        three = [_figures(trace, i) for i in range(3)]
        if max(abs(three[1][0] - three[0][0]), abs(three[2][0] - three[0][0])) > 0.05:
            low, high = (_less(three[i], three[0]) for i in (1, 2))
            out.append(Effect(lead.target, _label(model, lead.target), low, high))
    order = {n.name: i for i, n in enumerate(across(model))}
    return sorted(out, key=lambda e: order.get(e.part, 99))


def _figures(trace: object, row: int) -> tuple[float, float | None, float | None]:
    def at(x: object) -> float | None:
        return None if x is None else float(np.broadcast_to(np.asarray(x), (3, 1))[row, -1])

    stand = at(trace.stand)  # type: ignore[attr-defined]
    return stand or 0.0, at(trace.deg), at(trace.mm)  # type: ignore[attr-defined]


def _less(
    a: tuple[float, float | None, float | None], b: tuple[float, float | None, float | None]
) -> tuple[float, float | None, float | None]:
    def less(x: float | None, y: float | None) -> float | None:
        return None if x is None or y is None else x - y

    return a[0] - b[0], less(a[1], b[1]), less(a[2], b[2])


def _label(model: Model, name: str) -> str:
    return next(p.label for p in model.airframe.moved() if p.name == name)
