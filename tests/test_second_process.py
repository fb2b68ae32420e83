# SPDX-License-Identifier: GPL-3.0-or-later
"""A second process beside this one: the same pulses, and none is left behind."""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

from faulty import demo_model
from keyed import keyed_on

from hypsos.core.schools.proof import Prover
from hypsos.second_process import SecondProcess


def test_both_processes_prove_the_same_and_one_that_goes_is_not_missed() -> None:
    made = keyed_on(demo_model("tidewrack"), "Sill")
    exact, rounded = made.radio(made.exact), made.radio(made.settings)
    assert exact != rounded
    with SecondProcess() as second:
        process = second.start()
        assert process is not None
        found = [
            Prover(made.reduced.model, exact, rounded, None, beside=second.play).run(0.1, False)
        ]
        process.kill()
        process.wait()
        found.append(
            Prover(made.reduced.model, exact, rounded, None, beside=second.play).run(0.1, False)
        )
    found.append(Prover(made.reduced.model, exact, rounded).run(0.1, False))
    assert found[0] == found[1] == found[2] and found[0].rounding.us > 0.5


def test_the_second_process_ends_with_the_first(tmp_path: Path) -> None:
    told = tmp_path / "pid"
    script = f"""
from hypsos.second_process import SecondProcess
import os, signal
second = SecondProcess()
open({str(told)!r}, "w").write(str(second.start().pid))
os.kill(os.getpid(), signal.SIGKILL)
"""
    subprocess.run([sys.executable, "-c", script], check=False)
    stat = Path("/proc") / told.read_text() / "stat"
    for _ in range(300):
        if not stat.exists() or " Z " in stat.read_text():
            return
        time.sleep(0.1)
    raise AssertionError("the second process is still there")
