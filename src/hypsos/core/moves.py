"""Recorded moves in, traces out: CSV text with a header, times in seconds."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hypsos.core.document import Model
from hypsos.core.engine import GuardState, Result, Situation
from hypsos.core.engine.situation import checked_value, resting
from hypsos.core.errors import HypsosError, MovesError
from hypsos.core.words import GUARD_WORDS

Array = NDArray[np.float64]
EXTRA = {"link": 1.0, "power": 1.0}
LONGEST_S = 4 * 3600.0


def read_moves(text: str, model: Model, source: str = "moves") -> Situation:
    """Moves as a situation, one frame every ``frame_s`` from the first row's time to the last one's.

    An empty cell leaves a value; every value holds until the next row; before its first value a control rests.

    Raises
    ------
    MovesError : an unknown column, a value that is no number or not allowed, times that do not rise; it names row and
        column as a spreadsheet counts them.
    """
    rows = list(csv.reader(io.StringIO(text)))
    if not rows or not rows[0] or rows[0][0].strip() != "t_s":
        raise MovesError("the first column must be t_s", f"{source}, row 1", "Begin the file with a header row.")
    names = [n.strip() for n in rows[0]]
    rest = resting(model) | EXTRA
    for column, name in enumerate(names[1:], 2):
        if name not in rest:
            remedy = f"{model.name} has {', '.join(rest)}."
            raise MovesError(
                f"there is no control called {name or '(empty)'}", f"{source}, row 1, column {column}", remedy
            )
        if name in names[: column - 1]:
            raise MovesError(
                f"the column {name} is there twice", f"{source}, row 1, column {column}", "Keep one of them."
            )
    times: list[float] = []
    values: dict[str, list[float]] = {n: [] for n in names[1:]}
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        place = f"{source}, row {number}"
        if len(row) > len(names):
            raise MovesError("this row has more cells than the header", place, "Remove the cells too many.")
        time = _number(row[0], f"{place}, column 1")
        if times and time <= times[-1]:
            text = f"time runs backwards: {time:g} s after {times[-1]:g} s"
            raise MovesError(text, f"{place}, column 1", "Put the rows in rising time.")
        times.append(time)
        for column, name in enumerate(names[1:], 1):
            cell = row[column].strip() if column < len(row) else ""
            before = values[name][-1] if values[name] else rest[name]
            values[name].append(_value(cell, name, model, f"{place}, column {column + 1}") if cell else before)
    if not times:
        raise MovesError("there are no rows", source, "Add at least one row of moves.")
    if times[-1] - times[0] > LONGEST_S:
        raise MovesError("the moves last longer than four hours", source, "Cut them into pieces.")
    frame = model.program.frame_s
    frames = int(np.floor((times[-1] - times[0]) / frame + 1e-6)) + 1
    t = times[0] + frame * np.arange(frames, dtype=np.float64)
    at = np.searchsorted(np.array(times), t + 1e-9, side="right") - 1
    tracks = {n: np.array(v)[at] for n, v in values.items()}
    link, power = tracks.pop("link", np.ones_like(t)), tracks.pop("power", np.ones_like(t))
    return Situation(t, tracks, link, power)


def _number(cell: str, place: str) -> float:
    try:
        value = float(cell)
    except ValueError:
        raise MovesError(f"{cell!r} is not a number", place, "Write a number with a point.") from None
    if not np.isfinite(value):
        raise MovesError(f"{cell} is not a number that can be used", place, "Write a finite number.")
    return value


def _value(cell: str, name: str, model: Model, place: str) -> float:
    try:
        return checked_value(model, name, _number(cell, place))
    except MovesError:
        raise
    except HypsosError as error:
        raise MovesError(f"{name}: {error.what}", place, error.remedy) from error


def trace_columns(model: Model, result: Result) -> dict[str, np.ndarray | list[str]]:
    """The columns of a trace, in order: time, guard, commands, per channel percent and pulse, per surface degrees."""
    columns: dict[str, np.ndarray | list[str]] = {"t_s": result.t_s}
    modes = model.program.modes
    columns["mode"] = [modes[int(i)].name if modes else "base" for i in np.ravel(result.modes)]
    columns["guard"] = [GUARD_WORDS[GuardState(int(s))] for s in np.ravel(result.guard)]
    columns |= {name: np.asarray(flags, float) for name, flags in result.logic.items()}
    for name, values in result.commands.items():
        columns[name] = values
    for name, trace in result.outputs.items():
        columns[f"{name}_pct"], columns[f"{name}_us"] = trace.pct, trace.us
    for lead in model.leads:
        deg = result.outputs[lead.name].deg
        if deg is not None:
            columns[f"{lead.target}_deg"] = deg
    return columns


def csv_lines(columns: dict[str, np.ndarray | list[str]]) -> Iterator[str]:
    """The columns as CSV lines, figures with up to four decimals."""
    yield ",".join(columns) + "\n"
    width = max(len(c) for c in columns.values())
    made = [_cells(c, width) for c in columns.values()]
    for row in zip(*made, strict=True):
        yield ",".join(row) + "\n"


def _cells(column: np.ndarray | list[str], width: int) -> list[str]:
    if isinstance(column, list):
        return column
    flat = np.round(np.broadcast_to(np.ravel(column), (width,)), 4) + 0.0
    return [f"{v:.10g}" for v in flat.tolist()]
