# SPDX-License-Identifier: GPL-3.0-or-later
"""A back-up brought back in the place of the hangar.

Sought: the hangar as it was then; what is there now is kept first.

What must stay true: at every moment the hangar's file is either the one from before or the one that
was brought back, whole. A window that has it open notices, and writes over nothing.

How: the back-up is copied and brought up to date beside the hangar. A hangar that can be read takes
it in in one transaction of SQLite; one that cannot be read is set aside under another name, and its
place taken by a rename."""

from __future__ import annotations

import os
import shutil
import sqlite3
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from hypsos.core.base.errors import HangarDamaged, HangarError
from hypsos.hangar.backups import (
    Backup,
    back_up,
    backups,
    copy_hangar,
    moment_words,
    to_disk,
    told_of,
)
from hypsos.hangar.database import VERSION
from hypsos.hangar.store import Hangar

BUSY_S = 10.0
MOST_NAMED = 12


class Contents(NamedTuple):
    """What a hangar file holds: by name when each model was last changed."""

    changed_at: dict[str, datetime]


class Restored(NamedTuple):
    """What was brought back. ``kept``: where the hangar from before is; None where there was none.
    ``older``, ``missing``: the models that are older than they were, or not there any more, with
    when they had been changed last."""

    models: int
    kept: Path | None
    older: tuple[tuple[str, datetime], ...]
    missing: tuple[tuple[str, datetime], ...]
    unread: bool

    @property
    def words(self) -> str:
        """What was kept and what was lost, in models and dates."""
        said = [f"The hangar holds {_models(self.models)} now."]
        if self.unread:
            said.append("What the damaged file held could not be read.")
        for head, found in (
            ("Older than before", self.older),
            ("Not there any more", self.missing),
        ):
            if found:
                named = [f"{name} (changed {moment_words(when)})" for name, when in found]
                more = len(named) - MOST_NAMED
                rest = f" and {more} more" if more > 0 else ""
                said.append(f"{head}: {', '.join(named[:MOST_NAMED])}{rest}.")
        if self.kept is not None:
            said.append(f"What was there before is kept in {self.kept}.")
        return " ".join(said)


def _models(count: int) -> str:
    return f"{count} model{'' if count == 1 else 's'}"


def contents(path: Path) -> Contents:
    """What a hangar file holds; it is only read, and read through to its end. Raises HangarError
    where it is none, damaged, or from a newer Hypsos."""
    if not path.is_file():
        raise HangarError("there is no such file", str(path), "Choose a back-up of Hypsos.")
    # beside a journal it is read with it; a file that lies alone is read as it is
    alone = "" if Path(f"{path}-wal").exists() else "&immutable=1"
    with (
        told_of(path),
        closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro{alone}", uri=True)) as db,
    ):
        (version,) = db.execute("PRAGMA user_version").fetchone()
        names = {row[0] for row in db.execute("SELECT name FROM sqlite_master")}
        if not version or not {"models", "snapshots", "flights"} <= names:
            raise HangarError(
                "this is no hangar of Hypsos", str(path), "Choose a back-up. Nothing was changed."
            )
        if version > VERSION:
            raise HangarError(
                f"this hangar is from a newer Hypsos (version {version}; this one knows {VERSION})",
                str(path),
                "Bring it back with a newer Hypsos. Nothing was changed.",
            )
        if db.execute("PRAGMA integrity_check(1)").fetchone()[0] != "ok":
            raise HangarDamaged(
                "this file is damaged", str(path), "Choose an older back-up. Nothing was changed."
            )
        rows = db.execute("SELECT name, changed_at FROM models ORDER BY name").fetchall()
    changed = {name: datetime.fromisoformat(when.replace("Z", "+00:00")) for name, when in rows}
    return Contents(changed)


def newest_sound(hangar: Path) -> Backup | None:
    """The newest back-up that can be brought back; None where there is none."""
    for found in backups(hangar):
        with suppress(HangarError):
            contents(found.path)
            return found
    return None


