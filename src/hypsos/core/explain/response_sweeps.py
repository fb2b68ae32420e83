# SPDX-License-Identifier: GPL-3.0-or-later
"""Any part against any hand, once for every position of a switch or every flight mode; as lines and
as a table."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.backends import of_each
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.engine import Plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.mode_ways import ways_to_modes

STEPS = 81
UNITS = ("%", "°", "mm")


class SweepLine(NamedTuple):
    """One line of a sweep: its name, the hand's travel (percent, or positions) and the part in
    percent, degrees, millimetres (None where it has none). Shapes (S,)."""

    name: str
    x: NDArray[np.float64]
    percent: NDArray[np.float64]
    deg: NDArray[np.float64] | None
    mm: NDArray[np.float64] | None

    def values(self, unit: str) -> NDArray[np.float64] | None:
        """The part in a unit, or None."""
        return {"%": self.percent, "°": self.deg, "mm": self.mm}[unit]


def swept(
    plan: Plan, control: str, part: str, by: str = "", hands: Mapping[str, float] | None = None
) -> list[SweepLine]:
    """A part against a control. ``by``: ``modes`` for a line in every flight mode, a switch for one
    at each of its positions, empty for one as ``hands`` are. Raises HypsosError where the part has
    no lead."""
    model = plan.model
    lead = next((x for x in model.leads if x.target == part), None)
    if lead is None:
        raise HypsosError(f"{part} has no lead", "leads")
    held = {n: float(x) for n, x in (hands or {}).items() if n in plan.rest}
    x = np.linspace(-100, 100, STEPS)
    moved = model.transmitter.control(control)
    if moved is not None and moved.is_switch:
        x = np.arange(len(moved.positions), dtype=float)
    out = []
    for name, places in _sweep_cases(model, by):
        values: dict[str, object] = {**held, **places, control: x[:, None]}
        trace = settled(plan, values).outputs[lead.name]
        out.append(
            SweepLine(name, x, _line(trace.stand, x), _maybe(trace.deg, x), _maybe(trace.mm, x))
        )
    return out


def _sweep_cases(model: Model, by: str) -> list[tuple[str, dict[str, float]]]:
    """The lines of a sweep: what each is called, and where the hands are for it."""
    switch = model.transmitter.control(by)
    if switch is not None:
        return [(p, {by: float(i)}) for i, p in enumerate(switch.positions)]
    found: list[tuple[str, dict[str, float]]] = []
    if by == "modes":
        ways = ways_to_modes(model)
        found = [(m.label, ways[m.name]) for m in model.program.modes if m.name in ways]
    return found or [("as it is", {})]


def _line(values: object, x: NDArray[np.float64]) -> NDArray[np.float64]:
    return of_each(np.asarray(values, float), len(x)).copy()


def _maybe(values: object, x: NDArray[np.float64]) -> NDArray[np.float64] | None:
    return None if values is None else _line(values, x)


def as_csv(control: str, part: str, unit: str, lines: list[SweepLine]) -> str:
    """The lines as a table: the control's travel, then a column per line."""
    columns = [(f"{part} ({line.name}) {unit}", line.values(unit)) for line in lines]
    kept = [(name, values) for name, values in columns if values is not None]
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([control, *(name for name, _ in kept)])
    for i, x in enumerate(lines[0].x if lines else ()):
        writer.writerow([f"{x:.6g}", *(f"{values[i]:.6g}" for _, values in kept)])
    return text.getvalue()
