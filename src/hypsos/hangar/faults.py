# SPDX-License-Identifier: GPL-3.0-or-later
"""What nobody foresaw: written to a file in the state folder, with versions, the place, the act and
the way it went wrong.

The file is at most a megabyte, an older half kept beside a newer one. Nothing here may fail in its
turn: where the file cannot be written, the report is still handed back to be shown."""

from __future__ import annotations

import os
import platform
import sys
import traceback
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from hypsos import __version__

if TYPE_CHECKING:
    import logging

LARGEST = 500_000
"""Bytes of one of the two files."""


def log_file() -> Path:
    """Where the log lies; ``HYPSOS_LOG`` names another file."""
    from platformdirs import user_state_path

    chosen = os.environ.get("HYPSOS_LOG")
    return Path(chosen) if chosen else user_state_path("hypsos", appauthor=False) / "hypsos.log"


def versions() -> tuple[str, ...]:
    """What a report needs to know of this program and what it runs on, a line each."""
    import sqlite3
    from importlib.metadata import PackageNotFoundError, version

    from hypsos.hangar.places import user_hangar

    found = []
    for name in ("PyQt6", "PyQt6-Qt6", "numpy", "scipy", "pydantic", "click"):
        with suppress(PackageNotFoundError):
            found.append(f"{name} {version(name)}")
    return (
        f"Hypsos {__version__}",
        f"Python {platform.python_version()}, SQLite {sqlite3.sqlite_version}, {', '.join(found)}",
        platform.platform(),
        f"Hangar: {user_hangar()}",
        f"Log: {log_file()}",
    )


def report_of(error: BaseException | str, where: str, act: str = "") -> str:
    """What is written and can be handed on: when, which versions, where, what was done, and how it
    went wrong."""
    lines = [
        f"{datetime.now().isoformat(timespec='seconds')} Hypsos {__version__}, Python {platform.python_version()}, "
        f"Qt {_qt_version()}, {platform.platform()}",
        f"in {where}" + (f", after: {act}" if act else ""),
    ]
    how = error if isinstance(error, str) else "".join(traceback.format_exception(error))
    return "\n".join([*lines, how.rstrip()])


def record(error: BaseException | str, where: str, act: str = "") -> str:
    """Write what went wrong into the log. Returns the report; nothing is raised."""
    report = report_of(error, where, act)
    with suppress(Exception):
        _logger(where).error("%s", report)
    return report


def sentence_of(error: Exception, where: str, act: str = "") -> str:
    """Write it into the log, and say it in a sentence that leads there."""
    record(error, where, act)
    return f"Something went wrong inside Hypsos that nobody foresaw ({type(error).__name__}); it is in {log_file()}."


def _qt_version() -> str:
    core = sys.modules.get("PyQt6.QtCore")
    return str(core.QT_VERSION_STR) if core is not None else "not loaded"


def _logger(where: str) -> logging.Logger:
    """The logger of a part, ``hypsos.search`` for the search; its file is opened when it is first
    needed."""
    import logging
    from logging.handlers import RotatingFileHandler

    root = logging.getLogger("hypsos")
    path = log_file()
    held = next((h for h in root.handlers if isinstance(h, RotatingFileHandler)), None)
    if held is None or Path(held.baseFilename) != path.absolute():
        if held is not None:
            root.removeHandler(held)
            held.close()
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        held = RotatingFileHandler(
            path, maxBytes=LARGEST, backupCount=1, encoding="utf-8", errors="backslashreplace"
        )
        held.setFormatter(logging.Formatter("%(levelname)s %(name)s: %(message)s\n"))
        root.addHandler(held)
        root.propagate = False
        logging.raiseExceptions = False
        with suppress(OSError):
            path.chmod(0o600)
    return root.getChild(where.split()[0].lower())
