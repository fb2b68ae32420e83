# SPDX-License-Identifier: GPL-3.0-or-later
"""Speed, measured: ratios within one run, medians. `make bench` prints it; nothing here is
asserted."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import engine

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
BARE = """
import os, sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QLabel, QMainWindow
app = QApplication(sys.argv)
class Window(QMainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        QTimer.singleShot(0, done)
def done():
    os.write(1, b"painted\\n")
    app.quit()
window = Window()
window.setCentralWidget(QLabel("bare"))
window.resize(1280, 800)
window.show()
app.exec()
"""
RUNS = 12


def seconds(command: list[str]) -> float:
    """Wall time from starting a command until it says that its window is painted."""
    begin = time.perf_counter()
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        assert process.stdout is not None
        said = process.stdout.readline()
        took = time.perf_counter() - begin
    if said != b"painted\n":
        raise SystemExit(f"{command[0]} never painted its window")
    return took


def cold_start() -> None:
    """`hypsos --demo` to the first painted bench, against a bare window with a label, in turn."""
    subprocess.run(
        [sys.executable, "-m", "compileall", "-q", "src"], check=True
    )  # as an installed program is
    ours = [str(Path(sys.executable).with_name("hypsos")), "--demo"]
    bare = [sys.executable, "-c", BARE]
    os.environ["HYPSOS_QUIT_AFTER_PAINT"] = "1"
    seconds(ours), seconds(bare)
    pairs = [(seconds(ours), seconds(bare)) for _ in range(RUNS)]
    ratio = statistics.median(a / b for a, b in pairs)
    a, b = (statistics.median(x) for x in zip(*pairs, strict=True))
    print(
        f"cold start: {a * 1e3:.0f} ms, bare window {b * 1e3:.0f} ms, ratio {ratio:.2f} (wanted 6 or less)"
    )
    probe = (
        "import sys, hypsos.cli, hypsos.desk.app; from hypsos.desk.shots import VIEWS;"
        "print([m for m in ('scipy', 'jinja2', 'hypsos.core.review.rules') if m in sys.modules])"
    )
    found = subprocess.run(
        [sys.executable, "-c", probe], check=True, capture_output=True, text=True
    )
    print(f"dear imports on that path: {found.stdout.strip()}")


def stick_to_paint() -> None:
    """A stick moved, until the whole bench is painted again."""
    from hypsos.desk.app import application, open_workbench
    from hypsos.desk.window import Window
    from hypsos.hangar.places import demo_hangar

    app = application()
    for name in ("Samphire", "Marram"):
        with tempfile.TemporaryDirectory() as folder:
            window = Window(open_workbench(demo_hangar(Path(folder)), name))
            window.go("feel")
            window.show()
            for _ in range(20):
                app.processEvents()
            bench = window.workbench
            times = []
            for i in range(300):
                begin = time.perf_counter()
                bench.simulation.set_control("aileron_stick", float((i * 37) % 200 - 100))
                before = window.bench.aeroplane.painted
                while window.bench.aeroplane.painted == before:
                    app.processEvents()
                times.append((time.perf_counter() - begin) * 1e3)
            times.sort()
            print(
                f"stick to painted bench, {name}: median {statistics.median(times):.1f} ms (wanted under 16), "
                f"95th percentile {times[int(0.95 * len(times))]:.1f} ms (wanted under 33)"
            )
            idle(app, window)
            window.close()


def idle(app: object, window: object) -> None:
    """Nothing moves: repaints and processor time in two seconds."""
    window.workbench.simulation.set_control("aileron_stick", 0.0)  # type: ignore[attr-defined]
    deadline = time.monotonic() + 2.0
    while time.monotonic() < deadline:
        app.processEvents()  # type: ignore[attr-defined]
        time.sleep(0.01)
    from PyQt6.QtCore import QEventLoop, QTimer

    aeroplane = window.bench.aeroplane  # type: ignore[attr-defined]
    painted, cpu = aeroplane.painted, time.process_time()
    loop = QEventLoop()
    QTimer.singleShot(2000, loop.quit)
    loop.exec()
    print(
        f"idle for 2 s: {aeroplane.painted - painted} repaints, {(time.process_time() - cpu) * 1e3:.1f} ms of processor"
    )


def hour_of_trace() -> None:
    """`hypsos trace` of an hour of Marram with every cell filled: time and memory of the whole
    process."""
    import resource

    import numpy as np

    rng = np.random.default_rng(1)
    frames = 180_001
    columns = [0.02 * np.arange(frames)]
    sticks = (
        "aileron_stick",
        "elevator_stick",
        "throttle_stick",
        "rudder_stick",
        "camber_slider",
        "snap_knob",
    )
    columns += [np.round(np.cumsum(rng.normal(0, 1, frames)) % 200 - 100, 1) for _ in sticks]
    switches = {
        "motor_switch": 2,
        "task_switch": 3,
        "snap_switch": 2,
        "flight_switch": 3,
        "turn_switch": 3,
        "tow_button": 2,
    }
    columns += [rng.integers(0, k, frames // 50 + 1).repeat(50)[:frames] for k in switches.values()]
    with tempfile.TemporaryDirectory() as folder:
        moves, out = Path(folder) / "moves.csv", Path(folder) / "trace.csv"
        np.savetxt(
            moves,
            np.column_stack(columns),
            "%g",
            ",",
            header=",".join(("t_s", *sticks, *switches)),
            comments="",
        )
        begin = time.perf_counter()
        hypsos = str(Path(sys.executable).with_name("hypsos"))
        subprocess.run(
            [hypsos, "--demo", "trace", "Marram", "--moves", str(moves), "--out", str(out)],
            check=True,
        )
        took, size = time.perf_counter() - begin, out.stat().st_size
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(
        f"trace of an hour, every cell filled: {took:.1f} s (wanted 6), {size / 1e6:.0f} MB written, "
        f"at most {peak:.0f} MB of memory in any process of this bench (wanted 300)"
    )


if __name__ == "__main__":
    hour_of_trace()
    cold_start()
    stick_to_paint()
    engine.main()
