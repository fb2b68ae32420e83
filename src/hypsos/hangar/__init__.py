"""Storage: one SQLite file with every model, its snapshots and its flights; JSON in and out."""

from hypsos.hangar.store import Damaged, Hangar, Held, Snapshot, StoredFlight

__all__ = ["Damaged", "Hangar", "Held", "Snapshot", "StoredFlight"]
