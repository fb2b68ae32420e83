# SPDX-License-Identifier: GPL-3.0-or-later
"""Storage: one SQLite file with every model, its snapshots and its flights; JSON in and out."""

from hypsos.hangar.records import (
    Damaged,
    InBin,
    ModelPlace,
    Removed,
    Snapshot,
    StoredFlight,
    StoredRow,
)
from hypsos.hangar.store import Hangar, Which

__all__ = [
    "Damaged",
    "Hangar",
    "InBin",
    "ModelPlace",
    "Removed",
    "Snapshot",
    "StoredFlight",
    "StoredRow",
    "Which",
]
