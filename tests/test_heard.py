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
def test_a_choice_is_heard_by_its_name(tmp_path: Path) -> None:
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
    heard = dict(json.loads(done.stdout))
    assert heard == {
        "Samphire": ["Model on the bench"],
        "Stick mode 2": ["Stick mode"],
        "Trainer": ["Made from"],
    }, done.stderr
