# SPDX-License-Identifier: GPL-3.0-or-later
"""Files that people choose: read with clear errors, written whole or not at all."""

from __future__ import annotations

import os
import stat
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import IO

from hypsos.core.base.errors import HypsosError

LARGEST = 20_000_000


def read_text(path: Path, largest: int = LARGEST) -> str:
    """The text of a file. Raises HypsosError when it is not there, too large, or not text."""
    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            kind = "a folder" if stat.S_ISDIR(found.st_mode) else "a pipe or a device"
            raise HypsosError(f"this is {kind}, and not a file", str(path), "Choose a file.")
        if found.st_size > largest:
            raise HypsosError(
                "the file is too large to be one of ours", str(path), "Choose another file."
            )
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise HypsosError("the file is not text", str(path), "Choose another file.") from error
    except OSError as error:
        raise HypsosError(
            f"the file cannot be read ({error.strerror})", str(path), "Check its name and rights."
        ) from error


def write_whole(path: Path, data: str | bytes) -> None:
    """Write a file by way of a neighbour that takes its place. Raises HypsosError; an older file
    then stays as it was."""
    write_pieces(path, (data,))


def write_pieces(path: Path, pieces: Iterable[str | bytes]) -> None:
    """The same for a file that is made piece by piece. A link stays a link, a file's rights stay as
    they were; a pipe or a device such as /dev/stdout is written straight away."""
    temporary = ""
    try:
        place = path.resolve()
        if place.exists() and not place.is_file():
            with open(place, "wb") as out:
                _pour(out, pieces)
            return
        handle, temporary = tempfile.mkstemp(dir=place.parent, prefix=f".{place.name[:100]}.")
        with os.fdopen(handle, "wb") as file:
            _pour(file, pieces)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(
            temporary, stat.S_IMODE(place.stat().st_mode) if place.exists() else 0o666 & ~_umask()
        )
        os.replace(temporary, place)
        temporary = ""
    except OSError as error:
        text = f"the file cannot be written ({error.strerror})"
        raise HypsosError(
            text, str(path), "Choose another place or make room; nothing was changed."
        ) from error
    finally:
        if temporary and os.path.exists(temporary):
            os.unlink(temporary)


def _pour(file: IO[bytes], pieces: Iterable[str | bytes]) -> None:
    for piece in pieces:
        file.write(piece.encode() if isinstance(piece, str) else piece)


def _umask() -> int:
    now = os.umask(0o077)
    os.umask(now)
    return now


def file_name(name: str, ending: str) -> str:
    """A model's name as the name of a file, without signs that have a meaning in paths."""
    plain = "".join("-" if c in '/\\:*?"<>|' or not c.isprintable() else c for c in name).strip(
        ". "
    )
    return f"{plain or 'model'}{ending}"