def restore(source: Path, hangar: Path) -> Restored:
    """Bring a back-up back. What is in the hangar now is kept first, as a back-up, or under another
    name where it is damaged. Raises HangarError; nothing is then changed."""
    wanted = contents(source)
    if hangar.exists() and source.exists() and os.path.samefile(source, hangar):
        raise HangarError("this is the hangar itself", str(source), "Choose a back-up.")
    with told_of(hangar):
        hangar.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    staged = hangar.with_name(f".{hangar.name}.{os.getpid()}.restored")
    before: dict[str, datetime] = {}
    kept: Path | None
    readable = False
    try:
        # first of all: what is kept may push this back-up out
        copy_hangar(source, staged, hangar)
        Hangar(staged, passing=True).close()  # brings it up to date
        readable = _is_sound(hangar)
        if readable:
            before, kept = _take_in(staged, hangar)
        else:
            kept = _set_aside(hangar)
            with told_of(hangar):
                to_disk(staged)
                os.replace(staged, hangar)
                to_disk(hangar.parent)
    finally:
        for ending in ("", "-wal", "-shm", "-journal"):
            with suppress(OSError):
                Path(f"{staged}{ending}").unlink()
    then = wanted.changed_at
    older = [(n, x) for n, x in before.items() if n in then and then[n] < x]
    missing = [(n, x) for n, x in before.items() if n not in then]
    unread = not readable and kept is not None
    return Restored(len(then), kept, tuple(older), tuple(missing), unread)


def _is_sound(hangar: Path) -> bool:
    """Whether a hangar is there that can be read; it is brought up to date then. Raises HangarError
    where it may not be touched, as one from a newer Hypsos."""
    if not hangar.exists():
        return False
    try:
        Hangar(hangar).close()
        contents(hangar)
    except HangarDamaged:
        return False
    return True


def _take_in(staged: Path, hangar: Path) -> tuple[dict[str, datetime], Path]:
    """The hangar becomes what was staged, in one transaction; when each model had been changed last,
    and where the hangar from before is kept. Nobody writes from before it is kept until it is
    taken in, so that no edit falls between."""
    with (
        told_of(hangar),
        closing(sqlite3.connect(hangar, timeout=BUSY_S, isolation_level=None)) as db,
    ):
        db.execute("PRAGMA synchronous = FULL")
        db.execute("ATTACH ? AS whole", (str(staged),))
        db.execute("BEGIN IMMEDIATE")
        try:
            before = contents(hangar).changed_at
            kept = back_up(hangar, "restore").path
            _replace_all(db)
            db.execute("COMMIT")
        except BaseException:
            db.execute("ROLLBACK")
            raise
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return before, kept


def _replace_all(db: sqlite3.Connection) -> None:
    """Every row of the main hangar gives way to those of the attached one. All models get revisions
    that nobody holds: a window that has the one from before writes over nothing."""
    query = "SELECT n FROM main.counter UNION SELECT n FROM whole.counter"
    highest = max(n for (n,) in db.execute(query).fetchall())
    query = "SELECT name FROM main.sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    for (table,) in db.execute(query).fetchall():
        db.execute(f"DELETE FROM main.{table}")
        db.execute(f"INSERT INTO main.{table} SELECT * FROM whole.{table}")
    rows = db.execute("SELECT id FROM main.models ORDER BY id").fetchall()
    for revision, (row,) in enumerate(rows, highest + 1):
        db.execute("UPDATE main.models SET revision = ? WHERE id = ?", (revision, row))
    db.execute("UPDATE main.counter SET n = ?", (highest + len(rows),))


def _set_aside(hangar: Path) -> Path | None:
    """Keep a damaged hangar, with its journal, under another name. Its journal goes first: beside a
    file that takes its place it would be played into that one."""
    if not hangar.exists():
        return None
    now = f"{datetime.now(UTC):%Y%m%d-%H%M%S}"
    aside = hangar.with_name(f"{hangar.stem} damaged {now}{hangar.suffix}")
    with told_of(hangar):
        shutil.copy2(hangar, aside)
        for ending in ("-wal", "-shm"):
            if Path(f"{hangar}{ending}").exists():
                os.replace(f"{hangar}{ending}", f"{aside}{ending}")
    return aside
