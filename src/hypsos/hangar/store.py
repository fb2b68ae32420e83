# SPDX-License-Identifier: GPL-3.0-or-later
"""The hangar file. Every write is one transaction: it is there whole or not at all, also after a
kill."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import TYPE_CHECKING

from pydantic import ValidationError

from hypsos.core.base.errors import DocumentError, HangarError, MovedOn
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.logbook import Flight
from hypsos.core.document.paths import clean
from hypsos.hangar.database import HangarFile
from hypsos.hangar.records import (
    Damaged,
    InBin,
    ModelPlace,
    Removed,
    Snapshot,
    StoredFlight,
    StoredRow,
)

if TYPE_CHECKING:
    from hypsos.core.parts.transmitter_profile import Profile


DAYS_IN_BIN = 30
NOT_YET_OVER = f"gone_at >= strftime('%Y-%m-%dT%H:%M:%fZ', 'now', '-{DAYS_IN_BIN} days')"
"""Of a row of the bin: it is kept still."""
Which = str | int | StoredRow
"""A model by its name, by its row, or as it was read."""


class Hangar(HangarFile):
    """The models of one pilot in one file, with their snapshots, their flights and the transmitters
    they share."""

    # -- models ----------------------------------------------------------------------------------

    def names(self) -> list[str]:
        """The names of all models, in order."""
        with self._told():
            return [r[0] for r in self._db.execute("SELECT name FROM models ORDER BY name")]

    def load(self, name: str) -> Model:
        """The model of that name. Raises HangarError when there is none, DocumentError when it
        cannot be read."""
        return self.take(name).model

    def take(self, name: str) -> StoredRow:
        """The model of that name with its row and revision, for :meth:`put`. Raises as :meth:`load`
        does."""
        with self._told():
            # an older hangar that cannot be written has none
            revision = "0" if self.read_only else "revision"
            query = f"SELECT id, {revision}, document FROM models WHERE name = ?"
            row = self._db.execute(query, (name,)).fetchone()
        if row is None:
            raise self._no_such(name)
        return StoredRow(row[0], row[1], from_json(row[2], f"{name} in the hangar"))

    def newer(self, held: StoredRow) -> StoredRow | None:
        """The model of that row as it is now, where it is not what was read; None where nothing has
        changed, or it is gone."""
        with self._told():
            query = "SELECT id, revision, document FROM models WHERE id = ? AND revision != ?"
            row = (
                None
                if self.read_only
                else self._db.execute(query, (held.id, held.revision)).fetchone()
            )
        return (
            None
            if row is None
            else StoredRow(row[0], row[1], from_json(row[2], f"{held.name} in the hangar"))
        )

    def put(self, held: StoredRow, model: Model) -> StoredRow:
        """Write a model where ``held`` was read, if nobody has written there since; it may carry
        another name.

        Raises HangarError when another window or program has changed it, or taken it away; nothing
        is then changed."""
        query = """UPDATE models SET name = ?, document = ?, revision = ?,
            changed_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = ? AND revision = ?"""
        text = to_json(model)
        with self.together():
            revision = self._next()
            written = self._write(
                query, (model.name, text, revision, held.id, held.revision), model.name
            )
            if not written:
                raise self._moved_on(held)
        return StoredRow(held.id, revision, model)

    def _moved_on(self, held: StoredRow) -> MovedOn:
        with self._told():
            row = self._db.execute("SELECT name FROM models WHERE id = ?", (held.id,)).fetchone()
        if row is None:
            text = f"{held.name} is no longer in the hangar: another window has taken it out"
            return MovedOn(
                text,
                str(self.path),
                "Export it, or choose another model. Nothing was written.",
                gone=True,
            )
        text = f"{row[0]} was changed by another window since it was put on the bench here"
        remedy = "Choose it again to see the newer one, then make your change. Nothing was written."
        return MovedOn(text, str(self.path), remedy, gone=False)

    def raw(self, which: Which) -> str:
        """A model's document as it lies in the hangar, readable or not."""
        return str(self._one("document", which))

    def damaged(self) -> list[Damaged]:
        """The models that cannot be read, and why. It reads every one: with many models that takes
        its time."""
        out = []
        for place in self.places():
            why = self.why_unreadable(place)
            if why:
                out.append(Damaged(place.id, place.name, why))
        return out

    def places(self) -> list[ModelPlace]:
        """Row, revision and name of every model, in the order of their names."""
        with self._told():
            revision = "0" if self.read_only else "revision"
            rows = self._db.execute(
                f"SELECT id, {revision}, name FROM models ORDER BY name"
            ).fetchall()
        return [ModelPlace(*row) for row in rows]

    def why_unreadable(self, place: ModelPlace) -> str:
        """Why the model of that row cannot be read; empty where it can, or where it is gone."""
        with self._told():
            row = self._db.execute(
                "SELECT document FROM models WHERE id = ?", (place.id,)
            ).fetchone()
        try:
            if row is not None:
                from_json(row[0], f"{place.name} in the hangar")
        except DocumentError as error:
            return str(error)
        return ""

    def mend(self, which: Which, snapshot: int) -> None:
        """Replace a model, readable or not, by one of its snapshots."""
        kept = self.snapshot(snapshot)
        model = kept.changed({"name": self._one("name", which)})
        condition, value = _asked(which)
        with self.together():
            query = f"UPDATE models SET document = ?, revision = ? WHERE {condition}"
            self._write(query, (to_json(model), self._next(), value))

    def add(self, model: Model) -> None:
        """Put in a new model. Raises HangarError when its name is taken."""
        self.add_text(model.name, to_json(model))

    def add_text(self, name: str, document: str) -> None:
        """Put in a model whose document is known to be sound, as its JSON text."""
        with self.together():
            number = self._next()
            query = "INSERT INTO models (id, revision, name, document) VALUES (?, ?, ?, ?)"
            self._write(query, (number, number, name, document), name)

    def save(self, name: str, model: Model) -> None:
        """Replace the model of that name; the new document may carry another name."""
        self.put(self.take(name), model)

    def taken_out(self, which: Which) -> Removed:
        """Take a model out, with its snapshots and flights; what comes back can be put in again, and
        is in the bin for a while. It is read and taken out in one go, so that nothing that another
        window writes meanwhile is lost. Raises HangarError."""
        condition, value = _asked(which)
        with self.together():
            row = self._db.execute(
                f"SELECT id, name, document FROM models WHERE {condition}", (value,)
            ).fetchone()
            if row is None:
                raise self._no_such(which)
            snapshots = self._db.execute(
                "SELECT id, label, document, made_at FROM snapshots WHERE model_id = ? ORDER BY id",
                row[:1],
            ).fetchall()
            flights = self._db.execute(
                "SELECT id, flight FROM flights WHERE model_id = ? ORDER BY id", row[:1]
            ).fetchall()
            keyed = self._db.execute(
                "SELECT transmitter, step, said FROM keyed WHERE model_id = ?", row[:1]
            ).fetchall()
            self._write("DELETE FROM models WHERE id = ?", row[:1])
            gone = Removed(row[1], row[0], row[2], snapshots, flights, keyed)
            query = "INSERT INTO bin (name, content) VALUES (?, ?)"
            self._write(query, (gone.name, json.dumps(gone._asdict(), ensure_ascii=False)))
            binned: int = self._db.execute("SELECT last_insert_rowid()").fetchone()[0]
            self._write(f"DELETE FROM bin WHERE NOT {NOT_YET_OVER}", ())
        return gone._replace(binned=binned)

    def binned(self) -> list[InBin]:
        """The models that were taken out and can be brought back, the last one first."""
        if self.read_only:
            return []
        query = f"SELECT id, name, gone_at FROM bin WHERE {NOT_YET_OVER} ORDER BY id DESC"
        with self._told():
            return [InBin(*row) for row in self._db.execute(query)]

    def from_bin(self, number: int) -> Removed:
        """A model as it was taken out, for :meth:`put_back`; under a name that is free. Raises
        HangarError where it is not kept any more."""
        with self._told():
            row = self._db.execute("SELECT content FROM bin WHERE id = ?", (number,)).fetchone()
        if row is None:
            raise HangarError("this model is not kept any more", str(self.path))
        gone = Removed(**json.loads(row[0]))._replace(binned=number)
        name = self.free_name(gone.name)
        if name == gone.name:
            return gone
        document = json.dumps({**json.loads(gone.document), "name": name}, ensure_ascii=False)
        return gone._replace(name=name, document=document)

    def put_back(self, gone: Removed) -> None:
        """Put a model in again that was taken out, with all that belongs to it, as a revision of
        its own: a window that still holds the one before does not write over it. Raises HangarError
        when its name is taken."""
        query = "INSERT INTO models (id, revision, name, document) VALUES (?, ?, ?, ?)"
        with self.together():
            self._write(query, (gone.row, self._next(), gone.name, gone.document), gone.name)
            for number, label, document, made_at in gone.snapshots:
                query = "INSERT INTO snapshots (id, model_id, label, document, made_at) VALUES (?, ?, ?, ?, ?)"
                self._write(query, (number, gone.row, label, document, made_at))
            for number, flight in gone.flights:
                self._write(
                    "INSERT INTO flights (id, model_id, flight) VALUES (?, ?, ?)",
                    (number, gone.row, flight),
                )
            for transmitter, step, said in gone.keyed:
                query = "INSERT INTO keyed (model_id, transmitter, step, said) VALUES (?, ?, ?, ?)"
                self._write(query, (gone.row, transmitter, step, said))
            self._write("DELETE FROM bin WHERE id = ?", (gone.binned,))

    # -- keying in -------------------------------------------------------------------------------

    def keyed(self, which: Which, transmitter: str) -> dict[str, str]:
        """The steps of a model that were keyed into a transmitter, as they were then: key -> what it
        said."""
        if self.read_only:
            return {}
        condition, value = _asked(which, "m.")
        query = f"""SELECT k.step, k.said FROM keyed k JOIN models m ON m.id = k.model_id
            WHERE {condition} AND k.transmitter = ?"""
        with self._told():
            return dict(self._db.execute(query, (value, transmitter)).fetchall())

    def key_step(self, which: Which, transmitter: str, step: str, said: str) -> None:
        """Remember that a step was keyed in as it is now."""
        condition, value = _asked(which)
        query = f"""INSERT INTO keyed (model_id, transmitter, step, said) SELECT id, ?, ?, ? FROM models WHERE {condition}
            ON CONFLICT (model_id, transmitter, step) DO UPDATE SET said = excluded.said"""
        if not self._write(query, (transmitter, step, said, value)):
            raise self._no_such(which)

    def unkey_step(self, which: Which, transmitter: str, step: str) -> None:
        """Forget that a step was keyed in."""
        condition, value = _asked(which)
        query = f"""DELETE FROM keyed WHERE transmitter = ? AND step = ?
            AND model_id IN (SELECT id FROM models WHERE {condition})"""
        self._write(query, (transmitter, step, value))

    def numbers(self) -> dict[int, str]:
        """Receiver numbers in use and whose they are; 0 is none."""
        query = """SELECT json_extract(document, '$.receiver.number'), name FROM models WHERE json_valid(document)
            AND json_type(document, '$.receiver.number') = 'integer' ORDER BY name"""
        with self._told():
            return {int(n): name for n, name in self._db.execute(query) if n}

    def receivers(self) -> dict[str, int]:
        """Every model's receiver number; those that have none are left out."""
        query = """SELECT name, json_extract(document, '$.receiver.number') FROM models WHERE json_valid(document)
            AND json_type(document, '$.receiver.number') = 'integer' ORDER BY name"""
        with self._told():
            return {name: int(n) for name, n in self._db.execute(query) if n}

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

    # -- transmitters ----------------------------------------------------------------------------

    def transmitters(self) -> list[Profile]:
        """The transmitters that a model can take: those that ship, and the pilot's own; one of the
        same name stands for it. What cannot be read is left out."""
        from hypsos.core.edits.transmitters import shipped
        from hypsos.core.parts.transmitter_profile import Profile

        found = {x.name.casefold(): x for x in shipped()}
        if not self.read_only:
            with self._told():
                rows = self._db.execute(
                    "SELECT document FROM transmitters ORDER BY name"
                ).fetchall()
            for (text,) in rows:
                with suppress(ValidationError):
                    own = Profile.model_validate_json(text)
                    found[own.name.casefold()] = own
        return list(found.values())

    def own_transmitters(self) -> list[str]:
        """The names of the pilot's own."""
        with self._told():
            return (
                []
                if self.read_only
                else [r[0] for r in self._db.execute("SELECT name FROM transmitters ORDER BY name")]
            )

    def keep_transmitter(self, profile: Profile) -> None:
        """Put a transmitter of the pilot's own in, in the place of one of the same name."""
        query = "INSERT INTO transmitters (name, document) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET document = ?"
        text = profile.model_dump_json()
        self._write(query, (profile.name, text, text))

    def drop_transmitter(self, name: str) -> None:
        """Take a transmitter of the pilot's own out; models that have taken it keep their
        controls."""
        self._write("DELETE FROM transmitters WHERE name = ?", (name,))

    # -- snapshots -------------------------------------------------------------------------------

    def keep(self, which: Which, label: str) -> None:
        """Keep a snapshot of a model as it is now."""
        condition, value = _asked(which)
        query = f"INSERT INTO snapshots (model_id, label, document) SELECT id, ?, document FROM models WHERE {condition}"
        if not self._write(query, (clean(label), value)):
            raise self._no_such(which)

    def snapshots(self, which: Which) -> list[Snapshot]:
        """The snapshots of a model, newest first."""
        condition, value = _asked(which, "m.")
        query = f"""SELECT s.id, s.label, s.made_at FROM snapshots s JOIN models m ON m.id = s.model_id
            WHERE {condition} ORDER BY s.id DESC"""
        with self._told():
            return [Snapshot(*row) for row in self._db.execute(query, (value,))]

    def snapshot(self, number: int) -> Model:
        """The model as a snapshot holds it."""
        with self._told():
            row = self._db.execute(
                "SELECT document FROM snapshots WHERE id = ?", (number,)
            ).fetchone()
        if row is None:
            raise HangarError("this snapshot is no longer there", str(self.path))
        return from_json(row[0], f"snapshot {number}")

    # -- flights ---------------------------------------------------------------------------------

    def log(self, which: Which, flight: Flight) -> int:
        """Write a flight into a model's log; its number is returned."""
        return self.log_text(which, flight.model_dump_json())

    def log_text(self, which: Which, flight: str) -> int:
        """The same for a flight known to be sound, as its JSON text."""
        condition, value = _asked(which)
        query = f"INSERT INTO flights (model_id, flight) SELECT id, ? FROM models WHERE {condition}"
        if not self._write(query, (flight, value)):
            raise self._no_such(which)
        number: int = self._db.execute("SELECT last_insert_rowid()").fetchone()[0]
        return number

    def strike(self, number: int) -> None:
        """Take a flight out of the log. Raises HangarError when it is no longer there."""
        if not self._write("DELETE FROM flights WHERE id = ?", (number,)):
            raise HangarError(
                "this flight is no longer in the log",
                str(self.path),
                "Another window has struck it.",
            )

    def bring_back(self, which: Which, number: int, flight: Flight) -> None:
        """Write a flight that was struck back into a model's log, under the number it had."""
        condition, value = _asked(which)
        query = f"INSERT INTO flights (id, model_id, flight) SELECT ?, id, ? FROM models WHERE {condition}"
        if not self._write(query, (number, flight.model_dump_json(), value), f"flight {number}"):
            raise self._no_such(which)

    def keep_draft(self, which: Which, text: str) -> None:
        """Keep what is typed of a flight and not yet written down, in the place of what was kept
        before; an empty text forgets it."""
        condition, value = _asked(which)
        if text:
            query = f"""INSERT INTO drafts (model_id, text) SELECT id, ? FROM models WHERE {condition}
                ON CONFLICT (model_id) DO UPDATE SET text = excluded.text"""
            self._write(query, (text, value))
        else:
            self._write(
                f"DELETE FROM drafts WHERE model_id IN (SELECT id FROM models WHERE {condition})",
                (value,),
            )

    def draft(self, which: Which) -> str:
        """What was typed of a flight and not yet written down; empty where there is nothing."""
        condition, value = _asked(which, "m.")
        query = f"SELECT d.text FROM drafts d JOIN models m ON m.id = d.model_id WHERE {condition}"
        with self._told():
            row = None if self.read_only else self._db.execute(query, (value,)).fetchone()
        return "" if row is None else str(row[0])

    def flight_count(self, which: Which) -> int:
        """How many flights of a model are in the log."""
        condition, value = _asked(which, "models.")
        query = f"SELECT count(*) FROM flights JOIN models ON models.id = flights.model_id WHERE {condition}"
        with self._told():
            return int(self._db.execute(query, (value,)).fetchone()[0])

    def unreadable_flights(self, which: Which) -> list[int]:
        """The numbers of a model's flights that cannot be read."""
        readable = {f.id for f in self.flights(which)}
        return [number for number, _ in self._flight_rows(which) if number not in readable]

    def flights(self, which: Which) -> list[StoredFlight]:
        """A model's flights, newest first."""
        flights = []
        for number, text in self._flight_rows(which):
            with suppress(ValidationError):  # counted by unreadable_flights
                flights.append(StoredFlight(number, Flight.model_validate_json(text)))
        return sorted(flights, key=lambda f: (f.flight.date, f.id), reverse=True)

    def _flight_rows(self, which: Which) -> list[tuple[int, str]]:
        condition, value = _asked(which, "m.")
        query = f"SELECT f.id, f.flight FROM flights f JOIN models m ON m.id = f.model_id WHERE {condition}"
        with self._told():
            return self._db.execute(query, (value,)).fetchall()

    # -- inside ----------------------------------------------------------------------------------

    def _next(self) -> int:
        """A number that was never given out before, for a row or a revision. Only inside of
        :meth:`together`."""
        self._write("UPDATE counter SET n = n + 1", ())
        number: int = self._db.execute("SELECT n FROM counter").fetchone()[0]
        return number

    def _one(self, column: str, which: Which) -> object:
        condition, value = _asked(which)
        with self._told():
            row = self._db.execute(
                f"SELECT {column} FROM models WHERE {condition}", (value,)
            ).fetchone()
        if row is None:
            raise self._no_such(which)
        return row[0]

    def _no_such(self, which: Which) -> HangarError:
        known = ", ".join(self.names()) or "no models yet"
        if not isinstance(which, str):
            name = which.name if isinstance(which, StoredRow) else "this model"
            text = f"{name} is no longer in the hangar: another window has taken it out"
            return HangarError(text, str(self.path), f"It holds {known}. Nothing was written.")
        return HangarError(
            f"there is no model called {which}", str(self.path), f"It holds {known}."
        )


def _asked(which: Which, table: str = "") -> tuple[str, str | int]:
    """The condition that finds a model, and its value: by its name, or by its row, which stays when
    it is renamed."""
    if isinstance(which, str):
        return f"{table}name = ?", which
    return f"{table}id = ?", which if isinstance(which, int) else which.id
