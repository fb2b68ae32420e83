# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the hangar lies, and the sample hangar made anew from the files that ship with Hypsos."""

from __future__ import annotations

import os
import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hypsos.core.base.errors import HangarError
from hypsos.hangar.store import Hangar

PASSING = re.compile(r"hypsos-demo-(\d+)-[0-9a-f]+")


def user_hangar() -> Path:
    """The hangar in the user's data folder; ``HYPSOS_HANGAR`` names another file."""
    from platformdirs import user_data_path

    chosen = os.environ.get("HYPSOS_HANGAR")
    return Path(chosen) if chosen else user_data_path("hypsos", appauthor=False) / "hangar.sqlite3"


@contextmanager
def passing_folder() -> Iterator[Path]:
    """A private folder for a fresh demo hangar, gone afterwards (the library for this is dear to
    load at the start)."""
    name = f"hypsos-demo-{os.getpid()}-{time.time_ns():x}"
    places = [Path(p) for p in (os.environ.get("TMPDIR", ""), "/tmp", "/var/tmp", os.getcwd()) if p]
    folder = next((made for p in places if (made := _made(p / name)) is not None), None)
    for place in places:
        _swept(place)
    if folder is None:
        raise HangarError(
            "there is no place for a passing folder",
            str(places[0]),
            "Set TMPDIR to a folder you may write in.",
        )
    try:
        yield folder
    finally:
        import shutil

        shutil.rmtree(folder, ignore_errors=True)


def _swept(place: Path) -> None:
    """Take away passing folders of this user whose program has ended without a chance to."""
    import shutil

    try:
        left = [
            f
            for f in place.iterdir()
            if (match := PASSING.fullmatch(f.name)) and not _runs(int(match[1]))
        ]
        for folder in left:
            if folder.stat().st_uid == os.getuid() and not folder.is_symlink():
                shutil.rmtree(folder, ignore_errors=True)
    except OSError:
        return


def _runs(pid: int) -> bool:
    return Path(f"/proc/{pid}").exists()


def _made(folder: Path) -> Path | None:
    try:
        folder.mkdir(mode=0o700)
    except OSError:
        return None
    return folder


def demo_hangar(folder: Path) -> Hangar:
    """A fresh hangar in this folder with the Sandreach Dune Watch's aeroplanes and their
    flights."""
    import json

    hangar = Hangar(folder / "demo-hangar.sqlite3", passing=True)
    shipped = Path(__file__).parents[1] / "demo"
    with hangar.together():
        for file in sorted(shipped.iterdir(), key=lambda f: f.name):
            if file.name.endswith(".model.json"):
                # ours, held by the tests; it is checked when it is put on the bench. Its name
                # stands in its first lines.
                text = file.read_text(encoding="utf-8")
                hangar.add_text(
                    json.loads(text[text.index('"name":') + 7 :].split("\n", 1)[0].strip(" ,")),
                    text,
                )
        for name, flights in json.loads(
            (shipped / "flights.json").read_text(encoding="utf-8")
        ).items():
            for flight in flights:
                hangar.log_text(name, json.dumps(flight))
    return hangar
