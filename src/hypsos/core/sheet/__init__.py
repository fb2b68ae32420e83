# SPDX-License-Identifier: GPL-3.0-or-later
"""The sheet to key in, for a design on a transmitter. A new format of it is a file here and a line
in ``FORMATS``."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from hypsos.core.sheet.html_sheet import sheet_html
from hypsos.core.sheet.make_sheet import make_sheet
from hypsos.core.sheet.markdown_sheet import sheet_markdown
from hypsos.core.sheet.sheet_blocks import Sheet


class SheetFormat(NamedTuple):
    """A format of files in which a sheet is written: its name, the words on its button, and what
    writes a sheet's text; none where it is drawn on ``paper``."""

    name: str
    words: str
    write: Callable[[Sheet], str] | None = None


FORMATS: dict[str, SheetFormat] = {
    ".pdf": SheetFormat("PDF", "Save as PDF…"),
    ".html": SheetFormat("HTML", "Save as HTML…", sheet_html),
    ".md": SheetFormat("Text", "Save as text…", sheet_markdown),
}
"""Each by the ending of its files, in the order in which they are offered."""


__all__ = ["FORMATS", "Sheet", "SheetFormat", "make_sheet", "sheet_html", "sheet_markdown"]
