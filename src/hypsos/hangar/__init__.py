"""Storage: one SQLite file with every model, its snapshots and its flights; JSON in and out."""

from hypsos.hangar.records import Damaged, Held, Place, Removed, Snapshot, StoredFlight
from hypsos.hangar.store import Hangar, Which

__all__ = ["Damaged", "Hangar", "Held", "Place", "Removed", "Snapshot", "StoredFlight", "Which"]
