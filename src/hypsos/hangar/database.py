# SPDX-License-Identifier: GPL-3.0-or-later
"""The file of a hangar: opened, brought up to date, written to whole or not at all, and what goes
wrong said in our words."""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import AbstractContextManager, closing, contextmanager, nullcontext, suppress
from pathlib import Path

from hypsos.core.base.errors import HangarDamaged, HangarError, HangarMoved, HypsosError
from hypsos.hangar.durable import Durable
from hypsos.hangar.faults import record
from hypsos.hangar.migrations import MIGRATIONS

VERSION = len(MIGRATIONS)
BUSY_S = 1.0
START_BUSY_S = 15.0
"""Programs that start at once wait for the one that makes the hangar ready."""


class HangarFile:
    """A database of hangars.

    ``read_only`` is True when the file can be read and not written; every write then raises
    HangarError. One that is ``passing`` vanishes when the window closes, as the demo's does: a kill
    loses none of its edits, but it does not wait for the disk, since what a power cut leaves of it
    nobody would find.

    Raises
    ------
    HangarError : the file is no hangar, damaged, from a newer version, or cannot be opened. Every method may raise it;
        nothing has then been changed.
    """

    def __init__(self, path: Path, passing: bool = False) -> None:
        self.path, self.passing = path, passing
        self.read_only = False
        self._open()

    def _open(self) -> None:
        with self._told():
            _private(self.path)
            self._db = self._opened()
            self._identity = _identity(self.path)
        self._durable = None if self.passing or self.read_only else Durable(self.path.absolute())

    def _opened(self) -> sqlite3.Connection:
        db = sqlite3.connect(self.path, timeout=START_BUSY_S, isolation_level=None)
        try:
            db.execute("PRAGMA foreign_keys = ON")
            db.execute("PRAGMA synchronous = FULL")
            self._migrate(db)
            # from here on a kill loses nothing, and what a power cut could lose is seen to by a
            # thread beside the window
            db.execute("PRAGMA synchronous = OFF")
            if not self.passing:
                db.execute("PRAGMA wal_autocheckpoint = 0")
            db.execute(f"PRAGMA busy_timeout = {int(BUSY_S * 1000)}")
        except sqlite3.OperationalError as error:
            db.close()
            if "readonly" not in str(error):
                raise
            db = sqlite3.connect(
                f"{self.path.absolute().as_uri()}?mode=ro&immutable=1",
                uri=True,
                isolation_level=None,
            )
            self.read_only = True
            db.execute("SELECT count(*) FROM models")
        except BaseException:
            db.close()
            raise
        return db

    def _migrate(self, db: sqlite3.Connection) -> None:
        found = self._version(db)
        if found == VERSION:
            return
        (mode,) = db.execute("PRAGMA journal_mode").fetchone()
        if mode != "wal":
            self._write_ahead(db)
        db.execute("BEGIN IMMEDIATE")
        try:
            if self._version(db) and not self.passing:
                # an older Hypsos may be wanted again
                from hypsos.hangar.backups import back_up

                back_up(self.path, "update")
            for number in range(
                self._version(db), VERSION
            ):  # read again: another program may have been quicker
                for statement in MIGRATIONS[number].split(";"):
                    db.execute(statement)
                db.execute(f"PRAGMA user_version = {number + 1}")
            db.execute("COMMIT")
        except BaseException:
            if db.in_transaction:
                db.execute("ROLLBACK")
            raise

    def _write_ahead(self, db: sqlite3.Connection) -> None:
        """Switch to the write-ahead log. SQLite does not wait for others here, so this does."""
        deadline = time.monotonic() + START_BUSY_S
        while True:
            try:
                db.execute("PRAGMA journal_mode = WAL")
                return
            except sqlite3.OperationalError as error:
                if "locked" not in str(error) or time.monotonic() > deadline:
                    raise
            time.sleep(0.01)

    def _version(self, db: sqlite3.Connection) -> int:
        """The hangar's version, 0 for a new file. Raises HangarError for what is no hangar, or from
        a newer Hypsos; the file is only read."""
        (found,) = db.execute("PRAGMA user_version").fetchone()
        if found > VERSION:
            text = f"the hangar is from a newer Hypsos (version {found}; this one knows {VERSION})"
            raise HangarError(
                text, str(self.path), "Open it with a newer Hypsos; nothing was changed."
            )
        names = {
            row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        }
        if (found == 0 and names) or (found and not {"models", "snapshots", "flights"} <= names):
            # another program may just have made the hangar between the two questions
            if found == 0 and "models" in names and db.execute("PRAGMA user_version").fetchone()[0]:
                return self._version(db)
            raise HangarError(
                "this is a database of another kind",
                str(self.path),
                "Choose a hangar file of Hypsos.",
            )
        return int(found)

    def close(self) -> None:
        """Close the file, once the disk has all of it. The hangar cannot be used afterwards."""
        if self._durable is not None:
            self._durable.end()
            with suppress(sqlite3.Error):
                self._db.execute("PRAGMA synchronous = FULL")  # what is left, the end itself writes
        self._db.close()

    def copied_to(self, path: Path) -> None:
        """Write the whole hangar, as it is here, into a new file. Raises HangarError where there is
        one, or it cannot be."""
        if path.exists():
            raise HangarError(
                "there is a file of that name already", str(path), "Choose another name."
            )
        with self._told():
            _private(path)
            with closing(sqlite3.connect(path)) as copy:
                self._db.backup(copy)

    def move_to(self, path: Path) -> None:
        """Write the whole hangar, as it is here, into a new file, and go on there. Raises as
        :meth:`copied_to`."""
        self.copied_to(path)
        self._db.close()
        self.path, self._durable = path, None
        self._open()

    def _still_there(self) -> None:
        """Raise HangarMoved where the file that was opened is no longer the one that lies at its
        place."""
        if _identity(self.path) != self._identity:
            what = "the hangar's file was moved, removed or replaced by another program while it was open here"
            remedy = (
                "Nothing was written. Write what is here to another file, then start Hypsos again."
            )
            raise HangarMoved(what, str(self.path), remedy)

    @contextmanager
    def together(self) -> Iterator[None]:
        """Several writes as one: all of them are there afterwards, or none. Within another one it
        is part of that."""
        if self._db.in_transaction:
            yield
            return
        if self.read_only:
            raise self._unwritable()
        self._still_there()
        with self._writing():
            with self._told():
                self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
            except BaseException:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
                raise
            with self._told():
                self._db.execute("COMMIT")
            self._written()

    # -- errors ----------------------------------------------------------------------------------

    def _write(self, query: str, values: tuple[object, ...], name: str = "") -> int:
        if self.read_only:
            raise self._unwritable()
        self._still_there()
        with self._writing():
            with self._told(name):
                count = self._db.execute(query, values).rowcount
            self._written()
        return count

    def _writing(self) -> AbstractContextManager[object]:
        return nullcontext() if self._durable is None else self._durable.writing

    def _written(self) -> None:
        if self._durable is not None and not self._db.in_transaction:
            self._durable.wake()

    def _unwritable(self) -> HangarError:
        remedy = "Change its permissions; nothing was changed."
        return HangarError("the hangar can be read and not written", str(self.path), remedy)

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
            if name.startswith("flight "):
                raise HangarError(f"{name} is in the log already", str(self.path), kept) from error
            raise HangarError(text, str(self.path), f"Choose another name. {kept}") from error
        except sqlite3.Error as error:
            said = str(error).lower()
            if "not a database" in said:
                remedy = f"Choose another file, or bring a back-up back. {kept}"
                raise HangarDamaged("this file is not a hangar", str(self.path), remedy) from error
            if "malformed" in said or "unsupported file format" in said:
                remedy = f"Bring a back-up back. {kept}"
                raise HangarDamaged("the hangar is damaged", str(self.path), remedy) from error
            for sign, text, remedy in (
                ("locked", "another program is writing to the hangar", "Close it and try again."),
                ("readonly", "the hangar can be read and not written", "Change its permissions."),
                ("full", "the disk is full", "Make room and try again."),
                (
                    "unable to open",
                    "the hangar cannot be opened",
                    "Check that the folder exists and may be read.",
                ),
                (
                    "disk i/o",
                    "the disk does not take or give what it should",
                    "Look whether its drive is still there.",
                ),
            ):
                if sign in said:
                    raise HangarError(text, str(self.path), f"{remedy} {kept}") from error
            record(error, "hangar")
            text = "the hangar could not be used; what the database said is in the log"
            raise HangarError(text, str(self.path), kept) from error
        except OSError as error:
            raise HangarError(
                f"the hangar cannot be used ({error.strerror})", str(self.path), kept
            ) from error


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file lies there: its device and its number on it; None where there is none."""
    try:
        found = os.stat(path)
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _private(path: Path) -> None:
    """Make the folder and the file, for this user alone; a file that is there is made so where it
    can be."""
    folder = path.parent
    if not folder.exists():
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    with suppress(FileExistsError):
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600))
        return
    with suppress(OSError):  # another user's file, or one that cannot be changed, is read as it is
        if path.is_file() and path.stat().st_mode & 0o077:
            path.chmod(0o600)
