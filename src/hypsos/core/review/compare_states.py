# SPDX-License-Identifier: GPL-3.0-or-later
"""What two models do differently beside where their parts stand: when the motors are armed, what is
said and counted, what happens without the link, how long things take, how a surface turns.

Sought: everything that somebody could notice, and nothing that is only written otherwise. So
conditions are compared by what they are made of and not by their names, outputs and linkages by
pulses and millimetres, times as they are. What is left out on purpose is listed in
:data:`LEFT_OUT`; a test walks the whole document and holds that no field is forgotten."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np

from hypsos.core.base.backends import ARRAYS, Array
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Trim
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import idle_percent, output_curve, servo_percent

LEFT_OUT = (
    "names and labels", "notes", "the receiver's number", "scenarios", "which steps are only proposed",
    "when the sheet was written", "statements left out", "where controls sit",
    "the shape of the aeroplane beyond its surfaces' throws and chords",
)  # fmt: skip
DEMANDS: Array = np.linspace(-150.0, 150.0, 301)
LEAST_US, LEAST_MM, LEAST_DEG = 0.25, 0.05, 0.05
"""So much is no difference: 0.05 % of a travel of 500 µs, a twentieth of a millimetre, of a
degree."""


def others(first: Model, second: Model) -> Iterator[str]:
    """A sentence for everything that differs beside where parts stand."""
    yield from _moved_by_one_only(first, second)
    for said, facet in FACETS:
        if facet(first) != facet(second):
            yield said
    labels = {p.name: p.label for p in first.airframe.moved()}
    called = {**second.program.signal_labels(), **first.program.signal_labels(), **labels}
    before, after = _slows(first), _slows(second)
    for target in sorted({*before, *after}):
        if before.get(target) != after.get(target):
            yield f"{called.get(target, target)} takes another time on its way."
    theirs = {lead.target: lead for lead in second.leads}
    for lead in {lead.target: lead for lead in first.leads}.values():
        if lead.target in theirs and lead.target in labels:
            other = theirs[lead.target]
            yield from _of_a_lead(first, second, lead, other, labels[lead.target])


def _moved_by_one_only(first: Model, second: Model) -> Iterator[str]:
    called = (first.name, second.name)
    if first.name == second.name:
        called = ("the first", "the second")
    yield from _moved_by_it_only(called[0], first, second)
    yield from _moved_by_it_only(called[1], second, first)


def _moved_by_it_only(called: str, model: Model, other: Model) -> Iterator[str]:
    """A sentence for every part that has a lead in this model and none in the other one."""
    mine = {lead.target for lead in model.leads}
    theirs = {lead.target for lead in other.leads}
    for part in model.airframe.moved():
        if part.name in mine and part.name not in theirs:
            yield f"Only {called} moves {part.label.lower()}."


# -- conditions, by what they are made of -------------------------------------------------------


class _UnnamedParts:
    """Conditions and shared values of a model without their names."""

    def __init__(self, model: Model) -> None:
        self.program = model.program
        self.nodes = {x.name: x for x in model.program.logic}
        self.shared = {x.name: x for x in model.program.shared_values()}
        self.modes = {m.name: i for i, m in enumerate(model.program.modes)}
        self.timers = {x.name: i for i, x in enumerate(model.program.timers)}

    def condition(self, text: str | None, trail: tuple[str, ...] = ()) -> Any:
        """What a condition is made of; one that hangs on itself ends in how far back that was."""
        if text is None:
            return None
        asks = asked(text)
        if asks.realm == "mode":
            return (asks.negated, "mode", self.modes.get(asks.name, -1))
        if asks.realm == "timer":
            return (asks.negated, "timer", self.timers.get(asks.name, -1))
        return (asks.negated, self.name(asks.name, trail), asks.realm, asks.position)

    def name(self, name: str, trail: tuple[str, ...] = ()) -> Any:
        """A signal or a condition by its name: the control itself, or what it is made of."""
        node = self.nodes.get(name)
        if node is None:
            return name
        if name in trail:
            return ("again", len(trail) - trail.index(name))
        inner = (*trail, name)
        fields: list[Any] = [node.kind]
        for key, value in node:
            if key in ("name", "label", "kind"):
                continue
            if key in ("of", "set", "reset", "when"):
                texts = (value,) if isinstance(value, str) else tuple(value)
                made = [self.condition(text, inner) for text in texts]
                # where the order says nothing, it is no difference
                if node.kind in ("all", "any", "one"):
                    made.sort(key=repr)
                fields.append((key, tuple(made)))
            elif key in ("a", "b", "source"):
                fields.append((key, self.name(value, inner) if value is not None else None))
            else:
                fields.append((key, value))
        return tuple(fields)

    def adjuster(self, name: str) -> Any:
        """How a shared value is moved in flight, and between what."""
        x = self.shared.get(name)
        if x is None or x.adjuster is None:
            return None
        a = x.adjuster
        whens = tuple(self.condition(t) for t in (a.when, a.up, a.down))
        modes = tuple(sorted(self.modes.get(m, -1) for m in a.modes))
        return (
            a.kind,
            self.name(a.control) if a.control else None,
            whens,
            a.amount,
            modes,
            a.keep,
            x.low,
            x.high,
        )


def _release(model: Model) -> Any:
    """When the motors are armed."""
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return None
    made, axis = _UnnamedParts(model), model.program.axis("thrust")
    switch = model.transmitter.control(guard.switch)
    count = len(switch.positions) if switch is not None else 0
    holds = tuple(sorted((made.condition(t) for t in guard.holds), key=repr))
    engines = tuple(
        sorted(
            (x.motor, x.idle, x.high_idle, repr(made.condition(x.high_when))) for x in guard.engines
        )
    )
    plain = {
        k: v for k, v in guard if k not in ("holds", "also", "cut", "relock_s", "rest_s", "engines")
    }
    times = (guard.relock_s if guard.level >= 4 else None, guard.rest_s if _rests(model) else None)
    return (
        sorted(plain.items(), key=lambda x: x[0]).__repr__(),
        tuple(sorted(guard.cut)),
        count,
        holds,
        made.condition(guard.also),
        engines,
        times,
        axis.control if axis is not None else None,
    )


def _rests(model: Model) -> bool:
    guard = model.program.guard
    return guard is not None and (guard.level >= 3 or guard.wakes_when_low or bool(guard.holds))


def _said(model: Model) -> Any:
    made = _UnnamedParts(model)
    out = []
    for said in model.program.announcements:
        # how often it is repeated says something only while it goes on
        every_s = said.every_s if said.moment == "while" else None
        when = made.condition(said.when)
        out.append((said.caption, when, said.moment, every_s, said.rank))
    return tuple(out)


def _timed(model: Model) -> Any:
    made = _UnnamedParts(model)
    named_otherwise = ("name", "label", "when", "reset")
    timed = []
    for timer in model.program.timers:
        fields = tuple((k, v) for k, v in timer if k not in named_otherwise)
        timed.append((made.condition(timer.when), made.condition(timer.reset), fields))
    return tuple(timed)


def _delays(model: Model) -> Any:
    """What waits for a time, wherever anything moves by it."""
    made = _UnnamedParts(model)
    return tuple(sorted((repr(made.name(n)) for n, x in made.nodes.items() if x.waits)))


def _slows(model: Model) -> dict[str, list[tuple[str, float, float]]]:
    """What is fed slowly: target -> source, seconds in and out of each such line."""
    out: dict[str, list[tuple[str, float, float]]] = {}
    for placed in all_lines(model):
        line = placed.line
        if line.in_s or line.out_s:
            out.setdefault(line.target, []).append((line.source, line.in_s, line.out_s))
    return {target: sorted(found) for target, found in out.items()}


def _fades(model: Model) -> Any:
    modes = model.program.modes
    return tuple(x.fade_s for x in modes) if len(modes) > 1 else ()


def _trims(model: Model) -> Any:
    modes = [m.name for m in model.program.modes] or ["base"]
    axes = sorted(model.program.axes, key=lambda a: a.command)
    return tuple((a.command, _trim(a.trim, modes)) for a in axes)


def _trim(trim: Trim | None, modes: Sequence[str]) -> Any:
    """All that a trim does; where its clicks are common to all modes, none of each mode's own."""
    if trim is None:
        return None
    own = None
    if trim.scope in ("per mode", "offset"):
        own = tuple(trim.by_mode.get(m) for m in modes)
    return trim.step, trim.range, trim.scope, trim.clicks, own


