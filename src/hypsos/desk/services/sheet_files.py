# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet as the content of a file, in the format of its ending."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from hypsos.core.base.errors import HypsosError
from hypsos.core.sheet import FORMATS, Sheet
from hypsos.core.sheet.field_card import FieldCard
from hypsos.hangar.files import write_whole


def write_sheet(path: Path, sheet: Sheet, paper: str = "A4") -> None:
    """Write a sheet whole, or leave the file as it was. Raises HypsosError where no format has its
    ending."""
    check_ending(path)
    format_ = FORMATS[path.suffix.lower()]
    if format_.write is None:
        from hypsos.desk.services.sheet_pdf import sheet_pdf  # dear to import

        write_whole(path, sheet_pdf(sheet, paper))
    else:
        write_whole(path, format_.write(sheet))


def check_ending(path: Path) -> None:
    """Raise HypsosError where no format has the ending of a file."""
    _known(path, "a sheet", FORMATS)


def _known(path: Path, what: str, endings: Iterable[str]) -> None:
    ending, known = path.suffix.lower(), list(endings)
    if ending not in known:
        *first, last = known
        raise HypsosError(
            f"{what} cannot be written as {ending or 'a file without ending'}",
            str(path),
            f"Use {', '.join(first)} or {last}.",
        )


CARD_FORMATS = {".pdf": "PDF", ".png": "Picture"}


def write_card(path: Path, card: FieldCard) -> None:
    """Write a field card. Raises HypsosError where it can't be written with this ending."""
    from hypsos.desk.services.sheet_pdf import card_pdf, card_picture  # dear to import

    _known(path, "a field card", CARD_FORMATS)
    write_whole(path, card_pdf(card) if path.suffix.lower() == ".pdf" else card_picture(card))
