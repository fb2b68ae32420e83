# SPDX-License-Identifier: GPL-3.0-or-later
"""A back-up brought back in the place of the hangar.

Sought: the hangar as it was then; what is there now is kept first.

What must stay true: at every moment the hangar's file is either the one from before or the one that
was brought back, whole. A window that has it open notices, and writes over nothing.

How: the back-up is copied, brought up to date and given new revisions beside the hangar. A hangar
that can be read takes it in one transaction of SQLite; one that cannot be read is set aside under
another name, and its place taken by a rename."""

from __future__ import annotations

import os
import shutil
import sqlite3
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from hypsos.core.base.errors import HangarError
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
    """What a hangar file holds: by name when each model was last changed; and the highest number
    that it has given out."""

    changed_at: dict[str, datetime]
    highest: int


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
            raise HangarError(
                "this file is damaged", str(path), "Choose an older back-up. Nothing was changed."
            )
        rows = db.execute("SELECT name, changed_at FROM models ORDER BY name").fetchall()
        highest = db.execute("SELECT n FROM counter").fetchone()[0] if "counter" in names else 0
    changed = {name: datetime.fromisoformat(when.replace("Z", "+00:00")) for name, when in rows}
    return Contents(changed, int(highest))


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
    before, kept = _kept_first(hangar)
    staged = hangar.with_name(f".{hangar.name}.{os.getpid()}.restored")
    try:
        copy_hangar(source, staged)
        _renumber(staged, before.highest if before is not None else 0)
        if before is not None:
            _take_in(staged, hangar)
        else:
            kept = _set_aside(hangar)
            with told_of(hangar):
                hangar.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
                to_disk(staged)
                os.replace(staged, hangar)
                to_disk(hangar.parent)
    finally:
        for ending in ("", "-wal", "-shm", "-journal"):
            with suppress(OSError):
                Path(f"{staged}{ending}").unlink()
    there = before.changed_at if before is not None else {}
    older = [
        (n, x) for n, x in there.items() if n in wanted.changed_at and wanted.changed_at[n] < x
    ]
    missing = [(n, x) for n, x in there.items() if n not in wanted.changed_at]
    unread = before is None and kept is not None
    return Restored(len(wanted.changed_at), kept, tuple(older), tuple(missing), unread)


def _kept_first(hangar: Path) -> tuple[Contents | None, Path | None]:
    """What the hangar holds, and the back-up that was made of it; nothing where it cannot be
    read. Raises HangarError where it can be read and not kept."""
    if not hangar.exists():
        return None, None
    try:
        found = contents(hangar)
    except HangarError:
        return None, None
    return found, back_up(hangar, "restore").path


def _renumber(staged: Path, highest: int) -> None:
    """Bring a copy up to date, and give all its models revisions that nobody holds: a window that
    has the one from before then writes over nothing."""
    copy = Hangar(staged, passing=True)
    try:
        copy.renumber(highest)
    finally:
        copy.close()


def _take_in(staged: Path, hangar: Path) -> None:
    """The hangar becomes what was staged, in one transaction."""
    with (
        told_of(hangar),
        closing(sqlite3.connect(staged)) as whole,
        closing(sqlite3.connect(hangar, timeout=BUSY_S, isolation_level=None)) as live,
    ):
        live.execute("PRAGMA synchronous = FULL")
        whole.backup(live)
        live.execute("PRAGMA wal_checkpoint(TRUNCATE)")


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
