# SPDX-License-Identifier: GPL-3.0-or-later
"""Saying of a motor that it is an engine."""

from __future__ import annotations

from hypsos.core.base.lookup import GoneError
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Engine, Guard, Trim

IDLE_TRIM = Trim(step=1.0, range=20.0)
"""The trim that moves an engine's idle, where the throttle has none yet."""


def _guard(model: Model) -> Guard:
    """The guard; GoneError where the model has no motor any more."""
    if model.program.guard is None:
        raise GoneError
    return model.program.guard


def engine_of(model: Model, motor: str) -> Engine:
    """What is said of an engine. Raises GoneError where the motor is none."""
    engine = _guard(model).engine(motor)
    if engine is None:
        raise GoneError
    return engine


def with_engine(model: Model, engine: Engine) -> Model:
    """The model with this said of a motor; its throttle gets a trim where it has none, for the idle
    is trimmed."""
    guard = _guard(model)
    others = [x for x in guard.engines if x.motor != engine.motor]
    at = next((i for i, x in enumerate(guard.engines) if x.motor == engine.motor), len(others))
    engines = (*others[:at], engine, *others[at:])
    program = model.program.changed({"guard": guard.changed({"engines": engines})})
    return model.changed(
        {"program": program.changed({"axes": tuple(_trimmed(a) for a in program.axes)})}
    )


def electric(model: Model, motor: str) -> Model:
    """The model with a motor that is no engine."""
    guard = _guard(model)
    engines = tuple(x for x in guard.engines if x.motor != motor)
    return model.changed(
        {"program": model.program.changed({"guard": guard.changed({"engines": engines})})}
    )


def _trimmed(axis: Axis) -> Axis:
    """An axis with a trim for the idle, where it is the thrust's and has none."""
    if axis.command != "thrust" or axis.trim is not None:
        return axis
    return axis.changed({"trim": IDLE_TRIM})
