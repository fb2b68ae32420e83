"""The numbered sheet to key in. A new transmitter school is a file here and a line in ``SCHOOLS``."""

from __future__ import annotations

from collections.abc import Callable

from hypsos.core.ground.errors import HypsosError
from hypsos.core.model.document import Model
from hypsos.core.sheet.paper import sheet_html, sheet_markdown
from hypsos.core.sheet.parts import Section, Sheet, SheetStep
from hypsos.core.sheet.plain import plain_sheet
from hypsos.core.sheet.signs import REASON, signs

SCHOOLS: dict[str, Callable[[Model], Sheet]] = {"plain": plain_sheet, "signs": signs}
SCHOOL_TITLES = {"plain": "reversing at the output", "signs": "reversal in the signs of the mixes"}


def make_sheet(model: Model, school: str = "plain") -> Sheet:
    """The sheet of a model. Raises HypsosError when there is no such school."""
    if school not in SCHOOLS:
        raise HypsosError(f"there is no school called {school}", "--school", f"There is {', '.join(SCHOOLS)}.")
    return SCHOOLS[school](model)


__all__ = [
    "REASON",
    "SCHOOLS",
    "SCHOOL_TITLES",
    "Section",
    "Sheet",
    "SheetStep",
    "make_sheet",
    "sheet_html",
    "sheet_markdown",
]
