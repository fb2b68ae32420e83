# SPDX-License-Identifier: GPL-3.0-or-later
"""Many kills of a program that edits: run as a process of its own, which forks one child for each
kill.

Each child edits through the workbench, one finished edit after the other, and says so after each;
it is killed at a random moment, with no warning. Then the hangar must hold the last edit that was
said to be finished, or the one after it, whole."""

from __future__ import annotations

import os
import random
import signal
import sys
import time
from pathlib import Path

from hypsos.core.document.paths import with_at
from hypsos.hangar import Hangar


def child(path: Path, out: int, first: int) -> None:
    hangar = Hangar(path)
    held = hangar.take("Samphire")
    for i in range(first, first + 100_000):
        held = hangar.put(held, with_at(held.model, "note", f"{i}"))
        if i % 5 == 0:
            hangar.keep(held, f"{i}")
        os.write(out, f"{i}\n".encode())


def main(path: Path, kills: int, seed: int) -> None:
    dice, last = random.Random(seed), 0
    with_no_note = Hangar(path)
    with_no_note.save("Samphire", with_at(with_no_note.load("Samphire"), "note", "0"))
    with_no_note.close()
    for n in range(kills):
        read, write = os.pipe()
        pid = os.fork()
        if not pid:
            os.close(read)
            try:
                child(path, write, last + 1)
            finally:
                os._exit(1)
        os.close(write)
        said = b""
        if dice.random() < 0.7:
            said += os.read(read, 64)  # it has begun
        time.sleep(dice.random() * 0.02)
        os.kill(pid, signal.SIGKILL)
        while more := os.read(read, 65536):
            said += more
        os.waitpid(pid, 0)
        os.close(read)
        finished = [int(x) for x in said.split()]
        hangar = Hangar(path)
        found = int(hangar.load("Samphire").note)
        wanted = finished[-1] if finished else last
        if not wanted <= found <= wanted + 1:
            raise SystemExit(f"kill {n}: {wanted} was finished, {found} was found")
        whole = hangar._db.execute("PRAGMA integrity_check").fetchone()[0]
        if whole != "ok" or len({p.id for p in hangar.places()}) != len(hangar.places()):
            raise SystemExit(f"kill {n}: {whole}")
        hangar.close()
        last = found
    sys.stdout.write(f"{kills} kills, {last} edits\n")


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]))
