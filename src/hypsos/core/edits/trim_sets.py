# SPDX-License-Identifier: GPL-3.0-or-later
"""Trims of all axes: how far a click goes, how far a lever, and for which flight modes."""

from __future__ import annotations

from typing import Any

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.program import Axis, Trim

SCOPES = (
    ("common", "all modes alike"), ("per mode", "each mode its own"), ("offset", "all modes, plus its own"),
    ("lever", "no trim: a shared value"),
)  # fmt: skip
"""Each scope with its words."""


def with_trim_field(model: Model, commands: tuple[str, ...], field: str, value: Any) -> Model:
    """The model with a field of the trims of these axes changed; where the step changes, each
    stands where it stood, to the nearest click. Raises HypsosError where a trim would then stand
    beyond its range."""
    axes = []
    for axis in model.program.axes:
        if axis.command in commands and axis.trim is not None:
            axis = _changed(axis, field, value)
        axes.append(axis)
    return model.changed({"program": model.program.changed({"axes": tuple(axes)})})


def _changed(axis: Axis, field: str, value: Any) -> Axis:
    trim = axis.trim
    assert trim is not None
    fields: dict[str, Any] = {field: value}
    if field == "step":
        scale = trim.step / value
        fields["clicks"] = round(trim.clicks * scale)
        fields["by_mode"] = {m: round(c * scale) for m, c in trim.by_mode.items()}
    made = trim.changed(fields)
    most = max(abs(c) for c in (made.clicks, *made.by_mode.values())) * made.step
    if most > made.range + 1e-9:
        raise HypsosError(
            f"the trim of {axis.command} stands {most:g} % off already", "", "Take a wider range."
        )
    return axis.changed({"trim": made})


def with_trim(model: Model, command: str, on: bool) -> Model:
    """The model with a trim on an axis, or without."""
    axes = []
    for axis in model.program.axes:
        if axis.command == command:
            axis = axis.changed({"trim": Trim() if on else None})
        axes.append(axis)
    return model.changed({"program": model.program.changed({"axes": tuple(axes)})})
