# SPDX-License-Identifier: GPL-3.0-or-later
"""What a screen reader hears of the installed program, over the bus that such readers use."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from atspi import LAUNCHER

HYPSOS = str(Path(sys.executable).with_name("hypsos"))
READY = LAUNCHER.exists() and shutil.which("dbus-run-session") and shutil.which("xvfb-run")


@pytest.mark.skipif(not READY, reason="the bus of assistive technology is not installed here")
def test_choices_switches_and_notices_are_heard(tmp_path: Path) -> None:
    """Its own name is what is chosen; what it is for comes from a label that belongs to it."""
    folders = {
        name: str(tmp_path / name.lower()) for name in ("HOME", "XDG_RUNTIME_DIR", "XDG_DATA_HOME")
    }
    for folder in folders.values():
        Path(folder).mkdir(mode=0o700)
    kept = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY")}
    listener = str(Path(__file__).with_name("atspi.py"))
    done = subprocess.run(
        ["dbus-run-session", "--", sys.executable, listener, HYPSOS, "--demo"],
        env=kept | folders,
        capture_output=True,
        text=True,
        timeout=120,
    )
    heard = json.loads(done.stdout)
    assert dict(heard["choices"]) == {
        "Samphire": ["Model on the bench"],
        "Stick mode 2": ["Stick mode"],
        "Trainer": ["Made from"],
    }, done.stderr
    assert heard["marked up"] == []
    flap, motor = heard["stands"]["Flap switch"], heard["stands"]["Motor switch"]
    assert flap[0] == 1 and "half" in flap[1]  # it moved, and says so
    assert motor[0] == 0 and "cut" in motor[1]  # what is heard is where the motor's switch is
    assert "From above" in heard["menu"] and "True movements" in heard["menu"]
    (said,) = heard["announced"]
    assert said.startswith("Motor switch leaves cut only by the number of its position")
