# SPDX-License-Identifier: GPL-3.0-or-later
"""What a timeline shows of a model: hands, conditions, mode, guard, motors, surfaces, timers, each
as a track of numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.engine import Result, Situation
from hypsos.core.engine.rest_positions import resting
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.describe_condition import named
from hypsos.core.wording.time_words import clock, timer_label
from hypsos.core.wording.words import GUARD_WORDS, standing, stick_words


class Track(NamedTuple):
    """A line of the timeline. ``kind``: *level* (a number between ``low`` and ``high``), *flag* (0
    or 1) or *place* (one of ``places``). ``words`` says a value. Inputs come first; ``shown`` is
    False for those nobody moves by hand."""

    key: str
    label: str
    group: str
    kind: str
    low: float
    high: float
    words: Callable[[float], str]
    read: Callable[[Result, Situation], object]
    places: tuple[str, ...] = ()
    shown: bool = True


def tracks(model: Model) -> tuple[Track, ...]:
    """The tracks of a model: first every input, then what comes of them."""
    return (*_inputs(model), *_states(model), *_outputs(model))


def _inputs(model: Model) -> Iterator[Track]:
    for name, rest in resting(model).items():
        control = model.transmitter.control(name)

        def read(_: Result, s: Situation, name: str = name, rest: float = rest) -> object:
            return s.controls.get(name, rest)

        if control is not None and control.is_switch:
            places = control.positions
            top = len(places) - 1.0
            said = _of(places)
            yield Track(name, control.label, "hands", "place", 0.0, top, said, read, places)
        elif name in STICKS:
            yield Track(
                name,
                name.replace("_", " ").capitalize(),
                "hands",
                "level",
                -100,
                100,
                _stick(name),
                read,
            )
        else:
            label = control.label if control is not None else name.replace("_", " ")
            yield Track(
                name, label, "hands", "level", -100, 100, _percent, read, shown=control is not None
            )
    yield Track("link", "Link", "hands", "flag", 0, 1, _of(("lost", "up")), lambda _, s: s.link)
    yield Track(
        "power", "Receiver's power", "hands", "flag", 0, 1, _of(("off", "on")), lambda _, s: s.power
    )
    yield Track(
        "link_quality",
        "Link quality",
        "hands",
        "level",
        0,
        100,
        _percent,
        lambda _, s: s.link_quality,
        shown=False,
    )
    motors = bool(model.airframe.motors)
    in_out = _of(("out", "in"))
    yield Track(
        "flight_battery",
        "Flight battery",
        "hands",
        "flag",
        0,
        1,
        in_out,
        lambda _, s: s.flight_battery,
        shown=motors,
    )


def _states(model: Model) -> Iterator[Track]:
    if model.airframe.motors and model.program.guard is not None:
        words = tuple(GUARD_WORDS.values())
        yield Track(
            "guard:", "Motor guard", "guard", "place", 0, 2, _of(words), lambda r, _: r.guard, words
        )
    if model.program.modes:
        labels = tuple(m.label for m in model.program.modes)
        top = max(1.0, len(labels) - 1.0)
        yield Track(
            "mode:",
            "Flight mode",
            "mode",
            "place",
            0,
            top,
            _of(labels),
            lambda r, _: r.modes,
            labels,
        )
    for x in named(model):
        if x.gives_signal:
            continue
        if x.positions:
            steps = tuple(f"step {i + 1}" for i in range(x.positions))

            def read_step(r: Result, _: Situation, name: str = x.name) -> object:
                return r.steps[name]

            yield Track(
                x.name,
                x.label,
                "conditions",
                "place",
                0,
                x.positions - 1.0,
                _of(steps),
                read_step,
                steps,
            )
            continue

        def read_flag(r: Result, _: Situation, name: str = x.name) -> object:
            return r.logic[name]

        yield Track(x.name, x.label, "conditions", "flag", 0, 1, _of(("–", "holds")), read_flag)
    for timer in model.program.timers:

        def read_timer(r: Result, _: Situation, name: str = timer.name) -> object:
            return r.timers[name]

        high = timer.span_s or 600.0
        yield Track(
            f"timer:{timer.name}",
            timer_label(timer),
            "timers",
            "level",
            0.0,
            high,
            clock,
            read_timer,
        )


def _outputs(model: Model) -> Iterator[Track]:
    parts = {p.name: p for p in model.airframe.moved()}
    for lead in model.leads:
        part = parts[lead.target]

        def read(r: Result, _: Situation, name: str = lead.name) -> object:
            trace = r.outputs[name]
            return trace.stand if trace.deg is None else trace.deg

        if isinstance(part, Motor):

            def said(value: float, part: Motor = part) -> str:
                return standing(part, value, None, None)

            yield Track(f"{lead.name}:", part.label, "motors", "level", -100, 100, said, read)
            continue

        def angle(value: float, part: object = part) -> str:
            return standing(part, value, value, None)  # type: ignore[arg-type]

        yield Track(f"{lead.name}:", part.label, "surfaces", "level", -45, 45, angle, read)


def _of(words: tuple[str, ...]) -> Callable[[float], str]:
    return lambda value: words[min(max(int(value), 0), len(words) - 1)]


def _percent(value: float) -> str:
    return f"{number(value)} %"


def _stick(name: str) -> Callable[[float], str]:
    return lambda value: stick_words(name, value)


def values(shown: tuple[Track, ...], result: Result, situation: Situation) -> Array:
    """What the tracks read in every frame of a run: shape (frames, tracks)."""
    frames = len(situation.t_s)
    if frames == 1:
        row = [x.read(result, situation) for x in shown]
        # a float is what the frame backend gives; looking for its class first is the quick way
        return np.array([[float(v) if v.__class__ is float else _last(v) for v in row]])
    out = np.empty((frames, len(shown)))
    for k, x in enumerate(shown):
        out[:, k] = np.asarray(x.read(result, situation), float)
    return out


def _last(value: object) -> float:
    return float(value.flat[-1]) if isinstance(value, np.ndarray) else float(value)  # type: ignore[arg-type]
