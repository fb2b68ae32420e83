# SPDX-License-Identifier: GPL-3.0-or-later
"""Back-ups of a hangar: whole copies beside it, each a hangar file of its own.

Sought: whatever happens to the hangar's file, there is a copy that is whole, and not old.

What must stay true: a copy has its name only once it is whole and on the disk; until then it is
called otherwise and is no back-up. Daily ones do not push out those that were made before something
was changed, nor the other way round."""

from __future__ import annotations

import os
import re
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

from hypsos.core.base.errors import HangarDamaged, HangarError

KEPT = 10
"""So many daily ones are kept, and so many of all others."""
DAILY = "daily"
REASONS = {
    DAILY: "of the day",
    "asked": "asked for",
    "airframe": "before another airframe",
    "import": "before an import",
    "mend": "before a model was mended",
    "restore": "before a back-up was brought back",
    "update": "before a newer Hypsos changed the file",
}
"""Why a back-up was made: as it stands in the file's name, and in words."""
NAMED = re.compile(r"^(\d{8}-\d{6})(?:-\d+)? (\w+)\.sqlite3$")
HALF_MADE = re.compile(r"^\..*\.sqlite3\..*?(\d+)\.(part|restored)(-\w+)?$")
"""A copy under way; its number is that of the program that makes it."""
SHORT_WHILE = timedelta(minutes=10)
"""Of several changes that follow each other the state before the first one is kept."""
BUSY_S = 10.0


class Backup(NamedTuple):
    """A back-up that is there; ``made_at`` with its time zone."""

    path: Path
    made_at: datetime
    reason: str

    @property
    def words(self) -> str:
        """When and why: ``'2 December 2026, 14:05, before another airframe'``."""
        return f"{moment_words(self.made_at)}, {REASONS[self.reason]}"


def moment_words(when: datetime) -> str:
    """A time for people, in their own time zone."""
    return f"{when.astimezone():%-d %B %Y, %H:%M}"


def backup_folder(hangar: Path) -> Path:
    """Where the back-ups of a hangar lie."""
    return hangar.with_name(f"{hangar.stem} back-ups")


def backups(hangar: Path) -> list[Backup]:
    """The back-ups of a hangar, the newest first."""
    try:
        names = sorted(os.listdir(backup_folder(hangar)), reverse=True)
    except OSError:
        return []
    found = []
    for name in names:
        match = NAMED.match(name)
        if match is not None and match[2] in REASONS:
            made_at = datetime.strptime(match[1], "%Y%m%d-%H%M%S").replace(tzinfo=UTC)
            found.append(Backup(backup_folder(hangar) / name, made_at, match[2]))
    return found


def back_up(hangar: Path, reason: str) -> Backup:
    """Make a back-up now, and let the oldest of its kind go. Raises HangarError; the hangar is only
    read."""
    folder = backup_folder(hangar)
    now = datetime.now(UTC)
    with told_of(folder):
        folder.mkdir(mode=0o700, exist_ok=True)
        _sweep(folder)
        _sweep(hangar.parent)
        path = _free(folder, f"{now:%Y%m%d-%H%M%S}", reason)
    copy_hangar(hangar, path)
    made = Backup(path, now, reason)
    _let_go(hangar, reason)
    return made


def back_up_before(hangar: Path, reason: str) -> Backup | None:
    """Make a back-up before something is changed; None where one was made for the same reason a
    short while ago. Raises HangarError."""
    alike = [x for x in backups(hangar) if x.reason == reason]
    if alike and datetime.now(UTC) - alike[0].made_at < SHORT_WHILE:
        return None
    return back_up(hangar, reason)


def back_up_daily(hangar: Path) -> Backup | None:
    """Make the back-up of the day, where there is none yet; None where there is. Raises
    HangarError."""
    today = datetime.now(UTC).date()
    daily = [x for x in backups(hangar) if x.reason == DAILY]
    if daily and daily[0].made_at.date() >= today:
        return None
    return back_up(hangar, DAILY)


def _free(folder: Path, moment: str, reason: str) -> Path:
    """A name that nothing has: several may be made in one second."""
    path, number = folder / f"{moment} {reason}.sqlite3", 1
    while path.exists():
        number += 1
        path = folder / f"{moment}-{number} {reason}.sqlite3"
    return path


def _let_go(hangar: Path, reason: str) -> None:
    """Take away what is more than is kept of this kind."""
    daily = reason == DAILY
    alike = [x for x in backups(hangar) if (x.reason == DAILY) == daily]
    for old in alike[KEPT:]:
        with suppress(OSError):  # another window has taken it away
            old.path.unlink()


def _sweep(folder: Path) -> None:
    """Take away what a killed program has left half made."""
    for name in os.listdir(folder):
        match = HALF_MADE.match(name)
        if match is not None and not Path(f"/proc/{match[1]}").exists():
            with suppress(OSError):
                (folder / name).unlink()


def copy_hangar(source: Path, target: Path, wanted: Path | None = None) -> None:
    """Write a whole copy of a hangar, as it is at one moment, into a new file. It has its name when
    it is on the disk. ``wanted``: the file that people know, where the new one is for a moment only.
    Raises HangarError; there is then no such file."""
    part = target.with_name(f".{target.name}.{os.getpid()}.part")
    try:
        with told_of(target if wanted is None else wanted):
            os.close(os.open(part, os.O_CREAT | os.O_TRUNC | os.O_RDWR, 0o600))
            uri = f"{source.absolute().as_uri()}?mode=ro"
            with (
                closing(sqlite3.connect(uri, uri=True, timeout=BUSY_S)) as whole,
                closing(sqlite3.connect(part, isolation_level=None)) as copy,
            ):
                whole.backup(copy)
                # a file of its own, that needs no journal beside it
                copy.execute("PRAGMA journal_mode = DELETE")
                fault = copy.execute("PRAGMA integrity_check(1)").fetchone()[0]
            if fault != "ok":
                raise HangarError(
                    "the hangar is damaged", str(source), "Go back to a back-up: hypsos restore."
                )
            to_disk(part)
            os.replace(part, target)
            to_disk(target.parent)
    finally:
        for left in (part, Path(f"{part}-journal")):
            with suppress(OSError):
                left.unlink()


def to_disk(path: Path) -> None:
    """Have the disk take a file, or a folder's list of names."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


@contextmanager
def told_of(place: Path) -> Iterator[None]:
    """Turn what SQLite or the disk says into a sentence."""
    kept = "Nothing was changed."
    try:
        yield
    except sqlite3.Error as error:
        said = str(error).lower()
        if "not a database" in said:
            remedy = f"Choose another file. {kept}"
            raise HangarDamaged("this file is not a hangar", str(place), remedy) from error
        if "malformed" in said or "unsupported file format" in said:
            remedy = f"Choose an older back-up. {kept}"
            raise HangarDamaged("this file is damaged", str(place), remedy) from error
        for sign, what, remedy in (
            ("full", "the disk is full", "Make room and try again."),
            ("locked", "another program is writing to the hangar", "Close it and try again."),
            ("unable to open", "this file cannot be opened", "Look whether it is there."),
            ("readonly", "nothing can be written there", "Choose another place."),
        ):
            if sign in said:
                raise HangarError(what, str(place), f"{remedy} {kept}") from error
        raise HangarError("the copy could not be made", str(place), kept) from error
    except OSError as error:
        what = f"the copy could not be made ({error.strerror})"
        raise HangarError(what, str(place), f"Choose another place or make room. {kept}") from error