def _adjusters(model: Model) -> Any:
    made = _UnnamedParts(model)
    return tuple(
        sorted((n, repr(made.adjuster(n))) for n in made.shared if made.adjuster(n) is not None)
    )


def _controls(model: Model) -> Any:
    from hypsos.core.dependencies.references import uses

    used = uses(model)
    return tuple(
        sorted(
            (c.name, c.kind, len(c.positions))
            for c in model.transmitter.controls
            if used.get(c.name)
        )
    )


Facet = Callable[[Model], Any]
FACETS: tuple[tuple[str, Facet], ...] = (
    ("The motors are armed by other rules.", _release),
    ("Other things are said, or at other moments.", _said),
    ("Timers count otherwise.", _timed),
    ("Something waits for another time.", _delays),
    ("Flight modes fade over another time.", _fades),
    ("Trims stand, step or reach otherwise.", _trims),
    ("Shared values are moved in flight otherwise.", _adjusters),
    ("The controls that are used are others.", _controls),
    ("The receiver acts at another time without the link.", lambda m: m.receiver.failsafe_after_s),
    ("The receiver keeps its presets over power-off, or does not.", lambda m: m.receiver.stored),
    ("Spare ports do something else without the link.", lambda m: (m.receiver.spare, m.receiver.ports)),
    ("The receiver has its power from elsewhere.", lambda m: (m.receiver.power, m.receiver.power_port)),
    ("A frame takes another time.", lambda m: m.program.frame_s),
    ("Leads are joined otherwise.", lambda m: tuple(sorted((y.first, y.second, y.reversing) for y in m.y_leads))),
)  # fmt: skip
"""What is compared as a whole, with what is said where it differs."""


