# SPDX-License-Identifier: GPL-3.0-or-later
"""Storage: one SQLite file with every model, its snapshots and its flights; JSON in and out."""

from hypsos.hangar.records import Damaged, ModelPlace, Snapshot, StoredRow
from hypsos.hangar.store import Hangar, Which

__all__ = ["Damaged", "Hangar", "ModelPlace", "Snapshot", "StoredRow", "Which"]
