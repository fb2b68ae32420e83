# SPDX-License-Identifier: GPL-3.0-or-later
"""The numbered sheet to key in. A new transmitter school is a file here and a line in ``SCHOOLS``;
a new format of the sheet is a file and a line in ``FORMATS``."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.sheet.html_sheet import sheet_html
from hypsos.core.sheet.markdown_sheet import sheet_markdown
from hypsos.core.sheet.sheet_parts import Keyed, Sheet, SheetSection, SheetStep
from hypsos.core.sheet.sheet_steps import sheet_of
from hypsos.core.sheet.signs_school import REASON, signs_in_mixes


class School(NamedTuple):
    """A way of thinking of transmitters: its title, what is keyed in for a model, and what to know
    about it."""

    title: str
    translate: Callable[[Model], Keyed]
    advice: str = ""


SCHOOLS: dict[str, School] = {
    "plain": School("reversing at the output", Keyed),
    "signs": School("reversal in the signs of the mixes", signs_in_mixes, REASON),
}


class SheetFormat(NamedTuple):
    """A format of files in which a sheet is written: its name, the words on its button, and what
    writes a sheet's text.

    ``paged``: the text is laid out on pages of paper before it is written.
    """

    name: str
    words: str
    write: Callable[[Sheet], str]
    paged: bool = False


FORMATS: dict[str, SheetFormat] = {
    ".pdf": SheetFormat("PDF", "Save as PDF…", sheet_html, paged=True),
    ".html": SheetFormat("HTML", "Save as HTML…", sheet_html),
    ".md": SheetFormat("Text", "Save as text…", sheet_markdown),
}
"""Each by the ending of its files, in the order in which they are offered."""


def make_sheet(model: Model, school: str = "plain", proof: tuple[str, ...] = ()) -> Sheet:
    """The sheet of a model; ``proof`` are lines of its shakedown for the first page. Raises
    HypsosError when there is no such school."""
    if school not in SCHOOLS:
        raise HypsosError(
            f"there is no school called {school}", "--school", f"There is {', '.join(SCHOOLS)}."
        )
    return sheet_of(model, SCHOOLS[school].translate(model), SCHOOLS[school].advice)._replace(
        proof=proof
    )


__all__ = [
    "FORMATS",
    "REASON",
    "SCHOOLS",
    "Keyed",
    "School",
    "Sheet",
    "SheetFormat",
    "SheetSection",
    "SheetStep",
    "make_sheet",
    "sheet_html",
    "sheet_markdown",
]
