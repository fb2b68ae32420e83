"""Storage: one SQLite file with every model, its snapshots and its flights; JSON in and out."""

from hypsos.hangar.store import Hangar, Snapshot, StoredFlight

__all__ = ["Hangar", "Snapshot", "StoredFlight"]
