# SPDX-License-Identifier: GPL-3.0-or-later
"""Recorded moves from a file, played on the bench."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject

from hypsos.core.engine import Situation
from hypsos.core.scenarios.moves_csv import LARGEST, read_moves
from hypsos.desk.services.background import aside
from hypsos.desk.services.workbench import Workbench
from hypsos.hangar.files import read_text

LONG_MOVES = 300_000
"""Bytes of recorded moves that are read aside, so that the window does not wait for them."""


def play_file(owner: QObject, workbench: Workbench, path: Path, say: Callable[[str], None]) -> None:
    """Play a CSV of moves on the bench; what is wrong with it is said."""
    model = workbench.model
    if model is None:
        return

    def read() -> Situation:
        return read_moves(read_text(path, LARGEST), model, path.name)

    def play(moves: Situation) -> None:
        if workbench.model is model:
            workbench.simulation.play(moves)

    if path.is_file() and path.stat().st_size > LONG_MOVES:
        say(f"Reading {path.name}; the bench stays yours meanwhile.")
        aside(owner, read, play, say)
    else:
        workbench.notices.attempt(lambda: play(read()), placed=True)
