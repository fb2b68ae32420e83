# SPDX-License-Identifier: GPL-3.0-or-later
"""What was written reaches the disk beside the window, and the journal is emptied after it.

Sought: an edit is there at once, whatever a kill does, and yet no hand waits for a slow disk.

How: a write is handed to the system when it is made (a kill of the program loses nothing of that).
A thread of its own then has the disk take it, and empties the journal into the hangar's file. What
must stay true: after a moment of rest the file alone holds everything, so that a file which is put
in its place by another program never gets an old journal played into it. At the end the thread is
waited for."""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing, suppress
from pathlib import Path

RETRY_S = 0.2
PATIENCE_S = 60.0
"""How long the end waits for a slow disk."""


class Durable:
    """Has the disk take what was written to a hangar, each time :meth:`wake` is called.

    ``writing`` is held while something is written. The journal is emptied only while it is free and
    nothing has come since the disk took the last of it: then there is nothing to wait for, and no
    write finds the file locked by a slow disk."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.writing = threading.RLock()
        self._count = 0
        self._wanted, self._over, self._done = (
            threading.Event(),
            threading.Event(),
            threading.Event(),
        )
        self._done.set()
        self._thread: threading.Thread | None = None

    def wake(self) -> None:
        """Something was written; called with ``writing`` held."""
        self._count += 1
        self._done.clear()
        self._wanted.set()
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="hangar to disk", daemon=True)
            self._thread.start()

    def end(self) -> None:
        """Wait for the last of it, and let the thread go."""
        if self._thread is None:
            return
        self._over.set()
        self._wanted.set()
        self._thread.join(PATIENCE_S)
        self._thread = None

    def _run(self) -> None:
        with closing(sqlite3.connect(self._path, timeout=0.0, isolation_level=None)) as db:
            db.execute("PRAGMA synchronous = FULL")
            while True:
                self._wanted.wait()
                self._wanted.clear()
                done = False
                with suppress(sqlite3.Error):  # closing sees to what cannot be had now
                    done = self._taken(db)
                if done:
                    self._done.set()
                elif not self._over.is_set():
                    self._over.wait(RETRY_S)  # another program reads or writes just now
                    self._wanted.set()
                if self._over.is_set():
                    return

    def _taken(self, db: sqlite3.Connection) -> bool:
        """Have the disk take all there is; True where the journal could be emptied after it."""
        while True:
            before = self._count
            db.execute(
                "PRAGMA wal_checkpoint(PASSIVE)"
            ).fetchall()  # the slow part; it stops nobody
            with self.writing:
                if self._count == before:
                    busy, left, _ = db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
                    return not busy and not left
