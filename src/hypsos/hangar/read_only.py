# SPDX-License-Identifier: GPL-3.0-or-later
"""Reading many models beside whoever has the hangar open: by a connection of its own, that can
write nothing."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterable
from contextlib import closing
from pathlib import Path

from hypsos.core.base.errors import DocumentError, HangarError
from hypsos.core.checking.reader import from_json
from hypsos.hangar.records import ModelPlace

BREATH_S = 0.002
"""Between two models, so that the window's thread gets its turn."""


def whys(path: Path, places: Iterable[ModelPlace]) -> dict[tuple[int, int], str]:
    """Row and revision of each of these models -> why it cannot be read, empty where it can. One
    that has another revision by now, or is gone, is left out. Raises HangarError where the file
    cannot be opened."""
    found = {}
    try:
        with closing(
            sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, timeout=5)
        ) as db:
            for place in places:
                query = "SELECT document FROM models WHERE id = ? AND revision = ?"
                row = db.execute(query, (place.id, place.revision)).fetchone()
                if row is not None:
                    found[(place.id, place.revision)] = _why(row[0], place.name)
                time.sleep(BREATH_S)
    except sqlite3.Error as error:
        raise HangarError(
            "the models of the hangar cannot be looked through", str(path), "Nothing was changed."
        ) from error
    return found


def _why(text: str, name: str) -> str:
    try:
        from_json(text, f"{name} in the hangar")
    except DocumentError as error:
        return str(error)
    return ""
