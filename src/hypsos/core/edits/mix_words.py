# SPDX-License-Identifier: GPL-3.0-or-later
"""Mix lines as people say them; the page and the sheet say them alike."""

from __future__ import annotations

from hypsos.core.base.figure_words import plain, said_name
from hypsos.core.document.document import Model
from hypsos.core.document.lines import expanded
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes import Recipe
from hypsos.core.wording.describe_condition import phrase, signal_labels


def curve_words(response: Response) -> str:
    """A response by its points."""
    points = ", ".join(f"at {plain(x)}: {plain(y)}" for x, y in response.points)
    return f"smooth curve {points}" if response.shape == "smooth" else points


def live_words(model: Model, response: Response) -> str:
    """Which points of a response move in flight, and with what; empty where none do."""
    if response.live_from is None:
        return ""
    names = " and ".join(", ".join(str(i + 1) for i in sorted(response.live)).rsplit(", ", 1))
    which = f"points {names} are" if len(response.live) > 1 else f"point {names} is"
    odd = ", the left ones the other way" if response.live_odd else ""
    return f"{which} moved by {shared_words(model, response.live_from)}{odd}"


def shared_words(model: Model, name: str) -> str:
    """What a shared value is called in a sentence."""
    shared = next((x for x in model.program.shared_values() if x.name == name), None)
    label = name if shared is None else shared.label
    return f"shared value {said_name(label, 'Shared value', name)}"


COMBINED = {"replace": "replaces what comes before it", "scale": "scales what comes before it"}
"""How a line joins the sum of its target, where it does not simply add to it."""


def mix_words(model: Model, line: MixLine, origin: str = "", sense: float = 1.0) -> tuple[str, str]:
    """What a line reads and feeds, and how much and how it goes. ``origin``: the recipe that made
    it; ``sense`` -1 for a part whose signs are turned."""
    names = signal_labels(model)
    source, target = names.get(line.source, line.source), names.get(line.target, line.target)
    made_by = f" ({origin})" if origin and origin not in target else ""
    head = f"{source[:1].upper()}{source[1:]} to {target}{made_by}"
    power = gives_power(model, line)
    said = [*_amount(model, line), *_bent(model, line)]
    if line.by_angle:
        said.append("by angle")
    if power and (line.gain != 100 or line.response or line.gain_from):
        said.append("counted from idle")
    if line.combine in COMBINED:
        said.append(COMBINED[line.combine])
    if line.when is not None:
        said.append(f"only while {phrase(model, line.when)}")
    if not line.with_trim:
        said.append("without trim")
    said += _one_sided(model, line, sense)
    if line.in_s or line.out_s:
        said.append(slow_words(line, power))
    return head, ", ".join(said)


def gives_power(model: Model, line: MixLine) -> bool:
    """Whether a line gives a motor the power that the thrust command asks for: it is counted from
    idle."""
    return line.source == "thrust" and any(m.name == line.target for m in model.airframe.motors)


def _amount(model: Model, line: MixLine) -> list[str]:
    """Its gain, left out where it is 100 % and something else says how much."""
    said = []
    if line.gain != 100 or not (line.response or line.gain_from):
        unit = "°" if line.by_angle else " %"
        said.append(f"{plain(line.gain)}{unit}")
    if line.gain_from is not None:
        said.append(f"times {shared_words(model, line.gain_from)}")
    return said


def _bent(model: Model, line: MixLine) -> list[str]:
    """Its response: by the names of a switch's positions where it has a point for each, or else by
    its points."""
    if line.response is None:
        return []
    control = model.transmitter.control(line.source)
    if control is not None and len(control.positions) == len(line.response.points):
        pairs = zip(control.positions, line.response.points, strict=True)
        said = [", ".join(f"{position}: {plain(y)} %" for position, (_, y) in pairs)]
    else:
        said = [curve_words(line.response)]
    if line.response.live_from is not None:
        said.append(live_words(model, line.response))
    return said


def _one_sided(model: Model, line: MixLine, sense: float) -> list[str]:
    """Its differential: how much less one side gets, by which shared value, and as what comes in it
    goes."""
    if not line.differential:
        return []
    side = "down" if sense * line.differential > 0 else "up"
    said = [f"differential: {plain(abs(line.differential))} % less on the side going {side}"]
    if line.differential_from is not None:
        said.append(f"that times {shared_words(model, line.differential_from)}")
    if line.differential_off is not None:
        names = signal_labels(model)
        said.append(
            f"less of it as {names.get(line.differential_off, line.differential_off)} comes in"
        )
    return said


def slow_words(line: MixLine, power: bool) -> str:
    """How long a line takes to come in and to go out. ``power``: it gives a motor its power, and is
    counted from idle: from there to full it goes 200 %, each 100 % of which takes the seconds of
    the line."""

    def takes(seconds: float) -> str:
        return f"over {plain(seconds)} s" if seconds else "at once"

    if power:
        return f"from stopped to full {takes(2 * line.in_s)}, back {takes(2 * line.out_s)}"
    return f"comes in {takes(line.in_s)}, goes out {takes(line.out_s)}"


def made_words(model: Model, recipe: Recipe) -> list[str]:
    """The mixes a recipe makes, a line each."""
    lines = (mix_words(model, made.line) for made in expanded(recipe, model.transmitter))
    return [f"{what}: {value}" for what, value in lines]
