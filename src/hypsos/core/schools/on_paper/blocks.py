# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sheet is made of: blocks, each with a heading, sentences and a table of steps."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

NEW_LINE = "\n"
"""Stands between the lines of one cell."""


class Row(NamedTuple):
    """A row of a table, which is one step where its table is ticked.

    ``key``: what it is called from one sheet of a model to the next. ``cells``: a text for each
    column. ``covers``: the parts of the settings that it says, as paths such as ``outputs.2``.
    ``hands``: where the hands stand for it, by name, where it is something to look at."""

    key: str
    cells: tuple[str, ...]
    covers: tuple[str, ...] = ()
    hands: tuple[tuple[str, float], ...] = ()


class Block(NamedTuple):
    """A heading with what stands under it.

    ``key``: which block it is. ``lines``: sentences above the table. ``caution``: what to take care
    of, before anything else. ``ticked``: its rows are steps with a box each;
    ``keyed``: these are keyed in, and not only looked at."""

    key: str
    title: str
    lines: tuple[str, ...] = ()
    caution: str = ""
    columns: tuple[str, ...] = ()
    rows: tuple[Row, ...] = ()
    ticked: bool = True
    keyed: bool = True


def without_empty(block: Block) -> Block:
    """The block without the columns in which no row says anything."""
    kept = [
        place for place in range(len(block.columns)) if any(row.cells[place] for row in block.rows)
    ]
    rows = [row._replace(cells=tuple(row.cells[i] for i in kept)) for row in block.rows]
    return block._replace(columns=tuple(block.columns[i] for i in kept), rows=tuple(rows))


def in_lines(texts: Iterable[str]) -> str:
    """Several texts as the lines of one cell."""
    return NEW_LINE.join(texts)


SIDES = ("Left ", "Right ")


def in_pairs(rows: Sequence[Row]) -> tuple[Row, ...]:
    """Rows with those of a left and a right part made one: what both say is said once, the rest
    side by side. The first cell of a row is what the part is called."""
    by_title = {row.cells[0]: row for row in rows}
    found: list[Row] = []
    for row in rows:
        title = row.cells[0]
        other = by_title.get(title.replace(SIDES[0], SIDES[1], 1))
        if title.startswith(SIDES[1]) and title.replace(SIDES[1], SIDES[0], 1) in by_title:
            continue
        if not title.startswith(SIDES[0]) or other is None:
            found.append(row)
            continue
        found.append(_paired(row, other))
    return tuple(found)


def _paired(left: Row, right: Row) -> Row:
    title = left.cells[0].replace(SIDES[0], "Left, right ", 1)
    cells = [title]
    for mine, theirs in zip(left.cells[1:], right.cells[1:], strict=True):
        cells.append(mine if mine == theirs else in_lines(_side_by_side(mine, theirs)))
    return Row(f"{left.key}+{right.key}", tuple(cells), (*left.covers, *right.covers))


def _side_by_side(left: str, right: str) -> list[str]:
    """The lines of both cells: those that are alike once, the others with their side."""
    mine, theirs = left.split(NEW_LINE), right.split(NEW_LINE)
    if len(mine) != len(theirs):
        return [f"L: {x}" for x in mine] + [f"R: {x}" for x in theirs]
    out = []
    for one, two in zip(mine, theirs, strict=True):
        out += [one] if one == two else [f"L: {one or '–'}", f"R: {two or '–'}"]
    return out
