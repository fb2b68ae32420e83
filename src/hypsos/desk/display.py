"""Runs a command on the display; where there is none, on a virtual screen, and says so."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys


def main(command: list[str]) -> int:
    """Run it. Returns its exit status."""
    if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
        return subprocess.call(command)
    if os.environ.get("QT_QPA_PLATFORM"):
        return subprocess.call(command)
    server = shutil.which("Xvfb")
    if server is None:
        sys.stderr.write(
            "There is no display here, and no Xvfb for a virtual one: `make shots` writes the pictures instead.\n"
        )
        return 2
    sys.stderr.write("There is no display here: Hypsos runs on a virtual screen; `make shots` writes the pictures.\n")
    read, write = os.pipe()
    arguments = [server, "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"]
    screen = subprocess.Popen(arguments, pass_fds=(write,), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    os.close(write)
    try:
        with os.fdopen(read) as answer:
            number = answer.readline().strip()
        if not number:
            sys.stderr.write("The virtual screen did not start.\n")
            return 2
        return subprocess.call(command, env=os.environ | {"DISPLAY": f":{number}"})
    finally:
        screen.terminate()
        screen.wait()


if __name__ == "__main__":
    sys.exit(main(sys.argv[2:] if sys.argv[1:2] == ["--"] else sys.argv[1:]))
