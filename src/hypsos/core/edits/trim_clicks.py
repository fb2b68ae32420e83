# SPDX-License-Identifier: GPL-3.0-or-later
"""Trims in clicks: where a trim stands in a flight mode, and what a click of its lever does
there."""

from __future__ import annotations

from collections.abc import Mapping

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.program import Trim


def clicks_in(trim: Trim, mode: str) -> int:
    """The clicks that hold in a flight mode: its own where the scope is *per mode*, the common ones
    and its own where it is *offset*, else the common ones."""
    if trim.scope == "per mode":
        return int(trim.by_mode.get(mode, trim.clicks))
    return int(trim.clicks + (trim.by_mode.get(mode, 0) if trim.scope == "offset" else 0))


def same_trims(before: Model, after: Model) -> set[str]:
    """The commands whose trim is the same in both documents: where it stands, its step, its range
    and its scope."""
    was = {a.command: a.trim for a in before.program.axes}
    return {a.command for a in after.program.axes if a.command in was and was[a.command] == a.trim}


def with_clicks(
    model: Model, command: str, mode: str, clicks: int, stands: int | None = None
) -> Model | None:
    """The model with a trim lever moved by so many clicks in a flight mode; None at the end of its
    range or without a trim.

    The lever moves the mode's own trim where the scope is *per mode* or *offset*, else the common
    one. It sets out from ``stands``, where the trim stands on the bench; without it, from where the
    document has it."""
    for i, axis in enumerate(model.program.axes):
        trim = axis.trim
        if axis.command != command or trim is None:
            continue
        clicks += 0 if stands is None else stands - clicks_in(trim, mode)
        if abs((clicks_in(trim, mode) + clicks) * trim.step) > trim.range + 1e-9:
            return None
        own = trim.scope in ("per mode", "offset") and any(
            m.name == mode for m in model.program.modes
        )
        if own:
            start = trim.by_mode.get(mode, trim.clicks if trim.scope == "per mode" else 0)
            moved = Trim(**{**dict(trim), "by_mode": {**trim.by_mode, mode: start + clicks}})
        else:
            moved = trim.changed({"clicks": trim.clicks + clicks})
        axes = list(model.program.axes)
        axes[i] = axes[i].changed({"trim": moved})
        program = model.program.changed({"axes": tuple(axes)})
        return model.changed({"program": program})
    return None


def with_trims_at(model: Model, clicks: Mapping[str, int]) -> Model:
    """The model with its trims where a log has them, in the default mode where each mode has its
    own. Raises HypsosError where a trim is not there any more, or does not go so far."""
    mode = model.program.modes[-1].name if model.program.modes else ""
    for command, wanted in clicks.items():
        axis = model.program.axis(command)
        trim = None if axis is None else axis.trim
        if trim is None:
            if wanted:
                raise HypsosError(f"{command} has no trim now", "", "Give it one under Trims.")
            continue
        made = with_clicks(model, command, mode, wanted - clicks_in(trim, mode))
        if made is None:
            raise HypsosError(
                f"the trim of {command} does not go {abs(wanted)} clicks far now",
                "",
                "Its clicks or its range have been changed since. Set them under Trims.",
            )
        model = made
    return model
