# SPDX-License-Identifier: GPL-3.0-or-later
"""Sums on a sheet: helping sums before their users; parts as a table with a column for each source
that several of them share, and the rest as lines."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from hypsos.core.schools.on_paper.blocks import SIDES, Block, Row, in_lines, in_pairs, without_empty
from hypsos.core.schools.on_paper.cells import is_preset, share_line, share_rest, share_weight
from hypsos.core.schools.on_paper.paper_names import Names
from hypsos.core.schools.stand_in.parts import Share, Sum

TABLE = "channels"
ORDER = (
    "Lines work from top to bottom. Each adds to the sum; “times” multiplies the sum so far, in percent; “instead” takes its "
    "place. A line whose condition fails adds nothing, and multiplies or replaces nothing. Fixed is a source that is always 100 %."
)  # fmt: skip


class PartSum(NamedTuple):
    """A sum with its path in the settings, and what it is called."""

    path: str
    label: str
    sum: Sum


class PartLines(NamedTuple):
    """The lines of a part: by column of the table, and those that stand in none."""

    made: PartSum
    columns: dict[str, str]
    rest: list[str]


def presets_of(made: Sum) -> dict[str, float]:
    """The fixed figures of a sum by flight mode, which stand in the table of modes. Where a line
    multiplies or replaces, the order counts, and none stands there."""
    if any(share.join != "add" for share in made.shares):
        return {}
    found: dict[str, float] = {}
    for share in made.shares:
        if is_preset(share) and share.modes[0] not in found:
            found[share.modes[0]] = share.above
    return found


def _lines_of(made: Sum) -> list[Share]:
    """The lines of a sum without those that stand in the table of modes."""
    left = dict(presets_of(made))
    out = []
    for share in made.shares:
        if is_preset(share) and left.pop(share.modes[0], None) is not None:
            continue
        out.append(share)
    return out


def helpers_block(names: Names, helpers: Sequence[PartSum]) -> Block:
    """The helping sums, each with its lines."""
    rows = []
    for x in helpers:
        lines = [share_line(names, share, names.signal(share.source)) for share in x.sum.shares]
        rows.append(Row(f"sum {x.sum.name}", (x.label, in_lines([*lines, *_held(names, x.sum)])), (x.path,)))  # fmt: skip
    return Block(
        "helpers",
        "Helping sums, before what uses them",
        columns=("Sum", "Its lines"),
        rows=in_pairs(rows),
    )


def _held(names: Names, made: Sum) -> list[str]:
    if not made.held:
        return []
    return [f"all that is slow here is put back to 0 while {names.reference(made.held)}"]


def parts_blocks(names: Names, parts: Sequence[PartSum]) -> Iterator[Block]:
    """What every part is told: those that share sources as a table, the others by their lines."""
    shared = _shared_columns(names, parts)
    together: list[PartSum] = []
    alone: list[PartSum] = []
    for part in parts:
        asked = {names.own(share.source, part.sum.name) for share in _lines_of(part.sum)}
        many = len(shared) > 1 and 2 * len(asked & set(shared)) > len(shared)
        (together if many and _adds(part.sum) else alone).append(part)
    if len(in_pairs([Row("", (x.label,)) for x in together])) < 2:
        together, alone = [], list(parts)
    if together:
        kept = [c for c in shared if 2 * sum(_asks(names, x, c) for x in together) >= len(together)]
        rows = [_matrix_row(names, x, kept) for x in together]
        block = Block(
            "parts together",
            "Parts and what they share",
            ("A column is a source; its figure is the weight.",),
            columns=("Part", *kept, "And these lines"),
            rows=in_pairs(rows),
        )
        yield without_empty(block)
    if alone:
        rows = [_list_row(names, x) for x in alone]
        title = "The other parts" if together else "Parts"
        yield Block("parts", title, columns=("Part", "Its lines"), rows=in_pairs(rows))


def _adds(made: Sum) -> bool:
    return all(share.join == "add" for share in made.shares)


def _asks(names: Names, part: PartSum, column: str) -> bool:
    return any(names.own(x.source, part.sum.name) == column for x in _lines_of(part.sum))


def _shared_columns(names: Names, parts: Sequence[PartSum]) -> list[str]:
    """Sources that several parts take, left and right counted as one; in the order in which they
    are met."""
    asked: dict[str, set[str]] = {}
    for part in parts:
        bare = part.label
        for side in SIDES:
            bare = bare.removeprefix(side)
        for share in _lines_of(part.sum):
            if _adds(part.sum):
                asked.setdefault(names.own(share.source, part.sum.name), set()).add(bare)
    return [column for column, by in asked.items() if len(by) > 1]


def _matrix_row(names: Names, part: PartSum, columns: Sequence[str]) -> Row:
    cells: dict[str, list[str]] = {column: [] for column in columns}
    rest = []
    for share in _lines_of(part.sum):
        column = names.own(share.source, part.sum.name)
        if column in cells:
            cells[column].append(", ".join([share_weight(share), *share_rest(names, share)]))
        else:
            rest.append(share_line(names, share, column))
    texts = (in_lines(cells[column]) for column in columns)
    return Row(
        f"sum {part.sum.name}",
        (part.label, *texts, in_lines([*rest, *_held(names, part.sum)])),
        (part.path,),
    )


def _list_row(names: Names, part: PartSum) -> Row:
    lines = []
    for share in _lines_of(part.sum):
        lines.append(share_line(names, share, names.own(share.source, part.sum.name)))
    lines += _held(names, part.sum)
    return Row(f"sum {part.sum.name}", (part.label, in_lines(lines) or "nothing"), (part.path,))
