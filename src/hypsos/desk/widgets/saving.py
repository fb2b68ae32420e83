"""Asking where a file goes."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from hypsos.hangar.files import file_name


def ask_where(parent: QWidget, title: str, name: str, kinds: dict[str, str]) -> Path | None:
    """A place for a file of one of these kinds (ending -> what it is called); None where nothing was chosen.

    A name typed without an ending gets the one of the kind that was chosen.
    """
    filters = [f"{words} (*{ending})" for ending, words in kinds.items()]
    first = next(iter(kinds))
    chosen, picked = QFileDialog.getSaveFileName(parent, title, file_name(name, first), ";;".join(filters))
    if not chosen:
        return None
    path = Path(chosen)
    ending = next((e for e, f in zip(kinds, filters, strict=True) if f == picked), first)
    return path if path.suffix.lower() in kinds else path.with_name(path.name + ending)
