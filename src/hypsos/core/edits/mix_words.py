# SPDX-License-Identifier: GPL-3.0-or-later
"""Mix lines as people say them; the page and the sheet say them alike."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.lines import expanded
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes import Recipe
from hypsos.core.wording.describe_condition import phrase, signal_labels
from hypsos.core.wording.words import plain, said_name


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
    return f"shared value {said_name(shared.label if shared is not None else name, 'Shared value', name)}"


def mix_words(model: Model, line: MixLine, origin: str = "", sense: float = 1.0) -> tuple[str, str]:
    """What a line reads and feeds, and how much and how it goes. ``origin``: the recipe that made it; ``sense`` -1 for a part
    whose signs are turned."""
    names = signal_labels(model)
    value = (
        []
        if line.gain == 100 and (line.response or line.gain_from)
        else [f"{plain(line.gain)}{'°' if line.by_angle else ' %'}"]
    )
    if line.gain_from is not None:
        value.append(f"times {shared_words(model, line.gain_from)}")
    if line.response is not None:
        control = model.transmitter.control(line.source)
        if control is not None and len(control.positions) == len(line.response.points):
            points = [f"{n}: {plain(y)} %" for n, (_, y) in zip(control.positions, line.response.points, strict=True)]
            value.append(", ".join(points))
        else:
            value.append(curve_words(line.response))
        if line.response.live_from is not None:
            value.append(live_words(model, line.response))
    if line.by_angle:
        value.append("by angle")
    motors = {m.name for m in model.airframe.motors}
    if line.target in motors and line.source == "thrust" and (line.gain != 100 or line.response or line.gain_from):
        value.append("counted from idle")
    if line.combine != "add":
        value.append({"replace": "replaces what comes before it", "scale": "scales what comes before it"}[line.combine])
    if line.when is not None:
        value.append(f"only while {phrase(model, line.when)}")
    if not line.with_trim:
        value.append("without trim")
    if line.differential:
        side = "down" if sense * line.differential > 0 else "up"
        value.append(f"differential: {plain(abs(line.differential))} % less on the side going {side}")
        if line.differential_from is not None:
            value.append(f"that times {shared_words(model, line.differential_from)}")
        if line.differential_off is not None:
            value.append(f"less of it as {names.get(line.differential_off, line.differential_off)} comes in")
    if line.in_s or line.out_s:
        value.append(slow_words(line, line.target in motors and line.source == "thrust"))
    source, target = names.get(line.source, line.source), names.get(line.target, line.target)
    from_ = f" ({origin})" if origin and origin not in target else ""
    return f"{source[:1].upper()}{source[1:]} to {target}{from_}", ", ".join(value)


def slow_words(line: MixLine, power: bool) -> str:
    """How long a line takes to come in and to go out. ``power``: it gives a motor its power, and is counted from idle: from there
    to full it goes 200 %, each 100 % of which takes the seconds of the line."""

    def takes(seconds: float) -> str:
        return f"over {plain(seconds)} s" if seconds else "at once"

    if power:
        return f"from stopped to full {takes(2 * line.in_s)}, back {takes(2 * line.out_s)}"
    return f"comes in {takes(line.in_s)}, goes out {takes(line.out_s)}"


def made_words(model: Model, recipe: Recipe) -> list[str]:
    """The mixes a recipe makes, a line each."""
    lines = (mix_words(model, made.line) for made in expanded(recipe, model.transmitter))
    return [f"{what}: {value}" for what, value in lines]
