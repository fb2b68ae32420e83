# SPDX-License-Identifier: GPL-3.0-or-later
"""What the hangar hands out."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.document.logbook import Flight


class Snapshot(NamedTuple):
    """A named copy of a model as it once was. ``made_at`` is UTC."""

    id: int
    label: str
    made_at: str


class StoredFlight(NamedTuple):
    """A flight and its number in the hangar."""

    id: int
    flight: Flight


class StoredRow(NamedTuple):
    """A model as it was read: its row, which stays when it is renamed, and the revision that a
    write must find there."""

    id: int
    revision: int
    model: Model

    @property
    def name(self) -> str:
        """The name under which it is stored."""
        return str(self.model.name)


class InBin(NamedTuple):
    """A model that was taken out and can be brought back. ``gone_at`` is UTC."""

    id: int
    name: str
    gone_at: str


class Removed(NamedTuple):
    """A model that was taken out, with all that belongs to it; ``binned``: where it is kept."""

    name: str
    row: int
    document: str
    snapshots: list[tuple[int, str, str, str]]
    flights: list[tuple[int, str]]
    keyed: list[tuple[str, str, str]]
    binned: int = 0


class ModelPlace(NamedTuple):
    """A model's row, its revision and its name."""

    id: int
    revision: int
    name: str


class Damaged(NamedTuple):
    """A model that cannot be read: its row, its name, and why."""

    id: int
    name: str
    why: str
