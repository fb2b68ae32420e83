# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether there is a display; and running a command on a virtual one where there is none, which it
says."""

from __future__ import annotations

import os
import re
import signal
import socket
import sys
from pathlib import Path

from hypsos.core.base.errors import HypsosError

REMEDY = (
    "Start it from a desktop, or use the commands that need no window: hypsos --help lists them."
)


def require_display() -> None:
    """Raise HypsosError where a window could not be opened, before Qt finds out and gives up
    without a word to act on."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen.split(":")[0] not in ("", "xcb", "wayland"):
        return
    wayland, x11 = os.environ.get("WAYLAND_DISPLAY"), os.environ.get("DISPLAY")
    if wayland and _answers(Path(os.environ.get("XDG_RUNTIME_DIR", "/nowhere")) / wayland):
        return
    if not x11:
        raise HypsosError("there is no display for the window", "", REMEDY)
    local = re.fullmatch(r"(?:unix)?:(\d+)(?:\.\d+)?", x11)
    if local and not (
        _answers(Path(f"/tmp/.X11-unix/X{local[1]}")) or _answers(f"\0/tmp/.X11-unix/X{local[1]}")
    ):
        raise HypsosError(f"the display {x11} does not answer", "", REMEDY)


def _answers(place: Path | str) -> bool:
    with socket.socket(socket.AF_UNIX) as line:
        try:
            line.connect(str(place))
        except (OSError, ValueError):
            return False
    return True


def main(command: list[str]) -> int:
    """Run a command on the display, or on a virtual screen. Returns its exit status."""
    if (
        os.environ.get("DISPLAY")
        or os.environ.get("WAYLAND_DISPLAY")
        or os.environ.get("QT_QPA_PLATFORM")
    ):
        return _run(command, dict(os.environ))
    import shutil  # dear to import, and the window that has a display needs neither
    import subprocess

    server = shutil.which("Xvfb")
    if server is None:
        sys.stderr.write(
            "There is no display here, and no Xvfb for a virtual one: `make shots` writes the pictures instead.\n"
        )
        return 2
    sys.stderr.write(
        "There is no display here: Hypsos runs on a virtual screen; `make shots` writes the pictures.\n"
    )
    read, write = os.pipe()
    arguments = [
        server,
        "-displayfd",
        str(write),
        "-screen",
        "0",
        "1280x800x24",
        "-nolisten",
        "tcp",
    ]
    screen = subprocess.Popen(
        arguments,
        pass_fds=(write,),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    os.close(write)
    try:
        with os.fdopen(read) as answer:
            number = answer.readline().strip()
        if not number:
            sys.stderr.write("The virtual screen did not start.\n")
            return 2
        return _run(command, os.environ | {"DISPLAY": f":{number}"})
    finally:
        screen.terminate()
        screen.wait()


def _run(command: list[str], environment: dict[str, str]) -> int:
    """Run it to its end. Ctrl-C goes to the command as well; it is waited for, so that it can tidy
    up."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    import subprocess

    child = subprocess.Popen(command, env=environment, preexec_fn=_hearing)
    return child.wait()


def _hearing() -> None:
    signal.signal(signal.SIGINT, signal.default_int_handler)


if __name__ == "__main__":
    sys.exit(main(sys.argv[2:] if sys.argv[1:2] == ["--"] else sys.argv[1:]))
