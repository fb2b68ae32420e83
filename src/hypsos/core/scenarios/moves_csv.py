# SPDX-License-Identifier: GPL-3.0-or-later
"""Recorded moves in, traces out: CSV text with a header, times in seconds."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from typing import NamedTuple, cast

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.base.csv_columns import csv_text
from hypsos.core.base.errors import MovesError
from hypsos.core.document.document import Model
from hypsos.core.document.paths import clean
from hypsos.core.engine import GuardState, Plan, Result, Situation
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.situation import HeldValues, allowed
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.wording.words import GUARD_WORDS

Array = NDArray[np.float64]
LONGEST_S = 2 * 3600.0
MOST_ROWS = 400_000
LARGEST = 60_000_000
"""Letters of a file of moves."""
ROWS = 2_000
"""Rows written in one go."""
BLOCK = 20_000
"""Rows read, or frames computed and written, in one go."""


class _Column(NamedTuple):
    """A column's name, what it takes (low, high, whole numbers only), and its place as a
    spreadsheet counts."""

    name: str
    low: float
    high: float
    whole: bool
    place: int


def read_moves(text: str, model: Model, source: str = "moves") -> Situation:
    """Moves as a situation, one frame every ``frame_s`` from the first row's time to the last
    one's.

    An empty cell leaves a value; every value holds until the next row; before its first value a
    control rests.

    Raises
    ------
    MovesError : an unknown column, a value that is no number or not allowed, times that do not rise, more than two hours or
        400,000 rows; it names row and column as a spreadsheet counts them.
    """
    columns, times, values = _table(text, model, source)
    frame = model.program.frame_s
    frames = int(np.floor((times[-1] - times[0]) / frame + 1e-6)) + 1
    t = times[0] + frame * np.arange(frames, dtype=np.float64)
    row = (np.searchsorted(times, t + 1e-9, side="right") - 1).astype(np.int32)
    rest = resting(model) | AROUND
    tracks: dict[str, ArrayLike] = {
        c.name: cast("ArrayLike", HeldValues(_held(values[k], rest[c.name]), row))
        for k, c in enumerate(columns)
    }
    return Situation.of(t, tracks)


def _table(text: str, model: Model, source: str) -> tuple[list[_Column], Array, list[Array]]:
    """The columns, the times of the rows, and per column its values (NaN where a cell is empty)."""
    if len(text) > LARGEST or text.count("\n") > MOST_ROWS + 1:
        raise MovesError(
            f"the file has more than {MOST_ROWS:,} rows", source, "Cut it into pieces."
        )
    reader = csv.reader(io.StringIO(text))
    try:
        columns = _header(next(reader, []), model, source)
        blocks = _all_filled(text, columns) or list(_blocks(reader, columns, source))
    except csv.Error as error:
        place = f"{source}, row {reader.line_num}"
        raise MovesError(
            "a cell is too long, or a quote is not closed", place, "Write plain numbers."
        ) from error
    if not blocks:
        raise MovesError("there are no rows", source, "Add at least one row of moves.")
    times = np.concatenate([t for t, _ in blocks])
    if times[-1] - times[0] > LONGEST_S:
        raise MovesError("the moves last longer than two hours", source, "Cut them into pieces.")
    return columns, times, [np.concatenate([v[k] for _, v in blocks]) for k in range(len(columns))]


def _header(cells: list[str], model: Model, source: str) -> list[_Column]:
    names = [n.strip() for n in cells]
    if not names or names[0] != "t_s":
        raise MovesError(
            "the first column must be t_s", f"{source}, row 1", "Begin the file with a header row."
        )
    known = [*resting(model), *AROUND]
    out = []
    for place, name in enumerate(names[1:], 2):
        where = f"{source}, row 1, column {place}"
        if name not in known:
            remedy = f"{model.name} has {', '.join(known)}."
            raise MovesError(
                f"there is no control called {clean(name) or '(empty)'}", where, remedy
            )
        if name in names[: place - 1]:
            raise MovesError(f"the column {name} is there twice", where, "Keep one of them.")
        out.append(_Column(name, *allowed(model, name), place))
    return out


def _all_filled(text: str, columns: list[_Column]) -> list[tuple[Array, list[Array]]]:
    """The rows where every cell holds a number that is allowed, read in one go; nothing where any
    does not."""
    if not text.partition("\n")[2].strip():
        return []
    try:
        table = np.loadtxt(io.StringIO(text), delimiter=",", skiprows=1, comments=None, ndmin=2)
    except ValueError:
        return []
    if table.shape[1] != len(columns) + 1 or not table.size or not np.isfinite(table).all():
        return []
    if not (np.diff(table[:, 0]) > 0).all():
        return []
    for k, column in enumerate(columns, 1):
        x = table[:, k]
        if x.min() < column.low or x.max() > column.high:
            return []
        if column.whole and (x != np.floor(x)).any():
            return []
    return [(table[:, 0], list(table[:, 1:].T))]


def _blocks(
    reader: Iterator[list[str]], columns: list[_Column], source: str
) -> Iterator[tuple[Array, list[Array]]]:
    """Times and, per column, values (NaN where a cell is empty), some thousand rows at a time."""
    last, number, width = -np.inf, 1, len(columns) + 1
    while True:
        rows: list[list[str]] = []
        places: list[int] = []
        for row in reader:
            number += 1
            if len(row) > width:
                place = f"{source}, row {number}"
                raise MovesError(
                    "this row has more cells than the header", place, "Remove the cells too many."
                )
            if row and (row[0] or any(cell.strip() for cell in row)):
                rows.append(row if len(row) == width else row + [""] * (width - len(row)))
                places.append(number)
            if len(rows) == BLOCK:
                break
        if not rows:
            return
        cells = list(zip(*rows, strict=True))
        times = _numbers(cells[0], places, 1, source, "")
        before = np.concatenate([[last], times[:-1]])
        if not (times > before).all():
            i = int(np.argmin(times > before))
            text = f"time runs backwards: {times[i]:g} s after {before[i]:g} s"
            raise MovesError(
                text, f"{source}, row {places[i]}, column 1", "Put the rows in rising time."
            )
        last = float(times[-1])
        yield (
            times,
            [_values(cells[k], places, column, source) for k, column in enumerate(columns, 1)],
        )


def _values(cells: tuple[str, ...], places: list[int], column: _Column, source: str) -> Array:
    values = _numbers(cells, places, column.place, source, column.name)
    with np.errstate(invalid="ignore"):
        bad = (values < column.low) | (values > column.high)
        if column.whole:
            bad |= (values != np.floor(values)) & ~np.isnan(values)
    if bad.any():
        i = int(np.argmax(bad))
        kind = "a whole number" if column.whole else "a number"
        place = f"{source}, row {places[i]}, column {column.place}"
        remedy = f"It takes {kind} from {column.low:g} to {column.high:g}."
        raise MovesError(f"{column.name}: {values[i]:g} is not possible", place, remedy)
    return values


def _numbers(
    cells: tuple[str, ...], places: list[int], column: int, source: str, name: str
) -> Array:
    """The cells as numbers, NaN for an empty one (which a time may not be)."""
    try:
        values = np.array([float(c) if c else np.nan for c in cells])
        if np.isfinite(values).all():
            return values
        only_blanks = _blanks(cells) == np.isnan(values).sum()
        if name and only_blanks and not np.isinf(values).any():
            return values
    except ValueError:
        pass
    out = np.full(len(cells), np.nan)
    for i, cell in enumerate(cells):
        if not cell.strip() and name:
            continue
        place = f"{source}, row {places[i]}, column {column}"
        try:
            out[i] = float(cell)
        except ValueError:
            shown = cell.strip() if len(cell.strip()) <= 60 else f"{cell.strip()[:60]}…"
            raise MovesError(
                f"'{clean(shown)}' is not a number", place, "Write a number with a point."
            ) from None
        if not np.isfinite(out[i]):
            raise MovesError(
                f"{clean(cell.strip())} is not a number that can be used",
                place,
                "Write a finite number.",
            )
    return out


def _blanks(cells: tuple[str, ...]) -> int:
    return cells.count("")


def _held(values: Array, rest: float) -> Array:
    """Every value until the next one; before the first, where the control rests."""
    index = np.maximum.accumulate(np.where(np.isnan(values), -1, np.arange(len(values))))
    return np.where(index < 0, rest, values[np.maximum(index, 0)])


# -- traces out ---------------------------------------------------------------------------------


def trace_lines(plan: Plan, situation: Situation) -> Iterator[tuple[float, str]]:
    """The trace of a situation piece by piece: how much of it is done (0...1), and CSV text.
    Nothing of it is kept."""
    frames, memory = len(situation.t_s), None
    for start in range(0, frames, BLOCK):
        result = plan.run(situation.piece(start, start + BLOCK), memory)
        memory = result.memory
        text = "".join(csv_lines(trace_columns(plan.model, result), header=start == 0))
        yield min(1.0, (start + BLOCK) / frames), text


def trace_columns(model: Model, result: Result) -> dict[str, np.ndarray | list[str]]:
    """The columns of a trace, in order: time, mode, guard, logical switches, what begins to be
    said, timers, commands, per channel percent (empty where there is no pulse) and pulse, per
    surface degrees."""
    columns: dict[str, np.ndarray | list[str]] = {"t_s": result.t_s}
    names = [m.name for m in model.program.modes] or ["base"]
    columns["mode"] = [names[i] for i in np.ravel(result.modes).tolist()]
    words = [GUARD_WORDS[s] for s in GuardState]
    columns["guard"] = [words[i] for i in np.ravel(result.guard).tolist()]
    columns |= {name: np.asarray(flags, float) for name, flags in result.logic.items()}
    if model.program.announcements or model.program.timers:
        columns["say"] = _captions(result)
    columns |= {f"{name}_s": shown for name, shown in result.timers.items()}
    for name, values in result.commands.items():
        columns[name] = values
    for name, trace in result.outputs.items():
        columns[f"{name}_pct"] = np.where(trace.us == 0, np.nan, trace.pct)
        columns[f"{name}_us"] = trace.us
    for lead in model.leads:
        deg = result.outputs[lead.name].deg
        if deg is not None:
            columns[f"{lead.target}_deg"] = deg
    return columns


def _captions(result: Result) -> list[str]:
    """What begins to be said in each frame, as it stands in a cell."""
    said = [""] * len(result.t_s)
    for x in result.said:
        quoted = x.caption.replace('"', '""')
        said[x.frame] = f'"{quoted}"' if quoted != x.caption or "," in quoted else quoted
    return said


def csv_lines(columns: dict[str, np.ndarray | list[str]], header: bool = True) -> Iterator[str]:
    """The columns as CSV text, some thousand rows at a time: figures with up to four decimals,
    nothing where there is none."""
    if header:
        yield ",".join(columns) + "\n"
    width = max(len(c) if isinstance(c, list) else np.size(c) for c in columns.values())
    whole: dict[str, np.ndarray | list[str]] = {}
    for name, column in columns.items():
        words = isinstance(column, list)
        # what is the same in every row may stand in a single one
        whole[name] = column if words else np.broadcast_to(np.ravel(column), (width,))
    for start in range(0, width, ROWS):
        yield csv_text({n: c[start : start + ROWS] for n, c in whole.items()})
