# SPDX-License-Identifier: GPL-3.0-or-later
"""The messages that two processes of ours send each other: pickled, behind their length in four
bytes."""

from __future__ import annotations

import pickle
import struct
from typing import IO, Any


def send(stream: IO[bytes], message: object) -> None:
    """Write one message."""
    data = pickle.dumps(message)
    stream.write(struct.pack("<I", len(data)) + data)
    stream.flush()


def receive(stream: IO[bytes]) -> Any:
    """The next message; None at the end, also where that comes in the middle of one."""
    head = stream.read(4)
    if len(head) < 4:
        return None
    size = struct.unpack("<I", head)[0]
    data = stream.read(size)
    # whoever wrote it has ended in the middle of it
    return pickle.loads(data) if len(data) == size else None
