# SPDX-License-Identifier: GPL-3.0-or-later
"""A small transmitter that thinks by function.

A function of its own is the sum of the mixes that feed it. A servo is the sum of what it takes and
of the mixes that go straight to it. The cut acts on the outputs of motors, which are those that have
it written in."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.schools.by_function.function_settings import FunctionMix, FunctionSettings, Servo
from hypsos.core.schools.stand_in.parts import Radio, Share, Sum


def radio(settings: FunctionSettings) -> Radio:
    """The transmitter that these settings make."""
    return Radio(
        **settings.hardware(),
        rules=settings.conditions,
        modes=settings.modes,
        commands=settings.functions,
        sums=tuple(_sums(settings)),
        channels=settings.outputs,
    )


def _sums(settings: FunctionSettings) -> Iterator[Sum]:
    for name in settings.own_functions:
        yield Sum(name=name, shares=tuple(_mixed(settings, name)))
    motors = {output.sum for output in settings.outputs if output.cut}
    for servo in settings.servos:
        shares = (*_taken(servo), *_mixed(settings, servo.part))
        held = settings.cut if servo.part in motors else ""
        yield Sum(name=servo.part, shares=shares, held=held)


def _taken(servo: Servo) -> Iterator[Share]:
    for taken in servo.takes:
        yield Share(source=taken.function, trim=taken.trim, above=taken.above, below=taken.below)


def _mixed(settings: FunctionSettings, to: str) -> Iterator[Share]:
    for mix in settings.mixes:
        if mix.to == to:
            yield _share(mix)


def _share(mix: FunctionMix) -> Share:
    return Share(
        source=mix.master,
        trim=mix.trim,
        bend=mix.bend,
        from_low=mix.from_low,
        when=mix.when,
        modes=mix.modes,
        slow_in=mix.delay_in,
        slow_out=mix.delay_out,
        above=mix.above,
        below=mix.below,
    )
