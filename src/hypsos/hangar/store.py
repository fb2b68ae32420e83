"""The hangar file. Every write is one transaction: it is there whole or not at all, also after a kill."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from hypsos.core.document import Model, from_json, to_json
from hypsos.core.errors import HangarError, HypsosError
from hypsos.core.logbook import Flight

MIGRATIONS = (
    """
    CREATE TABLE models (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE COLLATE NOCASE, document TEXT NOT NULL,
        changed_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    CREATE TABLE snapshots (id INTEGER PRIMARY KEY, model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE,
        label TEXT NOT NULL, document TEXT NOT NULL,
        made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    CREATE TABLE flights (id INTEGER PRIMARY KEY, model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE,
        flight TEXT NOT NULL);
    CREATE INDEX snapshots_by_model ON snapshots (model_id);
    CREATE INDEX flights_by_model ON flights (model_id);
    """,
)
VERSION = len(MIGRATIONS)
BUSY_S = 1.0


class Snapshot(NamedTuple):
    """A named copy of a model as it once was. ``made_at`` is UTC."""

    id: int
    label: str
    made_at: str


class StoredFlight(NamedTuple):
    """A flight and its number in the hangar."""

    id: int
    flight: Flight


class Hangar:
    """The models of one pilot in one file.

    ``read_only`` is True when the file can be read and not written; every write then raises HangarError.

    Raises
    ------
    HangarError : the file is no hangar, damaged, from a newer version, or cannot be opened. Every method may raise it;
        nothing has then been changed.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.read_only = False
        with self._told():
            path.parent.mkdir(parents=True, exist_ok=True)
            self._db = self._opened()

    def _opened(self) -> sqlite3.Connection:
        db = sqlite3.connect(self.path, timeout=BUSY_S, isolation_level=None)
        try:
            db.execute("PRAGMA foreign_keys = ON")
            db.execute("PRAGMA synchronous = FULL")
            self._migrate(db)
        except sqlite3.OperationalError as error:
            db.close()
            if "readonly" not in str(error):
                raise
            db = sqlite3.connect(f"{self.path.absolute().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None)
            self.read_only = True
            db.execute("SELECT count(*) FROM models")
        except BaseException:
            db.close()
            raise
        return db

    def _migrate(self, db: sqlite3.Connection) -> None:
        (found,) = db.execute("PRAGMA user_version").fetchone()
        if found > VERSION:
            text = f"the hangar is from a newer Hypsos (version {found}; this one knows {VERSION})"
            raise HangarError(text, str(self.path), "Open it with a newer Hypsos; nothing was changed.")
        (mode,) = db.execute("PRAGMA journal_mode").fetchone()
        if mode != "wal":
            db.execute("PRAGMA journal_mode = WAL")
        if found == 0 and db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
            raise HangarError("this is a database of another kind", str(self.path), "Choose a hangar file of Hypsos.")
        for number in range(found, VERSION):
            db.executescript(f"BEGIN IMMEDIATE; {MIGRATIONS[number]} PRAGMA user_version = {number + 1}; COMMIT;")

    def close(self) -> None:
        """Close the file. The hangar cannot be used afterwards."""
        self._db.close()

    @contextmanager
    def together(self) -> Iterator[None]:
        """Several writes as one: all of them are there afterwards, or none."""
        with self._told():
            self._db.execute("BEGIN IMMEDIATE")
        try:
            yield
        except BaseException:
            self._db.execute("ROLLBACK")
            raise
        with self._told():
            self._db.execute("COMMIT")

    # -- models -----------------------------------------------------------------------------------------------------

    def names(self) -> list[str]:
        """The names of all models, in order."""
        with self._told():
            return [r[0] for r in self._db.execute("SELECT name FROM models ORDER BY name")]

    def load(self, name: str) -> Model:
        """The model of that name. Raises HangarError when there is none, DocumentError when it cannot be read."""
        with self._told():
            row = self._db.execute("SELECT document FROM models WHERE name = ?", (name,)).fetchone()
        if row is None:
            raise self._no_such(name)
        return from_json(row[0], f"{name} in the hangar")

    def add(self, model: Model) -> None:
        """Put in a new model. Raises HangarError when its name is taken."""
        self.add_text(model.name, to_json(model))

    def add_text(self, name: str, document: str) -> None:
        """Put in a model whose document is known to be sound, as its JSON text."""
        self._write("INSERT INTO models (name, document) VALUES (?, ?)", (name, document), name)

    def save(self, name: str, model: Model) -> None:
        """Replace the model of that name; the new document may carry another name."""
        changed = self._write(
            "UPDATE models SET name = ?, document = ?, changed_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE name = ?",
            (model.name, to_json(model), name),
            model.name,
        )
        if not changed:
            raise self._no_such(name)

    def remove(self, name: str) -> None:
        """Take a model out, with its snapshots and flights."""
        self._write("DELETE FROM models WHERE name = ?", (name,))

    def numbers(self) -> dict[int, str]:
        """Receiver numbers in use and whose they are; 0 is none."""
        query = "SELECT json_extract(document, '$.receiver.number'), name FROM models ORDER BY name"
        with self._told():
            return {int(n): name for n, name in self._db.execute(query) if n}

    def free_number(self) -> int:
        """The lowest receiver number that no model has."""
        taken = self.numbers()
        return next(n for n in range(1, 256) if n not in taken or n == 255)

    def free_name(self, wanted: str) -> str:
        """The name itself, or with a number behind it when it is taken."""
        taken = {n.casefold() for n in self.names()}
        if wanted.casefold() not in taken:
            return wanted
        number = 2
        while f"{wanted} {number}".casefold() in taken:
            number += 1
        return f"{wanted} {number}"

    # -- snapshots --------------------------------------------------------------------------------------------------

    def keep(self, name: str, label: str) -> None:
        """Keep a snapshot of a model as it is now."""
        query = "INSERT INTO snapshots (model_id, label, document) SELECT id, ?, document FROM models WHERE name = ?"
        if not self._write(query, (label, name)):
            raise self._no_such(name)

    def snapshots(self, name: str) -> list[Snapshot]:
        """The snapshots of a model, newest first."""
        query = """SELECT s.id, s.label, s.made_at FROM snapshots s JOIN models m ON m.id = s.model_id
            WHERE m.name = ? ORDER BY s.id DESC"""
        with self._told():
            return [Snapshot(*row) for row in self._db.execute(query, (name,))]

    def snapshot(self, number: int) -> Model:
        """The model as a snapshot holds it."""
        with self._told():
            row = self._db.execute("SELECT document FROM snapshots WHERE id = ?", (number,)).fetchone()
        if row is None:
            raise HangarError("this snapshot is no longer there", str(self.path))
        return from_json(row[0], f"snapshot {number}")

    # -- flights ----------------------------------------------------------------------------------------------------

    def log(self, name: str, flight: Flight) -> int:
        """Write a flight into a model's log; its number is returned."""
        return self.log_text(name, flight.model_dump_json())

    def log_text(self, name: str, flight: str) -> int:
        """The same for a flight known to be sound, as its JSON text."""
        query = "INSERT INTO flights (model_id, flight) SELECT id, ? FROM models WHERE name = ?"
        if not self._write(query, (flight, name)):
            raise self._no_such(name)
        number: int = self._db.execute("SELECT last_insert_rowid()").fetchone()[0]
        return number

    def strike(self, number: int) -> None:
        """Take a flight out of the log."""
        self._write("DELETE FROM flights WHERE id = ?", (number,))

    def flight_count(self, name: str) -> int:
        """How many flights of a model are in the log."""
        query = "SELECT count(*) FROM flights JOIN models ON models.id = flights.model_id WHERE models.name = ?"
        with self._told():
            return int(self._db.execute(query, (name,)).fetchone()[0])

    def flights(self, name: str) -> list[StoredFlight]:
        """A model's flights, newest first."""
        query = "SELECT f.id, f.flight FROM flights f JOIN models m ON m.id = f.model_id WHERE m.name = ?"
        with self._told():
            rows = self._db.execute(query, (name,)).fetchall()
        flights = [StoredFlight(number, Flight.model_validate_json(text)) for number, text in rows]
        return sorted(flights, key=lambda f: (f.flight.date, f.id), reverse=True)

    # -- errors -----------------------------------------------------------------------------------------------------

    def _write(self, query: str, values: tuple[object, ...], name: str = "") -> int:
        if self.read_only:
            raise HangarError(
                "the hangar can be read and not written", str(self.path), "Change its permissions; nothing was changed."
            )
        with self._told(name):
            return self._db.execute(query, values).rowcount

    def _no_such(self, name: str) -> HangarError:
        known = ", ".join(self.names()) or "no models yet"
        return HangarError(f"there is no model called {name}", str(self.path), f"It holds {known}.")

    @contextmanager
    def _told(self, name: str = "") -> Iterator[None]:
        """Turn what SQLite or the disk says into a sentence a pilot can act on."""
        kept = "Nothing was changed."
        try:
            yield
        except HypsosError:
            raise
        except sqlite3.IntegrityError as error:
            text = f"there is already a model called {name}"
            raise HangarError(text, str(self.path), f"Choose another name. {kept}") from error
        except sqlite3.Error as error:
            said = str(error).lower()
            for sign, text, remedy in (
                ("locked", "another program is writing to the hangar", "Close it and try again."),
                ("readonly", "the hangar can be read and not written", "Change its permissions."),
                ("full", "the disk is full", "Make room and try again."),
                ("unable to open", "the hangar cannot be opened", "Check that the folder exists and may be read."),
                ("not a database", "this file is not a hangar", "Choose another file."),
                ("malformed", "the hangar is damaged", "Restore it from a back-up."),
            ):
                if sign in said:
                    raise HangarError(text, str(self.path), f"{remedy} {kept}") from error
            raise HangarError(f"the hangar could not be used ({error})", str(self.path), kept) from error
        except OSError as error:
            raise HangarError(f"the hangar cannot be used ({error.strerror})", str(self.path), kept) from error
