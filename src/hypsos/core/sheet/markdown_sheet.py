# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet as Markdown, with boxes to tick."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hypsos.core.schools.on_paper.blocks import NEW_LINE, Block
from hypsos.core.sheet.sheet_blocks import Sheet

_MARKS = re.compile(r"([\\`*_{}\[\]<>#|~])")


def sheet_markdown(sheet: Sheet) -> str:
    """The sheet as Markdown, with boxes to tick."""
    lines = [f"# {_text(sheet.title)}", "", _text(sheet.subtitle), ""]
    if sheet.mark:
        lines += [f"Digest {_text(sheet.mark)}.", ""]
    for block in sheet.blocks:
        lines += _block(block)
    return "\n".join([*lines, _text(sheet.closing), ""])


def _block(block: Block) -> Iterator[str]:
    yield f"## {_text(block.title)}"
    yield ""
    if block.caution:
        yield f"> **Take care.** {_text(block.caution)}"
        yield ""
    for line in block.lines:
        yield f"- {_text(line)}"
    if block.lines:
        yield ""
    if not block.rows:
        return
    columns = (*block.columns, "Done") if block.ticked else block.columns
    yield _row([_cell(x) for x in columns])
    yield "|" + "---|" * len(columns)
    for row in block.rows:
        cells = [_cell(x) for x in row.cells]
        yield _row([*cells, "[ ]"] if block.ticked else cells)
    yield ""


def _row(cells: list[str]) -> str:
    return f"| {' | '.join(cells)} |"


def _cell(text: str) -> str:
    """A cell; its lines stay lines."""
    return "<br>".join(_text(line) for line in text.split(NEW_LINE))


def _text(text: str) -> str:
    """A text that stays a text: what a pilot has written makes no heading, no row, no tick and no
    link."""
    return _MARKS.sub(r"\\\1", " ".join(text.split()))
