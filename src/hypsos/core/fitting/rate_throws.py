# SPDX-License-Identifier: GPL-3.0-or-later
"""Rates as movements of a surface: how far it goes at full stick, and the rate that makes it go so
far."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hypsos.core.base.backends import of_each
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.program import Setting
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.explain.mix_streams import across
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.wording.words import part_named

Ends = tuple[float | None, float | None]


def at_full(model: Model, command: str, position: int, surface: str) -> Ends:
    """Where a surface stands with the control of an axis at its lower and its upper end, the rates
    at ``position``, its trim in the middle and sliders where they give nothing: in millimetres at
    the trailing edge, + is down or right; None without a lead or a ruler."""
    return at_full_in_each(model, command, (position,), surface)[0]


def at_full_in_each(
    model: Model,
    command: str,
    positions: Sequence[int],
    surface: str,
    hands: Mapping[str, float] | None = None,
) -> list[Ends]:
    """The same for several positions of the rates switch, computed together; ``hands``: others that
    do not stand where they rest."""
    nothing: list[Ends] = [(None, None) for _ in positions]
    axis = model.program.axis(command)
    lead = next((x for x in model.leads if x.target == surface), None)
    if axis is None or lead is None:
        return nothing
    model = _without_trim(model, command)
    still = {**(hands or {}), **quiet_hands(model)}
    cases = []
    for position in positions:
        hands = still | ({axis.switch: float(position)} if axis.switch else {})
        cases += [hands | {axis.control: x} for x in (-100.0, 100.0)]
    mm = settled_together(compile_plan(model), cases).outputs[lead.name].mm
    if mm is None:
        return nothing
    found = of_each(mm, len(cases)).tolist()
    return list(zip(found[::2], found[1::2], strict=True))


def _without_trim(model: Model, command: str) -> Model:
    axes = []
    for axis in model.program.axes:
        axes.append(axis.changed({"trim": None}) if axis.command == command else axis)
    return model.changed({"program": model.program.changed({"axes": tuple(axes)})})


def main_surface(model: Model, command: str) -> str | None:
    """The surface that a command moves most, the first of several from left to right; None where it
    moves none that has a lead."""
    plugged = {lead.target for lead in model.leads}
    gains: dict[str, float] = {}
    for placed in all_lines(model):
        line = placed.line
        if line.source == command and line.target in plugged:
            gains[line.target] = gains.get(line.target, 0.0) + abs(line.gain)
    moved = [s.name for s in across(model) if gains.get(s.name)]
    return max(moved, key=lambda name: gains[name], default=None)


def rate_for(model: Model, command: str, surface: str, value: float, unit: str) -> float:
    """The rate in percent with which a surface goes so far, in ``mm`` or degrees, at full stick to
    one side or the other.

    Raises HypsosError where this axis does not move it, or it cannot go so far.
    """
    rest, ways = _ways(model, command, surface)
    label = part_named(model, surface).label
    wanted = demand_for(model, surface, value, unit)
    ways = [way for way in ways if way * wanted > 0]
    if not ways:
        raise HypsosError(
            f"{command} does not move {label.lower()} that way",
            "",
            "Say the other way, or another surface.",
        )
    rate = 100.0 * (wanted - rest) / max(ways, key=abs)
    if not 0 <= rate <= 150:
        raise HypsosError(
            f"that would be a rate of {rate:.0f} %",
            "",
            "150 % is the most: set longer throws instead.",
        )
    return round(rate, 1)


def throw_at_rate(
    model: Model, command: str, surface: str, rate: float, down: bool
) -> tuple[float, float | None]:
    """Where a surface stands at full stick with a rate, in degrees and millimetres: the way back of
    :func:`rate_for`. ``down``: to its down or right side, else to the other. Raises HypsosError
    where this axis does not move it that way."""
    rest, ways = _ways(model, command, surface)
    ways = [way for way in ways if (way > 0) == down and way]
    if not ways:
        label = part_named(model, surface).label.lower()
        raise HypsosError(f"{command} does not move {label} that way")
    return place_of(model, surface, rest + rate / 100.0 * max(ways, key=abs))


def _ways(model: Model, command: str, surface: str) -> tuple[float, list[float]]:
    """The demand of a surface with the stick at rest, and what full stick to either side adds to
    it, with a plain rate of 100 %."""
    place = next(i for i, a in enumerate(model.program.axes) if a.command == command)
    axis = model.program.axes[place]
    plain = axis.changed({"curve": None, "switch": None, "settings": (Setting(),), "trim": None})
    axes = list(model.program.axes)
    axes[place] = plain
    quiet = []
    for recipe in model.program.recipes:
        quiet.append(recipe.changed({"on": False}) if recipe.feels() else recipe)
    fields = {"axes": tuple(axes), "recipes": tuple(quiet)}
    bare = model.changed({"program": model.program.changed(fields)})
    still = quiet_hands(bare)
    cases = [still, still | {axis.control: -100.0}, still | {axis.control: 100.0}]
    track = settled_together(compile_plan(bare), cases).sums.get(surface)
    if track is None:
        label = part_named(model, surface).label
        raise HypsosError(
            f"{command} does not move {label.lower()}", "", "Choose a surface that it moves."
        )
    rest, low, high = (float(x) for x in of_each(track, len(cases)))
    return rest, [low - rest, high - rest]