# -- one lead -----------------------------------------------------------------------------------


LEAST_IDLE = 1e-6
"""Percent by which two idles differ."""


def _of_a_lead(first: Model, second: Model, a: Lead, b: Lead, label: str) -> Iterator[str]:
    low = label[:1].lower() + label[1:]
    motor = isinstance(_part(first, a), Motor)
    if a.port != b.port:
        yield f"{label} is in another port."
    if (a.failsafe, motor) != (b.failsafe, isinstance(_part(second, b), Motor)):
        yield f"Without the link {low} does something else."
    if a.port is None and b.port is None:
        return
    if _other_pulses(first, second, a, b):
        yield f"The output of {low} sends other pulses."
    if (a.slow_up_s, a.slow_down_s, a.servo_s) != (b.slow_up_s, b.slow_down_s, b.servo_s):
        yield f"{label} takes another time on its way."
    if motor:
        idles = [idle_percent(x, model.transmitter) for x, model in ((a, first), (b, second))]
        if a.idle_us != b.idle_us or abs(idles[0] - idles[1]) > LEAST_IDLE:
            yield f"The controller of {low} is off at another pulse."
    elif _turns_otherwise(first, second, a, b):
        yield f"{label} turns otherwise for the same servo."


def _other_pulses(first: Model, second: Model, a: Lead, b: Lead) -> bool:
    """Whether two outputs send other pulses for the same demands, also where their curves bend."""
    looked_at = set(DEMANDS.tolist())
    for lead in (a, b):
        if lead.curve is not None:
            looked_at.update(output_curve(lead.curve).places)
    demands = np.array(sorted(looked_at))
    return bool(np.abs(_pulses(first, a, demands) - _pulses(second, b, demands)).max() > LEAST_US)


def _turns_otherwise(first: Model, second: Model, a: Lead, b: Lead) -> bool:
    """Whether a surface stands at another angle, or another height, for the same servo; or only one
    of them can be said."""
    for one, two, least in zip(
        _turns(first, a), _turns(second, b), (LEAST_DEG, LEAST_MM), strict=True
    ):
        if one is None or two is None:
            if one is not two:
                return True
        elif _far(one, two) > least:
            return True
    return False


def _part(model: Model, lead: Lead) -> Any:
    return next(p for p in model.airframe.moved() if p.name == lead.target)


def _pulses(model: Model, lead: Lead, demands: Array) -> Array:
    """The pulses of an output over everything that can be asked of it."""
    tx = model.transmitter
    return np.asarray(tx.centre_us + tx.us_per_percent * servo_percent(demands, lead)[2])


def _turns(model: Model, lead: Lead) -> tuple[Array | None, Array | None]:
    """Degrees and millimetres of a part over everywhere its servo can stand."""
    motion = Motion(lead, _part(model, lead))
    with np.errstate(invalid="ignore"):  # where a linkage binds there is no angle
        deg, mm = motion.angles(DEMANDS, ARRAYS)
    return (None if deg is None else np.asarray(deg)), (None if mm is None else np.asarray(mm))


def _far(one: Array, two: Array) -> float:
    """How far two curves are apart at the most; where only one of them binds, as far as can be."""
    if np.any(np.isnan(one) != np.isnan(two)):
        return float("inf")
    return float(np.nanmax(np.abs(one - two), initial=0.0)) if not np.all(np.isnan(one)) else 0.0
