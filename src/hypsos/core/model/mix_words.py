"""Mix lines as people say them; the page and the sheet say them alike."""

from __future__ import annotations

from hypsos.core.model.document import Model
from hypsos.core.model.words import plain
from hypsos.core.parts.shapes import MixLine
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.recipes import Recipe


def signal_labels(model: Model) -> dict[str, str]:
    """What people call everything that a mix can read or feed."""
    labels = {s: s.replace("_", " ") for s in STICKS} | {p.name: p.label for p in model.airframe.moved()}
    labels |= {c.name: c.label for c in model.transmitter.controls} | {x.name: x.label for x in model.program.logic}
    return labels | model.program.signal_labels() | {"full": "a constant 100 %"}


def mix_words(model: Model, line: MixLine) -> str:
    """A mix line in one line: what it reads, what it feeds, how much, and how it goes."""
    labels = signal_labels(model)
    text = f"{labels.get(line.source, line.source)} → {labels.get(line.target, line.target)}: {plain(line.gain)} %"
    if line.response is not None:
        text += "  through " + ", ".join(f"{plain(x)}→{plain(y)}" for x, y in line.response.points)
    if line.differential:
        side = "down" if line.differential > 0 else "up"
        text += f", differential: {plain(abs(line.differential))} % less on the side going {side}"
    if line.in_s or line.out_s:
        text += f", comes in over {plain(line.in_s)} s, goes out over {plain(line.out_s)} s"
    return text


def made_words(model: Model, recipe: Recipe) -> list[str]:
    """The mixes a recipe makes, a line each."""
    return [mix_words(model, made.line) for made in recipe.expand(model.transmitter.control)]
