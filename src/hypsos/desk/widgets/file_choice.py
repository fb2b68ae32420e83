# SPDX-License-Identifier: GPL-3.0-or-later
"""Asking where a file goes, or which one is meant; the folder is remembered."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from hypsos.desk.services import settings as remembered
from hypsos.hangar.files import file_name


def ask_where(parent: QWidget, title: str, name: str, kinds: dict[str, str]) -> Path | None:
    """A place for a file of one of these kinds (ending -> what it is called); None where nothing
    was chosen.

    A name typed without an ending gets the one of the kind that was chosen.
    """
    filters = [f"{words} (*{ending})" for ending, words in kinds.items()]
    first = next(iter(kinds))
    chosen, picked = QFileDialog.getSaveFileName(
        parent, title, _beside(file_name(name, first)), ";;".join(filters)
    )
    if not chosen:
        return None
    path = Path(chosen)
    remembered.remember("folder", str(path.parent))
    ending = next((e for e, f in zip(kinds, filters, strict=True) if f == picked), first)
    return path if path.suffix.lower() in kinds else path.with_name(path.name + ending)


def ask_which(parent: QWidget, title: str, kinds: dict[str, str]) -> Path | None:
    """A file of one of these kinds to read; None where nothing was chosen."""
    filters = [f"{words} (*{ending})" for ending, words in kinds.items()]
    chosen, _ = QFileDialog.getOpenFileName(parent, title, remembered.folder(), ";;".join(filters))
    if not chosen:
        return None
    remembered.remember("folder", str(Path(chosen).parent))
    return Path(chosen)


def _beside(name: str) -> str:
    folder = remembered.folder()
    return str(Path(folder) / name) if folder else name
