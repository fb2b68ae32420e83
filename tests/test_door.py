# SPDX-License-Identifier: GPL-3.0-or-later
"""The installed program as people start it, in a process of its own."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

HYPSOS = str(Path(sys.executable).with_name("hypsos"))
RIDER = Path(__file__).parent / "rider"


@pytest.fixture
def place(tmp_path: Path) -> dict[str, str]:
    """A home of its own, so that nothing of the tester's is read or written."""
    kept = {
        k: v
        for k, v in os.environ.items()
        if k in ("PATH", "LANG", "LD_LIBRARY_PATH", "PYTHONPATH")
    }
    folders = {n: str(tmp_path / n) for n in ("HOME", "TMPDIR", "XDG_CONFIG_HOME", "XDG_DATA_HOME")}
    for folder in folders.values():
        Path(folder).mkdir()
    return (
        kept
        | folders
        | {"QT_QPA_PLATFORM": "offscreen", "HYPSOS_HANGAR": str(tmp_path / "hangar.sqlite3")}
    )


def test_every_demo_model_every_step_both_sticks(place: Any, tmp_path: Path) -> None:
    """Opened, gone through, closed: status 0, nothing on stderr, nothing left behind."""
    seen = tmp_path / "seen"
    rider = {"PYTHONPATH": str(RIDER), "HYPSOS_JOURNEY": str(seen)}
    done = subprocess.run(
        [HYPSOS, "--demo"], env=place | rider, capture_output=True, text=True, timeout=240
    )
    assert (done.returncode, done.stderr, done.stdout) == (0, "", "")
    shipped = Path(__file__).parents[1] / "src/hypsos/demo"
    assert len(seen.read_text().split("\n")) == len(list(shipped.glob("*.model.json")))
    assert list((tmp_path / "TMPDIR").iterdir()) == []


def test_a_hangar_whose_last_model_is_the_sailplane_starts(place: Any, tmp_path: Path) -> None:
    for arguments in (["--demo", "export", "Marram", "m.json"], ["import", "m.json"]):
        subprocess.run(
            [HYPSOS, *arguments], env=place, cwd=tmp_path, check=True, capture_output=True
        )
    quick = place | {"HYPSOS_QUIT_AFTER_PAINT": "1"}
    done = subprocess.run([HYPSOS], env=quick, capture_output=True, text=True, timeout=120)
    assert (done.returncode, done.stdout, done.stderr) == (0, "painted\n", "")


def test_a_model_file_opens_in_the_window_and_is_in_the_hangar(place: Any, tmp_path: Path) -> None:
    subprocess.run(
        [HYPSOS, "--demo", "export", "Skerry", "m.json"],
        env=place,
        cwd=tmp_path,
        check=True,
        capture_output=True,
    )
    quick = place | {"HYPSOS_QUIT_AFTER_PAINT": "1"}
    for _ in range(2):  # the second time it is there already, and stays the one it is
        done = subprocess.run(
            [HYPSOS, "m.json"], env=quick, cwd=tmp_path, capture_output=True, text=True, timeout=120
        )
        assert (done.returncode, done.stdout, done.stderr) == (0, "painted\n", "")
    kept = subprocess.run([HYPSOS, "models"], env=place, capture_output=True, text=True, check=True)
    assert kept.stdout.count("Skerry") == 1
    missing = subprocess.run(
        [HYPSOS, "none.json"], env=quick, cwd=tmp_path, capture_output=True, text=True, timeout=120
    )
    assert (missing.returncode, missing.stdout, missing.stderr) == (
        0,
        "painted\n",
        "",
    )  # the window opens and says it


@pytest.mark.parametrize(
    ("gone", "said"), [({}, "there is no display"), ({"DISPLAY": ":973"}, "does not answer")]
)
def test_without_a_display_one_sentence(place: Any, gone: Any, said: Any) -> None:
    bare = {k: v for k, v in place.items() if k != "QT_QPA_PLATFORM"} | gone
    done = subprocess.run([HYPSOS, "--demo"], env=bare, capture_output=True, text=True, timeout=60)
    assert done.returncode == 2 and said in done.stderr and done.stderr.count("\n") == 1


@pytest.mark.parametrize("wrapped", [False, True])
def test_control_c_ends_it_tidily(place: Any, tmp_path: Path, wrapped: Any) -> None:
    """As typed in a terminal: to the whole group of processes."""
    before = [sys.executable, "-m", "hypsos.desk.display", "--"] if wrapped else []
    child = subprocess.Popen(
        [*before, HYPSOS, "--demo"],
        env=place,
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
    )
    folder = tmp_path / "TMPDIR"
    while child.poll() is None and not list(folder.glob("*/*.sqlite3")):
        time.sleep(0.02)
    time.sleep(1.0)  # well into the window; earlier is as good, and is tried by whoever is quick
    os.killpg(child.pid, signal.SIGINT)
    _, err = child.communicate(timeout=60)
    assert err == "" and child.returncode in (0, 130) and list(folder.iterdir()) == []


STARTED = 0.6
"""Seconds of the processor that a start takes at the least: before that it is not at rest, but
waiting for its turn."""


def test_an_empty_hangar_lets_the_processor_rest(place: Any) -> None:
    """Processor time of the second second is next to nothing; a loop without pause would take all
    of it."""
    child = subprocess.Popen([HYPSOS], env=place)

    def used() -> float:
        fields = Path(f"/proc/{child.pid}/stat").read_text().rsplit(")", 1)[1].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")

    try:
        last, quiet = used(), 0
        while quiet < 3:  # three quiet looks in a row; a busy loop never gives one
            time.sleep(0.3)
            now = used()
            quiet = quiet + 1 if now > STARTED and now - last < 0.05 else 0
            last = now
            assert now < 20, "it never rests"
    finally:
        child.terminate()
        assert child.wait(timeout=30) == 0


AT_THE_END = """
import sys, time
from PyQt6.QtWidgets import QApplication, QWidget
from hypsos.desk.services.background import aside
app, owner = QApplication([]), QWidget()
def busy(seconds):
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        pass
for k in range(40):
    aside(owner, lambda k=k: busy(float(sys.argv[1]) + k * 0.0004), print, print)
"""


@pytest.mark.parametrize("seconds", ["0", "0.005", "0.01", "0.02", "0.03", "0.08"])
def test_it_ends_tidily_while_something_is_worked_out_aside(place: Any, seconds: Any) -> None:
    """What is told after the last window is gone is told to nobody: without that about every second
    run crashed."""
    done = subprocess.run(
        [sys.executable, "-c", AT_THE_END, seconds], env=place, capture_output=True, text=True
    )
    assert (done.returncode, done.stderr) == (0, "")


FOR_EVER = """
import threading
from PyQt6.QtWidgets import QApplication, QWidget
from hypsos.desk.services.background import aside
app, owner = QApplication([]), QWidget()
aside(owner, threading.Event().wait, print, print)
"""


def test_work_that_never_ends_does_not_hold_up_the_end(place: Any) -> None:
    done = subprocess.run(
        [sys.executable, "-c", FOR_EVER], env=place, capture_output=True, text=True, timeout=120
    )
    assert (done.returncode, done.stderr) == (0, "")
