# SPDX-License-Identifier: GPL-3.0-or-later
"""Why a part stands where it stands: the contributions of one moment, in order, and the same as a
sentence."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Signal
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.engine import Result
from hypsos.core.engine.result import Kind
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.wording.words import Part, part_named, side_percent, standing


class Bar(NamedTuple):
    """One contribution at one moment, in percent of full deflection (of full power for a motor)."""

    label: str
    kind: Kind
    amount: float
    path: str


class PartExplanation(NamedTuple):
    """The bars of a part from zero to ``stand``; they add up to it within 1e-9."""

    part: Part
    bars: tuple[Bar, ...]
    stand: float
    deg: float | None
    mm: float | None
    flush: float = 0.0
    """Where the servo stands when the surface is flush, in percent of the part's own sense."""

    @property
    def words(self) -> str:
        """Where it stands: ``'12.3 mm up'``."""
        return standing(self.part, self.stand, self.deg, self.mm)

    @property
    def sentence(self) -> str:
        """The bars as one sentence."""
        label = self.part.label
        moving = [b for b in self.bars if abs(b.amount) >= 0.05]
        if not moving:
            return f"{label} is at neutral: nothing moves it."
        if all(b.kind == "idle" for b in moving):
            return f"{label} is {self.words}: nothing asks it to turn."
        said = [f"{b.label} {amount_words(self.part, b)}" for b in moving]
        joined = said[0] if len(said) == 1 else ", ".join(said[:-1]) + f" and {said[-1]}"
        if isinstance(self.part, Motor):
            return f"{label}: {joined}; together {self.words}."
        total = f"{number(self.stand, 1)} %"
        if isinstance(self.part, Surface):
            total = side_percent(self.part, self.stand, 1)
        if self.flush:  # an arm set off on purpose: the servo's middle is not the surface's
            at = f"the servo stands {number(self.stand, 1)} % and flush is at {number(self.flush, 1)} %"
            return f"{label}: {joined}; together {at}, so the surface is {self.words}."
        if total == self.words:
            return f"{label}: {joined}; together {total}."
        return f"{label}: {joined}; together {total}, which is {self.words}."


def amount_words(part: Part, bar: Bar) -> str:
    """A bar's amount: a side for a surface, a share of the power for a motor."""
    if not isinstance(part, Motor):
        return side_percent(part, bar.amount, 1)
    if bar.kind == "idle":
        return "stopped"
    power = f"{number(abs(bar.amount) / 2, 1)} %"
    return f"{power} more" if bar.amount > 0 else f"{power} less"


def explain(model: Model, result: Result, name: str) -> PartExplanation:
    """The explanation of the last frame of a run that was asked for ``why=[name]``.

    Raises HypsosError when there is no such part.
    """
    part = part_named(model, name)
    lead = next((x for x in model.leads if x.target == name), None)
    bars = tuple(Bar(c.label, c.kind, _last(c.amount), c.path) for c in result.why[name])
    if lead is None:
        return PartExplanation(part, bars, sum(b.amount for b in bars), None, None)
    trace = result.outputs[lead.name]
    deg = None if trace.deg is None else _last(trace.deg)
    mm = None if trace.mm is None else _last(trace.mm)
    flush = lead.linkage.flush if lead.linkage is not None else 0.0
    return PartExplanation(part, bars, _last(trace.stand), deg, mm, flush)


def _last(values: Signal) -> float:
    return float(np.ravel(values)[-1])
