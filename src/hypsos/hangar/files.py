"""Files that people choose: read with clear errors, written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from hypsos.core.errors import HypsosError

LARGEST = 20_000_000


def read_text(path: Path) -> str:
    """The text of a file. Raises HypsosError when it is not there, too large, or not text."""
    try:
        if path.stat().st_size > LARGEST:
            raise HypsosError("the file is too large to be one of ours", str(path), "Choose another file.")
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise HypsosError("the file is not text", str(path), "Choose another file.") from error
    except OSError as error:
        raise HypsosError(
            f"the file cannot be read ({error.strerror})", str(path), "Check its name and rights."
        ) from error


def write_whole(path: Path, data: str | bytes) -> None:
    """Write a file by way of a neighbour that takes its place. Raises HypsosError; an older file then stays as it was."""
    raw = data.encode() if isinstance(data, str) else data
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(raw)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        if temporary and os.path.exists(temporary):
            os.unlink(temporary)
        text = f"the file cannot be written ({error.strerror})"
        raise HypsosError(text, str(path), "Choose another place or make room; nothing was changed.") from error
