# SPDX-License-Identifier: GPL-3.0-or-later
"""A second process beside this one, for a transmitter that is played while another is played here;
and the messages that two processes of ours send each other.

A message is pickled, behind its length in four bytes. The second process ends when its input does:
so it is never left behind, whatever becomes of this one."""

from __future__ import annotations

import pickle
import struct
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from typing import IO, TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hypsos.core.schools.figures import Numbers
    from hypsos.core.schools.stand_in.machine import Moves
    from hypsos.core.schools.stand_in.parts import Radio

# nothing is taken from the folder in which the program was started: that is what -P is for
COMMAND = (sys.executable, "-P", "-c", "from hypsos.second_process import main; main()")
Pulses = dict[int, "Numbers"]


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


class SecondProcess:
    """Plays one transmitter at a time; started when it is first needed. Where there is no second
    process, or it has gone, the transmitter is played here instead."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        self._started = False

    def start(self) -> subprocess.Popen[bytes] | None:
        """The process; None where there is none."""
        if not self._started:
            self._started = True
            pipe = subprocess.PIPE
            with suppress(OSError):
                self._process = subprocess.Popen(
                    COMMAND, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL
                )
        return self._process

    def __enter__(self) -> SecondProcess:
        return self

    def __exit__(self, *_: object) -> None:
        self.end()

    def play(self, radio: Radio, moves: Moves) -> Callable[[], Pulses]:
        """Begin to play a transmitter; what comes back waits for its pulses. Only one at a time:
        what is begun has to be waited for before the next."""
        process = self.start()
        begun = False
        if process is not None and process.stdin is not None:
            with suppress(OSError):
                send(process.stdin, (radio, moves))
                begun = True

        def wait() -> Pulses:
            found = None
            if begun and process is not None and process.stdout is not None:
                with suppress(OSError, EOFError, pickle.UnpicklingError):
                    found = receive(process.stdout)
            if found is None:
                from hypsos.core.schools.stand_in.machine import simulate

                self.end()
                return simulate(radio, moves)
            pulses: Pulses = found
            return pulses

        return wait

    def end(self) -> None:
        """Let the second process go."""
        process, self._process = self._process, None
        if process is None:
            return
        with suppress(OSError):
            process.kill()
        for stream in (process.stdin, process.stdout):
            if stream is not None:
                with suppress(OSError):
                    stream.close()
        process.wait()


def main() -> None:
    """Play what comes in until the input ends."""
    from hypsos.core.schools.stand_in.machine import simulate

    into, out = sys.stdin.buffer, sys.stdout.buffer
    while (asked := receive(into)) is not None:
        send(out, simulate(*asked))
