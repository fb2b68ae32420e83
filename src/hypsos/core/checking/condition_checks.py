# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold of conditions, flight modes, shared values and what is said."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.problem import Problem, condition_problem, target_names
from hypsos.core.dependencies.evaluation_order import LogicOrder, logic_order, measured_signals
from hypsos.core.dependencies.graph import asked_by
from hypsos.core.dependencies.phases import Phase
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines, line_order
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.parts.tunables import Tunable
from hypsos.core.wording.time_words import timer_label


def logic(model: Model) -> Iterator[Problem]:
    """What is wrong with logical switches: what they ask for that is not there, and gates without a
    source."""
    signals = {c.name for c in model.transmitter.controls} | set(STICKS) | {"link_quality", "full"}
    signals |= {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    signals |= {x.name for x in model.program.gates()}
    sums = measured_signals(model)
    for i, x in enumerate(model.program.logic):
        path = f"program.logic[{i}]"
        yield from (Problem(f"{path}.{field}", text) for field, text in x.wrong())
        known = signals | sums if x.reads_sums else signals
        for field, name in x.reads():
            if name not in known:
                yield Problem(
                    f"{path}.{field}", f"there is no stick, control or gate called {name}"
                )
        for field, text in x.asks():
            if wrong := condition_problem(model, text):
                yield Problem(f"{path}.{field}", wrong)


def modes(model: Model) -> Iterator[Problem]:
    """What is wrong with flight modes: their rules, their presets, the order in which they come."""
    modes, parts = model.program.modes, target_names(model)
    names = {m.name for m in modes} or {"base"}
    for i, m in enumerate(modes):
        last = i == len(modes) - 1
        if last != (m.when is None):
            text = "only the last flight mode has no condition"
            if last:
                text = "the last flight mode is the base and has no condition"
            yield Problem(f"program.modes[{i}].when", text)
        elif m.when is not None and (wrong := condition_problem(model, m.when)):
            yield Problem(f"program.modes[{i}].when", wrong)
        for target in m.presets:
            if target not in parts:
                yield Problem(
                    f"program.modes[{i}].presets.{target}",
                    f"there is nothing called {target} to move",
                )
    yield from _tunables(model, names)


def _tunables(model: Model, modes: set[str]) -> Iterator[Problem]:
    controls = {c.name for c in model.transmitter.controls} | set(STICKS)
    controls |= {f"{a.command}_trim" for a in model.program.axes if a.trim is not None}
    for i, x in enumerate(model.program.tunables):
        path = f"program.tunables[{i}]"
        if not x.low < x.high:
            yield Problem(f"{path}.low", "the lower bound must lie below the upper one")
        for field, value in (
            ("value", x.value),
            *((f"by_mode.{n}", v) for n, v in x.by_mode.items()),
        ):
            if not x.low <= value <= x.high:
                yield Problem(f"{path}.{field}", f"{value:g} lies outside {x.low:g} to {x.high:g}")
        for mode in x.by_mode:
            if mode not in modes:
                yield Problem(f"{path}.by_mode.{mode}", f"there is no flight mode {mode}")
        yield from _adjuster(model, x, path, modes, controls)


def _adjuster(
    model: Model, value: Tunable, path: str, modes: set[str], controls: set[str]
) -> Iterator[Problem]:
    """What moves a shared value in flight: controls, conditions and flight modes that are not
    there."""
    for field, name in value.reads():
        if name not in controls:
            yield Problem(f"{path}.{field}", f"there is no control called {name}")
    for field, text in value.asks():
        if wrong := condition_problem(model, text):
            yield Problem(f"{path}.{field}", wrong)
    for mode in value.adjuster.modes if value.adjuster is not None else ():
        if mode not in modes:
            yield Problem(f"{path}.adjuster.modes", f"there is no flight mode {mode}")


def voice(model: Model) -> Iterator[Problem]:
    """What is said, what is counted, and who may ask for it."""
    for i, said in enumerate(model.program.announcements):
        if wrong := condition_problem(model, said.when):
            yield Problem(f"program.announcements[{i}].when", wrong)
    for i, timer in enumerate(model.program.timers):
        path = f"program.timers[{i}]"
        for field, text in (("when", timer.when), ("reset", timer.reset)):
            if text is not None and (wrong := condition_problem(model, text)):
                yield Problem(f"{path}.{field}", wrong)
        if timer.counts == "down" and not timer.span_s:
            yield Problem(
                f"{path}.span_s",
                f"{timer_label(timer)} counts down from nothing",
                "Say from how many seconds.",
            )
        if timer.counts == "down" and any(m > timer.span_s for m in timer.moments):
            yield Problem(
                f"{path}.moments", f"{timer_label(timer)} never shows more than it counts down from"
            )


def _known_too_late(model: Model, order: LogicOrder) -> Iterator[Problem]:
    """What the guard, a mode or a motor goes by can hang neither on the guard's state nor on a
    timer: that would be a circle."""
    said = {
        "guard": "the guard goes by this, and it would hang on the guard's state or on a timer, which come after it",
        "sum": "where a signal or a surface stands is known too late for this: only what is said or timed can go by it",
    }
    for path, kind in Phase(model, tuple(asked_by(model)), order).too_late():
        yield Problem(path, said[kind], "Let it go by what moves that: a switch, a stick, a mode.")


def cycles(model: Model) -> Iterator[Problem]:
    """Conditions that hang on each other in a circle without a latch in it."""
    try:
        lines = all_lines(model)
    except ValueError:
        return  # a recipe that cannot expand is reported above
    cycle = line_order(lines).cycle
    if cycle:
        yield Problem("program.mixes", f"these feed each other in a circle: {', '.join(cycle)}")
    try:
        order = logic_order(model)
    except HypsosError as error:
        yield Problem(error.where, error.what, error.remedy)
    except KeyError:
        return  # a name that leads nowhere is reported above
    else:
        yield from _known_too_late(model, order)
